"""The cut list: every conductor once, cut lengths by hand, what goes on its ends, negatives that pass switches by."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.build.cut_list import CutList, cut_list
from lucernis.core.build.shopping import shopping
from lucernis.core.harness.ends import shrink_for
from lucernis.core.layout.laid import laid_out
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from tests.core.checks.test_findings import (
    KEYED_RELAY,
    Spoil,
    add,
    base,
    both,
    into,
    named,
    pin_wire,
    set_part,
    set_run,
    wire,
)
from tests.core.checks.test_layout_findings import laid
from tests.helpers import run

Doc = dict[str, Any]


def cut(*spoils: Spoil, doc: Doc | None = None) -> CutList:
    made = base() if doc is None else doc
    both(*spoils)(made)
    return cut_list(parse_plan(made))


def of(found: CutList, tag: str, leg: str) -> list[Any]:
    return [one for one in found.pieces if one.tag == tag and one.leg == leg]


@pytest.mark.parametrize("job", JOBS)
def test_every_conductor_is_cut_once_and_no_copper_is_lost(job: str) -> None:
    """Ways of all pieces come to the lengths of the runs, both legs and conductors side by side counted, with slack."""
    plan = laid_out(demo_plan(job))
    found = cut_list(plan)
    assert len({one.id for one in found.pieces}) == len(found.pieces)
    for one in plan.runs:
        own_m = sum(piece.way_m for piece in found.pieces if piece.run == one.id)
        alone = {"both": 1.0, "positive": 1.0, "series": 1.0, "negative": 0.0}[one.legs] * one.parallel
        assert own_m >= alone * one.length_m - 1e-6
    legs = sum((2 if one.legs == "both" else 1) * one.parallel * one.length_m for one in plan.runs)
    # A coil's negative goes to the nearest bar, and what would have led it home is not laid.
    short_m = sum(2 * one.length_m for one in plan.runs if one.finish.terminal == "coil")
    short_m += sum(one.length_m for one in plan.runs if any(p.kind == "keyed_feed" and p.id == one.finish.part
                                                            for p in plan.parts))  # fmt: skip
    assert legs - short_m - 1e-6 <= sum(piece.way_m for piece in found.pieces) <= 1.05 * legs + 1e-6
    assert sum(one.total_m for one in found.wires) == pytest.approx(sum(piece.cut_m for piece in found.pieces))
    assert all(piece.cut_m > piece.way_m for piece in found.pieces)
    spliced = [end for piece in found.pieces for end in piece.ends if end.what == "butt splice" and end.part_id]
    assert sum(one.count for one in found.ends) == 2 * len(found.pieces) - len(spliced)


def test_a_cut_length_by_hand() -> None:
    """Typed 4.00 m of its own way: 4.20 m with slack; push-ons take 7 mm and 20 mm more each: 4.254, cut to 4.26 m.

    Along the channels tails and slack are in the length: (3.00 + 0.4) · 1.05 = 3.57 m, 3.624 with the ends: 3.63 m.
    """
    (typed,) = of(cut(), "C03", "+")
    assert (round(typed.way_m, 3), typed.cut_m) == (4.2, 4.26)
    (followed,) = of(cut(doc=laid()), "C03", "+")
    assert (round(followed.way_m, 3), followed.cut_m, followed.channels) == (3.57, 3.63, ("c1", "c2"))


def test_a_fuse_in_the_wire_cuts_the_positive_in_two_and_a_way_does_not() -> None:
    bolted = set_run("r3", start={"part": "s1"}, fuse_at_start={"distance_m": 0.1, "family": "anl"})
    near, far = of(cut(bolted), "C03", "+")
    assert (near.which, far.which) == ("1 of 2", "2 of 2")
    assert (round(near.way_m, 3), round(far.way_m, 3)) == (0.1, 4.1)
    assert near.finish.at == far.start.at == f"holder of ANL strip {35:g} A"
    assert "M8" in far.start.fits
    assert len(of(cut(bolted), "C03", "−")) == 1
    assert len(of(cut(), "C03", "+")) == 1
    assert len(of(cut(), "C01", "+")) == 1, "a fuse on the post itself has no wire before it"


@pytest.mark.parametrize("end", ["start", "finish"])
def test_a_fuse_is_cut_in_at_its_own_end_and_its_holder_bought(end: str) -> None:
    """A tenth of a metre from the end it guards, whichever that is; the long piece is on the other side."""
    fuses = {"fuse_at_start": None, f"fuse_at_{end}": {"distance_m": 0.1, "family": "anl"}}
    fused = set_run("r3", start={"part": "s1"}, **fuses)
    made = base()
    fused(made)
    plan = parse_plan(made)
    first, last = of(cut_list(plan), "C03", "+")
    short, long = (first, last) if end == "start" else (last, first)
    assert (round(short.way_m, 3), round(long.way_m, 3)) == (0.1, 4.1)
    assert first.finish.at.startswith("holder of ANL strip")
    assert last.start.at == first.finish.at
    without = base()
    set_run("r3", start={"part": "s1"}, fuse_at_start=None)(without)
    bought = [
        sum(one.needed for one in shopping(found, cut_list(found), {}) if one.key.startswith("holder:anl"))
        for found in (plan, parse_plan(without))
    ]
    assert bought[0] == bought[1] + 1


def test_a_negative_passes_a_switch_by_in_one_piece() -> None:
    switched = into("r3", named("switch", "s2"))
    found = cut(switched)
    assert [one.tag for one in found.pieces if "C20" in one.tag and one.leg == "+"] == ["C20"]
    (negative,) = [one for one in found.pieces if one.tag == "C03/C20"]
    assert negative.leg == "−"
    # (4.00 + 0.50) · 1.05
    assert round(negative.way_m, 3) == 4.725
    assert (negative.start.part, negative.finish.part) == ("Block", "Pump")
    # Two pairs behind the switch: the negatives meet beside it.
    branched = cut(switched, add(named("load", "l9", power_w=5.0, hours_per_day=1), wire("r21", "s2", "l9", 1.0)))
    assert [one.tag for one in branched.pieces if one.leg == "−" and one.run in ("r3", "r20", "r21")] == [
        "C03",
        "C20",
        "C21",
    ]
    assert of(branched, "C03", "−")[0].finish.at.startswith("beside it")


def test_a_coil_has_both_its_ends_and_the_contact_passes_the_negative_by() -> None:
    found = cut(KEYED_RELAY)
    (coil,) = of(found, "C21/C22", "−")
    assert coil.finish.at == "coil −"
    assert coil.finish.fits.startswith("push-on")
    assert [one.tag for one in found.pieces if one.leg == "−" and one.run in ("r3", "r20")] == ["C03/C20"]


def test_a_switch_that_reverses_has_both_poles() -> None:
    found = cut(into("r3", named("switch", "s2", form="reversing")))
    assert {one.tag for one in found.pieces if one.leg == "−" and one.run in ("r3", "r20")} == {"C03", "C20"}
    (onward,) = of(found, "C20", "−")
    assert (onward.start.at, onward.finish.at) == ("out −", "−")


def test_conductors_side_by_side_are_pieces_each() -> None:
    found = cut(set_run("r1", parallel=2), pin_wire("r1", "6"))
    assert {one.leg for one in found.pieces if one.tag.startswith("C01")} == {"+1", "+2", "−1", "−2"}


def test_what_nobody_measured_is_not_to_be_cut() -> None:
    found = cut(set_run("r2", length_guessed=True))
    assert found.guessed == ["C02"]
    assert all(one.guessed is (one.tag == "C02") for one in found.pieces)
    assert of(found, "C02", "+")[0].way_m == pytest.approx(run(base(), "r2")["length_m"])


@pytest.mark.parametrize(("size", "collar"), [("16", "red"), ("14", "blue"), ("12", "yellow"), ("10", "yellow")])
def test_push_ons_have_the_colour_of_their_size(size: str, collar: str) -> None:
    """DIN 46245, from memory: red to 1.5 mm², blue to 2.5 mm², yellow to 6 mm²."""
    (piece,) = of(cut(pin_wire("r3", size)), "C03", "+")
    assert piece.finish.fits == f"push-on 6.3 mm, {collar}"


def test_lugs_are_named_by_wire_and_stud() -> None:
    found = cut(set_part("l2", current_a=60.0), pin_wire("r1", "2"), pin_wire("r8", "2"))
    (main,) = of(found, "C01", "+")
    assert (main.start.fits, main.finish.fits) == ("lug 2 AWG × M8", "lug 2 AWG × M10")
    assert main.start.shrink_before_mm is not None
    totals = {one.what: one.count for one in found.ends}
    # In and out of the switch; the negative passes it by.
    assert totals["lug 2 AWG × M10"] == 2


@pytest.mark.parametrize(("outside_mm", "tube"), [
    (2.4, (3.2, 1.0)), (2.5, (4.8, 1.6)), (7.0, (9.5, 3.2)), (7.4, (12.7, 4.2)),
    (29.9, (39.0, 13.0)), (31.0, None)])  # fmt: skip
def test_tube_goes_over_the_barrel_and_grips_the_wire(outside_mm: float, tube: tuple[float, float] | None) -> None:
    """A third thicker than the wire on the way over; shrunk it is thinner than the wire."""
    assert shrink_for(outside_mm) == tube
