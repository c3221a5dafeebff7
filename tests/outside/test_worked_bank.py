"""The bank sized by hand in docs/worked-bank.md, computed by the program: arithmetic on paper, no source."""

from __future__ import annotations

import pytest

from lucernis.core.circuit.loads import load_figures
from lucernis.core.energy.bank_size import bank_sizes, needed_ah
from lucernis.core.power.charging import cold_open_v
from lucernis.plan.model import Inverter, Load, Panel
from tests.helpers import as_printed

BY_HAND = {"fridge": "37.5", "lamps": "4.0", "heater fan": "12.0", "router": "16.0", "inverter": "14.89"}


def a_load(name: str, **fields: object) -> Load:
    return Load.model_validate({"id": "l1", "name": name, "tag": "L01"} | fields)


LOADS = [
    a_load("fridge", power_w=45.0, hours_per_day=10.0),
    a_load("lamps", current_a=0.8, hours_per_day=5.0, behaviour="constant_current"),
    a_load("heater fan", power_w=24.0, hours_per_day=6.0),
    a_load("router", power_w=8.0, hours_per_day=24.0),
    a_load(
        "inverter",
        device="inverter",
        power_w=300.0,
        hours_per_day=0.5,
        inverter=Inverter(
            continuous_w=300.0, efficiency_frac=0.9, best_efficiency_frac=0.9, standby_w=6.0, standby_hours=2.0
        ),
    ),
]


def charge_ah(load: Load) -> float:
    found = load_figures(load, nominal_v=12.0, school="nominal").ah_per_day
    assert found is not None
    return found


@pytest.mark.parametrize("load", LOADS, ids=[one.name for one in LOADS])
def test_charge_a_day_is_that_by_hand(load: Load) -> None:
    assert charge_ah(load) == as_printed(BY_HAND[load.name])


def test_sum_and_banks_are_those_by_hand() -> None:
    total = sum(charge_ah(load) for load in LOADS)
    assert total == as_printed("84.39")
    assert needed_ah(total, 2.0, share_frac=0.5, peukert=1.25) == as_printed("337.6")
    assert needed_ah(total, 2.0, share_frac=0.85, peukert=1.03) == as_printed("198.6")
    assert needed_ah(total, 10 / 24, share_frac=1.0, peukert=1.25) == pytest.approx(40.39, abs=0.02)


def test_sizes_by_chemistry_use_the_table() -> None:
    sizes = {one.chemistry: one for one in bank_sizes(84.39, 2.0, 12.0, None, {})}
    assert sizes["flooded"].needed_ah == as_printed("337.6")
    assert sizes["lfp"].needed_ah == as_printed("198.6")
    assert sizes["lfp"].mass_kg < sizes["agm"].mass_kg / 3
    assert sizes["lfp"].cost is None


def test_own_share_wins_over_the_table() -> None:
    assert {one.usable_frac for one in bank_sizes(50.0, 1.0, 12.0, 0.6, {})} == {0.6}


def test_panels_in_the_cold_are_those_by_hand() -> None:
    panels = Panel(id="v", name="Panels", tag="V1", power_w=100.0, mp_v=18.0, open_v=22.0, short_a=6.0, series=3)
    assert cold_open_v(panels, -10.0) == as_printed("72.7")
    assert cold_open_v(panels, 25.0) == 66.0


def test_what_peukert_adds_is_told_as_a_share() -> None:
    """35.16 Ah in ten hours out of all of a flooded bank of exponent 1.25: 40.39 Ah, 14.9 % more; lithium hardly."""
    sizes = {one.chemistry: one for one in bank_sizes(84.39, 10 / 24, 12.0, 1.0, {})}
    assert 100 * sizes["flooded"].peukert_frac == as_printed("14.9")
    assert 0 < 100 * sizes["lfp"].peukert_frac < 3
    assert {one.peukert_frac for one in bank_sizes(0.0, 1.0, 12.0, None, {})} == {0.0}
