"""A whole van laid out on paper by hand, in docs/worked-layout.md: lengths, holes and bundles to the centimetre."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.laid import layout_of
from lucernis.core.report import Report
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan

PAGE = (Path(__file__).resolve().parents[2] / "docs" / "worked-layout.md").read_text(encoding="utf-8")


def rows(heading: str) -> list[list[str]]:
    """Cells of the table whose first heading is this."""
    found: list[list[str]] = []
    inside = False
    for line in PAGE.splitlines():
        cells = [cell.strip() for cell in line.strip("|").split("|")] if line.startswith("|") else []
        if not cells:
            inside = False
        elif line.startswith(f"| {heading}"):
            inside = True
        elif inside and not line.startswith("|---"):
            found.append(cells)
    return found


def place(name: str, zone: str) -> dict[str, Any]:
    return {"id": name, "name": name.capitalize(), "zone": zone}


def load(name: str, at: str, amps: float) -> dict[str, Any]:
    return {"kind": "load", "id": name, "name": name, "tag": name[:3].upper(), "place": at, "current_a": amps,
            "behaviour": "constant_current", "hours_per_day": 1}  # fmt: skip


def run(tag: str, start: dict[str, Any], finish: str, **more: Any) -> dict[str, Any]:
    return {
        "id": tag.lower(),
        "tag": tag,
        "start": start,
        "finish": {"part": finish},
        "length_m": 9.0,
        "way": {},
    } | more


@pytest.fixture(scope="module")
def van() -> tuple[Plan, Report]:
    lengths = {cells[0][0]: float(cells[3].split()[0]) for cells in rows("channel | from")}
    plan = parse_plan(
        {
            "format": "lucernis-plan",
            "version": 5,
            "job": {"name": "By hand", "vehicle": {"body": "fibreglass_or_wood"}},
            "practice": {"set": "metric_caravan"},
            "zones": [
                {"id": "living", "name": "Living"},
                {"id": "floor", "name": "Floor", "ambient_c": 35},
                {"id": "void", "name": "Void", "ambient_c": 45},
            ],
            "places": [
                place("locker", "living"), place("panel", "living"), place("ceiling", "void"), place("tank", "floor"),
            ],
            "channels": [
                {"id": "a", "name": "A", "start": "locker", "finish": "panel", "length_m": lengths["A"], "clamp_m": 0.4,
                 "zone": "living"},
                {"id": "b", "name": "B", "start": "panel", "finish": "ceiling", "length_m": lengths["B"],
                 "clamp_m": 0.4, "zone": "void"},
                {"id": "c", "name": "C", "start": "panel", "finish": "tank", "length_m": lengths["C"], "inside_mm": 20,
                 "zone": "floor", "crossings": [{"through": "metal", "hole_mm": 16}]},
            ],
            "parts": [
                {"kind": "battery", "id": "b1", "name": "Battery", "tag": "B01", "place": "locker",
                 "short_circuit_a": 900.0},
                {"kind": "fuse_block", "id": "f1", "name": "Block", "tag": "F01", "place": "panel", "ways": 6},
                load("pump", "tank", 3.0), load("lamps", "ceiling", 1.0), load("fan", "ceiling", 1.0),
                load("gauge", "tank", 0.1),
            ],
            "runs": [
                run("C01", {"part": "b1"}, "f1", fuse_at_start={"distance_m": 0.1}),
                run("C02", {"part": "f1", "way": 1}, "pump", fuse_at_start={}),
                run("C03", {"part": "f1", "way": 2}, "lamps", fuse_at_start={}),
                run("C04", {"part": "lamps"}, "fan"),
                run("C05", {"part": "b1"}, "gauge", fuse_at_start={"distance_m": 0.1}),
            ],
        }
    )  # fmt: skip
    return plan, evaluate(plan)


def test_lengths_are_those_of_the_page(van: tuple[Plan, Report]) -> None:
    told = {run.tag: run for run in van[1].runs}
    table = rows("run | way")
    assert len(table) == 5
    for what, way, _, length in table:
        found = told[what.split()[0]]
        assert found.way is not None
        assert f"{found.length_m:.2f} m" == length
        assert [one.upper() for one in found.way.channels] == re.findall(r"\b[ABC]\b", way)


def test_bundles_are_those_of_the_page(van: tuple[Plan, Report]) -> None:
    tags = {run.id: run.tag for run in van[1].runs}
    told = {channel.name: channel for channel in van[1].channels}
    for name, runs, count in rows("channel | runs"):
        found = told[name[0]]
        assert [tags[one] for one in found.runs] == runs.split(", ")
        assert str(found.conductors) == count.split()[-1]


def test_hole_and_conduit_are_those_of_the_page(van: tuple[Plan, Report]) -> None:
    channel = next(one for one in van[1].channels if one.name == "C")
    assert all(one.wire.area_mm2 == 1.5 for one in van[1].runs if one.id in channel.runs)
    hole = channel.holes[0]
    assert f"= {hole.needed_mm:.2f} mm" in PAGE
    assert (hole.grommet_mm, hole.drill_mm) == (10, 14)
    assert channel.fill_frac is not None
    assert f"to\n4 · 3.17² / 20² = {100 * channel.fill_frac:.0f} %" in PAGE.replace("filled to ", "filled to\n")
    assert channel.fill_limit_frac == 0.40


def test_worst_stretches_are_those_of_the_page(van: tuple[Plan, Report]) -> None:
    worst = layout_of(van[0]).worst
    assert (worst["c03"].name, worst["c03"].around.ambient_c) == ("B", 45)
    assert (worst["c02"].name, worst["c02"].around.ambient_c, worst["c02"].around.bundle_count) == ("C", 35, 4)
