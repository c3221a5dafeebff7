"""Ways to a broken server that were found from outside: each is answered in words, and nothing is half done."""

from __future__ import annotations

import io
import json
import sqlite3
import zipfile
from contextlib import closing
from typing import Any
from xml.etree import ElementTree

import pytest
from fastapi.testclient import TestClient

from lucernis.api.app import create_app
from lucernis.api.problems import PROBLEM_JSON
from tests.api.test_hostile import LONE, Send, calm, edit, get, patch, post
from tests.api.test_keeping_api import database_of
from tests.helpers import small_document

__all__ = ["calm"]
CSV = {"content-type": "text/csv"}


def sent(path: str, text: str) -> Send:
    return lambda client, plan: client.post(path.format(plan=plan), content=text.encode(), headers=CSV)


def put(path: str, body: Any) -> Send:
    headers = {"content-type": "application/json"}
    return lambda client, plan: client.put(path, content=json.dumps(body), headers=headers)


def job(change: Any) -> Send:
    """A job's zip with something changed in its lines."""

    def send(client: TestClient, plan: str) -> Any:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(client.get(f"/api/plans/{plan}/job").content)) as old:
            files = {name: old.read(name) for name in old.namelist()}
        change(files)
        with zipfile.ZipFile(out, "w") as new:
            for name, body in files.items():
                new.writestr(name, body)
        return client.post("/api/jobs", content=out.getvalue(), headers={"content-type": "application/zip"})

    return send


def revision_beyond(files: dict[str, bytes]) -> None:
    files["history.ndjson"] = files["history.ndjson"].replace(b'"revision": 1,', b'"revision": 1e400,')


def lone_in_history(files: dict[str, bytes]) -> None:
    files["history.ndjson"] = files["history.ndjson"].replace(b'"summary": "', b'"summary": "\\ud83d ', 1)


def made_in_year_one(files: dict[str, bytes]) -> None:
    lines = [json.loads(line) for line in files["history.ndjson"].splitlines()]
    files["history.ndjson"] = "\n".join(
        json.dumps(one | {"made_at": "0001-01-01T00:00:00+14:00"}) for one in lines
    ).encode()


def photo_of_nothing(files: dict[str, bytes]) -> None:
    one = {"photo_id": "p1", "subject": "", "kind": "place", "note": "", "made_at": "2026-01-01T00:00:00+00:00"}
    files["photos.ndjson"] = (json.dumps(one) + "\n").encode()
    files["photos/p1.jpg"] = b"\xff\xd8\xff"


CASES: dict[str, Send] = {
    "If-Match of a superscript": lambda client, plan: client.post(
        f"/api/plans/{plan}/undo", headers={"If-Match": b'"\xb2"'}
    ),
    "a place in a list that is a superscript": patch({"op": "replace", "path": "/parts/²/name", "value": "x"}),
    "a value nested 500 deep": patch({"op": "add", "path": "/job/note", "value": json.loads("[" * 500 + "]" * 500)}),
    "a document nested 500 deep": post("/api/plans/import", '{"job":' + "[" * 500 + "]" * 500 + "}"),
    "lone surrogate in prices": put(
        "/api/prices", [{"key": f"x{LONE}", "price": 1, "currency": "EUR", "unit": "each", "note": LONE}]
    ),
    "lone surrogate in terms": put("/api/terms", {"tax_name": f"VAT {LONE}"}),
    "lone surrogate in a job": job(lone_in_history),
    "a practice set of a hundred letters": post("/api/plans", {"name": "Job", "practice_set": "x" * 100}),
    "a document of such a practice set": post("/api/plans/import", small_document(practice={"set": "x" * 100})),
    "a learner of such a practice set": post("/api/school/learners", {"name": "Rosa", "practice": "x" * 100}),
    "cells of 200 kB in prices": sent("/api/prices/import", "key,price\n" + "9" * 200_000 + ",1\n"),
    "cells of 200 kB in stock": sent("/api/stock/import", "key,count\n" + "9" * 200_000 + ",1\n"),
    "cells of 200 kB in consumers": sent("/api/consumers/import", "name,watts\n" + "9" * 200_000 + ",1\n"),
    "a revision beyond all bounds": job(revision_beyond),
    "a photo of nothing": job(photo_of_nothing),
    "an asset that is NUL": get("/assets/%00"),
    "text instead of a plan in a case": post(
        "/api/school/learners/1/cases", {"kind": "mistake", "seed": 1, "level": 9}
    ),
}


