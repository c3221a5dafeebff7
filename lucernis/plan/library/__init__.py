"""The library of parts: what ships, and how own parts are read from CSV. Where own parts are kept stands in `store`."""

from __future__ import annotations

import csv
from functools import cache
from importlib.resources import files
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from lucernis.errors import BadDocument, FieldProblem
from lucernis.plan.base import Name
from lucernis.plan.parts import PART_CLASSES, Part

_PART: TypeAdapter[Part] = TypeAdapter(Part)
MOST_ROWS = 2000
_YES = {"yes": True, "no": False}
# A library part has none of its own; these stand in while it is checked.
_STAND_IN = {"id": "x", "tag": "X01"}
_NOT_OURS = {"id", "tag", "place", "maker"}


class LibraryPart(BaseModel):
    """A part to take from: its name, a note on its figures, and its fields without id, tag and place."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    name: Name
    note: str = Field(default="", max_length=200)
    part: dict[str, Any]


def check_part(fields: dict[str, Any], pointer: str) -> dict[str, Any]:
    """The fields of a part as the document would hold them, defaults left out.

    Raises
    ------
    BadDocument
        Naming every field that is not allowed.
    """
    odd = sorted(set(fields) & _NOT_OURS)
    if odd:
        raise BadDocument("not a part of a library", [FieldProblem(f"{pointer}/{odd[0]}", "is given by the plan")])
    try:
        part = _PART.validate_python(_STAND_IN | fields)
    except ValidationError as error:
        problems = [
            FieldProblem(
                pointer + "".join(f"/{step}" for step in item["loc"] if step not in PART_CLASSES),
                item["msg"].removeprefix("Value error, "),
            )
            for item in error.errors()
        ]
        raise BadDocument("a part has fields that are not allowed", problems) from error
    kept = part.model_dump(mode="json", exclude_defaults=True)
    return {"kind": part.kind} | {name: value for name, value in kept.items() if name not in _STAND_IN}


def _cell(text: str) -> Any:
    clean = text.strip()
    if clean.casefold() in _YES:
        return _YES[clean.casefold()]
    try:
        number = float(clean.replace(",", "."))
    except ValueError:
        return clean
    return int(number) if number.is_integer() and abs(number) < 1e9 else number


def read_library(text: str, *, field: str = "file") -> list[LibraryPart]:
    """Read parts from CSV: a heading with `kind`, `name` and fields of parts, a row each.

    Parameters
    ----------
    text : str
        The file; lines that begin with # are passed over.
    field : str
        What a refusal names.

    Returns
    -------
    list of LibraryPart
        All rows.

    Raises
    ------
    BadDocument
        Naming line and column of everything that is not allowed; nothing is taken then.
    """
    lines = [line for line in text.lstrip("\ufeff").splitlines() if line.strip() and not line.startswith("#")]
    reader = csv.DictReader(lines)
    heads = set(reader.fieldnames or ())
    if not {"kind", "name"} <= heads:
        raise BadDocument("no heading", [FieldProblem(field, "the first line names the columns, kind and name first")])
    found: list[LibraryPart] = []
    problems: list[FieldProblem] = []
    for number, row in enumerate(reader, start=2):
        if number > MOST_ROWS + 1:
            problems.append(FieldProblem(field, f"at most {MOST_ROWS} parts"))
            break
        fields = {
            name: _cell(cell) if name not in ("kind", "name") else cell.strip()
            for name, cell in row.items()
            if name not in (None, "note") and isinstance(cell, str) and cell.strip()
        }
        try:
            kept = check_part(fields, f"line {number}")
            found.append(LibraryPart(name=kept["name"], note=(row.get("note") or "").strip()[:200], part=kept))
        except BadDocument as error:
            problems += error.problems
    if problems:
        raise BadDocument("the file has parts that cannot be taken", problems)
    return found


@cache
def shipped_parts() -> tuple[LibraryPart, ...]:
    """The generic parts that ship."""
    text = (files("lucernis.plan.library") / "parts.csv").read_text(encoding="utf-8")
    return tuple(read_library(text))


def write_library(parts: list[LibraryPart]) -> list[list[Any]]:
    """Parts as rows of a CSV that `read_library` reads back, heading first."""
    columns = ["kind", "name", "note"]
    for one in parts:
        columns += [name for name in one.part if name not in columns]

    def cell(value: Any) -> Any:
        return ("yes" if value else "no") if isinstance(value, bool) else value

    return [columns] + [[one.note if name == "note" else cell(one.part.get(name)) for name in columns] for one in parts]
