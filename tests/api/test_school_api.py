"""The school over HTTP: drills that count once, cases that give nothing away, grades, papers."""

from __future__ import annotations

import io
from typing import Any

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from lucernis.core.school.breaking.van import good_van
from lucernis.core.school.drills.ask import drill
from lucernis.core.school.fault_case import fault_case, own_path
from lucernis.core.school.mistakes import mistake_case
from lucernis.plan.document import parse_plan, plan_document


@pytest.fixture
def wren(client: TestClient) -> int:
    made = client.post("/api/school/learners", json={"name": "Wren", "practice": "metric_caravan"})
    assert made.status_code == 200, made.text
    found: int = made.json()["learner_id"]
    return found


def begin(client: TestClient, learner: int, kind: str, *, level: int = 1, seed: int = 7) -> dict[str, Any]:
    answer = client.post(f"/api/school/learners/{learner}/cases", json={"kind": kind, "level": level, "seed": seed})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def words(body: bytes) -> str:
    return " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(body)).pages).split())


def test_a_name_is_enough_and_comes_back(client: TestClient, wren: int) -> None:
    again = client.post("/api/school/learners", json={"name": "wren", "practice": "overland_bs"}).json()
    assert (again["learner_id"], again["practice"]) == (wren, "metric_caravan")
    assert [one["name"] for one in client.get("/api/school/learners").json()] == ["Wren"]
    changed = client.put(f"/api/school/learners/{wren}/practice", json={"practice": "overland_bs"})
    assert changed.json()["practice"] == "overland_bs"


@pytest.mark.parametrize(
    ("body", "pointer"),
    [
        ({"name": ""}, "#/name"),
        ({"name": "   "}, "#/name"),
        ({"name": "x" * 61}, "#/name"),
        ({"name": "a", "age": 3}, "#/age"),
    ],
)
def test_a_name_that_is_none_is_refused_by_field(client: TestClient, body: dict[str, Any], pointer: str) -> None:
    answer = client.post("/api/school/learners", json=body)
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["pointer"] == pointer


def test_a_drill_is_asked_without_its_answer_and_counts_once(client: TestClient, wren: int) -> None:
    asked = client.get(f"/api/school/learners/{wren}/drill", params={"skill": "drop", "seed": 3}).json()
    assert set(asked) & {"right", "working", "mistakes"} == set()
    right = drill("drop", 1, 3, "metric_caravan").right[0]
    body = {"skill": "drop", "level": 1, "seed": 3, "given": [f"{right} V"]}
    first = client.post(f"/api/school/learners/{wren}/answers", json=body).json()
    assert first["judged"]["right"]
    assert first["counted"]
    again = client.post(f"/api/school/learners/{wren}/answers", json=body).json()
    assert not again["counted"]
    stand = client.get(f"/api/school/learners/{wren}").json()
    one = next(each for each in stand["skills"] if each["skill"] == "drop")
    assert (one["answers"], one["rights"]) == (1, 1)


def test_three_right_are_a_level_and_a_usual_mistake_is_named_and_kept(client: TestClient, wren: int) -> None:
    level = 1
    for seed in range(3):
        right = drill("drop", 1, seed, "metric_caravan").right[0]
        body = {"skill": "drop", "level": 1, "seed": seed, "given": [right]}
        level = client.post(f"/api/school/learners/{wren}/answers", json=body).json()["level"]
    assert level == 2
    half = str(float(drill("drop", 1, 40, "metric_caravan").right[0]) / 2)
    wrong = {"skill": "drop", "level": 1, "seed": 40, "given": [half]}
    judged = client.post(f"/api/school/learners/{wren}/answers", json=wrong).json()["judged"]
    assert judged["mistake"] == "You took one way."
    assert judged["working"]
    stand = client.get(f"/api/school/learners/{wren}").json()
    assert stand["slips"] == [{"skill": "drop", "mistake": "You took one way.", "times": 1}]


def test_an_answer_that_is_none_is_refused_and_nothing_is_noted(client: TestClient, wren: int) -> None:
    body = {"skill": "drop", "level": 1, "seed": 3, "given": ["some"]}
    answer = client.post(f"/api/school/learners/{wren}/answers", json=body)
    assert answer.status_code == 422
    assert "not a number" in answer.json()["detail"]
    stand = client.get(f"/api/school/learners/{wren}").json()
    assert not any(one["answers"] for one in stand["skills"])


