"""The law of own choices: what the program chose itself passes its own checks. Every stop and fix names a demand."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, get_args

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeRequest, size_run
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.wishes import Leaning, Wishes
from lucernis.core.report import Finding
from lucernis.plan.document import parse_plan, plan_document
from tests.core.proposals.test_propose import listed
from tests.helpers import run, small_document
from tests.law.conftest import PLANS
from tests.law.plans import SETS, plan_documents

LONG = settings(max_examples=PLANS, deadline=None, suppress_health_check=list(HealthCheck))
SOME = settings(max_examples=max(20, PLANS // 5), deadline=None, suppress_health_check=list(HealthCheck))


def own_faults(findings: list[Finding]) -> list[str]:
    """Stops and fixes that no person asked for."""
    return [f"{one.code} {one.subject}: {one.what}" for one in findings if one.severity != "look" and not one.asked]


@LONG
@given(document=plan_documents())
def test_nothing_the_program_chose_is_at_fault(document: dict[str, Any]) -> None:
    assert own_faults(evaluate(parse_plan(document), with_working=False).findings) == []


@pytest.mark.parametrize("path", sorted((Path(__file__).parent / "found").glob("*.json")), ids=lambda path: path.stem)
def test_plans_the_long_run_once_found_at_fault_stay_mended(path: Path) -> None:
    document = json.loads(path.read_text(encoding="utf-8"))
    assert own_faults(evaluate(parse_plan(document), with_working=False).findings) == []


def test_the_law_sees_a_bad_choice() -> None:
    """A fuse put in by hand over a wire put in by hand is at fault, and says who asked for it."""
    doc = small_document()
    run(doc, "r3").update(wire={"system": "awg", "size": "16", "reason": "test"})
    run(doc, "r3")["fuse_at_start"]["pin"] = {"rating_a": 40, "family": "blade_regular", "reason": "test"}
    found = [one for one in evaluate(parse_plan(doc)).findings if one.subject == "r3" and one.severity == "stop"]
    assert found
    assert all(one.asked for one in found)
    for one in found:
        one.asked = ""
    assert own_faults(found) != []


@SOME
@given(
    amps=st.floats(0.1, 200),
    length_m=st.floats(0.3, 9),
    practice=st.sampled_from(SETS),
    nominal_v=st.sampled_from([12, 24]),
    sensitive=st.booleans(),
)
def test_one_run_passes_its_own_checks(
    amps: float, length_m: float, practice: str, nominal_v: Any, sensitive: bool
) -> None:
    asked = {"amps": amps, "length_m": length_m, "practice_set": practice, "nominal_v": nominal_v}
    assert own_faults(size_run(SizeRequest.model_validate(asked | {"sensitive": sensitive})).findings) == []


@pytest.mark.parametrize("nominal_v", [12, 24])
@pytest.mark.parametrize("practice", SETS)
def test_proposals_pass_their_own_checks(nominal_v: Any, practice: str) -> None:
    leaning = get_args(Leaning)[(SETS.index(practice) + nominal_v // 12) % 3]
    doc = plan_document(listed())
    doc["practice"] = {"set": practice}
    chemistry = ("lfp", "agm")[(SETS.index(practice) + nominal_v // 12) % 2]
    plan, _ = propose(parse_plan(doc), Wishes(leaning=leaning, chemistry=chemistry, nominal_v=nominal_v))
    # What the load list itself lacks a proposal cannot know.
    assert own_faults(evaluate(plan).findings) == []
