"""The ranked short list of coordinate systems for the ground of a sheet."""

from __future__ import annotations

from dataclasses import dataclass

from orvik.core.errors import CrsRefused
from orvik.core.ground import crs_build, distortion
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.crs_search import covering, superseded
from orvik.core.ground.distortion import Distortion, Geographic


@dataclass(frozen=True)
class CrsOption:
    """One system of the short list; ``made`` are its parameters if it is made for this ground."""

    crs: ProjectCrs
    code: str
    area: str
    distortion: Distortion
    made: crs_build.Parameters | None = None

    @property
    def text(self) -> str:
        """What names the system in a form: a code, or its definition."""
        return self.crs.text


def short_list(ground: Geographic, limit: int = 8) -> list[CrsOption]:
    """Systems for a ground, best first.

    All systems of the EPSG dataset whose area of use holds the whole ground are measured on a grid over it.
    First come those whose lengths are truest (steps of a factor of two count as equal), among them those in
    present use, then those made for the smallest area.

    Parameters
    ----------
    ground
        West, south, east and north in degrees.
    limit
        How many listed systems; two that are made for this ground follow them.
    """
    ranked: list[tuple[tuple[float, ...], CrsOption]] = []
    for entry in covering(ground):
        try:
            crs = project_crs(f"EPSG:{entry.code}")
        except CrsRefused:
            continue
        if crs.text != f"EPSG:{entry.code}":
            # Another system under a second code.
            continue
        found = distortion.over(crs, ground)
        if found is None:
            continue
        band = float(int(found.worst * 1e6).bit_length())
        key = (band, superseded(entry.name), entry.extent, len(entry.name), float(entry.code))
        ranked.append((key, CrsOption(crs, crs.text, entry.area, found)))
    ranked.sort(key=lambda pair: pair[0])
    # A system that another has replaced, and that bends the ground in the same way, adds nothing to the list.
    present = {_shape(choice) for _, choice in ranked if superseded(choice.crs.name) < 2}
    chosen = [c for _, c in ranked if superseded(c.crs.name) < 2 or _shape(c) not in present][:limit]
    for method in ("lcc", "tm"):
        parameters = crs_build.proposed(method, ground)
        crs = crs_build.built(parameters)
        found = distortion.over(crs, ground)
        if found is not None:
            chosen.append(CrsOption(crs, "own", "Made for this ground", found, parameters))
    return chosen


def _shape(choice: CrsOption) -> tuple[str, float, float]:
    """What a system does to the ground, to a few parts in a million."""
    found = choice.distortion
    return choice.crs.method, round(found.largest, 5), round(found.smallest, 5)
