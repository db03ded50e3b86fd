"""The command line: one module a command, each importing what it needs."""

from orvik.cli.command_line import main as main
