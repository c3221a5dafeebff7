"""The record of the work: only ever added to, each entry once, taken back by another, carried in a job's zip."""

from __future__ import annotations

import io
import json
import sqlite3
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from lucernis.errors import BadDocument, EditRefused, NotFound
from lucernis.store.database import Database
from lucernis.store.jobs import RECORD_NAME, bring_in, record_in, take_out
from lucernis.store.photos import PhotoStore
from lucernis.store.plans import PlanStore
from lucernis.store.record import Entry, RecordStore, standing

NOW = datetime(2026, 11, 27, 9, 0, tzinfo=UTC)


@pytest.fixture
def database(tmp_path: Path) -> Database:
    found = Database(tmp_path / "plans.sqlite3")
    found.open()
    return found


@pytest.fixture
def plan_id(database: Database) -> str:
    return PlanStore(database).create({"n": 1}, "begun").plan_id


@pytest.fixture
def record(database: Database) -> RecordStore:
    return RecordStore(database, lambda: NOW)


def add(record: RecordStore, plan_id: str, key: str = "key-0001", **fields: Any) -> Entry:
    given: dict[str, Any] = {"kind": "done", "subject": "cut:r1", "was": "as it was", "text": "", "who": "Bea"}
    return record.add(plan_id, key=key, revision=1, **(given | fields))


def test_entries_keep_their_order_and_the_same_key_is_one_entry(record: RecordStore, plan_id: str) -> None:
    first = add(record, plan_id)
    second = add(record, plan_id, "key-0002", kind="note", subject="", text="one lug spare")
    again = add(record, plan_id, who="another")
    assert again == first
    assert record.list_entries(plan_id) == [first, second]
    assert (first.number, second.number, first.made_at) == (1, 2, "2026-11-27T09:00:00+00:00")
    late = add(record, plan_id, "key-0003", made_at="2026-11-26T17:00:00+00:00")
    assert (late.made_at, late.kept_at) == ("2026-11-26T17:00:00+00:00", "2026-11-27T09:00:00+00:00")


def test_an_entry_is_taken_back_once_by_a_further_one(record: RecordStore, plan_id: str) -> None:
    add(record, plan_id)
    back = add(record, plan_id, "key-back", kind="back", subject="", was="", takes_back=1)
    entries = record.list_entries(plan_id)
    assert len(entries) == 2
    assert standing(entries) == []
    with pytest.raises(EditRefused, match="taken back already"):
        add(record, plan_id, "key-back2", kind="back", takes_back=1)
    with pytest.raises(EditRefused, match="taken back already"):
        add(record, plan_id, "key-back3", kind="back", takes_back=back.number)
    with pytest.raises(NotFound, match="no entry 9"):
        add(record, plan_id, "key-back4", kind="back", takes_back=9)
    assert len(record.list_entries(plan_id)) == 2


_REPLACED = (
    "INSERT OR REPLACE INTO record (plan_id, number, key, kind, subject, was, text, who, made_at, kept_at, revision) "
    "SELECT plan_id, number, {key}, kind, subject, was, 'else', 'Zed', made_at, kept_at, revision FROM record"
)


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE record SET who = 'Zed'", "DELETE FROM record", _REPLACED.format(key="key"),
        _REPLACED.format(key="'another-key'"),
    ],
)  # fmt: skip
def test_the_file_itself_refuses_to_change_what_was_noted(
    database: Database, record: RecordStore, plan_id: str, statement: str
) -> None:
    kept = add(record, plan_id)
    with pytest.raises(sqlite3.Error, match="only added to"), database.writing() as connection:
        connection.execute(statement)
    assert record.list_entries(plan_id) == [kept]


def test_the_record_travels_in_the_zip_of_its_job(database: Database, record: RecordStore, plan_id: str) -> None:
    add(record, plan_id)
    add(record, plan_id, "key-back", kind="back", subject="", was="", takes_back=1)
    body = take_out(database, PlanStore(database), PhotoStore(database), record, plan_id)
    new = bring_in(PlanStore(database), body, lambda document: None).plan_id
    record.bring_in(new, record_in(body))
    assert record.list_entries(new) == record.list_entries(plan_id)
    empty = PlanStore(database).create({"n": 1}, "begun").plan_id
    assert record_in(take_out(database, PlanStore(database), PhotoStore(database), record, empty)) == []


def forged(body: bytes, **changed: Any) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(body)) as old, zipfile.ZipFile(out, "w") as new:
        lines = [json.loads(line) for line in old.read(RECORD_NAME).decode().splitlines()]
        lines[1] |= changed
        for name in old.namelist():
            text = "\n".join(json.dumps(line) for line in lines) if name == RECORD_NAME else old.read(name)
            new.writestr(name, text)
    return out.getvalue()


@pytest.mark.parametrize(
    ("changed", "where"),
    [
        ({"number": 7}, "#/record/2"), ({"kind": "lie"}, "#/record/2"), ({"extra": 1}, "#/record/2"),
        ({"who": "x" * 61}, "#/record/2"), ({"who": 3}, "#/record/2"), ({"takes_back": 1}, "#/record/2"),
        ({"kind": "back", "takes_back": 2}, "#/record/2"), ({"revision": 0}, "#/record/2"),
        ({"key": "k"}, "#/record/2"),
        ({"key": "key-0001"}, "#/record"),
    ],
)  # fmt: skip
def test_a_forged_record_is_refused_by_its_line(
    database: Database, record: RecordStore, plan_id: str, changed: dict[str, Any], where: str
) -> None:
    add(record, plan_id)
    add(record, plan_id, "key-0002")
    body = take_out(database, PlanStore(database), PhotoStore(database), record, plan_id)
    assert len(record_in(forged(body))) == 2
    with pytest.raises(BadDocument) as refused:
        record_in(forged(body, **changed))
    assert refused.value.problems[0].pointer == where
