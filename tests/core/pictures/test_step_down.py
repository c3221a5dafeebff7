"""The step-down map can be read: type of 12 px at least, headings whole, nothing written over a fuse."""

from __future__ import annotations

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.pictures.drawing import Drawing, Words
from lucernis.core.pictures.step_down import FUSE_W, step_down_map
from lucernis.demo import JOBS, demo_plan

Box = tuple[float, float, float, float]
# Width of a letter over its size: as measured on the fonts that ship.
WIDE = {True: 0.6, False: 0.56}


def drawn(name: str) -> Drawing:
    plan = demo_plan(name)
    return step_down_map(plan, evaluate(plan))


def room(word: Words) -> Box:
    width = len(word.text) * word.size * WIDE[word.mono]
    left = word.x - {"start": 0.0, "middle": width / 2, "end": width}[word.anchor]
    return left, word.y - 0.75 * word.size, left + width, word.y + 0.2 * word.size


def meets(one: Box, other: Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


@pytest.mark.parametrize("name", JOBS)
def test_no_type_is_under_twelve_pixels(name: str) -> None:
    assert min(word.size for piece in drawn(name).pieces for word in piece.words) >= 12.0


@pytest.mark.parametrize("name", JOBS)
def test_no_word_stands_over_a_fuse(name: str) -> None:
    drawing = drawn(name)
    frames = []
    for piece in drawing.pieces:
        for stroke in piece.strokes:
            (x0, y0), (x1, y1) = stroke.points[0], stroke.points[len(stroke.points) // 2]
            if stroke.fill == "sheet" and x1 - x0 == pytest.approx(FUSE_W) and y1 - y0 < 20:
                frames.append((x0, y0, x1, y1))
    assert frames
    for piece in drawing.pieces:
        for word in piece.words:
            over = [frame for frame in frames if meets(room(word), frame)]
            inside = [one for one in over if one[0] <= word.x <= one[2] and word.anchor == "middle"]
            assert over == inside, word.text


@pytest.mark.parametrize("name", JOBS)
def test_headings_are_whole_and_each_over_its_own_stage(name: str) -> None:
    heads = next(piece for piece in drawn(name).pieces if piece.label == "Stages").words
    assert "…" not in "".join(word.text for word in heads)
    rooms = [room(word) for word in heads]
    assert not [(a, b) for k, a in enumerate(rooms) for b in rooms[k + 1 :] if meets(a, b)]


def test_supplies_of_chargers_lie_within_each_other() -> None:
    """The lowest charger's source stands highest, so that two supplies never cross."""
    drawing = drawn("heron")
    ends = []
    for piece in drawing.pieces:
        curves = [
            stroke.points
            for stroke in piece.strokes
            if stroke.curve and not stroke.dashed and stroke.points[0][0] == stroke.points[-1][0]
        ]
        ends += [(points[-1][1], points[0][1], points[1][0]) for points in curves]
    assert len(ends) == 2
    (upper, lower) = sorted(ends)
    assert upper[1] > lower[1]
    assert upper[2] > lower[2]
