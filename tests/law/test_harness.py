"""Every paper says the same of a fuse, an end and a hole, whichever way a run is written: all read one harness."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from functools import lru_cache
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.labels import plates, wire_labels
from lucernis.core.build.landing import landings
from lucernis.core.build.order import Order, order_of_work
from lucernis.core.build.shopping import shopping
from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.harness.harness import Harness, harness_of
from lucernis.core.itself import Itself
from lucernis.core.layout.laid import layout_of
from lucernis.core.pictures.wiring import wiring_sheet, wiring_sheets
from lucernis.core.report import Report
from lucernis.demo import JOBS, demo_plan
from lucernis.exports.fuse_map import FuseRow, main_rows, way_rows
from lucernis.exports.run_sheet import fuse_text
from lucernis.exports.tables_csv import runs_csv
from lucernis.plan.document import parse_plan
from lucernis.plan.model import FuseBlock, Plan
from tests.law.conftest import some
from tests.law.plans import plan_documents
from tests.law.rewritten import in_other_order, turned_round
from tests.law.test_layouts import laid_documents
from tests.law.wild import wild_plan

SOME = settings(max_examples=some(8), deadline=None, suppress_health_check=list(HealthCheck))
SEEDS = range(some(4, 8))


@lru_cache(maxsize=4)
def _judged(this: Itself[Plan]) -> Report:
    return evaluate(this.thing, with_working=False)


def on_the_map(plan: Plan) -> list[FuseRow]:
    """Every line of the fuse map but free ways."""
    report = _judged(Itself(plan))
    blocks = [part for part in plan.parts if isinstance(part, FuseBlock)]
    rows = [*main_rows(plan, report), *(row for one in blocks for row in way_rows(plan, report, one))]
    return [row for row in rows if row.tag and row.kind]


def _steps(order: Order) -> list[Any]:
    return [*order.steps, *order.power_up]


def hold_fuses(plan: Plan) -> None:
    """Every fuse of the report stands at the same end, place and rating on every paper."""
    harness, report = harness_of(plan), _judged(Itself(plan))
    told = {
        (run.id, fuse.end == "start"): (fuse.family, fuse.rating_a, fuse.count)
        for run in report.runs
        for fuse in (run.fuse, run.far_fuse)
        if fuse is not None and fuse.rating_a is not None
    }
    held = {(one.run, one.at_start_as_typed): (one.family, one.rating_a, one.count) for one in harness.holders.values()}
    assert held == told
    runs = {run.id: run for run in report.runs}
    steps = {step.id: step for step in _steps(order_of_work(plan))}
    lid = {(row.tag, row.kind.removesuffix(", sealed"), row.amps): row for row in on_the_map(plan)}
    sheets = {row[0]: row[-1] for one in wiring_sheets(plan) for row in wiring_sheet(plan, one.id, None).rows}
    landed = {one.part: one for one in landings(plan)}
    table = {row["tag"]: row for row in csv.DictReader(io.StringIO(runs_csv(report).decode("utf-8-sig")))}
    for one in harness.holders.values():
        column = "far_fuse_at" if one.finish else "fuse_at"
        assert table[one.tag][column].startswith(one.part_name)
        said = f"{one.what}{', pinned' if one.pinned else ''}, {one.where}"
        assert said in fuse_text(runs[one.run], harness)
        assert f"{one.what}, {one.where}" in sheets[one.tag]
        amps = f"{f'{one.count} × ' if one.count > 1 else ''}{one.rating_a:g} A"
        assert lid[one.tag, one.label, amps].where.startswith(one.where)
        power = steps[f"power:fuse:{one.key}"]
        assert power.text.endswith(f"{one.what} in, {one.where}")
        assert power.place == one.place
        if one.mounting == "in_line":
            assert one.where in steps[f"mount:{one.key}"].text
            assert steps[f"holder:{one.key}"].place == steps[f"mount:{one.key}"].place == one.place
            assert landed[one.key].place == one.place
            ends = harness.ends_at(one)
            assert len(ends) == 2 * _conductors(harness, one.run)
            assert {end.place for _, end in ends} == {one.place}
            assert {end.stud for _, end in ends} == {one.stud}
        elif one.mounting == "way":
            terminal = next(t for t in landed[one.part].terminals if t.name == f"way {one.way}")
            assert terminal.fuse == one.what
    needed = Counter[str]()
    for line in shopping(plan, cut_list(plan), {}):
        if line.group == "fuses" and not line.key.endswith(":lead"):
            needed[line.key.split(":")[0]] += round(line.needed)
    assert needed["fuse"] == sum(one.count for one in harness.holders.values())
    assert needed["holder"] == sum(one.count for one in harness.holders.values() if one.mounting != "way")


def _conductors(harness: Harness, run_id: str) -> int:
    return next(run.parallel for run in harness.plan.runs if run.id == run_id)


def hold_ends(plan: Plan) -> None:
    """Every end of every piece is made once, landed once, with a torque where there is a stud, and bought once."""
    harness, steps = harness_of(plan), _steps(order_of_work(plan))
    ends = 2 * len(harness.pieces)
    landing = [step for step in steps if step.work == "connect"]
    assert sum(step.amount for step in steps if step.phase == "crimp") == ends
    assert sum(step.amount for step in landing) == ends
    laid = Counter(step.id.removeprefix("lead:") for step in steps if step.work == "lead")
    assert laid == Counter(lead.id for lead in harness.leads), "every lead is laid once"
    studs = sum(bool(end.stud) for piece in harness.pieces for end in piece.ends)
    assert sum(step.amount for step in landing if step.torque) == studs
    on_parts = Counter(wire.piece for part in landings(plan) for one in part.terminals for wire in one.wires)
    assert on_parts == Counter({piece.id: 2 for piece in harness.pieces})
    wanted = Counter[str]()
    for piece in harness.pieces:
        for end in piece.ends:
            if end.what not in ("bare end",) and not (end.what == "butt splice" and end.part_id):
                wanted[end.fits] += 1
    lines = [line for line in shopping(plan, cut_list(plan), {}) if line.group == "ends"]
    bought = Counter({line.what: round(line.needed) for line in lines if line.what in wanted})
    assert bought == wanted
    extra = [line for line in lines if line.what not in wanted]
    known = {joint.key for joint in harness.joints} | {key for lead in harness.leads for key, _, _ in lead.bought}
    assert {line.key for line in extra} <= known, "nothing is bought that no paper uses"
    rows = {row[0]: row for one in wiring_sheets(plan) for row in wiring_sheet(plan, one.id, None).rows}
    for run in harness.plan.runs:
        legs = {piece.leg[0] for piece in harness.pieces if run.id in piece.runs}
        assert bool(rows[run.tag][4]) == ("−" in legs), "a sheet draws the negatives that are laid and no other"
    stacks: dict[tuple[str, str, str, int], list[tuple[int, float]]] = {}
    for piece in harness.pieces:
        for end in piece.ends:
            if end.layer:
                stacks.setdefault((end.part_id, end.at, end.stud, end.on_stud), []).append((end.layer, piece.area_mm2))
    for stack in stacks.values():
        ranked = sorted(stack)
        assert [layer for layer, _ in ranked] == list(range(1, len(stack) + 1))
        areas = [area for _, area in ranked]
        assert areas == sorted(areas, reverse=True), "the thickest lies at the bottom"


def hold_holes(plan: Plan) -> None:
    """Every hole counts the conductors that pass it: each leg's wire once for each time it goes through."""
    harness = harness_of(plan)
    steps = {step.id: step for step in order_of_work(plan).steps}
    routes = layout_of(plan).routes
    conductors = {piece.id.rpartition(".")[0]: piece.runs for piece in harness.pieces if piece.way_m > 0}
    home = {piece.id.rpartition(".")[0] for piece in harness.pieces if not piece.channels and piece.way_m == 0.5}
    for channel in plan.channels:
        held = harness.in_channel[channel.id]
        passes = Counter(piece.id.rpartition(".")[0] for piece in held)
        for conductor, runs in conductors.items():
            if conductor in home:
                continue
            ways = sum(routes[run].channels.count(channel.id) for run in runs if run in routes)
            assert passes[conductor] == ways, (channel.id, conductor)
        for hole in channel.crossings:
            text = steps[f"hole:{channel.id}:{hole.id}"].text
            found = re.search(r"(\d+) wires?", text)
            assert found is not None
            assert int(found[1]) == len(held)


