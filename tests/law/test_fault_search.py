"""The search for a fault always answers: any readings, in any states, of any plan, whatever was typed."""

from __future__ import annotations

import random
from collections.abc import Sequence

import numpy as np
import pytest

from lucernis.core.prove.expect import foresee
from lucernis.core.prove.frame import Frame, frame
from lucernis.core.prove.living import sound_living
from lucernis.core.prove.next_reading import next_readings, offered
from lucernis.core.prove.suspects import Taken, weigh
from lucernis.core.prove.verdicts import suspects, two_at_once
from lucernis.demo import JOBS, demo_plan
from tests.law.conftest import some
from tests.law.wild import wild_plan


def answers(made: Frame, dice: random.Random, sizes: Sequence[int], most: int) -> None:
    """Sound and senseless readings of some sizes in each situation and across them."""
    every = offered(made, [run.id for run in made.plan.runs], [part.id for part in made.plan.parts])
    names = list(made.situations)
    dice.shuffle(names)
    for size in sizes:
        for where in [[name] for name in names[:most]] + [names[:4]]:
            taken = []
            for _ in range(size):
                name = dice.choice(where)
                there = [one for one in every if (one.quantity == "ohms") == (name == "dead")]
                if not there:
                    continue
                reading = dice.choice(there)
                value = float(foresee(sound_living(made, name), [reading]).value[0])
                value = dice.choice([value, value, value, -value, 0.0, 1e6, dice.uniform(-500, 500)])
                taken.append(Taken(reading.id, name, value))
            case = weigh(made, taken)
            assert np.isfinite(case.belief).all()
            assert case.belief.sum() == pytest.approx(1.0)
            found = suspects(case)
            assert found
            assert all(np.isfinite(one.share) for one in found)
            if size == sizes[-1] and where == names[:4]:
                assert all(np.isfinite(one.bits) for one in next_readings(case))
                two_at_once(case)


@pytest.mark.parametrize("job", JOBS)
def test_any_readings_of_a_demo_job_are_answered(job: str) -> None:
    """Of forty readings with a charger at work the joint spread has no Cholesky factors: it did crash there."""
    answers(frame(demo_plan(job)), random.Random(7), (1, 40), 2)


@pytest.mark.parametrize("seed", range(some(4, 20)))
def test_any_readings_of_a_wild_plan_are_answered(seed: int) -> None:
    plan = wild_plan(seed)
    if plan.runs and any(part.kind == "battery" for part in plan.parts):
        answers(frame(plan), random.Random(seed), (2, 25), 2)


def test_readings_with_a_charger_at_work_on_heron_have_no_cholesky_factors_and_an_answer() -> None:
    made = frame(demo_plan("heron"))
    every = offered(made, [run.id for run in made.plan.runs], [part.id for part in made.plan.parts])
    every = [one for one in every if one.quantity != "ohms"]
    for name in ("rest", "engine", "shore", "sun"):
        living = sound_living(made, name)
        value = foresee(living, every).value
        for step in (5,):
            picked = range(0, len(every), step)
            case = weigh(made, [Taken(every[k].id, name, float(value[k])) for k in picked][:40])
            # Sound readings: that nothing is wrong stands first.
            assert case.causes[int(np.argmax(case.by_cause()))].kind == "sound", name
