"""Workings of shorts, heat and shared parts: complete, and the inputs give the value."""

from __future__ import annotations

import math

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.preview import preview
from lucernis.core.report import Report, Working
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.edits import apply_edits

REPORTS = {name: evaluate(demo_plan(name)) for name in JOBS}


@pytest.fixture(params=JOBS)
def report(request: pytest.FixtureRequest) -> Report:
    return REPORTS[request.param]


def values(working: Working) -> dict[str, float]:
    return {item.symbol: float(item.value) for item in working.inputs if not isinstance(item.value, str)}


def test_every_run_opens_its_heat_and_its_shorts(report: Report) -> None:
    for run in report.runs:
        assert report.working[f"{run.id}.heat"].value == pytest.approx(run.worst.conductor_c)
        if run.faults:
            assert report.working[f"{run.id}.short_strongest"].value == max(one.strongest_a for one in run.faults)
            assert report.working[f"{run.id}.short_weakest"].value == min(one.weakest_a for one in run.faults)
            assert f"{run.id}.opening" in report.working


def test_short_is_volts_over_both_resistances(report: Report) -> None:
    for key, working in report.working.items():
        if not key.endswith(("short_strongest", "short_weakest")):
            continue
        put_in = values(working)
        if "R_way" in put_in:
            milliohms = put_in["R_battery"] + put_in["R_way"]
            assert float(working.value or 0) == pytest.approx(1000 * put_in["V"] / milliohms, rel=1e-9)


def test_wire_in_a_quick_short_follows_the_adiabatic_equation(report: Report) -> None:
    runs = {run.id: run for run in report.runs}
    for key, working in report.working.items():
        put_in = values(working)
        if not key.endswith(".opening") or working.value is None or not {"I²t", "t"} <= set(put_in) or put_in["t"] > 5:
            continue
        run = runs[working.subject]
        worst = max(run.faults, key=lambda one: (one.slow_s is None, one.wire_c or 0.0))
        if worst.where == "start":
            # The wire behind a short at its start carries nothing.
            continue
        exponent = put_in["I²t"] / run.parallel**2 / (226 * put_in["S"]) ** 2
        expected = (234.5 + put_in["θi"]) * math.exp(exponent) - 234.5
        assert float(working.value) == pytest.approx(min(expected, 1085.0), rel=1e-6)


def test_breaking_capacity_opens_to_its_row(report: Report) -> None:
    for run in report.runs:
        if run.fuse is not None and run.fuse.rating_a is not None:
            working = report.working[f"{run.id}.breaking"]
            assert working.rows or working.value == "not known"


def test_what_passes_a_part_is_the_smaller_of_need_and_fuse(report: Report) -> None:
    for part in report.parts:
        working = report.working.get(f"{part.id}.through_a")
        if working is None:
            continue
        put_in = values(working)
        limits = [put_in["I_on"], *([put_in["In"]] if "In" in put_in else [])]
        assert part.through_a == pytest.approx(min(limits))


def test_report_without_working_is_the_same_but_for_that() -> None:
    plan = demo_plan("tern")
    bare, full = evaluate(plan, with_working=False), evaluate(plan)
    assert bare.working == {}
    assert (bare.runs, bare.findings, bare.nodes, bare.summary) == (full.runs, full.findings, full.nodes, full.summary)


def test_preview_lists_what_goes_what_comes_and_which_runs_change() -> None:
    plan = demo_plan("plover")
    before = evaluate(plan)
    finding = next(one for one in before.findings if one.code == "switch-over")
    after = evaluate(apply_edits(plan, finding.fixes[0].edits))
    found = preview(before, after, ["a line"])
    assert finding.id in {one.id for one in found.gone}
    assert len(found.added_runs) == 2
    assert {one.tag for one in found.runs} >= {"C04"}
    assert found.after_stop == before.summary.open_stop - 1
    assert preview(before, before, []).gone == preview(before, before, []).new == []
