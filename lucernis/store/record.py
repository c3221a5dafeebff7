"""The record of what was done to a vehicle: entries beside its plan, only ever added to."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any, Literal, get_args

from lucernis.errors import EditRefused, NotFound
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries

EntryKind = Literal[
    "done", "note", "deviation", "printed", "shelf", "back",
    "reading", "blown", "cause", "recheck", "asbuilt", "setting", "spares", "others", "handed",
]  # fmt: skip
Detail = dict[str, str | float | int | bool | None]
_MOST_FIELDS = 20
MOST_ENTRIES = 100_000


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry. `was` is what the plan said of its subject then, `detail` its figures and names; `takes_back` names
    the entry it undoes; `device` is what it came from, "host" or the name of one that was let in."""

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
    detail: Detail = field(default_factory=dict)
    device: str = ""

    @classmethod
    def read(cls, line: dict[str, Any], number: int) -> Entry:
        """An entry of a job's file.

        Raises
        ------
        ValueError, TypeError, KeyError
            If it is none, or not the one that comes here.
        """
        # Jobs written before an entry had figures or named its device come without them.
        if set(line) | {"detail", "device"} != set(cls.__slots__):
            raise ValueError(f"has {', '.join(sorted(line))[:200]}")
        one = cls(**line)
        check_detail(one.detail)
        texts = (
            (one.subject, 160), (one.was, 4000), (one.text, 1000), (one.who, 60), (one.made_at, 40), (one.device, 60),
        )  # fmt: skip
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


def check_detail(detail: object) -> None:
    """Whether figures of an entry are a few names with texts and numbers.

    Raises
    ------
    ValueError
        If they are not.
    """
    if not isinstance(detail, dict) or len(detail) > _MOST_FIELDS:
        raise ValueError(f"detail: up to {_MOST_FIELDS} names")
    for name, value in detail.items():
        plain = value is None or isinstance(value, bool | int | float | str)
        if not isinstance(name, str) or len(name) > 40 or not plain or (isinstance(value, str) and len(value) > 300):
            raise ValueError("detail: names up to 40 letters, with texts up to 300 or numbers")
        if isinstance(value, float) and not math.isfinite(value):
            raise ValueError("detail: numbers are finite")


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
        detail: Detail | None = None,
        device: str = "",
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
                "detail": json.dumps(detail or {}, ensure_ascii=False),
                "who": who,
                "made_at": made_at or stamp,
                "kept_at": stamp,
                "revision": revision,
                "takes_back": takes_back,
                "device": device,
            }
            connection.execute(self._sql["insert_entry"], values)
        return Entry(
            number, kind, subject, was, text, who, made_at or stamp, stamp, revision, takes_back, key, detail or {},
            device,
        )  # fmt: skip

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

    def list_kind(self, kind: EntryKind) -> list[tuple[str, Entry]]:
        """Standing entries of one kind of every plan, with the plan's id."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_kind"], {"kind": kind}).fetchall()
        return [(row["plan_id"], _entry(row)) for row in rows]

    def bring_in(self, plan_id: str, entries: Sequence[Entry]) -> None:
        """Put the record of a job that was brought in beside its new plan, all or none."""
        with self._database.writing() as connection:
            for one in entries:
                values = {name: getattr(one, name) for name in Entry.__slots__}
                values["detail"] = json.dumps(one.detail, ensure_ascii=False)
                connection.execute(self._sql["insert_entry"], {"plan_id": plan_id, **values})


def _entry(row: Any) -> Entry:
    values = {name: row[name] for name in Entry.__slots__}
    return Entry(**values | {"detail": json.loads(values["detail"])})


def standing(entries: Sequence[Entry]) -> list[Entry]:
    """Entries that no later one takes back, and that take none back themselves."""
    taken = {one.takes_back for one in entries}
    return [one for one in entries if one.kind != "back" and one.number not in taken]
