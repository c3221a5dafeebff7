"""Prices and weather files in the database."""

from __future__ import annotations

from pathlib import Path

import pytest

from lucernis.demo import demo_prices, load_demo_prices
from lucernis.errors import EditRefused, NotFound
from lucernis.plan.prices import price_rows, read_prices
from lucernis.store import workshop
from lucernis.store.database import Database
from lucernis.store.workshop import PriceRow, WorkshopStore


@pytest.fixture
def store(tmp_path: Path) -> WorkshopStore:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    return WorkshopStore(database)


def test_prices_are_replaced_as_a_whole_and_keep_their_order(store: WorkshopStore) -> None:
    rows = [PriceRow("wire", "Wire", "mm²·m", 0.2, "", "", ""), PriceRow("panel", "Panel", "W", 1.0, "x", "", "")]
    store.put_prices(rows)
    assert store.list_prices() == rows
    store.put_prices(rows[::-1])
    assert store.list_prices() == rows[::-1]
    store.put_prices([])
    assert store.list_prices() == []


def test_a_list_that_cannot_be_kept_leaves_the_old_one(store: WorkshopStore) -> None:
    rows = [PriceRow("wire", "Wire", "m", 0.2, "", "", "")]
    store.put_prices(rows)
    import sqlite3

    with pytest.raises(sqlite3.IntegrityError):
        store.put_prices(
            [PriceRow("panel", "Panel", "W", 1.0, "", "", ""), PriceRow("wire", "Wire", "m", -1.0, "", "", "")]
        )
    assert store.list_prices() == rows


def test_demo_prices_fill_an_empty_list_once(store: WorkshopStore) -> None:
    assert load_demo_prices(store) == len(demo_prices())
    assert load_demo_prices(store) == 0


def test_weather_is_kept_by_name(store: WorkshopStore) -> None:
    store.insert_weather("one", "text")
    store.insert_weather("one", "other")
    assert store.list_weather() == ["one"]
    assert store.get_weather("one") == "other"
    store.delete_weather("one")
    with pytest.raises(NotFound, match="'one'"):
        store.get_weather("one")
    with pytest.raises(NotFound, match="'one'"):
        store.delete_weather("one")


def test_weather_files_have_a_limit(store: WorkshopStore, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workshop, "MOST_WEATHER", 1)
    store.insert_weather("one", "text")
    with pytest.raises(EditRefused, match="1 weather files"):
        store.insert_weather("two", "text")


def test_price_rows_are_read_back() -> None:
    import csv
    import io

    prices = demo_prices()
    text = io.StringIO()
    csv.writer(text).writerows(price_rows(prices))
    assert read_prices(text.getvalue()) == prices
