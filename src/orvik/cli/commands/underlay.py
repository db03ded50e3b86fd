"""``orvik underlay``: a picture or heights below the map."""

from __future__ import annotations

import argparse
from pathlib import Path

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("file", type=Path, metavar="FILE", help="its world file lies beside it, if it has one")
    parser.add_argument("--heights", action="store_true", help="refuse it where it does not hold heights")
    parser.add_argument("--name", default="", help="what it is called in the stack")


def run(options: argparse.Namespace) -> None:
    from orvik.core.errors import FileRefused
    from orvik.core.pictures.height_facts import HeightFacts
    from orvik.exchange.rasters import elevation, raster
    from orvik.store.project import opened_for_writing
    from orvik.usecases.ground.sources import add_source, new_underlay

    picture: Path = options.file
    if not picture.is_file():
        raise FileRefused(f"There is no file {picture.name}.")
    extensions = raster.WORLD_FILES.get(picture.suffix.lower(), ())
    world = next((w for e in extensions if (w := picture.with_suffix(e)).is_file()), None)
    with opened_for_writing(options.project) as project:
        # Looked at before anything is copied beside the project.
        facts = raster.examined(picture, world, project.crs)
        heights = elevation.is_grid(picture)
        if facts.bounds is None:
            raise FileRefused(f"{picture.name} does not say where it lies; georeference it in Ground.")
        if options.heights and not heights:
            raise FileRefused(f"{picture.name} does not hold heights; they are numbers in one band.")
        underlay = new_underlay(project, picture, facts, options.name or picture.stem, project.path)
        add_source(project, underlay)
    said = f"heights in {HeightFacts.of_json(underlay.heights).words}" if heights else "a picture"
    print(f"{picture.name}: {said}, in the stack")
