"""Every limit of the checks just inside and just outside it: kept, the check is silent; a hair over it, it speaks.

Figures that follow from the whole circuit are read off the finding first; the limit is laid on either side of them.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucernis.core.power.bank import bank_figures
from lucernis.core.power.charging import study_charge
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.document import parse_plan
from lucernis.practice.tables import load_table
from tests.core.checks import test_source_findings as sources
from tests.core.checks.test_findings import (
    BOND,
    KEYED_RELAY,
    Spoil,
    add,
    base,
    both,
    by_chassis,
    far_loads,
    found,
    fuse_at,
    into,
    named,
    pin_fuse,
    pin_wire,
    place,
    set_part,
    set_run,
    wire,
)
from tests.helpers import part, powered_document, run

Doc = dict[str, Any]
Vary = Callable[[Any], Spoil]


def fires(code: str, subject: str, spoil: Spoil, doc: Doc) -> bool:
    spoil(doc)
    return (code, subject) in found(doc)


def hole(**fields: Any) -> Spoil:
    return set_run("r3", passes=[{"through": "metal"} | fields])


def lengths(*lengths_m: float) -> Spoil:
    """The three runs to far loads, each with a length of its own."""

    def spoil(doc: Doc) -> None:
        far_loads(doc)
        for name, length_m in zip(("r23", "r24", "r25"), lengths_m, strict=False):
            run(doc, name)["length_m"] = length_m
        for name in ("r23", "r24", "r25")[len(lengths_m) :]:
            doc["runs"].remove(run(doc, name))
            doc["parts"].remove(part(doc, f"l{int(name[1:]) - 12}"))

    return spoil


def lugs(count: int, kind: str = "joint", **fields: Any) -> Spoil:
    """A stud in the pump's run with so many lugs in all, two of them those of the run itself."""
    return both(
        into("r3", named(kind, "j1", **fields)), add(*(wire(f"r{30 + k}", "j1", "l2") for k in range(count - 2)))
    )


def thick_lugs(count: int, size: str, kind: str = "joint", **fields: Any) -> Spoil:
    names = ("r3", "r20", *(f"r{30 + k}" for k in range(count - 2)))
    return both(lugs(count, kind, **fields), *(pin_wire(name, size) for name in names))


def on_stud(stud: str) -> Spoil:
    return set_run("r1", start={"part": "b1", "stud": stud})


def unfused_feeder(total_a: float) -> Spoil:
    return both(set_part("f1", total_limit_a=total_a), set_run("r1", fuse_at_start=None))


def second_on_post(with_positive: bool) -> Spoil:
    if not with_positive:
        return add(named("chassis_point", "g1"), wire("r9", "b1", "g1", legs="negative"))
    return add(named("load", "l9", power_w=5.0, hours_per_day=0), wire("r9", "b1", "l9", fuse_at_start={}))


def sheathed(distance_m: float, sheath: bool = True) -> Spoil:
    return set_run("r1", fuse_at_start={"distance_m": distance_m, "sheathed": sheath})


