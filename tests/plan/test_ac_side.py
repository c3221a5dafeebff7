"""What runs on AC behind an inverter: watts together, starts, energy; and what the checks say of it."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from lucernis.core.energy.usage import usage_of
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.proposals.steps import rate_inverter
from lucernis.core.proposals.wishes import Wishes
from lucernis.core.sizing.choice import size_plan
from lucernis.plan.ac_side import AcDevice, ac_need
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Load
from lucernis.plan.rules import plan_rules
from tests.helpers import every_finding, powered_document

KETTLE = {"name": "Kettle", "power_w": 1000.0, "hours_per_day": 0.2, "alone": True}
LAPTOP = {"name": "Laptop", "power_w": 90.0, "hours_per_day": 4.0}
FRIDGE = {"name": "Fridge on AC", "power_w": 80.0, "hours_per_day": 8.0, "inrush_factor": 6.0}


def need(*devices: dict[str, Any]) -> Any:
    return ac_need([AcDevice.model_validate(one) for one in devices])


def test_together_is_what_may_run_together_or_the_largest_alone() -> None:
    assert need(LAPTOP, FRIDGE).continuous_w == 170.0
    found = need(KETTLE, LAPTOP, FRIDGE)
    assert (found.continuous_w, found.together) == (1000.0, ("Kettle",))
    assert need(KETTLE | {"alone": False}, LAPTOP).continuous_w == 1090.0


def test_energy_is_that_of_every_device_and_hours_give_it_again() -> None:
    found = need(KETTLE, LAPTOP, FRIDGE)
    assert found.wh_per_day == pytest.approx(1000 * 0.2 + 90 * 4 + 80 * 8)
    assert found.hours_per_day * found.continuous_w == pytest.approx(found.wh_per_day)


def test_the_worst_start_counts_with_what_may_run_beside_it() -> None:
    found = need(LAPTOP, FRIDGE)
    assert (found.surge_w, found.starting) == (90.0 + 6 * 80.0, "Fridge on AC")
    assert need(KETTLE, FRIDGE).surge_w == 1000.0


def document(continuous_w: float, surge_w: float | None, *devices: dict[str, Any]) -> dict[str, Any]:
    doc = powered_document()
    doc["parts"].append(
        {"kind": "load", "id": "l9", "name": "Inverter", "tag": "L09", "device": "inverter", "ac": list(devices),
         "inverter": {"continuous_w": continuous_w, "surge_w": surge_w}}
    )  # fmt: skip
    doc["runs"].append(
        {"id": "r9", "tag": "C09", "start": {"part": "u1"}, "finish": {"part": "l9"}, "length_m": 1.0,
         "fuse_at_start": {"distance_m": 0.1, "family": "anl"}}
    )  # fmt: skip
    return doc


def test_watts_and_hours_of_the_inverter_follow_and_stay() -> None:
    plan = parse_plan(document(600.0, None, LAPTOP, FRIDGE))
    load = next(one for one in plan.parts if isinstance(one, Load) and one.id == "l9")
    assert (load.power_w, load.hours_per_day) == (170.0, pytest.approx(1000.0 / 170.0))
    assert parse_plan(plan_document(plan)) == plan
    used = next(one for one in usage_of(plan, size_plan(plan, plan_rules(plan))).loads if one.load == "l9")
    # Losses of the inverter and of its wires come on top.
    assert 1.05 * 1000.0 < used.wh < 1.4 * 1000.0


@pytest.mark.parametrize(("continuous_w", "surge_w", "found"), [
    (170.0, 570.0, set()), (169.0, 570.0, {"inverter-below-ac"}), (170.0, 569.0, {"inverter-start-below-ac"}),
    (170.0, None, set())])  # fmt: skip
def test_an_inverter_is_held_to_what_is_behind_it(continuous_w: float, surge_w: float | None, found: set[str]) -> None:
    told = every_finding(evaluate(parse_plan(document(continuous_w, surge_w, LAPTOP, FRIDGE))).findings)
    assert {code for code, subject in told if subject == "l9" and code.endswith("-ac")} == found


def test_a_proposal_rates_the_inverter_for_the_start() -> None:
    doc = document(170.0, None, LAPTOP, FRIDGE | {"inrush_factor": 9.0})
    next(one for one in doc["parts"] if one["id"] == "l9")["inverter"] = None
    outcome = rate_inverter(parse_plan(doc), Wishes())
    assert outcome is not None
    rated = next(one for one in outcome[0].parts if isinstance(one, Load) and one.id == "l9").inverter
    assert rated is not None
    assert (rated.surge_w or 0) >= 90.0 + 9 * 80.0


def test_only_an_inverter_has_ac_behind_it() -> None:
    with pytest.raises(ValidationError, match="only behind an inverter"):
        Load(id="l1", name="Lamp", tag="L01", ac=(AcDevice.model_validate(LAPTOP),))
