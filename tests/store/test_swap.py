"""A restore is one step: nothing acknowledged is lost, nobody withdrawn comes back, nothing goes into the void."""

from __future__ import annotations

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from lucernis.demo import demo_plan, load_demo
from lucernis.errors import StoreDamaged, StoreReadOnly
from lucernis.plan.document import plan_document
from lucernis.store.backups import EVERY, Backups, Keeper
from lucernis.store.database import Database, migrate, shipped_migrations
from lucernis.store.devices import DeviceStore
from lucernis.store.files import look_into
from lucernis.store.plans import PlanStore
from lucernis.store.record import RecordStore
from tests.store.test_keeping import database, store
from tests.store.test_record import add as added

__all__ = ["database", "store"]


def named(path: Path) -> set[str]:
    with closing(sqlite3.connect(path)) as connection:
        return {row[0] for row in connection.execute("SELECT plan_id FROM plan")}


def test_what_was_acknowledged_before_the_swap_is_in_the_copy_of_it(database: Database, store: PlanStore) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    backups = Backups(database)
    old = backups.make()
    done, stop = list[tuple[str, float]](), threading.Event()

    def keep_on() -> None:
        while not stop.is_set():
            plan_id = store.create(plan_document(demo_plan("plover")), "more").plan_id
            done.append((plan_id, time.monotonic()))

    writers = [threading.Thread(target=keep_on) for _ in range(2)]
    for one in writers:
        one.start()
    while len(done) < 10:
        time.sleep(0.01)
    kept = backups.restore(old.name)
    time.sleep(0.1)
    stop.set()
    for one in writers:
        one.join()
    # Each is in the copy of what was there, or was made after it and is there now.
    before, now = named(backups.folder / kept.name), named(database.path)
    assert {plan_id for plan_id, _ in done} <= before | now
    assert len(now) < len(done)
    assert look_into(database.path).problem == ""


def test_a_withdrawn_device_stays_withdrawn_by_any_way(database: Database, store: PlanStore) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    devices, backups = DeviceStore(database), Backups(database)
    lost, own = devices.let_in("lost phone"), devices.let_in("own phone")
    old = backups.make()
    devices.withdraw(next(one.device_id for one in devices.list_devices() if one.name == "lost phone"))
    backups.restore(old.name)
    assert (devices.known(lost) is None, devices.known(own) is None) == (True, False)
    database.restore_from(backups.folder / old.name)
    assert (devices.known(lost) is None, devices.known(own) is None) == (True, False)
    # Who was let in cannot be read any more: everybody pairs again.
    database.close()
    database.path.write_bytes(b"torn" * 4000)
    database.restore_from(backups.folder / old.name)
    database.open()
    assert (devices.known(lost), devices.known(own)) == (None, None)
    assert len(named(database.path)) == 1


def test_the_record_is_only_added_to_after_a_restore_as_well(database: Database, store: PlanStore) -> None:
    plan_id = store.create(plan_document(demo_plan("plover")), "first").plan_id
    record, backups = RecordStore(database), Backups(database)
    old = backups.make()
    added(record, plan_id, key="key-0001")
    backups.restore(old.name)
    assert record.list_entries(plan_id) == []
    added(record, plan_id, key="key-0002")
    for statement in ("DELETE FROM record", "UPDATE record SET text = 'other'"):
        with pytest.raises(sqlite3.IntegrityError, match="only added to"), database.writing() as connection:
            connection.execute(statement)


def test_a_backup_of_an_older_schema_is_brought_up_first(tmp_path: Path, database: Database, store: PlanStore) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    old = tmp_path / "old.sqlite3"
    with closing(sqlite3.connect(old, isolation_level=None)) as connection:
        migrate(connection, shipped_migrations()[:6])
    assert database.restore_from(old) is not None
    assert named(database.path) == set()
    assert PlanStore(database).create(plan_document(demo_plan("plover")), "again").revision == 1


