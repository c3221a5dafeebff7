"""What is known of the day: measured batteries and the sky narrow bands, and nothing that is out comes in by it."""

from __future__ import annotations

import pytest

from lucernis.core.prove.day import Day, read_day
from lucernis.core.prove.expect import foresee
from lucernis.core.prove.frame import frame
from lucernis.core.prove.living import live
from lucernis.core.prove.panels import WEATHERS, light_of
from lucernis.core.prove.proving import proving
from lucernis.demo import demo_plan
from lucernis.errors import NotUnderstood


def test_a_measured_battery_narrows_the_volts_of_small_circuits() -> None:
    plan = demo_plan("tern")
    plain = {line.id: line for line in proving(plan).lines}
    today = {line.id: line for line in proving(plan, read_day(plan, "b1:12.62", "")).lines}
    assert set(plain) == set(today)
    some = [one for one in plain.values() if one.section == "loads" and one.unit == "V" and one.situation == "load:l2"]
    assert some
    for one in some:
        now = today[one.id]
        assert now.high is not None
        assert one.high is not None
        # A joint of 150 mΩ at 0.8 A takes 0.12 V: wider than that no band may be.
        assert now.high - now.low < 0.16 < one.high - one.low
        assert now.as_read == one.as_read


def test_the_sky_says_what_panels_give() -> None:
    plan = demo_plan("heron")

    def given(sky: str) -> tuple[float, float]:
        line = next(one for one in proving(plan, Day((), sky)).lines if one.reading == "amps:r35:p")
        assert line.high is not None
        return line.low, line.high

    (any_low, any_high), spans = given(""), {sky: given(sky) for sky in WEATHERS}
    assert any_low < 3.0
    assert spans["bright"][0] > 20.0 > spans["grey"][1]
    assert all(any_low <= low and high <= any_high * 1.05 for low, high in spans.values())
    assert light_of("bright")[0] > light_of("hazy")[0] > light_of("grey")[0]
    skies = {one.label.rsplit(", ", 1)[1] for one in proving(plan, Day((), "grey")).lines if one.situation == "panel"}
    assert skies == {"grey sky"}


def test_panels_out_of_the_sun_are_not_dead_in_daylight() -> None:
    made = frame(demo_plan("heron"))
    reading = made.volts("+p1", "-p1", part="p1")
    foreseen = foresee(live(made, made.situations["rest"]), [reading])
    assert foreseen.low[0] < 1.0
    assert foreseen.high[0] > 30.0


def test_no_battery_is_charged_beyond_its_chemistry_unremarked() -> None:
    for line in proving(demo_plan("tern")).lines:
        if line.section == "engine" and "post to post" in line.label:
            assert line.high is not None
            assert line.high <= 14.71


@pytest.mark.parametrize(
    ("measured", "sky"),
    [("b9:12.6", ""), ("b1:abc", ""), ("b1:5.9", ""), ("b1:16.3", ""), ("b1", ""), ("b1:nan", ""), ("", "night")],
)
def test_a_day_that_is_none_is_refused_by_name(measured: str, sky: str) -> None:
    with pytest.raises(NotUnderstood) as found:
        read_day(demo_plan("tern"), measured, sky)
    assert found.value.field == ("sky" if sky else "measured")


def test_limits_of_a_measured_battery() -> None:
    plan = demo_plan("tern")
    assert read_day(plan, "b1:6.0,b0:16.2", "").measured_v == (("b0", 16.2), ("b1", 6.0))


def test_what_is_watched_while_the_engine_starts_and_stops() -> None:
    lines = {line.id: line for line in proving(demo_plan("tern")).lines}
    assert (lines["crank:b0"].low, lines["crank:b0"].high) == (9.6, 12.2)
    assert lines["closes:i1"].low == pytest.approx(13.1)
    assert lines["opens:i1"].high == pytest.approx(13.0)
    running = next(line for line in lines.values() if line.reading == "volts:+l6~-l6" and line.situation == "load:l6")
    assert lines["start:l6"].low < running.low
    # A van whose engine feeds nothing has none of these.
    assert not any(line.id.startswith(("crank", "closes")) for line in proving(demo_plan("plover")).lines)


def test_every_leg_to_a_device_is_read_once_while_it_runs() -> None:
    lines = [line for line in proving(demo_plan("heron")).lines if line.section == "branches"]
    assert len({line.id for line in lines}) == len(lines)
    assert {line.label for line in lines} >= {"C11 +, end to end", "C11 −, end to end"}
    assert all(line.situation.startswith("load:") for line in lines)


def test_a_pin_that_carries_one_leg_is_not_asked_for_polarity() -> None:
    """Tern's tailgate plug carries the positive alone: between it and nothing a meter drifts."""
    assert not [one for one in proving(demo_plan("tern")).lines if one.part == "j1"]
    assert not [one for one in proving(demo_plan("tern")).lines if one.section == "fuses" and one.floating]
