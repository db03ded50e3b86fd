"""Sheets that come back from a drawing program: what has become of their scale, what was moved, changed and lost."""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pikepdf
import pytest

from orvik.core.errors import FileRefused
from orvik.core.sheet.output.export_settings import ExportSettings
from orvik.core.sheet.output.returned import whole_of
from orvik.exchange.sheets.returned_file import read_svg
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.export_sheets import svg_of
from orvik.usecases.proof.returned import UNSEEN_IN_SVG, apply_returned, compare_file
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.printing import sheet_pdf

NAME = "{http://www.w3.org/2000/svg}"


def export_routes(project: Project, **values: object) -> bytes:
    way = ExportSettings(dpi=20, **values)  # type: ignore[arg-type]
    return svg_of(project, composed(project, 1, 20), way).encode()


@pytest.fixture(scope="module")
def out(corner_original: Path) -> bytes:
    with opened_for_reading(corner_original) as project:
        return export_routes(project)


def changed(out: bytes, change: Callable[[ElementTree.Element], None]) -> bytes:
    """The file as another program writes it after something has been done to it."""
    root = ElementTree.fromstring(out)
    change(root)
    return ElementTree.tostring(root)


def around(transform: str) -> Callable[[ElementTree.Element], None]:
    """All of the drawing in a group that is moved."""

    def change(root: ElementTree.Element) -> None:
        group = ElementTree.Element(f"{NAME}g", {"transform": transform})
        for child in list(root):
            if child.tag not in (f"{NAME}defs", f"{NAME}style", f"{NAME}title", f"{NAME}desc"):
                root.remove(child)
                group.append(child)
        root.append(group)

    return change


def named(root: ElementTree.Element, name: str) -> ElementTree.Element:
    return next(e for e in root.iter() if e.get("id") == name)


def shifted(element: ElementTree.Element, dx: float, dy: float) -> None:
    element.set("transform", f"translate({dx} {dy}) {element.get('transform', '')}")


def said(corner: Path, data: bytes) -> str:
    with opened_for_reading(corner) as project:
        return " ".join(compare_file(project, 1, data, "back.svg").words)


def test_nothing_is_said_of_what_is_as_it_was(corner_original: Path, out: bytes) -> None:
    assert said(corner_original, out) == f"Nothing lost. {UNSEEN_IN_SVG}"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (around("scale(0.85)"), "Scaled by 0.85"),
        (around("translate(3 0)"), "Moved by 3.0 mm (3.0 right, 0.0 down)"),
        (around("rotate(2 200 100)"), "Turned by 2.00°"),
        (lambda root: root.set("width", "612mm"), "Scaled by 0.85"),
        # A program that counts in points, and one in pixels.
        (lambda root: (root.set("width", "2040.945pt"), root.set("height", "1218.898pt")), "Nothing lost."),
        (lambda root: (root.set("width", "2721.26"), root.set("height", "1625.197")), "Nothing lost."),
    ],
)
def test_its_scale_is_told(
    corner_original: Path, out: bytes, change: Callable[[ElementTree.Element], None], words: str
) -> None:
    assert words in said(corner_original, changed(out, change))


def test_texts_that_were_changed_moved_lost_and_added_are_counted(corner_original: Path, out: bytes) -> None:
    def change(root: ElementTree.Element) -> None:
        texts = [e for e in root.iter(f"{NAME}text") if e.get("id")]
        for text in texts[:12]:
            text.text = "other words"
        for text in texts[20:25]:
            shifted(text, 2.0, 1.0)
        root.append(ElementTree.Element(f"{NAME}text", {"id": "mine", "x": "10", "y": "10"}))

    words = said(corner_original, changed(out, change))
    assert "12 texts changed." in words
    assert "5 texts moved by hand." in words
    assert "1 text new." in words


def test_a_lost_layer_is_told(corner_original: Path, out: bytes) -> None:
    def change(root: ElementTree.Element) -> None:
        root.remove(next(e for e in root if e.get("id") == "North-arrow"))

    assert re.search(r"\d+ texts and groups lost", said(corner_original, changed(out, change)))


