from __future__ import annotations

import sqlite3
import subprocess
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from pathlib import Path

import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from orvik.core.errors import NotFound, ProjectRefused
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import TABLES
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.scale import Scales
from orvik.store import journal, rows
from orvik.store.creation import create
from orvik.store.geometry import decoded, encoded
from orvik.store.journal import Change
from orvik.store.project import Project
from tests.examples import examples
from tests.store.content import content, copied

CONTACT = Feature("lines", shapely.LineString([(513_000, 6_803_000), (514_000, 6_803_500)]), "contact")


def test_features_come_back_as_they_were(project: Project) -> None:
    entry = project.apply("draw", [rows.feature_change(CONTACT.changed(note="ü, ″"), project.srs_id)])
    kept = project.feature("lines", entry.changes[0].id)
    assert kept.geometry.equals_exact(CONTACT.geometry, 0)
    assert kept.note == "ü, ″"
    assert len(project.features("lines")) == 3


def test_undo_and_redo_survive_a_restart(project: Project) -> None:
    before = content(project.path)
    project.apply("draw", [rows.feature_change(CONTACT, project.srs_id)])
    after = content(project.path)
    project.undo()
    assert content(project.path) == before
    path = project.path
    project.close()
    again = Project.open(path)
    assert (again.undo_label, again.redo_label) == ("features", "draw")
    again.redo()
    assert content(again.path) == after
    again.undo()
    again.undo()
    again.undo()
    assert again.undo_label is None
    assert all(again.count(t) == 0 for t in TABLES)
    with pytest.raises(NotFound, match="nothing to undo"):
        again.undo()
    again.close()


def test_an_edit_ends_what_could_be_redone(project: Project) -> None:
    project.apply("one", [rows.feature_change(CONTACT, project.srs_id)])
    project.undo()
    project.apply("two", [rows.feature_change(CONTACT, project.srs_id)])
    assert project.redo_label is None
    with pytest.raises(NotFound):
        project.redo()


ACTIONS = st.lists(
    st.tuples(st.sampled_from(["add", "move", "unit", "delete", "undo", "redo"]), st.integers(0, 50)),
    max_size=25,
)


