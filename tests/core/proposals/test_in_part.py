"""A proposal taken in part leaves a plan that says what is now missing."""

from __future__ import annotations

import pytest

from lucernis.core.energy.forecast import forecast
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.steps import STEPS
from lucernis.core.sizing.choice import size_plan
from lucernis.plan.rules import plan_rules
from tests.core.proposals.lists import load_list


@pytest.mark.parametrize(
    ("name", "left_out", "code"),
    [
        ("full_timer", "bank", "battery-limit-usual"),
        ("weekender", "bars", "no-isolator"),
        ("weekender", "blocks", "feeder-shorter"),
        ("weekender", "ground", "bond-missing"),
    ],
)
def test_a_step_left_out_is_missed_by_the_checks(name: str, left_out: str, code: str) -> None:
    plan, wishes = load_list(name, "metric_caravan")
    part, proposal = propose(plan, wishes, [one for one in STEPS if one != left_out])
    assert next(one for one in proposal.steps if one.id == left_out).outcome == "left"
    assert code in {one.code for one in evaluate(part, with_working=False).findings}


def test_without_sun_the_proposal_and_the_days_say_what_is_missing() -> None:
    plan, wishes = load_list("weekender", "metric_caravan")
    part, proposal = propose(plan, wishes, [one for one in STEPS if one != "sun"])
    told = next(one for one in proposal.steps if one.id == "energy").reason
    assert "not served" in told
    assert "Wh a day are missing" in told
    assert "would serve it" in told
    assert forecast(part, size_plan(part, plan_rules(part)), 7).refilling == "look"
