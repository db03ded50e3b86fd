"""The survey of a project: its faces, its findings, and what forming units would do, kept up with every edit."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

import numpy as np
import shapely

from orvik.core.arrays import Flags, Ints, Objects
from orvik.core.faces import forming
from orvik.core.faces.forming import Faces
from orvik.core.faces.plan import FormingPlan, Taking, edge_scales, plan
from orvik.core.faces.points_in_areas import PointsInAreas
from orvik.core.faces.reforming import refaced
from orvik.core.faces.shared_rims import SharedRims
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import TABLES, FeatureKey, Table
from orvik.core.findings import single
from orvik.core.findings.areas import overlaps, sides, unsound
from orvik.core.findings.finding import NEAR_MM, CheckInput, Finding
from orvik.core.findings.lines import ends, pairs
from orvik.core.findings.rule import map_checks
from orvik.core.findings.table_checks import TableChecks
from orvik.core.ground.scale import Scales
from orvik.core.structure.map_heights import MapHeights

ORDER = {"error": 0, "warning": 1}


@dataclass(frozen=True)
class SurveyContext:
    """What a survey takes from the project beside its features."""

    units: Mapping[str, MapUnit]
    scales: Scales
    metres_per_unit: float
    bounding: frozenset[str]
    # Kinds that the symbol book has, by table; without them none is looked up.
    kinds: Mapping[Table, frozenset[str]] = field(default_factory=dict)
    # Rows of the file that hold nothing that can be shown: table, number, and what is wrong.
    faults: tuple[tuple[str, int, str], ...] = ()
    # Texts that sheets print, beside notes of features: what each is, and the text.
    texts: tuple[single.PrintedText, ...] = ()
    # Kinds of each table that print the notes of their features.
    noted: Mapping[Table, frozenset[str]] = field(default_factory=dict)
    # What the map stands on; None where no heights are known.
    heights: MapHeights | None = None

    def has_the_ground_of(self, other: SurveyContext) -> bool:
        """Whether faces are the same, and ends of lines meet the same, as where another is asked for."""
        mine, theirs = ((s.scales, s.metres_per_unit, s.bounding) for s in (self, other))
        return mine == theirs

    def judges_like(self, other: SurveyContext) -> bool:
        """Whether what is found of features that nobody has edited is the same: all but texts and faulty rows."""
        mine, theirs = (replace(s, texts=(), faults=()) for s in (self, other))
        return mine == theirs


# What a line would cut off an area is left with it where it is narrower than this on the sheet.
NARROW_MM = 0.1


@dataclass(frozen=True)
class _Change:
    """What an edit has touched: lines as they were and are, points likewise, ids of lines, faces, ids of areas."""

    moved: Objects
    spots: Objects
    edited: set[int | None]
    faces: Flags
    areas: set[int | None]


class Survey:
    """Faces and findings of all features; ``update`` looks again only at what an edit can have changed."""

    def __init__(self, features: Mapping[Table, Features], setting: SurveyContext) -> None:
        both = {table: unsound.parted(features[table]) for table in TABLES}
        self.features = {table: sound for table, (sound, _) in both.items()}
        # What cannot be reckoned with is told of, and left out of everything else.
        self.unsound = {table: rest for table, (_, rest) in both.items()}
        self.setting = setting
        self._rims, self._holding = SharedRims(), PointsInAreas()
        # What was found last, until the next edit.
        self._found: list[Finding] | None = None
        self._begin()

    def _begin(self) -> None:
        self._pieces = forming.pieces_of(self.features["lines"], self.setting.bounding)
        self.frame = frame_of(self.features["lines"])
        self.faces = Faces(np.empty(0, dtype=object))
        # Ends and pairs of lines ask for no faces: they are looked at while these are built, on another processor.
        # That has a frame of its own, because a geometry that is prepared is not for two threads.
        with ThreadPoolExecutor(1) as beside:
            built = beside.submit(forming.faces_of, self._pieces.lines, frame_of(self.features["lines"]))
            ground = self._look()
            self._ends = ends.dangles(ground)
            self._pairs = pairs.pairs(ground)
            self.faces = forming.tagged(built.result(), self.features["points"])
        # Faces that may not have their area yet.
        self._dirty = np.ones(len(self.faces), dtype=bool)
        self._judge()

    def _judge(self) -> None:
        """Find anew what is found of units and faces."""
        self._found = None
        self._checks = TableChecks()
        ground = self._look()
        self._contacts = sides.contacts(ground)
        self._overlaps = overlaps.overlaps(ground)
        self._of_faces = _by_face(self.faces, sides.faces(ground))
        self._notes = {table: self._noted(self.features[table]) for table in TABLES}

    def _noted(self, features: Features) -> list[Finding]:
        return single.noted(features, self.setting.noted.get(features.table, frozenset()))

    def _look(self) -> CheckInput:
        setting = self.setting
        self.ground = CheckInput(
            self.features["lines"],
            self.features["points"],
            self.features["areas"],
            self.faces,
            setting.units,
            setting.scales,
            setting.metres_per_unit,
            setting.bounding,
            self.frame,
            setting.kinds,
            setting.heights,
            self._rims,
            self._holding,
        )
        return self.ground

    @property
    def findings(self) -> list[Finding]:
        """All findings, errors first, then in the order of their rules and places."""
        if self._found is None:
            self._found = self._all_found()
        return self._found

    def _all_found(self) -> list[Finding]:
        found = [
            *self._ends,
            *self._pairs,
            *self._contacts,
            *self._overlaps,
            *(f for fs in self._of_faces for f in fs if f.rule != "untagged" or self._begun),
            *(f for table in TABLES for f in single.coarse(self.ground, self.features[table])),
            *(f for table in TABLES for f in unsound.unsound(self.unsound[table])),
            *single.letters(self.ground, self.setting.texts),
            *(f for notes in self._notes.values() for f in notes),
            *single.faults(self.ground, self.setting.faults),
            *(f for check, tables in map_checks.items() for f in self._checks.found(check, tables, self.ground)),
        ]
        return sorted(found, key=lambda f: (ORDER[f.severity], f.rule, f.features, f.at or ()))

    @property
    def _begun(self) -> bool:
        """Whether anything is there beside the border: the ground within that needs no tag before."""
        lines = self.features["lines"].columns["kind"]
        return any(len(self.features[t]) for t in ("areas", "points")) or any(k != SHEET_BORDER for k in lines)

    def plan(self, whole: Mapping[int, Feature] | None = None, take: bool = False) -> FormingPlan:
        """What forming units would do now; ``whole`` holds areas with all their attributes.

        ``take`` says whether faces take the ground of other units that lies in them.
        """
        rows = np.flatnonzero(self._dirty & ~self._uncertain())
        areas = self.features["areas"]
        faces = Faces(
            self.faces.polygons[rows],
            [self.faces.units[i] for i in rows.tolist()],
            [self.faces.tags[i] for i in rows.tolist()],
        )
        standing: list[int] = []
        if len(rows) < len(self.faces) and len(areas):
            near = np.unique(shapely.STRtree(areas.geometries).query(faces.polygons, predicate="intersects")[1])
            keep = np.zeros(len(areas), dtype=bool)
            keep[near] = True
            areas = areas.select(keep)
            standing = areas.ids[self._standing(areas.geometries)].tolist()
        narrow = self.ground.units_on_ground(NARROW_MM)
        scales = partial(edge_scales, self.features["lines"], self.setting.bounding)
        tags = self.features["points"]
        doubts = tags.columns["questionable"] if len(tags) else []
        doubted = [number for number, doubt in zip(tags.ids.tolist(), doubts, strict=True) if doubt]
        return plan(faces, areas, scales, dict(whole or {}), standing, take, narrow, doubted)

    def _uncertain(self) -> Flags:
        """Faces in which an unsound area may have its ground: they wait until it is sound."""
        out = np.zeros(len(self.faces), dtype=bool)
        boxes: Any = shapely.box(*shapely.bounds(self.unsound["areas"].geometries).reshape(-1, 4).T)
        if len(boxes) and len(self.faces):
            out[np.unique(shapely.STRtree(self.faces.polygons).query(boxes, predicate="intersects")[1])] = True
        return out

    def _standing(self, areas: Objects) -> Flags:
        """Which areas are just those of faces that nothing has changed."""
        clean = self.faces.polygons[~self._dirty]
        neighbours = np.unique(shapely.STRtree(clean).query(areas)[1])
        by_box = {box.tobytes(): face for box, face in zip(shapely.bounds(clean[neighbours]), neighbours, strict=True)}
        faces = np.array([by_box.get(box.tobytes(), -1) for box in shapely.bounds(areas)], dtype=np.int64)
        standing = faces >= 0
        standing[standing] = shapely.equals_exact(clean[faces[standing]], areas[standing])
        return standing

    def formed(self, takings: Sequence[Taking] = ()) -> None:
        """Take note that the plan has been carried out, but for the faces that wait to take ground."""
        self._dirty[:] = self._uncertain()
        if takings and len(self.faces):
            places = shapely.points([taking.at for taking in takings])
            self._dirty[np.unique(shapely.STRtree(self.faces.polygons).query(places, predicate="intersects")[1])] = True

    def update(
        self, kept: Sequence[Feature], deleted: Iterable[FeatureKey] = (), setting: SurveyContext | None = None
    ) -> None:
        """Follow an edit.

        Parameters
        ----------
        kept
            Features added or changed, as they are now.
        deleted
            Features that are no more.
        setting
            Units or scales, where these have changed.
        """
        was = self.setting
        change = self.update_faces(kept, deleted, setting)
        if change is None:
            return
        if self.setting.judges_like(was):
            self._follow_findings(change)
        else:
            self._follow_lines_of(change)
            self._judge()

    def update_faces(
        self, kept: Sequence[Feature], deleted: Iterable[FeatureKey] = (), setting: SurveyContext | None = None
    ) -> _Change | None:
        """The first part of ``update``: features and faces; None where all had to begin anew."""
        deleted = list(deleted)
        before = self.features
        changed = {t: {f.id for f in kept if f.table == t} | {i for u, i in deleted if u == t} for t in TABLES}
        self._found = None
        self.features, held = dict(before), self.unsound
        self.unsound = dict(held)
        for t in TABLES:
            if changed[t]:
                mine, gone = [f for f in kept if f.table == t], [i for u, i in deleted if u == t]
                self.features[t], self.unsound[t] = unsound.patched(before[t], held[t], mine, gone)
        was, self.setting = self.setting, setting or self.setting
        if not self.setting.has_the_ground_of(was):
            self._begin_keeping_clean()
            return None
        lines = [_named(f["lines"], changed["lines"]) for f in (before, self.features)]
        if any(SHEET_BORDER in f.columns["kind"] for f in lines) and self._other_frame():
            self._begin()
            return None
        points = [_named(f["points"], changed["points"]).geometries for f in (before, self.features)]
        areas = [_named(f["areas"], changed["areas"]).geometries for f in (before, self.features)]
        spots = np.concatenate(points)
        again, others = self._retag(self._follow_lines(*lines), spots)
        again |= self._mark_dirty(again, before["areas"], changed["areas"])
        # Where faces are others, or of other units, all of them is touched.
        redone = self.faces.polygons[others]
        moved: dict[Table, Objects] = {
            "lines": np.concatenate([*(f.geometries for f in lines), redone]),
            "areas": np.concatenate(areas),
            "points": np.concatenate([spots, redone]),
        }
        for t in TABLES:
            if changed[t]:
                edited = {single.note_of(t, number) for number in changed[t] if number is not None}
                rest = [f for f in self._notes[t] if f.about not in edited]
                self._notes[t] = rest + self._noted(_named(self.features[t], changed[t]))
                self._checks.touch(t, {number for number in changed[t] if number is not None}, moved[t])
        return _Change(np.concatenate([f.geometries for f in lines]), spots, changed["lines"], again, changed["areas"])

    def _other_frame(self) -> bool:
        frame = frame_of(self.features["lines"])
        return (frame is None) != (self.frame is None) or (frame is not None and not frame.equals(self.frame))

    def _begin_keeping_clean(self) -> None:
        dirty = self._dirty
        self._begin()
        if len(dirty) == len(self._dirty):
            self._dirty = dirty

    def _follow_lines(self, old: Features, new: Features) -> Flags:
        """Build faces again where lines have changed; says which faces are new."""
        if not len(old) and not len(new):
            return np.zeros(len(self.faces), dtype=bool)
        was, now = (forming.pieces_of(f, self.setting.bounding) for f in (old, new))
        self._pieces = self._pieces.patched(np.concatenate([old.ids, new.ids]), now)
        touched = np.concatenate([was.lines, now.lines])
        keep, built = refaced(self.faces.polygons, self._pieces.lines, touched, self.frame)
        rows = np.flatnonzero(keep).tolist()
        self.faces = Faces(
            np.concatenate([self.faces.polygons[keep], built]),
            [self.faces.units[i] for i in rows] + [()] * len(built),
            [self.faces.tags[i] for i in rows] + [()] * len(built),
        )
        self._of_faces = [self._of_faces[i] for i in rows] + [[] for _ in built]
        self._dirty = np.concatenate([self._dirty[keep], np.ones(len(built), dtype=bool)])
        fresh = np.zeros(len(self.faces), dtype=bool)
        fresh[len(rows) :] = True
        return fresh

    def _retag(self, fresh: Flags, spots: Objects) -> tuple[Flags, Flags]:
        """Read the tags again in new faces and where points have changed.

        Returns
        -------
        Which faces these are, and which are new or have other units than before.
        """
        again, others = fresh.copy(), fresh.copy()
        if len(spots) and len(self.faces):
            again[np.unique(shapely.STRtree(self.faces.polygons).query(spots, predicate="intersects")[1])] = True
        rows = np.flatnonzero(again)
        if len(rows):
            faces = forming.tagged(self.faces.polygons[rows], self.features["points"])
            for i, row in enumerate(rows.tolist()):
                others[row] |= self.faces.units[row] != faces.units[i]
                self.faces.units[row], self.faces.tags[row] = faces.units[i], faces.tags[i]
        return again, others

    def _mark_dirty(self, retagged: Flags, areas: Features, changed: set[int | None]) -> Flags:
        """Mark the faces that may not have their area any more; says on which of them areas have changed."""
        self._dirty |= retagged
        beneath = np.zeros(len(self.faces), dtype=bool)
        edited = np.concatenate([_named(areas, changed).geometries, _named(self.features["areas"], changed).geometries])
        if len(edited) and len(self.faces):
            hit = shapely.STRtree(self.faces.polygons).query(edited, predicate="intersects")[1]
            beneath[np.unique(hit)] = True
        self._dirty |= beneath
        return beneath

    def _follow_lines_of(self, change: _Change) -> Ints:
        """Look again at ends and pairs of lines about those that an edit has touched; gives the rows of these lines."""
        ground = self._look()
        near = self._rows_near(change.moved, NEAR_MM)
        ids = set(self.features["lines"].ids[near].tolist()) | change.edited
        self._ends = [f for f in self._ends if f.features[0][1] not in ids] + ends.dangles(ground, near)
        self._pairs = [f for f in self._pairs if not ids & {i for _, i in f.features}] + pairs.pairs(ground, near)
        return near

    def _follow_findings(self, change: _Change) -> None:
        spots, edited, faces = change.spots, change.edited, change.faces
        near = self._follow_lines_of(change)
        ground = self.ground
        if change.areas:
            rows = np.flatnonzero(np.isin(ground.areas.ids, np.array([i for i in change.areas if i], dtype=np.int64)))
            self._overlaps = [f for f in self._overlaps if not change.areas & {i for _, i in f.features}]
            self._overlaps += overlaps.overlaps(ground, rows)
        near = self._follow_lines_of(change)
        rows = np.flatnonzero(faces)
        for row in rows.tolist():
            self._of_faces[row] = []
        for row, found in zip(
            rows.tolist(), _by_face(_subset(self.faces, rows), sides.faces(ground, rows)), strict=True
        ):
            self._of_faces[row] = found
        neighbours = np.union1d(
            self._rows_near(spots, sides.READING_MM), self._rows_near(self.faces.polygons[rows], 0.0)
        )
        neighbours = np.union1d(neighbours, near).astype(np.int64)
        again = set(self.features["lines"].ids[neighbours].tolist()) | edited
        self._contacts = [f for f in self._contacts if f.features[0][1] not in again] + sides.contacts(
            ground, neighbours
        )

    def _rows_near(self, geometries: Objects, sheet_mm: float) -> Ints:
        if not len(geometries) or not len(self.features["lines"]):
            return np.empty(0, dtype=np.int64)
        reach = self.ground.units_on_ground(sheet_mm) + 1e-6
        return np.unique(self.ground.line_tree.query(geometries, predicate="dwithin", distance=reach)[1])


def frame_of(lines: Features) -> shapely.Polygon | None:
    """The ground within the sheet border."""
    rows = [i for i, kind in enumerate(lines.columns["kind"]) if kind == SHEET_BORDER]
    if not rows:
        return None
    ring = lines.geometries[rows[-1]]
    return shapely.Polygon(ring) if ring.is_closed else None


def _named(features: Features, ids: set[int | None]) -> Features:
    return features.select(np.isin(features.ids, np.array(sorted(i for i in ids if i is not None), dtype=np.int64)))


def _subset(faces: Faces, rows: Ints) -> Faces:
    return Faces(faces.polygons[rows])


def _by_face(faces: Faces, findings: list[Finding]) -> list[list[Finding]]:
    """Findings at places within faces, sorted into these."""
    out: list[list[Finding]] = [[] for _ in range(len(faces))]
    if findings:
        points = shapely.points([f.at for f in findings if f.at is not None])
        hits, rows = shapely.STRtree(faces.polygons).query(points, predicate="intersects")
        seen: set[int] = set()
        for hit, row in zip(hits.tolist(), rows.tolist(), strict=True):
            if hit not in seen:
                seen.add(hit)
                out[row].append(findings[hit])
    return out
