"""Reference tests: the bench against Onderdonk's equation, ht, a fin worked by hand, derating tables, published fuse
bands, and what the trade has seen burn.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from ht.conv_free_immersed import Nu_horizontal_cylinder_Churchill_Chu
from ht.radiation import q_rad

from lucernis.core.bench.course import Course, follow
from lucernis.core.bench.setup import BenchEnd, BenchFuse, BenchLoad, BenchSource, BenchWire, Setup
from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.heat import Covered, given_away_w_per_m, wall_mm
from lucernis.practice.tables import load_table

STIFF = BenchSource(open_v=120.0, inside_ohm=1e-4)


def wire(size: str, length_m: float = 2.0, **fields: object) -> BenchWire:
    return BenchWire.model_validate({"size": size, "length_m": length_m} | fields)


def amps(size: str, current_a: float, end_s: float, **fields: object) -> Course:
    """A current that is held whatever the wire does, no fuse."""
    setup = Setup(source=STIFF, wire=wire(size, **fields), load=BenchLoad(kind="current", amount=current_a), fuse=None)  # type: ignore[arg-type]
    return follow(setup, end_s)


def when(course: Course, what: str, where: str = "wire") -> float:
    return next(one.time_s for one in course.events if (one.what, one.where) == (what, where))


@pytest.mark.parametrize("current_a", [80.0, 82.0, 100.0])
def test_16_awg_passes_100_c_within_half_a_minute_and_smokes_soon_after(current_a: float) -> None:
    """Common practice, no source: 80 to 100 A through 16 AWG of 105 °C insulation passes 100 °C at the surface within
    half a minute, blisters before two minutes and smokes within about a minute and a half."""
    course = amps("16", current_a, 120.0, ambient_c=21, insulation_c=105)
    frames = course.frames
    surface_s = next(t for t, c in zip(frames.time_s, frames.surface_c, strict=True) if c >= 100)
    assert 8 <= surface_s <= 30
    assert when(course, "blisters") < 120
    assert when(course, "smokes") < 90


def test_16_awg_at_its_table_current_stays_sound() -> None:
    """ABYC E-11 (memory): 25 A is what 16 AWG of 105 °C carries. The good case beside the burnt one."""
    assert [one.what for one in amps("16", 25.0, 7200.0).events] == []


def test_thin_wire_across_a_battery_parts_at_once_and_a_thick_one_glows() -> None:
    """Common practice, no source: thin wire across a battery is gone in well under a second, a thick one glows."""
    lead = BenchSource(chemistry="flooded", capacity_ah=70)
    short = BenchLoad(kind="short")
    thin = follow(Setup(source=lead, wire=wire("18", 0.2), load=short, fuse=None), 20.0)
    thick = follow(Setup(source=lead, wire=wire("4", 0.2), load=short, fuse=None), 12.0)
    assert when(thin, "parts") < 0.6
    # Copper glows visibly from some 600 °C.
    assert thick.hottest_c > 600
    assert "parts" not in {one.what for one in thick.events}


@pytest.mark.parametrize(("size", "current_a"), [("16", 3000.0), ("10", 12000.0), ("8", 16000.0)])
def test_melting_agrees_with_onderdonk(size: str, current_a: float) -> None:
    """Onderdonk's equation as published by Stauffacher, General Electric Review 31, 1928 (memory):
    ``33·(I/A)²·t = log10((Tm - Ta)/(234 + Ta) + 1)``, A in circular mils, copper melting at 1083 °C, no heat given
    away. In some ten milliseconds nothing is, not even to the cover: within 6 %, and not sooner."""
    mils = wire_size("awg", size).area_mm2 / 5.0671e-4
    onderdonk_s = math.log10((1083 - 30) / (234 + 30) + 1) / 33 * (mils / current_a) ** 2
    assert onderdonk_s < 0.05
    setup = Setup(
        source=BenchSource(open_v=120.0, inside_ohm=1e-6),
        wire=wire(size, 0.05, returns="body"),
        load=BenchLoad(kind="current", amount=current_a),
        fuse=None,
    )
    course = follow(setup, max(3 * onderdonk_s, 0.01))
    # Contacts and body take some of the volts: the current asked for is only reached where they allow it.
    scaled_s = onderdonk_s * (current_a / course.most_a) ** 2
    assert scaled_s * 0.98 <= when(course, "melts") <= scaled_s * 1.10


def test_a_cover_takes_its_share_of_a_slower_melting() -> None:
    """Onderdonk knows bare copper. In a second the cover has drunk some: later, and not by more than twice."""
    mils = wire_size("awg", "16").area_mm2 / 5.0671e-4
    onderdonk_s = math.log10((1083 - 30) / (234 + 30) + 1) / 33 * (mils / 400.0) ** 2
    melts_s = when(amps("16", 400.0, 5.0, length_m=0.05), "melts")
    assert onderdonk_s * 1.05 < melts_s < onderdonk_s * 2


@pytest.mark.parametrize(("size", "current_a"), [("16", 25.0), ("10", 60.0), ("2", 180.0)])
def test_steady_heat_agrees_with_ht(size: str, current_a: float) -> None:
    """ht 1.2: what the surface gives away by Churchill-Chu and as a grey body is what the copper makes, within 5 %."""
    course = amps(size, current_a, 36000.0, length_m=3.0)
    surface, copper = course.frames.surface_c[-1], course.frames.conductor_c[-1]
    made_w = current_a**2 * wire_size("awg", size).resistance_20_ohm_per_m * (1 + 0.00393 * (copper - 20))
    area = wire_size("awg", size).area_mm2
    outer_m = float(Covered(np.array(area), np.array(1.0), np.array(wall_mm(area))).outer_m)
    film_k = (surface + 30) / 2 + 273.15
    # Air at 300 K, Incropera's table (memory): ν 15.89e-6 m²/s, k 0.0263 W/mK, Pr 0.707; ν ~ T^1.7, k ~ T^0.8.
    nu, k, prandtl = 15.89e-6 * (film_k / 300) ** 1.7, 0.0263 * (film_k / 300) ** 0.8, 0.707
    grashof = 9.81 / film_k * (surface - 30) * outer_m**3 / nu**2
    convected = Nu_horizontal_cylinder_Churchill_Chu(prandtl, grashof) * k / outer_m * (surface - 30)
    radiated = q_rad(0.92, surface + 273.15, 30 + 273.15)
    assert made_w == pytest.approx(math.pi * outer_m * (convected + radiated), rel=0.05)


@pytest.mark.parametrize(("size", "count"), [("16", 3), ("10", 5), ("16", 10), ("10", 20), ("16", 30)])
def test_a_bundle_carries_what_the_derating_table_leaves(size: str, count: int) -> None:
    """ABYC E-11 (memory): 0.70, 0.60, 0.50, 0.50, 0.40 of a wire's ampacity in bundles of 3, 5, 10, 20 and 30. The
    physics of a round bundle gives the same within 18 %: tables have steps, bundles not."""
    row = next(
        row
        for row in load_table("bundling_factor").rows
        if row["table"] == "e11" and int(row["from_count"]) <= count <= int(row["to_count"] or 999)
    )

    def most_a(neighbours: int) -> float:
        low, high = 1.0, 120.0
        for _ in range(11):
            tried = (low + high) / 2
            hot = amps(size, tried, 30000.0, neighbours=neighbours, neighbours_carry=neighbours > 0).hottest_c
            low, high = (tried, high) if hot < 105 else (low, tried)
        return low

    assert most_a(count - 1) / most_a(0) == pytest.approx(float(row["factor"]), rel=0.18)


def test_a_bad_joint_warms_its_wire_as_a_fin() -> None:
    """Worked by hand: a long fin of conductivity k and loss g a metre, heated at its end by q, is ``q/sqrt(g·k·A)``
    warmer there (any textbook of heat transfer). Half of the joint's heat goes each way."""
    size = wire_size("awg", "6")
    setup = Setup(
        source=STIFF,
        wire=wire("6", 3.0),
        end=BenchEnd(joint="splice", too_much_mohm=2.0),
        load=BenchLoad(kind="current", amount=60.0),
        fuse=None,
    )
    course = follow(setup, 20000.0)
    rise = course.hottest_joint_c - course.hottest_c
    middle = (course.hottest_joint_c + course.hottest_c) / 2
    area = size.area_mm2
    covered = Covered(np.array(area), np.array(size.resistance_20_ohm_per_m), np.array(wall_mm(area)))
    loss = float(given_away_w_per_m(np.array(middle), np.array(30.0), covered.outer_m)) / (middle - 30)
    contact_w = 60.0**2 * (2.0e-3 + 0.10e-3) / 2
    # The barrel gives away too, by twice its length of wire.
    by_hand = contact_w / (math.sqrt(loss * 390 * area * 1e-6) + 2 * loss * 0.030)
    assert rise == pytest.approx(by_hand, rel=0.15)


