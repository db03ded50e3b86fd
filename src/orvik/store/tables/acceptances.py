"""Accepted findings and turned_off rules as they are kept."""

from __future__ import annotations

import sqlite3

from orvik.core.findings.acceptance import Acceptance
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Fault, Reader


def acceptances(project: Reader) -> dict[str, Acceptance]:
    """What has been accepted, by the key of its finding; a row that holds none is left out."""
    sound = (row for row in project.acceptances() if not rows.refusals(_acceptance, row))
    return {row["key"]: _acceptance(row) for row in sound}


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no acceptance, each with what is wrong with it."""
    listed = project.acceptances()
    return [Fault("acceptances", row["id"], why) for row in listed for why in rows.refusals(_acceptance, row)]


def acceptance_change(made: Acceptance) -> Change:
    """The change that keeps an acceptance, new or signed again."""
    values = {
        "key": made.key,
        "state": made.state,
        "message": made.message,
        "reason": made.reason,
        "signed": made.signed,
        "dated": made.dated,
    }
    return Change("acceptances", made.id, values)


def turned_off_rules(project: Reader) -> dict[str, int]:
    """The names of the rules that rest, with the ids of their rows."""
    return {str(row["rule"]): int(row["id"]) for row in project.turned_off_rules()}


def _acceptance(row: sqlite3.Row) -> Acceptance:
    key, state, message = str(row["key"]), str(row["state"]), str(row["message"])
    return Acceptance(key, state, message, str(row["reason"]), str(row["signed"]), str(row["dated"]), int(row["id"]))
