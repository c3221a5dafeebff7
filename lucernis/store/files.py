"""Looks at data files before they are opened: whether they are sound, and whether their side files belong to them."""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from lucernis.errors import StoreDamaged


@dataclass(frozen=True, slots=True)
class Look:
    """What a data file holds: how many plans, and what is wrong with it, empty where nothing is."""

    plans: int
    problem: str


def look_into(path: Path) -> Look:
    """Open a data file for reading, check it whole, count its plans."""
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as connection:
            texts = [row[0] for row in connection.execute("PRAGMA integrity_check(3)")]
            if texts != ["ok"]:
                return Look(0, "; ".join(texts))
            if not connection.execute("SELECT count(*) FROM migration").fetchone()[0]:
                return Look(0, "it has no tables of Lucernis")
            return Look(connection.execute("SELECT count(*) FROM plan").fetchone()[0], "")
    except sqlite3.DatabaseError as error:
        missing = "no such table" in str(error)
        return Look(0, "it has no tables of Lucernis" if missing else str(error))


def look_at_files(path: Path) -> None:
    """Whether a data file and its write-ahead file go together.

    Raises
    ------
    StoreDamaged
        If the data file is gone and its side file is not, or the side file is that of another file; nothing is touched.
    """
    side = path.with_name(path.name + "-wal")
    if not side.exists() or side.stat().st_size == 0:
        return
    if not path.exists() or path.stat().st_size == 0:
        raise StoreDamaged(
            f"{path} is missing or empty, but {side.name} beside it holds changes to it. Put the data file back beside "
            f"it, or bring a backup back with: lucernis backup --restore BACKUP --data {path}. To begin anew, move "
            f"{side.name} away",
            field="data",
            value=str(path),
            allowed="a data file with its own side file",
        )
    with tempfile.TemporaryDirectory() as folder:
        # SQLite folds whatever lies beside a file into it as soon as it is opened, so a copy is tried.
        alone, both = Path(folder) / "alone", Path(folder) / "both"
        for copy in (alone, both):
            shutil.copyfile(path, copy)
        shutil.copyfile(side, both.with_name("both-wal"))
        with closing(sqlite3.connect(both)) as connection:
            try:
                sound = [row[0] for row in connection.execute("PRAGMA integrity_check(1)")] == ["ok"]
            except sqlite3.DatabaseError:
                sound = False
        if not sound and not look_into(alone).problem:
            raise StoreDamaged(
                f"{side.name} does not belong to {path}: with it the file would be damaged, without it it is sound. "
                f"Was the file put there from elsewhere? Then move {side.name} and {path.name}-shm away, start again",
                field="data",
                value=str(path),
                allowed="a data file with its own side file",
            )
