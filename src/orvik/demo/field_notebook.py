"""The stand-in for a field notebook: a made-up walk across the island whose stations are sent over HTTP."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from typing import Any

import numpy as np
import urllib3

from orvik.core.errors import FileRefused
from orvik.core.ground.crs import project_crs
from orvik.demo.island import CRS
from orvik.demo.rock import rock, shaken

SEED = 20_260_512
# Where the walk begins, in degrees, and how far it goes from one station to the next.
START = (-14.752, 61.349)
STEP = (0.0021, 0.0007)
# How high the shore path runs, in metres.
SHORE_PATH = 15.0


def walk(count: int) -> list[dict[str, Any]]:
    """So many stations; always the same ones."""
    rng, below, crs = np.random.default_rng(SEED), rock(), project_crs(CRS)
    stations = []
    for i in range(count):
        longitude = START[0] + i * STEP[0] + rng.normal(0, 0.0004)
        latitude = START[1] + i * STEP[1] + rng.normal(0, 0.0002)
        x, y = (float(v) for v in crs.from_geographic(longitude, latitude))
        strike, dip = shaken(*below.bedding(x, y, SHORE_PATH), rng)
        kind, azimuth = "bedding", float(round(strike + float(crs.convergence(x, y))) % 360)
        if i % 5 == 4:
            kind, azimuth, dip = "joint", float(round(rng.normal(118, 10)) % 360), float(round(rng.normal(84, 3)))
        stations.append(
            {
                "name": f"W{i + 1:02d}",
                "longitude": round(float(longitude), 6),
                "latitude": round(float(latitude), 6),
                "kind": kind,
                "azimuth": azimuth,
                "inclination": min(dip, 90.0),
                "note": "Walk along the shore path",
            }
        )
    return stations


def send(address: str, count: int, every: float) -> Iterator[str]:
    """Send the stations of the walk one by one; says of each what became of it.

    Parameters
    ----------
    address
        Of a project: ``http://127.0.0.1:8460/p/isle-of-quennet``.
    every
        Seconds between two stations.

    Raises
    ------
    FileRefused
        Nobody answers at the address.
    """
    http = urllib3.PoolManager(retries=False, timeout=10.0)
    for number, station in enumerate(walk(count)):
        if number:
            time.sleep(every)
        try:
            answer = http.request(
                "POST",
                f"{address.rstrip('/')}/notebook/stations",
                body=json.dumps(station),
                headers={"Content-Type": "application/json"},
            )
        except urllib3.exceptions.HTTPError as error:
            raise FileRefused(f"Nobody answers at {address}; start Orvik first, or name another address.") from error
        said = "taken" if answer.status == 201 else f"not taken: {answer.data.decode(errors='replace')[:200]}"
        yield f"{station['name']}: {said}"
