"""One thing that may be wrong with a built circuit, in the sizes it comes in, and its name, mend and odds."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.circuit.sources import alternator_v
from lucernis.core.prove.frame import Frame
from lucernis.core.prove.living import ALTERNATOR_OHM, OPEN_OHM
from lucernis.core.prove.situations import Situation
from lucernis.plan.model import Battery
from lucernis.practice.tables import load_table

# A battery whose management has let go has so many times its inside: nothing.
OFF_TIMES = 1e10


@dataclass(frozen=True, slots=True)
class Change:
    """What one size of a cause does, to be read in every situation.

    `series_ohm` is put into piece `element`; `open` parts it. `bridge` joins two nodes by `bridge_ohm` while everything
    is dead (`when` "dead"), while it is live or always. `source` has its volts moved by `source_v` and its inside
    multiplied by `inside`; with `when` "engine" it stands at its own volts while the engine runs, or at `source_v`
    where that is not 0: its alternator gives little or nothing. `load` draws `draw` times what it draws or, where it is
    off, `drain_a`; `crossed` has its two wires exchanged.
    """

    element: int = -1
    series_ohm: float = 0.0
    open: bool = False
    bridge: tuple[int, int] = (-1, -1)
    bridge_ohm: float = OPEN_OHM
    when: str = "always"
    source: int = -1
    source_v: float = 0.0
    inside: float = 1.0
    load: int = -1
    draw: float = 1.0
    drain_a: float = 0.0
    crossed: str = ""
    times: float = 1.0
    """A wire thinner than planned has so many times its resistance."""
    closes: int = -1
    """A conductor that is closed though it should be open."""
    also: int = -1
    """A second piece that has so many times its resistance as well: the other leg."""
    exchanged: tuple[int, int] = (-1, -1)
    """Two conductors that stand in each other's way at the block."""
    in_words: str = ""
    weight: float = 1.0
    """How often this size is met against the others of its cause. Practice."""


@dataclass(frozen=True, slots=True)
class Cause:
    """One thing that may be wrong, in the sizes it comes in.

    `subject` is the piece, part or run it is at; `beside` are further runs it shows in.
    """

    id: str
    kind: str
    text: str
    subject: str
    part: str
    run: str
    weight: float
    changes: tuple[Change, ...]
    beside: tuple[str, ...] = ()


def source_moved(frame: Frame, situation: Situation, change: Change) -> tuple[float, float]:
    """How far a change moves the volts of its source in a situation, and how many times its inside is. [V], [1]"""
    if change.when != "engine":
        return change.source_v, change.inside
    if not situation.state.engine_on:
        return 0.0, 1.0
    part = frame.sized.topology.parts[frame.sized.wiring.sources[change.source]]
    rated_v = part.rated_v if isinstance(part, Battery) else None
    held_v = alternator_v(frame.plan, float(rated_v or frame.plan.nominal_v))
    if change.source_v:
        return change.source_v - held_v, 1.0
    return float(frame.rest_v[change.source]) - held_v, float(frame.inside_ohm[change.source]) / ALTERNATOR_OHM


def kind_label(kind: str) -> str:
    """Name of a kind of cause, fault_priors.csv."""
    return load_table("fault_priors").find(kind)["label"]


def kind_mend(kind: str) -> str:
    """What is done about a kind of cause, fault_priors.csv."""
    return load_table("fault_priors").find(kind)["mend"]


def kind_weight(kind: str) -> float:
    """Odds of one such piece, fault_priors.csv (practice). [1]"""
    return float(load_table("fault_priors").find(kind)["weight"])


def ohm_text(ohm: float) -> str:
    """A resistance in words: mΩ below an ohm."""
    value, unit = (1000 * ohm, "mΩ") if ohm < 1 else (ohm, "Ω")
    return f"{value:.1f} {unit}" if value < 9.95 else f"{float(f'{value:.2g}'):.0f} {unit}"
