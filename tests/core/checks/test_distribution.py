"""Switches, relays, reversing, parallel conductors, negatives of their own and the body as a return."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.guards import Guards
from lucernis.core.pictures.step_down import step_down_map
from lucernis.core.report import Report
from lucernis.core.sizing.choice import size_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.rules import plan_rules

Doc = dict[str, Any]


def wire(name: str, start: Any, finish: Any, length_m: float = 1.0, **fields: Any) -> Doc:
    ends = [end if isinstance(end, dict) else {"part": end} for end in (start, finish)]
    return {"id": name, "tag": name.upper(), "start": ends[0], "finish": ends[1], "length_m": length_m} | fields


def load(name: str, power_w: float = 24.0, **fields: Any) -> Doc:
    return {
        "kind": "load",
        "id": name,
        "name": name,
        "tag": name.upper(),
        "power_w": power_w,
        "hours_per_day": 1,
    } | fields


def other(kind: str, name: str, **fields: Any) -> Doc:
    return {"kind": kind, "id": name, "name": name, "tag": name.upper()} | fields


def document(parts: list[Doc], runs: list[Doc], **fields: Any) -> Doc:
    return {
        "format": "lucernis-plan",
        "version": 2,
        "job": {"name": "Made"},
        "practice": {"set": "small_craft_us"},
        "zones": [{"id": "z", "name": "Inside"}],
        "parts": [other("battery", "b1", capacity_ah=100.0), *parts],
        "runs": runs,
    } | fields


def made(parts: list[Doc], runs: list[Doc], **fields: Any) -> Report:
    return evaluate(parse_plan(document(parts, runs, **fields)))


def volts(report: Report, point: str) -> list[float | None]:
    return next(node.voltage_v for node in report.nodes if node.id == point)


FUSED = {"fuse_at_start": {"distance_m": 0.1}}


def test_isolating_switch_kills_what_is_behind_it() -> None:
    states = [{"id": "on", "name": "On"}, {"id": "off", "name": "Off", "open": ["s1"]}]
    report = made(
        [other("switch", "s1", use="isolator"), load("l1")],
        [wire("r1", "b1", "s1", **FUSED), wire("r2", "s1", "l1")],
        states=states,
    )
    assert volts(report, "s1")[1] == pytest.approx(12.0)
    assert volts(report, "s1:out") == [pytest.approx(volts(report, "s1")[0], abs=0.05), None]
    assert volts(report, "l1")[1] is None
    assert not report.loads[0].states["off"].on
    assert report.summary.states[1].battery_current_a == pytest.approx(0.0, abs=1e-9)


def test_fuse_taken_out_kills_what_is_behind_it() -> None:
    states = [{"id": "on", "name": "On"}, {"id": "out", "name": "Fuse out", "open": ["r1"]}]
    report = made([load("l1")], [wire("r1", "b1", "l1", **FUSED)], states=states)
    assert volts(report, "l1")[1] is None


def test_relay_follows_its_coil_and_the_key() -> None:
    states = [{"id": "key", "name": "Key"}, {"id": "none", "name": "No key", "key_on": False}]
    report = made(
        [other("relay", "y1", contact_a=30.0), other("keyed_feed", "k1"), load("l1")],
        [
            wire("r1", "b1", "y1", **FUSED),
            wire("r2", "y1", "l1"),
            wire("r3", "b1", "k1", **FUSED),
            wire("r4", "k1", {"part": "y1", "terminal": "coil"}),
        ],
        states=states,
    )
    assert volts(report, "l1")[0] is not None
    assert volts(report, "l1")[1] is None
    coil_a = report.runs[3].states["key"].current_a
    assert coil_a == pytest.approx(0.15, rel=0.05)
    assert report.runs[3].states["none"].current_a == 0.0


def test_three_position_switch_feeds_one_way_at_a_time() -> None:
    def at(position: str) -> Doc:
        return {"id": position, "name": position, "modes": [{"part": "s1", "position": position}]}

    report = made(
        [other("switch", "s1", form="three_position"), load("l1"), load("l2")],
        [
            wire("r1", "b1", "s1", **FUSED),
            wire("r2", {"part": "s1", "terminal": "out"}, "l1"),
            wire("r3", {"part": "s1", "terminal": "out_b"}, "l2"),
        ],
        states=[at("a"), at("b"), at("off")],
    )
    assert [value is not None for value in volts(report, "l1")] == [True, False, False]
    assert [value is not None for value in volts(report, "l2")] == [False, True, False]


def test_reversing_switch_turns_the_polarity_and_the_motor_still_runs() -> None:
    states = [
        {"id": "up", "name": "Up"},
        {"id": "down", "name": "Down", "modes": [{"part": "s1", "position": "b"}]},
    ]
    report = made(
        [other("switch", "s1", form="reversing"), load("l1", 60.0)],
        [wire("r1", "b1", "s1", **FUSED), wire("r2", "s1", "l1")],
        states=states,
    )
    motor = report.loads[0]
    assert motor.states["up"].served
    assert motor.states["down"].served
    assert motor.states["down"].current_a == pytest.approx(motor.states["up"].current_a, rel=1e-6)
    sized = size_plan(*(lambda plan: (plan, plan_rules(plan)))(parse_plan(document(
        [other("switch", "s1", form="reversing"), load("l1", 60.0)],
        [wire("r1", "b1", "s1", **FUSED), wire("r2", "s1", "l1")], states=states))))  # fmt: skip
    wiring = sized.wiring
    for state, sign in (("up", 1), ("down", -1)):
        node_v = sized.states[state].solution.node_v
        assert sign * (node_v[wiring.pos["l1"]] - node_v[wiring.neg["l1"]]) > 11


def test_parallel_conductors_halve_resistance_and_carry_twice() -> None:
    pin = {"system": "awg", "size": "8", "reason": "test"}
    single, double = (
        made([load("l1", 300.0)], [wire("r1", "b1", "l1", 4.0, wire=pin, parallel=count, **FUSED)]).runs[0]
        for count in (1, 2)
    )
    assert double.wire.ampacity_a == pytest.approx(2 * (single.wire.ampacity_a or 0))
    assert double.worst.drop_v < 0.6 * single.worst.drop_v


def test_negative_of_its_own_takes_the_size_of_its_positive_and_carries_its_current() -> None:
    report = made(
        [other("shunt", "h1"), other("busbar", "u1"), load("l1", 120.0)],
        [
            wire("r1", "b1", "u1", 1.0, legs="positive", **FUSED),
            wire("r2", "b1", "h1", 0.5, legs="negative"),
            wire("r3", "h1", "u1", 0.5, legs="negative"),
            wire("r4", "u1", "l1", 2.0, fuse_at_start={}),
        ],
    )
    runs = {run.id: run for run in report.runs}
    assert runs["r2"].wire.label == runs["r3"].wire.label == runs["r1"].wire.label
    assert runs["r2"].worst.current_a == pytest.approx(runs["r1"].worst.current_a)
    assert runs["r1"].loop_length_m == pytest.approx(1.0)
    assert runs["r4"].loop_length_m == pytest.approx(4.0)
    assert report.loads[0].worst.served


def test_return_through_the_body_costs_the_body_s_resistance() -> None:
    def by(chassis_ohm: float) -> Report:
        return made(
            [load("l1", 60.0), other("chassis_point", "g1"), other("chassis_point", "g2")],
            [
                wire("r1", "b1", "l1", 2.0, legs="positive", **FUSED),
                wire("r2", "l1", "g1", 0.3, legs="negative"),
                wire("r3", "b1", "g2", 0.3, legs="negative"),
            ],
            job={"name": "Made", "vehicle": {"chassis_ohm": chassis_ohm}},
        )

    good, poor = by(0.001), by(0.011)
    more_v = poor.loads[0].worst.drop_v - good.loads[0].worst.drop_v
    assert more_v == pytest.approx(0.010 * poor.loads[0].worst.current_a, rel=0.1)
    assert good.loads[0].worst.served


def test_second_bank_is_fed_by_itself() -> None:
    report = made(
        [other("fuse_block", "f1", ways=6, second_bank_from=4), load("l1"), load("l2")],
        [
            wire("r1", "b1", "f1", **FUSED),
            wire("r2", "b1", {"part": "f1", "terminal": "bank_b"}, **FUSED),
            wire("r3", {"part": "f1", "way": 1}, "l1", fuse_at_start={}),
            wire("r4", {"part": "f1", "way": 5}, "l2", fuse_at_start={}),
        ],
    )
    runs = {run.id: run for run in report.runs}
    assert runs["r1"].design_current_a == pytest.approx(2.0)
    assert runs["r2"].design_current_a == pytest.approx(2.0)
    assert runs["r2"].loads == ["l2"]


def test_duty_heats_by_the_mean_square() -> None:
    def surface(share: float) -> float:
        state = {"id": "on", "name": "On", "duty": [{"load": "l1", "share": share}]}
        report = made([load("l1", 240.0)], [wire("r1", "b1", "l1", 2.0, **FUSED)], states=[state])
        return report.runs[0].worst.conductor_c - report.runs[0].ambient_c

    assert surface(0.25) == pytest.approx(0.25 * surface(1.0), rel=0.25)
    assert surface(0.25) < surface(1.0)


def test_diversity_is_shown() -> None:
    states = [{"id": "a", "name": "A", "off": ["l2"]}, {"id": "b", "name": "B", "off": ["l1"]}]
    report = made(
        [other("fuse_block", "f1"), load("l1", 60.0), load("l2", 60.0)],
        [
            wire("r1", "b1", "f1", **FUSED),
            wire("r2", {"part": "f1", "way": 1}, "l1", fuse_at_start={}),
            wire("r3", {"part": "f1", "way": 2}, "l2", fuse_at_start={}),
        ],
        states=states,
    )
    feeder = report.runs[0]
    assert (feeder.design_current_a, feeder.connected_a) == (5.0, 10.0)
    assert feeder.diversity_frac == pytest.approx(0.5)


def test_shared_part_never_counts_more_than_its_fuse_lets_through() -> None:
    pin = {"distance_m": 0.1, "pin": {"rating_a": 40.0, "reason": "test"}}
    plan = parse_plan(
        document(
            [other("busbar", "u1", rated_a=50.0), load("l1", 1200.0)],
            [wire("r1", "b1", "u1", fuse_at_start=pin), wire("r2", "u1", "l1", fuse_at_start={})],
        )
    )
    guards = Guards(plan, size_plan(plan, plan_rules(plan)))
    assert guards.through_a("u1") == 40.0
    codes = {one.code for one in evaluate(plan).findings}
    assert "busbar-over" not in codes
    assert "fuse-below-load" in codes


def test_ring_names_the_fuses_at_both_ends() -> None:
    plan = parse_plan(
        document(
            [other("busbar", "u1"), other("busbar", "u2"), load("l1", 60.0)],
            [
                wire("r1", "b1", "u1", **FUSED),
                wire("r2", "b1", "u2", **FUSED),
                wire("r3", "u1", "u2", fuse_at_start={}, fuse_at_finish={}),
                wire("r4", "u2", "l1", fuse_at_start={}),
            ],
        )
    )
    guard = Guards(plan, size_plan(plan, plan_rules(plan))).of_run(plan.runs[2])
    assert (guard.start.fuses, guard.finish.fuses) == (("r3",), ("r3:far",))


@pytest.mark.parametrize(
    "runs",
    [
        [],
        [wire("r1", "s1", "l1")],
        [wire("r1", "b1", {"part": "y1", "terminal": "coil"}, **FUSED)],
        [wire("r1", "b1", "s1", **FUSED), wire("r2", "s1", "y1"), wire("r3", "y1", {"part": "y1b", "terminal": "coil"}),
         wire("r4", "y1b", {"part": "y1", "terminal": "coil"})],
        [wire("r1", "b1", "l1", legs="positive", **FUSED)],
        [wire("r1", "b1", "u1", **FUSED), wire("r2", "u1", "s1"), wire("r3", "s1", "u1")],
    ],
)  # fmt: skip
def test_odd_wiring_always_gives_a_report(runs: list[Doc]) -> None:
    """Disconnected parts, a coil alone, relays that wait for one another, no way back, a ring of switches."""
    report = made(
        [other("switch", "s1"), other("relay", "y1"), other("relay", "y1b"), other("busbar", "u1"), load("l1")], runs
    )
    assert report.summary.states[0].converged
    assert report.findings


def test_chain_longer_than_calls_nest_has_a_report_and_its_pictures() -> None:
    """Listed from its far end, so that nothing met on the way is known yet."""
    n = 1050
    joints = [other("joint", f"j{k}", form="splice") for k in range(n)]
    runs = [wire(f"r{k}", f"j{k - 1}" if k else "b1", f"j{k}", 0.1, **(FUSED if k == 0 else {})) for k in range(n)]
    plan = parse_plan(document(joints[::-1], runs[::-1]))
    report = evaluate(plan, with_working=False)
    faults = {run.tag: run.faults for run in report.runs}
    assert 0 < faults[f"R{n - 1}"][-1].weakest_a < faults["R0"][-1].weakest_a
    assert len(step_down_map(plan, report).rows) == n
