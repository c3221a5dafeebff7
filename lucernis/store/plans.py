"""Plans and their revisions. The one place that writes them; every write is one transaction."""

from __future__ import annotations

import json
import secrets
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cached_property
from typing import Any

from lucernis.errors import EditRefused, NotFound, StaleRevision
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries

MOST_HISTORY = 500


@dataclass(frozen=True)
class StoredPlan:
    """A revision of a plan as stored; its document is decoded when it is first asked for."""

    plan_id: str
    revision: int
    kind: str
    origin: int
    before: int | None
    redo: tuple[int, ...]
    summary: str
    made_at: str
    text: str
    archived: bool

    @cached_property
    def document(self) -> dict[str, Any]:
        """The plan document."""
        found: dict[str, Any] = json.loads(self.text)
        return found

    @property
    def can_undo(self) -> bool:
        """Whether there is an edit to take back."""
        return self.before is not None

    @property
    def can_redo(self) -> bool:
        """Whether something was taken back and not edited over."""
        return bool(self.redo)


@dataclass(frozen=True, slots=True)
class HistoryRow:
    """One line of a plan's history."""

    revision: int
    kind: str
    origin: int
    summary: str
    made_at: str


def _stored(row: sqlite3.Row, before: int | None, archived: bool) -> StoredPlan:
    return StoredPlan(
        plan_id=row["plan_id"],
        revision=row["revision"],
        kind=row["kind"],
        origin=row["origin"],
        before=before,
        redo=tuple(json.loads(row["redo"])),
        summary=row["summary"],
        made_at=row["made_at"],
        text=row["document"],
        archived=archived,
    )


