"""Drills of drop, wire, fuse, inverter and bank."""

from __future__ import annotations

import math

from lucernis.core.energy.bank_size import needed_ah
from lucernis.core.protection.fuses import UNDER_WIRE_FACTOR, family, least_fuse_a, next_made_a, wire_stands_fuse
from lucernis.core.school.dice import Dice
from lucernis.core.school.drills.drill import Drill, Wrong, makes
from lucernis.core.school.drills.numbers import number_drill as _number
from lucernis.core.wire.ampacity import Surroundings, ampacity
from lucernis.core.wire.copper import WireSize, all_sizes, wire_size
from lucernis.practice.rules import PracticeSet
from lucernis.practice.tables import load_table

_M_PER_FT = 0.3048
_MOST_BLADE_A = 30.0
# What cuts out or stops on low volts is sized for the tighter drop; nobody loses a tenth on the way to a fridge.
_SENSITIVE = ("a fridge", "a radio", "a router", "a laptop")
_OTHER = ("a water pump", "a roof fan", "a row of lamps", "a heater", "a work light")


def _length(dice: Dice, practice: PracticeSet, low: int, high: int) -> tuple[float, str]:
    """A way in the unit of the school, and in metres. [m]"""
    if practice.values.size_system in ("awg", "sae"):
        feet = dice.between(low * 3, high * 3)
        return feet * _M_PER_FT, f"{feet} ft"
    tenths = dice.between(low * 10, high * 10)
    return tenths / 10, f"{tenths / 10:g} m"


def _shelf(practice: PracticeSet) -> list[WireSize]:
    system = practice.values.size_system
    found = [wire_size(system, one) for one in practice.values.shelf if one in all_sizes(system)]
    return sorted(found, key=lambda one: one.area_mm2)


