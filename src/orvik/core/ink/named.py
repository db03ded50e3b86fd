"""Ink in groups that a person can name: by what its features are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np

from orvik.core.ink.primitives import Group, Item, Picture, Text


def grouped_by(items: Iterable[Item], names: Mapping[int, str]) -> tuple[Item, ...]:
    """The same ink with what follows one another and has one name in a group of that name.

    Parameters
    ----------
    names
        What features are called, by the keys that their ink carries; ink of others stays as it is.
    """
    out: list[Item] = []
    for item in items:
        if isinstance(item, Group):
            out.append(replace(item, items=grouped_by(item.items, names)))
            continue
        name = _name_of(item, names)
        last = out[-1] if out else None
        if name and isinstance(last, Group) and last.name == name and last.title == name:
            out[-1] = replace(last, items=(*last.items, item))
        elif name:
            out.append(Group(name, (item,), title=name))
        else:
            out.append(item)
    return tuple(out)


def _name_of(item: Item, names: Mapping[int, str]) -> str:
    if isinstance(item, Text):
        return names.get(item.key, "") if item.key is not None else ""
    keys = None if isinstance(item, Picture | Group) else item.keys
    if keys is None or not len(keys):
        return ""
    found = {names.get(int(key), "") for key in np.unique(keys)}
    return found.pop() if len(found) == 1 else ""