class PlanStore:
    """Repository of plans."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("plans").items()}

    def _stamp(self) -> str:
        return self._now().astimezone(UTC).isoformat(timespec="seconds")

    def _head(self, connection: sqlite3.Connection, plan_id: str) -> StoredPlan:
        row = connection.execute(self._sql["get_head"], {"plan_id": plan_id}).fetchone()
        if row is None:
            raise NotFound(f"no plan {plan_id!r}", field="plan_id", value=plan_id, allowed="the id of a plan here")
        before = row["before"]
        if row["origin"] != row["revision"]:
            # An undo or redo shows an older edit; what can be taken back next is what that edit was made on.
            before = self._revision(connection, plan_id, row["origin"])["before"]
        return _stored(row, before, bool(row["archived"]))

    def _revision(self, connection: sqlite3.Connection, plan_id: str, revision: int) -> sqlite3.Row:
        row: sqlite3.Row | None = connection.execute(
            self._sql["get_revision"], {"plan_id": plan_id, "revision": revision}
        ).fetchone()
        if row is None:
            raise NotFound(f"no revision {revision} of this plan", field="revision", value=revision)
        return row

    def list_plans(self, *, archived: bool = False) -> list[StoredPlan]:
        """Newest revision of every plan on the shelf, or of those taken off it."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_plans"], {"archived": int(archived)}).fetchall()
            return [self._head(connection, row["plan_id"]) for row in rows]

    def get(self, plan_id: str) -> StoredPlan:
        """Newest revision of a plan.

        Raises
        ------
        NotFound
            If there is no such plan.
        """
        with self._database.reading() as connection:
            return self._head(connection, plan_id)

    def get_revision(self, plan_id: str, revision: int) -> dict[str, Any]:
        """Document of any revision.

        Raises
        ------
        NotFound
            If there is no such revision.
        """
        with self._database.reading() as connection:
            document: dict[str, Any] = json.loads(self._revision(connection, plan_id, revision)["document"])
            return document

    def history(self, plan_id: str) -> list[HistoryRow]:
        """What was done to a plan, newest first."""
        with self._database.reading() as connection:
            self._head(connection, plan_id)
            rows = connection.execute(self._sql["list_revisions"], {"plan_id": plan_id, "most": MOST_HISTORY})
            return [HistoryRow(r["revision"], r["kind"], r["origin"], r["summary"], r["made_at"]) for r in rows]

    def create(self, document: dict[str, Any], summary: str) -> StoredPlan:
        """Put a new plan on the shelf.

        Parameters
        ----------
        document : dict
            A validated plan document.
        summary : str
            Line for the history.

        Returns
        -------
        StoredPlan
            Revision 1.
        """
        plan_id = secrets.token_hex(6)
        with self._database.writing() as connection:
            place = connection.execute(self._sql["get_last_place"]).fetchone()["last_place"] + 1
            connection.execute(
                self._sql["insert_plan"], {"plan_id": plan_id, "created_at": self._stamp(), "sort_order": place}
            )
            self._insert(connection, plan_id, 1, "new", 1, None, (), summary, document)
            return self._head(connection, plan_id)

    def _insert(
        self,
        connection: sqlite3.Connection,
        plan_id: str,
        revision: int,
        kind: str,
        origin: int,
        before: int | None,
        redo: tuple[int, ...],
        summary: str,
        document: dict[str, Any],
        key: str | None = None,
    ) -> None:
        connection.execute(
            self._sql["insert_revision"],
            {
                "plan_id": plan_id,
                "revision": revision,
                "kind": kind,
                "origin": origin,
                "before": before,
                "redo": json.dumps(redo),
                "summary": summary,
                "made_at": self._stamp(),
                "document": json.dumps(document, separators=(",", ":"), ensure_ascii=False),
                "key": key,
            },
        )

    def _advance(self, connection: sqlite3.Connection, head: StoredPlan, expected: int) -> int:
        if head.revision != expected:
            raise StaleRevision(
                f"revision {expected} is no longer the newest; it is {head.revision}", current_revision=head.revision
            )
        connection.execute(self._sql["update_head"], {"plan_id": head.plan_id, "revision": head.revision + 1})
        return head.revision + 1

    def _made(self, connection: sqlite3.Connection, plan_id: str, key: str | None) -> bool:
        found = connection.execute(self._sql["get_by_key"], {"plan_id": plan_id, "key": key})
        return key is not None and found.fetchone() is not None

    def has_made(self, plan_id: str, key: str | None) -> bool:
        """Whether a change with this key has made a revision already."""
        with self._database.reading() as connection:
            return self._made(connection, plan_id, key)

    def edit(
        self, plan_id: str, expected: int, document: dict[str, Any], summary: str, key: str | None = None
    ) -> StoredPlan:
        """Store the outcome of an edit as a new revision.

        An edit whose `key` has made a revision already is not stored again.

        Raises
        ------
        StaleRevision
            If `expected` is not the newest revision.
        NotFound
            If there is no such plan.
        """
        with self._database.writing() as connection:
            head = self._head(connection, plan_id)
            if self._made(connection, plan_id, key):
                return head
            revision = self._advance(connection, head, expected)
            self._insert(connection, plan_id, revision, "edit", revision, head.origin, (), summary, document, key)
            return self._head(connection, plan_id)

    def undo(self, plan_id: str, expected: int, key: str | None = None) -> StoredPlan:
        """Go back before the last edit, as a new revision.

        Raises
        ------
        EditRefused
            If there is nothing to undo.
        StaleRevision
            If `expected` is not the newest revision.
        """
        with self._database.writing() as connection:
            head = self._head(connection, plan_id)
            if self._made(connection, plan_id, key):
                return head
            if head.before is None:
                raise EditRefused("nothing to undo", field="undo", allowed="a plan with an edit")
            revision = self._advance(connection, head, expected)
            undone = self._revision(connection, plan_id, head.origin)
            goal = self._revision(connection, plan_id, head.before)
            redo = (*head.redo, head.origin)
            summary = f"Undone: {undone['summary']}"
            document = json.loads(goal["document"])
            self._insert(connection, plan_id, revision, "undo", head.before, None, redo, summary, document, key)
            return self._head(connection, plan_id)

    def redo(self, plan_id: str, expected: int, key: str | None = None) -> StoredPlan:
        """Do again what was last undone, as a new revision.

        Raises
        ------
        EditRefused
            If there is nothing to redo.
        StaleRevision
            If `expected` is not the newest revision.
        """
        with self._database.writing() as connection:
            head = self._head(connection, plan_id)
            if self._made(connection, plan_id, key):
                return head
            if not head.redo:
                raise EditRefused("nothing to redo", field="redo", allowed="a plan with something undone")
            revision = self._advance(connection, head, expected)
            goal = self._revision(connection, plan_id, head.redo[-1])
            document = json.loads(goal["document"])
            summary = f"Redone: {goal['summary']}"
            left = head.redo[:-1]
            self._insert(connection, plan_id, revision, "redo", head.redo[-1], None, left, summary, document, key)
            return self._head(connection, plan_id)

    def archive(self, plan_id: str, *, archived: bool) -> None:
        """Take a plan off the shelf or put it back; nothing is deleted.

        Raises
        ------
        NotFound
            If there is no such plan.
        """
        with self._database.writing() as connection:
            self._head(connection, plan_id)
            connection.execute(self._sql["update_archived"], {"plan_id": plan_id, "archived": int(archived)})
