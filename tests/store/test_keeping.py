"""What keeps plans: deltas and checksums, backups by themselves, side files, full and read-only disks, salvage."""

from __future__ import annotations

import json
import random
import shutil
import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.demo import demo_plan
from lucernis.errors import BadDocument, NotFound, PlanDamaged, StoreDamaged, StoreFull, StoreReadOnly
from lucernis.plan.document import parse_plan, plan_document
from lucernis.store.backups import EVERY, Backups, Keeper
from lucernis.store.database import Database, Migration, shipped_migrations
from lucernis.store.deltas import delta, rebuilt
from lucernis.store.jobs import HISTORY_NAME, bring_in, take_out
from lucernis.store.photos import PhotoStore
from lucernis.store.plans import WHOLE_EVERY, PlanStore
from lucernis.store.record import RecordStore
from lucernis.store.revisions import encoded
from lucernis.store.salvage import salvage


@pytest.fixture
def database(tmp_path: Path) -> Database:
    found = Database(tmp_path / "plans.sqlite3")
    found.open()
    return found


@pytest.fixture
def store(database: Database) -> PlanStore:
    return PlanStore(database)


def spoil(database: Database, statement: str, *values: object) -> None:
    with closing(sqlite3.connect(database.path)) as connection, connection:
        assert connection.execute(statement, values).rowcount


def edited(store: PlanStore, times: int, seed: int = 1) -> tuple[str, list[dict[str, Any]]]:
    """Heron with so many edits: a length here, a load there; and every document as it was."""
    rng, document = random.Random(seed), plan_document(demo_plan("heron"))
    plan_id, past = store.create(document, "begun").plan_id, [json.loads(json.dumps(document))]
    for number in range(times):
        if number % 7 == 3:
            load = dict(document["parts"][-1], id=f"x{number}", tag=f"X{number}")
            document["parts"].append(load)
        elif number % 11 == 5:
            del document["parts"][-1]
        else:
            rng.choice(document["runs"])["length_m"] = round(rng.uniform(0.5, 6), 2)
            document["job"]["customer"] = f"customer {number}"
        store.edit(plan_id, number + 1, document, f"edit {number}")
        past.append(json.loads(json.dumps(document)))
    return plan_id, past


def test_every_revision_is_rebuilt_as_it_was(store: PlanStore) -> None:
    plan_id, past = edited(store, 2 * WHOLE_EVERY + 5)
    for number, document in enumerate(past, start=1):
        assert store.get_revision(plan_id, number) == document
    assert store.get(plan_id).document == past[-1]


def test_a_revision_takes_a_tenth_of_its_document_on_the_mean(database: Database, store: PlanStore) -> None:
    plan_id, past = edited(store, 2 * WHOLE_EVERY)
    with database.reading() as connection:
        held = connection.execute(
            "SELECT sum(length(content) + length(summary) + length(checksum) + 60) FROM revision WHERE plan_id = ?",
            (plan_id,),
        ).fetchone()[0]
    assert held / len(past) < len(encoded(past[0])) / 10


_ITEMS = st.lists(st.fixed_dictionaries({"id": st.integers(0, 9), "t": st.text(max_size=6)}), max_size=8)


@settings(max_examples=150, deadline=None)
@given(before=_ITEMS, after=_ITEMS)
def test_a_delta_leads_from_one_text_to_the_other(before: list[Any], after: list[Any]) -> None:
    # A long tail in common, so that what changed is worth a delta.
    tail = [{"id": at, "t": "same"} for at in range(200)]
    one, other = encoded({"a": before, "b": tail}), encoded({"a": after, "b": tail})
    change = delta(one, other)
    assert change is not None
    assert rebuilt(one, [change]) == other


def test_a_delta_that_is_no_less_than_the_text_is_none() -> None:
    assert delta('{"a":1}', '{"b":2}') is None


