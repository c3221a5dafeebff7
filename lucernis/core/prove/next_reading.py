"""The reading to take next: the one that tells most for the work it takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats
from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.prove.covariance import MOST_SD, finite, solved
from lucernis.core.prove.effect import effect
from lucernis.core.prove.expect import foresee, noise_sd
from lucernis.core.prove.frame import Frame, Reading
from lucernis.core.prove.living import sound_living
from lucernis.core.prove.suspects import OHMS_SD, Case, log_ohms, moved_by, steps_between
from lucernis.core.prove.words import UNIT_OF, span_text
from lucernis.practice.tables import load_table

# Causes and sizes below this share of belief, and beyond so many, are left out of the reckoning.
_LEAST = 2e-4
_MOST_PAIRS = 160
_MOST_CAUSES = 14
_MOST_FULL = 40
_MOST_STATES = 8
_CONTACTS = ("switch", "relay", "isolator", "diode", "keyed_feed")
_NODES = ((-1.2247, 1 / 6), (0.0, 2 / 3), (1.2247, 1 / 6))
# Less than this is not worth a reading. Practice. [bit]
_LEAST_BITS = 0.1
# What a reading costs besides its own minutes: to think, to write down, to go there. Practice. [min]
_EACH_MIN = 1.0


@dataclass(frozen=True, slots=True)
class Next:
    """A reading worth taking: where, in which situation, what it tells [bit] and what it takes [min]."""

    reading: str
    situation: str
    situation_name: str
    to_make: str
    caution: str
    label: str
    unit: str
    red: str
    black: str
    part: str
    run: str
    bits: float
    minutes: float
    reach: str
    sound: float
    low: float
    high: float
    band: str


def effort_min(what: str) -> float:
    """Usual minutes of a kind of reading, reading_effort.csv (practice). [min]"""
    return float(load_table("reading_effort").find(what)["minutes"])


def _reach(frame: Frame, reading: Reading) -> str:
    """Whether a panel has to be opened for it."""
    topology = frame.sized.topology
    places = {one.id: one for one in frame.plan.places}
    ids = [reading.part] if reading.part else []
    if reading.run and not ids:
        run = topology.runs[reading.run]
        ids = [run.start.part, run.finish.part]
    if reading.quantity != "amps" and (reading.red is not None and reading.red.passed):
        ids = [frame.elements[reading.red.passed[-1]].part or ids[0]] if ids else ids
    found = [places[place].reach for one in ids if (place := topology.parts[one].place) in places]
    if not found:
        return "open"
    order = ("open", "panel", "closed")
    # A clamp goes where it is easier.
    return min(found, key=order.index) if reading.quantity == "amps" else max(found, key=order.index)


def minutes(frame: Frame, reading: Reading, situation: str, now: str) -> float:
    """What a reading takes from where one stands. [min]"""
    across = bool(reading.red is not None and reading.black is not None and reading.black.passed)
    found = effort_min("across" if across and reading.quantity == "volts" else reading.quantity)
    if situation != now:
        running = frame.situations[situation].state.engine_on
        found += effort_min("dead" if "dead" in (situation, now) else "engine" if running else "situation")
    reach = _reach(frame, reading)
    return found + (effort_min(reach) if reach != "open" else 0.0)


def offered(
    frame: Frame, runs: Sequence[str], parts: Sequence[str], ends_only: frozenset[str] = frozenset()
) -> list[Reading]:
    """Readings around some runs and parts: volts at every part, across every piece, amps in every leg, and ohms; along
    those of `ends_only` from end to end alone."""
    found: dict[str, Reading] = {}

    def put(reading: Reading) -> None:
        found.setdefault(reading.id, reading)

    wiring, topology = frame.sized.wiring, frame.sized.topology
    for part_id in parts:
        part = topology.parts[part_id]
        if part.kind in _CONTACTS:
            for name in ("out", "out_b"):
                if f"{part_id}:{name}" in wiring.pos:
                    put(frame.volts(f"+{part_id}", f"+{part_id}:{name}", f"volts across {part.name}", part=part_id))
        elif part.kind == "shunt":
            put(frame.volts(f"-{part_id}", f"-{part_id}:out", f"volts across {part.name}", part=part_id))
        elif part.kind not in ("chassis_point", "alternator") and part_id in wiring.pos:
            put(frame.volts(f"+{part_id}", f"-{part_id}", f"volts at {part.name}", part=part_id))
            if part.kind in ("load", "fuse_block", "busbar"):
                put(frame.ohms(f"+{part_id}", f"-{part_id}", f"ohms from + to − at {part.name}", part=part_id))
        if part.kind == "charger" and f"{part_id}:out" in wiring.pos:
            minus = f"-{part_id}:out" if f"{part_id}:out" in wiring.neg else f"-{part_id}"
            put(frame.volts(f"+{part_id}:out", minus, f"volts at the output of {part.name}", part=part_id))
            if f"{part_id}:pv" in wiring.pos:
                put(frame.volts(f"+{part_id}:pv", f"-{part_id}", f"volts of the panels at {part.name}", part=part_id))
    index = {run.id: k for k, run in enumerate(frame.plan.runs)}
    for run_id in runs:
        for letter in ("p", "n"):
            leg = frame.on_leg.get(2 * index[run_id] + (letter == "n"), ())
            if not leg:
                continue
            put(frame.amps(run_id, "p" if letter == "p" else "n"))
            tag = topology.runs[run_id].tag
            whole = f"volts along {tag} {'+' if letter == 'p' else '−'}, end to end"
            put(frame.volts(f"{run_id}:{letter}:0", f"{run_id}:{letter}:{len(leg)}", whole, run=run_id))
            for k, piece in enumerate(leg) if run_id not in ends_only else ():
                text = f"volts across {frame.elements[piece].label}"
                put(frame.volts(f"{run_id}:{letter}:{k}", f"{run_id}:{letter}:{k + 1}", text, run=run_id))
    return list(found.values())


def _trunks(frame: Frame) -> tuple[list[str], list[str]]:
    """Runs and parts where one looks first whatever is said: batteries, chargers and bars, what goes to them, and
    what several devices hang on. Halving begins there."""
    topology = frame.sized.topology
    some = ("battery", "charger", "busbar", "fuse_block", "shunt", "panel")
    parts = [part.id for part in frame.plan.parts if part.kind in some]
    runs = []
    for run in frame.plan.runs:
        kinds = {topology.parts[end.part].kind for end in (run.start, run.finish)}
        if kinds & {"battery", "charger"} or len(topology.behind.get(run.id, ())) > 1:
            runs.append(run.id)
    return runs, parts


def _around(case: Case) -> tuple[list[str], list[str], frozenset[str]]:
    """Runs and parts the likely causes are at, what leads to them, and where one looks first; and of the runs those
    that are there for the last alone: their pieces come once something is likely in them."""
    frame, topology = case.frame, case.frame.sized.topology
    shares = case.by_cause()
    first_runs, first_parts = _trunks(frame)
    runs: dict[str, None] = {}
    parts: dict[str, None] = dict.fromkeys(first_parts)
    for at in np.argsort(-shares, kind="stable")[:_MOST_CAUSES].tolist():
        cause = case.causes[at]
        if cause.run:
            runs |= dict.fromkeys((cause.run, *cause.beside))
        if cause.part:
            parts[cause.part] = None
            fed = topology.feeder_of.get(cause.part)
            if fed is not None:
                runs[fed] = None
    for run_id in list(runs):
        run = topology.runs[run_id]
        parts |= dict.fromkeys((run.start.part, run.finish.part))
        before = topology.feeder_of.get(topology.start_of.get(run_id, ""))
        if before is not None:
            parts |= dict.fromkeys((topology.runs[before].start.part,))
    for one in case.readings:
        if one.part:
            parts[one.part] = None
    for known in list(parts):
        # Contacts on the way to it: one lead on either side tells at once.
        fed = topology.feeder_of.get(known)
        while fed is not None:
            start = topology.start_of[fed]
            part = topology.parts.get(part_id_of(start))
            if part is not None and part.kind in _CONTACTS:
                parts[part.id] = None
            fed = topology.feeder_of.get(start)
    parts |= dict.fromkeys(frame.sized.wiring.sources)
    trunks = [one for one in first_runs if one not in runs]
    return [*runs, *trunks], [one for one in parts if one in topology.parts], frozenset(trunks)


def _situations(case: Case) -> list[str]:
    """Situations worth reading in: those of the readings, of the symptoms, and where the likely causes show."""
    known = case.frame.situations
    found = list(dict.fromkeys([one.situation for one in reversed(case.taken)] + list(case.livings)))
    shares = case.by_cause()
    for at in np.argsort(-shares, kind="stable")[:4].tolist():
        part = case.causes[at].part
        loads = case.frame.sized.topology.behind.get(case.causes[at].run, (part,))
        found += [f"load:{one}" for one in loads[:1]]
    return [one for one in dict.fromkeys([*found, "rest", "dead", _heaviest(case.frame)]) if one in known][
        :_MOST_STATES
    ]


def _heaviest(frame: Frame) -> str:
    """The situation in which one device draws most: what lies on the battery's way shows best there."""
    circuit, consumers = frame.sized.wiring.circuit, frame.sized.wiring.consumers
    nominal_v = float(frame.plan.nominal_v)
    watts = {
        f"load:{name}": {"constant_power": value, "constant_current": value * nominal_v}.get(kind, nominal_v**2 / value)
        for name, kind, value in zip(consumers, circuit.load_kind, circuit.load_value, strict=True)
        if f"load:{name}" in frame.situations
    }
    return max(watts, key=lambda one: watts[one], default="rest")


