"""Every working, evaluated again from its own inputs, gives its figure to the digits shown."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Working
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from tests.core.evaluation.formulas import evaluate_formula
from tests.helpers import powered_document

# A screen shows three significant digits: half of the last one, and a hair for sums of many.
SHOWN = 2e-4


def wrong(workings: dict[str, Working]) -> list[str]:
    found = []
    for key, one in workings.items():
        if not isinstance(one.value, int | float):
            continue
        assert "=" in one.formula, f"{key} shows a number and no formula: {one.formula}"
        again = evaluate_formula(one)
        if abs(again - one.value) > SHOWN * max(abs(one.value), 1e-3):
            found.append(f"{key}: {one.formula} gives {again:.6g}, shown {one.value:.6g}")
    return found


@pytest.mark.parametrize("name", JOBS)
def test_every_figure_of_a_demo_plan_follows_from_its_working(name: str) -> None:
    workings = evaluate(demo_plan(name)).working
    assert len(workings) > 100
    assert not wrong(workings)


def test_every_figure_of_a_plan_with_all_kinds_of_sources_follows_from_its_working() -> None:
    assert not wrong(evaluate(parse_plan(powered_document())).working)


def test_a_working_that_lies_is_seen() -> None:
    workings = evaluate(demo_plan("tern")).working
    key = next(one for one in workings if one.endswith(".resistance_ohm"))
    workings[key].inputs = [one for one in workings[key].inputs if one.symbol != "R_joints"]
    with pytest.raises(AssertionError, match="R_joints"):
        wrong(workings)
    changed: Any = evaluate(demo_plan("tern")).working
    changed[key].value *= 1.001
    assert wrong(changed)
