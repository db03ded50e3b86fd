"""What an editor finds, mended at a click: a typed scale made a field, a north arrow, a reading turned back."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from selenium.webdriver import Chrome

from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from tests.browser.hands import find, text_of, until
from tests.browser.test_proof import PROOF, messages, open_note
from tests.proof.editor.of_geology import strike_and_dip_exchanged
from tests.proof.editor.seed_kind import change_settings, parts_of
from tests.proof.editor.seed_kind import note as put_note


def mended(driver: Chrome, words: str, button: str) -> None:
    """Click what a note offers, and wait until the note is gone."""
    number = open_note(driver, words)
    fix = find(driver, f"#{number} form button")
    assert button in fix.text
    fix.click()
    until(driver, lambda d: not any(words in message for message in messages(d)))


def test_texts_and_readings_are_mended_where_they_are_told(driver: Chrome, demo_address: str, demo: Path) -> None:
    with opened_for_writing(demo) as project:
        part = put_note(project, "Scale 1:50 000")
        told = strike_and_dip_exchanged(project, np.random.default_rng(3))
        ((_, reading),) = told.features
        turned = project.feature("points", reading)
    driver.get(demo_address + PROOF)
    mended(driver, "Remarks says “1:50", "Make it a field")
    mended(driver, "exchanged", "Write")
    with opened_for_reading(demo) as project:
        assert project.part(part.number).settings.text == "Scale {scale}"  # type: ignore[attr-defined]
        now = project.feature("points", reading)
        assert (now.azimuth, now.inclination) == (turned.inclination, turned.azimuth)


def test_a_north_arrow_goes_back_to_the_panel_it_stands_at(driver: Chrome, demo_address: str, demo: Path) -> None:
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[1].number
        (arrow,) = parts_of(project, NorthArrow, 1)
        panel = arrow.settings.panel  # type: ignore[attr-defined]
        inset = next(p for p in project.parts(sheet) if p.label == "Head of the burn")
        change_settings(project, arrow, panel=inset.number)
    driver.get(f"{demo_address}{PROOF}?sheet={sheet}")
    mended(driver, "The north arrow stands at Main map and speaks of Head of the burn", "Let it speak of Main map")
    assert "Nothing" not in text_of(driver, "#margin-notes h2")
    with opened_for_reading(demo) as project:
        assert project.part(arrow.number).settings.panel == panel  # type: ignore[attr-defined]
