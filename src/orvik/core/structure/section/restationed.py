"""What is drawn on a section, when the line that it runs along is drawn otherwise: it stays where it is."""

from __future__ import annotations

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.structure.section.section_line import SectionLine


def restationed(old: SectionLine, new: SectionLine, along: Floats) -> Floats:
    """Distances along another line of the same places: of their feet on it, straight on beyond its ends.

    >>> line = SectionLine(np.array([(0.0, 0.0), (100.0, 0.0)]))
    >>> longer = SectionLine(np.array([(-50.0, 0.0), (100.0, 0.0)]))
    >>> restationed(line, longer, np.array([0.0, 30.0])).tolist()
    [50.0, 80.0]
    >>> back = SectionLine(np.array([(100.0, 0.0), (0.0, 0.0)]))
    >>> restationed(line, back, np.array([0.0, 30.0, 120.0])).tolist()
    [100.0, 70.0, -20.0]

    Parameters
    ----------
    along
        In metres along the old line; below nought and beyond its end, too.
    """
    places = old.at(along)
    begins, steps = new.xy[:-1], np.diff(new.xy, axis=0)
    off = places[:, None, :] - begins
    share = (off * steps).sum(axis=2) / (steps * steps).sum(axis=1)
    low, high = np.zeros(len(steps)), np.ones(len(steps))
    low[0], high[-1] = -np.inf, np.inf
    share = np.clip(share, low, high)
    away = np.hypot(*np.moveaxis(off - share[..., None] * steps, -1, 0))
    leg = away.argmin(axis=1)
    row = np.arange(len(along))
    return np.asarray(new.stations[leg] + share[row, leg] * new.steps[leg])
