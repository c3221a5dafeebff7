"""Plans over HTTP: every edit is one round trip with its report, and nothing bad is ever stored."""

from __future__ import annotations

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient

from lucernis.demo import JOBS
from tests.helpers import document, small_document

PROBLEM = "application/problem+json"


def head(client: TestClient, plan_id: str) -> int:
    revision: int = client.get(f"/api/plans/{plan_id}").json()["revision"]
    return revision


def edit(client: TestClient, plan_id: str, *edits: dict[str, Any], revision: int | None = None) -> Any:
    match = {"If-Match": f'"{revision if revision is not None else head(client, plan_id)}"'}
    return client.post(f"/api/plans/{plan_id}/edits", json={"edits": list(edits)}, headers=match)


def test_list_plans_shows_the_demo_shelf(client: TestClient) -> None:
    cards = client.get("/api/plans").json()
    assert [card["name"] for card in cards] == ["Heron", "Tern", "Plover", "Plover, mended"]
    assert cards[2]["open_stop"] > 0


def test_get_plan_has_report_and_etag(client: TestClient, heron: str) -> None:
    answer = client.get(f"/api/plans/{heron}")
    assert answer.headers["etag"] == '"1"'
    assert answer.json()["report"]["summary"]["open_stop"] == 0


def test_edit_answers_revision_and_report(client: TestClient, heron: str) -> None:
    before = client.get(f"/api/plans/{heron}").json()["report"]["summary"]["ah_per_day"]
    answer = edit(client, heron, {"op": "set_cell", "part": "l6", "column": "power_w", "text": "90"})
    assert answer.status_code == 200
    assert answer.json()["revision"] == 2
    assert answer.json()["report"]["summary"]["ah_per_day"] > before
    assert answer.json()["can_undo"]


def test_edit_without_change_makes_no_revision(client: TestClient, heron: str) -> None:
    assert (
        edit(client, heron, {"op": "set_cell", "part": "l6", "column": "power_w", "text": "58"}).json()["revision"] == 1
    )


def watts(load: str, text: str) -> dict[str, Any]:
    return {"op": "set_cell", "part": load, "column": "power_w", "text": text}


def test_a_late_edit_of_another_field_stands_beside_theirs(client: TestClient, heron: str) -> None:
    edit(client, heron, watts("l6", "90"))
    late = edit(client, heron, watts("l7", "70"), revision=1)
    assert (late.status_code, late.json()["revision"]) == (200, 3)
    held = {part["id"]: part for part in late.json()["plan"]["parts"]}
    assert (held["l6"]["power_w"], held["l7"]["power_w"]) == (90, 70)


def test_a_late_edit_of_the_same_field_tells_both_values(client: TestClient, heron: str) -> None:
    edit(client, heron, watts("l6", "90"))
    late = edit(client, heron, watts("l6", "70"), revision=1)
    assert late.status_code == 412
    assert late.headers["content-type"] == PROBLEM
    assert late.json()["current_revision"] == 2
    assert late.json()["changes"] == ["Compressor fridge: watts is 70 in yours, 90 in theirs"]
    assert head(client, heron) == 2


def test_what_is_gone_already_is_not_taken_away_again(client: TestClient, heron: str) -> None:
    remove = {"op": "delete_part", "part": "l6"}
    assert edit(client, heron, remove).json()["revision"] == 2
    again = edit(client, heron, remove, revision=1)
    assert (again.status_code, again.json()["revision"]) == (200, 2)


def test_a_late_patch_by_name_meets_its_own_item(client: TestClient, heron: str) -> None:
    """The zone before it is taken away meanwhile: by place the patch would hit the one behind."""
    zones = [one["id"] for one in client.get(f"/api/plans/{heron}").json()["plan"]["zones"]]
    client.patch(
        f"/api/plans/{heron}",
        json=[{"op": "add", "path": "/zones/0", "value": {"id": "first", "name": "First"}}],
        headers={"If-Match": '"1"'},
    )
    patch = [{"op": "add", "path": f"/zones/id:{zones[1]}/ambient_c", "value": 41}]
    late = client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"1"'})
    assert late.status_code == 200
    found = {one["id"]: one["ambient_c"] for one in late.json()["plan"]["zones"]}
    assert [name for name, value in found.items() if value == 41] == [zones[1]]


