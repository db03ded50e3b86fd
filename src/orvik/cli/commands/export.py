"""``orvik export``: a sheet, or the data, as a file."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from orvik.cli.arguments import add_project, resolution
from orvik.exchange.features.data_file import FORMATS

if TYPE_CHECKING:
    from orvik.press.inks import Profile


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    what = parser.add_mutually_exclusive_group(required=True)
    what.add_argument("--sheet", metavar="NAME")
    known = ", ".join(name.removeprefix(".") for name in FORMATS)
    what.add_argument("--data", action="store_true", help=f"the features, as one of {known}")
    parser.add_argument("--to", type=Path, required=True, metavar="FILE")
    parser.add_argument("--dpi", type=resolution, default=300.0)
    parser.add_argument("--bleed", type=float, default=0.0, metavar="MM", help="of a PDF")
    parser.add_argument("--trim-marks", action="store_true", help="on a PDF")
    parser.add_argument(
        "--made-for", choices=("screen", "press", "archive"), default="screen", help="what a PDF is for"
    )
    parser.add_argument("--profile", type=Path, metavar="FILE", help="the ICC profile of the press")
    parser.add_argument("--groups", choices=("layer", "unit", "symbol"), default="layer", help="of an SVG")
    parser.add_argument("--outlines", action="store_true", help="letters of an SVG as outlines")
    parser.add_argument("--drawn-out", action="store_true", help="symbols of an SVG as lines of their own")


def run(options: argparse.Namespace) -> None:
    from orvik.store.read_project import opened_for_reading

    with opened_for_reading(options.project) as project:
        if options.data:
            from orvik.usecases.export.data_export import export_data

            written = export_data(project, options.to)
            pieces = f" in {written.rows} rows" if written.rows != written.features else ""
            print(f"{options.to.name}: {written.features} features{pieces}")
            for said in written.said:
                print(f"{options.to.name}: {said}")
            return
        from orvik.core.sheet.output.export_settings import ExportSettings
        from orvik.usecases.export.export_sheets import export
        from orvik.usecases.sheet.composing import sheet_named

        way = ExportSettings(
            dpi=options.dpi,
            bleed=options.bleed,
            trim_marks=options.trim_marks,
            groups=options.groups,
            outlines=options.outlines,
            drawn_out=options.drawn_out,
            made_for=options.made_for,
        )
        profile = _profile(options.profile) if options.profile else None
        for said in export(project, sheet_named(project, options.sheet), options.to, way, profile=profile):
            print(f"{options.to.name}: {said}")


def _profile(path: Path) -> Profile:
    from orvik.core.errors import FileRefused
    from orvik.press.inks import Profile

    try:
        return Profile.of(path.read_bytes(), path.name)
    except OSError as error:
        raise FileRefused(f"{path.name} cannot be read; choose the ICC file of the press.") from error
