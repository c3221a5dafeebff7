"""The proving list: what it holds, in which order; what a reading of it means; the board; panels by the weather."""

from __future__ import annotations

import math

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.prove.board import reading_board
from lucernis.core.prove.frame import frame
from lucernis.core.prove.judge import judge_line
from lucernis.core.prove.panels import panel_bands
from lucernis.core.prove.proving import SECTIONS, Proving, proving
from lucernis.core.prove.proving_line import Line
from lucernis.core.prove.vehicle import Vehicle
from lucernis.core.prove.words import small, span_text
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Load, Panel
from tests.helpers import small_document


def lines(name: str) -> dict[str, Line]:
    return {one.id: one for one in proving(demo_plan(name)).lines}


@pytest.mark.parametrize("name", JOBS)
def test_the_list_goes_from_dead_to_warm_and_every_line_can_be_made(name: str) -> None:
    found: Proving = proving(demo_plan(name))
    order = [key for key, _ in SECTIONS]
    places = [order.index(one.section) for one in found.lines]
    assert places == sorted(places)
    assert len({one.id for one in found.lines}) == len(found.lines)
    for one in found.lines:
        assert one.situation in found.states
        assert found.states[one.situation].to_make
        assert one.label
        assert one.means
        assert one.band
        assert one.low <= one.value
        assert one.high is None or one.value <= one.high
    # What is read with nothing live is ohms, and nothing else is.
    assert all((one.quantity == "ohms") == (one.section == "dead") for one in found.lines)


@pytest.mark.parametrize("name", ["heron", "tern"])
def test_every_device_is_read_at_rest_and_while_it_runs_and_its_return_is(name: str) -> None:
    plan = demo_plan(name)
    by_section: dict[str, set[str]] = {}
    for one in proving(plan).lines:
        by_section.setdefault(one.section, set()).add(one.part)
    for part in plan.parts:
        if isinstance(part, Load):
            assert part.id in by_section["fuses"] | by_section["keyed"]
            assert part.id in by_section["loads"]
            assert part.id in by_section["dead"]


def test_the_bond_the_link_and_the_shunt_are_in_it() -> None:
    heron, tern = lines("heron"), lines("tern")
    assert heron["ohms:-g1~-u1@dead"].label.startswith("Bond C26")
    assert any(one.label.startswith("Across Measuring shunt") for one in heron.values())
    assert any(one.label.startswith("Across Voltage-sensing link") for one in tern.values())
    # Both posts with the engine off, both with it on.
    assert {"volts:+b0~-b0@rest", "volts:+b1~-b1@rest", "volts:+b0~-b0@engine", "volts:+b1~-b1@engine"} <= set(tern)


def test_keyed_feeds_are_read_dead_and_live_and_the_isolated_side_is_dead() -> None:
    heron = lines("heron")
    off, on = heron["volts:+l18~-l18@rest"], heron["volts:+l18~-l18@key"]
    assert off.floating
    assert not on.floating
    assert on.low > 12
    assert heron["volts:+u1~-u1@isolated"].floating


def test_a_small_system_has_no_section_it_has_nothing_for() -> None:
    found = proving(parse_plan(small_document()))
    keys = {key for key, _ in found.sections}
    assert "sun" not in keys
    assert "shore" not in keys
    assert {"dead", "fuses", "loads"} <= keys


