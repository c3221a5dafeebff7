"""Backups, whole jobs, history by pages, names of revisions and unreadable plans over HTTP."""

from __future__ import annotations

import io
import sqlite3
import zipfile
from contextlib import closing

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from lucernis.api.shapes import PlanEnvelope
from lucernis.demo import JOBS
from lucernis.errors import StoreFull
from lucernis.store.database import Database


def database_of(client: TestClient) -> Database:
    found: Database = client.app.state.database  # type: ignore[attr-defined]
    return found


def set_watts(client: TestClient, plan_id: str, watts: str) -> int:
    revision = client.get(f"/api/plans/{plan_id}").json()["revision"]
    edits = [{"op": "set_cell", "part": "l6", "column": "power_w", "text": watts}]
    headers = {"If-Match": f'"{revision}"'}
    return client.post(f"/api/plans/{plan_id}/edits", json={"edits": edits}, headers=headers).status_code


def test_backups_are_made_listed_and_brought_back(client: TestClient, heron: str) -> None:
    assert client.get("/api/keeping").json()["backups"] == []
    made = client.post("/api/backups").json()
    assert (made["plans"], made["problem"], made["why"]) == (len(JOBS), "", "asked")
    assert set_watts(client, heron, "77") == 200
    before = client.post(f"/api/backups/{made['name']}/restore").json()
    assert client.get(f"/api/plans/{heron}").json()["revision"] == 1
    assert {one["name"] for one in client.get("/api/keeping").json()["backups"]} == {made["name"], before["name"]}
    assert client.post("/api/backups/nothing/restore").status_code == 404
    assert client.get("/api/plans").json()[0]["revision"] == 1


def test_a_job_goes_out_and_comes_back_with_its_history(client: TestClient, heron: str) -> None:
    set_watts(client, heron, "77")
    assert client.put(f"/api/plans/{heron}/history/1/name", json={"name": "as quoted"}).status_code == 204
    body = client.get(f"/api/plans/{heron}/job").content
    brought = client.post("/api/jobs", content=body, headers={"content-type": "application/zip"}).json()
    own = client.get(f"/api/plans/{heron}").json()
    assert brought["plan"] == own["plan"]
    assert brought["report"] == own["report"]
    assert brought["plan_id"] != heron
    assert [one["name"] for one in client.get(f"/api/plans/{brought['plan_id']}/named").json()] == ["as quoted"]
    answer = client.post("/api/jobs", content=b"PK nonsense", headers={"content-type": "application/zip"})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["pointer"] == "#/file"


def test_history_comes_in_pages(client: TestClient, heron: str) -> None:
    for watts in range(60, 64):
        assert set_watts(client, heron, str(watts)) == 200
    page = client.get(f"/api/plans/{heron}/history", params={"before": 4}).json()
    assert [line["revision"] for line in page] == [3, 2, 1]
    assert client.get(f"/api/plans/{heron}/history", params={"before": 0}).status_code == 422
    assert client.put(f"/api/plans/{heron}/history/99/name", json={"name": "x"}).status_code == 404
    assert client.put(f"/api/plans/{heron}/history/1/name", json={"name": "a\x00"}).status_code == 422


def test_a_plan_that_cannot_be_read_is_one_card_and_the_shelf_goes_on(client: TestClient, heron: str) -> None:
    with closing(sqlite3.connect(database_of(client).path)) as connection, connection:
        connection.execute("UPDATE plan SET document = '{}' WHERE plan_id = ?", (heron,))
        connection.execute("UPDATE revision SET content = '[]' WHERE plan_id = ?", (heron,))
    cards = client.get("/api/plans").json()
    spoilt = [card for card in cards if card["problem"]]
    assert [card["plan_id"] for card in spoilt] == [heron]
    assert "reads otherwise than it was stored" in spoilt[0]["problem"]
    assert len(cards) == len(JOBS)
    answer = client.get(f"/api/plans/{heron}")
    assert answer.status_code == 409
    assert answer.json()["type"] == "urn:lucernis:problem:plan-damaged"


def test_a_plan_of_a_newer_format_is_a_card_that_says_so(client: TestClient, heron: str) -> None:
    from lucernis.store.deltas import checksum

    with closing(sqlite3.connect(database_of(client).path)) as connection, connection:
        text = connection.execute("SELECT document FROM plan WHERE plan_id = ?", (heron,)).fetchone()[0]
        newer = text.replace('"version":', '"version":9', 1)
        connection.execute("UPDATE plan SET document = ? WHERE plan_id = ?", (newer, heron))
        connection.execute("UPDATE revision SET checksum = ? WHERE plan_id = ?", (checksum(newer), heron))
    card = next(card for card in client.get("/api/plans").json() if card["plan_id"] == heron)
    assert "newer" in card["problem"]
    assert client.get(f"/api/plans/{heron}").status_code == 422


