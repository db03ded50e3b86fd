"""Heights as an underlay, as a client sees them."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import rasterio
from fastapi.testclient import TestClient
from PIL import Image
from rasterio.transform import from_origin

from orvik.core.pictures.relief import ReliefStyle
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.web.app import create_app
from tests.web.ink import ink_of

BASE = "/p/isle-of-quennet/underlays/7"
WINDOW = {"west": 513_100, "south": 6_802_500, "east": 513_500, "north": 6_802_800, "width": 80, "height": 60}
# All switches of the form, as a page sends them.
FORM = {
    "shade": "true",
    "azimuth": "315",
    "altitude": "45",
    "exaggeration": "1",
    "contours": "0",
    "low": "",
    "high": "",
}


@pytest.fixture
def client(demo: Path, tmp_path: Path) -> Iterator[TestClient]:
    """A plane that rises one metre in ten to the east, imported as GeoTIFF."""
    z = np.tile(np.arange(100, dtype=np.float32), (80, 1)) + 50
    path = tmp_path / "plane.tif"
    profile = {
        "driver": "GTiff",
        "width": 100,
        "height": 80,
        "count": 1,
        "dtype": "float32",
        "crs": "EPSG:32628",
        "transform": from_origin(513_000, 6_803_000, 10, 10),
    }
    with rasterio.open(path, "w", **profile) as out:
        out.write(z, 1)
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        client.post("/p/isle-of-quennet/underlays", files=[("files", ("plane.tif", path.read_bytes()))])
        yield client


def seen(client: TestClient, **window: int) -> np.ndarray:
    answer = client.get(f"{BASE}.png", params=WINDOW | window)
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGBA")).astype(int)


def test_heights_are_known_for_what_they_are(client: TestClient, demo: Path) -> None:
    project = ReadProject.open(demo)
    assert ReliefStyle.of_json(project.source(7).relief) == ReliefStyle()
    project.close()
    text = client.get(f"{BASE}/slip").text
    assert "50.0" in text
    assert "149.0" in text


def test_height_at_the_pointer(client: TestClient) -> None:
    at = {"x": 513_205.0, "y": 6_802_605.0}
    assert client.get("/p/isle-of-quennet/height", params=at).text == "70.0 m, falls 6° W"
    beside = {"x": 513_210.0, "y": 6_802_605.0}
    assert client.get("/p/isle-of-quennet/height", params=beside).text == "70.5 m, falls 6° W"
    assert client.get("/p/isle-of-quennet/height", params={"x": 0, "y": 0}).text == ""
    assert client.get("/p/isle-of-quennet/height", params={"x": "nan", "y": 0}).text == ""


def test_style_is_kept_shown_and_undone(client: TestClient, demo: Path) -> None:
    plain = seen(client)
    client.post(f"{BASE}/relief", data=FORM | {"shade": "", "ramp": "grey", "low": "60", "high": "110"})
    tinted = seen(client)
    assert tinted[30, 79, 0] - tinted[30, 0, 0] > 100
    assert not np.array_equal(plain, tinted)
    client.post(
        f"{BASE}/relief",
        data=FORM | {"shade": "", "ramp": "grey", "low": "60", "high": "110", "flipped": "true"},
    )
    assert seen(client)[30, 0, 0] > seen(client)[30, 79, 0]
    client.post(f"{BASE}/relief", data=FORM | {"shade": "", "contours": "10"})
    assert client.get(f"{BASE}.png", params=WINDOW).status_code == 204
    lines = ink_of(client.get(f"{BASE}/ink", params=WINDOW).content)
    # 59.5 m at the left edge, 99.5 m at the right: the lines between stand where the plane has them.
    found = sorted({round(float(x)) for path in lines for x in path[:, 0]})
    within = [x for x in found if 513_100 < x < 513_500]
    assert within == pytest.approx([513_005 + (height - 50) * 10 for height in (60, 70, 80, 90)], abs=1)
    project = Project.open(demo)
    for _ in range(3):
        project.undo()
    assert ReliefStyle.of_json(project.source(7).relief) == ReliefStyle()
    project.close()


@pytest.mark.parametrize(
    ("changes", "why"),
    [
        ({"altitude": "0"}, "1 to 90"),
        ({"azimuth": "400"}, "between 0 and 360"),
        ({"exaggeration": "x"}, "not a number"),
        ({"contours": "0.001"}, "apart"),
        ({"ramp": "plaid"}, "is not a tint"),
        ({"low": "9", "high": "3"}, "below its high end"),
    ],
)
def test_bad_styles_are_refused(client: TestClient, changes: dict[str, str], why: str) -> None:
    answer = client.post(f"{BASE}/relief", data=FORM | changes)
    assert answer.status_code == 422
    assert why in answer.text


def test_pictures_hold_no_heights(client: TestClient) -> None:
    assert client.post("/p/isle-of-quennet/underlays/2/relief", data=FORM).status_code == 404
