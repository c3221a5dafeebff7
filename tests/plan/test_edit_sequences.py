"""Property: whatever edits a person makes in whatever order, the plan stays valid or the edit is refused by name."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from lucernis.core.energy.forecast import forecast
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.power import power_report
from lucernis.core.pictures.board import state_board
from lucernis.core.pictures.step_down import step_down_map
from lucernis.core.sizing.choice import size_plan
from lucernis.errors import LucernisError
from lucernis.plan.changes import describe_changes
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import powered_document, small_plan
from tests.law.conftest import PLANS

# Twenty thousand edits in the long run.
SEQUENCES = max(25, PLANS // 12) if PLANS < 1000 else 1500
EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
PARTS = st.sampled_from(
    ["b1", "f1", "f2", "l1", "l2", "l3", "l4", "l5", "b2", "b0", "u1", "q1", "q2", "v1", "i1", "nobody"]
)
RUNS = st.sampled_from(["r1", "r2", "r3", "r4", "r5", "r6", "r20", "r21", "r22", "r25", "nobody"])
TEXTS = st.sampled_from(["", "3", "2,5 m", "14 ft", "6 m loop", "-1", "abc", "120 m", "0", "10 AWG", "=1"])
COLUMNS = st.sampled_from(
    ["name", "power_w", "current_a", "count", "hours_per_day", "length", "loop_length", "maker_least", "maker_fuse_a"]
)
FIELDS = st.sampled_from([{"parallel": 2}, {"legs": "positive"}, {"wire_type": "solid"}, {"nothing": 1}])
LEGS = st.sampled_from(["both", "positive", "negative"])
CONNECTING = st.sampled_from(["both", "positive", "negative", "series"])
NEW_PARTS = st.sampled_from(
    [
        {"kind": "switch", "name": "Main", "use": "isolator", "rated_a": 100.0},
        {"kind": "switch", "name": "Reverser", "form": "reversing"},
        {"kind": "switch", "name": "Three ways", "form": "three_position"},
        {"kind": "relay", "name": "Relay"},
        {"kind": "busbar", "name": "Bars"},
        {"kind": "joint", "name": "Stud", "form": "stud"},
        {"kind": "shunt", "name": "Shunt"},
        {"kind": "chassis_point", "name": "Bolt"},
        {"kind": "battery", "name": "Second"},
        {"kind": "keyed_feed", "name": "Key"},
        {"kind": "battery", "name": "Starter", "use": "starter", "chemistry": "agm"},
        {"kind": "alternator", "name": "Alternator"},
        {"kind": "isolator", "name": "Link"},
        {"kind": "charger", "name": "DC-DC", "form": "dcdc"},
        {"kind": "charger", "name": "Sun", "form": "sun", "pv_high_v": 75.0, "outputs": 2},
        {"kind": "panel", "name": "Panels", "series": 2},
    ]
)
OPERATIONS = st.one_of(
    st.fixed_dictionaries({"op": st.just("set_cell"), "part": PARTS, "column": COLUMNS, "text": TEXTS}),
    st.fixed_dictionaries({"op": st.just("add_loads"), "rows": st.just([{"name": "New", "power_w": "20"}])}),
    st.fixed_dictionaries({"op": st.just("duplicate_load"), "part": PARTS}),
    st.fixed_dictionaries({"op": st.just("delete_part"), "part": PARTS}),
    st.fixed_dictionaries({"op": st.just("move_load"), "part": PARTS, "by": st.integers(-3, 3)}),
    st.fixed_dictionaries({"op": st.just("put_load"), "part": PARTS, "on": PARTS}),
    st.fixed_dictionaries({"op": st.just("take_off"), "part": PARTS}),
    st.fixed_dictionaries(
        {"op": st.just("add_block"), "name": st.just("Block"), "fed_from": PARTS, "length": TEXTS, "ways": st.just(4)}
    ),
    st.fixed_dictionaries(
        {"op": st.just("feed_part"), "part": NEW_PARTS, "fed_from": PARTS, "length": TEXTS, "legs": LEGS}
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("insert_part"),
            "run": RUNS,
            "part": NEW_PARTS,
            "near": st.sampled_from(["start", "finish"]),
            "length": st.sampled_from(["0.3", "1 m", "30 m", ""]),
        }
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("share_feeder"),
            "parts": st.lists(PARTS, min_size=2, max_size=3),
            "name": st.just("Shared"),
            "length": TEXTS,
            "branch_length": st.just("1 m"),
        }
    ),
    st.fixed_dictionaries({"op": st.just("put_relay"), "switch": PARTS, "contact_a": st.just(30.0)}),
    st.fixed_dictionaries(
        {
            "op": st.just("connect"),
            "start": st.fixed_dictionaries({"part": PARTS}),
            "finish": st.fixed_dictionaries({"part": PARTS}),
            "length": TEXTS,
            "legs": CONNECTING,
            "fused": st.booleans(),
        }
    ),
    st.fixed_dictionaries({"op": st.just("delete_run"), "run": RUNS}),
    st.fixed_dictionaries(
        {
            "op": st.just("add_charger"),
            "part": st.sampled_from(
                [
                    {"kind": "charger", "name": "DC-DC", "form": "dcdc", "chemistry": "lfp"},
                    {"kind": "charger", "name": "Shore", "form": "shore", "outputs": 2},
                    {"kind": "charger", "name": "Sun", "form": "sun", "pv_high_v": 75.0},
                ]
            ),
            "gives_to": PARTS,
            "give_length": TEXTS,
            "fed_from": PARTS,
            "panel": st.sampled_from([None, {"kind": "panel", "name": "Panels"}]),
        }
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("make_bank"),
            "battery": PARTS,
            "series": st.integers(1, 2),
            "parallel": st.integers(1, 3),
            "take_off": st.sampled_from(["same_end", "diagonal", "busbar"]),
        }
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("set_slot"),
            "slot": st.sampled_from([None, "d1", "d2", "d3"]),
            "hours": st.sampled_from([None, 1.0, 20.0]),
            "action": st.sampled_from(["change", "split", "remove"]),
        }
    ),
    st.fixed_dictionaries(
        {"op": st.just("set_fuse"), "run": RUNS, "end": st.sampled_from(["start", "finish"]), "present": st.booleans()}
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("set_fields"),
            "subject": RUNS,
            "values": st.sampled_from([{"parallel": 2}, {"legs": "positive"}]),
        }
    ),
    st.fixed_dictionaries({"op": st.just("set_length"), "run": RUNS, "text": TEXTS}),
    st.fixed_dictionaries({"op": st.just("pin_wire"), "run": RUNS, "size": TEXTS, "reason": st.just("test")}),
    st.fixed_dictionaries({"op": st.just("pin_fuse"), "run": RUNS, "rating_a": st.just(10.0), "reason": st.just("t")}),
    st.fixed_dictionaries(
        {"op": st.just("waive"), "code": st.just("load-no-hours"), "subject": PARTS, "reason": TEXTS}
    ),
)


def follow(plan: Plan, operations: list[dict[str, Any]]) -> tuple[Plan, int]:
    """Carry out what can be; returns the plan and how many were refused."""
    refused = 0
    for operation in operations:
        try:
            plan = apply_edits(plan, [EDIT.validate_python(operation)])
        except LucernisError:
            refused += 1
    return plan, refused


@settings(max_examples=SEQUENCES, deadline=None, suppress_health_check=list(HealthCheck))
@given(operations=st.lists(OPERATIONS, min_size=1, max_size=8), powered=st.booleans())
def test_any_sequence_leaves_a_valid_plan_with_a_report(operations: list[dict[str, Any]], powered: bool) -> None:
    plan, _ = follow(parse_plan(powered_document()) if powered else small_plan(), operations)
    assert parse_plan(plan_document(plan)) == plan
    report = evaluate(plan)
    power = power_report(plan, {})
    assert power.ah_per_day >= 0
    for course in forecast(plan, size_plan(plan, plan_rules(plan)), 2).courses:
        assert course.gap_frac < 1e-3
    assert all(state.converged for state in report.summary.states)
    for drawing in (step_down_map(plan, report), state_board(plan, report)):
        assert all(piece.label for piece in drawing.pieces)
    for run in report.runs:
        for fault in run.faults:
            assert fault.strongest_a >= fault.weakest_a * (1 - 1e-9) >= 0
    # What is offered as a mend is always an edit that can be carried out.
    for finding in report.findings:
        for fix in finding.fixes:
            assert evaluate(apply_edits(plan, fix.edits)).findings is not None
    assert len(report.runs) == len(plan.runs)
    assert {one.subject for one in report.findings} <= {
        "plan", *(one.id for one in plan.parts), *(one.id for one in plan.runs), *(one.subject for one in plan.waivers)
    }  # fmt: skip


@settings(max_examples=SEQUENCES, deadline=None, suppress_health_check=list(HealthCheck))
@given(operations=st.lists(OPERATIONS, min_size=1, max_size=6))
def test_a_refused_batch_changes_nothing(operations: list[dict[str, Any]]) -> None:
    before = small_plan()
    kept = plan_document(before)
    try:
        apply_edits(before, [EDIT.validate_python(one) for one in operations])
    except LucernisError:
        assert plan_document(before) == kept


@settings(max_examples=SEQUENCES, deadline=None, suppress_health_check=list(HealthCheck))
@given(operations=st.lists(OPERATIONS, min_size=1, max_size=6))
def test_what_changed_is_described_exactly_when_something_did(operations: list[dict[str, Any]]) -> None:
    before = plan_document(small_plan())
    after = plan_document(follow(small_plan(), operations)[0])
    quiet = {"length_as_typed", "length_confirmed"}

    def loud(document: Any) -> Any:
        if isinstance(document, dict):
            return {key: loud(value) for key, value in document.items() if key not in quiet}
        return [loud(one) for one in document] if isinstance(document, list) else document

    assert bool(describe_changes(before, after)) == (loud(before) != loud(after))
