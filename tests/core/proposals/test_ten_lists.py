"""Ten very different load lists become systems an installer would sign, in every practice set."""

from __future__ import annotations

from pathlib import Path

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.proposals.propose import Proposal, propose
from lucernis.core.sizing.choice import size_plan, state_circuit
from lucernis.plan.model import FuseBlock, Load, Plan, Switch
from lucernis.plan.rules import plan_rules
from tests.core.proposals.lists import LISTS, load_list
from tests.law.conftest import PLANS
from tests.law.plans import SETS
from tests.outside.spice import node_volts

# Each list in one practice set here, so that every set comes to each kind; every pair in the long run.
PAIRS = [
    (name, practice) for k, name in enumerate(LISTS) for j, practice in enumerate(SETS) if PLANS > 300 or k % 4 == j
]


def _it_ends_with_no_stop_no_fix_and_at_most_two_looks(proposed: tuple[Plan, Proposal]) -> None:
    found = evaluate(proposed[0], with_working=False).findings
    assert [f"{one.code} {one.tag}: {one.what}" for one in found if one.severity != "look"] == []
    looks = [f"{one.code} {one.tag}: {one.what}" for one in found if one.code != "lengths-guessed"]
    assert len(looks) <= 2, looks


def _everything_hangs_behind_the_switch(proposed: tuple[Plan, Proposal]) -> None:
    plan = proposed[0]
    sized = size_plan(plan, plan_rules(plan))
    switches = {part.id for part in plan.parts if isinstance(part, Switch) and part.use == "isolator"}
    assert len(switches) == 1
    closed = [contact for contact in sized.switching.contacts if contact[0] not in switches]
    house = [part.id for part in plan.parts if part.kind == "battery" and part.use == "house"]
    live = sized.switching.reach(closed, frozenset(), roots=house)
    left = {part.name for part in plan.parts if part.id in live and part.kind in ("load", "charger", "fuse_block")}
    assert left == {part.name for part in plan.parts if isinstance(part, Load) and part.stays_live}


def _sizes_are_few_and_branches_thin(proposed: tuple[Plan, Proposal]) -> None:
    report = evaluate(proposed[0], with_working=False)
    branches = {one.wire.label for one in report.runs if one.role in ("branch", "onward") and one.design_current_a < 15}
    assert len(branches) <= 3
    assert all(one.wire.area_mm2 <= 6.01 for one in report.runs if one.role == "branch" and one.design_current_a < 15)
    # Few spools; battery cable is bought by the metre, and no run jumps more than two sizes to share one.
    sizes = {one.wire.label: one.wire.area_mm2 for one in report.runs if one.fed}
    assert len([area for area in sizes.values() if area <= 16.5]) <= 5
    assert len(sizes) <= 7


def _a_fifth_of_the_ways_is_free(proposed: tuple[Plan, Proposal]) -> None:
    plan = proposed[0]
    for block in (part for part in plan.parts if isinstance(part, FuseBlock)):
        used = sum(run.start.part == block.id and run.start.way is not None for run in plan.runs)
        assert 0 < used <= 0.8 * block.ways + 1e-9


def _energy_is_served_or_told(proposed: tuple[Plan, Proposal]) -> None:
    told = next(one for one in proposed[1].steps if one.id == "energy").reason
    assert "is served" in told or "would serve it" in told


def _worst_state_matches_ngspice(proposed: tuple[Plan, Proposal], tmp_path: Path) -> None:
    """ngspice 39, node by node, within 1 mV, in the state that draws most."""
    plan = proposed[0]
    sized = size_plan(plan, plan_rules(plan))
    worst = max(plan.states, key=lambda state: abs(sized.states[state.id].source_a))
    theirs = node_volts([state_circuit(plan, sized, worst)], tmp_path)[0]
    result, wiring, met = sized.states[worst.id], sized.wiring, 0
    for name in wiring.pos:
        if name in sized.demand.switched[worst.id].live and result.part_v[name]:
            between_v = theirs[wiring.pos[name]] - theirs[wiring.neg_at(name)]
            assert result.part_v[name] == pytest.approx(between_v, abs=1e-3)
            met += 1
    assert met >= 6


@pytest.mark.parametrize(("name", "practice"), PAIRS)
def test_ten_lists_become_systems_an_installer_would_sign(name: str, practice: str, tmp_path: Path) -> None:
    """One proposal each, looked at from every side: making it is what takes time."""
    proposed = propose(*load_list(name, practice))
    _it_ends_with_no_stop_no_fix_and_at_most_two_looks(proposed)
    _everything_hangs_behind_the_switch(proposed)
    _sizes_are_few_and_branches_thin(proposed)
    _a_fifth_of_the_ways_is_free(proposed)
    _energy_is_served_or_told(proposed)
    _worst_state_matches_ngspice(proposed, tmp_path)
