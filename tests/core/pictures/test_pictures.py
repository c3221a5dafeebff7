"""Pictures: they show what the report says, stay inside their frame, and read as a table."""

from __future__ import annotations

import re
from itertools import pairwise
from xml.etree import ElementTree

import pytest

from lucernis.core.circuit.topology import path_runs
from lucernis.core.energy.forecast import Course, Forecast
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.pictures.axes import Scale
from lucernis.core.pictures.draw import draw
from lucernis.core.pictures.drawing import Drawing
from lucernis.core.pictures.pinch import way_steps, worst_state
from lucernis.core.pictures.ribbon import day_ribbon
from lucernis.core.sizing.choice import size_plan
from lucernis.demo import JOBS, demo_plan
from lucernis.errors import UnknownRow
from lucernis.exports.svg import drawing_svg
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Load
from lucernis.plan.rules import plan_rules
from tests.helpers import powered_document, small_document


def every_picture(name: str) -> list[Drawing]:
    plan = demo_plan(name)
    runs = [run.id for run in plan.runs if run.legs != "negative"][:4]
    loads = [part.id for part in plan.parts if isinstance(part, Load)][:4]
    return [
        draw(plan, "map"),
        draw(plan, "board"),
        *(draw(plan, "fuse-window", one) for one in runs),
        *(draw(plan, "pinch", one) for one in loads),
    ]


@pytest.mark.parametrize("name", JOBS)
def test_every_picture_stays_in_its_frame_and_has_a_table(name: str) -> None:
    for drawing in every_picture(name):
        if not drawing.pieces:
            assert "Nothing reaches" in drawing.note
            continue
        assert drawing.rows
        assert all(len(row) == len(drawing.columns) for row in drawing.rows)
        for piece in drawing.pieces:
            assert piece.label
            for stroke in piece.strokes:
                assert all(-1 <= x <= drawing.width + 1 and -1 <= y <= drawing.height + 1 for x, y in stroke.points)


@pytest.mark.parametrize("name", JOBS)
def test_svg_is_well_formed_and_the_same_each_time(name: str) -> None:
    for drawing in every_picture(name):
        first = drawing_svg(drawing)
        assert first == drawing_svg(drawing)
        root = ElementTree.fromstring(first.decode().split("?>")[1])  # noqa: S314 - our own text
        assert root.tag.endswith("svg")
        assert not re.search(r"https?://(?!www\.w3\.org)", first.decode())


@pytest.mark.parametrize("name", JOBS)
def test_map_has_a_ribbon_for_every_fed_run_and_a_box_for_every_part(name: str) -> None:
    plan = demo_plan(name)
    drawing, report = draw(plan, "map"), evaluate(plan)
    subjects = {piece.subject for piece in drawing.pieces}
    assert {run.id for run in report.runs if run.fed} <= subjects
    boxes = {part.id for part in plan.parts if part.kind not in ("shunt", "chassis_point")}
    assert boxes <= subjects


def test_map_boxes_do_not_lie_on_one_another() -> None:
    for name in JOBS:
        plan = demo_plan(name)
        parts = {part.id for part in plan.parts}
        boxes = [
            piece.strokes[0].points for piece in draw(plan, "map").pieces if piece.subject in parts and piece.strokes
        ]
        corners = sorted((points[0], points[2]) for points in boxes)
        for k, ((x0, y0), (x1, y1)) in enumerate(corners):
            for (a0, b0), _ in corners[k + 1 :]:
                assert not (x0 <= a0 < x1 and y0 <= b0 < y1)


@pytest.mark.parametrize("name", JOBS)
def test_pinch_ends_at_what_the_device_gets(name: str) -> None:
    plan = demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    for part in plan.parts:
        if not isinstance(part, Load) or part.id not in sized.topology.feeder_of:
            continue
        state = worst_state(plan, sized, part)
        if part.id not in sized.states[state.id].load_a:
            continue
        end = way_steps(plan, sized, part, state)[-1]
        assert end.positive_v - end.negative_v == pytest.approx(sized.states[state.id].part_v[part.id], abs=1e-6)


def test_pinch_only_loses_on_the_way() -> None:
    plan = demo_plan("heron")
    sized = size_plan(plan, plan_rules(plan))
    load = next(part for part in plan.parts if part.id == "l6")
    assert isinstance(load, Load)
    steps = way_steps(plan, sized, load, plan.states[0])
    gaps = [step.positive_v - step.negative_v for step in steps]
    assert all(after <= before + 1e-9 for before, after in pairwise(gaps))


def test_pinch_shows_joints_fuse_and_wire_of_a_run_each_with_its_own_loss() -> None:
    """Four joints, a fuse at its place, two legs of warm copper: each loses its resistance times the current."""
    plan = demo_plan("plover_mended")
    sized = size_plan(plan, plan_rules(plan))
    load = next(part for part in plan.parts if isinstance(part, Load) and part.id in sized.topology.feeder_of)
    run = sized.topology.runs[path_runs(sized.topology, load.id)[-1]]
    assert run.legs == "both"
    state = worst_state(plan, sized, load)
    steps = way_steps(plan, sized, load, state)
    option, amps = sized.chosen[run.id], abs(sized.states[state.id].run_a[run.id])
    lost: dict[str, float] = {}
    for before, after in pairwise(steps):
        if after.run_id == run.id:
            volts = before.positive_v - after.positive_v + after.negative_v - before.negative_v
            lost[after.name] = lost.get(after.name, 0.0) + volts
    assert lost[f"{run.tag} joints"] == pytest.approx(option.joints_ohm * amps, rel=1e-4)
    assert lost[run.tag] == pytest.approx(option.wire_loop_ohm * amps, rel=1e-4)
    fuse = next(volts for name, volts in lost.items() if name.endswith("A fuse"))
    assert fuse == pytest.approx(option.fuse_ohm * amps, rel=1e-4)


