"""A bank of eight strings: a short on its bar is over when all eight fuses are, and that is told."""

from __future__ import annotations

import pytest

from bench.shapes import bank_plan, ring_plan
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import study_faults
from lucernis.core.sizing.choice import size_plan
from lucernis.plan.rules import plan_rules


def test_a_short_on_the_bar_opens_every_string() -> None:
    report = evaluate(bank_plan(40), with_working=False)
    fault = next(one for one in report.nodes if one.part == "bar").fault
    assert fault is not None
    assert set(fault.openers) == {f"CB{at}" for at in range(8)}
    assert fault.slow_s is not None
    assert report.summary.open_stop == 0


@pytest.mark.parametrize("strings", [2, 5, 8])
def test_equal_fuses_open_in_the_order_they_are_drawn(strings: int) -> None:
    plan = bank_plan(20, strings)
    study = study_faults(plan, size_plan(plan, plan_rules(plan)))
    assert study.of_point["bar"].openers == [f"rb{at}" for at in range(strings)]


def test_a_ring_is_opened_from_both_sides() -> None:
    plan = ring_plan(270)
    study = study_faults(plan, size_plan(plan, plan_rules(plan)))
    middle = next(one for one in study.of_run["ring"] if one.where == "middle")
    assert len(middle.openers) == 2
    assert middle.slow_s is not None
