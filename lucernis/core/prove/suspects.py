"""Which single thing explains what was read and what is said: every cause weighed by all readings together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats
from lucernis.core.prove.cause import OFF_TIMES, Cause, Change, kind_label, kind_weight, source_moved
from lucernis.core.prove.causes import causes_of
from lucernis.core.prove.covariance import MOST_SD, finite, log_and_squares
from lucernis.core.prove.effect import Effect, effect
from lucernis.core.prove.expect import GHOST_FRAC, foresee, noise_sd
from lucernis.core.prove.frame import Frame, Reading
from lucernis.core.prove.living import Living, live, sound_living
from lucernis.core.prove.situations import find_situation
from lucernis.core.prove.symptoms import Symptom, check_symptom, odds, situations_for
from lucernis.practice.tables import load_table

# Readings are believed as a t with so many degrees of freedom: one that was misread does not decide alone.
_BELIEF = 8.0
# The model itself is no better than this. [1]
_MODEL_FRAC = 0.01
# What a workshop found counts against so many finds of the table.
_TABLE_FINDS = 20.0
# A source stands no higher, as a share of nominal volts. Practice.
_ACROSS_FRAC = 1.25
# Within a size a cause spreads over so much of the step to the next.
STEP_SD = 0.45


@dataclass(frozen=True, slots=True)
class Taken:
    """A reading that was taken: its id, the situation, and what the meter said. [V], [A] or [Ω]"""

    reading: str
    situation: str
    value: float


@dataclass(slots=True)
class Case:
    """Everything a ranking is made of: causes in every size, what they do to what was read, and their belief."""

    frame: Frame
    pairs: list[tuple[Cause, Change]]
    owner: NDArray[np.int64]
    causes: list[Cause]
    readings: list[Reading]
    taken: list[Taken]
    livings: dict[str, Living]
    sound: Floats
    value: Floats
    slope: Floats
    spread: Floats
    belief: Floats
    left: Floats
    covariance: Floats
    moving: Floats
    moves: tuple[int, ...]
    seen: Floats
    step: Floats
    finds: Mapping[str, int] = field(default_factory=dict)

    def by_cause(self) -> Floats:
        """Belief of each cause, shape (n_causes,), sum 1."""
        found: Floats = np.bincount(self.owner, self.belief, len(self.causes)).astype(np.float64)
        return found


def log_ohms(ohm: Floats) -> Floats:
    """Ohms as a meter tells them apart: by their size, nothing below its last digit, nothing above a megohm."""
    found: Floats = np.log10(np.clip(ohm, 0.1, 1e6))
    return found


# Ohms are told apart by so much of a decade.
OHMS_SD = 0.12


def learned_weight(kind: str, weight: float, finds: Mapping[str, int]) -> float:
    """Odds of a kind once what this workshop found is counted with the table.

    Parameters
    ----------
    kind : str
        Kind of cause.
    weight : float
        Odds by the table. [1]
    finds : mapping of str to int
        How often each kind was confirmed.

    Returns
    -------
    float
        ``w · (N0 s + n) / ((N0 + N) s)`` with the kind's share s of the table and N0 = 20. [1]
    """
    total = sum(finds.values())
    if total == 0:
        return weight
    table = [float(row["weight"]) for row in load_table("fault_priors").rows if row["kind"] != "sound"]
    share = kind_weight(kind) / sum(table)
    return weight * (_TABLE_FINDS * share + finds.get(kind, 0)) / ((_TABLE_FINDS + total) * share)


def _likelihood(value: Floats, obs: Floats, covariance: Floats, least_sd: Floats) -> tuple[Floats, Floats]:
    """Log-likelihood of every size of every cause, and what is left unexplained a reading, by its spread.

    `covariance` (n_pairs, n_readings, n_readings), `least_sd` (n_readings,).
    """
    if not len(obs):
        return np.zeros(len(value)), np.zeros(len(value))
    half, square = log_and_squares(value - obs, covariance, least_sd)
    n = len(obs)
    log = -(_BELIEF + n) / 2 * np.log1p(square / _BELIEF) - half
    return log, square / n


def moved_by(found: Effect, which: Sequence[int]) -> Floats:
    """How some unknowns, sources and consumers, move readings under every change, shape (n_changes, n_readings,
    n_which)."""
    out = np.zeros((*found.value.shape, len(which)))
    own, into = {one: k for k, one in enumerate(found.unknowns)}, {one: k for k, one in enumerate(which)}
    both = [one for one in which if one in own]
    if both:
        moves = found.slope[:, :, [own[one] for one in both]]
        held = finite(np.where(found.floating[:, :, None], 0.0, moves), MOST_SD)
        out[:, :, [into[one] for one in both]] = held
    return out


def steps_between(owner: NDArray[np.int64], at: NDArray[np.int64], value: Floats) -> Floats:
    """Half of how far a reading moves from one size of a cause to the next: its spread within a size.

    Parameters
    ----------
    owner : ndarray, shape (n,)
        Cause of each size.
    at : ndarray, shape (n,)
        Which of all sizes they are, rising: only those next to one another are compared.
    value : ndarray, shape (n, n_readings)
        Readings under each.

    Returns
    -------
    ndarray
        As `value`, one standard deviation.
    """
    step = np.zeros_like(value)
    if len(value) > 1:
        same = (owner[1:] == owner[:-1]) & (at[1:] == at[:-1] + 1)
        move = np.where(same[:, None], value[1:] - value[:-1], 0.0)
        step[1:] += move / 2
        step[:-1] += move / 2
        ends = np.ones(len(value))
        inner = np.zeros(len(value), dtype=bool)
        inner[1:-1] = same[1:] & same[:-1]
        ends[~inner] = 2.0
        step *= ends[:, None]
    return step * STEP_SD


def weigh(
    frame: Frame,
    taken: Sequence[Taken],
    symptoms: Sequence[Symptom] = (),
    *,
    finds: Mapping[str, int] | None = None,
    causes: Sequence[Cause] | None = None,
    given: tuple[Cause, Change] | None = None,
) -> Case:
    """Weigh every single cause by readings and symptoms.

    Parameters
    ----------
    frame : Frame
        The plan.
    taken : sequence of Taken
        What was read.
    symptoms : sequence of Symptom
        What is said.
    finds : mapping of str to int, optional
        Kinds of causes this workshop confirmed, and how often.
    causes : sequence of Cause, optional
        Those to weigh; all by default.
    given : tuple of Cause and Change, optional
        Something that is wrong besides, already put into the circuit.

    Returns
    -------
    Case
        Belief sums to 1 over all causes, that nothing is wrong among them.

    Raises
    ------
    UnknownRow
        If a reading, a situation or a subject is none of this plan.

    Notes
    -----
    All readings together: what is not known of a sound circuit moves them together (volts of a battery move every
    volt), so their joint spread is taken from the slopes over all unknowns. Each size reaches to the next.
    """
    for symptom in symptoms:
        check_symptom(frame, symptom)
    finds = finds or {}
    known = list(causes) if causes is not None else causes_of(frame)
    nothing = Cause("sound", "sound", kind_label("sound"), "", "", "", kind_weight("sound"), (Change(),))
    known = [nothing, *known]
    pairs = [(cause, change) for cause in known for change in cause.changes]
    owner = np.array([k for k, cause in enumerate(known) for _ in cause.changes], dtype=np.int64)
    changes = [change for _, change in pairs]
    wanted = dict.fromkeys([one.situation for one in taken])
    for symptom in symptoms:
        wanted |= dict.fromkeys(situations_for(frame, symptom))
    livings = {name: _living(frame, name, given) for name in wanted}
    readings = [frame.reading(one.reading) for one in taken]
    obs = np.array([abs(one.value) if one.reading.startswith("amps") else one.value for one in taken])
    unknowns = 2 * len(frame.rest_v) + len(frame.sized.wiring.consumers) + 1
    value, sound = np.zeros((len(pairs), len(taken))), np.zeros(len(taken))
    anywhere = np.zeros((len(pairs), len(taken)))
    parts: list[tuple[list[int], Effect]] = []
    slope = np.zeros((len(taken), len(frame.ohm) + unknowns))
    ghost = GHOST_FRAC * frame.plan.nominal_v
    for name, living in livings.items():
        at = [k for k, one in enumerate(taken) if one.situation == name]
        if not at:
            continue
        here = [readings[k] for k in at]
        foreseen = foresee(living, here)
        sound[at] = np.where(foreseen.floating, 0.0, foreseen.value)
        found = effect(living, here, changes, slopes=True)
        # Across an open contact whose far side nothing holds a meter shows anything up to the source's own volts.
        # So does what hangs on a battery that has let go.
        let_go = np.array([one.source >= 0 and one.inside >= OFF_TIMES for one in changes], dtype=bool)[:, None]
        far_up = let_go | (np.abs(found.value) >= ghost)
        most = np.where(far_up, _ACROSS_FRAC * frame.plan.nominal_v, ghost)
        drifting = found.floating & (np.abs(obs[at]) < most)
        anywhere[:, at] = np.where(drifting, most, 0.0)
        found.value[:] = finite(found.value)
        value[:, at] = np.where(drifting, obs[at], np.where(found.floating, 0.0, found.value))
        parts.append((at, found))
        slope[at] = finite(foreseen.slope, MOST_SD)
    noise = noise_sd(readings, obs)
    ohms = np.array([one.quantity == "ohms" for one in readings], dtype=bool)
    seen = np.where(ohms, log_ohms(obs), obs)
    value[:, ohms], noise[ohms], slope[ohms] = log_ohms(value[:, ohms]), OHMS_SD, 0.0
    pieces = slope[:, : len(frame.ohm)]
    still = pieces @ pieces.T + np.diag(noise**2 + (_MODEL_FRAC * seen) ** 2 * (np.abs(seen) < 1.0) + 1e-12)
    # Only what moves at all in what was read is kept: on a large plan nearly everything is off.
    which = tuple(sorted({one for _, found in parts for one in found.unknowns}))
    moving = np.zeros((len(pairs), len(taken), len(which)))
    for at, found in parts:
        moving[:, at] = moved_by(found, which)
    covariance = still + moving @ moving.transpose(0, 2, 1)
    step = steps_between(owner, np.arange(len(owner)), value)
    covariance = covariance + step[:, :, None] * step[:, None, :]
    log, left = _likelihood(value, seen, covariance, np.sqrt(noise**2 + 1e-12))
    # What may show anything explains nothing well: as likely here as anywhere up to there.
    log -= np.log(np.maximum(anywhere / (2.5 * noise), 1.0)).sum(axis=1)
    weights = np.array([learned_weight(one.kind, one.weight, finds) for one in known])
    each = np.array([change.weight for change in changes])
    log += np.log(weights[owner] * each / np.bincount(owner, weights=each, minlength=len(known))[owner])
    for symptom in symptoms:
        log += np.log(odds(frame, symptom, livings, pairs))
    belief = np.exp(log - log.max())
    return Case(
        frame, pairs, owner, known, readings, list(taken), livings, sound, value, slope, noise, belief / belief.sum(),
        left, covariance, moving, which, seen, step, finds,
    )  # fmt: skip


def _living(frame: Frame, name: str, given: tuple[Cause, Change] | None) -> Living:
    if given is None:
        return sound_living(frame, name)
    return live_with(frame, name, given[1])


def live_with(frame: Frame, name: str, change: Change) -> Living:
    """A situation with something wrong in it, solved whole.

    Parameters
    ----------
    frame : Frame
        The plan.
    name : str
        The situation.
    change : Change
        What is wrong: pieces, sources and consumers; bridges and exchanged wires are left out.

    Returns
    -------
    Living
        As `live` gives it.
    """
    situation = find_situation(list(frame.situations.values()), name)
    ohm = frame.ohm.copy()
    if change.element >= 0:
        ohm[change.element] = 1e8 if change.open else ohm[change.element] * change.times + change.series_ohm
    if change.also >= 0:
        ohm[change.also] *= change.times
    sources, loads = frame.sized.wiring.sources, frame.sized.wiring.consumers
    volts, inside, draw = np.zeros(len(sources)), np.ones(len(sources)), np.ones(len(loads))
    if change.source >= 0:
        volts[change.source], inside[change.source] = source_moved(frame, situation, change)
    if change.load >= 0:
        draw[change.load] = max(change.draw, 1e-6)
    return live(frame, situation, element_ohm=ohm, source_v=volts, inside_factor=inside, draw_factor=draw)
