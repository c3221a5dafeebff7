"""Cases an installer met, each as small as it gets: what must be said and what must not."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report
from lucernis.plan.document import parse_plan
from tests.helpers import every_finding, part, powered_document, run, small_document


def report_of(doc: dict[str, Any]) -> Report:
    return evaluate(parse_plan(doc))


def codes(doc: dict[str, Any]) -> set[str]:
    return {code for code, _ in every_finding(report_of(doc).findings)}


def inverter_doc(length_m: float, pin: str | None = None) -> dict[str, Any]:
    doc = powered_document()
    part(doc, "b1").update(capacity_ah=400.0, discharge_a=300.0, discharge_short_a=600.0)
    doc["parts"].append(
        {"kind": "load", "id": "l9", "name": "Inverter", "tag": "L09", "device": "inverter", "power_w": 100.0,
         "hours_per_day": 1.0, "inverter": {"continuous_w": 2000.0}}
    )  # fmt: skip
    one = {"id": "r9", "tag": "C09", "start": {"part": "u1"}, "finish": {"part": "l9"}, "length_m": length_m,
           "fuse_at_start": {"distance_m": 0.1, "family": "class_t"}}  # fmt: skip
    doc["runs"].append(one | ({"wire": {"system": "awg", "size": pin, "reason": "there"}} if pin else {}))
    return doc


def test_an_inverter_far_away_is_judged_at_its_rating() -> None:
    """2000 W over 9 m of 6 AWG with 100 W in use is not good."""
    report = report_of(inverter_doc(9.0, "6"))
    assert next(one for one in report.loads if one.id == "l9").states["all_on"].current_a < 15.0
    assert any(one.subject in ("r9", "l9") and one.severity != "look" for one in report.findings)


def test_two_metres_of_2_0_to_an_inverter_lose_little() -> None:
    """By hand: about 190 A through 4 m of 2/0 (0.26 mΩ/m) are 0.2 V, with fuse, lugs and feeder 3 to 4 % at most."""
    worst = next(one for one in report_of(inverter_doc(2.0, "2/0")).loads if one.id == "l9").worst
    assert worst.conductor_drop_frac < 0.03
    assert worst.drop_frac < 0.04


def test_a_fuse_holds_what_really_flows() -> None:
    """Constant power at sagging volts draws more than at nominal ones: a 60 W fridge for hours never gets 5 A."""
    doc = small_document()
    part(doc, "l1").update(power_w=60.0, hours_per_day=10)
    report = report_of(doc)
    fuse = next(one for one in report.runs if one.id == "r2").fuse
    assert fuse is not None
    drawn = next(one for one in report.loads if one.id == "l1").worst.current_a
    assert drawn > 5.0
    assert fuse.rating_a >= 1.25 * drawn - 1e-6


def test_a_spare_is_dead_and_says_what_fuse_it_may_get() -> None:
    doc = small_document()
    doc["parts"].append({"kind": "joint", "id": "j9", "name": "Spare end", "tag": "J09", "form": "cap"})
    doc["runs"].append(
        {"id": "r9", "tag": "C09", "start": {"part": "f1", "way": 6}, "finish": {"part": "j9", "joint": "cap"},
         "length_m": 3.0}
    )  # fmt: skip
    report = report_of(doc)
    spare = next(one for one in report.runs if one.id == "r9")
    assert (spare.spare, spare.fuse) == (True, None)
    assert spare.worst.current_a < 1e-12
    assert spare.later_fuse_a is not None
    assert spare.wire.ampacity_a is not None
    assert spare.later_fuse_a <= 1.5 * spare.wire.ampacity_a
    assert not [one for one in report.findings if one.subject in ("r9", "j9") and one.severity == "stop"]


@pytest.mark.parametrize(("system", "size"), [("awg", "26"), ("awg", "4/0"), ("mm2", "0.14"), ("mm2", "150")])
def test_any_real_conductor_can_be_pinned_as_found(system: str, size: str) -> None:
    doc = small_document()
    run(doc, "r3").update(wire={"system": system, "size": size, "reason": "found so"})
    assert codes(doc) & {"wire-below-least", "wire-far-thicker", "wire-above-terminal"}


def test_two_feeds_share_a_lamp_over_diodes_without_backfeed() -> None:
    """A lamp on two switched feeds: either lights it, and neither wakes what hangs on the other."""
    doc = small_document()
    doc["parts"] += [
        {"kind": "switch", "id": f"s{k}", "name": f"Switch {k}", "tag": f"S{k}", "use": "circuit", "rated_a": 20.0}
        for k in (1, 2)
    ] + [{"kind": "diode", "id": f"d{k}", "name": f"Diode {k}", "tag": f"D{k}", "rated_a": 10.0} for k in (1, 2)]
    doc["parts"].append(
        {"kind": "load", "id": "l9", "name": "Bow lamp", "tag": "L09", "power_w": 10.0, "hours_per_day": 1}
    )

    def wire(name: str, start: Any, finish: str, **more: Any) -> dict[str, Any]:
        return {"id": name, "tag": name.upper(), "start": start, "finish": {"part": finish}, "length_m": 1.0} | more

    doc["runs"] += [
        wire("r21", {"part": "f1", "way": 4}, "s1", fuse_at_start={}),
        wire("r22", {"part": "f1", "way": 5}, "s2", fuse_at_start={}),
        wire("r23", {"part": "s1"}, "d1"),
        wire("r24", {"part": "s2"}, "d2"),
        wire("r25", {"part": "d1"}, "l9"),
        wire("r26", {"part": "d2"}, "l9", legs="positive"),
    ]
    doc["states"] = [{"id": "one", "name": "One", "open": ["s2"]}]
    report = report_of(doc)
    lit = next(one for one in report.loads if one.id == "l9").states["one"]
    assert lit.served
    assert lit.voltage_v > 10.0
    other = next(one for one in report.runs if one.id == "r24")
    assert other.states["one"].current_a == pytest.approx(0.0, abs=1e-6)


def test_strings_of_a_bank_are_fused_for_their_share_not_for_all() -> None:
    from lucernis.plan.document import plan_document
    from lucernis.plan.edits import apply_edits
    from lucernis.plan.edits.operations import MakeBank

    edit = MakeBank.model_validate({"op": "make_bank", "battery": "b1", "parallel": 3, "take_off": "busbar"})
    doc = plan_document(apply_edits(parse_plan(powered_document()), [edit]))
    report = report_of(doc)
    strings = [one for one in report.runs if one.start_label.startswith("Battery") and one.worst.current_a > 0]
    assert strings
    assert all(one.worst.current_a > 0.5 for one in strings)


def test_a_positive_alone_shows_what_it_loses_to_its_end() -> None:
    """A switch stands in the positive only: the run to it loses what flows through it does, never 0.0 %."""
    doc = small_document()
    doc["parts"].append({"kind": "switch", "id": "s1", "name": "Main", "tag": "S01", "use": "isolator"})
    doc["runs"].append(
        {
            "id": "r8",
            "tag": "C08",
            "start": {"part": "s1"},
            "finish": {"part": "f1"},
            "length_m": 0.5,
            "legs": "positive",
        }
    )
    negative = run(doc, "r1") | {"id": "r7", "tag": "C07", "legs": "negative", "fuse_at_start": None}
    doc["runs"].append(negative)
    run(doc, "r1").update(finish={"part": "s1"}, legs="positive", length_m=1.5)
    main = next(one for one in report_of(doc).runs if one.id == "r1").worst
    assert main.current_a > 5.0
    assert main.drop_to_end_v == pytest.approx(main.drop_v, rel=0.02)
    assert main.conductor_drop_to_end_v == pytest.approx(main.conductor_drop_v, rel=0.02)


def test_studs_behind_the_fuses_of_a_bank_are_no_ring() -> None:
    """Three batteries, a fuse at each post, its stud joined to the next: every string gives its share and nothing is
    said of a ring."""

    def wire(name: str, start: str, finish: str, legs: str, length_m: float, **more: Any) -> dict[str, Any]:
        ends = {"start": {"part": start}, "finish": {"part": finish}}
        return {"id": name, "tag": name.upper(), "legs": legs, "length_m": length_m} | ends | more

    fuse = {"distance_m": 0.0, "family": "class_t"}
    doc = small_document()
    doc["parts"] = [
        *({"kind": "battery", "id": f"b{k}", "name": f"Battery {k}", "tag": f"B{k}"} for k in (1, 2, 3)),
        *({"kind": "joint", "id": f"j{k}", "name": f"Stud {k}", "tag": f"J{k}", "form": "stud"} for k in (1, 2, 3)),
        {"kind": "load", "id": "l9", "name": "Winch", "tag": "L09", "power_w": 1200.0, "hours_per_day": 0.2},
    ]
    doc["runs"] = [
        *(wire(f"r{k}", f"b{k}", f"j{k}", "positive", 0.05, fuse_at_start=fuse) for k in (1, 2, 3)),
        *(wire(f"r{k + 3}", f"j{k}", f"j{k + 1}", "positive", 0.25) for k in (1, 2)),
        *(wire(f"r{k + 5}", f"b{k}", f"b{k + 1}", "negative", 0.25) for k in (1, 2)),
        wire("r8", "j1", "l9", "positive", 1.0, fuse_at_start=fuse),
        wire("r9", "b3", "l9", "negative", 1.0),
    ]
    report = report_of(doc)
    assert "circuit-closes-loop" not in codes(doc)
    shares = [next(one for one in report.runs if one.id == f"r{k}").worst.current_a for k in (1, 2, 3)]
    assert sum(shares) == pytest.approx(report.summary.battery_current_a, rel=0.01)
    assert max(shares) < 1.25 * min(shares)


def test_a_string_stands_what_the_others_push_into_its_short() -> None:
    """Three strings, each with its fuse at the post: into a short in one wire the two others push together, while each
    of their fuses sees its own part alone. (Found by generated plans.)"""
    doc = small_document()
    part(doc, "b1").update(chemistry="agm", capacity_ah=50.0)
    doc["parts"] += [part(doc, "b1") | {"id": f"b{k}", "name": f"Battery {k}", "tag": f"B{k}"} for k in (2, 3)]
    doc["parts"].append({"kind": "busbar", "id": "u1", "name": "Bars", "tag": "U01", "studs": 8})
    run(doc, "r1").update(start={"part": "u1"}, length_m=0.5, fuse_at_start={"distance_m": 0.0})
    doc["runs"] += [
        {"id": f"r{20 + k}", "tag": f"C2{k}", "start": {"part": f"b{k}"}, "finish": {"part": "u1"}, "length_m": 0.4,
         "fuse_at_start": {"distance_m": 0.0}}
        for k in (1, 2, 3)
    ]  # fmt: skip
    part(doc, "l1").update(power_w=12.0)
    part(doc, "l2").update(current_a=1.0)
    report = report_of(doc)
    assert "fault-harms-wire" not in {one.code for one in every_finding(report.findings).values()}
    string = next(one for one in report.runs if one.id == "r21")
    assert all((fault.wire_c or 0.0) < (fault.limit_c or 0.0) for fault in string.faults)
