"""An open project as the application holds it: the file, the snap index, and who is looking."""

from __future__ import annotations

import asyncio
import logging
import pickle
from collections.abc import Callable, Coroutine, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any, TypeVar, cast

from ..core.crs import ProjectCrs
from ..core.errors import FeatureRefused, OrvikError, Stale
from ..core.feature import TABLES, Feature, Features, Table
from ..core.forming import Plan
from ..core.ink import Group
from ..core.signs.portray import key_of, portray
from ..core.snap import SnapIndex
from ..exchange import raster, tiling, underlays
from ..store import identity, rows
from ..store.books import book_of
from ..store.geometry import decoded
from ..store.journal import Change, Entry
from ..store.project import Project
from ..store.relocation import relocation
from . import surveyor
from .inkwire import packed
from .surveyor import Told
from .work import Workers, map_ink

REST_SECONDS = 3.0
# How often a page that is open looks for what other programs have written.
WATCH_SECONDS = 1.0
# So many features of one entry are told one by one; of more, pages fetch all anew.
MANY = 2000
EVERYTHING = [
    "lines",
    "areas",
    "points",
    "units",
    "sources",
    "sheets",
    "parts",
    "project",
    "views",
    "kinds",
    "stations",
]
CHANGED_MEANWHILE = (
    "This was changed in another window or by another program meanwhile. It is shown here as it is now; "
    "make your change again."
)
FAILED = "The findings could not be looked up; that is tried again after the next edit. Those shown are older."
LOG = logging.getLogger(__name__)
T = TypeVar("T")
# The layer of the stack that each table's features lie in, and how sentences call it.
LAYER_OF: dict[Table, str] = {"points": "attitudes", "lines": "linework", "areas": "units"}
TABLE_OF: dict[str, Table] = {layer: table for table, layer in LAYER_OF.items()}
LAYER_NAMES = {"attitudes": "Attitudes", "linework": "Linework", "units": "Units"}


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
        self.book = book_of(project)
        self.listeners: set[Listener] = set()
        # Windows that are open, by the name that each keeps for itself.
        self.seats: set[str] = set()
        # What the surveyor told last.
        self.told: Told | None = None
        self._surveying: asyncio.Task[None] | None = None
        self._workers = workers
        self._writing = asyncio.Lock()
        # One thread that does nothing but write, so that saving never waits for reading.
        self._writer = ThreadPoolExecutor(1, thread_name_prefix=f"orvik-write-{slug}")
        # The revision that each row was changed at, and the one at which another program may have changed any.
        self._touched: dict[tuple[str, int], int] = {}
        self._barrier = 0
        self._watching: asyncio.Task[None] | None = None
        self._hold: IO[bytes] | None = None
        self._ink: tuple[int, asyncio.Task[bytes]] | None = None
        self._rest: asyncio.TimerHandle | None = None
        self._stack = project.stack()
        self._background: set[asyncio.Task[None]] = set()

    @staticmethod
    async def open(slug: str, path: Path, workers: Workers) -> Workspace:
        """Open a project and index its features; raises ProjectRefused."""

        def read() -> tuple[Project, SnapIndex, IO[bytes] | None]:
            hold = identity.locked(path)
            project = Project.open(path)
            tiling.forget_unfinished(raster.files_folder(path))
            for source in project.sources():
                # Reckoned here, in a thread, and remembered: the stack asks for it again and again.
                underlays.trouble_with(path, source)
            return project, SnapIndex(project.all_features()), hold

        project, index, hold = await asyncio.to_thread(read)
        workspace = Workspace(slug, project, index, workers)
        workspace._hold = hold
        return workspace

    def close(self) -> None:
        """Let go of the project; pages that are open connect anew."""
        self._tell(Notice({"do": "closed"}, None))
        if self._rest:
            self._rest.cancel()
        for task in self._background:
            task.cancel()
        self._writer.shutdown()
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
                await self.notice_outside()
            except OrvikError as refusal:
                LOG.warning("looking at %s: %s", self.slug, refusal.sentence)
                if self.project.lost:
                    self._tell(Notice(self.state() | {"replaced": refusal.sentence}, None))
                    return

    async def apply(self, label: str, changes: Sequence[Change], based_on: int | None = None) -> Entry:
        """Keep changes as one entry and tell all open pages; returns after commit.

        Parameters
        ----------
        based_on
            The revision that the person saw. If a row has changed since, nothing is kept.

        Raises
        ------
        Stale
            A row was changed meanwhile.
        """
        async with self._writing:
            await self._take_outside()
            if based_on is not None:
                for change in changes:
                    self._refuse_stale(change, based_on)
            return await self._carry_out(lambda: self.project.apply(label, changes))

    async def move_to(self, target: ProjectCrs) -> Entry:
        """Move the whole project into another system; no edit comes between the reckoning and the keeping."""
        async with self._writing:

            def carry_out() -> Entry:
                plan = relocation(self.project, target)
                self.project.forget_drafts()
                return self.project.apply(f"change the coordinate system to {target.label}", plan.changes)

            return await self._carry_out(carry_out)

    async def undo(self) -> Entry:
        async with self._writing:
            return await self._carry_out(self.project.undo)

    async def redo(self) -> Entry:
        async with self._writing:
            return await self._carry_out(self.project.redo)

    async def notice_outside(self) -> None:
        """Take over what another program has written to the file."""
        async with self._writing:
            await self._take_outside()

    async def _take_outside(self) -> None:
        if await self.write(self.project.notice_outside):
            self._barrier = self.project.revision
            await self._take_all_anew()
            self._tell(Notice(self.state() | {"reload": True, "tables": EVERYTHING, "home": self.project.home()}, None))
            self.survey_soon()

    async def _take_all_anew(self) -> None:
        self.index = await asyncio.to_thread(lambda: SnapIndex(self.project.all_features()))
        self.book = book_of(self.project)
        self._stack = self.project.stack()

    async def plan(self) -> tuple[Plan, int, int, int]:
        """What forming units would do, the revision that this is true at, the faces and those without a tag."""
        made: tuple[Plan, int, int, int] = pickle.loads(
            await self._workers.ask_surveyor(surveyor.plan, self.project.path)
        )
        return made

    def survey_soon(self) -> None:
        """Have the findings told to all pages; one look at a time, and another if something changed meanwhile."""
        if not self.listeners or (self._surveying is not None and not self._surveying.done()):
            return
        self._surveying = asyncio.ensure_future(self._tell_findings())
        self._background.add(self._surveying)
        self._surveying.add_done_callback(self._background.discard)

    async def _tell_findings(self) -> None:
        while True:
            try:
                self.told = await self._workers.ask_surveyor(surveyor.survey, self.project.path)
            except Exception:
                # Whatever it is, pages are told that the findings they show are not those of now.
                LOG.exception("findings of %s", self.slug)
                self._tell(Notice({"do": "findings", "failed": FAILED}, None))
                return
            self._tell(Notice(self.told.words, None))
            if self.told.revision >= self.project.revision or not self.listeners:
                return

    def around(self, bounds: tuple[float, float, float, float], tables: frozenset[Table]) -> list[Feature]:
        """Features that a box touches."""
        return [self.project.feature(*key) for key in self.index.within(bounds, tables)]

    def may_touch(self, table: Table) -> bool:
        """Whether a table's layer is neither locked nor hidden."""
        state = self.layer(LAYER_OF[table])
        return state.shown and not state.locked

    def changed_since(self, table: str, row_id: int, revision: int) -> bool:
        """Whether a row was changed after a revision, or another program has written since."""
        return max(self._barrier, self._touched.get((table, row_id), 0)) > revision

    def layer(self, name: str) -> rows.LayerState:
        """How a layer of the stack stands."""
        return self._stack.get(name, rows.LayerState())

    async def set_layer(self, name: str, state: rows.LayerState) -> None:
        """Keep how a layer stands."""
        await self.write(lambda: self.project.set_layer(name, state))
        self._stack[name] = state

    def tables_in_sight(self) -> frozenset[Table]:
        """Tables whose features are seen; what is hidden cannot be touched."""
        return frozenset(table for table, layer in LAYER_OF.items() if self.layer(layer).shown)

    def refuse_locked(self, table: Table) -> None:
        """Raise FeatureRefused if a table's layer is locked or hidden."""
        name = LAYER_OF[table]
        state = self.layer(name)
        if state.locked or not state.shown:
            how = "locked; unlock" if state.locked else "hidden; show"
            raise FeatureRefused(f"{LAYER_NAMES[name]} is {how} it in the stack first.")

    def in_background(self, work: Coroutine[Any, Any, None]) -> None:
        """Carry something out beside all else; it is held until it is done."""
        task = asyncio.ensure_future(work)
        self._background.add(task)
        task.add_done_callback(self._background.discard)

    async def forget_pictures(self) -> None:
        """Tell all open pages that a picture is there again, though nothing in the project has changed."""
        self._tell(Notice(self.state() | {"tables": ["sources"]}, None))

    def refuse_locked_picture(self, source_id: int) -> None:
        """Raise FeatureRefused if an underlay is locked."""
        if self.layer(f"underlay-{source_id}").locked:
            raise FeatureRefused("This underlay is locked; unlock it in the stack first.")

    def state(self) -> dict[str, Any]:
        """What the strip of every page shows."""
        project = self.project
        return {
            "do": "state",
            "revision": project.revision,
            "kept_at": project.kept_at,
            "undo": project.undo_label,
            "redo": project.redo_label,
        }

    async def all_ink(self) -> bytes:
        """All ground ink of the present revision; made once a revision, in a worker."""
        return await asyncio.shield(self.foresee_ink())

    def foresee_ink(self) -> asyncio.Task[bytes]:
        """Begin to make the ink that a page will ask for in a moment."""
        revision = self.project.revision
        if self._ink is None or self._ink[0] != revision or _failed(self._ink[1]):
            task = asyncio.ensure_future(self._workers.run(map_ink, self.project.path))
            task.add_done_callback(_failed)
            self._ink = (revision, task)
        return self._ink[1]

    def ink_of(self, features: Iterable[Feature]) -> dict[str, Group]:
        """The ground ink of a few features."""
        listed = list(features)
        columns: Mapping[Table, Features] = {
            table: Features.of(table, [f for f in listed if f.table == table]) for table in TABLES
        }
        return portray(
            columns,
            self.book,
            self.project.units_by_code(),
            self.project.crs,
            self.project.scales.publication,
        )

    def _refuse_stale(self, change: Change, based_on: int) -> None:
        if change.id is not None and self.changed_since(change.table, change.id, based_on):
            raise Stale(CHANGED_MEANWHILE)

    async def _carry_out(self, write: Callable[[], Entry]) -> Entry:
        revision, crs = self.project.revision, self.project.crs
        entry = await self.write(write)
        self._touched.update({(c.table, c.id): entry.id for c in entry.changes})
        moved = self.project.crs != crs
        features = [c for c in entry.changes if c.table in TABLES]
        if moved or entry.id != revision + 1 or len(features) > MANY:
            # All is new: another system, what another program has written, or more than is told one by one.
            await self._take_all_anew()
            words = {"reload": True, "moved": moved, "tables": EVERYTHING, "home": self.project.home()}
            self._tell(Notice(self.state() | words, None))
            self.survey_soon()
            self._schedule_rest()
            return entry
        if any(change.table == "kinds" for change in entry.changes):
            self.book = book_of(self.project)
        put, gone, keys = [], [], []
        for change in features:
            table = cast(Table, change.table)
            keys.append(key_of(table, change.id))
            if change.after is None:
                gone.append((table, change.id))
            else:
                row = cast(Any, change.after)
                put.append(rows.feature(table, row, decoded(row["geom"])))
        self.index.update(put, gone)
        units = any(change.table in ("units", "project", "kinds") for change in entry.changes)
        ink = None
        if keys and not units:
            ink = packed(self.ink_of(put), _origin(put), entry.id, keys)
        tables = sorted({change.table for change in entry.changes})
        words = self.state() | {"label": entry.label, "kind": entry.kind, "tables": tables, "reload": units}
        if any((row or {}).get("kind") == "border" for c in entry.changes for row in (c.before, c.after)):
            words["home"] = self.project.home()
        self._tell(Notice(words, ink))
        self.survey_soon()
        self._schedule_rest()
        return entry

    def _tell(self, notice: Notice) -> None:
        for listener in list(self.listeners):
            listener(notice)

    def _schedule_rest(self) -> None:
        """Tidy the file when nothing has been written for a while."""
        if self._rest:
            self._rest.cancel()
        loop = asyncio.get_running_loop()
        self._rest = loop.call_later(REST_SECONDS, lambda: self.in_background(self._settle()))

    async def _settle(self) -> None:
        if not await self.write(self.project.checkpoint):
            self._schedule_rest()


def _failed(task: asyncio.Task[bytes]) -> bool:
    """Whether a task ended without a result; also takes note of its error, so that none goes unheard of."""
    return task.done() and (task.cancelled() or task.exception() is not None)


def _origin(features: Sequence[Feature]) -> tuple[float, float]:
    if not features:
        return (0.0, 0.0)
    west, south, _, _ = features[0].geometry.bounds
    return (round(west), round(south))