class TestMistake:
    """A van that is walked."""

    def test_nothing_gives_it_away_until_it_is_handed_in(self, client: TestClient, wren: int) -> None:
        case = begin(client, wren, "mistake", level=2)
        plan, case_id = case["card"]["plan_id"], case["card"]["case_id"]
        envelope = client.get(f"/api/plans/{plan}").json()
        assert envelope["case_id"] == case_id
        assert envelope["report"]["findings"] == []
        assert {one["verdict"] for one in envelope["report"]["runs"]} == {"good"}
        edited = client.post(
            f"/api/plans/{plan}/edits",
            json={"edits": [{"op": "waive", "code": "fuse-missing", "subject": "r2", "reason": "x"}]},
            headers={"If-Match": "1"},
        )
        assert edited.status_code == 200, edited.text
        assert edited.json()["report"]["findings"] == []
        drawn = client.get(f"/api/plans/{plan}/pictures/map").json()
        assert not {stroke["tone"] for piece in drawn["pieces"] for stroke in piece["strokes"]} & {"stop", "fix"}
        made = mistake_case(7, 2)
        sheet = words(client.get(f"/api/plans/{plan}/files/run-sheet.pdf").content)
        assert not any(one.code in sheet for one in made.mistakes)
        report = client.get(f"/api/plans/{plan}/files/report.json").json()
        assert report["findings"] == []
        for path in ("compare?set=overland_bs", "findings.pdf", "handover.pdf"):
            kept = client.get(f"/api/plans/{plan}/{path}")
            assert kept.status_code == 422
            assert "hand the case in first" in kept.json()["detail"]
        shown = client.post(f"/api/plans/{plan}/preview", json={"edits": []}, headers={"If-Match": "2"})
        assert shown.status_code == 422
        assert client.post(f"/api/school/cases/{case_id}/hand-in", json={}).status_code == 200
        after = client.get(f"/api/plans/{plan}").json()
        assert after["case_id"] is None
        assert {one["code"] for one in after["report"]["findings"]} >= {one.code for one in made.mistakes}

    def test_it_stands_apart_from_the_shelf(self, client: TestClient, wren: int) -> None:
        before = len(client.get("/api/plans").json())
        begin(client, wren, "mistake")
        begin(client, wren, "letter")
        assert len(client.get("/api/plans").json()) == before

    def test_marks_and_mend_are_graded_once(self, client: TestClient, wren: int) -> None:
        case = begin(client, wren, "mistake", level=2)
        case_id, plan = case["card"]["case_id"], case["card"]["plan_id"]
        made = mistake_case(7, 2)
        marks = [{"subject": one.subject, "code": one.code} for one in made.mistakes]
        kept = client.put(f"/api/school/cases/{case_id}/marks", json={"marks": [*marks, marks[0]]}).json()
        assert kept["marks"] == marks
        good = plan_document(parse_plan(good_van(made.van).doc))
        mended = client.patch(
            f"/api/plans/{plan}",
            json=[
                {"op": "replace", "path": f"/{key}", "value": good[key]}
                for key in ("parts", "runs", "channels", "places", "zones")
            ],
            headers={"If-Match": "1"},
        )
        assert mended.status_code == 200, mended.text
        found = client.post(f"/api/school/cases/{case_id}/hand-in", json={}).json()
        assert found["mistakes"]["points"] == 100
        assert found["mistakes"]["clean"]
        again = client.post(f"/api/school/cases/{case_id}/hand-in", json={}).json()
        assert again["card"]["done_at"] == found["card"]["done_at"]
        late = client.put(f"/api/school/cases/{case_id}/marks", json={"marks": []})
        assert late.status_code in (409, 422)
        assert "handed in" in late.json()["detail"]

    def test_a_code_that_is_none_is_refused(self, client: TestClient, wren: int) -> None:
        case_id = begin(client, wren, "mistake")["card"]["case_id"]
        answer = client.put(
            f"/api/school/cases/{case_id}/marks", json={"marks": [{"subject": "r1", "code": "nonsense"}]}
        )
        assert answer.status_code == 422
        assert client.get(f"/api/school/cases/{case_id}").json()["marks"] == []


