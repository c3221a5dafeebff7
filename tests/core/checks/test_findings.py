"""Every code of the checks can fire and can be silent: one plan that raises it, and the same plan mended."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Finding
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import apply_edits
from tests.helpers import every_finding, part, run, severity_stands, small_document

Doc = dict[str, Any]
Spoil = Callable[[Doc], None]


def pin_wire(run_id: str, size: str, system: str = "awg") -> Spoil:
    return lambda doc: run(doc, run_id).update(wire={"system": system, "size": size, "reason": "test"})


def pin_fuse(run_id: str, rating_a: float, family: str | None = None) -> Spoil:
    def spoil(doc: Doc) -> None:
        pin = {"rating_a": rating_a, "reason": "test"} | ({"family": family} if family else {})
        run(doc, run_id)["fuse_at_start"]["pin"] = pin

    return spoil


def set_part(part_id: str, **fields: Any) -> Spoil:
    return lambda doc: part(doc, part_id).update(fields)


def set_run(run_id: str, **fields: Any) -> Spoil:
    return lambda doc: run(doc, run_id).update(fields)


def rules(**values: Any) -> Spoil:
    def spoil(doc: Doc) -> None:
        overrides = [{"rule": rule, "value": value, "reason": "test"} for rule, value in values.items()]
        doc["practice"] = {"set": "small_craft_us", "overrides": overrides}

    return spoil


def both(*spoils: Spoil) -> Spoil:
    def spoil(doc: Doc) -> None:
        for one in spoils:
            one(doc)

    return spoil


def drop_run(run_id: str) -> Spoil:
    return lambda doc: doc["runs"].remove(run(doc, run_id))


def second_feed(doc: Doc) -> None:
    doc["runs"].append(
        {
            "id": "r9",
            "tag": "C09",
            "start": {"part": "b1"},
            "finish": {"part": "l1"},
            "length_m": 2.0,
            "fuse_at_start": {"distance_m": 0.1},
        }
    )


def lone_run(doc: Doc) -> None:
    doc["parts"].append({"kind": "load", "id": "l9", "name": "Lone", "tag": "L09", "power_w": 5.0, "hours_per_day": 0})
    doc["runs"].remove(run(doc, "r4"))
    doc["runs"].append({"id": "r9", "tag": "C09", "start": {"part": "l3"}, "finish": {"part": "l9"}, "length_m": 1.0})


def spare_run(doc: Doc) -> None:
    doc["parts"].append({"kind": "fuse_block", "id": "f9", "name": "Spare", "tag": "F09"})
    doc["runs"].append(
        {
            "id": "r9",
            "tag": "C09",
            "start": {"part": "f1", "way": 5},
            "finish": {"part": "f9"},
            "length_m": 1.0,
            "fuse_at_start": {},
        }
    )


def wire(run_id: str, start: Any, finish: Any, length_m: float = 1.0, **fields: Any) -> Doc:
    ends = [end if isinstance(end, dict) else {"part": end} for end in (start, finish)]
    return {"id": run_id, "tag": f"C{run_id[1:]}", "start": ends[0], "finish": ends[1], "length_m": length_m} | fields


def add(*things: Doc) -> Spoil:
    def spoil(doc: Doc) -> None:
        for one in things:
            doc["runs" if "start" in one else "parts"].append(dict(one))

    return spoil


def into(run_id: str, new: Doc) -> Spoil:
    """Put a part before what a run feeds."""

    def spoil(doc: Doc) -> None:
        one = run(doc, run_id)
        doc["parts"].append(dict(new))
        doc["runs"].append(wire("r20", new["id"], one["finish"], 0.5))
        one["finish"] = {"part": new["id"]}

    return spoil


def named(kind: str, part_id: str, **fields: Any) -> Doc:
    return {"kind": kind, "id": part_id, "name": part_id.upper(), "tag": part_id.upper()} | fields


def fuse_at(run_id: str, **fields: Any) -> Spoil:
    return lambda doc: run(doc, run_id)["fuse_at_start"].update(fields)


def place(part_id: str, where: str) -> Spoil:
    return set_part(part_id, place=where)


SECOND = both(
    add(named("battery", "b2", short_circuit_a=900.0), wire("r9", "b2", "f1", 1.5, fuse_at_start={"distance_m": 0.1})),
)
SHORT_THICK = both(set_run("r1", length_m=0.4), pin_wire("r1", "2"), pin_wire("r8", "2"))
KEYED_RELAY = both(
    into("r3", named("relay", "y1", contact_a=30.0, suppression="diode")),
    add(
        named("keyed_feed", "k1", rated_a=5.0),
        wire("r21", {"part": "f1", "way": 5}, "k1", fuse_at_start={}),
        wire("r22", "k1", {"part": "y1", "terminal": "coil"}),
    ),
)
SHUNT = add(named("shunt", "h1"), wire("r23", "b1", "h1", 0.3, legs="negative"))
BOND = add(named("chassis_point", "g1"), wire("r24", "f1", "g1", 0.5, legs="negative"))


def by_chassis(doc: Doc) -> None:
    """The far lamp returns through the body, which a bond joins to the battery's negative."""
    doc["parts"] += [named("chassis_point", "g1"), named("chassis_point", "g2")]
    doc["runs"] += [
        wire("r24", "b1", "g1", 0.5, legs="negative"),
        wire("r25", "l3", "g2", 0.5, legs="negative"),
    ]
    run(doc, "r4")["legs"] = "positive"


