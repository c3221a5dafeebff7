"""The answer to "will it last, will it refill": a fair and a poor stretch of days, side by side."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from lucernis.core.energy.climate import Climate, Weather, clear_climate, season_k, weather_climate, weeks_of
from lucernis.core.energy.days import (
    DayRun,
    Refill,
    Scene,
    days_without_charge,
    panels_power_w,
    refills,
    run_days,
    scene_of,
    thin_out,
)
from lucernis.core.report import Verdict
from lucernis.core.sizing.choice import Sized
from lucernis.errors import require_range
from lucernis.plan.model import Plan

STEP_H = 1 / 6
MOST_DAYS = 14
_DRAWN = 336


@dataclass(slots=True)
class Course:
    """One stretch of days for a screen: points of (hour, lowest state of charge, W of loads, engine, shore, sun)."""

    name: str
    label: str
    points: list[list[float]]
    lowest_soc: float
    lowest_at_h: float
    empty_at_h: float | None
    end_soc: float
    engine_frac: float
    shore_frac: float
    sun_frac: float
    in_wh: float
    loads_wh: float
    lost_wh: float
    stored_wh: float
    unused_sun_wh: float
    unserved_wh: float
    gap_frac: float


@dataclass(slots=True)
class Forecast:
    """How the days go. `problem` says why there is none.

    `lasting` judges whether the bank lasts the days asked without charge, `refilling` whether it stays above what is
    planned to be left of it in the poor stretch; None where nothing is to be judged.
    """

    days: int
    step_h: float
    problem: str
    note: str
    ah_per_day: float = 0.0
    wh_per_day: float = 0.0
    usable_ah: float = 0.0
    capacity_ah: float = 0.0
    least_soc: float = 0.0
    planned_low_soc: float = 0.0
    days_alone: float | None = None
    days_planned: float | None = None
    days_asked: float = 0.0
    refills: list[Refill] = field(default_factory=list)
    courses: list[Course] = field(default_factory=list)
    stops: list[str] = field(default_factory=list)
    states: list[list[str | float]] = field(default_factory=list)
    short_loads: list[str] = field(default_factory=list)
    lasting: Verdict | None = None
    refilling: Verdict | None = None


def _course(run: DayRun, label: str) -> Course:
    books = run.books
    total = books.in_wh
    moved = max(total, books.loads_wh, 1e-9)
    return Course(
        name=run.name,
        label=label,
        points=[[round(value, 4) for value in point] for point in thin_out(run, _DRAWN)],
        lowest_soc=run.lowest_soc,
        lowest_at_h=run.lowest_at_h,
        empty_at_h=run.empty_at_h,
        end_soc=float(run.soc[-1]),
        engine_frac=books.engine_wh / total if total > 0 else 0.0,
        shore_frac=books.shore_wh / total if total > 0 else 0.0,
        sun_frac=books.sun_wh / total if total > 0 else 0.0,
        in_wh=total,
        loads_wh=books.loads_wh + books.heater_wh,
        lost_wh=books.lost_wh,
        stored_wh=books.stored_wh,
        unused_sun_wh=books.unused_sun_wh,
        unserved_wh=books.unserved_wh,
        gap_frac=abs(books.gap_wh) / moved,
    )


def _climates(plan: Plan, weather: Weather | None, days: int, step_h: float) -> list[tuple[str, str, Climate]]:
    energy = plan.energy
    if weather is not None:
        fair, poor = weeks_of(weather, energy.month, days)
        shade = energy.stops[0].shade_frac if energy.stops else 0.0
        return [
            (
                "fair",
                "fair stretch of the weather file",
                weather_climate(weather, fair, days, step_h, shade_frac=shade),
            ),
            (
                "poor",
                "poor stretch of the weather file",
                weather_climate(weather, poor, days, step_h, shade_frac=shade),
            ),
        ]
    clear = clear_climate(energy, days, step_h)
    found = []
    for name, share in (("fair", energy.fair_frac), ("poor", energy.poor_frac)):
        climate = Climate(step_h, clear.ghi_w_per_m2 * share, clear.air_c, clear.where, clear.note)
        found.append((name, f"{100 * share:.0f} % of a clear sky's sun", climate))
    return found


def _head(plan: Plan, scene: Scene, days: int, step_h: float, note: str) -> Forecast:
    share = scene.bank.usable_ah / scene.bank.capacity_ah if scene.bank.capacity_ah else 0.0
    return Forecast(
        days=days,
        step_h=step_h,
        problem="",
        note=note,
        ah_per_day=scene.usage.ah,
        wh_per_day=scene.usage.wh,
        usable_ah=scene.bank.usable_ah,
        capacity_ah=scene.bank.capacity_ah,
        least_soc=scene.model.least_soc,
        planned_low_soc=1 - share,
        days_alone=days_without_charge(scene),
        days_planned=scene.bank.usable_ah / scene.usage.ah if scene.usage.ah > 0 else None,
        days_asked=plan.energy.days,
        refills=refills(scene),
        states=[[slot.state, slot.hours] for slot in scene.usage.day],
        short_loads=[one.name for one in scene.usage.loads if one.hours_short > 0.05],
    )


def forecast(plan: Plan, sized: Sized, days: int, weather: Weather | None = None) -> Forecast:
    """Simulate a fair and a poor stretch in steps of ten minutes.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes, solved.
    days : int
        1 to 14.
    weather : Weather, optional
        Hourly weather in place of clear sky and shares.

    Returns
    -------
    Forecast
        With both courses; without a house battery `problem` says so.

    Raises
    ------
    OutOfRange
        If days is outside its range.
    """
    require_range("days", days, least=1, most=MOST_DAYS)
    scene = scene_of(plan, sized)
    if scene is None:
        return Forecast(days, STEP_H, "the plan has no house battery", "")
    climates = _climates(plan, weather, days, STEP_H)
    found = _head(plan, scene, days, STEP_H, climates[0][2].note)
    found.stops = list(climates[0][2].where)
    for name, label, climate in climates:
        run = run_days(scene, climate, panels_power_w(plan, sized, climate), name)
        found.courses.append(_course(run, label))
    if found.days_planned is not None:
        found.lasting = "good" if found.days_planned >= found.days_asked else "look"
    poor = found.courses[-1]
    found.refilling = "good" if poor.lowest_soc >= found.planned_low_soc else "look"
    return found


def year_ahead(
    plan: Plan, sized: Sized, weather: Weather | None = None, tick: Callable[[float], None] | None = None
) -> Forecast:
    """A year hour by hour: by weather file, else by the plan's fair and poor shares of a clear sky.

    Parameters
    ----------
    plan : Plan
        The plan; it stays at its first stop, and the usual air by day swings by 10 K over the year.
    sized : Sized
        Its sizes, solved.
    weather : Weather, optional
        Hourly weather.
    tick : callable, optional
        Told the share done; raises to stop.

    Returns
    -------
    Forecast
        One course with a weather file, else two.
    """
    scene = scene_of(plan, sized)
    if scene is None:
        return Forecast(365, 1.0, "the plan has no house battery", "")
    if weather is not None:
        shade = plan.energy.stops[0].shade_frac if plan.energy.stops else 0.0
        climates = [("year", "weather file", weather_climate(weather, 0, 365, 1.0, shade_frac=shade))]
    else:
        stay = plan.energy.model_copy(update={"stops": plan.energy.stops[:1]})
        clear = clear_climate(stay, 365, 1.0, first_day=1)
        north = not plan.energy.stops or plan.energy.stops[0].latitude_deg >= 0
        season = season_k(8760, north=north)
        climates = [
            (name, f"{100 * share:.0f} % of a clear sky's sun",
             Climate(1.0, clear.ghi_w_per_m2 * share, clear.air_c + season, clear.where, clear.note))
            for name, share in (("fair", plan.energy.fair_frac), ("poor", plan.energy.poor_frac))
        ]  # fmt: skip
    found = _head(plan, scene, 365, 1.0, climates[0][2].note)
    for at, (name, label, climate) in enumerate(climates):

        def told(share: float, at: int = at) -> None:
            if tick is not None:
                tick((at + share) / len(climates))

        run = run_days(scene, climate, panels_power_w(plan, sized, climate), name, tick=told)
        found.courses.append(_course(run, label))
    return found
