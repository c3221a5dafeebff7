"""Names of the electrical points of a plan: which point a run's end stands on, positive and negative side.

A point is named by its part, and by the terminal where a part has several: `s1` is the way into switch s1, `s1:out`
the way out, `f1:bank_b` the second bank of a block, `k1:coil` the coil of a relay, `q1:pv` the panels of a charger.
"""

from __future__ import annotations

from lucernis.plan.model import End, FuseBlock, Part, Run
from lucernis.plan.terminals import Side, has_legs, usual_terminal

CHASSIS = "chassis"
# Terminals that are fed by themselves; the others of a part hang on its way in.
_OWN_FEED = ("coil", "bank_b")
_OUTPUTS = ("out", "out_b")


def end_terminal(part: Part, end: End, side: Side) -> str | None:
    """The terminal an end stands on, by its way, by its name, or the usual one."""
    if isinstance(part, FuseBlock):
        second = part.second_bank_from
        if end.way is not None and second is not None and end.way >= second:
            return "bank_b"
        return end.terminal
    return end.terminal or usual_terminal(part, side)


def point(part_id: str, terminal: str | None) -> str:
    """Name of a point."""
    return part_id if terminal in (None, "in") else f"{part_id}:{terminal}"


def positive_point(part: Part, end: End, side: Side) -> str:
    """The positive point an end stands on."""
    return point(part.id, end_terminal(part, end, side))


def negative_point(part: Part, end: End, side: Side) -> str:
    """The negative point an end stands on: only shunts and reversing switches have two, and a coil has its own."""
    terminal = end_terminal(part, end, side)
    if terminal == "coil":
        return point(part.id, terminal)
    if part.kind == "charger":
        return back_point(part, terminal)
    return point(part.id, terminal if parts_negative(part) else None)


def parts_negative(part: Part) -> bool:
    """Whether a part stands in the negative too: a shunt, a switch that reverses or opens both poles."""
    return part.kind == "shunt" or (part.kind == "switch" and (part.form == "reversing" or part.poles == 2))


def back_point(part: Part, terminal: str | None) -> str:
    """The negative that belongs to a terminal: a charger's output has one of its own unless it is shared."""
    if part.kind == "charger":
        return point(part.id, "out") if terminal in _OUTPUTS and not part.shared_negative else part.id
    return point(part.id, terminal) if terminal == "coil" else part.id


def feed_point(part: Part, end: End, side: Side) -> str:
    """The point in the feeding tree: switches are passed through, coils and second banks are fed by themselves."""
    terminal = end_terminal(part, end, side)
    return point(part.id, terminal if terminal in _OWN_FEED or part.kind == "charger" else None)


def has_positive(run: Run) -> bool:
    """Whether a run has a positive conductor."""
    return run.legs in ("both", "positive")


def has_negative(run: Run) -> bool:
    """Whether a run has a negative conductor."""
    return run.legs in ("both", "negative")


def part_id_of(point_name: str) -> str:
    """The part a point belongs to."""
    return point_name.partition(":")[0]


def terminal_of(point_name: str) -> str | None:
    """The terminal a point names, None for the usual one."""
    return point_name.partition(":")[2] or None


__all__ = [
    "CHASSIS",
    "back_point",
    "end_terminal",
    "feed_point",
    "has_legs",
    "has_negative",
    "has_positive",
    "negative_point",
    "part_id_of",
    "parts_negative",
    "point",
    "positive_point",
    "terminal_of",
]
