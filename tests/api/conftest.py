"""A client of a fresh application, without a server."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from lucernis.api.app import create_app
from lucernis.demo import load_demo, load_demo_prices
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from lucernis.store.workshop import WorkshopStore
from tests.serving import ANSWERS, clock


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    load_demo_prices(WorkshopStore(database))
    with TestClient(
        create_app(database, answers=ANSWERS, clock=clock),
        base_url="http://127.0.0.1:8765",
        raise_server_exceptions=False,
    ) as found:
        yield found


@pytest.fixture
def heron(client: TestClient) -> str:
    plan_id: str = next(card["plan_id"] for card in client.get("/api/plans").json() if card["name"] == "Heron")
    return plan_id
