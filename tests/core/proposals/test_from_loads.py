"""From a load list alone: the loads of the demo jobs, with no battery and not a wire, become whole vans."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.wishes import Wishes
from lucernis.demo import demo_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan

WISHES: dict[str, dict[str, Any]] = {
    "heron": {"days": 1.0, "drive_hours": 2.0, "roof_m2": 5.0},
    "tern": {"days": 1.0, "drive_hours": 3.0, "chemistry": "agm", "roof_m2": 1.5},
    "plover_mended": {"days": 2.0, "chemistry": "agm", "roof_m2": 2.0},
}


def loads_alone(name: str) -> Plan:
    doc = plan_document(demo_plan(name))
    doc["parts"] = [one for one in doc["parts"] if one["kind"] == "load"]
    doc.update(runs=[], waivers=[])
    for state in doc["states"]:
        state.update(open=[], modes=[])
    return parse_plan(doc)


@pytest.mark.parametrize("name", WISHES)
def test_loads_alone_become_a_whole_van(name: str) -> None:
    plan, proposal = propose(loads_alone(name), Wishes.model_validate(WISHES[name]))
    assert proposal.steps[0].outcome == "done"
    report = evaluate(plan, with_working=False)
    found = [one for one in report.findings if one.code != "lengths-guessed"]
    assert [f"{one.code} {one.what}" for one in found if one.severity != "look"] == []
    assert len(found) <= 2
    assert all(load.circuit is not None for load in report.loads)
    kinds = {part.id: part.kind for part in plan.parts}
    branches = {
        run.wire.label for run, doc in zip(report.runs, plan.runs, strict=True) if kinds[doc.finish.part] == "load"
    }
    assert len(branches) <= 4


def test_what_is_fed_already_is_left_where_it_is() -> None:
    plan = demo_plan("plover_mended")
    _, proposal = propose(plan, Wishes(), ["begin"])
    assert proposal.steps[0].outcome == "nothing"


def test_a_load_nothing_feeds_is_put_on_the_block_there_is() -> None:
    doc = plan_document(demo_plan("plover_mended"))
    load = next(one for one in doc["parts"] if one["kind"] == "load")
    doc["runs"] = [one for one in doc["runs"] if one["finish"]["part"] != load["id"]]
    plan, _ = propose(parse_plan(doc), Wishes(), ["begin"])
    run = next(one for one in plan.runs if one.finish.part == load["id"])
    assert next(part for part in plan.parts if part.id == run.start.part).kind == "fuse_block"
    assert run.length_guessed
    assert sum(part.kind == "fuse_block" for part in plan.parts) == sum(
        one["kind"] == "fuse_block" for one in doc["parts"]
    )
