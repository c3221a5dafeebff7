"""Panels for what driving does not bring: as many as the wish needs and the roof takes."""

from __future__ import annotations

import math
from calendar import month_name
from dataclasses import dataclass

from lucernis.core.circuit.batteries import acceptance_a
from lucernis.core.energy.climate import clear_climate, module_power_w
from lucernis.core.energy.forecast import Course, forecast
from lucernis.core.power.charging import alternator_spare_a, cold_open_v
from lucernis.core.proposals.bank import ROOM, daily_ah
from lucernis.core.proposals.charging_steps import give_fields
from lucernis.core.proposals.day import lay_out_day
from lucernis.core.proposals.spine import Outcome, main_bars
from lucernis.core.proposals.wishes import Unit, Wishes, units
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import AddCharger
from lucernis.plan.energy import Energy
from lucernis.plan.model import Charger, Panel, Plan, Stop
from lucernis.plan.units import told_area
from lucernis.practice.tables import load_table

# What arrives of panel power after controller and wires; the least share of a day that is left to the sun; how far
# panels stand above the bank's volts; how near a string's volts on the coldest morning may come to what a controller
# stands. Common practice, no source.
_ROOF_TO_BANK = 0.9
_LEAST_SUN = 0.25
_ABOVE_BANK = 1.5
_BELOW_HIGH = 0.97
_WATTS_PER_VOLT_AMP = 1.1
_MORE = (1.0, 1.25, 1.6, 2.0, 2.6, 3.4)
_DAYS = 7


@dataclass(frozen=True, slots=True)
class Array:
    """Panels of one kind: so many in series, so many strings, on so many controllers alike."""

    panel: Unit
    series: int
    strings: int
    controllers: int
    charger: Unit

    @property
    def power_w(self) -> float:
        """All of them. [W]"""
        return self.panel.size * self.series * self.strings * self.controllers


def _where(plan: Plan) -> tuple[Energy, str]:
    energy = plan.energy
    if energy.stops:
        return energy, f"at {energy.stops[0].name}"
    stop = Stop(name="45° north", latitude_deg=45.0, longitude_deg=0.0, days=_DAYS)
    return energy.model_copy(update={"stops": (stop,)}), "no stop is named, so 45° north is taken"


def wh_per_watt(plan: Plan) -> float:
    """What a flat watt of panels brings to the bank on a fair day. [Wh]"""
    energy, _ = _where(plan)
    one = Panel(id="x", name="x", tag="X", power_w=100.0, mp_v=18.0, open_v=22.0, short_a=6.0)
    climate = clear_climate(energy, _DAYS, 1.0)
    return float(module_power_w([one], climate).sum()) / _DAYS / 100.0 * energy.fair_frac * _ROOF_TO_BANK


def watts_per_m2() -> float:
    """Power of a square metre of roof. [W/m²]"""
    return float(load_table("panel_typical").find("crystalline")["w_per_m2"])


def driven_wh(plan: Plan, wishes: Wishes) -> float:
    """What driving brings a day. [Wh]"""
    amps = sum(part.out_a for part in plan.parts if isinstance(part, Charger) and part.form == "dcdc")
    if any(part.kind == "isolator" for part in plan.parts):
        amps += min(acceptance_a(plan) or 0.0, alternator_spare_a(plan) or 0.0)
    return amps * plan.nominal_v * wishes.drive_hours


def array_for(plan: Plan, wishes: Wishes, wanted_w: float) -> Array | None:
    """Panels for so many watts, as far as the roof goes.

    Parameters
    ----------
    plan : Plan
        Gives volts and the coldest morning.
    wishes : Wishes
        Gives the roof.
    wanted_w : float
        Power wanted, > 0. [W]

    Returns
    -------
    Array or None
        The fewest panels that bring it, else the most the roof takes; None where it takes none.
    """
    best: tuple[tuple[float, float], Array] | None = None
    for panel in units("panel"):
        room = int(wishes.roof_m2 * watts_per_m2() / panel.size + 1e-9)
        own = Panel(id="x", name="x", tag="X", **panel.fields)
        least = max(1, math.ceil(_ABOVE_BANK * plan.nominal_v / own.mp_v))
        largest = units("charger:sun")[-1]
        for controllers in (1, 2, 3):
            for series in range(least, 11):
                high_v = float(largest.fields["pv_high_v"])  # type: ignore[arg-type]
                if cold_open_v(own.model_copy(update={"series": series}), plan.energy.coldest_c) > _BELOW_HIGH * high_v:
                    break
                most = room // (series * controllers)
                strings = min(most, math.ceil(wanted_w / (panel.size * series * controllers) - 1e-9))
                if strings < 1:
                    continue
                each_w = panel.size * series * strings
                cold_v = cold_open_v(own.model_copy(update={"series": series}), plan.energy.coldest_c)
                charger = next(
                    (
                        one
                        for one in units("charger:sun")
                        if each_w <= _WATTS_PER_VOLT_AMP * plan.nominal_v * one.size * 1.001
                        and strings * own.short_a <= float(one.fields["pv_a"])  # type: ignore[arg-type]
                        and cold_v <= _BELOW_HIGH * float(one.fields["pv_high_v"])  # type: ignore[arg-type]
                    ),
                    None,
                )
                if charger is None:
                    continue
                found = Array(panel, series, strings, controllers, charger)
                missing = max(0.0, wanted_w - found.power_w)
                # What is missing first, then controllers, then panels; of equals the longer string.
                rank = (round(missing, 3), 100 * controllers + series * strings * controllers - series / 100)
                if best is None or rank < best[0]:
                    best = (rank, found)
    return best[1] if best is not None else None


