"""Names for numpy arrays by what they hold; their shapes stand where they are used."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
Bytes = NDArray[np.uint8]
# Shapely geometries; None among them where a row has none.
Geometries = NDArray[np.object_]
# Geometries, texts and other values of columns, whichever they are.
Objects = NDArray[np.object_]
# Places as complex numbers, x + iy, so that they sort and compare as one.
Nodes = NDArray[np.complex128]
# Heights in metres, as grids of them are kept; not a number where none is known.
Heights = NDArray[np.float32]
Anything = NDArray[Any]


def object_array(things: Iterable[Any]) -> Objects:
    """Things, such as geometries, as an array of objects, also where numpy would take them apart."""
    listed = list(things)
    out = np.empty(len(listed), dtype=object)
    out[:] = listed
    return out
