"""Cases in which one term of a choice decides: left out, the answer is another."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lucernis.core.circuit.supplies import Supply, supply_on
from lucernis.core.circuit.topology import trace
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import Fault, study_faults
from lucernis.core.protection.fuse_curves import breaking_capacity
from lucernis.core.report import Report, RunReport
from lucernis.core.sizing.choice import Sized, size_plan, source_volts
from lucernis.core.sizing.fusing import charging_table_v
from lucernis.core.sizing.places import surroundings, zone_of_places
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.core.wire.copper import wire_size
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Charger, State
from lucernis.plan.rules import plan_rules
from tests.core.checks import test_source_findings as sources
from tests.core.checks.test_findings import (
    BOND,
    Spoil,
    add,
    base,
    both,
    by_chassis,
    found,
    into,
    named,
    pin_fuse,
    pin_wire,
    rules,
    set_part,
    set_run,
    wire,
)
from tests.helpers import part, powered_document, run

Doc = dict[str, Any]


def sized(*spoils: Spoil, doc: Doc | None = None) -> Sized:
    made = base() if doc is None else doc
    for spoil in spoils:
        spoil(made)
    return sized_plan(parse_plan(made))


def test_of_two_makers_on_one_run_the_smaller_fuse_counts() -> None:
    makers = both(set_part("l1", maker={"fuse_a": 15.0}), set_part("l3", maker={"fuse_a": 7.5}))
    assert sized(makers).fuses["r2"].maker_cap_a == 7.5
    doc = base()
    both(makers, pin_fuse("r2", 10))(doc)
    finding = found(doc)[("fuse-above-maker", "r2")]
    assert finding.figures == {"rating_a": 10.0, "maker_a": 7.5}
    # A way of its own is offered for the device whose maker asks for less, not for the other.
    assert [fix.label for fix in finding.fixes][-1] == "Put Far lamp on a way of its own"


def test_maker_s_fuse_is_taken_for_a_device_alone() -> None:
    """The greatest made up to what its maker names, although the load alone would take a smaller one."""
    assert sized(set_part("l2", maker={"fuse_a": 20.0})).fuses["r3"].fuse.rating_a == 20.0  # type: ignore[union-attr]
    assert sized().fuses["r3"].fuse.rating_a == 7.5  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("zone", "places"), [("hot", ("p1", "p1")), (None, ("far", "hot-place")), (None, ("hot-place", "far"))]
)
def test_the_hottest_zone_a_run_touches_counts(zone: str | None, places: tuple[str, str]) -> None:
    """65 °C at either end or on the way: whichever stands first."""
    doc = base()
    doc["places"].append({"id": "hot-place", "name": "By the oven", "zone": "hot"})
    part(doc, "f1")["place"], part(doc, "l2")["place"] = places
    run(doc, "r3")["zone"] = zone
    plan = parse_plan(doc)
    one = next(run for run in plan.runs if run.id == "r3")
    assert surroundings(plan, trace(plan), one, zone_of_places(plan)).ambient_c == 65.0


def test_engine_space_at_one_end_is_enough() -> None:
    doc = base()
    part(doc, "l2")["place"] = "bay"
    plan = parse_plan(doc)
    one = next(run for run in plan.runs if run.id == "r3")
    assert surroundings(plan, trace(plan), one, zone_of_places(plan)).engine_space


def test_each_of_several_conductors_has_its_own_fuse_of_its_share() -> None:
    """160 A over two conductors: with a fuse each 80 A · 1.05 apiece, with one for both 160 A · 1.05."""
    heavy = both(set_part("l2", current_a=160.0), set_run("r3", start={"part": "s1"}, parallel=2, length_m=0.5))
    near = {"distance_m": 0.1, "family": "anl"}
    apart = sized(heavy, set_run("r3", fuse_at_start=near | {"each": True})).fuses["r3"]
    shared = sized(heavy, set_run("r3", fuse_at_start=near)).fuses["r3"]
    assert (apart.count, shared.count) == (2, 1)
    assert apart.least_a == pytest.approx(160.0 * 1.05 / 2, rel=1e-3)
    assert shared.least_a == pytest.approx(160.0 * 1.05, rel=1e-3)
    assert apart.lasting_a == 2 * apart.fuse.rating_a  # type: ignore[union-attr]


@pytest.mark.parametrize(("at_battery", "distance_m", "fires"), [
    (True, 1.82, False), (True, 1.84, True), (False, 1.01, False), (False, 1.03, True)])  # fmt: skip
def test_sheathed_wire_may_be_longer_at_a_battery_post_than_elsewhere(
    at_battery: bool, distance_m: float, fires: bool
) -> None:
    """72 in at a battery post, 40 in at any other source: ABYC E-11 (memory)."""
    doc = base()
    name = "r1" if at_battery else "r8"
    run(doc, name).update(length_m=3.0, fuse_at_start={"distance_m": distance_m, "sheathed": True})
    assert (("fuse-too-far", name) in found(doc)) is fires


@pytest.mark.parametrize(
    ("volts", "school", "held_v"), [(12, "running", 13.5), (24, "running", 27.0), (24, "nominal", 24)]
)
def test_volts_of_a_running_engine_go_with_the_system(volts: int, school: str, held_v: float) -> None:
    doc = base()
    doc["nominal_v"] = volts
    rules(design_volts=school)(doc)
    plan = parse_plan(doc)
    assert source_volts(plan, plan_rules(plan)) == held_v


def test_joints_of_parallel_conductors_stand_side_by_side() -> None:
    """Two conductors lose half of one in wire and in joints alike."""
    pin = pin_wire("r1", "2")
    one, two = (sized(pin, set_run("r1", parallel=n)).chosen["r1"] for n in (1, 2))
    assert two.joints_ohm == pytest.approx(one.joints_ohm / 2)
    assert two.wire_loop_ohm == pytest.approx(one.wire_loop_ohm / 2, rel=0.02)
    assert two.copper_mm2_m == pytest.approx(2 * one.copper_mm2_m)
    whole = leg_ohms(parse_plan(base()), sized().chosen)
    assert whole.shape == (2 * 5,)


@pytest.mark.parametrize(("size", "plain", "tinned"), [("0.75", 26.0, 26.7), ("1.5", 13.3, 13.7), ("10", 1.91, 1.95)])
def test_tinned_copper_resists_more(size: str, plain: float, tinned: float) -> None:
    """IEC 60228 class 5, maximum resistance at 20 °C in mΩ/m (memory)."""
    assert 1000 * wire_size("mm2", size).resistance_20_ohm_per_m == pytest.approx(plain)
    assert 1000 * wire_size("mm2", size, tinned=True).resistance_20_ohm_per_m == pytest.approx(tinned)


def test_tinned_rule_reaches_the_sizes_of_a_plan() -> None:
    doc = base()
    doc["practice"] = {"set": "metric_caravan", "overrides": [{"rule": "tinned", "value": True, "reason": "boat"}]}
    tinned = sized_plan(parse_plan(doc)).chosen["r3"].size
    assert tinned.resistance_20_ohm_per_m == wire_size("mm2", tinned.name, tinned=True).resistance_20_ohm_per_m


def test_a_wire_home_is_meant_before_the_body() -> None:
    """From the bond's bolt as many steps by wires as through the body: the current counts on the wires."""
    doc = base()
    both(
        BOND,
        add(
            named("chassis_point", "g2"), named("joint", "j1", form="stud"), named("joint", "j2", form="stud"),
            wire("r25", "l3", "g2", 0.5, legs="negative"), wire("r26", "l3", "j2", 3.0, legs="negative"),
            wire("r27", "j2", "j1", 3.0, legs="negative"), wire("r28", "j1", "g1", 3.0, legs="negative"),
        ),
        set_run("r4", legs="positive"),
    )(doc)  # fmt: skip
    returns = sized_plan(parse_plan(doc)).returns
    assert all("l3" in returns.through[name] for name in ("r26", "r27", "r28"))
    assert returns.by_chassis == ()
    away = base()
    by_chassis(away)
    assert sized_plan(parse_plan(away)).returns.by_chassis == ("l3",)


