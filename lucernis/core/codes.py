"""Every finding the checks can raise: its stable code, how grave it is, why it matters and where that is said.

They stand in `codes.toml`; `what` and `mend` are written where a finding is raised, with its figures.
"""

from __future__ import annotations

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


def checks_page() -> str:
    """The page docs/checks.md: every code with its severity, meaning, reason and source."""
    lines = [
        "# Checks",
        "",
        "Every finding has one of these codes. A *stop* must not be built; a *fix* should be mended; a *look* wants",
        "an eye. A finding may be waived with a reason, which is printed. This page is written by `make docs` from",
        "the code.",
        "",
    ]
    for one in CODES.values():
        lines += [f"## {one.code}", "", f"**{one.severity}** · {one.title}. {one.why}", ""]
        lines += [f"Source: {one.source}.", ""]
    return "\n".join(lines).rstrip() + "\n"
