"""The command line: which commands there are, and what is said when one is refused.

Only the module of the command that is asked for is imported, so that help is there at once.
"""

from __future__ import annotations

import argparse
import errno
import sys
from importlib import import_module
from pathlib import Path

from orvik.core.errors import OrvikError

# Each command with its one line of help; its module in ``commands`` has its name, with an underscore for a hyphen.
COMMANDS = {
    "demo": "start with the demo project",
    "serve": "start with the projects of a folder",
    "tiles": "the stand-in for a map-tile service, from the demo",
    "notebook": "the stand-in for a field notebook that sends stations",
    "new": "make a project file",
    "info": "say what is in a project",
    "import": "import features into a project",
    "units": "import the map units of a table",
    "underlay": "add a picture or heights below the map",
    "symbols": "import symbols from a symbol book",
    "linework": "make contacts and unit tags of the unit areas",
    "form-units": "build unit areas from linework and tags",
    "check": "list the findings; exit status 1 if any is an error",
    "sheet": "add a sheet that shows the border",
    "follow": "have the sheets of projects go along with the template that they follow",
    "plate": "write the symbol book, every symbol and pattern at true size, as a PDF",
    "export": "write a sheet, or the data, to a file",
    "returned": "compare a returned SVG or PDF with its sheet",
    "archive": "write a project as one archive: file, pictures, sheets, symbols, fonts",
    "open-archive": "unpack the project of an archive, its checksums checked",
}
# What commands were called before; they work for one version more.
FORMER = {"hand-over": "archive", "take-over": "open-archive"}


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0, or 1 with one sentence on standard error."""
    typed = sys.argv[1:] if arguments is None else arguments
    if any("\0" in text or not text.isprintable() or "\ud800" <= max(text, default="") <= "\udfff" for text in typed):
        print("An argument holds letters that no file and no name can have; type it again.", file=sys.stderr)
        return 1
    if typed and typed[0] in FORMER:
        print(f"{typed[0]} is now called {FORMER[typed[0]]}; type that from now on.", file=sys.stderr)
        typed = [FORMER[typed[0]], *typed[1:]]
    try:
        options = _parser(typed).parse_args(typed)
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


def _parser(typed: list[str]) -> argparse.ArgumentParser:
    """All commands by name, and what the one that is asked for takes."""
    parser = argparse.ArgumentParser(prog="orvik", description="Compile a geologic map, from ground to print.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    asked = next((text for text in typed if not text.startswith("-")), "")
    for name, words in COMMANDS.items():
        command = commands.add_parser(name, help=words)
        if name == asked:
            module = import_module(f"orvik.cli.commands.{name.replace('-', '_')}{'_' if name == 'import' else ''}")
            module.arguments(command)
            command.set_defaults(run=module.run)
    return parser