def test_a_swap_that_fails_changes_nothing(
    database: Database, store: PlanStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    backups = Backups(database)
    old = backups.make()
    plan_id = store.create(plan_document(demo_plan("plover")), "first").plan_id

    def fails(connection: sqlite3.Connection) -> None:
        connection.execute("DELETE FROM card")
        raise sqlite3.DatabaseError("half way")

    monkeypatch.setattr("lucernis.store.database.put_in_place", fails)
    with pytest.raises(StoreDamaged, match="half way"):
        backups.restore(old.name)
    assert named(database.path) == {plan_id}
    assert not [one for one in database.path.parent.iterdir() if "restoring" in one.name]


@pytest.mark.parametrize("what", ["deleted", "moved", "replaced"])
def test_a_file_that_is_not_there_any_more_is_told_and_not_made_anew(
    database: Database, store: PlanStore, what: str
) -> None:
    plan_id = store.create(plan_document(demo_plan("plover")), "first").plan_id
    elsewhere = database.path.with_name("elsewhere.sqlite3")
    if what == "replaced":
        shutil.copyfile(database.path, elsewhere)
        elsewhere.replace(database.path)
    elif what == "moved":
        database.path.rename(elsewhere)
    else:
        database.path.unlink()
    for ask in (lambda: store.create(plan_document(demo_plan("plover")), "void"), lambda: store.get(plan_id)):
        with pytest.raises(StoreDamaged, match="while the program runs"):
            ask()
    assert database.path.exists() == (what == "replaced")


def test_another_programs_file_is_refused_as_it_is(tmp_path: Path) -> None:
    path = tmp_path / "cookbook.sqlite3"
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("CREATE TABLE dish (name TEXT)")
    before = path.read_bytes()
    with pytest.raises(StoreDamaged, match="another program"):
        Database(path).open()
    assert path.read_bytes() == before


def test_what_is_written_inside_a_transaction_belongs_to_it(database: Database, store: PlanStore) -> None:
    def give_up() -> None:
        with database.writing():
            store.create(plan_document(demo_plan("plover")), "never")
            raise RuntimeError("given up")

    with pytest.raises(RuntimeError, match="given up"):
        give_up()
    assert named(database.path) == set()
    with database.writing():
        plan_id = store.create(plan_document(demo_plan("plover")), "kept").plan_id
    assert named(database.path) == {plan_id}


def test_backups_go_on_whatever_the_clock_did(tmp_path: Path) -> None:
    now = [datetime(2031, 1, 1, tzinfo=UTC)]
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    backups = Backups(database, lambda: now[0])
    assert backups.make_if_due() is not None
    # The clock was years ahead and is put right.
    now[0] = datetime(2026, 12, 1, tzinfo=UTC)
    with database.writing() as connection:
        connection.execute("UPDATE plan SET archived = archived")
    assert backups.make_if_due() is not None
    assert backups.make_if_due() is None
    now[0] += EVERY + timedelta(minutes=1)
    assert backups.make_if_due() is None, "nothing has changed"
    record = RecordStore(database)
    added(record, next(iter(named(database.path))), key="key-0001")
    assert backups.make_if_due() is not None, "an entry of the record is a change"


def test_a_stamp_without_a_zone_does_not_end_the_keeper(database: Database, store: PlanStore) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    with database.writing() as connection:
        connection.execute("UPDATE revision SET made_at = '2026-01-01T10:00:00'")
    backups = Backups(database)
    Keeper(backups, pytest.fail).turn()
    assert len(backups.list_backups()) == 1


def test_the_keeper_outlives_whatever_goes_wrong(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    backups, said = Backups(database), list[str]()
    keeper = Keeper(backups, said.append)
    monkeypatch.setattr(backups, "make_if_due", lambda: 1 / 0)
    keeper.turn()
    keeper.turn()
    assert said == ["No backup could be made: division by zero"]


def test_two_backups_at_once_are_both_sound(database: Database, store: PlanStore) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    backups, wrong = Backups(database), list[BaseException]()
    target = database.path.with_name("copy.sqlite3")

    def copy() -> None:
        try:
            database.backup_to(target)
        except BaseException as error:
            wrong.append(error)

    both = [threading.Thread(target=copy) for _ in range(4)]
    for one in both:
        one.start()
    for one in both:
        one.join()
    assert wrong == []
    assert look_into(target).problem == ""
    assert backups.list_backups() == []


def test_what_copies_left_behind_goes_and_all_together_have_a_cap(
    database: Database, store: PlanStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    now = [datetime(2026, 1, 1, tzinfo=UTC)]
    backups = Backups(database, lambda: now[0])
    first = backups.make()
    dead = backups.folder / "20250101-000000-asked.sqlite3.1-2.part"
    young = backups.folder / "20250101-000000-asked.sqlite3.3-4.part"
    for one in (dead, young):
        one.write_bytes(b"x")
    os.utime(dead, (1, 1))
    monkeypatch.setattr("lucernis.store.backups._MOST_TIMES", 3)
    for _ in range(6):
        now[0] += timedelta(days=1)
        backups.make()
    files = {one.name for one in backups.folder.iterdir()}
    assert dead.name not in files
    assert young.name in files
    assert first.name not in files
    assert len(backups.list_backups()) == 3


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_any_stop_leaves_the_file_whole(tmp_path: Path, number: signal.Signals) -> None:
    path = tmp_path / "demo.sqlite3"
    command = [sys.executable, "-m", "lucernis.cli", "demo", "--data", str(path), "--port", "0"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True) as served:
        assert served.stdout is not None
        for line in served.stdout:
            if "Lucernis" in line and "http" in line:
                break
        time.sleep(2)
        served.send_signal(number)
        served.wait(timeout=60)
    alone = tmp_path / "alone.sqlite3"
    shutil.copyfile(path, alone)
    assert len(named(alone)) >= 3


def test_a_backup_of_a_newer_program_changes_nothing(database: Database, store: PlanStore) -> None:
    backups = Backups(database)
    newer = backups.folder / backups.make().name
    with closing(sqlite3.connect(newer)) as connection, connection:
        connection.execute("INSERT INTO migration VALUES ('999_ahead.sql', 'x')")
    plan_id = store.create(plan_document(demo_plan("plover")), "first").plan_id
    with pytest.raises(StoreReadOnly, match="newer Lucernis"):
        backups.restore(newer.name)
    assert named(database.path) == {plan_id}


def test_a_keeper_that_has_ended_is_started_again_and_says_how_it_fares(database: Database, store: PlanStore) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    said = list[str]()
    keeper = Keeper(Backups(database), said.append, every_s=0.01)
    keeper._thread = threading.Thread(target=lambda: None)
    keeper.start()
    keeper._thread.join(5)
    assert keeper.supervise().good_at == ""
    assert said == ["The keeper of backups had ended and was started again"]
    end = time.monotonic() + 20
    while not keeper.supervise().good_at:
        assert time.monotonic() < end
        time.sleep(0.01)
    keeper.stop()
    keeper.supervise()
    assert not keeper._thread.is_alive(), "one that was stopped stays so"
    assert len(said) == 1


def test_what_went_wrong_stands_beside_when_all_was_well_last(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    backups = Backups(database)
    keeper = Keeper(backups, lambda _: None, every_s=3600)
    keeper.turn()
    keeper.start()
    good = keeper.supervise()
    assert good.good_at
    assert good.problem == ""
    monkeypatch.setattr(backups, "make_if_due", lambda: 1 / 0)
    keeper.turn()
    failed = keeper.supervise()
    assert (failed.good_at >= good.good_at, failed.problem) == (True, "division by zero")
    monkeypatch.undo()
    keeper.turn()
    assert keeper.supervise().problem == ""
    keeper.stop()


def test_of_a_day_and_of_a_month_the_newest_stays(database: Database, store: PlanStore) -> None:
    store.create(plan_document(demo_plan("plover")), "first")
    now = [datetime(2026, 1, 31, tzinfo=UTC)]
    backups = Backups(database, lambda: now[0])
    made: list[datetime] = []
    for day in range(70):
        for hour in (7, 19):
            now[0] = datetime(2026, 2, 1, hour, tzinfo=UTC) + timedelta(days=day)
            backups.make("by-itself")
            made.append(now[0])
    stay = set(made[-6:])
    days = {one.date(): one for one in made}
    stay |= set(list(days.values())[-14:])
    stay |= set({(one.year, one.month): one for one in made}.values())
    assert {datetime.fromisoformat(one.made_at) for one in backups.list_backups()} == stay