def test_moved_labels_and_texts_are_taken_back_as_one_edit(corner: Path, out: bytes) -> None:
    root = ElementTree.fromstring(out)
    labels = [e.get("id") or "" for e in root.iter(f"{NAME}text") if "-label-" in (e.get("id") or "")]
    of_points = next(name for name in labels if "-points-" in name)
    of_areas = next(name for name in labels if "-areas-" in name)
    with opened_for_reading(corner) as project:
        title = next(p for p in project.parts(1) if p.kind == "title")
        arrow = next(p for p in project.parts(1) if p.kind == "north_arrow")

    def change(root: ElementTree.Element) -> None:
        shifted(named(root, of_points), 1.5, -1.0)
        shifted(named(root, of_areas), -2.0, 3.0)
        named(root, f"part-{title.id}-text").text = "A better title"
        for element in root.iter(f"{NAME}text"):
            if re.fullmatch(rf"part-{arrow.id}-text(-\d+)?", element.get("id") or ""):
                shifted(element, 4.0, 2.0)

    # Scaled by a slip of the hand as well: what was moved is reckoned on the page as it was.
    back = changed(changed(out, change), around("scale(0.9)"))
    with opened_for_writing(corner) as project:
        revision = project.revision
        entry = apply_returned(project, 1, back, "back.svg")
        assert entry is not None
        assert project.revision == revision + 1
        again = read_svg(export_routes(project), "again")
        wanted = read_svg(changed(out, change), "wanted")
        for name in (of_points, of_areas):
            assert (again.texts[name].x, again.texts[name].y) == pytest.approx(
                (wanted.texts[name].x, wanted.texts[name].y), abs=0.1
            )
        assert project.part(title.id or 0).settings.text == "A better title"
        moved = project.part(arrow.id or 0)
        assert (moved.x - arrow.x, moved.y - arrow.y) == pytest.approx((4.0, 2.0), abs=0.02)
        project.undo()
        assert project.part(arrow.id or 0).x == arrow.x
        assert apply_returned(project, 1, out, "back.svg") is None


def drawn(root: ElementTree.Element, group: str) -> list[ElementTree.Element]:
    return [e for e in named(root, group).iter() if e.tag in (f"{NAME}path", f"{NAME}use")]


def without_half_its_lines(root: ElementTree.Element) -> None:
    parents = {child: parent for parent in root.iter() for child in parent}
    for path in drawn(root, "Linework")[::2]:
        parents[path].remove(path)


def painted_red(root: ElementTree.Element) -> None:
    for path in drawn(root, "Units"):
        path.set("style", "fill:#FF0000")


def painted_by_a_class(root: ElementTree.Element) -> None:
    style = ElementTree.Element(f"{NAME}style")
    style.text = ".st0{fill:rgb(0,128,0);}"
    root.insert(0, style)
    for path in drawn(root, "Units")[:4]:
        path.attrib.pop("fill", None)
        path.set("class", "st0")


def relief_moved(root: ElementTree.Element) -> None:
    shifted(next(e for e in root.iter(f"{NAME}image")), 10.0, 0.0)


def hidden(root: ElementTree.Element) -> None:
    named(root, "Graticule").set("style", "display:none")


def one_line_moved(root: ElementTree.Element) -> None:
    shifted(drawn(root, "Linework")[3], 0.0, 2.0)


