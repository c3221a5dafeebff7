"""Drills of units, sizes, lengths and charts."""

from __future__ import annotations

from lucernis.core.school.dice import Dice
from lucernis.core.school.drills.drill import Drill, Wrong, makes
from lucernis.core.school.drills.numbers import number_drill as _number
from lucernis.core.wire.ampacity import Surroundings, ampacity
from lucernis.core.wire.copper import all_sizes, wire_size
from lucernis.practice.rules import AmpacityTable, PracticeSet, SizeSystem
from lucernis.practice.tables import load_table

_M_PER_FT = 0.3048
_MM_PER_IN = 25.4
# "SAE gauge" and "auto mm" a person may meet, each with what it is taken for.
_PAIRS: tuple[tuple[SizeSystem, str, SizeSystem, str], ...] = (
    ("awg", "4", "awg", "4/0"),
    ("awg", "2", "awg", "2/0"),
    ("awg", "1", "awg", "1/0"),
    ("awg", "3", "awg", "3/0"),
    ("awg", "8", "sae", "8"),
    ("awg", "10", "sae", "10"),
    ("awg", "12", "sae", "12"),
    ("awg", "6", "sae", "6"),
    ("mm2", "6", "auto_mm", "6 mm"),
    ("mm2", "4", "auto_mm", "4 mm"),
    ("awg", "6", "mm2", "6"),
    ("awg", "10", "mm2", "10"),
    ("awg", "4", "mm2", "4"),
    ("bs", "6", "awg", "6"),
)


