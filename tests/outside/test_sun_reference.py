"""Sun and panels against pvlib 0.16.1's own path: its clear sky, and its shipped real hourly weather files."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pandas as pd
import pvlib
import pytest

from lucernis.core.energy.climate import (
    Weather,
    clear_ghi_w_per_m2,
    module_power_w,
    read_weather,
    weather_climate,
    weeks_of,
)
from lucernis.errors import BadDocument
from lucernis.plan.model import Panel, Stop

DATA = Path(pvlib.__file__).parent / "data"
TMY3 = DATA / "723170TYA.CSV"
PANEL = Panel(
    id="v", name="Panel", tag="V1", power_w=100.0, mp_v=18.0, open_v=22.0, short_a=6.0, power_frac_per_k=-0.0038
)


@pytest.fixture(scope="module")
def weather() -> Weather:
    return read_weather(TMY3.read_text(encoding="utf-8"), "greensboro")


def haurwitz_w_per_m2(latitude_deg: float, day: int) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """Clear sky by B. Haurwitz 1945, sun's height by Cooper's declination of 1969, both from memory: no pvlib in it."""
    declination = np.radians(23.45 * np.sin(np.radians(360 * (284 + day) / 365)))
    hour = np.radians(15 * ((np.arange(144) + 0.5) / 6 - 12))
    latitude = np.radians(latitude_deg)
    height = np.sin(latitude) * np.sin(declination) + np.cos(latitude) * np.cos(declination) * np.cos(hour)
    up = np.maximum(height, 1e-6)
    return np.where(height > 0, 1098 * up * np.exp(-0.057 / up), 0.0)


@pytest.mark.parametrize(("latitude", "longitude"), [(36.1, -79.95), (57.6, -4.0), (-33.5, 18.2), (0.0, 120.0)])
@pytest.mark.parametrize("day", [15, 105, 196, 288])
def test_clear_sky_is_that_of_an_older_formula(latitude: float, longitude: float, day: int) -> None:
    """Haurwitz knows no haze: his day holds up to an eighth more where the air is hazy. Noon is at noon of the sun."""
    ours = clear_ghi_w_per_m2(Stop(name="x", latitude_deg=latitude, longitude_deg=longitude), day, 1, 1 / 6)
    theirs = haurwitz_w_per_m2(latitude, day)
    assert 0.87 <= ours.sum() / theirs.sum() <= 1.02
    assert 0.92 <= ours.max() / theirs.max() <= 1.04
    middle = float(np.sum(ours * (np.arange(144) + 0.5)) / ours.sum() / 6)
    assert middle == pytest.approx(12.0, abs=0.35)


def test_a_year_of_a_flat_panel_is_within_2_percent_of_pvlibs_model_chain(weather: Weather) -> None:
    """TMY3 Greensboro, NC (USAF 723170), 8760 real hours: PVWatts with the Sandia cell temperature, all by pvlib.

    pvlib's path transposes direct and diffuse onto a horizontal plane; ours takes the file's global irradiance.
    """
    data, meta = pvlib.iotools.read_tmy3(TMY3, map_variables=True)
    location = pvlib.location.Location(meta["latitude"], meta["longitude"], altitude=meta["altitude"])
    middle = data.index - pd.Timedelta(minutes=30)
    sun = location.get_solarposition(middle)
    plane = pvlib.irradiance.get_total_irradiance(
        0, 180, sun["apparent_zenith"].to_numpy(), sun["azimuth"].to_numpy(), data["dni"].to_numpy(),
        data["ghi"].to_numpy(), data["dhi"].to_numpy(),
    )  # fmt: skip
    poa = np.nan_to_num(np.asarray(plane["poa_global"]))
    parameters = pvlib.temperature.TEMPERATURE_MODEL_PARAMETERS["sapm"]["close_mount_glass_glass"]
    cell = pvlib.temperature.sapm_cell(poa, data["temp_air"].to_numpy(), 1.0, **parameters)
    theirs = float(np.maximum(0, pvlib.pvsystem.pvwatts_dc(poa, cell, 100.0, -0.0038)).sum())
    ours = float(module_power_w([PANEL], weather_climate(weather, 0, 365, 1.0)).sum())
    assert ours == pytest.approx(theirs, rel=0.02)


def test_ten_minute_steps_keep_the_energy_of_the_hours(weather: Weather) -> None:
    hourly = weather_climate(weather, 24 * 100, 14, 1.0)
    fine = weather_climate(weather, 24 * 100, 14, 1 / 6)
    assert fine.ghi_w_per_m2.sum() / 6 == pytest.approx(hourly.ghi_w_per_m2.sum(), rel=0.01)


def test_weeks_are_fair_and_poor(weather: Weather) -> None:
    fair, poor = weeks_of(weather, 4, 7)
    sums = [weather_climate(weather, at, 7, 1.0).ghi_w_per_m2.sum() for at in (fair, poor)]
    assert sums[0] > 1.15 * sums[1]


def test_sun_at_80_degrees_north_in_winter_is_nothing_and_in_summer_never_sets() -> None:
    stop = Stop(name="ice", latitude_deg=80.0, longitude_deg=0.0)
    assert clear_ghi_w_per_m2(stop, 355, 3, 1 / 6).sum() == 0.0
    assert (clear_ghi_w_per_m2(stop, 172, 1, 1 / 6) > 0).all()


def lines() -> list[str]:
    return TMY3.read_text(encoding="utf-8").splitlines()


@pytest.mark.parametrize(
    ("spoil", "match"),
    [
        (lambda text: text[:5000], "8758|8760|hours"),
        (lambda text: [*text[:100], *text[101:]], "8759 hours"),
        (lambda text: [*text, text[-1]], "8761 hours"),
        (lambda text: ["nonsense"], "EPW or TMY3"),
        (lambda text: [], "EPW or TMY3"),
    ],
)
def test_weather_with_gaps_or_of_another_form_is_refused(spoil: Callable[[list[str]], list[str]], match: str) -> None:
    with pytest.raises(BadDocument) as caught:
        read_weather("\n".join(spoil(lines())), "x")
    assert re.search(match, caught.value.problems[0].detail)


def epw(hours: int = 8760, ghi: str = "200") -> str:
    head = ["LOCATION,Somewhere,-,XX,made,000000,50.0,10.0,1.0,100.0"] + [f"LINE {k}" for k in range(7)]
    stamps = pd.date_range("2021-01-01", periods=hours, freq="h")
    body = [
        f"{t.year},{t.month},{t.day},{t.hour + 1},0,x,10.0,5.0,70,101325,0,0,300,{ghi},0,100" + ",0" * 19
        for t in stamps
    ]
    return "\n".join(head + body) + "\n"


def test_epw_is_read() -> None:
    found = read_weather(epw(), "made")
    assert (found.latitude_deg, found.longitude_deg) == (50.0, 10.0)
    assert found.ghi_w_per_m2.sum() == 200.0 * 8760
    assert set(found.air_c) == {10.0}


def test_epw_with_a_missing_hour_or_an_impossible_value_is_refused() -> None:
    rows = epw().splitlines()
    with pytest.raises(BadDocument) as gap:
        read_weather("\n".join([*rows[:1000], *rows[1001:], rows[-1]]), "x")
    assert "gap" in gap.value.problems[0].detail
    with pytest.raises(BadDocument) as wild:
        read_weather(epw(ghi="9999"), "x")
    assert "irradiance in hour 1" in wild.value.problems[0].detail
