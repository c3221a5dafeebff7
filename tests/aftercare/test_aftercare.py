"""After the build: due dates by day and odometer, findings of the record, iCalendar, the demo's own record."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import pytest
from icalendar import Calendar

from lucernis.aftercare.due import due_dates
from lucernis.aftercare.findings import Standing, open_fuses, record_findings
from lucernis.aftercare.log import Noted, handed_over, odometer_km
from lucernis.aftercare.readings import leads_ohm, proved
from lucernis.core.prove.proving import proving
from lucernis.demo import demo_plan, demo_record
from lucernis.exports.calendar import DueEvent, due_calendar
from lucernis.practice.tables import load_table

BUILT = date(2026, 10, 1)


def noted(*entries: tuple[str, dict[str, Any]]) -> list[Noted]:
    """A record of entries by kind."""
    found = []
    for number, (kind, more) in enumerate(entries, start=1):
        values: dict[str, Any] = {
            "subject": "", "was": "", "text": "", "who": "Ida", "made_at": f"{BUILT.isoformat()}T12:00:00+00:00",
            "revision": 1, "detail": {},
        }  # fmt: skip
        found.append(Noted(number, kind, **(values | more)))
    return found


def at(day: date) -> str:
    return f"{day.isoformat()}T12:00:00+00:00"


AS_BUILT = ("asbuilt", {"text": "As built", "detail": {"odometer_km": 100_000}})


def torque(record: list[Noted], today: date) -> Any:
    return next((one for one in due_dates(demo_plan("tern"), record, today) if one.what == "torque"), None)


@pytest.mark.parametrize(
    ("days", "state"), [(0, "later"), (15, "later"), (16, "soon"), (30, "soon"), (31, "overdue"), (400, "overdue")]
)
def test_torque_falls_due_a_month_after_the_build(days: int, state: str) -> None:
    """Thirty days, then each year: common practice, no source."""
    one = torque(noted(AS_BUILT), BUILT + timedelta(days=days))
    assert (one.on, one.state) == (BUILT + timedelta(days=30), state)


@pytest.mark.parametrize(("km", "state"), [(100_500, "later"), (100_501, "overdue")])
def test_or_after_500_km_whichever_comes_first(km: float, state: str) -> None:
    record = noted(AS_BUILT, ("others", {"text": "nothing", "detail": {"odometer_km": km}}))
    one = torque(record, BUILT + timedelta(days=3))
    assert (one.at_km, one.state) == (100_500, state)


def test_done_it_comes_back_in_a_year_and_not_by_the_odometer() -> None:
    done = BUILT + timedelta(days=25)
    record = noted(AS_BUILT, ("recheck", {"subject": "torque", "made_at": at(done)}))
    one = torque(record, done + timedelta(days=1))
    assert (one.on, one.at_km, one.state) == (done + timedelta(days=365), None, "later")
    assert torque(record, done + timedelta(days=366)).state == "overdue"


def test_a_second_as_built_starts_its_own_rechecks() -> None:
    again = BUILT + timedelta(days=200)
    record = noted(
        AS_BUILT,
        ("recheck", {"subject": "torque", "made_at": at(BUILT + timedelta(days=25))}),
        ("asbuilt", {"text": "Second battery", "made_at": at(again)}),
    )
    assert torque(record, again).on == again + timedelta(days=30)


def test_an_older_recheck_entered_late_moves_no_date_back() -> None:
    newer, older = BUILT + timedelta(days=60), BUILT + timedelta(days=20)
    entries = [("recheck", {"subject": "torque", "made_at": at(day)}) for day in (newer, older)]
    assert torque(noted(AS_BUILT, *entries), newer).on == newer + timedelta(days=365)


def test_the_odometer_is_that_read_last() -> None:
    late = ("others", {"text": "x", "detail": {"odometer_km": 90_000}, "made_at": at(BUILT - timedelta(days=9))})
    assert odometer_km(noted(AS_BUILT, late)) == 100_000


def test_before_it_counts_as_built_nothing_is_due() -> None:
    assert due_dates(demo_plan("tern"), noted(("note", {"text": "begun"})), BUILT) == []
    assert handed_over(noted(("done", {"subject": "power:again"}))) is not None
    assert odometer_km(noted(("note", {"text": "x"}))) is None


def test_acid_is_only_looked_at_where_there_is_any() -> None:
    wet = [one.what for one in due_dates(demo_plan("plover"), noted(AS_BUILT), BUILT)]
    dry = [one.what for one in due_dates(demo_plan("heron"), noted(AS_BUILT), BUILT)]
    chemistries = {part.chemistry for part in demo_plan("plover").parts if part.kind == "battery"}
    assert ("lead" in wet) is ("flooded" in chemistries)
    assert "lead" not in dry


def standing(record: list[Noted], **more: Any) -> Standing:
    plan = demo_plan("tern")
    lines = proving(plan).lines
    values: dict[str, Any] = {
        "lines": lines, "proved": proved(lines, record), "noted": record, "due": due_dates(plan, record, BUILT),
        "steps_left": 0, "labels_left": 0, "changed_since": {}, "fuse_sizes": ["10 A blade"],
    }  # fmt: skip
    return Standing(**(values | more))


def codes(record: list[Noted], today: date = BUILT, **more: Any) -> list[str]:
    return [one.code for one in record_findings(standing(record, **more), today)]


def reading(line: str, text: str, was: str = "", **detail: Any) -> tuple[str, dict[str, Any]]:
    return ("reading", {"subject": line, "text": text, "was": was, "detail": detail})


def complete() -> list[tuple[str, dict[str, Any]]]:
    """Every reading in the middle of its band."""
    units = {"V": "V", "A": "A", "Ω": "Ω", "K": "K"}
    found = []
    for line in proving(demo_plan("tern")).lines:
        value = line.low if line.high is None else (line.low + line.high) / 2
        found.append(reading(line.id, f"{value:.6f} {units[line.unit]}", line.as_read))
    return found


def test_a_vehicle_that_is_read_and_papered_has_no_finding() -> None:
    record = noted(*complete(), AS_BUILT, ("spares", {"text": "one of each"}), ("handed", {"text": "to the owner"}))
    assert codes(record) == []


def test_readings_that_are_missing_out_or_old_are_found() -> None:
    record = complete()
    assert codes(noted(*record[1:], AS_BUILT, ("spares", {"text": "x"}))) == ["reading-missing"]
    # Before it is built nobody misses them.
    assert codes(noted(*record[1:])) == []
    bank = next(k for k, (_, one) in enumerate(record) if one["subject"] == "volts:+b1~-b1@rest")
    low = [*record[:bank], reading("volts:+b1~-b1@rest", "11.2 V", record[bank][1]["was"]), *record[bank + 1 :]]
    assert codes(noted(*low)) == ["reading-out"]
    old = [*record[:bank], reading("volts:+b1~-b1@rest", "12.5 V", "House bank: 10 to 11 V"), *record[bank + 1 :]]
    assert codes(noted(*old)) == ["reading-old"]
    # The later reading of a line counts.
    assert codes(noted(*low, record[bank])) == []


def test_a_fuse_without_a_cause_stays_open_until_one_is_noted() -> None:
    blown = ("blown", {"subject": "r8", "text": "C08 7.5 A"})
    record = noted(blown)
    assert codes(record) == ["fuse-without-cause"]
    assert [one.number for one in open_fuses(record)] == [1]
    other = ("cause", {"subject": "r8", "text": "chafed", "detail": {"blown": 9}})
    assert codes(noted(blown, other)) == ["fuse-without-cause"]
    # A cause without a word closes nothing.
    silent = ("cause", {"subject": "r8", "text": " ", "detail": {"blown": 1}})
    assert codes(noted(blown, silent)) == ["fuse-without-cause"]
    assert codes(noted(blown, ("cause", {"subject": "r8", "text": "chafed", "detail": {"blown": 1}}))) == []


def test_overdue_papers_and_unfinished_work_are_found() -> None:
    built = [AS_BUILT, ("spares", {"text": "x"})]
    late = BUILT + timedelta(days=31)
    record = noted(*complete(), *built)
    due = due_dates(demo_plan("tern"), record, late)
    assert codes(record, late, due=due) == ["recheck-overdue"]
    assert codes(record, changed_since={1: True}) == ["as-built-differs"]
    assert codes(record, steps_left=3, labels_left=2) == ["as-built-unfinished", "unlabelled-end"]
    handed = noted(*complete(), *built, ("handed", {"text": "owner", "revision": 1}))
    assert codes(handed, changed_since={1: True}) == ["as-built-differs", "paper-older"]
    assert codes(noted(*complete(), AS_BUILT)) == ["no-spare-fuses"]


def test_leads_are_those_read_last() -> None:
    record = noted(
        reading("ohms:-g1~-u1@dead", "0.5", leads_ohm=0.4), reading("ohms:-g1~-u1@dead", "0.3", leads_ohm=0.3)
    )
    assert leads_ohm(record) == 0.3
    found = proved(proving(demo_plan("tern")).lines, record)["ohms:-g1~-u1@dead"]
    assert (found.typed, found.leads_ohm, found.times, found.judged.verdict) == ("0.3", 0.3, 2, "in")


def test_the_calendar_is_read_by_another_program_and_comes_back_the_same() -> None:
    """icalendar reads what RFC 5545 allows; ids stay, so that an import replaces what was there."""
    record = noted(AS_BUILT)
    events = [
        DueEvent(one.what, one.label, one.explain, one.on, one.at_km, one.every_days)
        for one in due_dates(demo_plan("tern"), record, BUILT)
    ]
    body = due_calendar("Tern, and more", "abc123", events, "http://127.0.0.1:8765/plan/abc123/log")
    assert body == due_calendar("Tern, and more", "abc123", events, "http://127.0.0.1:8765/plan/abc123/log")
    read = Calendar.from_ical(body)
    found = {str(one["uid"]): one for one in read.walk("VEVENT")}
    one = found["abc123-torque@lucernis"]
    assert one.decoded("dtstart") == BUILT + timedelta(days=30)
    assert str(one["summary"]) == "Tern, and more: Studs tightened again"
    assert "100,500 km" in str(one["description"])
    assert one["rrule"]["INTERVAL"] == [365]
    assert len(found) == len({row["what"] for row in load_table("aftercare").rows}) - 1
    assert b"\r\n" in body


def test_the_demo_vehicle_on_the_road_reads_as_its_plan_says() -> None:
    record = [Noted(**{name: line[name] for name in Noted.__slots__}) for line in demo_record()]
    found = proved(proving(demo_plan("tern")).lines, record)
    assert len(found) == 11
    assert all(one.judged.verdict == "in" and not one.old for one in found.values())
    assert len(open_fuses(record)) == 1
