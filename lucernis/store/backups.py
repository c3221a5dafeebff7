"""Backups by themselves: made now and then, before each change of the schema and before a restore; old ones go."""

from __future__ import annotations

import re
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Literal

from lucernis.errors import NotFound
from lucernis.store.database import Database
from lucernis.store.files import look_into
from lucernis.store.pictures import let_go, missing_beside, size_of

Why = Literal["by-itself", "asked", "before-schema", "before-restore"]
_NAME = re.compile(r"^(\d{8}-\d{6})-(by-itself|asked|before-schema|before-restore)(?:-(\d+))?\.sqlite3$")
# Of those made by themselves the last few, one of each of the last days, one of each of the last months stay.
_LAST, _DAYS, _MONTHS = 6, 14, 12
_OTHERS = 10
EVERY = timedelta(hours=2)
_AHEAD = timedelta(hours=1)
# All backups together take no more than so many times the newest, or so much. Practice. [bytes]
_MOST_TIMES, _MOST_BYTES = 40, 20_000_000_000
# Parts of copies that were given up are taken away after so long.
_PART_S = 3600.0
_FOLD_S = 300.0


@dataclass(frozen=True, slots=True)
class Backup:
    """A backup: its name, when and why it was made, its size, how many plans it holds; `problem` if it is not
    sound, `missing_pictures` where those that lie beside it are not all there."""

    name: str
    made_at: str
    why: Why
    size_bytes: int
    plans: int
    problem: str
    missing_pictures: int


