"""Causes that nothing read so far tells apart are named as one, with the reading that parts them."""

from __future__ import annotations

from lucernis.core.prove.suspects import Taken, weigh
from lucernis.core.prove.symptoms import Symptom
from lucernis.core.prove.together import together
from lucernis.core.prove.vehicle import Vehicle
from lucernis.demo import demo_plan
from tests.core.prove.shop import ready


def _taken(fault: str, *readings: tuple[str, str]) -> list[Taken]:
    vehicle = Vehicle(demo_plan("heron"), (fault,), seed=4)
    return [Taken(one, situation, vehicle.read(one, situation)) for one, situation in readings]


def test_two_ends_of_one_leg_are_one_group_until_an_end_is_read() -> None:
    whole = ("volts:r11:p:0~r11:p:4", "load:l7"), ("amps:r11:p", "load:l7")
    case = weigh(ready("heron"), _taken("C11 joint + start 90 mohm", *whole), [Symptom("weak", "l7")])
    group = together(case)
    assert group is not None
    assert {"joint:r11:p:start", "joint:r11:p:finish"} <= set(group.ids)
    assert group.share > 0.6
    assert group.parted_by is not None
    assert group.parted_by.run == "r11" or group.parted_by.part == "l7"
    parted = (*whole, ("volts:r11:p:0~r11:p:1", "load:l7"))
    again = weigh(ready("heron"), _taken("C11 joint + start 90 mohm", *parted), [Symptom("weak", "l7")])
    assert together(again) is None


def test_nothing_read_names_no_group() -> None:
    assert together(weigh(ready("heron"), [], [Symptom("weak", "l7")])) is None
