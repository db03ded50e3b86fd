"""Jobs on parts of sheets whose pieces hands move: the rows of explanations, the boxes of correlations."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from orvik.store.read_project import opened_for_reading

if TYPE_CHECKING:
    from orvik.usecases.sheet.correlations import CorrelationView
    from orvik.usecases.sheet.explanations import ExplanationView


def explanation_rows(path: Path, part_id: int) -> ExplanationView:
    """What an explanation lists, and where."""
    from orvik.usecases.sheet.explanations import explanation_view

    with opened_for_reading(path) as project:
        return explanation_view(project, part_id)


def new_rows(path: Path, sheet_id: int) -> int:
    """How many rows have come new to the explanations of a sheet."""
    from orvik.usecases.sheet.explanations import new_row_count

    with opened_for_reading(path) as project:
        return new_row_count(project, sheet_id)


def correlation_boxes(path: Path, part_id: int) -> CorrelationView:
    """The boxes of a correlation, and where they stand."""
    from orvik.usecases.sheet.correlations import correlation_view

    with opened_for_reading(path) as project:
        return correlation_view(project, part_id)
