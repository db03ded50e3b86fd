"""The table of features: what it lists and in which order, what cells take and refuse, what stays as it is."""

from __future__ import annotations

import csv
import io
import random
from pathlib import Path

import pytest
import shapely

from orvik.core.errors import FeatureRefused, NotFound, OrvikError, Stale
from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import CERTAINTIES, Feature
from orvik.core.features.kind import kind_of
from orvik.core.features.table import TABLES, Table
from orvik.store import rows
from orvik.store.project import Project
from orvik.usecases.compile.feature_table.cells import CellWords
from orvik.usecases.compile.feature_table.changes import (
    CellsAsked,
    TableOutcome,
    as_block,
    change_many,
    change_table,
    read_block,
)
from orvik.usecases.compile.feature_table.listing import Listings, TableQuery, ids_of, rows_of


@pytest.fixture
def project(demo: Path) -> Project:
    return Project.open(demo)


def listed(project: Project, query: TableQuery, dip_direction: bool = False) -> list[int]:
    return ids_of(project, CellWords(project, query.table, dip_direction), query)


def everything(project: Project, table: Table) -> dict[int, Feature]:
    return project.whole(table, project.features(table).ids.tolist())


def ask(project: Project, query: TableQuery, asked: CellsAsked, **how: bool) -> TableOutcome:
    return change_table(project, query, listed(project, query), asked, project.revision, **how)


@pytest.mark.parametrize("table", TABLES)
def test_every_column_sorts_as_its_cells_read(project: Project, table: Table) -> None:
    words = CellWords(project, table)
    features = everything(project, table)
    kinds = ["", *sorted({f.kind for f in features.values()})]
    for kind in kinds:
        wanted = {number for number, f in features.items() if not kind or f.kind == kind}
        for column in words.columns(kind):
            up = listed(project, TableQuery(table, kind, sort=column.name))
            down = listed(project, TableQuery(table, kind, sort=column.name, descending=True))
            assert set(up) == set(down) == wanted
            assert len(up) == len(wanted)
            keys = [_key(words, features[number], column.name) for number in up]
            known = [key for key in keys if key is not None]
            assert known == sorted(known), (kind, column.name)
            backwards = [key for number in down if (key := _key(words, features[number], column.name)) is not None]
            assert backwards == sorted(known, reverse=True)


def _key(words: CellWords, feature: Feature, column: str) -> object:
    """What rows are sorted by, found without the database; None for an empty cell."""
    if column.startswith("own:"):
        value = feature.fields.get(column.removeprefix("own:"))
        return value if value is None or isinstance(value, str) else float(value)
    if column == "number":
        return feature.id
    if column == "reading":
        return (
            None if feature.azimuth is None or feature.inclination is None else (feature.azimuth, feature.inclination)
        )
    if column == "map_unit":
        return words.units.index(feature.map_unit) if feature.map_unit else None
    if column == "certainty":
        return CERTAINTIES.index(feature.certainty)
    if column == "length":
        return feature.geometry.length
    if column == "ground":
        return feature.geometry.area
    if column == "capture_scale":
        return feature.capture_scale
    if column == "questionable":
        return feature.questionable
    if column == "station":
        return (words.project.station_names([feature.id or 0]).get(feature.id or 0) or "").casefold() or None
    text = words.text(feature, column)
    return text if column == "note" else text.casefold() or None


@pytest.mark.parametrize("table", TABLES)
def test_filters_list_what_they_say(project: Project, table: Table) -> None:
    features = everything(project, table)
    for unit in {f.map_unit for f in features.values()}:
        found = listed(project, TableQuery(table, unit=unit or "-"))
        assert sorted(found) == sorted(n for n, f in features.items() if f.map_unit == unit)
    for certainty in CERTAINTIES:
        found = listed(project, TableQuery(table, certainty=certainty))
        assert sorted(found) == sorted(n for n, f in features.items() if f.certainty == certainty)
    some = sorted(features)[:3]
    assert listed(project, TableQuery(table, among=tuple(some))) == some
    with pytest.raises(NotFound):
        listed(project, TableQuery(table, sort="geom; DROP TABLE lines"))


