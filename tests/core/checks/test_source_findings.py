"""Every code about batteries, chargers, panels and links fires where it should and is silent where all is well."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Finding
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import MakeBank
from tests.helpers import every_finding, part, powered_document, run, severity_stands

Doc = dict[str, Any]
Spoil = Callable[[Doc], None]
OURS = {"look"}


def set_part(part_id: str, **fields: Any) -> Spoil:
    return lambda doc: part(doc, part_id).update(fields)


def both(*spoils: Spoil) -> Spoil:
    def spoil(doc: Doc) -> None:
        for one in spoils:
            one(doc)

    return spoil


def add(*things: Doc) -> Spoil:
    def spoil(doc: Doc) -> None:
        for one in things:
            doc["runs" if "start" in one else "parts"].append(dict(one))

    return spoil


def bank(**fields: Any) -> Spoil:
    """Two batteries or more in place of the one."""

    def spoil(doc: Doc) -> None:
        edit = MakeBank.model_validate({"op": "make_bank", "battery": "b1", **fields})
        doc.update(plan_document(apply_edits(parse_plan(doc), [edit])))

    return spoil


def wire(run_id: str, start: Any, finish: Any, **fields: Any) -> Doc:
    ends = [end if isinstance(end, dict) else {"part": end} for end in (start, finish)]
    return {"id": run_id, "tag": f"C{run_id[1:]}", "start": ends[0], "finish": ends[1], "length_m": 1.0} | fields


def inverter(continuous_w: float, surge_w: float, ac_w: float | None = None, starts: float = 1.0) -> Spoil:
    load = {
        "kind": "load", "id": "l9", "name": "Inverter", "tag": "L09", "device": "inverter", "power_w": 200.0,
        "hours_per_day": 1.0, "inverter": {"continuous_w": continuous_w, "surge_w": surge_w},
    }  # fmt: skip
    if ac_w is not None:
        load["ac"] = [{"name": "Pump on AC", "power_w": ac_w, "hours_per_day": 1.0, "inrush_factor": starts}]
    return add(load, wire("r9", "u1", "l9", fuse_at_start={"distance_m": 0.1, "family": "anl"}))


def zone(**fields: Any) -> Spoil:
    return lambda doc: doc["zones"][0].update(fields)


def energy(**fields: Any) -> Spoil:
    return lambda doc: doc.setdefault("energy", {}).update(fields)


def series_bank(doc: Doc, series: int = 2) -> None:
    doc["nominal_v"] = 24
    for one in doc["parts"]:
        if one["kind"] == "battery" and one["id"] == "b0":
            one["rated_v"] = 12
        if one["id"] == "q1":
            one["in_nominal_v"] = 12
    bank(series=series)(doc)


def long_links(doc: Doc) -> None:
    for one in doc["runs"]:
        if {one["start"]["part"], one["finish"]["part"]} <= {"b1", "b2", "b3"}:
            one.update(length_m=2.0, length_as_typed=None, wire={"system": "awg", "size": "2", "reason": "test"})


def crossed(doc: Doc) -> None:
    """Four of 6 V in series, and a lamp whose positive hangs on a lower post than its negative."""
    part(doc, "b1").update(rated_v=6, capacity_ah=200.0)
    series_bank(doc, series=4)
    add(
        {"kind": "load", "id": "l9", "name": "Lone", "tag": "L09", "power_w": 5.0, "hours_per_day": 0},
        wire("r40", "b4", "l9", legs="positive", fuse_at_start={}),
        wire("r41", "b2", "l9", legs="negative"),
    )(doc)


def tapped(doc: Doc) -> None:
    """A lamp on the lower of two in series, with a wire of its own each way."""
    add(
        {"kind": "load", "id": "l9", "name": "Lone", "tag": "L09", "power_w": 5.0, "hours_per_day": 0},
        wire("r40", "b2", "l9", fuse_at_start={"distance_m": 0.1}),
    )(doc)


def starter_load(power_w: float) -> Spoil:
    """What stays on for four hours a day at the starter battery of 80 Ah: 24 W are 8 Ah, a tenth of it."""
    return add(
        {"kind": "load", "id": "l9", "name": "Lone", "tag": "L09", "power_w": power_w * 1.01, "hours_per_day": 4.0},
        wire("r9", "b0", "l9", fuse_at_start={"distance_m": 0.1}),
    )


def turned_by_the_body(doc: Doc) -> None:
    """A motor behind a reversing switch that has one wire and bolts to the body."""
    doc["job"].setdefault("vehicle", {})["body"] = "steel"
    add(
        {"kind": "switch", "id": "w9", "name": "Two-way", "tag": "S09", "form": "reversing", "rated_a": 40.0},
        {"kind": "load", "id": "l9", "name": "Winch", "tag": "L09", "power_w": 60.0, "hours_per_day": 0},
        {"kind": "chassis_point", "id": "g9", "name": "Bolt", "tag": "G09"},
        wire("r9", "u1", "w9", fuse_at_start={"distance_m": 0.1}),
        wire("r10", "w9", "l9", legs="positive"),
        wire("r11", "l9", "g9", legs="negative"),
        {"kind": "chassis_point", "id": "g8", "name": "Bond", "tag": "G08"},
        wire("r12", "u1", "g8", legs="negative"),
    )(doc)


def one_more_string(doc: Doc) -> None:
    doc["parts"] += [part(doc, "v1") | {"id": f"v{k}", "tag": f"V0{k}", "strings": 1} for k in (2,)]
    doc["runs"].append(wire("r26", "v2", {"part": "q2", "terminal": "pv"}))


def link(doc: Doc) -> None:
    isolator = {"kind": "isolator", "id": "i1", "name": "Link", "tag": "I01"}
    add(isolator, wire("r9", "b0", "i1"), wire("r8", "i1", "u1"))(doc)


def drop_run(run_id: str) -> Spoil:
    return lambda doc: doc["runs"].remove(run(doc, run_id))


SPOILS: dict[str, tuple[Spoil, str]] = {
    "bank-discharge-over": (set_part("b1", discharge_a=5.0), "b1"),
    "bank-charge-over": (set_part("b1", charge_a=5.0), "b1"),
    "inverter-over-bank": (inverter(1500.0, 1500.0), "l9"),
    "inverter-surge-over-bank": (inverter(800.0, 3000.0), "l9"),
    "inverter-below-ac": (inverter(300.0, 900.0, ac_w=301.0), "l9"),
    "inverter-start-below-ac": (inverter(300.0, 600.0, ac_w=200.0, starts=4.0), "l9"),
    "bank-sharing": (both(bank(parallel=3, take_off="same_end"), long_links), "b1"),
    "links-unequal": (
        both(bank(parallel=2), lambda doc: doc["runs"][-1].update(length_m=2.5, length_as_typed=None)), "r27",
    ),
    "bank-mixed-chemistry": (both(bank(parallel=2), set_part("b2", chemistry="agm")), "b2"),
    "bank-mixed-lead": (
        both(set_part("b1", chemistry="agm"), bank(parallel=2), set_part("b2", chemistry="gel")), "b1",
    ),
    "battery-limit-usual": (
        both(set_part("b1", charge_a=None, capacity_ah=65.0)), "b1",
    ),
    "load-reversed": (crossed, "l9"),
    "bank-mixed-age": (both(set_part("b1", made_year=2026), bank(parallel=2), set_part("b2", made_year=2020)), "b2"),
    "bank-mixed-capacity": (both(bank(parallel=2), set_part("b2", capacity_ah=60.0)), "b2"),
    "series-unequal": (both(series_bank, set_part("b2", capacity_ah=60.0)), "b2"),
    "string-unfused": (bank(parallel=2, take_off="diagonal"), "b2"),
    "lead-unvented": (both(set_part("b1", chemistry="flooded")), "b1"),
    "battery-cold": (energy(battery_c=-5.0), "b1"),
    "battery-hot": (both(set_part("b1", hottest_c=20.0)), "b1"),
    "charger-loose": (set_part("q3", outputs=2), "q3"),
    "charger-unfused": (lambda doc: run(doc, "r24").update(fuse_at_finish=None), "r24"),
    "charger-in-a-ring": (lambda doc: run(doc, "r21").update(start={"part": "u1"}), "q1"),
    "charger-chemistry-unset": (set_part("q3", chemistry=None), "q3"),
    "charger-chemistry-wrong": (set_part("q3", chemistry="gel"), "q3"),
    "charger-sense-unset": (set_part("q1", sense="not_set"), "q1"),
    "charger-place": (zone(ambient_c=70.0), "q1"),
    "charger-starved": (
        lambda doc: run(doc, "r21").update(wire={"system": "awg", "size": "14", "reason": "test"}, length_m=12.0), "q1",
    ),
    "charger-wire-drop": (
        lambda doc: run(doc, "r25").update(
            length_m=14.0, wire={"system": "awg", "size": "16", "reason": "test"}
        ), "q2",
    ),
    "alternator-share": (set_part("a1", rated_a=60.0), "a1"),
    "isolator-unlike": (link, "i1"),
    "isolator-sagging": (both(set_part("a1", regulation="sagging"), link), "i1"),
    "panel-voltage-over": (set_part("v1", series=4), "q2"),
    "panel-voltage-low": (set_part("v1", mp_v=13.0, series=1, power_w=70.0), "q2"),
    "panel-power-over": (set_part("v1", strings=2), "q2"),
    "panel-current-over": (set_part("q2", pv_a=5.0), "q2"),
    "panels-unlike": (both(one_more_string, set_part("v2", series=1)), "q2"),
    "panel-strings-unfused": (set_part("v1", strings=3), "q2"),
    "panel-loose": (drop_run("r25"), "v1"),
    "take-off-end": (bank(parallel=3, take_off="same_end"), "b1"),
    "series-tap": (both(series_bank, tapped), "b2"),
    "starter-drained": (starter_load(24.0), "b0"),
    "spark-in-vapour": (zone(vapour=True), "q1"),
    "isolator-unlike-lead": (both(set_part("b1", chemistry="flooded"), link), "i1"),
    "reversing-by-body": (turned_by_the_body, "w9"),
    "panel-uncontrolled": (lambda doc: run(doc, "r25").update(finish={"part": "u1"}), "v1"),
}  # fmt: skip


# What only a person can do has no edit.
BY_HAND = {
    "alternator-share", "bank-charge-over", "bank-discharge-over", "bank-mixed-age", "bank-mixed-capacity",
    "bank-sharing", "battery-hot", "battery-limit-usual", "charger-in-a-ring", "charger-place", "charger-starved",
    "isolator-unlike-lead", "reversing-by-body", "series-tap", "spark-in-vapour", "starter-drained", "take-off-end",
    "inverter-below-ac", "inverter-over-bank", "inverter-start-below-ac", "inverter-surge-over-bank",
    "isolator-sagging", "isolator-unlike", "lead-unvented", "load-reversed", "panel-current-over", "panel-loose",
    "panel-power-over", "panel-uncontrolled", "panel-voltage-low", "panel-voltage-over", "panels-unlike",
}  # fmt: skip


def found(doc: Doc) -> dict[tuple[str, str], Finding]:
    return every_finding(evaluate(parse_plan(doc)).findings)


@pytest.mark.parametrize(("coldest_c", "days_c", "found"), [
    (None, 20.0, False), (None, -1.0, True), (-1.0, 20.0, True), (0.0, 20.0, False), (5.0, -10.0, False)])  # fmt: skip
def test_cold_is_that_of_the_battery_s_zone_where_it_says(coldest_c: float | None, days_c: float, found: bool) -> None:
    """A lithium battery charges from 0 °C: its zone decides, the days where the zone says nothing."""
    doc = powered_document()
    both(zone(coldest_c=coldest_c), energy(battery_c=days_c))(doc)
    told = every_finding(evaluate(parse_plan(doc)).findings)
    assert (("battery-cold", "b1") in told) is found


def test_powered_plan_is_silent() -> None:
    assert [one for one in found(powered_document()) if one[0] in SPOILS] == []


def test_powered_plan_has_nothing_to_stop_or_fix() -> None:
    assert {one.severity for one in found(powered_document()).values()} <= OURS


@pytest.mark.parametrize("code", sorted(SPOILS))
def test_code_fires_where_it_should(code: str) -> None:
    doc = powered_document()
    spoil, subject = SPOILS[code]
    spoil(doc)
    assert (code, subject) in found(doc), sorted(found(doc))


@pytest.mark.parametrize("code", sorted(SPOILS))
def test_every_offered_mend_can_be_carried_out_and_mends(code: str) -> None:
    doc = powered_document()
    SPOILS[code][0](doc)
    plan = parse_plan(doc)
    told = every_finding(evaluate(plan).findings)
    for one in told.values():
        assert one.what
        assert one.mend
        assert "!" not in one.what + one.why + one.mend
        assert severity_stands(one)
    one = told[(code, SPOILS[code][1])]
    assert bool(one.fixes) is (code not in BY_HAND)
    for fix in one.fixes:
        left = set(every_finding(evaluate(apply_edits(plan, fix.edits)).findings))
        assert (code, one.subject) not in left, fix.label


def test_a_starved_charger_is_told_whatever_stands_before_it() -> None:
    doc = powered_document()
    SPOILS["charger-starved"][0](doc)
    doc["parts"].sort(key=lambda one: one["id"] not in ("q2", "q3"))
    assert ("charger-starved", "q1") in found(doc)


def test_taking_the_negative_from_the_other_end_evens_a_bank() -> None:
    """Positive and negative both leave a chain of three at its first: the negative moved to the last one mends it."""
    doc = powered_document()
    both(bank(parallel=3, take_off="same_end"), long_links)(doc)
    trunk = run(doc, "r1")
    trunk.update(legs="positive")
    add(wire("r50", "b1", trunk["finish"], legs="negative") | {"length_m": trunk["length_m"]})(doc)
    plan = parse_plan(doc)
    finding = every_finding(evaluate(plan).findings)[("bank-sharing", "b1")]
    assert [fix.label.rsplit(" ", 1)[0] for fix in finding.fixes] == ["Take the negative from Battery"]
    after = apply_edits(plan, finding.fixes[0].edits)
    moved = next(one for one in after.runs if one.id == "r50")
    assert moved.start.part == "b3"
    assert ("bank-sharing", "b1") not in every_finding(evaluate(after).findings)


def test_a_second_string_with_a_wire_of_its_own_has_its_controller() -> None:
    """Two strings reach one controller each by its own wires: neither hangs on the battery without one."""
    doc = powered_document()
    one_more_string(doc)
    assert not {one for one in found(doc) if one[0] in ("panel-uncontrolled", "panel-loose")}


# As a person would weigh them, said here a second time: a severity in the table is changed on purpose or not at all.
@pytest.mark.parametrize(
    ("code", "severity"),
    [
        ("take-off-end", "look"), ("series-tap", "fix"), ("starter-drained", "look"), ("stays-live-switched", "fix"),
        ("spark-in-vapour", "stop"), ("isolator-unlike-lead", "look"), ("reversing-by-body", "stop"),
        ("block-over-total", "stop"),
    ],
)  # fmt: skip
def test_new_codes_weigh_what_a_person_would_give_them(code: str, severity: str) -> None:
    assert CODES[code].severity == severity


@pytest.mark.parametrize(("hours", "drained"), [(3.98, False), (4.02, True)])
def test_a_tenth_of_the_starter_battery_a_day(hours: float, drained: bool) -> None:
    """24 W for four hours at 12 V are 8 Ah of 80 Ah."""
    doc = powered_document()
    starter_load(24.0)(doc)
    part(doc, "l9").update(power_w=24.0, hours_per_day=hours)
    assert (("starter-drained", "b0") in found(doc)) is drained


@pytest.mark.parametrize(("parallel", "seen"), [(2, False), (3, True)])
def test_three_batteries_taken_from_at_one_end(parallel: int, seen: bool) -> None:
    doc = powered_document()
    bank(parallel=parallel, take_off="same_end")(doc)
    assert any(code == "take-off-end" for code, _ in found(doc)) is seen


def test_batteries_taken_from_diagonally_are_left_in_peace() -> None:
    doc = powered_document()
    bank(parallel=3, take_off="diagonal")(doc)
    assert not any(code == "take-off-end" for code, _ in found(doc))


def test_a_lamp_across_the_whole_series_bank_is_no_tap() -> None:
    doc = powered_document()
    series_bank(doc)
    assert not any(code == "series-tap" for code, _ in found(doc))


def test_the_same_kind_of_lead_on_both_sides_of_an_isolator_is_left_in_peace() -> None:
    doc = powered_document()
    both(set_part("b1", chemistry="agm"), link)(doc)
    assert not any(code == "isolator-unlike-lead" for code, _ in found(doc))


def test_a_stud_between_panels_and_their_charger_is_fed() -> None:
    doc = powered_document()
    doc["parts"].append({"kind": "joint", "id": "j9", "name": "Roof stud", "tag": "J09", "form": "stud"})
    run(doc, "r25")["finish"] = {"part": "j9"}
    doc["runs"].append(wire("r99", "j9", {"part": "q2", "terminal": "pv"}))
    assert not {("part-unfed", "j9"), ("run-nothing-behind", "r25"), ("run-nothing-behind", "r99")} & set(found(doc))


def test_a_reversing_switch_with_two_wires_is_left_in_peace() -> None:
    doc = powered_document()
    turned_by_the_body(doc)
    doc["runs"] = [one for one in doc["runs"] if one["id"] != "r11"]
    run(doc, "r10").pop("legs")
    assert not any(code == "reversing-by-body" for code, _ in found(doc))
