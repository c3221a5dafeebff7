"""Edits that cut a run or join two reckon with the lengths of ways, and leave all other runs as they were typed."""

from __future__ import annotations

import pytest
from pydantic import TypeAdapter

from lucernis.core.layout.edited import edited
from lucernis.core.layout.laid import laid_out
from lucernis.errors import EditRefused
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import Edit
from lucernis.plan.model import Plan
from tests.core.checks.test_layout_findings import laid

EDITS: TypeAdapter[list[Edit]] = TypeAdapter(list[Edit])
SWITCH = {"kind": "switch", "name": "Pump switch"}


def after(plan: Plan, *edits: object) -> Plan:
    return edited(plan, EDITS.validate_python(list(edits)))


def lengths(plan: Plan) -> dict[str, float]:
    return {run.id: run.length_m for run in laid_out(plan).runs}


def test_a_part_is_put_into_a_run_as_long_as_its_way() -> None:
    """C03 is typed as 4 m and its way is 3.57 m long: 3.8 m from its start is beyond its end."""
    plan = parse_plan(laid())
    with pytest.raises(EditRefused, match=r"C03 is 3\.57 m long"):
        after(plan, {"op": "insert_part", "run": "r3", "part": SWITCH, "length": "3.8 m"})
    found = after(plan, {"op": "insert_part", "run": "r3", "part": SWITCH, "length": "0.5 m"})
    piece = next(run for run in found.runs if run.id not in {one.id for one in plan.runs})
    # The piece at the block is as long as was typed; the rest finds its way from where the switch stands.
    assert lengths(found)[piece.id] == 0.5
    assert lengths(found)["r3"] == pytest.approx(3.57)
    assert next(run.length_m for run in found.runs if run.id == "r3") == pytest.approx(3.07)


def test_an_edit_elsewhere_leaves_the_lengths_last_known_alone() -> None:
    plan = parse_plan(laid())
    found = after(plan, {"op": "set_fields", "subject": "l1", "values": {"name": "Reading lamp"}})
    assert found.runs == plan.runs


def test_what_hung_behind_a_removed_load_finds_its_own_way() -> None:
    plan = parse_plan(laid())
    found = after(plan, {"op": "delete_part", "part": "l1"})
    # Block to the far end: both channels, as the pump's.
    assert lengths(found)["r4"] == pytest.approx(3.57)


def test_loads_that_share_a_feeder_keep_what_was_typed_for_their_branches() -> None:
    plan = parse_plan(laid())
    share = {"op": "share_feeder", "parts": ["l1", "l2"], "name": "Far block", "length": "3 m",
             "branch_length": "0.7 m", "place": "p3"}  # fmt: skip
    found = lengths(after(plan, share))
    assert (found["r2"], found["r3"]) == (0.7, 0.7)
