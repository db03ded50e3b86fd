"""The pen tray: what a project puts in, takes out, and by which keys."""

from __future__ import annotations

import pytest

from orvik.core.errors import FeatureRefused, SymbolMissing
from orvik.core.features.custom_kind import CustomKind
from orvik.store.project import Project
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.kinds import add_kind
from orvik.usecases.compile.pens import put_in_tray, set_key, take_from_tray


def keys(project: Project) -> dict[str, str]:
    return {pen.name: pen.key for pen in symbol_book_of(project).pens}


def test_a_pen_goes_in_with_the_first_free_key_and_comes_out_again(project: Project) -> None:
    before = keys(project)
    take_from_tray(project, "fault-concealed")
    put_in_tray(project, "thrust")
    assert keys(project)["thrust-certain"] == before["fault-concealed"] == "6"
    put_in_tray(project, "syncline", "inferred")
    # All nine keys of lines are taken.
    assert keys(project)["syncline-inferred"] == ""
    put_in_tray(project, "cleavage")
    assert keys(project)["cleavage-certain"] == "Shift+8"
    assert put_in_tray(project, "thrust") is None
    for _ in range(4):
        project.undo()
    assert keys(project) == before
    project.redo()
    assert "fault-concealed" not in keys(project)


def test_keys_change_hands(project: Project) -> None:
    set_key(project, "fault-certain", "1")
    assert (keys(project)["fault-certain"], keys(project)["contact-certain"]) == ("1", "5")
    set_key(project, "contact-certain", "")
    assert keys(project)["contact-certain"] == ""
    assert set_key(project, "fault-certain", "1") is None
    put_in_tray(project, "thrust")
    set_key(project, "thrust-certain", "1")
    assert (keys(project)["thrust-certain"], keys(project)["fault-certain"]) == ("1", "5")


@pytest.mark.parametrize("key", ["Shift+1", "0", "a", "Alt+1", "12"])
def test_a_key_of_another_table_is_refused(project: Project, key: str) -> None:
    with pytest.raises(FeatureRefused, match="choose 1 to 9"):
        set_key(project, "contact-certain", key)


def test_what_is_no_pen(project: Project) -> None:
    for kind, certainty in (("nothing", "certain"), ("thrust", "sure"), ("stream", "concealed")):
        with pytest.raises(SymbolMissing):
            put_in_tray(project, kind, certainty)
    with pytest.raises(SymbolMissing):
        take_from_tray(project, "thrust-certain")
    with pytest.raises(SymbolMissing):
        set_key(project, "thrust-certain", "1")
    for name in list(keys(project))[1:]:
        take_from_tray(project, name)
    with pytest.raises(FeatureRefused, match="last pen"):
        take_from_tray(project, next(iter(keys(project))))


def test_custom_kinds_are_always_there(project: Project) -> None:
    add_kind(project, CustomKind("peat_cutting", "Peat cutting", "areas"))
    take_from_tray(project, "contact-inferred")
    assert "peat_cutting-certain" in keys(project)
    with pytest.raises(SymbolMissing, match="always in the tray"):
        put_in_tray(project, "peat_cutting")
