"""A map with its labels: what stands where at a scale, as ink, and what found no room."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.colour.hex import readable_on, readable_on_all
from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of
from orvik.core.features.table import TABLES, Table
from orvik.core.ink.affine import Affine, apply, inverse
from orvik.core.ink.primitives import INK, PAPER, Group, Item, moved
from orvik.core.labels.along import along
from orvik.core.labels.around import around
from orvik.core.labels.candidates import Candidates, boxes, leader_starts
from orvik.core.labels.inside import CLOSE, anchors, inside, outside
from orvik.core.labels.label import Label, hangs_at, hung
from orvik.core.labels.label_ink import label_layers, room_about
from orvik.core.labels.label_move import LabelMove
from orvik.core.labels.label_request import AGAIN, CODE, FIGURE, NAME, LabelKey, LabelRequest, halves_of
from orvik.core.labels.label_requests import Written, label_requests_of
from orvik.core.labels.obstacles import Obstacles
from orvik.core.labels.placement import LabelPlace, firsts, largest_factors, place
from orvik.core.labels.tints import Tints
from orvik.core.symbols.portrayal.ink_keys import key_of

# The layers of a portrayal that labels keep clear of.
KEPT_CLEAR = ("linework", "attitudes")
# One more code for so many millimetres of an area's length on the sheet, up to so many.
AGAIN_EACH, MOST_AGAIN = 130.0, 5
# The places of so many areas are found at once, each of which has some hundred.
AT_ONCE = 1000
# How many times coarser than it was placed at a label may still be shown.
COARSER = (1.0, 2.0, 4.0, 8.0, 16.0, 32.0)
# Which labels stay longest when scales become coarser: codes, then names, then figures.
_STAYING = {CODE: 0, NAME: 1, FIGURE: 2, AGAIN: 3}


@dataclass(frozen=True)
class Labelling:
    """All labels of a map at a scale.

    Attributes
    ----------
    layers
        Their ink in ground coordinates, a group for each of ``LABEL_LAYERS``.
    without_room
        Labels for which there is no place.
    hidden
        Labels that a hand has hidden.
    """

    labels: tuple[Label, ...]
    without_room: tuple[LabelRequest, ...]
    hidden: tuple[LabelRequest, ...]
    layers: Mapping[str, Group]


@dataclass(frozen=True)
class Placement:
    """Where labels stand on the page, before they are ink.

    Attributes
    ----------
    requests, pages
        Labels that are to be seen, and what each speaks of, in millimetres on the page.
    chosen
        Where each stands that has found a place, by its number.
    hidden
        Labels that a hand has hidden.
    """

    requests: list[LabelRequest]
    pages: Objects
    chosen: dict[int, LabelPlace]
    hidden: tuple[LabelRequest, ...]

    @property
    def without_room(self) -> tuple[LabelRequest, ...]:
        """Labels for which there is no place; a code that is repeated is not a loss."""
        return tuple(w for i, w in enumerate(self.requests) if i not in self.chosen and w.priority != AGAIN)


def to_sheet(written: Written, scale: float) -> Affine:
    """From ground coordinates to millimetres at a scale, north upwards, the origin anywhere."""
    mm_per_unit = 1000 * written.crs.metres_per_unit / scale
    return (mm_per_unit, 0.0, 0.0, 0.0, -mm_per_unit, 0.0)


def labelled(
    features: Mapping[Table, Features],
    layers: Mapping[str, Group],
    written: Written,
    scale: float,
    to_page: Affine | None = None,
    moves: Mapping[LabelKey, LabelMove] | None = None,
    within: shapely.Polygon | None = None,
    tint_opacity: float = 1.0,
    tables: frozenset[Table] = frozenset(TABLES),
    over: Sequence[Item] = (),
) -> Labelling:
    """Place the labels of a map, and draw them.

    Parameters
    ----------
    layers, scale, to_page, moves, within, tables, over
        As ``placed`` has them.
    tint_opacity
        How strongly the tints of units are printed, 0 to 1, which halos take.
    """
    m = to_page or to_sheet(written, scale)
    found = placed(features, layers, written, scale, m, moves, within, tables, over)
    tints = Tints.of(features, written, m, tint_opacity)
    labels = _labels(found, scale, tints, inverse(m))
    without = found.without_room
    by_key = {w.key: page for w, page in zip(found.requests, found.pages, strict=True)}
    return Labelling(labels, without, found.hidden, label_layers(labels, without, by_key, m, scale, tints))


def placed(
    features: Mapping[Table, Features],
    layers: Mapping[str, Group],
    written: Written,
    scale: float,
    to_page: Affine | None = None,
    moves: Mapping[LabelKey, LabelMove] | None = None,
    within: shapely.Polygon | None = None,
    tables: frozenset[Table] = frozenset(TABLES),
    over: Sequence[Item] = (),
) -> Placement:
    """Find places for the labels of a map.

    Parameters
    ----------
    layers
        The portrayal of the features at this scale, in ground coordinates.
    scale
        The denominator of the scale that labels are placed at.
    to_page
        From ground coordinates to millimetres on the page; None for north upwards and the origin anywhere.
    moves
        What hands have done to labels.
    within
        The ground of the page that is shown, in millimetres; labels lie whole on it.
    tables
        Those whose features have labels.
    over
        Other ink on the page that labels keep clear of where they can, and of its letters always.
    """
    m = to_page or to_sheet(written, scale)
    speaking = {table: columns for table, columns in features.items() if table in tables}
    wanted = label_requests_of(speaking, written, 1000 * written.crs.metres_per_unit / scale)
    grounds = _on_page(wanted, m, within)
    moves = moves or {}
    all_of = _repeated(
        [(request, page) for request, page in zip(wanted, grounds, strict=True) if page is not None], moves
    )
    unseen = {key for key, move in moves.items() if move.hidden}
    hidden = tuple(request for request, _ in all_of if request.key in unseen)
    requests = [request for request, _ in all_of if request.key not in unseen]
    pages = np.empty(len(requests), dtype=object)
    pages[:] = [page for request, page in all_of if request.key not in unseen]
    candidates = _candidates(requests, pages)
    ink = [item for name in KEPT_CLEAR if name in layers for item in moved(layers[name].items, m)]
    obstacles = Obstacles.of([*ink, *over], _faults(features), scale)
    own = np.array([key_of(w.key.table, w.key.id) if w.placing == "along" else -1 for w in requests], dtype=np.int64)
    held = _held(requests, pages, moves, m, within)
    chosen = place(requests, candidates, obstacles, own, held, within)
    coded = [i for i in firsts(requests).values() if requests[i].placing == "inside"]
    for apart in CLOSE:
        # Before a code is said to have no room, its area is looked through closely.
        lost = np.array([i for i in coded if i not in chosen], dtype=np.int64)
        if len(lost):
            closely = inside(_simplified(pages[lost]), lost, halves_of(requests)[lost], apart)
            chosen |= place(requests, closely, obstacles, own, list(chosen.items()), within)
    turned = {i: _turned_by_hand(found, moves.get(requests[i].key)) for i, found in chosen.items()}
    return Placement(requests, pages, turned, hidden)


def _on_page(
    requests: Sequence[LabelRequest], m: Affine, within: shapely.Polygon | None
) -> list[shapely.Geometry | None]:
    """What labels speak of, as it is shown on the page; None where nothing of it is."""
    geometries = np.empty(len(requests), dtype=object)
    geometries[:] = [w.geometry for w in requests]
    pages = shapely.transform(geometries, lambda xy: apply(m, xy))
    if within is None or not len(pages):
        return list(pages.tolist())
    shapely.prepare(within)
    inner = shapely.contains(within, pages)
    touched = shapely.intersects(within, pages)
    return [
        page if inner[i] else _largest(shapely.intersection(page, within), page) if touched[i] else None
        for i, page in enumerate(pages.tolist())
    ]


def _largest(cut: shapely.Geometry, whole: shapely.Geometry) -> shapely.Geometry | None:
    """The largest part of what is shown of a feature, of the feature's own dimension."""
    dimension = shapely.get_dimensions(whole)
    parts = [part for part in shapely.get_parts(cut) if shapely.get_dimensions(part) == dimension]
    return max(parts, key=lambda part: (part.area, part.length), default=None)


