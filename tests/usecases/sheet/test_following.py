"""Sheets of a series: what their template changes they take up, and what was set on them stays."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from orvik.cli.command_line import main
from orvik.core.errors import SheetRefused
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.sheet.page.entries import Choice, Colour, Figure, Switch, Words
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.templates.following import OWN
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.tables.followed import followed_template
from orvik.usecases.ground.border import Corners, set_border
from orvik.usecases.proof.sheet_findings import findings_of_sheet
from orvik.usecases.sheet.following import Offer, follow, follow_no_more, followers, offer_of
from orvik.usecases.sheet.parts import PartChange, add_part, change_part
from orvik.usecases.sheet.sheets import add_sheet, duplicate_sheet, reduce_sheet, remove_sheet, set_guide
from orvik.usecases.sheet.templates import keep_template, offered
from tests.examples import drawn

NAME = "Survey sheet"


@pytest.fixture
def series(demo: Path) -> Iterator[Project]:
    """The demo's sheet as the template of a series, with a second sheet that follows it."""
    project = Project.open(demo)
    keep_template(project, 1, NAME, for_all=False)
    old = project.sheet(1)
    add_sheet(project, NewSheet("Sule", f"{old.width:g}x{old.height:g}", True, offered(project)[0].key))
    yield project
    project.close()


def second(project: Project) -> int:
    return project.sheets()[-1].number


def offered_to(project: Project, sheet: int) -> Offer | None:
    return offer_of(project, project.sheet(sheet))


def given(part: Part) -> dict[str, object]:
    """What a template decides of a part, and the numbers of its panels left out."""
    values = {k: v for k, v in part.settings.to_dict().items() if k not in OWN | {"panel", "edits"}}
    return values | {"box": tuple(round(v, 3) for v in (part.x, part.y, part.width, part.height))}


def other_value(declared: object, value: object, rng: random.Random) -> object:
    """Another value that an entry may have; the same where it has none to offer."""
    if isinstance(declared, Figure):
        new = rng.uniform(declared.low, min(declared.high, declared.low + 40))
        return round(new) if declared.whole else round(new, 2)
    if isinstance(declared, Switch):
        return not value
    if isinstance(declared, Choice):
        return rng.choice(list(declared.choices))
    if isinstance(declared, Colour):
        return f"#{rng.randrange(1 << 24):06X}"
    if type(declared) is Words:
        return f"Words {rng.randrange(100)}"
    return value


def test_every_setting_of_every_part_goes_along(series: Project) -> None:
    """All parts of the sheet, all entries by reflection: what was not touched on the second sheet is as on the first.

    Margins are changed, too, by which a page keeps its parts in place; as both pages are of one size, all is alike.
    """
    rng = random.Random(20261201)
    changes = []
    for part in series.parts(1):
        values = {}
        for name, declared in part.settings.entries().items():
            new = other_value(declared, getattr(part.settings, name), rng)
            if name not in OWN and name not in ("system", "letter") and declared.is_valid(new):
                values[name] = new
        moved = part.changed(x=part.x + rng.uniform(-9, 9), settings=part.settings.changed(values))
        changes.append(rows.part_change(moved))
    sheet = series.sheet(1)
    layout = {n: other_value(d, getattr(sheet.layout, n), rng) for n, d in sheet.layout.entries().items()}
    layout = {n: v for n, v in layout.items() if sheet.layout.entries()[n].is_valid(v)}
    series.apply("change", [*changes, rows.sheet_change(replace(sheet, layout=sheet.layout.changed(layout)))])
    number = second(series)
    assert offered_to(series, number) is None
    keep_template(series, 1, NAME, for_all=False, instead=True)
    assert [(one.sheet, one.behind) for one in followers(series, NAME, False)] == [
        (series.sheet(1).name, False),
        ("Sule", True),
    ]
    before = series.parts(number)
    _, kept = follow(series, number)
    assert kept == []
    first, now = series.parts(1), series.parts(number)
    assert [given(p) for p in now] == [given(p) for p in first]
    assert series.sheet(number).layout == series.sheet(1).layout
    assert offered_to(series, number) is None
    # Parts speak of the panels of their own sheet.
    panels = {p.id for p in now if isinstance(p.settings, MapPanel)}
    assert {p.settings.panel for p in now if getattr(p.settings, "panel", None)} <= panels  # type: ignore[attr-defined]
    series.undo()
    assert series.parts(number) == before
    assert offered_to(series, number) is not None


