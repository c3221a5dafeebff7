"""What a workshop trades by: its shelf, its terms of work, and the quotes it handed out."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from lucernis.errors import NotFound
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries


@dataclass(frozen=True, slots=True)
class StockRow:
    """Something on the shelf: so many of a key, or so many pieces of wire of a length. [m]"""

    key: str
    length_m: float
    count: float
    note: str


@dataclass(frozen=True, slots=True)
class StoredQuote:
    """A quote as it was handed out; its content as JSON."""

    number: str
    plan_id: str
    revision: int
    made_on: str
    valid_until: str
    content: str


class TradeStore:
    """Repository of stock, terms and quotes."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("trade").items()}

    def list_stock(self) -> list[StockRow]:
        """The shelf in its order."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_stock"]).fetchall()
        return [StockRow(row["key"], row["length_m"], row["count"], row["note"]) for row in rows]

    def put_stock(self, rows: Sequence[StockRow]) -> None:
        """Put a shelf in the place of the one before; all or none."""
        with self._database.writing() as connection:
            connection.execute(self._sql["delete_stock"])
            for place, one in enumerate(rows):
                values = {"key": one.key, "length_m": one.length_m, "count": one.count, "note": one.note}
                connection.execute(self._sql["insert_stock"], {"place": place, **values})

    def get_terms(self) -> dict[str, Any]:
        """The terms as they were put; empty where they never were."""
        with self._database.reading() as connection:
            row = connection.execute(self._sql["get_terms"]).fetchone()
        found: dict[str, Any] = json.loads(row["content"]) if row is not None else {}
        return found

    def put_terms(self, terms: dict[str, Any]) -> None:
        """Put terms in the place of those before."""
        with self._database.writing() as connection:
            connection.execute(self._sql["insert_terms"], {"content": json.dumps(terms, ensure_ascii=False)})

    def list_quotes(self, plan_id: str) -> list[StoredQuote]:
        """Quotes of a plan, newest first."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_quotes"], {"plan_id": plan_id}).fetchall()
        return [StoredQuote(**{name: row[name] for name in StoredQuote.__slots__}) for row in rows]

    def get_quote(self, plan_id: str, number: str) -> StoredQuote:
        """One quote.

        Raises
        ------
        NotFound
            If the plan has none of that number.
        """
        found = next((one for one in self.list_quotes(plan_id) if one.number == number), None)
        if found is None:
            raise NotFound(f"no quote {number!r}", field="number", value=number, allowed="a quote of this plan")
        return found

    def keep_quote(self, plan_id: str, revision: int, valid_days: int, content: dict[str, Any]) -> StoredQuote:
        """Keep a quote under the next number of the year; the whole workshop counts in one row."""
        today = self._now().astimezone(UTC).date()
        until = (today + timedelta(days=valid_days)).isoformat()
        with self._database.writing() as connection:
            row = connection.execute(self._sql["get_last_quote"], {"year": f"{today.year}-%"}).fetchone()
            last = int(row["number"].partition("-")[2]) if row["number"] is not None else 0
            found = StoredQuote(
                number=f"{today.year}-{last + 1:04d}",
                plan_id=plan_id,
                revision=revision,
                made_on=today.isoformat(),
                valid_until=until,
                content=json.dumps(content, ensure_ascii=False),
            )
            values = {name: getattr(found, name) for name in StoredQuote.__slots__}
            connection.execute(self._sql["insert_quote"], values)
        return found
