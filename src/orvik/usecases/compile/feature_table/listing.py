"""Which features the table lists, in which order, and some of its rows."""

from __future__ import annotations

import re
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from threading import Lock

import numpy as np
import shapely

from orvik.core.arrays import object_array
from orvik.core.errors import NotFound, Stale
from orvik.core.features.feature import CERTAINTIES, Feature
from orvik.core.features.table import Table
from orvik.store.listing import Found, Order, Wanted
from orvik.store.read_project import ReadProject
from orvik.usecases.compile.feature_table.cells import OWN, CellWords, Column

# So many listings are remembered: what a few windows look at.
REMEMBERED = 16
_PLACE_OF = {
    "number": ("id",),
    "questionable": ("questionable",),
    "station": ("station",),
    "reading": ("azimuth", "inclination"),
    "capture_scale": ("capture_scale",),
    "note": ("note",),
}


@dataclass(frozen=True)
class TableQuery:
    """What the table is asked for.

    Attributes
    ----------
    kind, unit, certainty
        Only features that are so; empty for all. A unit of ``-`` is none.
    find
        Only features that say this in one of their cells.
    among
        Only these, where there are any: what is selected.
    sort
        The column that the rows are sorted by.
    """

    table: Table
    kind: str = ""
    unit: str = ""
    certainty: str = ""
    find: str = ""
    among: tuple[int, ...] = ()
    sort: str = "number"
    descending: bool = False


@dataclass(frozen=True)
class Row:
    """A row as it is shown: its feature, and what each cell says.

    Attributes
    ----------
    coarse
        Whether it was digitized at a coarser scale than the project's digitizing scale.
    """

    id: int
    texts: tuple[str, ...]
    coarse: bool


def ids_of(project: ReadProject, words: CellWords, query: TableQuery) -> list[int]:
    """The numbers of the features that are listed, in their order; raises NotFound for a column that is not there."""
    wanted = Wanted(query.kind, query.certainty, query.unit, _found(words, query.find))
    column = next((column for column in words.columns(query.kind) if column.name == query.sort), None)
    if column is None:
        raise NotFound("The table has no such column; choose another to sort by.")
    ids = project.listed_ids(query.table, wanted, _order(words, query))
    if query.among:
        among = frozenset(query.among)
        ids = [number for number in ids if number in among]
    if query.sort in ("length", "ground"):
        ids = _by_size(project, query, ids)
    return ids


def _order(words: CellWords, query: TableQuery) -> Order:
    name, down = query.sort, query.descending
    if name.startswith(OWN):
        return Order(field=name.removeprefix(OWN), descending=down)
    if name == "kind":
        return Order(("kind",), ranks=tuple(kind for kind, _ in words.kinds), descending=down)
    if name == "certainty":
        return Order(("certainty",), ranks=CERTAINTIES, descending=down)
    if name == "map_unit":
        return Order(("map_unit",), ranks=tuple(words.units), descending=down)
    if name == "source":
        listed = sorted(words.sources, key=lambda number: (words.sources[number].casefold(), number))
        return Order(("source_id",), ranks=tuple(listed), descending=down)
    return Order(_PLACE_OF.get(name, ("id",)), descending=down)


def _by_size(project: ReadProject, query: TableQuery, ids: list[int]) -> list[int]:
    """Numbers by the length of lines or the ground of areas."""
    features = project.whole(query.table, ids)
    there = [number for number in ids if number in features]
    geometries = object_array(features[number].geometry for number in there)
    sizes = shapely.length(geometries) if query.table == "lines" else shapely.area(geometries)
    order = np.argsort(-sizes if query.descending else sizes, kind="stable")
    return [there[i] for i in order.tolist()]


def _found(words: CellWords, text: str) -> tuple[Found, ...]:
    """Where a text may stand."""
    text = text.strip()
    if not text:
        return ()
    plain = text.casefold()
    named = tuple(kind for kind, label in words.kinds if plain in label.casefold())
    sources = tuple(number for number, name in words.sources.items() if plain in name.casefold())
    found = [
        Found("note", text),
        Found("certainty", text),
        Found("map_unit", text),
        Found("fields", text),
    ]
    if words.table == "points":
        found.append(Found("station", text))
    if named:
        found.append(Found("kind", values=named))
    if sources:
        found.append(Found("source_id", values=sources))
    if text.isdecimal() and len(text) < 16:
        found.append(Found("id", values=(int(text),)))
    figures = re.fullmatch(r"(?P<azimuth>\d{1,3}(?:\.\d+)?)?/(?P<inclination>\d{1,2}(?:\.\d+)?)?", text)
    if figures and figures["azimuth"]:
        azimuth = float(figures["azimuth"]) - (90 if words.dip_direction else 0)
        found.append(Found("azimuth", values=(azimuth % 360,)))
    if figures and figures["inclination"] and not figures["azimuth"]:
        found.append(Found("inclination", values=(float(figures["inclination"]),)))
    return tuple(found)


def rows_of(project: ReadProject, words: CellWords, columns: Sequence[Column], ids: Sequence[int]) -> list[Row]:
    """Rows of the table; of a feature that is no longer there, an empty one."""
    features = project.whole(words.table, ids)
    stations = project.station_names(ids) if words.table == "points" and ids else {}
    finest = project.scales.digitizing
    rows = []
    for number in ids:
        feature = features.get(number)
        if feature is None:
            rows.append(Row(number, tuple(str(number) if c.name == "number" else "" for c in columns), False))
            continue
        texts = tuple(words.text(feature, column.name, stations) for column in columns)
        rows.append(Row(number, texts, bool(feature.capture_scale and feature.capture_scale > finest)))
    return rows


def features_of(project: ReadProject, table: Table, ids: Sequence[int]) -> list[Feature]:
    """Features by their numbers, in this order; those that are gone are left out."""
    found = project.whole(table, ids)
    return [found[number] for number in ids if number in found]


class Listings:
    """The listings that windows look at, each under a number of its own: an edit does not move rows under the hand."""

    def __init__(self) -> None:
        self._kept: OrderedDict[int, tuple[TableQuery, list[int]]] = OrderedDict()
        self._last = 0
        self._lock = Lock()

    def add(self, query: TableQuery, ids: list[int]) -> int:
        """Remember a listing; returns its number."""
        with self._lock:
            self._last += 1
            self._kept[self._last] = (query, ids)
            while len(self._kept) > REMEMBERED:
                self._kept.popitem(last=False)
            return self._last

    def get(self, number: int) -> tuple[TableQuery, list[int]]:
        """A listing by its number; raises Stale where it is remembered no longer."""
        with self._lock:
            if number not in self._kept:
                raise Stale("This listing is too old; the table is listed anew.")
            self._kept.move_to_end(number)
            return self._kept[number]
