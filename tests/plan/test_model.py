"""The plan document: what is refused, with its pointer, and that it survives the way out and back in."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.demo import JOBS, demo_plan
from lucernis.errors import BadDocument
from lucernis.plan.blank import blank_plan
from lucernis.plan.changes import describe_changes, summary_line
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan
from lucernis.plan.upgrades import upgrade
from lucernis.practice.rules import load_sets
from tests.helpers import document, small_document


def problems(doc: Any) -> dict[str, str]:
    with pytest.raises(BadDocument) as caught:
        parse_plan(doc)
    return {one.pointer: one.detail for one in caught.value.problems}


@pytest.mark.parametrize("name", JOBS)
@pytest.mark.parametrize("full", [True, False])
def test_plan_document_out_and_in_is_identical(name: str, full: bool) -> None:
    plan = demo_plan(name)
    text = json.dumps(plan_document(plan, full=full))
    assert parse_plan(json.loads(text)) == plan


@pytest.mark.parametrize("bad", [None, [], "plan", 3, {}, {"format": "other"}, {"format": "lucernis-plan"}])
def test_parse_plan_not_a_plan(bad: Any) -> None:
    assert problems(bad)


@pytest.mark.parametrize(
    ("path", "value", "pointer"),
    [
        (("runs", 0, "length_m"), -1, "#/runs/0/length_m"),
        (("runs", 0, "length_m"), 0, "#/runs/0/length_m"),
        (("runs", 0, "length_m"), float("nan"), "#/runs/0/length_m"),
        (("runs", 0, "length_m"), float("inf"), "#/runs/0/length_m"),
        (("runs", 0, "length_m"), 1e9, "#/runs/0/length_m"),
        (("runs", 0, "length_m"), "3", "#/runs/0/length_m"),
        (("runs", 0, "length_m"), True, "#/runs/0/length_m"),
        (("runs", 0, "colour"), "red", "#/runs/0/colour"),
        (("runs", 0, "start", "part"), "nobody", "#/runs/0/start/part"),
        (("runs", 1, "start", "way"), None, "#/runs/1/start/way"),
        (("runs", 2, "start", "way"), 1, "#/runs/2/start/way"),
        (("runs", 0, "start", "way"), 3, "#/runs/0/start/way"),
        (("runs", 3, "finish", "part"), "l1", "#/runs/3/finish/part"),
        (("runs", 0, "zone"), "attic", "#/runs/0/zone"),
        (("runs", 0, "fuse_at_start", "distance_m"), 50, "#/runs/0/fuse_at_start/distance_m"),
        (("runs", 0, "wire"), {"system": "awg", "size": "11", "reason": "x"}, "#/runs/0/wire/size"),
        (("runs", 0, "wire"), {"system": "awg", "size": "10", "reason": ""}, "#/runs/0/wire/reason"),
        (("runs", 0, "id"), "l1", "#/runs/0/id"),
        (("runs", 0, "id"), "r2", "#/runs/1/id"),
        (("parts", 2, "power_w"), -5, "#/parts/2/power_w"),
        (("parts", 2, "rated_v"), 0, "#/parts/2/rated_v"),
        (("parts", 2, "current_a"), 2.0, "#/parts/2"),
        (("parts", 2, "place"), "attic", "#/parts/2/place"),
        (("parts", 2, "maker"), {"least": {"system": "mm2", "size": "3"}}, "#/parts/2/maker/least/size"),
        (("nominal_v",), 0, "#/nominal_v"),
        (("practice", "set"), "nobody", "#/practice/set"),
        (("practice", "overrides"), [{"rule": "shelf", "value": ["11"]}], "#/practice/overrides"),
        (("practice", "overrides"), [{"rule": "margin_frac", "value": 9}], "#/practice/overrides/0"),
        (("states", 0, "off"), ["b1"], "#/states/0/off/0"),
        (("places", 0, "zone"), "attic", "#/places/0/zone"),
        (("version",), 8, "#/version"),
        (("version",), "1", "#/version"),
    ],
)
def test_parse_plan_names_the_bad_field(path: tuple[Any, ...], value: Any, pointer: str) -> None:
    doc = small_document()
    target: Any = doc
    for step in path[:-1]:
        target = target[step]
    target[path[-1]] = value
    assert pointer in problems(doc)


def test_parse_plan_lists_every_bad_field() -> None:
    doc = small_document()
    doc["runs"][0]["length_m"] = -1
    doc["parts"][2]["power_w"] = -1
    assert set(problems(doc)) == {"#/runs/0/length_m", "#/parts/2/power_w"}


def test_length_over_100_m_asks() -> None:
    doc = small_document()
    doc["runs"][0]["length_m"] = 150
    assert "set length_confirmed" in problems(doc)["#/runs/0"]
    doc["runs"][0]["length_confirmed"] = True
    assert parse_plan(doc).runs[0].length_m == 150


def test_length_as_typed_must_agree() -> None:
    doc = small_document()
    doc["runs"][0] |= {"length_m": 3.0, "length_as_typed": "28 ft loop"}
    assert "length_as_typed says 4.2672 m" in problems(doc)["#/runs/0"]
    doc["runs"][0]["length_m"] = 4.2672
    assert parse_plan(doc).runs[0].length_as_typed == "28 ft loop"


@pytest.mark.parametrize("name", list(load_sets()))
def test_blank_plan_is_valid(name: str) -> None:
    plan = blank_plan("New", practice_set=name)
    assert parse_plan(plan_document(plan)) == plan


def test_upgrade_runs_each_step_in_order() -> None:
    steps = {1: lambda doc: doc | {"a": 1}, 2: lambda doc: doc | {"b": doc["a"] + 1}}
    assert upgrade({"version": 1}, to_version=3, steps=steps) == {"version": 3, "a": 1, "b": 2}
    with pytest.raises(BadDocument, match="unknown version"):
        upgrade({"version": 0}, to_version=3, steps=steps)


def test_describe_changes_says_field_and_both_values() -> None:
    before = document("heron")
    after = document("heron")
    after["parts"][5]["name"] = "Renamed"
    after["runs"][0]["length_m"] = 9.0
    after["waivers"] = [{"code": "fuse-too-far", "subject": "r1", "reason": "known"}]
    after["parts"].pop()
    lines = describe_changes(before, after)
    old = document("heron")["parts"][5]["name"]
    assert f"Renamed: name {old} → Renamed" in lines
    assert any("length, one way m" in line and "→ 9" in line for line in lines)
    assert any(line.startswith("waived fuse-too-far on r1") for line in lines)
    assert any(line.endswith("removed") for line in lines)
    assert summary_line(before, before) == "No change"


@settings(max_examples=150, deadline=None)
@given(
    doc=st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=8),
        lambda inner: (
            st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(list(Plan.model_fields)), inner, max_size=6)
        ),
        max_leaves=12,
    )
)
def test_parse_plan_never_breaks_on_nonsense(doc: Any) -> None:
    candidate = {"format": "lucernis-plan", "version": 1, **doc} if isinstance(doc, dict) else doc
    with pytest.raises(BadDocument):
        parse_plan(candidate)


def test_version_1_is_upgraded_when_it_is_read() -> None:
    """All of version 1 stands in version 7; what is new has its default."""
    doc = small_document()
    assert doc["version"] == 1
    plan = parse_plan(doc)
    assert plan.version == 7
    assert {(run.legs, run.parallel) for run in plan.runs} == {("both", 1)}
    assert all(state.open == () for state in plan.states)
    assert parse_plan(plan_document(plan)) == plan
    assert parse_plan(plan_document(plan, full=False)) == plan


@pytest.mark.parametrize(
    ("change", "pointer"),
    [
        (lambda doc: doc["runs"][0]["start"].update(terminal="coil"), "#/runs/0/start/terminal"),
        (lambda doc: doc["runs"][0].update(legs="negative"), "#/runs/0/fuse_at_start"),
        (lambda doc: doc["runs"][1].update(finish={"part": "f1"}), "#/runs/1/finish/part"),
        (lambda doc: doc["states"][0].update(open=["l1"]), "#/states/0/open/0"),
        (lambda doc: doc["states"][0].update(modes=[{"part": "f1", "position": "b"}]), "#/states/0/modes/0/part"),
        (lambda doc: doc["states"][0].update(duty=[{"load": "f1", "share": 0.5}]), "#/states/0/duty/0/load"),
        (lambda doc: doc["parts"][1].update(second_bank_from=9), "#/parts/1"),
        (lambda doc: doc["parts"].append({"kind": "shunt", "id": "h1", "name": "S", "tag": "H1"}) or
         doc["runs"].append({"id": "r9", "tag": "C9", "start": {"part": "b1"}, "finish": {"part": "h1"},
                             "length_m": 1}),
         "#/runs/4/finish/part"),
    ],
)  # fmt: skip
def test_wiring_that_cannot_be_names_the_field(change: Any, pointer: str) -> None:
    doc = small_document()
    change(doc)
    assert pointer in problems(doc)
