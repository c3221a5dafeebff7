"""What people say of a vehicle, as far as it speaks for one cause or another."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucernis.core.circuit.answers import Floats
from lucernis.core.prove.cause import Cause, Change
from lucernis.core.prove.effect import effect
from lucernis.core.prove.frame import Frame
from lucernis.core.prove.living import Living
from lucernis.errors import UnknownRow
from lucernis.plan.model import Battery, Load, Shunt
from lucernis.practice.tables import load_table

SymptomKind = Literal["weak", "cuts_out", "comes_and_goes", "dead", "glows", "blows", "warm", "miscounts", "flat"]
# Even a cause that does not do it may be the one: people say things wrongly.
_LEAST = 0.001
_MOST = 0.95
# Watts in a joint that a hand feels, volts lost that a person notices, and volts from which a lamp glows. Practice.
_WARM_W = 1.5
_WEAK_FRAC = 0.06
_GLOWS_FRAC = 0.15


@dataclass(frozen=True, slots=True)
class Symptom:
    """What is said of a part or a run."""

    kind: SymptomKind
    subject: str


def symptom_label(kind: SymptomKind) -> str:
    """Name of a symptom, symptoms.csv."""
    return load_table("symptoms").find(kind)["label"]


def _soft(above: Floats, width: float) -> Floats:
    """From `_LEAST` to `_MOST` as something goes from below 0 to above it."""
    found: Floats = _LEAST + (_MOST - _LEAST) / (1 + np.exp(-np.clip(above / width, -40, 40)))
    return found


def check_symptom(frame: Frame, symptom: Symptom) -> None:
    """Whether a symptom is said of something it can be said of.

    Raises
    ------
    UnknownRow
        If its subject is none of that kind.
    """
    parts, runs = frame.sized.topology.parts, frame.sized.topology.runs
    part = parts.get(symptom.subject)
    fits = {
        "blows": symptom.subject in runs,
        "warm": part is not None or symptom.subject in runs,
        "miscounts": isinstance(part, Shunt),
        "flat": isinstance(part, Battery),
    }.get(symptom.kind, isinstance(part, Load))
    if not fits:
        of = load_table("symptoms").find(symptom.kind)["of"]
        raise UnknownRow(
            f"no {of} {symptom.subject!r}", field="subject", value=symptom.subject, allowed=f"the id of a {of}"
        )


def situations_for(frame: Frame, symptom: Symptom) -> tuple[str, ...]:
    """Situations a symptom is judged in."""
    load, known = f"load:{symptom.subject}", frame.situations
    states = [one for one in known if one.startswith("state:")]
    with_it = tuple(one for one in states if symptom.subject in known[one].on)
    wanted: tuple[str, ...] = {
        "weak": (load,),
        "dead": (load,),
        "cuts_out": with_it or (load,),
        "glows": ("isolated", "rest"),
        "flat": ("rest", "engine", "shore", "sun"),
        "warm": tuple(states),
    }.get(symptom.kind, ())
    return tuple(one for one in wanted if one in known)


def _volts_at(frame: Frame, living: Living, load: str, changes: Sequence[Change]) -> tuple[float, Floats]:
    """Volts at a load, sound and under every change. [V]"""
    reading = frame.volts(f"+{load}", f"-{load}", part=load)
    circuit, wiring = frame.sized.wiring.circuit, frame.sized.wiring
    found = effect(living, [reading], changes)
    at = wiring.consumers.index(load) if load in wiring.consumers else -1
    sound = float(living.node_v[circuit.load_pos[at]] - living.node_v[circuit.load_neg[at]]) if at >= 0 else 0.0
    return sound, np.where(found.floating[:, 0], 0.0, found.value[:, 0])


def odds(
    frame: Frame,
    symptom: Symptom,
    livings: Mapping[str, Living],
    pairs: Sequence[tuple[Cause, Change]],
) -> Floats:
    """How likely something is said under each cause in each size, shape (n_pairs,). [1]

    Notes
    -----
    Weak, cuts out, dead and glowing by the volts at the device as reckoned; a flat battery by what charges and drains
    it; a warm joint by its own watts; fuses by what is behind them (practice).
    """
    changes = [change for _, change in pairs]
    parts = frame.sized.topology.parts
    nominal_v = float(frame.plan.nominal_v)
    if symptom.kind == "comes_and_goes":
        return _goes(frame, symptom.subject, pairs)
    if symptom.kind == "miscounts":
        mine = [_MOST if cause.kind == "shunt_bypassed" and cause.part == symptom.subject else _LEAST
                for cause, _ in pairs]  # fmt: skip
        return np.array(mine)
    if symptom.kind == "blows":
        return _blows(frame, symptom.subject, pairs)
    found = np.full(len(pairs), _LEAST)
    for name in situations_for(frame, symptom):
        living = livings[name]
        if symptom.kind == "flat":
            found = np.maximum(found, _flat(frame, symptom.subject, living, changes))
            continue
        if symptom.kind == "warm":
            found = np.maximum(found, _warm(frame, symptom.subject, living, pairs))
            continue
        sound, volts = _volts_at(frame, living, symptom.subject, changes)
        if symptom.kind == "glows" and symptom.subject in living.situation.switched.live:
            # It has volts there by right: only its own switch can be meant.
            continue
        if symptom.kind == "weak":
            weak = _soft((1 - _WEAK_FRAC) * sound - volts, 0.015 * nominal_v)
            found = np.maximum(found, np.where(volts > 0.3 * sound, weak, 3 * _LEAST))
        elif symptom.kind == "cuts_out":
            part = parts[symptom.subject]
            least = (part.min_v if isinstance(part, Load) else None) or 0.9 * nominal_v
            found = np.maximum(found, _soft(least + 0.01 * nominal_v - volts, 0.02 * nominal_v))
        elif symptom.kind == "dead":
            found = np.maximum(found, _soft(0.4 * sound - volts, 0.02 * nominal_v))
        else:
            found = np.maximum(found, _soft(volts - _GLOWS_FRAC * nominal_v, 0.02 * nominal_v))
    own = {"dead": ("load_dead", "crossed"), "weak": ("load_heavy",), "cuts_out": ("load_heavy",),
           "glows": ("load_stuck",)}.get(symptom.kind, ())  # fmt: skip
    for k, (cause, _) in enumerate(pairs):
        if cause.kind == "sound":
            found[k] = _LEAST / 4
        if cause.kind in own and cause.part == symptom.subject:
            found[k] = max(found[k], 0.6)
    return found


# What is loose enough to come and go resists by more than this while it holds. Practice. [Ω]
_LOOSE_OHM = 0.05
_LOOSE_KINDS = ("joint", "earth", "fuse_contact", "contact_bad", "wire_chafed")


def _goes(frame: Frame, load: str, pairs: Sequence[tuple[Cause, Change]]) -> Floats:
    """What comes and goes at a device: something loose on the way to it, seldom what also shows while it holds."""
    way, here = set[str](), frame.sized.topology.feeder_of.get(load)
    while here is not None and here not in way:
        way.add(here)
        here = frame.sized.topology.feeder_of.get(frame.sized.topology.start_of.get(here, ""))
    found = np.full(len(pairs), _LEAST / 4)
    for k, (cause, change) in enumerate(pairs):
        if cause.kind == "comes_and_goes" and cause.part == load:
            found[k] = _MOST
        elif cause.kind in _LOOSE_KINDS and change.series_ohm > _LOOSE_OHM:
            found[k] = 0.3 if cause.run in way or cause.part == load else _LEAST
    return found


def _blows(frame: Frame, run_id: str, pairs: Sequence[tuple[Cause, Change]]) -> Floats:
    """What blows the fuse of a run: a short or a leak behind it, a device behind it that draws too much, the wrong
    fuse."""
    topology = frame.sized.topology
    behind = set(topology.behind.get(run_id, ()))
    under = {run_id}
    for name in behind:
        here = topology.feeder_of.get(name)
        while here is not None and here != run_id:
            under.add(here)
            here = topology.feeder_of.get(topology.start_of.get(here, ""))
    found = np.full(len(pairs), _LEAST / 2)
    at_run = next(k for k, run in enumerate(frame.plan.runs) if run.id == run_id)
    for k, (cause, change) in enumerate(pairs):
        if cause.kind == "wire_short" and change.element >= 0:
            if frame.elements[change.element].run == run_id:
                found[k] = _MOST
        elif cause.kind == "load_heavy" and cause.subject in behind:
            found[k] = 0.5 if change.draw >= 2 else 0.25
        elif cause.kind == "fuse_small" and cause.run == run_id:
            found[k] = 0.7
        elif cause.kind == "exchanged" and any(one == 2 * at_run for one in change.exchanged):
            found[k] = 0.6
        elif cause.kind == "wire_leak" and cause.run in under:
            found[k] = 0.2
        elif cause.kind == "fuse_blown" and cause.run == run_id:
            # That it has blown is seen; why, is not.
            found[k] = 0.3
        elif cause.kind in ("fuse_contact", "joint") and cause.run == run_id and not change.open:
            found[k] = 0.15
    return found


def _flat(frame: Frame, battery: str, living: Living, changes: Sequence[Change]) -> Floats:
    """A drain while everything is off, or less charge than there should be."""
    sources = frame.sized.wiring.sources
    if battery not in sources:
        return np.full(len(changes), _LEAST)
    at = sources.index(battery)
    reading = frame.volts(f"+{battery}", f"-{battery}", part=battery)
    volts = effect(living, [reading], changes).value[:, 0]
    own = np.array([one.source == at for one in changes], dtype=bool)
    amps = (float(living.sources.volts[at]) - volts) / float(living.sources.ohm[at])
    if living.situation.id == "rest":
        heavy = _soft(amps - 0.15, 0.04)
        return np.where(own, 0.7, heavy)
    sound = float(living.source_a[at])
    if sound > -1.0:
        return np.full(len(changes), _LEAST)
    return np.where(own, 0.5, _soft(amps - 0.5 * sound, 0.1 * abs(sound)))


def _warm(frame: Frame, subject: str, living: Living, pairs: Sequence[tuple[Cause, Change]]) -> Floats:
    """Watts in a bad piece at a part or in a run."""
    found = np.full(len(pairs), _LEAST)
    for k, (cause, change) in enumerate(pairs):
        if change.element >= 0 and subject in (cause.part, cause.run) and not change.open:
            ohm = float(living.conductor_ohm[frame.of[change.element]])
            more = change.series_ohm + (change.times - 1) * float(living.element_ohm[change.element])
            amps = float(living.conductor_a[frame.of[change.element]])
            # What starves its load warms less.
            amps *= 1 / (1 + more / max(ohm + _beyond_ohm(living, change.element), 1e-9))
            watts = np.array([amps**2 * more])
            found[k] = float(_soft(np.log(np.maximum(watts, 1e-9) / _WARM_W), 0.5)[0])
        elif cause.kind == "load_heavy" and cause.part == subject:
            found[k] = 0.3
    return found


def _beyond_ohm(living: Living, element: int) -> float:
    """What stands in row with a piece besides its own leg. [Ω]"""
    circuit, c = living.frame.sized.wiring.circuit, int(living.frame.of[element])
    a, b, z = circuit.conductor_from[c], circuit.conductor_to[c], living.inverse_ohm
    seen = float(z[a, a] - 2 * z[a, b] + z[b, b])
    ohm = float(living.conductor_ohm[c])
    left = 1 / max(seen, 1e-12) - 1 / ohm
    return 1 / left if left > 1e-12 else 1e9
