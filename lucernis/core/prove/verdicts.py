"""What a ranking says: the likely causes with their readings beside those taken, and pairs where one does not do."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lucernis.core.prove.cause import Change, kind_label, kind_mend, ohm_text
from lucernis.core.prove.cause_pieces import STEP_RATIO
from lucernis.core.prove.covariance import solved
from lucernis.core.prove.suspects import STEP_SD, Case, Taken, log_ohms, weigh
from lucernis.core.prove.symptoms import Symptom
from lucernis.core.prove.words import UNIT_OF, small

# Beyond this a single cause does not explain the readings: mean square of what is left, each by its spread.
EXPLAINS = 3.0
_FIRSTS = 10
# Taken and expected agree within so many of the meter's own spreads.
_FITS = 3.5


@dataclass(frozen=True, slots=True)
class Beside:
    """What a reading should be under a verdict, beside what was taken; `sound` is what it should be with nothing
    wrong, `fits` whether taken and expected agree."""

    reading: str
    situation: str
    state: str
    label: str
    unit: str
    taken: float
    expected: float
    sound: float
    fits: bool
    taken_text: str
    expected_text: str
    sound_text: str


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


def prior_text(kind: str, finds: Mapping[str, int]) -> str:
    """What the odds of a kind come from, in words."""
    total = sum(finds.values())
    own = finds.get(kind, 0)
    return f"{own} of this workshop's {total} finds, and practice" if total else "practice"


def explains(case: Case) -> bool:
    """Whether the best single cause leaves no more of the readings than their spread."""
    if not case.taken:
        return True
    best = int(np.argmax(case.belief))
    return float(case.left[best]) <= EXPLAINS


def _magnitude(one: Taken) -> float:
    """A reading as it is weighed: a clamp is put on either way round."""
    return abs(one.value) if one.reading.startswith("amps") else one.value


def _fitted(case: Case, k: int) -> tuple[list[float], float]:
    """Readings expected under a cause in one size once all that is not known has moved as the readings say, and how far
    the size itself has moved, in steps."""
    if not case.taken:
        return [], 0.0
    ohms = np.array([one.quantity == "ohms" for one in case.readings], dtype=bool)
    taken = np.array([_magnitude(one) for one in case.taken])
    seen = np.where(ohms, log_ohms(taken), taken)
    noise = case.spread**2 + 1e-12
    held = solved(case.covariance[k], seen - case.value[k], np.sqrt(noise))
    fitted = seen - noise * held
    return np.where(ohms, 10**fitted, fitted).tolist(), float(case.step[k] @ held)


def _size(change: Change, moved: float, sound_ohm: float) -> str:
    """The size in words, between the steps where the readings say so."""
    if change.series_ohm > 0 and change.element >= 0 and not change.open:
        step = STEP_SD * (STEP_RATIO - 1 / STEP_RATIO) / 2
        return ohm_text(sound_ohm + change.series_ohm * max(0.4, 1 + moved * step))
    return change.in_words


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
        Each in the size that fits best, with the readings expected under it beside those taken: batteries, lengths and
        loads moved as far as the readings say and their spreads allow.
    """
    shares, names = case.by_cause(), case.frame.situations
    found = []
    for at in np.argsort(-shares, kind="stable")[:most].tolist():
        mine = np.flatnonzero(case.owner == at)
        best = int(mine[np.argmax(case.belief[mine])])
        cause, change = case.pairs[best]
        expected, moved = _fitted(case, best)
        beside = []
        for k, one in enumerate(case.taken):
            reading, near = case.readings[k], _FITS * float(case.spread[k])
            off = (
                math.log10(max(one.value, 0.1)) - math.log10(max(expected[k], 0.1))
                if reading.quantity == "ohms"
                else _magnitude(one) - expected[k]
            )
            beside.append(
                Beside(one.reading, one.situation, names[one.situation].name, reading.label,
                       UNIT_OF[reading.quantity], one.value, expected[k],
                       float(case.sound[k]), abs(off) <= near,
                       *(small(value, UNIT_OF[reading.quantity])
                         for value in (one.value, expected[k], float(case.sound[k]))))
            )  # fmt: skip
        sound_ohm = float(case.frame.ohm[change.element]) if change.element >= 0 else 0.0
        found.append(
            Suspect(
                cause.id, cause.kind, kind_label(cause.kind), cause.text, _size(change, moved, sound_ohm),
                float(shares[at]), cause.subject, cause.part, cause.run, kind_mend(cause.kind),
                prior_text(cause.kind, case.finds), tuple(beside),
            )
        )  # fmt: skip
    return found


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
        if (
            cause.kind == "sound"
            or change.bridge[0] >= 0
            or change.closes >= 0
            or change.crossed
            or change.exchanged[0] >= 0
        ):
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
    return [Two(one, other, weight / sum(weights)) for weight, (_, one, other) in zip(weights, told, strict=True)]


def _told(case: Case, k: int) -> Suspect:
    """A cause in one size, without readings: they are those of both together."""
    cause, change = case.pairs[k]
    return Suspect(
        cause.id, cause.kind, kind_label(cause.kind), cause.text, change.in_words,
        float(case.by_cause()[case.owner[k]]), cause.subject, cause.part, cause.run,
        kind_mend(cause.kind), prior_text(cause.kind, case.finds), (),
    )  # fmt: skip
