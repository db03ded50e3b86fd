"""A mapping as a file: what was saved comes back, and nothing else is taken."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import FileRefused
from orvik.core.features.table import TABLES
from orvik.exchange.mappings.attributes import ATTRIBUTES, CONSTANTS
from orvik.exchange.mappings.mapping import FieldMapping
from orvik.exchange.mappings.mapping_file import NamedMapping, read, written

TEXTS = st.text(min_size=1, max_size=20)
ALONE = [name for name, attribute in ATTRIBUTES.items() if attribute.joiner is None]
MAPPINGS = st.builds(
    FieldMapping,
    st.one_of(
        st.dictionaries(st.sampled_from(sorted(ATTRIBUTES)), st.tuples(TEXTS)),
        st.dictionaries(
            st.sampled_from(sorted(set(ATTRIBUTES) - set(ALONE))), st.lists(TEXTS, min_size=1, max_size=4).map(tuple)
        ),
    ),
    st.dictionaries(st.sampled_from(TABLES), TEXTS),
    st.text(max_size=30),
    st.dictionaries(st.sampled_from(CONSTANTS), TEXTS),
    st.dictionaries(st.sampled_from(sorted(ATTRIBUTES)), st.dictionaries(TEXTS, TEXTS, min_size=1, max_size=3)),
    st.text(max_size=50),
)


@given(MAPPINGS, st.text(max_size=50), st.lists(TEXTS, max_size=5))
def test_what_is_written_is_read(mapping: FieldMapping, name: str, columns: list[str]) -> None:
    named = NamedMapping(name, tuple(columns), mapping)
    assert read(written(named)) == named


@pytest.mark.parametrize("name", sorted(ATTRIBUTES))
def test_every_attribute_has_its_place(name: str) -> None:
    mapping = FieldMapping({name: ("F",)}, values={name: {"a": "b"}})
    held = json.loads(written(NamedMapping("x", ("F",), mapping)))
    assert held["attributes"] == {name: {"fields": ["F"], "values": {"a": "b"}}}


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "not a mapping"),
        ("[]", "not a mapping"),
        ("{}", "orvik_mapping"),
        ('{"orvik_mapping": 2}', "orvik_mapping"),
        ('{"orvik_mapping": 1, "more": 1}', "more"),
        ('{"orvik_mapping": 1, "attributes": {"colour": {}}}', "not an attribute"),
        ('{"orvik_mapping": 1, "attributes": {"azimuth": {"fields": ["a", "b"]}}}', "several fields"),
        ('{"orvik_mapping": 1, "attributes": {"azimuth": {"constant": "3"}}}', "only fields"),
        ('{"orvik_mapping": 1, "attributes": {"kind": {"values": {"a": 3}}}}', "values"),
        ('{"orvik_mapping": 1, "kinds": {"rocks": "x"}}', "kinds"),
        ("x" * 3_000_000, "larger"),
        (b"\xff\xfe\x00", "not a mapping"),
    ],
)
def test_other_files_are_refused_in_words(text: str | bytes, why: str) -> None:
    with pytest.raises(FileRefused, match=why):
        read(text)


def test_a_mapping_fits_a_file_that_has_its_fields() -> None:
    named = NamedMapping("x", ("A", "B", "C"), FieldMapping({"kind": ("A",), "note": ("B", "C")}))
    assert named.fits({"A", "B", "C", "D"}) == 3
    assert named.fits({"A", "B"}) == 0
    assert NamedMapping("x", (), FieldMapping()).fits({"A"}) == 0