def test_a_late_patch_by_place_is_refused(client: TestClient, heron: str) -> None:
    edit(client, heron, watts("l6", "90"))
    patch = [{"op": "replace", "path": "/zones/0/name", "value": "Other"}]
    late = client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"1"'})
    assert late.status_code == 412
    assert late.json()["changes"] == ["Compressor fridge: watts 58 → 90"]
    fresh = client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"2"'})
    assert fresh.status_code == 200


def test_a_patch_for_what_is_not_there_names_it(client: TestClient, heron: str) -> None:
    patch = [{"op": "remove", "path": "/zones/id:nowhere"}]
    answer = client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"1"'})
    assert answer.status_code == 422
    assert "id:nowhere is gone" in answer.json()["detail"]


def test_an_edit_sent_again_with_its_key_is_done_once(client: TestClient, heron: str) -> None:
    add = {"edits": [{"op": "add_loads", "rows": [{"name": "Fan"}], "confirmed": False}]}
    headers = {"If-Match": '"1"', "Idempotency-Key": "abcd-1234"}
    first = client.post(f"/api/plans/{heron}/edits", json=add, headers=headers)
    again = client.post(f"/api/plans/{heron}/edits", json=add, headers=headers)
    assert (first.json()["revision"], again.json()["revision"]) == (2, 2)
    assert sum(part["name"] == "Fan" for part in again.json()["plan"]["parts"]) == 1
    other = client.post(f"/api/plans/{heron}/edits", json=add, headers=headers | {"Idempotency-Key": "efgh-5678"})
    assert other.json()["revision"] == 3
    refused = client.post(f"/api/plans/{heron}/edits", json=add, headers=headers | {"Idempotency-Key": "no spaces!"})
    assert refused.status_code == 422


def test_a_patch_by_place_sent_again_with_its_key_is_done_once(client: TestClient, heron: str) -> None:
    patch = [{"op": "add", "path": "/zones/0", "value": {"id": "loft", "name": "Loft"}}]
    headers = {"If-Match": '"1"', "Idempotency-Key": "abcd-1234"}
    for _ in range(2):
        answer = client.patch(f"/api/plans/{heron}", json=patch, headers=headers)
        assert (answer.status_code, answer.json()["revision"]) == (200, 2)
    assert [zone["id"] for zone in answer.json()["plan"]["zones"]].count("loft") == 1


@pytest.mark.parametrize("what", ["undo", "redo", "history/1/restore"])
def test_undo_redo_and_restore_sent_again_are_done_once(client: TestClient, heron: str, what: str) -> None:
    edit(client, heron, watts("l6", "90"))
    edit(client, heron, watts("l6", "91"), revision=2)
    if what == "redo":
        client.post(f"/api/plans/{heron}/undo", headers={"If-Match": '"3"'})
    now = head(client, heron)
    headers = {"If-Match": f'"{now}"', "Idempotency-Key": "abcd-1234"}
    answers = [client.post(f"/api/plans/{heron}/{what}", headers=headers) for _ in range(2)]
    assert [(one.status_code, one.json()["revision"]) for one in answers] == [(200, now + 1)] * 2


def test_a_patch_without_effect_makes_no_revision(client: TestClient, heron: str) -> None:
    patch = [{"op": "replace", "path": "/job/name", "value": "Heron"}]
    assert client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"1"'}).json()["revision"] == 1


@pytest.mark.parametrize("match", [None, "", "abc", '"x"'])
def test_edit_without_revision_is_asked_for_it(client: TestClient, heron: str, match: str | None) -> None:
    headers = {} if match is None else {"If-Match": match}
    answer = client.post(f"/api/plans/{heron}/undo", headers=headers)
    assert (answer.status_code, answer.json()["type"]) == (428, "urn:lucernis:problem:precondition-required")