def next_readings(case: Case, most: int = 3, *, now: str | None = None) -> list[Next]:
    """Readings that decide most, by expected information against effort.

    Parameters
    ----------
    case : Case
        Weighed.
    most : int
        How many at most.
    now : str, optional
        The situation that is made just now; that of the last reading by default.

    Returns
    -------
    list of Next
        Best first; none where nothing would tell more.

    Notes
    -----
    ``I = H(cause) − E[H(cause | reading)]`` over the likely causes, the reading spread by the meter and by what is not
    known of the circuit once the readings so far are known; three points of Gauss and Hermite for each. Divided by
    minutes.
    """
    frame = case.frame
    now = now or (case.taken[-1].situation if case.taken else "rest")
    keep = np.flatnonzero(case.belief > _LEAST)
    keep = keep[np.argsort(-case.belief[keep], kind="stable")][:_MOST_PAIRS]
    belief = case.belief[keep] / case.belief[keep].sum()
    _, cause = np.unique(case.owner[keep], return_inverse=True)
    groups = np.zeros((int(cause.max()) + 1, len(keep)))
    groups[cause, np.arange(len(keep))] = 1.0
    start = _entropy(groups @ belief)
    if start < _LEAST_BITS:
        return []
    # Every size with those next to it: what was read says where between them it is.
    near = np.unique(np.clip(np.concatenate([keep - 1, keep, keep + 1]), 0, len(case.pairs) - 1))
    own, near_owner = np.searchsorted(near, keep), case.owner[near]
    changes, pulled = [case.pairs[k][1] for k in near.tolist()], _pulled(case, keep)
    every = offered(frame, *_around(case))
    done = {(one.reading, one.situation) for one in case.taken}
    found: list[tuple[float, Next]] = []
    for name in _situations(case):
        here = case.livings.get(name) or sound_living(frame, name)
        some = [one for one in every if (one.quantity == "ohms") == (name == "dead") and (one.id, name) not in done]
        if not some:
            continue
        foreseen, moved = foresee(here, some), effect(here, some, changes, slopes=True)
        value, floating = finite(moved.value), moved.floating[own]
        steps = steps_between(near_owner, near, value)[own]
        value = value[own] + _as_read(case, keep, pulled, foreseen.slope, moved_by(moved, case.moves)[own], steps)
        value = finite(np.where(floating, 0.0, value))
        sd, meter = _spread_left(case, foreseen.slope), noise_sd(some, foreseen.value)
        # Where the likely causes hardly differ nothing is told: the others are reckoned in full.
        mean = belief @ value
        apart = (belief @ (value - mean) ** 2) / (meter**2 + sd**2)
        for k in np.argsort(-apart, kind="stable")[:_MOST_FULL].tolist():
            one = some[k]
            noise = float(np.hypot(meter[k], sd[k]))
            if one.quantity == "ohms":
                # Ohms above a megohm all read the same: nothing.
                value[:, k], noise = log_ohms(value[:, k]), OHMS_SD
            bits = start - _left(value[:, k], noise, belief, groups)
            work = minutes(frame, one, name, now)
            if bits > _LEAST_BITS:
                situation = frame.situations[name]
                low, high = float(foreseen.low[k]), float(foreseen.high[k])
                told = Next(
                    one.id, name, situation.name, situation.to_make, situation.caution, one.label,
                    UNIT_OF[one.quantity],
                    one.red.label if one.red is not None else "", one.black.label if one.black is not None else "",
                    one.part, one.run, bits, work, _reach(frame, one), float(foreseen.value[k]),
                    low, high if np.isfinite(high) else 1e9, span_text(low, high, UNIT_OF[one.quantity]),
                )  # fmt: skip
                found.append((-bits / (work + _EACH_MIN), told))
    found.sort(key=lambda one: (one[0], one[1].reading))
    return [one for _, one in found[:most]]


