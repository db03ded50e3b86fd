"""A project in one archive, opened again where there is nothing of it."""

from __future__ import annotations

import hashlib
import shutil
import subprocess
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from orvik.core.errors import FileRefused, ProjectRefused
from orvik.core.sheet.output.export_settings import ExportSettings
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.archive import open_archive, write_archive
from orvik.usecases.export.export_sheets import export


@pytest.fixture(scope="module")
def archive(corner_original: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    target = tmp_path_factory.mktemp("over") / "quennet.zip"
    write_archive(corner_original, target, "2026-07-02")
    assert [file.name for file in target.parent.iterdir()] == ["quennet.zip"]
    return target


def test_the_sheet_is_the_same_on_a_machine_that_had_none_of_it(
    archive: Path, corner_original: Path, tmp_path: Path
) -> None:
    made = open_archive(archive, tmp_path / "elsewhere")
    pictures = []
    for i, path in enumerate((corner_original, made)):
        with opened_for_reading(path) as project:
            target = tmp_path / f"{i}.pdf"
            export(project, project.sheets()[0], target, ExportSettings())
            pictures.append(target.read_bytes())
    assert pictures[0] == pictures[1]
    assert list((tmp_path / "elsewhere").glob(".*")) == []


def test_its_checksums_are_those_of_other_programs(archive: Path, tmp_path: Path) -> None:
    with zipfile.ZipFile(archive) as packed:
        packed.extractall(tmp_path)
    command = ["sha256sum", "--check", "--strict", "SHA256SUMS"]
    run = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True)
    assert run.returncode == 0, run.stdout
    there = {file.relative_to(tmp_path).parts[0] for file in tmp_path.rglob("*") if file.is_file()}
    assert there == {"project", "sheets", "fonts", "symbol-book.json", "archive.json", "README.md", "SHA256SUMS"}
    assert len(list((tmp_path / "sheets").iterdir())) == 3
    assert subprocess.run(["ogrinfo", "-so", next((tmp_path / "project").glob("*.gpkg"))]).returncode == 0


def spoilt(archive: Path, target: Path, name: str, data: bytes) -> Path:
    """A copy of an archive in which one file holds something else, or is there in addition."""
    with zipfile.ZipFile(archive) as source, zipfile.ZipFile(target, "w") as out:
        for info in source.infolist():
            out.writestr(info.filename, data if info.filename == name else source.read(info))
        if name not in source.namelist():
            out.writestr(name, data)
    return target


def test_what_is_damaged_or_reaches_outside_is_refused_and_leaves_nothing(archive: Path, tmp_path: Path) -> None:
    folder = tmp_path / "data"
    broken = spoilt(archive, tmp_path / "a.zip", "project/isle-of-quennet.gpkg", b"nothing")
    with pytest.raises(FileRefused, match="not what it was"):
        open_archive(broken, folder)
    with zipfile.ZipFile(archive) as packed:
        sums = packed.read("SHA256SUMS").decode()
    outside = spoilt(archive, tmp_path / "b.zip", "SHA256SUMS", f"{'0' * 64}  project/../../x\n{sums}".encode())
    with pytest.raises(FileRefused):
        open_archive(outside, folder)
    (tmp_path / "c.zip").write_bytes(b"PK nothing")
    with pytest.raises(FileRefused):
        open_archive(tmp_path / "c.zip", folder)
    with zipfile.ZipFile(tmp_path / "d.zip", "w") as other:
        other.writestr("a.txt", "another archive")
    with pytest.raises(FileRefused):
        open_archive(tmp_path / "d.zip", folder)
    assert not folder.exists() or list(folder.iterdir()) == []


def test_a_project_that_is_there_is_not_written_over(archive: Path, tmp_path: Path) -> None:
    open_archive(archive, tmp_path)
    with pytest.raises(ProjectRefused, match="already"):
        open_archive(archive, tmp_path)


def test_by_the_command_line(corner: Path, tmp_path: Path) -> None:
    target = tmp_path / "a.zip"
    for command in (["hand-over", corner, "--to", target], ["take-over", target, "--data", tmp_path / "b"]):
        run = subprocess.run([sys.executable, "-m", "orvik.cli", *map(str, command)], capture_output=True, text=True)
        assert run.returncode == 0, run.stderr
    check = subprocess.run(
        [sys.executable, "-m", "orvik.cli", "check", str(tmp_path / "b" / corner.name)], capture_output=True, text=True
    )
    assert "findings" in check.stdout
    shutil.rmtree(tmp_path / "b")


def test_a_name_may_hold_what_means_something_in_an_address(corner: Path, tmp_path: Path) -> None:
    odd = corner.with_name("50% of it? #2.gpkg")
    corner.rename(odd)
    corner.with_suffix(".files").rename(odd.with_suffix(".files"))
    write_archive(odd, tmp_path / "odd.zip", "2026-07-02")
    assert open_archive(tmp_path / "odd.zip", tmp_path / "there").name == odd.name


def rewritten(archive: Path, target: Path, change: Callable[[dict[str, bytes]], None]) -> Path:
    """An archive with something else in it, its checksums as they were or as they are changed."""
    with zipfile.ZipFile(archive) as packed:
        held = {name: packed.read(name) for name in packed.namelist()}
    change(held)
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in held.items():
            packed.writestr(name, data)
    return target


def no_project(held: dict[str, bytes]) -> None:
    (name,) = (n for n in held if n.endswith(".gpkg"))
    del held[name]
    lines = held["SHA256SUMS"].decode().splitlines(keepends=True)
    held["SHA256SUMS"] = "".join(line for line in lines if not line.rstrip().endswith(".gpkg")).encode()


def another_project(held: dict[str, bytes]) -> None:
    (name,) = (n for n in held if n.endswith(".gpkg"))
    data = b"no project at all"
    lines = held["SHA256SUMS"].decode().splitlines(keepends=True)
    lines = [line for line in lines if not line.rstrip().endswith(".gpkg")]
    held[name] = data
    held["SHA256SUMS"] = "".join([*lines, f"{hashlib.sha256(data).hexdigest()}  {name}\n"]).encode()


def large_description(held: dict[str, bytes]) -> None:
    held["archive.json"] = b" " * 2_000_000 + held["archive.json"]


def list_for_description(held: dict[str, bytes]) -> None:
    held["archive.json"] = b"[1, 2, 3]"


@pytest.mark.parametrize("change", [no_project, another_project, large_description, list_for_description])
def test_one_that_fails_leaves_nothing_and_the_sound_one_opens(
    archive: Path, tmp_path: Path, change: Callable[[dict[str, bytes]], None]
) -> None:
    folder = tmp_path / "elsewhere"
    with pytest.raises((FileRefused, ProjectRefused)):
        open_archive(rewritten(archive, tmp_path / "bad.zip", change), folder)
    assert not folder.exists() or list(folder.iterdir()) == []
    assert open_archive(archive, folder).is_file()
