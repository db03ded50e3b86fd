"""Jobs: what worker processes carry out on a project file, each opened for reading and closed again."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import shapely

from orvik.core.colour.proposal import Proposal
from orvik.core.coordinates import GroundBox, GroundXY
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import Finding
from orvik.core.ink.affine import Affine
from orvik.core.ink.primitives import Group, moved
from orvik.core.labels.label_request import LabelKey, LabelRequest
from orvik.core.pictures.ground_view import GroundView
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.symbols.emphasis import Emphasis
from orvik.core.symbols.symbol_rule import SymbolRule
from orvik.store.read_project import LONG_SNAPSHOT_SECONDS, opened_for_reading
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.web.session.ink_wire import packed

if TYPE_CHECKING:
    from orvik.core.labels.label import Label
    from orvik.core.structure.measures import Depth, Thickness
    from orvik.core.structure.plane import Plane
    from orvik.core.structure.readings import ReadingChoice
    from orvik.usecases.compile.features import FeatureEdit
    from orvik.usecases.compile.stations import Notebook
    from orvik.usecases.ground.heights import GroundAt
    from orvik.usecases.proof.marked_proof import MarkedProof
    from orvik.usecases.proof.returned import Returned
    from orvik.usecases.proof.returned_notes import FoundNote
    from orvik.usecases.structure.planes import PlaneFound
    from orvik.usecases.symbols import meeting_colours
    from orvik.usecases.symbols.symbol_rules import RuleLine

PREVIEW_DOTS = 520
# What pictures on the page are shown with.
SCREEN_DPI = 120.0


def map_ink(path: Path) -> bytes:
    """All of a project's ground ink, as of the revision it states."""
    from orvik.core.symbols.portrayal.portray import portray

    with opened_for_reading(path) as project, project.snapshot():
        layers = portray(
            project.all_features(),
            symbol_book_of(project),
            project.units_by_code(),
            project.crs,
            project.scales.publication,
        )
        extent = project.extent() or (0.0, 0.0, 0.0, 0.0)
        origin = (round((extent[0] + extent[2]) / 2), round((extent[1] + extent[3]) / 2))
        return packed(layers, origin, project.revision)


def panel_ink(path: Path, part_id: int, lettered: bool) -> bytes:
    """A map panel in millimetres from its own upper left corner, y upwards as on the ground."""
    from orvik.usecases.sheet import composing

    with opened_for_reading(path) as project, project.snapshot():
        ink = composing.panel_ink(project, part_id, SCREEN_DPI, lettered)
        upwards = Group(ink.name, moved(ink.items, (1.0, 0.0, 0.0, 0.0, -1.0, 0.0)))
        return packed({"panel": upwards}, (0.0, 0.0), project.revision)


@dataclass(frozen=True)
class WrittenMap:
    """The labels of a project at a revision.

    Attributes
    ----------
    ink
        All of them, as the page reads ink.
    findings
        A finding for each that has no room.
    hidden
        Which are hidden: key and letters.
    places
        Where each stands, as JSON; ``label_places`` says how.
    """

    revision: int
    ink: bytes
    findings: tuple[Finding, ...]
    hidden: tuple[tuple[LabelKey, str], ...]
    places: bytes


def written_map(path: Path) -> WrittenMap:
    """All labels of a project, as of the revision that they state."""
    from orvik.core.findings.unwritten import unwritten
    from orvik.usecases.proof.accepting import judged_findings
    from orvik.usecases.sheet.labels import labelling_of

    with opened_for_reading(path) as project, project.snapshot():
        extent = project.extent() or (0.0, 0.0, 0.0, 0.0)
        origin = (round((extent[0] + extent[2]) / 2), round((extent[1] + extent[3]) / 2))
        found = labelling_of(project)
        return WrittenMap(
            project.revision,
            packed(found.layers, origin, project.revision),
            judged_findings(project, unwritten(found.without_room, project.scales.publication)).open,
            _spoken(found.hidden),
            json.dumps(label_places(found.labels), separators=(",", ":")).encode(),
        )


