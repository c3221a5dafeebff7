"""Edits of what gives power: chargers with their wires, banks, stretches of the day."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.errors import BadDocument, EditRefused
from lucernis.plan.changes import describe_changes
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.model import Battery, Plan
from tests.helpers import part, powered_document, small_plan

EDIT: TypeAdapter[Any] = TypeAdapter(Edit)
SHORE = {"kind": "charger", "form": "shore", "name": "Shore", "out_a": 20.0}
DCDC = {"kind": "charger", "form": "dcdc", "name": "DC-DC", "out_a": 20.0}
SUN = {"kind": "charger", "form": "sun", "name": "Sun", "out_a": 20.0, "pv_high_v": 75.0}
PANEL = {"kind": "panel", "name": "Panel", "power_w": 100.0, "mp_v": 18.0, "open_v": 22.0, "short_a": 6.0, "series": 2}


def edited(*edits: dict[str, Any], plan: Plan | None = None) -> Plan:
    return apply_edits(plan or small_plan(), [EDIT.validate_python(one) for one in edits])


def charger(part: dict[str, Any], **fields: Any) -> dict[str, Any]:
    return {"op": "add_charger", "part": part, "gives_to": "b1", "give_length": "1 m", **fields}


def test_add_charger_is_fused_where_it_meets_the_battery() -> None:
    plan = edited(charger(SHORE))
    made, run = plan.parts[-1], plan.runs[-1]
    assert (made.kind, made.tag) == ("charger", "Q01")
    assert (run.start.part, run.start.terminal, run.finish.part) == (made.id, "out", "b1")
    assert run.fuse_at_finish is not None
    assert run.fuse_at_start is None
    assert "charger-unfused" not in {one.code for one in evaluate(plan).findings}


def test_add_charger_with_two_outputs_fuses_both() -> None:
    plan = edited(charger(SHORE | {"outputs": 2}))
    assert [run.start.terminal for run in plan.runs[-2:]] == ["out", "out_b"]
    assert all(run.fuse_at_finish for run in plan.runs[-2:])


def test_add_charger_from_panels_brings_them() -> None:
    plan = edited(charger(SUN, panel=PANEL, panel_length="4 m"))
    run = plan.runs[-1]
    assert plan.parts[-1].kind == "panel"
    assert (run.finish.terminal, run.length_m, run.fuse_at_start) == ("pv", 4.0, None)
    assert evaluate(plan).summary.open_stop == 0


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        (charger(DCDC), "fed_from"),
        (charger(DCDC, fed_from="nobody"), "fed_from"),
        (charger(SHORE) | {"gives_to": "nobody"}, "gives_to"),
        (charger({"kind": "load", "name": "x"}), "part/kind"),
        (charger(SUN, panel={"kind": "load", "name": "x"}), "panel/kind"),
        ({"op": "make_bank", "battery": "l1", "parallel": 2}, "battery"),
        ({"op": "make_bank", "battery": "b1"}, "parallel"),
        ({"op": "make_bank", "battery": "b1", "series": 4}, "series"),
        ({"op": "set_slot", "slot": "d5", "state": "all_on"}, "slot"),
        ({"op": "set_slot", "hours": 5.0}, "hours"),
    ],
)
def test_what_makes_no_sense_is_refused_by_name(edit: dict[str, Any], field: str) -> None:
    with pytest.raises(EditRefused) as caught:
        edited(edit)
    assert caught.value.field == field
    assert caught.value.allowed


@pytest.mark.parametrize(
    ("spoil", "pointer"),
    [
        ({"pv_high_v": None, "form": "sun"}, "pv_high_v"),
        ({"in_low_v": 12.0, "in_high_v": 11.0}, "in_low_v"),
        ({"efficiency_frac": 1.2}, "efficiency_frac"),
        ({"out_a": 0.0}, "out_a"),
    ],
)
def test_impossible_chargers_are_refused(spoil: dict[str, Any], pointer: str) -> None:
    doc = powered_document()
    part(doc, "q1").update(spoil)
    with pytest.raises(BadDocument) as caught:
        parse_plan(doc)
    assert any(pointer in f"{one.pointer} {one.detail}" for one in caught.value.problems)


@pytest.mark.parametrize(
    ("spoil", "word"),
    [({"mp_v": 23.0}, "open_v"), ({"power_w": 500.0}, "short_a"), ({"open_frac_per_k": 0.01}, "less than 0")],
)
def test_impossible_panels_are_refused(spoil: dict[str, Any], word: str) -> None:
    doc = powered_document()
    part(doc, "v1").update(spoil)
    with pytest.raises(BadDocument) as caught:
        parse_plan(doc)
    assert any(word in one.detail for one in caught.value.problems)


def test_panel_with_a_positive_coefficient_names_the_field() -> None:
    doc = powered_document()
    part(doc, "v1").update(open_frac_per_k=0.003)
    with pytest.raises(BadDocument) as caught:
        parse_plan(doc)
    assert caught.value.problems[0].pointer.endswith("/open_frac_per_k")


@pytest.mark.parametrize("take_off", ["same_end", "diagonal", "busbar"])
@pytest.mark.parametrize(("series", "parallel"), [(1, 2), (1, 4), (2, 1), (2, 3)])
def test_make_bank_keeps_volts_and_every_load_served(take_off: str, series: int, parallel: int) -> None:
    doc = powered_document(nominal_v=12 * series)
    if series == 2:
        part(doc, "b0").update(rated_v=12)
        part(doc, "q1").update(in_nominal_v=12)
        part(doc, "v1").update(series=3)
        part(doc, "q2").update(pv_high_v=150.0)
    edit = {"op": "make_bank", "battery": "b1", "series": series, "parallel": parallel, "take_off": take_off}
    plan = edited(edit, plan=parse_plan(doc))
    house = [one for one in plan.parts if isinstance(one, Battery) and one.use == "house"]
    assert len(house) == series * parallel
    assert {one.rated_v for one in house} == {12}
    assert sum(run.legs == "series" for run in plan.runs) == (series - 1) * parallel
    report = evaluate(plan)
    assert all(load.worst.served for load in report.loads)
    assert parse_plan(plan_document(plan)) == plan


def test_diagonal_takes_the_negative_from_the_other_end() -> None:
    plan = edited({"op": "make_bank", "battery": "b1", "parallel": 3, "take_off": "diagonal"})
    ends = {run.legs: run.start.part for run in plan.runs if run.finish.part == "f1"}
    assert ends == {"positive": "b1", "negative": "b3"}


def test_a_link_in_series_joins_batteries_alone() -> None:
    with pytest.raises(BadDocument, match=r"."):
        edited({"op": "connect", "start": {"part": "b1"}, "finish": {"part": "f1"}, "length": "1 m", "legs": "series"})


def day_of(plan: Plan) -> list[tuple[str, float]]:
    return [(slot.state, slot.hours) for slot in plan.energy.day]


def test_splitting_the_empty_day_makes_two_halves() -> None:
    plan = edited({"op": "set_slot", "action": "split"})
    assert day_of(plan) == [("all_on", 12.0), ("all_on", 12.0)]


def test_hours_are_taken_from_the_next_stretch() -> None:
    plan = edited(
        {"op": "set_slot", "action": "split"},
        {"op": "set_slot", "slot": "d2", "state": "key_off"},
        {"op": "set_slot", "slot": "d1", "hours": 9.5},
    )
    assert day_of(plan) == [("all_on", 9.5), ("key_off", 14.5)]
    plan = edited({"op": "set_slot", "slot": "d2", "action": "split"}, plan=plan)
    with pytest.raises(EditRefused, match="leave nothing"):
        edited({"op": "set_slot", "slot": "d1", "hours": 17.0}, plan=plan)


def test_a_removed_stretch_gives_its_hours_to_the_next() -> None:
    plan = edited({"op": "set_slot", "action": "split"}, {"op": "set_slot", "slot": "d1", "action": "split"})
    plan = edited({"op": "set_slot", "slot": "d1", "action": "remove"}, plan=plan)
    assert day_of(plan) == [("all_on", 12.0), ("all_on", 12.0)]
    plan = edited(
        {"op": "set_slot", "slot": "d2", "action": "remove"}, {"op": "set_slot", "action": "remove"}, plan=plan
    )
    assert day_of(plan) == []


@given(
    st.lists(
        st.tuples(st.integers(0, 4), st.sampled_from(["split", "remove", "change"]), st.floats(0.25, 23.5)), max_size=8
    )
)
def test_the_day_stays_24_hours_whatever_is_done(steps: list[tuple[int, str, float]]) -> None:
    plan = small_plan()
    for at, action, hours in steps:
        edit = {"op": "set_slot", "slot": f"d{at}" if at else None, "action": action} | (
            {"hours": hours} if action == "change" else {}
        )
        try:
            plan = edited(edit, plan=plan)
        except EditRefused:
            continue
        assert not plan.energy.day or sum(slot.hours for slot in plan.energy.day) == pytest.approx(24.0)


@pytest.mark.parametrize(
    ("energy", "word"),
    [
        ({"day": [{"state": "all_on", "hours": 20.0}]}, "24"),
        ({"day": [{"state": "nowhere", "hours": 24.0}]}, "no state"),
        ({"poor_frac": 0.9, "fair_frac": 0.5}, "poor_frac"),
        ({"stops": [{"name": "x", "latitude_deg": 91.0, "longitude_deg": 0.0}]}, "90"),
        ({"month": 13}, "12"),
    ],
)
def test_impossible_days_are_refused_by_name(energy: dict[str, Any], word: str) -> None:
    with pytest.raises(BadDocument) as caught:
        parse_plan(powered_document(energy=energy))
    assert any(word in one.detail for one in caught.value.problems)


def test_changes_of_the_days_are_told() -> None:
    before = plan_document(small_plan())
    after = plan_document(small_plan(energy={"days": 3.0, "battery_c": 5.0}))
    assert describe_changes(before, after) == ["days: days 2 → 3", "days: bank °C 20 → 5"]


def test_version_2_has_the_days_at_their_default() -> None:
    doc = plan_document(small_plan()) | {"version": 2}
    del doc["energy"]
    plan = parse_plan(doc)
    assert (plan.version, plan.energy.days, plan.energy.day) == (7, 2.0, ())
