"""The store: migrations, integrity, revisions, undo and redo, backup."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, precondition, rule

from lucernis.errors import EditRefused, NotFound, StaleRevision, StoreDamaged
from lucernis.store.database import Database, Migration, migrate, shipped_migrations
from lucernis.store.plans import PlanStore
from lucernis.store.queries_file import load_queries


@pytest.fixture
def database(tmp_path: Path) -> Database:
    found = Database(tmp_path / "data" / "plans.sqlite3")
    found.open()
    return found


@pytest.fixture
def store(database: Database) -> PlanStore:
    return PlanStore(database)


@pytest.fixture
def raw() -> Iterator[sqlite3.Connection]:
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as connection:
        yield connection


def test_migrate_is_done_once(database: Database) -> None:
    assert database.open() == []


def test_migrate_failed_step_leaves_nothing(raw: sqlite3.Connection) -> None:
    steps = [
        Migration("001_a.sql", "CREATE TABLE a (x INTEGER) STRICT;"),
        Migration("002_b.sql", "CREATE TABLE b (x INTEGER) STRICT; NONSENSE;"),
    ]
    with pytest.raises(sqlite3.OperationalError, match="NONSENSE"):
        migrate(raw, steps)
    tables = {row[0] for row in raw.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    assert tables == {"migration", "a"}
    fixed = [steps[0], Migration("002_b.sql", "CREATE TABLE b (x INTEGER) STRICT;")]
    assert migrate(raw, fixed) == ["002_b.sql"]


def test_migrate_refuses_a_changed_step(raw: sqlite3.Connection) -> None:
    migrate(raw, [Migration("001_a.sql", "CREATE TABLE a (x INTEGER) STRICT;")])
    with pytest.raises(StoreDamaged, match=r"001_a\.sql was changed"):
        migrate(raw, [Migration("001_a.sql", "CREATE TABLE a (y INTEGER) STRICT;")])


def test_every_query_explains_on_a_fresh_file(raw: sqlite3.Connection) -> None:
    migrate(raw, shipped_migrations())
    for query in load_queries("plans").values():
        raw.execute(f"EXPLAIN {query.sql}", dict.fromkeys(query.parameters))
        assert query.about
        assert query.name.split("_")[0] in {"get", "list", "insert", "update", "delete"}


def test_open_damaged_file_says_the_way_back_and_leaves_it(tmp_path: Path) -> None:
    path = tmp_path / "plans.sqlite3"
    path.write_bytes(b"not a database at all" * 500)
    with pytest.raises(StoreDamaged, match="lucernis backup --restore"):
        Database(path).open()
    assert path.read_bytes().startswith(b"not a database")


def test_reader_cannot_write(database: Database) -> None:
    with database.reading() as connection, pytest.raises(sqlite3.OperationalError, match="readonly"):
        connection.execute("DELETE FROM plan")


def test_schema_refuses_values_out_of_range(database: Database) -> None:
    with pytest.raises(sqlite3.IntegrityError, match="CHECK"), database.writing() as connection:
        connection.execute("INSERT INTO plan (plan_id, revision, created_at, sort_order) VALUES ('a', 0, 'x', 1)")


def test_create_and_get(store: PlanStore) -> None:
    made = store.create({"n": 0}, "begun")
    assert (made.revision, made.can_undo, made.can_redo, made.document) == (1, False, False, {"n": 0})
    assert store.get(made.plan_id) == made
    with pytest.raises(NotFound, match="no plan 'x'"):
        store.get("x")


def test_edit_with_stale_revision_changes_nothing(store: PlanStore) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    store.edit(plan_id, 1, {"n": 1}, "one")
    with pytest.raises(StaleRevision, match="revision 1 is no longer the newest; it is 2") as caught:
        store.edit(plan_id, 1, {"n": 9}, "late")
    assert caught.value.current_revision == 2
    assert store.get(plan_id).document == {"n": 1}


def test_undo_and_redo_are_revisions(store: PlanStore) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    store.edit(plan_id, 1, {"n": 1}, "one")
    store.edit(plan_id, 2, {"n": 2}, "two")
    back = store.undo(plan_id, 3)
    assert (back.revision, back.document, back.summary) == (4, {"n": 1}, "Undone: two")
    back = store.undo(plan_id, 4)
    assert (back.document, back.can_undo, back.can_redo) == ({"n": 0}, False, True)
    with pytest.raises(EditRefused, match="nothing to undo"):
        store.undo(plan_id, 5)
    assert store.redo(plan_id, 5).document == {"n": 1}
    assert store.redo(plan_id, 6).document == {"n": 2}
    with pytest.raises(EditRefused, match="nothing to redo"):
        store.redo(plan_id, 7)
    assert [row.revision for row in store.history(plan_id)] == [7, 6, 5, 4, 3, 2, 1]
    assert store.get_revision(plan_id, 2) == {"n": 1}


def test_edit_after_undo_ends_the_redo(store: PlanStore) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    store.edit(plan_id, 1, {"n": 1}, "one")
    store.undo(plan_id, 2)
    assert not store.edit(plan_id, 3, {"n": 5}, "five").can_redo
    assert store.undo(plan_id, 4).document == {"n": 0}


def test_archive_keeps_the_plan(store: PlanStore) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    store.archive(plan_id, archived=True)
    assert store.list_plans() == []
    assert [one.plan_id for one in store.list_plans(archived=True)] == [plan_id]
    store.archive(plan_id, archived=False)
    assert len(store.list_plans()) == 1


def test_backup_and_restore_keeps_the_old_file(database: Database, store: PlanStore, tmp_path: Path) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    database.backup_to(tmp_path / "copy.sqlite3")
    store.edit(plan_id, 1, {"n": 1}, "one")
    kept = database.restore_from(tmp_path / "copy.sqlite3")
    assert store.get(plan_id).document == {"n": 0}
    assert kept is not None
    other = Database(kept)
    other.open()
    assert PlanStore(other).get(plan_id).document == {"n": 1}


def test_restore_from_rubbish_changes_nothing(database: Database, store: PlanStore, tmp_path: Path) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    bad = tmp_path / "bad.sqlite3"
    bad.write_text("nothing here")
    with pytest.raises(StoreDamaged, match="not a sound backup"):
        database.restore_from(bad)
    with pytest.raises(StoreDamaged, match="no backup at"):
        database.restore_from(tmp_path / "missing")
    assert store.get(plan_id).document == {"n": 0}


class UndoMachine(RuleBasedStateMachine):
    """Any sequence of edits, undos and redos agrees with two plain stacks."""

    def __init__(self) -> None:
        super().__init__()
        import tempfile

        self.folder = tempfile.TemporaryDirectory()
        database = Database(Path(self.folder.name) / "plans.sqlite3")
        database.open()
        self.store = PlanStore(database)
        self.plan_id = self.store.create({"n": -1}, "begun").plan_id
        self.past: list[int] = []
        self.now = -1
        self.ahead: list[int] = []
        self.revision = 1

    @rule(value=st.integers(0, 1000))
    def edit(self, value: int) -> None:
        self.store.edit(self.plan_id, self.revision, {"n": value}, "edit")
        self.past.append(self.now)
        self.now, self.ahead = value, []
        self.revision += 1
        self.check()

    @precondition(lambda self: self.past)
    @rule()
    def undo(self) -> None:
        self.store.undo(self.plan_id, self.revision)
        self.ahead.append(self.now)
        self.now = self.past.pop()
        self.revision += 1
        self.check()

    @precondition(lambda self: self.ahead)
    @rule()
    def redo(self) -> None:
        self.store.redo(self.plan_id, self.revision)
        self.past.append(self.now)
        self.now = self.ahead.pop()
        self.revision += 1
        self.check()

    def check(self) -> None:
        head = self.store.get(self.plan_id)
        assert head.document == {"n": self.now}
        assert (head.can_undo, head.can_redo) == (bool(self.past), bool(self.ahead))

    def teardown(self) -> None:
        self.folder.cleanup()


UndoMachine.TestCase.settings = settings(max_examples=12, stateful_step_count=15, deadline=None)
TestUndoMachine = UndoMachine.TestCase


def test_a_closed_file_is_whole_by_itself(tmp_path: Path) -> None:
    """Copied alone after a stop, without its side files, it has every plan."""
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    made = PlanStore(database).create({"format": "x"}, "begun")
    assert (tmp_path / "plans.sqlite3-wal").stat().st_size > 0
    database.close()
    copy = tmp_path / "copy" / "plans.sqlite3"
    copy.parent.mkdir()
    shutil.copy(tmp_path / "plans.sqlite3", copy)
    other = Database(copy)
    other.open()
    assert PlanStore(other).get(made.plan_id).document == {"format": "x"}
    other.close()


def test_nobody_else_may_read_the_file(tmp_path: Path) -> None:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    PlanStore(database).create({"format": "x"}, "begun")
    modes = {path.name: path.stat().st_mode & 0o777 for path in tmp_path.iterdir()}
    assert set(modes.values()) == {0o600}, modes
    database.close()
