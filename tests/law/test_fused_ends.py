"""Every end a battery feeds has a fuse: taken out it is found, and whatever is offered puts one back at that end.

The ends are found by a search of the graph (`tests/outside/references/guarded.py`), not by what the program
thinks of them.
"""

from __future__ import annotations

import random
from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.mends import tried_mends
from lucernis.core.report import every
from lucernis.core.school.breaking.van import good_van, van_names
from lucernis.demo import demo_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.model import Plan
from tests.law.conftest import PLANS, some
from tests.law.wild import wild_plan
from tests.outside.references.guarded import unguarded

SOUND = {name: demo_plan(name) for name in ("heron", "tern", "plover_mended")} | {
    name: parse_plan(good_van(name).doc) for name in van_names()
}


def _without(plan: Plan, tag: str, end: str) -> Plan:
    document: dict[str, Any] = plan_document(plan)
    run = next(one for one in document["runs"] if one["tag"] == tag)
    run[f"fuse_at_{end}"] = None
    return parse_plan(document)


def _fuses() -> list[tuple[str, str, str]]:
    """One of each kind of place a fuse stands in, of every plan; every fuse in the long run."""
    found: list[tuple[str, str, str]] = []
    seen: set[tuple[str, ...]] = set()
    for name, plan in SOUND.items():
        kinds = {one.id: one.kind for one in plan.parts}
        for run in plan.runs:
            for end, fuse in (("start", run.fuse_at_start), ("finish", run.fuse_at_finish)):
                place = (kinds[run.start.part], kinds[run.finish.part], run.legs, end)
                if fuse is None or (place in seen and PLANS < 1000):
                    continue
                seen.add(place)
                found.append((name, run.tag, end))
    return found


@pytest.mark.parametrize("name", sorted(SOUND))
def test_a_sound_plan_has_no_end_that_a_battery_feeds_without_a_fuse(name: str) -> None:
    assert unguarded(SOUND[name]) == frozenset()


def test_the_end_without_a_fuse_in_plover_is_the_one_that_is_told() -> None:
    plan = demo_plan("plover")
    assert unguarded(plan) == {("C09", "finish")}
    run = next(one.id for one in plan.runs if one.tag == "C09")
    told = [one for one in every(evaluate(plan, with_working=False).findings) if one.subject == run]
    assert [one for one in told if one.severity == "stop"]


@pytest.mark.parametrize(("name", "tag", "end"), _fuses())
def test_a_fuse_that_is_taken_out_is_missed_and_comes_back_at_its_end(name: str, tag: str, end: str) -> None:
    plan = _without(SOUND[name], tag, end)
    bare = unguarded(plan)
    findings = evaluate(plan, with_working=False).findings
    assert (tag, end) in bare or not bare
    if not bare:
        # One that guards against no battery, as in a block behind a charger alone.
        return
    runs = {one.tag: one.id for one in plan.runs}
    told = [one for one in every(findings) if one.severity == "stop" and one.subject == runs[tag]]
    assert told, "an end that a battery feeds without a fuse is a stop"
    for finding in told:
        for fix in tried_mends(plan, finding.id, findings):
            after = apply_edits(plan, fix.edits)
            assert unguarded(after) == frozenset(), (finding.code, fix.label)


@pytest.mark.parametrize("seed", range(some(12, 1)))
def test_a_fuse_taken_out_of_any_plan_is_missed(seed: int) -> None:
    plan, rng = wild_plan(seed), random.Random(seed)
    fuses = [
        (run.tag, end)
        for run in plan.runs
        for end, fuse in (("start", run.fuse_at_start), ("finish", run.fuse_at_finish))
        if fuse is not None
    ]
    tag, end = rng.choice(fuses)
    bare = unguarded(_without(plan, tag, end)) - unguarded(plan)
    if not bare:
        return
    findings = every(evaluate(_without(plan, tag, end), with_working=False).findings)
    stops = {one.subject for one in findings if one.severity == "stop"}
    # A wire that hangs on it behind shares its missing guard: where the first is told, the rest is mended with it.
    runs = {one.tag: one.id for one in plan.runs}
    assert stops & {runs[one] for one, _ in bare}
