"""Loads the data tables that ship beside this file. Lookups and formulas live in `core`; here is only reading.

A table is a CSV with a head of `# key: value` lines. The row a figure came from travels with the figure,
so that a screen can show it together with its source and how sure we are of it.
"""

from __future__ import annotations

import csv
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from lucernis.errors import UnknownRow

REQUIRED_HEAD = ("source", "certainty", "columns", "read")


@dataclass(frozen=True, slots=True)
class TableRow:
    """One row of a data table as it was used: where it stands, what it says, how sure we are."""

    table: str
    row: str
    column: str
    value: str
    source: str
    certainty: str


@dataclass(frozen=True, slots=True)
class Table:
    """A data table: its head, its headings and its rows as text."""

    name: str
    head: dict[str, str]
    columns: tuple[str, ...]
    rows: tuple[dict[str, str], ...]

    def cite(self, row: dict[str, str], column: str) -> TableRow:
        """Name the cell a figure was taken from, with the source and certainty of its table or row."""
        return TableRow(
            table=self.name,
            row=row[self.columns[0]],
            column=column,
            value=row[column],
            source=self.head["source"],
            certainty=row.get("certainty") or self.head["certainty"],
        )

    def find(self, key: str) -> dict[str, str]:
        """Return the row whose first column equals `key` exactly.

        Raises
        ------
        UnknownRow
            If there is none; nothing near is taken instead.
        """
        first = self.columns[0]
        for row in self.rows:
            if row[first] == key:
                return row
        known = ", ".join(row[first] for row in self.rows)
        raise UnknownRow(f"{key!r} is not in table {self.name}", field=first, value=key, allowed=known)


@cache
def load_table(name: str) -> Table:
    """Read a shipped table by name, without its ending.

    Raises
    ------
    UnknownRow
        If no such table ships.
    """
    path = files("lucernis.practice") / "tables" / f"{name}.csv"
    if not path.is_file():
        raise UnknownRow(f"no data table named {name!r}", field="table", value=name, allowed=", ".join(table_names()))
    lines = path.read_text(encoding="utf-8").splitlines()
    head: dict[str, str] = {}
    body: list[str] = []
    for line in lines:
        if line.startswith("#"):
            key, _, value = line[1:].partition(":")
            head[key.strip()] = value.strip()
        elif line.strip():
            body.append(line)
    reader = csv.DictReader(body)
    rows = tuple(reader)
    return Table(name=name, head=head, columns=tuple(reader.fieldnames or ()), rows=rows)


@cache
def table_names() -> tuple[str, ...]:
    """Names of all tables that ship, sorted."""
    folder = files("lucernis.practice") / "tables"
    return tuple(sorted(entry.name[:-4] for entry in folder.iterdir() if entry.name.endswith(".csv")))
