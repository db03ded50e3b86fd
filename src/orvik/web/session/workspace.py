"""An open project as the application holds it: the file, the snap index, and who is looking."""

from __future__ import annotations

import asyncio
import logging
import math
import pickle
from collections.abc import Callable, Coroutine, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any, Concatenate, ParamSpec, TypeVar, cast

from orvik.core.coordinates import GroundXY
from orvik.core.drawing.drawing import stepped
from orvik.core.errors import FeatureRefused, OrvikError
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.table import TABLES, Table
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.ground.coordinates import format_angle, format_grid
from orvik.core.ink.primitives import Group, Item
from orvik.core.labels.label_requests import Written
from orvik.core.labels.labelled import labelled
from orvik.core.structure.section.section import SectionOfMap
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.portrayal.ink_keys import key_of
from orvik.core.symbols.portrayal.portray import portray
from orvik.exchange.rasters import raster, tiling
from orvik.store import identity, rows
from orvik.store.geometry import decoded
from orvik.store.journal import JOURNALED, Entry
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.store.rows import LayerState
from orvik.store.tables.labels import label_rules
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.feature_table.listing import Listings
from orvik.usecases.compile.forming import FormingReport
from orvik.usecases.compile.layers import refuse_locked, tables_in_sight
from orvik.usecases.ground import underlay_views
from orvik.web.session import survey_process
from orvik.web.session.held_plane import HeldPlane
from orvik.web.session.ink_wire import packed
from orvik.web.session.jobs import WrittenMap, map_ink, written_map
from orvik.web.session.latest import Dated, Latest
from orvik.web.session.proof_notes import ProofNotes
from orvik.web.session.section_space import SectionSpace
from orvik.web.session.space import Beside
from orvik.web.session.staleness import BOOK, INK, MAP, PRINTED, stale_after
from orvik.web.session.survey_process import SurveyReport
from orvik.web.session.workers import Workers
from orvik.web.session.write_log import WriteLog

# How long to wait for another change before labels are placed; and of the time that they took.
LABEL_REST_SECONDS, LABEL_REST_SHARE = 0.25, 1.0
# What is under the hand of who edits is drawn first.
SURVEY_REST_SECONDS = 0.15
# How often a page that is open looks for what other programs have written.
WATCH_SECONDS = 1.0
# So many features of one entry are told one by one; of more, pages fetch all anew.
MOST_PATCHED = 2000
EVERYTHING = sorted(JOURNALED)
UNLABELLED = "The labels could not be placed; that is tried again after the next edit. Those shown are older."
FAILED = "The findings could not be looked up; that is tried again after the next edit. Those shown are older."
LOG = logging.getLogger(__name__)
P = ParamSpec("P")
T = TypeVar("T")


@dataclass(frozen=True)
class Notice:
    """What open pages are told after a change: the words, and the ink that has changed."""

    words: dict[str, Any]
    ink: bytes | None


# Takes a notice without waiting: what a page cannot take in time is the page's own affair.
Listener = Callable[[Notice], None]


