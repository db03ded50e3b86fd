"""The project folder: its projects, and those that are open."""

from __future__ import annotations

import asyncio
import logging
import re
from dataclasses import dataclass
from pathlib import Path

from slugify import slugify

from orvik.core.errors import NotFound, OrvikError, ProjectRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.core.sheet.page.part import Part
from orvik.exchange.rasters import grids
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.usecases.ground.border import Corners
from orvik.usecases.project.project import create_project
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace

LONGEST_SLUG = 60
# The name of a project file as an address can hold it.
SLUG = re.compile(r"[A-Za-z0-9_-]{1,200}")
LOG = logging.getLogger(__name__)


@dataclass(frozen=True)
class ProjectCard:
    """What the home page shows of a project; ``trouble`` says why it cannot be opened."""

    slug: str
    name: str
    saved_at: str | None = None
    crs: str = ""
    publication: int = 0
    revision: int = 0
    sheet_id: int | None = None
    sheet_name: str = ""
    sheet_size: tuple[float, float] = (297.0, 210.0)
    # What stands for the sheet until its picture is drawn: the frames of its parts.
    frames: tuple[Part, ...] = ()
    trouble: str = ""


class ProjectFolder:
    """The projects of one folder."""

    def __init__(self, folder: Path, workers: Workers) -> None:
        self.folder = folder
        self.workers = workers
        self._open: dict[str, Workspace] = {}
        self._opening = asyncio.Lock()
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise ProjectRefused(
                f"The folder {folder.name} cannot be made ({error.strerror}); choose another with --data."
            ) from error
        grids.use_folder(folder)

    def path(self, slug: str) -> Path:
        """The file of a project; raises NotFound."""
        if not SLUG.fullmatch(slug):
            raise NotFound("There is no such project here.")
        path = self.folder / f"{slug}.gpkg"
        if not path.is_file():
            raise NotFound(f"There is no project “{slug}” here.")
        return path

    async def workspace(self, slug: str) -> Workspace:
        """A project, opened at its first use."""
        found = self._open.get(slug)
        if found is None or found.project.lost:
            async with self._opening:
                found = self._open.get(slug)
                if found is not None and found.project.lost:
                    # Another file is in its place; nothing of the one that was open may reach it.
                    del self._open[slug]
                    await asyncio.to_thread(found.close)
                    found = None
                if found is None:
                    found = await Workspace.open(slug, self.path(slug), self.workers)
                    self._open[slug] = found
        return found

    def cards(self) -> list[ProjectCard]:
        """All projects, the one that was kept last first."""
        found = [_card(path) for path in sorted(self.folder.glob("[!.]*.gpkg"))]
        return sorted(found, key=lambda d: d.saved_at or "", reverse=True)

    def make(self, name: str, crs: ProjectCrs, scales: Scales, corners: Corners | None = None) -> str:
        """Make a project; gives its slug. Raises ProjectRefused, or CoordinateRefused for its corners."""
        slug = slugify(name, max_length=LONGEST_SLUG)
        if not slug:
            raise ProjectRefused("A project needs a name with letters or digits, such as Isle of Quennet.")
        if (self.folder / f"{slug}.gpkg").exists():
            raise ProjectRefused(f"There is a project {name} already; choose another name.")
        create_project(self.folder / f"{slug}.gpkg", name, crs, scales, corners)
        return slug

    def open_archive(self, archive: Path) -> str:
        """Unpack a project that was handed over; gives its slug. Raises FileRefused or ProjectRefused."""
        from orvik.usecases.export.archive import open_archive

        return open_archive(archive, self.folder, lambda stem: slugify(stem, max_length=LONGEST_SLUG) or "project").stem

    def close(self) -> None:
        for workspace in self._open.values():
            workspace.close()
        self._open.clear()


def _card(path: Path) -> ProjectCard:
    slug = path.stem
    if not SLUG.fullmatch(slug):
        words = "An address cannot hold the name of this file; rename it with letters, digits, - and _ only."
        return ProjectCard(slug, path.name, trouble=words)
    try:
        with opened_for_reading(path) as project:
            return _facts(slug, project)
    except OrvikError as refusal:
        return ProjectCard(slug, path.name, trouble=refusal.sentence)
    except Exception:
        # Whatever is the matter with one project, the others are still there.
        LOG.exception("looking into %s", path.name)
        return ProjectCard(
            slug, path.name, trouble=f"{path.name} holds something that cannot be read; use its last copy."
        )


def _facts(slug: str, project: ReadProject) -> ProjectCard:
    sheets = project.sheets()
    first = sheets[0] if sheets else None
    return ProjectCard(
        slug,
        project.name,
        project.saved_at,
        project.crs.label,
        project.scales.publication,
        project.revision,
        first.id if first else None,
        first.name if first else "",
        (first.width, first.height) if first else (297.0, 210.0),
        tuple(project.parts(first.id)) if first and first.id else (),
    )