def test_ribbon_names_each_source_by_what_it_gave() -> None:
    """A morning of engine, an afternoon of sun, an evening on shore, with shares none of which is another's."""
    points = [[6.0, 0.5, 20.0, 300.0, 0.0, 0.0], [12.0, 0.6, 20.0, 0.0, 0.0, 150.0], [18.0, 0.7, 20.0, 0.0, 80.0, 0.0]]
    course = Course("fair", "", points, 0.5, 6.0, None, 0.7, 0.6, 0.1, 0.3, 3000.0, 400.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    drawing = day_ribbon(Forecast(1, 1 / 6, "", "", courses=[course]))
    row = dict(zip(drawing.columns, drawing.rows[0], strict=True))
    assert (row["Engine"], row["Shore"], row["Sun"]) == ("60 %", "10 %", "30 %")

    def highest(source: str) -> tuple[float, float]:
        """Where the area of a source is thickest, and by how much."""
        stroke = next(piece for piece in drawing.pieces if piece.label == f"fair: from {source}").strokes[0]
        count = len(stroke.points) // 2
        over, under = stroke.points[:count], stroke.points[count:][::-1]
        thick = [low[1] - high[1] for high, low in zip(over, under, strict=True)]
        at = max(range(count), key=lambda k: thick[k])
        return over[at][0], thick[at]

    engine, shore, sun = (highest(one) for one in ("engine", "shore", "sun"))
    assert engine[0] < sun[0] < shore[0]
    assert engine[1] / sun[1] == pytest.approx(2.0)
    assert sun[1] / shore[1] == pytest.approx(150 / 80)


def test_board_says_dead_where_the_master_is_off() -> None:
    plan = demo_plan("heron")
    drawing = draw(plan, "board")
    column = drawing.columns.index("Master off")
    said = {row[0]: row[column] for row in drawing.rows}
    # Half to full, with nothing drawn: 13.15 to 13.50 V by chemistry.
    assert 13.15 < float(said["House bank"]) < 13.5
    assert said["Locker busbars"] == "dead"


def test_unknown_subject_and_state_are_named() -> None:
    plan = demo_plan("heron")
    with pytest.raises(UnknownRow, match="no run 'l1'"):
        draw(plan, "fuse-window", "l1")
    with pytest.raises(UnknownRow, match="no load 'r1'"):
        draw(plan, "pinch", "r1")
    with pytest.raises(UnknownRow, match="no state 'nowhere'"):
        draw(plan, "map", state_id="nowhere")


def test_empty_plan_draws_empty_pictures() -> None:
    plan = parse_plan(small_document(parts=[], runs=[]))
    assert draw(plan, "map").rows == []
    assert draw(plan, "board").rows == []


@pytest.mark.parametrize(("low", "high", "log"), [(0.0, 5.6, False), (10.7, 12.0, False), (0.5, 900.0, True)])
def test_ticks_are_round_few_and_inside(low: float, high: float, log: bool) -> None:
    scale = Scale(low, high, 0.0, 100.0, log=log)
    ticks = scale.ticks()
    assert 2 <= len(ticks) <= 8
    assert all(low - 1e-9 <= tick <= high + 1e-9 for tick in ticks)
    assert (scale.at(low), scale.at(high)) == (pytest.approx(0.0), pytest.approx(100.0))


def test_supplies_of_chargers_stay_in_the_frame_with_nothing_to_their_right() -> None:
    doc = powered_document()
    doc["parts"] = [one for one in doc["parts"] if one["kind"] not in ("load", "fuse_block")]
    known = {one["id"] for one in doc["parts"]}
    doc["runs"] = [one for one in doc["runs"] if {one["start"]["part"], one["finish"]["part"]} <= known]
    for state in doc["states"]:
        state["off"] = []
    drawing = draw(parse_plan(doc), "map")
    for piece in drawing.pieces:
        for stroke in piece.strokes:
            assert all(0 <= x <= drawing.width for x, _ in stroke.points)
        assert all(word.x + 6.5 * len(word.text) <= drawing.width for word in piece.words if word.anchor == "start")


def test_names_of_the_courses_stand_beside_each_other_within_the_sheet() -> None:
    """Fair first; each 150 from the next, the last 150 from the frame's right edge."""
    points = [[6.0, 0.5, 20.0, 0.0, 0.0, 0.0], [12.0, 0.6, 20.0, 0.0, 0.0, 0.0]]
    courses = [
        Course(name, "", points, 0.5, 6.0, None, 0.7, 0.6, 0.1, 0.3, 3000.0, 400.0, 0.0, 0.0, 0.0, 0.0, 0.0)
        for name in ("fair", "poor")
    ]
    drawing = day_ribbon(Forecast(1, 1 / 6, "", "", courses=courses))
    starts = [
        next(piece for piece in drawing.pieces if piece.label.startswith(f"{one}: lowest")).strokes[1].points[0][0]
        for one in ("fair", "poor")
    ]
    frame = next(piece for piece in drawing.pieces if piece.label.startswith("Axis: state of charge"))
    right = max(x for stroke in frame.strokes for x, _ in stroke.points)
    assert [right - at for at in starts] == [300.0, 150.0]
