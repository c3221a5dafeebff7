"""The SQLite file: opening, migrations, integrity, transactions, backup. The tables belong to the repositories."""

from __future__ import annotations

import hashlib
import itertools
import os
import re
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

from lucernis.errors import StoreDamaged

_LEDGER = """
CREATE TABLE IF NOT EXISTS migration (
    name     TEXT PRIMARY KEY,
    checksum TEXT NOT NULL
) STRICT
"""


@dataclass(frozen=True, slots=True)
class Migration:
    """One step of the schema."""

    name: str
    sql: str

    @property
    def checksum(self) -> str:
        """Recorded with the step, so that a released one is never changed unnoticed."""
        return hashlib.sha256(self.sql.encode()).hexdigest()


def shipped_migrations() -> list[Migration]:
    """The schema's steps in order."""
    folder = files("lucernis.store") / "schema"
    names = sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(".sql"))
    return [Migration(name, (folder / name).read_text(encoding="utf-8")) for name in names]


def _statements(sql: str) -> Iterator[str]:
    pending = ""
    for piece in re.split(r"(?<=;)", sql):
        # A semicolon inside a string or trigger does not complete a statement.
        pending += piece
        if sqlite3.complete_statement(pending):
            yield pending
            pending = ""
    if pending.strip():
        yield pending


def migrate(connection: sqlite3.Connection, migrations: list[Migration]) -> list[str]:
    """Apply what is missing, each step whole or not at all.

    Parameters
    ----------
    connection : sqlite3.Connection
        Open in autocommit mode.
    migrations : list of Migration
        In order.

    Returns
    -------
    list of str
        Names of the steps applied now.

    Raises
    ------
    StoreDamaged
        If a step that was applied reads differently now, or leaves dangling references.
    """
    connection.execute(_LEDGER)
    done = dict(connection.execute("SELECT name, checksum FROM migration").fetchall())
    applied = []
    for step in migrations:
        if step.name in done:
            if done[step.name] != step.checksum:
                raise StoreDamaged(f"schema step {step.name} was changed after it was applied", field=step.name)
            continue
        # The pragma does nothing inside a transaction, so it comes before BEGIN.
        connection.execute("PRAGMA foreign_keys=OFF")
        connection.execute("BEGIN IMMEDIATE")
        try:
            # executescript would commit the open transaction first and leave a failed step half done.
            for statement in _statements(step.sql):
                connection.execute(statement)
            if connection.execute("PRAGMA foreign_key_check").fetchall():
                raise StoreDamaged(f"schema step {step.name} leaves dangling references", field=step.name)
            connection.execute("INSERT INTO migration (name, checksum) VALUES (?, ?)", (step.name, step.checksum))
        except BaseException:
            connection.execute("ROLLBACK")
            raise
        finally:
            if not connection.in_transaction:
                connection.execute("PRAGMA foreign_keys=ON")
        connection.execute("COMMIT")
        connection.execute("PRAGMA foreign_keys=ON")
        applied.append(step.name)
    return applied