def test_find_looks_into_every_cell(project: Project) -> None:
    words = CellWords(project, "points")
    points = everything(project, "points")
    stations = project.station_names(sorted(points))
    for number, feature in sorted(points.items())[::7]:
        for column in words.columns():
            text = words.text(feature, column.name, stations)
            if not text or column.name in ("questionable", "capture_scale"):
                continue
            assert number in listed(project, TableQuery("points", find=text)), (column.name, text)
    # Nothing is a pattern here.
    assert listed(project, TableQuery("points", find="%")) == []
    assert listed(project, TableQuery("points", find="_______________")) == []


def test_a_reading_is_found_as_it_is_written(project: Project) -> None:
    points = everything(project, "points")
    bedding = next(f for f in points.values() if f.kind == "bedding" and f.azimuth is not None)
    assert bedding.azimuth is not None
    text = Attitude(bedding.azimuth, bedding.inclination).direction_text
    found = listed(project, TableQuery("points", find=text), dip_direction=True)
    assert bedding.id in found
    assert all(points[n].azimuth == bedding.azimuth for n in found)
    capitals = project.whole("points", [bedding.number])[bedding.number].changed(note="Störung östlich")
    project.apply("note", [rows.feature_change(capitals, project.srs_id)])
    for written in ("störung", "STÖRUNG", "Störung"):
        assert bedding.number in listed(project, TableQuery("points", find=written))


@pytest.mark.parametrize("table", TABLES)
def test_what_a_cell_says_can_be_typed_into_it(project: Project, table: Table) -> None:
    """Every cell of every feature, as another feature of its kind takes it: it says the same then."""
    for dip_direction in (False, True):
        words = CellWords(project, table, dip_direction)
        by_kind: dict[str, list[Feature]] = {}
        for feature in everything(project, table).values():
            by_kind.setdefault(feature.kind, []).append(feature)
        for kind, features in by_kind.items():
            for feature in features[:12]:
                other = features[-1]
                for column in words.columns(kind):
                    if not column.typed:
                        continue
                    text = words.text(feature, column.name)
                    try:
                        new = words.typed(other, {column.name: text})
                    except FeatureRefused:
                        # What must be filled in cannot be emptied, and a reading neither.
                        assert not text
                        continue
                    assert words.text(new, column.name) == text, (kind, column.name)
                    assert new.geometry is other.geometry


def test_a_cell_is_one_entry_and_undone_whole(project: Project) -> None:
    query = TableQuery("points", "bedding")
    before = everything(project, "points")
    revision = project.revision
    outcome = ask(project, query, CellsAsked("type", (0, 0), ("reading",), "N52E 31S"))
    assert outcome.entry is not None
    assert project.revision == revision + 1
    changed = listed(project, query)[0]
    after = everything(project, "points")
    assert (after[changed].azimuth, after[changed].inclination) == (52.0, 31.0)
    assert {n for n in after if after[n] != before[n]} == {changed}
    project.undo()
    assert everything(project, "points") == before


