"""The record of what was done to a vehicle: entries beside its plan, only ever added to."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal, get_args

from lucernis.errors import EditRefused, NotFound
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries

EntryKind = Literal["done", "note", "deviation", "printed", "shelf", "back"]
MOST_ENTRIES = 100_000


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry. `was` is what the plan said of its subject then; `takes_back` names the entry it undoes."""

    number: int
    kind: EntryKind
    subject: str
    was: str
    text: str
    who: str
    made_at: str
    kept_at: str
    revision: int
    takes_back: int | None
    key: str

    @classmethod
    def read(cls, line: dict[str, Any], number: int) -> Entry:
        """An entry of a job's file.

        Raises
        ------
        ValueError, TypeError, KeyError
            If it is none, or not the one that comes here.
        """
        if set(line) != set(cls.__slots__):
            raise ValueError(f"has {', '.join(sorted(line))[:200]}")
        one = cls(**line)
        texts = ((one.subject, 120), (one.was, 4000), (one.text, 1000), (one.who, 60), (one.made_at, 40))
        if one.number != number or one.kind not in get_args(EntryKind):
            raise ValueError(f"number {one.number!r}, kind {one.kind!r}")
        if any(not isinstance(text, str) or len(text) > most for text, most in (*texts, (one.kept_at, 40))):
            raise ValueError("a text is too long or none")
        if not isinstance(one.key, str) or not 8 <= len(one.key) <= 80:
            raise ValueError("key has 8 to 80 letters")
        if not isinstance(one.revision, int) or not 1 <= one.revision <= 1_000_000_000:
            raise ValueError(f"revision {one.revision!r}")
        back = one.takes_back
        if (one.kind == "back") != (back is not None) or (back is not None and not 1 <= back < number):
            raise ValueError(f"takes back {back!r}")
        return one


class RecordStore:
    """Repository of records."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("record").items()}

    def list_entries(self, plan_id: str) -> list[Entry]:
        """The record of a plan, oldest first."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_entries"], {"plan_id": plan_id}).fetchall()
        return [_entry(row) for row in rows]

    def add(
        self,
        plan_id: str,
        *,
        key: str,
        kind: EntryKind,
        subject: str,
        was: str,
        text: str,
        who: str,
        revision: int,
        made_at: str | None = None,
        takes_back: int | None = None,
    ) -> Entry:
        """Add an entry; the same key again answers with what was kept.

        Raises
        ------
        NotFound
            If it takes back an entry that is not there.
        EditRefused
            If that is taken back already, takes one back itself, or the record is full.
        """
        with self._database.writing() as connection:
            known = connection.execute(self._sql["get_by_key"], {"plan_id": plan_id, "key": key}).fetchone()
            if known is not None:
                return _entry(known)
            number = connection.execute(self._sql["get_last"], {"plan_id": plan_id}).fetchone()["number"] + 1
            if number > MOST_ENTRIES:
                raise EditRefused("the record is full", field="record", value=number, allowed=f"{MOST_ENTRIES} entries")
            if takes_back is not None:
                self._check_back(connection, plan_id, takes_back)
            stamp = self._now().astimezone(UTC).isoformat(timespec="seconds")
            values = {
                "plan_id": plan_id,
                "number": number,
                "key": key,
                "kind": kind,
                "subject": subject,
                "was": was,
                "text": text,
                "who": who,
                "made_at": made_at or stamp,
                "kept_at": stamp,
                "revision": revision,
                "takes_back": takes_back,
            }
            connection.execute(self._sql["insert_entry"], values)
        return Entry(number, kind, subject, was, text, who, made_at or stamp, stamp, revision, takes_back, key)

    def _check_back(self, connection: Any, plan_id: str, number: int) -> None:
        row = connection.execute(self._sql["get_entry"], {"plan_id": plan_id, "number": number}).fetchone()
        if row is None:
            raise NotFound(f"no entry {number}", field="takes_back", value=number, allowed="an entry of this record")
        if row["kind"] == "back" or row["taken_by"] is not None:
            raise EditRefused(
                f"entry {number} is taken back already",
                field="takes_back",
                value=number,
                allowed="an entry that still stands",
            )

    def bring_in(self, plan_id: str, entries: Sequence[Entry]) -> None:
        """Put the record of a job that was brought in beside its new plan, all or none."""
        with self._database.writing() as connection:
            for one in entries:
                values = {name: getattr(one, name) for name in Entry.__slots__}
                connection.execute(self._sql["insert_entry"], {"plan_id": plan_id, **values})


def _entry(row: Any) -> Entry:
    return Entry(**{name: row[name] for name in Entry.__slots__})


def standing(entries: Sequence[Entry]) -> list[Entry]:
    """Entries that no later one takes back, and that take none back themselves."""
    taken = {one.takes_back for one in entries}
    return [one for one in entries if one.kind != "back" and one.number not in taken]
