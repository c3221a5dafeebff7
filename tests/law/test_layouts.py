"""Laws of the layout over generated plans and vehicles: own choices pass own checks, whatever lies beside whatever; the
order of channels means nothing; a plan and the plan laid out tell the same."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.laid import laid_out, layout_of
from lucernis.plan.document import parse_plan, plan_document
from tests.law.conftest import PLANS
from tests.law.plans import plan_documents
from tests.law.test_own_choices import own_faults

SOME = settings(max_examples=max(20, PLANS // 12), deadline=None, suppress_health_check=list(HealthCheck))
Doc = dict[str, Any]


@st.composite
def laid_documents(draw: st.DrawFn) -> Doc:
    """A generated plan in a vehicle of a few places, all joined by a tree of channels with some more across it."""
    doc = plan_document(parse_plan(draw(plan_documents())))
    zones = [zone["id"] for zone in doc["zones"]]
    count = draw(st.integers(2, 7))
    first = [place["id"] for place in doc["places"]]
    doc["places"] += [
        {"id": f"new{at}", "name": f"New {at}", "zone": draw(st.sampled_from(zones)), "vented": True}
        for at in range(count)
    ]
    places = [*first, *(f"new{at}" for at in range(count))]
    pairs = [(draw(st.integers(0, at - 1)), at) for at in range(1, len(places))]
    pairs += [
        (a, b) for a, b in draw(st.lists(st.tuples(*[st.integers(0, len(places) - 1)] * 2), max_size=4)) if a != b
    ]
    doc["channels"] = [
        {"id": f"ch{at}", "name": f"Channel {at}", "start": places[a], "finish": places[b],
         "length_m": round(draw(st.floats(0.2, 1.5)), 2)}
        for at, (a, b) in enumerate(pairs)
    ]  # fmt: skip
    for part in doc["parts"]:
        if part["place"] is None:
            part["place"] = draw(st.sampled_from(places))
    for run in doc["runs"]:
        # A jumper that needs no fuse because it is short stays as short as it is.
        short = run["length_m"] <= 0.6
        run["way"] = {"length_pinned": True} if short else draw(st.sampled_from([{}, {}, {"length_pinned": True}]))
        for end in ("fuse_at_start", "fuse_at_finish"):
            if run[end] is not None:
                run[end]["distance_m"] = min(run[end]["distance_m"], 0.1)
    return doc


@SOME
@given(document=laid_documents())
def test_nothing_the_program_chose_along_channels_is_at_fault(document: Doc) -> None:
    plan = parse_plan(document)
    assert not [route.missing for route in layout_of(plan).routes.values() if route.missing]
    assert own_faults(evaluate(plan, with_working=False).findings) == []


@SOME
@given(document=laid_documents(), seed=st.randoms(use_true_random=False))
def test_the_order_of_channels_and_their_direction_mean_nothing(document: Doc, seed: Any) -> None:
    plan = parse_plan(document)
    turned = [
        one | {"start": one["finish"], "finish": one["start"]} if seed.random() < 0.5 else one
        for one in document["channels"]
    ]
    seed.shuffle(turned)
    other = parse_plan(document | {"channels": turned})
    lengths = [[run.length_m for run in laid_out(one).runs] for one in (plan, other)]
    assert lengths[0] == pytest.approx(lengths[1], abs=0.0101)


@SOME
@given(document=laid_documents())
def test_a_plan_and_the_plan_laid_out_tell_the_same(document: Doc) -> None:
    plan = parse_plan(document)
    typed = parse_plan(plan_document(laid_out(plan)))
    assert evaluate(plan, with_working=False) == evaluate(typed, with_working=False)