def self_fed(doc: Doc) -> None:
    KEYED_RELAY(doc)
    run(doc, "r22")["start"] = {"part": "l2"}


def reversed_short(doc: Doc) -> None:
    """A reversing switch whose way out is joined to its way in by another run: in position b that is a short."""
    into("r3", named("switch", "s2", form="reversing"))(doc)
    doc["runs"].append(wire("r26", {"part": "s2", "terminal": "in"}, "l2", 1.0))
    doc["states"][0]["modes"] = [{"part": "s2", "position": "b"}]


def far_loads(doc: Doc) -> None:
    doc["parts"] += [named("load", f"l{k}", power_w=12.0, hours_per_day=1, place="far") for k in (11, 12, 13)]
    doc["runs"] += [wire(f"r{20 + k}", {"part": "f1", "way": k}, f"l{8 + k}", 5.0, fuse_at_start={}) for k in (3, 4, 5)]


def bad_body(doc: Doc) -> None:
    doc["job"]["vehicle"] = {"body": "steel", "chassis_ohm": 0.9}
    doc["parts"].append({"kind": "chassis_point", "id": "g1", "name": "Bond", "tag": "G01"})
    doc["runs"].append(wire("r9", "b1", "g1", 1.0) | {"legs": "negative"})


SPOILS: dict[str, tuple[Spoil, str]] = {
    "wire-over-ampacity": (both(set_part("l2", current_a=40.0), pin_wire("r3", "16")), "r3"),
    "wire-over-derated": (
        both(pin_wire("r3", "16"), set_part("l2", current_a=15.0), set_run("r3", bundle_count=8)),
        "r3",
    ),
    "wire-no-figure": (pin_wire("r2", "18", "sae"), "r2"),
    "wire-insulation-cool": (set_run("r2", zone="hot", insulation_c=60), "r2"),
    "wire-nothing-fits": (set_part("l2", current_a=600.0, maker={"greatest": {"system": "awg", "size": "10"}}), "r3"),
    "lengths-guessed": (set_run("r2", length_guessed=True), "plan"),
    "wire-below-least": (pin_wire("r2", "18"), "r2"),
    "wire-below-maker": (
        both(set_part("l1", maker={"least": {"system": "awg", "size": "10"}}), pin_wire("r2", "14")),
        "r2",
    ),
    "wire-above-terminal": (
        both(set_part("l1", maker={"greatest": {"system": "awg", "size": "14"}}), pin_wire("r2", "8")),
        "r2",
    ),
    "wire-look-alike": (both(pin_wire("r1", "4/0"), pin_wire("r2", "4")), "r2"),
    "drop-over-limit": (both(pin_wire("r3", "16"), set_part("l2", sensitive=True)), "l2"),
    "drop-out-of-reach": (set_part("l2", drop_limit_frac=0.001), "l2"),
    "load-under-voltage": (set_part("l1", min_v=11.99), "l1"),
    "load-collapse": (both(set_part("l1", power_w=1500.0), pin_wire("r2", "18"), set_run("r2", length_m=20.0)), "l1"),
    "load-no-figure": (set_part("l1", power_w=None), "l1"),
    "load-no-hours": (set_part("l1", hours_per_day=None), "l1"),
    "load-unfed": (drop_run("r3"), "l2"),
    "run-unfed": (lone_run, "r9"),
    "run-nothing-behind": (spare_run, "r9"),
    "circuit-closes-loop": (second_feed, "r8"),
    "fuse-missing": (set_run("r3", fuse_at_start=None), "r3"),
    "fuse-too-far": (set_run("r1", fuse_at_start={"distance_m": 0.9}), "r1"),
    "fuse-above-wire": (both(pin_wire("r2", "16"), pin_fuse("r2", 40)), "r2"),
    "fuse-below-load": (pin_fuse("r3", 5), "r3"),
    "fuse-above-maker": (both(set_part("l3", maker={"fuse_a": 2.0}), pin_fuse("r2", 10)), "r2"),
    "fuse-none-fits": (set_part("l2", current_a=60.0), "r3"),
    "fuse-not-made": (pin_fuse("r3", 17), "r3"),
    "fuse-low-voltage": (lambda doc: None, "r3"),
    "fuse-unsealed-hot": (place("f1", "bay"), "r3"),
    "block-over-total": (set_part("f1", total_limit_a=5.0), "f1"),
    "block-over-way": (set_part("f1", way_limit_a=5.0), "r3"),
    "block-ways": (set_part("f1", ways=1), "f1"),
    "battery-missing": (lambda doc: (doc["parts"].pop(0), doc["runs"].pop(0))[0], "plan"),
    "fuse-one-end": (
        add(
            named("battery", "b2", short_circuit_a=900.0),
            wire("r9", "f1", "b2", 1.5) | {"start": {"part": "f1", "way": 6}, "fuse_at_start": {}},
        ),
        "r9",
    ),
    "fuse-parallel": (both(set_run("r1", parallel=2), pin_wire("r1", "8"), pin_fuse("r1", 175, "bolt_m5")), "r1"),
    "step-unfused": (both(pin_wire("r4", "18"), pin_fuse("r2", 35)), "r4"),
    "fuse-ignition": (lambda doc: (doc["zones"][0].update(vapour=True), place("f1", "p1")(doc))[0], "r3"),
    "breaker-auto-reset": (fuse_at("r2", family="breaker_auto"), "r2"),
    "inrush-opens": (both(set_part("l2", device="motor", inrush_factor=6.0, inrush_s=2.0), pin_fuse("r3", 7.5)), "r3"),
    "cycle-trips": (
        both(
            set_part("l2", current_a=30.0, cycle_on_s=300.0, cycle_off_s=10.0),
            fuse_at("r3", family="breaker_manual", pin={"rating_a": 25.0, "reason": "test"}),
        ),
        "r3",
    ),
    "breaking-low": (both(set_part("b1", short_circuit_a=12000.0), fuse_at("r1", family="bolt_m8")), "r1"),
    "breaking-backed": (
        both(
            set_part("b1", short_circuit_a=6000.0),
            fuse_at("r1", family="anl"),
            set_run("r1", length_m=0.4),
            pin_wire("r1", "2"),
            pin_wire("r8", "2"),
        ),
        "r1",
    ),
    "breaking-unknown": (lambda doc: None, "r1"),
    "fault-not-cleared": (both(set_run("r3", length_m=60.0), pin_wire("r3", "16"), pin_fuse("r3", 40)), "r3"),
    "fault-harms-wire": (
        both(
            pin_wire("r3", "18"),
            fuse_at("r3", family="bolt_m8", pin={"rating_a": 100, "family": "bolt_m8", "reason": "test"}),
        ),
        "r3",
    ),
    "not-selective": (
        both(pin_fuse("r1", 15, "blade_regular"), pin_fuse("r3", 30, "blade_regular"), set_run("r3", length_m=20.0)),
        "r3",
    ),
    "busbar-over": (into("r3", named("busbar", "u1", rated_a=2.0)), "u1"),
    "switch-over": (into("r3", named("switch", "s2", rated_a=2.0)), "s2"),
    "switch-short-time": (set_part("s1", short_time_a=10.0), "s1"),
    "pin-over": (into("r3", named("joint", "j1", form="plug", rated_a=2.0)), "j1"),
    "relay-over": (both(KEYED_RELAY, set_part("y1", contact_a=2.0)), "y1"),
    "keyed-feed-over": (into("r3", named("keyed_feed", "k2", rated_a=2.0)), "k2"),
    "shunt-over": (
        both(
            add(
                named("shunt", "h1", rated_a=1.0),
                wire("r23", "b1", "h1", 0.3, legs="negative"),
                wire("r27", "h1", "s1", 0.3, legs="negative"),
            ),
            set_run("r1", legs="positive"),
        ),
        "h1",
    ),
    "stays-live-switched": (set_part("l1", stays_live=True), "l1"),
    "stud-crowded": (
        both(
            into("r3", named("joint", "j1", form="stud")), add(*(wire(f"r{30 + k}", "j1", "l2", 1.0) for k in range(4)))
        ),
        "j1",
    ),
    "lug-not-made": (both(pin_wire("r1", "4"), set_run("r1", start={"part": "b1", "stud": "M4"})), "r1"),
    "splice-overfull": (
        add(
            named("joint", "j9", form="splice"),
            *(named("load", f"l9{k}", power_w=5.0, hours_per_day=1) for k in range(3)),
            wire("r90", {"part": "f1", "way": 6}, "j9", 1.0, fuse_at_start={}),
            *(wire(f"r9{k + 1}", "j9", f"l9{k}", 1.0) for k in range(3)),
        ),
        "j9",
    ),
    "stud-short": (
        both(
            into("r3", named("joint", "j1", form="stud")),
            add(*(wire(f"r{30 + k}", "j1", "l2", 1.0) for k in range(2))),
            *(pin_wire(run_id, "2/0") for run_id in ("r3", "r20", "r30", "r31")),
        ),
        "j1",
    ),
    "post-stacked": (
        add(named("load", "l9", power_w=5.0, hours_per_day=0), wire("r9", "b1", "l9", fuse_at_start={})),
        "b1",
    ),
    "block-no-prefuse": (both(set_part("f1", total_limit_a=20.0), pin_fuse("r1", 40)), "f1"),
    "block-ways-sum": (both(set_part("f1", total_limit_a=8.0), set_run("r1", fuse_at_start=None)), "f1"),
    "feeder-shorter": (far_loads, "f1"),
    "no-isolator": (set_part("s1", use="circuit"), "plan"),
    "live-when-off": (
        add(named("load", "l9", power_w=5.0, hours_per_day=0), wire("r9", "b1", "l9", fuse_at_start={})),
        "s1",
    ),
    "keyed-constant": (set_part("l2", keyed=True), "l2"),
    "coil-unfused": (both(KEYED_RELAY, pin_fuse("r21", 20)), "y1"),
    "coil-unfed": (into("r3", named("relay", "y1", suppression="diode")), "y1"),
    "coil-kick": (both(KEYED_RELAY, set_part("y1", suppression="none")), "y1"),
    "solenoid-not-continuous": (both(KEYED_RELAY, set_part("y1", continuous=False)), "y1"),
    "relay-self-fed": (self_fed, "y1"),
    "inverter-no-switch": (
        both(
            set_part("s1", use="circuit"),
            set_part("l2", device="inverter"),
            drop_run("r8"),
            drop_run("r1"),
            add(wire("r1", "b1", "f1", 2.0, fuse_at_start={"distance_m": 0.1})),
        ),
        "l2",
    ),
    "short-by-wiring": (reversed_short, "b1"),
    "sources-tied": (both(SECOND, set_part("b2", rated_v=24)), "b2"),
    "part-unfed": (add(named("busbar", "u1")), "u1"),
    "return-missing": (set_run("r3", legs="positive"), "l2"),
    "return-thinner": (
        both(
            set_run("r3", legs="positive"),
            add(wire("r28", "l2", "f1", 3.0, legs="negative", wire={"system": "awg", "size": "18", "reason": "test"})),
        ),
        "r28",
    ),
    "shunt-bypassed": (
        both(SHUNT, add(named("load", "l9", power_w=5.0, hours_per_day=0), wire("r9", "b1", "l9", fuse_at_start={}))),
        "h1",
    ),
    "chassis-cannot-return": (
        both(by_chassis, lambda doc: doc["job"].update(vehicle={"body": "fibreglass_or_wood"})),
        "l3",
    ),
    "chassis-several": (
        both(BOND, add(named("chassis_point", "g2"), wire("r25", "f1", "g2", 0.5, legs="negative"))),
        "g2",
    ),
    "bond-small": (both(BOND, pin_wire("r24", "18")), "r24"),
    "bond-corrodes": (both(BOND, set_part("g1", sealed=False)), "g1"),
    "bond-through-paint": (both(BOND, set_part("g1", bare_metal=False)), "g1"),
    "wire-not-for-vehicles": (set_run("r3", wire_type="solid"), "r3"),
    "wire-one-up": (
        both(
            rules(size_worth_m=0),
            pin_wire("r1", "8"),
            pin_wire("r8", "8"),
            pin_wire("r2", "12"),
            pin_wire("r4", "16"),
            set_part("l2", current_a=21.0),
            set_run("r3", length_m=0.5),
        ),
        "r3",
    ),
    "loads-in-series": (set_part("l3", rated_v=6.0), "l3"),
    "hole-no-grommet": (set_run("r3", passes=[{"through": "metal", "grommet": False}]), "r3"),
    "hole-unsealed": (set_run("r3", passes=[{"through": "firewall", "sealed": False}]), "r3"),
    "span-unsupported": (set_run("r3", unsupported_m=0.8), "r3"),
    "joint-over": (
        lambda doc: (part(doc, "l2").update(current_a=40.0), run(doc, "r3")["finish"].update(joint="push_on"))[0],
        "r3",
    ),
    "wire-far-thicker": (pin_wire("r3", "4"), "r3"),
    "fuse-at-load": (both(set_part("l2", current_a=7.3), pin_fuse("r3", 7.5)), "r3"),
    "part-place": (place("f1", "bay"), "f1"),
    "guard-above-rating": (both(into("r3", named("busbar", "u1", rated_a=12.0)), pin_fuse("r3", 20)), "u1"),
    "bond-missing": (into("r3", named("busbar", "u1")), "plan"),
    "body-not-cleared": (bad_body, "plan"),
    "waiver-idle": (lambda doc: doc.update(waivers=[{"code": "fuse-missing", "subject": "r2", "reason": "x"}]), "r2"),
}