class Backups:
    """The folder of backups beside a data file."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self.database = database
        self.folder = database.path.with_name(database.path.name + ".backups")
        self._now = now
        # What is known of files that have not changed since they were looked into.
        self._looked: dict[tuple[str, int, int], Backup] = {}
        # How the data file stood when the last one was made by itself.
        self._kept_at: tuple[float, ...] = ()

    def _files(self) -> list[tuple[Path, datetime, Why]]:
        """Newest first."""
        if not self.folder.is_dir():
            return []
        found = []
        for path in self.folder.iterdir():
            match = _NAME.match(path.name)
            if match:
                made = datetime.strptime(match[1], "%Y%m%d-%H%M%S").replace(tzinfo=UTC)
                found.append((path, made, match[2], int(match[3] or 0)))
        found.sort(key=lambda one: (one[1], one[3]), reverse=True)
        return [(path, made, why) for path, made, why, _ in found]  # type: ignore[misc]

    def list_backups(self) -> list[Backup]:
        """All backups, newest first, each opened and looked into."""
        found = []
        for path, made, why in self._files():
            stat = path.stat()
            key = (path.name, stat.st_size, stat.st_mtime_ns)
            if key not in self._looked:
                look = look_into(path)
                stamp = made.isoformat(timespec="seconds")
                missing = 0 if look.problem else missing_beside(path)
                self._looked[key] = Backup(path.name, stamp, why, stat.st_size, look.plans, look.problem, missing)
            found.append(self._looked[key])
        return found

    def make(self, why: Why = "asked") -> Backup:
        """Copy the data file, verify the copy, and let old ones go.

        Raises
        ------
        StoreFull, StoreReadOnly, StoreDamaged
            If there is no room, no right, or the copy is not sound; what was there stays.
        """
        self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        stamp = self._now().astimezone(UTC).strftime("%Y%m%d-%H%M%S")
        path, more = self.folder / f"{stamp}-{why}.sqlite3", 1
        while path.exists():
            path, more = self.folder / f"{stamp}-{why}-{more}.sqlite3", more + 1
        self.database.backup_to(path, pictures_beside=True)
        if why != "before-restore":
            # The one that is about to be brought back may be the oldest: it goes only afterwards.
            self._let_go()
        return next(one for one in self.list_backups() if one.name == path.name)

    def size_bytes(self) -> int:
        """What all backups take, with the pictures they share. [bytes]"""
        return sum(path.stat().st_size for path, _, _ in self._files()) + size_of(self.folder)

    def make_if_due(self) -> Backup | None:
        """One by itself if the last is old enough and something has changed since."""
        if self.database.read_only:
            return None
        # A clock that was once years ahead has left files of a time that has not come: they hold nothing up.
        files = [one for one in self._files() if one[1] <= self._now() + _AHEAD]
        now = self._written()
        if files and (self._now() - files[0][1] < EVERY or self._kept_at == now):
            return None
        if not self._kept_at and (not self._something() or (files and now[0] <= files[0][1].timestamp())):
            return None
        made = self.make("by-itself")
        self._kept_at = now
        return made

    def _written(self) -> tuple[float, ...]:
        """When the data file and its side file were last written, and how long they are: whatever is kept in them
        counts, plans, records, photos, prices and stock."""
        found: list[float] = []
        for ending in ("", "-wal"):
            side = self.database.path.with_name(self.database.path.name + ending)
            if side.exists() and side.stat().st_size:
                found += [side.stat().st_mtime, float(side.stat().st_size)]
        return (max(found[::2], default=0.0), *found)

    def _something(self) -> bool:
        """Whether there is a plan at all."""
        with self.database.reading() as connection:
            return bool(connection.execute("SELECT count(*) FROM plan").fetchone()[0])

    def _let_go(self) -> None:
        files = self._files()
        own = [one for one in files if one[2] == "by-itself"]
        stays = {path for path, _, _ in own[:_LAST]}
        for form, most in (("%Y-%m-%d", _DAYS), ("%Y-%m", _MONTHS)):
            # The newest of each day and month; the list runs from new to old.
            first: dict[str, Path] = {}
            for path, made, _ in own:
                first.setdefault(made.strftime(form), path)
            stays |= set(list(first.values())[:most])
        for why in ("asked", "before-schema", "before-restore"):
            stays |= {path for path, _, _ in [one for one in files if one[2] == why][:_OTHERS]}
        for path, _, _ in files:
            if path not in stays:
                path.unlink(missing_ok=True)
        self._within_size()
        self._tidied()
        let_go(self.folder, [path for path, _, _ in self._files()])

    def _within_size(self) -> None:
        """The oldest go as long as all together are too large; the newest of each reason stays."""
        files = self._files()
        sizes = {path: path.stat().st_size for path, _, _ in files}
        if not sizes:
            return
        most = min(_MOST_BYTES, _MOST_TIMES * sizes[files[0][0]])
        newest = {why: path for path, _, why in reversed(files)}
        for path, _, _ in reversed(files):
            if sum(sizes.values()) <= max(most, 2 * sizes[files[0][0]]):
                return
            if path not in newest.values():
                path.unlink(missing_ok=True)
                del sizes[path]

    def _tidied(self) -> None:
        """What a copy that was given up has left, and side files of copies that were looked into."""
        for path in self.folder.iterdir():
            part = path.name.endswith((".part", ".part-journal"))
            side = path.name.endswith(("-wal", "-shm", "-journal")) and not part
            old = time.time() - path.stat().st_mtime > _PART_S
            if (part or side) and old:
                path.unlink(missing_ok=True)

    def restore(self, name: str) -> Backup:
        """Bring a backup back, after one of what is there now.

        Returns
        -------
        Backup
            That of what was there.

        Raises
        ------
        NotFound
            If there is no such backup.
        StoreDamaged
            If it is not sound; nothing is changed then.
        """
        path = next((one for one, _, _ in self._files() if one.name == name), None)
        if path is None:
            raise NotFound(f"no backup {name!r}", field="name", value=name, allowed="the name of a backup here")
        made = self.database.swap_in(path, lambda: self.make("before-restore"))
        self._let_go()
        return made

    def missing_plans(self) -> str:
        """What to tell where the file has no plan and the last sound backup has some; empty otherwise."""
        with self.database.reading() as connection:
            if connection.execute("SELECT count(*) FROM plan").fetchone()[0]:
                return ""
        last = next((one for one in self.list_backups() if not one.problem and one.plans), None)
        if last is None:
            return ""
        return (
            f"{self.database.path} holds no plans, but the backup of {last.made_at[:16].replace('T', ' ')} holds "
            f"{last.plans}. It can be brought back on the screen of backups"
        )


@dataclass(frozen=True, slots=True)
class Kept:
    """How the keeper fares: when its last round went well, and what went wrong since; both empty at first."""

    good_at: str = ""
    problem: str = ""


class Keeper:
    """While the program runs: folds what was written into the data file, and makes backups when they are due."""

    def __init__(self, backups: Backups, tell: Callable[[str], None], every_s: float = _FOLD_S) -> None:
        self._backups, self._tell, self._every_s = backups, tell, every_s
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="keeper", daemon=True)
        self._told = ""
        self._kept = Kept()

    def start(self) -> None:
        """Begin, in a thread of its own."""
        self._thread.start()

    def supervise(self) -> Kept:
        """How it fares; whoever asks starts it again where its thread has ended."""
        if not self._thread.is_alive() and not self._stop.is_set():
            self._tell("The keeper of backups had ended and was started again")
            self._thread = threading.Thread(target=self._run, name="keeper", daemon=True)
            self._thread.start()
        return self._kept

    def stop(self) -> None:
        """End after what is under way."""
        self._stop.set()
        self._thread.join(timeout=30)

    def turn(self) -> None:
        """One round. What goes wrong is told once and tried again the next time."""
        try:
            self._backups.database.fold()
            self._backups.make_if_due()
            self._told = ""
            self._kept = Kept(datetime.now(UTC).isoformat(timespec="seconds"))
        except Exception as error:
            # Whatever it is, the next turn comes: a keeper that has ended makes no backup for ever.
            self._kept = Kept(self._kept.good_at, str(error) or type(error).__name__)
            if str(error) != self._told:
                self._told = str(error)
                self._tell(f"No backup could be made: {error}")

    def _run(self) -> None:
        self.turn()
        while not self._stop.wait(self._every_s):
            self.turn()
