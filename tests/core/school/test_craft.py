"""Questions of the craft: every answer is one of those offered, every wrong one says why, every drawing is there."""

from __future__ import annotations

import math
import re
from importlib.resources import files
from xml.etree import ElementTree

import pytest

from lucernis.core.school.drills.ask import drill
from lucernis.core.school.drills.craft import bank, drawing
from lucernis.core.school.drills.drill import judge_answer

ASKED = [(skill, name) for skill, some in bank().items() for name in some]
DRAWN = sorted(one.name.removesuffix(".svg") for one in (files("lucernis.core.school.drills") / "drawings").iterdir())


@pytest.mark.parametrize(("skill", "name"), ASKED)
def test_every_question_says_why_each_wrong_answer_is_wrong(skill: str, name: str) -> None:
    asked = bank()[skill][name]
    offered, right, wrong = set(asked["choices"]), set(asked["right"]), set(asked["wrong"])
    assert len(right) == 1
    assert right <= offered
    assert wrong == offered - right
    assert len(set(asked["choices"].values())) == len(offered) >= 3
    assert asked["working"]
    assert asked["level"] in (1, 2, 3, 4)


@pytest.mark.parametrize("name", DRAWN)
def test_every_drawing_is_sound_says_what_it_shows_and_is_asked_about(name: str) -> None:
    root = ElementTree.fromstring(drawing(name))  # noqa: S314 - our own text
    title = root.find("{http://www.w3.org/2000/svg}title")
    assert title is not None
    assert title.text
    assert len(title.text) > 20
    assert name in {one.get("picture") for some in bank().values() for one in some.values()}
    assert "href" not in drawing(name)


def test_drawings_that_are_asked_for_are_there() -> None:
    assert {one["picture"] for some in bank().values() for one in some.values() if "picture" in one} <= set(DRAWN)


def test_figures_by_their_formulas() -> None:
    """n·π/4·d²; P = U·I; Q/I. (Geometry of a wire, Joule's law.)"""
    two = bank()["gauge"]["count"]["choices"]["two"]
    assert 19 * math.pi / 4 * 0.37**2 == pytest.approx(float(re.findall(r"[\d.]+", two)[0]), rel=0.03)
    assert bank()["under_load"]["watts"]["choices"]["w24"] == f"{0.4 * 60:.0f} W"
    assert pytest.approx(8, rel=0.05) == 50 / 0.25 / 24
    assert pytest.approx(45) == 50 * 0.9e-3 * 1000


def test_a_drill_shows_its_picture_and_judges_what_is_seen() -> None:
    made = next(one for seed in range(60) if (one := drill("crimp", 3, seed, "overland_bs")).right == ("gap",))
    assert "long stretch of bare copper" in made.picture
    assert judge_answer(made, ["gap"]).right
    said = judge_answer(made, ["good"])
    assert not said.right
    assert "barrel" in said.mistake


def test_new_questions_of_a_level_come_as_often_as_the_old_ones() -> None:
    new = [name for name, one in bank()["isolation"].items() if one["level"] == 4]
    assert len(new) == 1
    text = bank()["isolation"][new[0]]["question"]
    often = sum(drill("isolation", 4, seed, "overland_bs").question == text for seed in range(200))
    assert 80 < often < 150
