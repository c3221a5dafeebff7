"""The Power report: fit of inverters, costs and mass, usage, working; and the day ribbon."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest

from lucernis.core.circuit.loads import inverter_efficiency_frac, load_figures
from lucernis.core.energy.forecast import forecast
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.power import power_report
from lucernis.core.layout.laid import laid_out
from lucernis.core.pictures.ribbon import day_ribbon
from lucernis.core.power.costs import costs_of, mass_of
from lucernis.core.power.fit import FitRow, fit_rows
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.demo import demo_plan, demo_prices
from lucernis.errors import BadDocument
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Inverter, Load, Plan
from lucernis.plan.prices import KEYS, Price, read_prices
from lucernis.plan.rules import plan_rules
from tests.helpers import part, powered_document

PRICES = {one.key: one for one in demo_prices()}


def sized_of(plan: Plan) -> Sized:
    return size_plan(plan, plan_rules(plan))


def with_inverter(maker: dict[str, Any] | None = None, **ratings: Any) -> Plan:
    doc = powered_document()
    doc["parts"].append(
        {"kind": "load", "id": "l9", "name": "Inverter", "tag": "L09", "device": "inverter", "power_w": 300.0,
         "hours_per_day": 1.0, "inverter": {"continuous_w": 600.0, "surge_w": 1200.0} | ratings, "maker": maker or {}}
    )  # fmt: skip
    doc["runs"].append(
        {"id": "r9", "tag": "C09", "start": {"part": "u1"}, "finish": {"part": "l9"}, "length_m": 0.8,
         "fuse_at_start": {"distance_m": 0.1, "family": "anl"}}
    )  # fmt: skip
    return parse_plan(doc)


def rows_of(plan: Plan) -> list[FitRow]:
    from lucernis.core.power.bank import bank_figures

    sized = sized_of(plan)
    return fit_rows(plan, sized, bank_figures(plan, sized), plan_rules(plan).values.inverter_current)


def cell(row: FitRow, what: str) -> Any:
    return next(one for one in row.cells if one.what == what)


def test_fit_has_both_powers_by_both_schools() -> None:
    rows = rows_of(with_inverter())
    assert [(one.mode, one.school) for one in rows] == [
        ("continuous", "efficiency"), ("continuous", "ten_to_one"), ("surge", "efficiency"), ("surge", "ten_to_one"),
    ]  # fmt: skip
    assert [one.chosen_school for one in rows] == [True, False, True, False]
    assert rows[0].current_a == pytest.approx(600 / 0.88 / 10.5)
    assert rows[1].current_a == 60.0
    assert rows[0].others_a == pytest.approx(24 / 12 + 6 + 12 / 12)


def test_fit_adds_the_other_loads_to_what_the_battery_gives() -> None:
    row = rows_of(with_inverter())[0]
    found = cell(row, "battery")
    assert found.limit == 100.0
    # Lithium is judged at the volts it holds at a fifth of its charge, above those the row reckons with.
    assert 0.8 * (row.current_a + row.others_a) < found.asked < 0.95 * (row.current_a + row.others_a)
    assert found.holds == "holds"
    assert row.holds


def test_fit_fails_where_the_battery_gives_less() -> None:
    rows = rows_of(with_inverter(continuous_w=1500.0, surge_w=3000.0))
    assert [cell(one, "battery").holds for one in rows] == ["fails"] * 4
    assert not any(one.holds for one in rows)


def test_fit_says_what_is_only_usual() -> None:
    doc = with_inverter().model_dump(mode="json")
    part(doc, "b1").update(discharge_a=None, discharge_short_a=None)
    row = rows_of(parse_plan({"format": "lucernis-plan", **doc}))[0]
    assert "as is usual for its chemistry" in cell(row, "battery").note
    assert (cell(row, "terminal").holds, "as is usual" in cell(row, "terminal").note) == ("holds", True)
    assert row.holds


@pytest.mark.parametrize(("greatest", "holds"), [("4/0", "holds"), ("14", "fails")])
def test_fit_looks_at_the_terminal(greatest: str, holds: str) -> None:
    row = rows_of(with_inverter(maker={"greatest": {"system": "awg", "size": greatest}}))[0]
    assert cell(row, "terminal").holds == holds


def test_fit_of_a_surge_asks_when_the_fuse_may_open() -> None:
    doc = with_inverter().model_dump(mode="json")
    run = next(one for one in doc["runs"] if one["id"] == "r9")
    run["fuse_at_start"]["pin"] = {"rating_a": 35.0, "family": "anl", "reason": "test"}
    surge = rows_of(parse_plan({"format": "lucernis-plan", **doc}))[2]
    assert cell(surge, "fuse").holds == "fails"
    assert "may open after" in cell(surge, "fuse").note


def test_fit_of_an_inverter_that_hangs_nowhere_has_only_the_battery() -> None:
    doc = with_inverter().model_dump(mode="json")
    doc["runs"] = [one for one in doc["runs"] if one["id"] != "r9"]
    row = rows_of(parse_plan({"format": "lucernis-plan", **doc}))[0]
    assert [one.what for one in row.cells] == ["battery"]


def test_inverter_efficiency_lies_on_a_line_between_its_two() -> None:
    inverter = Inverter(continuous_w=900.0, efficiency_frac=0.84, best_efficiency_frac=0.92)
    assert inverter_efficiency_frac(inverter, 100.0) == 0.92
    assert inverter_efficiency_frac(inverter, 300.0) == pytest.approx(0.92)
    assert inverter_efficiency_frac(inverter, 600.0) == pytest.approx(0.88)
    assert inverter_efficiency_frac(inverter, 900.0) == pytest.approx(0.84)
    assert inverter_efficiency_frac(inverter, 2000.0) == pytest.approx(0.84)


def test_standby_counts_while_it_is_switched_on() -> None:
    load = Load(
        id="l", name="I", tag="L1", device="inverter", power_w=100.0, hours_per_day=1.0,
        inverter=Inverter(continuous_w=1000.0, standby_w=10.0, standby_hours=12.0),
    )  # fmt: skip
    figures = load_figures(load, nominal_v=12.0, school="nominal")
    assert figures.ah_per_day == pytest.approx((100 / 0.92 + 120) / 12)


@pytest.mark.parametrize(
    "fields", [{"device": "lamp"}, {"count": 2}, {"power_w": None, "current_a": 10.0}], ids=["device", "count", "amps"]
)
def test_ratings_of_an_inverter_belong_to_one_inverter(fields: dict[str, Any]) -> None:
    doc = with_inverter().model_dump(mode="json")
    part(doc, "l9").update(fields)
    with pytest.raises(BadDocument) as caught:
        parse_plan({"format": "lucernis-plan", **doc})
    assert "inverter" in caught.value.problems[0].detail


@pytest.mark.parametrize("name", ["heron", "tern", "plover_mended"])
def test_costs_are_the_sum_of_their_lines(name: str) -> None:
    plan = demo_plan(name)
    costs = costs_of(plan, sized_of(plan), PRICES)
    assert costs.missing == []
    assert costs.total == pytest.approx(sum(one.total or 0.0 for one in costs.lines))
    for one in costs.lines:
        assert one.total == pytest.approx(one.quantity * PRICES[one.key].price)
    assert [one.total for one in costs.lines] == sorted((one.total or 0.0 for one in costs.lines), reverse=True)


def test_a_price_for_one_size_wins_over_that_for_wire() -> None:
    plan = demo_plan("heron")
    sized = sized_of(plan)
    label = sized.chosen["r1"].size.label
    fine = PRICES | {f"wire:{label}": Price(f"wire:{label}", label, "m", 9.0)}
    plain, finer = costs_of(plan, sized, PRICES), costs_of(plan, sized, fine)
    keys = {one.key: one for one in finer.lines}
    metres = sum(
        run.length_m * (2 if run.legs == "both" else 1) * run.parallel
        for run in plan.runs
        if sized.chosen[run.id].size.label == label
    )
    assert keys[f"wire:{label}"].quantity == pytest.approx(metres)
    assert keys["wire"].quantity < next(one.quantity for one in plain.lines if one.key == "wire")


def test_missing_prices_are_named_and_the_rest_is_summed() -> None:
    plan = demo_plan("heron")
    some = {key: price for key, price in PRICES.items() if key != "panel"}
    costs = costs_of(plan, sized_of(plan), some)
    assert costs.missing == ["panel"]
    assert 0 < costs.total < costs_of(plan, sized_of(plan), PRICES).total


def test_every_key_the_costs_ask_for_is_in_the_list_of_keys() -> None:
    for name in ("heron", "tern", "plover", "plover_mended"):
        plan = demo_plan(name)
        assert {one.key for one in costs_of(plan, sized_of(plan), {}).lines} <= set(KEYS)


def test_prices_take_a_comma_for_a_point_and_skip_remarks() -> None:
    found = read_prices('\ufeff# a remark\nkey,price,label\nwire,0.5,Red wire\npanel,"1,25",\n')
    assert [(one.key, one.price, one.label, one.unit) for one in found] == [
        ("wire", 0.5, "Red wire", "mm²·m"), ("panel", 1.25, "Panel", "W"),
    ]  # fmt: skip


def test_mass_is_copper_batteries_and_panels() -> None:
    plan = laid_out(demo_plan("heron"))
    mass = mass_of(plan, sized_of(plan))
    assert mass.batteries_kg == 52.0
    assert mass.panels_kg == pytest.approx(720 * 0.055)
    assert mass.total_kg == pytest.approx(mass.copper_kg + mass.batteries_kg + mass.panels_kg)
    assert mass.copper_kg == pytest.approx(evaluate(plan).summary.copper_kg)


@pytest.mark.parametrize("name", ["heron", "tern", "plover", "plover_mended"])
def test_power_report_adds_up(name: str) -> None:
    power = power_report(demo_plan(name), PRICES)
    assert power.ah_per_day == pytest.approx(sum(one.ah for one in power.uses))
    assert sum(power.by_state_ah.values()) == pytest.approx(power.ah_per_day)
    assert power.wh_per_day == pytest.approx(12 * power.ah_per_day)
    for one in power.chargers:
        if one.given_a is not None:
            assert one.given_a <= one.rated_a * (1 + 1e-9)
        if one.power_in_w is not None and one.power_out_w is not None:
            assert one.power_out_w < one.power_in_w
    assert "licensed person" in power.caution


def test_shares_of_unlike_batteries_show() -> None:
    power = power_report(demo_plan("plover"), PRICES)
    assert power.bank is not None
    assert power.bank.strings == 2
    assert max(one.of_even or 0 for one in power.batteries) > 1.3


def test_ribbon_stays_in_its_frame_and_reads_as_a_table() -> None:
    plan = demo_plan("heron")
    for days in (3, 14):
        drawing = day_ribbon(forecast(plan, sized_of(plan), days))
        assert [len(row) for row in drawing.rows] == [len(drawing.columns)] * 2
        xs = [x for piece in drawing.pieces for stroke in piece.strokes for x, _ in stroke.points]
        ys = [y for piece in drawing.pieces for stroke in piece.strokes for _, y in stroke.points]
        assert min(xs) >= 0
        assert max(xs) <= drawing.width
        assert min(ys) >= 0
        assert max(ys) <= drawing.height


def test_ribbon_runs_from_left_to_right() -> None:
    plan = demo_plan("heron")
    drawing = day_ribbon(forecast(plan, sized_of(plan), 7))
    fair = next(piece for piece in drawing.pieces if piece.label.startswith("fair: lowest"))
    points = fair.strokes[0].points
    assert all(before[0] < after[0] for before, after in pairwise(points))


def test_ribbon_of_nothing_is_empty() -> None:
    doc = powered_document()
    doc["parts"] = [one for one in doc["parts"] if one["kind"] == "load"]
    doc["runs"] = []
    plan = parse_plan(doc)
    drawing = day_ribbon(forecast(plan, sized_of(plan), 3))
    assert drawing.pieces == drawing.rows == []
