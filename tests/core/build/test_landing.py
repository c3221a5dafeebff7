"""What lands where, labels and plates: every end once, terminals that are free, diameters by hand."""

from __future__ import annotations

from typing import get_args

import pytest

from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.labels import plates, wire_labels, wrap_mm
from lucernis.core.build.landing import landings
from lucernis.core.harness.ends import pull_n, shrink_for
from lucernis.core.harness.harness import harness_of
from lucernis.core.layout.fill import outside_mm
from lucernis.core.wire.copper import all_sizes, wire_size
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.practice.rules import SizeSystem
from tests.core.checks.test_findings import KEYED_RELAY, base, set_run


@pytest.mark.parametrize("job", JOBS)
def test_every_end_lands_once_at_a_part_or_in_a_holder(job: str) -> None:
    plan = demo_plan(job)
    pieces = cut_list(plan).pieces
    landed = [(wire.piece, wire.fits) for part in landings(plan) for one in part.terminals for wire in one.wires]
    ends = [(piece.id, end.fits) for piece in pieces for end in piece.ends]
    assert sorted(landed) == sorted(ends)
    holders = harness_of(plan).in_line
    assert len({part.part for part in landings(plan)}) == len(plan.parts) + len(holders)
    for one in landings(plan):
        if one.kind == "holder":
            fed, on = one.terminals
            assert len(fed.wires) == len(on.wires) > 0


def test_free_ways_are_told_and_a_relay_has_its_numbers() -> None:
    """Numbers of a relay's terminals: DIN 72552, from memory."""
    doc = base()
    KEYED_RELAY(doc)
    found = {one.part: one for one in landings(parse_plan(doc))}
    relay = next(one for one in found.values() if one.kind == "relay")
    assert {one.name: one.pin for one in relay.terminals} == {
        "in +": "30", "out +": "87", "coil +": "86", "coil −": "85",
    }  # fmt: skip
    block = found["f1"]
    used = {one.name for one in block.terminals if one.wires}
    free = [one for one in block.terminals if one.name.startswith("way") and not one.wires]
    assert "way 1" in used
    assert len(free) + sum(name.startswith("way") for name in used) == 6
    assert block.terminals[0].name == "+"


def test_a_thread_and_a_torque_somebody_read_off_the_part_win() -> None:
    doc = base()
    plain = next(one for one in landings(parse_plan(doc)) if one.part == "b1").terminals[0]
    assert plain.torque == "M8: 8 to 12 Nm, practice; the maker's sheet wins"
    set_run("r1", start={"part": "b1", "stud": "M10", "torque_nm": 14.0})(doc)
    own = next(one for one in landings(parse_plan(doc)) if one.part == "b1").terminals[0]
    assert own.torque == "M10: 14 Nm, as its maker says"
    assert own.wires[0].fits.endswith("× M10")
    other = next(one for one in landings(parse_plan(doc)) if one.part == "s1").terminals[0]
    assert other.torque == "M10: 15 to 20 Nm, practice; the maker's sheet wins"


def test_each_end_has_a_label_that_says_where_the_other_is() -> None:
    labels = wire_labels(demo_plan("heron"))
    assert len(labels) == 2 * len(cut_list(demo_plan("heron")).pieces)
    near, far = (one for one in labels if one.run == "r11" and one.lines[0].endswith("+"))
    assert near.lines == ("C11 Water pump +", "2.5 mm² 10 A", "to Water pump")
    assert far.lines == ("C11 Water pump +", "2.5 mm² 10 A", "to Galley block")
    assert (near.kind, near.colour) == ("sleeve", "red")
    main = next(one for one in labels if one.lines[0].startswith("C01"))
    assert main.kind == "flag"


@pytest.mark.parametrize(("around_mm", "length_mm"), [(3.0, 15), (8.2, 31), (13.6, 48)])
def test_length_of_a_label_by_the_wire_it_goes_round(around_mm: float, length_mm: int) -> None:
    """Once round and 5 mm that stick on themselves, by hand: 9.42, 25.76 and 42.73 mm round."""
    assert wrap_mm(around_mm) == length_mm
    label = next(one for one in wire_labels(demo_plan("heron")) if one.kind == "sleeve")
    assert label.wrap_mm == wrap_mm(label.outside_mm)


def test_plates_say_what_to_do_first() -> None:
    found = {one.title: one for one in plates(demo_plan("heron"))}
    bank, starter = found["House bank"], found["Starter battery"]
    assert "Disconnect the negative first" in bank.warning
    assert "hydrogen" not in bank.warning
    assert "hydrogen" in starter.warning
    assert bank.lines == ("12 V, 460 Ah, lithium", "Fused by Class T 200 A, C01")
    assert found["Desk block"].lines[1] == "Fed by C02 behind ANL strip 35 A, at Locker busbars, 80 mm off"


def test_a_plate_says_dead_only_where_nothing_that_charges_reaches() -> None:
    """Chargers land on the bars behind Heron's switch; nothing does behind Tern's."""
    heron = {one.title: one for one in plates(demo_plan("heron"))}["Isolating switch"]
    assert "Off stops: Locker busbars" in heron.lines
    assert not [line for line in heron.lines if "dead" in line]
    for name in ("DC-DC charger", "Solar controller", "Mains charger"):
        assert name in heron.warning
    assert "Off is not dead" in heron.warning
    tern = {one.title: one for one in plates(demo_plan("tern"))}["Isolating switch"]
    assert "Off: everything behind it is dead: Bonnet busbars" in tern.lines
    assert tern.warning == ""


@pytest.mark.parametrize("system", get_args(SizeSystem))
def test_a_tube_is_made_that_goes_over_every_crimp_and_grips_its_wire(system: str) -> None:
    """Tube that shrinks to a third reaches for every size there is: common practice, no source."""
    for name in all_sizes(system):  # type: ignore[arg-type]
        around = outside_mm(wire_size(system, name).area_mm2)  # type: ignore[arg-type]
        found = shrink_for(around)
        assert found is not None, name
        assert found[1] <= around <= found[0]


@pytest.mark.parametrize(
    ("awg", "newtons"), [("18", 44), ("16", 67), ("10", 178), ("6", 222), ("1/0", 556), ("4/0", 1001)]
)
def test_what_a_crimp_must_stand(awg: str, newtons: float) -> None:
    """ABYC E-11, tensile test of connections; from memory."""
    assert pull_n(wire_size("awg", awg).area_mm2) == newtons


@pytest.mark.parametrize(("area_mm2", "newtons"), [(1.5, 67), (2.5, 133), (16.0, 222), (35.0, 400), (50.0, 556)])
def test_a_metric_wire_stands_what_the_nearest_size_does(area_mm2: float, newtons: float) -> None:
    assert pull_n(area_mm2) == newtons
