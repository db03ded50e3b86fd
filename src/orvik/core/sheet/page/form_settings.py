"""Settings that are declared by entries: checked when they are made, kept as JSON, typed on a form."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from typing import Any, ClassVar, Self

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.entries import SettingField

# What may be set, by type: asked for many times for each part.
_ENTRIES: dict[type, dict[str, SettingField]] = {}


@dataclass(frozen=True, kw_only=True)
class FormSettings:
    """The settings of a part or of a page; ``thing`` is what refusals call it."""

    thing: ClassVar[str] = "part"

    def __post_init__(self) -> None:
        for name, declared in self.entries().items():
            value = getattr(self, name)
            if not declared.is_valid(value):
                what = declared.label[:1].lower() + declared.label[1:]
                raise SheetRefused(f"The {what} of this {self.thing} cannot be {str(value)[:40]}; set another one.")
            object.__setattr__(self, name, declared.normalized(value))

    @classmethod
    def entries(cls) -> dict[str, SettingField]:
        """What may be set, by the names of the fields."""
        if cls not in _ENTRIES:
            _ENTRIES[cls] = {f.name: f.metadata["entry"] for f in fields(cls)}
        return _ENTRIES[cls]

    def to_dict(self) -> dict[str, Any]:
        """As it is kept: the values that are set, ready for JSON."""
        values = {name: declared.stored(getattr(self, name)) for name, declared in self.entries().items()}
        return {name: value for name, value in values.items() if value is not None}

    @classmethod
    def from_dict(cls, values: Mapping[str, Any]) -> Self:
        """From what is kept; what it does not have is passed over.

        Raises
        ------
        SheetRefused
            A setting cannot be drawn.
        """
        return cls(**{name: value for name, value in values.items() if name in cls.entries()})

    def changed(self, values: Mapping[str, Any]) -> Self:
        """With some values changed; raises SheetRefused where it has no such setting."""
        for name in values:
            if name not in self.entries():
                raise SheetRefused(f"This {self.thing} has no {name.replace('_', ' ')} to set.")
        return replace(self, **values)

    def typed(self, texts: Mapping[str, str]) -> dict[str, Any]:
        """The values that were typed on its form.

        Raises
        ------
        OrvikError
            One cannot be read, or there is no such setting.
        """
        given = {name: declared for name, declared in self.entries().items() if declared.given(name, texts)}
        unknown = set(texts) - {field for name, declared in given.items() for field in declared.fields(name)}
        if unknown:
            raise SheetRefused(f"This {self.thing} has no {sorted(unknown)[0].replace('_', ' ')} to set.")
        return {name: declared.read(name, texts) for name, declared in given.items()}
