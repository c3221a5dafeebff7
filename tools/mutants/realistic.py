"""Faults as people make them: wrong end, wrong state, wrong extreme, a condition dropped, a unit forgotten."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from dataclasses import dataclass

PREFIX = "realistic/"
# Each may stand where the other should.
TWINS = (
    ("start", "finish"), ("at_start", "at_finish"), ("fuse_at_start", "fuse_at_finish"), ("near", "far"),
    ("key_on", "engine_on"), ("shore_on", "engine_on"), ("min", "max"), ("any", "all"), ("pos", "neg"),
    ("positive", "negative"), ("strongest", "weakest"), ("strongest_a", "weakest_a"), ("carry_a", "design_current_a"),
    ("conductor_drop_v", "drop_v"), ("house", "starter"), ("stop", "fix"), ("fix", "look"), ("first", "last"),
    ("length_m", "distance_m"), ("in", "out"), ("above", "below"), ("before", "after"), ("open", "off"),
)  # fmt: skip
_OTHER = {one: other for pair in TWINS for one, other in (pair, pair[::-1])}
_FACTORS = {12, 24, 60, 100, 1000, 3600, 1_000_000}
_ESCAPES = {"escape", "quote", "_escaped", "escaped", "no_formula", "plain_text"}


@dataclass(frozen=True, slots=True)
class Change:
    """A stretch of a file, by line and column, and what stands there instead."""

    kind: str
    line: int
    column: int
    end_line: int
    end_column: int
    text: str


def changes(code: str) -> list[Change]:
    """Every fault of these kinds a file can have, in the order they stand."""
    tree = ast.parse(code)
    described = {id(one) for node in ast.walk(tree) for one in _descriptions(node)}
    found = [one for node in ast.walk(tree) if id(node) not in described for one in _of(node, code)]
    return sorted(dict.fromkeys(found), key=lambda one: (one.line, one.column, one.kind, one.text))


def planted(code: str, kind: str, occurrence: int) -> str | None:
    """The file with the fault of that number among its kind; None where it has none such."""
    some = [one for one in changes(code) if PREFIX + one.kind == kind]
    if occurrence >= len(some):
        return None
    one, lines = some[occurrence], code.encode().split(b"\n")
    before = b"\n".join([*lines[: one.line - 1], lines[one.line - 1][: one.column]])
    after = b"\n".join([lines[one.end_line - 1][one.end_column :], *lines[one.end_line :]])
    return (before + one.text.encode() + after).decode()


def _descriptions(node: ast.AST) -> Iterator[ast.AST]:
    """Annotations, imports and texts that only describe: a fault there changes nothing that runs."""
    if isinstance(node, ast.Import | ast.ImportFrom):
        yield from ast.walk(node)
    if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
        for one in [*node.args.args, *node.args.kwonlyargs]:
            if one.annotation is not None:
                yield from ast.walk(one.annotation)
        if node.returns is not None:
            yield from ast.walk(node.returns)
    if isinstance(node, ast.AnnAssign):
        yield from ast.walk(node.annotation)
    if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
        yield node.value


def _at(node: ast.expr, kind: str, text: str) -> Change:
    return Change(kind, node.lineno, node.col_offset, node.end_lineno or node.lineno, node.end_col_offset or 0, text)


def _of(node: ast.AST, code: str) -> Iterator[Change]:
    def own(part: ast.expr) -> str:
        return ast.get_source_segment(code, part) or ""

    if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Load) and node.id in ("min", "max", "any", "all"):
        yield _at(node, "extreme", _OTHER[node.id])
    elif isinstance(node, ast.Attribute) and isinstance(node.ctx, ast.Load) and node.attr in _OTHER:
        yield _at(node, "twin", f"{own(node.value)}.{_OTHER[node.attr]}")
    elif isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value in _OTHER:
        yield _at(node, "word", repr(_OTHER[node.value]))
    elif isinstance(node, ast.BoolOp):
        for left_out in range(len(node.values)):
            kept = [f"({own(one)})" for at, one in enumerate(node.values) if at != left_out]
            yield _at(node, "condition", f"({(' and ' if isinstance(node.op, ast.And) else ' or ').join(kept)})")
    elif isinstance(node, ast.BinOp) and isinstance(node.op, ast.Mult | ast.Div):
        right = node.right
        if isinstance(right, ast.Constant) and right.value in _FACTORS:
            yield _at(node, "unit", f"({own(node.left)})")
    elif isinstance(node, ast.Call):
        name = node.func.id if isinstance(node.func, ast.Name) else ""
        if name in _ESCAPES and len(node.args) == 1:
            yield _at(node, "escape", f"({own(node.args[0])})")
    elif isinstance(node, ast.comprehension):
        for one in node.ifs:
            yield _at(one, "condition", "True")
