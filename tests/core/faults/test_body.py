"""Shorts to the body: what flows by hand, what opens, what the bond reaches, and why some bodies have none."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.contacts import chassis_point_ohm
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.shorts import shorts_in_state
from lucernis.core.faults.body import study_body
from lucernis.core.faults.study import study_faults
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.core.wire.heat import short_time_limit
from lucernis.plan.document import parse_plan
from tests.helpers import every_finding, part, small_document

Doc = dict[str, Any]


def bonded(**vehicle: Any) -> Doc:
    """The small plan in a steel van, the battery's negative bonded to the body."""
    doc = small_document(job={"name": "Steel", "vehicle": {"body": "steel"} | vehicle})
    part(doc, "b1")["short_circuit_a"] = 900.0
    part(doc, "l2")["keyed"] = False
    doc["parts"].append({"kind": "chassis_point", "id": "g1", "name": "Bond", "tag": "G01"})
    doc["runs"].append(
        {
            "id": "r9",
            "tag": "C09",
            "start": {"part": "b1"},
            "finish": {"part": "g1"},
            "legs": "negative",
            "length_m": 1.0,
        }
    )
    return doc


def test_what_flows_is_the_battery_s_volts_over_the_way_out_the_body_and_the_bond() -> None:
    """By hand: warm copper, half charge, the higher resistance of the battery; out by C01 and C03, home by the body."""
    plan = parse_plan(bonded(chassis_ohm=0.02))
    sized = sized_plan(plan)
    study = study_body(plan, sized).study
    assert study is not None
    legs = sized.wiring.resistances(leg_ohms(plan, sized.chosen))
    at = {run.id: index for index, run in enumerate(plan.runs)}
    source = study.sources["b1"]
    ohm = (
        source.running_ohm + legs[2 * at["r1"]] + legs[2 * at["r3"]] + legs[2 * at["r9"] + 1] + chassis_point_ohm(plan)
    )
    found = next(one for one in study.of_run["r3"] if one.where == "finish")
    assert found.weakest_a == pytest.approx(source.half_v / ohm, rel=1e-6)
    # A measured body counts by half its resistance from any point into its middle.
    assert chassis_point_ohm(plan) > 0.01


def test_a_bonded_body_clears_what_the_negative_clears() -> None:
    plan = parse_plan(bonded())
    sized = sized_plan(plan)
    found = study_body(plan, sized)
    assert found.reason == ""
    assert found.study is not None
    own = study_faults(plan, sized)
    for run_id, faults in found.study.of_run.items():
        for one, other in zip(faults, own.of_run[run_id], strict=True):
            assert (one.slow_s is None) == (other.slow_s is None)
    assert "body-not-cleared" not in {code for code, _ in every_finding(evaluate(plan).findings)}


def test_the_bond_reaches_what_its_copper_takes_in_and_stands_it() -> None:
    plan = parse_plan(bonded())
    sized = sized_plan(plan)
    (bond,) = study_body(plan, sized).bonds
    assert bond.run_id == "r9"
    assert bond.limit_c == short_time_limit(sized.cases["r9"].insulation_c)[0]
    assert bond.reached_c is not None
    assert sized.chosen["r9"].temp_c < bond.reached_c < bond.limit_c
    reached = []
    for size in ("16", "10"):
        doc = bonded()
        doc["runs"][-1]["wire"] = {"system": "awg", "size": size, "reason": "test"}
        pinned = parse_plan(doc)
        (one,) = study_body(pinned, sized_plan(pinned)).bonds
        assert one.reached_c is not None
        reached.append(one.reached_c)
    assert reached[0] > reached[1] + 5


@pytest.mark.parametrize(("change", "says"), [
    (lambda doc: doc["job"]["vehicle"].update(body="fibreglass_or_wood"), "fibreglass or wood"),
    (lambda doc: doc["job"]["vehicle"].update(body="boat_hull"), "a boat's hull"),
    (lambda doc: (doc["runs"].pop(), doc["parts"].pop()), "Nothing joins the negative to the body"),
    (lambda doc: doc["runs"].pop(), "No chassis point is joined to a battery"),
])  # fmt: skip
def test_a_body_that_brings_nothing_back_says_why(change: Any, says: str) -> None:
    doc = bonded()
    change(doc)
    told = shorts_in_state(parse_plan(doc), None, "body")
    assert says in told.reason
    assert (told.runs, told.points, told.bonds) == ({}, {}, [])


def test_shorts_to_the_body_are_told_with_the_contacts_of_a_state_and_by_tag() -> None:
    told = shorts_in_state(parse_plan(bonded()), "key_off", "body")
    assert {"r1", "r2", "r3"} <= set(told.runs)
    assert told.runs["r3"][-1].openers == ["C03"]
    assert (told.bonds[0].tag, told.bonds[0].by) == ("C09", "C01")
    assert shorts_in_state(parse_plan(bonded()), "key_off").bonds == []


def test_a_body_measured_as_bad_is_a_stop_and_a_good_one_is_silent() -> None:
    codes = {}
    for ohm in (0.01, 0.9):
        told = every_finding(evaluate(parse_plan(bonded(chassis_ohm=ohm))).findings)
        codes[ohm] = told.get(("body-not-cleared", "plan"))
    assert codes[0.01] is None
    assert codes[0.9] is not None
    assert codes[0.9].what.startswith("Shorts of C01 to the body open no fuse")
    assert codes[0.9].asked == "a body as it was measured"
