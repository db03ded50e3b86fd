"""Georeferencing: placing a scan by control points, with what the fit leaves over.

Pixels count from the upper left corner of the picture, x to the right and y downwards; ground coordinates are
in a stated system. All fits are by least squares on the ground, with both sides brought to a common size first.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.errors import FitRefused
from orvik.core.wording import with_article

FIT_KINDS = {
    "similarity": "Similarity: turned and scaled",
    "affine": "Affine: sheared, too",
    "projective": "Projective: photographed askew",
    "second_order": "Second order: bent paper",
}
# How many control points each kind of fit needs.
LEAST = {"similarity": 2, "affine": 3, "projective": 4, "second_order": 6}
# Points closer to one line than this part of their spread cannot hold a fit.
COLLINEAR = 1e-4


@dataclass(frozen=True)
class ControlPoint:
    """A place on the picture and the ground it shows; ``on`` says whether the fit uses it."""

    column: float
    row: float
    x: float
    y: float
    on: bool = True


@dataclass(frozen=True)
class ControlSet:
    """The control points of a scan and the kind of fit that is asked of them; kept with the picture."""

    kind: str = "affine"
    points: tuple[ControlPoint, ...] = ()

    @property
    def json(self) -> str:
        """As kept."""
        rows = [[p.column, p.row, p.x, p.y, p.on] for p in self.points]
        return json.dumps({"kind": self.kind, "points": rows})

    @staticmethod
    def of_json(text: str) -> ControlSet:
        """From what is kept; nothing kept is an empty set."""
        if not text:
            return ControlSet()
        try:
            values: Any = json.loads(text)
            return ControlSet(values["kind"], tuple(ControlPoint(*p) for p in values["points"]))
        except (ValueError, TypeError, LookupError) as error:
            raise FitRefused("The control points of this scan cannot be read; set them again.") from error


@dataclass(frozen=True)
class Mapping:
    """From pixels to ground and back.

    ``numbers`` are, by kind: a, b, c, d, e, f of x = a·column + b·row + c, y = d·column + e·row + f; nine of
    a homogeneous matrix by rows; or six each for x and y in 1, u, v, u², u·v, v², where u and v are the
    pixels less ``centre`` over ``size``.
    """

    kind: str
    numbers: tuple[float, ...]
    centre: tuple[float, float] = (0.0, 0.0)
    size: float = 1.0

    @property
    def affine(self) -> tuple[float, ...] | None:
        """The six numbers, where the mapping is no more than affine."""
        return self.numbers if self.kind in ("similarity", "affine") else None

    def ground(self, pixels: Floats) -> Floats:
        """Ground places of pixels; both are (n, 2)."""
        if self.kind in ("similarity", "affine"):
            a, b, c, d, e, f = self.numbers
            return np.asarray(pixels @ np.array([[a, d], [b, e]]) + [c, f], dtype=np.float64)
        if self.kind == "projective":
            return _projected(np.array(self.numbers).reshape(3, 3), pixels)
        u = (pixels - self.centre) / self.size
        return np.asarray(_second_order(u) @ np.array(self.numbers).reshape(2, 6).T, dtype=np.float64)

    def pixels(self, ground: Floats) -> Floats:
        """Pixels of ground places; both are (n, 2)."""
        if self.kind in ("similarity", "affine"):
            a, b, c, d, e, f = self.numbers
            return np.asarray((ground - [c, f]) @ np.linalg.inv(np.array([[a, d], [b, e]])))
        if self.kind == "projective":
            return _projected(np.linalg.inv(np.array(self.numbers).reshape(3, 3)), ground)
        return self._solved(ground)

    def _solved(self, ground: Floats) -> Floats:
        """The inverse of the second order by Newton's steps from its linear part."""
        c = np.array(self.numbers).reshape(2, 6)
        linear = c[:, 1:3]
        u = np.linalg.solve(linear, (ground - c[:, 0]).T).T
        for _ in range(12):
            off = _second_order(u) @ c.T - ground
            jx = c[:, 1] + 2 * c[:, 3] * u[:, :1] + c[:, 4] * u[:, 1:]
            jy = c[:, 2] + c[:, 4] * u[:, :1] + 2 * c[:, 5] * u[:, 1:]
            det = jx[:, 0] * jy[:, 1] - jx[:, 1] * jy[:, 0]
            det = np.where(np.abs(det) < 1e-30, np.nan, det)
            step = np.column_stack(
                [
                    (off[:, 0] * jy[:, 1] - off[:, 1] * jy[:, 0]) / det,
                    (off[:, 1] * jx[:, 0] - off[:, 0] * jx[:, 1]) / det,
                ]
            )
            u = u - step
            if np.nanmax(np.abs(step), initial=0.0) < 1e-13:
                break
        return u * self.size + self.centre

    @property
    def json(self) -> str:
        """As kept with the picture: six plain numbers where it is affine."""
        if self.affine is not None:
            return json.dumps(list(self.numbers))
        return json.dumps(
            {"kind": self.kind, "numbers": list(self.numbers), "centre": list(self.centre), "size": self.size}
        )

    @staticmethod
    def of_json(text: str) -> Mapping:
        """From what is kept with a picture."""
        try:
            held: Any = json.loads(text)
            if isinstance(held, list):
                return Mapping("affine", tuple(float(v) for v in held))
            return Mapping(held["kind"], tuple(held["numbers"]), tuple(held["centre"]), held["size"])
        except (ValueError, TypeError, LookupError) as error:
            raise FitRefused("It is not known where this picture lies; place it again.") from error


