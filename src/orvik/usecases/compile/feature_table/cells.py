"""Cells of the table of features: what each column says of a feature, and a feature with what was typed in some."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from orvik.core.errors import FeatureRefused, OrvikError
from orvik.core.features.attitude import Attitude
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.feature import CERTAINTIES, Feature
from orvik.core.features.kind import a_kind, kind_of, kind_words
from orvik.core.features.phrases import KindNames, certainty_by_words, yes_or_no
from orvik.core.features.reading import parse_reading
from orvik.core.features.table import Table
from orvik.core.ground.scale import parse_scale, spaced
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.core.wording import not_a
from orvik.store.read_project import ReadProject
from orvik.store.tables.symbol_book import symbol_book_of

# What stands before the name of a field of a kind of the project's own.
OWN = "own:"


@dataclass(frozen=True)
class Column:
    """A column of the table.

    Attributes
    ----------
    figures
        Whether it holds numbers.
    typed
        Whether its cells can be changed.
    """

    name: str
    label: str
    figures: bool = False
    typed: bool = True


_ALL = (
    Column("number", "No", figures=True, typed=False),
    Column("kind", "Kind"),
    Column("reading", "Reading", figures=True),
    Column("certainty", "Certainty"),
    Column("map_unit", "Unit"),
    Column("questionable", "Questionable"),
    Column("station", "Station", typed=False),
    Column("length", "Length, m", figures=True, typed=False),
    Column("ground", "Ground, ha", figures=True, typed=False),
    Column("capture_scale", "Digitized at", figures=True),
    Column("source", "Source"),
    Column("note", "Note"),
)
_NOT_IN: Mapping[Table, frozenset[str]] = {
    "points": frozenset({"length", "ground"}),
    "lines": frozenset({"station", "ground"}),
    "areas": frozenset({"station", "length", "reading", "certainty"}),
}


class CellWords:
    """What cells of a table are written and read with, as the project has it.

    Parameters
    ----------
    dip_direction
        Whether the first figure of a reading is the dip direction instead of the strike.
    """

    def __init__(self, project: ReadProject, table: Table, dip_direction: bool = False) -> None:
        self.project = project
        self.table = table
        self.dip_direction = dip_direction
        self.book: SymbolBook = symbol_book_of(project)
        self.units = [unit.code for _, unit in project.units()]
        self.codes = frozenset(self.units)
        self.sources = {source.id: source.name for source in project.sources() if source.id is not None}

    @cached_property
    def kinds(self) -> list[tuple[str, str]]:
        """The kinds of the table with what they are called, in the order of the alphabet."""
        return sorted(((kind, self.kind_label(kind)) for kind in self.book.kinds(self.table)), key=_by_label)

    @cached_property
    def _names(self) -> KindNames:
        own = {name: kind.label for name, kind in self.book.custom_kinds.items()}
        return KindNames.of(self.book.kinds(self.table), own)

    def kind_label(self, kind: str) -> str:
        """What a kind is called."""
        own = self.book.custom_kinds.get(kind)
        return own.label if own is not None else kind_words(kind).capitalize()

    def custom_kind(self, kind: str) -> CustomKind | None:
        """A kind of the project's own."""
        return self.book.custom_kinds.get(kind)

    def columns(self, kind: str = "") -> tuple[Column, ...]:
        """The columns of the table, or of its features of one kind."""
        columns = [column for column in _ALL if column.name not in _NOT_IN[self.table]]
        left_out = set()
        if not self.project.has_stations():
            left_out.add("station")
        if not self.sources:
            left_out.add("source")
        if kind:
            meaning = kind_of(kind)
            if not (meaning.reading or meaning.plunges):
                left_out.add("reading")
            if not self.takes_unit(kind):
                left_out.add("map_unit")
        elif self.table == "lines":
            left_out.add("reading")
        own = self.custom_kind(kind)
        more = [Column(f"{OWN}{f.name}", f.name, figures=f.kind == "number") for f in own.fields] if own else []
        return (*(column for column in columns if column.name not in left_out), *more)

    def takes_unit(self, kind: str) -> bool:
        """Whether features of a kind belong to a map unit."""
        return kind_of(kind).takes_unit or (self.table == "areas" and kind not in self.book.custom_kinds)

    # What a cell says

    def text(self, feature: Feature, column: str, stations: Mapping[int, str] | None = None) -> str:
        """What the cell of a column says of a feature.

        Parameters
        ----------
        stations
            The names of stations by the points that log them.
        """
        if column.startswith(OWN):
            value = feature.fields.get(column.removeprefix(OWN))
            return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)
        per = self.project.crs.metres_per_unit
        said: Mapping[str, Callable[[], str]] = {
            "number": lambda: str(feature.id or ""),
            "kind": lambda: self.kind_label(feature.kind),
            "reading": lambda: self._reading_text(feature),
            "certainty": lambda: feature.certainty,
            "map_unit": lambda: feature.map_unit or "",
            "questionable": lambda: "yes" if feature.questionable else "",
            "station": lambda: (stations or {}).get(feature.id or 0, ""),
            "length": lambda: spaced(feature.geometry.length * per),
            "ground": lambda: spaced(feature.geometry.area * per * per / 10_000, 2),
            "capture_scale": lambda: f"1:{spaced(feature.capture_scale)}" if feature.capture_scale else "",
            "source": lambda: self.sources.get(feature.source_id or 0, ""),
            "note": lambda: feature.note,
        }
        return said[column]()

    def _reading_text(self, feature: Feature) -> str:
        meaning = kind_of(feature.kind)
        if feature.azimuth is None or not (meaning.reading or meaning.plunges):
            return ""
        attitude = Attitude(feature.azimuth, feature.inclination, meaning.linear)
        return attitude.direction_text if self.dip_direction and not meaning.linear else attitude.text

    # A feature with what was typed

    def typed(self, feature: Feature, texts: Mapping[str, str]) -> Feature:
        """A feature with what was typed in its cells; a cell that says what it said changes nothing.

        Raises
        ------
        CellRefused
            A text is not understood, or does not go with the rest; it says in which column.
        """
        texts = {name: text for name, text in texts.items() if text.strip() != self.text(feature, name).strip()}
        new = feature
        # The kind says how the rest is read.
        for name in sorted(texts, key=lambda name: name != "kind"):
            try:
                new = self._with(new, name, texts[name].strip(), "reading" in texts)
            except OrvikError as refusal:
                raise CellRefused(refusal.sentence, name) from refusal
        return new

    def _with(self, feature: Feature, name: str, text: str, reading_follows: bool) -> Feature:
        if name.startswith(OWN):
            return self._with_own(feature, name.removeprefix(OWN), text)
        if name == "kind":
            return self._with_kind(feature, text, reading_follows)
        if name == "reading":
            return self._with_reading(feature, text)
        if name == "certainty":
            certainty = text.lower() if text.lower() in CERTAINTIES else certainty_by_words(text)
            if certainty is None:
                raise FeatureRefused(f"“{text[:40]}” is not a certainty; type {', '.join(CERTAINTIES)}.")
            return feature.changed(certainty=certainty)
        if name == "map_unit":
            return self._with_unit(feature, text)
        if name == "questionable":
            answer = yes_or_no(text) if text else False
            if answer is None:
                raise FeatureRefused(not_a(text, "answer", "yes or no"))
            return feature.changed(questionable=answer)
        if name == "capture_scale":
            return feature.changed(capture_scale=parse_scale(text) if text else None)
        if name == "source":
            return feature.changed(source_id=self._source(text))
        if name == "note":
            return feature.changed(note=text)
        label = next((column.label for column in _ALL if column.name == name), name)
        raise FeatureRefused(f"“{label}” is not typed; it follows from the feature.")

    def _with_kind(self, feature: Feature, text: str, reading_follows: bool) -> Feature:
        found = text if text in self.book.kinds(self.table) else self._names.read(text).kind
        if found is None:
            raise FeatureRefused(f"“{text[:40]}” is not a kind of {self.table} here; type one of the pen tray.")
        if found == feature.kind:
            return feature
        old, new = kind_of(feature.kind), kind_of(found)
        if (
            feature.azimuth is not None
            and not reading_follows
            and (old.reading, old.linear)
            != (
                new.reading,
                new.linear,
            )
        ):
            raise FeatureRefused(
                f"{feature.name.capitalize()} has a reading that says something else of {a_kind(found)}; "
                "change its kind and its reading together, or draw it anew."
            )
        if feature.band is not None and not new.margin:
            raise FeatureRefused(f"{a_kind(found).capitalize()} has no width, and {feature.name} has one.")
        if feature.map_unit and not self.takes_unit(found):
            raise FeatureRefused(
                f"{a_kind(found).capitalize()} belongs to no map unit; empty the unit of {feature.name} first."
            )
        return feature.changed(kind=found)

    def _with_reading(self, feature: Feature, text: str) -> Feature:
        meaning = kind_of(feature.kind)
        if not (meaning.reading or meaning.plunges):
            if not text:
                return feature.changed(azimuth=None, inclination=None)
            raise FeatureRefused(f"{a_kind(feature.kind).capitalize()} has no reading.")
        if meaning.plunges and not text:
            return feature.changed(azimuth=None, inclination=None)
        attitude = parse_reading(text, self.dip_direction, feature.kind)
        return feature.changed(azimuth=attitude.azimuth, inclination=attitude.inclination)

    def _with_unit(self, feature: Feature, text: str) -> Feature:
        if not text:
            return feature.changed(map_unit=None)
        if not self.takes_unit(feature.kind):
            raise FeatureRefused(f"{a_kind(feature.kind).capitalize()} belongs to no map unit.")
        if text not in self.codes and text.endswith("?") and text.rstrip("? ") in self.codes:
            return feature.changed(map_unit=text.rstrip("? "), questionable=True)
        return feature.changed(map_unit=text)

    def _with_own(self, feature: Feature, name: str, text: str) -> Feature:
        own = self.custom_kind(feature.kind)
        if own is None or name not in [f.name for f in own.fields]:
            raise FeatureRefused(f"{a_kind(feature.kind).capitalize()} has no field {name}.")
        fields: dict[str, Any] = {n: v for n, v in feature.fields.items() if n != name}
        return feature.changed(fields=own.checked(fields | {name: text}))

    def _source(self, text: str) -> int | None:
        if not text:
            return None
        for number, name in self.sources.items():
            if name.casefold() == text.casefold():
                return number
        listed = ", ".join(list(self.sources.values())[:4])
        raise FeatureRefused(f"“{text[:40]}” is not a source of this project; it has {listed}.")


class CellRefused(FeatureRefused):
    """A cell that cannot hold what was typed."""

    def __init__(self, sentence: str, column: str) -> None:
        super().__init__(sentence)
        self.column = column


def _by_label(kind: tuple[str, str]) -> str:
    return kind[1].casefold()
