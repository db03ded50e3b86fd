"""The settings of parts: a type for each kind that has any, checked when it is made."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any

from orvik.core.colour import is_colour
from orvik.core.errors import SheetRefused
from orvik.core.ground.scale import LARGEST_DENOMINATOR, SMALLEST_DENOMINATOR

LONGEST_TEXT = 4000
SMALLEST_LETTERS, LARGEST_LETTERS = 1.0, 40.0


@dataclass(frozen=True)
class NoSettings:
    """Of a part that shows what it finds, such as a scale bar."""


@dataclass(frozen=True)
class TextSettings:
    """Of a title, a text or a credit note.

    Attributes
    ----------
    text
        Lines end as in the text; longer ones are wrapped to the part's width.
    size
        Height of the letters in millimetres; None takes what suits the kind.
    """

    text: str = ""
    size: float | None = None

    def __post_init__(self) -> None:
        _check("text", self.text, isinstance(self.text, str) and len(self.text) <= LONGEST_TEXT)
        sound = self.size is None or _number(self.size, SMALLEST_LETTERS, LARGEST_LETTERS)
        _check("size of letters", self.size, sound)


@dataclass(frozen=True)
class PanelSettings:
    """What a map panel shows.

    Attributes
    ----------
    scale
        Denominator of its scale.
    centre
        Project coordinates of the middle of its frame.
    ground_colour
        What lies under everything, as ``#RRGGBB``; None for bare paper.
    grid
        Whether it has ticks and figures of the grid.
    cut
        Whether it is cut to the sheet border.
    layers
        How strong each layer is printed, 0 to 1; those that are not named are printed in full.
    underlays
        The same of pictures below, by the number of their source; those that are not named are left out.
    theme
        The name of the theme that it is printed in; empty for as it is.
    """

    scale: int
    centre: tuple[float, float]
    ground_colour: str | None = None
    grid: bool = True
    cut: bool = True
    layers: Mapping[str, float] = field(default_factory=dict)
    underlays: Mapping[str, float] = field(default_factory=dict)
    theme: str = ""

    def __post_init__(self) -> None:
        _check("scale", self.scale, _number(self.scale, SMALLEST_DENOMINATOR, LARGEST_DENOMINATOR))
        place = isinstance(self.centre, list | tuple) and len(self.centre) == 2
        _check("centre", self.centre, place and all(_number(v, -1e9, 1e9) for v in self.centre))
        object.__setattr__(self, "scale", int(self.scale))
        object.__setattr__(self, "centre", (float(self.centre[0]), float(self.centre[1])))
        _check("ground colour", self.ground_colour, self.ground_colour is None or is_colour(self.ground_colour))
        _check("grid", self.grid, isinstance(self.grid, bool))
        _check("cut", self.cut, isinstance(self.cut, bool))
        _check("theme", self.theme, isinstance(self.theme, str))
        for what, strengths in (("layers", self.layers), ("underlays", self.underlays)):
            sound = isinstance(strengths, Mapping) and all(_number(v, 0, 1) for v in strengths.values())
            _check(what, strengths, sound)

    def with_strength(self, layer: str, strength: float) -> PanelSettings:
        """With another strength of a layer, or of an underlay that is named ``underlay-ID``."""
        group, _, number = layer.partition("-")
        if group == "underlay":
            return replace(self, underlays={**self.underlays, number: strength})
        return replace(self, layers={**self.layers, layer: strength})


NO_SETTINGS = NoSettings()
Settings = NoSettings | TextSettings | PanelSettings
TYPES: Mapping[str, type[Settings]] = {
    "map_panel": PanelSettings,
    "title": TextSettings,
    "text": TextSettings,
    "credit_note": TextSettings,
}


def settings_of(kind: str, values: Mapping[str, Any]) -> Settings:
    """Settings as they were kept; what this kind does not have is passed over.

    Raises
    ------
    SheetRefused
        A setting cannot be drawn, or a panel does not say what it shows.
    """
    made = TYPES.get(kind, NoSettings)
    known = {f.name for f in fields(made)}
    if made is PanelSettings and not {"scale", "centre"} <= set(values):
        raise SheetRefused("This panel does not say what ground it shows; aim it at the border.")
    return made(**{name: value for name, value in values.items() if name in known})


def kept_values(settings: Settings) -> dict[str, Any]:
    """Settings as they are kept: the values that are set, ready for JSON."""
    return {name: value for name, value in asdict(settings).items() if value is not None}


def changed(settings: Settings, values: Mapping[str, Any]) -> Settings:
    """Settings with some values changed; raises SheetRefused where the part has no such setting."""
    known = {f.name for f in fields(settings)}
    for name in values:
        if name not in known:
            raise SheetRefused(f"This part has no {name.replace('_', ' ')} to set.")
    return replace(settings, **values)


def _check(what: str, value: object, sound: bool) -> None:
    if not sound:
        raise SheetRefused(f"The {what} of this part cannot be {str(value)[:40]}; set another one.")


def _number(value: object, low: float, high: float) -> bool:
    return isinstance(value, float | int) and not isinstance(value, bool) and low <= value <= high