def test_patch_is_rfc_6902(client: TestClient, heron: str) -> None:
    patch = [
        {"op": "test", "path": "/job/name", "value": "Heron"},
        {"op": "replace", "path": "/job/name", "value": "Heron 2"},
    ]
    answer = client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"1"'})
    assert answer.json()["plan"]["job"]["name"] == "Heron 2"
    failed = client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"2"'})
    assert failed.status_code == 422
    assert head(client, heron) == 2


@pytest.mark.parametrize(
    ("path", "value", "pointer"),
    [
        ("/runs/0/length_m", -1, "#/runs/0/length_m"),
        ("/runs/0/length_m", 5e9, "#/runs/0/length_m"),
        ("/nominal_v", 0, "#/nominal_v"),
        ("/runs/0/oops", 1, "#/runs/0/oops"),
        ("/practice/set", "nobody", "#/practice/set"),
    ],
)
def test_patch_bad_value_names_the_field_and_stores_nothing(
    client: TestClient, heron: str, path: str, value: Any, pointer: str
) -> None:
    answer = client.patch(
        f"/api/plans/{heron}", json=[{"op": "add", "path": path, "value": value}], headers={"If-Match": '"1"'}
    )
    assert answer.status_code == 422
    assert answer.headers["content-type"] == PROBLEM
    assert pointer in [one["pointer"] for one in answer.json()["errors"]]
    assert head(client, heron) == 1


@pytest.mark.parametrize("path", ["nonsense", "/no/such/place", "/runs/999/length_m", "/runs/-/x/y"])
def test_patch_bad_path_is_a_problem(client: TestClient, heron: str, path: str) -> None:
    answer = client.patch(
        f"/api/plans/{heron}", json=[{"op": "replace", "path": path, "value": 1}], headers={"If-Match": '"1"'}
    )
    assert answer.status_code == 422


def test_undo_redo_history_restore(client: TestClient, heron: str) -> None:
    edit(client, heron, {"op": "set_cell", "part": "l6", "column": "power_w", "text": "90"})
    undone = client.post(f"/api/plans/{heron}/undo", headers={"If-Match": '"2"'}).json()
    assert (undone["can_undo"], undone["can_redo"]) == (False, True)
    redone = client.post(f"/api/plans/{heron}/redo", headers={"If-Match": '"3"'}).json()
    assert redone["revision"] == 4
    lines = client.get(f"/api/plans/{heron}/history").json()
    assert [line["kind"] for line in lines] == ["redo", "undo", "edit", "new"]
    detail = client.get(f"/api/plans/{heron}/history/2").json()
    assert detail["changes"] == ["Compressor fridge: watts 58 → 90"]
    back = client.post(f"/api/plans/{heron}/history/1/restore", headers={"If-Match": '"4"'}).json()
    assert (back["revision"], back["summary"]) == (5, "Back to revision 1")


def test_create_archive_unarchive(client: TestClient) -> None:
    made = client.post("/api/plans", json={"name": "Curlew", "practice_set": "overland_bs", "body": "aluminium"}).json()
    assert made["plan"]["units"] == "metric_bs"
    assert client.post(f"/api/plans/{made['plan_id']}/archive").status_code == 204
    assert "Curlew" not in [card["name"] for card in client.get("/api/plans").json()]
    client.post(f"/api/plans/{made['plan_id']}/unarchive")
    assert "Curlew" in [card["name"] for card in client.get("/api/plans").json()]
    assert client.post("/api/plans", json={"name": "X", "practice_set": "nobody"}).status_code == 422


def test_export_then_import_is_the_identical_plan(client: TestClient, heron: str) -> None:
    before = client.get(f"/api/plans/{heron}").json()
    file = client.get(f"/api/plans/{heron}/files/plan.json")
    assert "heron.lucernis.json" in file.headers["content-disposition"]
    brought = client.post("/api/plans/import", json=file.json()).json()
    assert brought["plan"] == before["plan"]
    assert brought["report"] == before["report"]


