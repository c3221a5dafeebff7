"""Checks of what is put on the ends: whether such a lug is made, and whether a stud is long enough for all of them."""

from __future__ import annotations

import math

from lucernis.core.checks.fixes import set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.harness.ends import splice_joins, stud_of
from lucernis.core.sizing.ends import fitting
from lucernis.plan.model import Busbar, Joint, Part, Run
from lucernis.plan.terminals import Side
from lucernis.practice.tables import load_table

# Rings and lugs, and what counts as one.
_LUGS = ("lug_large", "lug_small", "chassis", "body")
# A hair of tolerance: 6 mm² of a table and 6.0000001 of a formula are one size.
_HAIR = 1.001


def lug_row(area_mm2: float) -> dict[str, str]:
    """The row of lugs_made.csv for a wire; the last for any thicker one.

    Parameters
    ----------
    area_mm2 : float
        Copper. [mm²]
    """
    rows = load_table("lugs_made").rows
    return next((row for row in rows if area_mm2 <= float(row["to_mm2"]) * _HAIR), rows[-1])


def check_ends(raised: Raised) -> None:
    """Raise lugs that are not made, and studs too short for what lies on them."""
    parts = {part.id: part for part in raised.plan.parts}
    stacks: dict[tuple[str, str, bool], list[tuple[float, str]]] = {}
    for run in raised.plan.runs:
        amps = raised.sized.cases[run.id].design_current_a
        size = raised.sized.chosen[run.id].size
        sides: tuple[Side, Side] = ("start", "finish")
        for side in sides:
            end = run.start if side == "start" else run.finish
            found = fitting(parts[end.part], end, side, amps)
            if found.joint(size) not in _LUGS:
                continue
            usual = stud_of(found, size) or "M8"
            stud = end.stud or usual
            row = lug_row(size.area_mm2)
            if end.stud is not None:
                _made(raised, run, parts[end.part], size.label, stud, row)
            for positive in (True, False):
                if run.legs == "both" or (run.legs == "negative") != positive:
                    key = (end.part, end.terminal or "", positive)
                    stacks.setdefault(key, []).extend([(float(row["palm_mm"]), stud)] * run.parallel)
    for (part_id, _, positive), lugs in stacks.items():
        _stack(raised, parts[part_id], positive, lugs)
    for part in raised.plan.parts:
        if isinstance(part, Joint) and part.form == "splice":
            _splice(raised, part)


def _made(raised: Raised, run: Run, part: Part, label: str, stud: str, row: dict[str, str]) -> None:
    """Of a thread a person named; where nobody has, the part has the one its wires ask for."""
    across_mm = float(stud.removeprefix("M"))
    least_mm, greatest_mm = float(row["least_mm"]), float(row["greatest_mm"])
    if least_mm <= across_mm <= greatest_mm:
        return
    raised.on_run(
        "lug-not-made",
        run,
        what=f"No lug for {label} on {stud} at {part.name}: they are drilled for M{least_mm:g} to M{greatest_mm:g}",
        mend="A part with another stud, or a step to another wire on a stud near it. Never drill a lug out.",
        asked=f"{stud} at {part.name}",
        least_mm=least_mm,
        greatest_mm=greatest_mm,
    )


def _splice(raised: Raised, part: Joint) -> None:
    """Wires in one butt splice: two of one size, or a third where all are thin."""
    areas: dict[bool, list[float]] = {True: [], False: []}
    for run in raised.plan.runs:
        area = raised.sized.chosen[run.id].size.area_mm2
        for end in (run.start, run.finish):
            for positive in areas:
                if end.part == part.id and (run.legs == "both" or (run.legs == "negative") != positive):
                    areas[positive] += [area] * run.parallel
    over = [some for some in areas.values() if not splice_joins(some)]
    if not over:
        return
    worst = max(over, key=lambda some: (len(some), max(some)))
    count, thick = len(worst), max(worst)
    raised.on_part(
        "splice-overfull",
        part,
        what=f"{count} wires of {min(worst):g} to {thick:g} mm² in one butt splice at {part.name}",
        mend="A stud with lugs, or a bar: a butt splice joins two wires of one size, up to 16 mm² (6 AWG).",
        fixes=[set_part(part, "Make it a stud", form="stud")],
        asked=f"butt splice at {part.name}",
        count=count,
        area_mm2=thick,
    )


def _stack(raised: Raised, part: Part, positive: bool, lugs: list[tuple[float, str]]) -> None:
    """Palms that lie on one another: evenly over the studs of a bar, the thickest together."""
    studs = part.studs if isinstance(part, Busbar) else 1
    deep = math.ceil(len(lugs) / studs)
    if deep < 2:
        return
    height_mm = sum(sorted((palm for palm, _ in lugs), reverse=True)[:deep])
    row = next((one for one in load_table("torque").rows if one["label"] == lugs[0][1]), None)
    room_mm = float(row["length_mm"]) - float(row["nut_mm"]) if row is not None else math.inf
    if height_mm <= room_mm + 1e-9:
        return
    raised.on_part(
        "stud-short",
        part,
        what=f"{deep} lugs of {height_mm:.1f} mm together on {lugs[0][1]} of {part.name}, "
        f"{'positive' if positive else 'negative'}; some {room_mm:g} mm are usual",
        mend="Measure the stud. A bar with more studs, or a longer bolt from its maker.",
        height_mm=height_mm,
        room_mm=room_mm,
    )
