"""Which terminals each kind of part has, and which one a run's end means when it names none."""

from __future__ import annotations

from typing import Literal

from lucernis.plan.parts import Busbar, FuseBlock, Part

Terminal = Literal["in", "out", "out_b", "coil", "bank_b", "pv"]
Side = Literal["start", "finish"]


def terminals(part: Part) -> tuple[Terminal, ...]:
    """Terminals an end may name on a part; empty where there is only one."""
    if part.kind in ("keyed_feed", "shunt", "isolator", "diode"):
        return ("in", "out")
    if part.kind == "charger":
        ways: tuple[Terminal, ...] = ("in",) if part.form == "dcdc" else ()
        ways += ("out", "out_b") if part.outputs == 2 else ("out",)
        return ways + (("pv",) if part.pv_high_v is not None else ())
    if part.kind == "switch":
        return ("in", "out", "out_b") if part.form == "three_position" else ("in", "out")
    if part.kind == "relay":
        return ("in", "out", "coil")
    if isinstance(part, FuseBlock) and part.second_bank_from is not None:
        return ("bank_b",)
    return ()


def usual_terminal(part: Part, side: Side) -> Terminal | None:
    """The terminal meant when none is named: a run finishes at the way in and starts at the way out."""
    names = terminals(part)
    if part.kind == "charger":
        return _usual_of_charger(names, side)
    if "in" in names:
        return "in" if side == "finish" else "out"
    return None


def _usual_of_charger(names: tuple[Terminal, ...], side: Side) -> Terminal:
    """A run that leaves a charger leaves by its output; one that comes to it is its supply where it has one."""
    if side == "finish" and "in" in names:
        return "in"
    return "pv" if side == "finish" and "pv" in names else "out"


def has_legs(part: Part) -> tuple[bool, bool]:
    """Whether a part has a positive and a negative terminal at all."""
    if isinstance(part, Busbar):
        return part.bars != "negative", part.bars != "positive"
    if part.kind in ("shunt", "chassis_point"):
        return False, True
    if isinstance(part, FuseBlock):
        return True, part.negative_bar
    return True, True