def papers(plan: Plan) -> dict[str, list[str]]:
    """What papers say, in no order: lists of a plan may be listed otherwise."""
    report = _judged(Itself(plan))
    harness, order = harness_of(plan), order_of_work(plan)
    cut = cut_list(plan)
    sheets = {row[0]: str(row) for one in wiring_sheets(plan) for row in wiring_sheet(plan, one.id, None).rows}
    found = {
        "cut": [f"{p.id} {p.leg} {p.cut_m} {p.channels} {p.start} {p.finish}" for p in cut.pieces],
        "order": [f"{step.id} {step.text} {step.place} {sorted(step.lines)} {step.torque}" for step in order.steps],
        "power": [f"{step.id} {step.text} {step.place} {step.reading}" for step in order.power_up],
        "bought": [f"{line.key} {line.what} {line.needed}" for line in shopping(plan, cut, {})],
        "landed": [f"{one.part} {sorted(map(str, one.terminals))}" for one in landings(plan)],
        "labels": [str(one) for one in wire_labels(plan)],
        "plates": [f"{one.title} {one.lines} {sorted(one.warning)}" for one in plates(plan)],
        "map": [str(row) for row in on_the_map(plan)],
        "sheet": [f"{run.tag} {fuse_text(run, harness)}" for run in report.runs],
        "wiring": list(sheets.values()),
    }
    return {name: sorted(lines) for name, lines in found.items()}


