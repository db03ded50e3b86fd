"""Files that would read other files or fetch from the network, whatever their ending: refused, and nothing leaks.

A server on the loopback listens for anything that is fetched; nothing may reach it.
"""

from __future__ import annotations

import json
import os
import socket
import threading
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import rasterio
from PIL import Image
from rasterio.transform import from_origin

from orvik.core.errors import FileRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.exchange.rasters import raster, raster_files
from orvik.exchange.untrusted import parent
from orvik.exchange.untrusted.parent import opened

SECRET = (
    '{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"secret":"yes"},'
    '"geometry":{"type":"Point","coordinates":[1,2]}}]}'
)
ENDINGS = ("geojson", "json", "gpkg", "shp", "fgb", "kml", "gml", "dxf", "gpx", "csv")


@pytest.fixture
def listener() -> Iterator[tuple[str, list[str]]]:
    """An address of this machine, and what was asked of it."""
    asked: list[str] = []
    server = socket.create_server(("127.0.0.1", 0))
    server.settimeout(0.1)
    going = threading.Event()

    def listen() -> None:
        while not going.is_set():
            try:
                connection, _ = server.accept()
            except OSError:
                continue
            with connection:
                connection.settimeout(1)
                asked.append(connection.recv(2000).decode(errors="replace"))
                connection.sendall(b"HTTP/1.0 200 OK\r\nContent-Type: application/json\r\n\r\n" + SECRET.encode())

    thread = threading.Thread(target=listen)
    thread.start()
    yield f"http://127.0.0.1:{server.getsockname()[1]}", asked
    going.set()
    thread.join()
    server.close()


def texts(secret: Path, address: str) -> dict[str, str]:
    """Texts that make GDAL open something else, each by the name of what it is."""
    line = {"type": "LineString", "coordinates": [[0, 0], [1, 1]]}
    link = {"type": "link", "properties": {"href": f"{address}/crs", "type": "proj4"}}
    return {
        "virtual": f'<OGRVRTDataSource><OGRVRTLayer name="x"><SrcDataSource>{secret}</SrcDataSource>'
        "<SrcLayer>secret</SrcLayer></OGRVRTLayer></OGRVRTDataSource>",
        "virtual by network": '<OGRVRTDataSource><OGRVRTLayer name="x">'
        f"<SrcDataSource>/vsicurl/{address}/a.geojson</SrcDataSource>"
        "</OGRVRTLayer></OGRVRTDataSource>",
        "virtual raster": '<VRTDataset rasterXSize="2" rasterYSize="2"><VRTRasterBand dataType="Byte" band="1">'
        "<SimpleSource>"
        f"<SourceFilename>{secret}</SourceFilename><SourceBand>1</SourceBand></SimpleSource></VRTRasterBand>"
        "</VRTDataset>",
        "feature service": f"<OGRWFSDataSource><URL>{address}/wfs</URL></OGRWFSDataSource>",
        "tile service": f"<GDAL_WMTS><GetCapabilitiesUrl>{address}/wmts</GetCapabilitiesUrl></GDAL_WMTS>",
        "map service": f'<GDAL_WMS><Service name="TMS"><ServerUrl>{address}/${{z}}/${{x}}/${{y}}</ServerUrl></Service>'
        "</GDAL_WMS>",
        "linked system": json.dumps(
            {
                "type": "FeatureCollection",
                "crs": link,
                "features": [{"type": "Feature", "properties": {}, "geometry": line}],
            }
        ),
        "address": f"{address}/a.geojson",
        "service name": f"WFS:{address}/wfs",
        "path": str(secret),
        "pipeline": json.dumps({"type": "gdal_streamed_alg", "command_line": f"gdal vector read {secret}"}),
        "entity": f'<?xml version="1.0"?><!DOCTYPE kml [<!ENTITY x SYSTEM "file://{secret}">]><kml xmlns="http://www.opengis.net/kml/2.2"><Document><name>&x;</name></Document></kml>',
        "network link": f'<kml xmlns="http://www.opengis.net/kml/2.2"><NetworkLink><Link><href>{address}/a.kml</href></Link></NetworkLink></kml>',
        "schema": '<FeatureCollection xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" '
        f'xsi:schemaLocation="{address}/a.xsd {address}/a.xsd"><featureMember/></FeatureCollection>',
    }