# Code, subject, how it is varied, a value that is still well, one that is not.
EDGES: list[tuple[str, str, Vary, Any, Any]] = [
    ("busbar-over", "u1", lambda v: into("r3", named("busbar", "u1", rated_a=v)), 6.0, 5.99),
    ("pin-over", "j1", lambda v: into("r3", named("joint", "j1", form="plug", rated_a=v)), 6.0, 5.99),
    ("switch-over", "s2", lambda v: into("r3", named("switch", "s2", rated_a=v)), 6.0, 5.99),
    ("keyed-feed-over", "k2", lambda v: into("r3", named("keyed_feed", "k2", rated_a=v)), 6.0, 5.99),
    ("relay-over", "y1", lambda v: both(KEYED_RELAY, set_part("y1", contact_a=v)), 6.0, 5.99),
    ("guard-above-rating", "u1",
     lambda v: both(into("r3", named("busbar", "u1", rated_a=v)), pin_fuse("r3", 20)), 20.0, 19.9),
    ("guard-above-rating", "s1", lambda v: both(set_part("s1", rated_a=v), pin_fuse("r1", 40)), 40.0, 39.9),
    ("stud-crowded", "j1", lambda v: lugs(v, form="stud"), 4, 5),
    ("stud-crowded", "j1", lambda v: lugs(v, "busbar", studs=2), 8, 9),
    ("lug-not-made", "r1", lambda v: both(pin_wire("r1", "4"), on_stud(v)), "M5", "M4"),
    ("lug-not-made", "r1", lambda v: both(pin_wire("r1", "14"), on_stud(v)), "M10", "M12"),
    # Three palms of 2/0 are 11.4 mm and four 15.2 on a stud with 13 mm to spare; two of 4/0 lie on each stud of a bar.
    ("stud-short", "j1", lambda v: thick_lugs(v, "2/0", form="stud"), 3, 4),
    ("stud-short", "j1", lambda v: thick_lugs(v, "4/0", "busbar", studs=2), 4, 5),
    ("post-stacked", "b1", second_on_post, False, True),
    ("block-no-prefuse", "f1", lambda v: both(set_part("f1", total_limit_a=v), pin_fuse("r1", 40)), 40.0, 39.9),
    # With a fuse before the block its ways may add up to more.
    ("block-ways-sum", "f1",
     lambda v: both(set_part("f1", total_limit_a=10.0), set_run("r1", fuse_at_start=v)),
     {"distance_m": 0.1, "pin": {"rating_a": 10.0, "reason": "test"}}, None),
    ("feeder-shorter", "f1", lambda v: lengths(v, v, v), 2.99, 3.0),
    ("feeder-shorter", "f1", lambda v: lengths(3.0, v, v), 6.1, 5.9),
    ("feeder-shorter", "f1", lambda v: lengths(*v), (5.0, 5.0), (5.0, 5.0, 5.0)),
    ("coil-unfused", "y1", lambda v: both(KEYED_RELAY, pin_fuse("r21", v)), 5, 7.5),
    ("coil-kick", "y1", lambda v: both(KEYED_RELAY, set_part("y1", suppression=v)), "resistor", "none"),
    ("span-unsupported", "r3", lambda v: set_run("r3", unsupported_m=v), 0.457, 0.458),
    ("hole-no-grommet", "r3", lambda v: hole(through=v, grommet=False), "plastic_or_wood", "metal"),
    ("hole-no-grommet", "r3", lambda v: hole(through=v, grommet=False), "plastic_or_wood", "firewall"),
    ("hole-unsealed", "r3", lambda v: hole(through=v, sealed=False), "metal", "firewall"),
    ("loads-in-series", "l3", lambda v: set_part("l3", rated_v=v), 7.21, 7.2),
    ("joint-over", "r3",
     lambda v: lambda doc: (part(doc, "l2").update(current_a=v), run(doc, "r3")["finish"].update(joint="push_on"))[0],
     20.0, 20.1),
    ("wire-below-least", "r2", lambda v: pin_wire("r2", v), "16", "18"),
    ("wire-below-maker", "r2",
     lambda v: both(set_part("l1", maker={"least": {"system": "awg", "size": "10"}}), pin_wire("r2", v)), "10", "12"),
    ("wire-above-terminal", "r2",
     lambda v: both(set_part("l1", maker={"greatest": {"system": "awg", "size": "10"}}), pin_wire("r2", v)), "10", "8"),
    ("fuse-too-far", "r1", lambda v: sheathed(v, sheath=False), 0.178, 0.179),
    ("fuse-too-far", "r1", sheathed, 1.829, 1.84),
    ("fuse-above-maker", "r2", lambda v: both(set_part("l3", maker={"fuse_a": v}), pin_fuse("r2", 10)), 10.0, 7.5),
    ("block-over-way", "r3", lambda v: both(set_part("f1", way_limit_a=v), pin_fuse("r3", 15)), 15.0, 14.9),
    ("block-ways", "f1", lambda v: set_part("f1", ways=v), 2, 1),
    ("fuse-not-made", "r3", lambda v: pin_fuse("r3", v), 20, 17),
    ("fuse-below-load", "r3", lambda v: both(set_part("l2", current_a=v), pin_fuse("r3", 10)), 10.0, 10.1),
    ("fuse-at-load", "r3", lambda v: both(set_part("l2", current_a=v), pin_fuse("r3", 10)), 9.52, 9.53),
    ("wire-far-thicker", "r3", lambda v: pin_wire("r3", v), "8", "6"),
    ("chassis-several", "g2",
     lambda v: both(BOND, add(named("chassis_point", "g2"), *([wire("r25", "f1", "g2", 0.5, legs="negative")] * v))),
     0, 1),
    ("chassis-cannot-return", "l3",
     lambda v: both(by_chassis, lambda doc: doc["job"].update(vehicle={"body": v})), "steel", "aluminium"),
    ("fuse-ignition", "r3",
     lambda v: lambda doc: (doc["zones"][0].update(vapour=v), place("f1", "p1")(doc))[0], False, True),
    ("fuse-unsealed-hot", "r3", lambda v: both(place("f1", "bay"), fuse_at("r3", holder=v)), "sealed", "open"),
    ("part-place", "f1", lambda v: both(place("f1", "bay"), set_part("f1", engine_space=v)), True, None),
    ("part-place", "f1",
     lambda v: both(place("f1", "p1"), lambda doc: doc["zones"][0].update(wet=True), set_part("f1", splash=v)),
     True, False),
    ("part-place", "s2",
     lambda v: both(into("r3", named("switch", "s2", place="oven")), lambda doc: doc["zones"][2].update(wet=v),
                    lambda doc: doc["places"].append({"id": "oven", "name": "Oven", "zone": "hot"})), False, True),
    ("part-place", "r1",
     lambda v: both(place("b1", "tray"), fuse_at("r1", family="breaker_auto"),
                    lambda doc: doc["zones"][2].update(wet=v, ambient_c=40),
                    lambda doc: doc["places"].append({"id": "tray", "name": "Tray", "zone": "hot"})), False, True),
    ("wire-no-figure", "r2", lambda v: pin_wire("r2", "18", v), "awg", "sae"),
]  # fmt: skip


