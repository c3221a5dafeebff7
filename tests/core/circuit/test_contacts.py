"""Contacts, shunts, joints and the body as resistances; terminals of each kind of part."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.contacts import chassis_point_ohm, contact_ohm
from lucernis.core.circuit.terminals import feed_point, negative_point, part_id_of, point, positive_point
from lucernis.core.sizing.stretch import leg_count
from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.joints import joint_kind, joint_ohm
from lucernis.errors import UnknownRow
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Busbar, ChassisPoint, End, FuseBlock, KeyedFeed, Relay, Shunt, Switch
from lucernis.plan.terminals import has_legs, terminals, usual_terminal
from lucernis.practice.rules import SizeSystem
from lucernis.practice.tables import load_table
from tests.helpers import small_document


def made(kind: type, **fields: Any) -> Any:
    return kind(id="x", name="X", tag="X01", **fields)


@pytest.mark.parametrize(
    ("part", "milliohms"),
    [
        (made(Switch, use="isolator", rated_a=300.0), 45 / 300),
        (made(Switch, use="circuit", rated_a=20.0), 100 / 20),
        (made(Relay, contact_a=40.0), 80 / 40),
        (made(KeyedFeed, rated_a=10.0), 100 / 10),
        (made(Shunt, rated_a=200.0, rated_mv=75.0), 75 / 200),
        (made(Busbar), 0.0),
    ],
)
def test_contact_is_its_usual_drop_over_its_rating(part: Any, milliohms: float) -> None:
    """contact_drop.csv, common practice, no source; a shunt by its own two figures."""
    assert 1000 * contact_ohm(part) == pytest.approx(milliohms)


def test_contact_without_a_rating_takes_the_usual_one() -> None:
    assert contact_ohm(made(Switch, use="isolator")) == pytest.approx(0.045 / 300)


def test_unknown_joint_is_refused() -> None:
    with pytest.raises(UnknownRow, match="'glue'"):
        joint_kind("glue")


@pytest.mark.parametrize(
    ("kind", "system", "size", "milliohms"),
    [
        ("lug_large", "mm2", "50", 0.02 + 0.040 * 0.386),
        ("lug_large", "mm2", "16", 0.02 + 0.040 * 1.21),
        ("push_on", "mm2", "2.5", 0.35 + 0.025 * 7.98),
        ("cap", "mm2", "2.5", 0.0),
    ],
)
def test_joint_is_its_contact_and_a_barrel_of_its_own_wire(
    kind: str, system: SizeSystem, size: str, milliohms: float
) -> None:
    """Common practice, no source; mΩ/m of IEC 60228 class 5, from memory. A good lug on 50 mm² stays under 0.05 mΩ."""
    assert 1000 * joint_ohm(kind, wire_size(system, size, tinned=False)) == pytest.approx(milliohms, rel=0.01)


def test_a_good_lug_never_loses_what_a_metre_of_its_wire_does() -> None:
    for name in ("10", "16", "25", "50", "95"):
        size = wire_size("mm2", name, tinned=False)
        assert joint_ohm("lug_large", size) < size.resistance_20_ohm_per_m / 2


def test_body_lies_half_in_each_chassis_point() -> None:
    def ohm(**vehicle: Any) -> float:
        return chassis_point_ohm(parse_plan(small_document(job={"name": "X", "vehicle": vehicle})))

    assert ohm(chassis_ohm=0.02) - ohm(chassis_ohm=0.01) == pytest.approx(0.005)
    table = load_table("joint_resistance")
    chassis, body = (float(table.find(one)["contact_mohm"]) / 1000 for one in ("chassis", "body"))
    assert ohm() == pytest.approx(chassis + body / 2)


@pytest.mark.parametrize(
    ("part", "names"),
    [
        (made(Switch), ("in", "out")),
        (made(Switch, form="three_position"), ("in", "out", "out_b")),
        (made(Relay), ("in", "out", "coil")),
        (made(Shunt), ("in", "out")),
        (made(FuseBlock, ways=8, second_bank_from=5), ("bank_b",)),
        (made(FuseBlock), ()),
        (made(Busbar), ()),
    ],
)
def test_terminals_of_a_part(part: Any, names: tuple[str, ...]) -> None:
    assert terminals(part) == names
    usual = usual_terminal(part, "finish"), usual_terminal(part, "start")
    assert usual == (("in", "out") if "in" in names else (None, None))


@pytest.mark.parametrize(
    ("part", "legs"),
    [
        (made(Busbar), (True, True)),
        (made(Busbar, bars="negative"), (False, True)),
        (made(Shunt), (False, True)),
        (made(ChassisPoint), (False, True)),
        (made(FuseBlock, negative_bar=False), (True, False)),
    ],
)
def test_legs_of_a_part(part: Any, legs: tuple[bool, bool]) -> None:
    assert has_legs(part) == legs


def test_points_of_a_switch_a_coil_and_a_second_bank() -> None:
    switch, relay = made(Switch), made(Relay)
    block = made(FuseBlock, ways=8, second_bank_from=5)
    assert positive_point(switch, End(part="x"), "finish") == "x"
    assert positive_point(switch, End(part="x"), "start") == "x:out"
    assert feed_point(switch, End(part="x"), "start") == "x"
    coil = End(part="x", terminal="coil")
    assert (positive_point(relay, coil, "finish"), negative_point(relay, coil, "finish")) == ("x:coil", "x:coil")
    assert negative_point(relay, End(part="x"), "finish") == "x"
    assert feed_point(block, End(part="x", way=6), "start") == "x:bank_b"
    assert feed_point(block, End(part="x", way=2), "start") == "x"
    assert part_id_of(point("x", "bank_b")) == "x"


@pytest.mark.parametrize(("legs", "count"), [("both", 2), ("positive", 1), ("negative", 1)])
def test_leg_count(legs: str, count: int) -> None:
    run = parse_plan(small_document()).runs[1].model_copy(update={"legs": legs})
    assert leg_count(run) == count
