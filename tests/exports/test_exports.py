"""Files: tables that start no formula, papers that say what they must, a netlist that names every element."""

from __future__ import annotations

import csv
import io
import json
import re

import pytest
from pypdf import PdfReader

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.demo import JOBS, demo_plan
from lucernis.errors import UnknownRow
from lucernis.exports.files import FILES, make_file
from lucernis.exports.tables_csv import loads_csv, runs_csv, safe_cell
from lucernis.plan.cells import CellContext
from lucernis.plan.document import parse_plan
from lucernis.plan.loads_csv import preview_loads
from tests.helpers import part, small_document


def table(data: bytes) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))


def pdf_text(data: bytes) -> str:
    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)


@pytest.mark.parametrize("text", ["=1+1", "+cmd", "-2", "@x", "\tx"])
def test_safe_cell_defuses_formulas(text: str) -> None:
    assert safe_cell(text) == f"'{text}"


@pytest.mark.parametrize(
    ("text", "safe"),
    [
        ("a;=1+1", "a;'=1+1"),
        ("a; -2+3", "a;' -2+3"),
        ("a\t@x", "a\t'@x"),
        ("a|+1", "a|'+1"),
        ("a\n=x\n-y", "a\n'=x\n'-y"),
        (' "=1', "' \"=1"),
        ("a - b; c = d", "a - b; c = d"),
        ("10-15 A; 12 V", "10-15 A; 12 V"),
    ],
)
def test_what_another_program_takes_for_a_cell_starts_no_formula(text: str, safe: str) -> None:
    assert safe_cell(text) == safe


def test_safe_cell_leaves_numbers_and_plain_text() -> None:
    assert [safe_cell(one) for one in (-2.5, "Lamp", None, 0)] == [-2.5, "Lamp", "", 0]


def test_runs_csv_holds_every_run_and_no_formula() -> None:
    doc = small_document()
    part(doc, "l1")["name"] = "=HYPERLINK(1)"
    report = evaluate(parse_plan(doc))
    rows = table(runs_csv(report))
    assert [row["tag"] for row in rows] == [run.tag for run in report.runs]
    assert rows[1]["to"] == "'=HYPERLINK(1)"
    assert float(rows[0]["loop_length_m"]) == 2 * float(rows[0]["length_m"])


@pytest.mark.parametrize("name", JOBS)
def test_loads_csv_can_be_brought_in_again(name: str) -> None:
    plan = demo_plan(name)
    report = evaluate(plan)
    context = CellContext(plan.units, "awg", {one.name.casefold(): one.id for one in plan.places}, confirmed=False)
    found = preview_loads(loads_csv(plan, report), context)
    assert found.bad == 0
    assert found.good == len(report.loads)
    assert set(found.ignored) == {"tag", "circuit", "ah_per_day"}


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_run_sheet_says_what_one_wires_from(paper: str) -> None:
    plan = demo_plan("plover")
    report = evaluate(plan)
    data = make_file("run-sheet.pdf", plan, revision=7, date="2026-11-24", paper=paper)  # type: ignore[arg-type]
    text = pdf_text(data)
    for run in report.runs:
        assert run.tag in text
        assert run.wire.label in text
    for wanted in (
        "Plover · run sheet",
        "revision 7 · 2026-11-24",
        "practice: Small craft, US",
        "Marrowbone Lane",
        "9.0 ft / 18.0 ft",
        "not an approval",
        "Open findings",
        "Waived, with the reason",
        "Stays until the wall is opened",
    ):
        assert wanted in text
    width, height = (float(one) for one in PdfReader(io.BytesIO(data)).pages[0].mediabox[2:])
    assert (round(width), round(height)) == {"a4": (842, 595), "letter": (792, 612)}[paper]


def test_fuse_map_lists_every_way() -> None:
    text = pdf_text(make_file("fuse-map.pdf", demo_plan("heron"), revision=1, date="2026-11-24"))
    for wanted in ("Main and in-line fuses", "Keyed block", "Desk block", "Rear block", "Compressor fridge", "free"):
        assert wanted in text


def test_papers_of_an_empty_plan_and_of_odd_names() -> None:
    doc = small_document(parts=[], runs=[], states=[{"id": "s", "name": "On"}])
    doc["job"]["name"] = "<b>&amp; ▲"
    plan = parse_plan(doc)
    assert "No runs yet" in pdf_text(make_file("run-sheet.pdf", plan, revision=1, date="2026-11-24"))
    assert make_file("fuse-map.pdf", plan, revision=1, date="2026-11-24").startswith(b"%PDF")
    assert FILES["runs.csv"].file_name(plan) == "b-amp-runs.csv"


def test_same_plan_same_paper() -> None:
    first, second = (make_file("run-sheet.pdf", demo_plan("tern"), revision=1, date="2026-11-24") for _ in range(2))
    assert first == second


def test_plan_file_is_readable_json_and_unknown_file_is_named() -> None:
    plan = demo_plan("tern")
    assert parse_plan(json.loads(make_file("plan.json", plan, revision=1, date="x"))) == plan
    with pytest.raises(UnknownRow, match="no file 'x'"):
        make_file("x", plan, revision=1, date="x")


def test_netlist_has_both_legs_of_every_run() -> None:
    plan = demo_plan("tern")
    text = make_file("circuit.cir", plan, revision=1, date="x").decode()
    legs = sum(2 if run.legs == "both" else 1 for run in plan.runs)
    # Besides the legs: two switches, a keyed feed, a relay, and two chassis points.
    assert sum(re.match(r"R\d", line) is not None for line in text.splitlines()) == legs + 6
    assert text.rstrip().endswith(".end")