# Every shipped family is made for 28 V and more and has its breaking capacity, so these need a table that lacks one.
NEEDS_A_TABLE = {"fuse-low-voltage", "breaking-unknown"}


def found(doc: Doc) -> dict[tuple[str, str], Finding]:
    return every_finding(evaluate(parse_plan(doc)).findings)


def base() -> Doc:
    """The small plan with an isolating switch, a battery whose short every fuse breaks, and no keyed load."""
    doc = small_document()
    doc["zones"].append({"id": "hot", "name": "Oven", "ambient_c": 65})
    doc["places"] += [
        {"id": "bay", "name": "Engine bay", "zone": "z2"},
        {"id": "far", "name": "Far end", "zone": "z1"},
    ]
    part(doc, "b1")["short_circuit_a"] = 900.0
    part(doc, "l2")["keyed"] = False
    doc["parts"].append({"kind": "switch", "id": "s1", "name": "Main switch", "tag": "S01", "use": "isolator"})
    run(doc, "r1")["finish"] = {"part": "s1"}
    doc["runs"].append(wire("r8", "s1", "f1", 0.3))
    return doc


def test_every_code_has_a_case() -> None:
    from tests.core.checks.test_layout_findings import SPOILS as OF_LAYOUT
    from tests.core.checks.test_source_findings import SPOILS as OF_SOURCES

    assert set(SPOILS) | set(OF_SOURCES) | set(OF_LAYOUT) == set(CODES)
    assert len(SPOILS) + len(OF_SOURCES) + len(OF_LAYOUT) == len(CODES)


