"""Which of two fuses in a row opens first, within and beyond their published points."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from lucernis.core.faults.study import _one_way
from lucernis.core.protection.fuse_curves import least_heat_a2s, let_through_a2s, opening_times_s


def opened(amps: float, *fuses: tuple[Any, float]) -> Any:
    """Two fuses in a row, battery first, and one current through both."""
    at = np.array([amps])
    times = [opening_times_s(name, at / rating) for name, rating in fuses]
    return _one_way(
        [f"{name} {rating:g}" for name, rating in fuses],
        [float(fast[0]) for fast, _ in times],
        [float(slow[0]) for _, slow in times],
        [float(let_through_a2s(name, rating, at)[0]) for name, rating in fuses],
        [float(least_heat_a2s(name, rating, at)[0]) for name, rating in fuses],
    )


def test_a_fuse_alone_is_alone() -> None:
    assert opened(100.0, ("blade_regular", 10.0)).selective == "alone"


def test_far_apart_they_are_selective_within_their_points() -> None:
    found = opened(40.0, ("bolt_m8", 100.0), ("blade_regular", 10.0))
    assert (found.selective, found.openers) == ("yes", ["blade_regular 10"])


def test_equal_ones_open_together_within_their_points() -> None:
    found = opened(30.0, ("blade_regular", 10.0), ("blade_regular", 10.0))
    assert found.selective == "no"
    # What stands nearer to the fault opens first.
    assert found.openers == ["blade_regular 10"]


@pytest.mark.parametrize("amps", [1000.0, 3000.0, 20_000.0])
def test_beyond_the_last_points_heat_decides_where_bounds_do_not_touch(amps: float) -> None:
    """10 A lets through less than it takes to melt 300 A: however strong the short, they are selective."""
    upper = least_heat_a2s("class_t", 300.0, np.array([amps]))[0]
    lower = let_through_a2s("blade_regular", 10.0, np.array([amps]))[0]
    assert lower < upper
    found = opened(amps, ("class_t", 300.0), ("blade_regular", 10.0))
    assert (found.selective, found.also) == ("yes", [])


def test_beyond_the_last_points_overlapping_bounds_are_not_known() -> None:
    amps = np.array([2000.0])
    large, small = ("bolt_m8", 60.0), ("blade_maxi", 60.0)
    assert least_heat_a2s(*large, amps)[0] < let_through_a2s(*small, amps)[0]
    assert let_through_a2s(*large, amps)[0] > least_heat_a2s(*small, amps)[0]
    assert opened(2000.0, large, small).selective == "unknown"


def test_beyond_the_last_points_the_smaller_one_nearer_the_battery_opens_too() -> None:
    """100 A behind 5 A: the 5 A is through before the 100 A begins to melt, and it is the one told."""
    found = opened(3000.0, ("blade_regular", 5.0), ("bolt_m8", 100.0))
    assert found.openers == ["blade_regular 5"]
    assert found.beyond


def test_nothing_opens_below_the_first_point() -> None:
    assert opened(9.0, ("blade_regular", 10.0)).openers == []


@pytest.mark.parametrize("family", ["blade_regular", "blade_maxi", "bolt_m8", "anl", "class_t"])
def test_least_heat_never_exceeds_what_is_let_through(family: Any) -> None:
    amps = np.geomspace(1.5, 5000, 200) * 10.0
    least, most = least_heat_a2s(family, 10.0, amps), let_through_a2s(family, 10.0, amps)
    known = np.isfinite(least) & np.isfinite(most)
    assert known.any()
    assert (least[known] <= most[known] * (1 + 1e-9)).all()


def test_a_magnetic_breaker_is_not_bounded_by_heat() -> None:
    assert math.isnan(float(least_heat_a2s("breaker_magnetic", 20.0, np.array([5000.0]))[0]))
