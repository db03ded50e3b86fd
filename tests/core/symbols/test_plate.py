"""The plate: every symbol and pattern once, at true size, whatever a project has made for itself."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from orvik.cli import main
from orvik.core.features.custom_kind import CustomField, CustomKind, FieldChoice
from orvik.core.ink.primitives import Marks, Ornaments, Pattern, Stroke, Text, walk
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.custom_symbols import with_custom
from orvik.core.symbols.plate import FIRST, FOOT, SPECIMEN, plate
from orvik.press.pdf import page_pdf
from tests.press.measure import segments

BOOK = standard()
STATES = CustomField("State", "choice", (FieldChoice("dry"), FieldChoice("wet", "#2C5F8A")))


def test_every_symbol_and_pattern_is_there_once_and_on_the_page() -> None:
    pages = plate(BOOK)
    items = [list(walk(page.items)) for page in pages]
    flat = [item for page in items for item in page]
    assert sum(isinstance(item, Marks) for item in flat) == sum(symbol.table == "points" for symbol in BOOK.symbols)
    overlays = sum(symbol.pattern is not None for symbol in BOOK.symbols)
    assert sum(isinstance(item, Pattern) for item in flat) == len(BOOK.patterns) + overlays
    words = " ".join(item.run.chars for item in flat if isinstance(item, Text))
    for symbol in BOOK.symbols:
        title = symbol.title.removesuffix(f", {symbol.certainty}").split()
        assert all(word in words for word in title), symbol.title
    for page in items:
        for item in page:
            if isinstance(item, Stroke):
                assert item.paths.xy.min() >= 0
                assert item.paths.xy[:, 0].max() <= 196
                assert item.paths.xy[:, 1].max() <= FOOT + 8


def test_custom_kinds_of_every_sort_are_on_it() -> None:
    kinds = [
        CustomKind("drain", "Drain", "lines", fields=(STATES,)),
        CustomKind("hut", "Hut", "points", fields=(STATES,)),
        CustomKind("bog", "Bog", "areas", fields=(STATES,)),
    ]
    pages = plate(with_custom(BOOK, kinds))
    words = [item.run.chars for page in pages for item in walk(page.items) if isinstance(item, Text)]
    assert {"Drain, wet", "Hut, dry", "Bog, wet"} <= set(words)


@pytest.mark.parametrize(
    ("kind", "certainty", "width"),
    # FGDC-STD-013-2006, from memory.
    [("contact", "certain", 0.15), ("fault", "certain", 0.375), ("thrust", "inferred", 0.375)],
)
def test_weights_of_the_standard(kind: str, certainty: str, width: float) -> None:
    assert BOOK.symbol("lines", kind, certainty).weight == width


def test_lengths_and_spacings_measured_out_of_the_file() -> None:
    """Read back by PDFium: specimens are 22 mm long, the check line 50 mm, and teeth stand evenly and whole."""
    page = next(page for page in plate(BOOK) if any(isinstance(i, Ornaments) for i in page.items))
    found = segments(page_pdf(page.items, page.width, page.height, "plate"))
    straight = [np.array(path) for path in found if len(path) == 2]
    lengths = [float(np.hypot(*(path[1] - path[0]))) for path in straight]
    assert any(abs(length - 50.0) < 0.002 for length in lengths)
    specimens = [path for path, length in zip(straight, lengths, strict=True) if abs(length - SPECIMEN) < 0.002]
    assert sum(abs(path[0, 0] - FIRST) < 0.002 for path in specimens) >= 10
    teeth = [item for item in page.items if isinstance(item, Ornaments) and len(item.stamp.items) == 1]
    rows = 0
    for item in teeth:
        inside = item.at[np.abs(item.at[:, 0] - FIRST - SPECIMEN / 2) <= SPECIMEN / 2]
        if len(inside) > 2:
            rows += 1
            gaps = np.diff(inside[:, 0])
            assert gaps.max() - gaps.min() < 1e-9
            assert abs((inside[0, 0] - FIRST) - (FIRST + SPECIMEN - inside[-1, 0])) < 1e-9
    assert rows >= 3


def test_by_one_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["plate", "--to", str(tmp_path / "plate.pdf")]) == 0
    assert (tmp_path / "plate.pdf").read_bytes().startswith(b"%PDF")
    assert "pages" in capsys.readouterr().out
    assert main(["plate", "--to", str(tmp_path / "plate.png")]) == 1
    assert "use the file extension .pdf" in capsys.readouterr().err


def test_by_one_command_for_a_project(demo: Path, tmp_path: Path) -> None:
    assert main(["plate", str(demo), "--to", str(tmp_path / "plate.pdf")]) == 0