def test_the_cable_of_a_string_is_made_for_what_its_battery_gives_or_takes() -> None:
    """Behind the trunk 120 A flow. Each battery may give 30 A and take 80 A, or the other way round: 80 A counts."""
    for gives_a, takes_a in ((30.0, 80.0), (80.0, 30.0)):
        doc = powered_document()
        part(doc, "b1").update(discharge_a=gives_a, discharge_short_a=None, charge_a=takes_a)
        part(doc, "l2").update(current_a=120.0)
        sources.bank(parallel=2, take_off="busbar")(doc)
        figures = sized_plan(parse_plan(doc)).demand
        assert len(figures.strings) == 2
        for name in figures.strings:
            assert figures.carry_a[name] == pytest.approx(80.0)


def test_reach_tells_how_short_the_last_run_would_have_to_be() -> None:
    """10 A, 3 % of 12 V, 10 AWG at most: 0.36 V over 2 · L · 10 A · R, R of warm 10 AWG 3.4 to 3.9 mΩ/m."""
    doc = base()
    part(doc, "l2").update(sensitive=True, current_a=10.0)
    run(doc, "r3").update(length_m=40.0)
    run(doc, "r1").update(length_m=0.2)
    rules(shelf=["14", "12", "10"], size_worth_m=0)(doc)
    text = found(doc)[("drop-out-of-reach", "l2")].mend
    metres = float(text.split(" m one way")[0].split()[-1])
    assert 3.2 < metres < 5.0