@pytest.mark.parametrize(
    ("column", "text", "why"),
    [
        ("reading", "400/10", "400 is not a direction"),
        ("reading", "045/99", "A dip of 99"),
        ("reading", "", "is not a reading|Type a reading"),
        ("certainty", "good", "is not a certainty"),
        ("kind", "Cren. lin.", "is not a kind of points"),
        ("kind", "Lineation", "reading that says something else"),
        ("kind", "Unit tag", "reading that says something else"),
        ("map_unit", "Jh", "belongs to no map unit"),
        ("questionable", "perhaps", "is not an answer"),
        ("capture_scale", "rough", "is not a scale"),
        ("source", "nowhere", "is not a source"),
        ("note", "x" * 5000, "The note is longer"),
    ],
)
def test_what_a_cell_cannot_hold_is_said_and_nothing_saved(project: Project, column: str, text: str, why: str) -> None:
    query, revision = TableQuery("points", "bedding"), project.revision
    words = CellWords(project, "points")
    if column not in [c.name for c in words.columns("bedding")]:
        query = TableQuery("points")
        ids = [n for n, f in everything(project, "points").items() if f.kind == "bedding"][:1]
        query = TableQuery("points", among=tuple(ids))
    outcome = ask(project, query, CellsAsked("type", (0, 0), (column,), text))
    assert outcome.entry is None
    assert project.revision == revision
    (refused,) = outcome.plan.refused
    assert refused.column == column
    assert any(part in refused.why for part in why.split("|")), refused.why


def test_a_kind_and_its_reading_change_together(project: Project) -> None:
    query = TableQuery("points", "bedding")
    number = listed(project, query)[0]
    block = "Kind\tReading\nLineation\t20→120\n"
    outcome = ask(project, TableQuery("points", among=(number,)), CellsAsked("paste", (0, 0), ("number",), block))
    assert outcome.entry is not None
    feature = project.feature("points", number)
    assert (feature.kind, feature.azimuth, feature.inclination) == ("lineation", 120.0, 20.0)


def test_a_line_made_a_border_takes_the_place_of_the_one_that_was_there(project: Project) -> None:
    """A project has one sheet border, however it comes."""
    closed = next(f for f in everything(project, "lines").values() if f.kind == "border")
    ring = shapely.LineString(shapely.get_coordinates(closed.geometry) * 0.999 + 300)
    made = closed.changed(geometry=ring, kind="contact", id=None)
    project.apply("draw", [rows.feature_change(made, project.srs_id)])
    new = max(everything(project, "lines"))
    outcome = ask(project, TableQuery("lines", among=(new,)), CellsAsked("type", (0, 0), ("kind",), "border"))
    assert outcome.entry is not None, outcome.plan.refused
    assert [n for n, f in everything(project, "lines").items() if f.kind == "border"] == [new]


def test_fill_down_and_replace(project: Project) -> None:
    query = TableQuery("points", "bedding")
    ids = listed(project, query)
    ask(project, query, CellsAsked("type", (0, 0), ("note",), "hq 12 June\nwindy"))
    outcome = ask(project, query, CellsAsked("fill", (0, 9), ("note",)))
    assert outcome.entry is not None
    assert len(outcome.entry.changes) == 9
    seen = ask(project, query, CellsAsked("replace", columns=("note",), text="June", by="July"), preview=True)
    assert (seen.entry, seen.plan.cells) == (None, 10)
    assert seen.plan.shown[0].after == "hq 12 July\nwindy"
    ask(project, query, CellsAsked("replace", columns=("note",), text="June", by="July"))
    assert {project.feature("points", n).note for n in ids[:10]} == {"hq 12 July\nwindy"}
    with pytest.raises(FeatureRefused, match="No cell of this column holds"):
        ask(project, query, CellsAsked("replace", columns=("note",), text="June", by="July"))
    with pytest.raises(FeatureRefused, match="Type what is to be found"):
        ask(project, query, CellsAsked("replace", columns=("note",), text="", by="x"))
    with pytest.raises(FeatureRefused, match="those below it"):
        ask(project, query, CellsAsked("fill", (3, 3), ("note",)))


