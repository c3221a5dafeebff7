"""Checks of the bank: its limits, how it shares, what is joined in it, where it stands."""

from __future__ import annotations

from lucernis.core.checks.fixes import put_fuse, set_part, take_negatives_from
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.batteries import Limit, battery_limit, charging_cold_c, house_batteries, strings_of
from lucernis.core.circuit.supplies import each_out_a
from lucernis.core.circuit.terminals import has_positive
from lucernis.core.power.bank import BankFigures
from lucernis.core.power.fit import FitRow, fit_rows
from lucernis.core.report import Fix
from lucernis.core.sizing.places import zone_of_places
from lucernis.plan.ac_side import ac_need
from lucernis.plan.edits.operations import SetFields
from lucernis.plan.model import Battery, Charger, Load, Part, Plan, Run
from lucernis.plan.units import told_length
from lucernis.practice.tables import load_table

# A usual limit that is used so far is worth a look at the sheet: common practice, no source.
NEAR_USUAL = 0.6
# A string that carries so much more than an even share ages first: common practice, no source.
UNEVEN = 1.15
# From this current on, as a share of capacity, it matters.
_FLOWS_C = 0.02
OLDER_YEARS = 2


def check_bank(raised: Raised, bank: BankFigures | None) -> None:
    """Raise what is wrong with the batteries, the house bank first of all, and with where they stand."""
    for part in raised.plan.parts:
        if isinstance(part, Battery):
            _stands(raised, part)
            if part.use == "starter":
                _starter(raised, part)
    _cold(raised)
    _ac_sides(raised)
    if bank is None:
        return
    _limits(raised, bank)
    _joined(raised, bank)
    _sharing(raised, bank)


def _ac_sides(raised: Raised) -> None:
    """Inverters against what is listed behind them."""
    for load in raised.plan.parts:
        if not isinstance(load, Load) or load.inverter is None or not load.ac:
            continue
        need = ac_need(load.ac)
        if need.continuous_w > load.inverter.continuous_w * 1.0001:
            raised.on_part(
                "inverter-below-ac",
                load,
                what=f"{' and '.join(need.together[:4])} take {need.continuous_w:.0f} W on AC; {load.name} gives "
                f"{load.inverter.continuous_w:.0f} W",
                mend="A larger inverter, or note what never runs together.",
                asked=f"{need.continuous_w:.0f} W on AC together",
                power_w=need.continuous_w,
            )
        surge_w = load.inverter.surge_w
        if surge_w is not None and need.surge_w > surge_w * 1.0001:
            raised.on_part(
                "inverter-start-below-ac",
                load,
                what=f"{need.starting} starts with {need.surge_w:.0f} W; {load.name} gives {surge_w:.0f} W at a start",
                mend="A larger inverter, a soft start, or start it alone.",
                power_w=need.surge_w,
            )


def _starter(raised: Raised, battery: Battery) -> None:
    """What hangs on a starter battery by itself, engine off."""
    limit = battery_limit(battery, "discharge_a")
    given = [
        raised.sized.rated[state.id].battery_a.get(battery.id, 0.0)
        for state in raised.plan.states
        if not state.engine_on
    ]
    asked_a = max(given, default=0.0)
    if asked_a <= limit.amps * 1.0001:
        return
    if limit.typical:
        _only_usual(raised, battery, [_of_usual(asked_a, battery, limit)])
        return
    raised.on_part(
        "bank-discharge-over",
        battery,
        what=f"{asked_a:.0f} A from {battery.name}, made for {limit.amps:g} A",
        mend="Feed them from the house side.",
        asked=f"{asked_a:.0f} A from {battery.name}",
        current_a=asked_a,
        limit_a=limit.amps,
    )


def _of_usual(asked_a: float, battery: Battery, limit: Limit) -> str:
    return f"{asked_a:.0f} A from {battery.name}, of {limit.amps:g} A usual for its chemistry"


def _only_usual(raised: Raised, battery: Battery, said: list[str]) -> None:
    """What is near or above a figure that nobody has stated: it stops nothing, the battery's sheet says."""
    raised.on_part(
        "battery-limit-usual",
        battery,
        what="; ".join(said),
        mend="Read the limits off the battery's sheet and enter them: max continuous, max charge.",
    )


