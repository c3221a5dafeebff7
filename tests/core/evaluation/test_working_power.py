"""Workings of the Power view say what the figures say, and where their table rows come from."""

from __future__ import annotations

import pytest

from lucernis.core.energy.days import scene_of
from lucernis.core.energy.working_days import days_working
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.power import power_report
from lucernis.core.report import Working
from lucernis.core.sizing.choice import size_plan
from lucernis.demo import demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.rules import plan_rules
from tests.helpers import powered_document


@pytest.fixture(scope="module")
def working() -> dict[str, Working]:
    return evaluate(demo_plan("heron")).working


def test_every_figure_shown_has_the_same_value_in_its_working(working: dict[str, Working]) -> None:
    power = power_report(demo_plan("heron"), {})
    assert working["energy.ah_per_day"].value == pytest.approx(power.ah_per_day)
    for size in power.sizes:
        assert working[f"energy.bank_{size.chemistry}"].value == pytest.approx(size.needed_ah)
    for one in power.chargers:
        assert working[f"{one.id}.given_a"].value == pytest.approx(one.given_a)
        if one.panels is not None:
            assert working[f"{one.id}.cold_open_v"].value == pytest.approx(one.panels.cold_open_v)
    for row in power.fit:
        assert working[f"{row.inverter}.fit_{row.mode}_{row.school}"].value == pytest.approx(row.current_a)


def test_table_rows_come_with_their_certainty(working: dict[str, Working]) -> None:
    rows = [*working["energy.bank_lfp"].rows, *working["q2.cold_open_v"].rows]
    assert len(rows) == 3
    assert {row.certainty for row in rows} == {"practice"}


def test_formula_of_the_cold_voltage_gives_its_value(working: dict[str, Working]) -> None:
    found = {one.symbol: float(one.value) for one in working["q2.cold_open_v"].inputs}
    value = found["n"] * found["Voc"] * (1 + found["β"] / 100 * (found["T"] - 25))
    assert value == pytest.approx(float(working["q2.cold_open_v"].value or 0))


def test_a_dcdc_balances_in_its_working(working: dict[str, Working]) -> None:
    found = {one.symbol: float(one.value) for one in working["q1.given_a"].inputs}
    given_a = float(working["q1.given_a"].value or 0)
    assert given_a <= found["I_max"] * (1 + 1e-9)
    assert found["η"] * found["V_in"] * found["I_in"] / given_a == pytest.approx(13.5, abs=0.8)


@pytest.mark.parametrize("days", [3, 14])
def test_workings_of_the_days_name_every_figure(days: int) -> None:
    plan = demo_plan("heron")
    sized = size_plan(plan, plan_rules(plan))
    scene = scene_of(plan, sized)
    assert scene is not None
    found = days_working(plan, sized, scene, days, None)
    refills = {f"days.{days}.refill_{one}" for one in ("engine", "shore", "sun", "together")}
    assert set(found) == refills | {f"days.{days}.{one}" for one in ("planned", "fair_lowest", "poor_lowest")}
    planned = found[f"days.{days}.planned"]
    values = {one.symbol: float(one.value) for one in planned.inputs}
    assert planned.value == pytest.approx(values["C · u"] / values["Q"])
    assert planned.rows[0].certainty == "practice"


def test_margin_and_ampacity_of_a_run_have_their_working() -> None:
    """Every run with a limit behind it says what is left of it; the ampacity is the run's own, or said to be none."""
    report = evaluate(parse_plan(powered_document()))
    limited = [one for one in report.runs if one.margin_frac is not None]
    assert len(limited) >= 4
    for one in limited:
        assert report.working[f"{one.id}.margin_frac"].value == pytest.approx(one.margin_frac)
        given = {row.symbol: row.value for row in report.working[f"{one.id}.wire"].inputs}
        assert given["Iz"] == report.working[f"{one.id}.ampacity_a"].value
