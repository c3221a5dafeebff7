"""Drills of the craft: meters, crimps, joints, sizes by eye, standing currents, safety, colours, what is licensed."""

from __future__ import annotations

import tomllib
from functools import cache, partial
from importlib.resources import files
from typing import Any

from lucernis.core.school.dice import Dice
from lucernis.core.school.drills.drill import Drill, Wrong, makes
from lucernis.practice.rules import PracticeSet


@cache
def bank() -> dict[str, dict[str, dict[str, Any]]]:
    """Questions by skill and name, craft.toml."""
    return tomllib.loads((files("lucernis.core.school.drills") / "craft.toml").read_text(encoding="utf-8"))


@cache
def drawing(name: str) -> str:
    """A drawing of our own as SVG, by its name in drawings/."""
    return (files("lucernis.core.school.drills") / "drawings" / f"{name}.svg").read_text(encoding="utf-8")


def _asked(skill: str, dice: Dice, level: int, practice: PracticeSet) -> Drill:
    del practice
    fitting = [name for name, one in bank()[skill].items() if one["level"] <= level]
    # What is new at this level comes as often as all before it.
    newest = [name for name in fitting if bank()[skill][name]["level"] == level]
    asked = bank()[skill][dice.one_of(dice.one_of([fitting, newest or fitting]))]
    picture = asked.get("picture", "")
    return Drill(
        skill,
        asked["question"],
        "one",
        tuple(asked["right"]),
        list(asked["working"]),
        choices=dice.some_of(list(asked["choices"].items()), len(asked["choices"])),
        mistakes=[Wrong(answer, text) for answer, text in asked["wrong"].items()],
        picture=drawing(picture) if picture else "",
    )


for _skill in bank():
    makes(_skill)(partial(_asked, _skill))
