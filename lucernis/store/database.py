"""The SQLite file: opening, migrations, integrity, transactions, backup. The tables belong to the repositories."""

from __future__ import annotations

import hashlib
import itertools
import os
import re
import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path
from typing import Literal, TypeVar

from lucernis.errors import LucernisError, StoreDamaged, StoreFull, StoreReadOnly
from lucernis.store.deltas import checksum
from lucernis.store.files import look_at_files, look_into
from lucernis.store.pictures import copy_without_pictures, fetch_pictures
from lucernis.store.swap import brought_up, put_in_place

T = TypeVar("T")

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
    connection.create_function("sha256_hex", 1, checksum, deterministic=True)
    connection.create_function("sha256_bytes", 1, lambda one: hashlib.sha256(one).hexdigest(), deterministic=True)
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


def _told(error: sqlite3.Error, path: Path) -> LucernisError | None:
    """What the disk or the file refuses, in words; None for everything else."""
    code = (getattr(error, "sqlite_errorcode", None) or 0) & 0xFF
    if code == sqlite3.SQLITE_FULL:
        return StoreFull(
            f"the disk with {path} is full; nothing was stored. Make room there, then try again", field="data"
        )
    if code in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM, sqlite3.SQLITE_IOERR):
        return StoreReadOnly(
            f"{path} cannot be written ({error}); nothing was stored. Give the program the right to write the file "
            "and its folder, or start it with another one: --data",
            field="data",
        )
    if code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB):
        return StoreDamaged(
            f"{path} is damaged ({error}). Stop the program and bring a backup back: lucernis backup --list",
            field="data",
        )
    return None


