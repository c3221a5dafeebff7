"""The report of the demo jobs holds together: its parts agree with one another and with the plan."""

from __future__ import annotations

import json

import pytest
from pydantic import TypeAdapter

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import study_faults
from lucernis.core.report import SEVERITY_ORDER, Report
from lucernis.core.sizing.choice import size_plan
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Load, Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import small_document, small_plan

REPORTS = {name: (demo_plan(name), evaluate(demo_plan(name))) for name in JOBS}


@pytest.fixture(params=JOBS)
def job(request: pytest.FixtureRequest) -> tuple[Plan, Report]:
    found: tuple[Plan, Report] = REPORTS[request.param]
    return found


def test_every_part_and_run_is_reported_in_order(job: tuple[Plan, Report]) -> None:
    plan, report = job
    assert [run.id for run in report.runs] == [run.id for run in plan.runs]
    assert [load.id for load in report.loads] == [part.id for part in plan.parts if isinstance(part, Load)]


def test_worst_is_the_largest_of_all_states(job: tuple[Plan, Report]) -> None:
    plan, report = job
    for run in report.runs:
        assert set(run.states) == {state.id for state in plan.states}
        flows, lost = (max(getattr(s, one) for s in run.states.values()) for one in ("current_a", "drop_to_end_v"))
        # An inverter counts at its rating besides.
        rated = any(part.inverter is not None for part in plan.parts if isinstance(part, Load))
        assert run.worst.current_a >= flows
        assert run.worst.drop_to_end_v >= lost
        if not rated:
            assert (run.worst.current_a, run.worst.drop_to_end_v) == (flows, lost)


def test_solved_feeder_current_is_the_sum_of_what_it_feeds(job: tuple[Plan, Report]) -> None:
    plan, report = job
    sized = size_plan(plan, plan_rules(plan))
    if study_faults(plan, sized).meshed:
        return
    behind = {**sized.topology.behind, **sized.returns.through}
    for run in report.runs:
        if run.role == "return" and not behind[run.id]:
            continue
        for state_id, state in run.states.items():
            if sized.demand.on[state_id] & sized.demand.supplies.keys():
                # What a charger gives takes the place of what the bank would have to.
                continue
            drawn = sum(sized.states[state_id].load_a.get(one, 0.0) for one in behind[run.id])
            # With the fuse or a contact before it open, nothing passes, whatever hangs behind.
            assert state.current_a == pytest.approx(drawn, abs=1e-4)


def test_load_voltage_and_drop_make_the_source_volts(job: tuple[Plan, Report]) -> None:
    plan, report = job
    several = sum(part.kind == "battery" and part.use == "house" for part in plan.parts) > 1
    for load in report.loads:
        for state in load.states.values():
            if state.on and load.circuit:
                # Two unlike batteries each stand a little beside the middle.
                apart_v = 0.02 if several else 1e-5
                assert state.voltage_v + state.drop_v == pytest.approx(report.source_v, abs=apart_v)
                parts = state.conductor_drop_v + state.joints_drop_v + state.fuses_drop_v + state.contacts_drop_v
                assert parts == pytest.approx(state.drop_v, abs=1e-6)


def test_findings_are_worst_first_and_named_by_their_subjects(job: tuple[Plan, Report]) -> None:
    _, report = job
    open_ones = [SEVERITY_ORDER[one.severity] for one in report.findings if one.waived is None]
    assert open_ones == sorted(open_ones)
    assert len({one.id for one in report.findings}) == len(report.findings)
    known = {one.id for one in report.findings}
    for subject in (*report.runs, *report.loads):
        assert set(subject.finding_ids) <= known


def test_summary_counts_and_extremes(job: tuple[Plan, Report]) -> None:
    plan, report = job
    summary = report.summary
    open_ones = [one.severity for one in report.findings if one.waived is None]
    assert (summary.open_stop, summary.open_fix, summary.open_look) == tuple(
        open_ones.count(grade) for grade in ("stop", "fix", "look")
    )
    assert summary.worst_drop_frac.value == max(load.worst.conductor_drop_frac for load in report.loads if load.circuit)
    assert summary.ah_per_day == pytest.approx(sum(load.ah_per_day or 0 for load in report.loads))
    lived_a = max(state.battery_current_a for state in summary.states)
    rated = any(part.inverter is not None for part in plan.parts if isinstance(part, Load))
    # An inverter counts at its rating there, with what is plugged in here.
    assert summary.battery_current_a > lived_a if rated else summary.battery_current_a == pytest.approx(lived_a)


def test_margin_is_limit_less_drop_of_the_tightest_load(job: tuple[Plan, Report]) -> None:
    _, report = job
    loads = {load.id: load for load in report.loads}
    for run in report.runs:
        if run.margin_frac is None or run.limit_load is None:
            continue
        fed = [loads[load] for load in run.loads if loads[load].worst.on]
        margins = [load.limit_frac - load.worst.conductor_drop_frac for load in fed]
        assert run.margin_frac == pytest.approx(min(margins))


def test_blocks_count_their_ways(job: tuple[Plan, Report]) -> None:
    plan, report = job
    for block in report.blocks:
        assert block.ways_used == sum(1 for run in plan.runs if run.start.part == block.id)


