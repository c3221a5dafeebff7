"""Reference tests: heat balance against ht's correlations, the small-craft table and the adiabatic constants."""

from __future__ import annotations

import numpy as np
import pytest
from ht.conv_free_immersed import Nu_horizontal_cylinder_Churchill_Chu, Nu_horizontal_cylinder_Kuehn_Goldstein
from ht.radiation import q_rad

from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.heat import (
    Covered,
    adiabatic_end_c,
    adiabatic_k,
    ampacity_from_heat_a,
    convection_w_per_m2k,
    given_away_w_per_m,
    heat_up,
    steady_c,
    wall_mm,
)
from lucernis.practice.tables import load_table
from tests.helpers import as_printed


def awg(name: str, wall: float | None = None) -> Covered:
    size = wire_size("awg", name)
    return Covered(
        np.array([size.area_mm2]),
        np.array([size.resistance_20_ohm_per_m]),
        np.array([wall if wall is not None else wall_mm(size.area_mm2)]),
    )


@pytest.mark.parametrize(("surface_c", "ambient_c", "diameter_m"), [(40, 20, 0.003), (70, 30, 0.008), (105, 30, 0.018)])
def test_convection_agrees_with_ht(surface_c: float, ambient_c: float, diameter_m: float) -> None:
    """ht 1.2, horizontal cylinder; properties of air at 1 atm written out here: within 5 % of Churchill-Chu.

    Kuehn and Goldstein's correlation is one of its own kind; correlations differ by 10 to 15 % among themselves.
    """
    film_k = (surface_c + ambient_c) / 2 + 273.15
    # Air at 300 K, Incropera's table (memory): ν 15.89e-6 m²/s, k 0.0263 W/mK, Pr 0.707; ν ~ T^1.7, k ~ T^0.8.
    nu, k, prandtl = 15.89e-6 * (film_k / 300) ** 1.7, 0.0263 * (film_k / 300) ** 0.8, 0.707
    grashof = 9.81 / film_k * (surface_c - ambient_c) * diameter_m**3 / nu**2
    ours = float(convection_w_per_m2k(np.array(surface_c), np.array(ambient_c), np.array(diameter_m)))
    churchill = Nu_horizontal_cylinder_Churchill_Chu(prandtl, grashof) * k / diameter_m
    kuehn = Nu_horizontal_cylinder_Kuehn_Goldstein(prandtl, grashof) * k / diameter_m
    assert ours == pytest.approx(churchill, rel=0.05)
    assert ours == pytest.approx(kuehn, rel=0.25)


@pytest.mark.parametrize(("surface_c", "ambient_c", "diameter_m"), [(40, 20, 0.003), (105, 30, 0.018)])
def test_radiation_agrees_with_ht(surface_c: float, ambient_c: float, diameter_m: float) -> None:
    """ht 1.2, grey body of emissivity 0.92 (plastics 0.90 to 0.95, handbook figures, memory): within 0.1 %."""
    surface, ambient, diameter = (np.array(float(one)) for one in (surface_c, ambient_c, diameter_m))
    convected = convection_w_per_m2k(surface, ambient, diameter) * (surface - ambient)
    radiated = float(given_away_w_per_m(surface, ambient, diameter)) / (np.pi * diameter_m) - float(convected)
    assert radiated == pytest.approx(q_rad(0.92, surface_c + 273.15, ambient_c + 273.15), rel=1e-3)


@pytest.mark.parametrize("row", load_table("ampacity_e11").rows, ids=lambda row: row["awg"])
def test_steady_ampacity_stands_above_the_small_craft_table(row: dict[str, str]) -> None:
    """ABYC E-11 at 105 °C insulation, 30 °C air (memory): the physics gives 5 to 30 % more at every size."""
    found = float(ampacity_from_heat_a(awg(row["awg"]), np.array([105.0]), np.array([30.0]))[0])
    assert 1.05 <= found / float(row["105"]) <= 1.30


def test_steady_c_and_ampacity_are_each_other_turned_round() -> None:
    wire = awg("10")
    amps = ampacity_from_heat_a(wire, np.array([90.0]), np.array([35.0]))
    assert steady_c(wire, amps, np.array([35.0]))[0][0] == pytest.approx(90.0, abs=0.01)


def test_heat_up_ends_where_steady_c_is() -> None:
    wire = awg("12")
    settled = heat_up(wire, np.array([35.0]), np.array([30.0]), np.array([30.0]), 20000.0)
    conductor, surface = steady_c(wire, np.array([35.0]), np.array([30.0]))
    assert settled.conductor_c[-1, 0] == pytest.approx(conductor[0], abs=0.2)
    assert settled.surface_c[-1, 0] == pytest.approx(surface[0], abs=0.2)


def test_heat_up_of_a_short_is_adiabatic() -> None:
    """A tenth of a second leaves no time to give heat away: within 3 % of the adiabatic rise of bare copper."""
    wire = awg("10", wall=0.05)
    amps, time_s = np.array([1500.0]), 0.1
    hot = heat_up(wire, amps, np.array([20.0]), np.array([20.0]), time_s, steps=400).conductor_c[-1, 0]
    bare = adiabatic_end_c(np.array([20.0]), amps**2 * time_s, wire.area_mm2)[0]
    assert hot - 20 == pytest.approx(bare - 20, rel=0.06)


def test_adiabatic_constants() -> None:
    """IEC 60364-4-43 (memory): 115 for 70 to 160 °C, 143 for 90 to 250 °C."""
    assert adiabatic_k(70, 160) == as_printed("115")
    assert adiabatic_k(90, 250) == as_printed("143")


@pytest.mark.parametrize(("start_c", "end_c"), [(70, 160), (90, 250), (30, 160)])
def test_adiabatic_end_is_the_constant_turned_round(start_c: float, end_c: float) -> None:
    heat = (adiabatic_k(start_c, end_c) * 2.5) ** 2
    assert adiabatic_end_c(np.array([float(start_c)]), np.array([heat]), np.array([2.5]))[0] == pytest.approx(end_c)


@pytest.mark.parametrize("amps", [80.0, 82.0, 100.0])
def test_t08_16_awg_far_over_its_current(amps: float) -> None:
    """T08, common practice, no source: at 82 A the surface passes 100 °C between 8 and 45 s."""
    warming = heat_up(awg("16", wall=0.8), np.array([amps]), np.array([21.0]), np.array([21.0]), 120.0, steps=400)
    at_s = warming.time_s[np.argmax(warming.surface_c[:, 0] >= 100.0)]
    assert warming.surface_c.max() > 100
    if amps == 82.0:
        assert 8 <= at_s <= 45
    assert at_s <= 45
