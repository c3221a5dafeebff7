"""Who feeds whom, which fuse protects what, and which sizes a run may have at all."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.returns import trace_returns
from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.circuit.topology import Topology, path_runs, trace
from lucernis.core.sizing.choice import size_plan
from lucernis.core.sizing.demand import demand
from lucernis.core.sizing.fusing import RunFuse, choose_fuses
from lucernis.core.sizing.options import Case, make_cases
from lucernis.core.sizing.places import surroundings, zone_of_places
from lucernis.core.sizing.selection import MOST_POINTS, Shape, _Frontier, _prune, _thin, cheapest_options
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import part, run, small_document


def plan_with(*changes: Any) -> Plan:
    doc = small_document()
    for change in changes:
        change(doc)
    return parse_plan(doc)


def traced(plan: Plan) -> tuple[Topology, dict[str, RunFuse], dict[str, Case]]:
    topology, rules = trace(plan), plan_rules(plan)
    returns = trace_returns(plan, topology)
    figures = demand(plan, topology, returns, SwitchingPlan(plan), rules)
    fuses = choose_fuses(plan, topology, figures, rules)
    return topology, fuses, make_cases(plan, topology, returns, figures, fuses, rules)


def test_trace_small_plan() -> None:
    found = trace(plan_with())
    assert found.order == ("r1", "r2", "r3", "r4")
    assert found.loads_behind == {"r1": ("l1", "l3", "l2"), "r2": ("l1", "l3"), "r3": ("l2",), "r4": ("l3",)}
    assert found.feeder_of == {"f1": "r1", "l1": "r2", "l2": "r3", "l3": "r4"}
    assert (found.closing, found.dead) == ((), ())


def test_trace_follows_a_run_drawn_the_other_way() -> None:
    def turn(doc: dict[str, Any]) -> None:
        one = run(doc, "r4")
        one["start"], one["finish"] = {"part": "l3"}, {"part": "l1"}

    found = trace(plan_with(turn))
    assert found.feeder_of["l3"] == "r4"
    assert (found.start_of["r4"], found.finish_of["r4"]) == ("l1", "l3")
    assert found.loads_behind["r4"] == ("l3",)


def test_size_plan_is_the_same_for_a_run_drawn_the_other_way() -> None:
    def turn(doc: dict[str, Any]) -> None:
        one = run(doc, "r4")
        one["start"], one["finish"] = {"part": "l3"}, {"part": "l1"}

    straight, turned = (size_plan(plan, plan_rules(plan)) for plan in (plan_with(), plan_with(turn)))
    assert {one: option.size.name for one, option in straight.chosen.items()} == {
        one: option.size.name for one, option in turned.chosen.items()
    }
    assert straight.states["all_on"].part_v["l3"] == pytest.approx(turned.states["all_on"].part_v["l3"], abs=1e-7)


def test_trace_unreached_runs_are_dead() -> None:
    found = trace(plan_with(lambda doc: doc["runs"].remove(run(doc, "r1"))))
    assert set(found.dead) == {"r2", "r3", "r4"}
    assert found.order == ()


def test_trace_second_way_to_a_part_closes_a_loop() -> None:
    def ring(doc: dict[str, Any]) -> None:
        doc["runs"].append(
            {"id": "r9", "tag": "C09", "start": {"part": "l2"}, "finish": {"part": "l3"}, "length_m": 1.0}
        )

    found = trace(plan_with(ring))
    assert len(found.closing) == 1
    assert set(found.order) | set(found.closing) == {"r1", "r2", "r3", "r4", "r9"}


def test_size_plan_with_a_loop_still_answers() -> None:
    def ring(doc: dict[str, Any]) -> None:
        doc["runs"].append(
            {"id": "r9", "tag": "C09", "start": {"part": "l2"}, "finish": {"part": "l3"}, "length_m": 1.0}
        )

    plan = plan_with(ring)
    sized = size_plan(plan, plan_rules(plan))
    assert set(sized.chosen) == {"r1", "r2", "r3", "r4", "r9"}
    assert sized.states["all_on"].converged
    assert sized.states["all_on"].part_v["l3"] > 10.8
    closing = sized.topology.closing[0]
    assert sized.cases[closing].design_current_a >= abs(sized.states["all_on"].run_a[closing])


def test_two_batteries_side_by_side_share() -> None:
    def second(doc: dict[str, Any]) -> None:
        doc["parts"].append({"kind": "battery", "id": "b2", "name": "Second", "tag": "B02"})
        doc["runs"].append(
            {"id": "r9", "tag": "C09", "start": {"part": "b2"}, "finish": {"part": "f1"}, "length_m": 2.0,
             "fuse_at_start": {"distance_m": 0.1}}
        )  # fmt: skip

    plan = plan_with(second)
    sized = size_plan(plan, plan_rules(plan))
    state = sized.states["all_on"]
    assert abs(state.run_a["r1"]) + abs(state.run_a["r9"]) == pytest.approx(state.source_a, rel=1e-6)
    assert abs(state.run_a["r9"]) > 0.5


def test_path_runs_from_battery_to_part() -> None:
    found = trace(plan_with())
    assert path_runs(found, "l3") == ("r1", "r2", "r4")
    assert path_runs(found, "b1") == ()


@pytest.mark.parametrize(("run_id", "protector"), [("r1", "r1"), ("r2", "r2"), ("r4", "r2")])
def test_protecting_fuse_is_the_nearest_towards_the_battery(run_id: str, protector: str) -> None:
    _, _, cases = traced(plan_with())
    assert cases[run_id].protector == protector


def test_protecting_fuse_falls_back_to_the_feeder_and_then_to_nothing() -> None:
    _, _, cases = traced(plan_with(lambda doc: run(doc, "r2").update(fuse_at_start=None)))
    assert cases["r4"].protector == "r1"

    def bare(doc: dict[str, Any]) -> None:
        run(doc, "r1").update(fuse_at_start=None)
        run(doc, "r2").update(fuse_at_start=None)

    _, _, cases = traced(plan_with(bare))
    assert cases["r4"].protector is None


@pytest.mark.parametrize(("run_id", "families"), [("r1", "post_block"), ("r2", "blade_regular")])
def test_choose_fuses_family_by_place(run_id: str, families: str) -> None:
    _, fuses, _ = traced(plan_with())
    assert fuses[run_id].families[0] == families


def test_choose_fuses_single_device_on_the_battery_takes_a_branch_fuse() -> None:
    def direct(doc: dict[str, Any]) -> None:
        run(doc, "r3").update(start={"part": "b1"}, fuse_at_start={"distance_m": 0.1})

    _, fuses, _ = traced(plan_with(direct))
    fuse = fuses["r3"].fuse
    assert fuse is not None
    assert (fuse.family, fuse.rating_a) == ("blade_regular", 7.5)


def test_choose_fuses_block_family_limits_the_choice() -> None:
    _, fuses, _ = traced(plan_with(lambda doc: part(doc, "f1").update(family="blade_mini")))
    assert fuses["r2"].families == ("blade_mini",)


def test_choose_fuses_pin_without_family_takes_the_one_that_makes_it() -> None:
    def pin(doc: dict[str, Any]) -> None:
        run(doc, "r1")["fuse_at_start"]["pin"] = {"rating_a": 350, "reason": "test"}

    _, fuses, _ = traced(plan_with(pin))
    found = fuses["r1"]
    assert found.fuse is not None
    assert (found.fuse.family, found.fuse.pinned) == ("class_t", True)
    assert found.computed is not None
    assert found.computed.rating_a == 30.0


def test_surroundings_take_the_hottest_of_run_and_places() -> None:
    def hot(doc: dict[str, Any]) -> None:
        doc["places"].append({"id": "p2", "name": "Under bonnet", "zone": "z2"})
        part(doc, "l1")["place"] = "p2"

    plan = plan_with(hot)
    topology = trace(plan)
    by_id = {one.id: surroundings(plan, topology, one, zone_of_places(plan)) for one in plan.runs}
    assert (by_id["r2"].ambient_c, by_id["r2"].engine_space) == (50.0, True)
    assert (by_id["r4"].ambient_c, by_id["r4"].engine_space) == (50.0, True)
    assert (by_id["r3"].ambient_c, by_id["r3"].engine_space) == (30.0, False)


def rules(doc: dict[str, Any], **values: Any) -> None:
    doc["practice"]["overrides"] = [{"rule": rule, "value": value, "reason": "test"} for rule, value in values.items()]


def ask_too_much(doc: dict[str, Any]) -> None:
    part(doc, "l2")["current_a"] = 30.0


def ask_least(doc: dict[str, Any]) -> None:
    part(doc, "l2")["maker"] = {"least": {"system": "awg", "size": "12"}}


def ask_greatest(doc: dict[str, Any]) -> None:
    part(doc, "l2")["maker"] = {"greatest": {"system": "awg", "size": "14"}}


def ask_in_the_heat(doc: dict[str, Any]) -> None:
    run(doc, "r3").update(insulation_c=60, zone="z2", bundle_count=30)


def ask_thin(doc: dict[str, Any]) -> None:
    rules(doc, shelf=["18", "10"])


def ask_margin(doc: dict[str, Any]) -> None:
    rules(doc, margin_frac=1.0, insulation_c=60)
    part(doc, "l2")["current_a"] = 10.0


def ask_large_fuse(doc: dict[str, Any]) -> None:
    run(doc, "r3")["fuse_at_start"] = {"pin": {"rating_a": 40, "family": "blade_regular", "reason": "test"}}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (ask_too_much, "carries 25.0 A, 30.0 A asked"),
        (ask_least, "thinner than the maker"),
        (ask_greatest, "thicker than Pump takes (device: 14 AWG)"),
        (ask_in_the_heat, "A asked"),
        (ask_thin, "thinner than the least size"),
        (ask_margin, "20.0 A asked"),
        (ask_large_fuse, "its fuse is 40 A"),
    ],
)
def test_make_cases_says_what_stops_a_size(change: Any, says: str) -> None:
    _, _, cases = traced(plan_with(change))
    assert any(says in one.text for one in cases["r3"].refusals), cases["r3"].refusals


def test_make_cases_joints_by_what_they_end_on() -> None:
    _, _, cases = traced(plan_with())
    joints = {one: dict(case.options[0].joints) for one, case in cases.items()}
    assert joints["r1"] == {"lug_large": 2, "lug_small": 2}
    assert joints["r2"] == {"push_on": 4}


def test_make_cases_pin_is_the_only_option_and_never_forced() -> None:
    pinned = {"wire": {"system": "awg", "size": "18", "reason": "test"}}
    _, _, cases = traced(plan_with(lambda doc: run(doc, "r3").update(pinned)))
    assert [option.size.name for option in cases["r3"].options] == ["18"]
    assert (cases["r3"].pinned, cases["r3"].forced) == (True, False)


def test_options_grow_in_copper_and_shrink_in_resistance() -> None:
    _, _, cases = traced(plan_with())
    for case in cases.values():
        assert case.in_order
        assert sorted(case.counted_ohm, reverse=True) == list(case.counted_ohm)


def test_prune_keeps_only_points_no_other_beats() -> None:
    import numpy as np

    spare, copper = np.array([1.0, 2.0, 2.0, 3.0, 0.5]), np.array([5.0, 4.0, 6.0, 9.0, 1.0])
    kept = _prune(spare, copper)
    assert list(zip(spare[kept], copper[kept], strict=True)) == [(0.5, 1.0), (2.0, 4.0), (3.0, 9.0)]


def test_thin_keeps_both_ends_and_never_promises_more() -> None:
    import numpy as np

    count = 5 * MOST_POINTS
    every = np.arange(count)
    thin = _thin(_Frontier(every * 0.01, every * 1.0, every, every * 0.01))
    assert len(thin.spare_v) <= MOST_POINTS
    assert (thin.spare_v[0], thin.spare_v[-1]) == (0.0, pytest.approx(0.01 * (count - 1)))
    assert list(thin.copper) == pytest.approx(list(thin.spare_v * 100))


def test_cheapest_options_without_limits_takes_the_thinnest() -> None:
    plan = plan_with()
    sized = size_plan(plan, plan_rules(plan))
    picks = cheapest_options(
        Shape(sized.topology, sized.cases, ("b1",), {}, taper=False), dict.fromkeys(sized.topology.order, 5.0), {}
    )
    assert picks == dict.fromkeys(sized.topology.order, 0)


def test_cheapest_options_spends_copper_where_it_counts_most() -> None:
    # Two equal loads at the end of a long shared run: one thicker feeder is cheaper than two thicker branches.
    def long_feeder(doc: dict[str, Any]) -> None:
        run(doc, "r1")["length_m"] = 6.0
        for one in ("l1", "l2"):
            part(doc, one).update(current_a=None, power_w=60.0, behaviour="constant_power", sensitive=True, keyed=False)
        for one in ("r2", "r3"):
            run(doc, one)["length_m"] = 1.0

    plan = plan_with(long_feeder)
    sized = size_plan(plan, plan_rules(plan))
    feeder, branches = sized.chosen["r1"].size.area_mm2, [sized.chosen[one].size.area_mm2 for one in ("r2", "r3")]
    assert feeder > 1.5 * max(branches)
