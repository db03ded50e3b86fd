"""What checks find in whole tables, looked at again only where an edit can have changed it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from orvik.core.arrays import Flags, Ints, Objects
from orvik.core.faces.forming import Faces
from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of
from orvik.core.features.table import Table
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.rule import MapCheck, Reach, alone, reaches
from orvik.core.geometry.nodes import NODE

# Where edits have touched more than so many of the features that a check judges, all of the map is looked at again.
MOST_NEAR = 2000
# So many edits are remembered; then all is looked at again, once.
MOST_EDITS = 1000


@dataclass(frozen=True)
class _Told:
    """What a check has found: the tables and heights that it has looked at, and how many edits there were."""

    asked: tuple[object, ...]
    findings: list[Finding]
    edits: int


class TableChecks:
    """The findings of the checks of whole tables, kept until one of these, or the heights, are others."""

    def __init__(self) -> None:
        self._told: dict[MapCheck, _Told] = {}
        # What edits have touched: the table, the numbers of features, and the ground.
        self._touched: list[tuple[Table, set[int], Objects]] = []

    def touch(self, table: Table, numbers: set[int], where: Objects) -> None:
        """Take note of an edit: the features that it changed, and the ground of these before and now."""
        if len(self._touched) >= MOST_EDITS:
            self._touched.clear()
            self._told.clear()
        self._touched.append((table, numbers, where))

    def found(self, check: MapCheck, tables: Sequence[Table], ground: CheckInput) -> list[Finding]:
        """What a check finds: looked at again only where it must be, near edits where its verdicts reach no further.

        Parameters
        ----------
        tables
            Those that it looks at.
        """
        held_tables = {"lines": ground.lines, "areas": ground.areas, "points": ground.points}
        asked = (*(held_tables[table] for table in tables), ground.heights)
        held = self._told.get(check)
        if held is None or any(one is not other for one, other in zip(held.asked, asked, strict=True)):
            found = check(ground) if held is None else self._again(held, check, tables, ground)
            held = self._told[check] = _Told(asked, found, len(self._touched))
        return held.findings

    def _again(self, held: _Told, check: MapCheck, tables: Sequence[Table], ground: CheckInput) -> list[Finding]:
        """What a check finds after edits."""
        if check in alone:
            return self._edited_alone(held, check, ground)
        reach = reaches.get(check)
        near = self._near_edits(held, tables, reach, ground) if reach is not None else None
        if near is None:
            return check(ground)
        judged, beside = near
        told = [f for f in check(beside) if f.features[0][1] in judged]
        return [f for f in held.findings if f.features[0][1] not in judged] + told

    def _edited_alone(self, held: _Told, check: MapCheck, ground: CheckInput) -> list[Finding]:
        """What a check finds that judges each feature by itself, once the edited ones are judged again."""
        edited = {(table, number) for table, numbers, _ in self._touched[held.edits :] for number in numbers}
        found = [f for f in held.findings if f.features[0] not in edited]
        some = {
            table: _numbered(features, {number for of, number in edited if of == table})
            for table, features in (("lines", ground.lines), ("areas", ground.areas), ("points", ground.points))
        }
        return found + check(replace(ground, lines=some["lines"], areas=some["areas"], points=some["points"]))

    def _near_edits(
        self, held: _Told, tables: Sequence[Table], reach: Reach, ground: CheckInput
    ) -> tuple[set[int], CheckInput] | None:
        """The features that a check may judge otherwise since, and the map about them; None where these are many.

        The numbers of features that are gone are among them.
        """
        touched = [one for one in self._touched[held.edits :] if one[0] in tables]
        metres = ground.units_on_ground(reach.mm) + NODE
        changed = {number for table, numbers, _ in touched if table == reach.table for number in numbers}
        places = np.concatenate([where for _, _, where in touched]) if touched else np.empty(0, dtype=object)
        judged, tree = (
            (ground.lines, ground.line_tree) if reach.table == "lines" else (ground.points, ground.point_tree)
        )
        near = np.unique(tree.query(places, predicate="dwithin", distance=metres)[1])
        near = np.union1d(near, np.flatnonzero(np.isin(judged.ids, sorted(changed)))).astype(np.int64)
        rows = [row for row in near.tolist() if reach.judges(kind_of(str(judged.columns["kind"][row])))]
        if len(rows) > MOST_NEAR:
            return None
        boxes = _boxes_about(judged.geometries[rows], metres)

        def about(tree: shapely.STRtree) -> Ints:
            return np.unique(tree.query(boxes)[1])

        def some(features: Features, tree: shapely.STRtree) -> Features:
            return features.select(_flags(about(tree), len(features)))

        held_faces, faces = ground.faces, about(ground.face_tree).tolist() if "areas" in tables else []
        beside = replace(
            ground,
            lines=some(ground.lines, ground.line_tree) if "lines" in tables else ground.lines,
            areas=some(ground.areas, ground.area_tree) if "areas" in tables else ground.areas,
            points=some(ground.points, ground.point_tree) if reach.table == "points" else ground.points,
            faces=Faces(
                held_faces.polygons[faces],
                [held_faces.units[i] for i in faces],
                [held_faces.tags[i] for i in faces],
            ),
        )
        return changed | set(judged.ids[rows].tolist()), beside


def _boxes_about(geometries: Objects, reach: float) -> Objects:
    """Boxes that hold what lies near lines or points, edge by edge: that of a long line would hold half the map."""
    xy, of = shapely.get_coordinates(geometries, return_index=True)
    edges = of[1:] == of[:-1]
    low, high = (np.array(pick(xy[:-1], xy[1:]))[edges] for pick in (np.minimum, np.maximum))
    single = np.bincount(of, minlength=len(geometries))[of] == 1
    low, high = np.concatenate([low, xy[single]]), np.concatenate([high, xy[single]])
    return np.asarray(shapely.box(*(low - reach).T, *(high + reach).T), dtype=object).reshape(-1)


def _numbered(features: Features, numbers: set[int]) -> Features:
    """Features by their numbers; those that are gone are none."""
    wanted = np.array(sorted(numbers), dtype=np.int64)
    rows = np.searchsorted(features.ids, wanted)
    there = rows < len(features)
    there[there] = features.ids[rows[there]] == wanted[there]
    return features.select(_flags(rows[there], len(features)))


def _flags(rows: Ints, count: int) -> Flags:
    out = np.zeros(count, dtype=bool)
    out[rows] = True
    return out
