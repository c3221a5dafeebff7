"""Proving, finding faults, aftercare and meters over HTTP."""

from __future__ import annotations

import io
import itertools
import threading
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from icalendar import Calendar
from pypdf import PdfReader

from lucernis.api.app import create_app
from lucernis.core.prove.vehicle import Vehicle
from lucernis.demo import demo_plan, load_demo, load_demo_record
from lucernis.meters.monitor import MonitorServer
from lucernis.meters.simulated import MeterServer
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from lucernis.store.record import RecordStore
from tests.serving import ANSWERS

KEYS = itertools.count(1)


def note(client: TestClient, plan: str, kind: str, **more: Any) -> dict[str, Any]:
    answer = client.post(f"/api/plans/{plan}/record", json={"key": f"key-{next(KEYS):08d}", "kind": kind, **more})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def pdf_words(body: bytes) -> str:
    return " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(body)).pages).split())


def test_a_reading_is_judged_noted_and_shown_with_its_line(client: TestClient, heron: str) -> None:
    line = "volts:+l7~-l7@load:l7"
    asked = client.post(f"/api/plans/{heron}/proving/judge", json={"line": line, "typed": "12500"}).json()
    assert (asked["verdict"], asked["meant"]) == ("unit", "12500 mV")
    found = client.get(f"/api/plans/{heron}/proving").json()
    assert found["proved"] == {}
    one = next(each for each in found["proving"]["lines"] if each["id"] == line)
    entry = note(client, heron, "reading", subject=line, text="11.9", was=one["as_read"], who="Ida",
                 detail={"instrument": "Meter 2"})  # fmt: skip
    proved = client.get(f"/api/plans/{heron}/proving").json()["proved"][line]
    assert proved["judged"]["verdict"] == "out"
    assert (proved["instrument"], proved["who"], proved["old"]) == ("Meter 2", "Ida", False)
    note(client, heron, "back", takes_back=entry["number"])
    assert client.get(f"/api/plans/{heron}/proving").json()["proved"] == {}


def test_a_changed_plan_makes_a_reading_old(client: TestClient, heron: str) -> None:
    line = "volts:+l7~-l7@load:l7"
    lines = client.get(f"/api/plans/{heron}/proving").json()["proving"]["lines"]
    was = next(each["as_read"] for each in lines if each["id"] == line)
    note(client, heron, "reading", subject=line, text="12.5", was=was)
    assert client.get(f"/api/plans/{heron}/proving").json()["proved"][line]["old"] is False
    edited = client.post(
        f"/api/plans/{heron}/edits",
        json={"edits": [{"op": "pin_wire", "run": "r11", "size": "6 mm2", "reason": "what was there"}]},
        headers={"If-Match": "1"},
    )
    assert edited.status_code == 200, edited.text
    assert client.get(f"/api/plans/{heron}/proving").json()["proved"][line]["old"] is True


def test_a_line_that_is_not_there_is_named(client: TestClient, heron: str) -> None:
    answer = client.post(f"/api/plans/{heron}/proving/judge", json={"line": "volts:+zz~-zz@rest", "typed": "12"})
    assert answer.status_code == 404
    assert answer.json()["errors"][0]["pointer"] == "#/line"


def test_a_fault_is_found_by_the_readings_that_are_named(client: TestClient, heron: str) -> None:
    vehicle = Vehicle(demo_plan("heron"), ("C11 joint 80 mohm",), seed=3)
    known: dict[str, Any] = {"readings": [], "symptoms": [{"kind": "weak", "subject": "l7"}]}
    with MeterServer(vehicle, 0) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        port = server.server_address[1]
        for _ in range(10):
            answer = client.post(f"/api/plans/{heron}/faults", json=known).json()
            if answer["suspects"][0]["share"] > 0.95:
                break
            following = answer["next"][0]
            where = {"reading": following["reading"], "situation": following["situation"]}
            said = client.post(f"/api/plans/{heron}/meter", json={"port": port, **where})
            assert said.status_code == 200, said.text
            assert said.json()["simulated"]
            known["readings"].append({**where, "typed": said.json()["typed"], "leads_ohm": 0.3})
            known["now"] = following["situation"]
        leads = client.post(f"/api/plans/{heron}/meter", json={"port": port}).json()
        server.shutdown()
    first = answer["suspects"][0]
    assert (first["id"], answer["explained"]) == ("joint:r11:p:start", True)
    assert len(first["beside"]) == len(known["readings"])
    assert leads["value"] == pytest.approx(0.3, abs=0.1)


