"""What the workshop keeps beside its plans: its price list, and weather files."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from lucernis.errors import EditRefused, NotFound
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries

MOST_WEATHER = 50


@dataclass(frozen=True, slots=True)
class PriceRow:
    """One line of the price list as stored."""

    key: str
    label: str
    unit: str
    price: float
    note: str
    supplier: str
    currency: str


class WorkshopStore:
    """Repository of prices and weather files."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("workshop").items()}

    def list_prices(self) -> list[PriceRow]:
        """The price list in its order."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_prices"]).fetchall()
        return [PriceRow(**{name: row[name] for name in PriceRow.__slots__}) for row in rows]

    def put_prices(self, prices: Sequence[PriceRow]) -> None:
        """Put a list in the place of the one before; all or none."""
        with self._database.writing() as connection:
            connection.execute(self._sql["delete_prices"])
            for place, one in enumerate(prices):
                connection.execute(
                    self._sql["insert_price"],
                    {
                        "key": one.key,
                        "place": place,
                        "label": one.label,
                        "unit": one.unit,
                        "price": one.price,
                        "note": one.note,
                        "supplier": one.supplier,
                        "currency": one.currency,
                    },
                )

    def list_consumers(self) -> list[str]:
        """Rows of the workshop's own consumers, their head first; none where there are none."""
        with self._database.reading() as connection:
            return [row["row"] for row in connection.execute(self._sql["list_consumers"]).fetchall()]

    def put_consumers(self, rows: Sequence[str]) -> None:
        """Put a list in the place of the one before; all or none."""
        with self._database.writing() as connection:
            connection.execute(self._sql["delete_consumers"])
            for place, row in enumerate(rows):
                connection.execute(self._sql["insert_consumer"], {"place": place, "row": row})

    def list_weather(self) -> list[str]:
        """Names of the weather files."""
        with self._database.reading() as connection:
            return [row["name"] for row in connection.execute(self._sql["list_weather"]).fetchall()]

    def get_weather(self, name: str) -> str:
        """A weather file as it came.

        Raises
        ------
        NotFound
            If there is none of that name.
        """
        with self._database.reading() as connection:
            row = connection.execute(self._sql["get_weather"], {"name": name}).fetchone()
        if row is None:
            raise NotFound(
                f"no weather file {name!r}", field="weather", value=name, allowed="a file that was brought in"
            )
        content: str = row["content"]
        return content

    def insert_weather(self, name: str, content: str) -> None:
        """Keep a weather file.

        Raises
        ------
        EditRefused
            If there would be too many.
        """
        stamp = self._now().astimezone(UTC).isoformat(timespec="seconds")
        with self._database.writing() as connection:
            held = connection.execute(self._sql["get_weather_count"]).fetchone()["files"]
            if held >= MOST_WEATHER:
                raise EditRefused(
                    f"{held} weather files are kept", field="weather", value=name, allowed=f"{MOST_WEATHER} in all"
                )
            connection.execute(self._sql["insert_weather"], {"name": name, "content": content, "made_at": stamp})

    def delete_weather(self, name: str) -> None:
        """Take a weather file out.

        Raises
        ------
        NotFound
            If there is none of that name.
        """
        with self._database.writing() as connection:
            if connection.execute(self._sql["delete_weather"], {"name": name}).rowcount == 0:
                raise NotFound(
                    f"no weather file {name!r}", field="weather", value=name, allowed="a file that was brought in"
                )
