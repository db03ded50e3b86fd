"""Every kind of part stands in the PDF where it is typed, read back from dots that another program paints."""

from __future__ import annotations

import random
from dataclasses import replace
from pathlib import Path

import numpy as np

from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts import PART_KINDS
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.press.picture_file import page_dots
from orvik.store import rows
from orvik.store.project import Project
from orvik.usecases.sheet.parts import add_part
from orvik.usecases.sheet.printing import sheet_pdf
from tests.examples import SEED

# A dot of 0.05 mm.
DPI = 508.0
ACROSS, DOWN = 6, 4


def test_every_kind_stands_within_a_tenth_of_a_millimetre_of_its_typed_place(demo: Path) -> None:
    rng = random.Random(SEED)
    kinds = [kind for kind, made in PART_KINDS.items() if not made.lies_on_panel and kind != "map_panel"]
    assert len(kinds) <= ACROSS * DOWN
    project = Project.open(demo)
    try:
        sheet = rows.sheet_changes(Sheet("Places", "Custom size", 60.0 * ACROSS, 45.0 * DOWN), [])
        number = project.apply("add", sheet).changes[0].id
        # Below all of them, so that what speaks of a panel has one.
        own = MapPanel(scale=25_000, centre=(512_000, 6_802_000), neatline="rectangle")
        below = rows.part_change(Part(own, 10.0, 10.0, 300.0, 140.0, sheet_id=number, position=0))
        panel = project.apply("panel", [below]).changes[0].id
        typed: dict[str, tuple[Part, tuple[int, int, int]]] = {}
        for i, kind in enumerate(kinds):
            part = project.part(add_part(project, 1, kind).changes[0].id)
            x, y = 60.0 * (i % ACROSS) + rng.uniform(1, 9), 45.0 * (i // ACROSS) + rng.uniform(1, 9)
            colour = (255, 10 * i, 255 - 10 * i)
            values = {"ground_colour": "#{:02X}{:02X}{:02X}".format(*colour), "padding": 3.0, "frame": 0.0}
            values |= {"panel": panel} if "panel" in part.settings.entries() else {}
            settings = part.settings.changed(values)
            width, height = rng.uniform(30, 40), rng.uniform(24, 32)
            put = replace(part, x=x, y=y, width=width, height=height, settings=settings, sheet_id=number)
            project.apply("put", [rows.part_change(put)])
            typed[kind] = (put, colour)
    finally:
        project.close()
    dots = page_dots(sheet_pdf(demo, number, 72.0), DPI)
    k = DPI / 25.4
    off = {}
    for kind, (part, colour) in typed.items():
        wanted = np.array([part.x, part.y, part.x + part.width, part.y + part.height])
        # With half a millimetre around it, where nothing else is so near.
        left, top = (max(0, int((v - 0.5) * k)) for v in wanted[:2])
        right, bottom = (int((v + 0.5) * k) for v in wanted[2:])
        there = np.abs(dots[top:bottom, left:right, :3].astype(np.int16) - colour).max(axis=2) <= 2
        assert there.any(), kind
        down, across = np.flatnonzero(there.any(axis=1)), np.flatnonzero(there.any(axis=0))
        seen = np.array([left + across[0], top + down[0], left + across[-1] + 1, top + down[-1] + 1]) / k
        off[kind] = float(np.abs(seen - wanted).max())
    assert {kind: by for kind, by in off.items() if by > 0.1} == {}