def test_small_plan_is_silent() -> None:
    assert found(base()) == {}


@pytest.mark.parametrize("code", sorted(set(SPOILS) - NEEDS_A_TABLE))
def test_code_fires_where_it_should(code: str) -> None:
    spoil, subject = SPOILS[code]
    doc = base()
    spoil(doc)
    assert (code, subject) in found(doc)


def test_fuse_low_voltage_fires_for_a_family_made_for_less(monkeypatch: pytest.MonkeyPatch) -> None:
    from dataclasses import replace

    from lucernis.core.checks import protection

    known = protection.family
    monkeypatch.setattr(protection, "family", lambda name: replace(known(name), max_v=10.0))
    assert ("fuse-low-voltage", "r3") in found(base())


def test_breaking_unknown_fires_for_a_family_without_a_figure(monkeypatch: pytest.MonkeyPatch) -> None:
    from dataclasses import replace

    from lucernis.core.checks import faults

    known = faults.breaking_capacity
    assert ("breaking-unknown", "r1") not in found(base())
    monkeypatch.setattr(faults, "breaking_capacity", lambda *asked: replace(known(*asked), breaking_a=None))
    assert ("breaking-unknown", "r1") in found(base())


# What only a person can do has no edit.
BY_HAND = {
    "battery-missing", "block-over-total", "block-over-way", "block-ways", "block-ways-sum", "body-not-cleared",
    "bond-missing", "breaking-backed", "chassis-cannot-return", "chassis-several", "circuit-closes-loop",
    "coil-unfed", "drop-out-of-reach", "fuse-none-fits", "keyed-feed-over", "lengths-guessed", "load-collapse",
    "load-no-figure", "load-no-hours", "load-under-voltage", "load-unfed", "loads-in-series", "lug-not-made",
    "not-selective",
    "part-unfed", "post-stacked", "relay-self-fed", "return-missing", "run-nothing-behind", "run-unfed",
    "short-by-wiring", "shunt-bypassed", "sources-tied", "stud-crowded", "stud-short", "switch-short-time",
    "waiver-idle",
    "wire-insulation-cool", "wire-look-alike", "wire-nothing-fits",
}  # fmt: skip


