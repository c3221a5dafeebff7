"""The same plan, written another way, gives the same report: order of lists, ends, names, a system beside it."""

from __future__ import annotations

import random
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lucernis.core.circuit.in_order import in_order
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report, every
from lucernis.core.sizing.sized import sized_plan
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from tests.law.compared import Facts, differences, facts, unnamed
from tests.law.conftest import some
from tests.law.plans import plan_documents
from tests.law.rewritten import in_other_order, turned_round, with_another_beside, with_other_names
from tests.law.wild import wild_plan

SOME = settings(max_examples=some(20), deadline=None, suppress_health_check=list(HealthCheck))
SEEDS = range(some(16, 8))


def judged(plan: Plan) -> Report:
    return evaluate(plan, with_working=False)


def words(report: Report) -> Facts:
    """What the findings say to the letter, folded ones too."""
    return {one.id: one.what for one in every(report.findings)}


def hold_order(plan: Plan, seed: int) -> None:
    before, after = judged(plan), judged(in_other_order(plan, seed))
    assert differences(facts(before), facts(after)) == []
    assert words(before) == words(after)


def hold_ends(plan: Plan, seed: int) -> None:
    other, turned = turned_round(plan, seed)
    assert differences(facts(judged(plan)), facts(judged(other), turned=turned)) == []


def twins(plan: Plan) -> bool:
    """Whether two batteries of a bank are alike in all but their names: one of them then speaks for both."""
    alike = [one.model_dump(exclude={"id", "name", "tag"}) for one in plan.parts if one.kind == "battery"]
    return any(one in alike[:k] for k, one in enumerate(alike))


def hold_names(plan: Plan, seed: int) -> None:
    other, names = with_other_names(plan, seed)
    before = facts(judged(plan))
    after = facts(judged(in_other_order(other, seed)), name=lambda one: names.get(one, one))
    if twins(plan):
        assert unnamed(before) == unnamed(after)
    else:
        assert differences(before, after) == []


def hold_apart(plan: Plan, other: Plan) -> None:
    both, beside = with_another_beside(plan, other)
    before, after = facts(judged(plan)), facts(judged(both))
    subjects = [one for one in before if one not in ("summary", "heads", "findings")]
    assert differences({one: before[one] for one in subjects}, {one: after[one] for one in subjects}) == []
    # What is said of the plan as a whole may be said of the other system.
    said = [{key: one for key, one in some["findings"].items() if beside not in key} for some in (before, after)]
    kept = {key: one for key, one in said[1].items() if not key.endswith(" on plan") or key in said[0]}
    assert differences(said[0], kept) == []


@SOME
@given(document=plan_documents(), seed=st.integers(0, 10**6))
def test_order_of_the_lists_changes_nothing(document: dict[str, Any], seed: int) -> None:
    hold_order(parse_plan(document), seed)


@SOME
@given(document=plan_documents(), seed=st.integers(0, 10**6))
def test_a_run_turned_round_changes_nothing(document: dict[str, Any], seed: int) -> None:
    hold_ends(parse_plan(document), seed)


@SOME
@given(document=plan_documents(), seed=st.integers(0, 10**6))
def test_names_change_nothing(document: dict[str, Any], seed: int) -> None:
    hold_names(parse_plan(document), seed)


@SOME
@given(document=plan_documents(), other=plan_documents())
def test_a_system_that_nothing_joins_changes_nothing(document: dict[str, Any], other: dict[str, Any]) -> None:
    # One van has one voltage and one practice.
    other |= {"nominal_v": document["nominal_v"], "practice": document["practice"], "states": document["states"]}
    hold_apart(parse_plan(document), parse_plan(other))


@pytest.mark.parametrize("seed", SEEDS)
def test_plans_with_mistakes_say_the_same_however_they_are_written(seed: int) -> None:
    plan = wild_plan(seed)
    hold_order(plan, seed)
    hold_ends(plan, seed)
    hold_names(plan, seed)
    hold_apart(plan, demo_plan("plover"))


@pytest.mark.parametrize("name", JOBS)
def test_demo_jobs_say_the_same_however_they_are_written(name: str) -> None:
    plan = demo_plan(name)
    hold_order(plan, 3)
    hold_ends(plan, 4)
    hold_names(plan, 5)
    hold_apart(plan, demo_plan("tern" if name != "tern" else "plover"))


def test_a_plan_in_order_is_the_same_however_it_was_listed() -> None:
    plan, draw = demo_plan("heron"), random.Random(1)
    ordered = in_order(plan)
    assert in_order(ordered) is ordered
    for _ in range(5):
        again = in_order(in_other_order(plan, draw.randrange(10**6)))
        assert [one.id for one in again.parts] == [one.id for one in ordered.parts]
        assert [one.id for one in again.runs] == [one.id for one in ordered.runs]
        assert [one.id for one in again.states] == [one.id for one in ordered.states]


def test_papers_and_report_have_one_choice_of_sizes() -> None:
    """Whoever counts by another list of the same plan gets the same sizes, fuses and volts."""
    plan = demo_plan("heron")
    listed, report = sized_plan(plan), judged(plan)
    for run in report.runs:
        assert listed.chosen[run.id].size.label == run.wire.label
        for state, one in run.states.items():
            assert abs(listed.states[state].run_a[run.id]) == pytest.approx(one.current_a, abs=1e-4)
