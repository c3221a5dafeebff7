"""Heat balance and thermal memory: properties. Figures against other sources stand in tests/outside."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.core.protection.thermal_memory import ThermalImage, thermal_image, trip_in_cycles
from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.heat import (
    HOTTEST_C,
    Covered,
    ampacity_from_heat_a,
    convection_w_per_m2k,
    heat_up,
    short_time_limit,
    steady_c,
    wall_mm,
)
from lucernis.errors import OutOfRange

SIZES = ("1.5", "4", "16", "70")


def wires(*names: str) -> Covered:
    sizes = [wire_size("mm2", name) for name in names]
    return Covered(
        np.array([size.area_mm2 for size in sizes]),
        np.array([size.resistance_20_ohm_per_m for size in sizes]),
        np.array([wall_mm(size.area_mm2) for size in sizes]),
    )


@given(amps=st.floats(0.0, 400.0), air=st.floats(-30.0, 80.0))
@settings(max_examples=60, deadline=None)
def test_steady_state_lies_between_air_and_the_hottest(amps: float, air: float) -> None:
    conductor, surface = steady_c(wires(*SIZES), np.array(amps), np.array(air))
    assert np.all(np.isfinite(conductor))
    assert np.all(surface >= air - 0.01)
    assert np.all(conductor >= surface - 1e-9)
    assert np.all(conductor <= HOTTEST_C)


@given(low=st.floats(1.0, 60.0), more=st.floats(1.05, 2.0))
@settings(max_examples=40, deadline=None)
def test_more_current_is_hotter(low: float, more: float) -> None:
    cool, hot = (steady_c(wires("4"), np.array(amps), np.array(30.0))[0][0] for amps in (low, low * more))
    assert hot >= cool


def test_steady_state_without_current_is_the_air() -> None:
    conductor, surface = steady_c(wires(*SIZES), np.array(0.0), np.array(35.0))
    assert conductor == pytest.approx(np.full(4, 35.0), abs=0.01)
    assert surface == pytest.approx(np.full(4, 35.0), abs=0.01)


def test_current_without_a_balance_is_held_at_the_hottest() -> None:
    conductor, _ = steady_c(wires("1.5"), np.array(500.0), np.array(30.0))
    assert conductor[0] == HOTTEST_C


@pytest.mark.parametrize("name", SIZES)
@pytest.mark.parametrize("limit_c", [70.0, 105.0])
def test_ampacity_from_heat_brings_the_wire_to_its_limit(name: str, limit_c: float) -> None:
    amps = ampacity_from_heat_a(wires(name), np.array(limit_c), np.array(30.0))
    assert steady_c(wires(name), amps, np.array(30.0))[0][0] == pytest.approx(limit_c, abs=0.05)


def test_thicker_wire_carries_more_but_less_for_its_copper() -> None:
    amps = ampacity_from_heat_a(wires(*SIZES), np.array(90.0), np.array(30.0))
    assert np.all(np.diff(amps) > 0)
    assert np.all(np.diff(amps / wires(*SIZES).area_mm2) < 0)


def test_convection_is_nothing_without_a_difference_and_grows_with_it() -> None:
    rise = np.array([0.0, 1.0, 10.0, 60.0])
    found = convection_w_per_m2k(30.0 + rise, np.array(30.0), np.array(0.005))
    assert found[0] == 0.0
    assert np.all(np.diff(found) > 0)


@pytest.mark.parametrize("amps", [0.0, 20.0, 60.0])
def test_warming_up_never_passes_the_steady_state(amps: float) -> None:
    wire = wires("4")
    warming = heat_up(wire, np.array([amps]), np.array([30.0]), np.array([30.0]), 3600.0)
    settled = steady_c(wire, np.array([amps]), np.array([30.0]))[0][0]
    assert warming.conductor_c.max() <= settled + 0.3
    assert np.all(np.diff(warming.conductor_c[:, 0]) >= -1e-6)
    assert np.all(warming.surface_c <= warming.conductor_c + 1e-6)


def test_cooling_down_ends_at_the_air() -> None:
    cooling = heat_up(wires("4"), np.array([0.0]), np.array([30.0]), np.array([90.0]), 7200.0)
    assert np.all(np.diff(cooling.conductor_c[:, 0]) <= 1e-6)
    assert cooling.conductor_c[-1, 0] == pytest.approx(30.0, abs=0.3)


def test_finer_steps_change_little() -> None:
    coarse, fine = (
        heat_up(wires("2.5"), np.array([90.0]), np.array([30.0]), np.array([30.0]), 60.0, steps=steps).conductor_c[
            -1, 0
        ]
        for steps in (120, 1200)
    )
    assert coarse == pytest.approx(fine, rel=0.02)


@pytest.mark.parametrize(("insulation_c", "limit_c"), [(60, 150), (70, 160), (90, 250), (105, 160), (125, 250)])
def test_short_time_limit_by_insulation(insulation_c: int, limit_c: float) -> None:
    """IEC 60364-4-43 and ICEA P-32-382, from memory: the row of the next lower rating."""
    assert short_time_limit(insulation_c)[0] == limit_c


def test_wall_needs_copper() -> None:
    with pytest.raises(OutOfRange, match="area_mm2"):
        wall_mm(0.0)


@pytest.mark.parametrize("slow", [True, False])
def test_cold_breaker_trips_at_the_time_its_band_gives_at_twice_the_rating(slow: bool) -> None:
    trip = trip_in_cycles(thermal_image("breaker_manual", slow=slow), 2.0, on_s=1e6, off_s=0.0, cycles=1)
    assert trip is not None
    assert trip[1] == pytest.approx(60.0 if slow else 8.0)


@given(multiple=st.floats(0.1, 1.0), on_s=st.floats(1.0, 1e5), off_s=st.floats(0.0, 1e4))
@settings(max_examples=60, deadline=None)
def test_breaker_holds_at_its_rating_for_ever(multiple: float, on_s: float, off_s: float) -> None:
    for slow in (True, False):
        image = thermal_image("breaker_auto", slow=slow)
        assert trip_in_cycles(image, multiple, on_s=on_s, off_s=off_s, cycles=30) is None


@given(multiple=st.floats(1.4, 3.0), on_s=st.floats(5.0, 60.0), off_s=st.floats(1.0, 600.0))
@settings(max_examples=60, deadline=None)
def test_longer_rest_never_trips_sooner(multiple: float, on_s: float, off_s: float) -> None:
    image = ThermalImage(time_constant_s=60.0, trip_level=1.8)
    short, long = (trip_in_cycles(image, multiple, on_s=on_s, off_s=rest, cycles=40) for rest in (off_s, 2 * off_s))
    if short is None:
        assert long is None
    elif long is not None:
        assert long >= short
