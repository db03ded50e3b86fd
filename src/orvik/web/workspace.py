"""An open project as the application holds it: the file, the snap index, and who is looking."""

from __future__ import annotations

import asyncio
import logging
import pickle
from collections.abc import Awaitable, Callable, Coroutine, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, cast

from ..core.crs import ProjectCrs
from ..core.errors import FeatureRefused, Stale
from ..core.feature import TABLES, Feature, Features, Table
from ..core.forming import Plan
from ..core.ink import Group
from ..core.signs.portray import key_of, portray
from ..core.snap import SnapIndex
from ..exchange import raster, tiling, underlays
from ..store import rows
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
FAILED = "The findings could not be looked up; that is tried again after the next edit. Those shown are older."
LOG = logging.getLogger(__name__)
# The layer of the stack that each table's features lie in, and how sentences call it.
LAYER_OF: dict[Table, str] = {"points": "attitudes", "lines": "linework", "areas": "units"}
TABLE_OF: dict[str, Table] = {layer: table for table, layer in LAYER_OF.items()}
LAYER_NAMES = {"attitudes": "Attitudes", "linework": "Linework", "units": "Units"}


@dataclass(frozen=True)
class Notice:
    """What open pages are told after a change: the words, and the ink that has changed."""

    words: dict[str, Any]
    ink: bytes | None


Listener = Callable[[Notice], Awaitable[None]]


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
        self._touched: dict[int, int] = {}
        self._ink: tuple[int, asyncio.Task[bytes]] | None = None
        self._rest: asyncio.TimerHandle | None = None
        self._stack = project.stack()
        self._background: set[asyncio.Task[None]] = set()

    @staticmethod
    async def open(slug: str, path: Path, workers: Workers) -> Workspace:
        """Open a project and index its features; raises ProjectRefused."""

        def read() -> tuple[Project, SnapIndex]:
            project = Project.open(path)
            tiling.forget_unfinished(raster.files_folder(path))
            for source in project.sources():
                # Reckoned here, in a thread, and remembered: the stack asks for it again and again.
                underlays.trouble_with(path, source)
            return project, SnapIndex(project.all_features())

        project, index = await asyncio.to_thread(read)
        return Workspace(slug, project, index, workers)

    def close(self) -> None:
        if self._rest:
            self._rest.cancel()
        for task in self._background:
            task.cancel()
        self.project.close()

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
            if await asyncio.to_thread(self.project.notice_outside):
                self.index = await asyncio.to_thread(lambda: SnapIndex(self.project.all_features()))
                await self._tell(Notice(self.state() | {"reload": True}, None))

    async def plan(self) -> tuple[Plan, int]:
        """What forming units would do, and the revision that this is true at."""
        made: tuple[Plan, int] = pickle.loads(await self._workers.ask_surveyor(surveyor.plan, self.project.path))
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
                await self._tell(Notice({"do": "findings", "failed": FAILED}, None))
                return
            await self._tell(Notice(self.told.words, None))
            if self.told.revision >= self.project.revision or not self.listeners:
                return

    def around(self, bounds: tuple[float, float, float, float], tables: frozenset[Table]) -> list[Feature]:
        """Features that a box touches."""
        return [self.project.feature(*key) for key in self.index.within(bounds, tables)]

    def may_touch(self, table: Table) -> bool:
        """Whether a table's layer is neither locked nor hidden."""
        state = self.layer(LAYER_OF[table])
        return state.shown and not state.locked

    def changed_since(self, table: Table, feature_id: int, revision: int) -> bool:
        """Whether a feature was changed after a revision."""
        return self._touched.get(key_of(table, feature_id), 0) > revision

    def layer(self, name: str) -> rows.LayerState:
        """How a layer of the stack stands."""
        return self._stack.get(name, rows.LayerState())

    async def set_layer(self, name: str, state: rows.LayerState) -> None:
        """Keep how a layer stands."""
        await asyncio.to_thread(self.project.set_layer, name, state)
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
        await self._tell(Notice(self.state() | {"tables": ["sources"]}, None))

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
            columns, self.book, self.project.units_by_code(), self.project.crs,
            self.project.scales.publication,
        )  # fmt: skip

    def _refuse_stale(self, change: Change, based_on: int) -> None:
        if change.id is None or change.table not in TABLES:
            return
        table = change.table
        if self.changed_since(table, change.id, based_on):
            raise Stale(
                "This feature was changed in another window meanwhile. It is shown here as it is now; "
                "make your change again."
            )

    async def _carry_out(self, write: Callable[[], Entry]) -> Entry:
        revision, crs = self.project.revision, self.project.crs
        entry = await asyncio.to_thread(write)
        moved = self.project.crs != crs
        if moved or entry.id != revision + 1:
            # All is new: another coordinate system, or a barrier because another program has changed the file.
            self.index = await asyncio.to_thread(lambda: SnapIndex(self.project.all_features()))
            self._touched.update(
                {key_of(c.table, c.id): entry.id for c in entry.changes if c.table in TABLES}
            )
            await self._tell(Notice(self.state() | {"reload": True, "moved": moved}, None))
            return entry
        if any(change.table == "kinds" for change in entry.changes):
            self.book = book_of(self.project)
        put, gone, keys = [], [], []
        for change in entry.changes:
            if change.table not in TABLES:
                continue
            table = change.table
            key = key_of(table, change.id)
            keys.append(key)
            self._touched[key] = entry.id
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
        await self._tell(Notice(words, ink))
        self.survey_soon()
        self._schedule_rest()
        return entry

    async def _tell(self, notice: Notice) -> None:
        for listener in list(self.listeners):
            await listener(notice)

    def _schedule_rest(self) -> None:
        """Tidy the file when nothing has been written for a while."""
        if self._rest:
            self._rest.cancel()
        loop = asyncio.get_running_loop()
        self._rest = loop.call_later(
            REST_SECONDS, lambda: loop.run_in_executor(None, self.project.checkpoint)
        )


def _failed(task: asyncio.Task[bytes]) -> bool:
    """Whether a task ended without a result; also takes note of its error, so that none goes unheard of."""
    return task.done() and (task.cancelled() or task.exception() is not None)


def _origin(features: Sequence[Feature]) -> tuple[float, float]:
    if not features:
        return (0.0, 0.0)
    west, south, _, _ = features[0].geometry.bounds
    return (round(west), round(south))
