"""An open case gives nothing away, by any door: every address of its van is asked, and the shelf."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import every
from lucernis.core.school.mistakes import mistake_case
from lucernis.exports.files import FILES
from lucernis.plan.document import parse_plan
from tests.api.test_school_api import begin

SEED, LEVEL = 7, 2
ROOT = Path(__file__).parents[2]


def _text(body: bytes) -> str:
    """Everything in a body that can be read: PDF pages and what is in an archive too."""
    if body.startswith(b"%PDF"):
        return " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(body)).pages).split())
    if body.startswith(b"PK"):
        with zipfile.ZipFile(io.BytesIO(body)) as archive:
            return " ".join(_text(archive.read(name)) for name in archive.namelist())
    return body.decode("utf-8", "replace")


def _answers(client: TestClient, plan_id: str, document: dict[str, Any]) -> dict[str, bytes]:
    """Every answer there is of a plan."""
    contract = json.loads((ROOT / "web" / "openapi.json").read_text(encoding="utf-8"))
    run = document["runs"][0]["id"]
    load = next(part["id"] for part in document["parts"] if part["kind"] == "load")
    fills = {"run_id": run, "part": load, "subject": load, "key": f"run.{run}.wire", "revision": "1", "finding": "x"}
    found: dict[str, bytes] = {}
    for path, methods in contract["paths"].items():
        if "get" not in methods or "{plan_id}" not in path:
            continue
        some = [path]
        if path.endswith("/files/{name}"):
            some = [path.replace("{name}", name) for name in FILES]
        elif path.endswith("/pictures/{kind}"):
            some = [path.replace("{kind}", kind) for kind in ("map", "board", "layout", "wiring")]
        for one in some:
            address = one.replace("{plan_id}", plan_id)
            for name, value in fills.items():
                address = address.replace("{" + name + "}", value)
            if "{" not in address:
                found[f"GET {one}"] = client.get(address).content
    edit = {"op": "set_fields", "subject": load, "values": {"name": "Lamp"}}
    at = {"If-Match": "1"}
    for name, body in (
        ("preview", {"edits": [edit]}), ("options", {"options": [{"name": "a"}]}), ("propose", {}),
        ("edits", {"edits": [edit]}),
    ):  # fmt: skip
        found[f"POST {name}"] = client.post(f"/api/plans/{plan_id}/{name}", json=body, headers=at).content
    edited = json.loads(found["POST edits"])
    assert edited["revision"] == 2, "the edit was carried out, so that its answer was looked at"
    found["POST undo"] = client.post(f"/api/plans/{plan_id}/undo", headers={"If-Match": "2"}).content
    assert json.loads(found["POST undo"])["revision"] == 3
    found["GET shelf"] = client.get("/api/plans").content
    return found


@pytest.fixture
def learner(client: TestClient) -> int:
    found: int = client.post("/api/school/learners", json={"name": "Wren", "practice": "metric_caravan"}).json()[
        "learner_id"
    ]
    return found


def test_no_door_tells_what_is_wrong_until_the_case_is_handed_in(client: TestClient, learner: int) -> None:
    case = begin(client, learner, "mistake", level=LEVEL, seed=SEED)
    plan_id = case["card"]["plan_id"]
    document = client.get(f"/api/plans/{plan_id}").json()["plan"]
    findings = every(evaluate(parse_plan(document), with_working=False).findings)
    codes = {one.code for one in findings} | set(mistake_case(SEED, LEVEL).mistakes[0].codes)
    secrets = {one.what for one in findings} | {one.mend for one in findings if len(one.mend) > 40}
    answers = _answers(client, plan_id, document)
    assert len(answers) > 40
    for door, body in answers.items():
        text = _text(body)
        told = [one for one in secrets if one in text]
        assert not told, (door, told[:2])
        assert not [code for code in codes if f'"{code}"' in text], door
        assert '"verdict":"stop"' not in text.replace(" ", ""), door
        assert '"verdict":"fix"' not in text.replace(" ", ""), door
    assert codes <= set(CODES)


def test_its_van_is_judged_under_no_other_name_until_then(client: TestClient, learner: int) -> None:
    case = begin(client, learner, "mistake", level=LEVEL, seed=SEED)
    plan_id, case_id = case["card"]["plan_id"], case["card"]["case_id"]
    document = client.get(f"/api/plans/{plan_id}").json()["plan"]
    job = client.get(f"/api/plans/{plan_id}/job").content
    renamed = document | {"job": document["job"] | {"name": "Another"}}

    def doors() -> list[int]:
        some = [
            client.post(f"/api/{path}", json=one) for path in ("plans/import", "report") for one in (document, renamed)
        ]
        return [one.status_code for one in [*some, client.post("/api/jobs", content=job)]]

    before = len(client.get("/api/plans").json())
    refused = doors()
    assert all(code in (409, 422) for code in refused), refused
    assert len(client.get("/api/plans").json()) == before
    other = next(one["plan_id"] for one in client.get("/api/plans").json() if one["name"] == "Heron")
    heron = client.get(f"/api/plans/{other}").json()["plan"]
    assert client.post("/api/report", json=heron).status_code == 200
    assert client.post(f"/api/school/cases/{case_id}/hand-in", json={}).status_code == 200
    assert client.post("/api/report", json=document).status_code == 200
    assert client.post("/api/jobs", content=job).status_code == 200