def test_a_spoilt_revision_is_noticed_and_others_are_not_concerned(database: Database, store: PlanStore) -> None:
    plan_id, past = edited(store, 6)
    other = store.create({"n": 1}, "other").plan_id
    spoil(database, "UPDATE revision SET content = replace(content, 'customer 2', 'customer 9') WHERE revision = 4")
    with pytest.raises(PlanDamaged, match="revision 4 of this plan reads otherwise"):
        store.get_revision(plan_id, 4)
    assert store.get_revision(plan_id, 3) == past[2]
    # The newest stands with its plan, whatever the history has lost.
    assert store.get(plan_id).document == past[-1]
    assert store.get(other).document == {"n": 1}


def test_a_spoilt_newest_document_is_taken_from_the_history(database: Database, store: PlanStore) -> None:
    plan_id, past = edited(store, 4)
    spoil(database, "UPDATE plan SET document = '{}'")
    assert store.get(plan_id).document == past[-1]


def test_a_plan_lost_both_ways_is_one_card_that_says_so(database: Database, store: PlanStore) -> None:
    plan_id = store.create({"n": 1}, "one").plan_id
    store.create({"n": 2}, "two")
    spoil(database, "UPDATE plan SET document = '{}' WHERE plan_id = ?", plan_id)
    spoil(database, "UPDATE revision SET content = '[]' WHERE plan_id = ?", plan_id)
    shelf = store.shelf()
    assert isinstance(shelf[0], PlanDamaged)
    assert shelf[0].value == plan_id
    assert [one.document for one in store.list_plans()] == [{"n": 2}]


def test_history_comes_in_pages_and_names_stay(store: PlanStore) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    for number in range(1, 8):
        store.edit(plan_id, number, {"n": number}, f"edit {number}")
    store.name(plan_id, 3, "as quoted")
    assert [row.revision for row in store.history(plan_id, most=3)] == [8, 7, 6]
    assert [row.revision for row in store.history(plan_id, before=6, most=3)] == [5, 4, 3]
    assert store.history(plan_id, before=1) == []
    assert [(row.revision, row.name) for row in store.named(plan_id)] == [(3, "as quoted")]
    store.name(plan_id, 3, "as built")
    assert [row.name for row in store.named(plan_id)] == ["as built"]
    store.name(plan_id, 3, "")
    assert store.named(plan_id) == []
    with pytest.raises(NotFound):
        store.name(plan_id, 99, "x")


def test_an_older_file_is_brought_up_with_its_history_and_a_backup_before(tmp_path: Path) -> None:
    path = tmp_path / "plans.sqlite3"
    old = [step for step in shipped_migrations() if step.name < "006"]
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        from lucernis.store.database import migrate

        migrate(connection, old)
        connection.execute("INSERT INTO plan (plan_id, revision, created_at, sort_order) VALUES ('p', 2, 'x', 1)")
        for number in (1, 2):
            connection.execute(
                "INSERT INTO revision (plan_id, revision, kind, origin, before, redo, summary, made_at, document)"
                " VALUES ('p', ?, ?, ?, ?, '[]', 's', '2026-01-01T00:00:00+00:00', ?)",
                (number, "new" if number == 1 else "edit", number, number - 1 or None, f'{{"n":{number}}}'),
            )
    database = Database(path)
    backups = Backups(database)
    made: list[str] = []
    database.open(lambda: made.append(backups.make("before-schema").name))
    store = PlanStore(database)
    assert store.get("p").document == {"n": 2}
    assert store.get_revision("p", 1) == {"n": 1}
    assert store.undo("p", 2).document == {"n": 1}
    assert [one.why for one in backups.list_backups()] == ["before-schema"]
    assert made


def test_backups_are_made_when_due_verified_and_rotated(database: Database, store: PlanStore) -> None:
    now = [datetime(2026, 3, 1, 8, tzinfo=UTC)]
    backups = Backups(database, now=lambda: now[0])
    assert backups.make_if_due() is None, "an empty file is worth none"
    clocked = PlanStore(database, now=lambda: now[0])
    plan_id = clocked.create({"n": 0}, "begun").plan_id
    now[0] += timedelta(minutes=1)
    first = backups.make_if_due()
    assert first is not None
    assert (first.plans, first.problem) == (1, "")
    now[0] += EVERY * 2
    assert backups.make_if_due() is None, "nothing has changed since"
    for number in range(1, 200):
        clocked.edit(plan_id, number, {"n": number}, "edit")
        now[0] += EVERY / 2
        early = backups.make_if_due()
        now[0] += EVERY
        assert backups.make_if_due() is not None or early is not None
    kept = backups.list_backups()
    assert 6 <= len(kept) <= 6 + 14 + 12
    days = {one.made_at[:10] for one in kept}
    assert len(days) >= 14
    assert all(path.stat().st_mode & 0o077 == 0 for path in backups.folder.iterdir())


