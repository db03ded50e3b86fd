"""Files for a press and for an archive, read back: what ISO 15930-7 and ISO 19005-2 ask for, from memory."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from PIL import Image, ImageCms

from orvik.core.colour.text import parse_colour
from orvik.core.errors import FileRefused
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Group, LineStyle, Picture, Stroke, Text
from orvik.core.lettering import ROMAN, run
from orvik.core.sheet.output.export_settings import ExportSettings
from orvik.press.inks import PressInks, Profile
from orvik.press.pdf import Page, pages_pdf
from orvik.press.pdf_standard import ARCHIVE, About, Standard, screen_profile
from orvik.press.plates import most_ink, plates
from orvik.store import rows
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.export_sheets import export
from orvik.usecases.export.press_profile import give_profile
from orvik.usecases.export.press_run import press_inks, profile_of
from tests.press.made_profile import made_profile, printed

MM = 72 / 25.4
ABOUT = About("Harrack Head", "H. Quill", "1:25 000", datetime(2026, 7, 2, 9, 30, 15, 250, tzinfo=UTC))


def box(left: float, top: float, right: float, bottom: float) -> Paths:
    return Paths.of([(left, top), (right, top), (right, bottom), (left, bottom), (left, top)])


def area(colour: str, *sides: float) -> Fill:
    return Fill(colour, box(*sides), np.array([0, 1]))


def picture() -> Picture:
    out = io.BytesIO()
    Image.linear_gradient("L").convert("RGB").resize((32, 32)).save(out, "PNG")
    return Picture(out.getvalue(), (20.0, 0.0, 60.0, 0.0, 20.0, 10.0))


def items() -> list[object]:
    text = Text(run("Kp", ROMAN, 4.0), (12.0, 20.0), INK, halo="#FFFFFF")
    coloured = Stroke(LineStyle(0.3, "#C2431F"), Paths.of([(5, 40), (90, 40)]))
    black = Stroke(LineStyle(0.3, INK), Paths.of([(5, 45), (90, 45)]))
    below = Group("relief", (picture(),), title="Relief", multiply=True)
    return [area("#E0AE75", 5, 5, 50, 30), area(INK, 70, 35, 80, 38), below, coloured, black, text]


@pytest.fixture(scope="module")
def profile() -> Profile:
    return Profile.of(made_profile(), "made.icc")


def page(of: list[object] | None = None, **more: float) -> Page:
    return Page(items() if of is None else of, 100.0, 60.0, **more)  # type: ignore[arg-type]


def of_press(profile: Profile, **typed: tuple[float, float, float, float]) -> pikepdf.Pdf:
    inks = PressInks(profile, {f"#{name}": shares for name, shares in typed.items()})
    data = pages_pdf([page(edge=8.0, bleed=3.0)], ABOUT, inks=inks, standard=Standard(press=profile))
    return pikepdf.open(io.BytesIO(data))


def streams(pdf: pikepdf.Pdf) -> Iterator[pikepdf.Stream]:
    for found in pdf.objects:
        if isinstance(found, pikepdf.Stream):
            yield found


def contents(pdf: pikepdf.Pdf) -> str:
    """All content streams: of the pages and of their forms."""
    forms = [s.read_bytes() for s in streams(pdf) if s.get("/Subtype") == "/Form"]
    return b"\n".join([pdf.pages[0].Contents.read_bytes(), *forms]).decode("latin-1")


def test_a_file_for_the_press_states_what_it_is_for(profile: Profile) -> None:
    pdf = of_press(profile)
    assert pdf.pdf_version == "1.6"
    (intent,) = pdf.Root.OutputIntents
    assert (intent.S, intent.DestOutputProfile.N) == ("/GTS_PDFX", 4)
    assert intent.DestOutputProfile.read_bytes() == profile.data
    assert str(intent.Info) == "Press of Quennet, invented"
    assert str(intent.OutputConditionIdentifier)
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as meta:
        assert meta["pdfxid:GTS_PDFXVersion"] == "PDF/X-4"
        assert meta["pdf:Trapped"] == "False"
        assert (
            meta["xmp:CreateDate"] == meta["xmp:ModifyDate"] == meta["xmp:MetadataDate"] == "2026-07-02T09:30:15+00:00"
        )
        assert meta["dc:title"] == "Harrack Head"
        assert meta["xmpMM:DocumentID"].startswith("uuid:")
        assert (meta["xmpMM:VersionID"], meta["xmpMM:RenditionClass"]) == ("1", "default")
    assert pdf.docinfo["/Trapped"] == "/False"
    assert pdf.docinfo["/CreationDate"] == pdf.docinfo["/ModDate"] == "D:20260702093015Z"


def test_its_boxes_lie_within_one_another(profile: Profile) -> None:
    pdf = of_press(profile)
    made = pdf.pages[0]
    media, bleed, trim = ([float(v) for v in made[name]] for name in ("/MediaBox", "/BleedBox", "/TrimBox"))
    np.testing.assert_allclose(media, [0, 0, 100 * MM, 60 * MM], atol=1e-3)
    np.testing.assert_allclose(bleed, [5 * MM, 5 * MM, 95 * MM, 55 * MM], atol=1e-3)
    np.testing.assert_allclose(trim, [8 * MM, 8 * MM, 92 * MM, 52 * MM], atol=1e-3)
    assert made.Group.CS == "/DeviceCMYK"


def test_nothing_in_it_is_in_the_screens_colours(profile: Profile) -> None:
    pdf = of_press(profile)
    assert not re.search(r"(?<![\w/])(rg|RG|g|G)(?!\w)", re.sub(r"/\w+|<[0-9A-F]*>", "", contents(pdf)))
    spaces = {str(s.ColorSpace) for s in streams(pdf) if s.get("/Subtype") == "/Image"}
    assert spaces == {"/DeviceCMYK"}
    groups = {str(s.Group.CS) for s in streams(pdf) if "/Group" in s}
    assert groups == {"/DeviceCMYK"}


def test_typed_percentages_are_printed_as_typed_and_others_through_the_profile(profile: Profile) -> None:
    assert "0 0.22 0.48 0.12 k" in contents(of_press(profile, E0AE75=(0.0, 0.22, 0.48, 0.12)))
    through = PressInks(profile).shares("#E0AE75")
    assert f"{' '.join(f'{v:.4g}' for v in through)} k" in contents(of_press(profile))
    # Independent of the way there: the tables of the profile say what these inks look like.
    wanted = ImageCms.ImageCmsProfile(io.BytesIO(screen_profile()))
    to_lab = ImageCms.buildTransform(wanted, ImageCms.createProfile("LAB"), "RGB", "LAB")
    for colour in ("#E0AE75", "#A2D1C8", "#CF9B8E", "#F4E6A8", "#BFD8A6"):
        rgb = Image.new("RGB", (1, 1), colour)
        light, a, b = np.array(ImageCms.applyTransform(rgb, to_lab)).astype(np.int16).ravel()
        lab = np.array([light / 2.55, *(int(np.int8(v)) for v in (a, b))])
        made = printed(np.array([PressInks(profile).shares(colour)]))[0]
        # The paper of this press is no brighter than 95, and its tables are coarse.
        assert np.hypot(*(made - lab)[1:]) < 12, colour
        assert abs(made[0] - lab[0]) < 10, colour


def test_black_overprints_and_halos_and_areas_knock_out(profile: Profile) -> None:
    pdf = of_press(profile)
    states = pdf.pages[0].Resources.ExtGState
    over, out = states["/Over"], states["/Out"]
    assert (over.OP, over.op, over.OPM) == (True, True, 1)
    assert (out.OP, out.op) == (False, False)
    said = pdf.pages[0].Contents.read_bytes().decode("latin-1")
    # What is in force where something is painted: the last of the two before it.
    painted = []
    state = ""
    for found in re.finditer(r"/(Over|Out) gs|([\d. ]+) (k|K)\b|(\bS\b|f\*|ET)", said):
        if found[1]:
            state = found[1]
        elif found[2]:
            colour = tuple(float(v) for v in found[2].split()[-4:])
        else:
            painted.append((found[4], state, colour))
    black, white = (0, 0, 0, 1), (0, 0, 0, 0)
    assert ("S", "Over", black) in painted
    assert ("ET", "Over", black) in painted
    assert ("ET", "Out", white) in painted
    assert ("f*", "Out", black) in painted
    assert all(state == ("Over" if colour == black and how != "f*" else "Out") for how, state, colour in painted)


def test_plates_are_what_inks_make_of_one_another(profile: Profile) -> None:
    """Against numpy: of areas that multiply, each plate lets through what both of them do."""
    rng = np.random.default_rng(7)
    for _ in range(6):
        below, above = (tuple(rng.uniform(0, 1, 4).round(2).tolist()) for _ in range(2))
        inks = PressInks(profile, {"#112233": below, "#445566": above})
        over = Group("over", (area("#445566", 30, 0, 100, 60),), multiply=True)
        line = Stroke(LineStyle(6.0, "#000000"), Paths.of([(0, 50), (100, 50)]))
        held = plates(page([area("#112233", 0, 0, 60, 60), over, line]), inks, 50.8)
        seen = np.stack([one[[40, 40, 40, 100], [20, 90, 160, 20]] / 255 for one in held], axis=1)
        both = 1 - (1 - np.array(below)) * (1 - np.array(above))
        # Below the line its black lies over what was there.
        wanted = np.array([below, both, above, [*below[:3], 1.0]])
        np.testing.assert_allclose(seen, wanted, atol=0.012)
        most = most_ink(held, 50.8)
        inked = max(100 * sum(below[:3]) + 100, 100 * both[:3].sum() + 100, 100 * sum(above[:3]) + 100)
        assert abs(most.per_cent - inked) < 3


def archived() -> pikepdf.Pdf:
    return pikepdf.open(io.BytesIO(pages_pdf([page()], ABOUT, standard=ARCHIVE)))


def test_a_file_for_the_archive_keeps_what_it_needs(profile: Profile) -> None:
    pdf = archived()
    (intent,) = pdf.Root.OutputIntents
    assert (intent.S, intent.DestOutputProfile.N) == ("/GTS_PDFA1", 3)
    ImageCms.ImageCmsProfile(io.BytesIO(intent.DestOutputProfile.read_bytes()))
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as meta:
        assert (meta["pdfaid:part"], meta["pdfaid:conformance"]) == ("2", "B")
        # The document information says the same (ISO 19005-1, 6.7.3, which part 2 lets go of).
        assert meta["dc:title"] == str(pdf.docinfo["/Title"])
        assert meta["dc:creator"] == [str(pdf.docinfo["/Author"])]
        assert meta["dc:description"] == str(pdf.docinfo["/Subject"])
        assert meta["xmp:CreateDate"] == "2026-07-02T09:30:15+00:00"
    assert "/Filter" not in pdf.Root.Metadata
    assert len(pdf.trailer.ID) == 2
    assert not pdf.is_encrypted


def test_nothing_in_it_is_forbidden_in_an_archive() -> None:
    pdf = archived()
    for stream in streams(pdf):
        assert stream.get("/Interpolate", False) is False
        assert "/F" not in stream
        filters = stream.get("/Filter", pikepdf.Array())
        assert "/LZWDecode" not in [str(f) for f in (filters if isinstance(filters, pikepdf.Array) else [filters])]
        assert "/OPI" not in stream
        assert "/PS" not in stream
    named = {str(name) for found in pdf.objects if isinstance(found, pikepdf.Dictionary) for name in found}
    assert not named & {"/JavaScript", "/JS", "/Launch", "/AA", "/OpenAction", "/EmbeddedFiles", "/TR", "/HTP", "/AS"}
    layers = pdf.Root.OCProperties
    assert str(layers.D.Name)
    assert {str(g.Name) for g in layers.OCGs} == {"Relief"}
    assert [str(g.Name) for g in layers.D.Order] == ["Relief"]
    fonts = [f for f in pdf.objects if isinstance(f, pikepdf.Dictionary) and f.get("/Type") == "/FontDescriptor"]
    assert fonts
    assert all("/FontFile2" in font for font in fonts)
    for font in (f for f in pdf.objects if isinstance(f, pikepdf.Dictionary) and f.get("/Subtype") == "/Type0"):
        assert "/ToUnicode" in font
        assert font.DescendantFonts[0].CIDToGIDMap == "/Identity"


@pytest.mark.parametrize(
    "data", [b"", b"%PDF-1.7", bytes(300), screen_profile()], ids=["empty", "PDF", "noughts", "RGB"]
)
def test_what_is_no_profile_of_a_press_is_refused(data: bytes) -> None:
    with pytest.raises(FileRefused, match="choose"):
        Profile.of(data, "odd.icc")


def test_a_sheet_is_exported_for_its_press(demo: Path, tmp_path: Path) -> None:
    way = ExportSettings(made_for="press", dpi=40.0, bleed=3.0, trim_marks=True, most_ink=120.0)
    with opened_for_reading(demo) as project, pytest.raises(FileRefused, match="needs the profile of that press"):
        export(project, project.sheets()[2], tmp_path / "refused.pdf", way)
    assert not (tmp_path / "refused.pdf").exists()
    with opened_for_writing(demo) as project:
        kept = profile_of("made.icc", made_profile())
        assert give_profile(project, kept) is not None
        assert give_profile(project, kept) is None
        number, unit = next((n, u) for n, u in project.units() if u.code == "Jh")
        colour = parse_colour("CMYK 0 22 32 5")
        typed = rows.unit_change(number, replace(unit, colour=colour, colour_typed="CMYK 0 22 32 5"))
        project.apply("type a colour", [typed])
        held = project.units_by_code()["Jh"]
        shares = press_inks(project).typed
    with opened_for_reading(demo) as project:
        said = [export(project, project.sheets()[2], tmp_path / name, way) for name in ("one.pdf", "two.pdf")]
    assert (tmp_path / "one.pdf").read_bytes() == (tmp_path / "two.pdf").read_bytes()
    assert "of ink lie over one another" in said[0][0]
    with pikepdf.open(tmp_path / "one.pdf") as pdf:
        assert shares[held.colour] == (0.0, 0.22, 0.32, 0.05)
        assert "0 0.22 0.32 0.05 k" in contents(pdf)
        assert not re.search(r"\d (rg|RG)\b", contents(pdf))
        trim = [float(v) for v in pdf.pages[0].TrimBox]
        assert (round((trim[2] - trim[0]) / MM, 2), round((trim[3] - trim[1]) / MM, 2)) == (210.0, 297.0)


def test_the_georeference_stays_in_the_archive(demo: Path, tmp_path: Path) -> None:
    with opened_for_reading(demo) as project:
        export(project, project.sheets()[0], tmp_path / "a.pdf", ExportSettings(made_for="archive", dpi=40.0))
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        assert pdf.pages[0].VP[0].Measure.Subtype == "/GEO"
        with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as meta:
            assert meta["pdfaid:part"] == "2"
