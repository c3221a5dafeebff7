"""The record of the work and the order of work over HTTP."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest
from fastapi.testclient import TestClient


def add(client: TestClient, plan_id: str, **fields: Any) -> Any:
    body = {"key": "key-0000001", "kind": "done", "subject": "safe", "was": "", "who": "Bea"} | fields
    return client.post(f"/api/plans/{plan_id}/record", json=body)


def standing(client: TestClient, plan_id: str, step: str) -> str:
    steps = client.get(f"/api/plans/{plan_id}/order").json()["progress"]["steps"]
    return next(one["standing"] for one in steps if one["step"]["id"] == step)


def test_a_tick_two_people_see_and_one_takes_back(client: TestClient, heron: str) -> None:
    assert standing(client, heron, "safe") == "ready"
    first = add(client, heron).json()
    assert (first["number"], first["who"], first["revision"]) == (1, "Bea", 1)
    assert standing(client, heron, "safe") == "done"
    assert add(client, heron).json() == first, "sent again it is kept once"
    assert add(client, heron, key="key-0000002", subject="cut:r1", who="Sam", was="otherwise").is_success
    order = client.get(f"/api/plans/{heron}/order").json()["progress"]
    assert {one["code"] for one in order["amiss"]} == {"done-otherwise"}
    assert (order["done"], order["total"]) == (1, len(order["steps"]) + len(order["power_up"]))
    assert add(client, heron, key="key-0000003", kind="back", subject="", takes_back=1).is_success
    assert standing(client, heron, "safe") == "ready"
    assert [one["kind"] for one in client.get(f"/api/plans/{heron}/record").json()] == ["done", "done", "back"]
    assert add(client, heron, key="key-0000004", kind="back", subject="", takes_back=1).status_code == 422


@pytest.mark.parametrize(
    ("fields", "field"),
    [
        ({"kind": "lie"}, "kind"), ({"key": "short"}, "key"), ({"subject": "a b"}, "subject"), ({"subject": ""}, ""),
        ({"kind": "note", "text": " "}, ""), ({"kind": "back"}, ""), ({"takes_back": 1}, ""),
        ({"who": "x" * 61}, "who"),
        ({"text": "a\u0000b"}, "text"), ({"made_at": "yesterday"}, "made_at"),
        ({"made_at": "2026-11-27T09:00:00"}, "made_at"),
        ({"extra": 1}, "extra"),
    ],
)  # fmt: skip
def test_an_entry_that_says_nothing_sensible_is_refused_by_its_field(
    client: TestClient, heron: str, fields: dict[str, Any], field: str
) -> None:
    answer = add(client, heron, **fields)
    assert answer.status_code == 422
    assert field in answer.text
    assert client.get(f"/api/plans/{heron}/record").json() == []


def test_when_it_was_done_is_taken_from_the_phone_but_not_from_the_future(client: TestClient, heron: str) -> None:
    early = add(client, heron, made_at="2026-11-20T08:00:00+01:00").json()
    assert early["made_at"] == "2026-11-20T07:00:00+00:00"
    late = add(client, heron, key="key-0000002", made_at="2999-01-01T00:00:00Z").json()
    assert late["made_at"] == late["kept_at"]


def test_the_record_as_files(client: TestClient, heron: str) -> None:
    add(client, heron, kind="note", subject="", text="=cmd", who="Bea")
    rows = list(csv.DictReader(io.StringIO(client.get(f"/api/plans/{heron}/record.csv").content.decode("utf-8-sig"))))
    assert (rows[0]["kind"], rows[0]["who"], rows[0]["text"]) == ("note", "Bea", "'=cmd")
    assert client.get(f"/api/plans/{heron}/record.json").json()[0]["text"] == "=cmd"
    assert client.get("/api/plans/none/record").status_code == 404
    assert (
        client.post("/api/plans/none/record", json={"key": "key-0000001", "kind": "note", "text": "x"}).status_code
        == 404
    )


def test_what_changed_since_the_cut_list_was_printed(client: TestClient, heron: str) -> None:
    def since() -> Any:
        return client.get(f"/api/plans/{heron}/cut-list/since").json()

    assert since() == {"printed_at": "", "who": "", "revision": 0, "changes": []}
    add(client, heron, kind="printed", subject="cut-list")
    assert (since()["revision"], since()["changes"]) == (1, [])
    edit = {"edits": [{"op": "pin_wire", "run": "r30", "size": "2.5", "reason": "x"}]}
    done = client.post(f"/api/plans/{heron}/edits", json=edit, headers={"If-Match": '"1"'})
    assert done.is_success, done.text
    changes = since()["changes"]
    assert "C30" in {one["tag"] for one in changes}
    add(client, heron, key="key-0000002", kind="printed", subject="cut-list")
    assert (since()["revision"], since()["changes"]) == (2, [])


def test_a_job_brings_its_record_along(client: TestClient, heron: str) -> None:
    add(client, heron)
    body = client.get(f"/api/plans/{heron}/job").content
    there = client.post("/api/jobs", content=body, headers={"content-type": "application/octet-stream"}).json()
    assert client.get(f"/api/plans/{there['plan_id']}/record").json() == client.get(f"/api/plans/{heron}/record").json()


def test_a_reading_typed_with_its_tick_is_judged(client: TestClient, heron: str) -> None:
    def order() -> Any:
        return client.get(f"/api/plans/{heron}/order").json()

    steps = [one["step"] for one in order()["progress"]["power_up"]]
    battery = next(one["id"] for one in steps if one["text"] == "House bank at rest")
    expected = order()["expected"][battery]
    assert (round(expected["low"], 2), round(expected["high"], 2)) == (13.06, 13.59)
    assert order()["judged"] == {}
    add(client, heron, subject=battery, was="House bank at rest", text="12,1 V")
    assert order()["judged"][battery]["verdict"] == "out"
    add(client, heron, key="key-0000002", subject=battery, was="House bank at rest", text="13.3")
    assert order()["judged"][battery]["verdict"] == "in"


def test_a_bond_is_judged_by_its_readings_and_nothing_else_is_a_bond(client: TestClient, heron: str) -> None:
    def judged(run: str, **reading: float) -> Any:
        return client.post(f"/api/plans/{heron}/bonds/{run}", json=reading)

    plan = client.get(f"/api/plans/{heron}").json()["plan"]
    bond = next(one["id"] for one in plan["runs"] if one["tag"] == "C26")
    assert judged(bond, bond_ohm=1.2, leads_ohm=1.2).json()["verdict"] == "good"
    assert judged(bond, bond_ohm=1.7, leads_ohm=1.2).json()["verdict"] == "bad"
    # 0.8 m of 50 mm² and two lugs: some 0.4 mΩ, so 4 mV at 10 A is what it has and 40 mV is a bad joint.
    assert judged(bond, drop_mv=4, current_a=10).json()["verdict"] == "good"
    assert judged(bond, drop_mv=40, current_a=10).json()["verdict"] == "bad"
    for wrong in ({}, {"bond_ohm": 1.0}, {"bond_ohm": 1, "leads_ohm": 1, "drop_mv": 1}, {"drop_mv": 1, "current_a": 0}):
        assert judged(bond, **wrong).status_code == 422
    assert judged("r1", bond_ohm=1, leads_ohm=1).status_code == 404


@pytest.mark.parametrize("subject", ["nonsense", "pull:nobody", "piece:r1+9.9"])
def test_a_tick_for_a_step_that_does_not_exist_is_refused_and_not_kept(
    client: TestClient, heron: str, subject: str
) -> None:
    refused = add(client, heron, subject=subject)
    assert refused.status_code == 422
    assert "no step" in refused.text
    assert client.get(f"/api/plans/{heron}/record").json() == []


def test_a_tick_that_waited_while_the_plan_changed_is_kept(client: TestClient, heron: str) -> None:
    """It says what it read then, of a kind of step there is."""
    assert add(client, heron, subject="pull:gone", was="6 mm², Sill").is_success
    assert add(client, heron, key="key-0000002", subject="dream:gone", was="6 mm²").status_code == 422
