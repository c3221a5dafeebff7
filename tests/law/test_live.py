"""What is called dead is dead: against a graph of another library, state by state, with every source that can give."""

from __future__ import annotations

import csv
import io

import networkx as nx
import pytest
from hypothesis import HealthCheck, given, settings

from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.circuit.terminals import positive_point
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.pictures.board import state_board
from lucernis.core.prove.board import reading_board
from lucernis.core.prove.proving import proving
from lucernis.demo import JOBS, demo_plan
from lucernis.exports.tables_csv import states_csv
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Charger, Plan, State, Switch
from tests.law.conftest import some
from tests.law.plans import plan_documents
from tests.law.wild import wild_plan

SOME = settings(max_examples=some(60), deadline=None, suppress_health_check=list(HealthCheck))
CAPPED = ("spare",)


def ways(plan: Plan, state: State, closed_relays: set[str]) -> nx.DiGraph:
    """Positive points with what joins them in a state, written from the plan alone."""
    parts = {part.id: part for part in plan.parts}
    graph = nx.DiGraph()
    graph.add_nodes_from(part.id for part in plan.parts)
    ends: list[tuple[str, str]] = []
    for run in plan.runs:
        if run.legs == "negative" or run.id in state.open:
            continue
        caps = [parts[end.part] for end in (run.start, run.finish) if parts[end.part].kind == "joint"]
        if any(getattr(one, "form", "") == "cap" for one in caps):
            continue
        here = positive_point(parts[run.start.part], run.start, "start")
        there = positive_point(parts[run.finish.part], run.finish, "finish")
        if run.legs != "series":
            ends.append((here, there))
    at = {mode.part: mode.position for mode in state.modes}
    for part in plan.parts:
        out = f"{part.id}:out"
        if part.kind == "diode" or (part.kind == "isolator" and part.form == "diode"):
            if part.kind == "diode" or state.engine_on or (part.two_way and state.shore_on):
                graph.add_edge(part.id, out)
        elif part.kind == "isolator" and (state.engine_on or (part.two_way and state.shore_on)):
            ends.append((part.id, out))
        elif part.kind == "keyed_feed":
            if {"key": state.key_on, "engine": state.engine_on, "shore": state.shore_on}[part.follows]:
                ends.append((part.id, out))
        elif part.kind == "relay" and part.id in closed_relays:
            ends.append((part.id, out))
        elif isinstance(part, Switch) and part.id not in state.open:
            position = at.get(part.id, "a")
            if part.form == "three_position":
                if position == "a" or (position == "b" and part.position_b == "both"):
                    ends.append((part.id, out))
                if position == "b":
                    ends.append((part.id, f"{part.id}:out_b"))
            elif part.form in ("single", "reversing") or position == "a":
                ends.append((part.id, out))
    for one, other in ends:
        graph.add_edge(one, other)
        graph.add_edge(other, one)
    return graph


def by_hand(plan: Plan, state: State) -> dict[str, set[str]]:
    """Each live point with the sources that reach it, settled round by round."""
    relays: set[str] = set()
    while True:
        graph = ways(plan, state, relays)
        gives: dict[str, list[str]] = {}
        while True:
            reached: dict[str, set[str]] = {}
            for source, points in gives.items():
                for point in points:
                    if point in graph:
                        for there in {point} | nx.descendants(graph, point):
                            reached.setdefault(there, set()).add(source)
                    else:
                        reached.setdefault(point, set()).add(source)
            now = dict(gives)
            for part in plan.parts:
                outs = [f"{part.id}:{name}" for name in ("out", "out_b")]
                charges = part.kind == "load" and part.inverter is not None and part.inverter.charge_a is not None
                works = {"battery": True, "alternator": state.engine_on, "panel": state.sun, "load": state.shore_on}
                if works.get(part.kind) and (part.kind != "load" or charges):
                    now[part.id] = [part.id]
                elif isinstance(part, Charger):
                    fed = (part.form == "dcdc" and part.id in reached) or f"{part.id}:pv" in reached
                    driven = {
                        "shore": state.shore_on,
                        "sun": state.sun and fed,
                        "dcdc": fed and (state.engine_on or (part.pv_high_v is not None and state.sun)),
                    }[part.form]
                    if driven:
                        now[part.id] = outs if part.outputs > 1 else outs[:1]
            if now == gives:
                break
            gives = now
        pulled = {part.id for part in plan.parts if part.kind == "relay" and f"{part.id}:coil" in reached}
        if pulled <= relays:
            return reached
        relays |= pulled


