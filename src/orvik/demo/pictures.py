"""The invented pictures: heights as GeoTIFF, and a field sheet that looks scanned."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import rasterio
import shapely
from PIL import Image, ImageDraw, ImageFilter, ImageFont
from rasterio.enums import Resampling
from rasterio.transform import from_origin
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats
from orvik.core.lettering import FONTS, ITALIC, ROMAN
from orvik.core.pictures.georeferencing import ControlPoint, ControlSet
from orvik.demo.island import UNITS, Island
from orvik.demo.landscape import CELL, Landscape
from orvik.demo.rock import SEED

# Ground of the field sheet: its upper left corner, metres a pixel, and how askew it lay on the scanner.
SHEET_CORNER = (512_300.0, 6_804_300.0)
SHEET_PIXEL = 1.6
SHEET_SIZE = (2100, 1650)
SHEET_TURN = 1.3
# Crossings of the kilometre grid that are printed on it.
CROSSES = tuple((x, y) for x in (513_000.0, 514_000.0, 515_000.0) for y in (6_802_000.0, 6_804_000.0))


@dataclass(frozen=True)
class _Hand:
    """Draws on the scan: from the ground to pixels, with a shake."""

    back: Floats
    rng: np.random.Generator

    def point(self, x: float, y: float) -> tuple[float, float]:
        column, row = (np.array([x, y]) - SHEET_CORNER) @ self.back.T
        return float(column), float(row)

    def line(self, line: BaseGeometry, shake: float = 1.2) -> list[tuple[float, float]]:
        xy = shapely.get_coordinates(shapely.segmentize(line, 14.0)) - SHEET_CORNER
        moved = xy @ self.back.T + np.cumsum(self.rng.normal(0, shake * 0.25, (len(xy), 2)), axis=0) * 0.5
        return [(float(x), float(y)) for x, y in moved]


def relief(ground: Landscape, target: Path, crs: str) -> None:
    """Write the heights of the island as a grid with overviews."""
    profile = {
        "driver": "GTiff",
        "width": ground.heights.shape[1],
        "height": ground.heights.shape[0],
        "count": 1,
        "dtype": "float32",
        "crs": crs,
        "transform": from_origin(ground.west, ground.north, CELL, CELL),
        "tiled": True,
        "compress": "deflate",
        "predictor": 3,
        "blockxsize": 256,
        "blockysize": 256,
    }
    with rasterio.open(target, "w", **profile) as out:
        out.write(ground.heights, 1)
        out.build_overviews([2, 4, 8], Resampling.average)


def _noise(shape: tuple[int, int], rng: np.random.Generator) -> Floats:
    """Rough ground: random waves whose height falls with their frequency, drawn out along the strike."""
    fy, fx = np.meshgrid(np.fft.fftfreq(shape[0]), np.fft.fftfreq(shape[1]), indexing="ij")
    along, across = 0.62 * fx + 0.79 * fy, -0.79 * fx + 0.62 * fy
    frequency = np.hypot(along * 1.7, across)
    frequency[0, 0] = 1.0
    spectrum = np.fft.fft2(rng.normal(size=shape)) * frequency**-1.75
    spectrum[frequency < 0.004] *= 0.2
    field = np.real(np.fft.ifft2(spectrum))
    return np.asarray(field / np.abs(field).max())


def field_sheet(island: Island, target: Path) -> ControlSet:
    """Write the field sheet as a scan that does not say where it lies; gives control points on its grid crosses."""
    rng = np.random.default_rng(SEED + 2)
    width, height = SHEET_SIZE
    angle = np.radians(SHEET_TURN)
    a, b = SHEET_PIXEL * np.cos(angle), SHEET_PIXEL * np.sin(angle)
    # From pixel column and row to the ground, and back.
    back = np.linalg.inv(np.array([[a, b], [b, -a]]))
    hand = _Hand(back, rng)
    paper = Image.new("RGB", (width, height), (246, 240, 224))
    _crayon(paper, island, hand)
    draw = ImageDraw.Draw(paper)
    for line in island.lines:
        colour, wide = (
            ((60, 90, 140), 3) if line.kind == "shoreline" else ((70, 66, 62), 5 if line.kind == "fault" else 3)
        )
        path = hand.line(line.geometry)
        if line.certainty == "certain" and line.kind != "dyke":
            draw.line(path, fill=colour, width=wide, joint="curve")
        else:
            step = 3 if line.certainty != "concealed" else 2
            for i in range(0, len(path) - 1, step * 2):
                draw.line(path[i : i + step], fill=colour, width=wide)
    _crosses(draw, hand)
    _writing(draw, island, hand)
    noisy = np.asarray(paper.filter(ImageFilter.GaussianBlur(0.8))).astype(np.float64)
    grain = rng.normal(0, 3.2, (height, width, 1)) + 5 * _noise((height, width), rng)[:, :, None]
    folds = np.ones((height, width, 1))
    folds[:, width // 2 - 2 : width // 2 + 2] = 0.94
    folds[height // 2 - 2 : height // 2 + 2] = 0.95
    Image.fromarray(np.clip((noisy + grain) * folds, 0, 255).astype(np.uint8)).save(target, optimize=False)
    # Read off the scan as a person would, to about a pixel.
    read = np.random.default_rng(SEED + 3)
    points = [
        ControlPoint(round(c + read.normal(0, 0.8), 1), round(r + read.normal(0, 0.8), 1), x, y)
        for x, y in CROSSES
        for c, r in [hand.point(x, y)]
    ]
    return ControlSet("affine", tuple(points))


def _crayon(paper: Image.Image, island: Island, hand: _Hand) -> None:
    colours = {unit.code: unit.colour for unit in UNITS}
    for face in island.faces:
        tint = tuple(int(colours[face.unit][i : i + 2], 16) for i in (1, 3, 5))
        mask = Image.new("L", paper.size, 0)
        ImageDraw.Draw(mask).polygon(hand.line(face.geometry.exterior, 0.6), fill=150)
        strokes = Image.new("L", paper.size, 0)
        pen = ImageDraw.Draw(strokes)
        slope = 0.5 + 0.1 * hand.rng.normal()
        for start in range(-1200, paper.size[0] + 200, 9):
            wobble = hand.rng.normal(0, 2.5, 2)
            pen.line(
                [(start + wobble[0], paper.size[1]), (start + slope * paper.size[1] + wobble[1], 0)],
                fill=int(hand.rng.uniform(90, 190)),
                width=6,
            )
        paper.paste(
            Image.new("RGB", paper.size, tint),
            mask=Image.composite(strokes, Image.new("L", paper.size), mask.point(lambda v: 255 if v else 0)),
        )


def _crosses(draw: ImageDraw.ImageDraw, hand: _Hand) -> None:
    """The kilometre grid as printed on the base of the field sheet: fine crosses with their coordinates."""
    small = ImageFont.truetype(str(FONTS / f"{ROMAN}.ttf"), 22)
    for x, y in CROSSES:
        for dx, dy in ((36.0, 0.0), (0.0, 36.0)):
            draw.line([hand.point(x - dx, y - dy), hand.point(x + dx, y + dy)], fill=(40, 44, 52), width=2)
        c, r = hand.point(x, y)
        draw.text((c + 6, r + 4), f"{x / 1000:.0f} / {y / 1000:.0f}", fill=(40, 44, 52), font=small)


def _writing(draw: ImageDraw.ImageDraw, island: Island, hand: _Hand) -> None:
    large = ImageFont.truetype(str(FONTS / f"{ITALIC}.ttf"), 34)
    small = ImageFont.truetype(str(FONTS / f"{ITALIC}.ttf"), 26)
    pencil = (84, 78, 72)
    for face in island.faces:
        place = shapely.point_on_surface(face.geometry)
        draw.text(hand.point(*shapely.get_coordinates(place)[0]), face.unit, fill=pencil, font=large)
    for number, station in enumerate(island.stations, 201):
        x, y = hand.point(station.x, station.y)
        draw.ellipse([x - 3, y - 3, x + 3, y + 3], fill=pencil)
        draw.text((x + 8, y - 16), f"{number}", fill=pencil, font=small)
    for spot, words in (
        ((513_060, 6_803_260), "bouldery, 2 m+"),
        ((514_300, 6_803_250), "gully, no o/c"),
        ((514_050, 6_802_650), "banded gneiss"),
        ((513_250, 6_802_420), "edge by spring line"),
        ((515_080, 6_802_760), "red sst, x-bedded"),
    ):
        draw.text(hand.point(*spot), words, fill=pencil, font=small)
    draw.text((60, 36), "Field sheet 3   Quennet, NE", fill=pencil, font=large)
