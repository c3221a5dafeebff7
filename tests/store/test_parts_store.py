"""Own parts in the store: kept, listed by name, taken out; all or none."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from lucernis.errors import EditRefused, NotFound
from lucernis.store import parts as parts_module
from lucernis.store.database import Database
from lucernis.store.parts import PartStore
from lucernis.store.plans import PlanStore


@pytest.fixture
def store(tmp_path: Path) -> PartStore:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    return PartStore(database)


def test_parts_are_listed_by_name_with_their_fields(store: PartStore) -> None:
    store.insert_parts(
        [("Zebra bar", "", {"kind": "busbar"}), ("Anchor switch", "stock", {"kind": "switch", "rated_a": 5})]
    )
    assert [one.name for one in store.list_parts()] == ["Anchor switch", "Zebra bar"]
    assert store.list_parts()[0].fields == {"kind": "switch", "rated_a": 5}
    assert store.list_parts()[0].note == "stock"


def test_delete_takes_one_out_and_names_what_is_not_there(store: PartStore) -> None:
    made = store.insert_parts([("A", "", {}), ("B", "", {})])
    store.delete_part(made[0].part_id)
    assert [one.name for one in store.list_parts()] == ["B"]
    with pytest.raises(NotFound, match=made[0].part_id):
        store.delete_part(made[0].part_id)


def test_too_many_at_once_leave_nothing(store: PartStore, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(parts_module, "MOST_PARTS", 2)
    store.insert_parts([("A", "", {})])
    with pytest.raises(EditRefused, match="holds 1 own parts"):
        store.insert_parts([("B", "", {}), ("C", "", {})])
    assert [one.name for one in store.list_parts()] == ["A"]


def test_a_bad_row_leaves_nothing_of_its_batch(store: PartStore) -> None:
    with pytest.raises(sqlite3.IntegrityError):
        store.insert_parts([("Good", "", {}), ("", "", {})])
    assert store.list_parts() == []


def test_parts_survive_backup_and_leave_plans_alone(store: PartStore, tmp_path: Path) -> None:
    database = store._database
    PlanStore(database).create({"format": "x"}, "made")
    store.insert_parts([("A", "", {"kind": "busbar"})])
    database.backup_to(tmp_path / "copy.sqlite3")
    copy = Database(tmp_path / "copy.sqlite3")
    copy.open()
    assert [one.name for one in PartStore(copy).list_parts()] == ["A"]
    assert len(PlanStore(copy).list_plans()) == 1


def test_older_file_gets_the_table_when_it_is_opened(tmp_path: Path) -> None:
    """A file with the first step alone, as an older version left it."""
    path = tmp_path / "old.sqlite3"
    Database(path).open()
    with sqlite3.connect(path) as connection:
        connection.execute("DROP TABLE part")
        connection.execute("DELETE FROM migration WHERE name LIKE '002%'")
    database = Database(path)
    assert [name for name in database.open() if name.startswith("002")]
    assert PartStore(database).list_parts() == []
