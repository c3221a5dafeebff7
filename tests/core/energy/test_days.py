"""The days: energy books close over every run, the bank fills and empties as it must, questions have answers."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.core.energy.battery import BankModel, bank_model
from lucernis.core.energy.climate import Climate
from lucernis.core.energy.days import Chargers, Scene, Step, days_without_charge, refills, run_days, scene_of, thin_out
from lucernis.core.energy.forecast import forecast, year_ahead
from lucernis.core.energy.usage import StateDraw, Usage, usage_of
from lucernis.core.power.charging import study_charge
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.demo import demo_plan
from lucernis.errors import OutOfRange
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan, Slot
from lucernis.plan.rules import plan_rules
from tests.helpers import part, powered_document, small_document

CLOSED = 1e-3
# Nothing is approximated in the books themselves: what is left is rounding.
EXACT = 1e-6


def sized_of(plan: Plan) -> Sized:
    return size_plan(plan, plan_rules(plan))


def powered(**energy: Any) -> tuple[Plan, Sized]:
    day = [{"state": "key_off", "hours": 8.0}, {"state": "all_on", "hours": 12.0}, {"state": "driving", "hours": 4.0}]
    stops = [{"name": "Field", "latitude_deg": 50.0, "longitude_deg": 10.0}]
    plan = parse_plan(powered_document(energy={"day": day, "stops": stops} | energy))
    return plan, sized_of(plan)


def scene(**energy: Any) -> Scene:
    plan, sized = powered(**energy)
    found = scene_of(plan, sized)
    assert found is not None
    return found


def still(days: int, watts: float = 0.0) -> tuple[Climate, np.ndarray[Any, np.dtype[np.float64]]]:
    steps = days * 144
    return Climate(1 / 6, np.zeros(steps), np.full(steps, 20.0), ("x",) * days, ""), np.full(steps, watts)


model_of = st.builds(
    BankModel,
    capacity_ah=st.floats(20, 1000),
    soc_points=st.just((0.0, 0.25, 0.5, 0.75, 1.0)),
    volt_points=st.sampled_from([(11.8, 12.0, 12.2, 12.4, 12.7), (11.0, 13.0, 13.15, 13.25, 13.5)]),
    resistance_ohm=st.floats(0.0005, 0.03),
    charge_a=st.floats(5, 300),
    taper_from=st.floats(0.5, 0.97),
    taper_to_frac=st.floats(0.01, 0.5),
    charge_frac=st.floats(0.8, 1.0),
    peukert=st.floats(1.0, 1.3),
    least_soc=st.floats(0.0, 0.1),
    takes_charge=st.booleans(),
    heater_w=st.sampled_from([0.0, 60.0]),
)
chargers_of = st.builds(
    Chargers,
    engine_w=st.floats(0, 1000),
    engine_most_a=st.floats(0, 80),
    link_a=st.floats(0, 500),
    link_a_per_v=st.floats(-40, 0),
    link_most_a=st.sampled_from([0.0, 25.0, 60.0]),
    shore_a=st.floats(0, 60),
    sun_frac=st.floats(0.5, 1),
    sun_most_a=st.floats(0, 60),
    sun_most_w=st.floats(0, 1000),
)


@settings(max_examples=120, deadline=None)
@given(
    model=model_of,
    chargers=chargers_of,
    power_w=st.floats(0, 800),
    current_a=st.floats(0, 20),
    siemens=st.floats(0, 1),
    sun=st.lists(st.floats(0, 1200), min_size=12, max_size=12),
    start=st.floats(0.0, 1.0),
    shore=st.booleans(),
)
def test_energy_books_close_over_every_run(
    model: BankModel,
    chargers: Chargers,
    power_w: float,
    current_a: float,
    siemens: float,
    sun: list[float],
    start: float,
    shore: bool,
) -> None:
    """In equals out, stored and lost to a millionth of what moved; nothing is made of nothing."""
    draw = StateDraw(power_w, current_a, siemens)
    usage = Usage((Slot(state="a", hours=18.0), Slot(state="b", hours=6.0)), [], {})
    steps = {"a": Step(draw, engine=False, shore=shore), "b": Step(draw, engine=True, shore=False)}
    climate, _ = still(2)
    bank: Any = None
    run = run_days(Scene(usage, bank, model, chargers, steps), climate, np.repeat(sun, 24), "x", start_soc=start)
    books = run.books
    moved = books.in_wh + books.loads_wh + abs(books.stored_wh) + 1e-9
    assert abs(books.gap_wh) <= EXACT * moved
    assert (run.soc >= 0).all()
    assert (run.soc <= 1).all()
    assert books.lost_wh >= -1e-9
    assert min(books.sun_wh, books.engine_wh, books.shore_wh, books.unused_sun_wh, books.unserved_wh) >= -1e-9


def test_energy_books_close_where_a_step_crosses_a_bend_of_the_voltage() -> None:
    """29 Ah with lithium's bend at a quarter and lead's Peukert exponent, emptied in steps of several percent."""
    model = BankModel(
        29.0, (0.0, 0.25, 0.5, 0.75, 1.0), (11.0, 13.0, 13.15, 13.25, 13.5), 0.0005, 5.0, 0.5, 0.01, 1.0, 1.3, 0.0,
        takes_charge=True, heater_w=0.0,
    )  # fmt: skip
    usage = Usage((Slot(state="a", hours=24.0),), [], {})
    steps = {"a": Step(StateDraw(100.0, 5.0, 0.5), engine=False, shore=False)}
    climate, sun = still(2)
    bank: Any = None
    bare = Chargers(0, 0, 0, 0, 0, 0, 1, 0, 0)
    books = run_days(Scene(usage, bank, model, bare, steps), climate, sun, "x").books
    assert books.loads_wh > 100
    assert abs(books.gap_wh) <= EXACT * books.loads_wh


@pytest.mark.parametrize("name", ["heron", "tern", "plover_mended"])
def test_books_of_the_demo_jobs_close(name: str) -> None:
    plan = demo_plan(name)
    for course in forecast(plan, sized_of(plan), 14).courses:
        assert course.gap_frac < CLOSED
        assert course.engine_frac + course.shore_frac + course.sun_frac == pytest.approx(1.0, abs=1e-9)


def test_without_charge_the_bank_lasts_as_long_as_its_charge() -> None:
    found = scene()
    bare = Chargers(0, 0, 0, 0, 0, 0, 1, 0, 0)
    climate, sun = still(14)
    run = run_days(Scene(found.usage, found.bank, found.model, bare, found.steps), climate, sun, "x")
    days = days_without_charge(found)
    assert days is not None
    assert run.empty_at_h is not None
    assert run.empty_at_h / 24 == pytest.approx(days, rel=0.1)
    assert run.books.unserved_wh > 0
    assert run.books.in_wh == 0


def test_more_sun_never_leaves_the_bank_emptier() -> None:
    found = scene()
    lows = []
    for watts in (0.0, 50.0, 150.0, 400.0):
        climate, sun = still(5, watts)
        lows.append(run_days(found, climate, sun, "x").lowest_soc)
    assert lows == sorted(lows)
    assert lows[-1] > lows[0] + 0.1


def test_a_full_bank_turns_sun_away() -> None:
    found = scene()
    climate, sun = still(3, 2000.0)
    run = run_days(found, climate, sun, "x")
    assert run.lowest_soc > 0.95
    assert run.books.unused_sun_wh > run.books.sun_wh


def test_cold_lithium_takes_no_charge_but_with_pads_it_does() -> None:
    plan, sized = powered(battery_c=-5.0)
    cold = scene_of(plan, sized)
    assert cold is not None
    climate, sun = still(3, 300.0)
    assert not cold.model.takes_charge
    assert run_days(cold, climate, sun, "x", start_soc=0.5).soc.max() <= 0.5
    doc = powered_document(energy=plan.energy.model_dump(mode="json"))
    part(doc, "b1").update(heater_w=60.0)
    warm_plan = parse_plan(doc)
    warm = scene_of(warm_plan, sized_of(warm_plan))
    assert warm is not None
    run = run_days(warm, climate, sun, "x", start_soc=0.5)
    assert run.soc.max() > 0.55
    assert run.books.heater_wh > 0


def test_refill_of_lithium_is_charge_over_current() -> None:
    """From half to 99 %: 49 Ah over 20 A at 99 % is 2.47 h, a little more with the taper."""
    hours = {one.source: one.hours for one in refills(scene())}
    assert hours["engine"] == pytest.approx(49 / 20 / 0.99, abs=0.2)
    assert hours["shore"] == pytest.approx(49 / 10 / 0.99, abs=0.3)
    assert hours["together"] is not None
    assert hours["together"] < min(value for name, value in hours.items() if name != "together" and value is not None)


@pytest.mark.parametrize("without", ["engine_w", "shore_a", "sun_most_a"])
def test_every_source_counts_in_together(without: str) -> None:
    """With one of them taken away, all together take longer; what each gives adds up."""
    whole = scene()
    hours = {one.source: one.hours for one in refills(whole)}
    fewer = replace(whole, chargers=replace(whole.chargers, **{without: 0.0}))
    left = {one.source: one.hours for one in refills(fewer)}
    assert left[without.partition("_")[0]] is None
    assert hours["together"] is not None
    assert left["together"] is not None
    assert left["together"] > hours["together"] * 1.05
    rates = [1 / value for name, value in hours.items() if name != "together" and value is not None]
    assert 1 / hours["together"] == pytest.approx(sum(rates), rel=0.15)


def test_refill_by_a_source_that_is_not_there_is_never() -> None:
    plan = demo_plan("tern")
    found = scene_of(plan, sized_of(plan))
    assert found is not None
    hours = {one.source: one.hours for one in refills(found)}
    assert hours["sun"] is hours["shore"] is None
    assert hours["engine"] is not None


def test_peukert_takes_more_out_of_lead_beyond_the_twenty_hour_rate() -> None:
    plan = demo_plan("tern")
    found = scene_of(plan, sized_of(plan))
    assert found is not None
    rated_a = found.model.capacity_ah / 20
    assert found.model.drain(0.5 * rated_a) == found.model.drain(rated_a) == 1.0
    assert found.model.drain(4 * rated_a) == pytest.approx(4 ** (found.model.peukert - 1))


def test_open_volts_and_stored_energy_agree() -> None:
    """Energy stored is the integral of open-circuit volts over charge; checked by adding up small steps."""
    plan, sized = powered()
    found = scene_of(plan, sized)
    assert found is not None
    model = found.model
    steps = np.linspace(0, 1, 20001)
    middle = (steps[1:] + steps[:-1]) / 2
    summed = sum(model.open_v(float(one)) for one in middle) / len(middle) * model.capacity_ah
    assert model.stored_wh(1.0) == pytest.approx(summed, rel=1e-6)
    assert model.stored_wh(0.0) == 0.0


def test_acceptance_tapers_to_its_share_and_ends_when_full() -> None:
    plan, sized = powered()
    found = scene_of(plan, sized)
    assert found is not None
    model = found.model
    assert model.accepts_a(0.5) == model.charge_a
    assert model.accepts_a(0.999999) == pytest.approx(model.charge_a * model.taper_to_frac, rel=1e-3)
    assert model.accepts_a(1.0) == 0.0


def test_bank_in_the_cold_holds_less() -> None:
    warm, cold = powered(battery_c=25.0), powered(battery_c=-15.0)
    models = []
    for plan, sized in (warm, cold):
        found = scene_of(plan, sized)
        assert found is not None
        models.append(bank_model(plan, found.bank))
    assert models[1].capacity_ah < models[0].capacity_ah == 100.0


def test_usage_spreads_hours_over_the_states_that_allow_them() -> None:
    plan, sized = powered()
    usage = usage_of(plan, sized)
    lamp = next(one for one in usage.loads if one.load == "l1")
    assert lamp.ah == pytest.approx(24.0 * 3 / 12 * (1 + lamp.loss_frac))
    assert sum(lamp.by_state_ah.values()) == pytest.approx(lamp.ah)
    pump = next(one for one in usage.loads if one.load == "l2")
    assert "driving" not in pump.by_state_ah
    assert usage.ah == pytest.approx(sum(one.ah for one in usage.loads))


def test_hours_that_no_state_gives_are_said() -> None:
    doc = powered_document(energy={"day": [{"state": "driving", "hours": 2.0}, {"state": "sunny", "hours": 22.0}]})
    part(doc, "l2").update(hours_per_day=23.0)
    plan = parse_plan(doc)
    found = forecast(plan, sized_of(plan), 3)
    assert found.short_loads == ["Pump"]


def test_zero_hours_draw_nothing_and_last_for_ever() -> None:
    doc = powered_document()
    for one in doc["parts"]:
        if one["kind"] == "load":
            one["hours_per_day"] = 0.0
    plan = parse_plan(doc)
    found = forecast(plan, sized_of(plan), 3)
    assert (found.ah_per_day, found.days_planned, found.days_alone) == (0.0, None, None)
    assert all(course.empty_at_h is None for course in found.courses)


def test_no_stop_means_no_sun_and_says_so() -> None:
    plan, sized = powered(stops=[])
    found = forecast(plan, sized, 3)
    assert "no sun" in found.note
    assert all(course.sun_frac == 0 for course in found.courses)


def test_no_battery_is_an_answer() -> None:
    doc = powered_document()
    doc["parts"] = [one for one in doc["parts"] if one["kind"] == "load"]
    doc["runs"] = []
    plan = parse_plan(doc)
    found = forecast(plan, sized_of(plan), 3)
    assert "no house battery" in found.problem
    assert found.capacity_ah == found.usable_ah == found.planned_low_soc == found.least_soc == 0.0
    assert "no house battery" in year_ahead(plan, sized_of(plan)).problem


@pytest.mark.parametrize("days", [0, 15])
def test_days_outside_the_range_are_refused(days: int) -> None:
    plan, sized = powered()
    with pytest.raises(OutOfRange, match="days"):
        forecast(plan, sized, days)


def test_year_tells_how_far_it_is_and_can_be_stopped() -> None:
    plan, sized = powered()
    told: list[float] = []
    found = year_ahead(plan, sized, tick=told.append)
    assert told == sorted(told)
    assert len(told) > 100
    assert [one.name for one in found.courses] == ["fair", "poor"]
    assert found.courses[0].gap_frac < CLOSED

    class Enough(Exception):
        pass

    def stop(share: float) -> None:
        if share > 0.1:
            raise Enough

    with pytest.raises(Enough):
        year_ahead(plan, sized, tick=stop)


def test_thinned_course_keeps_the_lowest_point() -> None:
    found = scene()
    climate, sun = still(7)
    run = run_days(found, climate, sun, "x")
    points = list(thin_out(run, 100))
    assert len(points) <= 100
    assert min(point[1] for point in points) == pytest.approx(run.lowest_soc)


def test_forecast_is_the_same_each_time() -> None:
    plan, sized = powered()
    assert forecast(plan, sized, 5) == forecast(plan, sized, 5)


def test_weak_input_run_charges_less() -> None:
    doc = powered_document()
    next(one for one in doc["runs"] if one["id"] == "r21").update(
        length_m=15.0, wire={"system": "awg", "size": "14", "reason": "test"}
    )
    plan = parse_plan(doc)
    weak = scene_of(plan, sized_of(plan))
    assert weak is not None
    assert weak.chargers.engine_w < 0.9 * scene().chargers.engine_w


def test_lasting_is_judged_by_the_days_asked_on_both_sides() -> None:
    plan, sized = powered()
    lasts = forecast(plan, sized, 3).days_planned
    assert lasts is not None
    for asked, verdict in ((lasts * 0.999, "good"), (lasts * 1.001, "look")):
        energy = plan.energy.model_copy(update={"days": asked})
        assert forecast(plan.model_copy(update={"energy": energy}), sized, 3).lasting == verdict


def test_refilling_is_judged_by_what_is_planned_to_be_left() -> None:
    plan, sized = powered(poor_frac=0.0)
    found = forecast(plan, sized, 3)
    lowest = found.courses[-1].lowest_soc
    assert found.refilling == ("good" if lowest >= found.planned_low_soc else "look")
    for share, verdict in ((1 - lowest + 0.01, "good"), (1 - lowest - 0.01, "look")):
        energy = plan.energy.model_copy(update={"usable_frac": min(1.0, max(0.02, share))})
        judged = plan.model_copy(update={"energy": energy})
        assert forecast(judged, sized, 3).refilling == verdict


def one_load(draw: StateDraw, model: BankModel, hours: float = 24.0) -> Scene:
    bank: Any = None
    usage = Usage((Slot(state="a", hours=hours),), [], {"a": draw})
    return Scene(usage, bank, model, Chargers(0, 0, 0, 0, 0, 0, 1, 0, 0), {"a": Step(draw, engine=False, shore=False)})


def lead(peukert: float) -> BankModel:
    """100 Ah, flat at 12 V and without resistance, so that amperes are amperes."""
    return BankModel(
        100.0, (0.0, 0.25, 0.5, 0.75, 1.0), (12.0,) * 5, 0.0, 20.0, 0.8, 0.1, 0.9, peukert, 0.0,
        takes_charge=True, heater_w=0.0,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("amps", "peukert", "hours"), [(5.0, 1.25, 20.0), (20.0, 1.25, 5.0 / 4**0.25), (20.0, 1.0, 5.0)]
)
def test_the_days_empty_lead_by_peukert_s_law(amps: float, peukert: float, hours: float) -> None:
    """W. Peukert 1897 (memory): t = H · (C / (I · H))^k with H 20 hours: 100 Ah at 20 A last 3.54 h for k 1.25."""
    found = one_load(StateDraw(current_a=amps), lead(peukert))
    climate, sun = still(2)
    empty_at = run_days(found, climate, sun, "x").empty_at_h
    assert empty_at is not None
    assert empty_at == pytest.approx(hours, abs=1 / 6)
    alone = days_without_charge(found)
    assert alone is not None
    assert 24 * alone == pytest.approx(hours, rel=1e-6)


@pytest.mark.parametrize("volts", [12, 24])
def test_a_plain_link_gives_what_was_solved_at_either_end_of_its_line(volts: int) -> None:
    """12.0 V and 12.8 V for each 12 V of the bank: the line through both, at 24 V as at 12 V."""
    doc = powered_document()
    doc["nominal_v"] = volts
    for one in doc["parts"]:
        if one["id"] in ("b0", "b1"):
            one.update(chemistry="agm", charge_a=None, discharge_a=None, discharge_short_a=None, capacity_ah=200.0)
        if one["id"] == "b0":
            one["rated_v"] = volts
    doc["parts"] = [one for one in doc["parts"] if not one["id"].startswith(("q", "v"))]
    doc["runs"] = [one for one in doc["runs"] if one["id"] not in ("r21", "r22", "r23", "r24", "r25")]
    doc["parts"].append({"kind": "isolator", "id": "i1", "name": "Link", "tag": "I01"})
    for name, ends in (("r31", ("b0", "i1")), ("r32", ("i1", "u1"))):
        doc["runs"].append({"id": name, "tag": name.upper(), "start": {"part": ends[0]}, "finish": {"part": ends[1]},
                            "length_m": 2.0})  # fmt: skip
    plan = parse_plan(doc)
    sized = sized_of(plan)
    found = scene_of(plan, sized)
    assert found is not None
    for block_v in (12.0, 12.8):
        solved_a = study_charge(plan, sized, "engine", open_v=block_v).into_bank_a
        assert solved_a > 5
        line_a = found.chargers.link_a + found.chargers.link_a_per_v * block_v * volts / 12
        assert line_a == pytest.approx(solved_a, rel=1e-9)


@pytest.mark.parametrize(("hours", "standby_ah"), [(None, 2.0 * 12.0 / 12), (10.0, 10.0 * 12.0 / 12)])
def test_an_inverter_draws_as_long_as_it_is_switched_on(hours: float | None, standby_ah: float) -> None:
    """12 W of its own: for as long as it is on, for the hours of what runs on it where nothing is said."""
    doc = powered_document()
    load = {
        "kind": "load", "id": "l9", "name": "Inverter", "tag": "L09", "device": "inverter", "power_w": 300.0,
        "hours_per_day": 2.0, "inverter": {"continuous_w": 1000.0, "standby_w": 12.0, "standby_hours": hours},
    }  # fmt: skip
    doc["parts"].append(load)
    doc["runs"].append({"id": "r9", "tag": "C09", "start": {"part": "u1"}, "finish": {"part": "l9"}, "length_m": 1.0,
                        "fuse_at_start": {"distance_m": 0.1, "family": "anl"}})  # fmt: skip
    plan = parse_plan(doc)
    lines = {one.name: one for one in usage_of(plan, sized_of(plan)).loads}
    standby = lines["Inverter, switched on"]
    assert standby.ah == pytest.approx(standby_ah * (1 + standby.loss_frac))
    # 300 W of AC at its best, 92 %.
    assert lines["Inverter"].ah / (1 + standby.loss_frac) == pytest.approx(2.0 * 300 / 0.92 / 12, rel=0.01)


def test_what_is_lost_on_the_way_is_drawn_on_top() -> None:
    """A wire that loses 5 % makes a lamp of 24 W take 72 Wh / 0.95 in three hours, and never less than 72 Wh."""
    doc = powered_document()
    next(one for one in doc["runs"] if one["id"] == "r2").update(
        length_m=6.0, wire={"system": "awg", "size": "16", "reason": "test"}
    )
    plan = parse_plan(doc)
    sized = sized_of(plan)
    lamp = next(one for one in usage_of(plan, sized).loads if one.load == "l1")
    lowest_v = min(result.part_v["l1"] for result in sized.states.values() if "l1" in result.load_a)
    assert 11.0 < lowest_v < 11.7
    assert lamp.wh == pytest.approx(72.0 * 12.0 / lowest_v)
    assert lamp.ah > 6.1


def test_a_roof_run_that_loses_takes_from_what_the_sun_gives() -> None:
    """Efficiency 0.92; 25 m of 16 AWG at 36 V and 6.1 A lose about a seventh, a short one next to nothing."""

    def sun_frac(length_m: float, size: str) -> float:
        doc = powered_document()
        next(one for one in doc["runs"] if one["id"] == "r25").update(
            length_m=length_m, wire={"system": "awg", "size": size, "reason": "test"}
        )
        plan = parse_plan(doc)
        found = scene_of(plan, sized_of(plan))
        assert found is not None
        return found.chargers.sun_frac

    assert 0.90 < sun_frac(1.0, "10") < 0.92
    # 2 · 25 m · 13.4 mΩ/m · 6.1 A of 36 V.
    assert sun_frac(25.0, "16") == pytest.approx(0.92 * (1 - 50 * 0.0134 * 6.1 / 36), rel=0.04)


@pytest.mark.parametrize("unknown", [{"power_w": None, "current_a": None}, {"hours_per_day": None}])
def test_a_load_half_known_takes_nothing_of_the_day(unknown: dict[str, Any]) -> None:
    doc = small_document()
    part(doc, "l1").update(unknown)
    plan = parse_plan(doc)
    assert "l1" not in {one.load for one in usage_of(plan, sized_of(plan)).loads}