def _limits(raised: Raised, bank: BankFigures) -> None:
    batteries = {one.id: one for string in bank.strings for one in string}
    usual: list[str] = []
    for share in bank.shares:
        battery = batteries[share.battery]
        limit = battery_limit(battery, "discharge_a")
        if share.current_a > limit.amps * 1.0001 and not limit.typical:
            raised.on_part(
                "bank-discharge-over",
                battery,
                what=f"{share.current_a:.0f} A from {battery.name}, made for {limit.amps:g} A",
                mend="More strings side by side, or less on at the same time.",
                asked=f"{share.current_a:.0f} A from {battery.name}",
                current_a=share.current_a,
                limit_a=limit.amps,
            )
        elif limit.typical and share.current_a > NEAR_USUAL * limit.amps:
            usual.append(_of_usual(share.current_a, battery, limit))
    lead = bank.strings[0][0]
    together = _charge_together(raised)
    charge_a, charge_usual = (
        bank.charge_a or 0.0,
        any(battery_limit(one, "charge_a").typical for string in bank.strings for one in string),
    )
    if together > charge_a * 1.0001 and not charge_usual:
        raised.on_part(
            "bank-charge-over",
            lead,
            what=f"Chargers give {together:.0f} A together; the bank takes {charge_a:g} A",
            mend="Smaller chargers, one held back while another works, or more strings.",
            asked=f"{together:.0f} A of charging",
            current_a=together,
            limit_a=charge_a,
        )
    elif charge_usual and together > NEAR_USUAL * charge_a:
        usual.append(f"{together:.0f} A of charging, of {charge_a:g} A usual for its chemistry")
    over = False
    for row in fit_rows(raised.plan, raised.sized, bank, raised.rules.values.inverter_current):
        cell = row.cells[0]
        if not row.chosen_school or cell.holds != "fails" or cell.limit is None:
            continue
        if cell.usual:
            if not over and row.mode == "continuous":
                usual.append(f"{_asks(row)}, of {cell.limit:g} A usual for its chemistry")
            over = True
            continue
        load = raised.sized.topology.parts[row.inverter]
        _over(raised, "inverter-over-bank" if row.mode == "continuous" else "inverter-surge-over-bank", load, row)
    if usual:
        _only_usual(raised, lead, usual)


def _asks(row: FitRow) -> str:
    rest = " with what else is on" if row.others_a > 0.5 else ""
    return f"{row.name} at {row.ac_w:.0f} W{rest} asks {row.cells[0].asked:.0f} A"


def _over(raised: Raised, code: str, load: Part, row: FitRow) -> None:
    asked_a, limit_a = row.cells[0].asked, row.cells[0].limit or 0.0
    what = f"{_asks(row)}; the bank gives {limit_a:g} A"
    if code == "inverter-over-bank":
        raised.on_part(
            "inverter-over-bank",
            load,
            what=what,
            mend="A bank whose management allows it, a smaller inverter, or 24 V.",
            asked=f"{row.ac_w:.0f} W from this bank",
            current_a=asked_a,
            limit_a=limit_a,
        )
        return
    raised.on_part(
        "inverter-surge-over-bank",
        load,
        what=what,
        mend="Start motors one after the other, or a bank whose management allows it.",
        current_a=asked_a,
        limit_a=limit_a,
    )


def _charge_together(raised: Raised) -> float:
    """The most chargers give at once in any state, or each alone where no state turns it on. [A]"""
    chargers = [part for part in raised.plan.parts if isinstance(part, Charger)]
    states = raised.sized.states.values()
    most = max(
        (
            sum(
                each_out_a(one.charger)
                for name, one in raised.sized.demand.supplies.items()
                if one.gives and name in raised.sized.demand.on[result.state_id]
            )
            for result in states
        ),
        default=0.0,
    )
    return max([most, *(one.out_a for one in chargers)], default=0.0)