class Database:
    """One SQLite file. Every call opens its own connection, so that threads never share one.

    `read_only` says why nothing can be stored, where it can't.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.read_only = ""
        self._keeper: sqlite3.Connection | None = None
        # Who writes in this process waits here, however long a restore takes; of other processes SQLite takes care.
        self._gate = threading.RLock()
        self._joined = threading.local()
        self._inode = 0

    def close(self) -> None:
        """Let go of the file, with all that was written folded into it: copied by itself it is whole."""
        if self._keeper is None:
            return
        self._keeper.close()
        self._keeper = None
        self.fold("TRUNCATE")
        self._inode = 0

    def fold(self, how: Literal["PASSIVE", "TRUNCATE"] = "PASSIVE") -> None:
        """Fold what was written into the file itself, so that a copy of it alone has it."""
        if self.read_only:
            return
        try:
            with closing(self._connect()) as connection:
                connection.execute(f"PRAGMA wal_checkpoint({how})")
        except (sqlite3.OperationalError, StoreDamaged):
            # Somebody else has it open, or the disk takes nothing more: what was written stands in the side file.
            return

    def _keep_open(self) -> None:
        # While one connection stays open, closing the others does not fold the write-ahead log back each time.
        self.close()
        self._keeper = sqlite3.connect(f"{self.path.absolute().as_uri()}?mode=ro", uri=True, check_same_thread=False)
        self._keeper.execute("SELECT count(*) FROM migration").fetchone()

    def _connect(self, *, read_only: bool = False) -> sqlite3.Connection:
        self._still_there()
        address = self._address(read_only=read_only)
        connection = sqlite3.connect(address, uri=True, isolation_level=None, timeout=10)
        connection.row_factory = sqlite3.Row
        # A byte that is no text in one document is found by its checksum; it does not take the rest of the shelf along.
        connection.text_factory = lambda raw: raw.decode("utf-8", "replace")
        if not read_only and not self.read_only:
            connection.execute("PRAGMA foreign_keys=ON")
            connection.execute("PRAGMA synchronous=FULL")
        return connection

    def _address(self, *, read_only: bool) -> str:
        """The file as SQLite is asked to open it."""
        mode = "ro" if read_only or self.read_only else "rwc"
        if self.read_only and not os.access(self.path.parent, os.W_OK):
            # Side files cannot be made there, and nobody else can be writing either.
            mode += "&immutable=1"
        return f"{self.path.absolute().as_uri()}?mode={mode}"

    def _still_there(self) -> None:
        """Whether the file that was opened is the one that lies there: nothing is written into the void.

        Raises
        ------
        StoreDamaged
            If it was moved, deleted or replaced while it was open.
        """
        if not self._inode:
            return
        try:
            now = self.path.stat().st_ino
        except OSError:
            now = 0
        if now != self._inode:
            what = "was replaced by another file" if now else "is gone: moved or deleted"
            raise StoreDamaged(
                f"{self.path} {what} while the program runs; nothing is stored. Put it back, or stop the program and "
                "start it again",
                field="data",
                value=str(self.path),
                allowed="the file that was opened",
            )

    def open(self, before_migration: Callable[[], None] | None = None) -> list[str]:
        """Check the file, bring its schema up, turn on write-ahead logging.

        A file that may not be written, or that a newer program has made, is opened for reading only; `read_only` says
        so then.

        Parameters
        ----------
        before_migration : callable, optional
            Called before the schema of a file that has one already is changed.

        Returns
        -------
        list of str
            Schema steps applied now.

        Raises
        ------
        StoreDamaged
            If the file or its side file is not what it should be; the text says what to do.
        """
        self.path.parent.mkdir(parents=True, exist_ok=True)
        look_at_files(self.path)
        # Customers' names and vehicles stand in it: nobody else on this machine may read it. Side files follow suit.
        if not self.path.exists():
            os.close(os.open(self.path, os.O_CREAT | os.O_RDWR, 0o600))
        if not (os.access(self.path, os.W_OK) and os.access(self.path.parent, os.W_OK)):
            self.read_only = (
                f"{self.path} may not be written: plans can be read, nothing can be stored. Give the program the right "
                "to write the file and its folder, or start it with another one: --data"
            )
        try:
            with closing(self._connect()) as connection:
                texts = [row[0] for row in connection.execute("PRAGMA quick_check(5)")]
                if texts != ["ok"]:
                    raise sqlite3.DatabaseError("; ".join(texts))
                applied = self._migrated(connection, before_migration)
        except sqlite3.DatabaseError as error:
            told = _told(error, self.path)
            if isinstance(told, StoreFull | StoreReadOnly):
                raise told from error
            raise StoreDamaged(
                f"{self.path} does not pass its integrity check ({error}). It was left as it is. Bring a backup "
                f"back with: lucernis backup --restore BACKUP --data {self.path}; lucernis backup --list shows them. "
                f"What can still be read is saved with: lucernis backup --salvage --data {self.path}",
                field="data",
                value=str(self.path),
                allowed="a sound SQLite file",
            ) from error
        self._inode = self.path.stat().st_ino
        if not self.read_only:
            self._keep_open()
        return applied

    def _migrated(self, connection: sqlite3.Connection, before: Callable[[], None] | None) -> list[str]:
        shipped = shipped_migrations()
        known = connection.execute("SELECT count(*) FROM sqlite_master WHERE name = 'migration'").fetchone()[0]
        done = {row[0] for row in connection.execute("SELECT name FROM migration")} if known else set()
        strange = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' LIMIT 1").fetchone()
        if not known and strange is not None:
            raise sqlite3.DatabaseError(f"it is another program's: it has a table {strange[0]!r} and none of Lucernis")
        newer = sorted(done - {step.name for step in shipped})
        if newer:
            self.read_only = (
                f"{self.path} was made by a newer Lucernis ({newer[-1].removesuffix('.sql')}): plans can be read as "
                "far as this one understands them, nothing can be stored. Update the program"
            )
        if self.read_only:
            if not newer and {step.name for step in shipped} - done:
                raise StoreReadOnly(
                    f"{self.path} is of an older Lucernis and may not be written, so it cannot be brought up to date",
                    field="data",
                    allowed="a file that may be written; a copy of it will do",
                )
            return []
        connection.execute("PRAGMA journal_mode=WAL")
        if before is not None and done and {step.name for step in shipped} - done:
            before()
        return migrate(connection, shipped)

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection that cannot write."""
        try:
            with closing(self._connect(read_only=True)) as connection:
                yield connection
        except sqlite3.DatabaseError as error:
            told = _told(error, self.path)
            # A statement of ours that tries to write is a mistake of ours, not of the disk.
            if told is None or isinstance(told, StoreReadOnly):
                raise
            raise told from error

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """One write transaction: all or nothing. Inside another of the same thread it is part of that one.

        Raises
        ------
        StoreFull, StoreReadOnly, StoreDamaged
            If the disk or the file refuses; nothing was stored then.
        """
        if self.read_only:
            raise StoreReadOnly(self.read_only, field="data")
        outer = getattr(self._joined, "connection", None)
        if outer is not None:
            yield outer
            return
        try:
            with self._gate, closing(self._connect()) as connection:
                connection.execute("BEGIN IMMEDIATE")
                self._joined.connection = connection
                try:
                    yield connection
                    connection.execute("COMMIT")
                except BaseException:
                    if connection.in_transaction:
                        connection.execute("ROLLBACK")
                    raise
                finally:
                    self._joined.connection = None
        except sqlite3.DatabaseError as error:
            told = _told(error, self.path)
            if told is None:
                raise
            raise told from error

    def backup_to(self, target: Path, *, pictures_beside: bool = False) -> None:
        """Copy the file while it is in use; the copy appears whole and verified, or not at all.

        Parameters
        ----------
        target : Path
            Where to.
        pictures_beside : bool
            Lay pictures beside the copy, where they are shared with others, instead of into it.

        Raises
        ------
        StoreDamaged
            If the copy would be the file itself, or does not pass its check.
        StoreFull, StoreReadOnly
            If the disk it goes to refuses.
        """
        if target.exists() and target.samefile(self.path):
            raise StoreDamaged(
                f"{target} is the data file itself", field="out", value=str(target), allowed="another file"
            )
        # Two at once have a part each.
        part = target.with_name(f"{target.name}.{os.getpid()}-{threading.get_ident()}.part")
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            part.unlink(missing_ok=True)
            os.close(os.open(part, os.O_CREAT | os.O_RDWR, 0o600))
            if pictures_beside:
                self._still_there()
                copy_without_pictures(self._address(read_only=True), part)
            else:
                with closing(self._connect(read_only=True)) as source, closing(sqlite3.connect(part)) as copy:
                    source.backup(copy)
            found = look_into(part)
            if found.problem:
                raise StoreDamaged(f"the copy {target} is not sound: {found.problem}", field="out", value=str(target))
            part.replace(target)
        except sqlite3.DatabaseError as error:
            told = _told(error, target)
            raise (told or StoreReadOnly(f"{target}: {error}", field="out")) from error
        except OSError as error:
            raise StoreReadOnly(
                f"{target} cannot be written ({error.strerror})",
                field="out",
                value=str(target),
                allowed="a folder with room that may be written",
            ) from error
        finally:
            part.unlink(missing_ok=True)

    def restore_from(self, backup: Path, *, keep: bool = True) -> Path | None:
        """Put a backup in the place of what is in the file, all or nothing, also while it is in use.

        Parameters
        ----------
        backup : Path
            A sound data file.
        keep : bool
            Keep a copy of what is there now beside it.

        Returns
        -------
        Path or None
            Where what was there is kept; None if there was nothing.

        Raises
        ------
        StoreDamaged
            If the backup is not there, is the file itself or not sound; nothing is changed then.
        StoreReadOnly
            If the file is open for reading only.
        """
        if self.read_only:
            raise StoreReadOnly(self.read_only, field="data")
        if not backup.is_file():
            raise StoreDamaged(f"no backup at {backup}", field="restore", value=str(backup), allowed="a backup file")
        if self.path.exists() and backup.samefile(self.path):
            raise StoreDamaged(
                f"{backup} is the data file itself", field="restore", value=str(backup), allowed="a backup of it"
            )
        found = look_into(backup)
        if found.problem:
            raise StoreDamaged(
                f"{backup} is not a sound backup: {found.problem}",
                field="restore",
                value=str(backup),
                allowed="a backup made here",
            )
        if self.path.exists() and not look_into(self.path).problem:
            return self._swapped(backup, lambda: self._kept() if keep else None)
        with self._gate:
            kept = self._kept() if keep else None
            in_use = self._keeper is not None
            with (
                closing(sqlite3.connect(f"{backup.absolute().as_uri()}?mode=ro", uri=True)) as source,
                closing(self._connect()) as here,
            ):
                source.backup(here)
                # Who was let in is not known any more: every device pairs again.
                if here.execute("SELECT 1 FROM sqlite_master WHERE name = 'device'").fetchone():
                    here.execute("DELETE FROM device")
                fetch_pictures(here, backup.parent)
            if in_use:
                self.open()
        return kept

    def swap_in(self, backup: Path, before: Callable[[], T]) -> T:
        """Put a sound backup in the place of what is in this file, in one step that every writer waits for.

        Parameters
        ----------
        backup : Path
            Looked into by `restore_from` or here.
        before : callable
            Called once nobody can write any more, as to copy what is there; nothing acknowledged is missing from it.

        Returns
        -------
        T
            What `before` gave. Devices that are let in stay those of this file: one that was withdrawn stays withdrawn.

        Raises
        ------
        StoreDamaged
            If the backup is not sound or what comes of it is not; nothing is changed then.
        """
        if self.read_only:
            raise StoreReadOnly(self.read_only, field="data")
        found = look_into(backup)
        if found.problem:
            raise StoreDamaged(f"{backup} is not a sound backup: {found.problem}", field="restore", value=str(backup))
        return self._swapped(backup, before)

    def _swapped(self, backup: Path, before: Callable[[], T]) -> T:
        def bring_up(connection: sqlite3.Connection) -> object:
            newer = {row[0] for row in connection.execute("SELECT name FROM migration")} - {
                step.name for step in shipped_migrations()
            }
            if newer:
                # What this program does not know would be left behind without a word.
                raise StoreReadOnly(
                    f"{backup} was made by a newer Lucernis ({max(newer).removesuffix('.sql')}); nothing was changed. "
                    "Update the program first",
                    field="restore",
                    value=str(backup),
                )
            return migrate(connection, shipped_migrations())

        # An old file first gets the schema of today, so that both have the same tables.
        with closing(self._connect()) as connection:
            bring_up(connection)
        with self._gate, brought_up(backup, self.path, bring_up) as copy, closing(self._connect()) as connection:
            connection.execute("ATTACH DATABASE ? AS brought", (str(copy),))
            connection.execute("BEGIN IMMEDIATE")
            try:
                made = before()
                put_in_place(connection)
                fetch_pictures(connection, backup.parent)
                connection.execute("COMMIT")
            except sqlite3.DatabaseError as error:
                if connection.in_transaction:
                    connection.execute("ROLLBACK")
                told = _told(error, self.path)
                raise (told or StoreDamaged(f"{backup} cannot be brought back: {error}", field="restore")) from error
            except BaseException:
                if connection.in_transaction:
                    connection.execute("ROLLBACK")
                raise
        return made

    def _kept(self) -> Path | None:
        """A copy of what is there now, beside it, whatever state it is in."""
        if not self.path.exists() or self.path.stat().st_size == 0:
            return None
        numbers = itertools.count(1)
        kept = next(
            path
            for number in numbers
            if not (path := self.path.with_name(f"{self.path.name}.replaced-{number}")).exists()
        )
        if not look_into(self.path).problem:
            self.backup_to(kept)
            return kept
        # Not even readable: moved away as it is, with its side files.
        self.close()
        self.path.replace(kept)
        for ending in ("-wal", "-shm"):
            side = self.path.with_name(self.path.name + ending)
            if side.exists():
                side.replace(kept.with_name(kept.name + ending))
        os.close(os.open(self.path, os.O_CREAT | os.O_RDWR, 0o600))
        return kept
