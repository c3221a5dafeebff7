"""Reference test: a small van worked by hand with table values and a pocket calculator, reproduced by the program.

The job: 12 V, metric set, 70 °C PVC wire, 30 °C. Battery, 0.1 m to a bolt-down main fuse, 2 m of 16 mm² to a block;
a 5 A lamp string (constant current) on 6 m of 2.5 mm², a 10 A heater (resistive, 120 W at 12 V) on 4 m of 4 mm². All
wires are pinned, so that the sheet of paper needs no search. Sources of the numbers put in: IEC 60228 class 5 (memory):
1.21, 7.98 and 4.95 mΩ/m at 20 °C; ISO 10133 Annex A (memory): 90, 25 and 35 A at 70 °C; fuses and joints: common
practice, no source.
"""

from __future__ import annotations

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report
from lucernis.plan.document import parse_plan

PIN = {"system": "mm2", "reason": "given"}


@pytest.fixture(scope="module")
def report() -> Report:
    load = {"kind": "load", "hours_per_day": 2}
    block_run = {"fuse_at_start": {}, "start": {"part": "f1"}}
    return evaluate(
        parse_plan(
            {
                "format": "lucernis-plan",
                "version": 1,
                "job": {"name": "By hand"},
                "practice": {"set": "metric_caravan"},
                "zones": [{"id": "z1", "name": "Inside", "ambient_c": 30}],
                "parts": [
                    {"kind": "battery", "id": "b1", "name": "Battery", "tag": "B01"},
                    {"kind": "fuse_block", "id": "f1", "name": "Block", "tag": "F01"},
                    load
                    | {"id": "l1", "name": "Lamps", "tag": "L01", "current_a": 5.0, "behaviour": "constant_current"},
                    load | {"id": "l2", "name": "Heater", "tag": "L02", "power_w": 120.0, "behaviour": "resistive"},
                ],
                "runs": [
                    {
                        "id": "r1",
                        "tag": "C01",
                        "start": {"part": "b1"},
                        "finish": {"part": "f1"},
                        "length_m": 2.0,
                        "fuse_at_start": {"distance_m": 0.1},
                        "wire": PIN | {"size": "16"},
                    },
                    block_run
                    | {
                        "id": "r2",
                        "tag": "C02",
                        "start": {"part": "f1", "way": 1},
                        "finish": {"part": "l1"},
                        "length_m": 6.0,
                        "wire": PIN | {"size": "2.5"},
                    },
                    block_run
                    | {
                        "id": "r3",
                        "tag": "C03",
                        "start": {"part": "f1", "way": 2},
                        "finish": {"part": "l2"},
                        "length_m": 4.0,
                        "wire": PIN | {"size": "4"},
                    },
                ],
            }
        )
    )


def test_design_currents(report: Report) -> None:
    """5 A, 120 W / 12 V = 10 A, together 15 A."""
    assert [run.design_current_a for run in report.runs] == [15.0, 5.0, 10.0]


def test_ampacities(report: Report) -> None:
    """Straight from the table: 30 °C and two conductors together take nothing off."""
    assert [run.wire.ampacity_a for run in report.runs] == [90.0, 25.0, 35.0]


def test_fuses(report: Report) -> None:
    """105 % of 15, 5 and 10 A; on the shelf: strip fuses from 35 A, blades of 7.5 and 15 A."""
    assert [run.fuse.rating_a if run.fuse else None for run in report.runs] == [35.0, 7.5, 15.0]


def test_conductor_temperatures(report: Report) -> None:
    """30 + 40 · (I/Iz)²: (15/90)² = 1/36 gives 31.1 °C, (5/25)² = 1/25 gives 31.6 °C, (10/35)² = 4/49 gives 33.3 °C."""
    found = [run.temp_c for run in report.runs]
    assert found == pytest.approx([30 + 40 / 36, 30 + 40 / 25, 30 + 160 / 49], abs=1e-9)


def test_resistances(report: Report) -> None:
    """Copper both ways, warmed, plus joints and fuse, in mΩ.

    A joint is its contact and a barrel as long as so much of its own wire.
    C01: 4 m · 1.21 · (1 + 0.00393 · 11.11) = 5.0514; two lugs at the battery 2 · (0.02 + 0.040 · 1.21) and two rings at
    the block 2 · (0.06 + 0.030 · 1.21) = 0.3294; fuse 50 mV / 35 A = 1.4286: together 6.8093.
    C02: 12 m · 7.98 · (1 + 0.00393 · 11.6) = 100.1255; four push-ons 4 · (0.35 + 0.025 · 7.98) = 2.198;
    80 mV / 7.5 A = 10.6667: together 112.9902.
    C03: 8 m · 4.95 · (1 + 0.00393 · 13.2653) = 41.6645; four push-ons 4 · (0.35 + 0.025 · 4.95) = 1.895;
    80 mV / 15 A = 5.3333: together 48.8928.
    """
    found = [1000 * run.resistance_ohm for run in report.runs]
    assert found == pytest.approx([6.8093, 112.9902, 48.8928], abs=2e-4)


def test_drops(report: Report) -> None:
    """The heater is 1.2 Ω; with V at the block, V = 12 − 0.0068093 · (5 + V / 1.2488928).

    V = (12 − 0.0340466) / (1 + 0.0068093 / 1.2488928) = 11.9659534 / 1.00545229 = 11.901065 V.
    Heater: 11.901065 / 1.2488928 = 9.529293 A, so it gets 11.901065 − 0.465914 = 11.435151 V: 0.564849 V, 4.71 % lost.
    Lamps: 11.901065 − 5 · 0.1129902 = 11.336114 V, a drop of 0.663886 V, 5.53 %; of that in the conductors, which the
    limit counts, 14.529293 · 0.0050514 + 5 · 0.1001255 = 0.574020 V, 4.78 %.
    """
    lamps, heater = report.loads
    assert lamps.worst.voltage_v == pytest.approx(11.336114, abs=2e-5)
    assert heater.worst.voltage_v == pytest.approx(11.435151, abs=2e-5)
    assert heater.worst.current_a == pytest.approx(9.529293, abs=2e-5)
    assert 100 * lamps.worst.drop_frac == pytest.approx(5.53, abs=0.005)
    assert lamps.worst.conductor_drop_v == pytest.approx(0.574020, abs=2e-5)
    assert 100 * lamps.worst.conductor_drop_frac == pytest.approx(4.78, abs=0.005)
    assert 100 * heater.worst.drop_frac == pytest.approx(4.71, abs=0.005)


def test_battery_current_and_day(report: Report) -> None:
    """5 + 9.529 = 14.529 A flow when both are on; a day takes 2 h · (5 + 10) A = 30 Ah at nominal volts."""
    assert report.summary.battery_current_a == pytest.approx(14.529, abs=1e-3)
    assert report.summary.ah_per_day == pytest.approx(30.0)


def test_copper(report: Report) -> None:
    """2 · (2 · 16 + 6 · 2.5 + 4 · 4) mm²·m = 126 cm³ of copper at 8.89 g/cm³: 1.12 kg."""
    assert report.summary.copper_kg == pytest.approx(1.12, abs=0.005)


def test_nothing_to_complain_about(report: Report) -> None:
    """Every limit is kept; what is left is for an eye: no isolating switch, a strong battery before weak fuses, and
    far more copper in the pinned feeder than anything asks."""
    assert {one.severity for one in report.findings} <= {"look", "stop"}
    assert {one.code for one in report.findings} == {"no-isolator", "breaking-backed", "wire-far-thicker"}