def _joined(raised: Raised, bank: BankFigures) -> None:
    """Batteries that are joined must be alike."""
    house = house_batteries(raised.plan)
    first = usual_battery(raised.plan, house)
    for other in house:
        if other.chemistry != first.chemistry:
            what = f"{other.name} ({other.chemistry}) and {first.name} ({first.chemistry}) in one bank"
            fixes = [set_part(other, f"Make it {first.chemistry}", chemistry=first.chemistry)]
            if "lfp" in (other.chemistry, first.chemistry):
                raised.on_part(
                    "bank-mixed-chemistry",
                    other,
                    what=what,
                    mend="One chemistry in a bank; a DC-DC charger between two.",
                    fixes=fixes,
                )
            else:
                raised.on_part(
                    "bank-mixed-lead",
                    other,
                    what=what,
                    mend="One kind of lead in a bank; its charger can be set to one only.",
                    fixes=fixes,
                )
    dated = sorted((one for one in house if one.made_year), key=lambda one: one.made_year or 0)
    for older in dated[:-1]:
        if (dated[-1].made_year or 0) - (older.made_year or 0) >= OLDER_YEARS:
            raised.on_part(
                "bank-mixed-age",
                older,
                what=f"{older.name} is of {older.made_year}, {dated[-1].name} of {dated[-1].made_year}",
                mend="Batteries of one age; the old one pulls the new one down.",
            )
    for string in bank.strings:
        for lower in string[1:]:
            if (lower.capacity_ah, lower.chemistry) != (string[0].capacity_ah, string[0].chemistry):
                raised.on_part(
                    "series-unequal",
                    lower,
                    what=f"{lower.name} ({lower.capacity_ah:g} Ah) in series with {string[0].name} "
                    f"({string[0].capacity_ah:g} Ah)",
                    mend="Equal batteries in series: the smaller one is driven flat and overcharged.",
                    fixes=[set_part(lower, "Make it alike", capacity_ah=string[0].capacity_ah)],
                )
    sizes = {string[0].capacity_ah for string in bank.strings}
    if len(sizes) > 1:
        smallest = min(bank.strings, key=lambda one: one[0].capacity_ah)[0]
        raised.on_part(
            "bank-mixed-capacity",
            smallest,
            what="Strings of " + " and ".join(f"{one:g} Ah" for one in sorted(sizes)) + " side by side",
            mend="Equal batteries side by side.",
        )
    if len(bank.strings) > 1 and any(string[0].chemistry == "lfp" for string in bank.strings):
        _string_fuses(raised, bank)


def usual_battery(plan: Plan, house: list[Battery]) -> Battery:
    """The battery of a bank the others should be like: of the chemistry there is most of, and most chargers are set
    for."""
    ah: dict[str, float] = {}
    for one in house:
        ah[one.chemistry] = ah.get(one.chemistry, 0.0) + one.capacity_ah
    chargers = [part.chemistry for part in plan.parts if isinstance(part, Charger)]
    return max(house, key=lambda one: (ah[one.chemistry], chargers.count(one.chemistry), one.chemistry))


def _own_runs(raised: Raised, battery: Battery) -> list[Run]:
    return [run for run in raised.plan.runs if battery.id in (run.start.part, run.finish.part)]


def _string_fuses(raised: Raised, bank: BankFigures) -> None:
    for string in bank.strings:
        own = [run for run in _own_runs(raised, string[0]) if has_positive(run)]
        bare = [
            run for run in own if (run.fuse_at_start if run.start.part == string[0].id else run.fuse_at_finish) is None
        ]
        if own and bare:
            end = "start" if bare[0].start.part == string[0].id else "finish"
            raised.on_part(
                "string-unfused",
                string[0],
                what=f"{bare[0].tag} leaves {string[0].name} without a fuse of its own",
                mend="A fuse at every string: the others feed a short in one.",
                fixes=[put_fuse(raised, bare[0], f"Put a fuse at {string[0].name}", end=end)],
            )


def _sharing(raised: Raised, bank: BankFigures) -> None:
    if len(bank.strings) < 2:
        return
    batteries = {one.id: one for string in bank.strings for one in string}
    worst = max(bank.shares, key=lambda one: one.of_even)
    links = _links(raised)
    # Next to nothing flows unevenly without harm.
    if worst.of_even > UNEVEN and worst.current_a > _FLOWS_C * batteries[worst.battery].capacity_ah:
        fixes = _diagonal(raised, bank)
        raised.on_part(
            "bank-sharing",
            batteries[worst.battery],
            what=f"{batteries[worst.battery].name} gives {worst.current_a:.0f} A, "
            f"{100 * (worst.of_even - 1):.0f} % more than an even share",
            mend="Take off diagonally, or by cables of equal length to a busbar.",
            fixes=fixes,
            asked=f"{len(bank.strings)} strings side by side, joined as they are",
            current_a=worst.current_a,
            of_even=worst.of_even,
        )
    for group in links:
        if len({(round(run.length_m, 2), raised.sized.chosen[run.id].size.label) for run in group}) > 1:
            raised.on_run(
                "links-unequal",
                group[1],
                what="Links of the bank differ: "
                + ", ".join(
                    f"{run.tag} {told_length(run.length_m, raised.plan.units)} {raised.sized.chosen[run.id].size.label}"
                    for run in group
                ),
                mend="Links of one length and one size.",
                fixes=[
                    Fix(
                        "Make the links equally long",
                        [
                            SetFields(
                                op="set_fields",
                                subject=run.id,
                                values={"length_m": max(one.length_m for one in group), "length_as_typed": None},
                            )
                            for run in group
                        ],
                    )
                ],
            )


