"""Mends that are edits, as several checks offer them."""

from __future__ import annotations

import math
from typing import Literal

from lucernis.core.checks.raising import Raised
from lucernis.core.protection.fuse_curves import breaking_capacity
from lucernis.core.protection.fuses import family
from lucernis.core.report import Fix
from lucernis.core.sizing.fusing import charging_table_v, fed_by_start
from lucernis.core.wire.copper import wire_size
from lucernis.plan.edits.operations import InsertPart, PinFuse, PinWire, SetFields, SetFuse
from lucernis.plan.model import Battery, Fuse, Load, Part, Run
from lucernis.practice.rules import FuseFamily
from lucernis.practice.tables import load_table

# In order of size and price: what is tried first is what a workshop has.
FAMILIES: tuple[FuseFamily, ...] = (
    "blade_regular",
    "blade_maxi",
    "bolt_m5",
    "bolt_m8",
    "anl",
    "post_block",
    "class_t",
    "breaker_manual",
)


End = Literal["start", "finish"]


def fed_end(raised: Raised, run: Run) -> End:
    """The end of a run current comes in by."""
    return "start" if fed_by_start(raised.sized.topology, run) else "finish"


def fed_end_fuse(raised: Raised, run: Run) -> Fuse | None:
    """The fuse at that end."""
    return run.fuse_at_start if fed_end(raised, run) == "start" else run.fuse_at_finish


def put_fuse(raised: Raised, run: Run, label: str = "", *, end: str | None = None) -> Fix:
    """A fuse at an end of a run, within the distance allowed."""
    where = end or fed_end(raised, run)
    distance_m = min(raised.rules.values.fuse_distance_m, run.length_m, 0.1)
    edit = SetFuse.model_validate({"op": "set_fuse", "run": run.id, "end": where, "distance_m": round(distance_m, 3)})
    return Fix(label or f"Put a fuse at the {where} of {run.tag}", [edit])


def change_fuse(run: Run, label: str, end: str, **values: object) -> Fix:
    """Another distance, family or holder for a fuse."""
    return Fix(label, [SetFuse.model_validate({"op": "set_fuse", "run": run.id, "end": end, **values})])


def let_go_of_wire(run: Run) -> list[Fix]:
    """Unpin the wire, if it is pinned."""
    if run.wire is None:
        return []
    return [Fix(f"Unpin the wire of {run.tag}", [PinWire(op="pin_wire", run=run.id, size="")])]


def take_negatives_from(leaving: list[Run], near_id: str, far: Battery) -> Fix:
    """Negatives that leave a battery, moved to another of its bank."""
    there = {"part": far.id, "way": None, "terminal": None}
    edits = [
        SetFields(op="set_fields", subject=run.id, values={"start" if run.start.part == near_id else "finish": there})
        for run in leaving
    ]
    return Fix(f"Take the negative from {far.name}", list(edits))


def let_go_of_fuse(run: Run) -> list[Fix]:
    """Unpin the fuses of a run that are pinned."""
    ends: tuple[End, ...] = ("start", "finish")
    pinned = [
        end
        for end, fuse in zip(ends, (run.fuse_at_start, run.fuse_at_finish), strict=True)
        if fuse is not None and fuse.pin is not None
    ]
    if not pinned:
        return []
    edits = [PinFuse(op="pin_fuse", run=run.id, end=end, rating_a=None) for end in pinned]
    return [Fix(f"Unpin the fuse of {run.tag}", list(edits))]


def pin_rating(run: Run, end: End, rating_a: float, name: FuseFamily, reason: str) -> Fix:
    """A certain fuse rating.

    Parameters
    ----------
    run : Run
        Where it stands.
    end : str
        At which end: ``start`` or ``finish``.
    rating_a : float
        The rating. [A]
    name : str
        Its family.
    reason : str
        Why it is pinned.

    Returns
    -------
    Fix
        Pins it.
    """
    edit = PinFuse(op="pin_fuse", run=run.id, end=end, rating_a=rating_a, family=name, reason=reason)
    return Fix(f"Pin {rating_a:g} A in {run.tag}", [edit])


def thicker_wire(raised: Raised, run: Run, reason: str, *, at_least_mm2: float = 0.0) -> list[Fix]:
    """The next thicker size on the shelf, or the first with enough copper.

    Parameters
    ----------
    raised : Raised
        The findings so far.
    run : Run
        Whose wire.
    reason : str
        Why it is pinned.
    at_least_mm2 : float
        Copper it must at least have. [mm²]

    Returns
    -------
    list of Fix
        Empty where the shelf has none.
    """
    values = raised.rules.values
    now = raised.sized.chosen[run.id].size.area_mm2
    shelf = sorted((wire_size(values.size_system, name) for name in values.shelf), key=lambda one: one.area_mm2)
    for size in shelf:
        if size.area_mm2 > now * 1.001 and size.area_mm2 >= at_least_mm2 * 0.999:
            edit = PinWire(op="pin_wire", run=run.id, size=size.label, reason=reason)
            return [Fix(f"Take {size.label} for {run.tag}", [edit])]
    return []


def set_part(part: Part | Run, label: str, **values: object) -> Fix:
    """Other fields of a part or a run."""
    return Fix(label, [SetFields(op="set_fields", subject=part.id, values=values)])


def insert(run: Run, label: str, fields: dict[str, object], *, at_m: float, near: str = "start") -> list[Fix]:
    """A part put into a run, if there is room for it.

    Parameters
    ----------
    run : Run
        The run.
    label : str
        What the mend is called.
    fields : dict
        The part, as in the library.
    at_m : float
        How far from that end. [m]
    near : str
        ``start`` or ``finish``.

    Returns
    -------
    list of Fix
        Empty where a fuse is in the way.
    """
    if at_m >= run.length_m:
        at_m = run.length_m / 2
    here, there = run.fuse_at_start, run.fuse_at_finish
    if near == "finish":
        here, there = there, here
    if (here is not None and here.distance_m > at_m) or (there is not None and there.distance_m > run.length_m - at_m):
        return []
    edit = InsertPart.model_validate(
        {"op": "insert_part", "run": run.id, "part": fields, "near": near, "length": f"{at_m:.3f} m"}
    )
    return [Fix(label, [edit])]


def next_rating(needed_a: float) -> float:
    """The rating a switch, busbar or relay would be bought in.

    Parameters
    ----------
    needed_a : float
        What it must at least carry. [A]

    Returns
    -------
    float
        The next of usual_ratings.csv, whole tens beyond. [A]
    """
    series = [float(row["rating_a"]) for row in load_table("usual_ratings").rows]
    return next((one for one in series if one >= needed_a), 10.0 * math.ceil(needed_a / 10))


def strong_enough(raised: Raised, run: Run, current_a: float, least_a: float) -> FuseFamily | None:
    """The first family that breaks a current and is made at or above a load.

    Parameters
    ----------
    raised : Raised
        The findings so far.
    run : Run
        Where the fuse stands.
    current_a : float
        What it must break. [A]
    least_a : float
        What it must at least be rated. [A]

    Returns
    -------
    str or None
        None where there is none.
    """
    volts = charging_table_v(raised.plan)
    load = isinstance(raised.sized.topology.far_part(run), Load)
    for name in FAMILIES:
        made, breaks = family(name), breaking_capacity(name, volts).breaking_a
        if breaks is None or breaks < current_a or made.max_v < raised.plan.nominal_v:
            continue
        if any(least_a <= rating <= max(4 * least_a, made.ratings_a[0]) for rating in made.ratings_a):
            if load and name == "post_block":
                continue
            return name
    return None
