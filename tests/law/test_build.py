"""Laws of the build over generated plans: every order of work keeps what it needs, every metre is cut once."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, given, settings

from lucernis.core.build.buying import buy_wires
from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.order import order_of_work
from lucernis.core.build.progress import Tick, progress
from lucernis.plan.document import parse_plan
from tests.core.build.test_order import check_order
from tests.law.conftest import PLANS
from tests.law.test_layouts import laid_documents

SOME = settings(max_examples=max(15, PLANS // 20), deadline=None, suppress_health_check=list(HealthCheck))


@SOME
@given(document=laid_documents())
def test_any_plan_can_be_built_in_order(document: dict[str, Any]) -> None:
    plan = parse_plan(document)
    order, cut = order_of_work(plan), cut_list(plan)
    check_order(order)
    crimped = [one.amount for one in order.steps if one.phase == "crimp"]
    assert sum(crimped) == 2 * len(cut.pieces)
    every = [*order.steps, *order.power_up]
    found = progress(order, [Tick(at, one.id, one.done_as, "", "", "") for at, one in enumerate(every, start=1)])
    assert (found.amiss, found.gone, found.done) == ([], [], len(every))
    assert all(one.bought.problem for one in buy_wires(cut, {}, spare_frac=0.05))
