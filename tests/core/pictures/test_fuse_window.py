"""Fuse window: the line of harm, the band, the marks; and the finding that says the same in words."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import study_faults
from lucernis.core.pictures.drawing import Drawing, copper_width
from lucernis.core.pictures.fuse_window import fuse_window, harm_times_s
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.core.wire.heat import adiabatic_k, short_time_limit
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import every_finding, part, run, small_document


def sized_of(change: Any = None) -> tuple[Plan, Sized]:
    doc = small_document()
    if change is not None:
        change(doc)
    plan = parse_plan(doc)
    return plan, size_plan(plan, plan_rules(plan))


def window(run_id: str, change: Any = None) -> Drawing:
    plan, sized = sized_of(change)
    one = next(run for run in plan.runs if run.id == run_id)
    return fuse_window(plan, sized, study_faults(plan, sized), one)


def test_harm_comes_sooner_with_more_current() -> None:
    plan, sized = sized_of()
    times = harm_times_s(sized, plan.runs[1], np.geomspace(20, 3000, 40))
    reached = times[np.isfinite(times)]
    assert len(reached) > 20
    assert np.all(np.diff(reached) <= 1e-6)


def test_harm_in_a_strong_short_is_the_adiabatic_time() -> None:
    """``t = (k · S / I)²`` of IEC 60364-4-43, 434.5.2 (from memory): nothing that warms along may make it later."""
    plan, sized = sized_of()
    option, case = sized.chosen["r2"], sized.cases["r2"]
    k = adiabatic_k(option.temp_c, short_time_limit(case.insulation_c)[0])
    for amps in (800.0, 1500.0):
        bare_s = (k * option.size.area_mm2 / amps) ** 2
        found_s = float(harm_times_s(sized, plan.runs[1], np.array([amps]))[0])
        assert found_s == pytest.approx(bare_s, rel=1e-6)


def test_current_the_wire_carries_never_harms_it() -> None:
    plan, sized = sized_of()
    carried_a = sized.chosen["r2"].amp.ampacity_a or 0.0
    assert harm_times_s(sized, plan.runs[1], np.array([0.9 * carried_a]))[0] == np.inf


def test_wire_that_cooks_in_service_still_has_a_window() -> None:
    def spoil(doc: dict[str, Any]) -> None:
        part(doc, "l1").update(power_w=1000.0)
        run(doc, "r2")["wire"] = {"system": "awg", "size": "18", "reason": "test"}

    plan, sized = sized_of(spoil)
    assert sized.chosen["r2"].temp_c > short_time_limit(sized.cases["r2"].insulation_c)[0]
    assert not harm_times_s(sized, plan.runs[1], np.array([1.0, 500.0])).any()
    assert window("r2", spoil).rows


def test_window_names_the_fuse_that_guards() -> None:
    assert window("r2").title.startswith("C02: ")
    assert "5 A Regular blade" in window("r2").title
    assert "in C02" in window("r4").title


def test_window_marks_running_current_and_both_shorts() -> None:
    said = {row[0] for row in window("r2").rows}
    assert {"running", "wire carries", "weakest short", "strongest short"} <= said
    assert {"fuse, quick edge", "fuse, slow edge"} <= said


def test_window_marks_the_start_of_a_motor() -> None:
    drawing = window("r3", lambda doc: part(doc, "l2").update(device="motor", inrush_factor=4.0, inrush_s=0.3))
    row = next(row for row in drawing.rows if row[0] == "Pump starts")
    assert row[1:] == ["24.0 A", "0.3 s"]


def test_run_without_a_fuse_says_so() -> None:
    def bare(doc: dict[str, Any]) -> None:
        run(doc, "r1")["fuse_at_start"] = None

    drawing = window("r1", bare)
    assert "no fuse" in drawing.title
    assert not any(row[0].startswith("fuse,") for row in drawing.rows)


def test_band_above_the_line_of_harm_is_a_finding() -> None:
    """A 100 A bolt-down fuse before 18 AWG: where the band lies above the line, the check says so."""

    def spoil(doc: dict[str, Any]) -> None:
        run(doc, "r3")["wire"] = {"system": "awg", "size": "18", "reason": "test"}
        run(doc, "r3")["fuse_at_start"].update(
            family="bolt_m8", pin={"rating_a": 100.0, "family": "bolt_m8", "reason": "test"}
        )

    plan, sized = sized_of(spoil)
    weakest = study_faults(plan, sized).of_run["r3"][-1]
    harmed_s = float(harm_times_s(sized, plan.runs[2], np.array([weakest.weakest_a]))[0])
    assert weakest.slow_s is None or weakest.slow_s > harmed_s
    codes = set(every_finding(evaluate(plan).findings))
    assert {("fault-harms-wire", "r3"), ("fault-not-cleared", "r3")} & codes


@pytest.mark.parametrize(("diameter_mm", "pixels"), [(0.1, 1.0), (2.0, 2.6), (10.0, 13.0)])
def test_copper_is_drawn_true_to_scale(diameter_mm: float, pixels: float) -> None:
    assert copper_width(diameter_mm) == pytest.approx(pixels)


def test_window_of_two_conductors_is_that_of_one_at_twice_the_current() -> None:
    """Each with a fuse of its own and a wire of its own: band, line of harm and what they carry stand at double."""

    def pinned(count: int) -> Any:
        def change(doc: Any) -> None:
            one = run(doc, "r1")
            one.update(parallel=count, wire={"system": "awg", "size": "6", "reason": "test"})
            one["fuse_at_start"] = {
                "distance_m": 0.1, "each": True, "pin": {"rating_a": 60.0, "family": "bolt_m8", "reason": "test"}
            }  # fmt: skip

        return change

    def amps(count: int, name: str) -> list[float]:
        rows = window("r1", pinned(count)).rows
        return [float(row[1].removesuffix(" A")) for row in rows if row[0] == name]

    for name in ("fuse, quick edge", "fuse, slow edge", "wire carries"):
        assert amps(2, name) == pytest.approx([2 * one for one in amps(1, name)], rel=1e-3)
    plan, sized = sized_of(pinned(2))
    harmed = [row for row in window("r1", pinned(2)).rows if row[0].startswith("wire reaches")]
    assert harmed
    for _, amps_text, time_text in harmed:
        one_a = float(amps_text.removesuffix(" A")) / 2
        after_s = float(harm_times_s(sized, plan.runs[0], np.array([one_a]))[0])
        assert float(time_text.removesuffix(" s")) == pytest.approx(after_s, rel=0.03)


@pytest.mark.parametrize("given", [{"inrush_factor": 4.0}, {"inrush_s": 0.3}, {"power_w": None, "current_a": None}])
def test_a_start_that_is_half_known_is_not_drawn(given: dict[str, Any]) -> None:
    drawing = window("r3", lambda doc: part(doc, "l2").update(given))
    assert not [row for row in drawing.rows if row[0] == "Pump starts"]