REMEMBERING = ("breaker_auto", "breaker_manual")


@pytest.mark.parametrize(
    "row",
    [row for row in load_table("fuse_times").rows if row["family"] not in REMEMBERING],
    ids=lambda row: f"{row['family']}-{row['multiple']}",
)
def test_a_fuse_opens_at_its_published_points(row: dict[str, str]) -> None:
    """fuse_times.csv names the standards (memory): at every point of a melting fuse's band the bench opens then."""
    times = {"fast": row["min_s"], "slow": row["max_s"]}
    for edge, text in times.items():
        if text in ("", "inf") or float(text) > 36000:
            continue
        setup = Setup(
            source=STIFF,
            wire=wire("4/0", 0.1),
            load=BenchLoad(kind="current", amount=40.0 * float(row["multiple"])),
            fuse=BenchFuse.model_validate({"family": row["family"], "rating_a": 40.0, "edge": edge}),
        )
        course = follow(setup, max(min(2 * float(text), 36000.0), 0.01))
        opened = course.fuse_fast_s if edge == "fast" else course.fuse_slow_s
        assert opened == pytest.approx(float(text), rel=0.02)


@pytest.mark.parametrize("family", REMEMBERING)
def test_a_breaker_opens_at_twice_its_rating_as_published(family: str) -> None:
    """fuse_times.csv, typical (memory): the point its time constant is read at, both edges."""
    points = {row["multiple"]: row for row in load_table("fuse_times").rows if row["family"] == family}
    setup = Setup(
        source=STIFF,
        wire=wire("4/0", 0.1),
        load=BenchLoad(kind="current", amount=80.0),
        fuse=BenchFuse.model_validate({"family": family, "rating_a": 40.0}),
    )
    course = follow(setup, 200.0)
    assert course.fuse_fast_s == pytest.approx(float(points["2.00"]["min_s"]), rel=0.02)
    assert course.fuse_slow_s == pytest.approx(float(points["2.00"]["max_s"]), rel=0.02)


def test_a_breaker_holds_one_heater_cycle_and_trips_in_the_second() -> None:
    """Common practice, no source: an 80 A thermal breaker holds through one cycle of a heater above its rating and
    trips on a second one straight after; a fuse of 100 A holds both."""
    heater = BenchLoad(kind="heater", amount=1200.0, on_s=25.0, off_s=10.0)
    breaker = BenchFuse(family="breaker_manual", rating_a=80.0, edge="fast")
    fuse = BenchFuse(family="anl", rating_a=100.0, edge="fast")
    tripped = follow(Setup(wire=wire("4"), load=heater, fuse=breaker), 600.0)
    held = follow(Setup(wire=wire("4"), load=heater, fuse=fuse), 600.0)
    assert 35.0 < when(tripped, "opens", "fuse") < 60.0
    assert held.fuse_fast_s is None