@pytest.mark.parametrize("code", sorted(set(SPOILS) - NEEDS_A_TABLE))
def test_every_offered_mend_can_be_carried_out_and_mends(code: str) -> None:
    doc = base()
    SPOILS[code][0](doc)
    plan = parse_plan(doc)
    told = every_finding(evaluate(plan).findings)
    one = told[(code, SPOILS[code][1])]
    assert bool(one.fixes) is (code not in BY_HAND)
    for fix in one.fixes:
        after = every_finding(evaluate(apply_edits(plan, fix.edits)).findings)
        assert (code, one.subject) not in after, fix.label


@pytest.mark.parametrize("code", sorted(set(SPOILS) - NEEDS_A_TABLE))
def test_findings_carry_three_lines_and_no_exclamation(code: str) -> None:
    doc = base()
    SPOILS[code][0](doc)
    for one in found(doc).values():
        assert one.what
        assert one.why
        assert one.mend
        assert severity_stands(one)
        assert "!" not in one.what + one.why + one.mend


def test_waived_finding_stays_and_no_longer_counts() -> None:
    doc = base()
    SPOILS["fuse-too-far"][0](doc)
    doc["waivers"] = [{"code": "fuse-too-far", "subject": "r1", "reason": "moved next week"}]
    report = evaluate(parse_plan(doc))
    waived = [one for one in report.findings if one.waived is not None]
    assert [(one.code, one.waived) for one in waived] == [("fuse-too-far", "moved next week")]
    assert (report.summary.open_stop, report.summary.waived) == (0, 1)
    assert report.findings[-1] is waived[0]


