"""Cases to find mistakes in: a good van broken in one to three ways, exactly those and nothing else as grave."""

from __future__ import annotations

import importlib
import json
import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from pydantic import TypeAdapter

from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.judged import findings_of
from lucernis.core.report import Finding, Severity, every
from lucernis.core.school.breaking.registry import BREAKERS, Breaker
from lucernis.core.school.breaking.van import GoodVan, Van, good_van, van_names
from lucernis.core.school.dice import Dice
from lucernis.errors import LucernisError, NothingFits
from lucernis.plan.document import parse_plan

for _module in ("wire", "protection", "distribution", "power", "routing"):
    importlib.import_module(f"lucernis.core.school.breaking.{_module}")

_RANK: dict[Severity, int] = {"stop": 0, "fix": 1, "look": 2}
# Codes no case can have: what only a table that lacks a row could raise, what a van as fitted cannot have since nothing
# in it is left to be chosen, and what takes four batteries in series; nor what the fuses as
# fitted hold back, and what nothing puts in yet.
NOT_IN_A_CASE = frozenset({
    "fuse-low-voltage", "breaking-unknown", "wire-one-up", "load-reversed", "take-off-end", "series-tap",
    "starter-drained", "stays-live-switched", "spark-in-vapour", "isolator-unlike-lead", "reversing-by-body",
    "wire-over-ampacity", "wire-nothing-fits", "breaking-backed", "splice-overfull",
})  # fmt: skip
# Draws a breaker may be given; which of them succeed in which van is written down once, by `make recipes`.
DRAWS = 12
_TRIES = 40


@dataclass(frozen=True, slots=True)
class Mistake:
    """One mistake that was put in.

    `code` and `severity` as the checks have it, `hard` to see from 1 to 3, `subject` where the checks find it. What it
    shows itself as besides is in `codes` and `subjects`.
    """

    code: str
    severity: Severity
    hard: int
    subject: str
    codes: tuple[str, ...]
    subjects: tuple[str, ...]


@dataclass(slots=True)
class MistakeCase:
    """A broken van: which, its document, and what is wrong with it."""

    seed: int
    level: int
    van: str
    document: dict[str, Any]
    mistakes: list[Mistake]


def keys(findings: Sequence[Finding]) -> set[tuple[str, str]]:
    """Code and subject of findings, folded ones too."""
    return {(one.code, one.subject) for one in every(findings)}


def new_findings(good: GoodVan, findings: Sequence[Finding]) -> list[Finding]:
    """Findings that were not there while the van was right, or have something new folded under them."""
    before = keys(good.report.findings)
    return [one for one in findings if keys([one]) - before]


def _dice(code: str, draw: int) -> Dice:
    return Dice(zlib.crc32(code.encode()), draw)


def put_in(good: GoodVan, chosen: Sequence[tuple[str, int]]) -> tuple[Van, list[Mistake]] | None:
    """Put mistakes into a van, each by its own draw.

    Parameters
    ----------
    good : GoodVan
        The van.
    chosen : sequence of (str, int)
        Codes, each with its draw.

    Returns
    -------
    tuple of Van and list of Mistake, or None
        None where the van does not take them, or where anything else as grave comes up.
    """
    van = Van(good, _dice(*chosen[0]))
    placed: list[tuple[Breaker, tuple[str, ...]]] = []
    try:
        for code, draw in chosen:
            van.dice = _dice(code, draw)
            placed.append((BREAKERS[code], BREAKERS[code].breaks(van)))
        findings = findings_of(parse_plan(van.doc))
    except (LucernisError, StopIteration, KeyError, IndexError):
        return None
    mistakes = _claimed(new_findings(good, findings), placed)
    return None if mistakes is None else (van, mistakes)


def _claimed(new: list[Finding], placed: Sequence[tuple[Breaker, tuple[str, ...]]]) -> list[Mistake] | None:
    found: list[Mistake] = []
    taken: set[str] = set()
    for breaker, where in placed:
        # What is graver and has the same cause may stand above it.
        here = [
            one
            for one in new
            if one.id not in taken
            and any(deep.code == breaker.code for deep in every([one]))
            and any(deep.subject in where for deep in every([one]))
        ]
        if not here:
            return None
        # The same mistake seen under another code that goes along with it.
        along = [
            one
            for one in new
            if breaker.whole or (one.code in breaker.along and any(deep.subject in where for deep in every([one])))
        ]
        mine = {one.id: one for one in (*here, *along)}
        taken |= mine.keys()
        deep = every(list(mine.values()))
        exact = next((one for one in deep if one.code == breaker.code), here[0])
        found.append(
            Mistake(
                breaker.code,
                here[0].severity,
                breaker.hard,
                exact.subject,
                tuple(sorted({one.code for one in deep})),
                tuple(sorted({*where} | {one.subject for one in deep})),
            )
        )
    lightest = max(_RANK[one.severity] for one in found)
    others = [one for one in new if one.id not in taken]
    return None if any(_RANK[one.severity] <= lightest for one in others) else found


