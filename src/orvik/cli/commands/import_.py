"""``orvik import``: features of files into a project."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from orvik.cli.arguments import add_project

if TYPE_CHECKING:
    from orvik.exchange.mappings.mapping import FieldMapping


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("files", type=Path, nargs="+", metavar="FILE")
    parser.add_argument("--kind", help="kind of features that do not state one")
    parser.add_argument("--unit-field", metavar="NAME", help="field that holds the unit code")
    parser.add_argument("--crs", default="", metavar="CODE", help="coordinate system of files that state none")
    parser.add_argument(
        "--field",
        type=_field,
        action="append",
        default=[],
        metavar="ATTRIBUTE=FIELD",
        help="what a field of the file is, such as dip_direction=AZ",
    )
    parser.add_argument("--capture-scale", default="", metavar="1:25000", help="of features that state none")
    parser.add_argument("--certainty", default="", help="of features that state none")
    parser.add_argument("--source", default="", metavar="WORDS", help="where the features come from")
    parser.add_argument("--as-linework", action="store_true", help="unit areas become contacts and unit tags")
    parser.add_argument(
        "--outer",
        choices=("lines", "border", "shore", "none"),
        default="lines",
        help="what the outer edge of the areas becomes",
    )
    parser.add_argument(
        "--mapping", type=Path, metavar="FILE", help="what all fields and values mean, as saved from the page"
    )


def _field(text: str) -> tuple[str, str]:
    """An attribute and the field of a file that it stands in."""
    from orvik.exchange.mappings.attributes import ATTRIBUTES

    name, equals, column = text.partition("=")
    if not equals or name not in ATTRIBUTES:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” names no attribute; type one of {', '.join(ATTRIBUTES)}")
    return name, column


def _mapping(path: Path) -> FieldMapping:
    from orvik.core.errors import FileRefused
    from orvik.exchange.mappings.mapping_file import read

    try:
        return read(path.read_bytes(), path.name).mapping
    except OSError as error:
        raise FileRefused(f"{path.name} cannot be read: {error.strerror}.") from error


def run(options: argparse.Namespace) -> None:
    from orvik.store.project import opened_for_writing
    from orvik.usecases.compile.linework import LineworkChoices
    from orvik.usecases.intake.import_features import import_file
    from orvik.usecases.intake.import_mapping import ImportChoices

    given = {"capture_scale": options.capture_scale, "certainty": options.certainty}
    said = ImportChoices(
        options.kind,
        options.unit_field,
        options.crs,
        dict(options.field),
        {name: value for name, value in given.items() if value},
        options.source,
        _mapping(options.mapping) if options.mapping else None,
        LineworkChoices(options.outer) if options.as_linework else None,
    )
    with opened_for_writing(options.project) as project:
        for path in options.files:
            _, reading = import_file(project, path, said)
            print(f"{path.name}: {len(reading.features)} features")
            for note in reading.notes:
                print(f"{path.name}: {note}")
            for number, why in reading.left:
                print(f"{path.name}: {f'row {number}' if number else 'a feature'} was left out: {why}")