def test_restoring_keeps_a_backup_of_what_was_there(database: Database, store: PlanStore) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    backups = Backups(database)
    made = backups.make()
    store.edit(plan_id, 1, {"n": 1}, "later")
    before = backups.restore(made.name)
    assert store.get(plan_id).document == {"n": 0}
    assert before.why == "before-restore"
    backups.restore(before.name)
    assert store.get(plan_id).document == {"n": 1}
    with pytest.raises(NotFound):
        backups.restore("../plans.sqlite3")


def test_the_oldest_backup_can_be_brought_back(database: Database, store: PlanStore) -> None:
    """Making the one before a restore must not let the very one go that is asked for."""
    plan_id = store.create({"n": 0}, "begun").plan_id
    backups = Backups(database)
    names = [backups.make("before-restore").name]
    store.edit(plan_id, 1, {"n": 1}, "later")
    names += [backups.make("before-restore").name for _ in range(9)]
    backups.restore(names[0])
    assert store.get(plan_id).document == {"n": 0}
    kept = {one.name for one in backups.list_backups()}
    assert len(kept) == 10
    assert names[0] not in kept


def test_a_restore_while_others_read_and_write(database: Database, store: PlanStore) -> None:
    from concurrent.futures import ThreadPoolExecutor

    plan_id = store.create({"n": 0}, "begun").plan_id
    made = Backups(database).make()

    def read(_: int) -> int:
        return int(store.get(plan_id).document["n"])

    def write(number: int) -> None:
        store.create({"n": number}, "another")

    with ThreadPoolExecutor(6) as pool:
        reads, writes = pool.map(read, range(60)), pool.map(write, range(20))
        Backups(database).restore(made.name)
        assert set(reads) == {0}
        list(writes)
    assert store.get(plan_id).document == {"n": 0}


def test_a_spoilt_backup_says_so_and_is_not_brought_back(database: Database, store: PlanStore) -> None:
    plan_id = store.create({"n": 0, "pad": "x" * 50_000}, "begun").plan_id
    backups = Backups(database)
    path = backups.folder / backups.make().name
    body = bytearray(path.read_bytes())
    body[8192:12288] = b"\xff" * 4096
    path.write_bytes(body)
    assert backups.list_backups()[0].problem
    with pytest.raises(StoreDamaged, match="not a sound backup"):
        backups.restore(path.name)
    assert store.get(plan_id).document["n"] == 0


def test_backup_and_restore_of_the_file_itself_are_refused(database: Database) -> None:
    with pytest.raises(StoreDamaged, match="is the data file itself"):
        database.backup_to(database.path)
    with pytest.raises(StoreDamaged, match="is the data file itself"):
        database.restore_from(database.path)


def test_the_keeper_folds_and_tells_what_goes_wrong_once(database: Database, store: PlanStore) -> None:
    store.create({"n": 0, "pad": "y" * 20_000}, "begun")
    told: list[str] = []
    backups = Backups(database)
    keeper = Keeper(backups, told.append)
    # A file where the folder should be: no backup can be made.
    backups.folder.write_text("in the way")
    keeper.turn()
    keeper.turn()
    assert len(told) == 1
    assert "No backup could be made" in told[0]
    backups.folder.unlink()
    keeper.turn()
    assert len(backups.list_backups()) == 1
    copy = database.path.with_name("copy.sqlite3")
    shutil.copy(database.path, copy)
    with closing(sqlite3.connect(copy)) as connection:
        assert connection.execute("SELECT count(*) FROM plan").fetchone()[0] == 1, "the file alone has it"


