"""What the laws run on: the share of plans that have each kind of part, each nominal voltage and each way a run can be,
printed with `-s`. None may be nought, or a law holds on easy plans alone."""

from __future__ import annotations

from collections import Counter
from typing import Any, get_args

from hypothesis import HealthCheck, Phase, given, settings

from lucernis.core.school.breaking.van import Van
from lucernis.core.school.dice import Dice
from lucernis.core.school.mistakes import good_van, van_names
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from tests.law.plans import plan_documents
from tests.law.wild import wild_plan

DRAWN = 60


def traits(plan: Plan) -> set[str]:
    """What a plan has in it."""
    found = {part.kind for part in plan.parts} | {f"{plan.nominal_v} V"}
    found |= {f"legs {run.legs}" for run in plan.runs}
    found |= {"side by side"} if any(run.parallel > 1 for run in plan.runs) else set()
    found |= {"far fuse"} if any(run.fuse_at_finish is not None for run in plan.runs) else set()
    found |= {"channels"} if plan.channels else set()
    found |= {"off"} if any(state.off for state in plan.states) else set()
    found |= {"open"} if any(state.open for state in plan.states) else set()
    found |= {name for name in ("engine_on", "shore_on", "sun") if any(getattr(one, name) for one in plan.states)}
    found |= {f"charger {part.form}" for part in plan.parts if part.kind == "charger"}
    found |= {"inverter"} if any(part.kind == "load" and part.inverter is not None for part in plan.parts) else set()
    pins = any(run.wire is not None for run in plan.runs)
    return found | ({"pinned"} if pins else set())


def kinds() -> set[str]:
    """Every kind of part a plan may have."""
    union: Any = Plan.model_fields["parts"].annotation
    found: set[str] = set()

    def look(one: Any) -> None:
        if hasattr(one, "model_fields") and "kind" in one.model_fields:
            found.add(get_args(one.model_fields["kind"].annotation)[0])
        for inner in get_args(one):
            look(inner)

    look(union)
    return found


def test_no_kind_of_part_and_no_way_of_a_run_is_left_out_of_the_laws() -> None:
    seen: Counter[str] = Counter()
    count = 0

    @settings(
        max_examples=DRAWN, deadline=None, database=None, derandomize=True, phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(document=plan_documents())
    def drawn(document: dict[str, Any]) -> None:
        nonlocal count
        seen.update(traits(parse_plan(document)))
        count += 1

    drawn()
    vans = [parse_plan(Van(good_van(name), Dice(0, 1)).doc) for name in van_names()]
    for plan in [*(demo_plan(name) for name in JOBS), *(wild_plan(seed) for seed in range(DRAWN)), *vans]:
        seen.update(traits(plan))
        count += 1
    for name, times in seen.most_common():
        print(f"{times / count:6.1%} {name}")
    wanted = kinds() | {"12 V", "24 V", "legs both", "legs positive", "legs negative", "legs series", "side by side"}
    wanted |= {"far fuse", "off", "open", "engine_on", "shore_on", "sun", "inverter", "pinned", "channels"}
    wanted |= {"charger shore", "charger sun", "charger dcdc"}
    assert wanted - set(seen) == set()
