"""Reads named queries from `queries/*.sql`. A head line names the query and its parameters; the next says why."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

_HEAD = re.compile(r"^-- name: ([a-z_]+)\(([a-z_, ]*)\)$")


@dataclass(frozen=True, slots=True)
class Query:
    """One named query."""

    name: str
    parameters: tuple[str, ...]
    about: str
    sql: str


@cache
def load_queries(subject: str) -> dict[str, Query]:
    """All queries of a subject by name.

    Raises
    ------
    ValueError
        If a head is malformed or parameters and statement differ: a mistake of ours, found at start.
    """
    text = (files("lucernis.store") / "queries" / f"{subject}.sql").read_text(encoding="utf-8")
    found: dict[str, Query] = {}
    for block in re.split(r"(?m)^(?=-- name:)", text):
        if not block.strip():
            continue
        head, _, rest = block.partition("\n")
        match = _HEAD.match(head)
        if match is None:
            raise ValueError(f"malformed head in {subject}.sql: {head}")
        about, _, sql = rest.partition("\n")
        declared = tuple(part.strip() for part in match[2].split(",") if part.strip())
        used = set(re.findall(r":([a-z_]+)", sql))
        if set(declared) != used:
            raise ValueError(f"{subject}.sql {match[1]}: declared {sorted(declared)}, used {sorted(used)}")
        found[match[1]] = Query(match[1], declared, about.removeprefix("-- ").strip(), sql.strip())
    return found