def test_pinned_fuse_above_the_wire_is_caught_although_150_percent_would_cover_it() -> None:
    doc = base()
    part(doc, "l2").update(current_a=18.0)
    run(doc, "r3").update(length_m=0.5)
    pin_wire("r3", "16")(doc)
    pin_fuse("r3", 35)(doc)
    assert ("fuse-above-wire", "r3") in found(doc)


def test_the_mend_of_a_fuse_in_another_run_unpins_that_one() -> None:
    """A lamp behind a lamp hangs on the fuse of the first: its own run has none to unpin."""
    doc = base()
    both(pin_wire("r2", "14"), pin_wire("r4", "14"), pin_fuse("r2", 40))(doc)
    assert "fuse_at_start" not in run(doc, "r4")
    here = found(doc)["fuse-above-wire", "r4"]
    pins = [(edit.run, edit.rating_a) for fix in here.fixes for edit in fix.edits if edit.op == "pin_fuse"]
    assert pins == [("r2", None)]


def test_out_of_reach_says_what_would_help() -> None:
    doc = base()
    part(doc, "l2").update(sensitive=True, current_a=10.0)
    run(doc, "r3").update(length_m=40.0)
    doc["practice"]["overrides"] = [{"rule": "shelf", "value": ["14", "12", "10"], "reason": "test"}]
    finding = found(doc)[("drop-out-of-reach", "l2")]
    assert "24 V" in finding.mend
    assert "a fuse block nearer to it" in finding.mend.lower()