def _links(raised: Raised) -> list[list[Run]]:
    """Positive and negative cables of the strings, each kind together."""
    house = {one.id for one in house_batteries(raised.plan)}
    tops = {string[0].id for string in strings_of(raised.plan)}
    parts = raised.sized.topology.parts
    between, to_bar = [], []
    for run in raised.plan.runs:
        ends = {run.start.part, run.finish.part}
        if ends <= house and run.legs != "series":
            between.append(run)
        elif has_positive(run) and ends & tops and any(parts[one].kind == "busbar" for one in ends - house):
            to_bar.append(run)
    return [group for group in (between, to_bar) if len(group) > 1]


def _diagonal(raised: Raised, bank: BankFigures) -> list[Fix]:
    """Move the negatives that leave a chain of batteries at its first to its last."""
    first, last = bank.strings[0][-1], bank.strings[-1][-1]
    house = {one.id for one in house_batteries(raised.plan)}
    leaving = [
        run
        for run in _own_runs(raised, first)
        if run.legs == "negative" and not {run.start.part, run.finish.part} <= house
    ]
    chained = any(
        {run.start.part, run.finish.part} <= house and run.legs == "negative" for run in _own_runs(raised, last)
    )
    if not leaving or not chained:
        return []
    return [take_negatives_from(leaving, first.id, last)]


def stands_vented(plan: Plan, battery: Battery) -> bool | None:
    """Whether what a battery gives off gets out of the place where it stands; None where nobody has said."""
    place = next((one for one in plan.places if one.id == battery.place), None)
    zone = zone_of_places(plan).get(f"place {battery.place}")
    return True if zone is not None and zone.engine_space else place.vented if place is not None else None


def _stands(raised: Raised, battery: Battery) -> None:
    plan = raised.plan
    row = load_table("battery_chemistry").find(battery.chemistry)
    place = next((one for one in plan.places if one.id == battery.place), None)
    vents, vented = row["vents_gas"], stands_vented(plan, battery)
    if vents == "yes" and not vented:
        raised.on_part(
            "lead-unvented",
            battery,
            what=f"{battery.name} gives off hydrogen while it charges; "
            + (f"{place.name} is not noted as vented" if place is not None else "it has no place"),
            mend="A box that opens to outside air, high up; note the place as vented.",
        )
    elif vents != "no" and place is not None and vented is False:
        raised.on_part(
            "lead-unvented",
            battery,
            what=f"{battery.name} may give off hydrogen when overcharged; {place.name} is closed",
            mend="A box that opens to outside air, high up; note the place as vented.",
        )


def _cold(raised: Raised) -> None:
    """Batteries that would be charged colder than they may: said once for all that stand alike."""
    plan = raised.plan
    if not any(isinstance(part, Charger) for part in plan.parts):
        return
    cold: list[tuple[Battery, float, float]] = []
    for battery in house_batteries(plan):
        row = load_table("battery_chemistry").find(battery.chemistry)
        least_c = battery.charge_least_c if battery.charge_least_c is not None else float(row["min_charge_c"])
        here_c = charging_cold_c(plan, battery)
        if here_c < least_c and battery.heater_w is None:
            cold.append((battery, least_c, here_c))
    if not cold:
        return
    first, least_c, here_c = min(cold, key=lambda one: one[2] - one[1])
    raised.on_part(
        "battery-cold",
        first,
        what=f"{', '.join(one.name for one, *_ in cold)} at {here_c:g} °C would be charged below {least_c:g} °C",
        mend="A warm place, pads that heat it first, or chargers that stop in the cold.",
        fixes=[
            Fix(
                "Add heater pads of 60 W",
                [SetFields(op="set_fields", subject=one.id, values={"heater_w": 60.0}) for one, *_ in cold],
            )
        ],
        temp_c=here_c,
        least_c=least_c,
    )
