"""Paper sizes and contrast against their standards."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from orvik.core.colour import contrast, readable_on
from orvik.core.sheet.page import PAPERS, paper_size

# ISO 216 and ASME Y14.1, sizes in millimetres and inches.
ISO = {"A4": (210, 297), "A3": (297, 420), "A2": (420, 594), "A1": (594, 841), "A0": (841, 1189)}
ANSI = {"ANSI A": (8.5, 11), "ANSI B": (11, 17), "ANSI C": (17, 22), "ANSI D": (22, 34), "ANSI E": (34, 44)}
TOKENS = Path(__file__).parents[2] / "src/orvik/web/frame/static/tokens.css"


@pytest.mark.parametrize("name", ISO)
def test_iso(name: str) -> None:
    assert paper_size(name, landscape=False) == (name, *ISO[name])
    assert paper_size(name, landscape=True) == (name, *reversed(ISO[name]))


@pytest.mark.parametrize("name", ANSI)
def test_ansi(name: str) -> None:
    _, width, height = paper_size(name, landscape=False)
    assert (width / 25.4, height / 25.4) == pytest.approx(ANSI[name])
    assert len(PAPERS) == len(ISO) + len(ANSI)


def test_contrast_ratio() -> None:
    """WCAG 2.2: black on white is 21:1; #767676 on white is the lightest grey to pass, 4.54:1 (memory)."""
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21)
    assert contrast("#767676", "#FFFFFF") == pytest.approx(4.54, abs=0.01)


def test_interface_text_stands_out() -> None:
    tokens = dict(re.findall(r"--(\w+): (#[0-9A-F]{6})", TOKENS.read_text(), re.IGNORECASE))
    for text in ("ink", "soft", "signal", "sound", "caution", "error"):
        for ground in ("card", "sheet", "paper"):
            # The signal is only ever a line or a mark on paper and card; 3:1 is asked of those.
            least = 3.0 if text == "signal" else 4.5
            assert contrast(tokens[text], tokens[ground]) >= least, (text, ground)


def test_codes_stand_out_on_any_unit_colour() -> None:
    for red in range(0, 256, 51):
        for green in range(0, 256, 51):
            for blue in range(0, 256, 51):
                colour = f"#{red:02X}{green:02X}{blue:02X}"
                assert contrast(readable_on(colour), colour) > 3.6