def test_a_side_file_without_its_data_file_is_told(database: Database, store: PlanStore) -> None:
    store.create({"n": 0}, "begun")
    path = database.path
    elsewhere = path.with_name("elsewhere")
    elsewhere.mkdir()
    shutil.copy(path.with_name(path.name + "-wal"), elsewhere / "plans.sqlite3-wal")
    with pytest.raises(StoreDamaged, match=r"is missing or empty, but plans\.sqlite3-wal"):
        Database(elsewhere / "plans.sqlite3").open()
    assert (elsewhere / "plans.sqlite3-wal").stat().st_size > 0


def test_a_side_file_of_another_file_is_told(tmp_path: Path) -> None:
    def filled(name: str, plans: int) -> Database:
        one = Database(tmp_path / name)
        one.open()
        for number in range(plans):
            PlanStore(one).create({"n": number, "pad": "z" * 9000}, "x")
        one.close()
        return one

    big, small = filled("big.sqlite3", 40), filled("small.sqlite3", 1)
    big.open()
    PlanStore(big).create({"n": 99}, "the side file has these pages alone")
    folder = tmp_path / "mixed"
    folder.mkdir()
    shutil.copy(small.path, folder / "plans.sqlite3")
    shutil.copy(big.path.with_name("big.sqlite3-wal"), folder / "plans.sqlite3-wal")
    before = [(one.name, one.read_bytes()) for one in sorted(folder.iterdir())]
    with pytest.raises(StoreDamaged, match="does not belong to"):
        Database(folder / "plans.sqlite3").open()
    assert [(one.name, one.read_bytes()) for one in sorted(folder.iterdir())] == before
    # Its own side file beside it, as after a crash, is nothing odd.
    shutil.copy(big.path, folder / "plans.sqlite3")
    crashed = Database(folder / "plans.sqlite3")
    crashed.open()
    assert len(PlanStore(crashed).list_plans()) == 41


def test_a_file_without_plans_beside_backups_with_some_is_told(tmp_path: Path) -> None:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    PlanStore(database).create({"n": 0}, "begun")
    backups = Backups(database)
    backups.make()
    assert backups.missing_plans() == ""
    database.close()
    database.path.unlink()
    fresh = Database(tmp_path / "plans.sqlite3")
    fresh.open()
    assert "holds no plans, but the backup of" in Backups(fresh).missing_plans()


