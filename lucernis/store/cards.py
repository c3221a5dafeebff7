"""What the shelf shows of each plan, kept with what it was computed from; a loss costs time and nothing else."""

from __future__ import annotations

from lucernis.errors import StoreFull, StoreReadOnly
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries


class CardStore:
    """Repository of shelf cards."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._sql = {name: query.sql for name, query in load_queries("cards").items()}

    def list_cards(self) -> dict[str, tuple[str, str]]:
        """Plan id to what its card was made from, and the card as JSON."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_cards"]).fetchall()
        return {row["plan_id"]: (row["made_from"], row["content"]) for row in rows}

    def insert_card(self, plan_id: str, made_from: str, content: str) -> None:
        """Keep a card. Where nothing can be stored it is computed again the next time."""
        try:
            with self._database.writing() as connection:
                connection.execute(
                    self._sql["insert_card"], {"plan_id": plan_id, "made_from": made_from, "content": content}
                )
        except (StoreFull, StoreReadOnly):
            return