@dataclass(frozen=True)
class Fit:
    """A mapping and how well it holds; arrays have a row for each control point, also those switched off.

    Attributes
    ----------
    residuals
        (n, 2): where the mapping puts a point less where it is, in ground units.
    pixel_residuals
        (n, 2): the same on the picture, in pixels.
    left_out
        The distance in ground units by which a fit without the point misses it; NaN where too few are left.
    rms
        Root mean square of the lengths of the residuals of the points that are on.
    """

    mapping: Mapping
    residuals: Floats
    pixel_residuals: Floats
    left_out: Floats
    rms: float
    rms_pixels: float

    @property
    def left_out_rms(self) -> float:
        known = self.left_out[np.isfinite(self.left_out)]
        return float(np.sqrt(np.mean(known**2))) if len(known) else float("nan")


def fit(points: Sequence[ControlPoint], kind: str) -> Fit:
    """Fit a mapping to the control points that are on.

    >>> corners = ((0, 0, 500.0, 900.0), (100, 0, 600.0, 900.0), (0, 80, 500.0, 820.0))
    >>> np.round(fit([ControlPoint(*corner) for corner in corners], "affine").mapping.affine, 6) + 0.0
    array([  1.,   0., 500.,   0.,  -1., 900.])

    Raises
    ------
    FitRefused
        Too few, on one line, or all on one place; says what is missing.
    """
    used = [p for p in points if p.on]
    mapping = mapped(used, kind)
    pixels = np.array([(p.column, p.row) for p in points], dtype=float).reshape(-1, 2)
    ground = np.array([(p.x, p.y) for p in points], dtype=float).reshape(-1, 2)
    residuals = mapping.ground(pixels) - ground
    on = np.array([p.on for p in points])
    pixel_residuals = pixels - mapping.pixels(ground)
    left_out = np.full(len(points), np.nan)
    for i, point in enumerate(points):
        if not point.on:
            left_out[i] = float(np.hypot(*residuals[i]))
            continue
        others = [p for j, p in enumerate(points) if p.on and j != i]
        try:
            without = mapped(others, kind)
        except FitRefused:
            continue
        left_out[i] = float(np.hypot(*(without.ground(pixels[i : i + 1])[0] - ground[i])))
    return Fit(
        mapping,
        residuals,
        pixel_residuals,
        left_out,
        rms=float(np.sqrt((residuals[on] ** 2).sum(axis=1).mean())),
        rms_pixels=float(np.sqrt((pixel_residuals[on] ** 2).sum(axis=1).mean())),
    )


def mapped(points: Sequence[ControlPoint], kind: str) -> Mapping:
    """The mapping alone; raises FitRefused."""
    try:
        made = _mapped(points, kind)
        # A picture has to lead back from the ground, too.
        made.pixels(np.array([(p.x, p.y) for p in points], dtype=float))
    except np.linalg.LinAlgError as error:
        raise FitRefused(
            "These control points contradict one another so far that no picture can lie so; "
            "look for one that was picked or typed wrongly."
        ) from error
    return made


def fit_words(kind: str) -> str:
    """What a kind of fit is called within a sentence: ``second order``."""
    return FIT_KINDS[kind].partition(":")[0].lower()


def _mapped(points: Sequence[ControlPoint], kind: str) -> Mapping:
    if kind not in FIT_KINDS:
        raise FitRefused(f"“{kind}” is not a kind of fit; choose {', '.join(FIT_KINDS)}.")
    least = LEAST[kind]
    if len(points) < least:
        missing = least - len(points)
        raise FitRefused(
            f"{with_article(fit_words(kind)).capitalize()} fit needs {least} control points; "
            f"{missing} more {'is' if missing == 1 else 'are'} needed."
        )
    pixels = np.array([(p.column, p.row) for p in points], dtype=float)
    ground = np.array([(p.x, p.y) for p in points], dtype=float)
    if not (np.isfinite(pixels).all() and np.isfinite(ground).all()):
        raise FitRefused("A control point is not a number; type or pick it again.")
    for places, where in ((pixels, "picture"), (ground, "ground")):
        spread = np.linalg.svd(places - places.mean(axis=0), compute_uv=False)
        if spread[0] == 0:
            raise FitRefused(f"All control points lie on one place of the {where}; spread them out.")
        if kind != "similarity" and spread[1] / spread[0] < COLLINEAR:
            raise FitRefused(f"The control points lie on one line on the {where}; add one to the side.")
    p_centre, p_size = _frame(pixels)
    g_centre, g_size = _frame(ground)
    u, w = (pixels - p_centre) / p_size, (ground - g_centre) / g_size
    if kind == "second_order":
        coefficients = _solve(_second_order(u), w, kind).T * g_size
        coefficients[:, 0] += g_centre
        return Mapping(kind, tuple(coefficients.ravel().tolist()), (float(p_centre[0]), float(p_centre[1])), p_size)
    to_unit = np.array([[1 / p_size, 0, -p_centre[0] / p_size], [0, 1 / p_size, -p_centre[1] / p_size], [0, 0, 1]])
    from_unit = np.array([[g_size, 0, g_centre[0]], [0, g_size, g_centre[1]], [0, 0, 1]])
    if kind == "projective":
        matrix = from_unit @ _homography(u, w) @ to_unit
        if abs(matrix[2, 2]) <= np.finfo(float).tiny:
            raise np.linalg.LinAlgError("the corner of the picture lies on the horizon")
        return Mapping(kind, tuple((matrix / matrix[2, 2]).ravel().tolist()))
    inner = _similarity(u, w) if kind == "similarity" else _affine(u, w)
    matrix = from_unit @ inner @ to_unit
    return Mapping(kind, tuple(matrix[:2].ravel().tolist()))


