"""Several hands at once, and pages served beside the API."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from lucernis.api.app import create_app
from lucernis.demo import load_demo
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore


def rename(client: TestClient, plan_id: str, revision: int, name: str) -> int:
    patch = [{"op": "replace", "path": "/job/name", "value": name}]
    answer = client.patch(f"/api/plans/{plan_id}", json=patch, headers={"If-Match": f'"{revision}"'})
    return answer.status_code


def test_of_edits_on_the_same_revision_exactly_one_wins(client: TestClient, heron: str) -> None:
    start = threading.Barrier(6)

    def one(number: int) -> int:
        start.wait()
        return rename(client, heron, 1, f"Heron {number}")

    with ThreadPoolExecutor(6) as hands:
        found = sorted(hands.map(one, range(6)))
    assert found == [200, 412, 412, 412, 412, 412]
    assert client.get(f"/api/plans/{heron}").json()["revision"] == 2


def test_reading_goes_on_while_others_write(client: TestClient, heron: str) -> None:
    stop = threading.Event()
    broken: list[int] = []

    def read() -> None:
        while not stop.is_set():
            answer = client.get(f"/api/plans/{heron}/history")
            if answer.status_code != 200:
                broken.append(answer.status_code)

    reader = threading.Thread(target=read)
    reader.start()
    done = [rename(client, heron, revision, f"Heron {revision}") for revision in range(1, 16)]
    stop.set()
    reader.join()
    assert done == [200] * 15
    assert broken == []


def test_what_was_answered_is_there_after_a_restart(tmp_path: Path) -> None:
    path = tmp_path / "plans.sqlite3"
    database = Database(path)
    database.open()
    load_demo(PlanStore(database))
    with TestClient(create_app(database), base_url="http://127.0.0.1:8765") as client:
        plan_id = client.get("/api/plans").json()[0]["plan_id"]
        assert rename(client, plan_id, 1, "Kept") == 200
    database.close()
    again = Database(path)
    again.open()
    assert PlanStore(again).get(plan_id).document["job"]["name"] == "Kept"
    assert load_demo(PlanStore(again)) == 0


@pytest.mark.parametrize("path", ["/", "/plan/abc/loads", "/plan/abc/circuits?run=r1", "/no/such/page"])
def test_every_address_opens_the_one_page(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 200
    assert '<div id="root">' in answer.text
    assert answer.headers["cache-control"] == "no-cache"


@pytest.mark.parametrize(
    "path", ["/assets/none.js", "/api/none", "/assets/../../pyproject.toml", "/assets/%2e%2e/%2e%2e/cli.py"]
)
def test_nothing_else_is_served(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 404 or '<div id="root">' in answer.text
    assert "lucernis" not in answer.headers.get("content-disposition", "")
    assert "import argparse" not in answer.text
    assert "build-backend" not in answer.text


def test_api_answers_are_not_kept_by_the_browser(client: TestClient) -> None:
    assert client.get("/api/plans").headers["cache-control"] == "no-store"


def test_stock_documentation_pages_are_off(client: TestClient) -> None:
    for path in ("/docs", "/redoc"):
        assert "swagger" not in client.get(path).text.lower()


def test_schema_of_the_plan_is_published(client: TestClient) -> None:
    schema = client.get("/api/schema/plan").json()
    assert schema["additionalProperties"] is False
    assert {"parts", "runs", "zones", "practice"} <= set(schema["properties"])


def test_practice_lists_what_a_client_offers(client: TestClient) -> None:
    found = client.get("/api/practice").json()
    assert [one["name"] for one in found["sets"]] == [
        "metric_caravan",
        "overland_bs",
        "small_craft_us",
        "vehicle_accessory",
    ]
    assert found["sizes"]["awg"][-1] == "4/0"
    assert found["ratings_a"]["blade_mini"][0] == 2.0
    assert set(found["families"]) == set(found["ratings_a"])
