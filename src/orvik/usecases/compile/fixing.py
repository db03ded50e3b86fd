"""What one click on a finding of the map does."""

from __future__ import annotations

from orvik.core.errors import Stale
from orvik.core.findings.finding import Finding
from orvik.core.findings.fixes import fixed
from orvik.core.geometry.snapping import SnapIndex
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.usecases.compile.features import FeatureEdit, keep_features


def fix_map(project: Project, index: SnapIndex, finding: Finding, seen: int, unit: str | None = None) -> Entry:
    """Fix a finding of the map.

    Parameters
    ----------
    seen
        The revision that it was told at.
    unit
        The unit of a tag that the fix adds.

    Raises
    ------
    FeatureRefused
        It has no fix at one click, or what comes of it cannot be kept.
    Stale
        What it speaks of has changed since it was told.
    """
    if any(project.changed_after(table, number, seen) for table, number in finding.features):
        raise Stale("What this finding speaks of has changed meanwhile; look at the list as it is now.")
    done = fixed(finding, project.feature, unit, project.scales.digitizing)
    return keep_features(project, index, FeatureEdit(done.label, done.kept, done.deleted), project.revision)
