"""Fill of conduits and holes against the published shares, and what to buy."""

from __future__ import annotations

import math

import pytest

from lucernis.core.layout.fill import bundle_mm, fill_frac, fill_limit, grommet_for, inside_needed_mm, outside_mm


@pytest.mark.parametrize(("count", "frac"), [(1, 0.53), (2, 0.31), (3, 0.40), (9, 0.40)])
def test_conduit_fill_is_that_of_nec_chapter_9_table_1(count: int, frac: float) -> None:
    """NEC chapter 9 table 1, from memory: 53, 31, 40 %."""
    assert fill_limit(count, "conduit")[0] == frac
    diameters = [5.0] * count
    needed_mm = inside_needed_mm(diameters, "conduit")
    area = count * math.pi / 4 * 5.0**2
    assert area / (math.pi / 4 * needed_mm**2) == pytest.approx(frac)
    assert fill_frac(diameters, needed_mm) == pytest.approx(frac)


def test_two_wires_pass_the_hole_that_is_asked_for_them() -> None:
    """Two circles side by side need twice their diameter: geometry."""
    assert 2 * 6.0 < inside_needed_mm([6.0, 6.0], "hole") < 2 * 6.0 * 1.1
    assert 6.0 < inside_needed_mm([6.0], "hole") < 6.0 * 1.25


@pytest.mark.parametrize(("area_mm2", "low_mm", "high_mm"), [
    (1.5, 2.6, 3.6), (2.5, 3.3, 4.2), (6.0, 4.6, 5.9), (16.0, 7.3, 9.5), (35.0, 11.0, 13.5), (70.0, 14.3, 17.5),
])  # fmt: skip
def test_outside_of_wires_lies_in_what_makers_list(area_mm2: float, low_mm: float, high_mm: float) -> None:
    """Makers' lists of vehicle and boat wire, from memory."""
    assert low_mm <= outside_mm(area_mm2) <= high_mm


def test_bundle_of_seven_equal_wires_is_about_three_across() -> None:
    """One in the middle and six around it: geometry."""
    assert bundle_mm([4.0] * 7) == pytest.approx(3 * 4.0, rel=0.06)
    assert bundle_mm([4.0]) == 4.0
    assert bundle_mm([]) == 0.0


def test_grommets_are_the_next_larger_made() -> None:
    assert grommet_for(10.0) == (10.0, 14.0)
    assert grommet_for(10.1) == (12.0, 16.0)
    assert grommet_for(50.0) == (50.0, 63.0)
    assert grommet_for(50.1) is None
    assert inside_needed_mm([], "hole") == 0.0