def test_what_cannot_be_filled_down_is_shown_first(project: Project) -> None:
    """A reading fits beds and not tags: the tags stay as they are, and only when that is wanted."""
    query = TableQuery("points")
    features = everything(project, "points")
    bed = next(n for n, f in features.items() if f.kind == "bedding")
    tag = next(n for n, f in features.items() if f.kind == "unit_tag")
    other = next(n for n, f in features.items() if f.kind == "bedding" and f.azimuth != features[bed].azimuth)
    query, ids = TableQuery("points", among=(bed, tag, other)), [bed, tag, other]
    asked = CellsAsked("fill", (0, 2), ("reading",))
    outcome = change_table(project, query, ids, asked, project.revision)
    assert outcome.entry is None
    assert [r.id for r in outcome.plan.refused] == [tag]
    outcome = change_table(project, query, ids, asked, project.revision, leave_out=True)
    assert outcome.entry is not None
    assert [c.id for c in outcome.entry.changes] == [other]
    assert project.feature("points", other).azimuth == features[bed].azimuth
    assert project.feature("points", tag) == features[tag]


def test_a_paste_with_wrong_cells_changes_the_others_in_one_entry(project: Project) -> None:
    query = TableQuery("points", "bedding")
    ids = listed(project, query)
    block = "".join(f"{10 * i:03d}/{20 + i}\t{'approximate' if i % 2 else 'certain'}\n" for i in range(8))
    block = block.replace("010/21", "010/91").replace("050/25", "fifty")
    asked = CellsAsked("paste", (2, 2), ("reading",), block)
    before = {n: project.feature("points", n) for n in ids}
    outcome = ask(project, query, asked, preview=True)
    assert [(r.id, r.text) for r in outcome.plan.refused] == [(ids[3], "010/91"), (ids[7], "fifty")]
    assert {n: project.feature("points", n) for n in ids} == before
    outcome = ask(project, query, asked, leave_out=True)
    assert outcome.entry is not None
    for i in range(8):
        feature = project.feature("points", ids[2 + i])
        if i in (1, 5):
            assert feature == before[ids[2 + i]]
        else:
            assert (feature.azimuth, feature.inclination) == (10.0 * i, 20.0 + i)
    project.undo()
    assert {n: project.feature("points", n) for n in ids} == before


def test_what_is_copied_pastes_back_as_nothing(project: Project) -> None:
    """Every cell of every kind of point, copied with the names of its columns: it says so already."""
    for table in TABLES:
        words = CellWords(project, table)
        for kind in {f.kind for f in everything(project, table).values()}:
            query = TableQuery(table, kind)
            columns = words.columns(kind)
            ids = listed(project, query)
            cells = [[*row.texts] for row in rows_of(project, words, columns, ids)]
            block = as_block([[c.label for c in columns], *cells])
            assert read_block(block) == [[c.label for c in columns], *cells]
            outcome = ask(project, query, CellsAsked("paste", (0, 0), ("number",), block))
            assert (outcome.entry, outcome.plan.cells, outcome.plan.refused) == (None, 0, ())


def test_a_pasted_block_says_what_has_no_place(project: Project) -> None:
    query = TableQuery("points", "bedding")
    ids = listed(project, query)
    rows_given = "\n".join(f"{i}\tnote {i}" for i in range(len(ids) + 5))
    outcome = ask(project, query, CellsAsked("paste", (0, 0), ("questionable",), rows_given), preview=True)
    assert "5 rows lie beyond the last one here" in outcome.plan.beyond
    by_number = f"No\tNote\n{ids[4]}\tfour\n999999\tnone\nabc\tnone\n"
    outcome = ask(project, query, CellsAsked("paste", (0, 0), ("number",), by_number), preview=True)
    assert [c.id for c in outcome.plan.shown] == [ids[4]]
    assert "2 rows name no features that are listed" in outcome.plan.beyond
    other = f"No\tAge\tNote\n{ids[4]}\tJurassic\tfour\n"
    outcome = ask(project, query, CellsAsked("paste", (0, 0), ("number",), other), preview=True)
    assert outcome.plan.beyond == "Age is not a column here"
    assert outcome.plan.shown[0].after == "four"
    for nothing in ("", "\n", "Note\n", "No\tStation\n4\tx\n", "\0"):
        with pytest.raises(FeatureRefused):
            ask(project, query, CellsAsked("paste", (0, 0), ("number",), nothing), preview=True)