def what_is_found(file: Path) -> tuple[set[str], str]:
    """The fields of a file, or why it is refused."""
    try:
        return {column for layer in opened(file) for column in layer.columns}, ""
    except FileRefused as refusal:
        return set(), refusal.sentence


@pytest.mark.parametrize("ending", ENDINGS)
def test_no_ending_makes_one_of_them_open_anything(
    tmp_path: Path, listener: tuple[str, list[str]], ending: str
) -> None:
    address, asked = listener
    secret = tmp_path / "secret.geojson"
    secret.write_text(SECRET)
    for number, (name, text) in enumerate(texts(secret, address).items()):
        # Every text with a third of the endings, every ending with a third of the texts; EVERY_PAIR=1 tries them all.
        if (number + ENDINGS.index(ending)) % 3 and "EVERY_PAIR" not in os.environ:
            continue
        file = tmp_path / f"upload.{ending}"
        file.write_text(text)
        columns, refusal = what_is_found(file)
        assert "secret" not in columns, name
        assert str(tmp_path) not in refusal, name
        assert "/tmp/" not in refusal, name
    assert asked == []


@pytest.mark.parametrize("ending", ["tif", "png", "jpg"])
def test_pictures_neither(tmp_path: Path, listener: tuple[str, list[str]], crs: ProjectCrs, ending: str) -> None:
    address, asked = listener
    secret = tmp_path / "secret.tif"
    profile = {
        "driver": "GTiff",
        "width": 2,
        "height": 2,
        "count": 1,
        "dtype": "uint8",
        "crs": "EPSG:32628",
        "transform": from_origin(512_000, 6_802_000, 10, 10),
    }
    with rasterio.open(secret, "w", **profile) as out:
        out.write(np.full((1, 2, 2), 7, dtype=np.uint8))
    for name, text in texts(secret, address).items():
        file = tmp_path / f"upload.{ending}"
        file.write_text(text)
        with pytest.raises(FileRefused):
            raster.examined(file, None, crs)
        assert asked == [], name


def test_sidecars_of_pictures_are_not_read(tmp_path: Path, crs: ProjectCrs) -> None:
    """A note beside a picture that GDAL would take for its own cannot move it, nor give it other pixels."""
    file = tmp_path / "plain.tif"
    Image.fromarray(np.zeros((4, 4), dtype=np.uint8)).save(file)
    (tmp_path / "plain.tif.aux.xml").write_text(
        "<PAMDataset><SRS>EPSG:32628</SRS><GeoTransform>512000,10,0,6802000,0,-10</GeoTransform></PAMDataset>"
    )
    (tmp_path / "plain.tfw").write_text("10\n0\n0\n-10\n512000\n6802000\n")
    assert raster.examined(file, None, crs).bounds is None


def test_an_archive_that_unpacks_without_end_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert parent.UNPACKED_BYTES <= 2**30
    monkeypatch.setattr(parent, "UNPACKED_BYTES", 100_000_000)
    with zipfile.ZipFile(tmp_path / "bomb.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        for i in range(3):
            archive.writestr(f"{i}.geojson", b"\0" * 40_000_000)
    with pytest.raises(FileRefused, match="unpacks to more"):
        opened(tmp_path / "bomb.zip")
    with zipfile.ZipFile(tmp_path / "slip.zip", "w") as archive:
        archive.writestr("../../../../tmp/evil.geojson", SECRET)
    assert len(opened(tmp_path / "slip.zip")) == 1
    assert not (tmp_path.parent / "evil.geojson").exists()


@pytest.mark.parametrize("name", ["../secret.tif", "/etc/passwd", "..", "a/../../b", "..\\x", "", "a\0b"])
def test_a_project_names_no_file_outside_its_folder(tmp_path: Path, name: str) -> None:
    with pytest.raises(FileRefused, match="outside its own folder"):
        raster_files.kept_file(tmp_path / "p.gpkg", name)
    assert raster_files.kept_file(tmp_path / "p.gpkg", "abc.tif") == tmp_path / "p.files" / "abc.tif"
