"""Reads a load list from CSV as people have it: any usual separator, decimal commas, a byte-order mark.

Nothing is taken in here: every cell is tried and named, and a person decides.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from lucernis.errors import LucernisError, NotUnderstood, TooLarge
from lucernis.plan.cells import CellContext, Column, set_cell
from lucernis.plan.model import Load, Run

MOST_ROWS = 500
MOST_BYTES = 1_000_000

HEADINGS: dict[str, Column] = {
    "name": "name",
    "load": "name",
    "device": "name",
    "power_w": "power_w",
    "watts": "power_w",
    "w": "power_w",
    "power": "power_w",
    "current_a": "current_a",
    "amps": "current_a",
    "a": "current_a",
    "current": "current_a",
    "behaviour": "behaviour",
    "count": "count",
    "qty": "count",
    "hours_per_day": "hours_per_day",
    "hours": "hours_per_day",
    "h": "hours_per_day",
    "place": "place",
    "sensitive": "sensitive",
    "keyed": "keyed",
    "length": "length",
    "length_m": "length",
    "one_way": "length",
    "loop_length": "loop_length",
    "there_and_back": "loop_length",
    "maker_least": "maker_least",
    "maker_greatest": "maker_greatest",
    "maker_fuse_a": "maker_fuse_a",
    "fuse": "maker_fuse_a",
    "rated_v": "rated_v",
    "volts": "rated_v",
    "min_v": "min_v",
    "drop_limit_pct": "drop_limit_pct",
}


@dataclass(frozen=True, slots=True)
class CellPreview:
    """One cell as read: its text, and what is wrong with it."""

    column: str
    text: str
    problem: str | None


@dataclass(frozen=True, slots=True)
class RowPreview:
    """One row as read; `good` rows can be added."""

    line: int
    cells: list[CellPreview]
    problem: str | None
    good: bool


@dataclass(frozen=True, slots=True)
class LoadsPreview:
    """What a file holds, before anything is taken in."""

    separator: str
    columns: list[str]
    ignored: list[str]
    rows: list[RowPreview]
    good: int
    bad: int


def _separator(line: str) -> str:
    counts = {mark: line.count(mark) for mark in ("\t", ";", ",")}
    best = max(counts, key=lambda mark: counts[mark])
    return best if counts[best] else ","


def _column(heading: str) -> Column | None:
    clean = heading.strip().strip("'").casefold()
    for mark in (" ", "-", "/", "."):
        clean = clean.replace(mark, "_")
    clean = clean.split("_[")[0].split("_(")[0].split("[")[0].split("(")[0].strip("_")
    return HEADINGS.get(clean)


def _try_row(cells: dict[Column, str], context: CellContext) -> tuple[list[CellPreview], str | None]:
    # A scratch load and run take the texts; only whether that works matters.
    part: dict[str, Any] = {"kind": "load", "id": "l1", "tag": "L01", "name": "x", "maker": {}}
    run: dict[str, Any] = {
        "id": "r1",
        "tag": "C01",
        "start": {"part": "a"},
        "finish": {"part": "l1"},
        "length_m": 1.0,
    }
    previews = []
    for column, text in cells.items():
        problem = None
        if text.lstrip().startswith(("=", "@")):
            problem = "a formula is not taken; put its value here"
        elif text.strip() or column == "name":
            before = dict(part) | {"maker": dict(part["maker"])}, dict(run)
            try:
                set_cell(part, run, column, text, context)
                Load.model_validate(part)
                Run.model_validate(run)
            except LucernisError as error:
                problem = f"{error}; allowed: {error.allowed}" if error.allowed else str(error)
            except ValidationError as error:
                problem = error.errors()[0]["msg"].removeprefix("Value error, ")
            if problem is not None:
                part, run = before
        previews.append(CellPreview(column, text, problem))
    if cells.get("power_w", "").strip() and cells.get("current_a", "").strip():
        return previews, "give watts or amps, not both"
    return previews, None


def preview_loads(data: bytes, context: CellContext) -> LoadsPreview:
    """Read a file and say of every cell whether it can be taken.

    Parameters
    ----------
    data : bytes
        The file: UTF-8, UTF-16 with a byte-order mark, or Windows-1252.
    context : CellContext
        Units, size system and places of the plan.

    Returns
    -------
    LoadsPreview
        Every row with its cells.

    Raises
    ------
    TooLarge
        Above 1 MB or 500 rows.
    NotUnderstood
        If it is not text, is empty, or has no known heading.
    """
    if len(data) > MOST_BYTES:
        raise TooLarge("file: too large", field="file", value=len(data), allowed=f"at most {MOST_BYTES} bytes")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        text = data.decode("utf-16", errors="replace")
    else:
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError:
            text = data.decode("cp1252", errors="replace")
    if "\x00" in text or not text.strip():
        raise NotUnderstood("file: not a table of text", field="file", allowed="a CSV file with a heading line")
    first = next(line for line in text.splitlines() if line.strip())
    separator = _separator(first)
    try:
        lines = list(csv.reader(io.StringIO(text), delimiter=separator))
    except csv.Error as error:
        raise NotUnderstood(f"file: {error}", field="file", allowed="a CSV file with a heading line") from error
    numbered = [(number, line) for number, line in enumerate(lines, 1) if any(cell.strip() for cell in line)]
    headings = numbered[0][1]
    columns = [_column(heading) for heading in headings]
    if "name" not in columns:
        known = ", ".join(sorted(set(HEADINGS.values())))
        raise NotUnderstood(
            "file: no heading 'name' in its first line", field="file", value=first[:60], allowed=f"headings: {known}"
        )
    if len(numbered) - 1 > MOST_ROWS:
        raise TooLarge("file: too many rows", field="file", value=len(numbered) - 1, allowed=f"at most {MOST_ROWS}")
    rows = []
    for number, line in numbered[1:]:
        cells = {column: cell for column, cell in zip(columns, line, strict=False) if column is not None}
        previews, problem = _try_row(cells, context)
        if len(line) > len(headings):
            problem = f"has {len(line)} cells, the heading {len(headings)}; is the separator {separator!r}?"
        good = problem is None and all(cell.problem is None for cell in previews)
        rows.append(RowPreview(number, previews, problem, good))
    return LoadsPreview(
        separator={"\t": "tab", ";": "semicolon", ",": "comma"}[separator],
        columns=[column for column in columns if column is not None],
        ignored=[
            heading for heading, column in zip(headings, columns, strict=True) if column is None and heading.strip()
        ],
        rows=rows,
        good=sum(1 for row in rows if row.good),
        bad=sum(1 for row in rows if not row.good),
    )
