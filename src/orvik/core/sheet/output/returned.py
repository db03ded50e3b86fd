"""A returned sheet, compared with what went out: its scale, what was moved, changed and lost."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.ground.scale import figures
from orvik.core.ink.affine import Affine, apply, inverse
from orvik.core.sheet.output.returned_paths import DrawnPath, GroupChange, changes_of

# Nobody moves a text by less, in millimetres; and a scale that is nearer to 1 is its rounding.
MOVED_MM = 0.1
SCALED = 2e-4
TURNED = 0.02
# Texts that say how the whole was moved: fewer say nothing.
LEAST = 3
ROUNDS = 8
# Tries at a way that squeezes, where fewer places than this share have gone along with a plain one.
TRIES = 500
ENOUGH = 0.9


@dataclass(frozen=True)
class PlacedText:
    """A text of a file: what it says, and where it begins on the page in millimetres."""

    text: str
    x: float
    y: float


@dataclass(frozen=True)
class Whole:
    """How a page was moved as a whole: by this way from what went out to what came back.

    ``squeezed`` says how long what ran across and down the page is now, where the two differ.
    """

    scale: float = 1.0
    turned: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)
    way: Affine = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)
    squeezed: tuple[float, float] | None = None

    @property
    def words(self) -> list[str]:
        """What is to be said of it; nothing where it is as it was."""
        if self.squeezed is not None:
            across, down = (figures(share, 4) for share in self.squeezed)
            return [f"Squeezed to {across} across and {down} down the page: lengths on the map are no longer true."]
        said = []
        if abs(self.scale - 1) > SCALED:
            said.append(f"Scaled by {figures(self.scale, 4)}: lengths on the map are no longer true.")
        if abs(self.turned) > TURNED:
            said.append(f"Turned by {self.turned:.2f}°.")
        if not said and float(np.hypot(*self.shift)) > MOVED_MM:
            dx, dy = self.shift
            # What rounds to nought is to neither side.
            right, down = "left" if dx < -0.05 else "right", "up" if dy < -0.05 else "down"
            said.append(f"Moved by {float(np.hypot(dx, dy)):.1f} mm ({abs(dx):.1f} {right}, {abs(dy):.1f} {down}).")
        return said


@dataclass(frozen=True)
class Comparison:
    """What differs.

    Attributes
    ----------
    moved
        Names of texts, and by how many millimetres each was moved right and down beside the whole.
    changed
        Names of texts, what each said, and what it says now.
    lost, added
        Names of what is no longer there, and what has come.
    drawn
        Groups whose paths or pictures have changed.
    """

    whole: Whole
    moved: Mapping[str, tuple[float, float]]
    changed: Mapping[str, tuple[str, str]]
    lost: Sequence[str]
    added: Sequence[str]
    drawn: Sequence[GroupChange] = ()

    @property
    def words(self) -> list[str]:
        """What is to be said, in sentences."""
        said = [*self.whole.words]
        if self.moved:
            said.append(f"{_count(len(self.moved), 'text')} moved by hand.")
        if self.changed:
            said.append(f"{_count(len(self.changed), 'text')} changed.")
        if self.added:
            said.append(f"{_count(len(self.added), 'text')} new.")
        if self.lost:
            said.append(f"{_count(len(self.lost), 'text or group', 'texts and groups')} lost.")
        said += [words for group in self.drawn for words in group.words]
        if not self.lost and not self.drawn:
            said.append("Nothing lost.")
        return said


def _count(number: int, one: str, many: str = "") -> str:
    return f"{number} {one if number == 1 else many or one + 's'}"


def compared(
    out: Mapping[str, PlacedText],
    back: Mapping[str, PlacedText],
    groups: Sequence[str],
    there: Sequence[str],
    ink: Mapping[str, Sequence[DrawnPath]],
    ink_there: Mapping[str, Sequence[DrawnPath]],
) -> Comparison:
    """What went out and what came back, by the names of texts.

    Parameters
    ----------
    groups, there
        The names of the groups that went out, and those that came back.
    ink, ink_there
        What was drawn in them, and what is.
    """
    both = [name for name in out if name in back]
    whole = whole_of(
        np.array([(out[n].x, out[n].y) for n in both]).reshape(-1, 2),
        np.array([(back[n].x, back[n].y) for n in both]).reshape(-1, 2),
    )
    moved: dict[str, tuple[float, float]] = {}
    undo = inverse(whole.way)
    for name in both:
        x, y = apply(undo, np.array([(back[name].x, back[name].y)]))[0]
        dx, dy = float(x) - out[name].x, float(y) - out[name].y
        if np.hypot(dx, dy) > MOVED_MM:
            moved[name] = (dx, dy)
    changed = {n: (out[n].text, back[n].text) for n in both if out[n].text.split() != back[n].text.split()}
    lost = [name for name in out if name not in back]
    lost += [name for name in groups if name not in set(there)]
    # Of groups that are gone nothing more needs to be said.
    left = {name: paths for name, paths in ink.items() if name in set(there) or not name}
    drawn = changes_of(left, ink_there, undo)
    return Comparison(whole, moved, changed, lost, [name for name in back if name not in out], drawn)


def whole_of(before: Floats, after: Floats) -> Whole:
    """The similarity that most texts have gone along with: scale, turn and shift, by least squares over those.

    Parameters
    ----------
    before, after
        The same places, (n, 2), with y downwards.
    """
    if len(before) < LEAST:
        return Whole()
    one, two = before[:, 0] + 1j * before[:, 1], after[:, 0] + 1j * after[:, 1]
    keep = np.ones(len(one), dtype=bool)
    # From what most places say on their own: the middle of all ratios to the next but some.
    rng = np.random.default_rng(0)
    i, j = rng.integers(0, len(one), (2, 400))
    far = np.abs(one[i] - one[j]) > 1.0
    if not far.any():
        return Whole()
    ratios = (two[i] - two[j])[far] / (one[i] - one[j])[far]
    factor = complex(np.median(ratios.real), np.median(ratios.imag))
    moves = two - factor * one
    shift = complex(np.median(moves.real), np.median(moves.imag))
    for _ in range(ROUNDS):
        keep = np.abs(factor * one + shift - two) <= MOVED_MM
        if keep.sum() < LEAST:
            break
        middle, there = one[keep].mean(), two[keep].mean()
        spread = float((np.abs(one[keep] - middle) ** 2).sum())
        if spread == 0:
            break
        factor = complex(((two[keep] - there) * np.conj(one[keep] - middle)).sum() / spread)
        shift = complex(there - factor * middle)
    a, b = factor.real, factor.imag
    way = (a, -b, shift.real, b, a, shift.imag)
    squeezed = _squeeze(before, after, int((np.abs(factor * one + shift - two) <= MOVED_MM).sum()))
    if squeezed is not None:
        return squeezed
    return Whole(abs(factor), float(np.degrees(np.angle(factor))), (shift.real, shift.imag), way)


def _squeeze(before: Floats, after: Floats, alike: int) -> Whole | None:
    """A way that shortens one direction more than another, where more places have gone along with it than ``alike``.

    Three places make such a way; of many tries the one that most others follow is fitted to these by least squares
    (random sample consensus, Fischler and Bolles 1981).
    """
    count = len(before)
    if count <= LEAST or alike >= ENOUGH * count:
        return None
    rng = np.random.default_rng(1)
    known = np.column_stack([before, np.ones(count)])
    best = np.zeros(count, dtype=bool)
    for _ in range(TRIES):
        some = rng.choice(count, 3, replace=False)
        if abs(np.linalg.det(known[some])) < 1.0:
            continue
        way = np.linalg.solve(known[some], after[some])
        near = np.hypot(*(known @ way - after).T) <= MOVED_MM
        best = near if near.sum() > best.sum() else best
    if best.sum() <= max(alike, LEAST) or best.sum() < count / 2:
        return None
    way = np.linalg.lstsq(known[best], after[best], rcond=None)[0]
    (a, d), (b, e), (c, f) = way.tolist()
    across, down = float(np.hypot(a, d)), float(np.hypot(b, e))
    if abs(across - down) <= SCALED and abs(a * b + d * e) <= SCALED:
        return None
    return Whole(
        float(np.sqrt(abs(a * e - b * d))),
        float(np.degrees(np.arctan2(d, a))),
        (c, f),
        (a, b, c, d, e, f),
        (across, down),
    )