def labels_on_sheets(path: Path) -> list[tuple[int, str, list[str]]]:
    """Number and name of each sheet, and what is said of its labels without room."""
    from orvik.usecases.proof.sheet_findings import sheets_without_room

    with opened_for_reading(path) as project, project.snapshot(LONG_SNAPSHOT_SECONDS):
        return [(sheet.number, sheet.name, [f.message for f in found]) for sheet, found in sheets_without_room(project)]


@dataclass(frozen=True)
class WrittenPanel:
    """The labels of a panel as its sheet takes hold of them.

    Attributes
    ----------
    places
        As ``label_places`` gives them, on the page.
    to_ground
        The way from the page back to the ground, in the panel's system.
    symbol_scale
        How much larger than the symbol book says its labels are: what hangs on a point is kept in its millimetres.
    without, hidden
        Which have no room, and which are hidden: key and letters.
    """

    places: list[dict[str, Any]]
    to_ground: Affine
    symbol_scale: float
    without: tuple[tuple[LabelKey, str], ...]
    hidden: tuple[tuple[LabelKey, str], ...]


def written_panel(path: Path, part_id: int) -> WrittenPanel:
    """The labels of a panel."""
    from orvik.usecases.sheet.composing import panel_labelling

    with opened_for_reading(path) as project:
        panel, found = panel_labelling(project, part_id)
        places = label_places(found.labels, on_page=True)
        k = panel.symbol_scale
        for place in places:
            place |= {name: [v * k for v in place[name]] for name in ("at", "offset", "half")}
        without, hidden = _spoken(found.without_room), _spoken(found.hidden)
        return WrittenPanel(places, panel.to_ground, k, without, hidden)


def new_sheet_picture(path: Path, wanted: NewSheet) -> bytes:
    """A picture of a sheet that is not made yet, some 500 dots wide."""
    from orvik.usecases.sheet.printing import unmade_png
    from orvik.usecases.sheet.sheets import new_sheet

    with opened_for_reading(path) as project:
        made = new_sheet(project, wanted)
        dpi = PREVIEW_DOTS / max(made.sheet.width, made.sheet.height) * 25.4
        return unmade_png(project, made.sheet, made.parts, made.files, dpi)


def _spoken(label_requests: Iterable[LabelRequest]) -> tuple[tuple[LabelKey, str], ...]:
    return tuple((request.key, request.run.chars) for request in label_requests)


def label_places(labels: Iterable[Label], on_page: bool = False) -> list[dict[str, Any]]:
    """Labels as a page takes hold of them.

    ``at`` is the place that each hangs on, on the ground or ``on_page`` in millimetres; ``offset`` is how far right
    and down from it its middle stands, and ``half`` half its width and height, both in millimetres.
    """
    return [
        {
            "key": list(label.request.key),
            "text": label.request.run.chars,
            "at": list(label.hangs if on_page else label.at),
            "offset": [round(v, 3) for v in label.offset],
            "half": [round(v, 3) for v in label.request.half],
            "angle": round(label.place.angle, 2),
            "largest": label.largest,
            "byHand": label.place.by_hand,
            # What a hand's move is kept by: millimetres from its place, or a place on the ground.
            "keptBy": "offset" if label.request.key.table == "points" else "ground",
        }
        for label in labels
    ]


def underlay_view(
    path: Path, source_id: int, window: tuple[float, float, float, float], width: int, height: int
) -> bytes | None:
    """A window of an underlay as PNG."""
    from orvik.usecases.ground import underlay_views

    with opened_for_reading(path) as project:
        asked = GroundView.of_window(project.crs, window, width, height)
        return underlay_views.view(project, project.source(source_id), asked)


