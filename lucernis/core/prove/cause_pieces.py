"""What may be wrong with pieces and runs: joints, fuses, wires, contacts, shorts, wires in each other's way."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

import numpy as np

from lucernis.core.circuit.contacts import contact_ohm
from lucernis.core.circuit.terminals import CHASSIS, point
from lucernis.core.prove.cause import Cause, Change, kind_label, kind_weight, ohm_text
from lucernis.core.prove.elements import Element
from lucernis.core.prove.frame import Frame

# Steps of what a bad joint, contact or wire has besides, from what a meter just sees to what carries nothing. [Ω]
_STEPS_OHM = tuple(float(one) for one in np.geomspace(1e-3, 10.0, 13))
STEP_RATIO = _STEPS_OHM[1] / _STEPS_OHM[0]
# A joint that bad soon is none.
_RARE_OHM = 0.7
_LEAK_OHM = tuple(float(one) for one in np.geomspace(5.0, 2000.0, 7))
# How much more resistance the next thinner sizes have, and what a wire that has chafed through has to the body. Common
# practice, no source.
_THINNER = (1.6, 2.5, 4.0)
_SHORT_OHM = 0.02
# A wire past a shunt against the shunt itself. Common practice, no source. [1]
_PAST_FRAC = 0.3


def _series(at: int, sound_ohm: float) -> tuple[Change, ...]:
    """Sizes from half of what the piece has sound upwards, at the end open."""
    steps = [ohm for ohm in _STEPS_OHM if ohm >= max(0.5 * sound_ohm, _STEPS_OHM[0])]
    found = [
        Change(element=at, series_ohm=ohm, in_words=ohm_text(sound_ohm + ohm), weight=1.0 if ohm < _RARE_OHM else 0.2)
        for ohm in steps
    ]
    return (*found, Change(element=at, open=True, in_words="open"))


def of_element(frame: Frame, at: int, element: Element) -> Iterator[Cause]:
    """What may be wrong with a piece."""
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


def of_run(frame: Frame, index: int) -> Iterator[Cause]:
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


def exchanged(frame: Frame) -> Iterator[Cause]:
    """Two wires in each other's way of a fuse block: each is guarded by the other's fuse."""
    ways: dict[str, list[int]] = {}
    for index, run in enumerate(frame.plan.runs):
        for end in (run.start, run.finish):
            if end.way is not None and frame.on_leg.get(2 * index):
                ways.setdefault(end.part, []).append(index)
    for block, some in ways.items():
        name = frame.sized.topology.parts[block].name
        for one, other in combinations(some, 2):
            first, second = frame.plan.runs[one], frame.plan.runs[other]
            change = Change(exchanged=(2 * one, 2 * other), in_words="each on the other's fuse")
            text = f"{first.tag} and {second.tag}: swapped at {name}"
            id_ = f"exchanged:{first.id}:{second.id}"
            yield Cause(id_, "exchanged", text, first.id, block, first.id, kind_weight("exchanged"), (change,),
                        (second.id,))  # fmt: skip
