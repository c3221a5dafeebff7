"""The door: hosts, origins, sizes, headers, passcode; errors as problem documents; the contract of the client."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lucernis.api.contract import contract
from lucernis.api.door import MOST_BODY_BYTES
from lucernis.api.problems import OTHER, TABLE
from lucernis.demo import JOBS
from lucernis.errors import LucernisError
from tests.helpers import small_document
from tests.law.conftest import PLANS

ROOT = Path(__file__).resolve().parents[2]


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "", "192.168.1.5:8765"])
def test_foreign_host_is_refused(client: TestClient, host: str) -> None:
    answer = client.get("/api/plans", headers={"host": host})
    assert (answer.status_code, answer.headers["content-type"]) == (403, "application/problem+json")


@pytest.mark.parametrize("host", ["127.0.0.1:8765", "localhost:8765", "[::1]:8765", "localhost"])
def test_own_host_is_served(client: TestClient, host: str) -> None:
    assert client.get("/api/health", headers={"host": host}).status_code == 200


@pytest.mark.parametrize(
    "origin", ["http://evil.example", "null", "http://localhost:9999", "http://127.0.0.1:9999", "http://127.0.0.1"]
)
def test_foreign_origin_may_not_change(client: TestClient, origin: str) -> None:
    answer = client.post("/api/plans", json={"name": "X", "practice_set": "overland_bs"}, headers={"origin": origin})
    assert answer.status_code == 403
    assert len(client.get("/api/plans").json()) == len(JOBS)


@pytest.mark.parametrize("method", ["POST", "PUT", "PATCH", "DELETE"])
@pytest.mark.parametrize("header", [{"origin": "http://evil.example"}, {"sec-fetch-site": "cross-site"}])
def test_no_method_that_changes_is_open_to_a_page_from_elsewhere(
    client: TestClient, heron: str, method: str, header: dict[str, str]
) -> None:
    answer = client.request(method, f"/api/plans/{heron}", headers={"If-Match": '"1"'} | header, json=[])
    assert (answer.status_code, answer.json()["type"]) == (403, "urn:lucernis:problem:wrong-door")


def test_a_page_from_elsewhere_may_lead_here_to_read(client: TestClient, heron: str) -> None:
    assert client.get(f"/api/plans/{heron}", headers={"sec-fetch-site": "cross-site"}).status_code == 200


def test_own_origin_may_change(client: TestClient) -> None:
    body = {"name": "X", "practice_set": "overland_bs"}
    assert client.post("/api/plans", json=body, headers={"origin": "http://127.0.0.1:8765"}).status_code == 200


def test_huge_upload_is_refused_before_it_is_read(client: TestClient) -> None:
    """By the length it says it has: nothing of it need be there."""
    for length, status in ((MOST_BODY_BYTES, 422), (MOST_BODY_BYTES + 1, 413)):
        headers = {"content-type": "application/json", "content-length": str(length)}
        answer = client.post("/api/plans/import", content=b"x", headers=headers)
        assert answer.status_code == status, answer.text
    assert answer.json()["type"] == "urn:lucernis:problem:too-large"


def test_endless_body_without_length_is_cut_off(client: TestClient) -> None:
    """A good plan followed by blanks, which JSON allows: only that there is no end of it is wrong."""
    plan = json.dumps(small_document()).encode()

    def sent(more: int) -> httpx.Response:
        def pieces() -> Iterator[bytes]:
            yield plan
            for _ in range(more // 100_000):
                yield b" " * 100_000
            yield b" " * (more % 100_000)

        found: httpx.Response = client.post(
            "/api/report", content=pieces(), headers={"content-type": "application/json"}
        )
        return found

    assert sent(MOST_BODY_BYTES - len(plan)).status_code == 200
    answer = sent(MOST_BODY_BYTES - len(plan) + 1)
    assert (answer.status_code, answer.json()["type"]) == (413, "urn:lucernis:problem:too-large")


def test_every_answer_has_the_policy(client: TestClient) -> None:
    for path in ("/api/plans", "/nowhere", "/api/nowhere"):
        headers = client.get(path).headers
        assert "default-src 'self'" in headers["content-security-policy"]
        assert "http:" not in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"


def test_unexpected_error_is_a_problem_without_innards(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("lucernis.api.stateless.size_run", lambda request: 1 / 0)
    answer = client.post("/api/size", json={"amps": 1, "length_m": 1})
    assert answer.status_code == 500
    assert answer.headers["content-type"] == "application/problem+json"
    assert "division" not in answer.text


def test_missing_page_and_method_are_problems(client: TestClient) -> None:
    assert client.get("/api/plans/none").json()["type"] == "urn:lucernis:problem:not-found"
    assert client.put("/api/plans").headers["content-type"] == "application/problem+json"


def test_every_exception_class_has_an_answer() -> None:
    for kind in LucernisError.__subclasses__():
        assert kind in TABLE


def test_every_problem_type_has_its_section() -> None:
    page = (ROOT / "docs" / "problems.md").read_text(encoding="utf-8")
    for slug in {slug for _, slug, _ in TABLE.values()} | set(OTHER):
        assert f"## {slug}\n" in page


def test_openapi_default_answer_is_a_problem(client: TestClient) -> None:
    schema = client.get("/api/openapi.json").json()
    for path in schema["paths"].values():
        for operation in path.values():
            assert "422" not in operation["responses"]
            assert list(operation["responses"]["default"]["content"]) == ["application/problem+json"]
            assert "_" not in operation["operationId"]


def test_committed_contract_is_the_served_one() -> None:
    assert (ROOT / "web" / "openapi.json").read_text(encoding="utf-8") == contract(), "run: make client"


SCHEMA = schemathesis.openapi.from_dict(json.loads(contract()))
OPERATIONS = {operation.label: operation for operation in (result.ok() for result in SCHEMA.get_all_operations())}


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("label", sorted(OPERATIONS))
def test_any_request_gets_a_sane_answer(label: str, client: TestClient, heron: str) -> None:
    """Schemathesis against our own OpenAPI: never a 500, and every refusal is a problem document."""

    jobs = [heron, *(card["plan_id"] for card in client.get("/api/plans").json())]

    # Some twenty minutes in the long run.
    @settings(
        max_examples=10 if PLANS < 1000 else 250, deadline=None, derandomize=PLANS < 1000,
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(case=OPERATIONS[label].as_strategy(), real=st.booleans(), at=st.sampled_from(jobs))
    def ask(case: schemathesis.Case, real: bool, at: str) -> None:
        if real and "plan_id" in case.path_parameters:
            case.path_parameters["plan_id"] = at
        sent = case.as_transport_kwargs(base_url="http://127.0.0.1:8765")
        answer = client.request(
            sent["method"],
            sent["url"],
            params=sent.get("params"),
            headers=dict(sent["headers"] or {}),
            json=sent.get("json"),
            content=sent.get("data"),
        )
        assert answer.status_code < 500, answer.text
        if answer.status_code >= 400:
            assert answer.headers["content-type"] == "application/problem+json"
            assert answer.json()["detail"]

    ask()


def test_it_can_be_installed_as_an_application(client: TestClient) -> None:
    page = client.get("/").text
    manifest = client.get("/assets/manifest.webmanifest")
    assert 'rel="manifest" href="/assets/manifest.webmanifest"' in page
    assert manifest.headers["content-type"] == "application/manifest+json"
    for icon in manifest.json()["icons"]:
        assert client.get(icon["src"]).headers["content-type"].startswith("image/svg+xml")
