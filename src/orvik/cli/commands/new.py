"""``orvik new``: a project file."""

from __future__ import annotations

import argparse
from pathlib import Path


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    parser.add_argument("--name", required=True)
    parser.add_argument("--crs", required=True, metavar="EPSG:CODE")
    parser.add_argument("--scale", required=True, metavar="25000")
    parser.add_argument("--border", metavar="WEST,SOUTH,EAST,NORTH")


def run(options: argparse.Namespace) -> None:
    from orvik.core.errors import CoordinateRefused
    from orvik.core.ground.crs import project_crs
    from orvik.core.ground.scale import Scales, parse_scale, proposed_digitizing
    from orvik.usecases.ground.border import Corners
    from orvik.usecases.project.project import create_project

    crs = project_crs(options.crs)
    publication = parse_scale(options.scale)
    scales = Scales(publication, proposed_digitizing(publication))
    corners = None
    if options.border:
        values = options.border.split(",")
        if len(values) != 4:
            raise CoordinateRefused("A border is four numbers: --border=WEST,SOUTH,EAST,NORTH.")
        corners = Corners(*values)
    create_project(options.project, options.name, crs, scales, corners)
