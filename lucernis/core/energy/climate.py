"""Sun on a flat roof and air over time: clear sky by place and month, or an hourly weather file. All of it by pvlib."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.errors import BadDocument, FieldProblem
from lucernis.plan.model import Energy, Panel, Stop
from lucernis.practice.tables import load_table

Floats = NDArray[np.float64]
HOURS_A_YEAR = 8760
# Months are shown by a year without a leap day; which one does not matter to the sun.
YEAR = 2025
MOST_WEATHER_BYTES = 4_000_000
_MOST_GHI = 1500.0
# Lines above and below the hours.
_MOST_HEAD = 60
_SWING_K = 5.0


@dataclass(frozen=True, slots=True)
class Weather:
    """A year of hours: global horizontal irradiance [W/m²] and air [°C], both of shape (8760,), from local midnight."""

    name: str
    latitude_deg: float
    longitude_deg: float
    ghi_w_per_m2: Floats
    air_c: Floats


@dataclass(frozen=True, slots=True)
class Climate:
    """Sun and air step by step from local midnight, arrays of shape (n_steps,)."""

    step_h: float
    ghi_w_per_m2: Floats
    air_c: Floats
    where: tuple[str, ...]
    note: str


def clear_ghi_w_per_m2(stop: Stop, first_day: int, days: int, step_h: float) -> Floats:
    """Global horizontal irradiance under a clear sky.

    Parameters
    ----------
    stop : Stop
        The place.
    first_day : int
        Day of the year to begin with, 1 is the first of January.
    days : int
        How many days.
    step_h : float
        Step, counted from midnight by the sun's own time at the place. [h]

    Returns
    -------
    ndarray
        Shape (days · 24 / step_h,), at the middle of each step. [W/m²]

    Notes
    -----
    pvlib: ephemeris for the sun's position, Ineichen with the shipped Linke turbidity for the clear sky [1]_.

    References
    ----------
    .. [1] pvlib 0.16.1: `solarposition.ephemeris`, `clearsky.ineichen`, `clearsky.lookup_linke_turbidity`.
    """
    import pandas as pd
    import pvlib

    count = round(days * 24 / step_h)
    start = pd.Timestamp(year=YEAR, month=1, day=1, tz="UTC") + pd.Timedelta(days=first_day - 1)
    hours = (np.arange(count) + 0.5) * step_h - stop.longitude_deg / 15
    times = start + pd.to_timedelta(hours * 3600, unit="s")
    sun = pvlib.solarposition.ephemeris(times, stop.latitude_deg, stop.longitude_deg)
    up = sun["apparent_elevation"].to_numpy() > 0
    ghi: Floats = np.zeros(count)
    if not up.any():
        return ghi
    turbidity = pvlib.clearsky.lookup_linke_turbidity(times[up], stop.latitude_deg, stop.longitude_deg)
    zenith = sun["apparent_zenith"][up]
    airmass = pvlib.atmosphere.get_absolute_airmass(pvlib.atmosphere.get_relative_airmass(zenith))
    outside = pvlib.irradiance.get_extra_radiation(times[up])
    clear = pvlib.clearsky.ineichen(zenith, airmass, turbidity, dni_extra=outside)
    ghi[up] = np.nan_to_num(clear["ghi"].to_numpy())
    return ghi


def middle_of_month(month: int) -> int:
    """Day of the year in the middle of a month, 1..12."""
    return round((month - 0.5) * 365 / 12) + 1


def clear_climate(energy: Energy, days: int, step_h: float, *, first_day: int | None = None) -> Climate:
    """Clear sky over the stops of a plan, one after the other; a stop's shade is taken off.

    Parameters
    ----------
    energy : Energy
        Stops, month, usual air by day.
    days : int
        How many days.
    step_h : float
        Step. [h]
    first_day : int, optional
        Day of the year to begin with; the middle of the plan's month, less half of the days, otherwise.

    Returns
    -------
    Climate
        Without stops there is no sun at all, and the note says so.
    """
    begin = first_day if first_day is not None else max(1, middle_of_month(energy.month) - days // 2)
    per_day = round(24 / step_h)
    ghi = np.zeros(days * per_day)
    where: list[str] = []
    # Which days belong to which stop: each stop's sky is asked for in one piece, from its first day to its last.
    stays: dict[int, list[tuple[int, int]]] = {}
    day = 0
    while day < days and energy.stops:
        for number, stop in enumerate(energy.stops):
            stay = min(stop.days, days - day)
            if stay <= 0:
                break
            stays.setdefault(number, []).append((day, day + stay))
            where += [stop.name] * stay
            day += stay
    for number, pieces in stays.items():
        stop, first, last = energy.stops[number], pieces[0][0], pieces[-1][1]
        sky = clear_ghi_w_per_m2(stop, begin + first, last - first, step_h) * (1 - stop.shade_frac)
        for start, end in pieces:
            here = slice(start * per_day, end * per_day)
            ghi[here] = sky[(start - first) * per_day : (end - first) * per_day]
    clock = (np.arange(days * per_day) + 0.5) * step_h % 24
    air = energy.outside_c - _SWING_K + _SWING_K * np.cos((clock - 15) / 24 * 2 * math.pi)
    note = "no stop named: no sun" if not energy.stops else "clear sky by pvlib"
    return Climate(step_h, ghi, air, tuple(where), note)


def season_k(steps: int, *, north: bool) -> Floats:
    """How much warmer than its mean the air is over a year, where no weather file says.

    Parameters
    ----------
    steps : int
        Equal steps of the year.
    north : bool
        Coldest in January; south of the equator in July.

    Returns
    -------
    ndarray, shape (steps,)
        A swing of 10 K either way, coldest on the 19th of the month: common practice, no source. [K]
    """
    swing: Floats = 10 * np.cos((np.arange(steps) / steps - 0.05) * 2 * np.pi)
    return -swing if north else swing


def weather_climate(weather: Weather, first_hour: int, days: int, step_h: float, *, shade_frac: float = 0.0) -> Climate:
    """A stretch of a weather year, straight lines between the middles of its hours.

    Parameters
    ----------
    weather : Weather
        The year.
    first_hour : int
        Hour of the year to begin with, a midnight.
    days : int
        How many days; past the end of the year it begins again.
    step_h : float
        Step. [h]
    shade_frac : float
        Share of the sun taken away. [1]

    Returns
    -------
    Climate
        The energy of each hour is kept to within the interpolation.
    """
    count = round(days * 24 / step_h)
    at = first_hour + (np.arange(count) + 0.5) * step_h
    whole = np.arange(HOURS_A_YEAR) + 0.5

    def along(values: Floats) -> Floats:
        found: Floats = np.interp(at % HOURS_A_YEAR, whole, values, period=HOURS_A_YEAR)
        return found

    if step_h >= 1:
        picked = np.floor(at).astype(int) % HOURS_A_YEAR
        ghi, air = weather.ghi_w_per_m2[picked], weather.air_c[picked]
    else:
        ghi, air = along(weather.ghi_w_per_m2), along(weather.air_c)
    return Climate(step_h, ghi * (1 - shade_frac), air, (weather.name,) * days, f"weather file {weather.name}")


def module_power_w(panels: Sequence[Panel], climate: Climate) -> Floats:
    """Power of panels lying flat.

    Parameters
    ----------
    panels : sequence of Panel
        The panels.
    climate : Climate
        Sun and air.

    Returns
    -------
    ndarray
        Shape (n_steps,), at greatest power. [W]

    Notes
    -----
    ``P = P_stc · G / 1000 · (1 + γ (T_cell - 25))`` (PVWatts), the cell's temperature by the Sandia model close to its
    mounting, with 1 m/s of wind [1]_.

    References
    ----------
    .. [1] pvlib 0.16.1: `pvsystem.pvwatts_dc`, `temperature.sapm_cell`, parameters `close_mount_glass_glass`.
    """
    import pvlib

    row = load_table("panel_typical").find("crystalline")
    parameters = pvlib.temperature.TEMPERATURE_MODEL_PARAMETERS["sapm"]["close_mount_glass_glass"]
    cell_c = pvlib.temperature.sapm_cell(climate.ghi_w_per_m2, climate.air_c, 1.0, **parameters)
    total: Floats = np.zeros(len(climate.ghi_w_per_m2))
    for one in panels:
        gamma = one.power_frac_per_k if one.power_frac_per_k is not None else float(row["power_frac_per_k"])
        rated_w = one.power_w * one.series * one.strings
        total += np.maximum(0.0, pvlib.pvsystem.pvwatts_dc(climate.ghi_w_per_m2, cell_c, rated_w, gamma))
    return total


def _refuse(detail: str) -> BadDocument:
    return BadDocument("the weather file cannot be taken", [FieldProblem("file", detail)])


def read_weather(text: str, name: str) -> Weather:
    """Read an hourly weather file in EPW or TMY3 form.

    Parameters
    ----------
    text : str
        The file.
    name : str
        What it is called from now on.

    Returns
    -------
    Weather
        Its hours in order.

    Raises
    ------
    BadDocument
        If it is neither form, has gaps, hours missing or too many, or values that cannot be.
    """
    import pvlib

    if len(text) > MOST_WEATHER_BYTES:
        raise _refuse(f"at most {MOST_WEATHER_BYTES // 1_000_000} MB")
    # Counted before it is read: a table of a hundred thousand lines is no year.
    lines = text.count("\n")
    if lines > HOURS_A_YEAR + _MOST_HEAD:
        raise _refuse(f"has {lines} lines, a year of hours has {HOURS_A_YEAR} and a few above them")
    epw = text.lstrip("\ufeff")[:40].upper().startswith("LOCATION,")
    try:
        if epw:
            data, meta = pvlib.iotools.read_epw(io.StringIO(text.lstrip("\ufeff")))
        else:
            data, meta = pvlib.iotools.read_tmy3(io.StringIO(text.lstrip("\ufeff")), map_variables=True)
        ghi = data["ghi"].to_numpy(dtype=float)
        air = data["temp_air"].to_numpy(dtype=float)
        latitude, longitude = float(meta["latitude"]), float(meta["longitude"])
    except (KeyError, ValueError, IndexError, TypeError, StopIteration, AttributeError) as error:
        raise _refuse("must be an hourly weather file in EPW or TMY3 form") from error
    if len(ghi) != HOURS_A_YEAR:
        raise _refuse(f"has {len(ghi)} hours, must have {HOURS_A_YEAR}: one year without a leap day, no gaps")
    stamps = (data["month"].to_numpy(), data["day"].to_numpy(), data["hour"].to_numpy()) if epw else None
    if stamps is not None:
        hours = np.asarray(stamps[2], dtype=int)
        steps = np.diff(hours) % 24
        if not np.all(steps == 1):
            at = int(np.flatnonzero(steps != 1)[0])
            raise _refuse(f"has a gap after line {at + 9}: hours must follow one another")
    bad = ~np.isfinite(ghi) | (ghi < 0) | (ghi > _MOST_GHI)
    if bad.any():
        raise _refuse(f"irradiance in hour {int(np.flatnonzero(bad)[0]) + 1} must be 0 to {_MOST_GHI:g} W/m²")
    cold = ~np.isfinite(air) | (np.abs(air) > 70)
    if cold.any():
        raise _refuse(f"air temperature in hour {int(np.flatnonzero(cold)[0]) + 1} must be -70 to 70 °C")
    return Weather(name, latitude, longitude, ghi, air)


def weeks_of(weather: Weather, month: int, days: int) -> tuple[int, int]:
    """First hours of a fair and a poor stretch of a weather year around a month.

    Parameters
    ----------
    weather : Weather
        The year.
    month : int
        Month, 1..12.
    days : int
        Length of the stretch.

    Returns
    -------
    tuple of int
        Hours of the year: the stretch at the upper fifth of sun, and that at the lower fifth.
    """
    middle = middle_of_month(month) - 1
    starts = [(middle + shift) % 365 for shift in range(-30, 31)]
    daily = weather.ghi_w_per_m2.reshape(365, 24).sum(axis=1)
    sums = sorted((float(sum(daily[(start + k) % 365] for k in range(days))), start) for start in starts)
    return sums[int(0.8 * (len(sums) - 1))][1] * 24, sums[int(0.2 * (len(sums) - 1))][1] * 24
