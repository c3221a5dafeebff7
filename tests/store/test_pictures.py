"""Pictures are kept once: in the data file by what is in them, beside backups shared by all of them."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from lucernis.errors import NotFound
from lucernis.store import pictures
from lucernis.store.backups import Backups
from lucernis.store.database import Database, migrate, shipped_migrations
from lucernis.store.photos import PhotoStore
from lucernis.store.plans import PlanStore

FIRST, SECOND, THIRD = (bytes([at]) * 5000 for at in (1, 2, 3))


@pytest.fixture
def database(tmp_path: Path) -> Database:
    made = Database(tmp_path / "plans.sqlite3")
    made.open()
    return made


@pytest.fixture
def plans(database: Database) -> list[str]:
    return [PlanStore(database).create({"n": at}, "begun").plan_id for at in range(2)]


def _beside(database: Database) -> list[Path]:
    return sorted(Backups(database).folder.rglob("*.jpg"))


def test_a_picture_two_jobs_show_is_kept_once(database: Database, plans: list[str]) -> None:
    store = PhotoStore(database)
    kept = [store.keep_photo(plan, "x", "run", "", FIRST) for plan in (*plans, plans[0])]
    assert [store.get_photo(plan, one.photo_id) for plan, one in zip((*plans, plans[0]), kept, strict=True)] == [
        FIRST
    ] * 3
    assert [one.size_bytes for one in store.list_photos(plans[0])] == [5000, 5000]
    with database.reading() as connection:
        assert connection.execute("SELECT count(*) FROM picture").fetchone()[0] == 1


def test_backups_share_their_pictures_and_bring_them_back(database: Database, plans: list[str]) -> None:
    store, backups = PhotoStore(database), Backups(database)
    first = store.keep_photo(plans[0], "x", "run", "a note", FIRST)
    old = backups.make()
    second = store.keep_photo(plans[1], "y", "place", "", SECOND)
    new = backups.make()
    assert len(_beside(database)) == 2
    assert all(b"\x01" * 4000 not in (backups.folder / one.name).read_bytes() for one in (old, new))
    assert backups.size_bytes() == old.size_bytes + new.size_bytes + 10_000
    backups.restore(old.name)
    assert store.get_photo(plans[0], first.photo_id) == FIRST
    assert store.list_photos(plans[1]) == []
    with database.reading() as connection:
        assert connection.execute("SELECT count(*) FROM picture").fetchone()[0] == 1, "what none shows is let go"
    backups.restore(new.name)
    assert store.get_photo(plans[1], second.photo_id) == SECOND
    assert store.list_photos(plans[0])[0].note == "a note"


def test_a_backup_is_the_data_file_but_for_its_pictures(database: Database, plans: list[str]) -> None:
    PhotoStore(database).keep_photo(plans[0], "x", "run", "", FIRST)
    store = PlanStore(database)
    for at in range(5):
        store.edit(plans[0], at + 1, {"n": at, "text": "é" * at}, f"edit {at}")
    made = Backups(database).make()
    with (
        closing(sqlite3.connect(database.path)) as here,
        closing(sqlite3.connect(Backups(database).folder / made.name)) as there,
    ):
        schema = "SELECT type, name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite_%' ORDER BY type, name"
        assert here.execute(schema).fetchall() == there.execute(schema).fetchall()
        for (table,) in here.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall():
            rows = f'SELECT * FROM "{table}"'  # noqa: S608 - own schema
            mine, theirs = here.execute(rows).fetchall(), there.execute(rows).fetchall()
            assert theirs == ([] if table == "picture" else mine), table


def test_pictures_no_backup_shows_go_and_no_others(
    database: Database, plans: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("lucernis.store.backups._OTHERS", 1)
    monkeypatch.setattr(pictures, "_YOUNG_S", -1.0)
    store, backups = PhotoStore(database), Backups(database)
    store.keep_photo(plans[0], "x", "run", "", FIRST)
    backups.make()
    with database.writing() as connection:
        connection.execute("DELETE FROM photo")
        connection.execute("DELETE FROM picture")
    store.keep_photo(plans[0], "x", "run", "", SECOND)
    backups.make()
    assert [one.read_bytes() for one in _beside(database)] == [SECOND]


def test_a_picture_a_backup_under_way_counts_on_stays(
    database: Database, plans: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Laid long ago, shown by no backup that is finished, and counted on by one that is being made."""
    PhotoStore(database).keep_photo(plans[0], "x", "run", "", FIRST)
    backups = Backups(database)
    (backups.folder / backups.make().name).unlink()
    (laid,) = _beside(database)
    os.utime(laid, (0, 0))
    pictures.copy_without_pictures(database.path.as_uri(), backups.folder / "under-way.part")
    pictures.let_go(backups.folder, [])
    assert laid.exists()
    os.utime(laid, (0, 0))
    pictures.let_go(backups.folder, [])
    assert not laid.exists()


