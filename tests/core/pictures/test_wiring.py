"""Wiring diagram: every run on some sheet between two parts, or told of at both its ends; parts once; nothing lost."""

from __future__ import annotations

from collections import Counter

import pytest

from bench.plans import made_plan
from lucernis.core.build.landing import landings
from lucernis.core.circuit.switching import find_state
from lucernis.core.layout.laid import laid_out
from lucernis.core.pictures.draw import draw
from lucernis.core.pictures.wiring import wiring_sheet, wiring_sheets
from lucernis.core.pictures.wiring_layout import MOST_COLUMNS, ROWS, sheets_of
from lucernis.demo import JOBS, demo_plan
from lucernis.errors import UnknownRow
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from tests.core.checks.test_findings import base, named, wire
from tests.helpers import part, small_document


def check_sheets(plan: Plan) -> None:
    sheets = sheets_of(laid_out(plan))
    drawn, told = Counter[str](), Counter[str]()
    for sheet in sheets:
        for strand in sheet.strands:
            (drawn if strand.there is not None else told)[strand.run.id] += 1
            assert strand.here in sheet.spot
            assert 0 <= strand.row < sheet.rows
        rows = [(column, row) for column, row, _ in sheet.spot.values()]
        assert len(set(rows)) == len(rows), "no two parts on one spot"
        assert max(column for column, _ in rows) < MOST_COLUMNS
    for run in plan.runs:
        assert (drawn[run.id], told[run.id]) in ((1, 0), (0, 2)), run.id
    homes = Counter(part for sheet in sheets for part in sheet.spot if part != sheet.hub)
    assert set(homes.values()) <= {1}
    assert set(homes) | {sheet.hub for sheet in sheets} == {part.id for part in plan.parts}


@pytest.mark.parametrize("job", JOBS)
def test_every_run_of_a_job_is_drawn_once_or_told_of_at_both_ends(job: str) -> None:
    check_sheets(demo_plan(job))


def test_a_large_plan_takes_as_many_sheets_as_it_needs() -> None:
    check_sheets(made_plan(120))
    assert len(sheets_of(made_plan(120))) > 6
    doc = base()
    part(doc, "f1")["ways"] = 30
    for way in range(7, 31):
        doc["parts"].append(named("load", f"l{way + 20}", power_w=12.0))
        doc["runs"].append(wire(f"r{way + 20}", {"part": "f1", "way": way}, f"l{way + 20}", 2.0, fuse_at_start={}))
    plan = parse_plan(doc)
    check_sheets(plan)
    hub = "f1"
    parts = [sheet for sheet in sheets_of(plan) if sheet.hub == hub]
    assert len(parts) == 3
    assert [sheet.name.rpartition(", ")[2] for sheet in parts] == [
        f"{at + 1} of {len(parts)}" for at in range(len(parts))
    ]
    tops = [strand.row for sheet in parts for strand in sheet.strands if strand.here == hub]
    assert len(tops) > ROWS


def test_all_of_a_drawing_lies_on_its_sheet_and_type_can_be_read() -> None:
    for job in JOBS:
        plan = demo_plan(job)
        drawings = [wiring_sheet(plan, one.id, None) for one in wiring_sheets(plan)]
        drawings += [draw(plan, "connections", part.id) for part in plan.parts]
        for drawing in drawings:
            for piece in drawing.pieces:
                for stroke in piece.strokes:
                    assert all(0 <= x <= drawing.width and 0 <= y <= drawing.height for x, y in stroke.points)
                assert all(words.size >= 12 for words in piece.words)
            assert all(len(row) == len(drawing.columns) for row in drawing.rows)


def test_both_legs_are_wires_and_an_arrow_names_the_sheet() -> None:
    sheet = wiring_sheet(demo_plan("heron"), "u1", None)
    feeder = next(piece for piece in sheet.pieces if piece.label.startswith("C02"))
    tones = [stroke.tone for stroke in feeder.strokes]
    assert tones.count("wire_red") >= 1
    assert "wire_black" in tones
    assert [words.text for words in feeder.words if words.text.startswith("→")] == ["→ Desk block"]
    assert "sheet 2, A1: Desk block" in [words.text for words in feeder.words]
    bond = next(piece for piece in sheet.pieces if piece.label.startswith("C26"))
    assert {stroke.tone for stroke in bond.strokes if stroke.tone.startswith("wire")} == {"wire_black"}
    fuse = next(row for row in sheet.rows if row[0] == "C01")
    assert fuse[-1] == "Class T 200 A, at House bank, 120 mm off"


def test_contacts_are_drawn_as_they_stand_in_a_state() -> None:
    plan = demo_plan("heron")
    off = next(state for state in plan.states if state.open)
    switch = next(part for part in plan.parts if part.id in off.open)

    def told(state_id: str | None) -> str:
        state = find_state(plan, state_id)
        pieces = [p for one in wiring_sheets(plan) for p in wiring_sheet(plan, one.id, state).pieces]
        return next(piece.label for piece in pieces if piece.subject == switch.id)

    assert told(None).endswith("closed")
    assert told(off.id).endswith("open")


def test_what_is_not_there_is_named_and_an_empty_plan_has_no_sheet() -> None:
    plan = demo_plan("heron")
    for kind in ("wiring", "connections"):
        with pytest.raises(UnknownRow) as refused:
            draw(plan, kind, "nothing")  # type: ignore[arg-type]
        assert refused.value.field == "subject"
    doc = small_document()
    doc["parts"], doc["runs"], doc["states"] = [], [], [{"id": "all_on", "name": "Everything on"}]
    assert wiring_sheets(parse_plan(doc)) == []


def test_a_connection_drawing_says_in_its_table_what_lands_where() -> None:
    plan = demo_plan("heron")
    landed = next(one for one in landings(plan) if one.part == "f2")
    drawing = draw(plan, "connections", "f2")
    wires = [wire for one in landed.terminals for wire in one.wires]
    assert len(drawing.rows) == len(wires) + sum(not one.wires for one in landed.terminals)
    way = next(row for row in drawing.rows if row[0] == "way 1")
    assert way[3:7] == ["Regular blade 5 A", "C05 +", "red", "1.5 mm²"]
    assert "Field recorder" in way[9]
