"""Proposals in a vehicle that has been measured: new runs along its channels, spares where walls close."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.laid import layout_of
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.ways import follow_ways, put_spares
from lucernis.core.proposals.wishes import Wishes
from lucernis.demo import demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Joint, Plan
from tests.core.checks.test_layout_findings import laid
from tests.helpers import run

Doc = dict[str, Any]


def caps(plan: Plan) -> dict[str, str | None]:
    return {one.id: one.place for one in plan.parts if isinstance(one, Joint) and one.form == "cap"}


def test_a_run_nobody_measured_follows_the_channels_and_one_that_was_measured_stays() -> None:
    doc = laid()
    for name, guessed in (("r2", True), ("r3", False)):
        run(doc, name).update(way=None, length_guessed=guessed, length_m=7.0)
    made = follow_ways(parse_plan(doc), Wishes())
    assert made is not None
    lengths = {one.id: one.length_m for one in layout_of(made[0]).plan.runs}
    # (1.00 + 0.2 + 0.2) · 1.05 = 1.47
    assert (lengths["r2"], lengths["r3"]) == (1.47, 7.0)
    assert "C02 follow" in made[1]
    assert follow_ways(made[0], Wishes()) is None


def test_without_channels_there_is_nothing_to_follow() -> None:
    doc = laid()
    doc["channels"] = []
    for name in ("r2", "r3", "r4"):
        run(doc, name).update(way=None, length_guessed=True)
    assert follow_ways(parse_plan(doc), Wishes()) is None
    assert put_spares(parse_plan(doc), Wishes()) is None


@pytest.mark.parametrize(("closed", "reach", "block", "wanted"), [
    (True, "panel", False, True), (False, "panel", False, False), (True, "closed", False, False),
    (True, "panel", True, False)])  # fmt: skip
def test_a_spare_goes_where_a_closed_wall_leads_and_a_hand_still_gets(
    closed: bool, reach: str, block: bool, wanted: bool
) -> None:
    doc = laid()
    doc["channels"] = doc["channels"][:2]
    doc["channels"][1]["closed"] = closed
    next(one for one in doc["places"] if one["id"] == "p3")["reach"] = reach
    if block:
        doc["parts"].append({"kind": "fuse_block", "id": "f2", "name": "Far block", "tag": "F02", "place": "p3"})
    plan = parse_plan(doc)
    made = put_spares(plan, Wishes())
    assert (made is not None) is wanted
    if made is None:
        return
    (name,) = caps(made[0])
    assert caps(made[0])[name] == "p3"
    spare = next(one for one in layout_of(made[0]).plan.runs if one.finish.part == name)
    # Both channels of 1.00 and 2.00 m: (3.00 + 0.2 + 0.2) · 1.05 = 3.57
    assert spare.length_m == 3.57
    assert put_spares(made[0], Wishes()) is None
    before, after = evaluate(plan), evaluate(made[0])
    assert {(one.code, one.subject) for one in after.findings} == {(one.code, one.subject) for one in before.findings}
    size = next(one.wire.area_mm2 for one in evaluate(made[0]).runs if one.id == spare.id)
    assert 1.3 <= size <= 4.0


def test_heron_gets_spares_behind_its_walls_and_no_stop_by_them() -> None:
    plan, proposal = propose(demo_plan("heron"), Wishes(), ["spares", "ways"])
    told = next(one for one in proposal.steps if one.id == "spares")
    assert told.outcome == "done"
    assert set(caps(plan).values()) == {"cab", "doorway", "taildoor"}
    report = evaluate(plan, with_working=False)
    assert report.summary.open_stop == report.summary.open_fix == 0
