"""Each row of the run sheet holds what its own run is wired by: amperes, wire, fuse, drop; not a neighbour's."""

from __future__ import annotations

import re

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import RunReport
from lucernis.demo import demo_plan
from lucernis.exports.files import make_file
from tests.exports.test_exports import pdf_text


def _rows(name: str) -> list[tuple[RunReport, str]]:
    """Runs with the text of their rows, which begin with their tags."""
    plan = demo_plan(name)
    report = evaluate(plan, with_working=False)
    text = re.sub(r"\s+", " ", pdf_text(make_file("run-sheet.pdf", plan, revision=1, date="2026-12-01")))
    text = text.split("Open findings")[0]
    found, at = [], 0
    for run, after in zip(report.runs, [*report.runs[1:], None], strict=True):
        at = text.index(f" {run.tag} ", at)
        end = text.index(f" {after.tag} ", at) if after is not None else len(text)
        found.append((run, text[at:end]))
    return found


@pytest.mark.parametrize("name", ["heron", "tern", "plover"])
def test_a_row_has_its_own_amperes_wire_fuse_and_drop(name: str) -> None:
    for run, row in _rows(name):
        assert f" {run.design_current_a:.1f} " in row, row
        assert run.wire.label in row, row
        conductors, whole = 100 * run.worst.conductor_drop_to_end_frac, 100 * run.worst.drop_to_end_frac
        assert f"{conductors:.1f} %, in all {whole:.1f} %" in row, row
        for fuse in (run.fuse, run.far_fuse):
            if fuse is not None and fuse.rating_a is not None:
                assert f"{fuse.rating_a:g} A" in row, row
        if run.wire.ampacity_a is not None:
            assert f"{run.wire.ampacity_a:.0f} A" in row, row


def test_drop_in_all_and_in_the_conductors_differ_where_joints_and_fuses_lose_something() -> None:
    """Else the row could print one for the other and nobody would see it."""
    runs = evaluate(demo_plan("heron"), with_working=False).runs
    told = {
        (f"{100 * one.worst.conductor_drop_to_end_frac:.1f}", f"{100 * one.worst.drop_to_end_frac:.1f}") for one in runs
    }
    assert sum(a != b for a, b in told) > len(told) / 2
