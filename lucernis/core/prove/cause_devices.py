"""What may be wrong with batteries, alternator, chargers and devices, and what comes and goes on the way to them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from lucernis.core.circuit.sources import alternator_of, alternator_v
from lucernis.core.circuit.terminals import CHASSIS
from lucernis.core.prove.cause import OFF_TIMES, Cause, Change, kind_label, kind_weight, ohm_text
from lucernis.core.prove.frame import Frame
from lucernis.plan.model import Battery, Load
from lucernis.practice.tables import load_table

# What a standby or a device that stays on draws, and how far a device draws above its plate. Common practice, no
# source.
_DRAIN_A = tuple(float(one) for one in np.geomspace(0.03, 3.0, 7))
_HEAVY = (1.35, 1.6, 2.0, 2.6, 3.5)
# What a screen, a shared mount or a signal lead has on the way home. Common practice, no source. [Ω]
_HOME_OHM = (0.03, 0.15, 0.7)
# So many devices beside one are tried as its way home. Practice.
_NEIGHBOURS = 4
# What an alternator holds whose regulator or belt gives way. Common practice, no source. [V]
_HELD_LOW = (12.9, 13.3, 13.7)


def of_source(frame: Frame, at: int, name: str) -> Iterator[Cause]:
    """What may be wrong with a battery, and with the alternator that holds it up."""
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


def of_consumer(frame: Frame, at: int, name: str) -> Iterator[Cause]:
    """What may be wrong with a device or a charger."""
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


def neighbours(frame: Frame) -> Iterator[Cause]:
    """A device whose negative has come off and whose current goes home through another's: a screen, a shared mount."""
    topology, wiring = frame.sized.topology, frame.sized.wiring
    loads = [part for part in frame.plan.parts if isinstance(part, Load) and part.id in wiring.neg]
    for load in loads:
        fed = topology.feeder_of.get(load.id)
        lost = [at for at, one in enumerate(frame.elements)
                if one.leg == "negative" and one.sort == "joint" and one.run == fed]  # fmt: skip
        near = [one for one in loads if one.id != load.id and one.place == load.place]
        # A screen joins electronics first of all; of many in one place the next ones in the list stand for the rest.
        at = loads.index(load)
        near.sort(key=lambda one: (one.device != "electronics", abs(loads.index(one) - at)))
        if not lost or fed is None or wiring.neg_at(load.id) == wiring.neg.get(CHASSIS):
            continue
        for other in near[:_NEIGHBOURS]:
            bridge = (wiring.neg_at(load.id), wiring.neg_at(other.id))
            if bridge[0] == bridge[1]:
                continue
            sizes = tuple(
                Change(element=at, open=True, bridge=bridge, bridge_ohm=ohm, in_words=f"by {ohm_text(ohm)}")
                for at in lost
                for ohm in _HOME_OHM
            )
            text = f"{load.name}: negative lost, returns through {other.name}"
            yield Cause(
                f"return_by:{load.id}:{other.id}", "return_by", text, load.id, load.id, fed, kind_weight("return_by"),
                sizes, (topology.feeder_of.get(other.id) or fed,),
            )  # fmt: skip


def loose(frame: Frame) -> Iterator[Cause]:
    """Something on the way to a device that comes and goes: no reading shows it while it holds."""
    for part in frame.plan.parts:
        if isinstance(part, Load) and part.id in frame.sized.wiring.consumers:
            text = f"{part.name}: an intermittent joint on the way to it"
            yield Cause(
                f"comes_and_goes:{part.id}", "comes_and_goes", text, part.id, part.id,
                frame.sized.topology.feeder_of.get(part.id) or "", kind_weight("comes_and_goes"),
                (Change(in_words="while it holds all is well"),),
            )  # fmt: skip
