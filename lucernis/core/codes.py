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
    raw = tomllib.loads((files("lucernis.core") / "codes.toml").read_text(encoding="utf-8"))
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


def _raised() -> dict[str, tuple[list[str], list[str]]]:
    """What and mend of every code, as the checks that raise it write them."""
    found: dict[str, tuple[list[str], list[str]]] = {}
    sources = [files("lucernis.core") / "evaluate.py"]
    sources += [file for file in (files("lucernis.core") / "checks").iterdir() if file.name.endswith(".py")]
    for source in sorted(sources, key=lambda file: file.name):
        for node in ast.walk(ast.parse(source.read_text(encoding="utf-8"))):
            if not (isinstance(node, ast.Call) and node.args and isinstance(node.func, ast.Attribute)):
                continue
            code = node.args[0].value if isinstance(node.args[0], ast.Constant) else None
            if code not in CODES or node.func.attr not in ("raise_", "on_run", "on_part"):
                continue
            what, mend = found.setdefault(str(code), ([], []))
            for keyword in node.keywords:
                if keyword.arg in ("what", "mend"):
                    texts = what if keyword.arg == "what" else mend
                    text = re.sub(r"(… ?)+", "… ", _literal(keyword.value)).strip()
                    if text not in (*texts, "…", ""):
                        texts.append(text)
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
