"""Everything that may be wrong with a built circuit, one thing at a time, and what each does to it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np

from lucernis.core.circuit.contacts import contact_ohm
from lucernis.core.circuit.sources import alternator_of, alternator_v
from lucernis.core.circuit.terminals import CHASSIS, point
from lucernis.core.itself import Itself
from lucernis.core.prove.elements import Element
from lucernis.core.prove.frame import Frame
from lucernis.core.prove.living import ALTERNATOR_OHM, OPEN_OHM
from lucernis.core.prove.situations import Situation
from lucernis.plan.model import Battery, Load
from lucernis.practice.tables import load_table

# Steps of what a bad joint, contact or wire has besides, from what a meter just sees to what carries nothing. [Ω]
_STEPS_OHM = tuple(float(one) for one in np.geomspace(1e-3, 10.0, 13))
STEP_RATIO = _STEPS_OHM[1] / _STEPS_OHM[0]
# A joint that bad soon is none.
_RARE_OHM = 0.7
_LEAK_OHM = tuple(float(one) for one in np.geomspace(5.0, 2000.0, 7))
# What a standby or a device that stays on draws, how far a device draws above its plate, how much more resistance the
# next thinner sizes have, and what a wire that has chafed through has to the body. Common practice, no source.
_DRAIN_A = tuple(float(one) for one in np.geomspace(0.03, 3.0, 7))
_HEAVY = (1.35, 1.6, 2.0, 2.6, 3.5)
_THINNER = (1.6, 2.5, 4.0)
_SHORT_OHM = 0.02
# A wire past a shunt against the shunt itself. Common practice, no source. [1]
_PAST_FRAC = 0.3
# What an alternator holds whose regulator or belt gives way. Common practice, no source. [V]
_HELD_LOW = (12.9, 13.3, 13.7)


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


def _series(at: int, sound_ohm: float) -> tuple[Change, ...]:
    """Sizes from half of what the piece has sound upwards, at the end open."""
    steps = [ohm for ohm in _STEPS_OHM if ohm >= max(0.5 * sound_ohm, _STEPS_OHM[0])]
    found = [
        Change(element=at, series_ohm=ohm, in_words=ohm_text(sound_ohm + ohm), weight=1.0 if ohm < _RARE_OHM else 0.2)
        for ohm in steps
    ]
    return (*found, Change(element=at, open=True, in_words="open"))


def _of_element(frame: Frame, at: int, element: Element) -> Iterator[Cause]:
    negative = element.leg == "negative"

    def cause(kind: str, changes: tuple[Change, ...], text: str = "") -> Cause:
        label = text or f"{element.label}: {kind_label(kind).lower()}"
        if negative and kind in ("joint_off", "wire_open"):
            label += " (negative lost)"
        return Cause(
            f"{kind}:{element.id}", kind, label, element.id, element.part, element.run, kind_weight(kind), changes
        )

    bad = _series(at, element.ohm)
    if element.sort == "joint":
        yield cause("joint", bad[:-1])
        yield cause("joint_off", bad[-1:])
    elif element.sort == "body":
        yield cause("earth", bad)
    elif element.sort == "fuse":
        yield cause("fuse_blown", (Change(element=at, open=True, in_words="open"),), f"{element.label} has blown")
        yield cause("fuse_contact", bad[:-1], f"{element.label}: its contact resists")
        # A fuse of half the rating has about twice the ohms. Common practice, no source.
        small = (
            Change(element=at, times=1.6, in_words="a size or two"),
            Change(element=at, times=2.5, in_words="half"),
        )
        yield cause("fuse_small", small, f"{element.label}: a smaller one stands there")
        big = (Change(element=at, times=0.5, in_words="twice"), Change(element=at, times=0.1, in_words="bridged"))
        yield cause("fuse_big", big, f"{element.label}: a bigger one stands there, or it is bridged")
    elif element.sort == "wire":
        side_by_side = frame.sized.cases[element.run].run.parallel if element.run in frame.sized.cases else 1
        if side_by_side > 1:
            times = side_by_side / (side_by_side - 1)
            off = Change(element=at, times=times, in_words=f"{side_by_side - 1} of {side_by_side} carry")
            yield cause("parallel_off", (off,), f"{element.label}: one of {side_by_side} side by side is off")
        yield cause("wire_open", bad[-1:], f"{element.label}: broken")
        yield cause("wire_chafed", bad[:-1], f"{element.label}: strands lost")
        thin = tuple(Change(element=at, times=t, in_words=f"{t:g} times the resistance") for t in _THINNER)
        yield cause("wire_thin", thin, f"{element.label}: thinner than planned")
    elif element.sort == "contact":
        yield from _of_contact(frame, at, element, bad)
    elif element.sort == "shunt":
        circuit, c = frame.sized.wiring.circuit, element.conductor
        ends = circuit.conductor_from[c], circuit.conductor_to[c]
        past = Change(bridge=ends, bridge_ohm=_PAST_FRAC * element.ohm, when="always", in_words="most of it")
        yield cause("shunt_bypassed", (past,), f"{element.label}: something goes past it")


def _of_contact(frame: Frame, at: int, element: Element, bad: tuple[Change, ...]) -> Iterator[Cause]:
    part = frame.sized.topology.parts[element.part]

    def cause(kind: str, changes: tuple[Change, ...]) -> Cause:
        text = f"{element.label}: {kind_label(kind).lower()}"
        return Cause(f"{kind}:{element.id}", kind, text, element.id, element.part, "", kind_weight(kind), changes)

    yield cause("contact_bad", bad[:-1])
    yield cause("contact_open", bad[-1:])
    coil = point(element.part, "coil")
    if coil in frame.sized.wiring.consumers and element.id.endswith(":main:0"):
        at_coil = frame.sized.wiring.consumers.index(coil)
        broken = Change(element=at, open=True, load=at_coil, draw=0.0, in_words="open")
        text = f"{part.name}: {kind_label('coil_open').lower()}"
        yield Cause(f"coil_open:{coil}", "coil_open", text, coil, part.id, "", kind_weight("coil_open"), (broken,))
    if part.kind in ("switch", "relay", "isolator", "keyed_feed"):
        welded = Change(closes=element.conductor, series_ohm=contact_ohm(part), in_words="always closed")
        yield cause("contact_welded", (welded,))
        leaks = tuple(
            Change(closes=element.conductor, series_ohm=ohm, in_words=ohm_text(ohm)) for ohm in (1.0, 10.0, 100.0, 1e3)
        )
        yield cause("backfeed", leaks)


def _of_run(frame: Frame, index: int) -> Iterator[Cause]:
    """A positive that is chafed through: its fuse opens, and behind it the ohms to the negative are low."""
    run, wiring, topology = frame.plan.runs[index], frame.sized.wiring, frame.sized.topology
    conductor = 2 * index
    pieces = frame.on_leg.get(conductor, ())
    if not pieces or run.legs not in ("both", "positive"):
        return
    plus = wiring.circuit.conductor_to[conductor]
    far = topology.ends(run)[1] if topology.start_of.get(run.id) != topology.ends(run)[1] else topology.ends(run)[0]
    if far in wiring.pos:
        plus = wiring.pos[far]
    minus = wiring.neg_at(far)
    body = wiring.neg.get(CHASSIS)
    homes = [(minus, " to the negative")] + ([(body, " to the body")] if body is not None and body != minus else [])
    fuse = _guard(frame, run.id)
    if fuse >= 0:
        shorts = tuple(
            Change(
                element=fuse,
                open=True,
                bridge=(plus, to),
                bridge_ohm=_SHORT_OHM,
                when="dead",
                in_words=f"a short{where}",
            )
            for to, where in homes
        )
        text = f"{run.tag} +: chafed through behind {frame.elements[fuse].label}, which blew"
        yield Cause(f"wire_short:{run.id}", "wire_short", text, run.id, "", run.id, kind_weight("wire_short"), shorts)
    leaks = tuple(
        Change(bridge=(plus, to), bridge_ohm=ohm, in_words=f"{ohm_text(ohm)}{where}")
        for to, where in homes
        for ohm in _LEAK_OHM
    )
    wires = [at for c in (conductor, conductor + 1) for at in frame.on_leg.get(c, ())
             if frame.elements[at].sort == "wire"]  # fmt: skip
    if len(wires) == 2:
        thin = tuple(
            Change(element=wires[0], also=wires[1], times=t, in_words=f"{t:g} times the resistance") for t in _THINNER
        )
        text = f"{run.tag} + and −: thinner than planned"
        yield Cause(f"thin_both:{run.id}", "thin_both", text, run.id, "", run.id, kind_weight("thin_both"), thin)
    text = f"{run.tag} +: leaks to the body"
    yield Cause(f"wire_leak:{run.id}", "wire_leak", text, run.id, "", run.id, kind_weight("wire_leak"), leaks)


def _guard(frame: Frame, run_id: str) -> int:
    """The piece that is the fuse guarding a run, by the nearest on the way from its battery; -1 where there is none."""
    topology = frame.sized.topology
    here: str | None = run_id
    for _ in range(len(topology.runs) + 1):
        if here is None:
            return -1
        for at, element in enumerate(frame.elements):
            if element.sort == "fuse" and element.run == here:
                return at
        here = topology.feeder_of.get(topology.start_of.get(here, ""))
    return -1


def _of_source(frame: Frame, at: int, name: str) -> Iterator[Cause]:
    part = frame.sized.topology.parts[name]
    if not isinstance(part, Battery):
        return
    row = load_table("battery_chemistry").find(part.chemistry)
    blocks = (part.rated_v or frame.plan.nominal_v) / 12
    full, flat = float(row["ocv_75"]) * blocks, float(row["ocv_0"]) * blocks

    def cause(kind: str, *changes: Change) -> Cause:
        return Cause(
            f"{kind}:{name}", kind, f"{part.name}: {kind_label(kind).lower()}", name, name, "", kind_weight(kind),
            changes,
        )  # fmt: skip

    yield cause(
        "battery_weak",
        *(Change(source=at, inside=t, in_words=f"{t:g} times its inside") for t in (3.0, 6.0, 12.0, 25.0)),
    )
    steps = (0.35, 0.6, 0.8, 1.0)
    yield cause(
        "battery_flat",
        *(Change(source=at, source_v=(flat - full) * s, inside=1 + s, in_words=f"{full + (flat - full) * s:.1f} V")
          for s in steps),
    )  # fmt: skip
    # What a cell of the chemistry holds when it is charged. Common practice, no source.
    cell_v = (3.3 if part.chemistry == "lfp" else 2.1) * blocks
    yield cause("battery_cell", Change(source=at, source_v=-cell_v, inside=3.0, in_words=f"{cell_v:.1f} V less"))
    yield cause("battery_off", Change(source=at, inside=OFF_TIMES, in_words="gives nothing"))
    alternator = alternator_of(frame.plan)
    if part.use == "starter" and alternator is not None:
        held_v = alternator_v(frame.plan, float(part.rated_v or frame.plan.nominal_v))

        def of_engine(kind: str, *changes: Change) -> Cause:
            return Cause(
                f"{kind}:{alternator.id}", kind, f"{alternator.name}: {kind_label(kind).lower()}", alternator.id,
                alternator.id, "", kind_weight(kind), changes,
            )  # fmt: skip

        yield of_engine("alternator_dead", Change(source=at, when="engine", in_words="nothing"))
        lows = [low for low in _HELD_LOW if low * blocks < held_v - 0.2]
        if lows:
            some = (
                Change(source=at, when="engine", source_v=low * blocks, in_words=f"{low * blocks:.1f} V")
                for low in lows
            )
            yield of_engine("alternator_low", *some)


def _of_consumer(frame: Frame, at: int, name: str) -> Iterator[Cause]:
    parts, wiring = frame.sized.topology.parts, frame.sized.wiring
    part = parts[name.partition(":")[0]]
    supply = frame.sized.demand.supplies.get(name)

    def cause(kind: str, *changes: Change) -> Cause:
        return Cause(
            f"{kind}:{name}", kind, f"{part.name}: {kind_label(kind).lower()}", name, part.id, "", kind_weight(kind),
            changes,
        )  # fmt: skip

    if supply is not None:
        if supply.gives:
            yield cause("charger_dead", Change(load=at, draw=0.0, in_words="nothing"))
            yield cause(
                "charger_weak", *(Change(load=at, draw=f, in_words=f"{100 * f:.0f} %") for f in (0.3, 0.55, 0.75))
            )
        return
    yield cause("load_heavy", *(Change(load=at, draw=f, in_words=f"{f:g} times its plate") for f in _HEAVY))
    yield cause("load_dead", Change(load=at, draw=0.0, in_words="nothing"))
    if isinstance(part, Load):
        drains = tuple(Change(load=at, drain_a=amps, in_words=f"{amps:.2g} A") for amps in _DRAIN_A)
        yield cause("load_stuck", *drains)
        yield cause("crossed", Change(crossed=part.id, in_words="+ and − exchanged"))
        body = wiring.neg.get(CHASSIS)
        if body is not None:
            change = Change(bridge=(wiring.neg_at(name), body), bridge_ohm=0.01, in_words="by its mount")
            yield cause("body_return", change)


def _exchanged(frame: Frame) -> Iterator[Cause]:
    """Two wires in each other's way of a fuse block: each is guarded by the other's fuse."""
    ways: dict[str, list[int]] = {}
    for index, run in enumerate(frame.plan.runs):
        if run.start.way is not None and frame.on_leg.get(2 * index):
            ways.setdefault(run.start.part, []).append(index)
    for block, some in ways.items():
        name = frame.sized.topology.parts[block].name
        for one, other in combinations(some, 2):
            first, second = frame.plan.runs[one], frame.plan.runs[other]
            change = Change(exchanged=(2 * one, 2 * other), in_words="each on the other's fuse")
            text = f"{first.tag} and {second.tag}: exchanged at {name}"
            id_ = f"exchanged:{first.id}:{second.id}"
            yield Cause(id_, "exchanged", text, first.id, block, first.id, kind_weight("exchanged"), (change,),
                        (second.id,))  # fmt: skip


def _neighbours(frame: Frame) -> Iterator[Cause]:
    """A device whose negative has come off and whose current goes home through another's: a screen, a shared mount."""
    topology, wiring = frame.sized.topology, frame.sized.wiring
    loads = [part for part in frame.plan.parts if isinstance(part, Load) and part.id in wiring.neg]
    for load in loads:
        fed = topology.feeder_of.get(load.id)
        lost = [at for at, one in enumerate(frame.elements)
                if one.leg == "negative" and one.sort == "joint" and one.run == fed]  # fmt: skip
        near = [one for one in loads if one.id != load.id and one.place == load.place and lost]
        if not lost or fed is None or wiring.neg_at(load.id) == wiring.neg.get(CHASSIS):
            continue
        for other in near:
            bridge = (wiring.neg_at(load.id), wiring.neg_at(other.id))
            if bridge[0] == bridge[1]:
                continue
            sizes = tuple(
                Change(element=at, open=True, bridge=bridge, bridge_ohm=ohm, in_words=f"by {ohm_text(ohm)}")
                for at in lost
                for ohm in (0.03, 0.15, 0.7)
            )
            text = f"{load.name}: negative lost, returns through {other.name}"
            yield Cause(
                f"return_by:{load.id}:{other.id}", "return_by", text, load.id, load.id, fed, kind_weight("return_by"),
                sizes, (topology.feeder_of.get(other.id) or fed,),
            )  # fmt: skip


