"""The bench's course: what opens, what is noticed, what holds at the edges of every limit."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest

from lucernis.core.bench.cells import Cells, harm_of
from lucernis.core.bench.circuit import BenchCircuit
from lucernis.core.bench.course import LONGEST_S, SHORTEST_S, Course, follow, usual_end_s
from lucernis.core.bench.meaning import tell
from lucernis.core.bench.memory import FuseMemory
from lucernis.core.bench.setup import BenchFuse, Setup
from lucernis.core.wire.heat import Covered, steady_c


def setup(**fields: Any) -> Setup:
    return Setup.model_validate({"fuse": None} | fields)


def whats(course: Course) -> list[tuple[str, str]]:
    return [(one.what, one.where) for one in course.events]


def test_a_course_ends_where_the_steady_balance_is() -> None:
    """Against the steady balance of the wire room, which is checked against ht."""
    made = setup(wire={"size": "12", "length_m": 3.0}, load={"kind": "current", "amount": 35})
    course = follow(made, 20000.0)
    wire = Cells(made)._covered
    conductor, surface = steady_c(
        Covered(wire.area_mm2, wire.resistance_20_ohm_per_m, wire.wall_mm),
        35.0 * (wire.area_mm2 * 0 + 1),
        30.0 + 0 * wire.area_mm2,
    )
    assert course.frames.conductor_c[-1] == pytest.approx(float(conductor), abs=0.5)
    assert course.frames.surface_c[-1] == pytest.approx(float(surface), abs=0.5)


def test_frames_are_of_one_length_rise_in_time_and_end_at_the_end() -> None:
    course = follow(setup(load={"kind": "short"}), 5.0)
    frames = course.frames
    lengths = {len(getattr(frames, name)) for name in type(frames).__dataclass_fields__}
    assert lengths == {len(frames.time_s)}
    assert all(b > a for a, b in itertools.pairwise(frames.time_s))
    assert frames.time_s[0] == 0
    assert frames.time_s[-1] == pytest.approx(5.0)
    assert len(frames.time_s) <= 700


def test_follow_is_the_same_every_time() -> None:
    made = setup(load={"kind": "short"}, fuse={"family": "blade_regular", "rating_a": 30})
    assert follow(made) == follow(made)


@pytest.mark.parametrize(("asked_s", "watched_s"), [(1e-6, SHORTEST_S), (1e9, LONGEST_S), (3.0, 3.0)])
def test_end_is_held_inside_what_is_watched(asked_s: float, watched_s: float) -> None:
    assert follow(setup(load={"kind": "current", "amount": 1}), asked_s).end_s == watched_s


def test_usual_end_is_shorter_for_a_short() -> None:
    assert usual_end_s(setup(load={"kind": "short"})) < usual_end_s(setup())


def test_rated_is_noticed_just_above_and_not_just_below() -> None:
    """The same wire and current, its insulation rated one degree on either side of what it reaches."""
    reached = follow(
        setup(wire={"size": "12", "length_m": 3.0}, load={"kind": "current", "amount": 40}), 20000.0
    ).hottest_c
    for rated, seen in ((math.floor(reached) - 1, True), (math.ceil(reached) + 1, False)):
        made = setup(
            wire={"size": "12", "length_m": 3.0, "insulation_c": rated}, load={"kind": "current", "amount": 40}
        )
        assert (("rated", "wire") in whats(follow(made, 20000.0))) is seen


@pytest.mark.parametrize(("multiple", "opens"), [(1.34, False), (1.36, True)])
def test_slow_edge_opens_only_from_its_first_point_on(multiple: float, opens: bool) -> None:
    made = setup(
        wire={"size": "4", "length_m": 0.2},
        load={"kind": "current", "amount": 30 * multiple},
        fuse={"family": "blade_regular", "rating_a": 30},
    )
    assert (follow(made, 3000.0).fuse_slow_s is not None) is opens


def test_a_fuse_saves_what_burns_without_it() -> None:
    short: dict[str, Any] = {"wire": {"size": "16", "length_m": 1.0}, "load": {"kind": "short"}}
    saved = follow(setup(**short, fuse={"family": "blade_regular", "rating_a": 15}))
    burnt = follow(setup(**short))
    assert whats(saved) == [("opens", "fuse")]
    assert ("smokes", "wire") in whats(burnt)
    assert saved.let_through_a2s < burnt.let_through_a2s / 20
    # Once it is open nothing flows and the wire cools.
    assert saved.frames.current_a[-1] == 0
    assert saved.frames.conductor_c[-1] < saved.hottest_c


def test_energy_let_through_is_that_of_the_currents() -> None:
    course = follow(setup(load={"kind": "current", "amount": 20}), 10.0)
    assert course.let_through_a2s == pytest.approx(20**2 * 10.0, rel=1e-6)


def test_a_bad_joint_burns_where_a_good_one_is_cool() -> None:
    base: dict[str, Any] = {"wire": {"size": "6", "length_m": 2.0}, "load": {"kind": "current", "amount": 60}}
    good, bad = follow(setup(**base)), follow(setup(**base, end={"too_much_mohm": 8.0}))
    assert whats(good) == []
    assert ("smokes", "joint") in whats(bad)
    assert ("smokes", "wire") not in whats(bad)
    assert good.hottest_joint_c < good.hottest_c + 2


def test_unloaded_neighbours_help_and_loaded_ones_harm() -> None:
    def hot(**fields: Any) -> float:
        wire = {"size": "12", "length_m": 3.0} | fields
        return follow(setup(wire=wire, load={"kind": "current", "amount": 35}), 20000.0).hottest_c

    alone, loaded = hot(), hot(neighbours=8, neighbours_carry=True)
    idle = hot(neighbours=8)
    assert loaded > alone + 20
    assert idle < loaded - 20


def test_idle_neighbours_warm_along() -> None:
    course = follow(setup(wire={"size": "12", "neighbours": 6}, load={"kind": "current", "amount": 45}), 20000.0)
    assert 35 < course.frames.neighbours_c[-1] < course.frames.surface_c[-1]


def test_thin_wall_is_quicker() -> None:
    def first_s(thin: bool) -> float:
        wire = {"size": "16", "thin_wall": thin}
        course = follow(setup(wire=wire, load={"kind": "current", "amount": 80}), 120.0)
        return next(one.time_s for one in course.events if one.what == "rated")

    assert first_s(thin=True) < first_s(thin=False)


def test_an_inverter_that_lacks_its_volts_switches_off_and_says_so() -> None:
    long = follow(setup(wire={"size": "16", "length_m": 3.0}, load={"kind": "inverter", "amount": 1200}), 60.0)
    short = follow(setup(wire={"size": "2", "length_m": 0.3}, load={"kind": "inverter", "amount": 1200}), 60.0)
    assert ("lacks", "load") in whats(long)
    assert long.frames.current_a[-1] == 0
    assert ("lacks", "load") not in whats(short)
    assert short.frames.current_a[-1] > 90


def test_amperes_no_source_can_push_are_told_and_what_flows_is_what_can() -> None:
    course = follow(setup(wire={"size": "16", "length_m": 20.0}, load={"kind": "current", "amount": 80}), 10.0)
    assert whats(course)[0] == ("lacks", "load")
    assert 5 < course.most_a < 30


def test_a_motor_draws_its_start_and_then_its_running_current() -> None:
    made = setup(
        wire={"size": "8", "length_m": 2.0}, load={"kind": "motor", "amount": 15, "inrush_factor": 6, "inrush_s": 0.5}
    )
    frames = follow(made, 10.0).frames
    at = dict(zip(frames.time_s, frames.current_a, strict=True))
    assert max(i for t, i in at.items() if t < 0.49) == pytest.approx(90)
    assert max(i for t, i in at.items() if t > 0.51) == pytest.approx(15)


def test_a_heater_cycles_and_no_switching_is_stepped_over() -> None:
    made = setup(wire={"size": "8"}, load={"kind": "heater", "amount": 600, "on_s": 30, "off_s": 20})
    frames = follow(made, 120.0).frames
    on = [i > 0 for t, i in zip(frames.time_s, frames.current_a, strict=True) if t < 29.9]
    off = [i > 0 for t, i in zip(frames.time_s, frames.current_a, strict=True) if 30.01 < t < 49.9]
    assert all(on)
    assert not any(off)


def test_a_longer_wire_lets_less_through_and_the_body_back_lets_more() -> None:
    def most_a(**fields: Any) -> float:
        return follow(setup(wire={"size": "10", "length_m": 5.0} | fields, load={"kind": "short"}), 1.0).most_a

    assert most_a(length_m=10.0) < most_a() < most_a(returns="body")


def test_copper_at_its_melting_point_stays_there_until_it_parts() -> None:
    course = follow(setup(wire={"size": "18", "length_m": 0.2}, load={"kind": "short"}), 5.0)
    assert course.hottest_c == 1085.0
    times = {one.what: one.time_s for one in course.events if one.where == "wire"}
    assert times["parts"] > times["melts"]


@pytest.mark.parametrize(
    ("insulation_c", "kind"),
    [(60, "PVC"), (75, "PVC"), (90, "cross-linked"), (105, "heat-resistant PVC"), (125, "cross-linked")],
)
def test_harm_goes_by_the_rating_below(insulation_c: int, kind: str) -> None:
    harm = harm_of(insulation_c)
    assert harm.kind == kind
    assert insulation_c < harm.softens_c < harm.blisters_c < harm.smokes_c < harm.gone_c < 1085


class TestFuseMemory:
    """A fuse that warms."""

    fuse = BenchFuse(family="blade_regular", rating_a=20.0)

    def test_two_halves_of_its_time_open_it(self) -> None:
        memory = FuseMemory(self.fuse, slow=True)
        whole_s = memory.opens_in_s(40.0)
        memory.step(40.0, whole_s / 2)
        assert not memory.opened
        assert memory.next_s(40.0) == pytest.approx(whole_s / 2)
        memory.step(40.0, whole_s / 2)
        assert memory.opened

    def test_it_forgets_while_nothing_flows(self) -> None:
        memory = FuseMemory(self.fuse, slow=True)
        memory.step(40.0, memory.opens_in_s(40.0) / 2)
        memory.step(0.0, 60.0)
        assert 0 < memory.way_frac < 0.1

    def test_beyond_the_last_point_the_heat_is_kept(self) -> None:
        memory = FuseMemory(self.fuse, slow=True)
        last, far = memory.opens_in_s(120.0), memory.opens_in_s(1200.0)
        assert far * 1200.0**2 == pytest.approx(last * 120.0**2)

    def test_a_magnetic_breaker_keeps_its_time_beyond_the_last_point(self) -> None:
        memory = FuseMemory(BenchFuse(family="breaker_magnetic", rating_a=20.0), slow=True)
        assert memory.opens_in_s(2400.0) == pytest.approx(0.1)
        assert memory.opens_in_s(240.0) == pytest.approx(0.1)

    def test_nothing_opens_it_below_its_first_point(self) -> None:
        memory = FuseMemory(self.fuse, slow=True)
        assert memory.opens_in_s(20.0 * 1.34) == math.inf
        assert memory.next_s(0.0) == math.inf

    def test_once_open_it_stays_open(self) -> None:
        memory = FuseMemory(self.fuse, slow=False)
        memory.step(400.0, 10.0)
        memory.step(0.0, 1000.0)
        assert memory.opened
        assert memory.way_frac == 1.0


def test_a_constant_power_load_draws_more_as_its_volts_fall() -> None:
    made = setup(wire={"size": "10", "length_m": 5.0}, load={"kind": "electronics", "amount": 200})
    circuit, cells = BenchCircuit(made), Cells(made)
    flow = circuit.flow(cells, 0.0)
    assert flow.current_a * flow.load_v == pytest.approx(200.0)
    assert flow.load_v < circuit.open_v
    lost = circuit.open_v - flow.load_v
    assert lost == pytest.approx(flow.current_a * (circuit.fixed_ohm + 2 * cells.leg_ohm))


def test_a_load_that_cycles_fast_is_followed_by_its_rms_and_warms_as_each_cycle_would() -> None:
    """A millisecond's cycle for ten hours is the work of a steady load; just inside and outside of where it changes the
    wire gets as warm."""

    def of(cycle_s: float, end_s: float) -> Course:
        load = {"kind": "heater", "amount": 400, "on_s": 0.6 * cycle_s, "off_s": 0.4 * cycle_s}
        return follow(setup(wire={"size": "12", "length_m": 3.0}, load=load), end_s)

    fast = of(0.001, LONGEST_S)
    assert len(fast.frames.time_s) <= 700
    assert not fast.cut_short
    told = [one for one in tell(fast).unknown if "root mean square" in one]
    assert told == [
        "Single cycles: 36,000,000 of them are followed as the root mean square of their current, which warms alike."
    ]
    each, mean = of(1.0, 300.0), of(1.0, 300.1)
    assert not [one for one in tell(each).unknown if "root mean square" in one]
    assert [one for one in tell(mean).unknown if "root mean square" in one]
    assert each.most_a == pytest.approx(mean.most_a, rel=0.01)
    assert mean.frames.conductor_c[-1] == pytest.approx(each.frames.conductor_c[-1], abs=1.0)
