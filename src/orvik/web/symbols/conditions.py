"""The bench of conditional symbols: which there are, in their order, and a form that says beforehand what it does."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Form, Query, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import ScaleRefused, SymbolRefused
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.scale import parse_scale
from orvik.core.symbols.symbol_rule import ATTRIBUTES, COMPARISONS, MOST_TESTS, AttributeTest, SymbolRule
from orvik.store.tables.symbol_book import drawn_symbols
from orvik.store.tables.symbol_rules import rule_rows
from orvik.usecases.symbols import symbol_rules as use
from orvik.web.frame.pages import page, stage_page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.benches import bench_values
from orvik.web.symbols.swatches import symbol_swatch

router = APIRouter(prefix="/p/{slug}/symbols/conditions")
TABLE_WORDS: dict[Table, str] = {"points": "Points", "lines": "Lines", "areas": "Areas"}
SWATCH = 20.0
# Where the last of several looks is none.
LEFT_OUT = "none"


class RuleForm(BaseModel):
    """A conditional symbol as typed; ``number`` is empty for a new one."""

    number: str = ""
    kind: str = ""
    certainty: str = ""
    attribute_1: str = ""
    comparison_1: str = "is"
    value_1: str = ""
    attribute_2: str = ""
    comparison_2: str = "is"
    value_2: str = ""
    attribute_3: str = ""
    comparison_3: str = "is"
    value_3: str = ""
    finest: str = ""
    coarsest: str = ""
    # A new one does nothing before somebody has said what it is to look like.
    look: str = ""
    title: str = ""

    def rule(self) -> SymbolRule:
        """As a conditional symbol; raises SymbolRefused where it cannot be one."""
        table, _, kind = self.kind.partition(" ")
        look, _, worn = self.look.partition(" ")
        tests = tuple(
            AttributeTest(attribute, comparison, value.strip())
            for attribute, comparison, value in self._tests()
            if attribute
        )
        return SymbolRule(
            _table(table),
            kind,
            tests,
            self.certainty,
            _scale(self.finest),
            _scale(self.coarsest),
            look,  # type: ignore[arg-type]  # checked by the rule itself
            worn,
            " ".join(self.title.split()),
        )

    def _tests(self) -> list[tuple[str, Any, str]]:
        return [
            (self.attribute_1, self.comparison_1, self.value_1),
            (self.attribute_2, self.comparison_2, self.value_2),
            (self.attribute_3, self.comparison_3, self.value_3),
        ]

    @property
    def replaced(self) -> int | None:
        """The number of the one that it changes; None for a new one."""
        return int(self.number) if self.number.isdecimal() and len(self.number) < 16 else None


def _table(name: str) -> Table:
    for table in TABLES:
        if table == name:
            return table
    raise SymbolRefused("Choose what it is for.")


def _scale(text: str) -> int | None:
    return parse_scale(text) if text.strip() else None


@router.get("")
async def get_conditions(request: Request, workspace: TheWorkspace, workers: TheWorkers) -> Response:
    values = {
        **bench_values(workspace, "conditions"),
        **await _values(workspace, workers),
        **_form_values(workspace, RuleForm()),
    }
    return stage_page(request, workspace, "symbols", template="symbols/conditions.html", **values)


@router.get("/form")
async def get_form(request: Request, slug: str, workspace: TheWorkspace, number: int = 0) -> Response:
    """The form of one that there is, or of a new one."""
    rule = next((rule for row_id, rule in rule_rows(workspace.project) if row_id == number), None)
    form = _form(number, rule) if rule is not None else RuleForm()
    return page(request, "symbols/_condition_form.html", slug=slug, **_form_values(workspace, form))


@router.get("/form/again")
async def get_form_again(
    request: Request, slug: str, workspace: TheWorkspace, form: Annotated[RuleForm, Query()]
) -> Response:
    """The form for another kind: its attributes and the looks that it can have; what is typed stays."""
    return page(request, "symbols/_condition_form.html", slug=slug, **_form_values(workspace, form))


@router.get("/preview")
async def get_preview(
    request: Request, workspace: TheWorkspace, workers: TheWorkers, form: Annotated[RuleForm, Query()]
) -> Response:
    """What it would do if it were kept, or why it cannot be."""
    try:
        line = await workers.run(jobs.rule_preview, workspace.project.path, form.rule(), form.replaced)
    except (SymbolRefused, ScaleRefused) as refusal:
        return page(request, "symbols/_condition_preview.html", why=refusal.sentence, line=None)
    return page(request, "symbols/_condition_preview.html", line=_shown(line, "preview"), why="")


@router.post("")
async def post_rule(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, form: Annotated[RuleForm, Form()]
) -> Response:
    """Keep a new one, or another form of one that there is."""
    if form.replaced is None:
        await workspace.carry_out(use.add_rule, form.rule())
    else:
        await workspace.carry_out(use.change_rule, form.replaced, form.rule())
    return await _desk(request, slug, workspace, workers)


@router.post("/{number}/move")
async def post_move(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    number: int,
    up: Annotated[bool, Form()] = True,
) -> Response:
    await workspace.carry_out(use.move_rule, number, up)
    return await _desk(request, slug, workspace, workers)


@router.post("/{number}/remove")
async def post_remove(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, number: int
) -> Response:
    await workspace.carry_out(use.remove_rule, number)
    return await _desk(request, slug, workspace, workers)


async def _desk(request: Request, slug: str, workspace: Workspace, workers: Workers) -> Response:
    values = {**await _values(workspace, workers), **_form_values(workspace, RuleForm())}
    return page(request, "symbols/_conditions.html", slug=slug, **values)


async def _values(workspace: Workspace, workers: Workers) -> dict[str, Any]:
    lines = await workers.run(jobs.rule_lines, workspace.project.path)
    return {"lines": [_shown(line, f"rule-{line.number}") for line in lines]}


def _shown(line: use.RuleLine, prefix: str) -> dict[str, Any]:
    rule, count = line.rule, line.count
    asked = [words for words in (rule.certainty, rule.words, rule.scale_words) if words]
    notes = []
    if rule.look != LEFT_OUT and line.after is None:
        notes.append("its look is gone; choose another one")
    if count.holds > count.takes:
        notes.append(f"{count.holds - count.takes} more keep another symbol: an earlier condition, or no look for them")
    return {
        "number": line.number,
        "kind": line.kind_title,
        "asked": ", ".join(asked),
        "count": count,
        "places": line.places,
        "notes": notes,
        "before": symbol_swatch(line.before, f"{prefix}-before", SWATCH) if line.before else "",
        "after": symbol_swatch(line.after, f"{prefix}-after", SWATCH) if line.after and not line.after.left_out else "",
        "left_out": rule.look == LEFT_OUT,
        "title": line.after.title if line.after and line.after.explained else "",
    }


def _form(number: int, rule: SymbolRule) -> RuleForm:
    tests = {
        f"{name}_{place}": value
        for place, test in enumerate(rule.tests, 1)
        for name, value in (
            ("attribute", test.attribute),
            ("comparison", test.comparison),
            ("value", test.value),
        )
    }
    return RuleForm(
        number=str(number),
        kind=f"{rule.table} {rule.kind}",
        certainty=rule.certainty,
        finest=str(rule.finest or ""),
        coarsest=str(rule.coarsest or ""),
        look=f"{rule.look} {rule.worn}".strip(),
        title=rule.title,
        **tests,
    )


def _form_values(workspace: Workspace, form: RuleForm) -> dict[str, Any]:
    """The form, and what can be chosen in it."""
    kinds = use.kinds_in_reach(workspace.project)
    table, _, kind = form.kind.partition(" ")
    if not any((one[0], one[1]) == (table, kind) for one in kinds):
        table, kind = kinds[0][:2]
        form = form.model_copy(update={"kind": f"{table} {kind}"})
    book = workspace.book
    symbols = book.by_kind[_table(table), kind]
    graded = {symbol.certainty or "certain" for symbol in symbols}
    own = book.custom_kinds.get(kind)
    fields = {field.name: field.name for field in own.fields} if own is not None else {}
    looks = [(f"kind {other}", title) for of, other, title, _ in kinds if of == table and other != kind]
    drawn = [
        (f"drawn {symbol.name}", symbol.title)
        for _, symbol in drawn_symbols(workspace.project)
        if symbol.family == table
    ]
    return {
        "form": form,
        "kind_groups": {
            words: [(f"{of} {name}", title, count) for of, name, title, count in kinds if of == group]
            for group, words in TABLE_WORDS.items()
        },
        "certainties": [c for c in CERTAINTIES if c in graded] if own is None and len(graded) > 1 else [],
        "attributes": {**ATTRIBUTES, **fields},
        "comparisons": COMPARISONS,
        "test_rows": range(1, MOST_TESTS + 1),
        "looks": {"Kinds of the book": sorted(looks, key=lambda one: one[1]), "Custom symbols": drawn},
    }
