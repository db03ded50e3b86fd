"""The table of seeds, kind by kind: ``python -m tests.proof.editor.table [SEED] [NAME]``."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from orvik.core.findings.finding import Finding
from orvik.demo.build import build
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.proof.proof import all_findings
from tests.proof.editor.clean_demo import clean_copy, copied
from tests.proof.editor.held_out import HELD_OUT
from tests.proof.editor.of_column import COLUMN, RIGHT_COLUMN
from tests.proof.editor.of_geology import GEOLOGY, RIGHT_GEOLOGY
from tests.proof.editor.of_older_maps import RIGHT_OLDER_MAPS
from tests.proof.editor.of_older_sheets import RIGHT_OLDER_SHEETS
from tests.proof.editor.of_parts import PARTS, RIGHT_PARTS
from tests.proof.editor.of_sources import RIGHT_SOURCES, SOURCES
from tests.proof.editor.of_texts import RIGHT_TEXTS, TEXTS
from tests.proof.editor.seed_kind import Counter, Outcome, SeedKind, outcome

OPEN: tuple[SeedKind, ...] = (*TEXTS, *PARTS, *COLUMN, *GEOLOGY, *SOURCES)
# Rules whose seeds are among those that were written down before them.
FOUND_BY_HELD_OUT: dict[str, str] = {
    "border_cut": "a_panel_that_cuts_the_border",
    "inset_unplaced": "an_inset_without_its_footprint",
    "section_untraced": "a_section_whose_line_its_panel_lacks",
    "dashes_unseen": "a_line_too_short_to_tell_its_dashes",
    "member_age": "a_member_of_another_age_than_its_formation",
    "undescribed": "a_unit_without_description",
    "uncovered": "concealed_linework_without_cover",
    "fold_against_dips": "an_anticline_in_beds_that_all_dip_one_way",
    "off_ground": "a_reading_in_the_sea",
    "off_fault": "a_fault_plane_off_its_fault",
    "axis_across": "a_fold_axis_across_its_trace",
    "coarse_source": "a_line_copied_from_a_coarser_source",
    "source_unused": "a_source_that_no_feature_names",
    "off_source": "a_feature_off_its_source",
    "backward_range": "a_thickness_from_more_to_less",
}
COUNTERS: tuple[Counter, ...] = (
    *(*RIGHT_TEXTS, *RIGHT_PARTS, *RIGHT_COLUMN, *RIGHT_GEOLOGY, *RIGHT_SOURCES),
    *RIGHT_OLDER_MAPS,
    *RIGHT_OLDER_SHEETS,
)


def findings_of(path: Path, sheet: int | None) -> list[Finding]:
    """All that is said of a project, and of one of its sheets."""
    with opened_for_reading(path) as project:
        return all_findings(project, None if sheet is None else project.sheets()[sheet].number)


def tried(clean: Path, folder: Path, kind: SeedKind, seed: int, before: Sequence[Finding]) -> Outcome:
    """Make an error in a copy of its own, and look for it."""
    path = copied(clean, folder, f"{kind.name}.gpkg")
    with opened_for_writing(path) as project:
        told = kind.make(project, np.random.default_rng([seed, len(kind.name)]))
    return outcome(kind, told, findings_of(path, kind.sheet), {f.key for f in before})


def falsely(clean: Path, folder: Path, counter: Counter, seed: int, before: Sequence[Finding]) -> list[Finding]:
    """What is wrongly said of a case that is right."""
    path = copied(clean, folder, f"{counter.name}.gpkg")
    with opened_for_writing(path) as project:
        counter.make(project, np.random.default_rng([seed, len(counter.name)]))
    held = {f.key for f in before}
    return [f for f in findings_of(path, counter.sheet) if f.key not in held and f.rule in counter.rules]


def _wanted(kind: SeedKind | Counter, words: str) -> bool:
    """Whether a kind is asked for: by a part of its name or of the name of what it stands in."""
    return words in kind.name or words in kind.make.__module__


def main(seed: int, wanted: str) -> None:
    """Print the table for one random seed."""
    kept = Path(tempfile.gettempdir()) / "seeds-clean"
    if not kept.exists():
        kept.mkdir()
        clean_copy(build(Path(tempfile.mkdtemp())), kept)
    clean = next(kept.glob("*.gpkg"))
    before = {sheet: findings_of(clean, sheet) for sheet in (None, 0, 1)}
    print("clean:", {sheet: [f.message for f in found] for sheet, found in before.items() if found})
    for title, kinds in (("open", OPEN), ("held out", HELD_OUT)):
        found = explained = asked = 0
        for kind in [k for k in kinds if _wanted(k, wanted)]:
            with tempfile.TemporaryDirectory() as folder:
                made = tried(clean, Path(folder), kind, seed, before[kind.sheet])
            asked, found, explained = asked + 1, found + (made.finding is not None), explained + made.explained
            sign = "explained" if made.explained else "found" if made.finding else "-"
            print(f"{kind.name:60} {sign:10} {made.finding.message if made.finding else made.told.says}", flush=True)
        print(f"{title}: {asked} kinds, {found} found, {explained} explained")
    for counter in [c for c in COUNTERS if _wanted(c, wanted)]:
        with tempfile.TemporaryDirectory() as folder:
            false = falsely(clean, Path(folder), counter, seed, before[counter.sheet])
        print(f"{counter.name:60} {'right' if not false else 'FALSE'} {[f.message for f in false] or ''}", flush=True)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1, sys.argv[2] if len(sys.argv) > 2 else "")