def _loose(frame: Frame) -> Iterator[Cause]:
    """Something on the way to a device that comes and goes: no reading shows it while it holds."""
    for part in frame.plan.parts:
        if isinstance(part, Load) and part.id in frame.sized.wiring.consumers:
            text = f"{part.name}: a joint on the way to it comes and goes"
            yield Cause(
                f"comes_and_goes:{part.id}", "comes_and_goes", text, part.id, part.id,
                frame.sized.topology.feeder_of.get(part.id) or "", kind_weight("comes_and_goes"),
                (Change(in_words="while it holds all is well"),),
            )  # fmt: skip


def causes_of(frame: Frame) -> list[Cause]:
    """All single things that may be wrong.

    Parameters
    ----------
    frame : Frame
        The plan.

    Returns
    -------
    list of Cause
        Piece by piece, run by run, source by source, consumer by consumer, with the odds of fault_priors.csv.
    """
    return list(_every(Itself(frame)))


@lru_cache(maxsize=4)
def _every(this: Itself[Frame]) -> tuple[Cause, ...]:
    frame, found = this.thing, list[Cause]()
    for at, element in enumerate(frame.elements):
        found += _of_element(frame, at, element)
    for index in range(len(frame.plan.runs)):
        found += _of_run(frame, index)
    for at, name in enumerate(frame.sized.wiring.sources):
        found += _of_source(frame, at, name)
    for at, name in enumerate(frame.sized.wiring.consumers):
        found += _of_consumer(frame, at, name)
    found += [*_exchanged(frame), *_neighbours(frame), *_loose(frame)]
    return tuple(found)
