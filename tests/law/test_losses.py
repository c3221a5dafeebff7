"""What is lost in all is never less than what is lost in the conductors, on any way, home too.

It was, for negatives alone: their way home was counted to whichever battery's negative stood nearest in volts, the
conductors to the battery the way leads to.
"""

from __future__ import annotations

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.school.breaking.van import good_van, van_names
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from tests.law.conftest import some
from tests.law.wild import wild_plan


def _check(plan: Plan) -> int:
    alone = 0
    for run in evaluate(plan, with_working=False).runs:
        alone += run.legs == "negative"
        # In the worst state: where something charges, a part of the way may gain what another loses.
        worst = run.worst
        assert worst.drop_v >= worst.conductor_drop_v - 1e-9, run.tag
        assert worst.drop_to_end_v >= worst.conductor_drop_to_end_v - 1e-9, run.tag
    return alone


def test_in_every_sound_van() -> None:
    plans = [*(demo_plan(name) for name in JOBS), *(parse_plan(good_van(name).doc) for name in van_names())]
    assert sum(_check(plan) for plan in plans) > 10, "negatives alone are met"


@pytest.mark.parametrize("part", range(4))
def test_in_every_plan(part: int) -> None:
    count = some(24) // 4
    assert sum(_check(wild_plan(seed)) for seed in range(part * count, part * count + count)) > 0
