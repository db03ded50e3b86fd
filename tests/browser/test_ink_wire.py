"""Ink goes from the encoder in Python to the decoder of the page and is there what it was."""

from __future__ import annotations

import base64
from typing import Any

import numpy as np
import pytest
from selenium.webdriver import Chrome

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Group, Item, LineStyle, Marks, Picture, Stamp, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, run
from orvik.web.session.ink_wire import packed

ORIGIN = (513_000.0, 6_802_000.0)
DECODE = """
const [text, done] = arguments;
const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
import("/static/frame/ink.js").then(({ decode }) => {
  const head = decode(bytes.buffer);
  done(JSON.parse(JSON.stringify(head, (name, value) => (ArrayBuffer.isView(value) ? [...value] : value))));
}, (error) => done(String(error)));
"""
# Words outside ASCII and of every length make the head end on each of the four places in a word.
WORDS = ("Qt", "Österäng", "Ϟ", "Isle of Quennet", "a\u0301é", "≥ 3", "")


def paths(rng: np.random.Generator, count: int) -> Paths:
    lengths = rng.integers(2, 9, count)
    starts = np.concatenate([[0], np.cumsum(lengths)])
    return Paths(np.array(ORIGIN) + rng.uniform(-5000, 5000, (int(starts[-1]), 2)), starts)


def random_items(rng: np.random.Generator, round_: int) -> list[Item]:
    count = int(rng.integers(1, 5))
    style = LineStyle(0.25, "#1A1A1A", (2.0, 0.6, 0.4) if round_ % 2 else (), "round", "miter")
    stamp = Stamp("tick", (Stroke(style, Paths(np.array([[0.0, 0.0], [0.0, 2.0]]), np.array([0, 2]))),))
    word = WORDS[round_ % len(WORDS)]
    texts = [
        Text(
            run(f"{word} {i}", ITALIC if i % 2 else ROMAN, 2.0 + i),
            (ORIGIN[0] + i, ORIGIN[1] - i),
            "#1A1A1A",
            angle=float(10 * i),
            offset=(0.5, -0.5),
            halo="#FFFFFF" if i % 2 else None,
            largest=25_000 if i % 2 else None,
            key=i or None,
        )
        for i in range(count)
    ]
    return [
        Stroke(style, paths(rng, count), rng.integers(0, 2**32, count)),
        Fill("#D3C7B4", paths(rng, 2 * count), np.arange(0, 2 * count + 1, 2), None, 0.1),
        Marks(stamp, np.array(ORIGIN) + rng.uniform(-9, 9, (count, 2)), rng.uniform(0, 360, count), np.arange(count)),
        *texts,
    ]


def same(got: list[float], wanted: Any) -> None:
    """Single precision from the local origin: half a millimetre at five kilometres."""
    np.testing.assert_allclose(np.array(got, dtype=float), np.asarray(wanted, dtype=float).ravel(), atol=5e-4)


@pytest.mark.browser
def test_what_is_packed_is_unpacked(driver: Chrome, corner_address: str) -> None:
    driver.get(corner_address)
    rng = np.random.default_rng(20)
    for round_ in range(28):
        items = random_items(rng, round_)
        stroke, fill, marks, *texts = items
        assert isinstance(stroke, Stroke)
        assert isinstance(fill, Fill)
        assert isinstance(marks, Marks)
        replaces = None if round_ % 3 else [4, 8, 2**31]
        sent = packed({WORDS[round_ % len(WORDS)]: Group("any", tuple(items))}, ORIGIN, round_, replaces)
        head = driver.execute_async_script(DECODE, base64.b64encode(sent).decode())
        assert isinstance(head, dict), head
        assert (head["revision"], head["origin"], head["replaces"]) == (round_, list(ORIGIN), replaces)
        (layer,) = head["layers"]
        assert layer["name"] == WORDS[round_ % len(WORDS)]
        got = layer["items"]
        assert [item["t"] for item in got] == ["stroke", "fill", "marks", "texts"]
        same(got[0]["xy"], stroke.paths.xy - ORIGIN)
        assert got[0]["starts"] == stroke.paths.starts.tolist()
        assert got[0]["keys"] == np.asarray(stroke.keys).tolist()
        assert (got[0]["width"], got[0]["dash"]) == (0.25, list(stroke.style.dash))
        for i, box in enumerate(np.reshape(got[0]["boxes"], (-1, 4))):
            xy = stroke.paths.xy[stroke.paths.starts[i] : stroke.paths.starts[i + 1]] - ORIGIN
            same(box.tolist(), [*xy.min(axis=0), *xy.max(axis=0)])
        same(got[1]["xy"], fill.paths.xy - ORIGIN)
        assert (got[1]["parts"], got[1]["colour"]) == (fill.parts.tolist(), "#D3C7B4")
        assert "keys" not in got[1]
        same(got[2]["at"], marks.at - ORIGIN)
        same(got[2]["angles"], marks.angles)
        check_texts(got[3], [text for text in texts if isinstance(text, Text)])


@pytest.mark.browser
def test_groups_and_pictures_are_unpacked(driver: Chrome, corner_address: str) -> None:
    driver.get(corner_address)
    rng = np.random.default_rng(21)
    (stroke, *_), outline = random_items(rng, 1), paths(rng, 1)
    assert isinstance(stroke, Stroke)
    # Of every length, so that what follows begins on each of the four places in a word.
    for length in range(1, 9):
        png = rng.bytes(length)
        inner = Group("hills", (Picture(png, (3.0, 0.0, 1.0, 0.0, -2.0, 5.0)), stroke), None, 0.4, True)
        sent = packed({"panel": Group("panel", (Group("map", (inner,), outline),))}, ORIGIN, 1)
        head = driver.execute_async_script(DECODE, base64.b64encode(sent).decode())
        (outer,) = head["layers"][0]["items"]
        same(outer["clip"]["xy"], outline.xy - ORIGIN)
        (got,) = outer["items"]
        assert (got["name"], got["opacity"], got["multiply"]) == ("hills", 0.4, True)
        picture, line = got["items"]
        assert bytes(picture["png"]) == png
        assert picture["place"] == [3.0, 0.0, 1.0, 0.0, -2.0, 5.0]
        same(line["xy"], stroke.paths.xy - ORIGIN)
        assert len(line["boxes"]) == 4 * len(stroke.paths)


def check_texts(got: dict[str, Any], texts: list[Text]) -> None:
    """Each text has its letters, its look and its place."""
    assert len(got["run"]) == len(texts)
    for i, text in enumerate(texts):
        letters = got["runs"][got["run"][i]]
        assert letters["size"] == text.run.size
        assert "".join(char for piece in letters["pieces"] for char in piece["chars"]) == text.run.chars
        assert got["colours"][got["colour"][i]] == [text.colour, text.halo]
        same(got["at"][2 * i : 2 * i + 2], np.subtract(text.at, ORIGIN))
        same(got["offset"][2 * i : 2 * i + 2], text.offset)
        same([got["angles"][i]], [text.angle])
        assert got["keys"][i] == (text.key or 0)
        assert got["largest"][i] == pytest.approx(text.largest or 3e38, rel=1e-6)
