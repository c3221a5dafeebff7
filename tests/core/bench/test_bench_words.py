"""What a course means in words, the pairs that ship, and runs of a plan put on the bench."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from lucernis.core.bench.course import follow
from lucernis.core.bench.meaning import setup_text, tell, time_text
from lucernis.core.bench.opened import setup_of_run
from lucernis.core.bench.pairs import pairs
from lucernis.core.bench.setup import BenchLoad, BenchSource, BenchWire, Setup, source_of
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.pictures.bench_chart import HEIGHT, bench_charts, time_tick, usual_axis
from lucernis.demo import demo_plan
from lucernis.errors import UnknownRow
from lucernis.plan.document import parse_plan
from tests.helpers import part, run, small_document


def setup(**fields: Any) -> Setup:
    return Setup.model_validate({"fuse": None} | fields)


PAIRS = {one.id: one for one in pairs()}


@pytest.mark.parametrize(
    ("pair", "left", "right"),
    [
        ("fuse", "good", "stop"),
        ("gauge", "stop", "fix"),
        ("bundle", "good", "stop"),
        ("crimp", "good", "stop"),
        ("memory", "good", "good"),
        ("motor", "good", "good"),
        ("inverter", "stop", "good"),
        ("cold", "stop", "stop"),
    ],
)
def test_pairs_show_what_they_ask(pair: str, left: str, right: str) -> None:
    """What the trade has seen, common practice, no source; each pair differs in one thing."""
    one = PAIRS[pair]
    assert (tell(follow(one.left)).verdict, tell(follow(one.right)).verdict) == (left, right)


def test_every_pair_is_asked_for_above() -> None:
    assert set(PAIRS) == {"fuse", "gauge", "bundle", "crimp", "memory", "motor", "inverter", "cold"}


def test_motor_opens_the_small_fuse_and_not_the_large_one() -> None:
    left, right = follow(PAIRS["motor"].left), follow(PAIRS["motor"].right)
    assert left.fuse_fast_s is not None
    assert right.fuse_fast_s is None


def test_outcome_tells_both_edges_and_the_worst_that_happens() -> None:
    told = tell(follow(PAIRS["fuse"].left))
    assert "the fuse opens between" in told.outcome
    burnt = tell(follow(PAIRS["fuse"].right))
    assert "smokes" in burnt.outcome or "burns bare" in burnt.outcome


def test_a_fuse_that_cannot_break_it_is_a_stop() -> None:
    """A strip of 2 kA behind a bank of 12 kA; a class T one of 20 kA behind the same."""
    bank = {"open_v": 13.5, "inside_ohm": 13.5 / 12000}
    base: dict[str, Any] = {"source": bank, "wire": {"size": "4/0", "length_m": 0.1}, "load": {"kind": "short"}}
    weak = tell(follow(setup(**base, fuse={"family": "bolt_m8", "rating_a": 200}), 5.0))
    strong = tell(follow(setup(**base, fuse={"family": "class_t", "rating_a": 200}), 5.0))
    assert weak.verdict == "stop"
    assert "may burst" in weak.lines[-1]
    assert strong.verdict == "good"


def test_what_it_cannot_know_goes_by_what_happened() -> None:
    cool = tell(follow(setup(load={"kind": "current", "amount": 5}), 60.0))
    burnt = tell(follow(PAIRS["cold"].left))
    assert len(cool.unknown) == 1
    assert any("arc" in one for one in burnt.unknown)
    assert any("Flame" in one for one in burnt.unknown)
    assert any("management" in one for one in burnt.unknown)
    assert any("contact" in one for one in tell(follow(PAIRS["crimp"].right)).unknown)
    assert any("bundle" in one for one in tell(follow(PAIRS["bundle"].right)).unknown)


@pytest.mark.parametrize(
    ("time_s", "text"), [(0.0123, "12.3 ms"), (1.0, "1 s"), (119.0, "119 s"), (121.0, "2.02 min"), (7300.0, "2.03 h")]
)
def test_time_text_takes_the_unit_that_fits(time_s: float, text: str) -> None:
    assert time_text(time_s) == text


def test_setup_text_names_what_is_special() -> None:
    made = setup(
        wire={"size": "6", "neighbours": 3}, end={"too_much_mohm": 8.0}, load={"kind": "current", "amount": 60}
    )
    assert setup_text(made) == "6 AWG · 3 m · 60 A · no fuse · joint with 8 mΩ too much · 4 in the bundle"


class TestSetup:
    """What the model refuses, by name."""

    def test_a_size_of_another_system_is_refused_by_name(self) -> None:
        with pytest.raises(ValidationError, match="size is one of"):
            BenchWire(system="mm2", size="16 AWG")

    def test_a_source_has_both_figures_or_none(self) -> None:
        with pytest.raises(ValidationError, match="open_v and inside_ohm"):
            BenchSource(open_v=13.0)

    def test_a_load_wants_its_amount_and_a_short_none(self) -> None:
        assert BenchLoad(kind="short", amount=None).amount is None
        with pytest.raises(ValidationError, match="amount is wanted"):
            BenchLoad(kind="inverter", amount=None)

    def test_a_battery_is_full_and_stiff_for_a_short_and_half_full_else(self) -> None:
        short_v, short_ohm = source_of(setup(load={"kind": "short"}))
        run_v, run_ohm = source_of(setup(load={"kind": "current", "amount": 5}))
        assert short_v > run_v
        assert short_ohm < run_ohm


class TestOpened:
    """Runs of a plan."""

    def test_a_run_comes_with_its_own_figures(self) -> None:
        plan = parse_plan(small_document())
        report = next(one for one in evaluate(plan).runs if one.id == "r3")
        opened = setup_of_run(plan, "r3", "load")
        assert opened.tag == report.tag
        assert opened.setup.wire.size in report.wire.label
        assert opened.setup.wire.length_m == report.length_m
        assert opened.setup.fuse is not None
        assert report.fuse is not None
        assert opened.setup.fuse.rating_a == report.fuse.rating_a

    def test_its_short_is_that_of_the_report(self) -> None:
        plan = parse_plan(small_document())
        report = next(one for one in evaluate(plan).runs if one.id == "r3")
        strongest = next(one.strongest_a for one in report.faults if one.where == "finish")
        course = follow(setup_of_run(plan, "r3", "short").setup, 1.0)
        assert course.most_a == pytest.approx(strongest, rel=0.05)

    def test_runs_of_the_demo_can_be_put_there_and_stand_their_service(self) -> None:
        """What the program fitted itself is not burnt by its own bench."""
        for name in ("heron", "tern"):
            plan = demo_plan(name)
            # Every third is enough of each kind.
            for one in plan.runs[::3]:
                told = tell(follow(setup_of_run(plan, one.id, "load").setup, 3600.0))
                assert told.verdict in ("good", "look"), f"{name} {one.tag}: {told.outcome}"

    def test_a_negative_alone_has_no_short_of_its_own(self) -> None:
        plan = demo_plan("heron")
        alone = next(one for one in plan.runs if one.legs == "negative")
        with pytest.raises(UnknownRow, match="negative alone"):
            setup_of_run(plan, alone.id, "short")
        assert setup_of_run(plan, alone.id, "load").setup.load.kind == "current"

    def test_an_unknown_run_is_named(self) -> None:
        with pytest.raises(UnknownRow, match="no run 'x'"):
            setup_of_run(parse_plan(small_document()), "x", "load")

    def test_a_motor_and_a_heater_come_as_what_they_are(self) -> None:
        doc = small_document()
        part(doc, "l2").update(device="motor", inrush_factor=5.0, inrush_s=0.4)
        load = setup_of_run(parse_plan(doc), "r3", "load").setup.load
        assert (load.kind, load.inrush_factor, load.inrush_s) == ("motor", 5.0, 0.4)

    def test_a_bundle_carries_along_in_service_and_not_in_a_short(self) -> None:
        doc = small_document()
        run(doc, "r3")["bundle_count"] = 8
        plan = parse_plan(doc)
        assert setup_of_run(plan, "r3", "load").setup.wire.neighbours_carry
        short = setup_of_run(plan, "r3", "short").setup.wire
        assert (short.neighbours, short.neighbours_carry) == (7, False)


class TestChart:
    """The chart of a course."""

    def test_two_share_one_scale(self) -> None:
        left, right = (follow(one, 60.0) for one in (PAIRS["fuse"].left, PAIRS["fuse"].right))
        charts = bench_charts([left, right], "log")
        at = [
            dict(zip(course.frames.time_s, chart.at_px, strict=True))
            for course, chart in zip((left, right), charts, strict=True)
        ]
        assert at[0][60.0] == at[1][60.0]

    def test_frames_move_to_the_right_and_stay_on_the_paper(self) -> None:
        course = follow(PAIRS["gauge"].left, 300.0)
        for axis in ("log", "straight"):
            (chart,) = bench_charts([course], axis)
            assert chart.at_px == sorted(chart.at_px)
            assert 0 < chart.at_px[0] <= chart.at_px[-1] < chart.drawing.width
            for piece in chart.drawing.pieces:
                for stroke in piece.strokes:
                    assert all(0 <= x <= chart.drawing.width and 0 <= y <= HEIGHT for x, y in stroke.points)

    def test_narrow_is_as_wide_as_a_hand(self) -> None:
        (chart,) = bench_charts([follow(PAIRS["gauge"].left, 300.0)], "straight", narrow=True)
        assert chart.drawing.width < 360
        assert min(word.size for piece in chart.drawing.pieces for word in piece.words) >= 12

    def test_the_band_of_the_fuse_is_drawn_where_it_opens(self) -> None:
        course = follow(PAIRS["fuse"].left, 60.0)
        (chart,) = bench_charts([course], "log")
        band = next(one for one in chart.drawing.pieces if "quick edge" in one.label)
        left = band.strokes[0].points[0][0]
        opened = next(at for at, t in enumerate(course.frames.time_s) if t >= (course.fuse_fast_s or 0))
        assert left == pytest.approx(chart.at_px[opened], abs=3)

    def test_axis_is_by_decades_where_it_is_over_early(self) -> None:
        assert usual_axis([follow(PAIRS["fuse"].left, 60.0)]) == "log"
        assert usual_axis([follow(PAIRS["gauge"].left, 30.0)]) == "straight"

    def test_ticks_carry_their_unit(self) -> None:
        assert [time_tick(one) for one in (0.001, 0.5, 10.0, 600.0, 36000.0)] == [
            "1 ms",
            "500 ms",
            "10 s",
            "10 min",
            "10 h",
        ]