@pytest.mark.parametrize(
    "body", [b"", b"null", b"[]", b"{}", b'{"format": "x"}', b"{not json", b"\xff\xfe", b'{"a": NaN}']
)
def test_import_not_a_plan_is_refused_and_nothing_stored(client: TestClient, body: bytes) -> None:
    answer = client.post("/api/plans/import", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.headers["content-type"] == PROBLEM
    assert answer.json()["errors"]
    assert len(client.get("/api/plans").json()) == len(JOBS)


def test_import_nan_length_is_named(client: TestClient) -> None:
    doc = small_document()
    doc["runs"][0]["length_m"] = float("nan")
    answer = client.post("/api/plans/import", content=json.dumps(doc), headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert "#/runs/0/length_m" in [one["pointer"] for one in answer.json()["errors"]]


def test_compare_practice(client: TestClient) -> None:
    plover = next(card["plan_id"] for card in client.get("/api/plans").json() if card["name"].startswith("Plover"))
    found = client.get(f"/api/plans/{plover}/compare", params={"set": "metric_caravan"}).json()
    assert found["changed"] > 0
    # A pinned wire keeps its size under any set.
    kept = sorted(run["after"]["wire_label"] for run in found["runs"] if "mm²" not in run["after"]["wire_label"])
    assert kept == ["16 AWG", "18 SAE"]
    assert client.get(f"/api/plans/{plover}/compare", params={"set": "x"}).status_code == 422


def test_preview_loads_stores_nothing(client: TestClient, heron: str) -> None:
    csv = "name;watts;hours;length\nLamp;10,5;2;3,2\nBad;x;2;3\n"
    found = client.post(
        f"/api/plans/{heron}/loads-csv", content=csv.encode(), headers={"content-type": "text/csv"}
    ).json()
    assert (found["good"], found["bad"]) == (1, 1)
    assert head(client, heron) == 1
    assert client.post(f"/api/plans/{heron}/loads-csv", content=b"").status_code == 422


@pytest.mark.parametrize("name", ["plan.json", "runs.csv", "loads.csv", "run-sheet.pdf", "fuse-map.pdf", "circuit.cir"])
def test_every_file_downloads(client: TestClient, heron: str, name: str) -> None:
    answer = client.get(f"/api/plans/{heron}/files/{name}")
    assert answer.status_code == 200
    assert len(answer.content) > 500
    assert "filename=" in answer.headers["content-disposition"]


def test_files_unknown_name_state_or_paper(client: TestClient, heron: str) -> None:
    assert client.get(f"/api/plans/{heron}/files/secret.txt").status_code == 404
    assert client.get(f"/api/plans/{heron}/files/circuit.cir", params={"state": "x"}).status_code == 422
    assert client.get(f"/api/plans/{heron}/files/run-sheet.pdf", params={"paper": "a0"}).status_code == 422


def test_report_and_size_are_stateless(client: TestClient) -> None:
    report = client.post("/api/report", json=document("plover")).json()
    assert report["format"] == "lucernis-report"
    answer = client.post("/api/size", json={"amps": 18.5, "length_m": 3.0, "practice_set": "small_craft_us"}).json()
    assert answer["fuse_a"] == 20.0
    assert len(client.get("/api/plans").json()) == len(JOBS)


@pytest.mark.parametrize(
    ("body", "pointer"),
    [
        ({"length_m": 3}, "#/"),
        ({"amps": -1, "length_m": 3}, "#/amps"),
        ({"amps": 1, "length_m": 0}, "#/length_m"),
        ({"amps": 1, "length_m": 3, "nominal_v": 0}, "#/nominal_v"),
        ({"amps": 1, "length_m": 3, "mood": 1}, "#/mood"),
        ({"amps": 1, "length_m": 3, "practice_set": "x"}, "#/practice/set"),
    ],
)
def test_size_bad_input_names_the_field(client: TestClient, body: dict[str, Any], pointer: str) -> None:
    answer = client.post("/api/size", json=body)
    assert answer.status_code == 422
    assert pointer in [one["pointer"] for one in answer.json()["errors"]]


def test_nan_in_a_request_is_a_422_and_not_echoed(client: TestClient) -> None:
    answer = client.post(
        "/api/size", content=b'{"amps": NaN, "length_m": Infinity}', headers={"content-type": "application/json"}
    )
    assert answer.status_code == 422
    assert "NaN" not in answer.text