def underlay_ink(
    path: Path, source_id: int, window: tuple[float, float, float, float], width: int, height: int
) -> bytes:
    """The lines of an underlay in a window, as the page reads ink."""
    from orvik.usecases.ground import underlay_views

    with opened_for_reading(path) as project:
        asked = GroundView.of_window(project.crs, window, width, height)
        items = underlay_views.ink(project, project.source(source_id), asked)
        origin = (round((window[0] + window[2]) / 2), round((window[1] + window[3]) / 2))
        return packed({"lines": Group("lines", tuple(items))}, origin, project.revision)


def scan_picture(path: Path, source_id: int, box: tuple[float, float, float, float], width: int, height: int) -> bytes:
    """A part of a scan as it lies on the scanner, as PNG."""
    from orvik.exchange.rasters import raster, tiling
    from orvik.usecases.ground.underlay_views import sound_copy

    with opened_for_reading(path) as project:
        file = tiling.best(sound_copy(path, project.source(source_id)))
        return raster.scan_view(file, box, width, height)


def ground_of(path: Path, x: float, y: float) -> GroundAt | None:
    """The ground at a place of a project."""
    from orvik.usecases.ground import heights

    with opened_for_reading(path) as project:
        return heights.ground_at(project, x, y)


def plane_of(path: Path, key: FeatureKey | None, places: Sequence[GroundXY]) -> PlaneFound:
    """The plane of a feature, or through places where none is named."""
    from orvik.usecases.structure import planes

    with opened_for_reading(path) as project:
        return planes.plane_of_feature(project, key) if key is not None else planes.plane_of_places(project, places)


def trace_of(
    path: Path, plane: Plane, window: GroundBox, coarsest: float, reach: float | None
) -> list[shapely.LineString]:
    """The trace of a plane in a window."""
    from orvik.usecases.structure import planes

    with opened_for_reading(path) as project:
        return planes.trace_over(project, plane, window, coarsest, reach)


def compared_with_trace(path: Path, plane: Plane, key: FeatureKey) -> str:
    """How far a line lies from the trace of a plane, in words."""
    from orvik.usecases.structure import planes

    with opened_for_reading(path) as project:
        return planes.compared(project, plane, key).words


def measured(path: Path, plane: Plane, places: Sequence[GroundXY]) -> Thickness | Depth:
    """The thickness between two places by a plane's attitude, or its depth below one."""
    from orvik.usecases.structure import planes

    with opened_for_reading(path) as project:
        if len(places) == 2:
            return planes.thickness_between(project, plane, *places)
        return planes.depth_at(project, plane, places[0])


def fold_axis_of(path: Path, choice: ReadingChoice, scale: int) -> FeatureEdit:
    """The axis of the best girdle of readings, as a reading to be kept."""
    from orvik.core.structure.net_ink import NetLook
    from orvik.usecases.structure import nets

    with opened_for_reading(path) as project, project.snapshot():
        return nets.axis_reading(nets.net_view(project, choice, NetLook(density=False), None), scale)


def listed_notebook(path: Path, most: int) -> Notebook:
    """The field notebook of a project as it is listed."""
    from orvik.usecases.compile.stations import notebook_of

    with opened_for_reading(path) as project, project.snapshot():
        return notebook_of(project, most)


def plate_pdf(path: Path) -> bytes:
    """The plate of a project's symbol book as it is printed."""
    from orvik.usecases.symbols import plate

    with opened_for_reading(path) as project:
        return plate.plate_pdf(symbol_book_of(project))


def colour_report(path: Path, wanted: float) -> meeting_colours.ColourReport:
    """How well the colours of a project that meet are told apart."""
    from orvik.usecases.symbols import meeting_colours

    with opened_for_reading(path) as project, project.snapshot():
        return meeting_colours.colour_report(project, wanted)


def delivery() -> bytes:
    """The files of a made-up survey's delivery as an archive."""
    import io
    import tempfile
    import zipfile

    from orvik.demo import sund

    out = io.BytesIO()
    with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sund.write(Path(folder)):
            archive.write(path, f"sund/{path.name}")
    return out.getvalue()


