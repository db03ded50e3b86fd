"""The list of what takes long names tests that there are."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

from tests.conftest import LONG

HERE = Path(__file__).parent


@pytest.mark.parametrize("module", sorted({name.partition("::")[0] for name in LONG}))
def test_every_name_is_a_test(module: str) -> None:
    tree = ast.parse((HERE.parent / module).read_text())
    there = {node.name for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)}
    listed = {name.rpartition("::")[2] for name in LONG if name.startswith(f"{module}::")}
    assert listed <= there, "scripts/long_tests.py writes the list anew"
