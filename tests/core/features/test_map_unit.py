"""Map units: what is printed for them, their ages, and their order."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest

from orvik.core.errors import FeatureRefused
from orvik.core.features.age_letters import CAMBRIAN, PALEOGENE, PENNSYLVANIAN, SPOKEN, TRIASSIC, printed_label
from orvik.core.features.map_unit import TINTS, MapUnit, new_colour, out_of_order, stratigraphic_order
from orvik.core.ink.primitives import Text
from orvik.core.lettering import BOLD, ITALIC, ROMAN, run
from orvik.press.pdf import page_pdf


def unit(code: str, position: int = 1, **values: str) -> MapUnit:
    return MapUnit(code, code, values.pop("age", ""), "#FFFFFF", position=position, **values)


def test_youngest_first() -> None:
    units = [unit(c, p) for c, p in (("pCg", 7), ("Qal", 1), ("Kp", 3))]
    assert [u.code for u in stratigraphic_order(units)] == ["Qal", "Kp", "pCg"]


@pytest.mark.parametrize(
    ("code", "age_from", "age_to", "label"),
    [
        # Letters of ages: common practice on American maps.
        ("Cw", "Cambrian", "", f"{CAMBRIAN}w"),
        ("Cw", "Furongian", "", f"{CAMBRIAN}w"),
        ("Cw", "Carboniferous", "", "Cw"),
        ("Cw", "", "", "Cw"),
        ("TRc", "Triassic", "", f"{TRIASSIC}c"),
        ("Trc", "Lower Triassic", "", f"{TRIASSIC}c"),
        ("PNm", "Pennsylvanian", "", f"{PENNSYLVANIAN}m"),
        ("Pm", "Permian", "", "Pm"),
        ("Pm", "Paleogene", "", f"{PALEOGENE}m"),
        ("PEm", "Eocene", "", f"{PALEOGENE}m"),
        ("pCg", "Precambrian", "", f"p{CAMBRIAN}g"),
        ("JTRn", "Triassic", "Jurassic", f"J{TRIASSIC}n"),
        ("Jn", "Triassic", "Jurassic", "Jn"),
        ("gn", "Cambrian", "", "gn"),
        ("Qal", "Holocene", "", "Qal"),
    ],
)
def test_the_letter_comes_from_the_age(code: str, age_from: str, age_to: str, label: str) -> None:
    assert printed_label(code, age_from, age_to) == label
    assert unit(code, age_from=age_from, age_to=age_to).printed_label == label


def test_what_is_set_by_hand_counts_and_a_written_age_is_read() -> None:
    assert unit("pCg", age="Precambrian").printed_label == f"p{CAMBRIAN}g"
    assert unit("pCg", age="Precambrian", label="gn").printed_label == "gn"
    assert unit("Cw", age="of some age").printed_label == "Cw"
    assert unit("Jc", age_from="Bajocian", age_to="Callovian").printed_age == "Bajocian to Callovian"
    assert unit("Jc", age_from="Bajocian", age="about 170 Ma").printed_age == "about 170 Ma"
    held = unit("Kp", age="Early Cretaceous").span
    assert held is not None
    assert held.older == 143.1


@pytest.mark.parametrize("face", [ROMAN, ITALIC, BOLD])
def test_letters_of_ages_are_in_the_faces_of_the_sheet(face: str, tmp_path: Path) -> None:
    """Drawn in the sheet's own face, and copied out of a PDF as the letters that they join."""
    text = f"{CAMBRIAN}w {TRIASSIC}c {PENNSYLVANIAN}m {PALEOGENE}s"
    letters = run(text, face, 8.0)
    assert not letters.fonts or set(letters.fonts) == {face}
    (tmp_path / "a.pdf").write_bytes(page_pdf([Text(letters, (5, 20), "#000000")], 90, 40, "ages"))
    copied = subprocess.run(["pdftotext", tmp_path / "a.pdf", "-"], capture_output=True, text=True, check=True).stdout
    assert copied.split() == [f"{CAMBRIAN}w", *(f"{SPOKEN[c]}{x}" for c, x in zip(SPOKEN, "cms", strict=True))]


@pytest.mark.parametrize(
    ("values", "why"),
    [
        ({"age_from": "Jurassik"}, "Is it Jurassic"),
        ({"age_from": "long ago"}, "Choose one from the list"),
        ({"age_to": "Jurassic"}, "from which age on"),
        ({"age_from": "Jurassic", "age_to": "Permian"}, "the older age comes first"),
        ({"rank": "clan"}, "is not a rank"),
        ({"parent": "Kp"}, "part of itself"),
        ({"pattern_colour": "red"}, "not a colour"),
        ({"heading": "x" * 90}, "longer than 80"),
        ({"pattern_opacity": 1.5}, "0 to 100"),
    ],
)
def test_what_no_unit_can_be(values: dict[str, str], why: str) -> None:
    with pytest.raises(FeatureRefused, match=why):
        MapUnit("Kp", "Pellan Mudstone", "", "#FFFFFF", **values)  # type: ignore[arg-type]


def test_order_against_ages() -> None:
    """Only what is wholly older above what is younger is told, and only under one heading."""
    right = [unit("Q", 1, age="Holocene"), unit("K", 2, age="Cretaceous"), unit("J", 3, age="Jurassic")]
    assert out_of_order(right) == []
    # Ages that overlap contradict nothing.
    assert out_of_order([unit("M", 1, age="Mesozoic"), unit("J", 2, age="Jurassic"), unit("X", 3)]) == []
    wrong = [unit("J", 1, age="Jurassic"), unit("X", 2), unit("K", 3, age="Cretaceous"), unit("Q", 4, age="Holocene")]
    assert [(a.code, b.code) for a, b in out_of_order(wrong)] == [("J", "K"), ("J", "Q")]
    apart = [unit("J", 1, age="Jurassic"), unit("K", 2, age="Cretaceous", heading="Intrusive rocks")]
    assert out_of_order(apart) == []


def test_no_two_new_units_have_one_colour() -> None:
    """However many there are, and however many of them share colours already."""
    units = [MapUnit("A", "A", "", TINTS[0]), MapUnit("B", "B", "", TINTS[0].lower())]
    for number in range(60):
        units.append(MapUnit(f"U{number}", "Any", "", new_colour(units)))
    made = [unit.colour.upper() for unit in units[1:]]
    assert len(set(made)) == len(made)
    assert set(TINTS) <= set(made)