@cache
def recipes() -> dict[str, dict[str, list[int]]]:
    """Van to code to the draws that succeed there."""
    text = (files("lucernis.core.school") / "recipes.json").read_text(encoding="utf-8")
    found: dict[str, dict[str, list[int]]] = json.loads(text)
    return found


def find_recipes() -> dict[str, dict[str, list[int]]]:
    """The recipes found anew, by trying. Takes minutes."""
    found: dict[str, dict[str, list[int]]] = {}
    for name in van_names():
        good, mine = good_van(name), found.setdefault(name, {})
        for code in sorted(BREAKERS):
            draws = [draw for draw in range(DRAWS) if put_in(good, [(code, draw)]) is not None]
            if draws:
                mine[code] = draws
    return found


@cache
def producible() -> tuple[str, ...]:
    """Codes a case can have, sorted."""
    return tuple(sorted({code for mine in recipes().values() for code in mine}))


def break_van(codes: Sequence[str], seed: int) -> MistakeCase:
    """Break a van in named ways.

    Parameters
    ----------
    codes : sequence of str
        Codes of the checks, each once.
    seed : int
        Draws van and places.

    Returns
    -------
    MistakeCase
        With exactly these mistakes and nothing else as grave as the lightest of them.

    Raises
    ------
    NothingFits
        If no van takes them together.
    """
    vans = [name for name in van_names() if set(codes) <= recipes()[name].keys()]
    dice = Dice(seed, 1)
    for _ in range(_TRIES if vans else 0):
        name = dice.one_of(vans)
        made = put_in(good_van(name), [(code, dice.one_of(recipes()[name][code])) for code in codes])
        if made is not None:
            return MistakeCase(seed, 0, name, made[0].doc, made[1])
    raise NothingFits(f"no van takes {', '.join(codes)}", field="codes", value=list(codes), allowed="others together")


def _fits_level(code: str, level: int) -> bool:
    breaker = BREAKERS[code]
    if not breaker.of_trade:
        return False
    if level <= 2:
        return breaker.hard <= level and CODES[code].severity != "look"
    return level == 4 or breaker.hard <= 3


def mistake_case(seed: int, level: int) -> MistakeCase:
    """A case by its seed and level: the same for everybody until breakers change.

    Parameters
    ----------
    seed : int
        Any number, >= 0.
    level : int
        1: one that is seen by looking; 2: one or two, figures to be compared; 3: one or two of any kind; 4: three.

    Returns
    -------
    MistakeCase
        One to three mistakes that the checks find, and nothing else as grave.

    Raises
    ------
    NothingFits
        If that seed gives none.
    """
    dice = Dice(seed, level, 2)
    for _ in range(_TRIES):
        name = dice.one_of(van_names())
        mine = recipes()[name]
        codes = sorted(code for code in mine if _fits_level(code, level))
        count = {1: 1, 2: dice.between(1, 2), 3: dice.between(1, 3)}.get(level, 3)
        chosen = [dice.one_of(codes)]
        if count > 1:
            # Alike in weight: a look beside something grave is lost in what follows. What darkens all stands alone.
            grave = CODES[chosen[0]].severity
            alike = [code for code in codes if CODES[code].severity == grave and not BREAKERS[code].whole]
            chosen = dice.some_of(alike, count)
        made = put_in(good_van(name), [(code, dice.one_of(mine[code])) for code in chosen])
        if made is not None:
            return MistakeCase(seed, level, name, made[0].doc, made[1])
    raise NothingFits("no case of that seed", field="seed", value=seed, allowed="another seed")


_MISTAKES = TypeAdapter(list[Mistake])


def kept(case: MistakeCase) -> dict[str, Any]:
    """A case as it is kept, so that it is graded by what was put in whatever its seed gives later."""
    return {"van": case.van, "mistakes": _MISTAKES.dump_python(case.mistakes, mode="json")}


def case_kept(seed: int, level: int, put_in: dict[str, Any] | None) -> MistakeCase:
    """A case as it was begun, with the van before it was broken; by its seed where nothing was kept.

    Raises
    ------
    NothingFits
        If nothing was kept and that seed gives none.
    """
    if put_in is None:
        return mistake_case(seed, level)
    van = good_van(put_in["van"])
    return MistakeCase(seed, level, put_in["van"], van.doc, _MISTAKES.validate_python(put_in["mistakes"]))