def test_what_is_remembered_is_what_is_computed(
    client: TestClient, heron: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = client.get(f"/api/plans/{heron}")
    calls = []
    monkeypatch.setattr("lucernis.api.answers.evaluate", lambda *a, **k: calls.append(a))
    again = client.get(f"/api/plans/{heron}")
    assert again.content == first.content
    cards = client.get("/api/plans").json()
    assert calls == []
    assert next(card for card in cards if card["plan_id"] == heron)["run_count"] == len(first.json()["report"]["runs"])
    assert set(first.json()) == set(PlanEnvelope.__dataclass_fields__)


def test_a_card_of_another_program_is_computed_anew(client: TestClient, heron: str) -> None:
    client.get("/api/plans")
    with closing(sqlite3.connect(database_of(client).path)) as connection, connection:
        connection.execute("UPDATE card SET content = '{\"stale\": 1}', made_from = 'old ' || made_from")
    assert len(client.get("/api/plans").json()) == len(JOBS)


def test_a_full_disk_is_said_and_the_same_can_be_sent_again(
    client: TestClient, heron: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    connect = Database._connect
    plan = client.get(f"/api/plans/{heron}").json()["plan"]

    def narrow(self: Database, *, read_only: bool = False) -> sqlite3.Connection:
        connection = connect(self, read_only=read_only)
        if not read_only:
            # Never less than the file has already.
            connection.execute("PRAGMA max_page_count = 1")
        return connection

    with monkeypatch.context() as full:
        full.setattr(Database, "_connect", narrow)
        answer = client.post("/api/plans/import", json=plan)
        assert answer.status_code == 507
        assert answer.json()["type"] == "urn:lucernis:problem:store-full"
        assert "is full; nothing was stored" in answer.json()["detail"]
        assert len(client.get("/api/plans").json()) == len(JOBS)
    assert client.post("/api/plans/import", json=plan).status_code == 200


def _with_broken_photo(body: bytes) -> bytes:
    """A job's zip whose last photo is none."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(body)) as old, zipfile.ZipFile(out, "w") as new:
        pictures = [one for one in old.namelist() if one.startswith("photos/")]
        for name in old.namelist():
            new.writestr(name, b"no picture" if name == pictures[-1] else old.read(name))
    return out.getvalue()


def test_a_job_with_a_broken_photo_leaves_nothing_behind(client: TestClient, heron: str) -> None:
    picture = io.BytesIO()
    Image.new("RGB", (40, 30), "red").save(picture, "JPEG")
    place = client.get(f"/api/plans/{heron}").json()["plan"]["places"][0]["id"]
    for _ in range(2):
        sent = client.post(
            f"/api/plans/{heron}/photos",
            params={"subject": place, "kind": "place"},
            content=picture.getvalue(),
            headers={"content-type": "image/jpeg"},
        )
        assert sent.status_code < 300, sent.text
    body = client.get(f"/api/plans/{heron}/job").content
    before = [one["plan_id"] for one in client.get("/api/plans").json()]
    for _ in range(2):
        answer = client.post("/api/jobs", content=_with_broken_photo(body), headers={"content-type": "application/zip"})
        assert answer.status_code == 422
        assert [one["plan_id"] for one in client.get("/api/plans").json()] == before
    assert client.post("/api/jobs", content=body, headers={"content-type": "application/zip"}).status_code == 200


def test_a_job_whose_last_photo_finds_no_room_leaves_nothing_behind(
    client: TestClient, heron: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    picture = io.BytesIO()
    Image.new("RGB", (40, 30), "red").save(picture, "JPEG")
    place = client.get(f"/api/plans/{heron}").json()["plan"]["places"][0]["id"]
    client.post(
        f"/api/plans/{heron}/photos", params={"subject": place, "kind": "place"}, content=picture.getvalue(),
        headers={"content-type": "image/jpeg"},
    )  # fmt: skip
    body = client.get(f"/api/plans/{heron}/job").content
    before = len(client.get("/api/plans").json())

    def full(*_: object, **__: object) -> None:
        raise StoreFull("the disk is full; nothing was stored", field="data")

    monkeypatch.setattr("lucernis.store.photos.PhotoStore.keep_photo", full)
    answer = client.post("/api/jobs", content=body, headers={"content-type": "application/zip"})
    assert answer.status_code == 507
    assert len(client.get("/api/plans").json()) == before
