"""One step of the work, its phases, and what an hour of it is made of."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from lucernis.practice.tables import load_table

Phase = Literal[
    "safe", "holes", "mount", "cut", "pull", "crimp", "close", "negatives", "positives", "shut", "batteries",
    "power_up", "sun", "at_work"
]  # fmt: skip
PHASES: tuple[tuple[Phase, str], ...] = (
    ("safe", "Make it dead"),
    ("holes", "Holes"),
    ("mount", "Fasten the parts"),
    ("cut", "Cut and label"),
    ("pull", "Pull"),
    ("crimp", "Ends"),
    ("close", "Before a wall is closed"),
    ("negatives", "Bonds and negatives"),
    ("positives", "Positives, every fuse out"),
    ("shut", "Walls over joints"),
    ("batteries", "Batteries, negative last"),
    ("power_up", "First power-up"),
    ("sun", "Panels, once their controller has its battery"),
    ("at_work", "At work: keys, chargers, load"),
)
PHASE_NAMES: dict[Phase, str] = dict(PHASES)


@dataclass(frozen=True, slots=True)
class Mark:
    """Something smaller than a step that is ticked by itself, as one piece of wire."""

    id: str
    done_as: str


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do. `done_as` is what of the plan it depends on: done, and read differently later, it is undone.

    `have` is what to have in the hand, `caution` what to mind at that moment, `check` what shows that it is well done;
    `needs` are ids of steps before it. `work` names the row of labour.csv, `amount` how many of that.
    """

    id: str
    phase: Phase
    text: str
    place: str
    """Name of the place or channel where it is done; empty where it has none."""
    subject: str = ""
    subject_kind: Literal["run", "part", "channel", "place", "plan"] = "plan"
    tag: str = ""
    lines: tuple[str, ...] = ()
    have: tuple[str, ...] = ()
    caution: str = ""
    check: str = ""
    torque: str = ""
    needs: tuple[str, ...] = field(default=())
    done_as: str = ""
    is_bond: bool = False
    """A bond is landed: its resistance is measured before it is sealed."""
    reading: str = ""
    """What a meter is read for; empty where nothing is."""
    made_of: tuple[Mark, ...] = ()
    """With all of these the step is done."""
    work: str = ""
    amount: float = 0.0


def torque_text(stud: str, maker_nm: float | None = None) -> str:
    """What a stud is tightened to.

    Parameters
    ----------
    stud : str
        Thread, as ``M8``.
    maker_nm : float, optional
        What its maker says; that wins. [Nm]

    Returns
    -------
    str
        In words, by torque.csv, marked as practice; empty where the thread is not known there.
    """
    if maker_nm is not None:
        return f"{stud}: {maker_nm:g} Nm, as its maker says"
    for row in load_table("torque").rows:
        if row["label"] == stud:
            return f"{stud}: {float(row['low_nm']):g} to {float(row['high_nm']):g} Nm, practice; the maker's sheet wins"
    return ""


def minutes_of(work: str) -> float:
    """Usual minutes of one of a kind of work, labour.csv. [min]"""
    return float(load_table("labour").find(work)["minutes"])
