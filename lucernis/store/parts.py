"""Own parts of the library. Plans hold copies of their parts, so nothing here ever changes a plan."""

from __future__ import annotations

import json
import secrets
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from lucernis.errors import EditRefused, NotFound
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries

MOST_PARTS = 5000


@dataclass(frozen=True, slots=True)
class OwnPart:
    """An own part as stored."""

    part_id: str
    name: str
    note: str
    fields: dict[str, Any]


class PartStore:
    """Repository of own parts."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("parts").items()}

    def list_parts(self) -> list[OwnPart]:
        """All own parts by name."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_parts"]).fetchall()
        return [OwnPart(row["part_id"], row["name"], row["note"], json.loads(row["fields"])) for row in rows]

    def insert_parts(self, parts: Sequence[tuple[str, str, dict[str, Any]]]) -> list[OwnPart]:
        """Keep parts given as name, note and fields; all or none.

        Raises
        ------
        EditRefused
            If there would be too many.
        """
        stamp = self._now().astimezone(UTC).isoformat(timespec="seconds")
        made = [OwnPart(secrets.token_hex(6), name, note, fields) for name, note, fields in parts]
        with self._database.writing() as connection:
            held = connection.execute(self._sql["get_part_count"]).fetchone()["parts"]
            if held + len(made) > MOST_PARTS:
                raise EditRefused(
                    f"the library holds {held} own parts",
                    field="parts",
                    value=len(made),
                    allowed=f"{MOST_PARTS} in all",
                )
            for one in made:
                connection.execute(
                    self._sql["insert_part"],
                    {
                        "part_id": one.part_id,
                        "name": one.name,
                        "note": one.note,
                        "fields": json.dumps(one.fields),
                        "made_at": stamp,
                    },
                )
        return made

    def delete_part(self, part_id: str) -> None:
        """Take an own part out.

        Raises
        ------
        NotFound
            If there is none of that id.
        """
        with self._database.writing() as connection:
            if connection.execute(self._sql["delete_part"], {"part_id": part_id}).rowcount == 0:
                raise NotFound(
                    f"no own part {part_id!r}", field="part_id", value=part_id, allowed="the id of an own part"
                )
