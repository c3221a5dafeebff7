"""The harness by hand: ends of fuses, ways of pieces, joints, coils, strip lengths, studs of a bar."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.shopping import shopping
from lucernis.core.circuit.topology import trace
from lucernis.core.harness.as_fed import as_fed
from lucernis.core.harness.ends import end_of
from lucernis.core.harness.harness import Harness, harness_of
from lucernis.core.harness.holders import holder_stud
from lucernis.core.layout.bundles import counts
from lucernis.core.layout.laid import layout_of
from lucernis.core.wire.copper import wire_size
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from tests.core.checks.test_findings import KEYED_RELAY, add, base, both, into, named, pin_wire, set_run, wire
from tests.core.checks.test_layout_findings import laid

Doc = dict[str, Any]


def made(*spoils: Any, doc: Doc | None = None) -> Harness:
    document = base() if doc is None else doc
    both(*spoils)(document)
    return harness_of(parse_plan(document))


@pytest.mark.parametrize(("tag", "part", "place"), [
    ("C34", "Locker busbars", "Battery locker"), ("C35", "Locker busbars", "Battery locker"),
    ("C37", "Locker busbars", "Battery locker"), ("C33", "Starter battery", "Engine bay")])  # fmt: skip
def test_a_chargers_fuse_stands_where_the_battery_is(tag: str, part: str, place: str) -> None:
    (holder,) = [one for one in harness_of(demo_plan("heron")).in_line if one.tag == tag]
    assert (holder.part_name, holder.place, holder.distance_m) == (part, place, 0.1)
    pieces = [piece for piece in harness_of(demo_plan("heron")).pieces if piece.tag == tag and piece.leg == "+"]
    assert pieces[0].start.part == part
    assert round(pieces[0].way_m, 3) == 0.1


@pytest.mark.parametrize("name", JOBS)
def test_every_run_begins_at_the_end_that_feeds_it_and_twice_changes_nothing(name: str) -> None:
    plan = demo_plan(name)
    topology = trace(plan)
    fed, turned = as_fed(plan, topology)
    for run in fed.runs:
        if run.id in topology.start_of:
            assert topology.start_of[run.id].partition(":")[0] == run.start.part
    again, more = as_fed(fed, trace(fed))
    assert more == frozenset()
    assert [run.start.part for run in again.runs] == [run.start.part for run in fed.runs]
    assert len(turned) == {"heron": 3, "tern": 1, "plover": 0, "plover_mended": 2}[name]


def test_the_stub_before_a_holder_lies_in_no_channel_and_the_rest_in_all_of_them() -> None:
    harness = harness_of(demo_plan("heron"))
    stub, rest = [piece for piece in harness.pieces if piece.tag == "C33" and piece.leg == "+"]
    assert stub.channels == ()
    assert rest.channels
    for channel in rest.channels:
        held = [piece.id for piece in harness.in_channel[channel]]
        assert rest.id in held
        assert stub.id not in held


def test_a_length_pinned_along_channels_gets_slack_and_one_that_follows_has_it() -> None:
    """Pinned 4.00 m of tape: 4.20 m are laid. Along the channels 3.57 m have tails and slack already."""
    doc = laid()
    (followed,) = [piece for piece in made(doc=doc).pieces if piece.tag == "C03" and piece.leg == "+"]
    assert round(followed.way_m, 3) == 3.57
    doc = laid()
    set_run("r3", length_m=4.0)(doc)
    next(run for run in doc["runs"] if run["id"] == "r3")["way"]["length_pinned"] = True
    (pinned,) = [piece for piece in made(doc=doc).pieces if piece.tag == "C03" and piece.leg == "+"]
    assert round(pinned.way_m, 3) == 4.2


def test_a_wire_that_comes_back_through_a_channel_lies_in_it_twice() -> None:
    doc = laid()
    run = next(one for one in doc["runs"] if one["id"] == "r3")
    run["way"] = {"use": ["c1", "c2", "c2", "c2"]}
    plan = parse_plan(doc)
    layout = layout_of(plan)
    assert layout.routes["r3"].channels.count("c2") == 3
    together = counts(plan, layout.lying, layout.routes)
    assert together["c2"] >= 6, "both legs, three times"
    held = [piece for piece in harness_of(plan).in_channel["c2"] if piece.run == "r3" and piece.leg == "+"]
    assert len(held) == 3


def test_a_coil_goes_home_to_the_nearest_bar_and_not_along_its_positive() -> None:
    harness = harness_of(demo_plan("heron"))
    (home,) = [piece for piece in harness.pieces if piece.tag == "C30" and piece.leg == "−"]
    assert (home.start.place, home.finish.at, home.way_m) == ("Rear bed", "coil −", 0.5)
    assert home.start.at == "negative bar"
    # Where no place is known nothing is nearer than where it comes from.
    (along,) = [piece for piece in made(KEYED_RELAY).pieces if "coil −" in (piece.start.at, piece.finish.at)]
    assert along.way_m > 0.5


def _lamp(number: int) -> Any:
    return add(
        named("load", f"l9{number}", power_w=5.0, hours_per_day=1), wire(f"r2{number + 1}", "s2", f"l9{number}", 1.0)
    )


@pytest.mark.parametrize(("spoils", "key"), [
    ((_lamp(0),), "splice:14 AWG"), ((_lamp(0), _lamp(1)), "stud:M6"),
    ((pin_wire("r3", "6"),), "stud:M8"), ((pin_wire("r3", "6"), pin_wire("r20", "4")), "stud:M8"),
    ((pin_wire("r3", "14"), pin_wire("r20", "12")), "splice:14 AWG")])  # fmt: skip
def test_negatives_beside_a_switch_meet_in_a_splice_or_on_a_stud(spoils: Any, key: str) -> None:
    """Three thin ones and two of about one size in a splice; four, 6 beside 14 AWG, and what is thicker than 6 AWG on a
    stud. Common practice, no source."""
    found = made(into("r3", named("switch", "s2")), *spoils)
    assert [one.key for one in found.joints if one.part == "s2" and one.key != "tab"] == [key]


@pytest.mark.parametrize(("distance_m", "length_m", "at_m"), [
    (0.0, 4.0, 0.05), (0.1, 4.0, 0.1), (4.0, 4.0, 3.95), (0.08, 0.08, 0.04), (0.0, 0.06, 0.03)])  # fmt: skip
def test_a_holder_in_the_wire_has_wire_on_both_its_sides(distance_m: float, length_m: float, at_m: float) -> None:
    """5 cm at least before and behind it, and the middle of what is shorter: practice."""
    bolted = set_run(
        "r3", start={"part": "s1"}, length_m=length_m, fuse_at_start={"distance_m": distance_m, "family": "anl"}
    )
    (holder,) = [one for one in made(bolted).in_line if one.run == "r3"]
    assert holder.distance_m == pytest.approx(at_m)


def test_two_holders_in_one_short_wire_stand_apart_in_their_order() -> None:
    fuse = {"distance_m": 0.45, "family": "anl"}
    doc = base()
    doc["parts"].append({"kind": "battery", "id": "b2", "name": "Second", "tag": "B02"})
    doc["runs"].append(wire("r9", "b1", "b2", 0.9, planned_a=40.0, fuse_at_start=fuse, fuse_at_finish=fuse))
    pieces = [one for one in harness_of(parse_plan(doc)).pieces if one.run == "r9" and one.leg == "+"]
    assert [round(one.way_m, 3) for one in pieces] == [0.315, 0.315, 0.315]
    assert [one.start.holder for one in pieces] == ["", "r9", "r9:far"]


def test_leads_name_the_nearest_body_bolt_and_the_key_whatever_stands_first() -> None:
    plan = demo_plan("heron")
    leads = {one.id: (one.fro, one.to) for one in harness_of(plan).leads}
    other = plan.model_copy(update={"parts": tuple(reversed(plan.parts))})
    assert {one.id: (one.fro, one.to) for one in harness_of(other).leads} == leads
    assert leads["sense:q1"] == ("Key sense", "DC-DC charger")
    assert leads["case:l11"] == ("Mains inverter", "Body bond")


def test_a_splice_is_bought_once_for_each_leg_and_not_as_a_part_besides() -> None:
    doc = base()
    doc["parts"] += [named("joint", "j9", form="splice"), named("load", "l90", power_w=5.0, hours_per_day=1)]
    doc["runs"] += [
        wire("r90", {"part": "f1", "way": 6}, "j9", 1.0, fuse_at_start={}), wire("r91", "j9", "l90", 1.0),
    ]  # fmt: skip
    plan = parse_plan(doc)
    lines = [one for one in shopping(plan, cut_list(plan), {}) if "splice" in one.key or one.key == "joint"]
    assert [(one.group, one.needed) for one in lines] == [("ends", 2)]


@pytest.mark.parametrize(("joint", "mm2", "stud", "fits", "strip_mm"), [
    ("lug_large", 35.0, "M8", "lug 35 mm² × M8", 17), ("lug_small", 35.0, "M8", "lug 35 mm² × M8", 17),
    ("lug_small", 6.0, "M5", "ring 6 mm² × M5", 8), ("clamp", 35.0, "", "ferrule 35 mm²", 18),
    ("clamp", 6.0, "", "ferrule 6 mm²", 14), ("push_on", 1.5, "", "push-on 6.3 mm, red", 7)])  # fmt: skip
def test_strip_goes_by_what_is_put_on_and_its_size_and_not_by_the_kind_of_joint(
    joint: str, mm2: float, stud: str, fits: str, strip_mm: float
) -> None:
    """Tubular lugs and ferrules, DIN 46228-4 from memory: a 35 mm² lug is one lug, however it was reckoned."""
    found = end_of(joint, wire_size("mm2", f"{mm2:g}"), stud)
    assert (found.fits, found.strip_mm) == (fits, strip_mm)


@pytest.mark.parametrize(("family", "stud"), [
    ("bolt_m5", "M5"), ("bolt_m8", "M8"), ("breaker_auto", "M5"), ("breaker_manual", "M6"), ("anl", "M8"),
    ("class_t", "M8"), ("blade_regular", "")])  # fmt: skip
def test_lugs_at_a_holder_have_its_thread(family: Any, stud: str) -> None:
    """#10 is 4.8 mm, 1/4 in 6.4 mm, 5/16 in 7.9 mm."""
    assert holder_stud(family) == stud


def test_lugs_lie_evenly_over_the_studs_of_a_bar_the_thickest_lowest() -> None:
    harness = harness_of(demo_plan("heron"))
    bar = next(part for part in harness.plan.parts if part.name == "Locker busbars")
    lugs = [
        (end.on_stud, end.layer, piece.area_mm2)
        for piece in harness.pieces
        for end in piece.ends
        if end.part_id == bar.id and end.at == "+"
    ]
    assert max(on for on, _, _ in lugs) <= bar.studs  # type: ignore[union-attr]
    assert {layer for _, layer, _ in lugs} == {1}
    assert [area for _, _, area in sorted(lugs)] == sorted((area for _, _, area in lugs), reverse=True)
