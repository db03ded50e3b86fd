"""A hundred hostile files: each refused in a sentence or brought in soundly, in limited time, and nothing fetched."""

from __future__ import annotations

import json
import struct
import tempfile
import time
import zipfile
import zlib
from pathlib import Path

import numpy as np

from orvik.core.errors import OrvikError
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.exchange.rasters import raster
from orvik.store.creation import create
from orvik.store.project import Project
from orvik.usecases.intake.import_features import import_file

SLOWEST_SECONDS = 70.0


def _vector_of(source: str) -> str:
    """A virtual layer over another source."""
    return (
        f'<OGRVRTDataSource><OGRVRTLayer name="x"><SrcDataSource>{source}</SrcDataSource>'
        "</OGRVRTLayer></OGRVRTDataSource>"
    )


def corpus() -> list[tuple[str, bytes]]:
    """Names and contents; made here, always the same."""
    rng = np.random.default_rng(5)
    secret = "/etc/passwd"
    address = "http://127.0.0.1:9/x"
    line = {"type": "LineString", "coordinates": [[513_000, 6_802_000], [513_100, 6_802_100]]}

    def collection(*geometries: object, **properties: object) -> bytes:
        features = [{"type": "Feature", "properties": properties, "geometry": g} for g in geometries]
        crs = {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::32628"}}
        return json.dumps({"type": "FeatureCollection", "crs": crs, "features": features}).encode()

    texts = {
        "vrt": _vector_of(secret),
        "vrt-net": _vector_of(f"/vsicurl/{address}"),
        "raster-vrt": f'<VRTDataset rasterXSize="9" rasterYSize="9"><VRTRasterBand><SimpleSource>'
        f"<SourceFilename>{secret}</SourceFilename></SimpleSource></VRTRasterBand></VRTDataset>",
        "wfs": f"<OGRWFSDataSource><URL>{address}</URL></OGRWFSDataSource>",
        "wmts": f"<GDAL_WMTS><GetCapabilitiesUrl>{address}</GetCapabilitiesUrl></GDAL_WMTS>",
        "path": secret,
        "address": address,
        "empty": "",
        "nul": "\0" * 4096,
        "entity": f'<!DOCTYPE a [<!ENTITY x SYSTEM "file://{secret}">]><a>&x;</a>',
        "laughs": "<!DOCTYPE a ["
        + "".join(f'<!ENTITY l{i} "{f"&l{i - 1};" * 10 if i else "ha"}">' for i in range(9))
        + "]><a>&l8;</a>",
        "deep": "[" * 100_000,
        "deep-object": '{"a":' * 50_000,
    }
    found = [
        (f"{name}.{ending}", text.encode())
        for name, text in texts.items()
        for ending in ("geojson", "kml", "gml", "csv", "tif", "zip")
    ]
    found += [
        ("nan.geojson", collection({"type": "Point", "coordinates": [float("nan"), 1e400]})),
        ("far.geojson", collection({"type": "Point", "coordinates": [1e300, -1e300]})),
        (
            "bowtie.geojson",
            collection(
                {
                    "type": "Polygon",
                    "coordinates": [
                        [
                            [513_000, 6_802_000],
                            [513_100, 6_802_100],
                            [513_100, 6_802_000],
                            [513_000, 6_802_100],
                            [513_000, 6_802_000],
                        ]
                    ],
                }
            ),
        ),
        ("one-point.geojson", collection({"type": "LineString", "coordinates": [[513_000, 6_802_000]]})),
        ("null.geojson", collection(None, line)),
        ("kind.geojson", collection(line, kind="<script>")),
        ("surrogate.geojson", collection(line, note="x").replace(b'"x"', b'"\\ud83d"')),
        ("long-field.geojson", collection(line, **{"f" * 60_000: "x" * 500_000})),
        ("many-fields.geojson", collection(line, **{f"f{i}": i for i in range(2000)})),
        (
            "long-line.geojson",
            collection(
                {"type": "LineString", "coordinates": [[511_000 + i * 0.01, 6_801_000 + i % 2] for i in range(300_000)]}
            ),
        ),
        (
            "many.geojson",
            collection(
                *[{"type": "Point", "coordinates": [511_000 + i % 3000, 6_801_000 + i // 3000]} for i in range(60_000)],
                kind="unit_tag",
            ),
        ),
        ("table.csv", b"x,y\n" + b"513000,6802000\n" * 20_000),
        ("quotes.csv", b'x,y\n"' + b"a" * 300_000),
        ("bom.csv", b"\xff\xfe" + "x,y\n1,2\n".encode("utf-16-le")),
    ]
    found += [
        (f"noise-{i}.{ending}", rng.bytes(5000))
        for i in range(3)
        for ending in ("gpkg", "shp", "fgb", "tif", "png", "jpg", "dxf", "zip")
    ]
    found += [
        ("bomb.png", _png(60_000, 60_000)),
        ("cut.png", _png(64, 64)[:60]),
        ("sqlite.gpkg", b"SQLite format 3\0" + rng.bytes(4080)),
    ]
    return found


def _png(width: int, height: int) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(b"\0" * 10_000))
        + chunk(b"IEND", b"")
    )


def run() -> tuple[bool, list[str]]:
    """Offer every file as features and, where it looks like one, as a picture."""
    refused = taken = 0
    slowest, bad = 0.0, []
    crs = project_crs("EPSG:32628")
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        create(folder / "files.gpkg", "Files", crs, Scales(25_000, 6_250))
        project = Project.open(folder / "files.gpkg")
        files = corpus()
        with zipfile.ZipFile(folder / "slip.zip", "w") as archive:
            archive.writestr("../../../evil.geojson", "{}")
        files.append(("slip.zip", (folder / "slip.zip").read_bytes()))
        for name, data in files:
            file = folder / name
            file.write_bytes(data)
            start = time.monotonic()
            try:
                if file.suffix in (".tif", ".png", ".jpg"):
                    raster.examined(file, None, crs)
                else:
                    import_file(project, file)
                taken += 1
            except OrvikError as refusal:
                refused += 1
                if temporary in refusal.sentence or "/tmp" in refusal.sentence:
                    bad.append(f"{name} names a path: {refusal.sentence[:100]}")
            except Exception as error:
                bad.append(f"{name}: {type(error).__name__} {str(error)[:100]}")
            slowest = max(slowest, time.monotonic() - start)
            file.unlink(missing_ok=True)
        whole = project.faults() == []
        project.close()
    good = not bad and whole and slowest < SLOWEST_SECONDS
    return good, [
        f"{len(files)} files: {refused} refused in a sentence, {taken} taken; the slowest {slowest:.1f} s",
        *bad[:20],
    ]