@pytest.mark.parametrize(("spoil", "says", "says_not"), [
    (set_part("l2", current_a=600.0, maker={"greatest": {"system": "awg", "size": "10"}}), "split the loads",
     "a fuse of its own"),
    (both(set_part("l3", maker={"greatest": {"system": "awg", "size": "16"}}), pin_fuse("r2", 35)), "a fuse of its own",
     "split the loads")])  # fmt: skip
def test_help_where_nothing_fits_goes_by_what_stops_the_sizes(spoil: Spoil, says: str, says_not: str) -> None:
    doc = base()
    spoil(doc)
    finding = next(one for (code, _), one in found(doc).items() if code == "wire-nothing-fits")
    assert says in finding.mend.lower()
    assert says_not not in finding.mend.lower()


def test_a_waived_finding_stands_apart_from_what_has_the_same_cause() -> None:
    """One thin pinned feeder starves three devices: told once, and the one that is waived by itself."""
    doc = base()
    pin_wire("r1", "16")(doc)
    set_run("r1", length_m=6.0)(doc)
    for name in ("l1", "l2", "l3"):
        part(doc, name)["sensitive"] = True
    whole = evaluate(parse_plan(doc)).findings
    starved = [one for one in every_finding(whole).values() if one.code == "drop-over-limit"]
    assert len(starved) == 3
    assert len([one for one in whole if one.code == "drop-over-limit"]) == 1
    doc["waivers"] = [{"code": "drop-over-limit", "subject": "l2", "reason": "known"}]
    after = evaluate(parse_plan(doc)).findings
    alone = [one for one in after if one.waived is not None]
    assert [(one.subject, one.waived, one.consequences) for one in alone] == [("l2", "known", [])]