def a_box_drawn_over(root: ElementTree.Element) -> None:
    root.append(ElementTree.Element(f"{NAME}rect", {"x": "9", "y": "9", "width": "50", "height": "20", "fill": "#fff"}))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (without_half_its_lines, r"Linework: \d+ of \d+ paths gone"),
        (painted_red, r"Units: \d+ painted otherwise \(#[0-9A-F]{6} as #FF0000"),
        (painted_by_a_class, r"Units: [1-4] painted otherwise \(#[0-9A-F]{6} as #008000"),
        (relief_moved, r"1 of \d+ paths moved or redrawn"),
        (hidden, r"texts and groups lost"),
        (one_line_moved, r"Linework: \d+ of \d+ paths moved or redrawn"),
        (a_box_drawn_over, r"Outside of all groups: 1 paths new"),
    ],
)
@pytest.mark.parametrize("whole", ["", "translate(3 4) scale(0.9)", "rotate(7)"])
def test_what_is_drawn_is_compared(
    corner_original: Path, out: bytes, change: Callable[[ElementTree.Element], None], words: str, whole: str
) -> None:
    data = changed(out, change)
    found = said(corner_original, changed(data, around(whole)) if whole else data)
    assert re.search(words, found), found
    assert "Nothing lost" not in found


def expanded(root: ElementTree.Element) -> None:
    """As a program leaves it that draws symbols out, writes relative paths and colours as styles."""
    symbols = {e.get("id"): e for e in root.iter(f"{NAME}symbol")}
    for parent in list(root.iter()):
        for i, child in enumerate(list(parent)):
            if child.tag == f"{NAME}use":
                group = ElementTree.Element(f"{NAME}g", {"transform": child.get("transform", "")})
                group.extend(list(symbols[(child.get("href") or "").lstrip("#")]))
                parent[i] = group
    for path in root.iter(f"{NAME}path"):
        for name in ("fill", "stroke"):
            if path.get(name):
                path.set("style", f"{path.get('style', '')};{name}:{path.attrib.pop(name).lower()}")
        d = path.get("d") or ""
        if re.fullmatch(r"[ML\d. -]+", d) and d.count("M") == 1:
            places = [tuple(map(float, p.split())) for p in re.findall(r"-?[\d.]+ -?[\d.]+", d)]
            steps = [f"{b[0] - a[0]:.3f},{b[1] - a[1]:.3f}" for a, b in pairwise(places)]
            path.set("d", f"m{places[0][0]},{places[0][1]} {' '.join(steps)}")


def test_what_another_program_writes_otherwise_is_the_same(corner_original: Path, out: bytes) -> None:
    assert said(corner_original, changed(out, expanded)) == f"Nothing lost. {UNSEEN_IN_SVG}"


@pytest.mark.parametrize(("across", "down"), [(1.0, 0.97), (1.02, 1.0), (0.97, 0.985)])
def test_a_squeezed_page_is_told_and_offers_no_edits(
    corner_original: Path, out: bytes, across: float, down: float
) -> None:
    def window(root: ElementTree.Element) -> None:
        root.set("width", f"{720 * across}mm")
        root.set("height", f"{430 * down}mm")
        root.set("preserveAspectRatio", "none")

    for change in (around(f"scale({across} {down})"), window):
        with opened_for_reading(corner_original) as project:
            found = compare_file(project, 1, changed(out, change), "back.svg")
        assert found.words[0] == (
            f"Squeezed to {across:g} across and {down:g} down the page: lengths on the map are no longer true."
        )
        assert found.edits == 0
        assert len(found.words) == 3, found.words


def test_a_window_of_another_shape_leaves_the_page_as_it_is_drawn(corner_original: Path, out: bytes) -> None:
    """SVG 1.1, 7.8: without a word the drawing is fitted into its window and set in the middle."""

    def window(root: ElementTree.Element) -> None:
        root.set("height", "450mm")

    assert "Moved by 10.0 mm (0.0 right, 10.0 down)" in said(corner_original, changed(out, window))


def test_outlines_are_known_again(corner_original: Path) -> None:
    with opened_for_reading(corner_original) as project:
        data = export_routes(project, outlines=True)
    assert "Scaled by 1.1" in said(corner_original, changed(data, around("scale(1.1)")))