def _repeated(
    shown: Sequence[tuple[LabelRequest, shapely.Geometry]], moves: Mapping[LabelKey, LabelMove]
) -> list[tuple[LabelRequest, shapely.Geometry]]:
    """Labels, with those that long areas have again, and those again that a hand has put somewhere."""
    out = list(shown)
    for request, page in shown:
        if not request.repeats:
            continue
        w, s, e, n = shapely.bounds(page).tolist()
        again = min(MOST_AGAIN, int(np.hypot(e - w, n - s) / AGAIN_EACH))
        numbers = set(range(1, again + 1)) | {k.number for k in moves if k[:2] == request.key[:2] and k.number}
        out += [(request.again(number), page) for number in sorted(numbers)]
    return out


def _candidates(requests: Sequence[LabelRequest], pages: Objects) -> Candidates:
    halves = halves_of(requests)
    made: list[Candidates] = []
    areas = np.array([i for i in firsts(requests).values() if requests[i].placing == "inside"], dtype=np.int64)
    for some in np.split(areas, np.arange(AT_ONCE, len(areas), AT_ONCE)):
        if len(some):
            simple = _simplified(pages[some])
            found = inside(simple, some, halves[some])
            made += [found, outside(simple, some, halves[some], found)]
    symbols = np.array([i for i, w in enumerate(requests) if w.placing in ("around", "over")], dtype=np.int64)
    if len(symbols):
        places = shapely.get_coordinates(pages[symbols])
        made.append(around(places, [requests[i] for i in symbols.tolist()], symbols, halves[symbols]))
    for i, request in enumerate(requests):
        if request.placing in ("along", "above"):
            made.append(along(pages[i], request, i))
    return Candidates.together(made)


