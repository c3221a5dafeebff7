"""Spaced repetition over skills by FSRS, a published scheduler: questions are new each time, the skill is kept."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import cast

from fsrs import Card, Rating, Scheduler
from fsrs.card import CardDict

# One more level after so many right in a row, one less after so many wrong. Common practice, no source.
UP_AFTER, DOWN_AFTER = 3, 2
LEVELS = (1, 4)
# No chance in it: the same answers are due on the same day.
_SCHEDULER = Scheduler(enable_fuzzing=False)


@dataclass(frozen=True, slots=True)
class Stands:
    """How a skill stands after an answer: level, answers in a row (below zero wrong ones), and the scheduler's card."""

    level: int
    streak: int
    card: str


def _read(card: str) -> Card:
    if not card:
        return Card(card_id=1, due=datetime(2000, 1, 1, tzinfo=UTC))
    return Card.from_dict(cast(CardDict, json.loads(card)))


def after(level: int, streak: int, card: str, *, is_right: bool, now: datetime, asked: int | None = None) -> Stands:
    """How a skill stands after an answer.

    Parameters
    ----------
    level : int
        Level of the learner.
    streak : int
        Right answers in a row there; below zero wrong ones.
    card : str
        The scheduler's card as JSON, empty for a skill never trained.
    is_right : bool
        Whether the answer was right.
    now : datetime
        When it was given.
    asked : int, optional
        Level it was asked at; the learner's own by default.

    Returns
    -------
    Stands
        With a level more after three in a row, a level less after two wrong ones. What is right below one's level
        keeps a skill fresh and moves no level.
    """
    made, _ = _SCHEDULER.review_card(_read(card), Rating.Good if is_right else Rating.Again, now)
    if is_right and asked is not None and asked < level:
        return Stands(level, streak, json.dumps(made.to_dict()))
    streak = max(streak, 0) + 1 if is_right else min(streak, 0) - 1
    low, high = LEVELS
    if streak >= UP_AFTER:
        level, streak = min(level + 1, high), 0
    elif streak <= -DOWN_AFTER:
        level, streak = max(level - 1, low), 0
    return Stands(level, streak, json.dumps(made.to_dict()))


def kept_frac(card: str, now: datetime) -> float:
    """How likely a skill is still there, by the scheduler; 0 for one never trained. [1]"""
    return float(_SCHEDULER.get_card_retrievability(_read(card), now)) if card else 0.0


def due_at(card: str) -> datetime | None:
    """When a skill is to be trained again; None for one never trained."""
    return _read(card).due if card else None
