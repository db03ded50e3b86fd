"""A note is pinned, given to somebody, answered, printed with the proof, answered there, and read back."""

from __future__ import annotations

from pathlib import Path

import pikepdf
from pikepdf import Dictionary, Name, String
from selenium.webdriver import ActionChains, Chrome, Keys

from orvik.store.read_project import opened_for_reading
from orvik.store.tables.margin_notes import margin_notes
from tests.browser.hands import downloaded, find, heard, text_of, until
from tests.browser.test_proof import PROOF, messages, note, open_note


def test_a_note_goes_out_with_the_proof_and_its_answer_comes_back(
    driver: Chrome, demo_address: str, demo: Path, downloads: Path, tmp_path: Path
) -> None:
    driver.get(demo_address + PROOF)
    until(driver, lambda d: messages(d))
    before = len(messages(driver))
    # Pinned where a click says, after a look at what is missing.
    find(driver, "#pin-note").click()
    desk = find(driver, "#proof-desk")
    ActionChains(driver).move_to_element_with_offset(desk, -60, 30).click().perform()
    until(driver, lambda d: d.switch_to.active_element.get_attribute("id") == "pin-text")
    find(driver, "#pin-form .main-button").click()
    until(driver, lambda d: "Write what is to be noted" in text_of(d, "#pin-form .refusal"))
    find(driver, "#pin-text").send_keys("Is the fan drawn too small?")
    find(driver, "#pin-given").send_keys("B. Reed")
    find(driver, "#pin-signed").send_keys("A. Moss")
    find(driver, "#pin-form .main-button").click()
    until(driver, lambda d: len(messages(d)) == before + 1)
    assert not find(driver, "#pin-form").is_displayed()
    assert "1 note" in text_of(driver, "#proof-counts")
    number = note(driver, "Is the fan drawn")
    assert find(driver, f'.mark[data-note="{number[5:]}"]').is_displayed()

    # By keys alone: the place in the middle of the desk, and the name stands there already.
    find(driver, "#pin-note").send_keys(Keys.ENTER)
    driver.switch_to.active_element.send_keys(Keys.ENTER)
    until(driver, lambda d: d.switch_to.active_element.get_attribute("id") == "pin-text")
    driver.switch_to.active_element.send_keys("Middle", Keys.TAB, Keys.TAB)
    assert driver.switch_to.active_element.get_attribute("value") == "A. Moss"
    driver.switch_to.active_element.send_keys(Keys.ENTER)
    until(driver, lambda d: len(messages(d)) == before + 2)

    # One is given to somebody: those are listed at a click, and answered.
    find(driver, "#given-to-1").click()
    until(driver, lambda d: len(messages(d)) == 1)
    number = open_note(driver, "Is the fan drawn")
    find(driver, f"#{number} .answering summary").click()
    find(driver, f"#{number} .answering textarea").send_keys("I look at it tomorrow.")
    find(driver, f"#{number} .answering .main-button").click()
    until(driver, lambda d: "I look at it tomorrow." in text_of(d, f"#{note(d, 'Is the fan')}"))
    find(driver, "#given-to-1").click()
    until(driver, lambda d: len(messages(d)) == before + 2)

    # The other is settled, and stands among those.
    number = open_note(driver, "Middle")
    next(b for b in find(driver, f"#{number}").find_elements("css selector", "button") if b.text == "Settled").click()
    until(driver, lambda d: "Middle" in text_of(d, "#proof-over"))
    assert len(messages(driver)) == before + 1

    # The proof is taken, and nothing is new since.
    find(driver, "#proof-with-marks").click()
    data = downloaded(driver, downloads, "Harrack-Head-proof.pdf")
    until(driver, lambda d: d.find_elements("css selector", "#only-new"))
    find(driver, "#only-new").click()
    until(driver, lambda d: "Nothing is new" in text_of(d, "#margin-notes"))

    # Somebody answers in the file, and puts a note of their own beside.
    path = tmp_path / "answered.pdf"
    (downloads / "there.pdf").write_bytes(data)
    with pikepdf.open(downloads / "there.pdf") as pdf:
        held = pdf.pages[0].obj.Annots
        ours = next(one for one in held if str(one.Contents) == "Is the fan drawn too small?")
        for said, to in (("It is: see the picture.", ours), ("A spring is missing.", None)):
            made = Dictionary(Type=Name.Annot, Subtype=Name.Text, Rect=ours.Rect)
            made.Contents, made.T = String(said), String("C. Dale")
            if to is not None:
                made.IRT = to
            held.append(pdf.make_indirect(made))
        pdf.save(path)
    find(driver, "#returned-file").find_element("xpath", "ancestor::details").find_element(
        "tag name", "summary"
    ).click()
    find(driver, "#returned-file").send_keys(str(path))
    find(driver, "#returned-file").find_element("xpath", "ancestor::form//button").click()
    until(driver, lambda d: "2 notes left in it" in text_of(d, "#returned"))
    assert "C. Dale: A spring is missing." in text_of(driver, "#returned")
    find(driver, "#take-notes").click()
    until(driver, lambda d: "Saved: take in 2 notes" in text_of(d, "#returned"))
    # Both are new: the answered note, and the spring.
    until(driver, lambda d: len(messages(d)) == 2)
    heard(driver)
    assert "It is: see the picture." in find(driver, f"#{note(driver, 'Is the fan')}").get_attribute("textContent")
    assert note(driver, "A spring is missing.")
    with opened_for_reading(demo) as project:
        fan = next(n for n in margin_notes(project) if "fan" in n.message)
        assert [(a.author, a.text) for a in fan.answers] == [
            ("A. Moss", "I look at it tomorrow."),
            ("C. Dale", "It is: see the picture."),
        ]
