"""The layers of the stack that features lie in: what is hidden or locked is not touched."""

from __future__ import annotations

from collections.abc import Mapping

from orvik.core.errors import FeatureRefused
from orvik.core.features.table import Table
from orvik.store.rows import LayerState

# The layer of the stack that each table's features lie in, and how sentences call it.
LAYER_OF: dict[Table, str] = {"points": "attitudes", "lines": "linework", "areas": "units"}
TABLE_OF: dict[str, Table] = {layer: table for table, layer in LAYER_OF.items()}
LAYER_NAMES = {"attitudes": "Attitudes", "linework": "Linework", "units": "Units"}


Stack = Mapping[str, LayerState]


def state_of(stack: Stack, layer: str) -> LayerState:
    """How a layer of the stack stands."""
    return stack.get(layer, LayerState())


def may_touch(stack: Stack, table: Table) -> bool:
    """Whether a table's layer is neither locked nor hidden."""
    state = state_of(stack, LAYER_OF[table])
    return state.shown and not state.locked


def tables_in_sight(stack: Stack) -> frozenset[Table]:
    """Tables whose features are seen; what is hidden cannot be touched."""
    return frozenset(table for table, layer in LAYER_OF.items() if state_of(stack, layer).shown)


def refuse_locked(stack: Stack, table: Table) -> None:
    """Raise FeatureRefused if a table's layer is locked or hidden."""
    name = LAYER_OF[table]
    state = state_of(stack, name)
    if state.locked or not state.shown:
        how = "locked; unlock" if state.locked else "hidden; show"
        raise FeatureRefused(f"{LAYER_NAMES[name]} is {how} it in the stack first.")


def refuse_locked_underlay(stack: Stack, source_id: int) -> None:
    """Raise FeatureRefused if an underlay is locked."""
    if state_of(stack, f"underlay-{source_id}").locked:
        raise FeatureRefused("This underlay is locked; unlock it in the stack first.")
