"""Every finding the checks can raise: its stable code, how grave it is, why it matters and where that is said.

They stand in `codes.toml`; `what` and `mend` are written where a finding is raised, with its figures.
"""

from __future__ import annotations

import ast
import re
import tomllib
from dataclasses import dataclass
from importlib.resources import files

from lucernis.core.report import Severity


@dataclass(frozen=True, slots=True)
class Code:
    """One code of the checks."""

    code: str
    severity: Severity
    title: str
    why: str
    source: str


def _load() -> dict[str, Code]:
    raw = tomllib.loads((files("lucernis.core.checks") / "codes.toml").read_text(encoding="utf-8"))
    return {name: Code(code=name, **fields) for name, fields in raw.items()}


CODES: dict[str, Code] = _load()


def _literal(node: ast.expr) -> str:
    """A text as it stands in the code; what is filled in when the finding is raised shows as an ellipsis."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    if isinstance(node, ast.JoinedStr):
        return "".join("…" if isinstance(part, ast.FormattedValue) else _literal(part) for part in node.values)
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        return _literal(node.left) + _literal(node.right)
    if isinstance(node, ast.IfExp):
        return _literal(node.body) or _literal(node.orelse)
    return "…"


_RAISERS = ("raise_", "on_run", "on_part")


def _note(call: ast.Call, texts: tuple[list[str], list[str]]) -> None:
    for keyword in call.keywords:
        if keyword.arg in ("what", "mend"):
            kept = texts[0] if keyword.arg == "what" else texts[1]
            text = re.sub(r"(… ?)+", "… ", _literal(keyword.value)).strip()
            if text not in (*kept, "…", ""):
                kept.append(text)


def _raised() -> dict[str, tuple[list[str], list[str]]]:
    """What and mend of every code, as the checks that raise it write them."""
    found: dict[str, tuple[list[str], list[str]]] = {}
    sources = [file for file in files("lucernis.core.checks").iterdir() if file.name.endswith(".py")]
    for source in sorted(sources, key=lambda file: file.name):
        tree = ast.parse(source.read_text(encoding="utf-8"))
        functions = {node.name: node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)}
        for node in ast.walk(tree):
            if not isinstance(node, ast.Call):
                continue
            for argument in node.args:
                code = argument.value if isinstance(argument, ast.Constant) else None
                if code not in CODES:
                    continue
                texts = found.setdefault(str(code), ([], []))
                if isinstance(node.func, ast.Attribute) and node.func.attr in _RAISERS:
                    _note(node, texts)
                elif isinstance(node.func, ast.Name) and node.func.id in functions:
                    # A code handed on to a function that raises it, with its texts or with texts of its own.
                    _note(node, texts)
                    calls = [one for one in ast.walk(functions[node.func.id]) if isinstance(one, ast.Call) and one.args]
                    for inner in calls:
                        by_name = isinstance(inner.func, ast.Attribute) and isinstance(inner.args[0], ast.Name)
                        if by_name and getattr(inner.func, "attr", "") in _RAISERS:
                            _note(inner, texts)
    return found


def checks_pages() -> dict[str, str]:
    """The pages under docs/checks: a list, and a page for each code. File name to text."""
    raised = _raised()
    index = [
        "# Checks",
        "",
        "Every finding has one of these codes. A *stop* must not be built; a *fix* should be mended; a *look* wants",
        "an eye. A finding may be waived with a reason, which is printed. These pages are written by `make docs` from",
        "the code.",
        "",
        "| code | | |",
        "|---|---|---|",
    ]
    pages = {}
    for one in CODES.values():
        index.append(f"| [{one.code}]({one.code}.md) | {one.severity} | {one.title} |")
        what, mend = raised.get(one.code, ([], []))
        lines = [f"# {one.code}", "", f"**{one.severity}** · {one.title}.", "", "## What", ""]
        lines += [f"- {text}" for text in what] or ["- said with the figures of the case"]
        lines += ["", "## Why", "", one.why, "", "## Mend", ""]
        lines += [f"- {text}" for text in mend] or ["- said with the figures of the case"]
        lines += ["", f"Source: {one.source}.", "", "[All checks](README.md)"]
        pages[f"{one.code}.md"] = "\n".join(lines) + "\n"
    pages["README.md"] = "\n".join(index) + "\n"
    return pages
