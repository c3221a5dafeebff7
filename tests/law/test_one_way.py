"""Laws over what is changed: a wire cut by a stud, more room or less to do never found too much, mends that mend."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.mends import tried_mends
from lucernis.core.report import SEVERITY_ORDER, Finding, Report, every
from lucernis.core.sizing.sized import sized_plan
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.model import Plan, Run
from tests.law.compared import differences, facts
from tests.law.conftest import some
from tests.law.plans import plan_documents
from tests.law.rewritten import as_built, cut_in_two, lies_beyond, with_a_load_less, with_more_room, with_run
from tests.law.wild import wild_plan

SOME = settings(max_examples=some(12), deadline=None, suppress_health_check=list(HealthCheck))
SEEDS = range(some(6, 8))
# Shorts are looked at from both ends of every piece: of two fuses that open nearly together one point more may show.
AT_MORE_POINTS = {"not-selective"}
TOO_MUCH = {
    "wire-over-ampacity", "wire-over-derated", "drop-over-limit", "drop-out-of-reach", "load-under-voltage",
    "load-collapse", "charger-wire-drop", "charger-starved", "fuse-too-far", "fuse-below-load", "fuse-at-load",
    "joint-over", "pin-over", "relay-over", "shunt-over", "busbar-over", "switch-over", "keyed-feed-over",
    "block-over-total", "block-over-way", "block-no-prefuse", "guard-above-rating", "bank-discharge-over",
    "bank-charge-over", "inverter-over-bank", "inverter-surge-over-bank", "isolator-sagging", "switch-short-time",
}  # fmt: skip
TOO_THIN = {
    "wire-over-ampacity", "wire-over-derated", "wire-below-least", "wire-below-maker", "fuse-above-wire",
    "step-unfused", "fuse-parallel", "fault-harms-wire", "drop-over-limit", "drop-out-of-reach",
    "load-under-voltage", "load-collapse", "charger-wire-drop", "bond-small",
}  # fmt: skip
# A fuse too large for a wire is told by where the step is: the same, seen from the wire before or from the one behind.
_ALIKE = {"step-unfused": "fuse-above-wire", "fuse-parallel": "fuse-above-wire"}


def judged(plan: Plan) -> Report:
    return evaluate(plan, with_working=False)


def each(report: Report) -> dict[str, Finding]:
    return {one.id: one for one in every(report.findings)}


def codes(report: Report) -> set[str]:
    return {one.code for one in each(report).values()} - AT_MORE_POINTS


def added(before: Report, after: Report, kinds: set[str]) -> list[str]:
    known = {(_ALIKE.get(one.code, one.code), one.subject) for one in each(before).values()}
    return [
        f"{key}: {one.what}"
        for key, one in each(after).items()
        if one.code in kinds and (_ALIKE.get(one.code, one.code), one.subject) not in known
    ]


def single_way(plan: Plan) -> list[Run]:
    """Runs by which alone current gets where they lead: of several ways side by side a better one takes more, and a
    jumper between the batteries of a bank with a stud in it is no jumper any more."""
    topology, batteries = sized_plan(plan).topology, {one.id for one in plan.parts if one.kind == "battery"}
    if len(batteries) == 1:
        batteries = set()
    return [
        run
        for run in plan.runs
        if run.legs in ("both", "positive")
        and run.id not in {*topology.both_fed, *topology.dead, *topology.spares}
        and not batteries & {run.start.part, run.finish.part}
    ]


@SOME
@given(document=plan_documents(), seed=st.integers(0, 10**6))
def test_a_stud_in_a_wire_changes_nothing_but_the_number_of_its_pieces(document: dict[str, Any], seed: int) -> None:
    plan = parse_plan(document)
    plan, draw = as_built(plan, judged(plan)), random.Random(seed)
    before = judged(plan)
    runs = single_way(plan)
    run = draw.choice(runs) if runs else None
    share = lies_beyond(run, draw.uniform(0.3, 0.7)) if run is not None else None
    if run is None or share is None:
        return
    cut, piece = cut_in_two(plan, run.id, share)
    after = judged(cut)
    assert codes(before) - {"feeder-shorter"} == codes(after) - {"feeder-shorter"}
    whole, parts = facts(before), facts(after)
    for key, one in whole.items():
        if key.startswith("run ") and key != f"run {run.id}":
            for name in ("wire", "greatest_a", "design_a"):
                assert differences(one[name], parts[key][name], f"{key}/{name}") == []
        elif key.startswith("load "):
            assert differences(one["conductor_drop_v"], parts[key]["conductor_drop_v"], key) == []
    for key in (run.id, piece):
        for name in ("wire", "greatest_a", "design_a"):
            assert differences(whole[f"run {run.id}"][name], parts[f"run {key}"][name], f"{key}/{name}") == []


def hold_one_way(plan: Plan, seed: int) -> None:
    draw = random.Random(seed)
    before = judged(plan)
    runs = single_way(plan)
    assert added(before, judged(with_more_room(plan)), TOO_MUCH) == []
    loads = [one.id for one in plan.parts if one.kind == "load"]
    if loads:
        assert added(before, judged(with_a_load_less(plan, draw.choice(loads))), TOO_MUCH) == []
    if runs:
        run = draw.choice(runs)
        assert added(before, judged(with_run(plan, run.id, shorter=0.7)), TOO_MUCH) == []
        thicker = with_run(plan, run.id, thicker=True)
        assert added(before, judged(thicker), TOO_THIN) == []


@SOME
@given(document=plan_documents(), seed=st.integers(0, 10**6))
def test_more_room_and_less_to_do_are_never_too_much(document: dict[str, Any], seed: int) -> None:
    plan = parse_plan(document)
    hold_one_way(as_built(plan, judged(plan)), seed)


@pytest.mark.parametrize("seed", SEEDS)
def test_more_room_and_less_to_do_are_never_too_much_in_plans_with_mistakes(seed: int) -> None:
    plan = wild_plan(seed)
    hold_one_way(as_built(plan, judged(plan)), seed)


def hold_mends(plan: Plan) -> int:
    """Every mend that is offered, carried out and judged by the whole report; gives back how many there were."""
    before, count = each(judged(plan)), 0
    ids = {"plan", *(one.id for one in (*plan.parts, *plan.runs, *plan.channels))}
    for one in before.values():
        for fix in tried_mends(plan, one.id):
            count += 1
            after = each(judged(apply_edits(plan, fix.edits)))
            here = after.get(one.id)
            weight = SEVERITY_ORDER[one.severity]
            assert here is None or SEVERITY_ORDER[here.severity] > weight, (one.id, fix.label)
            gone = {other.code for key, other in before.items() if key not in after}
            came = [
                other.id
                for key, other in after.items()
                if key not in before
                and SEVERITY_ORDER[other.severity] <= weight
                # A fault that was there already may show at a new piece of the same wire.
                and not (other.subject not in ids and other.code in gone)
            ]
            assert came == [], (one.id, fix.label)
    return count


@pytest.mark.parametrize("seed", SEEDS)
def test_mends_of_plans_with_mistakes_mend(seed: int) -> None:
    hold_mends(wild_plan(seed))


@pytest.mark.parametrize("name", JOBS)
def test_mends_of_demo_jobs_mend(name: str) -> None:
    hold_mends(demo_plan(name))


def _thin(doc: dict[str, Any]) -> None:
    doc["runs"][5]["wire"] = {"system": "mm2", "size": "0.75", "reason": "test"}


def _bare(doc: dict[str, Any]) -> None:
    doc["runs"][0]["fuse_at_start"] = None


def _small(doc: dict[str, Any]) -> None:
    next(one for one in doc["parts"] if one["id"] == "u1")["rated_a"] = 30.0


@pytest.mark.parametrize("spoil", [_thin, _bare, _small])
def test_mends_are_offered_for_what_can_be_mended(spoil: Callable[[dict[str, Any]], None]) -> None:
    """The law of mends would hold with none offered."""
    doc = plan_document(demo_plan("heron"))
    spoil(doc)
    assert hold_mends(parse_plan(doc)) > 0
