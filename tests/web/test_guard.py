from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from orvik.web.app import create_app
from orvik.web.guard import UPLOAD_BYTES


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8460") as client:
        yield client


def test_every_answer_has_the_policy(client: TestClient) -> None:
    for path in (
        "/",
        "/new",
        "/crs?q=utm",
        "/static/frame/tokens.css",
        "/fonts/Spectral-Regular.woff2",
        "/p/none/compile",
    ):
        policy = client.get(path).headers["content-security-policy"]
        assert "script-src 'self'" in policy
        assert "unsafe" not in policy


def test_pages_have_no_inline_script_or_style(client: TestClient) -> None:
    for path in ("/", "/new"):
        text = client.get(path).text
        assert "<script>" not in text
        assert " style=" not in text
        assert " onclick=" not in text


@pytest.mark.parametrize("host", ["evil.example", "evil.example:8460", "127.0.0.1.evil.example", ""])
def test_other_hosts_are_turned_away(client: TestClient, host: str) -> None:
    assert client.get("/", headers={"Host": host}).status_code == 403


@pytest.mark.parametrize(
    "origin", ["http://evil.example", "null", "http://127.0.0.1:9999", "https://localhost.evil.example"]
)
def test_other_origins_are_turned_away(client: TestClient, origin: str) -> None:
    answer = client.post("/new", data={"name": "X"}, headers={"Origin": origin})
    assert answer.status_code == 403
    with (
        pytest.raises(WebSocketDisconnect),
        client.websocket_connect("ws://127.0.0.1:8460/p/x/live", headers={"Origin": origin}),
    ):
        pass


def test_own_origin_is_let_in(client: TestClient) -> None:
    assert client.post("/new", data={}, headers={"Origin": "http://127.0.0.1:8460"}).status_code == 422


def test_uploads_are_capped(client: TestClient) -> None:
    answer = client.post("/new", content=b"x", headers={"Content-Length": str(UPLOAD_BYTES + 1)})
    assert answer.status_code == 413
    assert "larger than" in answer.text


def test_paths_do_not_lead_out_of_the_projects(client: TestClient, tmp_path: Path) -> None:
    (tmp_path.parent / "outside.gpkg").write_bytes(b"x")
    for slug in ("..%2Foutside", "%2e%2e/outside", "outside"):
        assert client.get(f"/p/{slug}/compile").status_code == 404