def switched(points: Sequence[ControlPoint], number: int) -> list[ControlPoint]:
    """The points with one of them switched on or off."""
    return [replace(p, on=not p.on) if i == number else p for i, p in enumerate(points)]


def _frame(places: Floats) -> tuple[Floats, float]:
    centre = places.mean(axis=0)
    return centre, float(np.abs(places - centre).max())


def _solve(design: Floats, wanted: Floats, kind: str) -> Floats:
    found, _, rank, _ = np.linalg.lstsq(design, wanted, rcond=1e-7)
    if rank < design.shape[1]:
        raise FitRefused(
            f"The control points do not hold {with_article(fit_words(kind))} fit: they lie on one curve. "
            "Add one elsewhere."
        )
    return np.asarray(found, dtype=np.float64)


def _similarity(u: Floats, w: Floats) -> Floats:
    """x = a u − b v + c, y = −b u − a v + d: turned, scaled, and with y the other way round."""
    n = len(u)
    design = np.zeros((2 * n, 4))
    design[0::2] = np.column_stack([u[:, 0], -u[:, 1], np.ones(n), np.zeros(n)])
    design[1::2] = np.column_stack([-u[:, 1], -u[:, 0], np.zeros(n), np.ones(n)])
    a, b, c, d = _solve(design, w.reshape(-1, 1), "similarity")[:, 0]
    return np.array([[a, -b, c], [-b, -a, d], [0, 0, 1]])


def _affine(u: Floats, w: Floats) -> Floats:
    found = _solve(np.column_stack([u, np.ones(len(u))]), w, "affine").T
    return np.vstack([found, [0, 0, 1]])


def _homography(u: Floats, w: Floats) -> Floats:
    """The algebraic solution, then Gauss-Newton on the distances themselves."""
    n = len(u)
    one, nil = np.ones(n), np.zeros(n)
    rows = np.empty((2 * n, 9))
    rows[0::2] = np.column_stack([u, one, nil, nil, nil, -w[:, :1] * u, -w[:, 0]])
    rows[1::2] = np.column_stack([nil, nil, nil, u, one, -w[:, 1:] * u, -w[:, 1]])
    _, singular, v = np.linalg.svd(rows)
    if len(singular) >= 8 and singular[7] < 1e-9 * singular[0]:
        raise FitRefused("Three of the control points lie on one line; a projective fit needs four that do not.")
    h = v[-1] / v[-1][8]
    for _ in range(25):
        matrix = h.reshape(3, 3)
        homogeneous = np.column_stack([u, one]) @ matrix.T
        depth = homogeneous[:, 2:]
        if np.any(np.abs(depth) < 1e-9):
            break
        there = homogeneous[:, :2] / depth
        base = np.column_stack([u, one]) / depth
        jacobian = np.zeros((2 * n, 8))
        jacobian[0::2, 0:3] = base
        jacobian[1::2, 3:6] = base
        jacobian[0::2, 6:8] = -base[:, :2] * there[:, :1]
        jacobian[1::2, 6:8] = -base[:, :2] * there[:, 1:]
        step = np.linalg.lstsq(jacobian, (w - there).reshape(-1), rcond=None)[0]
        h = h + np.append(step, 0.0)
        if np.abs(step).max() < 1e-14:
            break
    found: Floats = h.reshape(3, 3)
    return found


def _projected(matrix: Floats, places: Floats) -> Floats:
    homogeneous = np.column_stack([places, np.ones(len(places))]) @ matrix.T
    with np.errstate(divide="ignore", invalid="ignore"):
        there: Floats = homogeneous[:, :2] / homogeneous[:, 2:]
    return there


def _second_order(u: Floats) -> Floats:
    a, b = u[:, 0], u[:, 1]
    return np.column_stack([np.ones(len(u)), a, b, a * a, a * b, b * b])