@pytest.mark.parametrize(
    ("reading", "field"),
    [
        ({"reading": "volts:+b1~-b1", "situation": "rest", "typed": "many"}, "readings/0/typed"),
        ({"reading": "volts:+b1~-b1", "situation": "rest", "typed": "12 A"}, "readings/0/typed"),
        ({"reading": "volts:+zz~-b1", "situation": "rest", "typed": "12"}, "probe"),
        ({"reading": "volts:+b1~-b1", "situation": "nowhere", "typed": "12"}, "situation"),
        ({"reading": "songs", "situation": "rest", "typed": "12"}, "reading"),
    ],
)  # fmt: skip
def test_nonsense_is_refused_by_its_field(client: TestClient, heron: str, reading: dict[str, str], field: str) -> None:
    answer = client.post(f"/api/plans/{heron}/faults", json={"readings": [reading], "symptoms": []})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["pointer"] == f"#/{field}"


def test_a_meter_that_is_not_there_is_said_and_nothing_is_taken(client: TestClient, heron: str) -> None:
    answer = client.post(f"/api/plans/{heron}/meter", json={"port": 1, "reading": "volts:+b1~-b1"})
    assert (answer.status_code, answer.json()["type"]) == (409, "urn:lucernis:problem:meter-gone")
    far = client.post(f"/api/plans/{heron}/meter", json={"host": "8.8.8.8", "reading": "volts:+b1~-b1"})
    assert (far.status_code, far.json()["errors"][0]["pointer"]) == (422, "#/host")


def test_the_battery_monitor_is_read(client: TestClient) -> None:
    with MonitorServer(Vehicle(demo_plan("heron")), "rest", 0) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        said = client.post("/api/monitor", json={"port": server.server_address[1]}).json()
        server.shutdown()
    assert 12.5 < said["voltage_v"] < 14


def test_what_can_be_said_and_read_is_offered(client: TestClient, heron: str) -> None:
    choices = client.get(f"/api/plans/{heron}/faults/choices").json()
    assert {"weak", "blows", "flat"} <= {one["id"] for one in choices["symptoms"]}
    assert {"rest", "dead", "load:l7"} <= {one["id"] for one in choices["situations"]}
    some = client.get(f"/api/plans/{heron}/faults/offered/l7").json()
    assert {"volts:+l7~-l7", "ohms:+l7~-l7", "amps:r11:p"} <= {one["reading"] for one in some}
    assert client.get(f"/api/plans/{heron}/faults/offered/zz").status_code == 404


def test_a_confirmed_cause_teaches_the_odds_and_closes_its_fuse(client: TestClient, heron: str) -> None:
    asked = {"readings": [], "symptoms": [{"kind": "blows", "subject": "r11"}]}
    before = client.post(f"/api/plans/{heron}/faults", json=asked).json()
    blown = note(client, heron, "blown", subject="r11", text="C11 10 A")
    assert [one["number"] for one in client.get(f"/api/plans/{heron}/log").json()["open_fuses"]] == [blown["number"]]
    for _ in range(5):
        note(client, heron, "cause", subject="r11", text="chafed at the sill", detail={"kind": "wire_short",
             "blown": blown["number"]})  # fmt: skip
    log = client.get(f"/api/plans/{heron}/log").json()
    assert log["open_fuses"] == []
    assert log["finds"] == {"wire_short": 5}
    after = client.post(f"/api/plans/{heron}/faults", json=asked).json()

    def share(answer: dict[str, Any]) -> float:
        return sum(one["share"] for one in answer["suspects"] if one["kind"] == "wire_short")

    assert share(after) > share(before)
    assert "5 of this workshop's 5 finds" in after["suspects"][0]["prior"]


