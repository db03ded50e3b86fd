"""Opening pictures and grids that somebody else has made: three formats, no files beside them, no network.

GDAL opens files by their content; a "picture" may be a list of other files or an address. A file is opened by the
one driver that its first bytes name, and nothing that lies beside it is looked at.
"""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePath
from typing import Any

from orvik.core.errors import FileRefused

# The first bytes of files: TIFF 6.0 and BigTIFF, PNG (ISO/IEC 15948), JPEG (ISO/IEC 10918).
_SIGNATURES = {
    b"II*\0": "GTiff",
    b"MM\0*": "GTiff",
    b"II+\0": "GTiff",
    b"MM\0+": "GTiff",
    b"\x89PNG": "PNG",
    b"\xff\xd8\xff": "JPEG",
}
_ALONE = {
    "GDAL_DISABLE_READDIR_ON_OPEN": "EMPTY_DIR",
    "GDAL_PAM_ENABLED": "NO",
    "GDAL_HTTP_PROXY": "127.0.0.1:1",
    "CPL_VSIL_CURL_ALLOWED_EXTENSIONS": ".none",
}


@contextmanager
def opened(path: Path, vertical: bool = False, **options: Any) -> Iterator[Any]:
    """A picture or grid to be read; raises RasterioError where it is none.

    Parameters
    ----------
    vertical
        Whether its system is given with its vertical part; where it lies on the map, that is of no use.
    """
    import rasterio
    from rasterio.errors import NotGeoreferencedWarning, RasterioIOError

    with path.open("rb") as file:
        first = file.read(4)
    driver = next((name for signature, name in _SIGNATURES.items() if first.startswith(signature)), None)
    if driver is None:
        raise RasterioIOError("not a GeoTIFF, PNG or JPEG")
    with warnings.catch_warnings(), rasterio.Env(**_ALONE | {"GTIFF_REPORT_COMPD_CS": vertical}):
        warnings.simplefilter("ignore", NotGeoreferencedWarning)
        with rasterio.open(path, driver=driver, **options) as source:
            yield source


def kept_file(project: Path, name: str) -> Path:
    """The copy of a file that a project keeps, in the folder beside it and nowhere else.

    Raises
    ------
    FileRefused
        The name leads out of the folder, as one in a file from elsewhere may.
    """
    if not name or PurePath(name).name != name or name in (".", "..") or "\\" in name or "\0" in name:
        raise FileRefused("The project names a file outside its own folder; that file is not read.")
    return project.with_name(f"{project.stem}.files") / name
