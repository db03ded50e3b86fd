"""The explanation: what the panel really shows, in stratigraphic order."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..feature import Features, Paths, Table
from ..ink import Fill, Item, LineStyle, Marks, Stroke, Text
from ..lettering import ITALIC, ROMAN, cap_height, run, wrapped
from ..signs.catalogue import INK, AreaSign, LineSign, PointSign, SignBook
from ..units import MapUnit, readable_on, stratigraphic_order
from .page import Part

BOX = (13.0, 7.0)
ROW = 9.4
SIGN_ROW = 5.6
HEAD = 10.0
SMALLEST = 0.6


@dataclass(frozen=True)
class Entries:
    """What an explanation lists."""

    units: tuple[MapUnit, ...]
    lines: tuple[LineSign, ...]
    points: tuple[PointSign, ...]
    areas: tuple[AreaSign, ...] = ()


def entries(shown: Mapping[Table, Features], book: SignBook, units: Mapping[str, MapUnit]) -> Entries:
    """The units and signs that features on the shown ground have, each once."""
    codes = set(shown["areas"].columns["map_unit"]) if "areas" in shown else set()
    lines: set[tuple[str, str]] = set()
    if "lines" in shown:
        columns = shown["lines"].columns
        told = zip(columns["kind"], columns["certainty"], columns["fields"], columns["stretches"], strict=True)
        signs = (
            book.line(k, value) for k, c, f, stretches in told
            for value in (book.variant(k, c, f), *(s.certainty for s in stretches))
        )  # fmt: skip
        lines = {(sign.kind, sign.certainty) for sign in signs}
    points: set[str] = set()
    if "points" in shown:
        columns = shown["points"].columns
        points = {
            book.point(k, d, book.variant(k, "", f)).label
            for k, d, f in zip(columns["kind"], columns["inclination"], columns["fields"], strict=True)
        }
    areas: set[str] = set()
    if "areas" in shown:
        columns = shown["areas"].columns
        areas = {
            book.area(k, book.variant(k, "", f)).label
            for k, f in zip(columns["kind"], columns["fields"], strict=True) if k in book.own
        }  # fmt: skip
    return Entries(
        tuple(stratigraphic_order([units[code] for code in codes if code in units])),
        tuple(s for s in book.lines if s.explained and (s.kind, s.certainty) in lines),
        tuple(s for s in book.points if s.explained and s.label in points),
        tuple(s for s in book.areas if s.label in areas),
    )


def natural_height(listed: Entries) -> float:
    """Millimetres that the list needs at full size."""
    signs = max(len(listed.lines) + len(listed.areas), len(listed.points)) * SIGN_ROW
    # The dip figure of the last point sign reaches below its row.
    return HEAD + len(listed.units) * ROW + (4.0 + signs if signs else 0.0) + (2.0 if listed.points else 0.0)


def ink(part: Part, listed: Entries) -> list[Item]:
    """The explanation in its frame; set smaller, down to six tenths, where the frame is low."""
    k = min(1.0, max(SMALLEST, part.height / natural_height(listed)))
    items: list[Item] = [Text(run("Explanation", ROMAN, 4.6 * k), (part.x, part.y + 4.2 * k), INK)]
    y = part.y + HEAD * k
    for unit in listed.units:
        items += _unit(unit, part, y, k)
        y += ROW * k
    if listed.lines or listed.points or listed.areas:
        y += 1.0 * k
        items.append(Stroke(LineStyle(0.1, INK), Paths.of([(part.x, y), (part.x + part.width, y)])))
        y += 3.0 * k
        second = part.x + part.width * 0.56
        for i, line in enumerate(listed.lines):
            items += _line(line, part.x, y + (i + 0.5) * SIGN_ROW * k, k)
        for i, area in enumerate(listed.areas, len(listed.lines)):
            items += _area(area, part.x, y + (i + 0.5) * SIGN_ROW * k, k)
        for i, point in enumerate(listed.points):
            items += _point(point, second, y + (i + 0.5) * SIGN_ROW * k, k)
    return items


def _unit(unit: MapUnit, part: Part, y: float, k: float) -> list[Item]:
    width, height = BOX[0] * k, BOX[1] * k
    box = [(part.x, y), (part.x + width, y), (part.x + width, y + height), (part.x, y + height), (part.x, y)]
    size = min(3.0 * k, 3.0 * k * (width - 1.5) / max(run(unit.code, ROMAN, 3.0 * k).width, 0.1))
    code = run(unit.code, ROMAN, size, "centre")
    text = part.x + width + 3.0 * k
    room = part.x + part.width - text
    name = wrapped(unit.name, ROMAN, 3.1 * k, room)[0]
    return [
        Fill(unit.colour, Paths.of(box), np.array([0, 1])),
        Stroke(LineStyle(0.15, INK, join="miter"), Paths.of(box)),
        Text(
            code,
            (part.x + width / 2, y + (height + cap_height(size)) / 2),
            readable_on(unit.colour, dark=INK),
        ),
        Text(run(name, ROMAN, 3.1 * k), (text, y + 3.0 * k), INK),
        Text(run(unit.age, ITALIC, 2.6 * k), (text, y + 6.4 * k), INK),
    ]


def _area(sign: AreaSign, x: float, y: float, k: float) -> list[Item]:
    """An area of a kind of one's own: a small box in its colour."""
    west, east, top, foot = x, x + BOX[0] * k, y - 1.4 * k, y + 1.4 * k
    box = Paths.of([(west, top), (east, top), (east, foot), (west, foot), (west, top)])
    label = Text(run(sign.label, ROMAN, 2.5 * k), (x + (BOX[0] + 3.0) * k, y + cap_height(2.5 * k) / 2), INK)
    return [Fill(sign.colour, box, np.array([0, 1])), Stroke(LineStyle(0.15, INK, join="miter"), box), label]


def _line(sign: LineSign, x: float, y: float, k: float) -> list[Item]:
    path = Paths.of([(x, y), (x + BOX[0] * k, y)])
    label = Text(run(sign.label, ROMAN, 2.5 * k), (x + (BOX[0] + 3.0) * k, y + cap_height(2.5 * k) / 2), INK)
    if not sign.fill:
        return [Stroke(sign.style, path), label]
    # A band: its tint between two margins.
    top, foot = [(x, y - 0.8 * k), (x + BOX[0] * k, y - 0.8 * k)], [(x, y + 0.8 * k), (x + BOX[0] * k, y + 0.8 * k)]
    margins = LineStyle(0.15, INK, sign.style.dash, sign.style.cap)
    tint = Fill(sign.fill, Paths.of([*top, *foot[::-1], top[0]]), np.array([0, 1]))
    tinted: list[Item] = [] if sign.certainty == "concealed" else [tint]
    return [*tinted, Stroke(margins, Paths.of(top, foot)), label]


def _point(sign: PointSign, x: float, y: float, k: float) -> list[Item]:
    at = np.array([[x + 2.5, y]])
    items: list[Item] = [Marks(sign.symbol, at, np.array([60.0 if sign.turns else 0.0]))]
    if sign.number is not None:
        angle = np.radians(60.0)
        dx, dy = sign.number[0] * np.cos(angle), sign.number[0] * np.sin(angle)
        place = (float(at[0, 0] + dx), float(at[0, 1] + dy + cap_height(2.0) / 2))
        items.append(Text(run("35", ROMAN, 2.0, "centre"), place, INK))
    label = run(sign.label, ROMAN, 2.5 * k)
    items.append(Text(label, (x + 8.0 * k, y + cap_height(2.5 * k) / 2), INK))
    return items