def test_blocks_are_read_as_spreadsheets_write_them() -> None:
    """Against the standard library's writer, with quotes, tabs and line breaks in cells."""
    random.seed(7)
    letters = 'ab\t\n"Ä ,;'
    for _ in range(300):
        block = [["".join(random.choices(letters, k=random.randint(0, 6))) for _ in range(3)] for _ in range(4)]
        out = io.StringIO()
        csv.writer(out, "excel-tab").writerows(block)
        assert read_block(out.getvalue()) == block
        assert read_block(as_block(block)) == block


def test_another_window_is_not_overwritten(project: Project) -> None:
    query = TableQuery("points", "bedding")
    ids, seen = listed(project, query), project.revision
    other = project.feature("points", ids[0]).changed(note="from elsewhere")
    project.apply("note", [rows.feature_change(other, project.srs_id)])
    with pytest.raises(Stale):
        change_table(project, query, ids, CellsAsked("type", (0, 0), ("note",), "mine"), seen)
    change_table(project, query, ids, CellsAsked("type", (1, 1), ("note",), "mine"), seen)
    assert project.feature("points", ids[0]).note == "from elsewhere"
    gone = ids[2]
    project.apply("delete", [rows.Change("points", gone, None)])
    outcome = change_table(project, query, ids, CellsAsked("type", (2, 2), ("note",), "mine"), project.revision)
    assert outcome.plan.refused[0].why == "That feature is no longer in the project."


def test_locked_layers_are_not_touched(project: Project) -> None:
    project.set_layer("attitudes", rows.LayerState(locked=True))
    query = TableQuery("points", "bedding")
    with pytest.raises(FeatureRefused, match="Attitudes is locked"):
        ask(project, query, CellsAsked("type", (0, 0), ("note",), "x"))


def test_many_at_once_or_none(project: Project) -> None:
    """What the slip of many sets goes by the cells, too: kind, scale and source as well, and nothing by halves."""
    beds = listed(project, TableQuery("points", "bedding"))[:5]
    keys = [("points", n) for n in beds]
    entry = change_many(project, [*keys], {"kind": "overturned_bedding", "capture_scale": "1:5000"}, "seen", 10**9)
    assert entry is not None
    assert len(entry.changes) == 5
    for number in beds:
        feature = project.feature("points", number)
        assert (feature.kind, feature.capture_scale) == ("overturned_bedding", 5000)
        assert feature.note.endswith("seen")
    revision = project.revision
    with pytest.raises(FeatureRefused, match="Nothing is changed"):
        change_many(project, [*keys], {"kind": "lineation"}, "", revision)
    assert project.revision == revision


def test_old_listings_are_forgotten_in_words() -> None:
    listings = Listings()
    first = listings.add(TableQuery("points"), [1, 2])
    for _ in range(20):
        last = listings.add(TableQuery("lines"), [3])
    assert listings.get(last)[1] == [3]
    with pytest.raises(Stale, match="listed anew"):
        listings.get(first)


@pytest.mark.parametrize("table", TABLES)
def test_any_text_in_any_cell_is_taken_or_refused_in_words(project: Project, table: Table) -> None:
    random.seed(table)
    words = CellWords(project, table)
    odd = ["", " ", "-", "?", "Jh?", "1:0", "9" * 30, "nan", "045/30SE", "²", "\n", "yes", "Bedding", "😀", "0", "−5"]
    features = {f.kind: f for f in everything(project, table).values()}
    for kind, feature in features.items():
        for column in words.columns(kind):
            for text in odd:
                try:
                    new = words.typed(feature, {column.name: text})
                except OrvikError as refusal:
                    said = refusal.sentence
                else:
                    said = f"{kind_of(new.kind).name} of {new.table}"
                assert said
                assert "Traceback" not in said