class Workspace:
    """One project in use. All methods run on the event loop; the file is written in a thread."""

    def __init__(self, slug: str, project: Project, index: SnapIndex, workers: Workers) -> None:
        self.slug = slug
        self.project = project
        self.index = index
        self.book = symbol_book_of(project)
        # The revision of the last change of anything but sheets and their parts: what panels show is of then.
        self.map_revision = project.revision
        # The revision of the last change of anything that is printed: all but what is said of findings.
        self.printed_revision = project.revision
        self.listeners: set[Listener] = set()
        # Windows that are open, by the name that each keeps for itself.
        self.window_ids: set[str] = set()
        self._workers = workers
        self._writing = asyncio.Lock()
        # One thread that does nothing but write, so that saving never waits for reading.
        self._writer = ThreadPoolExecutor(1, thread_name_prefix=f"orvik-write-{slug}")
        self._watching: asyncio.Task[None] | None = None
        self._hold: IO[bytes] | None = None
        self.ink = Latest(f"ink of {slug}", self._map_ink, self._revision)
        self.labels = Latest(f"labels of {slug}", self._labels, self._revision, LABEL_REST_SECONDS, LABEL_REST_SHARE)
        self.survey = Latest(f"findings of {slug}", self._survey, self._revision, SURVEY_REST_SECONDS)
        self.proof = ProofNotes(project, workers, lambda: self.printed_revision)
        # What the tables of features list, in the windows that are open.
        self.listings = Listings()
        # The planes whose traces the windows that are open show, by their names.
        self.planes: dict[str, HeldPlane] = {}
        # The sections that windows have opened, by the numbers of their lines.
        self.sections: dict[int, SectionSpace] = {}
        self._stack = project.stack()
        self._background: set[asyncio.Task[None]] = set()
        self.log = WriteLog(project, self.write, self.in_background, lambda: self._tell(Notice(self.state(), None)))

    @staticmethod
    async def open(slug: str, path: Path, workers: Workers) -> Workspace:
        """Open a project and index its features; raises ProjectRefused."""

        def read() -> tuple[Project, SnapIndex, IO[bytes] | None]:
            hold = identity.locked(path)
            # What cannot be opened after all is let go of again.
            with ExitStack() as given_up:
                if hold is not None:
                    given_up.callback(hold.close)
                project = Project.open(path)
                given_up.callback(project.close)
                tiling.forget_unfinished(raster.files_folder(path))
                for source in project.sources():
                    # Reckoned here, in a thread, and remembered: the stack asks for it again and again.
                    underlay_views.trouble_with(path, source)
                made = project, SnapIndex(project.all_features()), hold
                given_up.pop_all()
            return made

        project, index, hold = await asyncio.to_thread(read)
        workspace = Workspace(slug, project, index, workers)
        workspace._hold = hold
        return workspace

    def close(self) -> None:
        """Let go of the project; pages that are open connect anew."""
        self._tell(Notice({"do": "closed"}, None))
        self.log.cancel()
        for told in (self.labels, self.survey):
            told.cancel()
        for task in self._background:
            task.cancel()
        self._writer.shutdown()
        for section in self.sections.values():
            section.close()
        self.project.close()
        if self._hold:
            self._hold.close()

    async def write(self, work: Callable[[], T]) -> T:
        """Carry out something on the project file in the thread that writes."""
        return await asyncio.get_running_loop().run_in_executor(self._writer, work)

    def listen(self, listener: Listener) -> None:
        """Have a page told of changes, those of other programs among them."""
        self.listeners.add(listener)
        if self._watching is None or self._watching.done():
            self._watching = asyncio.ensure_future(self._watch())
            self._background.add(self._watching)
            self._watching.add_done_callback(self._background.discard)

    async def _watch(self) -> None:
        """Look now and then whether another program has written to the file, for as long as a page is open."""
        while self.listeners:
            await asyncio.sleep(WATCH_SECONDS)
            try:
                await self.detect_external_write()
            except OrvikError as refusal:
                LOG.warning("looking at %s: %s", self.slug, refusal.sentence)
                if self.project.lost:
                    self._tell(Notice(self.state() | {"replaced": refusal.sentence}, None))
                    return

    async def carry_out(
        self, use_case: Callable[Concatenate[Project, P], T], /, *args: P.args, **options: P.kwargs
    ) -> T:
        """Carry out a use case on the project, one at a time, and tell all open pages; returns after commit.

        Parameters
        ----------
        use_case
            What changes the project; it makes one entry at the most.
        """
        async with self._writing:
            await self._take_outside()
            revision, crs = self.project.revision, self.project.crs
            outcome = await self.write(lambda: use_case(self.project, *args, **options))
            if self.project.revision != revision and self.project.latest is not None:
                await self._follow(self.project.latest, revision, self.project.crs != crs)
            return outcome

    async def detect_external_write(self) -> None:
        """Take over what another program has written to the file."""
        async with self._writing:
            await self._take_outside()

    async def _take_outside(self) -> None:
        if await self.write(self.project.detect_external_write):
            await self._take_all_anew()
            self._tell(Notice(self.state() | {"reload": True, "tables": EVERYTHING, "home": self.project.home()}, None))
            self.survey_soon()
            self.label_soon()

    async def _take_all_anew(self) -> None:
        self.index = await asyncio.to_thread(_index_of, self.project.path)
        self.book = symbol_book_of(self.project)
        self.map_revision = self.printed_revision = self.project.revision
        self._stack = self.project.stack()
        for section in self.sections.values():
            section.take_all_anew()

    def _revision(self) -> int:
        return self.project.revision

    async def _map_ink(self) -> Dated[bytes]:
        revision = self.project.revision
        return Dated(revision, await self._workers.run(map_ink, self.project.path))

    async def _labels(self) -> Dated[WrittenMap]:
        written = await self._workers.run(written_map, self.project.path)
        return Dated(written.revision, written)

    async def _survey(self) -> Dated[SurveyReport]:
        report = await self._workers.survey(survey_process.survey, self.project.path)
        return Dated(report.revision, report)

    async def forming_report(self) -> FormingReport:
        """What forming units would do, and the revision that this is true at."""
        report: FormingReport = pickle.loads(await self._workers.survey(survey_process.plan, self.project.path))
        return report

    def label_soon(self) -> None:
        """Have the labels placed anew and told to all pages."""

        def told(written: WrittenMap) -> None:
            self._tell(Notice({"do": "labels", "revision": written.revision}, written.ink))
            self._tell_findings_again()

        failed = Notice({"do": "labels", "failed": UNLABELLED}, None)
        self.labels.tell_soon(told, lambda: self._tell(failed), lambda: bool(self.listeners))

    async def all_labels(self) -> bytes:
        """All labels of the present revision as ground ink."""
        written = await self.labels.get()
        if written.findings:
            self._tell_findings_again()
        return written.ink

    def findings_message(self, report: SurveyReport) -> dict[str, Any]:
        """What pages are told of findings: those of the survey, and labels without room."""
        return report.with_more(self.labels.value.findings if self.labels.value else ()).message

    def survey_soon(self) -> None:
        """Have the findings told to all pages."""

        def told(report: SurveyReport) -> None:
            self._tell(Notice(self.findings_message(report), None))

        failed = Notice({"do": "findings", "failed": FAILED}, None)
        self.survey.tell_soon(told, lambda: self._tell(failed), lambda: bool(self.listeners))

    def _tell_findings_again(self) -> None:
        """The last findings with the labels of now; those of a new survey are told when it is done."""
        if self.survey.value is not None:
            self._tell(Notice(self.findings_message(self.survey.value), None))

    def around(self, bounds: tuple[float, float, float, float], tables: frozenset[Table]) -> list[Feature]:
        """Features that a box touches."""
        return [self.project.feature(*key) for key in self.index.within(bounds, tables)]

    def beside(self, window_id: str) -> Beside | None:
        """The trace of the plane that a window shows."""
        return self.planes.get(window_id)

    def refuse_pen(self, pen: Pen) -> None:
        """Raise FeatureRefused for a pen whose layer is locked or hidden."""
        refuse_locked(self._stack, pen.table)

    def place_words(self, x: float, y: float) -> str:
        """A place on the grid and in degrees."""
        crs = self.project.crs
        longitude, latitude = crs.to_geographic(x, y)
        if not (math.isfinite(longitude) and math.isfinite(latitude)):
            return format_grid(x, y)
        degrees = f"{format_angle(float(latitude), 'latitude')} {format_angle(float(longitude), 'longitude')}"
        return f"{format_grid(x, y)} · {degrees}"

    def stepped(self, place: GroundXY, degrees: float, metres: float) -> GroundXY:
        """The place at a bearing from true north and a distance on the ground."""
        return stepped(self.project.crs, place, degrees, metres)

    def dip_courses(self, place: GroundXY) -> tuple[tuple[float, ...], str]:
        """A map has no dips in its plane."""
        raise FeatureRefused("Dips are followed on sections; open one under the map.")

    def section(self, line_id: int, found: SectionOfMap) -> SectionSpace:
        """A section to draw on, as the map has it now."""
        held = self.sections.get(line_id)
        if held is None:
            held = self.sections[line_id] = SectionSpace(self.project, self, line_id, found)
        else:
            held.take(found)
        return held

    @property
    def stack(self) -> Mapping[str, LayerState]:
        """How each layer of the stack stands."""
        return self._stack

    async def set_layer(self, name: str, state: LayerState) -> None:
        """Keep how a layer stands."""
        await self.write(lambda: self.project.set_layer(name, state))
        self._stack[name] = state

    def tables_in_sight(self) -> frozenset[Table]:
        """Tables whose features are seen; what is hidden cannot be touched."""
        return tables_in_sight(self._stack)

    def in_background(self, work: Coroutine[Any, Any, None]) -> None:
        """Carry something out beside all else; it is held until it is done."""
        task = asyncio.ensure_future(work)
        self._background.add(task)
        task.add_done_callback(self._background.discard)

    async def forget_pictures(self) -> None:
        """Tell all open pages that a picture is there again, though nothing in the project has changed."""
        self._tell(Notice(self.state() | {"tables": ["sources"]}, None))

    def state(self) -> dict[str, Any]:
        """What the strip of every page shows."""
        project = self.project
        return {
            "do": "state",
            "revision": project.revision,
            "saved_at": project.saved_at,
            "undo": project.undo_label,
            "redo": project.redo_label,
            "held": self.log.held,
        }

    def ink_of(self, features: Iterable[Feature]) -> dict[str, Group]:
        """The ground ink of a few features."""
        listed = list(features)
        columns: Mapping[Table, Features] = {
            table: Features.of(table, [f for f in listed if f.table == table]) for table in TABLES
        }
        units, publication = self.project.units_by_code(), self.project.scales.publication
        return portray(columns, self.book, units, self.project.crs, publication)

    def symbol_ink(self, point: Feature) -> list[Item]:
        """The ground ink of a point by itself, with what is written beside it."""
        layers = self.ink_of([point])
        columns: Mapping[Table, Features] = {"points": Features.of("points", [point])}
        project = self.project
        written = Written(self.book, project.units_by_code(), project.crs, label_rules(project))
        written_beside = labelled(columns, layers, written, project.scales.publication).layers["figures"]
        return [*layers["attitudes"].items, *written_beside.items]

    async def _follow(self, entry: Entry, revision: int, moved: bool) -> None:
        """Take over an entry that was written, and tell all open pages."""
        features = [c for c in entry.changes if c.table in TABLES]
        stale = stale_after({change.table for change in entry.changes})
        if MAP in stale:
            self.map_revision = entry.id
        if PRINTED in stale:
            self.printed_revision = entry.id
        if moved or entry.id != revision + 1 or len(features) > MOST_PATCHED:
            # All is new: another system, what another program has written, or more than is told one by one.
            await self._take_all_anew()
            words = {"reload": True, "moved": moved, "tables": EVERYTHING, "home": self.project.home()}
            self._tell(Notice(self.state() | words, None))
            self.survey_soon()
            self.label_soon()
            self.log.written()
            return
        if BOOK in stale:
            self.book = symbol_book_of(self.project)
        kept, deleted, keys = [], [], []
        for change in features:
            table = cast(Table, change.table)
            keys.append(key_of(table, change.id))
            if change.after is None:
                deleted.append((table, change.id))
            else:
                row = cast(Any, change.after)
                kept.append(rows.feature(table, row, decoded(row["geom"])))
        self.index.update(kept, deleted)
        for section in self.sections.values():
            section.follow(entry)
        ink = None
        if keys and INK not in stale:
            ink = packed(self.ink_of(kept), _origin(kept), entry.id, keys)
        tables = sorted({change.table for change in entry.changes})
        words = self.state() | {"label": entry.label, "kind": entry.kind, "tables": tables, "reload": INK in stale}
        if any((row or {}).get("kind") == SHEET_BORDER for c in entry.changes for row in (c.before, c.after)):
            words["home"] = self.project.home()
        self._tell(Notice(words, ink))
        self.survey_soon()
        self.label_soon()
        self.log.written()

    def _tell(self, notice: Notice) -> None:
        for listener in list(self.listeners):
            listener(notice)


def _index_of(path: Path) -> SnapIndex:
    """All features of a project file, read past the one that is open, which answers pointers meanwhile."""
    with opened_for_reading(path) as project:
        return SnapIndex(project.all_features())


def _origin(features: Sequence[Feature]) -> tuple[float, float]:
    if not features:
        return (0.0, 0.0)
    west, south, _, _ = features[0].geometry.bounds
    return (round(west), round(south))
