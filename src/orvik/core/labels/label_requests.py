"""The labels that features want, by their symbols and by the rules of the project."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely

from orvik.core.colour.hex import readable_on
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Stamp
from orvik.core.labels.label_request import CODE, FIGURE, NAME, LabelKey, LabelRequest, Placing
from orvik.core.labels.label_rule import LabelRule, label_text, usual_pattern
from orvik.core.lettering import ITALIC, ROMAN, run
from orvik.core.symbols.portrayal.area_ink import NO_UNIT
from orvik.core.symbols.portrayal.line_ink import trends_of
from orvik.core.symbols.portrayal.ornaments import placed
from orvik.core.symbols.portrayal.point_ink import Standing, caption_text, turned_place
from orvik.core.symbols.symbol import Caption, Symbol
from orvik.core.symbols.symbol_book import SymbolBook

CODE_SIZE = 2.6
# A letter at the end of a line stands this share of its size beyond it.
BEYOND_END = 0.85
# Where a name stands beside the symbol of a point that its book gives none, in millimetres beside what it reaches.
BESIDE = 1.4
# Each of a line's captions has so many numbers of its own, for it may write at both ends; a rule's text comes after
# all of them. A label keeps its number whatever else its feature writes, and with it what a hand has done to it.
NUMBERS_EACH = 2
RULED = 40


@dataclass(frozen=True)
class Written:
    """What is written on a map: the symbol book, the units, and the rules of the project.

    ``turn`` is by how many degrees clockwise the ground is turned on the page.
    """

    book: SymbolBook
    units: Mapping[str, MapUnit]
    crs: ProjectCrs
    rules: Mapping[tuple[Table, str], LabelRule] = field(default_factory=dict)
    turn: float = 0.0


def label_requests_of(features: Mapping[Table, Features], written: Written, mm_per_unit: float) -> list[LabelRequest]:
    """Every label that features want, areas first; ``mm_per_unit`` is of the sheet, for one unit of the ground."""
    out: list[LabelRequest] = []
    if "areas" in features:
        out += _of_areas(features["areas"], written)
    if "lines" in features:
        out += _of_lines(features["lines"], written, mm_per_unit)
    if "points" in features:
        out += _of_points(features["points"], written)
    return out


def _of_areas(areas: Features, written: Written) -> Iterator[LabelRequest]:
    for i, kind in enumerate(areas.columns["kind"]):
        rule = written.rules.get(("areas", kind))
        pattern = rule.pattern if rule is not None else usual_pattern("areas", kind)
        text = label_text(pattern, areas, i, written.units) if pattern else ""
        if kind == UNIT_AREA and not text and rule is None:
            # An area that belongs to no unit yet.
            text = "—"
        if not text:
            continue
        unit = written.units.get(str(areas.columns["map_unit"][i])) if kind == UNIT_AREA else None
        tint = unit.colour if unit is not None else NO_UNIT
        yield LabelRequest(
            LabelKey("areas", int(areas.ids[i])),
            areas.geometries[i],
            run(text, _font(rule), rule.size if rule is not None else CODE_SIZE, "centre"),
            "inside",
            CODE,
            colour=readable_on(tint, dark=INK),
            repeats=True,
        )


def _font(rule: LabelRule | None) -> str:
    return ITALIC if rule is not None and rule.italic else ROMAN


def _of_lines(lines: Features, written: Written, mm_per_unit: float) -> Iterator[LabelRequest]:
    symbols = written.book.symbols_of(lines)
    for i, symbol in enumerate(symbols):
        rule = written.rules.get(("lines", symbol.kind))
        for nth, caption in enumerate(symbol.captions):
            if rule is None or caption.place not in ("along", "beside"):
                yield from _of_line(lines, i, symbol, caption, nth * NUMBERS_EACH, written, mm_per_unit)
        text = label_text(rule.pattern, lines, i, written.units) if rule is not None and rule.pattern else ""
        if rule is not None and text:
            yield LabelRequest(
                LabelKey("lines", int(lines.ids[i]), RULED),
                lines.geometries[i],
                run(text, _font(rule), rule.size, "centre"),
                rule.placing,
                NAME,
                colour=symbol.colour or INK,
            )


def _of_line(
    lines: Features, i: int, symbol: Symbol, caption: Caption, number: int, written: Written, mm_per_unit: float
) -> Iterator[LabelRequest]:
    text = caption_text(lines, i, caption)
    if not text:
        return
    font = ITALIC if caption.italic else ROMAN
    colour = symbol.colour if caption.colour == INK else caption.colour
    line, key = lines.geometries[i], LabelKey("lines", int(lines.ids[i]), number)
    if caption.place == "along":
        letters = run(text, font, caption.size, "centre")
        yield LabelRequest(key, line, letters, "along", NAME, colour=colour or INK)
    elif caption.place == "ends":
        yield from _at_ends(line, key, text, font, caption, colour or INK, written.turn)
    elif caption.place == "plunge":
        yield from _at_plunge(lines, i, symbol, caption, text, key, written, mm_per_unit)


def _at_ends(
    line: shapely.LineString, key: LabelKey, text: str, font: str, caption: Caption, colour: str, turn: float
) -> Iterator[LabelRequest]:
    """The letter of a section beyond both its ends: A and A′."""
    xy = shapely.get_coordinates(line)
    for number, (end, before, letters) in enumerate(((xy[0], xy[1], text), (xy[-1], xy[-2], f"{text}′"))):
        step = (end - before) / max(float(np.hypot(*(end - before))), 1e-12)
        far = caption.size * BEYOND_END
        at = turned_place((float(step[0] * far), float(-step[1] * far)), turn)
        letter = run(letters, font, caption.size, "centre")
        of = key._replace(number=key.number + number)
        yield LabelRequest(of, shapely.Point(end), letter, "around", FIGURE, at, colour=colour)


def _at_plunge(
    lines: Features,
    i: int,
    symbol: Symbol,
    caption: Caption,
    text: str,
    key: LabelKey,
    written: Written,
    mm_per_unit: float,
) -> Iterator[LabelRequest]:
    """The plunge beside the arrow that shows it."""
    ornament = next((o for o in symbol.ornaments if o.place == "plunge"), None)
    if ornament is None:
        return
    rows = np.array([i])
    trends = trends_of(lines, rows, written.crs)
    places = placed(ornament, Paths.of_lines(lines.geometries[rows]), mm_per_unit, trends)
    for number, (at, angle) in enumerate(zip(places.at, places.angles, strict=True)):
        letters = run(text, ROMAN, caption.size, "centre")
        of = key._replace(number=key.number + number)
        turned = float(angle) + written.turn
        beside = turned_place(caption.at, turned)
        colour = caption.colour or INK
        yield LabelRequest(
            of, shapely.Point(at), letters, "around", FIGURE, beside, ornament.stamp, turned, colour=colour
        )


def _of_points(points: Features, written: Written) -> Iterator[LabelRequest]:
    standing = Standing.of(points, written.book, written.crs)
    for i, symbol in enumerate(standing.symbols):
        captions = [caption for caption in symbol.captions if caption.printed or not symbol.aid]
        rule = written.rules.get(("points", symbol.kind))
        if rule is not None:
            text = label_text(rule.pattern, points, i, written.units) if rule.pattern else ""
            captions = [_as_ruled(rule, captions, symbol)]
            texts: Sequence[str] = [text]
        else:
            texts = [caption_text(points, i, caption) for caption in captions]
        for number, (caption, text) in enumerate(zip(captions, texts, strict=True)):
            if text:
                yield _of_point(points, i, standing, caption, text, number, written.turn)


def _as_ruled(rule: LabelRule, captions: Sequence[Caption], symbol: Symbol) -> Caption:
    """Where a rule's text stands: as the symbol's own does, else to its right."""
    place = captions[0] if captions else Caption("note", (_right(symbol.stamp) + 0.5, 0.0), begins=True)
    return Caption(place.of, place.at, rule.size, place.colour, place.begins, rule.italic, place.place, place.printed)


def _right(stamp: Stamp | None) -> float:
    return max((float(item.paths.xy[:, 0].max()) for item in stamp.items), default=BESIDE) if stamp else BESIDE


def _of_point(
    points: Features, i: int, standing: Standing, caption: Caption, text: str, number: int, turn: float
) -> LabelRequest:
    letters = run(text, ITALIC if caption.italic else ROMAN, caption.size, "centre")
    over = caption.at == (0.0, 0.0)
    placing: Placing = "over" if over else "around"
    turned = float(standing.turned[i]) + (turn if standing.symbols[i].turns else 0.0)
    shift = float(standing.shifts[i])
    x, y = turned_place((caption.at[0], caption.at[1] + shift), turned)
    if caption.begins:
        # To the right of its symbol whichever way that is turned.
        x, y = caption.at[0] + letters.width / 2, caption.at[1] + shift
    return LabelRequest(
        LabelKey("points", int(points.ids[i]), number),
        points.geometries[i],
        letters,
        placing,
        NAME if over or caption.of == "note" else FIGURE,
        (x, y),
        None if over else standing.stamp(i),
        turned,
        colour=caption.colour or INK,
    )
