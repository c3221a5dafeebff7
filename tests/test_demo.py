"""The demo data: ours alone, valid, and telling what it is there to tell."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.demo import JOBS, demo_plan, load_demo
from lucernis.plan.model import FuseBlock, Load
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore


@pytest.mark.parametrize("name", JOBS)
def test_demo_job_belongs_to_the_workshop(name: str) -> None:
    plan = demo_plan(name)
    assert plan.job.name == name.capitalize().replace("_", ", ")
    assert plan.job.workshop == "Marrowbone Lane Auto Electric"
    assert len({run.tag for run in plan.runs}) == len(plan.runs)


def test_heron_is_a_plan_one_could_build() -> None:
    plan = demo_plan("heron")
    report = evaluate(plan)
    assert {one.severity for one in report.findings} <= {"look"}
    assert sum(isinstance(part, FuseBlock) for part in plan.parts) >= 3
    assert sum(isinstance(part, Load) for part in plan.parts) >= 15
    assert any(run.role == "onward" for run in report.runs)
    assert len(plan.states) == 5


def test_tern_has_only_things_to_look_at() -> None:
    assert {one.severity for one in evaluate(demo_plan("tern")).findings} == {"look"}


def test_plover_shows_what_the_checks_catch() -> None:
    report = evaluate(demo_plan("plover"))
    assert report.summary.open_stop > 0
    assert report.summary.open_fix > 0
    assert report.summary.waived == 1
    assert any(run.wire.pinned for run in report.runs)


def test_demo_jobs_differ_in_practice_units_and_body() -> None:
    plans = [demo_plan(name) for name in JOBS]
    assert len({plan.practice.set for plan in plans}) == 3
    assert len({plan.units for plan in plans}) == 3
    assert {plan.job.vehicle.body for plan in plans} == {"steel", "fibreglass_or_wood"}


def test_demo_parts_are_generic() -> None:
    # A name of a maker would be a word with a capital inside a sentence, or a model number.
    for name in JOBS:
        for part in demo_plan(name).parts:
            assert not re.search(r"[a-z] [A-Z][a-z]|[A-Z]{2,}\d|\d{3,}[A-Z]", part.name), part.name


def test_load_demo_fills_an_empty_shelf_once(tmp_path: Path) -> None:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    store = PlanStore(database)
    assert load_demo(store) == len(JOBS)
    assert load_demo(store) == 0
    for one in store.list_plans():
        store.archive(one.plan_id, archived=True)
    assert load_demo(store) == 0
