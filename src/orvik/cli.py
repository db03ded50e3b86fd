"""The command line.

Commands: ``demo``, ``serve``, ``tiles``, ``notebook``, ``new``, ``import``, ``form-units``, ``check``, ``sheet``,
``plate``, ``export``, ``returned``, ``hand-over`` and ``take-over``.
"""

from __future__ import annotations

import argparse
import errno
import json
import sys
from ipaddress import ip_address
from pathlib import Path

from orvik.core.errors import CoordinateRefused, OrvikError
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import RULES
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales, parse_scale, proposed_digitizing
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.store.project import opened_for_reading, opened_for_writing
from orvik.usecases.ground.border import Corners
from orvik.usecases.project.project import create_project
from orvik.usecases.sheet.sheets import add_sheet

PORT = 8460


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0, or 1 with one sentence on standard error."""
    typed = sys.argv[1:] if arguments is None else arguments
    if any("\0" in text or not text.isprintable() or "\ud800" <= max(text, default="") <= "\udfff" for text in typed):
        print("An argument holds letters that no file and no name can have; type it again.", file=sys.stderr)
        return 1
    options = _parser().parse_args(typed)
    try:
        status: int | None = options.run(options)
    except OrvikError as refusal:
        print(refusal.sentence, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:
        return 1
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            print("The disk is full: make room on it, then do it again. Nothing was half written.", file=sys.stderr)
        else:
            print(f"{_named(error)} cannot be used ({error.strerror or error}).", file=sys.stderr)
        return 1
    return status or 0


def _named(error: OSError) -> str:
    return Path(str(error.filename)).name[:80] or "This place" if error.filename else "A file or folder"


def _port(text: str) -> int:
    """A port from the command line."""
    if not text.isascii() or not text.isdigit() or not 1 <= int(text[:9]) <= 65_535:
        raise argparse.ArgumentTypeError(f"{text[:20]} is no port; give a number from 1 to 65535")
    return int(text)


def _host(text: str) -> str:
    """An address of this machine alone: whoever reaches Orvik can change everything in it."""
    if text == "localhost":
        return text
    try:
        near = ip_address(text).is_loopback
    except ValueError:
        near = False
    if not near:
        raise argparse.ArgumentTypeError(
            f"{text[:60]} can be reached from other machines, and Orvik knows no accounts yet; use 127.0.0.1"
        )
    return text


def _field(text: str) -> tuple[str, str]:
    """An attribute and the field of a file that it stands in, from the command line."""
    from orvik.exchange.features.fields import ATTRIBUTES

    name, equals, column = text.partition("=")
    if not equals or name not in ATTRIBUTES:
        raise argparse.ArgumentTypeError(f"{text[:40]} names no attribute; give one of {', '.join(ATTRIBUTES)}")
    return name, column


def _dots(text: str) -> float:
    """Dots per inch from the command line."""
    try:
        dots = parse_quantity(text, "number of dots")
    except OrvikError:
        dots = 0.0
    if not 10 <= dots <= 1200:
        raise argparse.ArgumentTypeError(f"{text[:20]} dots per inch make no useful picture; give 10 to 1200")
    return dots


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="orvik", description="Compile a geologic map, from ground to print.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    demo = commands.add_parser("demo", help="start with the demo project")
    demo.add_argument("--port", type=_port, default=PORT)
    demo.add_argument("--data", type=Path, default=Path("data"))
    demo.set_defaults(run=_demo, host="127.0.0.1")

    serve = commands.add_parser("serve", help="start with the projects of a folder")
    serve.add_argument("--host", type=_host, default="127.0.0.1")
    serve.add_argument("--port", type=_port, default=PORT)
    serve.add_argument("--data", type=Path, default=Path("data"))
    serve.set_defaults(run=_serve)

    tiles = commands.add_parser("tiles", help="the stand-in for a map-tile service, from the demo")
    tiles.add_argument("--host", type=_host, default="127.0.0.1")
    tiles.add_argument("--port", type=_port, default=PORT + 1)
    tiles.add_argument("--data", type=Path, default=Path("data"))
    tiles.set_defaults(run=_tiles)

    notebook = commands.add_parser("notebook", help="the stand-in for a field notebook that sends stations")
    notebook.add_argument("--to", default=f"http://127.0.0.1:{PORT}/p/isle-of-quennet", metavar="ADDRESS")
    notebook.add_argument("--count", type=int, default=5)
    notebook.add_argument("--every", type=float, default=2.0, metavar="SECONDS")
    notebook.set_defaults(run=_notebook)

    new = commands.add_parser("new", help="make a project file")
    new.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    new.add_argument("--name", required=True)
    new.add_argument("--crs", required=True, metavar="EPSG:CODE")
    new.add_argument("--scale", required=True, metavar="25000")
    new.add_argument("--border", metavar="WEST,SOUTH,EAST,NORTH")
    new.set_defaults(run=_new)

    bring = commands.add_parser("import", help="bring features into a project")
    bring.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    bring.add_argument("files", type=Path, nargs="+", metavar="FILE")
    bring.add_argument("--kind", help="kind of features that do not state one")
    bring.add_argument("--unit-field", metavar="NAME", help="field that holds the unit code")
    bring.add_argument("--crs", default="", metavar="CODE", help="coordinate system of files that state none")
    bring.add_argument(
        "--field",
        type=_field,
        action="append",
        default=[],
        metavar="ATTRIBUTE=FIELD",
        help="what a field of the file is, such as dip_direction=AZ",
    )
    bring.add_argument("--capture-scale", default="", metavar="1:25000", help="of features that state none")
    bring.add_argument("--certainty", default="", help="of features that state none")
    bring.add_argument("--source", default="", metavar="WORDS", help="where the features come from")
    bring.set_defaults(run=_import)

    form = commands.add_parser("form-units", help="build unit areas from linework and tags")
    form.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    form.add_argument("--take-ground", action="store_true", help="let tags have ground that areas of other units hold")
    form.set_defaults(run=_form_units)

    check = commands.add_parser("check", help="list the findings; exit status 1 if any is an error")
    check.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    check.add_argument("--sheet", metavar="NAME", help="with the findings of a sheet")
    check.add_argument("--json", action="store_true", help="as JSON, for programs")
    check.set_defaults(run=_check)

    sheet = commands.add_parser("sheet", help="add a sheet that shows the border")
    sheet.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    sheet.add_argument("--name", required=True)
    sheet.add_argument("--paper", default="A3")
    sheet.add_argument("--landscape", action="store_true")
    sheet.set_defaults(run=_sheet)

    plate = commands.add_parser("plate", help="write the sign book, every sign and pattern at true size, as a PDF")
    plate.add_argument("project", type=Path, nargs="?", help="with the own kinds of a project")
    plate.add_argument("--to", type=Path, required=True, metavar="FILE.pdf")
    plate.set_defaults(run=_plate)

    export = commands.add_parser("export", help="write a sheet, or the data, to a file")
    export.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    what = export.add_mutually_exclusive_group(required=True)
    what.add_argument("--sheet", metavar="NAME")
    what.add_argument("--data", action="store_true", help="the features: gpkg, geojson, zip, fgb, kml, dxf or csv")
    export.add_argument("--to", type=Path, required=True, metavar="FILE")
    export.add_argument("--dpi", type=_dots, default=300.0)
    export.add_argument("--bleed", type=float, default=0.0, metavar="MM", help="of a PDF")
    export.add_argument("--trim-marks", action="store_true", help="on a PDF")
    export.add_argument("--groups", choices=("layer", "unit", "sign"), default="layer", help="of an SVG")
    export.add_argument("--outlines", action="store_true", help="letters of an SVG as outlines")
    export.add_argument("--drawn-out", action="store_true", help="signs of an SVG as lines of their own")
    export.set_defaults(run=_export)

    back = commands.add_parser("returned", help="compare an SVG or PDF that has come back with its sheet")
    back.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    back.add_argument("file", type=Path, metavar="FILE.{svg,pdf}")
    back.add_argument("--sheet", metavar="NAME", required=True)
    back.add_argument("--take-back", action="store_true", help="take moved labels and rewritten texts back")
    back.set_defaults(run=_returned)

    over = commands.add_parser("hand-over", help="write a project as one archive: file, pictures, sheets, signs, fonts")
    over.add_argument("project", type=Path, metavar="PROJECT.gpkg")
    over.add_argument("--to", type=Path, required=True, metavar="ARCHIVE.zip")
    over.set_defaults(run=_hand_over)

    take = commands.add_parser("take-over", help="unpack the project of an archive, its checksums checked")
    take.add_argument("archive", type=Path, metavar="ARCHIVE.zip")
    take.add_argument("--data", type=Path, default=Path("data"))
    take.set_defaults(run=_take_over)
    return parser


def _returned(options: argparse.Namespace) -> None:
    from orvik.usecases.proof.returned import compare_file, take_back
    from orvik.usecases.sheet.composing import sheet_named

    data, name = options.file.read_bytes(), options.file.name
    with opened_for_reading(options.project) as project:
        number = sheet_named(project, options.sheet).id or 0
        for said in compare_file(project, number, data, name).words:
            print(said)
    if options.take_back:
        with opened_for_writing(options.project) as project:
            entry = take_back(project, number, data, name)
            print(f"Kept: {entry.label}." if entry is not None else "Nothing in it was moved or rewritten.")


def _hand_over(options: argparse.Namespace) -> None:
    from datetime import date

    from orvik.usecases.export.archive import hand_over

    count = hand_over(options.project, options.to, date.today().isoformat())
    print(f"{options.to.name}: {count} files")


def _take_over(options: argparse.Namespace) -> None:
    from orvik.usecases.export.archive import take_over

    print(take_over(options.archive, options.data))


def _demo(options: argparse.Namespace) -> None:
    from orvik.demo.build import build

    build(options.data)
    _serve(options)


def _serve(options: argparse.Namespace) -> None:
    from orvik.web.app import create_app
    from orvik.web.guard import LOCAL_NAMES
    from orvik.web.server import answer

    app = create_app(options.data, LOCAL_NAMES | {options.host}, warm=True)
    answer(app, options.host, options.port, "Orvik is at http://{address}/ (Ctrl+C stops it)")


def _tiles(options: argparse.Namespace) -> None:
    from orvik.web.server import answer
    from orvik.web.stand_in import create_service

    answer(
        create_service(options.data),
        options.host,
        options.port,
        "Tiles are at http://{address}/{{z}}/{{x}}/{{y}}.png (Ctrl+C stops it)",
    )


def _notebook(options: argparse.Namespace) -> None:
    from orvik.demo.field_notebook import send

    for line in send(options.to, options.count, options.every):
        print(line, flush=True)


def _new(options: argparse.Namespace) -> None:
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


def _import(options: argparse.Namespace) -> None:
    from orvik.usecases.compile.import_features import Said, bring_in

    said = Said(
        options.kind,
        options.unit_field,
        options.crs,
        dict(options.field),
        {
            name: value
            for name, value in (("capture_scale", options.capture_scale), ("certainty", options.certainty))
            if value
        },
        options.source,
    )
    with opened_for_writing(options.project) as project:
        for path in options.files:
            _, reading = bring_in(project, path, said)
            print(f"{path.name}: {len(reading.features)} features")
            for note in reading.notes:
                print(f"{path.name}: {note}")
            for number, why in reading.left:
                print(f"{path.name}: {f'row {number}' if number else 'a feature'} was left out: {why}")


def _form_units(options: argparse.Namespace) -> None:
    from orvik.usecases.compile.forming import form_units, taken_words

    with opened_for_writing(options.project) as project:
        plan = form_units(project, options.take_ground)
        print(
            f"{plan.formed} faces have their unit; {len(plan.kept)} areas made or changed, {len(plan.deleted)} gave way"
        )
        for said in taken_words(plan, project.crs.metres_per_unit):
            print(said)
        if plan.takings and not options.take_ground:
            print("These faces stay as they are. With --take-ground the tags have their way.")


def _check(options: argparse.Namespace) -> int:
    from orvik.usecases.proof.checking import check

    found = check(options.project, options.sheet)
    if options.json:
        accepted = [{**f.json, "reason": a.reason, "signed": a.signed, "dated": a.dated} for f, a in found.accepted]
        said = {"findings": [f.json for f in found.open], "accepted": accepted, "resting": dict(found.resting)}
        print(json.dumps(said, ensure_ascii=False, indent=1))
        return int(found.errors > 0)
    for finding in found.open:
        print(f"{finding.severity}: {finding.message}{_where(finding)}")
    for finding, acceptance in found.accepted:
        print(f"accepted: {finding.message} “{acceptance.reason}” {acceptance.signed}, {acceptance.dated}")
    for rule, count in found.resting.items():
        print(f"resting: {RULES[rule].title} ({count})")
    print(f"{len(found.open)} findings" if found.open else "Nothing was found.")
    return int(found.errors > 0)


def _where(finding: Finding) -> str:
    """Where a finding is, on the ground and on the page."""
    ground = f" ({finding.at[0]:.2f}, {finding.at[1]:.2f})" if finding.at is not None else ""
    page = f" [{finding.spot[0]:.1f}, {finding.spot[1]:.1f} mm]" if finding.spot is not None else ""
    return ground + page


def _sheet(options: argparse.Namespace) -> None:
    with opened_for_writing(options.project) as project:
        add_sheet(project, NewSheet(options.name, options.paper, options.landscape))


def _plate(options: argparse.Namespace) -> None:
    from orvik.usecases.symbols.plate import write_plate

    pages = write_plate(options.project, options.to)
    print(f"{options.to.name}: {pages} pages")


def _export(options: argparse.Namespace) -> None:
    from orvik.core.sheet.output.export_settings import WayOut
    from orvik.usecases.export.data_export import export_data
    from orvik.usecases.export.export_sheets import export
    from orvik.usecases.sheet.composing import sheet_named

    with opened_for_reading(options.project) as project:
        if options.data:
            written = export_data(project, options.to)
            pieces = f" in {written.rows} rows" if written.rows != written.features else ""
            print(f"{options.to.name}: {written.features} features{pieces}")
            for said in written.said:
                print(f"{options.to.name}: {said}")
            return
        way = WayOut(
            dpi=options.dpi,
            bleed=options.bleed,
            trim_marks=options.trim_marks,
            groups=options.groups,
            outlines=options.outlines,
            drawn_out=options.drawn_out,
        )
        export(project, sheet_named(project, options.sheet), options.to, way)


if __name__ == "__main__":
    sys.exit(main())
