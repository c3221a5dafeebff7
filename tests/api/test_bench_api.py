"""The bench over HTTP."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient


def test_pairs_run_as_they_come(client: TestClient) -> None:
    choices = client.get("/api/bench").json()
    assert len(choices["pairs"]) >= 8
    assert "2/0" in choices["sizes"]["awg"]
    assert all(one["ratings_a"] for one in choices["families"])
    pair = choices["pairs"][0]
    answer = client.post("/api/bench", json={"setups": pair["setups"]})
    assert answer.status_code == 200, answer.text
    found = answer.json()
    assert [one["told"]["verdict"] for one in found["courses"]] == ["good", "stop"]
    for course in found["courses"]:
        frames = course["frames"]
        assert len(course["times"]) == len(course["chart"]["at_px"]) == len(frames["time_s"])
        for one in course["happened"]:
            assert frames["time_s"][one["frame"]] >= 0
    assert found["speed"] in found["speeds"]
    assert found["axis"] == "log"


def test_what_is_asked_for_is_kept(client: TestClient) -> None:
    setup = {"wire": {"size": "12"}, "load": {"kind": "current", "amount": 20}}
    body = {"setups": [setup], "end_s": 300, "axis": "straight", "narrow": True}
    found = client.post("/api/bench", json=body).json()
    assert (found["end_s"], found["axis"]) == (300, "straight")
    assert found["courses"][0]["chart"]["drawing"]["width"] < 400
    assert found["courses"][0]["frames"]["time_s"][-1] == pytest.approx(300)


@pytest.mark.parametrize(
    ("setup", "pointer"),
    [
        ({"wire": {"size": "11"}}, "#/setups/0/wire"),
        ({"wire": {"length_m": 0}}, "#/setups/0/wire/length_m"),
        ({"load": {"kind": "current", "amount": None}}, "#/setups/0/load"),
        ({"fuse": {"family": "blade_regular", "rating_a": -1}}, "#/setups/0/fuse/rating_a"),
        ({"source": {"open_v": 12}}, "#/setups/0/source"),
        ({"spare": 1}, "#/setups/0/spare"),
    ],
)
def test_what_cannot_be_is_refused_by_field(client: TestClient, setup: dict[str, object], pointer: str) -> None:
    answer = client.post("/api/bench", json={"setups": [setup]})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["pointer"] == pointer


def test_three_set_ups_or_none_are_refused(client: TestClient) -> None:
    for setups in ([], [{}, {}, {}]):
        assert client.post("/api/bench", json={"setups": setups}).status_code == 422


def test_a_run_of_a_plan_comes_with_its_figures(client: TestClient, heron: str) -> None:
    report = client.get(f"/api/plans/{heron}").json()["report"]
    run = next(one for one in report["runs"] if one["tag"] == "C07")
    found = client.get(f"/api/plans/{heron}/bench/{run['id']}", params={"happens": "short"}).json()
    assert found["tag"] == "C07"
    assert found["setup"]["load"]["kind"] == "short"
    assert found["setup"]["fuse"]["rating_a"] == run["fuse"]["rating_a"]
    ran = client.post("/api/bench", json={"setups": [found["setup"]]})
    assert ran.json()["courses"][0]["told"]["verdict"] == "good"


def test_a_run_that_is_not_there_is_named(client: TestClient, heron: str) -> None:
    answer = client.get(f"/api/plans/{heron}/bench/nothing")
    assert answer.status_code == 422
    assert "nothing" in answer.json()["detail"]