def test_of_a_pdf_scale_and_shift_are_told(corner_original: Path, tmp_path: Path) -> None:
    data = sheet_pdf(corner_original, 1, 20)
    assert "True to scale" in said(corner_original, data)
    for matrix, words in (("0.85 0 0 0.85 0 0", "Scaled by 0.85"), ("1 0 0 1 8.504 0", "Moved by 3.0 mm")):
        target = tmp_path / "back.pdf"
        target.write_bytes(data)
        with pikepdf.open(target, allow_overwriting_input=True) as opened:
            page = opened.pages[0]
            page.contents_add(f"q {matrix} cm".encode(), prepend=True)
            page.contents_add(b"Q")
            opened.save(target)
        assert words in said(corner_original, target.read_bytes())


def _rotated(page: pikepdf.Page) -> None:
    page.Rotate = 90


def _of_half_the_unit(page: pikepdf.Page) -> None:
    page.UserUnit = 2


def _offset(page: pikepdf.Page) -> None:
    """Box and content alike: it prints as before."""
    page.contents_add(b"q 1 0 0 1 100 50 cm", prepend=True)
    page.contents_add(b"Q")
    box = [float(v) for v in page.MediaBox]
    page.MediaBox = [box[0] + 100, box[1] + 50, box[2] + 100, box[3] + 50]
    if "/CropBox" in page:
        page.CropBox = page.MediaBox
    for name in ("/TrimBox", "/BleedBox", "/ArtBox"):
        if name in page:
            del page[name]


def _cropped(page: pikepdf.Page) -> None:
    box = [float(v) for v in page.MediaBox]
    page.CropBox = [box[0] + 28.3465, box[1], box[2], box[3] - 56.6929]


def _red_box(page: pikepdf.Page) -> None:
    page.contents_add(b"q", prepend=True)
    page.contents_add(b"Q 1 0 0 rg 300 300 200 200 re f")


@pytest.mark.parametrize(
    ("change", "words", "not_said"),
    [
        (_rotated, "Its page is shown turned by 90°", "drawn otherwise"),
        (_of_half_the_unit, "Scaled by 2", "drawn otherwise"),
        (_offset, "True to scale, and where it was", "otherwise"),
        (_cropped, "710.0 × 410.0 mm, cut by a box; the sheet is 720 × 430", "Scaled"),
        (_red_box, "% of the page is drawn otherwise, between 1", "Moved"),
    ],
    ids=lambda value: getattr(value, "__name__", ""),
)
def test_pages_of_a_pdf_are_read_as_they_are_shown(
    corner_original: Path, tmp_path: Path, change: Callable[[pikepdf.Page], None], words: str, not_said: str
) -> None:
    """ISO 32000-2: boxes, Rotate and UserUnit."""
    target = tmp_path / "back.pdf"
    target.write_bytes(sheet_pdf(corner_original, 1, 20))
    with pikepdf.open(target, allow_overwriting_input=True) as opened:
        change(opened.pages[0])
        opened.save(target)
    found = said(corner_original, target.read_bytes())
    assert words in found
    assert not_said not in found


@pytest.mark.parametrize(
    "data", [b"", b"<svg", b"<a/>", b"%PDF-1.7 nothing", b'<svg xmlns="http://www.w3.org/2000/svg"/>']
)
def test_what_is_none_of_ours_is_refused(corner_original: Path, data: bytes) -> None:
    with opened_for_reading(corner_original) as project, pytest.raises(FileRefused):
        compare_file(project, 1, data, "back.svg")


def test_a_similarity_is_found_among_places_that_were_moved_by_hand() -> None:
    """Against the exact similarity, with up to four in ten places moved elsewhere."""
    rng = np.random.default_rng(8)
    for _ in range(50):
        count = int(rng.integers(8, 80))
        before = rng.uniform(0, 400, (count, 2))
        scale, angle = rng.uniform(0.5, 2.0), np.radians(rng.uniform(-180, 180))
        shift = rng.uniform(-50, 50, 2)
        turn = scale * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        after = before @ turn.T + shift
        off = rng.random(count) < 0.25
        after[off] += rng.uniform(2, 30, (int(off.sum()), 2))
        found = whole_of(before, after)
        assert found.squeezed is None
        assert found.scale == pytest.approx(scale, rel=1e-6)
        assert found.shift == pytest.approx(tuple(shift), abs=1e-3)
