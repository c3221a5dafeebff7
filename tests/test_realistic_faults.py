"""The faults that are planted are those people make, and each leaves a program that can be read."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

from tools.mutants.realistic import PREFIX, changes, planted

ROOT = Path(__file__).resolve().parents[1]


@pytest.mark.parametrize(
    ("code", "kind", "wanted"),
    [
        ("x = run.start.part", "twin", "x = run.finish.part"),
        ("x = state.key_on", "twin", "x = state.engine_on"),
        ("x = max(a, b)", "extreme", "x = min(a, b)"),
        ("x = all(a)", "extreme", "x = any(a)"),
        ("x = f('start')", "word", "x = f('finish')"),
        ("x = a and b", "condition", "x = ((a))"),
        ("x = [a for a in b if a > 2]", "condition", "x = [a for a in b if True]"),
        ("x = length_m * 1000", "unit", "x = (length_m)"),
        ("x = escape(name)", "escape", "x = (name)"),
    ],
)
def test_each_kind_is_found_and_planted(code: str, kind: str, wanted: str) -> None:
    assert kind in {one.kind for one in changes(code)}
    assert planted(code, PREFIX + kind, 0) == wanted


@pytest.mark.parametrize("code", ['"""start"""', "from a import start", "def f(x: Literal['start']) -> None: ..."])
def test_what_only_describes_is_left_alone(code: str) -> None:
    assert changes(code) == []


def test_one_that_is_not_there_is_none() -> None:
    assert planted("x = max(a, b)", PREFIX + "extreme", 1) is None


@pytest.mark.parametrize("path", ["core/circuit/giving.py", "core/layout/bundles.py", "exports/tables_csv.py"])
def test_every_fault_leaves_a_file_that_can_be_read(path: str) -> None:
    code = (ROOT / "lucernis" / path).read_text(encoding="utf-8")
    counts: dict[str, int] = {}
    for one in changes(code):
        number = counts[one.kind] = counts.get(one.kind, -1) + 1
        changed = planted(code, PREFIX + one.kind, number)
        assert changed is not None
        assert changed != code
        ast.parse(changed)
    assert counts
