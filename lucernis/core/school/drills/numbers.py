"""A question whose answer is a number, with the numbers usual mistakes lead to."""

from __future__ import annotations

from lucernis.core.school.drills.drill import Drill, Wrong, text_of

# A wrong number this near the right one cannot be told from it.
_APART = 2.2


def number_drill(
    skill: str,
    question: str,
    right: float,
    unit: str,
    working: list[str],
    wrong: list[tuple[float, str]],
    close: float = 0.02,
) -> Drill:
    """A question with a number for an answer; `wrong` are numbers of usual mistakes and what was done."""
    far = [(value, text) for value, text in wrong if abs(value - right) > _APART * close * abs(right)]
    return Drill(
        skill, question, "number", (text_of(right),), working, unit=unit, close_frac=close,
        mistakes=[Wrong(text_of(value), text) for value, text in far],
    )  # fmt: skip
