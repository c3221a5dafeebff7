"""Edits of the distribution: what a person does, and what the plan is afterwards."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import TypeAdapter

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.errors import BadDocument, EditRefused
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.model import Plan
from tests.helpers import small_plan

EDIT: TypeAdapter[Any] = TypeAdapter(Edit)
SWITCH = {"kind": "switch", "name": "Pump switch", "rated_a": 10.0}


def edited(*edits: dict[str, Any], plan: Plan | None = None) -> Plan:
    return apply_edits(plan or small_plan(), [EDIT.validate_python(one) for one in edits])


def ends(plan: Plan) -> dict[str, tuple[str, str]]:
    return {run.id: (run.start.part, run.finish.part) for run in plan.runs}


def test_feed_part_from_a_block_takes_a_free_way_with_a_fuse() -> None:
    part = {"kind": "joint", "name": "Outlet", "form": "outlet", "rated_a": 15.0}
    plan = edited({"op": "feed_part", "part": part, "fed_from": "f1", "length": "2.5 m"})
    made, run = plan.parts[-1], plan.runs[-1]
    assert (made.kind, made.tag, run.start.way, run.length_m) == ("joint", "J01", 3, 2.5)
    assert run.fuse_at_start is not None


def test_feed_part_negative_alone_to_a_chassis_point() -> None:
    plan = edited(
        {"op": "feed_part", "part": {"kind": "chassis_point", "name": "Bolt"}, "fed_from": "f1", "length": "0.5 m",
         "legs": "negative"}
    )  # fmt: skip
    assert (plan.runs[-1].legs, plan.runs[-1].fuse_at_start) == ("negative", None)


@pytest.mark.parametrize("near", ["start", "finish"])
def test_insert_part_keeps_the_length_the_ends_and_the_fuse(near: str) -> None:
    before = small_plan()
    plan = edited({"op": "insert_part", "run": "r3", "part": SWITCH, "near": near, "length": "0.5 m"})
    switch = plan.parts[-1].id
    pieces = [run for run in plan.runs if switch in (run.start.part, run.finish.part)]
    old = next(run for run in before.runs if run.id == "r3")
    assert sum(run.length_m for run in pieces) == pytest.approx(old.length_m)
    first = next(run for run in pieces if run.finish.part == switch)
    last = next(run for run in pieces if run.start.part == switch)
    assert (first.start, last.finish.part) == (old.start, old.finish.part)
    assert first.fuse_at_start == old.fuse_at_start
    assert last.fuse_at_start is None
    assert evaluate(plan).loads[1].worst.served


def test_insert_part_past_the_end_or_before_the_fuse_is_refused() -> None:
    with pytest.raises(EditRefused, match="m long"):
        edited({"op": "insert_part", "run": "r3", "part": SWITCH, "length": "90 m"})
    with pytest.raises(EditRefused, match=r"stands 0\.1 m from its end"):
        edited({"op": "insert_part", "run": "r1", "part": SWITCH, "length": "0.05 m"})


def test_insert_part_heeds_the_fuse_at_the_other_end() -> None:
    """What is left of the run must hold its other fuse, however long the piece cut off is."""
    far = {"op": "set_fuse", "run": "r3", "end": "finish", "distance_m": 1.5}
    plan = edited(far)
    cut = edited({"op": "insert_part", "run": "r3", "part": SWITCH, "length": "0.5 m"}, plan=plan)
    rest = next(run for run in cut.runs if run.fuse_at_finish is not None)
    assert rest.length_m == pytest.approx(3.5)
    with pytest.raises(EditRefused, match=r"stands 1\.5 m from its end"):
        edited({"op": "insert_part", "run": "r3", "part": SWITCH, "length": "3 m"}, plan=plan)


def test_insert_switch_into_a_negative_is_refused() -> None:
    plan = edited(
        {"op": "connect", "start": {"part": "b1"}, "finish": {"part": "f1"}, "length": "1 m", "legs": "negative"}
    )
    with pytest.raises(EditRefused, match="negative only"):
        edited({"op": "insert_part", "run": plan.runs[-1].id, "part": SWITCH, "length": "0.5 m"}, plan=plan)


def test_first_isolating_switch_brings_its_state() -> None:
    main = {"kind": "switch", "name": "Main", "use": "isolator", "rated_a": 100.0}
    plan = edited({"op": "insert_part", "run": "r1", "part": main, "length": "0.4 m"})
    off = plan.states[-1]
    assert (off.name, off.open, off.key_on) == ("Master off", (plan.parts[-1].id,), False)
    again = edited({"op": "insert_part", "run": "r3", "part": main, "length": "0.4 m"}, plan=plan)
    assert len(again.states) == len(plan.states) + 1
    gone = edited({"op": "delete_part", "part": plan.parts[-1].id}, plan=plan)
    assert gone.states[-1].open == ()


def test_share_feeder_puts_a_block_where_the_first_load_was() -> None:
    plan = edited(
        {"op": "share_feeder", "parts": ["l1", "l2"], "name": "Near block", "length": "3 m", "branch_length": "0.8 m"}
    )
    block = plan.parts[-1]
    feeder = next(run for run in plan.runs if run.finish.part == block.id)
    assert (feeder.start.part, feeder.start.way, feeder.length_m) == ("f1", 1, 3.0)
    fed = {run.finish.part: run for run in plan.runs if run.start.part == block.id}
    assert set(fed) == {"l1", "l2"}
    assert {run.length_m for run in fed.values()} == {0.8}
    assert all(load.worst.served for load in evaluate(plan).loads)


def test_share_feeder_leaves_a_pin_that_was_meant_for_a_load_off_the_feeder() -> None:
    pinned = edited(
        {
            "op": "pin_fuse",
            "run": "r2",
            "end": "start",
            "rating_a": 3.0,
            "family": "blade_regular",
            "reason": "the lamp's maker",
        }
    )
    plan = edited(
        {"op": "share_feeder", "parts": ["l1", "l2"], "name": "Near block", "length": "3 m", "branch_length": "0.8 m"},
        plan=pinned,
    )
    feeder = next(run for run in plan.runs if run.finish.part == plan.parts[-1].id)
    assert feeder.fuse_at_start is not None
    assert feeder.fuse_at_start.pin is None
    assert feeder.wire is None


def test_share_feeder_of_a_load_without_circuit_is_refused() -> None:
    loose = edited({"op": "take_off", "part": "l2"})
    with pytest.raises(EditRefused, match="on no circuit"):
        edited(
            {"op": "share_feeder", "parts": ["l1", "l2"], "name": "X", "length": "3 m", "branch_length": "1 m"},
            plan=loose,
        )


def test_put_relay_leaves_the_switch_the_coil_alone() -> None:
    with_switch = edited({"op": "insert_part", "run": "r3", "part": SWITCH, "length": "0.5 m"})
    switch = with_switch.parts[-1].id
    plan = edited({"op": "put_relay", "switch": switch, "contact_a": 30.0}, plan=with_switch)
    relay = next(part for part in plan.parts if part.kind == "relay")
    report = evaluate(plan)
    through = {part.id: part.through_a for part in report.parts}
    assert through[switch] == pytest.approx(0.15)
    assert through[relay.id] == pytest.approx(report.loads[1].design_current_a)
    assert report.loads[1].worst.served


def test_put_relay_on_what_is_no_switch_is_refused() -> None:
    with pytest.raises(EditRefused, match="switches nothing"):
        edited({"op": "put_relay", "switch": "f1", "contact_a": 30.0})


def test_connect_and_delete_run() -> None:
    plan = edited({"op": "connect", "start": {"part": "l1"}, "finish": {"part": "l2"}, "length": "1 m", "fused": True})
    assert ends(plan)["r5"] == ("l1", "l2")
    assert plan.runs[-1].fuse_at_start is not None
    assert "r5" not in ends(edited({"op": "delete_run", "run": "r5"}, plan=plan))


def test_connect_to_itself_is_refused_in_words() -> None:
    with pytest.raises(BadDocument) as caught:
        edited({"op": "connect", "start": {"part": "l1"}, "finish": {"part": "l1"}, "length": "1 m"})
    assert "cannot lead from a part to itself" in caught.value.problems[0].detail


def test_set_fuse_changes_only_what_is_named() -> None:
    plan = edited({"op": "set_fuse", "run": "r1", "end": "start", "family": "class_t"})
    fuse = plan.runs[0].fuse_at_start
    assert fuse is not None
    assert (fuse.family, fuse.distance_m) == ("class_t", 0.1)
    assert edited({"op": "set_fuse", "run": "r1", "present": False}).runs[0].fuse_at_start is None
    far = edited({"op": "set_fuse", "run": "r1", "end": "finish", "distance_m": 0.2}).runs[0].fuse_at_finish
    assert far is not None
    assert far.distance_m == 0.2


def test_set_fields_refuses_what_is_not_a_field() -> None:
    with pytest.raises(EditRefused, match="no field 'colour'"):
        edited({"op": "set_fields", "subject": "r1", "values": {"colour": "red"}})
    with pytest.raises(EditRefused, match="no field 'id'"):
        edited({"op": "set_fields", "subject": "r1", "values": {"id": "r9"}})
    assert edited({"op": "set_fields", "subject": "r1", "values": {"parallel": 2}}).runs[0].parallel == 2


def test_put_load_on_a_busbar_and_on_its_own_subtree() -> None:
    plan = edited({"op": "feed_part", "part": {"kind": "busbar", "name": "Bar"}, "fed_from": "f1", "length": "1 m"})
    bar = plan.parts[-1].id
    moved = edited({"op": "put_load", "part": "l2", "on": bar}, plan=plan)
    assert ends(moved)["r3"] == (bar, "l2")