@makes("drop")
def drop(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """Volts lost, or what is left, or per cent."""
    size = dice.one_of(_shelf(practice)[:5])
    length_m, said = _length(dice, practice, 2, 7)
    amps = dice.between(2, 16)
    per_m = size.resistance_20_ohm_per_m
    lost = 2 * length_m * per_m * amps
    ask = "volts" if level == 1 else dice.one_of(["volts", "percent", "left"])
    facts = f"{amps} A over {said} one way of {size.label}, both ways ({1000 * per_m:.3g} mΩ a metre, cold)."
    working = [
        f"There and back: 2 × {length_m:.3g} m = {2 * length_m:.3g} m",
        f"R = {2 * length_m:.3g} m × {1000 * per_m:.3g} mΩ/m = {2000 * length_m * per_m:.3g} mΩ",
        f"U = I · R = {amps} A × {2000 * length_m * per_m:.3g} mΩ = {lost:.3g} V",
    ]
    if ask == "percent":
        right = 100 * lost / 12
        working.append(f"{lost:.3g} V of 12 V = {right:.3g} %")
        return _number(
            "drop",
            f"{facts} What is the drop in per cent of 12 V?",
            right,
            "%",
            working,
            [(right / 2, "You took one way."), (lost, "That is volts.")],
            close=0.04,
        )
    if ask == "left":
        rest = 12.7
        right = rest - lost
        working.append(f"{rest} V − {lost:.3g} V = {right:.3g} V")
        return _number(
            "drop",
            f"{facts} The battery has {rest} V. What does the device get?",
            right,
            "V",
            working,
            [(rest - lost / 2, "You took one way."), (lost, "That is what is lost.")],
            close=0.004,
        )
    return _number(
        "drop", f"{facts} How many volts are lost?", lost, "V", working, [(lost / 2, "You took one way.")], close=0.04
    )


def _iz(practice: PracticeSet, size: WireSize, around: Surroundings) -> float:
    return ampacity(practice.values.ampacity_table, size, practice.values.insulation_c, around).ampacity_a or 0.0


@makes("pick_wire")
def pick_wire(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """The thinnest on the shelf that carries it and keeps the drop."""
    rules = practice.values
    amps = dice.between(3, 12) if level == 1 else dice.between(6, 40)
    length_m, said = _length(dice, practice, 1, 8)
    sensitive = level > 1 and dice.chance(0.6)
    device = dice.one_of(_SENSITIVE if sensitive else _OTHER)
    engine = level > 2 and dice.chance(0.4)
    bundle = dice.one_of([1, 4, 8]) if level > 2 else 1
    limit = rules.drop_sensitive_frac if sensitive else rules.drop_other_frac
    around = Surroundings(50.0 if engine else 30.0, engine, bundle)
    shelf = _shelf(practice)
    made = tuple(sorted({*family("blade_regular").ratings_a, *family("blade_maxi").ratings_a}))
    least = least_fuse_a(amps, rules.fuse_over_load)
    fuse = next_made_a(made, least) or made[-1]

    def stands(size: WireSize, place: Surroundings) -> bool:
        """Carries the load, with room for the fuse that load takes by the school in force."""
        carried = _iz(practice, size, place)
        return carried >= amps and wire_stands_fuse(
            carried, fuse, load_a=amps, least_a=least, made_a=made, school=rules.fuse_under_wire
        )

    def thinnest(*, legs: int, carries: bool = True, drops: bool = True, place: Surroundings = around) -> WireSize:
        fits = [
            one
            for one in shelf
            if (not carries or stands(one, place))
            and (not drops or legs * length_m * one.resistance_20_ohm_per_m * amps <= limit * 12 + 1e-9)
        ]
        return fits[0] if fits else shelf[-1]

    right = thinnest(legs=2)
    at = shelf.index(right)
    shown = shelf[max(0, at - 3) : at + 4]
    wrong = [
        (thinnest(legs=1), "You took one way for the drop."),
        (thinnest(legs=2, drops=False), "It carries that, and loses too much on the way."),
        (thinnest(legs=2, carries=False), "It keeps the drop, and gets too warm."),
        (thinnest(legs=2, place=Surroundings(30.0, engine_space=False, bundle_count=1)), "You left out where it lies."),
    ]
    kept = {size.label: text for size, text in reversed(wrong) if size is not right}
    lost = 2 * length_m * right.resistance_20_ohm_per_m * amps
    where = " in the engine space" if engine else ""
    bundled = f", {bundle} wires in the bundle" if bundle > 1 else ""
    question = (
        f"{device.capitalize()}: {amps} A, {said} one way{where}{bundled}, 12 V. At most {100 * limit:g} % "
        f"may be lost, there and back. Which is the thinnest wire of the shelf that does, with a fuse before it?"
    )
    working = [
        f"Carries: {right.label} may {_iz(practice, right, around):.3g} A there; {amps} A are wanted, and a fuse of "
        f"{fuse:g} A stands before it (at least {least:.3g} A, the next made)",
        f"Drop: 2 × {length_m:.3g} m × {1000 * right.resistance_20_ohm_per_m:.3g} mΩ/m × {amps} A = {lost:.3g} V = "
        f"{100 * lost / 12:.3g} % (at most {100 * limit:g} %)",
    ]
    if at:
        thinner = shelf[at - 1]
        less = 2 * length_m * thinner.resistance_20_ohm_per_m * amps
        carried = _iz(practice, thinner, around)
        short = f"{100 * less / 12:.3g} %" if stands(thinner, around) else f"{carried:.3g} A, for a fuse of {fuse:g} A"
        working.append(f"{thinner.label} is too thin: {short}")
    return Drill(
        "pick_wire",
        question,
        "one",
        (right.label,),
        working,
        choices=[(one.label, one.label) for one in shown],
        mistakes=[Wrong(label, text) for label, text in kept.items()],
    )


@makes("pick_fuse")
def pick_fuse(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """Above the load, below the wire, of those made."""
    rules, device = practice.values, dice.one_of(_OTHER)
    # What lies on the shelf; of a regular blade nobody fits more than 30 A.
    made = [one for one in rules.stock_a("blade_regular") or family("blade_regular").ratings_a if one <= _MOST_BLADE_A]
    long = level > 1 and dice.chance(0.5)
    while True:
        amps = dice.between(20, 230) / 10
        size = dice.one_of(_shelf(practice)[:4])
        carries = _iz(practice, size, Surroundings(30.0, engine_space=False, bundle_count=1))
        least = least_fuse_a(amps, rules.fuse_over_load, long=long)
        rating = next_made_a(tuple(made), least)
        if (
            rating is not None
            and carries > amps
            and wire_stands_fuse(
                carries, rating, load_a=amps, least_a=least, made_a=tuple(made), school=rules.fuse_under_wire
            )
        ):
            break
    hours = "runs for hours" if long else "runs for minutes"
    question = (
        f"{device.capitalize()} draws {amps:g} A and {hours}. Its wire may carry {carries:.3g} A. Which regular blade "
        f"fuse?"
    )
    fits = [one for one in made if one >= least - 1e-9 and one <= carries + 1e-9]
    beyond = (
        ""
        if rating <= carries
        else f", up to {UNDER_WIRE_FACTOR:g} × {carries:.3g} A by this school, as none is made between"
    )
    working = [
        f"At least {least / amps:.3g} × {amps:g} A = {least:.3g} A",
        f"Next made: {rating:g} A{beyond}",
        f"The wire carries {carries:.3g} A, so the fuse protects it",
    ]
    below = [one for one in made if one < amps]
    wire_sized = [one for one in made if one <= carries]
    wrong = [Wrong(f"{one:g}", "Below what the device draws: it opens.") for one in below[-2:]]
    wrong += [Wrong(f"{one:g}", "At the load by a hair: it opens on a hot day.") for one in made if amps <= one < least]
    if wire_sized and wire_sized[-1] > 2 * rating:
        sooner = "That is the most the wire stands: a fault in the device should open sooner."
        wrong.append(Wrong(f"{wire_sized[-1]:g}", sooner))
    wrong += [
        Wrong(f"{one:g}", "Above what the wire carries: the wire would be the fuse.")
        for one in made
        if one > max(carries, rating)
    ]
    around = made[max(0, made.index(rating) - 3) : made.index(rating) + 5]
    return Drill(
        "pick_fuse",
        question,
        "one",
        (f"{rating:g}",),
        working,
        choices=[(f"{one:g}", f"{one:g} A") for one in around],
        mistakes=[one for one in wrong if one.answer != f"{rating:g}"],
        also_right=tuple(f"{one:g}" for one in fits if one <= rating * 1.34 and one <= carries and one != rating),
    )


@makes("inverter")
def inverter(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """What an inverter takes from the battery."""
    watts = dice.between(3, 30) * 100
    nominal = 12 if level == 1 else dice.one_of([12, 12, 24])
    if practice.values.inverter_current == "ten_to_one":
        right = watts / (10 if nominal == 12 else 20)
        working = [f"Ten to one at 12 V, twenty to one at 24 V: {watts} / {10 if nominal == 12 else 20} = {right:g} A"]
        question = f"An inverter gives {watts} W from a {nominal} V battery. By the rule of thumb, how many amperes?"
        return _number(
            "inverter", question, right, "A", working, [(watts / nominal, "You left its losses and the sag out.")]
        )
    efficiency = dice.one_of([0.85, 0.88, 0.9, 0.92])
    low = dice.one_of([10.5, 11.0]) * nominal / 12
    right = watts / (efficiency * low)
    working = [f"I = P / (η · V) = {watts} W / ({efficiency:g} × {low:g} V) = {right:.3g} A"]
    question = (
        f"An inverter of {100 * efficiency:g} % gives {watts} W. The battery sags to {low:g} V. "
        f"How many amperes does it take?"
    )
    return _number(
        "inverter",
        question,
        right,
        "A",
        working,
        [
            (watts / low, "You left its efficiency out."),
            (watts / nominal, "You left efficiency and sag out."),
            (watts * efficiency / low, "Losses are paid by the battery: divide by the efficiency."),
            (watts / 230, "That is the current on the AC side."),
            (watts / (efficiency * nominal), "You took the nominal volts."),
        ],
    )


@makes("bank")
def bank(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """Ampere-hours for so many days."""
    del practice
    a_day, days = dice.between(3, 14) * 10, dice.one_of([1, 2, 3]) if level == 1 else dice.one_of([1.5, 2, 2.5, 3, 4])
    chemistry = "lfp" if level == 1 else dice.one_of(["lfp", "agm", "flooded"])
    row = load_table("battery_chemistry").find(chemistry)
    share = float(row["usable"])
    name = {"lfp": "lithium (LFP)", "agm": "AGM", "flooded": "flooded lead"}[chemistry]
    peukert = float(row["peukert"]) if level == 4 else 1.0
    right = needed_ah(a_day, days, share_frac=share, peukert=peukert)
    plain = a_day * days / share
    working = [
        f"{a_day} Ah a day × {days:g} days = {a_day * days:g} Ah",
        f"of which {100 * share:g} % are used: / {share:g} = {plain:.3g} Ah",
    ]
    said = ""
    if level == 4 and not math.isclose(right, plain, rel_tol=1e-6):
        said = f" Peukert's exponent is {peukert:g}, capacity is told at the twenty-hour rate."
        working.append(f"Peukert {peukert:g} at that rate: {right:.3g} Ah")
    question = (
        f"{a_day} Ah a day, {days:g} days without charging, {name}, of which {100 * share:g} % are planned to be "
        f"used.{said} How large a bank?"
    )
    return _number(
        "bank",
        question,
        right,
        "Ah",
        working,
        [
            (a_day * days, "You left out that not all of it may be used."),
            (a_day * days * share, "You multiplied by the share: divide."),
            (a_day / share, "You left the days out."),
        ],
        close=0.03,
    )
