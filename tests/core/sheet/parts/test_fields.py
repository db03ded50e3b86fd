"""Fields of texts: filled from the imprint and the map, left out where there is nothing to say."""

from __future__ import annotations

from dataclasses import fields, replace

import pyproj
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyproj.aoi import AreaOfInterest

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.fields import FIELDS, empty_fields, fields_in, filled, grid_zone
from orvik.core.sheet.parts.map_panel import panels_of
from orvik.core.typesetting.spans import plain_text, spans_of
from tests.core.sheet.panels.test_panel import PAGE, context, part_of
from tests.examples import examples

FULL = Imprint(
    **{f.name: "2026-07-02" if f.name in ("day", "approved_on") else f"the *{f.name}*" for f in fields(Imprint)}
    | {"profile": ""}
)


def page(imprint: Imprint, with_panel: bool = True) -> PageContext:
    whole: MapContext = replace(context(), imprint=imprint)
    parts = [part_of()] if with_panel else []
    return PageContext(PAGE, parts, whole, panels_of(parts, whole))


@pytest.mark.parametrize("name", FIELDS)
@pytest.mark.parametrize("with_panel", [True, False])
def test_every_field_is_filled_or_left_out_whatever_the_page_holds(name: str, with_panel: bool) -> None:
    for imprint in (Imprint(), FULL):
        here = page(imprint, with_panel)
        said = filled(f"First\n{{{name}}}\nLast", here).split("\n")
        assert (said[0], said[-1]) == ("First", "Last")
        assert len(said) == (2 if name in empty_fields(f"{{{name}}}", here) else 3)
        assert not any("{" in line for line in said)


def test_every_entry_of_the_imprint_is_taken_up_by_a_field() -> None:
    """One that no field prints would be typed for nothing; a profile is no word."""
    for name, declared in Imprint.entries().items():
        if name == "profile":
            continue
        typed = "2026-07-02" if name in ("day", "approved_on") else "Sund and Sule"
        here, bare = page(Imprint(authors="x").changed({name: typed})), page(Imprint(authors="x"))
        assert any(filled(f"{{{field}}}", here) != filled(f"{{{field}}}", bare) for field in FIELDS), declared.label


def test_a_line_goes_only_where_all_its_fields_are_empty() -> None:
    here = page(Imprint(authors="H. Quill"))
    assert filled("By {authors}, {year}", here) == "By H. Quill"
    assert filled("{edition}, {authors}.", here) == "H. Quill."
    assert filled("{series} {authors} ({number})", here) == "H. Quill ()"
    assert filled("Edited by {editor}\nof {publisher} {edition}", here) == ""
    assert filled("No field in {braces here}, nor {Title}", here) == "No field in {braces here}, nor {Title}"
    assert list(fields_in("{title} {titel} {title}")) == [("title", True), ("titel", False)]


def test_marks_in_values_are_characters() -> None:
    said = filled("*{authors}* wrote", page(Imprint(authors="A*B^2^")), marked=True)
    assert plain_text(spans_of(said)) == "A*B^2^ wrote"
    assert [s.text for s in spans_of(said) if s.style.italic] == ["A*B^2^"]


def test_a_map_is_cited_by_all_that_is_known_of_it() -> None:
    imprint = Imprint(
        authors="Quill, H.", day="2026-07-02", title="Harrack Head", publisher="Survey", series="Maps", number="22"
    )
    said = filled("{citation}", page(imprint)).replace("\u2009", " ")
    assert said == "Quill, H., 2026, Harrack Head: Survey, Maps 22, scale 1:25 000"
    assert filled("{citation}", page(imprint.changed({"citation": "As you like"}))) == "As you like"


@given(st.floats(-179.99, 179.99), st.floats(-79.9, 83.9))
@examples(200)
def test_zones_of_the_grid_are_those_of_the_database(longitude: float, latitude: float) -> None:
    """EPSG's UTM zones on WGS 84 by their areas of use, which the exceptions of Norway and Svalbard are no part of."""
    zone = grid_zone(longitude, latitude)
    number, band = int(zone[:-1]), zone[-1]
    assert abs(latitude) < 1e-9 or (band >= "N") == (latitude >= 0)
    if (band == "V" and 0 <= longitude < 12) or (band == "X" and 0 <= longitude < 42):
        assert number in ((31, 32) if band == "V" else (31, 33, 35, 37))
        return
    if abs(longitude / 6 - round(longitude / 6)) < 1e-6:
        return
    near = AreaOfInterest(longitude, latitude, longitude, latitude)
    found = pyproj.database.query_utm_crs_info(datum_name="WGS 84", area_of_interest=near, contains=True)
    side = "N" if latitude >= 0 else "S"
    assert f"WGS 84 / UTM zone {number}{side}" in {info.name for info in found}


def test_beyond_the_grid_there_is_no_zone() -> None:
    assert grid_zone(0.0, 84.5) == grid_zone(0.0, -80.5) == ""
    # NGA.STND.0037: the four zones of Svalbard and the wide one of Norway.
    spots = [(8.9, "31X"), (9.1, "33X"), (20.9, "33X"), (21.1, "35X"), (32.9, "35X"), (33.1, "37X"), (41.9, "37X")]
    assert [grid_zone(longitude, 78.0) for longitude, _ in spots] == [zone for _, zone in spots]
    assert [grid_zone(longitude, 60.0) for longitude in (2.9, 3.1, 11.9, 12.1)] == ["31V", "32V", "32V", "33V"]


@pytest.mark.parametrize("text", ["[]", "3", "{", '{"day": "yesterday"}', '{"title": 5}'])
def test_an_imprint_that_is_none_is_refused(text: str) -> None:
    with pytest.raises(SheetRefused):
        Imprint.of_json(text)


def test_an_imprint_is_kept_as_it_was_typed() -> None:
    assert Imprint.of_json(FULL.json) == FULL
    assert (Imprint().json, Imprint.of_json("")) == ("", Imprint())
