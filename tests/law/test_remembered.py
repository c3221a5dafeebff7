"""Property: what is remembered tells the same, byte for byte, as what is computed from nothing."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.power import PowerReport, power_report
from lucernis.core.power import charging
from lucernis.core.report import Report
from lucernis.core.sizing import sized
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan
from tests.helpers import powered_document
from tests.plan.test_edit_sequences import OPERATIONS, SEQUENCES, follow

REPORT: TypeAdapter[Report] = TypeAdapter(Report)
POWER: TypeAdapter[PowerReport] = TypeAdapter(PowerReport)


def told(plan: Plan) -> bytes:
    return REPORT.dump_json(evaluate(plan)) + POWER.dump_json(power_report(plan, {}))


def forget() -> None:
    sized._sized.cache_clear()
    charging._study.cache_clear()


@settings(max_examples=SEQUENCES, deadline=None, suppress_health_check=list(HealthCheck))
@given(operations=st.lists(OPERATIONS, min_size=1, max_size=4))
def test_edits_one_after_another_and_back_tell_what_each_plan_tells_alone(operations: list[dict[str, Any]]) -> None:
    forget()
    plans = [parse_plan(powered_document())]
    for operation in operations:
        plans.append(follow(plans[-1], [operation])[0])
    # Forth and back again, as undo and redo go, with what was remembered on the way.
    on_the_way = [told(plan) for plan in plans] + [told(plan) for plan in reversed(plans)]
    alone = []
    for plan in plans:
        forget()
        alone.append(told(parse_plan(plan_document(plan))))
    assert on_the_way == alone + alone[::-1]


def test_a_plan_asked_for_again_is_not_chosen_for_again() -> None:
    forget()
    plan = parse_plan(powered_document())
    first = sized.sized_plan(plan)
    assert sized.sized_plan(plan) is first
    assert sized.sized_plan(plan.model_copy()) is not first
