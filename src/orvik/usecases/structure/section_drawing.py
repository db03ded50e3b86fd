"""What is drawn on a section: its units formed, and made to follow the map."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import BOUNDING, SHEET_BORDER, UNIT_TAG
from orvik.core.findings.survey import Survey, SurveyContext
from orvik.core.structure.section.below import Below
from orvik.core.structure.section.meeting import meeting_places, parted
from orvik.core.structure.section.moved import moved_to_map
from orvik.core.structure.section.section import SectionOfMap
from orvik.store import rows
from orvik.store.changeable import Changeable
from orvik.store.journal import Change, Entry
from orvik.usecases.compile.forming import Formed, plan_changes

# What the section is framed by is no feature of it.
FRAME_ID = 0
# What the map says of a unit at the ground stands so far below it, in metres.
JUST_BELOW = 0.05


def section_survey(project: Changeable, found: SectionOfMap) -> Survey:
    """The faces of a section between its lines, the ground and its frame, with the units of their tags.

    The map is a tag, too: a face takes the unit that the map has where it comes to the ground.
    """
    features = project.all_features()
    ring = shapely.LineString(Below(found).whole.exterior.coords)
    features["lines"] = features["lines"].patched([Feature("lines", ring, SHEET_BORDER, id=FRAME_ID)], [])
    features["points"] = features["points"].patched(_tags_of_map(found), [])
    return Survey(features, SurveyContext(project.units_by_code(), project.scales, 1.0, BOUNDING))


def _tags_of_map(found: SectionOfMap) -> list[Feature]:
    below = Below(found)
    units = [stretch for stretch in found.stretches if stretch.unit]
    middles = np.array([(stretch.begins + stretch.ends) / 2 for stretch in units])
    ups = np.interp(middles, *below.ground.T) - JUST_BELOW if len(units) else middles
    return [
        Feature("points", shapely.Point(along, up), UNIT_TAG, id=-number, map_unit=stretch.unit)
        for number, (stretch, along, up) in enumerate(zip(units, middles.tolist(), ups.tolist(), strict=True), 1)
    ]


def _plan(project: Changeable, survey: Survey) -> list[Change]:
    whole = project.whole("areas", survey.features["areas"].ids.tolist())
    return plan_changes(project, survey.plan(whole, take=True))


def form_section(project: Changeable, found: SectionOfMap) -> Formed | None:
    """Form the units of a section from its lines, its tags and the map above, in one entry; None where nothing changes.

    Raises
    ------
    FeatureRefused
        The areas would not make a sound coverage, or no line is drawn yet.
    """
    if not project.count("lines"):
        raise FeatureRefused("Nothing is drawn on this section yet; draw its contacts from the crossings down.")
    changes = _plan(project, section_survey(project, found))
    if not changes:
        return None
    project.apply(f"form units of section {found.title}", changes)
    new = sum(1 for change in changes if change.id is None)
    gone = sum(1 for change in changes if change.values is None)
    return Formed(new, len(changes) - new - gone, gone)


def follow_map(project: Changeable, found: SectionOfMap) -> Entry | None:
    """Let what is drawn on a section follow the map, with its units, in one entry; None where all meets.

    Raises
    ------
    FeatureRefused
        A line would cross itself, or the areas would not fit together; nothing is changed.
    """
    lines = project.whole("lines", project.features("lines").ids.tolist())
    moved = moved_to_map(lines, parted(found.ends_put, meeting_places(found)))
    if not moved:
        return None
    for line in moved:
        if not line.geometry.is_simple:
            raise FeatureRefused(f"{line.name.capitalize()} would cross itself; move its end by hand.")
    survey = section_survey(project, found)
    formed = len(survey.features["areas"]) > 0
    survey.update(moved)
    changes: Sequence[Change] = rows.feature_changes(moved, project.srs_id)
    return project.apply(
        f"follow the map in section {found.title}", [*changes, *(_plan(project, survey) if formed else ())]
    )
