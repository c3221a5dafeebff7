"""What a learner has done and what to do in the next ten minutes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from lucernis.core.school.drills.drill import skills
from lucernis.learning.schedule import due_at, kept_frac

# Usual minutes: a drill, and a case of each kind. Common practice, no source.
MINUTES = {"drill": 1.0, "mistake": 6.0, "fault": 8.0, "letter": 25.0}
_NEXT_MIN = 10.0
# A case belongs into the ten minutes once so many skills stand at level two.
_READY = 3


@dataclass(frozen=True, slots=True)
class SkillProgress:
    """A skill of a learner: its level, answers, and how likely it is still there; `due` when it should be trained."""

    skill: str
    title: str
    about: str
    level: int
    answers: int
    rights: int
    kept_frac: float
    due_at: str | None
    due: bool


@dataclass(frozen=True, slots=True)
class ToDo:
    """Something to do next: a drill of a skill, or a case; usual minutes."""

    kind: str
    skill: str
    title: str
    why: str
    minutes: float


def progress(
    levels: Mapping[str, tuple[int, str]], tallies: Mapping[str, tuple[int, int]], now: datetime
) -> list[SkillProgress]:
    """How every skill stands.

    Parameters
    ----------
    levels : mapping of str to (int, str)
        Skill to its level and card.
    tallies : mapping of str to (int, int)
        Skill to answers and right ones.
    now : datetime
        Now.

    Returns
    -------
    list of SkillProgress
        All skills, in the order a beginner meets them.
    """
    found = []
    for one in skills():
        level, card = levels.get(one.id, (1, ""))
        answers, rights = tallies.get(one.id, (0, 0))
        due = due_at(card)
        found.append(
            SkillProgress(
                one.id, one.title, one.about, level, answers, rights, round(kept_frac(card, now), 3),
                due.isoformat(timespec="seconds") if due is not None else None, due is None or due <= now,
            )
        )  # fmt: skip
    return found


def ten_minutes(stand: Sequence[SkillProgress], open_cases: int) -> list[ToDo]:
    """What to do next: what is due and most nearly forgotten first, then what is new, and a case now and then."""
    trained = sorted((one for one in stand if one.answers and one.due), key=lambda one: one.kept_frac)
    new = [one for one in stand if not one.answers]
    ready = sum(one.level >= 2 for one in stand) >= _READY
    found: list[ToDo] = []
    if open_cases:
        found.append(ToDo("case", "", "Go on with the case you began", "A case is open.", 4.0))
    left = _NEXT_MIN - sum(one.minutes for one in found)
    if ready and not open_cases:
        left -= MINUTES["mistake"]
    for one in (*trained, *new):
        if left < MINUTES["drill"]:
            break
        why = f"{100 * one.kept_frac:.0f} % still there" if one.answers else "new"
        found.append(ToDo("drill", one.skill, one.title, why, MINUTES["drill"]))
        left -= MINUTES["drill"]
    if ready and not open_cases:
        found.append(ToDo("mistake", "", "Find the mistake", "Three skills stand at level two.", MINUTES["mistake"]))
    if not found:
        weakest = min(stand, key=lambda one: (one.level, one.kept_frac))
        found.append(ToDo("drill", weakest.skill, weakest.title, "Nothing is due: the weakest", MINUTES["drill"]))
    return found
