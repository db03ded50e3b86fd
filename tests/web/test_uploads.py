"""The names that uploads come with: whatever they are, a file of a plain name or one sentence."""

from __future__ import annotations

import errno
import re
import shutil
from io import BytesIO
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from starlette.datastructures import UploadFile

from orvik.core.errors import FileRefused
from orvik.exchange.rasters import raster
from orvik.web.app import create_app
from orvik.web.uploads import name_of


@pytest.mark.parametrize(
    ("given", "name"),
    [
        ("lines.geojson", "lines.geojson"),
        ("../../etc/lines.geojson", "lines.geojson"),
        (r"C:\Survey\Sheet 4.tif", "Sheet 4.tif"),
        ("a\x00b\n.csv", "ab.csv"),
        (".hidden.csv", "hidden.csv"),
        ("Ørsø–Фьорд.gpkg", "Ørsø–Фьорд.gpkg"),
        ("x\ud800.csv", "x.csv"),
    ],
)
def test_a_name_of_an_upload(given: str, name: str) -> None:
    assert name_of(UploadFile(BytesIO(), filename=given)) == name


@pytest.mark.parametrize("given", ["", "..", ".", "/", "\x00", "a/"])
def test_no_name(given: str) -> None:
    with pytest.raises(FileRefused, match="Choose a file first"):
        name_of(UploadFile(BytesIO(), filename=given))


@pytest.mark.parametrize("letter", ["x", "ø", "山"])
def test_long_names_keep_one_stem_and_their_endings(letter: str) -> None:
    names = [name_of(UploadFile(BytesIO(), filename=letter * 400 + end)) for end in (".shp", ".dbf", ".prj")]
    assert {Path(n).suffix for n in names} == {".shp", ".dbf", ".prj"}
    assert len({Path(n).stem for n in names}) == 1
    assert all(len(n.encode()) < 200 for n in names)


@pytest.mark.parametrize("name", ["..", "x" * 300 + ".csv", "a\x00.csv", "%2e%2e%2fa.csv"])
def test_a_page_sends_them(client: TestClient, name: str) -> None:
    text = b"easting,northing,strike,dip\n512000,6801000,045,30\n"
    for address, field in (("/p/small/import", "file"), ("/p/small/notebook/preview", "table")):
        answer = client.post(address, files={field: (name, text)})
        assert answer.status_code in (200, 422), answer.text
        assert "Errno" not in answer.text


def uploads() -> list[tuple[str, list[str], list[str]]]:
    """The routes that take files, by the application's own description: path, fields of files, and others."""
    described = create_app(Path("/tmp/orvik-described")).openapi()
    found = []
    for path, operations in described["paths"].items():
        body = operations.get("post", {}).get("requestBody", {}).get("content", {}).get("multipart/form-data")
        if body is not None:
            fields = described["components"]["schemas"][body["schema"]["$ref"].rsplit("/", 1)[1]]["properties"]
            files = [n for n, f in fields.items() if "contentMediaType" in str(f) or "binary" in str(f)]
            found.append((path, files, [n for n in fields if n not in files]))
    return found


@pytest.mark.parametrize(("path", "names", "others"), uploads())
def test_a_form_without_its_file_says_so(client: TestClient, path: str, names: list[str], others: list[str]) -> None:
    """As a browser sends a form in which no file is chosen."""
    address = re.sub(r"{(\w+)}", lambda found: "small" if found[1] == "slug" else "1", path)
    fields = "".join(f'--x\r\nContent-Disposition: form-data; name="{n}"\r\n\r\n1\r\n' for n in others)
    files = "".join(f'--x\r\nContent-Disposition: form-data; name="{n}"; filename=""\r\n\r\n\r\n' for n in names)
    headers = {"Content-Type": "multipart/form-data; boundary=x"}
    answer = client.post(address, content=f"{fields}{files}--x--\r\n".encode(), headers=headers)
    assert answer.status_code == 422
    # What takes a pasted table as well says what such a table needs.
    assert re.fullmatch(r"Choose a (file|symbol book) first\.|This .*table.* needs .*", answer.text), answer.text


def test_a_full_disk_leaves_no_half_of_a_picture(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    picture = tmp_path / "scan.png"
    picture.write_bytes(b"a picture")
    project = tmp_path / "p.gpkg"

    def full(source: Path, target: Path) -> None:
        Path(target).write_bytes(b"a pi")
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(shutil, "copyfile", full)
    with pytest.raises(OSError, match="No space"):
        raster.taken_in(picture, project)
    assert list(raster.files_folder(project).iterdir()) == []
    monkeypatch.undo()
    name, checksum = raster.taken_in(picture, project)
    assert (raster.files_folder(project) / name).read_bytes() == b"a picture"
    assert raster.trouble_with(raster.files_folder(project) / name, checksum) == ""
