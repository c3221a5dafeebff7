"""Bonds by the trade's own numbers, resting volts by chemistry, and what a typed reading means."""

from __future__ import annotations

import pytest

from lucernis.core.build.order import order_of_work
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.prove.bond import bond_by_millivolts, bond_by_ohms
from lucernis.core.prove.judge import Expected, judge
from lucernis.core.prove.power_up_readings import power_up_readings, resting
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.model import Battery

BAND = Expected(13.0, 13.6, "V", "the bank at rest")


@pytest.mark.parametrize(
    ("bond_ohm", "leads_ohm", "verdict"),
    [(1.2, 1.2, "good"), (1.7, 1.2, "bad"), (1.3, 1.2, "good"), (1.4, 1.2, "bad"), (0.9, 1.2, "again"),
     (1.1, 1.2, "good")],
)  # fmt: skip
def test_a_bond_by_a_meter_whose_leads_have_more_than_it(bond_ohm: float, leads_ohm: float, verdict: str) -> None:
    """Leads 1.2, bond 1.2: good; bond 1.7: bad. Common practice, no source; the last digit of the meter is 0.1 Ω."""
    found = bond_by_ohms(bond_ohm, leads_ohm)
    assert found.verdict == verdict
    assert (found.ohm is None) is (verdict == "again")
    if verdict == "bad":
        assert found.ohm == pytest.approx(bond_ohm - leads_ohm)


@pytest.mark.parametrize(
    ("drop_mv", "current_a", "expected_ohm", "verdict"),
    [(5.9, 10.0, 0.0002, "good"), (6.1, 10.0, 0.0002, "bad"), (-5.9, 10.0, 0.0002, "good"), (99, 10.0, None, "good"),
     (101, 10.0, None, "bad")],
)  # fmt: skip
def test_a_bond_by_millivolts_at_a_known_current(
    drop_mv: float, current_a: float, expected_ohm: float | None, verdict: str
) -> None:
    found = bond_by_millivolts(drop_mv, current_a, expected_ohm)
    assert (found.verdict, found.ohm) == (verdict, pytest.approx(abs(drop_mv) / 1000 / current_a))


@pytest.mark.parametrize(
    ("typed", "verdict", "told"),
    [
        ("13.2", "in", "13.20 V"), ("13,2 V", "in", "13.20 V"), ("13200 mV", "in", "13.20 V"), ("13.0", "in", ""),
        ("13.6", "in", ""), ("12.99", "out", "less than"), ("13.61", "out", "more than"),
        ("-13.2", "out", "other way round"), ("\u221213.2", "out", "other way round"), ("13200", "unit", "was it mV"),
        ("0.0132", "unit", "was it kV"), ("13.2 A", "unit", "not in V"), ("many", "unread", "not a number"),
        ("", "unread", ""), ("1e9", "unread", ""),
    ],
)  # fmt: skip
def test_what_a_typed_reading_means(typed: str, verdict: str, told: str) -> None:
    found = judge(typed, BAND)
    assert found.verdict == verdict
    assert told in found.text


@pytest.mark.parametrize(
    ("chemistry", "low_v", "high_v"), [("lfp", 13.15, 13.5), ("agm", 12.25, 12.85), ("flooded", 12.2, 12.7)]
)
def test_resting_volts_by_chemistry(chemistry: str, low_v: float, high_v: float) -> None:
    """Half and full, common practice (battery_chemistry.csv); half a per cent and two digits are the meter's."""
    fields = {"id": "b1", "name": "Bank", "tag": "B1", "kind": "battery", "chemistry": chemistry, "capacity_ah": 100}
    battery = Battery.model_validate(fields)
    found = resting(battery, 12.0)
    assert (found.low, found.high) == pytest.approx((0.995 * low_v - 0.02, 1.005 * high_v + 0.02))
    double = resting(battery, 24.0)
    assert double.low == pytest.approx(0.995 * 2 * low_v - 0.02)


@pytest.mark.parametrize("job", JOBS)
def test_every_fuse_and_battery_of_the_power_up_has_its_band(job: str) -> None:
    plan = demo_plan(job)
    order = order_of_work(plan)
    found = power_up_readings(plan, order)
    fed = [step.id for step in order.power_up if step.id.startswith(("power:rest", "power:charge"))]
    assert set(fed) <= set(found)
    assert all(one.low < one.high for one in found.values())


def test_a_point_reads_what_the_battery_behind_it_rests_at() -> None:
    plan = demo_plan("heron")
    order = order_of_work(plan)
    found = power_up_readings(plan, order)

    def of(begin: str) -> Expected:
        return found[next(step.id for step in order.power_up if step.text.startswith(begin))]

    assert of("C33: ANL strip").why.startswith("Starter battery")
    for house in ("C01: Class T", "C34: Large bolt-down", "C35: Large bolt-down", "C11: Regular", "Isolating switch"):
        assert of(house).why.startswith("House bank"), house
    pump = of("Everything on that")
    # By the report's own states: 12.00 V at the bank, 10.9 V at the heater, the furthest down with everything on.
    report = evaluate(plan, with_working=False)
    told = next(one for one in report.loads if one.name == "Air heater")
    lost_v = 12.0 * told.states["all_on"].drop_frac
    assert pump.low < lost_v < pump.high
    assert 0.2 * lost_v < pump.high - pump.low < 0.8 * lost_v
    assert "Air heater" in pump.why
    assert of("DC-DC charger at work").high > of("House bank at rest").high