@pytest.mark.parametrize(("code", "subject", "vary", "well", "wrong"), EDGES, ids=[f"{e[0]}-{e[4]}" for e in EDGES])
def test_limit_holds_just_inside_and_speaks_just_outside(
    code: str, subject: str, vary: Vary, well: Any, wrong: Any
) -> None:
    assert not fires(code, subject, vary(well), base())
    assert fires(code, subject, vary(wrong), base())


# Of the powered plan.
EDGES_OF_SOURCES: list[tuple[str, str, Vary, Any, Any]] = [
    ("bank-mixed-age", "b2",
     lambda v: both(set_part("b1", made_year=2026), sources.bank(parallel=2), set_part("b2", made_year=v)), 2025, 2024),
    ("bank-mixed-age", "b1",
     lambda v: both(set_part("b1", made_year=2020), sources.bank(parallel=2), set_part("b2", made_year=v)), 2021, 2022),
    ("battery-hot", "b1", lambda v: set_part("b1", hottest_c=v), 30.0, 29.9),
    ("charger-place", "q1", lambda v: set_part("q1", hottest_c=v), 30.0, 29.9),
    ("charger-place", "q1", lambda v: both(sources.zone(wet=True), set_part("q1", splash=v)), True, False),
    ("charger-place", "q1",
     lambda v: both(sources.zone(engine_space=True), set_part("q1", engine_space=v)), True, False),
    ("panel-power-over", "q2", lambda v: set_part("q2", pv_w=v), 219.9, 219.7),
    ("panel-current-over", "q2", lambda v: set_part("q2", pv_a=v), 6.5, 6.49),
    ("panel-voltage-low", "q2", lambda v: set_part("v1", series=1, mp_v=v, power_w=60.0), 14.4, 14.39),
    ("panel-strings-unfused", "q2", lambda v: set_part("v1", strings=v), 2, 3),
    ("panels-unlike", "q2",
     lambda v: both(sources.one_more_string, set_part("v2", mp_v=v)), 18.0, 18.1),
    ("inverter-below-ac", "l9", lambda v: sources.inverter(300.0, 900.0, ac_w=v), 300.0, 300.1),
    ("inverter-start-below-ac", "l9", lambda v: sources.inverter(300.0, 600.0, ac_w=150.0, starts=v), 4.0, 4.01),
    ("battery-cold", "b1", lambda v: sources.energy(battery_c=v), 0.0, -0.1),
    ("battery-cold", "b1",
     lambda v: both(sources.energy(battery_c=-5.0), set_part("b1", heater_w=v)), 60.0, None),
    ("charger-sense-unset", "q1", lambda v: set_part("q1", sense=v), "voltage", "not_set"),
    ("lead-unvented", "b1",
     lambda v: both(set_part("b1", chemistry="flooded"), lambda doc: doc["places"][0].update(vented=v)), True, None),
    ("lead-unvented", "b1",
     lambda v: both(set_part("b1", chemistry="agm"), lambda doc: doc["places"][0].update(vented=v)), None, False),
    ("part-place", "b1", lambda v: sources.zone(ambient_c=v), 45.0, 61.0),
    ("bank-mixed-capacity", "b2", lambda v: both(sources.bank(parallel=2), set_part("b2", capacity_ah=v)), 100.0, 99.0),
    ("panel-uncontrolled", "v1",
     lambda v: both(sources.set_part("v1", power_w=v, series=1),
                    lambda doc: run(doc, "r25").update(finish={"part": "u1"}),
                    lambda doc: doc["practice"].update(
                        overrides=[{"rule": "small_panel", "value": "15_w", "reason": "test"}])), 15.0, 15.1),
    ("panel-uncontrolled", "v1",
     lambda v: both(sources.set_part("v1", power_w=1.0, series=1),
                    lambda doc: run(doc, "r25").update(finish={"part": "u1"}),
                    lambda doc: doc["practice"].update(
                        overrides=[{"rule": "small_panel", "value": v, "reason": "test"}])), "15_w", "never"),
    ("isolator-sagging", "i1", lambda v: both(set_part("a1", regulation=v), sources.link), "steady", "sagging"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "subject", "vary", "well", "wrong"), EDGES_OF_SOURCES, ids=[f"{e[0]}-{e[4]}" for e in EDGES_OF_SOURCES]
)
def test_limit_of_a_source_holds_just_inside_and_speaks_just_outside(
    code: str, subject: str, vary: Vary, well: Any, wrong: Any
) -> None:
    assert not fires(code, subject, vary(well), powered_document())
    assert fires(code, subject, vary(wrong), powered_document())