class TestFault:
    """A van with a meter."""

    def test_readings_cost_and_the_cause_is_graded_beside_the_program(self, client: TestClient, wren: int) -> None:
        case = begin(client, wren, "fault", seed=1)
        case_id = case["card"]["case_id"]
        assert case["card"]["plan_id"] is None
        assert case["told"]
        assert "planted" not in str(case)
        offered = client.get(f"/api/school/cases/{case_id}/offered/b1").json()
        read = client.post(
            f"/api/school/cases/{case_id}/looks", json={"reading": offered[0]["id"], "situation": "rest"}
        ).json()
        assert read["spent_min"] > 0
        assert read["looks"][0]["shown"].endswith("V")
        cause = fault_case(1, 1).planted.cause
        causes = client.get(f"/api/school/cases/{case_id}/causes/{cause.part or cause.run}").json()
        assert cause.id in {one["id"] for one in causes}
        assert client.post(f"/api/school/cases/{case_id}/hand-in", json={}).status_code in (409, 422)
        found = client.post(f"/api/school/cases/{case_id}/hand-in", json={"cause": cause.id}).json()
        assert found["fault"]["outcome"] == "guessed", "one reading at the bank says nothing of it"
        assert found["own"]

    def test_what_the_readings_bear_out_is_found(self, client: TestClient, wren: int) -> None:
        case_id = begin(client, wren, "fault", seed=1)["card"]["case_id"]
        case = fault_case(1, 1)
        for look in own_path(case)[0]:
            body = {"reading": look.reading, "situation": look.situation}
            assert client.post(f"/api/school/cases/{case_id}/looks", json=body).status_code == 200
        body = {"cause": case.planted.cause.id}
        found = client.post(f"/api/school/cases/{case_id}/hand-in", json=body).json()
        assert (found["fault"]["outcome"], found["fault"]["points"]) == ("found", 100.0)

    def test_a_reading_that_is_none_is_refused(self, client: TestClient, wren: int) -> None:
        case_id = begin(client, wren, "fault", seed=1)["card"]["case_id"]
        answer = client.post(f"/api/school/cases/{case_id}/looks", json={"reading": "volts:+x~-y", "situation": "rest"})
        assert answer.status_code == 422
        assert client.get(f"/api/school/cases/{case_id}").json()["looks"] == []


def test_a_letter_is_planned_and_graded_beside_the_proposal(client: TestClient, wren: int) -> None:
    case = begin(client, wren, "letter")
    envelope = client.get(f"/api/plans/{case['card']['plan_id']}").json()
    assert envelope["case_id"] is None
    found = client.post(f"/api/school/cases/{case['card']['case_id']}/hand-in", json={}).json()
    assert found["letter"]["points"] == 0
    assert len(found["letter"]["lines"]) == 7
    assert found["letter"]["missing"]


def test_papers_tell_what_was_done_and_nothing_else(client: TestClient, wren: int) -> None:
    begin(client, wren, "mistake", seed=9)
    right = drill("units", 1, 1, "metric_caravan").right[0]
    body = {"skill": "units", "level": 1, "seed": 1, "given": [right]}
    client.post(f"/api/school/learners/{wren}/answers", json=body)
    certificate = words(client.get(f"/api/school/learners/{wren}/certificate.pdf").content)
    assert "Wren" in certificate
    assert "Convert units" in certificate
    assert "Drop at a device" not in certificate
    assert "None yet." in certificate
    assert "no licence" in certificate
    sheet = words(client.get(f"/api/school/learners/{wren}/sheet.pdf").content)
    assert "Drop at a device" in sheet
    assert "Find the mistake 9 1 open" in sheet


@pytest.mark.parametrize(
    "path", ["/api/school/learners/99", "/api/school/cases/nothing", "/api/school/learners/99/certificate.pdf"]
)
def test_what_is_not_there_is_not_found(client: TestClient, path: str) -> None:
    assert client.get(path).status_code == 404


def test_words_are_told_and_what_is_none_is_named(client: TestClient) -> None:
    listed = client.get("/api/words").json()
    assert {"Ampacity", "fuse-missing"} <= {one["name"] for one in listed}
    one = client.get("/api/words/Shunt").json()
    assert one["picture"]["pieces"]
    assert client.get("/api/words/fuse-missing").json()["picture"] is None
    assert client.get("/api/words/nothing").status_code == 422
