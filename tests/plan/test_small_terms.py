"""Small terms of the document's edits and words, each where it decides."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import TypeAdapter

from lucernis.core.circuit.loads import is_long, load_figures
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeRequest, size_run
from lucernis.core.proposals.wishes import Wishes
from lucernis.errors import BadDocument
from lucernis.plan.catalogue import matches, shipped
from lucernis.plan.cells import CellContext
from lucernis.plan.changes import value_text
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.loads_csv import preview_loads
from lucernis.plan.merging import merge
from tests.helpers import part, run, small_document

EDITS: TypeAdapter[list[Edit]] = TypeAdapter(list[Edit])


def test_truths_are_told_as_yes_and_no() -> None:
    assert (value_text(True), value_text(False), value_text(None), value_text(0.25)) == ("yes", "no", "none", "0.25")


def test_a_load_without_a_figure_asks_for_nothing() -> None:
    doc = small_document()
    part(doc, "l1")["power_w"] = None
    load = next(one for one in parse_plan(doc).parts if one.id == "l1")
    figures = load_figures(load, nominal_v=12.0, school="lowest")  # type: ignore[arg-type]
    assert (figures.design_current_a, figures.peak_a, figures.long) == (0.0, 0.0, False)
    assert figures.power_w is figures.current_a is figures.rated_w is None


def test_three_hours_a_day_are_a_long_stretch_and_less_is_not() -> None:
    """Common practice, no source."""
    assert is_long(3.0)
    assert not is_long(2.99)
    assert not is_long(None)


@pytest.mark.parametrize(("field", "most"), [("drive_hours", 24.0)])
def test_wishes_have_their_greatest(field: str, most: float) -> None:
    Wishes.model_validate({field: most})
    with pytest.raises(ValueError, match="less than or equal"):
        Wishes.model_validate({field: most + 0.5})


def test_there_and_back_is_halved_before_it_is_called_long() -> None:
    size_run(SizeRequest(amps=1.0, length_m=150.0, length_reading="loop"))
    with pytest.raises(BadDocument, match="a long run"):
        size_run(SizeRequest(amps=1.0, length_m=201.0, length_reading="loop"))
    with pytest.raises(BadDocument, match="a long run"):
        size_run(SizeRequest(amps=1.0, length_m=101.0))


def test_duties_of_other_loads_stay_when_one_goes() -> None:
    doc = small_document(version=4)
    shares = [{"load": name, "share": 0.5} for name in ("l1", "l2", "l3")]
    doc["states"][0]["duty"] = shares
    plan = apply_edits(parse_plan(doc), EDITS.validate_python([{"op": "delete_part", "part": "l2"}]))
    assert [one.load for one in plan.states[0].duty] == ["l1", "l3"]


def test_what_hung_behind_a_load_gets_a_fuse_of_its_own_on_a_block_and_keeps_what_it_has_elsewhere() -> None:
    doc = small_document()
    doc["parts"].append({"kind": "load", "id": "l4", "name": "Side lamp", "tag": "L04", "power_w": 6.0})
    doc["runs"].append({"id": "r5", "tag": "C05", "start": {"part": "l1"}, "finish": {"part": "l4"}, "length_m": 1.0})
    plan = apply_edits(parse_plan(doc), EDITS.validate_python([{"op": "delete_part", "part": "l1"}]))
    second = next(one for one in plan.runs if one.id == "r5")
    assert second.start.part == "f1"
    assert second.fuse_at_start is not None
    # Behind a bar nothing is fused by itself.
    doc["parts"].append({"kind": "busbar", "id": "u1", "name": "Bar", "tag": "U01"})
    run(doc, "r2").update(start={"part": "u1"}, fuse_at_start=None)
    plan = apply_edits(parse_plan(doc), EDITS.validate_python([{"op": "delete_part", "part": "l1"}]))
    assert next(one for one in plan.runs if one.id == "r5").fuse_at_start is None


def test_metres_of_a_size_are_those_of_its_runs_and_no_more() -> None:
    report = evaluate(parse_plan(small_document()), with_working=False)
    for size in report.summary.sizes:
        own = [one for one in report.runs if one.wire.label == size.label]
        assert size.runs == len(own)
        assert size.conductor_m == pytest.approx(sum(one.loop_length_m * one.parallel for one in own))


def test_an_empty_name_means_nothing_and_a_word_its_device() -> None:
    assert matches("", shipped()) == []
    assert matches("  ", shipped()) == []
    assert "fridge" in matches("fridge", shipped())[0].name.lower()


def test_both_hands_meeting_in_a_field_are_told_its_name_or_its_tag() -> None:
    base = small_document(version=4)

    def changed(**fields: Any) -> dict[str, Any]:
        doc = small_document(version=4)
        run(doc, "r2").update(fields)
        part(doc, "l1").update({name: value for name, value in fields.items() if name == "power_w"})
        run(doc, "r2").pop("power_w", None)
        return doc

    met = merge(base, changed(length_m=5.0), changed(length_m=6.0))
    assert any("C02" in line for line in met.conflicts)
    named = merge(base, changed(power_w=30.0), changed(power_w=40.0))
    assert any("Lamp" in line for line in named.conflicts)


def test_an_emptied_table_is_a_change_like_any_other() -> None:
    """What was filled and is empty now, or the other way round, is seen on either side."""
    before: dict[str, Any] = {"parts": [{"id": "l1", "name": "Lamp", "maker": {"fuse_a": 5.0}}]}
    empty: dict[str, Any] = {"parts": [{"id": "l1", "name": "Lamp", "maker": {}}]}
    other: dict[str, Any] = {"parts": [{"id": "l1", "name": "Lamp", "maker": {"fuse_a": 7.5}}]}
    assert merge(before, empty, other).conflicts == ["Lamp: fuse a is taken away in yours"]
    assert merge(before, other, other).conflicts == []
    assert merge(before, empty, empty).done_already
    without: dict[str, Any] = {"parts": [{"id": "l1", "name": "Lamp"}]}
    assert not merge(empty, without, empty).done_already
    assert not merge(without, empty, without).done_already


def test_headings_may_have_their_unit_in_brackets() -> None:
    context = CellContext("metric", "awg", {}, confirmed=False)
    found = preview_loads(b"Device (any),Power (W),Current [A],Hours per day\nLamp,,x,3\n", context)
    assert found.columns == ["name", "power_w", "current_a", "hours_per_day"]
    assert found.ignored == []
    problem = found.rows[0].cells[2].problem or ""
    assert problem.startswith("current_a: ")
    assert "; allowed: " in problem
    length = preview_loads(b"name,count\nLamp,0\n", context).rows[0].cells[1].problem or ""
    assert "; allowed: " not in length or not length.endswith("allowed: ")
