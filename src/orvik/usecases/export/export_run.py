"""Exports carried out: sheets, a plot, the data, or the whole project, into a folder."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from orvik.core.progress import Tell, tell_nobody
from orvik.core.sheet.output.export_settings import ExportResult, ExportRun, file_stem
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.archive import write_archive
from orvik.usecases.export.data_export import ARCHIVE, export_data
from orvik.usecases.export.export_sheets import sheets_out


def carry_out(path: Path, run: ExportRun, folder: Path, tell: Tell = tell_nobody) -> ExportResult:
    """Carry out an export on a project file.

    Raises
    ------
    OrvikError
        What is asked for is gone, cannot be composed, or cannot be written.
    """
    if not run.data:
        return sheets_out(path, run, folder, tell)
    today = date.today().isoformat()
    with opened_for_reading(path) as project:
        name = file_stem("{project}-{date}", {"project": project.name, "date": today})
        if run.data != ARCHIVE:
            tell(0.0, "writing the features")
            target = folder / f"{name}.{run.data}"
            return ExportResult([target.name], export_data(project, target).said)
    target = folder / f"{name}-archive.zip"
    write_archive(path, target, today, tell)
    return ExportResult([target.name])