def states_of(plan: Plan) -> list[State]:
    """The plan's own, and every source there with the main switches off and on."""
    mains = tuple(part.id for part in plan.parts if isinstance(part, Switch) and part.use == "isolator")
    found = list(plan.states)
    for name, there in (
        ("none", {}), ("shore", {"shore_on": True}), ("sun", {"sun": True}), ("engine", {"engine_on": True}),
        ("all", {"shore_on": True, "sun": True, "engine_on": True}),
    ):  # fmt: skip
        for opened in {(), mains}:
            found.append(State(id=f"law_{name}", name=name, open=opened).model_copy(update=there))
    return found


def check(plan: Plan) -> None:
    switching = SwitchingPlan(plan)
    for state in states_of(plan):
        switched = switching.in_state(state)
        found = {name: set(sources) for name, sources in switching.live_from(switched).items()}
        wanted = by_hand(plan, state)
        assert found == wanted, (state.id, state.open)
        assert switched.alive == set(wanted)
        batteries = {part.id for part in plan.parts if part.kind == "battery"}
        assert switched.live == {name for name, sources in wanted.items() if sources & batteries}


@given(plan_documents())
@SOME
def test_what_is_alive_in_any_plan_is_what_a_graph_reaches(document: dict[str, object]) -> None:
    check(parse_plan(document))


@pytest.mark.parametrize("seed", range(some(12)))
def test_what_is_alive_in_wild_plans_is_what_a_graph_reaches(seed: int) -> None:
    check(wild_plan(seed))


@pytest.mark.parametrize("job", JOBS)
def test_the_board_and_the_list_call_nothing_dead_that_a_source_reaches(job: str) -> None:
    """With the main switches off in every state: bars that chargers hold are live on every sheet."""
    plan = demo_plan(job)
    check(plan)
    mains = tuple(part.id for part in plan.parts if isinstance(part, Switch) and part.use == "isolator")
    plan = plan.model_copy(
        update={"states": tuple(one.model_copy(update={"open": (*one.open, *mains)}) for one in plan.states)}
    )
    report = evaluate(plan, with_working=False)
    names = {part.id: part.name for part in plan.parts}
    reached = [by_hand(plan, state) for state in plan.states]
    for row in reading_board(plan, report.nodes):
        for cell, there in zip(row.cells, reached, strict=True):
            sources = {names[one] for one in there.get(row.id, ())}
            assert set(cell.live_from) == sources
            assert (cell.text == "dead") == (not sources)
    table = list(csv.reader(io.StringIO(states_csv(plan, report).decode("utf-8-sig"))))[1:]
    drawn = state_board(plan, report).rows
    for row, line, picture in zip(reading_board(plan, report.nodes), table, drawn, strict=True):
        for text, seen, there in zip(line[2:], picture[1:], reached, strict=True):
            assert (text == "dead") == (seen == "dead") == (row.id not in there)
    quiet = State(id="quiet", name="quiet", key_on=False, open=mains)
    dead = {line.part for line in proving(plan).lines if line.means.good == "Dead."}
    assert not dead & set(by_hand(plan, quiet))


def test_heron_on_shore_with_its_main_switch_off_by_hand() -> None:
    """Read off the plan: every charger lands on the bars behind the switch. In the tests of another hand these bars
    stood at 14 V and every sheet said dead."""
    plan = demo_plan("heron")
    names = {part.name: part.id for part in plan.parts}
    off = {"open": (names["Isolating switch"],), "key_on": False}
    quiet = State(id="q", name="q").model_copy(update=off)
    switching = SwitchingPlan(plan)

    def of(name: str, **there: bool) -> set[str]:
        found = switching.live_from(switching.in_state(quiet.model_copy(update=there)))
        return {next(part.name for part in plan.parts if part.id == one) for one in found.get(names[name], ())}

    assert of("Locker busbars") == set()
    assert of("Locker busbars", shore_on=True) == {"Mains charger"}
    assert of("Locker busbars", sun=True) == {"Solar controller"}
    assert of("Locker busbars", engine_on=True) == {"DC-DC charger"}
    assert of("Desk block", shore_on=True, sun=True) == {"Mains charger", "Solar controller"}
    held = [line for line in proving(plan).lines if line.id.startswith("held:")]
    assert {line.part for line in held} == {names["Locker busbars"]}
    assert len(held) == 3
    states = proving(plan).states
    assert "shore lead out, panels covered or their breaker off, key out" in states["isolated"].to_make