def test_plan_of_pairs_counts_both_legs_once() -> None:
    made = sized()
    leg = leg_ohms(parse_plan(base()), made.chosen)
    option = made.chosen["r3"]
    at = [one.id for one in parse_plan(base()).runs].index("r3")
    assert float(np.sum(leg[2 * at : 2 * at + 2])) == pytest.approx(
        option.wire_loop_ohm + option.joints_ohm + option.fuse_ohm
    )


def report_run(report: Report, run_id: str) -> RunReport:
    return next(one for one in report.runs if one.id == run_id)


def test_size_plan_is_what_is_remembered() -> None:
    plan = parse_plan(base())
    assert size_plan(plan, plan_rules(plan)).chosen == sized_plan(plan).chosen


def test_the_state_of_a_run_is_that_of_its_largest_current_not_of_its_largest_fuse() -> None:
    """10 A for an hour in one state, 9 A for five hours in the other: the fuse goes by 11.25 A, the current by 10 A."""
    doc = base()
    part(doc, "l1").update(power_w=None, current_a=10.0, behaviour="constant_current", hours_per_day=1)
    part(doc, "l2").update(current_a=9.0, hours_per_day=5)
    doc["parts"] = [one for one in doc["parts"] if one["id"] != "l3"]
    doc["runs"] = [one for one in doc["runs"] if one["id"] != "r4"]
    doc["states"] = [{"id": "long", "name": "Long", "off": ["l1"]}, {"id": "strong", "name": "Strong", "off": ["l2"]}]
    figures = sized_plan(parse_plan(doc)).demand
    assert (figures.design_current_a["r1"], figures.design_state["r1"]) == (10.0, "strong")
    assert figures.fuse_least_a["r1"] == pytest.approx(1.25 * 9.0)


def test_the_house_side_hangs_on_its_battery_not_on_the_starter_through_a_link() -> None:
    """As many steps from either battery to the bars, the starter's drawn first: what a link joins comes last."""
    doc = powered_document()
    sources.link(doc)
    doc["parts"].sort(key=lambda one: one["id"] != "b0")
    doc["runs"].sort(key=lambda one: one["id"] not in ("r9", "r8"))
    doc["parts"].append(named("switch", "s1", use="isolator"))
    run(doc, "r1")["finish"] = {"part": "s1"}
    doc["runs"].append(wire("r33", "s1", "u1", 0.3))
    topology = trace(parse_plan(doc))
    assert {topology.root_of[name] for name in ("u1", "f1", "l1")} == {"b1"}


def test_a_run_drawn_towards_the_battery_loses_what_it_loses_drawn_away_from_it() -> None:
    away, towards = base(), base()
    for doc in (away, towards):
        into("r3", named("busbar", "u1"))(doc)
    one = run(towards, "r20")
    one["start"], one["finish"] = one["finish"], one["start"]
    lost = []
    for doc in (away, towards):
        made = sized_plan(parse_plan(doc))
        lost.append(made.parts_lost_v(made.states["all_on"])["l2"])
    assert lost[1] == pytest.approx(lost[0], rel=1e-6)
    assert lost[0][0] > 0.05


@pytest.mark.parametrize(("form", "terminal", "pv_high_v", "on"), [
    ("dcdc", "in", None, {"engine"}), ("dcdc", "out", None, {"engine"}), ("dcdc", "in", 25.0, {"engine"}),
    ("dcdc", "out", 25.0, {"engine", "sun"}), ("dcdc", "pv", 25.0, {"sun"}), ("sun", "pv", 75.0, {"sun"}),
    ("sun", "out", 75.0, {"sun"}), ("shore", "out", None, {"shore"})])  # fmt: skip