@pytest.mark.parametrize("seed", drawn(range(40), 4))
def test_what_was_set_on_a_sheet_stays_and_is_said(series: Project, seed: int) -> None:
    """Half of the parts are changed in the template, half on the sheet, some on both: those stay, each with a word."""
    rng = random.Random(seed)
    number = second(series)
    here = {part.made_as: part for part in series.parts(number)}
    there = [part for part in series.parts(1) if not part.settings.lies_on_panel]
    for part in there:
        if rng.random() < 0.5:
            change_part(series, part.number, PartChange(place={"x": part.x + rng.choice([-7.0, 5.0])}))
        mine = here[part.made_as]
        if rng.random() < 0.5:
            change_part(series, mine.number, PartChange(place={"y": mine.y + 3.0}))
    gone = rng.choice([p for p in there if not isinstance(p.settings, MapPanel)])
    series.apply("remove", [rows.Change("parts", gone.number, None)])
    new = add_part(series, 1, "box").changes[0].id
    own = add_part(series, number, "check_square").changes[0].id
    was = {part.made_as: part for part in series.parts(number)}
    keep_template(series, 1, NAME, for_all=False, instead=True)
    template = {part.made_as: part for part in series.parts(1)}
    _, kept = follow(series, number)
    now = {part.made_as: part for part in series.parts(number) if part.made_as}
    assert own in {part.id for part in series.parts(number)}
    assert now[series.part(new).made_as].kind == "box"
    for part in there:
        if part.id == gone.id:
            untouched = was[part.made_as].y == here[part.made_as].y
            assert (part.made_as in now) != untouched
            continue
        changed_there = template[part.made_as].x != part.x
        changed_here = was[part.made_as].y != here[part.made_as].y
        mine = now[part.made_as]
        assert mine.y == was[part.made_as].y
        # Neither was laid out otherwise than the template but for a thousandth of a millimetre.
        wanted = template[part.made_as].x if changed_there and not changed_here else was[part.made_as].x
        assert mine.x == pytest.approx(wanted, abs=1e-3)
        told = any(f"“{mine.label}” was placed here" in sentence for sentence in kept)
        assert told or not (changed_there and changed_here)


def test_sheets_of_other_projects_on_other_papers_are_offered_it(demo: Path) -> None:
    project = Project.open(demo)
    keep_template(project, 1, NAME, for_all=True)
    path = demo.with_name("outer-stills.gpkg")
    create(path, "Outer Stills", project_crs("EPSG:3057"), Scales(50_000, 10_000))
    other = Project.open(path)
    set_border(other, Corners("400000", "400000", "408000", "404000"))
    add_sheet(other, NewSheet("Stills", "A1", True, offered(other)[0].key))
    before = other.parts(1)
    (panel,) = [p for p in before if isinstance(p.settings, MapPanel)]
    (title,) = [p for p in project.parts(1) if p.kind == "title"]
    change_part(project, title.number, PartChange(typed={"size": "12"}))
    keep_template(project, 1, NAME, for_all=True, instead=True)
    offer = offered_to(other, 1)
    assert offer is not None
    assert (offer.made.count, offer.made.kept) == (1, [])
    told = [(one.project, one.behind) for one in followers(project, NAME, True)]
    assert told == [("Isle of Quennet", False), ("Outer Stills", True)]
    follow(other, 1)
    (mine,) = [p for p in other.parts(1) if p.kind == "title"]
    assert mine.settings.to_dict()["size"] == 12
    assert [p for p in other.parts(1) if p.kind != "title"] == [p for p in before if p.kind != "title"]
    assert panel in other.parts(1)
    # A template that is gone offers nothing, and says so to whoever asks.
    (key,) = [one.key for one in offered(other)]
    (demo.parent / "sheet-templates" / f"{key.removeprefix('all-')}.json").unlink()
    assert offered_to(other, 1) is None
    with pytest.raises(SheetRefused, match="no longer there"):
        follow(other, 1)
    follow_no_more(other, 1)
    assert followed_template(other, 1) is None
    assert follow_no_more(other, 1) is None
    project.close()
    other.close()


