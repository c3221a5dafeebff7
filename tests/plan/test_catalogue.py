"""The catalogue of generic consumers: it holds together, names find it, and it never overwrites what was typed."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import TypeAdapter

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.demo import JOBS, demo_plan
from lucernis.errors import BadDocument
from lucernis.plan.catalogue import best_match, consumers_csv, matches, read_consumers, shipped
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.model import Load, Plan
from tests.helpers import every_finding, part, small_document, small_plan

EDIT: TypeAdapter[Any] = TypeAdapter(Edit)


def edited(plan: Plan, *edits: dict[str, Any]) -> Plan:
    return apply_edits(plan, [EDIT.validate_python(one) for one in edits])


def load(plan: Plan, name: str) -> Load:
    return next(one for one in plan.parts if isinstance(one, Load) and one.id == name)


def test_about_sixty_consumers_each_a_valid_load() -> None:
    every = shipped()
    assert len(every) >= 60
    assert len({one.name for one in every}) == len(every)
    for one in every:
        assert one.low_w <= one.usual_w <= one.high_w
        Load(id="x", name="x", tag="X", **one.values())


@pytest.mark.parametrize(("typed", "name"), [
    ("Compressor fridge", "Compressor fridge"), ("fridge", "Compressor fridge"), ("Fridges", "Compressor fridge"),
    ("led strips", "LED strip"), ("12V socket", "12 V socket"), ("Laptop by USB-C", "Laptop by USB-C"),
    ("Field recorder", None), ("", None)])  # fmt: skip
def test_a_typed_name_surely_means_one_or_nothing(typed: str, name: str | None) -> None:
    found = best_match(typed, shipped())
    assert (found.name if found else None) == name


def test_half_a_name_offers_matches_best_first() -> None:
    names = [one.name for one in matches("water pu", shipped())]
    assert names[0] == "Water pump"
    assert "Shower pump" in names
    assert matches("xyzzy", shipped()) == []


def test_filling_leaves_what_is_typed() -> None:
    doc = small_document()
    part(doc, "l1").update(power_w=None, hours_per_day=None)
    values = next(one for one in shipped() if one.name == "Compressor fridge").values()
    plan = edited(parse_plan(doc), {"op": "fill_load", "part": "l1", "values": values})
    assert (load(plan, "l1").power_w, load(plan, "l1").hours_per_day) == (50.0, 8.0)
    assert load(plan, "l1").sensitive
    kept = edited(small_plan(), {"op": "fill_load", "part": "l2", "values": values})
    own = load(kept, "l2")
    # Amps and hours were typed, and how it behaves: they stay.
    assert (own.current_a, own.power_w, own.hours_per_day, own.behaviour) == (6.0, None, 1.0, "constant_current")


def test_a_pair_half_typed_is_left_alone() -> None:
    doc = small_document()
    part(doc, "l1").update(inrush_factor=4.0)
    values = {"inrush_factor": 2.5, "inrush_s": 0.1, "cycle_on_s": 60.0, "cycle_off_s": 60.0}
    own = load(edited(parse_plan(doc), {"op": "fill_load", "part": "l1", "values": values}), "l1")
    assert (own.inrush_factor, own.inrush_s) == (4.0, None)
    assert (own.cycle_on_s, own.cycle_off_s) == (60.0, 60.0)


def test_csv_out_is_csv_in() -> None:
    again = read_consumers(consumers_csv(shipped()))
    assert [one.values() for one in again] == [one.values() for one in shipped()]
    assert all(one.own for one in again)


@pytest.mark.parametrize(("text", "match"), [
    ("name,watts\nLamp,5\n", "no column 'watts'"),
    ("name\nLamp\n", "name and usual_w are asked"),
    ("name,usual_w\nLamp,much\n", "row 2/"),
    ("name,usual_w\nLamp,-5\n", "row 2/usual_w"),
    ("name,usual_w,inrush_factor\nLamp,5,900\n", "row 2/inrush_factor"),
])  # fmt: skip
def test_a_wrong_row_is_named(text: str, match: str) -> None:
    with pytest.raises(BadDocument) as caught:
        read_consumers(text)
    assert any(match in f"{one.pointer} {one.detail}" for one in caught.value.problems)


def test_spans_hold_the_demo_jobs() -> None:
    """What the demo jobs call by a name of the catalogue lies within its span."""
    met = 0
    for job in JOBS:
        report = evaluate(demo_plan(job), with_working=False)
        for one in report.loads:
            plan_load = load(demo_plan(job), one.id)
            known = best_match(plan_load.name, shipped())
            if known is None or one.each_power_w is None or plan_load.device == "inverter":
                continue
            met += 1
            assert known.low_w <= one.each_power_w <= known.high_w, (plan_load.name, one.each_power_w)
    assert met >= 8


def test_a_length_nobody_measured_is_said_once_and_typing_measures_it() -> None:
    plan = edited(small_plan(), {"op": "add_loads", "rows": [{"name": "Fan", "power_w": "20", "hours_per_day": "2"}]})
    run = plan.runs[-1]
    assert run.length_guessed
    told = every_finding(evaluate(plan).findings)
    assert ("lengths-guessed", "plan") in told
    assert run.tag in told[("lengths-guessed", "plan")].what
    measured = edited(plan, {"op": "set_length", "run": run.id, "text": "2.4 m"})
    assert not measured.runs[-1].length_guessed
    assert ("lengths-guessed", "plan") not in every_finding(evaluate(measured).findings)