def colour_proposal(path: Path, wanted: float) -> Proposal:
    """Colours that tell every pair apart, as far as their ages allow."""
    from orvik.usecases.symbols import meeting_colours

    with opened_for_reading(path) as project, project.snapshot():
        return meeting_colours.proposal(project, wanted)


def colour_picture(path: Path, colours: dict[str, str], pair: tuple[str, str] | None, prefix: str) -> str:
    """The units of a project as a small picture, some in other colours, and the edge of a pair marked."""
    from orvik.usecases.symbols import meeting_picture

    with opened_for_reading(path) as project, project.snapshot():
        return meeting_picture.picture(project, colours, pair, prefix)


def emphasis_picture(path: Path, emphasis: Emphasis | None, prefix: str) -> str:
    """The map of a project as a small picture, in an emphasis or as it is."""
    from orvik.usecases.symbols import emphasis_picture as emphasis_pictures

    with opened_for_reading(path) as project, project.snapshot():
        return emphasis_pictures.emphasis_picture(project, emphasis, prefix)


def rule_lines(path: Path) -> list[RuleLine]:
    """The conditional symbols of a project, each with how many features it is about."""
    from orvik.usecases.symbols import symbol_rules

    with opened_for_reading(path) as project, project.snapshot():
        return symbol_rules.rule_lines(project)


def rule_preview(path: Path, rule: SymbolRule, number: int | None) -> RuleLine:
    """What a conditional symbol would do; raises SymbolRefused where it cannot be kept."""
    from orvik.usecases.symbols import symbol_rules

    with opened_for_reading(path) as project, project.snapshot():
        return symbol_rules.previewed(project, rule, number)


def tile(file: Path) -> bool:
    """Make the tiled copy of a large picture."""
    from orvik.exchange.rasters import tiling

    return tiling.make(file)


def sheet_png(path: Path, sheet_id: int, dpi: float) -> bytes:
    """A PNG of a sheet as it is printed."""
    from orvik.usecases.sheet import printing

    return printing.sheet_png(path, sheet_id, dpi)


def sheet_fragments(path: Path, sheet_id: int, only: Collection[int]) -> dict[int, str]:
    """SVG of some parts of a sheet for the page on the screen, by part id."""
    from orvik.usecases.sheet import printing

    return printing.sheet_fragments(path, sheet_id, only)


def marked_proof(path: Path, sheet_id: int) -> MarkedProof:
    """The PDF of a sheet's proof, and what it tells."""
    from orvik.usecases.proof import marked_proof as proof

    return proof.marked_proof(path, sheet_id)


def compare_returned(path: Path, sheet_id: int, file: Path) -> Returned:
    """Compare a returned file, compared with its sheet."""
    from orvik.usecases.proof import returned

    return returned.compare_path(path, sheet_id, file)


def notes_returned(path: Path, sheet_id: int, file: Path) -> tuple[FoundNote, ...]:
    """The notes of a returned PDF that the project has not."""
    from orvik.usecases.proof import returned

    return returned.notes_of_path(path, sheet_id, file)


def found_on(path: Path, sheet_id: int | None, revision: int, told: tuple[Finding, ...]) -> list[Finding] | None:
    """The findings of a sheet, None where the project is no longer at the revision.

    Parameters
    ----------
    told
        The findings of the map at that revision.
    """
    from orvik.usecases.proof.proof import alike, in_order
    from orvik.usecases.proof.sheet_findings import findings_of_sheet

    with opened_for_reading(path) as project, project.snapshot(LONG_SNAPSHOT_SECONDS):
        if project.revision != revision:
            return None
        found = [*told, *alike(project)]
        if sheet_id is not None:
            found = findings_of_sheet(project, sheet_id, found)
        return in_order(found)


def build_demo(folder: Path) -> Path:
    """Make the demo project in a folder; gives its file."""
    from orvik.demo.build import build

    return build(folder)
