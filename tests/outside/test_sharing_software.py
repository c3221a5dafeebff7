"""How batteries side by side share, against ngspice 39 on a netlist written by hand from the plan's own figures."""

from __future__ import annotations

from pathlib import Path

import pytest

from lucernis.core.circuit.solver import Circuit
from lucernis.core.circuit.sources import source_figures
from lucernis.core.power.bank import bank_figures, solve_with_batteries
from lucernis.core.sizing.choice import size_plan, state_circuit
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import MakeBank
from lucernis.plan.model import Battery, Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import powered_document
from tests.outside.spice import node_volts


def bank_plan(parallel: int, take_off: str) -> Plan:
    fields = {"op": "make_bank", "battery": "b1", "parallel": parallel, "take_off": take_off}
    edit = MakeBank.model_validate(fields)
    return apply_edits(parse_plan(powered_document()), [edit])


@pytest.mark.parametrize(("parallel", "take_off"), [(2, "same_end"), (2, "diagonal"), (3, "same_end"), (3, "busbar")])
def test_sharing_matches_ngspice(parallel: int, take_off: str, tmp_path: Path) -> None:
    """Every battery within 1 mA: half-charge volts behind the table's resistance, loads of the worst state."""
    plan = bank_plan(parallel, take_off)
    sized = size_plan(plan, plan_rules(plan))
    state = plan.states[0]
    ours = solve_with_batteries(plan, sized, state)
    circuit = state_circuit(plan, sized, state)
    theirs = Circuit(node_count=circuit.node_count)
    theirs.conductor_from, theirs.conductor_to = circuit.conductor_from, circuit.conductor_to
    theirs.conductor_ohm = circuit.conductor_ohm
    batteries = {part.id: part for part in plan.parts if isinstance(part, Battery)}
    emf: dict[str, tuple[float, float]] = {}
    for at, name in enumerate(sized.wiring.sources):
        if name in batteries:
            figures = source_figures(batteries[name], 12.0)
            emf[name] = (figures.half_v, figures.running_ohm)
            theirs.source(circuit.source_pos[at], circuit.source_neg[at], *emf[name])
    theirs.load_pos, theirs.load_neg = circuit.load_pos, circuit.load_neg
    theirs.load_kind, theirs.load_value = circuit.load_kind, circuit.load_value
    volts = node_volts([theirs], tmp_path)[0]
    for at, name in enumerate(sized.wiring.sources):
        if name in emf:
            across = volts[circuit.source_pos[at]] - volts[circuit.source_neg[at]]
            assert ours[name] == pytest.approx((emf[name][0] - across) / emf[name][1], abs=1e-3)


def alike(plan: Plan) -> Plan:
    """The same wire between and behind all batteries, so that only where it is taken off differs."""
    doc = plan_document(plan)
    house = {part.id for part in plan.parts if isinstance(part, Battery) and part.use == "house"}
    for one in doc["runs"]:
        if house & {one["start"]["part"], one["finish"]["part"]}:
            one["wire"] = {"system": "awg", "size": "2", "reason": "test"}
    return parse_plan(doc)


def test_same_end_loads_the_first_battery_most_and_diagonal_evens_it() -> None:
    """Trade fact, common practice, no source."""
    shares = {}
    for take_off in ("same_end", "diagonal", "busbar"):
        plan = alike(bank_plan(3, take_off))
        found = bank_figures(plan, size_plan(plan, plan_rules(plan)))
        assert found is not None
        shares[take_off] = [one.of_even for one in found.shares]
    assert shares["same_end"][0] > shares["same_end"][1] > shares["same_end"][2]
    assert max(shares["diagonal"]) - min(shares["diagonal"]) < 0.5 * (shares["same_end"][0] - shares["same_end"][2])
    assert max(shares["busbar"]) == pytest.approx(1.0, abs=0.02)