def test_only_a_sheet_that_follows_takes_the_place_of_a_template(series: Project) -> None:
    number = second(series)
    with pytest.raises(SheetRefused, match="already"):
        keep_template(series, number, NAME, for_all=False)
    with pytest.raises(SheetRefused, match="no template Other"):
        keep_template(series, number, "Other", for_all=False, instead=True)
    # A sheet made smaller as a whole follows no more: all of it is otherwise.
    entry, _ = reduce_sheet(series, 1, "Small", 50.0)
    small = entry.changes[0].id
    assert followed_template(series, small) is None
    with pytest.raises(SheetRefused, match="does not follow"):
        keep_template(series, small, NAME, for_all=False, instead=True)
    # One that follows keeps the numbers of its parts, so that the first sheet goes along with the second, too.
    (title,) = [p for p in series.parts(number) if p.kind == "title"]
    change_part(series, title.number, PartChange(typed={"text": "Sheet of {sheet}"}))
    keep_template(series, number, NAME, for_all=False, instead=True)
    # What one hand has changed in the template no other takes back without having seen it.
    with pytest.raises(SheetRefused, match="follow that first"):
        keep_template(series, 1, NAME, for_all=False, instead=True)
    follow(series, 1)
    (first,) = [p for p in series.parts(1) if p.kind == "title"]
    assert first.settings.to_dict()["text"] == "Sheet of {sheet}"
    for sheet in series.sheets():
        if sheet.id != small:
            assert offered_to(series, sheet.number) is None


@pytest.mark.parametrize("held", ["{}", "[]", "5", '{"crs": "EPSG:32628"}', "nonsense", ""])
def test_what_a_stranger_wrote_of_a_template_is_passed_over(series: Project, held: str) -> None:
    """The sheet stays, can be worked on and proofed; nothing is offered."""
    number = second(series)
    row = followed_template(series, number)
    assert row is not None
    series.apply("odd", [Change("followed_templates", row.id, {"template": held})])
    assert offered_to(series, number) is None
    assert findings_of_sheet(series, number, []) is not None
    with pytest.raises(SheetRefused):
        follow(series, number)
    follow_no_more(series, number)
    assert followed_template(series, number) is None


def test_a_part_comes_to_speak_of_a_panel_that_is_new(series: Project) -> None:
    """A second panel is added to the template, and the scale bar, which was there, speaks of it: so on every sheet."""
    number = second(series)
    inset = add_part(series, 1, "map_panel").changes[0].id
    (bar,) = [p for p in series.parts(1) if p.kind == "scale_bar"]
    change_part(series, bar.number, PartChange(typed={"panel": str(inset)}))
    keep_template(series, 1, NAME, for_all=False, instead=True)
    follow(series, number)
    (mine,) = [p for p in series.parts(number) if p.kind == "scale_bar"]
    new = next(p for p in series.parts(number) if p.made_as == series.part(inset).made_as)
    assert mine.settings.to_dict()["panel"] == new.id
    assert offered_to(series, number) is None


def test_edits_of_a_page_do_not_write_its_template_anew(series: Project) -> None:
    entry = set_guide(series, second(series), "x", 120.0)
    assert entry is not None
    assert {change.table for change in entry.changes} == {"sheets"}
    assert len(str(entry.changes)) < 8_000
    # A copy on other paper follows as its original does; a sheet takes what it follows along, and brings it back.
    copy = duplicate_sheet(series, second(series), "", "A1", True)[0].changes[0].id
    assert followed_template(series, copy) is not None
    remove_sheet(series, copy)
    assert followed_template(series, copy) is None
    series.undo()
    assert followed_template(series, copy) is not None


def test_the_sheets_of_projects_go_along_by_one_command(demo: Path, capsys: pytest.CaptureFixture[str]) -> None:
    project = Project.open(demo)
    keep_template(project, 1, NAME, for_all=True)
    old = project.sheet(1)
    add_sheet(project, NewSheet("Sule", f"{old.width:g}x{old.height:g}", True, offered(project)[0].key))
    (title,) = [p for p in project.parts(1) if p.kind == "title"]
    change_part(project, title.number, PartChange(typed={"size": "12"}))
    keep_template(project, 1, NAME, for_all=True, instead=True)
    project.close()
    assert main(["follow", str(demo)]) == 0
    assert capsys.readouterr().out == "Isle of Quennet, Sule: goes along.\n"
    assert main(["follow", str(demo)]) == 0
    assert capsys.readouterr().out == ""
