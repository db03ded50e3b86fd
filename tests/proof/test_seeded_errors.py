"""Errors that hands make are all found, and nothing is said of maps that are sound."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import shapely

from orvik.core.features.kind import SHEET_BORDER
from orvik.core.findings.rules import RULES
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.proof.proof import all_findings
from tests.examples import drawn
from tests.islands import grown
from tests.proof.editor.clean_demo import clean_copy, copied
from tests.proof.editor.table import FOUND_BY_HELD_OUT, OPEN
from tests.proof.seeds import MAP, SHEET, Seed

# Seeds of islands that are sound by the measure below.
SOUND = (1, 2, 3, 4, 6, 7, 9, 10, 11, 12)
# No face of a sound map is narrower than this, in millimetres on the sheet.
NARROW = 0.3
# Seeds that change the same part cannot stand in one copy.
COPIES = [SHEET[i::4] for i in range(4)]


@pytest.fixture(scope="module")
def clean(demo_original: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A copy of the demo in which what is left to do is done."""
    return clean_copy(demo_original, tmp_path_factory.mktemp("clean"))


@pytest.fixture
def copy(clean: Path, tmp_path: Path) -> Path:
    return copied(clean, tmp_path)


def told(path: Path, sheet: bool) -> list[str]:
    with opened_for_reading(path) as project:
        number = project.sheets()[0].id if sheet else None
        return [f.rule for f in all_findings(project, number)]


def test_there_are_forty_of_different_kinds() -> None:
    assert len(MAP) + len(SHEET) >= 40
    assert len({seed.name for seed in [*MAP, *SHEET]}) == len(MAP) + len(SHEET)
    # Every rule has its seed: of these, or of those of an editor, which are made at random.
    made = {seed.rule for seed in [*MAP, *SHEET]} | {kind.rule for kind in OPEN}
    assert made | set(FOUND_BY_HELD_OUT) == set(RULES)


def test_nothing_is_said_of_the_clean_copy(clean: Path) -> None:
    with opened_for_reading(clean) as project:
        for sheet in [None, *project.sheets()]:
            assert [f.message for f in all_findings(project, sheet.id if sheet else None)] == []


@pytest.mark.parametrize("seed", MAP, ids=lambda seed: seed.name)
def test_an_error_of_the_map_is_found(copy: Path, seed: Seed) -> None:
    with opened_for_writing(copy) as project:
        seed.make(project)
    assert seed.rule in told(copy, sheet=False)


@pytest.mark.parametrize("several", COPIES, ids=lambda several: several[0].name)
def test_errors_of_the_sheet_are_found(copy: Path, several: list[Seed]) -> None:
    with opened_for_writing(copy) as project:
        for seed in several:
            seed.make(project)
    found = told(copy, sheet=True)
    for seed in several:
        wanted = sum(other.rule == seed.rule for other in several)
        assert found.count(seed.rule) >= wanted, seed.name


def is_sound(project: Project) -> bool:
    """Whether a map is sound, by measures of its own: all within the border, no narrow face, no shores that meet."""
    lines, areas = project.all_features()["lines"], project.all_features()["areas"]
    kinds = np.array(lines.columns["kind"])
    border = shapely.Polygon(lines.geometries[kinds == SHEET_BORDER][0])
    within = shapely.within(areas.geometries, border).all()
    radii = [shapely.length(shapely.maximum_inscribed_circle(area, 0.1)) for area in areas.geometries]
    wide = min(radii) * 2 / 25.0 > NARROW
    shores = lines.geometries[kinds == "shoreline"]
    one, two = shapely.STRtree(shores).query(shores, predicate="crosses")
    return bool(within and wide and not len(one) and not len(two))


@pytest.mark.parametrize("seed", drawn(SOUND, 4))
def test_nothing_is_said_of_sound_islands_from_other_seeds(tmp_path: Path, seed: int) -> None:
    path = tmp_path / "island.gpkg"
    sheet = grown(path, seed)
    with opened_for_reading(path) as project:
        assert is_sound(project)
        assert [f.message for f in all_findings(project, sheet)] == []