def test_a_full_disk_names_itself_and_nothing_is_stored(
    database: Database, store: PlanStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    connect = Database._connect

    def narrow(self: Database, *, read_only: bool = False) -> sqlite3.Connection:
        connection = connect(self, read_only=read_only)
        if not read_only:
            pages = connection.execute("PRAGMA page_count").fetchone()[0]
            connection.execute(f"PRAGMA max_page_count = {pages}")
        return connection

    with monkeypatch.context() as full:
        full.setattr(Database, "_connect", narrow)
        with pytest.raises(StoreFull, match=r"is full; nothing was stored\. Make room"):
            store.edit(plan_id, 1, {"n": 1, "pad": "x" * 200_000}, "large")
    assert store.get(plan_id).document == {"n": 0}
    assert store.edit(plan_id, 1, {"n": 2}, "small").revision == 2


def test_a_read_only_file_is_opened_for_reading_and_says_so(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    plan_id = PlanStore(database).create({"n": 0}, "begun").plan_id
    database.close()
    # Whoever runs this as root may write everywhere: the system is asked instead.
    monkeypatch.setattr("lucernis.store.database.os.access", lambda *_: False)
    shut = Database(tmp_path / "plans.sqlite3")
    shut.open()
    assert "may not be written" in shut.read_only
    store = PlanStore(shut)
    assert store.get(plan_id).document == {"n": 0}
    with pytest.raises(StoreReadOnly, match="Give the program the right"):
        store.edit(plan_id, 1, {"n": 1}, "no")
    assert store.get(plan_id).revision == 1


def test_a_newer_schema_opens_for_reading_only(database: Database, store: PlanStore) -> None:
    plan_id = store.create({"n": 0}, "begun").plan_id
    step = Migration("999_future.sql", "")
    spoil(database, "INSERT INTO migration (name, checksum) VALUES (?, ?)", step.name, step.checksum)
    database.close()
    later = Database(database.path)
    assert later.open() == []
    assert "made by a newer Lucernis (999_future)" in later.read_only
    assert PlanStore(later).get(plan_id).document == {"n": 0}
    with pytest.raises(StoreReadOnly, match="Update the program"):
        PlanStore(later).create({"n": 1}, "no")
    made = Backups(later).make()
    with pytest.raises(StoreReadOnly, match="Update the program"):
        Backups(later).restore(made.name)


def test_salvage_saves_plan_by_plan(database: Database, store: PlanStore, tmp_path: Path) -> None:
    for number in range(30):
        store.create({"format": "x", "n": number, "pad": "p" * 6000}, "begun")
    database.close()
    body = bytearray(database.path.read_bytes())
    for at in range(70 * 4096, 82 * 4096):
        body[at] = 0xA5
    database.path.write_bytes(body)
    with pytest.raises(StoreDamaged, match="--salvage"):
        Database(database.path).open()
    saved = salvage(database.path, tmp_path / "saved")
    assert 10 <= len(saved) < 30
    for one in saved:
        document = json.loads(one.path.read_text(encoding="utf-8"))
        assert document["pad"] == "p" * 6000
    assert salvage(tmp_path / "missing", tmp_path / "none") == []


def test_a_job_is_carried_elsewhere_with_its_history(database: Database, store: PlanStore, tmp_path: Path) -> None:
    plan_id, past = edited(store, WHOLE_EVERY + 3)
    store.name(plan_id, 2, "as quoted")
    store.undo(plan_id, len(past))
    body = take_out(database, store, PhotoStore(database), RecordStore(database), plan_id)
    other = Database(tmp_path / "other.sqlite3")
    other.open()
    there = PlanStore(other)
    brought = bring_in(there, body, lambda document: None)
    assert brought.document == past[-2]
    assert [(row.revision, row.name) for row in there.named(brought.plan_id)] == [(2, "as quoted")]
    assert [there.get_revision(brought.plan_id, number) for number in range(1, len(past) + 1)] == past
    assert there.redo(brought.plan_id, brought.revision).document == past[-1]


def _zip(**members: str) -> bytes:
    import io
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for name, text in members.items():
            file.writestr(name, text)
    return out.getvalue()


@pytest.mark.parametrize(
    ("body", "told"),
    [
        (b"nothing", "not a zip"),
        (b"", "not a zip"),
        (_zip(other="x"), "is missing in the zip"),
        (_zip(**{HISTORY_NAME: ""}), "1 to 20000 lines"),
        (_zip(**{HISTORY_NAME: "{}\n"}), "cannot be read"),
        (_zip(**{HISTORY_NAME: "[" * 100_000}), "cannot be read"),
        (_zip(**{HISTORY_NAME: "null\n"}), "cannot be read"),
    ],
)
def test_what_is_no_job_is_refused(store: PlanStore, body: bytes, told: str) -> None:
    with pytest.raises(BadDocument) as caught:
        bring_in(store, body, lambda document: None)
    assert told in caught.value.problems[0].detail
    assert store.list_plans() == []


def test_a_job_with_a_forged_revision_or_no_plan_in_it_is_refused(database: Database, store: PlanStore) -> None:
    import io
    import zipfile

    plan_id, _ = edited(store, 3)
    with zipfile.ZipFile(
        io.BytesIO(take_out(database, store, PhotoStore(database), RecordStore(database), plan_id))
    ) as file:
        lines = file.read(HISTORY_NAME).decode().splitlines()
    one = json.loads(lines[2])
    one["content"] = one["content"].replace("customer", "forger")
    forged = _zip(**{HISTORY_NAME: "\n".join([*lines[:2], json.dumps(one), *lines[3:]])})
    with pytest.raises(BadDocument) as caught:
        bring_in(store, forged, lambda document: None)
    assert caught.value.problems[0].pointer == "#/history/3"
    other = store.create({"n": 1}, "no plan").plan_id
    with pytest.raises(BadDocument):
        bring_in(store, take_out(database, store, PhotoStore(database), RecordStore(database), other), parse_plan)
    assert len(store.list_plans()) == 2
