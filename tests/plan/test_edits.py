"""Edits by the work: each does what it says, refuses what makes no sense, and leaves a valid plan."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import TypeAdapter

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.errors import BadDocument, EditRefused, LucernisError, NotUnderstood, UnknownRow
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.model import Load, Plan
from tests.helpers import every_finding, small_plan

EDITS: TypeAdapter[list[Edit]] = TypeAdapter(list[Edit])


def edited(*operations: dict[str, Any], plan: Plan | None = None) -> Plan:
    return apply_edits(plan or small_plan(), EDITS.validate_python(list(operations)))


def load(plan: Plan, load_id: str) -> Load:
    found = next(part for part in plan.parts if part.id == load_id)
    assert isinstance(found, Load)
    return found


def feeder(plan: Plan, part_id: str) -> Any:
    return next((run for run in plan.runs if run.finish.part == part_id), None)


def cell(part: str, column: str, text: str, **more: Any) -> dict[str, Any]:
    return {"op": "set_cell", "part": part, "column": column, "text": text, **more}


def test_set_cell_watts_and_amps_replace_each_other() -> None:
    plan = edited(cell("l1", "current_a", "2,5 A"))
    assert (load(plan, "l1").current_a, load(plan, "l1").power_w) == (2.5, None)
    plan = edited(cell("l1", "power_w", "30 W"), plan=plan)
    assert (load(plan, "l1").current_a, load(plan, "l1").power_w) == (None, 30.0)
    assert load(edited(cell("l1", "power_w", ""), plan=plan), "l1").power_w is None


@pytest.mark.parametrize(
    ("column", "text", "field", "value"),
    [
        ("name", " Lamp two ", "name", "Lamp two"),
        ("behaviour", "heater", "behaviour", "resistive"),
        ("count", "4", "count", 4),
        ("hours_per_day", "2.5 h", "hours_per_day", 2.5),
        ("place", "bench", "place", "p1"),
        ("sensitive", "yes", "sensitive", True),
        ("keyed", "x", "keyed", True),
        ("rated_v", "13.8", "rated_v", 13.8),
        ("drop_limit_pct", "2 %", "drop_limit_frac", 0.02),
    ],
)
def test_set_cell_fields(column: str, text: str, field: str, value: Any) -> None:
    assert getattr(load(edited(cell("l1", column, text)), "l1"), field) == value


def test_set_cell_maker_demands() -> None:
    plan = edited(
        cell("l1", "maker_least", "12"), cell("l1", "maker_greatest", "6 mm²"), cell("l1", "maker_fuse_a", "15")
    )
    maker = load(plan, "l1").maker
    assert maker.least is not None
    assert maker.greatest is not None
    assert (maker.least.system, maker.least.size, maker.greatest.system, maker.fuse_a) == ("awg", "12", "mm2", 15.0)


def test_set_cell_length_is_kept_as_typed_and_loop_is_halved() -> None:
    plan = edited(cell("l1", "loop_length", "28 ft"))
    run = feeder(plan, "l1")
    assert (run.length_m, run.length_as_typed) == (4.2672, "28 ft loop")


def test_set_cell_long_length_asks_then_takes() -> None:
    with pytest.raises(BadDocument, match=r"does not hold|not allowed") as caught:
        edited(cell("l1", "length", "120 m"))
    assert caught.value.problems[0].detail.startswith("C02: ")
    assert feeder(edited(cell("l1", "length", "120 m", confirmed=True)), "l1").length_confirmed


@pytest.mark.parametrize(
    ("column", "text", "error"),
    [
        ("power_w", "abc", NotUnderstood),
        ("count", "two", NotUnderstood),
        ("place", "attic", UnknownRow),
        ("behaviour", "odd", UnknownRow),
        ("sensitive", "perhaps", NotUnderstood),
        ("maker_least", "4 mm", UnknownRow),
        ("power_w", "-4", BadDocument),
        ("rated_v", "0", BadDocument),
    ],
)
def test_set_cell_refuses_and_changes_nothing(column: str, text: str, error: type[LucernisError]) -> None:
    plan = small_plan()
    with pytest.raises(error):
        edited(cell("l1", "name", "Kept out"), cell("l1", column, text), plan=plan)
    assert load(plan, "l1").name == "Lamp"


def test_add_loads_each_gets_a_way_of_its_own() -> None:
    plan = edited(
        {"op": "add_loads", "rows": [{"name": "A", "power_w": "5", "length": "2"}, {"name": "B"}], "after": "l1"}
    )
    assert [part.name for part in plan.parts if isinstance(part, Load)] == ["Lamp", "A", "B", "Pump", "Far lamp"]
    assert [feeder(plan, one).start.way for one in ("l4", "l5")] == [3, 4]
    assert feeder(plan, "l4").length_m == 2.0
    assert len({run.tag for run in plan.runs}) == len(plan.runs)


def test_add_loads_bad_cell_names_its_row() -> None:
    with pytest.raises(NotUnderstood) as caught:
        edited({"op": "add_loads", "rows": [{"name": "A"}, {"name": "B", "power_w": "x"}]})
    assert caught.value.field == "rows/1/power_w"


def test_duplicate_load_copies_figures_and_run() -> None:
    plan = edited({"op": "duplicate_load", "part": "l1"})
    assert load(plan, "l4").power_w == 24.0
    assert feeder(plan, "l4").length_m == 3.0
    assert feeder(plan, "l4").start.way == 3


def test_duplicate_load_lies_and_carries_as_the_first_does() -> None:
    given = {"zone": "z2", "bundle_count": 5, "insulation_c": 90}
    assert all(getattr(feeder(edited({"op": "duplicate_load", "part": "l1"}), "l1"), name) != value
               for name, value in given.items()), "none of them is what a new run has anyway"  # fmt: skip
    plan = edited(
        {"op": "set_fields", "subject": feeder(edited(), "l1").id, "values": given},
        {"op": "duplicate_load", "part": "l1"},
    )
    assert {name: getattr(feeder(plan, "l4"), name) for name in given} == given


def test_delete_load_joins_what_hung_behind() -> None:
    plan = edited({"op": "delete_part", "part": "l1"})
    run = feeder(plan, "l3")
    assert (run.start.part, run.start.way, run.length_m) == ("f1", 1, 4.5)
    assert run.fuse_at_start is not None
    assert all(part.id != "l1" for part in plan.parts)


def test_delete_block_takes_its_runs_and_leaves_the_loads() -> None:
    plan = edited({"op": "delete_part", "part": "f1"})
    assert {part.id for part in plan.parts} == {"b1", "l1", "l2", "l3"}
    assert [run.id for run in plan.runs] == ["r4"]


def test_delete_part_forgets_states_and_waivers() -> None:
    base = edited({"op": "waive", "code": "load-no-hours", "subject": "l2", "reason": "x"})
    base = base.model_copy(update={"states": (base.states[0].model_copy(update={"off": ("l1", "l2", "l3")}),)})
    plan = edited({"op": "delete_part", "part": "l2"}, plan=base)
    assert plan.waivers == ()
    assert plan.states[0].off == ("l1", "l3")


def test_move_load_changes_only_the_order() -> None:
    plan = edited({"op": "move_load", "part": "l3", "by": -5})
    assert [part.id for part in plan.parts] == ["b1", "f1", "l3", "l1", "l2"]
    assert plan.runs == small_plan().runs


def test_put_load_after_another_shares_its_fuse() -> None:
    plan = edited({"op": "put_load", "part": "l2", "on": "l3", "length": "1 m"})
    run = feeder(plan, "l2")
    assert (run.start.part, run.start.way, run.fuse_at_start, run.length_m) == ("l3", None, None, 1.0)


def test_put_load_behind_itself_is_refused() -> None:
    with pytest.raises(EditRefused, match="Far lamp hangs behind Lamp"):
        edited({"op": "put_load", "part": "l1", "on": "l3"})


def test_take_off_and_put_back() -> None:
    plan = edited({"op": "take_off", "part": "l2"})
    assert feeder(plan, "l2") is None
    with pytest.raises(EditRefused, match="on no circuit"):
        edited(cell("l2", "length", "3 m"), plan=plan)
    assert feeder(edited({"op": "put_load", "part": "l2", "on": "f1"}, plan=plan), "l2").start.way == 2


def test_add_block_is_fed_and_fused() -> None:
    plan = edited({"op": "add_block", "name": "Rear", "fed_from": "f1", "length": "3 m", "ways": 4})
    run = feeder(plan, "f2")
    assert (run.start.part, run.start.way) == ("f1", 3)
    assert run.fuse_at_start is not None
    with pytest.raises(EditRefused, match="Lamp is a load"):
        edited({"op": "add_block", "name": "Rear", "fed_from": "l1", "length": "3 m"})


def test_pins_need_a_reason_and_let_go() -> None:
    with pytest.raises(EditRefused, match="a reason is needed"):
        edited({"op": "pin_wire", "run": "r2", "size": "8", "reason": "  "})
    plan = edited(
        {"op": "pin_wire", "run": "r2", "size": "8", "reason": "spool"},
        {"op": "pin_fuse", "run": "r2", "rating_a": 10, "reason": "box"},
    )
    run = next(one for one in plan.runs if one.id == "r2")
    assert run.wire is not None
    assert run.fuse_at_start is not None
    assert run.fuse_at_start.pin is not None
    free = edited(
        {"op": "pin_wire", "run": "r2", "size": ""}, {"op": "pin_fuse", "run": "r2", "rating_a": None}, plan=plan
    )
    assert free == small_plan()


def test_a_rating_not_made_can_be_pinned_as_found_and_is_said() -> None:
    plan = edited({"op": "pin_fuse", "run": "r2", "rating_a": 17, "family": "blade_regular", "reason": "found so"})
    assert ("fuse-not-made", "r2") in every_finding(evaluate(plan).findings)


def test_unwaive_takes_back() -> None:
    plan = edited(
        {"op": "waive", "code": "a", "subject": "r1", "reason": "x"},
        {"op": "waive", "code": "a", "subject": "r1", "reason": "y"},
    )
    assert [one.reason for one in plan.waivers] == ["y"]
    assert edited({"op": "unwaive", "code": "a", "subject": "r1"}, plan=plan).waivers == ()


@pytest.mark.parametrize(
    "operation",
    [
        {"op": "delete_part", "part": "nobody"},
        {"op": "move_load", "part": "b1", "by": 1},
        {"op": "set_length", "run": "nobody", "text": "3"},
        {"op": "put_load", "part": "l1", "on": "nobody"},
    ],
)
def test_unknown_subject_is_refused(operation: dict[str, Any]) -> None:
    with pytest.raises(EditRefused, match=r"no (part|run)|is not a load"):
        edited(operation)
