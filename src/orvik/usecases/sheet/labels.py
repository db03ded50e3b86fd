"""Labels: where they stand on a map or a panel, moved by hand and given back, and what those of a kind say."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from orvik.core.errors import NotFound, SymbolMissing
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import kind_words
from orvik.core.features.table import Table
from orvik.core.ink.primitives import Group
from orvik.core.labels.label_move import PUBLICATION, LabelMove, in_force
from orvik.core.labels.label_request import LabelKey, LabelRequest
from orvik.core.labels.label_requests import Written
from orvik.core.labels.label_rule import LabelRule, LinePlacing, usual_pattern
from orvik.core.labels.labelled import Labelling, labelled, placed
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol import Symbol
from orvik.store.journal import Change, Entry, Made
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.labels import label_moves, label_rules, move_change, rule_change, rule_rows, written_of
from orvik.store.tables.symbol_book import symbol_book_of


@dataclass(frozen=True)
class LabelChange:
    """What a hand does to a label; what is None stays as it is.

    Attributes
    ----------
    at
        Its middle: of a point's label in millimetres right and down from the point, else in ground coordinates, which
        on a panel are those of its own system.
    angle
        In degrees clockwise.
    unturned
        Whether it stands again as it does by itself, turned by no hand.
    """

    at: tuple[float, float] | None = None
    angle: float | None = None
    hidden: bool | None = None
    unturned: bool = False


def labelling_of(project: Reader) -> Labelling:
    """The labels of a project at its publication scale."""
    return labelled(*_at_publication(project))


def labels_without_room(project: Reader) -> tuple[LabelRequest, ...]:
    """Labels of a project for which there is no place at its publication scale."""
    return placed(*_at_publication(project)).without_room


def _at_publication(
    project: Reader,
) -> tuple[dict[Table, Features], Mapping[str, Group], Written, float, None, Mapping[LabelKey, LabelMove]]:
    """What labels are placed by: features, their ink, what is written, the scale, and what hands have done."""
    features, written = project.all_features(), written_of(project)
    scale = project.scales.publication
    layers = portray(features, written.book, written.units, written.crs, scale)
    moves = in_force([move for _, move in label_moves(project)], PUBLICATION, at_publication=True)
    return features, layers, written, scale, None, moves


def change_label(project: Project, key: LabelKey, change: LabelChange, scope: int = PUBLICATION) -> Entry | None:
    """Move, turn, hide or show a label by hand; None where nothing changes.

    Parameters
    ----------
    scope
        ``PUBLICATION``, or the number of the panel that it is for.

    Raises
    ------
    NotFound
        Its feature, or the panel, is not there.
    FeatureRefused
        It cannot stand so.
    """
    feature = _feature_of(project, key)
    at = change.at
    if scope != PUBLICATION:
        settings = project.part(scope).settings
        if not isinstance(settings, MapPanel):
            raise NotFound("Labels stand on panels; there is none of this number.")
        if at is not None and key.table != "points":
            at = carried_place(settings.crs_in(project.crs), project.crs, at)
    row_id, old = _move(project, key, scope)
    new = LabelMove(
        key,
        scope,
        at if at is not None else old.at,
        None if change.unturned else change.angle if change.angle is not None else old.angle,
        change.hidden if change.hidden is not None else old.hidden,
    )
    if new == old:
        return None
    what = "hide" if change.hidden else "show" if change.hidden is not None else "turn" if change.at is None else "move"
    return project.apply(f"{what} the label of {feature.name}", [move_change(row_id, new)])


def give_back(project: Project, key: LabelKey, scope: int = PUBLICATION) -> Entry | None:
    """Give a label back, so that it is placed automatically again; None where no hand has touched it."""
    row_id, _ = _move(project, key, scope)
    if row_id is None:
        return None
    return project.apply(
        f"place the label of {_name(project, key)} automatically", [move_change(row_id, LabelMove(key, scope))]
    )


def give_all_back(project: Project, scope: int = PUBLICATION) -> Entry | None:
    """Give all labels of a scope back; None where no hand has touched one."""
    touched = [(row_id, move) for row_id, move in label_moves(project) if move.scope == scope]
    if not touched:
        return None
    changes = [move_change(row_id, LabelMove(move.key, scope)) for row_id, move in touched]
    return project.apply(
        f"place {len(touched)} labels automatically" if len(touched) > 1 else "place a label automatically", changes
    )


def copied_moves(project: Reader, panels: Mapping[int, int]) -> list[Change]:
    """The changes that give copies of panels what hands have done to the labels of these.

    Parameters
    ----------
    panels
        By the number of a panel, which change of the same entry makes its copy.
    """
    changes = []
    for _, move in label_moves(project):
        if move.scope != PUBLICATION and move.scope in panels:
            values = dict(move_change(None, move).values or {})
            changes.append(Change("label_moves", None, values | {"scope": Made(panels[move.scope])}))
    return changes


def moved_by_hand(project: Reader, scope: int = PUBLICATION) -> int:
    """How many labels of a scope a hand has moved or turned."""
    return sum(move.scope == scope and not move.hidden for _, move in label_moves(project))


def _move(project: Reader, key: LabelKey, scope: int) -> tuple[int | None, LabelMove]:
    for row_id, move in label_moves(project):
        if move.key == key and move.scope == scope:
            return row_id, move
    return None, LabelMove(key, scope)


def _feature_of(project: Reader, key: LabelKey) -> Feature:
    found = project.whole(key.table, [key.id])
    if key.id not in found:
        raise NotFound("What this label speaks of is no longer there.")
    if not 0 <= key.number < 64:
        raise NotFound("There is no such label.")
    return found[key.id]


def _name(project: Reader, key: LabelKey) -> str:
    found = project.whole(key.table, [key.id]).get(key.id)
    return found.name if found is not None else "something that is gone"


def set_rule(project: Project, rule: LabelRule) -> Entry | None:
    """Say what the labels of a kind write, and how; None where nothing changes.

    Raises
    ------
    SymbolMissing
        There is no such kind.
    FeatureRefused
        It names an attribute that there is not.
    """
    book = symbol_book_of(project)
    if (rule.table, rule.kind) not in book.by_kind:
        raise SymbolMissing(f"The symbol book has no kind “{rule.kind[:40]}”.")
    own = book.custom_kinds.get(rule.kind)
    rule.checked(tuple(field.name for field in own.fields) if own is not None else ())
    row_id, old = _rule(project, rule.table, rule.kind)
    if old == rule:
        return None
    return project.apply(f"set the labels of {kind_words(rule.kind)}", [rule_change(row_id, rule)])


def remove_rule(project: Project, table: Table, kind: str) -> Entry | None:
    """Let the labels of a kind be as its symbol has them; None where they are so."""
    row_id, _ = _rule(project, table, kind)
    if row_id is None:
        return None
    return project.apply(f"set the labels of {kind_words(kind)} back", [Change("label_rules", row_id, None)])


def _rule(project: Reader, table: Table, kind: str) -> tuple[int | None, LabelRule | None]:
    for row_id, rule in rule_rows(project):
        if (rule.table, rule.kind) == (table, kind):
            return row_id, rule
    return None, None


@dataclass(frozen=True)
class LabelKind:
    """A kind that features of a project are of, and what its labels say.

    Attributes
    ----------
    rule
        As it is in force: the project's, or what its symbol says of itself in the form of a rule.
    usual
        Whether the labels are as the symbol has them.
    """

    title: str
    count: int
    rule: LabelRule
    usual: bool
    fields: tuple[str, ...] = ()


def label_kinds(project: Reader) -> list[LabelKind]:
    """The kinds that a project's features are of, areas first, with what their labels say."""
    book, rules = symbol_book_of(project), label_rules(project)
    out = []
    for table in ("areas", "points", "lines"):
        for kind, count in project.kind_counts(table):
            symbols = book.by_kind.get((table, kind), ())
            symbol = next((symbol for symbol in symbols if symbol.captions), symbols[0] if symbols else None)
            if symbol is None or (symbol.aid and not any(caption.printed for caption in symbol.captions)):
                continue
            rule = rules.get((table, kind))
            own = book.custom_kinds.get(kind)
            fields = tuple(field.name for field in own.fields) if own is not None else ()
            out.append(LabelKind(book.kind_title(table, kind), count, rule or _as_signed(symbol), rule is None, fields))
    return out


def _as_signed(symbol: Symbol) -> LabelRule:
    """What a symbol writes of itself, as a rule."""
    caption = next((c for c in symbol.captions if c.place in ("beside", "along")), None)
    if caption is None:
        return LabelRule(symbol.table, symbol.kind, usual_pattern(symbol.table, symbol.kind))
    pattern = "{code}" if caption.of == "map_unit" else f"{{{caption.of}}}"
    placing: LinePlacing = "along" if caption.place == "along" else "above"
    return LabelRule(symbol.table, symbol.kind, pattern, caption.size, caption.italic, placing)
