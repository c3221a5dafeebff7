"""Channels from a table of text: name, from, to, length, zone, holes. What is not understood is named with its line;
nothing is taken in then."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import get_args

from lucernis.errors import LucernisError, NotUnderstood, TooLarge
from lucernis.plan.layout import Near, Through
from lucernis.plan.units import Preference, parse_length_m

MOST_ROWS = 400
_HEADINGS = ("name", "from", "to", "length", "zone", "holes", "clamp", "inside_mm", "near", "closed")
# What the table has besides on its way out; nothing of it is taken in.
_TOLD = ("drawn", "runs", "conductors_together", "bundle_mm", "fill_frac")
_YES, _NO = ("yes", "y", "true", "1", "x"), ("no", "n", "false", "0", "")


@dataclass(frozen=True, slots=True)
class ChannelRow:
    """One channel as read; lengths in m."""

    line: int
    name: str
    start: str
    finish: str
    length_m: float | None
    length_as_typed: str | None
    zone: str
    holes: list[dict[str, object]] = field(default_factory=list)
    clamp_m: float | None = None
    inside_mm: float | None = None
    near: list[str] = field(default_factory=list)
    closed: bool = False
    given: frozenset[str] = frozenset()
    """Columns the table has."""


def _refused(line: int, column: str, text: str, allowed: str) -> NotUnderstood:
    return NotUnderstood(f"line {line}, {column}: {text!r} is not understood", field="csv", value=text, allowed=allowed)


def _number(line: int, column: str, text: str) -> float | None:
    if not text:
        return None
    try:
        found = float(text.replace(",", ".").removesuffix("mm").strip())
    except ValueError as error:
        raise _refused(line, column, text, "a number above 0") from error
    if not 0 < found <= 500:
        raise _refused(line, column, text, "a number above 0, at most 500")
    return found


def _length(line: int, column: str, text: str, preference: Preference) -> tuple[float | None, str | None]:
    if not text:
        return None, None
    try:
        return parse_length_m(text, field=column, preference=preference, reading="one_way")
    except LucernisError as error:
        raise _refused(line, column, text, error.allowed or "a length as 2.4 m or 7 ft 10 in") from error


def _holes(line: int, text: str) -> list[dict[str, object]]:
    """Holes as ``firewall 25; metal``: what they go through, and the millimetres left for wires."""
    found: list[dict[str, object]] = []
    for item in (one.strip() for one in text.replace("|", ";").split(";")):
        if not item:
            continue
        through, _, size = item.replace("plastic or wood", "plastic_or_wood").partition(" ")
        if through not in get_args(Through):
            raise _refused(line, "holes", item, f"{', '.join(get_args(Through))}, each with its millimetres")
        found.append({"through": through, "hole_mm": _number(line, "holes", size.strip())})
    return found


def _heads_are_known(heads: list[str], written: list[str]) -> None:
    """Refuse headings that are misspelt or stand twice: a column would be lost without a word."""
    for at, head in enumerate(heads):
        if head and head not in (*_HEADINGS, *_TOLD):
            near = get_close_matches(head, _HEADINGS, 1)
            meant = f"{near[0]!r}?" if near else f"headings: {', '.join(_HEADINGS)}"
            raise NotUnderstood(
                f"line 1: no column is headed {written[at].strip()!r}", field="csv", value=written[at], allowed=meant
            )
        if head and head in heads[:at]:
            raise NotUnderstood(
                f"line 1: two columns are headed {head!r}", field="csv", value=head, allowed="each once"
            )


def read_channels(text: str, preference: Preference) -> list[ChannelRow]:
    """Read channels from CSV with a heading line.

    Parameters
    ----------
    text : str
        Comma, semicolon or tab between cells; headings ``name``, ``from``, ``to``, and if wanted ``length``, ``zone``,
        ``holes``, ``clamp``, ``inside_mm``, ``near``, ``closed``.
    preference : str
        How a length without a unit is read.

    Returns
    -------
    list of ChannelRow
        In the order of the file.

    Raises
    ------
    NotUnderstood
        Naming the line and the column.
    TooLarge
        Above 400 rows.
    """
    lines = [one for one in text.lstrip("\ufeff").splitlines() if one.strip()]
    if not lines:
        raise NotUnderstood("an empty table", field="csv", allowed="a heading line, then a channel a line")
    mark = max("\t;,", key=lines[0].count)
    try:
        table = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=mark))
    except csv.Error as error:
        raise NotUnderstood(
            f"not a table: {error}", field="csv", allowed="a heading line, then a channel a line"
        ) from error
    heads = [cell.strip().casefold().removesuffix("_m") for cell in table[0]]
    missing = [one for one in ("from", "to") if one not in heads]
    if missing:
        raise NotUnderstood(
            f"no heading {missing[0]!r}", field="csv", value=lines[0][:60], allowed=f"headings: {', '.join(_HEADINGS)}"
        )
    _heads_are_known(heads, table[0])
    if len(table) - 1 > MOST_ROWS:
        raise TooLarge("too many channels", field="csv", value=len(table) - 1, allowed=f"at most {MOST_ROWS}")
    found = []
    for line, cells in enumerate(table[1:], 2):
        row = dict.fromkeys(_HEADINGS, "") | {
            head: cell.strip().lstrip("'") for head, cell in zip(heads, cells, strict=False)
        }
        for column in ("from", "to"):
            if not row[column]:
                raise _refused(line, column, "", "the name of a place")
        closed = row["closed"].casefold()
        if closed not in (*_YES, *_NO):
            raise _refused(line, "closed", row["closed"], "yes or no")
        near = row["near"].casefold().replace(";", " ").split()
        strange = [one for one in near if one not in get_args(Near)]
        if strange:
            raise _refused(line, "near", strange[0], ", ".join(get_args(Near)))
        length_m, typed = _length(line, "length", row["length"], preference)
        found.append(
            ChannelRow(
                line=line,
                name=row["name"],
                start=row["from"],
                finish=row["to"],
                length_m=length_m,
                length_as_typed=typed,
                zone=row["zone"],
                holes=_holes(line, row["holes"]),
                clamp_m=_length(line, "clamp", row["clamp"], preference)[0],
                inside_mm=_number(line, "inside_mm", row["inside_mm"]),
                near=near,
                closed=closed in _YES,
                given=frozenset(heads),
            )
        )
    return found