@makes("units")
def units(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """Convert."""
    del practice
    kinds = {1: ("ft_m", "w_a"), 2: ("m_ft", "ah_wh", "in_mm"), 3: ("mohm_v", "wh_ah", "awg_mm2")}.get(level) or (
        "mohm_v",
        "awg_mm2",
        "loop_ft",
        "wh_ah",
    )
    kind = dice.one_of(kinds)
    if kind == "ft_m":
        feet = dice.between(3, 30)
        right, wrong = feet * _M_PER_FT, feet / _M_PER_FT
        return _number(
            "units",
            f"{feet} ft in metres?",
            right,
            "m",
            [f"{feet} ft × 0.3048 m/ft = {right:.3g} m"],
            [(wrong, "You divided by 0.3048: a foot is shorter than a metre.")],
        )
    if kind == "m_ft":
        metres = dice.between(10, 90) / 10
        right = metres / _M_PER_FT
        return _number(
            "units",
            f"{metres:g} m in feet?",
            right,
            "ft",
            [f"{metres:g} m ÷ 0.3048 m/ft = {right:.3g} ft"],
            [(metres * _M_PER_FT, "You multiplied by 0.3048: there are more feet than metres.")],
        )
    if kind == "in_mm":
        inches = dice.between(2, 18)
        right = inches * _MM_PER_IN
        return _number(
            "units",
            f"{inches} in in millimetres?",
            right,
            "mm",
            [f"{inches} in × 25.4 mm/in = {right:.3g} mm"],
            [(inches * 2.54, "That is centimetres.")],
        )
    if kind == "w_a":
        watts, volts = dice.between(2, 40) * 6, dice.one_of([12, 12, 24])
        right = watts / volts
        return _number(
            "units",
            f"{watts} W at {volts} V: how many amperes?",
            right,
            "A",
            [f"I = P / V = {watts} W / {volts} V = {right:.3g} A"],
            [(watts * volts, "You multiplied watts by volts."), (watts / (36 - volts), f"You took {36 - volts} V.")],
        )
    if kind == "ah_wh":
        charge, volts = dice.between(5, 30) * 10, dice.one_of([12, 24])
        right = charge * volts
        return _number(
            "units",
            f"{charge} Ah at {volts} V: how many watt-hours?",
            right,
            "Wh",
            [f"{charge} Ah × {volts} V = {right} Wh"],
            [(charge / volts, "You divided: energy is charge times volts.")],
        )
    if kind == "wh_ah":
        energy, volts = dice.between(4, 40) * 60, dice.one_of([12, 24])
        right = energy / volts
        return _number(
            "units",
            f"{energy} Wh a day from a {volts} V bank: how many ampere-hours?",
            right,
            "Ah",
            [f"{energy} Wh / {volts} V = {right:.3g} Ah"],
            [(energy * volts, "You multiplied by the volts.")],
        )
    if kind == "mohm_v":
        milliohm, amps = dice.between(2, 40), dice.between(5, 80)
        right = milliohm * amps
        return _number(
            "units",
            f"{amps} A through {milliohm} mΩ: how many millivolts?",
            right,
            "mV",
            [f"U = I · R = {amps} A × {milliohm} mΩ = {right} mV"],
            [(right / 1000, "That is volts.")],
        )
    if kind == "loop_ft":
        metres = dice.between(15, 60) / 10
        right = 2 * metres / _M_PER_FT
        return _number(
            "units",
            f"A way of {metres:g} m, one way. How many feet of wire are that there and back?",
            right,
            "ft",
            [f"2 × {metres:g} m = {2 * metres:g} m", f"{2 * metres:g} m ÷ 0.3048 = {right:.3g} ft"],
            [(right / 2, "You took one way.")],
        )
    name = dice.one_of(["16", "14", "12", "10", "8", "6", "4", "2", "1/0", "2/0"])
    area = wire_size("awg", name).area_mm2
    return _number(
        "units",
        f"How many mm² of copper has {name} AWG?",
        area,
        "mm²",
        ["d = 0.127 mm · 92^((36 − n)/39), 1/0 is n = 0", f"area = π/4 · d² = {area:.3g} mm²"],
        [],
        close=0.08,
    )


@makes("look_alike")
def look_alike(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """Which of two holds more copper."""
    del practice
    pairs = _PAIRS[:4] if level == 1 else _PAIRS[:10] if level == 2 else _PAIRS
    one_system, one_name, other_system, other_name = dice.one_of(pairs)
    one, other = wire_size(one_system, one_name), wire_size(other_system, other_name)
    choices = [("one", one.label), ("other", other.label), ("same", "They hold the same")]
    if dice.chance(0.5):
        choices = [choices[1], choices[0], choices[2]]
    ratio = one.area_mm2 / other.area_mm2
    right = "same" if abs(ratio - 1) < 0.03 else "one" if ratio > 1 else "other"
    # Auto mm names the outside, so less copper: the usual mistake is to take the number for the copper.
    wrong = {"one": "other", "other": "one", "same": "one"}[right]
    working = [
        f"{one.label}: {one.area_mm2:.3g} mm² of copper",
        f"{other.label}: {other.area_mm2:.3g} mm² of copper",
        "Zeros count upwards: 4/0 is thicker than 1/0, and 4 is thinner than both. SAE holds less than AWG of the same "
        "number, B&S the same; auto mm is the outside of the wire, not its copper.",
    ]
    return Drill(
        "look_alike",
        "Which holds more copper?",
        "one",
        (right,),
        working,
        choices=choices,
        mistakes=[Wrong(wrong, "The number alone does not tell: look at the system and at the zeros.")],
    )


@makes("read_length")
def read_length(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """One way or there and back."""
    feet = practice.values.size_system in ("awg", "sae")
    unit = "ft" if feet else "m"
    way = float(dice.between(4, 30)) if feet else dice.between(12, 90) / 10
    slack = (float(dice.between(1, 3)) if feet else dice.between(2, 6) / 10) if level > 1 else 0.0
    one_way = way + 2 * slack
    said = f" and {slack:g} {unit} more at each end to terminate it" if slack else ""
    if level < 3 or dice.chance(0.5):
        right = 2 * one_way
        working = [
            f"One way: {way:g} {unit}" + (f" + 2 × {slack:g} {unit} = {one_way:g} {unit}" if slack else ""),
            f"There and back: 2 × {one_way:g} = {right:g} {unit}",
        ]
        wrong = [(one_way, "You took one way."), (2 * way, "You left the slack out.")]
        if slack:
            wrong += [(2 * (way + slack), "Slack is wanted at both ends."), (way, "You took one way, without slack.")]
        question = (
            f"The way from the fuse block to a lamp measures {way:g} {unit} along the channel{said}. Positive and "
            f"negative are both pulled. The chart asks for the length there and back: what do you look under?"
        )
        return _number("read_length", question, right, unit, working, wrong, close=0.004)
    loop = 2 * one_way
    question = (
        f"A drop calculator asks for the length one way. On the cutting list the pair of a pump stands as "
        f"{loop:g} {unit} of wire in all, both conductors together. What do you type?"
    )
    return _number(
        "read_length",
        question,
        one_way,
        unit,
        [f"One way: {loop:g} / 2 = {one_way:g} {unit}"],
        [
            (loop, "You typed there and back: the drop comes out twice as large."),
            (2 * loop, "You doubled what was doubled."),
        ],
        close=0.004,
    )


@makes("read_chart")
def read_chart(dice: Dice, level: int, practice: PracticeSet) -> Drill:
    """What a wire carries where it lies."""
    table: AmpacityTable = practice.values.ampacity_table
    system: SizeSystem = practice.values.size_system
    names = [one for one in practice.values.shelf if one in all_sizes(system)]
    size = wire_size(system, dice.one_of(names[:10]))
    insulation = practice.values.insulation_c
    engine = level > 1 and dice.chance(0.5 if level < 4 else 0.7)
    bundle = dice.one_of([3, 4, 6, 8, 12, 26]) if level > 2 else 1
    found = ampacity(table, size, insulation, Surroundings(50.0 if engine else 30.0, engine, bundle))
    plain = ampacity(table, size, insulation, Surroundings(30.0, engine_space=False, bundle_count=1))
    base = plain.base_a or 0.0
    right = found.ampacity_a or base
    column = found.insulation_column_c or insulation
    free = Surroundings(30.0, engine_space=False, bundle_count=1)
    listed = [(one, ampacity(table, wire_size(system, one), insulation, free).base_a) for one in names[:10]]
    rows = [[wire_size(system, one).label, f"{amps:g}"] for one, amps in listed if amps]
    where = "in the engine space" if engine else "outside engine spaces"
    bundled = f", {bundle} current-carrying wires in its bundle" if bundle > 1 else ""
    factors = [
        [f"{row['from_count']} to {row['to_count'] or 'more'} wires", f"× {float(row['factor']):g}"]
        for row in load_table("bundling_factor").rows
        if row["table"] == ("e11" if table != "iso_small_craft" else table)
    ]
    rows += [["in the engine space", f"× {found.zone_factor:.3g}"]] if engine else []
    rows += factors if bundle > 1 else []
    working = [f"Table, {column} °C: {base:g} A"]
    working += [f"Engine space: × {found.zone_factor:.3g}"] if engine else []
    working += [f"{bundle} in the bundle: × {found.bundle_factor:g}"] if bundle > 1 else []
    working.append(f"= {right:.3g} A")
    wrong = [(base, "You left out where it lies.")] if engine or bundle > 1 else []
    if engine and bundle > 1:
        wrong += [
            (base * found.zone_factor, "You left the bundle out."),
            (base * found.bundle_factor, "You left the engine space out."),
        ]
    drill = _number(
        "read_chart",
        f"{size.label}, {column} °C insulation, {where}{bundled}. What may it carry?",
        right,
        "A",
        working,
        wrong,
    )
    drill.columns, drill.rows = ["Wire or place", "A"], rows
    return drill
