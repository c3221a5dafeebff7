"""Which single thing explains what was read and what is said: every cause weighed by all readings together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from lucernis.core.circuit.answers import Floats
from lucernis.core.prove.causes import Cause, Change, causes_of, kind_label, kind_mend, kind_weight
from lucernis.core.prove.effect import Effect, effect
from lucernis.core.prove.expect import GHOST_FRAC, foresee, noise_sd
from lucernis.core.prove.frame import Frame, Reading
from lucernis.core.prove.living import Living, live
from lucernis.core.prove.situations import find_situation
from lucernis.core.prove.symptoms import Symptom, check_symptom, odds, situations_for
from lucernis.practice.tables import load_table

# Readings are believed as a t with so many degrees of freedom: one that was misread does not decide alone.
_BELIEF = 8.0
# The model itself is no better than this. [1]
_MODEL_FRAC = 0.01
# What a workshop found counts against so many finds of the table.
_TABLE_FINDS = 20.0
# Beyond this a single cause does not explain the readings: mean square of what is left, each by its spread.
EXPLAINS = 3.0
_FIRSTS = 10


@dataclass(frozen=True, slots=True)
class Taken:
    """A reading that was taken: its id, the situation, and what the meter said. [V], [A] or [Ω]"""

    reading: str
    situation: str
    value: float


@dataclass(frozen=True, slots=True)
class Beside:
    """What a reading should be under a verdict, beside what was taken; `sound` is what it should be with nothing
    wrong, `fits` whether taken and expected agree."""

    reading: str
    situation: str
    label: str
    unit: str
    taken: float
    expected: float
    sound: float
    fits: bool


@dataclass(frozen=True, slots=True)
class Suspect:
    """A cause with its share of all belief, the size of it that fits best, and its readings beside those taken."""

    id: str
    kind: str
    kind_label: str
    text: str
    size: str
    share: float
    subject: str
    part: str
    run: str
    mend: str
    prior: str
    beside: tuple[Beside, ...]


@dataclass(slots=True)
class Case:
    """Everything a ranking is made of: causes in every size, what they do to what was read, and their belief."""

    frame: Frame
    pairs: list[tuple[Cause, Change]]
    owner: np.ndarray
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
    finds: Mapping[str, int] = field(default_factory=dict)

    def by_cause(self) -> Floats:
        """Belief of each cause, shape (n_causes,), sum 1."""
        found: Floats = np.bincount(self.owner, weights=self.belief, minlength=len(self.causes))
        return found


UNITS = {"volts": "V", "amps": "A", "ohms": "Ω"}


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


def _likelihood(value: Floats, step: Floats, obs: Floats, covariance: Floats) -> tuple[Floats, Floats]:
    """Log-likelihood of every size of every cause, and what is left unexplained a reading, by its spread.

    `covariance` (n_pairs, n_readings, n_readings).
    """
    if not len(obs):
        return np.zeros(len(value)), np.zeros(len(value))
    lower = np.linalg.cholesky(covariance + step[:, :, None] * step[:, None, :])
    off = np.linalg.solve(lower, (value - obs)[:, :, None])[:, :, 0]
    square = (off**2).sum(axis=1)
    n = len(obs)
    log = -(_BELIEF + n) / 2 * np.log1p(square / _BELIEF)
    log -= np.log(np.diagonal(lower, axis1=1, axis2=2)).sum(axis=1)
    return log, square / n


def _moving(pairs: int, readings: int, parts: Sequence[tuple[list[int], Effect]]) -> Floats:
    """How sources and consumers move all readings together, shape (n_pairs, n_readings, n_unknowns that do)."""
    which = sorted({one for _, found in parts for one in found.unknowns})
    column = {one: k for k, one in enumerate(which)}
    out = np.zeros((pairs, readings, len(which)))
    for at, found in parts:
        if found.unknowns:
            columns = [column[one] for one in found.unknowns]
            held = np.where(found.floating[:, :, None], 0.0, found.slope)
            out[:, np.array(at)[:, None], np.array(columns)[None, :]] = held
    return out


def _steps(owner: np.ndarray, value: Floats) -> Floats:
    """Half of how far a reading moves from one size of a cause to the next: its spread within a size."""
    step = np.zeros_like(value)
    if len(value) > 1:
        same = owner[1:] == owner[:-1]
        move = np.where(same[:, None], value[1:] - value[:-1], 0.0)
        step[1:] += move / 2
        step[:-1] += move / 2
        ends = np.ones(len(value))
        inner = np.zeros(len(value), dtype=bool)
        inner[1:-1] = same[1:] & same[:-1]
        ends[~inner] = 2.0
        step *= ends[:, None]
    return step * 0.45


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
    volt), so their joint spread is taken from the slopes over all unknowns. Within a size a cause is spread to the next.
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
    obs = np.array([one.value for one in taken])
    unknowns = 2 * len(frame.rest_v) + len(frame.sized.wiring.consumers)
    value, sound = np.zeros((len(pairs), len(taken))), np.zeros(len(taken))
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
        drifting = found.floating & (np.abs(obs[at]) < ghost)
        value[:, at] = np.where(drifting, obs[at], np.where(found.floating, 0.0, found.value))
        parts.append((at, found))
        slope[at] = foreseen.slope
    noise = noise_sd(readings, obs)
    pieces = slope[:, : len(frame.ohm)]
    still = pieces @ pieces.T + np.diag(noise**2 + (_MODEL_FRAC * obs) ** 2 * (np.abs(obs) < 1.0) + 1e-12)
    moving = _moving(len(pairs), len(taken), parts)
    covariance = still + moving @ moving.transpose(0, 2, 1)
    log, left = _likelihood(value, _steps(owner, value), obs, covariance)
    weights = np.array([learned_weight(one.kind, one.weight, finds) for one in known])
    each = np.array([change.weight for change in changes])
    log += np.log(weights[owner] * each / np.bincount(owner, weights=each, minlength=len(known))[owner])
    for symptom in symptoms:
        log += np.log(odds(frame, symptom, livings, pairs))
    belief = np.exp(log - log.max())
    return Case(
        frame, pairs, owner, known, readings, list(taken), livings, sound, value, slope, noise, belief / belief.sum(),
        left, finds,
    )  # fmt: skip


def _living(frame: Frame, name: str, given: tuple[Cause, Change] | None) -> Living:
    situation = find_situation(list(frame.situations.values()), name)
    if given is None:
        return live(frame, situation)
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
        ohm[change.element] = (
            1e8 if change.open else ohm[change.element] * change.times + change.series_ohm
        )
    sources, loads = frame.sized.wiring.sources, frame.sized.wiring.consumers
    volts, inside, draw = np.zeros(len(sources)), np.ones(len(sources)), np.ones(len(loads))
    if change.source >= 0:
        volts[change.source], inside[change.source] = change.source_v, change.inside
    if change.load >= 0:
        draw[change.load] = max(change.draw, 1e-6)
    return live(frame, situation, element_ohm=ohm, source_v=volts, inside_factor=inside, draw_factor=draw)


def explains(case: Case) -> bool:
    """Whether the best single cause leaves no more of the readings than their spread."""
    if not case.taken:
        return True
    best = int(np.argmax(case.belief))
    return float(case.left[best]) <= EXPLAINS


@dataclass(frozen=True, slots=True)
class Two:
    """Two causes together with their share of belief among the pairs tried."""

    first: Suspect
    second: Suspect
    share: float


def two_at_once(case: Case, symptoms: Sequence[Symptom] = (), most: int = 3) -> list[Two]:
    """Two causes at once, for when one does not explain the readings.

    Parameters
    ----------
    case : Case
        Weighed for single causes.
    symptoms : sequence of Symptom
        What is said.
    most : int
        How many pairs at most.

    Returns
    -------
    list of Two
        Most likely first. The likely single causes are put into the circuit one after the other, in the size that fits
        best, and every cause is weighed besides.
    """
    found: list[tuple[float, Case, int]] = []
    by_pair = np.argsort(-case.belief, kind="stable")
    tried: dict[int, int] = {}
    # The first to try are those that leave least of the readings, whatever the others say.
    for k in [*by_pair[:200].tolist(), *np.argsort(case.left, kind="stable")[:200].tolist()]:
        tried.setdefault(int(case.owner[k]), k)
    firsts = sorted(tried.items(), key=lambda one: (float(case.left[one[1]]), one[1]))[:_FIRSTS]
    for _, k in firsts:
        cause, change = case.pairs[k]
        if cause.kind == "sound" or change.bridge[0] >= 0 or change.closes >= 0 or change.crossed:
            continue
        second = weigh(case.frame, case.taken, symptoms, finds=case.finds, given=(cause, change))
        best = int(np.argmax(second.belief))
        found.append((float(second.left[best]) - np.log(float(cause.weight)), second, k))
    found.sort(key=lambda one: (one[0], one[2]))
    told = []
    for worth, second, k in found[:most]:
        other = next((one for one in suspects(second, 2) if one.kind != "sound"), None)
        if other is not None:
            told.append((worth, _told(case, k), other))
    least = min((worth for worth, _, _ in told), default=0.0)
    weights = [float(np.exp(-len(case.taken) / 2 * (worth - least))) for worth, _, _ in told]
    return [
        Two(one, other, weight / sum(weights)) for weight, (_, one, other) in zip(weights, told, strict=True)
    ]


def _told(case: Case, k: int) -> Suspect:
    """A cause in one size, without readings: they are those of both together."""
    cause, change = case.pairs[k]
    return Suspect(
        cause.id, cause.kind, kind_label(cause.kind), cause.text, change.in_words, float(case.by_cause()[case.owner[k]]),
        cause.subject, cause.part, cause.run, kind_mend(cause.kind), prior_text(cause.kind, case.finds), (),
    )  # fmt: skip


def prior_text(kind: str, finds: Mapping[str, int]) -> str:
    """What the odds of a kind come from, in words."""
    total = sum(finds.values())
    own = finds.get(kind, 0)
    return f"{own} of this workshop's {total} finds, and practice" if total else "practice"


def suspects(case: Case, most: int = 8) -> list[Suspect]:
    """The most likely causes, most likely first.

    Parameters
    ----------
    case : Case
        Weighed.
    most : int
        How many at most.

    Returns
    -------
    list of Suspect
        Each in the size that fits best, with the readings expected under it beside those taken.
    """
    shares = case.by_cause()
    found = []
    for at in np.argsort(-shares, kind="stable")[:most].tolist():
        mine = np.flatnonzero(case.owner == at)
        best = int(mine[np.argmax(case.belief[mine])])
        cause, change = case.pairs[best]
        # Of sizes in a row the mean is told, as far as it is read.
        part = case.belief[mine] / max(float(case.belief[mine].sum()), 1e-300)
        expected = (part[:, None] * case.value[mine]).sum(axis=0)
        beside = []
        for k, one in enumerate(case.taken):
            reading = case.readings[k]
            wide = 3 * float(np.sqrt(case.spread[k] ** 2 + (case.slope[k] ** 2).sum()))
            within = float(np.abs(case.value[mine, k] - expected[k]).max()) if len(mine) > 1 else 0.0
            beside.append(
                Beside(one.reading, one.situation, reading.label, UNITS[reading.quantity], one.value,
                       float(expected[k]), float(case.sound[k]),
                       abs(one.value - float(expected[k])) <= wide + 0.2 * within)
            )  # fmt: skip
        found.append(
            Suspect(
                cause.id, cause.kind, kind_label(cause.kind), cause.text, change.in_words, float(shares[at]),
                cause.subject, cause.part, cause.run, kind_mend(cause.kind), prior_text(cause.kind, case.finds),
                tuple(beside),
            )
        )  # fmt: skip
    return found