@examples(25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(ACTIONS)
def test_any_sequence_undone_gives_back_the_project(tmp_path: Path, actions: list[tuple[str, int]]) -> None:
    path = tmp_path / "p.gpkg"
    path.unlink(missing_ok=True)
    create(path, "P", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    project = Project.open(path)
    try:
        states = [content(project.path)]
        for what, number in actions:
            ids = project.features("lines").ids
            chosen = int(ids[number % len(ids)]) if len(ids) else None
            if what == "add":
                moved = shapely.affinity.translate(CONTACT.geometry, number)
                project.apply("add", [rows.feature_change(CONTACT.changed(geometry=moved), project.srs_id)])
            elif what == "unit":
                code = f"U{project.revision}"
                project.apply("unit", [rows.unit_change(None, MapUnit(code, code, "", "#FFFFFF"))])
            elif what == "move" and chosen:
                feature = project.feature("lines", chosen)
                moved = shapely.affinity.translate(feature.geometry, 1)
                project.apply("move", [rows.feature_change(feature.changed(geometry=moved), project.srs_id)])
            elif what == "delete" and chosen:
                project.apply("delete", [Change("lines", chosen, None)])
            elif (what == "undo" and project.undo_label) or (what == "redo" and project.redo_label):
                getattr(project, what)()
            states.append(content(project.path))
        while project.undo_label:
            project.undo()
        assert content(project.path) == states[0]
    finally:
        project.close()


def test_a_failing_edit_leaves_nothing(project: Project) -> None:
    before, revision = content(project.path), project.revision
    double = rows.unit_change(None, MapUnit("Kp", "Again", "", "#FFFFFF"))
    with pytest.raises(ProjectRefused, match="same code"):
        project.apply("two things", [rows.feature_change(CONTACT, project.srs_id), double])
    with pytest.raises(NotFound):
        project.apply("gone", [rows.feature_change(CONTACT, project.srs_id), Change("lines", 999, None)])
    with pytest.raises(NotFound):
        project.apply("not a table", [Change("sqlite_master", 1, None)])
    assert (content(project.path), project.revision) == (before, revision)


def test_a_sheet_goes_with_its_parts_and_comes_back(project: Project, crs: ProjectCrs) -> None:
    from orvik.core.sheet.page.page import Sheet
    from orvik.core.sheet.templates import laid_out
    from orvik.core.sheet.templates.brief import Brief

    border = project.border()
    assert border is not None
    parts = laid_out(Brief("S", "P", (420, 297), border, 25_000, crs, date(2026, 7, 2)))
    project.apply("sheet", rows.sheet_changes(Sheet("S", "A3", 420, 297), parts))
    sheet_id = project.sheets()[0].id
    assert sheet_id is not None
    kept = content(project.path)
    project.apply("remove", [Change("sheets", sheet_id, None)])
    assert content(project.path)["parts"] == []
    project.undo()
    assert content(project.path) == kept


def test_another_program_is_a_barrier(project: Project) -> None:
    other = sqlite3.connect(project.path)
    other.execute("UPDATE units SET name = 'Elsewhere' WHERE code = 'Kp'")
    other.commit()
    other.close()
    with pytest.raises(NotFound, match="nothing to undo"):
        project.undo()
    project.apply("draw", [rows.feature_change(CONTACT, project.srs_id)])
    project.undo()
    assert project.undo_label is None
    assert project.units_by_code()["Kp"].name == "Elsewhere"


def test_gdal_reads_every_layer_with_its_system(project: Project) -> None:
    """ogrinfo (Debian gdal-bin) is the outside reader."""
    project.checkpoint()
    out = subprocess.run(
        ["ogrinfo", "-ro", "-so", "-al", str(project.path)], capture_output=True, text=True, check=True
    )
    assert "Warning" not in out.stdout + out.stderr
    assert "ERROR" not in out.stdout + out.stderr
    layers = out.stdout.split("Layer name: ")[1:]
    facts = {layer.split("\n")[0]: layer for layer in layers}
    for table, kind, count in (("lines", "Line String", 2), ("areas", "Polygon", 1), ("points", "Point", 1)):
        assert f"Geometry: {kind}" in facts[table]
        assert f"Feature Count: {count}" in facts[table]
        assert 'ID["EPSG",32628]' in facts[table]
    for table, count in (("units", 2), ("journal", 2), ("sheets", 0), ("parts", 0), ("sources", 0)):
        assert f"Feature Count: {count}" in facts[table]


def test_file_is_sound(project: Project) -> None:
    connection = sqlite3.connect(project.path)
    assert connection.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
    assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
    assert connection.execute("PRAGMA application_id").fetchone()[0] == int.from_bytes(b"GPKG")
    assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    for table in TABLES:
        counts = connection.execute(f"SELECT (SELECT count(*) FROM {table}), (SELECT count(*) FROM rtree_{table}_geom)")
        a, b = counts.fetchone()
        assert a == b
    connection.close()


def test_own_system_is_read_by_gdal(tmp_path: Path) -> None:
    own = project_crs("+proj=lcc +lat_1=60 +lat_2=62 +lat_0=61 +lon_0=-15 +ellps=GRS80 +units=m +type=crs")
    path = tmp_path / "own.gpkg"
    create(path, "Own", own, Scales(50_000, 12_500))
    out = subprocess.run(["ogrinfo", "-ro", "-so", str(path), "lines"], capture_output=True, text=True, check=True)
    assert "Lambert Conic Conformal (2SP)" in out.stdout


def test_a_backup_of_a_live_file_has_everything(project: Project, tmp_path: Path) -> None:
    project.apply("draw", [rows.feature_change(CONTACT, project.srs_id)])
    copied(project.path, tmp_path / "copy.gpkg")
    copy = Project.open(tmp_path / "copy.gpkg")
    assert content(copy.path) == content(project.path)
    copy.close()


@pytest.mark.parametrize("data", [b"", b"not a database at all, but long enough to look like one" * 20])
def test_what_is_no_project_is_refused(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "odd.gpkg"
    path.write_bytes(data)
    with pytest.raises(ProjectRefused, match=r"odd\.gpkg"):
        Project.open(path)


def test_other_geopackages_are_refused(tmp_path: Path) -> None:
    import pyogrio

    path = tmp_path / "other.gpkg"
    wkb = shapely.to_wkb(np.array([shapely.Point(1, 2)]))
    pyogrio.raw.write(path, wkb, [], [], geometry_type="Point", crs="EPSG:4326")
    with pytest.raises(ProjectRefused, match="not a project of Orvik"):
        Project.open(path)
    with pytest.raises(ProjectRefused, match="no project file"):
        Project.open(tmp_path / "none.gpkg")


def test_creation_never_leaves_half_a_file(tmp_path: Path, crs: ProjectCrs) -> None:
    target = tmp_path / "there.gpkg"
    target.write_text("mine")
    with pytest.raises(ProjectRefused, match="already"):
        create(target, "There", crs, Scales(25_000, 6_250))
    assert target.read_text() == "mine"
    with pytest.raises(ProjectRefused, match="cannot be written"):
        create(tmp_path / "no" / "folder.gpkg", "X", crs, Scales(25_000, 6_250))
    with pytest.raises(ProjectRefused, match="needs a name"):
        create(tmp_path / "x.gpkg", "  ", crs, Scales(25_000, 6_250))
    assert sorted(p.name for p in tmp_path.iterdir()) == ["there.gpkg"]


@given(st.lists(st.tuples(st.floats(-1e7, 1e7), st.floats(-1e7, 1e7)), min_size=2, max_size=9))
def test_geometry_is_byte_true(places: list[tuple[float, float]]) -> None:
    line = shapely.LineString(places)
    blob = encoded(line, 32628)
    assert encoded(decoded(blob), 32628) == blob
    assert shapely.to_wkb(decoded(blob)) == shapely.to_wkb(line)


def test_border_and_extent(project: Project) -> None:
    border = project.border()
    assert border is not None
    assert border.bounds == (510_000, 6_800_000, 515_000, 6_804_000)
    assert project.extent() == pytest.approx((510_000, 6_800_000, 515_000, 6_804_000), abs=1)


def test_who_reads_waits_for_no_transaction(project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    """While an edit of many rows is written, the map is read as it was before."""
    apply_changes = journal.apply_changes
    seen: list[tuple[int, int]] = []

    def slowly(connection: sqlite3.Connection, changes: Sequence[Change]) -> list[journal.RowChange]:
        done = apply_changes(connection, changes)
        with ThreadPoolExecutor(1) as another:
            seen.append(another.submit(lambda: (project.scales.publication, project.count("lines"))).result(10))
        return done

    before = (project.scales.publication, project.count("lines"))
    monkeypatch.setattr(journal, "apply_changes", slowly)
    project.apply("set the scale", [Change("project", 1, {"publication_scale": 50_000})])
    assert seen == [before]
    assert project.scales.publication == 50_000