def _built(plan: Plan, wishes: Wishes, array: Array, target: str) -> Plan:
    each_w = array.power_w / array.controllers
    for k in range(array.controllers):
        number = f" {k + 1}" if array.controllers > 1 else ""
        fields = give_fields(array.charger.fields, plan, "sun") | {
            "name": f"Solar controller{number}",
            "pv_w": max(each_w, 100.0),
        }
        edit = AddCharger(
            op="add_charger",
            part=fields,
            gives_to=target,
            give_length="0.8 m",
            panel={
                "kind": "panel",
                "name": f"Roof panels{number}",
                **array.panel.fields,
                "series": array.series,
                "strings": array.strings,
            },
            panel_length=f"{wishes.roof_length_m:g} m",
        )
        plan = apply_edits(plan, [edit])
    return plan


def fair_week(plan: Plan, wishes: Wishes) -> tuple[Course, float] | None:
    """A fair week as the plan stands, with the course of its days laid out, and the state of charge planned for."""
    laid = lay_out_day(plan, wishes)
    whole = laid[0] if laid is not None else plan
    found = forecast(whole, sized_plan(whole), _DAYS)
    course = next((one for one in found.courses if one.name == "fair"), None)
    return None if course is None else (course, found.planned_low_soc)


def is_served(plan: Plan, wishes: Wishes) -> bool:
    """Whether a fair week never goes below what is planned for."""
    found = fair_week(plan, wishes)
    return found is not None and found[0].lowest_soc >= found[1] - 1e-6 and found[0].unserved_wh <= 1e-6


def put_sun(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Panels for what driving does not bring; more of them where a fair week is not served, as far as the roof goes."""
    target = main_bars(plan)
    if target is None or not wishes.sun or any(isinstance(part, Panel) for part in plan.parts):
        return None
    per_watt, (energy, where) = wh_per_watt(plan), _where(plan)
    day_wh = daily_ah(plan) * plan.nominal_v
    missing_wh = max(_LEAST_SUN * day_wh, day_wh - driven_wh(plan, wishes))
    if per_watt <= 0.05:
        return None
    wanted_w = ROOM[wishes.leaning] * missing_wh / per_watt
    array, after = None, plan
    for more in _MORE:
        other = array_for(plan, wishes, more * wanted_w)
        if other is None or other == array:
            break
        array, after = other, _built(plan, wishes, other, target)
        if is_served(after, wishes):
            break
    if array is None:
        return None
    panels = (
        f"{array.series} × {array.panel.size:g} W in series" if array.series > 1 else f"one of {array.panel.size:g} W"
    )
    strings = f", {array.strings} such strings" if array.strings > 1 else ""
    on = f", on {array.controllers} controllers alike" if array.controllers > 1 else ""
    short = array.power_w < wanted_w * 0.999
    roof = f" The roof of {told_area(wishes.roof_m2, plan.units)} takes no more." if short else ""
    return after, (
        f"{missing_wh:.0f} Wh a day are left to the sun; a flat watt brings {per_watt:.1f} Wh in a fair week of "
        f"{month_name[energy.month]} ({where}): {wanted_w:.0f} W wanted, {array.power_w:g} W taken: "
        f"{panels}{strings}{on}.{roof}"
    )


def tell_energy(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Whether a fair week is served, and what would serve it."""
    found = fair_week(plan, wishes)
    if found is None:
        return None
    course, low = found
    if is_served(plan, wishes):
        return plan, (
            f"A fair week is served: {100 * course.lowest_soc:.0f} % at its lowest, {100 * low:.0f} % planned for, "
            f"{100 * course.end_soc:.0f} % at its end."
        )
    short_wh = max(0.0, (course.loads_wh + course.lost_wh - course.in_wh) / _DAYS)
    lowest = f"A fair week is not served: {100 * course.lowest_soc:.0f} % at its lowest, {100 * low:.0f} % planned for"
    if short_wh < 1.0:
        # Over the week enough comes in; it does not come when it is wanted.
        return plan, f"{lowest}, though enough comes in over the week. What would serve it: a larger bank."
    ways = []
    per_m2 = wh_per_watt(plan) * watts_per_m2()
    if wishes.sun and per_m2 > 1:
        ways.append(f"{told_area(short_wh / per_m2, plan.units)} more of roof")
    amps = sum(part.out_a for part in plan.parts if isinstance(part, Charger) and part.form == "dcdc")
    if amps > 0:
        ways.append(f"{short_wh / (amps * plan.nominal_v):.1f} h more of driving")
    ways.append(f"loads smaller by {short_wh:.0f} Wh")
    return plan, (f"{lowest}; {short_wh:.0f} Wh a day are missing. What would serve it, a day: {', or '.join(ways)}.")
