"""Drop in the conductors against published methods: the tables of the NEC and the chart of the small-craft standard."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeRequest, size_run
from lucernis.plan.document import parse_plan
from lucernis.plan.model import SizeRef

# NFPA 70 (NEC) chapter 9 table 8, from memory: uncoated stranded copper, direct current, 75 °C, in ohms per 1000 ft.
CHAPTER_9_OHM_PER_KFT = {
    "14": 3.14,
    "12": 1.98,
    "10": 1.24,
    "8": 0.778,
    "6": 0.491,
    "4": 0.308,
    "2": 0.194,
    "1/0": 0.122,
}
WARMTH_PER_K = 0.00323  # of the same table's note 2, referred to 75 °C


@pytest.mark.parametrize(("size", "ohm_per_kft"), CHAPTER_9_OHM_PER_KFT.items())
def test_drop_in_the_conductors_follows_chapter_9(size: str, ohm_per_kft: float) -> None:
    """2 · L · I · R by table 8, brought to the temperature of the conductor by its note 2: within 5 %."""
    answer = size_run(
        SizeRequest(
            amps=10.0, length_m=3.048, practice_set="small_craft_us", pinned_size=SizeRef(system="awg", size=size)
        )
    )
    warm = 1 + WARMTH_PER_K * (answer.conductor_c - 75)
    by_table_v = 2 * 10.0 * 10.0 / 1000 * ohm_per_kft * warm
    # The small-craft set has tinned strands, which the table lists 4 % above uncoated ones at most.
    assert answer.conductor_drop_v == pytest.approx(by_table_v, rel=0.05)
    assert answer.drop_v > answer.conductor_drop_v


@pytest.mark.parametrize(("reading", "length_m"), [("one_way", 3.048), ("loop", 6.096)])
def test_both_readings_of_a_length_are_one_circuit(reading: Any, length_m: float) -> None:
    """A chart of 20 ft of circuit is 10 ft one way. Common practice, no source."""
    pin = SizeRef(system="awg", size="10")
    answer = size_run(SizeRequest(amps=15.0, length_m=length_m, length_reading=reading, pinned_size=pin))
    # CM = 10.75 · I · L / E of the small-craft standard (from memory), turned round: 10 AWG has 10,380 circular mils.
    by_formula_v = 10.75 * 15.0 * 20.0 / 10380
    assert answer.conductor_drop_v == pytest.approx(by_formula_v, rel=0.06)


def linked(capacity_ah: float) -> dict[str, Any]:
    """Two lithium batteries, each with its fuse, 1 m of 35 mm² between them, a load behind the first."""
    fuse = {"distance_m": 0.0, "family": "class_t", "pin": {"rating_a": 200.0, "reason": "by hand"}}
    wire = {"system": "mm2", "size": "35", "reason": "by hand"}
    return {
        "format": "lucernis-plan", "version": 4, "job": {"name": "Two"}, "practice": {"set": "metric_caravan"},
        "zones": [{"id": "z", "name": "Inside"}],
        "parts": [
            {"kind": "battery", "id": f"b{k}", "name": f"Battery {k}", "tag": f"B{k}", "capacity_ah": capacity_ah}
            for k in (1, 2)
        ],
        "runs": [
            {"id": "r1", "tag": "C01", "start": {"part": "b1"}, "finish": {"part": "b2"}, "length_m": 1.0, "wire": wire,
             "fuse_at_start": fuse, "fuse_at_finish": fuse}
        ],
    }  # fmt: skip


@pytest.mark.parametrize("capacity_ah", [100.0, 200.0])
def test_each_fuse_of_a_link_sees_the_other_side_alone(capacity_ah: float) -> None:
    """By hand, to 1 %: a short close behind a fuse is fed through it by its own battery, 13.5 V behind 3.0 mΩ for each
    100 Ah and a lug in each leg; a short on its own side of it by the other battery through the whole link, which is
    less. Never by both together: that is what the wire between two fuses carries, not what one of them breaks.

    A lug on 35 mm² is 0.02 mΩ and a barrel like 40 mm of its wire: 0.0422 mΩ (0.554 mΩ/m, IEC 60228 class 5, from
    memory). 100 Ah: 13.5 / (3.0 + 2 · 0.0422) mΩ = 4377 A; from the other side, through 1.108 mΩ of copper, four lugs
    and two fuses of 0.225 mΩ, 13.5 / (3.0 + 1.108 + 0.169 + 0.45) = 2856 A.
    """
    internal = 3.0 * 100.0 / capacity_ah
    lug = 0.02 + 0.040 * 0.554
    fuse = evaluate(parse_plan(linked(capacity_ah))).runs[0].fuse
    assert fuse is not None
    own_a = 13.5 / ((internal + 2 * lug) / 1000)
    other_a = 13.5 / ((internal + 2 * 0.554 + 4 * lug + 2 * 0.225) / 1000)
    assert fuse.short_a == pytest.approx(max(own_a, other_a), rel=0.01)
