"""A drawing in as many sheets as its type needs: nothing too small to read, nothing lost at an edge."""

from __future__ import annotations

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.pictures.board import state_board
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Words
from lucernis.core.pictures.step_down import step_down_map
from lucernis.core.pictures.wiring import wiring_sheet, wiring_sheets
from lucernis.demo import JOBS, demo_plan
from lucernis.exports.tiles import LEAST_PT, in_sheets

A4_PT = (785.0, 421.0)


def smallest_pt(drawing: Drawing, width: float, height: float) -> float:
    scale = min(width / drawing.width, height / drawing.height, 1.0)
    return scale * min(words.size for piece in drawing.pieces for words in piece.words)


@pytest.mark.parametrize("job", JOBS)
def test_every_word_of_a_map_stands_whole_on_a_sheet_one_can_read(job: str) -> None:
    plan = demo_plan(job)
    report = evaluate(plan)
    for drawing in (step_down_map(plan, report), state_board(plan, report)):
        tiles = in_sheets(drawing, *A4_PT)
        assert all(smallest_pt(tile.drawing, *A4_PT) >= LEAST_PT - 1e-6 for tile in tiles)
        there = {words.text for tile in tiles for piece in tile.drawing.pieces for words in piece.words}
        assert {words.text for piece in drawing.pieces for words in piece.words} <= there
        boxes = sum(stroke.fill != "none" for piece in drawing.pieces for stroke in piece.strokes)
        assert sum(s.fill != "none" for t in tiles for p in t.drawing.pieces for s in p.strokes) >= boxes


def test_what_fits_is_one_sheet_and_a_line_through_many_is_cut_at_their_edges() -> None:
    def of(wide: float) -> Drawing:
        piece = Piece("line", None, [Stroke([(0, 10), (wide, 10)])], [Words(0, 20, "end", size=12.0)])
        return Drawing("map", "Map", "", wide, 100.0, [piece])

    edge = A4_PT[0] / (LEAST_PT / 12.0)
    assert [tile.name for tile in in_sheets(of(edge - 1), *A4_PT)] == [""]
    tiles = in_sheets(of(edge + 1), *A4_PT)
    assert [tile.name for tile in tiles] == ["sheet 1 of 2", "sheet 2 of 2"]
    assert "→ 2" in [words.text for piece in tiles[0].drawing.pieces for words in piece.words]
    for tile in tiles:
        (line,) = tile.drawing.pieces[0].strokes
        assert line.points == [(0, 10), (tile.drawing.width - 20, 10)]


@pytest.mark.parametrize("job", JOBS)
def test_a_reference_leads_to_the_part_by_sheet_and_grid(job: str) -> None:
    """What a sheet calls "sheet 2, A1" stands on the second sheet in the first row and column."""
    plan = demo_plan(job)
    sheets = [wiring_sheet(plan, one.id, None) for one in wiring_sheets(plan)]
    followed = 0
    for drawing in sheets:
        for piece in drawing.pieces:
            said = [words.text for words in piece.words]
            for told, name in zip(said[1:], said, strict=False):
                if not told.startswith("sheet "):
                    continue
                followed += 1
                where, grid = told.removeprefix("sheet ").split(":")[0].split(", ")
                there = sheets[int(where) - 1]
                rows = {w.text: w.y for p in there.pieces if p.label == "Grid" for w in p.words}
                columns = {w.text: w.x for p in there.pieces if p.label == "Grid" for w in p.words}
                wanted = name.removeprefix("→ ").split(",")[0].split("…")[0]
                boxes = [p for p in there.pieces if p.subject and p.label.split(" ", 1)[-1].startswith(wanted)]
                corners = [p.strokes[0].points[0] for p in boxes if p.strokes]
                assert any(
                    abs(y + 14 + 6 - rows[grid[0]]) < 1 and abs(x + 75 - columns[grid[1]]) < 1 for x, y in corners
                )
    assert followed >= (2 if len(sheets) > 1 else 0), "there was something to follow"