def test_each_terminal_of_a_charger_works_with_its_source(
    form: Any, terminal: str, pv_high_v: float | None, on: set[str]
) -> None:
    charger = Charger(id="q", name="Q", tag="Q", form=form, pv_high_v=pv_high_v)
    supply = Supply(charger, terminal, ())
    states = {
        "engine": State(id="e", name="E", engine_on=True), "sun": State(id="s", name="S", sun=True),
        "shore": State(id="m", name="M", shore_on=True), "none": State(id="n", name="N"),
    }  # fmt: skip
    assert {name for name, state in states.items() if supply_on(supply, state)} == on


def test_a_wire_fed_from_both_ends_stands_the_fuse_at_either() -> None:
    """20 A at the block, 60 A at the second battery: a short between is fed through both, so 60 A it has to carry."""
    joined = add(
        named("battery", "b2", short_circuit_a=900.0),
        wire("r9", {"part": "f1", "way": 6}, "b2", 1.5, fuse_at_start={"pin": {"rating_a": 20.0, "reason": "test"}},
             fuse_at_finish={"distance_m": 0.1, "family": "bolt_m8", "pin": {"rating_a": 60.0, "reason": "test"}}),
    )  # fmt: skip
    made = sized(joined)
    assert set(made.cases["r9"].guards) >= {"r9", "r9:far"}
    assert (made.chosen["r9"].amp.ampacity_a or 0.0) >= 60.0
    # A run only one end feeds is held to its own fuse alone.
    assert set(made.cases["r3"].guards) == {"r3"}


def test_what_a_pinned_bond_would_have_been_is_told() -> None:
    made = sized(BOND, pin_wire("r24", "18"))
    assert (made.chosen["r24"].size.name, made.unpinned["r24"].size.name) == ("18", "14")


def test_charging_pushes_through_the_runs_of_a_plain_link() -> None:
    doc = powered_document()
    sources.link(doc)
    figures = sized_plan(parse_plan(doc)).demand
    assert {"r8", "r9"} <= figures.pushed
    assert not sized_plan(parse_plan(powered_document())).demand.pushed


def test_a_negative_alone_counts_its_drop_on_the_way_home() -> None:
    """The lamp's own way back over the body: what is lost from its bolt to the battery is not nothing."""
    doc = base()
    by_chassis(doc)
    worst = {one.id: one.worst for one in evaluate(parse_plan(doc)).runs}
    assert worst["r24"] is not None
    assert worst["r24"].drop_to_end_v > 0
    assert worst["r24"].conductor_drop_to_end_v > 0


@pytest.mark.parametrize("amps", [40.0, 80.0, 130.0])
def test_one_fuse_for_two_conductors_is_of_a_family_made_for_all_of_it(amps: float) -> None:
    """Its family is looked for by what flows through it: half of that would end in one not made so large."""
    heavy = both(set_part("l2", current_a=amps), set_run("r3", start={"part": "s1"}, parallel=2, length_m=0.5))
    shared = sized(heavy, set_run("r3", fuse_at_start={"distance_m": 0.1})).fuses["r3"]
    assert shared.fuse is not None
    assert shared.fuse.rating_a >= shared.least_a == pytest.approx(1.05 * amps)


def test_the_trunk_at_a_post_the_strings_meet_on_carries_all_of_the_bank() -> None:
    """Two of 100 A linked post to post, 150 A asked: the trunk taps both, each link half."""
    doc = powered_document()
    part(doc, "b1").update(discharge_a=100.0, discharge_short_a=150.0, charge_a=80.0)
    part(doc, "l2").update(current_a=150.0)
    sources.bank(parallel=2, take_off="same_end")(doc)
    figures = sized_plan(parse_plan(doc)).demand
    assert figures.carry_a["r1"] > 150.0
    assert figures.strings == frozenset()
    for name in figures.links:
        assert figures.carry_a[name] == pytest.approx(figures.carry_a["r1"] / 2)


