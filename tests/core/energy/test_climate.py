"""Climates: stops one after the other, shade, months, air by the clock; what panels make of it."""

from __future__ import annotations

import numpy as np
import pytest

from lucernis.core.energy.climate import (
    HOURS_A_YEAR,
    Climate,
    Weather,
    clear_climate,
    clear_ghi_w_per_m2,
    middle_of_month,
    module_power_w,
    season_k,
    weather_climate,
    weeks_of,
)
from lucernis.plan.model import Energy, Panel, Stop

NORTH = Stop(name="north", latitude_deg=60.0, longitude_deg=10.0, days=2)
SOUTH = Stop(name="south", latitude_deg=-35.0, longitude_deg=150.0, days=3)
PANEL = Panel(id="v", name="P", tag="V1", power_w=100.0, mp_v=18.0, open_v=22.0, short_a=6.0)


def even(ghi: float, air: float, steps: int = 24) -> Climate:
    return Climate(1.0, np.full(steps, ghi), np.full(steps, air), ("x",), "")


def test_stops_follow_one_another_and_begin_again() -> None:
    found = clear_climate(Energy(stops=(NORTH, SOUTH), month=6), 7, 0.5)
    assert found.where == ("north", "north", "south", "south", "south", "north", "north")
    daily = found.ghi_w_per_m2.reshape(7, 48).sum(axis=1)
    assert daily[0] > 2 * daily[2]
    assert daily[5] == pytest.approx(daily[0], rel=0.05)


def test_sun_is_highest_at_noon_by_the_suns_own_time() -> None:
    for stop in (NORTH, SOUTH):
        ghi = clear_ghi_w_per_m2(stop, 80, 1, 0.5)
        middle = (np.arange(48) + 0.5) * 0.5
        assert float((ghi * middle).sum() / ghi.sum()) == pytest.approx(12.0, abs=0.35)
        assert ghi[:8].sum() == ghi[-8:].sum() == 0.0


def test_shade_takes_its_share() -> None:
    open_sky = clear_climate(Energy(stops=(NORTH,)), 2, 1.0)
    shaded = clear_climate(Energy(stops=(NORTH.model_copy(update={"shade_frac": 0.4}),)), 2, 1.0)
    assert shaded.ghi_w_per_m2.sum() == pytest.approx(0.6 * open_sky.ghi_w_per_m2.sum())


def test_month_decides_the_season_on_either_side() -> None:
    june, december = (clear_climate(Energy(stops=(NORTH,), month=month), 2, 1.0) for month in (6, 12))
    assert june.ghi_w_per_m2.sum() > 20 * december.ghi_w_per_m2.sum()
    june, december = (clear_climate(Energy(stops=(SOUTH,), month=month), 2, 1.0) for month in (6, 12))
    assert december.ghi_w_per_m2.sum() > 2 * june.ghi_w_per_m2.sum()


@pytest.mark.parametrize(("month", "low", "high"), [(1, 14, 18), (6, 160, 170), (12, 345, 352)])
def test_middle_of_month(month: int, low: int, high: int) -> None:
    assert low <= middle_of_month(month) <= high


def test_air_is_warmest_in_the_afternoon_and_at_most_as_said() -> None:
    found = clear_climate(Energy(stops=(NORTH,), outside_c=25.0), 1, 1.0)
    assert found.air_c.max() <= 25.0
    assert 13 <= int(found.air_c.argmax()) <= 16
    assert found.air_c.min() == pytest.approx(15.0, abs=0.2)


def test_power_follows_sun_and_loses_in_heat() -> None:
    cool, hot = (float(module_power_w([PANEL], even(800.0, air)).mean()) for air in (0.0, 35.0))
    assert 60.0 < hot < cool < 85.0
    assert float(module_power_w([PANEL], even(0.0, 20.0)).sum()) == 0.0
    many = PANEL.model_copy(update={"series": 2, "strings": 3})
    assert float(module_power_w([many], even(800.0, 35.0)).mean()) == pytest.approx(6 * hot)
    assert float(module_power_w([], even(800.0, 35.0)).sum()) == 0.0


def test_own_coefficient_wins_over_the_typical_one() -> None:
    steep = PANEL.model_copy(update={"power_frac_per_k": -0.006})
    typical, own = (float(module_power_w([one], even(1000.0, 30.0)).mean()) for one in (PANEL, steep))
    assert own < 0.95 * typical


def made_weather() -> Weather:
    hours = np.arange(HOURS_A_YEAR)
    day = np.maximum(0.0, np.sin((hours % 24 - 6) / 12 * np.pi)) * (300 + hours // 24)
    return Weather("made", 50.0, 10.0, day, np.full(HOURS_A_YEAR, 12.0))


def test_weather_begins_again_after_the_year() -> None:
    found = weather_climate(made_weather(), 364 * 24, 2, 1.0)
    first, second = found.ghi_w_per_m2[:24].sum(), found.ghi_w_per_m2[24:].sum()
    assert first > 2 * second
    assert found.where == ("made", "made")


def test_weather_can_stand_in_the_shade() -> None:
    weather = made_weather()
    full, half = (weather_climate(weather, 0, 3, 1 / 6, shade_frac=share) for share in (0.0, 0.5))
    assert half.ghi_w_per_m2.sum() == pytest.approx(0.5 * full.ghi_w_per_m2.sum())


@pytest.mark.parametrize("month", [1, 6, 12])
def test_weeks_begin_at_midnight_near_the_month(month: int) -> None:
    for hour in weeks_of(made_weather(), month, 7):
        assert hour % 24 == 0
        apart = abs(hour // 24 - (middle_of_month(month) - 1))
        assert min(apart, 365 - apart) <= 30


@pytest.mark.parametrize(("north", "coldest", "warmest"), [(True, 18, 201), (False, 201, 18)])
def test_the_seasons_swing_by_ten_either_way_and_turn_round_at_the_equator(
    north: bool, coldest: int, warmest: int
) -> None:
    found = season_k(365, north=north)
    assert (int(found.argmin()), int(found.argmax())) == (pytest.approx(coldest, abs=1), pytest.approx(warmest, abs=1))
    assert (found.min(), found.max()) == (pytest.approx(-10, abs=1e-3), pytest.approx(10, abs=1e-3))
    assert found.mean() == pytest.approx(0.0, abs=1e-9)
