"""The labels bench speaks of the panels of sheets, too: what has room on the whole map may have none on them."""

from __future__ import annotations

import html
from pathlib import Path

import shapely
from fastapi.testclient import TestClient

from orvik.core.features.feature import Feature
from orvik.store import rows
from orvik.store.project import Project
from orvik.usecases.proof.accepting import accept
from orvik.usecases.proof.proof import all_findings
from orvik.web.app import create_app


def said(demo: Path, what: str) -> str:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        return html.unescape(client.get(f"/p/isle-of-quennet/symbols/labels/lists{what}").text)


def test_the_bench_says_of_sheets_what_proof_says(demo: Path) -> None:
    assert "Harrack Head: every label has its place" in said(demo, "/sheets")
    project = Project.open(demo)
    border = project.border()
    assert border is not None
    west, south, _, _ = border.bounds
    # Large, but for a strip of 0.8 mm within the border of the sheet, beside which faults leave no room for a code.
    area = shapely.box(west - 2000, south + 700, west + 20, south + 1500)
    faults = [shapely.LineString([(west + x, south + 50), (west + x, south + 2200)]) for x in range(30, 600, 40)]
    drawn = [Feature("areas", area, "unit_area", map_unit="Kp"), *(Feature("lines", f, "fault") for f in faults)]
    number = project.apply("draw", [rows.feature_change(f, project.srs_id) for f in drawn]).changes[0].id
    (one,) = [f for f in all_findings(project, 1) if f.rule == "label" and ("areas", number) in f.features and f.parts]
    project.close()
    assert one.message in said(demo, "/sheets")
    assert "Every label has its place on the whole map" in said(demo, "")
    # What was accepted in Proof is not told here either.
    project = Project.open(demo)
    accept(project, [one], "seen", "H. Quill")
    project.close()
    assert one.message not in said(demo, "/sheets")