@pytest.mark.parametrize("name", CASES)
def test_it_is_refused_in_words(name: str, calm: TestClient, heron: str) -> None:
    answer = CASES[name](calm, heron)
    assert 400 <= answer.status_code < 500, (answer.status_code, answer.text[:300])
    assert answer.headers["content-type"] == PROBLEM_JSON
    assert answer.json()["detail"]
    assert calm.get(f"/api/plans/{heron}").json()["revision"] == 1


def test_a_relay_of_5000_amperes_is_put_in_and_judged(calm: TestClient, heron: str) -> None:
    answer = edit({"op": "put_relay", "switch": "s1", "contact_a": 5000})(calm, heron)
    assert answer.status_code < 500
    assert calm.get(f"/api/plans/{heron}").status_code == 200


def test_a_calendar_of_a_name_with_a_line_break_has_no_line_of_it(calm: TestClient, heron: str) -> None:
    named = patch({"op": "replace", "path": "/job/name", "value": "X\r\nATTENDEE:mailto:x"})(calm, heron)
    assert named.status_code < 500
    answer = calm.get(f"/api/plans/{heron}/due.ics")
    assert answer.status_code == 200, answer.text
    assert not [line for line in answer.text.splitlines() if line.startswith("ATTENDEE")]


def test_a_job_made_in_year_one_comes_in_and_stops_nobody(calm: TestClient, heron: str) -> None:
    answer = job(made_in_year_one)(calm, heron)
    assert answer.status_code < 500
    assert calm.get("/api/plans").status_code == 200
    assert calm.get("/api/keeping").status_code == 200
    if answer.status_code == 200:
        plan = answer.json()["plan_id"]
        assert calm.get(f"/api/plans/{plan}/history").status_code == 200
        assert calm.get(f"/api/plans/{plan}/due.ics").status_code == 200


@pytest.mark.parametrize("where", ["plan", "history too"])
def test_bytes_that_are_no_text_in_a_document_leave_the_rest_of_the_shelf(
    calm: TestClient, heron: str, where: str
) -> None:
    torn = "CAST(X'7B22C3288A' AS TEXT)"
    with closing(sqlite3.connect(database_of(calm).path)) as connection, connection:
        connection.execute("PRAGMA ignore_check_constraints=ON")
        made = connection.execute(f"UPDATE plan SET document = {torn} WHERE plan_id = ?", (heron,))  # noqa: S608
        assert made.rowcount == 1
        if where != "plan":
            connection.execute(f"UPDATE revision SET content = {torn} WHERE plan_id = ?", (heron,))  # noqa: S608
    # The same file, as it stands open, with nothing remembered.
    with TestClient(create_app(database_of(calm)), base_url=str(calm.base_url), raise_server_exceptions=False) as anew:
        cards = anew.get("/api/plans")
        assert cards.status_code == 200, cards.text
        assert len(cards.json()) >= 3
        answer = anew.get(f"/api/plans/{heron}")
        if where == "plan":
            # Its history has it still.
            assert answer.json()["plan"]["job"]["name"] == "Heron"
        else:
            assert answer.headers["content-type"] == PROBLEM_JSON
            assert "reads otherwise than it was stored" in answer.json()["detail"]


def test_a_data_file_that_is_deleted_under_way_is_told(calm: TestClient, heron: str) -> None:
    database_of(calm).path.unlink()
    change = edit({"op": "set_cell", "part": "l6", "column": "power_w", "text": "66"})
    for answer in (calm.get(f"/api/plans/{heron}"), change(calm, heron), calm.get("/api/plans")):
        assert answer.headers["content-type"] == PROBLEM_JSON
        assert "while the program runs" in answer.json()["detail"]


def test_no_cell_of_a_table_begins_a_formula(calm: TestClient, heron: str) -> None:
    answer = calm.put("/api/stock", json=[{"key": "\t=1+1", "length_m": 0, "count": 1, "note": "\t=cmd"}])
    if answer.status_code == 200:
        for line in calm.get("/api/stock/export").text.splitlines():
            for cell in line.split(","):
                assert not cell.strip('"\t \r').startswith(("=", "+", "@"))


def test_a_picture_of_a_name_with_a_character_xml_has_not_is_well_formed(calm: TestClient, heron: str) -> None:
    done = edit({"op": "set_cell", "part": "l6", "column": "name", "text": "Fan \ufffe"})(calm, heron)
    answer = calm.get(f"/api/plans/{heron}/files/map.svg")
    if done.status_code < 400 and answer.status_code == 200:
        ElementTree.fromstring(answer.text)  # noqa: S314 - our own text
    assert done.status_code < 500
