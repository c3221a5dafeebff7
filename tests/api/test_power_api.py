"""The Power view over HTTP: figures, days, a year with progress, proposals, options, prices, weather files."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pvlib
import pytest
from fastapi.testclient import TestClient

MATCH = {"If-Match": '"1"'}
TMY3 = (Path(pvlib.__file__).parent / "data" / "723170TYA.CSV").read_text(encoding="utf-8")


def test_power_has_every_figure_and_its_working(client: TestClient, heron: str) -> None:
    body = client.get(f"/api/plans/{heron}/power").json()
    assert body["bank"]["strings"] == 1
    assert {one["form"] for one in body["chargers"]} == {"dcdc", "sun", "shore"}
    assert len(body["fit"]) == 4
    assert body["costs"]["missing"] == []
    keys = [f"{one['id']}.given_a" for one in body["chargers"]] + ["energy.ah_per_day", "energy.bank_lfp", "b1.share"]
    keys += [f"l11.fit_{mode}_{school}" for mode in ("continuous", "surge") for school in ("efficiency", "ten_to_one")]
    for key in keys:
        working = client.get(f"/api/plans/{heron}/working/{key}")
        assert working.status_code == 200, key
        assert working.json()["inputs"]


def test_charge_a_day_of_the_working_is_the_sum_of_its_inputs(client: TestClient, heron: str) -> None:
    working = client.get(f"/api/plans/{heron}/working/energy.ah_per_day").json()
    assert sum(one["value"] for one in working["inputs"]) == pytest.approx(working["value"])


@pytest.mark.parametrize(
    "key", ["planned", "refill_engine", "refill_sun", "refill_shore", "refill_together", "fair_lowest", "poor_lowest"]
)
def test_figures_of_the_days_open_to_their_working(client: TestClient, heron: str, key: str) -> None:
    working = client.get(f"/api/plans/{heron}/working/days.7.{key}").json()
    assert working["figure"] == key
    assert working["value"] is not None
    assert len(working["inputs"]) >= 3


@pytest.mark.parametrize(
    ("key", "status"), [("days.15.planned", 422), ("days.7.nothing", 404), ("days.x.planned", 404)]
)
def test_working_that_is_not_there_is_a_problem(client: TestClient, heron: str, key: str, status: int) -> None:
    assert client.get(f"/api/plans/{heron}/working/{key}").status_code == status


def test_books_of_a_course_close_in_its_working(client: TestClient, heron: str) -> None:
    working = client.get(f"/api/plans/{heron}/working/days.14.poor_lowest").json()
    wh = {one["name"]: one["value"] for one in working["inputs"]}
    came = sum(value for name, value in wh.items() if name.startswith("from "))
    went = wh["taken by the loads"] + wh["stored in the bank"] + wh["lost in the bank"]
    assert came == pytest.approx(went, rel=1e-3)


def test_days_come_with_their_ribbon(client: TestClient, heron: str) -> None:
    body = client.get(f"/api/plans/{heron}/days", params={"days": 7}).json()
    assert [one["name"] for one in body["forecast"]["courses"]] == ["fair", "poor"]
    assert body["picture"]["kind"] == "days"
    assert len(body["picture"]["rows"]) == 2
    for piece in body["picture"]["pieces"]:
        for stroke in piece["strokes"]:
            assert all(0 <= x <= body["picture"]["width"] for x, _ in stroke["points"])
            assert all(0 <= y <= body["picture"]["height"] for _, y in stroke["points"])


@pytest.mark.parametrize("days", ["0", "15", "x", "NaN"])
def test_days_outside_the_range_are_a_problem(client: TestClient, heron: str, days: str) -> None:
    answer = client.get(f"/api/plans/{heron}/days", params={"days": days})
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"


def test_year_tells_its_progress_and_ends_with_the_outcome(client: TestClient, heron: str) -> None:
    with client.stream("GET", f"/api/plans/{heron}/year") as answer:
        lines = [json.loads(line) for line in answer.iter_lines()]
    shares = [line["done"] for line in lines if "done" in line]
    assert shares == sorted(shares)
    assert len(shares) > 100
    assert lines[-1]["days"]["forecast"]["days"] == 365
    assert lines[-1]["days"]["forecast"]["courses"][0]["gap_frac"] < 1e-3


def test_proposal_is_only_told_until_it_is_taken(client: TestClient, heron: str) -> None:
    before = client.get(f"/api/plans/{heron}").json()
    asked = client.post(f"/api/plans/{heron}/propose", json={"wishes": {"days": 3.0}})
    assert asked.status_code == 200
    assert client.get(f"/api/plans/{heron}").json() == before
    taken = client.post(
        f"/api/plans/{heron}/propose/take", json={"wishes": {"days": 3.0}, "steps": ["bank"]}, headers=MATCH
    )
    assert taken.status_code == 200
    body = taken.json()
    assert body["revision"] == 2
    assert body["summary"] == "Proposed: Bank"
    assert client.post(f"/api/plans/{heron}/undo", headers={"If-Match": '"2"'}).json()["plan"] == before["plan"]


def test_proposal_of_nothing_or_on_an_old_revision_is_refused(client: TestClient, heron: str) -> None:
    path = f"/api/plans/{heron}/propose/take"
    assert client.post(path, json={"steps": []}, headers=MATCH).status_code == 422
    assert client.post(path, json={}, headers={"If-Match": '"9"'}).status_code == 412
    assert client.post(path, json={}).status_code == 428
    named = client.post(f"/api/plans/{heron}/propose", json={"steps": ["roof"]})
    assert named.status_code == 422
    assert "roof" in named.json()["detail"]


@pytest.mark.parametrize(
    "wishes", [{"days": 0}, {"days": "NaN"}, {"nominal_v": 48}, {"chemistry": "x"}, {"more": 1}, {"drive_hours": 25}]
)
def test_impossible_wishes_name_the_field(client: TestClient, heron: str, wishes: dict[str, Any]) -> None:
    answer = client.post(f"/api/plans/{heron}/propose", json={"wishes": wishes})
    assert answer.status_code == 422
    assert next(iter(wishes)) in answer.json()["errors"][0]["pointer"]


def test_options_stand_side_by_side_and_one_can_be_taken(client: TestClient, heron: str) -> None:
    names = ["as_it_is", "volts_24", "two_cables"]
    found = client.post(f"/api/plans/{heron}/options", json={"variants": names}).json()
    assert [one["name"] for one in found] == names
    assert found[0]["differs"] == []
    taken = client.post(f"/api/plans/{heron}/options/volts_24/take", headers=MATCH).json()
    assert taken["plan"]["nominal_v"] == 24
    assert taken["summary"] == "Option: 24 V"


@pytest.mark.parametrize("variants", [[], ["as_it_is"], ["as_it_is"] * 5, ["as_it_is", "gold"]])
def test_options_are_two_to_four_known_ones(client: TestClient, heron: str, variants: list[str]) -> None:
    assert client.post(f"/api/plans/{heron}/options", json={"variants": variants}).status_code == 422


def test_option_that_does_not_suit_says_why(client: TestClient, heron: str) -> None:
    answer = client.post(f"/api/plans/{heron}/options/blocks_near_loads/take", headers=MATCH)
    assert answer.status_code == 422
    assert "no place" in answer.json()["detail"]


def test_prices_go_out_and_come_in_as_csv(client: TestClient, heron: str) -> None:
    text = client.get("/api/prices/export").text
    assert "battery:lfp" in text
    total = client.get(f"/api/plans/{heron}/power").json()["costs"]["total"]
    answer = client.post("/api/prices/import", content="key;x\nwire;1\n", headers={"content-type": "text/csv"})
    assert answer.status_code == 422
    short = client.post("/api/prices/import", content="key,price\nwire,0.5\n", headers={"content-type": "text/csv"})
    assert [one["key"] for one in short.json()] == ["wire"]
    costs = client.get(f"/api/plans/{heron}/power").json()["costs"]
    assert "battery:lfp" in costs["missing"]
    assert costs["total"] < total
    again = client.post("/api/prices/import", content=text, headers={"content-type": "text/csv"})
    assert again.status_code == 200
    assert client.get("/api/prices/export").text == text


@pytest.mark.parametrize(
    ("body", "pointer"),
    [
        ("key,price\nwire,-1\n", "line 2/price"),
        ("key,price\nwire,nan\n", "line 2/price"),
        ("key,price\nwire,1\nwire,2\n", "line 3/key"),
        ("key,price\ngold,1\n", "line 2/key"),
        ("", "file"),
    ],
)
def test_bad_prices_name_their_line_and_change_nothing(client: TestClient, body: str, pointer: str) -> None:
    before = client.get("/api/prices").json()
    answer = client.post("/api/prices/import", content=body, headers={"content-type": "text/csv"})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["pointer"] == pointer
    assert client.get("/api/prices").json() == before


def test_a_typed_price_takes_its_place(client: TestClient) -> None:
    prices = client.get("/api/prices").json()
    prices[0]["price"] = 0.25
    assert client.put("/api/prices", json=prices).json()[0]["price"] == 0.25
    prices[0]["price"] = -1
    assert client.put("/api/prices", json=prices).status_code == 422


def test_price_that_would_start_a_formula_is_only_text(client: TestClient) -> None:
    body = 'key,label,price\nwire,"=HYPERLINK(1)",1\n'
    client.post("/api/prices/import", content=body, headers={"content-type": "text/csv"})
    assert ",=HYPERLINK" not in client.get("/api/prices/export").text


def test_weather_is_kept_used_and_taken_out(client: TestClient, heron: str) -> None:
    kept = client.post(
        "/api/weather", params={"name": "greensboro"}, content=TMY3, headers={"content-type": "text/plain"}
    )
    assert kept.json() == ["greensboro"]
    patch = [{"op": "add", "path": "/energy/weather", "value": "greensboro"}]
    assert client.patch(f"/api/plans/{heron}", json=patch, headers=MATCH).status_code == 200
    found = client.get(f"/api/plans/{heron}/days").json()["forecast"]
    assert "greensboro" in found["note"]
    assert client.delete("/api/weather/greensboro").status_code == 204
    missing = client.get(f"/api/plans/{heron}/days")
    assert missing.status_code == 404
    assert "greensboro" in missing.json()["detail"]
    assert client.delete("/api/weather/greensboro").status_code == 404


@pytest.mark.parametrize("body", [b"", b"hello", b"\xff\xfe\x00", TMY3[:200000].encode()])
def test_bad_weather_is_refused_and_not_kept(client: TestClient, body: bytes) -> None:
    answer = client.post("/api/weather", params={"name": "bad"}, content=body, headers={"content-type": "text/plain"})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["pointer"] == "file"
    assert client.get("/api/weather").json() == []


def test_weather_name_is_checked(client: TestClient) -> None:
    assert client.post("/api/weather", params={"name": "../x"}, content="x").status_code == 422


@pytest.mark.parametrize("path", ["power", "days", "year"])
def test_unknown_plan_is_not_found(client: TestClient, path: str) -> None:
    assert client.get(f"/api/plans/nobody/{path}").status_code == 404
