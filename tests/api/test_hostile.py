"""Whatever is sent, the answer is a problem that names what is wrong: never a broken server, never half a change."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from lucernis.api.problems import PROBLEM_JSON
from tests.helpers import small_document

Send = Callable[[TestClient, str], Any]
LONE = "\ud83d"


@pytest.fixture
def calm(client: TestClient) -> Iterator[TestClient]:
    """Errors as a browser would see them, not as exceptions of the test."""
    with TestClient(client.app, base_url=str(client.base_url), raise_server_exceptions=False) as found:
        yield found


def edit(*edits: dict[str, Any]) -> Send:
    body = json.dumps({"edits": edits})
    headers = {"If-Match": '"1"', "content-type": "application/json"}
    return lambda client, plan: client.post(f"/api/plans/{plan}/edits", content=body, headers=headers)


def patch(*operations: dict[str, Any]) -> Send:
    body = json.dumps(operations)
    headers = {"If-Match": '"1"', "content-type": "application/json"}
    return lambda client, plan: client.patch(f"/api/plans/{plan}", content=body, headers=headers)


def post(path: str, body: Any) -> Send:
    text = body if isinstance(body, str | bytes) else json.dumps(body)
    headers = {"content-type": "application/json"}
    return lambda client, plan: client.post(path.format(plan=plan), content=text, headers=headers)


def get(path: str, **headers: Any) -> Send:
    return lambda client, plan: client.get(path.format(plan=plan), headers=headers)


def nested(depth: int) -> str:
    return '{"job":' + "[" * depth + "]" * depth + "}"


SIZE = {"amps": 10, "length_m": 3, "practice_set": "small_craft_us", "nominal_v": 12}
CASES: dict[str, Send] = {
    "lone surrogate in a cell": edit({"op": "set_cell", "part": "l6", "column": "name", "text": f"Fan {LONE}"}),
    "lone surrogate in a new job": post("/api/plans", {"name": f"Job {LONE}", "practice_set": "metric_caravan"}),
    "lone surrogate in a document": post("/api/plans/import", small_document(job={"name": f"Job {LONE}"})),
    "lone surrogate in a patch": patch({"op": "replace", "path": "/job/note", "value": LONE}),
    "lone surrogate in a waiver": edit({"op": "waive", "code": "no-isolator", "subject": "plan", "reason": LONE}),
    "NUL in a name": edit({"op": "set_cell", "part": "l6", "column": "name", "text": "Fan\x00"}),
    "NUL in a job": post("/api/plans", {"name": "Job\x00", "practice_set": "metric_caravan"}),
    "a cell of 200 kB": edit({"op": "set_cell", "part": "l6", "column": "power_w", "text": "9" * 200_000}),
    "a number beyond all bounds": edit({"op": "set_cell", "part": "l6", "column": "power_w", "text": "1e999"}),
    "a number of many digits": patch({"op": "replace", "path": "/parts/id:l6/power_w", "value": 10**400}),
    "deep nesting in a document": post("/api/plans/import", nested(100_000)),
    "deep nesting in a patch": patch({"op": "add", "path": "/job/note", "value": json.loads("[" * 300 + "]" * 300)}),
    "a path of many steps": patch({"op": "add", "path": "/job" * 5000, "value": 1}),
    "a path without a slash": patch({"op": "add", "path": "job", "value": 1}),
    "history beyond 64 bits": get("/api/plans/{plan}/history/99999999999999999999999"),
    "history below nothing": get("/api/plans/{plan}/history/-1"),
    "restore beyond 64 bits": lambda client, plan: client.post(
        f"/api/plans/{plan}/history/99999999999999999999999/restore", headers={"If-Match": '"1"'}
    ),
    "an origin that is none": lambda client, plan: client.post(
        f"/api/plans/{plan}/undo", headers={"If-Match": '"1"', "origin": "http://[::1"}
    ),
    "a host that is none": get("/api/plans", host="[::1"),
    "If-Match that is no ASCII": lambda client, plan: client.post(
        f"/api/plans/{plan}/undo", headers={"If-Match": "\u00b2".encode()}
    ),
    "a key that is no ASCII": lambda client, plan: client.post(
        f"/api/plans/{plan}/edits",
        json={"edits": []},
        headers={"If-Match": '"1"', "Idempotency-Key": "\u00b2\u00b2\u00b2\u00b2\u00b2\u00b2\u00b2\u00b2".encode()},
    ),
    "a latitude out of this world": edit({"op": "set_cell", "part": "l6", "column": "length", "text": "1e300 m"}),
    "coordinates that are none": patch(
        {"op": "add", "path": "/energy/stops/-", "value": {"name": "X", "latitude_deg": 1e308, "longitude_deg": 1e308}}
    ),
    "size of a run too long": post("/api/size", SIZE | {"length_m": 101}),
    "size of nothing": post("/api/size", {}),
    "not JSON": post("/api/plans/import", "{"),
    "no document": post("/api/plans/import", "[]"),
    "bytes that are no text": post("/api/plans/import", b"\xff\xfe\x00"),
    "a working of nobody": get("/api/plans/{plan}/working/" + "x" * 5000),
    "days beyond measure": get("/api/plans/{plan}/days?days=99999999999999999999"),
    "a plan of nobody": get("/api/plans/%00"),
    "a state of nobody": get("/api/plans/{plan}/pictures/map?state=%F0"),
    "copying without end": patch(*({"op": "copy", "from": "/runs", "path": "/runs/-"} for _ in range(60))),
    "operations without end": patch(*({"op": "test", "path": "/nominal_v", "value": 12} for _ in range(1001))),
}


@pytest.mark.parametrize("name", CASES)
def test_what_is_sent_is_refused_by_name_and_nothing_broken(name: str, calm: TestClient, heron: str) -> None:
    answer = CASES[name](calm, heron)
    assert 400 <= answer.status_code < 500, answer.text[:300]
    assert answer.headers["content-type"] == PROBLEM_JSON
    assert answer.json()["detail"]
    assert calm.get(f"/api/plans/{heron}").json()["revision"] == 1


def test_a_body_in_pieces_is_cut_off_as_too_large(calm: TestClient) -> None:
    pieces = (b" " * 1_000_000 for _ in range(7))
    answer = calm.post("/api/plans/import", content=pieces, headers={"content-type": "application/json"})
    assert (answer.status_code, answer.json()["type"]) == (413, "urn:lucernis:problem:too-large")


def test_what_cannot_be_computed_is_not_stored(calm: TestClient, heron: str, monkeypatch: pytest.MonkeyPatch) -> None:
    def breaks(*_: object, **__: object) -> None:
        raise RuntimeError("no answer")

    with monkeypatch.context() as broken:
        broken.setattr("lucernis.api.answers.evaluate", breaks)
        answer = edit({"op": "set_cell", "part": "l6", "column": "power_w", "text": "66"})(calm, heron)
        assert answer.status_code == 500
        assert post("/api/plans/import", small_document())(calm, heron).status_code == 500
    assert calm.get(f"/api/plans/{heron}").json()["revision"] == 1
    assert [card["name"] for card in calm.get("/api/plans").json()].count("Small") == 0