def test_a_cause_names_a_fuse_that_blew_a_kind_there_is_and_says_something(client: TestClient, heron: str) -> None:
    def refused(**more: Any) -> tuple[int, str]:
        entry = {"key": "cause-key-1", "kind": "cause", "subject": "r11", "text": "chafed", **more}
        answer = client.post(f"/api/plans/{heron}/record", json=entry)
        return answer.status_code, str(answer.json())

    assert refused(detail={"blown": 7})[0] == 422
    assert "no fuse that blew" in refused(detail={"blown": 7})[1]
    assert "no kind of cause" in refused(detail={"kind": "ghosts"})[1]
    assert "text" in refused(text="  ")[1]
    assert client.get(f"/api/plans/{heron}/record").json() == []
    assert refused(detail={"kind": "wire_short"})[0] == 200


def test_an_odometer_that_goes_back_is_asked_about(client: TestClient, heron: str) -> None:
    note(client, heron, "others", text="seen", detail={"odometer_km": 84200})
    entry = {"key": "odometer-1", "kind": "others", "text": "seen again", "detail": {"odometer_km": 84199}}
    answer = client.post(f"/api/plans/{heron}/record", json=entry)
    assert answer.status_code == 422
    assert "was it replaced" in str(answer.json())
    entry["detail"] = {"odometer_km": 12, "odometer_replaced": True}
    assert client.post(f"/api/plans/{heron}/record", json=entry).status_code == 200
    assert client.get(f"/api/plans/{heron}/log").json()["odometer_km"] == 12
    note(client, heron, "others", text="a day later", detail={"odometer_km": 12})


def test_frozen_as_built_it_is_due_and_a_later_change_is_told(client: TestClient, heron: str) -> None:
    assert client.get(f"/api/plans/{heron}/log").json()["due"] == []
    note(client, heron, "asbuilt", text="As built", made_at="2026-01-02T10:00:00+00:00", detail={"odometer_km": 9000})
    note(client, heron, "handed", text="to the owner")
    log = client.get(f"/api/plans/{heron}/log").json()
    assert log["built_at"].startswith("2026-01-02")
    assert [one["name"] for one in client.get(f"/api/plans/{heron}/named").json()] == ["As built"]
    assert next(one for one in log["due"] if one["what"] == "torque")["state"] == "overdue"
    codes = {one["code"] for one in log["findings"]}
    assert {"recheck-overdue", "reading-missing", "as-built-unfinished", "unlabelled-end", "no-spare-fuses"} <= codes
    assert not codes & {"as-built-differs", "paper-older"}
    shelf = client.get("/api/due").json()
    assert [(one["plan_id"], one["due"][0]["what"]) for one in shelf] == [(heron, "torque")]
    calendar = Calendar.from_ical(client.get(f"/api/plans/{heron}/due.ics").content)
    assert len(calendar.walk("VEVENT")) == len(log["due"])
    client.post(
        f"/api/plans/{heron}/edits",
        json={"edits": [{"op": "pin_wire", "run": "r11", "size": "6 mm2", "reason": "what was there"}]},
        headers={"If-Match": "1"},
    )
    codes = {one["code"] for one in client.get(f"/api/plans/{heron}/log").json()["findings"]}
    assert {"as-built-differs", "paper-older"} <= codes
    # Undone, it is what was built again.
    client.post(f"/api/plans/{heron}/undo", headers={"If-Match": "2"})
    codes = {one["code"] for one in client.get(f"/api/plans/{heron}/log").json()["findings"]}
    assert not codes & {"as-built-differs", "paper-older"}