def hold_papers(plan: Plan, seed: int, *, orders: bool = False) -> None:
    before = papers(plan)
    after = papers(turned_round(plan, seed)[0])
    for name in before:
        assert before[name] == after[name], name
    if orders:
        listed = papers(in_other_order(plan, seed))
        for name in ("cut", "bought", "map", "sheet"):
            assert before[name] == listed[name], name


def hold_power_up(plan: Plan) -> None:
    """No step of the first power-up reads what is not live by then: fuses that are in, switches and keys that are on,
    from the batteries alone, over the plan as it was typed."""
    switching, order = SwitchingPlan(plan), order_of_work(plan)
    fuses: dict[str, set[str]] = {}
    for one in harness_of(plan).holders.values():
        fuses.setdefault(one.run, set()).add(one.key)
    closed = {contact for contact in switching.contacts if contact[0] in switching.diodes}
    names = {part.id: part.name for part in plan.parts}
    for step in order.power_up:
        kind, _, rest = step.id.removeprefix("power:").partition(":")
        if kind == "fuse":
            fuses[rest.partition(":")[0]].discard(rest)
        elif kind in ("switch", "keyed"):
            closed.add((rest, "main"))
        live = _live(switching, closed, {run for run, out in fuses.items() if out})
        if kind in ("fuse", "switch") and step.reading:
            read = step.reading.removeprefix("volts at ").removeprefix("volts behind ")
            told = {name: names[name.partition(":")[0]] for name in live}
            points = {name for name, part in told.items() if read == part or read.startswith(f"{part}, ")}
            assert points, (step.id, step.reading)
            if kind == "switch":
                assert f"{rest}:out" in live, step.id


def _live(switching: SwitchingPlan, closed: set[tuple[str, str]], out: set[str]) -> frozenset[str]:
    """What batteries reach, relays following their coils."""
    while True:
        live = switching.reach(closed, frozenset(out))
        pulled = {contact for contact in switching.contacts if f"{contact[0]}:coil" in live and contact[1] == "main"}
        if pulled <= closed:
            return live
        closed |= pulled


def hold(plan: Plan) -> None:
    hold_fuses(plan)
    hold_power_up(plan)
    hold_ends(plan)
    hold_holes(plan)


@SOME
@given(document=plan_documents(), seed=st.integers(0, 10**6))
def test_papers_of_any_plan_agree(document: dict[str, Any], seed: int) -> None:
    plan = parse_plan(document)
    hold(plan)
    hold(turned_round(plan, seed)[0])
    hold_papers(plan, seed)


@SOME
@given(document=laid_documents())
def test_papers_of_plans_along_channels_agree(document: dict[str, Any]) -> None:
    plan = parse_plan(document)
    hold(plan)
    hold_papers(plan, 3)


@pytest.mark.parametrize("seed", SEEDS)
def test_papers_of_plans_with_mistakes_agree(seed: int) -> None:
    plan = wild_plan(seed)
    hold(plan)
    hold_papers(plan, seed)


@pytest.mark.parametrize("name", JOBS)
def test_papers_of_demo_jobs_agree(name: str) -> None:
    plan = demo_plan(name)
    hold(plan)
    hold(turned_round(plan, 1)[0])
    for seed in range(2):
        hold_papers(plan, seed, orders=True)
