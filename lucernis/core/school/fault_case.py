"""Cases to find a fault in with a meter: a van as it was really built, one thing wrong, and an evening to find it."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from lucernis.core.prove.cause import Cause, kind_label, kind_mend, kind_weight
from lucernis.core.prove.causes import causes_of
from lucernis.core.prove.frame import Frame, frame
from lucernis.core.prove.living import sound_living
from lucernis.core.prove.next_reading import minutes, next_readings
from lucernis.core.prove.planted import Planted
from lucernis.core.prove.suspects import Taken, weigh
from lucernis.core.prove.symptoms import Symptom, SymptomKind, odds, situations_for, symptom_label
from lucernis.core.prove.vehicle import LEADS_OHM, Vehicle
from lucernis.core.prove.verdicts import suspects
from lucernis.core.school.breaking.van import good_van, van_names
from lucernis.core.school.dice import Dice
from lucernis.errors import NothingFits, UnknownRow
from lucernis.plan.document import parse_plan

# The van must leave tonight.
EVENING_MIN = 120.0
_PLAIN = ("fuse_blown", "joint_off", "load_dead", "contact_open", "wire_open")
_MIDDLE = (*_PLAIN, "joint", "earth", "fuse_contact", "contact_bad", "load_heavy", "wire_short")
# Said where it is as good as certain under the fault, and never without it.
_TOLD = 0.7
_TRIES = 40
_MOST_TOLD = 3
_MOST_OWN = 12
# Sure enough for the program to name it.
_SURE = 0.85
_OPEN_OHM = 1e7
# A cause is borne out where the readings put it among so many of the likeliest.
_BORNE_OUT = 3
_GUESSED = 20.0
# What finding it is worth, what the right run or part under another cause is, and what being as quick as the program.
_FOUND, _NEAR, _QUICK = 60.0, 25.0, 40.0


@dataclass(frozen=True, slots=True)
class FaultCase:
    """A van with something wrong: which, what is said of it, and what it is."""

    seed: int
    level: int
    van: str
    symptoms: tuple[Symptom, ...]
    planted: Planted


@dataclass(frozen=True, slots=True)
class Look:
    """A reading taken: where, in which state, what it showed, what it took [min], and its name."""

    reading: str
    situation: str
    value: float
    minutes: float
    label: str


@lru_cache(maxsize=4)
def frame_of_van(name: str) -> Frame:
    """A van of the school made ready for the meter."""
    return frame(parse_plan(good_van(name).doc))


def _told(made: Frame, planted: Planted) -> list[Symptom]:
    """What is said of a fault."""
    pairs = [(planted.cause, planted.change)]
    loads = [one.id for one in made.plan.parts if one.kind == "load"]
    fused = [one.id for one in made.plan.runs if one.fuse_at_start is not None]
    kinds: tuple[tuple[SymptomKind, list[str]], ...] = (
        ("blows", fused),
        ("dead", loads),
        ("weak", loads),
        ("cuts_out", loads),
    )
    found: list[Symptom] = []
    for kind, subjects in kinds:
        for subject in subjects:
            if any(one.subject == subject for one in found):
                continue
            symptom = Symptom(kind, subject)
            livings = {name: sound_living(made, name) for name in situations_for(made, symptom)}
            if livings and float(odds(made, symptom, livings, pairs)[0]) >= (_TOLD if kind != "dead" else 0.59):
                found.append(symptom)
    return found


def fault_case(seed: int, level: int) -> FaultCase:
    """A case by its seed and level: the same for everybody until causes change.

    Parameters
    ----------
    seed : int
        Any number, >= 0.
    level : int
        1: open and dead; 2: resisting joints, contacts and shorts too; 3 and 4: anything somebody would notice.

    Returns
    -------
    FaultCase
        With one to three things that are said of it.

    Raises
    ------
    NothingFits
        If that seed gives none.
    """
    dice = Dice(seed, level, 3)
    kinds = {1: _PLAIN, 2: _MIDDLE}.get(level)
    for _ in range(_TRIES):
        name = dice.one_of(van_names())
        made = frame_of_van(name)
        causes = [one for one in causes_of(made) if kinds is None or one.kind in kinds]
        # Kinds by how often they are what is wrong, then any one of that kind.
        weighed = [kind for kind in sorted({one.kind for one in causes}) for _ in range(round(2 * kind_weight(kind)))]
        kind = dice.one_of(weighed)
        cause = dice.one_of([one for one in causes if one.kind == kind])
        change = dice.one_of(cause.changes)
        planted = Planted(cause, change, f"{cause.text}, {change.in_words}")
        told = _told(made, planted)
        if told:
            return FaultCase(seed, level, name, tuple(dice.some_of(told, _MOST_TOLD)), planted)
    raise NothingFits("no fault of that seed", field="seed", value=seed, allowed="another seed")


def kept(case: FaultCase) -> dict[str, Any]:
    """A case as it is kept, so that it stays what it is whatever its seed gives later."""
    return {
        "van": case.van,
        "cause": case.planted.cause.id,
        "size": case.planted.change.in_words,
        "symptoms": [[one.kind, one.subject] for one in case.symptoms],
    }


def case_kept(seed: int, level: int, put_in: dict[str, Any] | None) -> FaultCase:
    """A case as it was begun; by its seed where nothing was kept, or where its cause is known no more.

    Parameters
    ----------
    seed, level : int
        As it was begun with.
    put_in : dict or None
        As `kept` gave it.

    Returns
    -------
    FaultCase
        The same the learner began with.

    Raises
    ------
    NothingFits
        If nothing was kept and that seed gives none.
    """
    if put_in is not None:
        made = frame_of_van(put_in["van"])
        cause = next((one for one in causes_of(made) if one.id == put_in["cause"]), None)
        if cause is not None:
            change = next((one for one in cause.changes if one.in_words == put_in["size"]), cause.changes[0])
            planted = Planted(cause, change, f"{cause.text}, {change.in_words}")
            told = tuple(Symptom(kind, subject) for kind, subject in put_in["symptoms"])
            return FaultCase(seed, level, put_in["van"], told, planted)
    return fault_case(seed, level)


def symptom_text(made: Frame, symptom: Symptom) -> str:
    """A symptom as the customer says it."""
    topology = made.sized.topology
    thing = (
        topology.runs[symptom.subject].tag if symptom.subject in topology.runs else topology.parts[symptom.subject].name
    )
    return f"{thing}: {symptom_label(symptom.kind).lower()}"


def take(case: FaultCase, taken: Sequence[Look], reading: str, situation: str) -> Look:
    """Take a reading.

    Parameters
    ----------
    case : FaultCase
        The van.
    taken : sequence of Look
        What was read before: the state the van stands in costs nothing to make.
    reading : str
        Its id.
    situation : str
        The state it is read in.

    Returns
    -------
    Look
        As a usual hand meter shows it; the same reading shows the same every time.

    Raises
    ------
    UnknownRow
        If the van has no such spot or state.
    """
    made = frame_of_van(case.van)
    one = made.reading(reading)
    if situation not in made.situations:
        raise UnknownRow(
            f"no state {situation!r}", field="situation", value=situation, allowed=", ".join(made.situations)
        )
    vehicle = _vehicle(case)
    vehicle.again(zlib.crc32(f"{case.seed} {reading} {situation}".encode()))
    value = vehicle.read(reading, situation)
    if one.quantity == "ohms":
        value = min(max(value - LEADS_OHM, 0.0), _OPEN_OHM)
    now = taken[-1].situation if taken else "rest"
    return Look(reading, situation, value, minutes(made, one, situation, now), one.label)


@lru_cache(maxsize=8)
def _built(van: str, seed: int, level: int) -> Vehicle:
    case = fault_case(seed, level)
    return Vehicle(frame_of_van(van).plan, (case.planted,), seed=seed + 1)


def _vehicle(case: FaultCase) -> Vehicle:
    return _built(case.van, case.seed, case.level)


def own_path(case: FaultCase) -> tuple[list[Look], str]:
    """How the program goes about it by itself.

    Returns
    -------
    tuple of list of Look and str
        The readings it takes, and the id of the cause it names.
    """
    made, looks = frame_of_van(case.van), list[Look]()
    while True:
        weighed = weigh(made, [Taken(one.reading, one.situation, one.value) for one in looks], case.symptoms)
        best = suspects(weighed, most=1)[0]
        now = looks[-1].situation if looks else "rest"
        following = next_readings(weighed, most=1, now=now)
        if (best.share >= _SURE and best.kind != "sound") or len(looks) >= _MOST_OWN or not following:
            return looks, best.id
        looks.append(take(case, looks, following[0].reading, following[0].situation))


def causes_at(van: str, subject: str) -> list[Cause]:
    """What can be wrong at a part or along a run of a van.

    Raises
    ------
    UnknownRow
        If the van has no such part or run.
    """
    made = frame_of_van(van)
    if subject not in made.sized.topology.parts and subject not in made.sized.topology.runs:
        raise UnknownRow(
            f"no part or run {subject!r}", field="subject", value=subject, allowed="the id of a part or run"
        )
    return [one for one in causes_of(made) if subject in (one.part, one.run, one.subject.partition(":")[0])]


@dataclass(slots=True)
class FaultGrade:
    """A search graded, of 100: ``found``, ``guessed`` (right, but nothing that was read says so), ``near`` (the right
    run or part) or ``missed``; what it was, and what the program would have done."""

    points: float
    outcome: str
    what_it_was: str
    kind: str
    mend: str
    minutes: float
    own: list[Look]
    own_minutes: float
    own_found: bool


def _borne_out(case: FaultCase, looks: Sequence[Look]) -> bool:
    """Whether what was read, with what is said, puts the true cause among the likeliest; nothing read bears out
    nothing."""
    if not looks:
        return False
    taken = [Taken(one.reading, one.situation, one.value) for one in looks]
    likeliest = suspects(weigh(frame_of_van(case.van), taken, case.symptoms), most=_BORNE_OUT)
    right = case.planted.cause
    return any(one.id == right.id or {one.part, one.run} == {right.part, right.run} for one in likeliest)


def grade_fault(case: FaultCase, looks: Sequence[Look], cause_id: str) -> FaultGrade:
    """Grade a search.

    Parameters
    ----------
    case : FaultCase
        What was wrong.
    looks : sequence of Look
        Readings taken.
    cause_id : str
        The cause the learner names.

    Returns
    -------
    FaultGrade
        60 for the cause where the readings bear it out, 25 for the right run or part, up to 40 more for being as quick
        as the program; after the evening is over there is nothing for speed. A guess that happens to be right is worth
        20: the next van pays for it.
    """
    right = case.planted.cause
    named = next((one for one in causes_of(frame_of_van(case.van)) if one.id == cause_id), None)
    places = {one for one in (right.part, right.run) if one}
    near = named is not None and bool(places & {named.part, named.run})
    outcome = "found" if cause_id == right.id else "near" if near else "missed"
    if outcome == "found" and not _borne_out(case, looks):
        outcome = "guessed"
    spent = sum(one.minutes for one in looks)
    own, own_id = own_path(case)
    own_spent = sum(one.minutes for one in own)
    points = {"found": _FOUND, "guessed": _GUESSED, "near": _NEAR, "missed": 0.0}[outcome]
    if outcome == "found" and spent <= EVENING_MIN:
        points += _QUICK * min(1.0, max(own_spent, 1.0) / max(spent, 1.0))
    return FaultGrade(
        round(points, 1), outcome, case.planted.text, kind_label(right.kind), kind_mend(right.kind), spent, own,
        own_spent, own_id == right.id,
    )  # fmt: skip
