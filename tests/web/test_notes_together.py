"""Findings of which the same is said are one note with its places, accepted in one go and told again one by one."""

from __future__ import annotations

import html
import re
from pathlib import Path

import shapely
from fastapi.testclient import TestClient

from orvik.core.features.feature import Feature
from orvik.store import rows
from orvik.store.project import Project, opened_for_writing
from orvik.store.tables.acceptances import acceptances
from orvik.web.app import create_app

PROOF = "/p/small/proof"


def notes_of(client: TestClient) -> str:
    return html.unescape(client.get(f"{PROOF}/notes").text)


def test_many_lines_drawn_at_one_scale_are_one_note(project: Project, tmp_path: Path) -> None:
    lines = [
        Feature("lines", shapely.LineString([(511_000, 6_800_500 + 30 * i), (511_400, 6_800_510 + 30 * i)]), "stream")
        for i in range(7)
    ]
    scales = [32_000] * 5 + [50_000] * 2
    drawn = [line.changed(capture_scale=scale) for line, scale in zip(lines, scales, strict=True)]
    project.apply("draw", [rows.feature_change(line, project.srs_id) for line in drawn])
    project.close()
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8460") as client:
        text = notes_of(client)
        assert text.count("features were digitized at 1:32\u2060\u2009\u2060000") == 1
        assert "5 features were digitized" in text
        # Two are not yet many.
        assert len(re.findall(r"was digitized at 1:50\u2060\u2009\u2060000", text)) >= 2
        (note,) = [one for one in text.split('<li class="note ') if "5 features" in one]
        keys = re.findall(r'name="key" value="([^"]+)"', note)
        assert len(keys) == 5
        assert len(re.findall(r"/compile\?x=", note)) == 5
        answer = client.post(f"{PROOF}/accept", data={"key": keys, "reason": "The old sheet.", "signed": "HQ"})
        assert answer.status_code == 200
        assert "5 features were digitized" not in html.unescape(answer.text)
    with opened_for_writing(project.path) as after:
        assert set(keys) <= set(acceptances(after))
        # All of it was one entry, and comes back with one undo.
        assert after.undo_label == "accept 5 findings"
