"""Saves what can still be read of a damaged data file, plan by plan."""

from __future__ import annotations

import json
import os
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from lucernis.store.deltas import checksum


@dataclass(frozen=True, slots=True)
class Saved:
    """One plan that could be read: its id, the file it was written to, and whether it reads as it was stored."""

    plan_id: str
    path: Path
    sound: bool


def _rows(connection: sqlite3.Connection) -> list[int]:
    """Row numbers of the plans, as far as any way of finding them works."""
    for statement in (
        "SELECT rowid FROM plan ORDER BY rowid",
        "SELECT rowid FROM plan NOT INDEXED ORDER BY rowid DESC",
    ):
        try:
            return [row[0] for row in connection.execute(statement)]
        except sqlite3.DatabaseError:
            continue
    # The list itself is torn: each number is asked for by itself.
    return list(range(1, 2000))


def salvage(path: Path, folder: Path) -> list[Saved]:
    """Write every plan that can be read into a folder, as a file that can be imported.

    Parameters
    ----------
    path : Path
        The damaged data file; it is opened for reading only.
    folder : Path
        Made if it is not there.

    Returns
    -------
    list of Saved
        What was saved; empty if nothing can be read.
    """
    found: list[Saved] = []
    seen: set[str] = set()
    try:
        connection = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)
    except sqlite3.DatabaseError:
        return found
    with closing(connection):
        try:
            numbers = _rows(connection)
        except sqlite3.DatabaseError:
            return found
        for number in numbers:
            try:
                row = connection.execute(
                    "SELECT plan_id, revision, document FROM plan WHERE rowid = ?", (number,)
                ).fetchone()
            except sqlite3.DatabaseError:
                continue
            if row is None or row[0] in seen:
                continue
            plan_id, revision, text = row
            try:
                document = json.loads(text)
            except ValueError:
                continue
            seen.add(plan_id)
            try:
                known = connection.execute(
                    "SELECT checksum FROM revision WHERE plan_id = ? AND revision = ?", (plan_id, revision)
                ).fetchone()
            except sqlite3.DatabaseError:
                known = None
            folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            target = folder / f"{plan_id}.lucernis.json"
            handle = os.open(target, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600)
            with os.fdopen(handle, "w", encoding="utf-8") as file:
                json.dump(document, file, ensure_ascii=False, indent=2)
            found.append(Saved(plan_id, target, known is not None and known[0] == checksum(text)))
    return found
