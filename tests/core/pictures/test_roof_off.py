"""Roof-off plan: to scale, every place and channel there and named, the way of a run, guesses dashed."""

from __future__ import annotations

import math
from typing import Any

import pytest

from lucernis.core.pictures.draw import draw
from lucernis.core.pictures.drawing import Drawing, Piece
from lucernis.core.pictures.labelling import Room
from lucernis.core.pictures.roof_off import sides
from lucernis.demo import JOBS, demo_plan
from lucernis.errors import UnknownRow
from lucernis.plan.document import parse_plan
from lucernis.plan.layout import Outline
from tests.core.checks.test_layout_findings import laid
from tests.helpers import run, small_document


def by_subject(drawing: Drawing) -> dict[str, Piece]:
    return {piece.subject: piece for piece in drawing.pieces if piece.subject is not None}


def drawn(**outline: Any) -> dict[str, Any]:
    doc = laid()
    doc["job"]["vehicle"] = {"outline": {"length_m": 4.0, "width_m": 1.8} | outline}
    for at, place in enumerate(doc["places"][:3]):
        place.update(x_m=0.5 + 1.5 * at, y_m=0.2 + 0.5 * at)
    return doc


@pytest.mark.parametrize("name", JOBS)
def test_every_place_and_channel_is_there_named_and_in_the_table(name: str) -> None:
    plan = demo_plan(name)
    drawing = draw(plan, "layout")
    pieces = by_subject(drawing)
    assert set(pieces) == {one.id for one in (*plan.places, *plan.channels)}
    words = {word.text for piece in drawing.pieces for word in piece.words}
    assert {place.name for place in plan.places} <= words
    assert [row[0] for row in drawing.rows] == [channel.name for channel in plan.channels]
    assert all(len(row) == len(drawing.columns) for row in drawing.rows)
    for piece in drawing.pieces:
        for stroke in piece.strokes:
            assert all(-1 <= x <= drawing.width + 1 and -1 <= y <= drawing.height + 1 for x, y in stroke.points)
        assert all(word.size >= 12 for word in piece.words)


def test_it_is_to_scale_along_and_across_and_says_where_a_metre_lies() -> None:
    drawing = draw(parse_plan(drawn(nose_m=0.7)), "layout")
    assert drawing.scale is not None
    middles = []
    for name in ("p1", "p2", "p3"):
        points = by_subject(drawing)[name].strokes[0].points
        middles.append((sum(x for x, _ in points[:4]) / 4, sum(y for _, y in points[:4]) / 4))
    for at, (x, y) in enumerate(middles):
        assert (x - drawing.scale.origin_x) / drawing.scale.per_metre == pytest.approx(0.5 + 1.5 * at)
        assert (y - drawing.scale.origin_y) / drawing.scale.per_metre == pytest.approx(0.2 + 0.5 * at)


def test_the_way_of_a_run_is_copper_and_a_guess_is_dashed() -> None:
    doc = drawn()
    doc["channels"][1].pop("length_m")
    plan = parse_plan(doc)
    plain, shown = by_subject(draw(plan, "layout")), by_subject(draw(plan, "layout", "r3"))
    assert [plain[one].strokes[0].tone for one in ("c1", "c2", "c3")] == ["soft"] * 3
    assert [shown[one].strokes[0].tone for one in ("c1", "c2", "c3")] == ["copper", "copper", "soft"]
    assert [plain[one].strokes[0].dashed for one in ("c1", "c2", "c3")] == [False, True, False]
    assert shown["c1"].strokes[0].width > plain["c1"].strokes[0].width
    assert "~" in draw(plan, "layout").rows[1][3]
    with pytest.raises(UnknownRow):
        draw(plan, "layout", "r99")


def test_what_is_wrong_with_a_channel_colours_it_and_its_holes_are_rings() -> None:
    doc = drawn()
    doc["channels"][0]["crossings"][0]["grommet"] = False
    doc["channels"][1]["near"] = ["exhaust"]
    pieces = by_subject(draw(parse_plan(doc), "layout"))
    assert (pieces["c1"].strokes[0].tone, pieces["c2"].strokes[0].tone) == ("stop", "fix")
    assert [len(pieces[one].strokes) for one in ("c1", "c2")] == [2, 1]
    ring = pieces["c1"].strokes[1].points
    assert math.dist(ring[0], ring[4]) == pytest.approx(8.0)


def test_places_nobody_has_put_on_the_plan_stand_under_it() -> None:
    doc = drawn()
    drawing = draw(parse_plan(doc), "layout")
    assert drawing.scale is not None
    bottom = drawing.scale.origin_y + 1.8 * drawing.scale.per_metre
    for name in ("p4", "p5"):
        assert min(y for _, y in by_subject(drawing)[name].strokes[0].points) > bottom
    words = {word.text for piece in drawing.pieces for word in piece.words}
    assert "Not placed on the plan yet" in words


def test_sides_are_named_for_the_side_of_the_road_one_drives_on() -> None:
    assert sides(Outline(traffic="left")) == ("left, kerb side", "right, driver's side")
    assert sides(Outline(traffic="right")) == ("left, driver's side", "right, kerb side")


def test_a_plan_without_any_layout_still_has_a_picture() -> None:
    doc = small_document(version=5)
    run(doc, "r2")
    drawing = draw(parse_plan(doc), "layout")
    assert drawing.rows == []
    assert drawing.width > 100
    assert set(by_subject(drawing)) == {"p1"}


def test_a_name_keeps_off_what_is_taken_where_it_can() -> None:
    room = Room(200, 100)
    room.take(100, 50, 5)
    assert room.beside(100, 50, "Locker", 12)[2] == "start"
    # To the right another name stands now: the next goes to the left.
    assert room.beside(100, 50, "Locker", 12)[2] == "end"
    # At the right edge there is no room to the right.
    assert Room(200, 100).beside(195, 50, "Locker", 12)[2] == "end"


def test_other_zones_are_areas_around_their_places_and_the_usual_one_is_not() -> None:
    doc = drawn()
    doc["places"][2]["zone"] = "z2"
    drawing = draw(parse_plan(doc), "layout")
    areas = {piece.label: piece for piece in drawing.pieces if piece.label.startswith("Zone ")}
    assert set(areas) == {"Zone Engine"}
    (outline,) = areas["Zone Engine"].strokes
    middle = by_subject(drawing)["p3"].strokes[0].points[0]
    xs, ys = [x for x, _ in outline.points], [y for _, y in outline.points]
    assert min(xs) < middle[0] < max(xs)
    assert min(ys) < middle[1] < max(ys)
    assert areas["Zone Engine"].words[0].text == "Engine, 50 °C"
