"""How the figures of the days came about: what lasts, what refills, what a course put in and took out."""

from __future__ import annotations

from lucernis.core.circuit.batteries import house_batteries
from lucernis.core.energy.climate import Weather
from lucernis.core.energy.days import Scene
from lucernis.core.energy.forecast import Course, Forecast, forecast
from lucernis.core.report import Input, Working
from lucernis.core.sizing.choice import Sized
from lucernis.plan.model import Plan
from lucernis.practice.tables import TableRow, load_table

PREFIX = "days"
_SOURCES = {"engine": "the engine", "shore": "shore", "sun": "full sun", "together": "all together"}


def days_working(plan: Plan, sized: Sized, scene: Scene, days: int, weather: Weather | None) -> dict[str, Working]:
    """Workings of a forecast by key, as `days.7.planned` or `days.14.poor_lowest`.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes, solved.
    scene : Scene
        From `scene_of`.
    days : int
        How many days the forecast is for.
    weather : Weather, optional
        Hourly weather.

    Returns
    -------
    dict
        Key to its working.
    """
    found = forecast(plan, sized, days, weather)
    entries = [_planned(found, plan), *_refills(scene, found), *(_course(scene, one) for one in found.courses)]
    return {f"{PREFIX}.{days}.{one.figure}": one for one in entries}


def _planned(found: Forecast, plan: Plan) -> Working:
    own = plan.energy.usable_frac
    return Working(
        PREFIX,
        "planned",
        "Days without charge",
        "d = C · u / Q",
        [
            Input("C", "capacity of the bank", found.capacity_ah, "Ah"),
            Input("C · u", "of it planned for", found.usable_ah, "Ah"),
            Input("Q", "charge a day at the bank, with losses", found.ah_per_day, "Ah"),
        ],
        found.days_planned,
        "days",
        [] if own is not None else [_chemistry_cell(plan, "usable")],
        "",
        "The usable share is the plan's own." if own is not None else "",
    )


def _chemistry_cell(plan: Plan, column: str) -> TableRow:
    table = load_table("battery_chemistry")
    return table.cite(table.find(house_batteries(plan)[0].chemistry), column)


def _refills(scene: Scene, found: Forecast) -> list[Working]:
    model, chargers = scene.model, scene.chargers
    given = {
        "engine": [Input("P", "DC-DC, through its wires", chargers.engine_w, "W")],
        "shore": [Input("I", "mains charger", chargers.shore_a, "A")],
        "sun": [Input("I", "solar controller at most", chargers.sun_most_a, "A")],
        "together": [
            Input("P", "DC-DC", chargers.engine_w, "W"),
            Input("I", "shore", chargers.shore_a, "A"),
            Input("I", "sun at most", chargers.sun_most_a, "A"),
        ],
    }
    shared = [
        Input("C", "capacity at its temperature", model.capacity_ah, "Ah"),
        Input("I max", "max charge of the bank", model.charge_a, "A"),
        Input("η", "charge efficiency", model.charge_frac, "frac"),
        Input("s", "tapers from", model.taper_from, "frac"),
    ]
    return [
        Working(
            PREFIX,
            f"refill_{one.source}",
            f"From half to full by {_SOURCES[one.source]}",
            "dt = C · ds / (η · I(s)), added up from 50 to 99 %, nothing drawn",
            given[one.source] + shared,
            one.hours if one.hours is not None else "never",
            "h" if one.hours is not None else "",
            [],
            "",
            "",
        )
        for one in found.refills
    ]


def _course(scene: Scene, course: Course) -> Working:
    return Working(
        PREFIX,
        f"{course.name}_lowest",
        f"{course.name.capitalize()} course: {course.label}",
        "V = OCV(s) + R · I in every step; in = loads + stored + lost",
        [
            Input("E", "from the engine", course.engine_frac * course.in_wh, "Wh"),
            Input("E", "from shore", course.shore_frac * course.in_wh, "Wh"),
            Input("E", "from the sun", course.sun_frac * course.in_wh, "Wh"),
            Input("E", "taken by the loads", course.loads_wh, "Wh"),
            Input("ΔE", "stored in the bank", course.stored_wh, "Wh"),
            Input("E", "lost in the bank", course.lost_wh, "Wh"),
            Input("E", "sun that was not used", course.unused_sun_wh, "Wh"),
            Input("E", "loads that were not served", course.unserved_wh, "Wh"),
            Input("R", "resistance of the bank", 1000 * scene.model.resistance_ohm, "mΩ"),
        ],
        course.lowest_soc,
        "frac",
        [],
        "",
        f"Lowest after {course.lowest_at_h:.1f} h. The books close to {100 * course.gap_frac:.3f} % of what moved.",
    )
