"""Pictures, previews, the library and the new files over HTTP."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

MATCH = {"If-Match": '"1"'}
FUSE = [{"op": "set_fuse", "run": "r1", "end": "start", "distance_m": 0.1}]


@pytest.fixture
def plover(client: TestClient) -> str:
    return str(next(card["plan_id"] for card in client.get("/api/plans").json() if card["name"] == "Plover"))


@pytest.mark.parametrize(("kind", "subject"), [("map", None), ("board", None), ("fuse-window", "r2"), ("pinch", "l1")])
def test_picture_is_shapes_with_a_table(client: TestClient, heron: str, kind: str, subject: str | None) -> None:
    answer = client.get(f"/api/plans/{heron}/pictures/{kind}", params={"subject": subject} if subject else {})
    assert answer.status_code == 200
    body = answer.json()
    assert body["kind"] == kind
    assert body["pieces"]
    assert body["rows"]


def test_picture_of_nothing_is_a_problem_that_names_it(client: TestClient, heron: str) -> None:
    answer = client.get(f"/api/plans/{heron}/pictures/pinch", params={"subject": "nobody"})
    assert answer.status_code in (404, 422)
    assert "nobody" in answer.json()["detail"]
    assert client.get(f"/api/plans/{heron}/pictures/painting").status_code == 422


def test_preview_tells_what_goes_and_stores_nothing(client: TestClient, plover: str) -> None:
    before = client.get(f"/api/plans/{plover}").json()
    answer = client.post(f"/api/plans/{plover}/preview", json={"edits": FUSE}, headers=MATCH)
    assert answer.status_code == 200
    body = answer.json()
    assert [one["code"] for one in body["gone"]] == ["fuse-too-far"]
    assert body["after_stop"] == body["before_stop"] - 1
    assert client.get(f"/api/plans/{plover}").json() == before


def test_preview_of_a_stale_revision_is_refused(client: TestClient, plover: str) -> None:
    client.post(f"/api/plans/{plover}/edits", json={"edits": FUSE}, headers=MATCH)
    assert client.post(f"/api/plans/{plover}/preview", json={"edits": FUSE}, headers=MATCH).status_code == 412


def test_every_fix_of_the_demo_can_be_sent_back_as_it_came(client: TestClient, plover: str) -> None:
    report = client.get(f"/api/plans/{plover}").json()["report"]
    fixes = [fix for finding in report["findings"] for fix in finding["fixes"]]
    assert len(fixes) > 5
    for fix in fixes:
        answer = client.post(f"/api/plans/{plover}/preview", json={"edits": fix["edits"]}, headers=MATCH)
        assert answer.status_code == 200, (fix["label"], answer.json())


def test_own_part_is_kept_used_and_taken_out(client: TestClient, heron: str) -> None:
    new = {"name": "Our breaker panel", "note": "from stock", "part": {"kind": "busbar", "rated_a": 80.0}}
    made = client.post("/api/parts", json=new)
    assert made.status_code == 200
    listed = client.get("/api/parts").json()
    assert listed[0]["name"] == "Our breaker panel"
    assert any(card["part_id"] is None for card in listed)
    edit = {"op": "feed_part", "part": made.json()["part"], "fed_from": "u1", "length": "1 m"}
    fed = client.post(f"/api/plans/{heron}/edits", json={"edits": [edit]}, headers=MATCH)
    assert fed.status_code == 200
    assert client.delete(f"/api/parts/{made.json()['part_id']}").status_code == 204
    assert client.get("/api/parts").json()[0]["name"] != "Our breaker panel"
    assert client.get(f"/api/plans/{heron}").json()["plan"]["parts"][-1]["name"] == "Our breaker panel"
    assert client.delete("/api/parts/nothing").status_code == 404


def test_library_csv_in_and_out(client: TestClient) -> None:
    text = "kind,name,rated_a\nswitch,Ours,25\n"
    assert client.post("/api/parts/import", content=text, headers={"content-type": "text/csv"}).status_code == 200
    out = client.get("/api/parts/export")
    assert "Ours" in out.text
    again = client.post("/api/parts/import", content=out.content, headers={"content-type": "text/csv"})
    assert again.status_code == 200
    bad = client.post(
        "/api/parts/import", content="kind,name,rated_a\nswitch,X,much\n", headers={"content-type": "text/csv"}
    )
    assert bad.status_code == 422
    assert "line 2/rated_a" in bad.text


@pytest.mark.parametrize(
    "part", [{"kind": "nothing"}, {"kind": "switch", "id": "x"}, {"kind": "switch", "rated_a": -1}]
)
def test_bad_part_is_refused_by_name(client: TestClient, part: dict[str, Any]) -> None:
    answer = client.post("/api/parts", json={"name": "X", "part": part})
    assert answer.status_code == 422
    assert answer.json()["errors"]


def test_report_schema_describes_the_report(client: TestClient, heron: str) -> None:
    schema = client.get("/api/schema/report").json()
    report = client.get(f"/api/plans/{heron}/files/report.json").json()
    assert set(report) == set(schema["properties"])
    assert {"faults", "start_guard", "connected_a"} <= set(schema["$defs"]["RunReport"]["properties"])


def test_shorts_and_states_as_csv(client: TestClient, heron: str) -> None:
    shorts = client.get(f"/api/plans/{heron}/files/faults.csv").text.splitlines()
    report = client.get(f"/api/plans/{heron}").json()["report"]
    expected = sum(len(run["faults"]) for run in report["runs"]) + sum(
        node["fault"] is not None for node in report["nodes"]
    )
    assert len(shorts) == 1 + expected
    states = client.get(f"/api/plans/{heron}/files/states.csv").text
    assert "Master off" in states
    assert "dead" in states


@pytest.mark.parametrize(
    "query", ["fuse-window.svg?subject=r2", "pinch.svg?subject=l1&state=night", "map.svg?state=night"]
)
def test_svg_of_a_subject_and_a_state(client: TestClient, heron: str, query: str) -> None:
    answer = client.get(f"/api/plans/{heron}/files/{query}")
    assert answer.status_code == 200
    assert answer.text.startswith("<?xml")


def test_older_plan_on_the_shelf_is_brought_up_and_can_be_patched(client: TestClient) -> None:
    from tests.helpers import small_document

    made = client.post("/api/plans/import", json=small_document()).json()
    assert made["plan"]["version"] == 7
    patch = [{"op": "add", "path": "/states/0/open", "value": []}]
    answer = client.patch(f"/api/plans/{made['plan_id']}", json=patch, headers=MATCH)
    assert answer.status_code == 200


def test_shorts_of_a_state_leave_out_what_is_dead(client: TestClient, heron: str) -> None:
    every = client.get(f"/api/plans/{heron}/shorts").json()
    off = client.get(f"/api/plans/{heron}/shorts", params={"state": "off"}).json()
    assert "u1" in every["points"]
    assert "u1" not in off["points"]
    assert off["points"]["b1"]["strongest_a"] == every["points"]["b1"]["strongest_a"]
    assert client.get(f"/api/plans/{heron}/shorts", params={"state": "never"}).status_code == 422


def test_working_of_one_figure_is_served_and_an_unknown_one_is_named(client: TestClient, heron: str) -> None:
    answer = client.get(f"/api/plans/{heron}/working/r10.short_weakest").json()
    assert answer["title"] == "C10: weakest short"
    assert answer["inputs"]
    assert client.get(f"/api/plans/{heron}/working/r10.nothing").status_code == 404


def test_mends_are_those_that_were_tried(client: TestClient, plover: str) -> None:
    """What is offered, carried out, takes its finding away."""
    findings = client.get(f"/api/plans/{plover}/files/report.json").json()["findings"]
    far = next(one for one in findings if one["code"] == "fuse-too-far")
    offered = client.get(f"/api/plans/{plover}/mends/{far['id']}").json()
    assert [one["label"] for one in offered] == ["Move the fuse to within reach"]
    assert client.post(f"/api/plans/{plover}/edits", json={"edits": offered[0]["edits"]}, headers=MATCH).is_success
    after = client.get(f"/api/plans/{plover}/files/report.json").json()["findings"]
    assert far["id"] not in {one["id"] for one in after}


def test_a_finding_that_is_not_there_has_no_mends(client: TestClient, plover: str) -> None:
    assert client.get(f"/api/plans/{plover}/mends/fuse-too-far:nowhere").json() == []
