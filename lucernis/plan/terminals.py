"""Which terminals each kind of part has, and which one a run's end means when it names none."""

from __future__ import annotations

from typing import Literal

from lucernis.plan.parts import Busbar, FuseBlock, Part

Terminal = Literal["in", "out", "out_b", "coil", "bank_b"]
Side = Literal["start", "finish"]


def terminals(part: Part) -> tuple[Terminal, ...]:
    """Terminals an end may name on a part; empty where there is only one."""
    if part.kind in ("keyed_feed", "shunt"):
        return ("in", "out")
    if part.kind == "switch":
        return ("in", "out", "out_b") if part.form == "three_position" else ("in", "out")
    if part.kind == "relay":
        return ("in", "out", "coil")
    if isinstance(part, FuseBlock) and part.second_bank_from is not None:
        return ("bank_b",)
    return ()


def usual_terminal(part: Part, side: Side) -> Terminal | None:
    """The terminal meant when none is named: a run finishes at the way in and starts at the way out."""
    if "in" in terminals(part):
        return "in" if side == "finish" else "out"
    return None


def has_legs(part: Part) -> tuple[bool, bool]:
    """Whether a part has a positive and a negative terminal at all."""
    if isinstance(part, Busbar):
        return part.bars != "negative", part.bars != "positive"
    if part.kind in ("shunt", "chassis_point"):
        return False, True
    if isinstance(part, FuseBlock):
        return True, part.negative_bar
    return True, True
