"""Why a run has its size, what the next ones would bring, and what it stands besides: held to the choice itself."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report, RunReport
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.practice.labels import DECIDED
from tests.helpers import document, part, run, small_document

OFF = {"warmest_c": 0, "drop_reserve_frac": 0, "feeder_share": 0, "growth_frac": 0, "size_worth_m": 0,
       "one_line": False, "taper": False, "roof_least_mm2": 0,
       "inverter_a_per_mm2": 0, "charger_a_per_mm2": 0, "end_worth_m": 0, "step_worth_m": 0}  # fmt: skip


def report_of(doc: dict[str, Any], **rules: Any) -> Report:
    doc["practice"]["overrides"] = [{"rule": name, "value": value, "reason": "test"} for name, value in rules.items()]
    return evaluate(parse_plan(doc))


def one(report: Report, name: str) -> RunReport:
    return next(run for run in report.runs if run.id == name)


@pytest.mark.parametrize("job", JOBS)
def test_every_run_of_the_demo_says_why(job: str) -> None:
    for run_report in evaluate(demo_plan(job)).runs:
        assert run_report.why.decided in DECIDED
        assert run_report.why.thinner
        assert run_report.why.thicker


def test_a_pin_is_its_own_reason() -> None:
    doc = small_document()
    run(doc, "r3")["wire"] = {"system": "awg", "size": "8", "reason": "on the shelf"}
    assert one(report_of(doc), "r3").why.thinner == "pinned: on the shelf"


def test_the_thinnest_has_none_thinner_and_a_way_takes_none_thicker() -> None:
    doc = small_document()
    assert one(report_of(doc, **OFF), "r4").why.decided == "least"
    part(doc, "l2").update(sensitive=True)
    run(doc, "r3")["length_m"] = 7.0
    why = one(report_of(doc, **OFF), "r3").why
    assert "way of a blade block" in why.thicker


def test_what_is_said_of_a_thinner_size_comes_true_when_it_is_pinned() -> None:
    """Decided by drop: with the thinner size pinned, the limit is missed, and by about what was said."""
    doc = small_document()
    part(doc, "l2").update(sensitive=True)
    run(doc, "r3")["length_m"] = 5.0
    free = one(report_of(doc, **OFF), "r3")
    assert free.why.decided == "drop"
    label, _, text = free.why.thinner.partition(": ")
    said = float(text.split(" %")[0])
    pin = {"system": "awg", "reason": "test"}
    run(doc, "r1")["wire"] = pin | {"size": one(report_of(doc, **OFF), "r1").wire.size}
    run(doc, "r3")["wire"] = pin | {"size": label.removesuffix(" AWG")}
    pinned = next(load for load in report_of(doc, **OFF).loads if load.id == "l2").worst
    assert 100 * pinned.conductor_drop_frac == pytest.approx(said, abs=0.3)
    assert pinned.conductor_drop_frac > 0.03


def test_warmth_decides_where_the_ampacity_would_do() -> None:
    doc = small_document()
    part(doc, "l2").update(current_a=26.0, hours_per_day=1)
    run(doc, "r3").update(length_m=0.4)
    bare, warm = (one(report_of(doc, **(OFF | {"warmest_c": most})), "r3") for most in (0, 60))
    assert warm.wire.area_mm2 > bare.wire.area_mm2
    assert warm.why.decided == "warmth"
    assert warm.temp_c <= 60.0 < bare.temp_c


@pytest.mark.parametrize(("more", "holds"), [(0.9, True), (1.25, False)])
def test_reserve_of_length_is_where_the_limit_is(more: float, holds: bool) -> None:
    doc = small_document()
    part(doc, "l2").update(sensitive=True)
    first = one(report_of(doc), "r3")
    assert first.reserve.length_m is not None
    pin = {"system": "awg", "size": first.wire.size, "reason": "test"}
    feeder = one(report_of(doc), "r1").wire.size
    run(doc, "r3").update(wire=pin, length_m=4.0 + more * first.reserve.length_m)
    run(doc, "r1").update(wire=pin | {"size": feeder})
    codes = {(found.code, found.subject) for found in report_of(doc).findings}
    assert (("drop-over-limit", "l2") in codes) is not holds


def test_reserve_is_that_of_the_hardest_state_whichever_stands_first() -> None:
    """Alone in the evening the pump may be far away; beside a heater on the same feeder it may not."""
    doc = small_document()
    part(doc, "l2").update(sensitive=True)
    part(doc, "l1").update(power_w=140.0)
    hard, easy = {"id": "all", "name": "All on"}, {"id": "eve", "name": "Evening", "off": ["l1", "l3"]}
    pin = {"system": "awg", "reason": "test"}
    doc["states"] = [hard, easy]
    free = report_of(doc)
    for name in ("r1", "r2", "r3", "r4"):
        run(doc, name)["wire"] = pin | {"size": one(free, name).wire.size}
    found = []
    for states in ([hard], [easy], [hard, easy], [easy, hard]):
        doc["states"] = states
        length_m = one(report_of(doc), "r3").reserve.length_m
        assert length_m is not None
        found.append(length_m)
    alone_hard, alone_easy, first, last = found
    assert alone_hard < 0.8 * alone_easy
    assert first == pytest.approx(alone_hard)
    assert last == pytest.approx(alone_hard)


@pytest.mark.parametrize(("above_v", "served"), [(-0.02, True), (0.02, False)])
def test_a_load_is_served_down_to_its_lowest_volts_and_no_further(above_v: float, served: bool) -> None:
    doc = small_document()
    pin = {"system": "awg", "reason": "test"}
    for name in ("r1", "r2", "r3", "r4"):
        run(doc, name)["wire"] = pin | {"size": "16"}
    first = next(load for load in report_of(doc).loads if load.id == "l2").worst
    assert first.served
    part(doc, "l2")["min_v"] = round(first.voltage_v + above_v, 4)
    assert next(load for load in report_of(doc).loads if load.id == "l2").worst.served is served


@pytest.mark.parametrize("end", ["start", "finish"])
def test_a_run_is_as_hot_as_the_hotter_of_its_ends(end: str) -> None:
    """30 °C at one end and 50 at the other is 50, whichever end it is."""
    doc = small_document()
    doc["places"] += [{"id": "p9", "name": "Bonnet", "zone": "z2"}]
    pin = {"system": "awg", "size": "12", "reason": "test"}
    for name in ("r2", "r3", "r4"):
        run(doc, name)["wire"] = pin
    for one_part in doc["parts"]:
        one_part["place"] = "p1"
    said = run(doc, "r3") | {"zone": "z2"}
    cool = one(report_of(doc), "r3").wire.ampacity_a
    hot = one(report_of(doc | {"runs": [said if item["id"] == "r3" else item for item in doc["runs"]]}), "r3")
    part(doc, run(doc, "r3")[end]["part"])["place"] = "p9"
    assert one(report_of(doc), "r3").wire.ampacity_a == hot.wire.ampacity_a
    assert cool is not None
    assert hot.wire.ampacity_a is not None
    assert hot.wire.ampacity_a < cool


@pytest.mark.parametrize(("share", "holds"), [(0.95, True), (1.1, False)])
def test_reserve_of_heat_is_where_the_ampacity_ends(share: float, holds: bool) -> None:
    doc = small_document()
    part(doc, "l2").update(current_a=20.0, behaviour="constant_current")
    run(doc, "r3").update(length_m=0.5, zone="z1")
    first = one(report_of(doc, **OFF), "r3")
    assert first.reserve.ambient_k is not None
    run(doc, "r3").update(wire={"system": "awg", "size": first.wire.size, "reason": "test"})
    doc["zones"][0]["ambient_c"] = 30.0 + share * first.reserve.ambient_k
    hot = one(report_of(doc, **OFF), "r3")
    assert hot.wire.ampacity_a is not None
    assert (hot.wire.ampacity_a >= hot.greatest_a) is holds


def test_rules_switched_off_bring_back_the_bare_minimum() -> None:
    """On Heron they cost a sixth of the copper, and those that decide there cost some of it each by itself."""

    def copper_kg(**values: Any) -> float:
        return report_of(document("heron"), **values).summary.copper_kg

    bare_kg = copper_kg(**OFF)
    assert bare_kg < 0.9 * copper_kg()
    for rule in ("drop_reserve_frac", "feeder_share", "size_worth_m"):
        assert copper_kg(**{name: value for name, value in OFF.items() if name != rule}) > bare_kg


def test_working_of_a_wire_names_what_stopped_thinner_sizes_and_only_that() -> None:
    """A lamp on the thinnest size there is: nothing stopped. 20 A among eleven others: 14 AWG carries too little."""
    doc = small_document()
    part(doc, "l2")["current_a"] = 20.0
    run(doc, "r3")["bundle_count"] = 12
    doc["practice"]["overrides"] = [{"rule": "shelf", "value": ["14", "12", "10"], "reason": "test"}]
    working = evaluate(parse_plan(doc)).working
    assert "Not:" not in working["r2.wire"].note
    assert working["r3.wire"].note.startswith("Not: 14 AWG: ")


def test_working_of_a_wire_names_six_sizes_and_no_more() -> None:
    """250 A: ten sizes carry too little; the thinnest six are named, so that it can be read."""
    doc = small_document()
    part(doc, "l2")["current_a"] = 250.0
    run(doc, "r3")["fuse_at_start"] = {"family": "anl"}
    note = evaluate(parse_plan(doc)).working["r3.wire"].note
    assert note.count("AWG: carries") == 6