class Database:
    """One SQLite file. Every call opens its own connection, so that threads never share one."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._keeper: sqlite3.Connection | None = None

    def close(self) -> None:
        """Let go of the file, with all that was written folded into it: copied by itself it is whole."""
        if self._keeper is None:
            return
        self._keeper.close()
        self._keeper = None
        try:
            with closing(self._connect()) as connection:
                connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        except sqlite3.OperationalError:
            # Somebody else has it open, or the disk takes nothing more: what was written stands in the side file.
            return

    def _keep_open(self) -> None:
        # While one connection stays open, closing the others does not fold the write-ahead log back each time.
        self.close()
        self._keeper = sqlite3.connect(f"{self.path.absolute().as_uri()}?mode=ro", uri=True, check_same_thread=False)
        self._keeper.execute("SELECT count(*) FROM migration").fetchone()

    def _connect(self, *, read_only: bool = False) -> sqlite3.Connection:
        mode = "ro" if read_only else "rwc"
        connection = sqlite3.connect(
            f"{self.path.absolute().as_uri()}?mode={mode}", uri=True, isolation_level=None, timeout=10
        )
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys=ON")
        if not read_only:
            connection.execute("PRAGMA synchronous=FULL")
        return connection

    def open(self) -> list[str]:
        """Check the file, bring its schema up, turn on write-ahead logging.

        Returns
        -------
        list of str
            Schema steps applied now.

        Raises
        ------
        StoreDamaged
            If the integrity check fails; the text says how to go back to a backup.
        """
        self.path.parent.mkdir(parents=True, exist_ok=True)
        # Customers' names and vehicles stand in it: nobody else on this machine may read it. Side files follow suit.
        if not self.path.exists():
            os.close(os.open(self.path, os.O_CREAT | os.O_RDWR, 0o600))
        try:
            with closing(self._connect()) as connection:
                texts = [row[0] for row in connection.execute("PRAGMA quick_check(5)")]
                if texts != ["ok"]:
                    raise sqlite3.DatabaseError("; ".join(texts))
                connection.execute("PRAGMA journal_mode=WAL")
                applied = migrate(connection, shipped_migrations())
                self._keep_open()
                return applied
        except sqlite3.DatabaseError as error:
            raise StoreDamaged(
                f"{self.path} does not pass its integrity check ({error}). It was left as it is. Bring a backup "
                f"back with: lucernis backup --restore BACKUP --data {self.path}",
                field="data",
                value=str(self.path),
                allowed="a sound SQLite file",
            ) from error

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection that cannot write."""
        with closing(self._connect(read_only=True)) as connection:
            yield connection

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """One write transaction: all or nothing."""
        with closing(self._connect()) as connection:
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")

    def backup_to(self, target: Path) -> None:
        """Copy the file while it is in use; the copy appears whole or not at all."""
        target.parent.mkdir(parents=True, exist_ok=True)
        part = target.with_name(target.name + ".part")
        part.unlink(missing_ok=True)
        with closing(self._connect(read_only=True)) as source, closing(sqlite3.connect(part)) as copy:
            source.backup(copy)
        part.replace(target)

    def restore_from(self, backup: Path) -> Path | None:
        """Put a backup in the place of the file; returns where the old file was kept, if there was one.

        Raises
        ------
        StoreDamaged
            If the backup itself is not sound; nothing is changed then.
        """
        if not backup.is_file():
            raise StoreDamaged(f"no backup at {backup}", field="restore", value=str(backup), allowed="a backup file")
        try:
            with closing(sqlite3.connect(f"{backup.absolute().as_uri()}?mode=ro", uri=True)) as connection:
                sound = [row[0] for row in connection.execute("PRAGMA integrity_check(5)")] == ["ok"]
                sound = sound and connection.execute("SELECT count(*) FROM migration").fetchone()[0] > 0
        except sqlite3.DatabaseError:
            sound = False
        if not sound:
            raise StoreDamaged(
                f"{backup} is not a sound backup", field="restore", value=str(backup), allowed="a backup made here"
            )
        self.close()
        kept = None
        if self.path.exists():
            numbers = itertools.count(1)
            kept = next(
                path
                for number in numbers
                if not (path := self.path.with_name(f"{self.path.name}.replaced-{number}")).exists()
            )
            self.path.replace(kept)
        for ending in ("-wal", "-shm"):
            side = self.path.with_name(self.path.name + ending)
            if side.exists() and kept is not None:
                side.replace(kept.with_name(kept.name + ending))
        self.path.parent.mkdir(parents=True, exist_ok=True)
        with (
            closing(sqlite3.connect(f"{backup.absolute().as_uri()}?mode=ro", uri=True)) as source,
            closing(sqlite3.connect(self.path)) as copy,
        ):
            source.backup(copy)
        return kept
