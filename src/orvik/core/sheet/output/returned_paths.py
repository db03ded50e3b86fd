"""What is drawn in a returned file, path by path, compared with what went out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from orvik.core.arrays import Floats
from orvik.core.ink.affine import Affine, apply

# A path whose box is where it was, within so many millimetres on each side, is the same one.
SAME_MM = 0.1
# So many changes of colour are named.
NAMED = 3
PICTURE = "a picture"


@dataclass(frozen=True)
class DrawnPath:
    """A line, an area or a picture as it stands on the page.

    Attributes
    ----------
    xy
        Its vertices in millimetres, (n, 2), y downwards.
    fill, stroke
        Colours as ``#RRGGBB``; empty for none. A picture has ``PICTURE`` for its fill.
    """

    xy: Floats
    fill: str
    stroke: str


@dataclass(frozen=True)
class GroupChange:
    """What has become of the paths of a group; ``colours`` counts those painted otherwise, from what to what."""

    name: str
    count: int
    gone: int
    new: int
    changed: int
    colours: Mapping[tuple[str, str], int]

    @property
    def words(self) -> list[str]:
        """What is to be said of it; nothing where it is as it was."""
        said = []
        if self.gone:
            said.append(f"{self.gone} of {self.count} paths gone")
        if self.changed:
            said.append(f"{self.changed} of {self.count} paths moved or redrawn")
        if self.new:
            said.append(f"{self.new} paths new")
        if self.colours:
            listed = [f"{one} as {other}" for (one, other), _ in Counter(self.colours).most_common(NAMED)]
            more = ", and others" if len(self.colours) > NAMED else ""
            said.append(f"{sum(self.colours.values())} painted otherwise ({', '.join(listed)}{more})")
        return [f"{self.name or 'Outside of all groups'}: {'; '.join(said)}."] if said else []


def changes_of(
    out: Mapping[str, Sequence[DrawnPath]], back: Mapping[str, Sequence[DrawnPath]], undo: Affine
) -> list[GroupChange]:
    """What has changed group by group, in the order in which they went out.

    Parameters
    ----------
    undo
        The way from the page as it came back to the page as it was.
    """
    names = [*out, *(name for name in back if name not in out)]
    made = [_change(name, out.get(name, ()), back.get(name, ()), undo) for name in names]
    return [change for change in made if change.words]


def _change(name: str, out: Sequence[DrawnPath], back: Sequence[DrawnPath], undo: Affine) -> GroupChange:
    there, here = _boxes(out, None), _boxes(back, undo)
    pairs = _pairs(there, here)
    lost, more = len(out) - len(pairs), len(back) - len(pairs)
    changed = min(lost, more)
    colours: Counter[tuple[str, str]] = Counter()
    for i, j in pairs:
        one, other = out[i], back[j]
        if (one.fill, one.stroke) != (other.fill, other.stroke):
            before, after = (one.fill, other.fill) if one.fill != other.fill else (one.stroke, other.stroke)
            colours[before or "nothing", after or "nothing"] += 1
    return GroupChange(name, len(out), lost - changed, more - changed, changed, colours)


def _boxes(paths: Sequence[DrawnPath], way: Affine | None) -> Floats:
    """West, north, east and south of each path, (n, 4)."""
    if not paths:
        return np.empty((0, 4))
    starts = np.cumsum([0, *(len(path.xy) for path in paths)])[:-1]
    xy = np.concatenate([path.xy for path in paths])
    xy = xy if way is None else apply(way, xy)
    return np.column_stack([np.minimum.reduceat(xy, starts), np.maximum.reduceat(xy, starts)])


def _pairs(there: Floats, here: Floats) -> list[tuple[int, int]]:
    """Paths of both that have one box, each in one pair; of several in one place those that follow one another."""
    if not len(there) or not len(here):
        return []
    tree = cKDTree(here)
    # What has kept its place in the order is itself; of the rest each takes the nearest that nobody has.
    count = min(len(there), len(here))
    same = np.flatnonzero(np.abs(there[:count] - here[:count]).max(axis=1) <= SAME_MM)
    pairs = [(int(i), int(i)) for i in same]
    taken = set(same.tolist())
    for i in np.setdiff1d(np.arange(len(there)), same).tolist():
        near = tree.query_ball_point(there[i], SAME_MM, p=np.inf)
        free = [j for j in near if j not in taken]
        if free:
            j = min(free, key=lambda k: (float(np.abs(here[k] - there[i]).max()), k))
            taken.add(j)
            pairs.append((i, j))
    return pairs