# Code, subject, how its limit is set, the figure of the finding the limit is held against, a limit that fires at once,
# and whether the limit is a most (else a least).
READ_OFF: list[tuple[str, str, Vary, str, float, bool]] = [
    ("shunt-over", "h1",
     lambda v: both(
         add(named("shunt", "h1", rated_a=v), wire("r23", "b1", "h1", 0.3, legs="negative"),
             wire("r27", "h1", "s1", 0.3, legs="negative")),
         set_run("r1", legs="positive")), "current_a", 8.9, True),
    ("switch-short-time", "s1", lambda v: set_part("s1", short_time_a=v), "passing_a", 10.0, True),
    ("block-over-total", "f1", lambda v: set_part("f1", total_limit_a=v), "current_a", 5.0, True),
    ("block-ways-sum", "f1", unfused_feeder, "ways_a", 8.0, True),
    ("load-under-voltage", "l3",
     lambda v: both(pin_wire("r1", "8"), pin_wire("r8", "8"), pin_wire("r2", "14"), pin_wire("r4", "14"),
                    set_part("l3", min_v=v)), "voltage_v", 11.999, False),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "subject", "vary", "figure", "first", "most"), READ_OFF, ids=[one[0] for one in READ_OFF]
)
def test_limit_on_either_side_of_the_figure_it_is_held_against(
    code: str, subject: str, vary: Vary, figure: str, first: float, most: bool
) -> None:
    doc = base()
    vary(first)(doc)
    value = found(doc)[(code, subject)].figures[figure]
    out, keeps = (0.999, 1.0005) if most else (1.0005, 0.9999)
    assert not fires(code, subject, vary(value * keeps), base())
    assert fires(code, subject, vary(value * out), base())


READ_OFF_SOURCES: list[tuple[str, str, Vary, str, float]] = [
    ("bank-discharge-over", "b1", lambda v: set_part("b1", discharge_a=v), "current_a", 5.0),
    ("bank-charge-over", "b1", lambda v: set_part("b1", charge_a=v), "current_a", 5.0),
    ("panel-voltage-over", "q2", lambda v: set_part("q2", pv_high_v=v), "voltage_v", 30.0),
    ("alternator-share", "a1", lambda v: set_part("a1", rated_a=2 * (v + 25.0)), "current_a", 5.0),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "subject", "vary", "figure", "first"), READ_OFF_SOURCES, ids=[r[0] for r in READ_OFF_SOURCES]
)
def test_limit_of_a_source_on_either_side_of_its_figure(
    code: str, subject: str, vary: Vary, figure: str, first: float
) -> None:
    doc = powered_document()
    vary(first)(doc)
    value = found(doc)[(code, subject)].figures[figure]
    assert not fires(code, subject, vary(value * 1.0005), powered_document())
    assert fires(code, subject, vary(value * 0.999), powered_document())


