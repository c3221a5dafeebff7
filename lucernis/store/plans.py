"""Plans and their revisions. The one place that writes them; every write is one transaction."""

from __future__ import annotations

import json
import secrets
import sqlite3
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from typing import Any

from lucernis.errors import EditRefused, NotFound, PlanDamaged, StaleRevision
from lucernis.store.database import Database
from lucernis.store.deltas import checksum, delta, rebuilt
from lucernis.store.queries_file import load_queries
from lucernis.store.revisions import Brought, HistoryRow, StoredPlan, encoded

MOST_HISTORY = 100
# A whole document after so many changes at the latest: what reading an old revision has to put together.
WHOLE_EVERY = 40


def _row(row: sqlite3.Row) -> HistoryRow:
    return HistoryRow(row["revision"], row["kind"], row["origin"], row["summary"], row["made_at"], row["name"])


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
        text = row["document"]
        if checksum(text) != row["checksum"]:
            # What stands with the plan reads differently: the history may still have it.
            text = self._text(connection, plan_id, row["revision"])
        before = row["before"]
        if row["origin"] != row["revision"]:
            # An undo or redo shows an older edit; what can be taken back next is what that edit was made on.
            before = self._revision(connection, plan_id, row["origin"])["before"]
        return StoredPlan(
            plan_id=plan_id,
            revision=row["revision"],
            kind=row["kind"],
            origin=row["origin"],
            before=before,
            redo=tuple(json.loads(row["redo"])),
            summary=row["summary"],
            made_at=row["made_at"],
            text=text,
            archived=bool(row["archived"]),
        )

    def _revision(self, connection: sqlite3.Connection, plan_id: str, revision: int) -> sqlite3.Row:
        row: sqlite3.Row | None = connection.execute(
            self._sql["get_revision"], {"plan_id": plan_id, "revision": revision}
        ).fetchone()
        if row is None:
            raise NotFound(f"no revision {revision} of this plan", field="revision", value=revision)
        return row

    def _text(self, connection: sqlite3.Connection, plan_id: str, revision: int) -> str:
        """The document of a revision, rebuilt and held against its checksum."""
        wanted = self._revision(connection, plan_id, revision)["checksum"]
        rows = connection.execute(self._sql["list_contents"], {"plan_id": plan_id, "revision": revision}).fetchall()
        try:
            text = rebuilt(rows[0]["content"], [row["content"] for row in rows[1:]])
        except (ValueError, TypeError, IndexError):
            text = ""
        if checksum(text) != wanted:
            raise PlanDamaged(
                f"revision {revision} of this plan reads otherwise than it was stored",
                field="revision",
                value=revision,
                allowed="an earlier revision of its history, or a backup",
            )
        return text

    def shelf(self, *, archived: bool = False) -> list[StoredPlan | PlanDamaged]:
        """Newest revision of every plan on the shelf, or of those taken off it; one that cannot be read says why, with
        its id as its value."""
        found: list[StoredPlan | PlanDamaged] = []
        with self._database.reading() as connection:
            for row in connection.execute(self._sql["list_plan_ids"], {"archived": int(archived)}).fetchall():
                try:
                    found.append(self._head(connection, row["plan_id"]))
                except (PlanDamaged, NotFound) as error:
                    found.append(PlanDamaged(str(error), field="plan_id", value=row["plan_id"], allowed=error.allowed))
        return found

    def list_plans(self, *, archived: bool = False) -> list[StoredPlan]:
        """Those of the shelf that can be read."""
        return [one for one in self.shelf(archived=archived) if isinstance(one, StoredPlan)]

    def get(self, plan_id: str) -> StoredPlan:
        """Newest revision of a plan.

        Raises
        ------
        NotFound
            If there is no such plan.
        PlanDamaged
            If it reads otherwise than it was stored.
        """
        with self._database.reading() as connection:
            return self._head(connection, plan_id)

    def get_revision(self, plan_id: str, revision: int) -> dict[str, Any]:
        """Document of any revision.

        Raises
        ------
        NotFound
            If there is no such revision.
        PlanDamaged
            If it reads otherwise than it was stored.
        """
        with self._database.reading() as connection:
            document: dict[str, Any] = json.loads(self._text(connection, plan_id, revision))
            return document

    def history(self, plan_id: str, before: int = 1_000_000_001, most: int = MOST_HISTORY) -> list[HistoryRow]:
        """A page of what was done to a plan, newest first: revisions before a number."""
        with self._database.reading() as connection:
            rows = connection.execute(
                self._sql["list_revisions"], {"plan_id": plan_id, "before": before, "most": most}
            ).fetchall()
        if not rows and before > 1_000_000_000:
            raise NotFound(f"no plan {plan_id!r}", field="plan_id", value=plan_id, allowed="the id of a plan here")
        return [_row(row) for row in rows]

    def named(self, plan_id: str) -> list[HistoryRow]:
        """Revisions that have a name, newest first."""
        with self._database.reading() as connection:
            return [_row(row) for row in connection.execute(self._sql["list_named"], {"plan_id": plan_id}).fetchall()]

    def name(self, plan_id: str, revision: int, name: str) -> None:
        """Give a revision a name, or take it back with an empty one.

        Raises
        ------
        NotFound
            If there is no such revision.
        """
        with self._database.writing() as connection:
            self._revision(connection, plan_id, revision)
            which = {"plan_id": plan_id, "revision": revision}
            if name:
                connection.execute(self._sql["insert_name"], which | {"name": name})
            else:
                connection.execute(self._sql["delete_name"], which)

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
        with self._database.writing() as connection:
            plan_id = self._new(connection, encoded(document))
            self._insert(connection, plan_id, 1, "new", 1, None, (), summary, encoded(document), "")
            return self._head(connection, plan_id)

    def bring_in(self, revisions: Sequence[Brought], text: str) -> StoredPlan:
        """Put a plan on the shelf with a history from elsewhere; `text` is its newest document."""
        with self._database.writing() as connection:
            plan_id = self._new(connection, text)
            for one in revisions:
                values = {
                    "plan_id": plan_id, "revision": one.revision, "kind": one.kind, "origin": one.origin,
                    "before": one.before, "redo": one.redo, "summary": one.summary, "made_at": one.made_at,
                    "whole": int(one.whole), "content": one.content, "checksum": one.checksum, "key": None,
                }  # fmt: skip
                connection.execute(self._sql["insert_revision"], values)
                if one.name:
                    which = {"plan_id": plan_id, "revision": one.revision, "name": one.name}
                    connection.execute(self._sql["insert_name"], which)
            newest = {"plan_id": plan_id, "revision": len(revisions), "document": text}
            connection.execute(self._sql["update_head"], newest)
            return self._head(connection, plan_id)

    def _new(self, connection: sqlite3.Connection, text: str) -> str:
        plan_id = secrets.token_hex(6)
        place = connection.execute(self._sql["get_last_place"]).fetchone()["last_place"] + 1
        connection.execute(
            self._sql["insert_plan"],
            {"plan_id": plan_id, "created_at": self._stamp(), "sort_order": place, "document": text},
        )
        return plan_id

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
        text: str,
        text_before: str,
        key: str | None = None,
    ) -> None:
        last_whole = connection.execute(self._sql["get_last_whole"], {"plan_id": plan_id}).fetchone()["revision"] or 0
        change = delta(text_before, text) if last_whole and revision - last_whole < WHOLE_EVERY else None
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
                "whole": int(change is None),
                "content": text if change is None else change,
                "checksum": checksum(text),
                "key": key,
            },
        )

    def _advance(self, connection: sqlite3.Connection, head: StoredPlan, expected: int, text: str) -> int:
        if head.revision != expected:
            raise StaleRevision(
                f"revision {expected} is no longer the newest; it is {head.revision}", current_revision=head.revision
            )
        connection.execute(
            self._sql["update_head"], {"plan_id": head.plan_id, "revision": head.revision + 1, "document": text}
        )
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
            text = encoded(document)
            revision = self._advance(connection, head, expected, text)
            self._insert(
                connection, plan_id, revision, "edit", revision, head.origin, (), summary, text, head.text, key
            )
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
            text = self._text(connection, plan_id, head.before)
            revision = self._advance(connection, head, expected, text)
            undone = self._revision(connection, plan_id, head.origin)
            redo = (*head.redo, head.origin)
            summary = f"Undone: {undone['summary']}"
            self._insert(connection, plan_id, revision, "undo", head.before, None, redo, summary, text, head.text, key)
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
            goal = self._revision(connection, plan_id, head.redo[-1])
            text = self._text(connection, plan_id, head.redo[-1])
            revision = self._advance(connection, head, expected, text)
            summary = f"Redone: {goal['summary']}"
            left = head.redo[:-1]
            self._insert(
                connection, plan_id, revision, "redo", head.redo[-1], None, left, summary, text, head.text, key
            )
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
