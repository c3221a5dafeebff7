"""A wire known by its strands or its outside."""

from __future__ import annotations

import pytest

from lucernis.core.wire.copper import all_sizes, wire_size
from lucernis.core.wire.identify import identify_wire, outside_of
from lucernis.errors import OutOfRange
from lucernis.practice.rules import SizeSystem


@pytest.mark.parametrize(
    ("system", "strands", "strand_mm", "size"),
    [
        # Usual makes of fine-stranded wire, data sheets from memory; AWG strandings of ASTM B174 and B286, memory.
        ("mm2", 30, 0.25, "1.5"), ("mm2", 50, 0.25, "2.5"), ("mm2", 56, 0.30, "4"), ("mm2", 84, 0.30, "6"),
        ("mm2", 80, 0.40, "10"), ("mm2", 24, 0.20, "0.75"), ("awg", 19, 0.29, "16"), ("awg", 41, 0.254, "14"),
        ("awg", 65, 0.254, "12"), ("awg", 105, 0.254, "10"),
    ],
)  # fmt: skip
def test_strands_and_their_diameter_tell_the_size(
    system: SizeSystem, strands: int, strand_mm: float, size: str
) -> None:
    found = identify_wire(system, strands=strands, strand_mm=strand_mm)
    assert found.guesses[0].size == size
    assert found.guesses[0].share > 0.6
    assert found.low_mm2 < wire_size(system, size).area_mm2 < found.high_mm2


@pytest.mark.parametrize("size", ["0.75", "1.5", "4", "10", "35"])
def test_the_outside_alone_leaves_doubt_and_is_reckoned_cautiously(size: str) -> None:
    area = wire_size("mm2", size).area_mm2
    for frac in (1.0, 0.5):
        found = identify_wire("mm2", outside_mm=outside_of(area, frac))
        assert size in [one.size for one in found.guesses]
        assert wire_size("mm2", found.reckon_with).area_mm2 <= area
        if found.guesses[0].share < 0.9:
            assert "reckon with" in found.doubt


def test_both_together_are_surer_than_the_outside() -> None:
    outside = identify_wire("mm2", outside_mm=3.6)
    both = identify_wire("mm2", outside_mm=3.6, strands=50, strand_mm=0.25)
    assert max(one.share for one in outside.guesses) < 0.7 < both.guesses[0].share
    assert (both.reckon_with, both.guesses[0].size) == ("2.5", "2.5")


def test_shares_sum_to_one_but_for_what_is_not_worth_telling() -> None:
    found = identify_wire("awg", outside_mm=4.0)
    assert 0.9 < sum(one.share for one in found.guesses) <= 1.0001
    assert {one.size for one in found.guesses} <= set(all_sizes("awg"))


def test_what_no_size_comes_near_is_said() -> None:
    found = identify_wire("mm2", strands=1, strand_mm=0.05)
    assert (found.guesses, found.reckon_with) == ((), "")
    assert "measure again" in found.doubt


@pytest.mark.parametrize(
    "seen", [{}, {"strands": 30}, {"strand_mm": 0.3}, {"outside_mm": 0.1}, {"strands": 0, "strand_mm": 0.3},
             {"strands": 30, "strand_mm": 20.0}]
)  # fmt: skip
def test_nothing_to_go_by_and_nonsense_are_refused(seen: dict[str, float]) -> None:
    with pytest.raises(OutOfRange) as caught:
        identify_wire("mm2", **seen)  # type: ignore[arg-type]
    assert caught.value.field in ("strands", "strand_mm", "outside_mm")