def _pulled(case: Case, keep: NDArray[np.int64]) -> Floats:
    """What the readings so far leave unexplained under some causes, by their joint spread, shape (n, n_taken)."""
    least_sd = np.sqrt(case.spread**2 + 1e-12)
    off = case.seen - case.value[keep]
    found = [solved(case.covariance[k], off[j], least_sd) for j, k in enumerate(keep.tolist())]
    return np.array(found).reshape(len(keep), len(case.taken))


def _as_read(
    case: Case, keep: NDArray[np.int64], pulled: Floats, slope: Floats, moving: Floats, steps: Floats
) -> Floats:
    """How far the readings so far move what is expected of further ones under each cause, shape (n, n_readings).

    What was read once of a battery's volts, or of the size of a fault, is known wherever it shows again: asking for it
    twice tells nothing.
    """
    if not len(case.taken):
        return np.zeros_like(steps)
    pieces = len(case.frame.ohm)
    still = finite(slope, MOST_SD)[:, :pieces] @ case.slope[:, :pieces].T
    cross = still + np.einsum("kru,ktu->krt", moving, case.moving[keep])
    cross += steps[:, :, None] * case.step[keep][:, None, :]
    found: Floats = np.einsum("krt,kt->kr", cross, pulled)
    return found


def _entropy(share: Floats) -> float:
    """Of shares that sum to 1. [bit]"""
    some = share[share > 1e-12]
    return float(-(some * np.log2(some)).sum())


def _spread_left(case: Case, slope: Floats) -> Floats:
    """Spread of further readings by what is not known of the circuit, once those so far are known."""
    slope = finite(slope, MOST_SD)
    own = (slope**2).sum(axis=1)
    if len(case.taken):
        covariance = case.slope @ case.slope.T + np.diag(case.spread**2 + 1e-12)
        shared = slope @ case.slope.T
        own = own - np.einsum("ij,ij->i", shared, solved(covariance, shared.T, np.sqrt(case.spread**2 + 1e-12)).T)
    found: Floats = np.sqrt(np.maximum(own, 0.0))
    return found


def _left(value: Floats, noise: float, belief: Floats, groups: Floats) -> float:
    """Doubt that is left on the mean after a reading. [bit]"""
    total = 0.0
    for offset, weight in _NODES:
        seen = value + offset * noise
        close = -0.5 * ((seen[:, None] - value[None, :]) / noise) ** 2
        after = belief * np.exp(np.clip(close, -60, 0)) + 1e-12 * belief
        after /= after.sum(axis=1, keepdims=True)
        by_cause = after @ groups.T
        each = -(by_cause * np.log2(np.maximum(by_cause, 1e-15))).sum(axis=1)
        total += weight * float(belief @ each)
    return total
