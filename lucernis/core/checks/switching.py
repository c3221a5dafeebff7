"""Checks of relays, coils and the ways current must not take: self-holding coils, shorts and ties made by wiring."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from lucernis.core.checks.fixes import fed_end, fed_end_fuse, insert, next_rating, put_fuse, set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.islands import islands
from lucernis.core.circuit.terminals import point
from lucernis.core.faults.guards import Guards
from lucernis.core.sizing.fusing import fuse_run
from lucernis.plan.model import Battery, Joint, Load, Relay

# A coil wire is thin and draws next to nothing: what guards it should open at a few amperes. Common practice.
COIL_FUSE_A = 5.0
_FED_OTHERWISE = ("battery", "charger", "panel", "alternator")


def check_switching(raised: Raised, guards: Guards) -> None:
    """Raise what is wrong with relays, with inverters without a switch, and with shorts and ties made by wiring."""
    for part in raised.plan.parts:
        if isinstance(part, Relay):
            _relay(raised, guards, part)
        elif isinstance(part, Load) and part.device == "inverter":
            _inverter(raised, part)
    _wiring_faults(raised)
    _dangling(raised)


def _relay(raised: Raised, guards: Guards, relay: Relay) -> None:
    sized = raised.sized
    coil = point(relay.id, "coil")
    if relay.suppression == "none":
        raised.on_part(
            "coil-kick",
            relay,
            what=f"{relay.name}: no diode or resistor across the coil",
            mend="A relay with a diode or a resistor, or one added.",
            fixes=[set_part(relay, "Take one with a diode", suppression="diode")],
        )
    feeder = sized.topology.feeder_of.get(coil)
    if feeder is None:
        raised.on_part(
            "coil-unfed",
            relay,
            what=f"Nothing feeds the coil of {relay.name}: it never closes",
            mend="Feed the coil from a switch or a keyed feed.",
        )
        return
    run = sized.topology.runs[feeder]
    others = set(sized.switching.contacts) - {contact for contact in sized.switching.contacts if contact[0] == relay.id}
    if coil not in sized.switching.reach(others, frozenset()):
        raised.on_part(
            "relay-self-fed",
            relay,
            what=f"The coil of {relay.name} is fed by its own contact",
            mend="Feed the coil from before the contact.",
        )
    guard = guards.nearest.get(coil)
    lasting_a = guards.lasting_a(coil)
    if lasting_a is None or lasting_a > COIL_FUSE_A:
        tag = sized.topology.runs[fuse_run(guard)].tag if guard is not None else ""
        raised.on_part(
            "coil-unfused",
            relay,
            what=f"The coil of {relay.name} hangs behind "
            + (f"{lasting_a:g} A in {tag}" if lasting_a is not None else "no fuse"),
            mend=f"A fuse of at most {COIL_FUSE_A:g} A in the coil wire.",
            fixes=[put_fuse(raised, run, f"Put a small fuse in {run.tag}")]
            if fed_end_fuse(raised, run) is None
            else [],
            coil_a=relay.coil_a,
        )
    if not relay.continuous:
        held = [state.name for state in raised.plan.states if coil in sized.demand.switched[state.id].alive]
        if held:
            raised.on_part(
                "solenoid-not-continuous",
                relay,
                what=f"{relay.name} is held in {held[0]}, but made for short times only",
                mend="Take a solenoid rated for continuous duty.",
                fixes=[set_part(relay, "Take a continuous-duty one", continuous=True)],
            )


def _inverter(raised: Raised, load: Load) -> None:
    sized = raised.sized
    contacts = {contact for contact in sized.switching.contacts if contact[1] in ("main", "b")}
    switches = {part.id for part in raised.plan.parts if part.kind in ("switch", "relay")}
    opened = {contact for contact in contacts if contact[0] in switches}
    feeder = sized.topology.feeder_of.get(load.id)
    if feeder is None or load.id not in sized.switching.reach(contacts - opened, frozenset()):
        return
    run = sized.topology.runs[feeder]
    rated_a = next_rating(sized.demand.loads[load.id].peak_a)
    fields: dict[str, object] = {"kind": "switch", "name": f"{load.name} switch", "rated_a": rated_a}
    own = fed_end_fuse(raised, run)
    at_m = 0.2 + (own.distance_m if own is not None else 0.0)
    raised.on_part(
        "inverter-no-switch",
        load,
        what=f"No switch between the battery and {load.name}",
        mend="A switch in its positive cable, within reach.",
        fixes=insert(run, f"Put a {rated_a:g} A switch in {run.tag}", fields, at_m=at_m, near=fed_end(raised, run)),
    )


def _wiring_faults(raised: Raised) -> None:
    """A short made by wiring, and batteries of unlike voltage tied together, in any state."""
    plan, sized = raised.plan, raised.sized
    wiring = sized.wiring
    batteries = [part for part in plan.parts if isinstance(part, Battery)]
    if not batteries:
        return
    stands_v = _stands_v(raised, batteries)
    index = {run.id: at for at, run in enumerate(plan.runs)}
    seen: set[frozenset[tuple[str, str]]] = set()
    for state in plan.states:
        switched = sized.demand.switched[state.id]
        if switched.closed in seen:
            continue
        seen.add(switched.closed)
        carries = np.flatnonzero(wiring.closed(switched, index))
        a = np.array(wiring.circuit.conductor_from, dtype=np.int64)[carries]
        b = np.array(wiring.circuit.conductor_to, dtype=np.int64)[carries]
        _, island = islands(wiring.circuit.node_count, a, b)
        for battery in batteries:
            if island[wiring.pos[battery.id]] == island[wiring.neg[battery.id]]:
                raised.on_part(
                    "short-by-wiring",
                    battery,
                    what=f"The wires join both posts of {battery.name} ({state.name})",
                    mend="Look for a switch or a run that joins positive and negative.",
                )
        for pair in combinations(batteries, 2):
            # Said of the one that is not of the plan's volts.
            one, other = sorted(pair, key=lambda part: stands_v[part.id] != plan.nominal_v)
            volts = [stands_v[part.id] for part in (one, other)]
            if volts[0] != volts[1] and island[wiring.pos[one.id]] == island[wiring.pos[other.id]]:
                raised.on_part(
                    "sources-tied",
                    other,
                    what=f"{one.name} ({volts[0]:g} V) and {other.name} ({volts[1]:g} V) are tied ({state.name})",
                    mend="Keep systems of unlike voltage apart.",
                    first_v=float(volts[0]),
                    second_v=float(volts[1]),
                )


def _stands_v(raised: Raised, batteries: list[Battery]) -> dict[str, float]:
    """Nominal volts at the positive post of each battery: those below it in series added up. [V]"""
    below = {run.start.part: run.finish.part for run in raised.plan.runs if run.legs == "series"}
    own = {part.id: float(part.rated_v or raised.plan.nominal_v) for part in batteries}
    found = {}
    for name in own:
        volts, here, seen = own[name], name, {name}
        while here in below and below[here] in own and below[here] not in seen:
            here = below[here]
            seen.add(here)
            volts += own[here]
        found[name] = volts
    return found


def _dangling(raised: Raised) -> None:
    """Parts of the distribution nothing feeds."""
    live = raised.sized.switching.all_closed.live
    negatives = {end.part for run in raised.plan.runs if run.legs == "negative" for end in (run.start, run.finish)}
    # The capped end of a spare waits, and nothing is on it.
    waiting = {part.id for part in raised.plan.parts if isinstance(part, Joint) and part.form == "cap"}
    by_panels = {
        name
        for run in raised.plan.runs
        if raised.sized.topology.from_panel(run)
        for name in (run.start.part, run.finish.part)
    }
    for part in raised.plan.parts:
        if (
            part.kind in (*_FED_OTHERWISE, "load", "shunt", "chassis_point")
            or part.id in negatives | waiting | by_panels
        ):
            continue
        if part.id not in live and point(part.id, "bank_b") not in live:
            raised.on_part(
                "part-unfed",
                part,
                what=f"No battery feeds {part.name}",
                mend="Feed it, or remove it.",
            )