def test_sheet_certificate_and_pack_are_papers_that_say_what_was_read(client: TestClient, heron: str) -> None:
    note(
        client,
        heron,
        "reading",
        subject="volts:+b1~-b1@rest",
        text="13.31 V",
        who="Ida",
        detail={"instrument": "Meter 2"},
    )
    note(client, heron, "reading", subject="ohms:-g1~-u1@dead", text="0.3", detail={"leads_ohm": 0.3})
    note(client, heron, "setting", subject="q1", text="LFP, 14.2 V")
    note(client, heron, "spares", text="one of each in the lid")
    sheet = pdf_words(client.get(f"/api/plans/{heron}/files/proving-sheet.pdf").content)
    assert "Negatives off the batteries, every fuse out" in sheet
    assert "ohms are never read on a live circuit" in sheet
    certificate = pdf_words(client.get(f"/api/plans/{heron}/certificate.pdf").content)
    assert "2 of" in certificate
    assert "13.31 V" in certificate
    assert "Ida, Meter 2" in certificate
    assert "0.3 ohm" in certificate or "0.3 Ω" in certificate
    pack = pdf_words(client.get(f"/api/plans/{heron}/handover.pdf?paper=letter").content)
    for words in ("What is where", "What to do when", "Never", "Which fuse is for what", "What to look after",
                  "LFP, 14.2 V", "one of each in the lid", "13.31 V", "Marrowbone Lane Auto Electric",
                  "lithium battery has switched itself off", "licensed people"):  # fmt: skip
        assert words in pack, words
    with_code = client.get(f"/api/plans/{heron}/handover.pdf?qr=true")
    assert with_code.headers["content-type"] == "application/pdf"


def test_the_code_on_the_lid_opens_the_log(client: TestClient, heron: str) -> None:
    """Read back by zxing-cpp, which knows nothing of this project."""
    import zxingcpp
    from PIL import Image

    from lucernis.exports.code_drawing import code_rows

    address = f"http://127.0.0.1:8765/plan/{heron}/log"
    rows = code_rows(address)
    picture = Image.new("L", (len(rows) * 8 + 64, len(rows) * 8 + 64), 255)
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            if dark:
                picture.paste(0, (32 + 8 * x, 32 + 8 * y, 40 + 8 * x, 40 + 8 * y))
    (found,) = zxingcpp.read_barcodes(picture)
    assert found.text == address
    plain, coded = (client.get(f"/api/plans/{heron}/files/fuse-map.pdf{query}").content for query in ("", "?qr=true"))
    assert "The log of this vehicle" in pdf_words(coded)
    assert "The log of this vehicle" not in pdf_words(plain)


def test_a_clock_that_jumped_is_not_believed(client: TestClient, heron: str) -> None:
    """A phone that thinks it is next year: the entry stands under the day it arrived, and nothing is due too late."""
    entry = note(client, heron, "asbuilt", text="As built", made_at="2031-01-01T00:00:00+00:00")
    assert entry["made_at"] == entry["kept_at"]
    log = client.get(f"/api/plans/{heron}/log").json()
    assert log["due"][0]["on"] < "2030"


@pytest.mark.parametrize(
    ("entry", "pointer"),
    [
        ({"kind": "reading", "text": "12 V"}, "subject"),
        ({"kind": "reading", "subject": "volts:+b1~-b1@rest"}, "text"),
        ({"kind": "asbuilt"}, "text"), ({"kind": "sung"}, "kind"),
        ({"kind": "note", "text": "x", "detail": {"a": [1]}}, "detail"),
        ({"kind": "note", "text": "x", "detail": {"a": "y" * 301}}, "detail"),
        ({"kind": "note", "text": "x", "detail": {f"a{k}": 1 for k in range(21)}}, "detail"),
    ],
)  # fmt: skip
def test_entries_that_say_nothing_are_refused(
    client: TestClient, heron: str, entry: dict[str, Any], pointer: str
) -> None:
    answer = client.post(f"/api/plans/{heron}/record", json={"key": "key-refused-1", **entry})
    assert answer.status_code == 422
    assert pointer in str(answer.json()["errors"])


def test_readings_travel_with_the_job(client: TestClient, heron: str) -> None:
    note(
        client,
        heron,
        "reading",
        subject="volts:+b1~-b1@rest",
        text="13.3",
        detail={"instrument": "Meter 2", "leads_ohm": 0.2},
    )
    body = client.get(f"/api/plans/{heron}/job").content
    brought = client.post("/api/jobs", content=body, headers={"content-type": "application/zip"})
    assert brought.status_code in (200, 201), brought.text
    entries = client.get(f"/api/plans/{brought.json()['plan_id']}/record").json()
    assert entries[0]["detail"] == {"instrument": "Meter 2", "leads_ohm": 0.2}