def test_a_backup_that_cannot_be_read_keeps_every_picture(database: Database, plans: list[str]) -> None:
    PhotoStore(database).keep_photo(plans[0], "x", "run", "", FIRST)
    made = Backups(database).make()
    (Backups(database).folder / made.name).write_bytes(b"x" * 5000)
    os.utime(_beside(database)[0], (0, 0))
    pictures.let_go(Backups(database).folder, [Backups(database).folder / made.name])
    assert len(_beside(database)) == 1


def test_missing_and_spoilt_pictures_are_told_and_hold_nothing_up(database: Database, plans: list[str]) -> None:
    store, backups = PhotoStore(database), Backups(database)
    kept = [store.keep_photo(plans[0], "x", "run", "", one) for one in (FIRST, SECOND, THIRD)]
    made = backups.make()
    gone, spoilt = (next(p for p in _beside(database) if p.read_bytes() == one) for one in (FIRST, SECOND))
    gone.unlink()
    spoilt.write_bytes(THIRD)
    with database.writing() as connection:
        connection.execute("DELETE FROM photo")
        connection.execute("DELETE FROM picture")
    # Looked at anew: what lies beside it is not seen by its own size and time.
    assert next(one for one in Backups(database).list_backups() if one.name == made.name).missing_pictures == 1
    backups.restore(made.name)
    assert [one.size_bytes for one in store.list_photos(plans[0])] == [0, 0, 5000]
    assert store.get_photo(plans[0], kept[2].photo_id) == THIRD
    with pytest.raises(NotFound, match="was not beside the backup"):
        store.get_photo(plans[0], kept[0].photo_id)
    assert PlanStore(database).get(plans[0]).document == {"n": 0}
    # Taken in again it is there for the photo of before too.
    store.keep_photo(plans[0], "x", "run", "", FIRST)
    assert store.get_photo(plans[0], kept[0].photo_id) == FIRST


def test_an_old_file_gets_its_pictures_by_what_is_in_them(tmp_path: Path) -> None:
    steps = shipped_migrations()
    with closing(sqlite3.connect(tmp_path / "old.sqlite3", isolation_level=None)) as connection:
        migrate(connection, [one for one in steps if one.name < "017"])
        connection.execute("INSERT INTO plan (plan_id, revision, created_at, sort_order) VALUES ('p', 1, 'x', 1)")
        for at, picture in enumerate((SECOND, FIRST, SECOND)):
            connection.execute(
                "INSERT INTO photo (photo_id, plan_id, subject, note, made_at, picture) "
                "VALUES (?, 'p', 'x', ?, 'x', ?)",
                (f"id{2 - at}", f"note {at}", picture),
            )
        migrate(connection, steps)
        shown = connection.execute("SELECT note, picture FROM photo JOIN picture USING (sha256) ORDER BY photo.rowid")
        assert shown.fetchall() == [("note 0", SECOND), ("note 1", FIRST), ("note 2", SECOND)]
        assert connection.execute("SELECT count(*) FROM picture").fetchone()[0] == 2