def test_a_string_s_own_fuse_breaks_what_its_string_gives_by_itself() -> None:
    """Nothing stands before it that would help: what its cable lets through it breaks; behind the bars it helps."""
    doc = powered_document()
    doc["practice"] = {"set": "vehicle_accessory"}
    part(doc, "b1").update(short_circuit_a=14000.0)
    part(doc, "b0")["short_circuit_a"] = 900.0
    sources.bank(parallel=2, take_off="busbar")(doc)
    plan = parse_plan(doc)
    made = sized_plan(plan)
    for name in made.demand.strings:
        one = made.fuses[name]
        assert one.fuse is not None
        assert (breaking_capacity(one.fuse.family, charging_table_v(plan)).breaking_a or 0.0) >= one.break_a > 5000.0
    assert made.fuses["r20"].fuse.family == "bolt_m8"  # type: ignore[union-attr]


def test_a_trunk_behind_two_fuses_side_by_side_is_heated_by_both() -> None:
    """A short behind the bars is fed through both strings' fuses: more current, and more heat than one lets
    through, although the trunk carries the same load."""

    def short(*, two: bool) -> tuple[Sized, Fault]:
        doc = powered_document()
        if two:
            sources.SPOILS["bank-mixed-lead"][0](doc)
            run(doc, "r1")["fuse_at_start"] = None
        plan = parse_plan(doc)
        made = sized_plan(plan)
        return made, next(one for one in study_faults(plan, made).of_run["r1"] if one.where == "finish")

    (two, of_two), (one, of_one) = short(two=True), short(two=False)
    assert two.carry_a("r1") == pytest.approx(one.carry_a("r1"), rel=0.5)
    assert two.chosen["r1"].size == one.chosen["r1"].size
    assert set(of_two.openers) == {"r26", "r27"}
    assert of_two.strongest_a > 1.2 * of_one.strongest_a
    # Each of the two lets through what one alone does, at once: four times the heat, less what the trunk limits.
    assert (of_two.heat_a2s or 0.0) > 3 * (of_one.heat_a2s or 0.0)


@pytest.mark.parametrize(("conductors", "most"), [(1, "4 AWG"), (2, "6 AWG"), (3, "8 AWG")])
def test_copper_beyond_what_its_drop_is_worth_goes_by_each_conductor(conductors: int, most: str) -> None:
    """60 A at 2 A for each mm² at least: 30 mm² for one conductor, 15 mm² each for two, 10 mm² each for three."""
    heavy = set_run("r3", start={"part": "s1"}, parallel=conductors, length_m=6.0,
                    fuse_at_start={"distance_m": 0.1, "family": "anl"})  # fmt: skip
    made = sized(set_part("l2", current_a=60.0), heavy, rules(size_worth_m=0, drop_least_a_per_mm2=2.0))
    assert made.cases["r3"].options[-1].size.label == most
    assert made.cases["r3"].refusals[-1].reason == "copper"


def test_runs_carry_what_is_solved_to_flow_where_that_is_more_than_was_reckoned() -> None:
    """A lamp that is to work at 11.99 V is reckoned with at 11.99 V; it gets less, so more flows."""
    doc = base()
    part(doc, "l1")["min_v"] = 11.99
    made = sized(doc=doc)
    for name in ("r1", "r2", "r8"):
        flows_a = max(abs(one.run_a[name]) for one in made.states.values())
        assert flows_a > 1.005 * made.demand.carry_a[name]
        assert made.carry_a(name) == pytest.approx(flows_a, rel=1e-3)


def test_what_a_line_would_be_without_pins_is_one_size_too() -> None:
    """The pin sits on a branch; main cable before and behind the switch stay one line in what is told without it."""
    doc = base()
    both(pin_wire("r3", "16"), set_part("l2", current_a=15.0), set_run("r3", bundle_count=8))(doc)
    unpinned = sized(doc=doc).unpinned
    assert unpinned["r1"].size.name == unpinned["r8"].size.name == "10"


def test_shares_of_a_leg_alone_are_those_of_its_own_conductor() -> None:
    """A positive alone has all of its wire, joints and fuse; of a pair wire and joints stand half in each leg."""
    doc = base()
    by_chassis(doc)
    run(doc, "r4")["fuse_at_start"] = {"distance_m": 0.1}
    plan = parse_plan(doc)
    made = sized_plan(plan)
    for name, legs in (("r4", 1), ("r3", 2)):
        at, option = 2 * [one.id for one in plan.runs].index(name), made.chosen[name]
        whole = option.wire_loop_ohm / legs + option.joints_ohm / legs + option.fuse_ohm
        assert made.shares.fuses[at] == pytest.approx(option.fuse_ohm / whole)
        assert made.shares.wire[at] == pytest.approx(option.wire_loop_ohm / legs / whole)
        assert option.fuse_ohm > 0