def test_the_report_as_found_says_what_is_wrong_with_photos_and_how_wires_are_known(client: TestClient) -> None:
    plover = next(one["plan_id"] for one in client.get("/api/plans").json() if one["name"] == "Plover")
    seen = client.post("/api/identify-wire", json={"system": "mm2", "strands": 50, "strand_mm": 0.25}).json()
    assert (seen["reckon_with"], seen["guesses"][0]["label"]) == ("2.5", "2.5 mm²")
    reason = "as found: 50 strands of 0.25 mm"
    edited = client.post(
        f"/api/plans/{plover}/edits",
        json={"edits": [{"op": "pin_wire", "run": "r2", "size": "2.5 mm2", "reason": reason}]},
        headers={"If-Match": "1"},
    )
    assert edited.status_code == 200, edited.text
    note(client, plover, "others", text="radio rewired by a friend")
    words = pdf_words(client.get(f"/api/plans/{plover}/findings.pdf").content)
    assert "The electrics as they were found" in words
    assert "STOP" in words
    assert reason in words
    assert "radio rewired by a friend" in words
    assert client.post("/api/identify-wire", json={}).status_code == 422


def test_the_quote_to_mend_is_what_is_beyond_the_revision_it_was_found_as(client: TestClient) -> None:
    plover = next(one["plan_id"] for one in client.get("/api/plans").json() if one["name"] == "Plover")
    note(client, plover, "asbuilt", text="As found")
    edited = client.post(
        f"/api/plans/{plover}/edits",
        json={"edits": [{"op": "pin_wire", "run": "r4", "size": "6 mm2", "reason": "too thin as found"}]},
        headers={"If-Match": "1"},
    )
    assert edited.status_code == 200, edited.text
    whole = client.get(f"/api/plans/{plover}/quote").json()
    mend = client.get(f"/api/plans/{plover}/quote?since=1").json()
    assert 0 < mend["hours"] < whole["hours"]
    assert 0 < mend["parts_total"] < whole["parts_total"]
    kept = client.post(f"/api/plans/{plover}/quotes?since=1").json()
    assert kept["quote"]["total"] == mend["total"]
    assert client.get(f"/api/plans/{plover}/quote?since=99").status_code == 404


def test_a_reading_is_judged_by_the_day_it_was_taken_on(client: TestClient) -> None:
    plan = next(one["plan_id"] for one in client.get("/api/plans").json() if one["name"] == "Tern")
    line = "volts:+l2~-l2@load:l2"
    today = {"measured": "b1:12.62"}
    band = {one["id"]: one for one in client.get(f"/api/plans/{plan}/proving", params=today).json()["proving"]["lines"]}
    low = f"{band[line]['low'] - 0.1:.2f} V"
    note(client, plan, "reading", subject=line, text=low, detail=today)
    assert client.get(f"/api/plans/{plan}/proving").json()["proved"][line]["judged"]["verdict"] == "out"
    # Taken on a day nobody measured it is well, whatever is measured later.
    note(client, plan, "reading", subject=line, text=low)
    assert client.get(f"/api/plans/{plan}/proving", params=today).json()["proved"][line]["judged"]["verdict"] == "in"


def test_what_is_due_and_printed_goes_by_the_clock_that_is_given(tmp_path: Path) -> None:
    """The same file at two days years apart: what is due by then differs, and so does the day on an entry."""
    database = Database(tmp_path / "clock.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    load_demo_record(RecordStore(database), PlanStore(database))
    made, states = [], []
    for year in (2026, 2031):
        app = create_app(database, answers=ANSWERS, clock=lambda year=year: datetime(year, 12, 2, 9, tzinfo=UTC))
        with TestClient(app, base_url="http://127.0.0.1:8765") as client:
            plan = next(one["plan_id"] for one in client.get("/api/plans").json() if one["name"] == "Tern")
            made.append(note(client, plan, "note", text="seen")["made_at"][:4])
            due = [one for job in client.get("/api/due").json() for one in job["due"]]
            states.append([one["state"] for one in due].count("overdue"))
    assert made == ["2026", "2031"]
    assert states[1] > states[0]
