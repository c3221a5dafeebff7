"""What a wire ends in, and the thickest that goes in: typical figures, a maker's word, a person's choice."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.sizing.ends import fitting, fitting_of, holder_takes
from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.joints import joint_kind, joint_ohm
from lucernis.plan.document import parse_plan
from lucernis.plan.model import End
from lucernis.plan.parts import Busbar, FuseBlock, Load
from tests.core.checks.test_findings import base
from tests.helpers import every_finding, part, run, small_document

LAMP = Load(id="l1", name="Lamp", tag="L01", power_w=10.0)
BLOCK = FuseBlock(id="f1", name="Block", tag="F01", ways=6)


def awg(size: str) -> Any:
    return wire_size("awg", size)


@pytest.mark.parametrize(
    ("current_a", "size", "joint"),
    [(20.0, "12", "push_on"), (20.01, "12", "clamp"), (60.0, "10", "clamp"), (60.0, "4", "lug_large"),
     (60.1, "10", "lug_large"), (120.0, "2", "lug_large")],
)  # fmt: skip
def test_a_device_ends_in_what_its_current_asks(current_a: float, size: str, joint: str) -> None:
    assert fitting(LAMP, End(part="l1"), "finish", current_a).joint(awg(size)) == joint


def test_a_push_on_ends_at_ten_awg() -> None:
    on_lamp = fitting(LAMP, End(part="l1"), "finish", 5.0)
    assert on_lamp.takes(awg("10"))
    assert not on_lamp.takes(awg("8"))
    assert on_lamp.typical


@pytest.mark.parametrize(("family", "takes", "refuses"), [("blade_regular", "10", "8"), ("blade_maxi", "6", "4"),
                                                          ("bolt_m5", "3/0", "4/0")])  # fmt: skip
def test_a_way_takes_what_its_fuses_are_made_for(family: Any, takes: str, refuses: str) -> None:
    block = BLOCK.model_copy(update={"family": family})
    way = fitting(block, End(part="f1", way=1), "start", 5.0)
    assert way.takes(awg(takes))
    assert not way.takes(awg(refuses))


def test_a_negative_goes_to_the_bar_of_its_block() -> None:
    block = BLOCK.model_copy(update={"family": "bolt_m5"})
    way = fitting(block, End(part="f1", way=1), "start", 5.0, positive=False)
    assert "negative bar" in way.label


def test_a_maker_s_word_wins_both_ways() -> None:
    for named, takes in (({"system": "awg", "size": "8"}, True), ({"system": "awg", "size": "12"}, False)):
        lamp = Load.model_validate(LAMP.model_dump() | {"maker": {"greatest": named}})
        found = fitting(lamp, End(part="l1"), "finish", 5.0)
        assert found.takes(awg("8")) is takes
        assert (found.typical, found.greatest_label) == (False, f"{named['size']} AWG")


def test_a_joint_set_on_an_end_is_taken_with_its_own_limit() -> None:
    bar = Busbar(id="u1", name="Bar", tag="U01")
    assert fitting(bar, End(part="u1"), "start", 5.0).joint(awg("2/0")) == "lug_large"
    spliced = fitting(bar, End(part="u1", joint="lever"), "start", 5.0)
    assert spliced.joint(awg("14")) == "lever"
    assert not spliced.takes(awg("2/0"))


@pytest.mark.parametrize(("kind", "size", "low_mohm", "high_mohm"), [
    ("lug_large", "2/0", 0.02, 0.04), ("lug_small", "6", 0.05, 0.11), ("push_on", "16", 0.5, 1.0)])  # fmt: skip
def test_a_sound_joint_resists_what_a_piece_of_its_wire_does(
    kind: str, size: str, low_mohm: float, high_mohm: float
) -> None:
    """Common practice, no source: the barrel as its own wire, 30 to 50 mm of it, and a contact."""
    assert low_mohm <= 1000 * joint_ohm(kind, awg(size)) <= high_mohm


def test_a_joint_resists_less_on_thicker_wire_and_push_ons_have_limits() -> None:
    found = [joint_ohm("lug_small", awg(size)) for size in ("16", "10", "6", "2")]
    assert found == sorted(found, reverse=True)
    assert (joint_kind("push_on").greatest_mm2, joint_kind("push_on").greatest_a) == (6.0, 20.0)


@pytest.mark.parametrize(("family", "size", "takes"), [
    ("blade_regular", "10", True), ("blade_regular", "8", False), ("blade_maxi", "6", True), ("blade_maxi", "4", False),
    ("class_t", "4/0", True), ("breaker_auto", "10", True), ("breaker_auto", "8", False)])  # fmt: skip
def test_in_line_holders_have_a_greatest_wire(family: Any, size: str, takes: bool) -> None:
    assert holder_takes(family, awg(size)) is takes


def test_a_rating_beyond_every_row_takes_the_last() -> None:
    assert fitting_of("load", 1e6) is not fitting_of("load", 60.0)
    assert fitting_of("relay", None).greatest_mm2 == 6.0


def test_a_pin_too_thick_for_its_terminal_is_a_finding_and_one_that_fits_is_not() -> None:
    def found(size: str) -> set[tuple[str, str]]:
        doc = small_document()
        run(doc, "r2").update(wire={"system": "awg", "size": size, "reason": "there"})
        return {(code, subject) for code, subject in every_finding(evaluate(parse_plan(doc)).findings)}

    assert ("wire-above-terminal", "r2") not in found("10")
    assert ("wire-above-terminal", "r2") in found("8")


def test_the_choice_never_exceeds_a_terminal_and_names_what_would_have_to_change() -> None:
    doc = small_document()
    run(doc, "r3").update(length_m=30.0)
    part(doc, "l2").update(sensitive=True, keyed=False)
    report = evaluate(parse_plan(doc))
    assert next(one for one in report.runs if one.id == "r3").wire.area_mm2 <= awg("10").area_mm2 * 1.001
    found = [one for one in report.findings if one.subject in ("r3", "l2") and one.severity != "look"]
    assert found
    assert all(one.asked for one in found)


@pytest.mark.parametrize("length_m", [1.0, 14.0])
def test_a_wire_its_holder_would_not_take_gets_a_fuse_with_a_larger_one(length_m: float) -> None:
    """A small blade's holder in the pump's own run: near it does; far off the wire outgrows it, and another comes."""
    doc = base()
    part(doc, "l2").update(current_a=12.0, sensitive=True, keyed=False)
    run(doc, "r3").update(start={"part": "s1"}, length_m=length_m, fuse_at_start={"distance_m": 0.1})
    part(doc, "l2")["maker"] = {"greatest": {"system": "awg", "size": "2"}}
    report = evaluate(parse_plan(doc))
    pump = next(one for one in report.runs if one.id == "r3")
    assert pump.fuse is not None
    assert (pump.wire.area_mm2 > awg("10").area_mm2 * 1.01) is (length_m > 10)
    assert holder_takes(pump.fuse.family, awg(pump.wire.label.split()[0]))
    assert holder_takes(pump.fuse.family, awg("8")) is (length_m > 10)