def test_every_working_is_complete(job: tuple[Plan, Report]) -> None:
    _, report = job
    for key, one in report.working.items():
        assert key == f"{one.subject}.{one.figure}"
        assert one.title
        assert one.formula
        assert all(item.symbol and item.name for item in one.inputs)
        assert all(row.table and row.source and row.certainty for row in one.rows)


def test_working_values_are_the_reported_ones(job: tuple[Plan, Report]) -> None:
    _, report = job
    for run in report.runs:
        assert report.working[f"{run.id}.design_current_a"].value == run.design_current_a
        assert report.working[f"{run.id}.temp_c"].value == run.temp_c
        assert report.working[f"{run.id}.wire"].value == run.wire.label
        assert report.working[f"{run.id}.length_m"].value == run.loop_length_m
        assert report.working[f"{run.id}.drop_v"].value == pytest.approx(run.worst.drop_v, abs=1e-9)
        if run.fuse is not None:
            assert report.working[f"{run.id}.fuse"].value == run.fuse.rating_a
    for load in report.loads:
        if load.power_w is not None:
            assert report.working[f"{load.id}.design_current_a"].value == load.design_current_a
            assert report.working[f"{load.id}.power_w"].value == load.power_w


def test_working_of_a_drop_names_every_run_on_the_way() -> None:
    report = evaluate(small_plan())
    steps = [item.name.split(" at ")[0] for item in report.working["l3.conductor_drop_v"].inputs]
    there = ["C01, positive", "C02, positive", "C04, positive"]
    assert steps == there + [one.replace("positive", "negative") for one in reversed(there)]
    for figure in ("conductor_drop_v", "drop_v"):
        total = sum(float(item.value) for item in report.working[f"l3.{figure}"].inputs)
        assert total == pytest.approx(float(report.working[f"l3.{figure}"].value or 0), abs=1e-9)


def test_working_of_a_changed_rule_says_so() -> None:
    doc = small_document()
    doc["practice"]["overrides"] = [{"rule": "fuse_over_load", "value": "125", "reason": "inrush"}]
    school = evaluate(parse_plan(doc)).working["r2.fuse"].school
    assert "125 % of the load" in school
    assert "changed in this plan" in school


def test_roles_of_runs() -> None:
    roles = {run.id: run.role for run in REPORTS["heron"][1].runs}
    assert (roles["r1"], roles["r2"], roles["r5"], roles["r13"], roles["r15"]) == (
        "main", "feeder", "branch", "onward", "feeder",
    )  # fmt: skip


def test_report_of_an_empty_plan() -> None:
    report = evaluate(parse_plan(small_document(parts=[], runs=[])))
    assert (report.loads, report.runs, report.blocks) == ([], [], [])
    assert [one.code for one in report.findings] == ["battery-missing"]
    assert report.summary.worst_drop_frac.subject is None


def test_report_has_no_number_json_cannot_hold(job: tuple[Plan, Report]) -> None:
    text = TypeAdapter(Report).dump_json(job[1]).decode()
    json.loads(text, parse_constant=lambda name: pytest.fail(f"{name} in the report"))


@pytest.mark.parametrize("nominal_v", [6, 12, 24])
def test_report_at_each_nominal_voltage(nominal_v: int) -> None:
    report = evaluate(parse_plan(small_document(nominal_v=nominal_v)))
    lamp = report.loads[0]
    assert lamp.design_current_a == pytest.approx(24 / nominal_v)
    assert report.source_v == nominal_v


@pytest.mark.parametrize(("practice", "source_v"), [("small_craft_us", 12.0), ("vehicle_accessory", 13.5)])
def test_source_volts_follow_the_school(practice: str, source_v: float) -> None:
    assert evaluate(parse_plan(small_document(practice={"set": practice}))).source_v == source_v


def test_keyed_load_is_off_without_the_key() -> None:
    pump = next(load for load in evaluate(small_plan()).loads if load.id == "l2")
    assert pump.states["all_on"].on
    assert not pump.states["key_off"].on
    assert pump.states["key_off"].current_a == 0.0
    assert pump.states["key_off"].voltage_v > 11.5


def test_load_off_in_every_state_still_gets_its_wire() -> None:
    states = [{"id": "s1", "name": "Only lamps", "off": ["l2"]}]
    report = evaluate(parse_plan(small_document(states=states)))
    run = next(run for run in report.runs if run.id == "r3")
    assert run.design_current_a == pytest.approx(6.0)
    assert run.fuse is not None
    assert run.fuse.rating_a == 7.5


def test_bundle_and_heat_ask_for_more_copper() -> None:
    doc = small_document()
    doc["practice"]["overrides"] = [{"rule": "size_worth_m", "value": 0, "reason": "each run by itself"}]
    doc["parts"][3]["current_a"] = 20.0
    doc["runs"][2]["length_m"] = 0.5
    cool = next(run for run in evaluate(parse_plan(doc)).runs if run.id == "r3")
    doc["runs"][2] |= {"bundle_count": 10, "zone": "z2"}
    hot = next(run for run in evaluate(parse_plan(doc)).runs if run.id == "r3")
    assert hot.wire.area_mm2 > cool.wire.area_mm2
    assert (hot.ambient_c, hot.engine_space, hot.bundle_count) == (50.0, True, 10)