def lengthened(run_id: str, length_m: float) -> Spoil:
    thin = {"system": "awg", "size": "10", "reason": "test"}
    return lambda doc: run(doc, run_id).update(length_m=length_m, length_as_typed=None, wire=thin)


def crossing(value: Callable[[float], float], wanted: float, low: float, high: float) -> float:
    """Where a rising or falling figure passes a value, by halving."""
    falls = value(low) > value(high)
    for _ in range(18):
        middle = (low + high) / 2
        low, high = (middle, high) if (value(middle) > wanted) is falls else (low, middle)
    return (low + high) / 2


def test_charger_is_starved_from_three_percent_below_its_rating() -> None:
    """The length at which 19.4 of 20 A come through, found with the study of charging alone."""

    def spoil(length_m: float) -> Spoil:
        # What it may take is limited, so that it gives less and less before it switches off.
        return both(lengthened("r21", length_m), set_part("q1", in_a=23.0))

    def given_a(length_m: float) -> float:
        doc = powered_document()
        spoil(length_m)(doc)
        plan = parse_plan(doc)
        return study_charge(plan, sized_plan(plan), "engine").given_a["q1"]

    at_m = crossing(given_a, 0.97 * 20.0, 5.0, 16.0)
    assert 0 < given_a(at_m + 0.5) < given_a(at_m - 0.5) < 20.0
    assert not fires("charger-starved", "q1", spoil(at_m - 0.05), powered_document())
    assert fires("charger-starved", "q1", spoil(at_m + 0.05), powered_document())


def test_a_string_gives_more_than_its_share_from_fifteen_percent() -> None:
    """Links so long that the first of two strings gives 1.15 times an even share, found with the bank alone."""

    def bank(link_m: float) -> Doc:
        doc = powered_document()
        sources.bank(parallel=2, take_off="same_end")(doc)
        for one in doc["runs"]:
            if {one["start"]["part"], one["finish"]["part"]} <= {"b1", "b2"}:
                one.update(length_m=link_m, length_as_typed=None, wire={"system": "awg", "size": "2", "reason": "test"})
        return doc

    def most(link_m: float) -> float:
        plan = parse_plan(bank(link_m))
        figures = bank_figures(plan, sized_plan(plan))
        assert figures is not None
        return max(one.of_even for one in figures.shares)

    at_m = crossing(most, 1.15, 0.05, 5.0)
    assert ("bank-sharing", "b1") not in found(bank(at_m * 0.98))
    assert ("bank-sharing", "b1") in found(bank(at_m * 1.02))


@pytest.mark.parametrize(
    ("limit", "code"), [("discharge_a", "battery-limit-usual"), ("charge_a", "battery-limit-usual")]
)
def test_usual_limits_are_looked_up_from_six_tenths_on(limit: str, code: str) -> None:
    """Lithium usually gives and takes so much of its capacity (battery_chemistry.csv): the capacity is varied."""
    row = load_table("battery_chemistry").find("lfp")
    rate = float(row["discharge_c" if limit == "discharge_a" else "charge_c"])
    # The largest charger alone gives 20 A.
    asked_a = 20.0
    if limit == "discharge_a":
        doc = powered_document()
        set_part("b1", discharge_a=5.0)(doc)
        asked_a = found(doc)[("bank-discharge-over", "b1")].figures["current_a"]
    at_ah = asked_a / (0.6 * rate)

    def spoil(capacity_ah: float) -> Spoil:
        fields: dict[str, Any] = {"capacity_ah": capacity_ah, limit: None}
        if limit == "discharge_a":
            fields["discharge_short_a"] = None
        return set_part("b1", **fields)

    assert not fires("battery-limit-usual", "b1", spoil(at_ah * 1.01), powered_document())
    assert fires("battery-limit-usual", "b1", spoil(at_ah * 0.99), powered_document())