@pytest.mark.parametrize(
    ("line", "typed", "verdict", "told"),
    [
        ("volts:+l7~-l7@load:l7", "12.5", "in", "12.50 V, as expected"),
        ("volts:+l7~-l7@load:l7", "12.1", "out", "less than"),
        ("volts:+l7~-l7@load:l7", "12100", "unread", "no hand meter shows that"),
        ("volts:+l7~-l7@load:l7", "12500", "unit", "was it mV"),
        ("volts:+l7~-l7@load:l7", "-12.5", "out", "other way round"),
        ("amps:r11:p@load:l7", "-6.6", "in", "6.60 A"),
        ("amps:r11:p@load:l7", "3.1", "out", "less than"),
        ("volts:+f5~-f5@rest", "0.4", "in", "a lamp across it shows none"),
        ("volts:+f5~-f5@rest", "13.2", "out", "more than"),
        ("ohms:+u1~-u1@dead", "OL", "in", "open, as expected"),
        ("ohms:+u1~-u1@dead", "2 MΩ", "in", "2 MΩ"),
        ("ohms:+u1~-u1@dead", "3", "out", "less than"),
        ("ohms:-g1~-u1@dead", "0.1", "in", "as expected"),
        ("ohms:-g1~-u1@dead", "0.2", "out", "more than"),
        ("ohms:-g1~-u1@dead", "12 V", "unit", "not in Ω"),
        ("ohms:-g1~-u1@dead", "many", "unread", "not a number"),
    ],
)  # fmt: skip
def test_what_a_reading_of_the_list_means(line: str, typed: str, verdict: str, told: str) -> None:
    found = judge_line(lines("heron")[line], typed)
    assert found.verdict == verdict, found.text
    assert told in found.text


def test_leads_are_taken_off_ohms_by_the_trades_own_numbers() -> None:
    """Leads 1.2, bond 1.2: good; bond 1.7: bad. Common practice, no source."""
    bond = lines("heron")["ohms:-g1~-u1@dead"]
    assert judge_line(bond, "1.2", leads_ohm=1.2).verdict == "in"
    bad = judge_line(bond, "1.7", leads_ohm=1.2)
    assert bad.verdict == "out"
    assert bad.value == pytest.approx(0.5)
    assert judge_line(bond, "0.9", leads_ohm=1.2).verdict == "unread"


def test_what_is_lost_in_a_stretch_is_told_in_ohms() -> None:
    line = next(one for one in lines("heron").values() if one.section == "most" and one.label == "C01 +, end to end")
    assert line.amps == pytest.approx(114.4, rel=0.02)
    found = judge_line(line, "0.21")
    assert found.verdict == "out"
    # 0.21 V at 114 A.
    assert "1.84 mΩ instead of 0.46 mΩ" in found.text.replace("0.462", "0.46")
    # A meter that was left on millivolts.
    assert judge_line(line, "52").verdict == "unit"
    assert judge_line(line, "52 mV").verdict == "in"


def test_typed_again_in_the_unit_that_was_meant_it_fits() -> None:
    line = next(one for one in lines("heron").values() if one.label == "C01 +, end to end")
    asked = judge_line(line, "52")
    assert asked.meant == "52 mV"
    assert judge_line(line, asked.meant).verdict == "in"


def test_the_board_says_what_is_read_and_dead_where_no_battery_reaches() -> None:
    plan = demo_plan("heron")
    report = evaluate(plan, with_working=False)
    rows = {one.label: one for one in reading_board(plan, report.nodes)}
    column = next(k for k, state in enumerate(plan.states) if state.id == "off")
    assert rows["Locker busbars"].cells[column].text == "dead"
    bank = rows["House bank"].cells[column]
    # Half to full by chemistry: 13.15 to 13.50 V.
    assert bank.low_v is not None
    assert bank.high_v is not None
    assert bank.low_v < 13.15 < 13.5 < bank.high_v
    driving = next(k for k, state in enumerate(plan.states) if state.id == "driving")
    cell = rows["Starter battery"].cells[driving]
    assert cell.value_v == pytest.approx(14.2, abs=0.15)


def test_a_point_without_a_negative_of_its_own_is_read_against_its_battery() -> None:
    """Tern's tailgate plug carries the positive alone; live, it reads like what feeds it."""
    plan = demo_plan("tern")
    report = evaluate(plan, with_working=False)
    rows = {one.id: one for one in reading_board(plan, report.nodes)}
    plug, block = rows["j1"].cells[0], rows["f1"].cells[0]
    assert plug.value_v is not None
    assert block.value_v is not None
    assert block.value_v - 0.6 < plug.value_v <= block.value_v + 0.05


