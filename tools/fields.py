"""Tables of every field, written from the models into docs/format.md and docs/report.md: `make docs`."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from lucernis.core.report import Report
from lucernis.plan.edits import operations
from lucernis.plan.model import Plan

DOCS = Path(__file__).resolve().parents[1] / "docs"
BEGIN, END = "<!-- fields: written by make docs -->\n", "<!-- end of fields -->\n"
# The unit an ending of a name stands for; the longest that fits.
UNITS = {
    "_v": "V", "_mv": "mV", "_a": "A", "_a2s": "A²s", "_ah": "Ah", "_ah_per_day": "Ah a day", "_w": "W", "_wh": "Wh",
    "_ohm": "Ω", "_mohm": "mΩ", "_m": "m", "_mm": "mm", "_mm2": "mm²", "_c": "°C", "_s": "s", "_h": "h", "_kg": "kg",
    "_frac": "share, 1 is all", "_deg": "°", "_per_k": "1/K", "_hours": "h", "hours_per_day": "h", "_year": "year",
    "_pct": "%",
}  # fmt: skip


def unit_of(name: str) -> str:
    """Unit of a field by the ending of its name, empty for none."""
    fits = [ending for ending in UNITS if name.endswith(ending)]
    return UNITS[max(fits, key=len)] if fits else ""


def _kind(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        name = str(schema["$ref"]).rsplit("/", 1)[-1]
        return f"[{name}](#{name.lower()})"
    if "anyOf" in schema or "oneOf" in schema:
        return " or ".join(dict.fromkeys(_kind(one) for one in schema.get("anyOf", schema.get("oneOf"))))
    if "const" in schema:
        return f"`{schema['const']}`"
    if "enum" in schema:
        return ", ".join(f"`{one}`" for one in schema["enum"])
    if schema.get("type") == "array":
        items = schema.get("items")
        return f"list of {_kind(items)}" if items else "pair"
    if schema.get("type") == "object":
        of = schema.get("additionalProperties")
        return f"by id: {_kind(of)}" if isinstance(of, dict) else "object"
    words = {"string": "text", "boolean": "true or false", "integer": "whole number", "null": "absent"}
    text = words.get(str(schema.get("type")), str(schema.get("type", "any")))
    low = [f"above {schema['exclusiveMinimum']:g}"] if "exclusiveMinimum" in schema else []
    low += [f"from {schema['minimum']:g}"] if "minimum" in schema else []
    high = [f"below {schema['exclusiveMaximum']:g}"] if "exclusiveMaximum" in schema else []
    high += [f"to {schema['maximum']:g}"] if "maximum" in schema else []
    return " ".join([text, *low, *high])


def table(name: str, schema: dict[str, Any], *, defaults: bool) -> list[str]:
    """One model as a heading, its description and a table of its fields."""
    about = " ".join(str(schema.get("description", "")).split("\n\nParameters")[0].split())
    lines = [f"### {name}", "", *([about, ""] if about else [])]
    head = ["field", "values", "unit", *(["default"] if defaults else []), "about"]
    lines += ["| " + " | ".join(head) + " |", "|" + "---|" * len(head)]
    for field, one in schema.get("properties", {}).items():
        cells = [f"`{field}`", _kind(one), unit_of(field)]
        if defaults:
            needed = field in schema.get("required", ()) or "default" not in one
            given = "" if needed else json.dumps(one["default"], ensure_ascii=False)
            cells.append(
                "needed" if field in schema.get("required", ()) else f"`{given}`" if given else "its own defaults"
            )
        cells.append(" ".join(str(one.get("description", "")).split()).replace("|", "/"))
        lines.append("| " + " | ".join(cells) + " |")
    return [*lines, ""]


def tables(model: Any, root: str, *, defaults: bool, leave: frozenset[str] = frozenset()) -> str:
    """Tables of a model and of all that it holds."""
    schema = TypeAdapter(model).json_schema(mode="validation" if defaults else "serialization")
    parts = {root: schema} | {name: one for name, one in sorted(schema.get("$defs", {}).items()) if name not in leave}
    return "\n".join(line for name, one in parts.items() for line in table(name, one, defaults=defaults))


def pages() -> dict[str, str]:
    """The pages with their tables anew, by file name."""
    edits = frozenset(name for name in vars(operations) if name[:1].isupper())
    written = {
        "format.md": tables(Plan, "Plan", defaults=True),
        "report.md": tables(Report, "Report", defaults=False, leave=edits - {"End"}),
    }
    found = {}
    for name, text in written.items():
        page = (DOCS / name).read_text(encoding="utf-8")
        before, _, rest = page.partition(BEGIN)
        found[name] = before + BEGIN + "\n" + text + "\n" + END + rest.partition(END)[2]
    return found


if __name__ == "__main__":
    for name, text in pages().items():
        (DOCS / name).write_text(text, encoding="utf-8")