def _simplified(areas: Objects) -> Objects:
    """Areas without what their edges do within a tenth of a millimetre, which costs most of the time."""
    simple: Objects = np.asarray(shapely.simplify(areas, 0.1, preserve_topology=False))
    # The quick way may close what is narrow.
    upset = ~shapely.is_valid(simple) | (shapely.get_type_id(simple) != shapely.GeometryType.POLYGON)
    upset |= shapely.is_empty(simple)
    simple[upset] = shapely.simplify(areas[upset], 0.1, preserve_topology=True)
    return simple


def _faults(features: Mapping[Table, Features]) -> Ints:
    """Keys of the lines that no label may touch: those that units end on and that run over them."""
    if "lines" not in features:
        return np.zeros(0, dtype=np.int64)
    lines = features["lines"]
    rows = [i for i, kind in enumerate(lines.columns["kind"]) if kind_of(kind).runs_through]
    return np.array([key_of("lines", int(lines.ids[i])) for i in rows], dtype=np.int64)


def _held(
    requests: Sequence[LabelRequest],
    pages: Objects,
    moves: Mapping[LabelKey, LabelMove],
    m: Affine,
    within: shapely.Polygon | None,
) -> list[tuple[int, LabelPlace]]:
    """Labels that a hand has put somewhere; that of an area which lies outside it has a leader.

    One whose place is not on the shown ground is placed automatically: what it speaks of is shown there.
    """
    out = []
    for i, request in enumerate(requests):
        move = moves.get(request.key)
        if move is None or move.at is None:
            continue
        if request.key.table == "points":
            middle = shapely.get_coordinates(pages[i])[0] + np.array(move.at)
        else:
            middle = apply(m, np.array([move.at]))[0]
        if within is not None and not within.contains(shapely.Point(middle)):
            continue
        leader = None
        if request.placing == "inside" and not pages[i].intersects(shapely.Point(middle)):
            end = anchors(pages[i : i + 1])
            leader = np.vstack([leader_starts(middle[None, :], np.array([request.half]), end), end])
        at = (float(middle[0]), float(middle[1]))
        out.append((i, LabelPlace(at, move.angle or 0.0, leader, over=True, by_hand=True)))
    return out


def _turned_by_hand(found: LabelPlace, move: LabelMove | None) -> LabelPlace:
    if move is None or move.angle is None:
        return found
    return replace(found, angle=move.angle, letters=None, by_hand=True)


def _labels(placement: Placement, scale: float, tints: Tints, back: Affine) -> tuple[Label, ...]:
    requests, pages, chosen = placement.requests, placement.pages, placement.chosen
    order = sorted(chosen, key=lambda i: (_STAYING[requests[i].priority], requests[i].key))
    shapes = [_about(requests[i], pages[i], chosen[i]) for i in order]
    factors = largest_factors(shapes, range(len(order)), COARSER)
    middles = np.array([chosen[i].middle for i in order]).reshape(-1, 2)
    below = tints.below(middles)
    codes = [number for number, i in enumerate(order) if requests[i].placing == "inside"]
    letters = boxes(
        middles[codes],
        halves_of([requests[order[number]] for number in codes]),
        np.array([chosen[order[number]].angle for number in codes]),
    )
    under = dict(zip(codes, tints.under(letters), strict=True))
    out = []
    for number, i in enumerate(order):
        request, found = requests[i], chosen[i]
        factor = float(factors[number])
        if request.placing == "inside" and found.leader is None:
            factor = min(factor, max(1.0, room_about(pages[i], found.middle) / float(np.hypot(*request.half))))
        tint = below[number]
        # Codes stand in a clearing of the tint, on patterns too; others only where they lie over a line.
        inside = request.placing == "inside"
        halo = tint if inside else (tint or PAPER) if found.over or request.placing == "along" else None
        colour = readable_on(tint or PAPER, dark=INK) if inside else request.colour
        if len(under.get(number, ())) > 1:
            # Over two tints, letters of which one ground takes the halo are read on both.
            colour, halo = readable_on_all(under[number], dark=INK)
        # A hair more than the scale itself, which no rounding takes it out of.
        out.append(hung(replace(request, colour=colour), pages[i], found, factor * scale * 1.001, halo, back))
    return tuple(sorted(out, key=lambda label: label.request.key))


def _about(request: LabelRequest, page: shapely.Geometry, found: LabelPlace) -> tuple[Floats, Floats]:
    """Where a label hangs on the ground, and the box of its letters about that."""
    at = hangs_at(request, page, found)
    half = np.array(request.half)
    angle = np.radians(found.angle)
    reach = np.array(
        [
            half[0] * abs(np.cos(angle)) + half[1] * abs(np.sin(angle)),
            half[0] * abs(np.sin(angle)) + half[1] * abs(np.cos(angle)),
        ]
    )
    middle = np.array(found.middle) - at
    return at, np.concatenate([middle - reach, middle + reach])
