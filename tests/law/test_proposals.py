"""Proposals from load lists drawn out of the catalogue, in every practice set, pass their own checks."""

from __future__ import annotations

from typing import get_args

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.wishes import Leaning, WishedChemistry, Wishes
from lucernis.core.school.dice import Dice
from lucernis.plan.blank import blank_plan
from lucernis.plan.catalogue import shipped
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import AddLoads
from lucernis.plan.model import Plan
from tests.law.conftest import PLANS
from tests.law.plans import SETS
from tests.law.test_own_choices import own_faults

PLACES = ("Desk", "Galley", "Rear", "Ceiling", "Locker")
# A proposal takes a second and more: a few in every set here, two hundred in all in the long run.
SEEDS = range(max(3 * len(SETS), PLANS // 25))


def drawn(seed: int) -> tuple[Plan, Wishes]:
    """A blank plan with three to sixteen devices of the catalogue in their places, and what is wished with them."""
    dice = Dice(seed, 26)
    body = dice.one_of(("steel", "aluminium", "fibreglass_or_wood"))
    doc = plan_document(blank_plan("Drawn", practice_set=SETS[seed % len(SETS)], body=body))  # type: ignore[arg-type]
    zone = doc["zones"][0]["id"]
    doc["places"] = [{"id": f"p{k}", "name": one, "zone": zone, "vented": True} for k, one in enumerate(PLACES)]
    for one in doc["parts"]:
        one["place"] = f"p{len(PLACES) - 1}"
    some = dice.some_of(shipped(), dice.between(3, 16))
    watts = [dice.one_of((one.low_w, one.usual_w, one.usual_w, one.high_w)) for one in some]
    rows = [
        {"name": one.name, "power_w": f"{power_w:g}", "hours_per_day": f"{one.hours:g}", "place": dice.one_of(PLACES)}
        for one, power_w in zip(some, watts, strict=True)
    ]
    plan = apply_edits(parse_plan(doc), [AddLoads.model_validate({"op": "add_loads", "rows": rows})])
    doc = plan_document(plan)
    for one, power_w in zip(some, watts, strict=True):
        part = next(part for part in doc["parts"] if part["name"] == one.name)
        part.update(one.values() | {"power_w": power_w})
    wishes = Wishes(
        days=dice.one_of((1.0, 2.0, 3.0)),
        drive_hours=dice.one_of((0.0, 1.5, 3.0)),
        leaning=dice.one_of(get_args(Leaning)),
        nominal_v=dice.one_of((12, 12, 24)),
        chemistry=dice.one_of(("lfp", *get_args(WishedChemistry))),
        sun=dice.chance(0.8),
        shore=dice.chance(0.6),
        starter_length_m=dice.one_of((3.0, 5.0, 7.0)),
        roof_m2=dice.one_of((2.0, 4.0, 8.0)),
    )
    return parse_plan(doc), wishes


@pytest.mark.parametrize("seed", SEEDS)
def test_a_proposal_from_any_load_list_passes_its_own_checks(seed: int) -> None:
    plan, proposal = propose(*drawn(seed))
    found = evaluate(plan, with_working=False).findings
    assert own_faults(found) == []
    # What the proposal wrote itself, as the family of its main fuse, is no person's demand: nothing grave is left but
    # the drop limit of a device out of reach, and what the proposal says is more than one trunk carries.
    grave = [f"{one.code} {one.tag}: {one.asked}" for one in found if one.severity != "look"]
    grave = [one for one in grave if not one.startswith("drop-out-of-reach")]
    assert grave == [] or any("more than one trunk" in step.reason for step in proposal.steps)
