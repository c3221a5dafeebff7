"""Pictures beside backups: each lies there once, under a name made of what is in it, however many backups show it."""

from __future__ import annotations

import hashlib
import os
import sqlite3
import time
from collections.abc import Iterable
from contextlib import closing
from pathlib import Path

FOLDER = "pictures"
# One that was laid or counted on so lately may belong to a backup that is still being made. [s]
_YOUNG_S = 3600.0


def _path(folder: Path, sha256: str) -> Path:
    return folder / FOLDER / sha256[:2] / f"{sha256}.jpg"


def _has(connection: sqlite3.Connection, table: str) -> bool:
    found = connection.execute("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?", (table,)).fetchone()
    return found is not None


def copy_without_pictures(source: str, target: Path) -> None:
    """Copy a data file but for its pictures, which are laid beside the copy unless they lie there already.

    Parameters
    ----------
    source : str
        Address of the data file, as SQLite takes it; it may be in use: all is of one moment.
    target : Path
        An empty file.

    Raises
    ------
    sqlite3.DatabaseError, OSError
        If the file cannot be read, or the copy or a picture not be written.
    """
    with closing(sqlite3.connect(target.absolute().as_uri(), uri=True, isolation_level=None)) as copy:
        copy.execute("ATTACH DATABASE ? AS source", (source,))
        copy.execute("PRAGMA foreign_keys=OFF")
        copy.execute("BEGIN")
        made = copy.execute(
            "SELECT type, name, sql FROM source.sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%'"
        ).fetchall()
        tables = [(name, sql) for kind, name, sql in made if kind == "table"]
        for name, sql in tables:
            copy.execute(sql)
            if name != "picture":
                copy.execute(f'INSERT INTO main."{name}" SELECT * FROM source."{name}"')  # noqa: S608 - own schema
        for sql in (sql for kind, _, sql in made if kind != "table"):
            copy.execute(sql)
        if _has(copy, "picture"):
            for (sha256,) in copy.execute("SELECT sha256 FROM source.picture").fetchall():
                path = _path(target.parent, sha256)
                if path.exists():
                    os.utime(path)
                else:
                    row = copy.execute("SELECT picture FROM source.picture WHERE sha256 = ?", (sha256,)).fetchone()
                    _lay(path, bytes(row[0]))
        copy.execute("COMMIT")
        copy.execute("DETACH DATABASE source")


def _lay(path: Path, picture: bytes) -> None:
    """A picture is there whole or not at all."""
    for folder in (path.parent.parent, path.parent):
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    part = path.with_name(f"{path.name}.{os.getpid()}.part")
    with os.fdopen(os.open(part, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600), "wb") as file:
        file.write(picture)
        file.flush()
        os.fsync(file.fileno())
    part.replace(path)


def fetch_pictures(connection: sqlite3.Connection, folder: Path) -> None:
    """Put the pictures that photos show into a data file, from what lies beside a backup; and let go of all others.

    One that is not there, or is not what its name says, is left out: its photo is shown without it.

    Parameters
    ----------
    connection : sqlite3.Connection
        In a write transaction.
    folder : Path
        Where the backup lies.
    """
    if not _has(connection, "picture"):
        return
    connection.execute("DELETE FROM picture WHERE sha256 NOT IN (SELECT sha256 FROM photo)")
    for sha256 in _not_held(connection):
        path = _path(folder, sha256)
        picture = path.read_bytes() if path.is_file() else b""
        if hashlib.sha256(picture).hexdigest() == sha256:
            connection.execute("INSERT INTO picture (sha256, picture) VALUES (?, ?)", (sha256, picture))


def _not_held(connection: sqlite3.Connection) -> list[str]:
    rows = connection.execute("SELECT DISTINCT sha256 FROM photo WHERE sha256 NOT IN (SELECT sha256 FROM picture)")
    return [row[0] for row in rows.fetchall()]


def shown_by(backup: Path) -> frozenset[str]:
    """Pictures that lie beside a backup and not in it; none of one that holds its own."""
    with closing(sqlite3.connect(f"{backup.absolute().as_uri()}?mode=ro", uri=True)) as connection:
        return frozenset(_not_held(connection)) if _has(connection, "picture") else frozenset()


def missing_beside(backup: Path) -> int:
    """How many pictures a backup shows that are neither in it nor beside it."""
    return sum(not _path(backup.parent, one).is_file() for one in shown_by(backup))


def size_of(folder: Path) -> int:
    """What all pictures beside backups take. [bytes]"""
    return sum(one.stat().st_size for one in (folder / FOLDER).rglob("*.jpg"))


def let_go(folder: Path, backups: Iterable[Path]) -> None:
    """Take away the pictures no backup shows any more, but for young ones; where a backup cannot be read, none."""
    if not (folder / FOLDER).is_dir():
        return
    try:
        shown = frozenset[str]().union(*(shown_by(one) for one in backups))
    except sqlite3.DatabaseError:
        return
    for path in (folder / FOLDER).rglob("*.jpg"):
        if path.stem not in shown and time.time() - path.stat().st_mtime > _YOUNG_S:
            path.unlink(missing_ok=True)