def test_panels_by_the_weather() -> None:
    """22 V and 6 A panels, two in series: bright sun, warm or cold cells; a hundredth of the light takes some volts."""
    panel = Panel(id="p", tag="P01", name="Panels", power_w=100, mp_v=18, open_v=22, short_a=6, series=2)
    (_, _, _, volts), (_, _, _, amps) = panel_bands(panel)
    for low, high in volts.values():
        assert 0.75 * 44 < low < high < 1.2 * 44
    assert volts["bright"][0] < 44 < volts["bright"][1]
    assert amps["bright"][0] > amps["grey"][1]
    assert amps["bright"][1] == pytest.approx(6 * 1.05 * 1.04)
    cold = Panel(id="p", tag="P01", name="Panels", power_w=100, mp_v=18, open_v=22, short_a=6, open_frac_per_k=-0.004)
    # More volts in the cold with the larger coefficient.
    assert panel_bands(cold)[0][3]["grey"][1] > volts["grey"][1] / 2


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [(0.0213, "V", "21.3 mV"), (13.2, "V", "13.20 V"), (0, "V", "0.00 V"), (-0.002, "V", "-2 mV"), (0.04, "Ω", "40 mΩ"),
     (2.5e6, "Ω", "2.5 MΩ"), (15000, "Ω", "15 kΩ"), (math.inf, "Ω", "open"),
     (114.4, "A", "114.4 A"), (2e-5, "V", "0 V")],
)  # fmt: skip
def test_figures_are_said_as_a_meter_shows_them(value: float, unit: str, text: str) -> None:
    assert small(value, unit) == text


@pytest.mark.parametrize(
    ("low", "high", "unit", "text"),
    [(13.02, 13.59, "V", "13.02 to 13.59 V"), (0.041, 0.0647, "V", "41 to 64.7 mV"), (0, 0.12, "Ω", "at most 0.12 Ω"),
     (1e4, math.inf, "Ω", "at least 10 kΩ"), (-1.4, 2.2, "V", "at most 2.20 V"),
     (0, 21.8, "K", "at most 21.80 K")],
)  # fmt: skip
def test_bands_are_said_short(low: float, high: float, unit: str, text: str) -> None:
    assert span_text(low, high, unit) == text


def test_charging_copper_is_read_where_most_flows_in_it() -> None:
    """A joint with 40 mΩ too much in C33 takes 80 W while the engine charges, and hides in no other line."""
    found = lines("heron")
    by_label = {one.label: one for one in found.values() if one.section in ("engine", "shore", "sun")}
    assert {"C33 +, end to end", "C34 −, end to end", "C37 +, end to end", "C36 +, end to end"} <= by_label.keys()
    # More flows in the main cable under load than while it is charged.
    assert "C01 +, end to end" not in by_label
    line = by_label["C33 +, end to end"]
    assert line.section == "engine"
    made = frame(demo_plan("heron"))
    vehicle = Vehicle(made.plan, ("c33 joint 40 mohm",), noise=False)
    said = judge_line(line, f"{vehicle.truth(made.reading(line.reading), 'engine')[0]:.4f} V")
    assert said.verdict == "out"
    assert "lost in C33 +" in said.text
    sound = Vehicle(made.plan, (), noise=False)
    assert judge_line(line, f"{sound.truth(made.reading(line.reading), 'engine')[0]:.4f} V").verdict == "in"


def test_a_charger_with_its_negative_in_a_run_of_its_own_has_a_list() -> None:
    """Such a run has no positive for a clamp: proving, Log and certificate answered 422."""
    document = plan_document(demo_plan("heron"))
    run = next(one for one in document["runs"] if one["tag"] == "C37")
    charger = next(one for one in document["parts"] if one["name"] == "Mains charger")
    run["legs"] = "positive"
    document["runs"].append(
        run
        | {"id": "r99", "tag": "C99", "legs": "negative", "fuse_at_start": None, "fuse_at_finish": None, "wire": None}
    )
    found = proving(parse_plan(document))
    gives = [one for one in found.lines if one.section == "shore" and one.quantity == "amps"]
    assert [one.run for one in gives] == [run["id"]]
    assert any(one.part == charger["id"] or "C99 −" in one.label for one in found.lines)
