"""What is counted is counted right, over generated plans: conductors in a channel, metres to cut, lugs on a stud; each
against a count by hand that knows nothing of the program."""

from __future__ import annotations

from collections import Counter, defaultdict
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lucernis.core.build.cut_list import cut_list
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.laid import laid_out, layout_of
from lucernis.plan.document import parse_plan
from tests.law.conftest import PLANS
from tests.law.test_layouts import laid_documents
from tests.outside.references.counted import carrying_in, copper_m, lugs_on, wires_in

SOME = settings(max_examples=max(15, PLANS // 20), deadline=None, suppress_health_check=list(HealthCheck))
MOST_LUGS = 4  # on one stud (ABYC E-11.14.4.4, from memory)
Doc = dict[str, Any]


@st.composite
def used_documents(draw: st.DrawFn) -> Doc:
    """A generated plan in a vehicle, with side-by-side conductors and states in which things are off or open."""
    doc = draw(laid_documents())
    loads = [one["id"] for one in doc["parts"] if one["kind"] == "load"]
    switches = [one["id"] for one in doc["parts"] if one["kind"] == "switch"]
    fused = [one["id"] for one in doc["runs"] if one["fuse_at_start"] or one["fuse_at_finish"]]
    for run in draw(st.lists(st.sampled_from(doc["runs"]), max_size=3)):
        if run["legs"] != "series":
            run["parallel"] = draw(st.integers(2, 3))
    for part in doc["parts"]:
        if part["kind"] == "busbar":
            part["studs"] = draw(st.sampled_from([2, 12]))
    for at in range(draw(st.integers(1, 2))):
        state = {"id": f"part{at}", "name": f"Part {at}", "key_on": False}
        state["off"] = draw(st.lists(st.sampled_from(loads), unique=True, max_size=len(loads)))
        state["open"] = draw(st.lists(st.sampled_from([*switches, *fused]), unique=True, max_size=3))
        state["open"] += [one for one in switches if one not in state["open"] and draw(st.booleans())]
        doc["states"].append(state)
    if draw(st.booleans()):
        # All on hides what a single state leaves out.
        doc["states"] = doc["states"][-1:]
    return doc


@SOME
@given(document=used_documents())
def test_conductors_in_a_channel_are_those_counted_by_hand(document: Doc) -> None:
    plan = parse_plan(document)
    layout = layout_of(plan)
    ways = {run: route.channels for run, route in layout.routes.items()}
    assert layout.counts == carrying_in(plan, ways)
    report = evaluate(plan, with_working=False)
    assert {one.id: one.wires for one in report.channels} == wires_in(plan, ways)


@SOME
@given(document=used_documents())
def test_every_conductor_is_cut_once_and_at_its_length(document: Doc) -> None:
    """Leg by leg and run by run: a piece that is not cut, or cut twice, is another length."""
    plan = laid_out(parse_plan(document))
    found: dict[tuple[str, str], float] = defaultdict(float)
    lies: Counter[str] = Counter()
    for piece in cut_list(plan).pieces:
        found[piece.run, piece.leg[0]] += piece.way_m
        lies.update(piece.runs if piece.leg[0] == "−" else ())
    wanted = copper_m(plan)
    assert set(found) <= set(wanted)
    for (run, leg), length_m in wanted.items():
        if leg != "−":
            assert length_m - 1e-6 <= found[run, leg] <= 1.051 * length_m, run
    # A negative passes a switch by in one piece and lies along both its runs.
    home = {run: length_m for (run, leg), length_m in wanted.items() if leg == "−"}
    conductors = {run.id: run.parallel for run in plan.runs if run.id in home}
    assert {run: lies[run] for run in home} == conductors
    back_m = sum(length_m for (_, leg), length_m in found.items() if leg == "−")
    assert sum(home.values()) - 1e-6 <= back_m <= 1.051 * sum(home.values())


@SOME
@given(document=used_documents())
def test_a_bar_is_crowded_by_its_lugs_and_not_by_its_runs(document: Doc) -> None:
    plan = parse_plan(document)
    findings = evaluate(plan, with_working=False).findings
    crowded = Counter(one.subject for one in findings if one.code == "stud-crowded")
    for part in plan.parts:
        if part.kind == "busbar":
            assert (part.id in crowded) == (lugs_on(plan, part.id) > MOST_LUGS * part.studs), part
