"""Labels for areas and attitudes side by side: 1 000 of each, and ten times as many."""

from __future__ import annotations

from collections.abc import Iterator

from tests.core.labels.ground import UNITS, crowded

from benchmarks.yardstick import Row, seconds
from orvik.core.ground.crs import project_crs
from orvik.core.labels.label_requests import Written
from orvik.core.labels.labelled import labelled
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import portray

# The most that 1 000 areas and 1 000 attitudes may take, in seconds, and how much more than ten times that ten times
# as many may.
MOST, LINEAR = 1.5, 1.5
SCALE = 25_000


def run() -> Iterator[Row]:
    """How long each takes, and how many find no room."""
    crs, book = project_crs("EPSG:32628"), standard()
    written = Written(book, UNITS, crs)
    took: dict[int, float] = {}
    for count in (1_000, 10_000):
        features = crowded(count, count, 60 * count // 1000)
        layers = portray(features, book, UNITS, crs, SCALE)
        took[count] = seconds(lambda f=features, ink=layers: labelled(f, ink, written, SCALE))  # type: ignore[misc]
        found = labelled(features, layers, written, SCALE)
        led = sum(label.place.leader is not None for label in found.labels)
        name = f"labels of {count:,} areas and as many attitudes".replace(",", " ")
        words = f"{took[count]:.2f} s; {led} with a leader, {len(found.without_room)} without room"
        yield Row(name, words, f"at most {MOST:g} s" if count == 1_000 else "", took[count] <= MOST or count > 1_000)
    ratio = took[10_000] / took[1_000] / 10
    yield Row("10 000 against ten times 1 000", f"{ratio:.2f}", f"at most {LINEAR:g}", ratio <= LINEAR)
