"""An application with the small project, and a page that is connected to it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from orvik.store.project import Project
from orvik.web.app import create_app
from tests.web.pages import Page


@pytest.fixture
def client(project: Project) -> Iterator[TestClient]:
    project.close()
    with TestClient(create_app(project.path.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


@pytest.fixture
def page(client: TestClient) -> Iterator[Page]:
    with client.websocket_connect("ws://127.0.0.1:8460/p/small/live") as socket:
        yield Page(socket)
