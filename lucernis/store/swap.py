"""Puts what a backup holds in the place of what a data file holds, inside one transaction of that file."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path

# Who is let in is decided here and now, never by an old file.
_STAYS = ("device", "migration")
# What is the same under the same name is not taken away to be put back.
_ADDED = ("picture",)


@contextmanager
def brought_up(backup: Path, beside: Path, migrate: Callable[[sqlite3.Connection], object]) -> Iterator[Path]:
    """A copy of a backup with the schema of today, as long as it is needed.

    Parameters
    ----------
    backup : Path
        A sound data file; it is opened for reading only.
    beside : Path
        The data file the copy is made beside.
    migrate : callable
        Brings the schema of a connection up.

    Yields
    ------
    Path
        The copy.
    """
    copy = beside.with_name(f"{beside.name}.restoring-{os.getpid()}")
    try:
        copy.unlink(missing_ok=True)
        os.close(os.open(copy, os.O_CREAT | os.O_RDWR, 0o600))
        with (
            closing(sqlite3.connect(f"{backup.absolute().as_uri()}?mode=ro", uri=True)) as source,
            closing(sqlite3.connect(copy, isolation_level=None)) as there,
        ):
            source.backup(there)
            there.execute("PRAGMA journal_mode=DELETE")
            migrate(there)
        yield copy
    finally:
        for ending in ("", "-wal", "-shm", "-journal"):
            copy.with_name(copy.name + ending).unlink(missing_ok=True)


def put_in_place(connection: sqlite3.Connection) -> None:
    """Replace what every table holds by what the attached file `brought` holds, devices left as they are.

    Parameters
    ----------
    connection : sqlite3.Connection
        In a write transaction, with a copy of today's schema attached as `brought`.

    Raises
    ------
    sqlite3.DatabaseError
        If a reference dangles afterwards; the transaction is to be rolled back.
    """
    connection.execute("PRAGMA defer_foreign_keys=ON")
    made = connection.execute("SELECT name, sql FROM main.sqlite_master WHERE type = 'trigger'").fetchall()
    # The record refuses to be taken from; this is not taking from it.
    for name, _ in made:
        connection.execute(f'DROP TRIGGER "{name}"')
    tables = [
        row[0]
        for row in connection.execute(
            "SELECT name FROM main.sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
        ).fetchall()
    ]
    for table in (one for one in tables if one not in _STAYS):
        columns = ", ".join(f'"{row[1]}"' for row in connection.execute(f'PRAGMA main.table_info("{table}")'))
        insert = "INSERT OR IGNORE" if table in _ADDED else "INSERT"
        if table not in _ADDED:
            connection.execute(f'DELETE FROM main."{table}"')  # noqa: S608 - names of our own schema
        connection.execute(
            f'{insert} INTO main."{table}" ({columns}) SELECT {columns} FROM brought."{table}"'  # noqa: S608
        )
    for _, sql in made:
        connection.execute(sql)
    if connection.execute("PRAGMA main.foreign_key_check").fetchone() is not None:
        raise sqlite3.DatabaseError("what was brought in leaves dangling references")
