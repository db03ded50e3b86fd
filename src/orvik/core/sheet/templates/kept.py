"""Templates of one's own: a sheet as it was laid out, by which others are, on any paper and for any ground."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from orvik.core.errors import OrvikError, SheetRefused
from orvik.core.ground.crs import project_crs
from orvik.core.sheet.layout.change_paper import on_paper
from orvik.core.sheet.page.entries import FileOf, Words
from orvik.core.sheet.page.page import PageLayout, Sheet
from orvik.core.sheet.page.part import Part, largest
from orvik.core.sheet.panels.aim import FITTING_SCALES
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.core.sheet.parts import settings_of
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.templates.brief import Brief
from orvik.core.stored import Stored
from orvik.core.symbols.joined_kinds import read_now
from orvik.core.symbols.renamed import renamed

# What stands in its texts for the names of the sheet and of the project.
SHEET, PROJECT = "{sheet}", "{project}"
LONGEST_NAME = 60


@dataclass(frozen=True)
class KeptTemplate:
    """A page with its parts, whose texts hold ``SHEET`` and ``PROJECT`` where those were named.

    ``crs`` is the system of the project that it was kept in. Its parts keep their numbers for as long as there is the
    template; none of ``used`` and below is given to another one.
    """

    name: str
    sheet: Sheet
    parts: Sequence[Part]
    crs: str
    used: int = 0

    @staticmethod
    def of(
        name: str, sheet: Sheet, parts: Sequence[Part], project: str, crs: str, before: KeptTemplate | None = None
    ) -> KeptTemplate:
        """A sheet as a template; raises SheetRefused where the name is none.

        Parameters
        ----------
        before
            The template that this one takes the place of, and that the sheet follows; parts that were made as its
            parts have the same numbers.
        """
        wanted = " ".join(name.split())
        if not wanted or len(wanted) > LONGEST_NAME:
            raise SheetRefused(f"A template needs a name of up to {LONGEST_NAME} letters, such as House style A3.")
        put = {sheet.name: SHEET, project: PROJECT}
        used = before.used if before is not None else 0
        numbers: dict[int, int] = {}
        for part in parts:
            if before is not None and part.made_as and part.made_as not in numbers.values():
                numbers[part.number] = part.made_as
            else:
                used += 1
                numbers[part.number] = used
        held = []
        for part in parts:
            settings = part.settings.changed(part.settings.renumbered(numbers))
            held.append(_renamed(replace(part, id=numbers[part.number], made_as=0, settings=settings), put))
        return KeptTemplate(wanted, sheet, held, crs, used)

    @property
    def files(self) -> set[str]:
        """The checksums of the files that its parts show."""
        return {
            getattr(part.settings, name)
            for part in self.parts
            for name, declared in part.settings.entries().items()
            if isinstance(declared, FileOf) and getattr(part.settings, name)
        }

    def parts_of(self, brief: Brief) -> tuple[PageLayout, list[Part], list[str]]:
        """The page's layout and the parts on another paper, aimed at other ground, and what no longer fits.

        The largest panel shows the middle of the ground, at its own scale if all of it fits, else at the largest
        round scale at which it does; other panels keep their scale and their way from it. What the project does not
        know is left: a system that cannot show the ground, and underlays.
        """
        moved = on_paper(self.sheet, self.parts, brief.paper, brief.page, refit=False)
        main = largest(moved.parts, MapPanel)
        parts = [filled_in(self._aimed(part, main, brief), brief.name, brief.project) for part in moved.parts]
        return moved.sheet.layout, [replace(part, made_as=part.number) for part in parts], moved.said

    def _aimed(self, part: Part, main: Part | None, brief: Brief) -> Part:
        settings = part.settings
        at_home = self.crs == brief.crs.text
        if not isinstance(settings, MapPanel) or main is None or (at_home and brief.ground is None):
            return part
        assert isinstance(main.settings, MapPanel)
        made: dict[str, Any] = {} if at_home else {"underlays": {}}
        centre = brief.centre
        if at_home and part is not main:
            # As far from the middle of the main map as it was.
            own, of_main = self._centre(settings), self._centre(main.settings)
            centre = (centre[0] + own[0] - of_main[0], centre[1] + own[1] - of_main[1])
        if part is main:
            made |= {"scale": _scale_for(part, settings.scale, brief), "rotation": settings.rotation}
            if settings.neatline == "border":
                made["neatline"] = brief.neatline
        try:
            made["centre"] = carried_place(brief.crs, settings.crs_in(brief.crs), centre)
        except OrvikError:
            made |= {"system": "", "centre": centre}
        return part.changed(settings=settings.changed(made))

    def _centre(self, settings: MapPanel) -> tuple[float, float]:
        """The middle of a panel in the system of the project that it was kept in."""
        home = project_crs(self.crs)
        return carried_place(settings.crs_in(home), home, settings.centre)

    def to_text(self) -> str:
        """As it is kept: JSON."""
        page = self.sheet
        return json.dumps(
            {
                "crs": self.crs,
                "used": self.used,
                "page": {
                    "paper": page.paper,
                    "width": page.width,
                    "height": page.height,
                    "layout": page.layout.to_dict(),
                },
                "parts": [
                    {
                        "kind": part.kind,
                        "box": [part.x, part.y, part.width, part.height],
                        "id": part.id,
                        "position": part.position,
                        "settings": part.settings.to_dict(),
                    }
                    for part in self.parts
                ],
            },
            ensure_ascii=False,
        )

    @staticmethod
    def from_text(name: str, text: str) -> KeptTemplate:
        """From what is kept; raises SheetRefused where that is none."""
        try:
            made = read_now(renamed(json.loads(text)))
            page = made["page"]
            layout = PageLayout.from_dict(page["layout"])
            sheet = Sheet(name, str(page["paper"]), float(page["width"]), float(page["height"]), layout=layout)
            parts = []
            for p in made["parts"]:
                x, y, width, height = (float(v) for v in p["box"])
                settings = settings_of(p["kind"], p["settings"])
                parts.append(Part(settings, x, y, width, height, id=int(p["id"]), position=int(p["position"])))
            # Before templates were followed, their parts had the numbers of the sheet.
            used = max([int(made.get("used", 0)), *(part.number for part in parts)])
            return KeptTemplate(name, sheet, parts, project_crs(str(made["crs"])).text, used)
        except (OrvikError, ValueError, TypeError, KeyError, RecursionError) as error:
            raise SheetRefused(f"The template “{name}” cannot be read; remove it, and save it anew.") from error


@dataclass(frozen=True)
class FollowedTemplate(Stored):
    """The template of one's own that a sheet follows: of its project, or one for all projects of the folder.

    ``text`` is how it was when the sheet took it up, as it is kept.
    """

    name: str
    for_all: bool
    text: str
    id: int | None = None

    @property
    def taken_up(self) -> KeptTemplate | None:
        """The template as the sheet took it up; None where that cannot be read, so that nothing can be told of it."""
        try:
            return KeptTemplate.from_text(self.name, self.text)
        except SheetRefused:
            return None


def _scale_for(part: Part, scale: int, brief: Brief) -> int:
    """The scale of a panel if the ground fits its frame at that, else the largest round one at which it does."""
    for denominator in (scale, *(d for d in FITTING_SCALES if d > scale)):
        width, height = brief.size_at(denominator)
        if width <= part.width + 0.05 and height <= part.height + 0.05:
            return int(denominator)
    return scale


def filled_in(part: Part, sheet: str, project: str) -> Part:
    """A part of a template with the names of a sheet and of a project; texts with fields take these up themselves."""
    return part if part.settings.has_own_text else _renamed(part, {SHEET: sheet, PROJECT: project})


def _renamed(part: Part, names: Mapping[str, str]) -> Part:
    """A part in whose texts one thing stands for another, the longest first."""
    changed = {}
    for name, declared in part.settings.entries().items():
        value = getattr(part.settings, name)
        if not isinstance(declared, Words) or not isinstance(value, str) or name in ("name", "system", "letter"):
            continue
        for old in sorted(names, key=len, reverse=True):
            # A name within a word is none, nor is one of a field.
            before, behind = ("", "") if old in (SHEET, PROJECT) else (r"(?<![\w{])", r"(?![\w}])")
            value = names[old].join(re.split(f"{before}{re.escape(old)}{behind}", value))
        if value != getattr(part.settings, name) and declared.is_valid(value):
            changed[name] = value
    return replace(part, settings=part.settings.changed(changed)) if changed else part
