"""The batteries of a plan: which are the house bank, how they stand in strings, what each may give and take.

How they share a current stands in the power room, what they are as a source in `sources.py`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lucernis.core.circuit.systems import systems
from lucernis.plan.model import Battery, Plan
from lucernis.practice.tables import TableRow, load_table

LimitName = Literal["discharge_a", "discharge_short_a", "charge_a"]
_RATE_COLUMN: dict[LimitName, str] = {
    "discharge_a": "discharge_c",
    "discharge_short_a": "discharge_short_c",
    "charge_a": "charge_c",
}


@dataclass(frozen=True, slots=True)
class Limit:
    """A current a battery may give or take [A]; `cell` is the usual rate of its chemistry where its maker says
    nothing."""

    amps: float
    cell: TableRow | None

    @property
    def typical(self) -> bool:
        """Whether it is a usual figure and not the maker's."""
        return self.cell is not None


def battery_limit(battery: Battery, name: LimitName) -> Limit:
    """What a battery may lastingly give, give for seconds, or take.

    Parameters
    ----------
    battery : Battery
        The battery.
    name : str
        ``discharge_a``, ``discharge_short_a`` or ``charge_a``.

    Returns
    -------
    Limit
        By its maker, else the usual rate of its chemistry times its capacity. For seconds it gives no less than
        lastingly.

    References
    ----------
    .. [1] battery_chemistry.csv, common practice.
    """
    own: float | None = getattr(battery, name)
    if own is not None:
        return Limit(own, None)
    table = load_table("battery_chemistry")
    row, column = table.find(battery.chemistry), _RATE_COLUMN[name]
    usual_a = float(row[column]) * battery.capacity_ah
    if name == "discharge_short_a" and battery.discharge_a is not None:
        # Without a word on seconds a stated continuous limit is stretched as far as is usual for the chemistry.
        usual_a = battery.discharge_a * float(row[column]) / float(row["discharge_c"])
    return Limit(usual_a, table.cite(row, column))


def house_batteries(plan: Plan) -> list[Battery]:
    """Batteries of the house side, in the order of the plan."""
    return [part for part in plan.parts if isinstance(part, Battery) and part.use == "house"]


def strings_of(plan: Plan) -> tuple[tuple[Battery, ...], ...]:
    """House batteries joined in series, top first; one by itself is a string of one."""
    house = {part.id: part for part in house_batteries(plan)}
    below = {run.start.part: run.finish.part for run in plan.runs if run.legs == "series"}
    tops = [one for one in house if one not in below.values()]
    found = []
    for top in tops or list(house):
        chain, here = [house[top]], top
        while here in below and below[here] in house and house[below[here]] not in chain:
            here = below[here]
            chain.append(house[here])
        found.append(tuple(chain))
    return tuple(found)


def rest_curve(chemistry: str) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Volts at rest of a 12 V battery by its charge, from battery_chemistry.csv.

    Parameters
    ----------
    chemistry : str
        A row of the table.

    Returns
    -------
    tuple of (tuple of float, tuple of float)
        Shares of the charge, rising [1], and volts at them. [V]
    """
    row = load_table("battery_chemistry").find(chemistry)
    points = sorted((int(name.removeprefix("ocv_")) / 100, float(row[name])) for name in row if name.startswith("ocv_"))
    return tuple(at for at, _ in points), tuple(volts for _, volts in points)


def sharing_batteries(plan: Plan) -> frozenset[str]:
    """House batteries that stand beside others in their system: they share by their resistances."""
    groups = systems(plan)
    strings = strings_of(plan)
    found: set[str] = set()
    for group in groups:
        own = [string for string in strings if string[0].id in group]
        if len(own) > 1:
            found |= {one.id for string in own for one in string}
    return frozenset(found)


def string_limit(string: tuple[Battery, ...], name: LimitName) -> Limit:
    """The limit of batteries in series: that of the weakest."""
    return min((battery_limit(one, name) for one in string), key=lambda limit: limit.amps)


def acceptance_a(plan: Plan) -> float | None:
    """What a house bank takes through a plain link: lead its usual greatest rate, lithium all it is given. [A]"""
    total = 0.0
    for string in strings_of(plan):
        if any(one.chemistry == "lfp" for one in string):
            return None
        total += string_limit(string, "charge_a").amps
    return total


def charging_cold_c(plan: Plan, battery: Battery) -> float:
    """How cold a battery is when it has to charge: by its zone where that says, by the days otherwise. [°C]"""
    zone_id = next((one.zone for one in plan.places if one.id == battery.place), None)
    coldest_c = next((one.coldest_c for one in plan.zones if one.id == zone_id), None)
    return plan.energy.battery_c if coldest_c is None else coldest_c
