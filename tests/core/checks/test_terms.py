"""Terms of the checks, each where it decides: words a person acts on, mends, and what is folded under what."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.checks.fixes import thicker_wire
from lucernis.core.checks.raising import Raised
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import study_faults
from lucernis.core.report import Finding
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.rules import plan_rules
from tests.core.checks.test_findings import (
    BOND,
    KEYED_RELAY,
    Spoil,
    add,
    base,
    both,
    found,
    into,
    named,
    pin_fuse,
    pin_wire,
    rules,
    set_part,
    set_run,
    wire,
)
from tests.core.checks.test_source_findings import link
from tests.helpers import powered_document

Doc = dict[str, Any]


def told(*spoils: Spoil, doc: Doc | None = None) -> dict[tuple[str, str], Finding]:
    """Every finding of a spoiled plan, folded ones as well."""
    made = base() if doc is None else doc
    both(*spoils)(made)
    return found(made)


def heads(*spoils: Spoil, doc: Doc | None = None) -> dict[tuple[str, str], set[tuple[str, str]]]:
    """Findings that stand by themselves, each with what is folded under it."""
    made = base() if doc is None else doc
    both(*spoils)(made)
    report = evaluate(parse_plan(made))
    return {(one.code, one.subject): {(c.code, c.subject) for c in one.consequences} for one in report.findings}


@pytest.mark.parametrize("rating_a", [60, 100, 150])
def test_the_switch_that_is_offered_stands_what_the_main_fuse_lets_through(rating_a: float) -> None:
    """Eight amperes flow; a switch for those would be the first thing to go when the fuse is asked to open."""
    finding = told(set_part("s1", use="circuit"), pin_fuse("r1", rating_a))[("no-isolator", "plan")]
    (edit,) = finding.fixes[0].edits
    assert rating_a <= edit.model_dump()["part"]["rated_a"] <= 2 * rating_a


def test_a_breaker_worked_by_hand_is_a_switch_but_does_not_excuse_what_stays_live() -> None:
    circuit = set_part("s1", use="circuit")
    breaker = pin_fuse("r1", 40, "breaker_manual")
    assert ("no-isolator", "plan") not in told(circuit, breaker)
    lone = both(
        add(
            named("load", "l9", power_w=5.0, hours_per_day=0), wire("r9", "b1", "l9", fuse_at_start={"distance_m": 0.1})
        )
    )
    assert ("live-when-off", "s1") in told(lone, breaker)


def test_what_counts_as_drop_is_asked_of_an_input_too() -> None:
    """Fuses and joints are counted by one school and not by the other; the same wire loses less by the other."""
    lost_v = {}
    for counts in ("everything", "conductors"):
        doc = powered_document()
        both(rules(drop_counts=counts), pin_wire("r21", "10"))(doc)
        lost_v[counts] = found(doc)[("charger-wire-drop", "q1")].figures["lost_v"]
    assert lost_v["everything"] > lost_v["conductors"] * 1.02


def test_a_plain_link_names_only_what_it_is_too_much_for() -> None:
    """A large alternator and stout wire: what passes is told, and nothing is said to be overrun."""
    stout = both(link, set_part("a1", rated_a=600.0), pin_wire("r9", "4/0"), pin_wire("r8", "4/0"))
    well = told(stout, set_part("i1", rated_a=500.0), doc=powered_document())[("isolator-unlike", "i1")]
    assert ": over" not in well.what
    over = told(stout, set_part("i1", rated_a=5.0), doc=powered_document())[("isolator-unlike", "i1")]
    assert over.what.endswith(": over its 5 A")
    thin = told(stout, set_part("a1", rated_a=60.0, vehicle_a=29.0), doc=powered_document())[("isolator-unlike", "i1")]
    assert "the 1 A the alternator has left" in thin.what


def test_two_causes_stay_two_findings() -> None:
    """A coil without a fuse and a long wire whose fuse need not open have nothing to do with each other."""
    alone = heads(
        KEYED_RELAY, pin_fuse("r21", 15), set_run("r3", length_m=60.0), pin_wire("r3", "16"), pin_fuse("r3", 40)
    )
    assert ("coil-unfused", "y1") in alone
    assert ("fault-not-cleared", "r20") in alone


def test_what_follows_from_a_missing_fuse_is_folded_under_it() -> None:
    """The feeder without its fuse is the cause; that the block's ways have nothing before them follows."""
    under = heads(set_run("r1", fuse_at_start=None), set_part("f1", total_limit_a=10.0))
    assert ("block-no-prefuse", "f1") in under[("fuse-missing", "r1")]


def test_wires_too_thin_behind_one_pinned_fuse_are_each_their_own_matter() -> None:
    thin = heads(pin_wire("r2", "18"), pin_wire("r4", "18"), pin_fuse("r2", 35))
    assert thin[("fuse-above-wire", "r2")] == {("wire-below-least", "r2")}
    assert ("fuse-above-wire", "r4") in thin


def test_runs_in_a_row_that_nothing_fits_are_one_finding() -> None:
    """600 A through a joint: both stretches are stopped alike, the first of them says it."""
    under = heads(set_part("l2", current_a=600.0), into("r3", named("joint", "j1", form="stud")))
    assert ("wire-nothing-fits", "r20") in under[("wire-nothing-fits", "r3")]
    assert ("wire-nothing-fits", "r8") in under[("wire-nothing-fits", "r1")]


def test_a_maker_s_terminal_says_whether_its_limit_is_only_usual() -> None:
    own = told(set_part("l1", maker={"greatest": {"system": "awg", "size": "14"}}), pin_wire("r2", "12"))
    assert "as is usual" not in own[("wire-above-terminal", "r2")].what
    usual = told(pin_wire("r2", "4"))
    assert "as is usual; its maker's sheet wins" in usual[("wire-above-terminal", "r2")].what


def test_a_way_over_its_limit_says_what_asks_for_it() -> None:
    """A pin asks where there is one; without one the current does."""
    assert "6.0 A on a way for 5 A" in told(set_part("f1", way_limit_a=5.0))[("block-over-way", "r3")].asked
    pinned = told(set_part("f1", way_limit_a=5.0), pin_fuse("r3", 15))[("block-over-way", "r3")]
    assert "on a way for" not in pinned.asked


def of_code(code: str, found: dict[tuple[str, str], Finding]) -> Finding:
    return next(one for (name, _), one in found.items() if name == code)


def test_a_ring_says_whether_both_its_ends_are_fused() -> None:
    ring = add(wire("r9", "b1", "l1", 2.0, fuse_at_start={"distance_m": 0.1}))
    one = of_code("circuit-closes-loop", told(ring))
    closing = set_run(one.subject, fuse_at_start={"distance_m": 0.1}, fuse_at_finish={"distance_m": 0.1})
    fused = of_code("circuit-closes-loop", told(ring, closing))
    assert fused.subject == one.subject
    assert ", not fused at both ends (" in one.what
    assert ", fused at both ends (" in fused.what


def test_thicker_wire_is_the_next_there_is_and_never_the_same() -> None:
    doc = base()
    pin_wire("r3", "14")(doc)
    plan = parse_plan(doc)
    sized = sized_plan(plan)
    raised = Raised(plan, plan_rules(plan), sized, study_faults(plan, sized))
    run = next(one for one in plan.runs if one.id == "r3")
    sizes = [
        thicker_wire(raised, run, "test", at_least_mm2=area)[0].edits[0].model_dump()["size"] for area in (0.0, 9.0)
    ]
    assert sizes == ["12 AWG", "6 AWG"]


@pytest.mark.parametrize(("units", "words"), [("metric", "178 mm allowed"), ("us", "7 in allowed")])
def test_short_lengths_are_told_in_small_units(units: str, words: str) -> None:
    """Seven inches before the fuse: never "0.178 m" or "0.583 ft"."""
    doc = base() | {"units": units}
    assert words in told(set_run("r1", fuse_at_start={"distance_m": 0.9}), doc=doc)[("fuse-too-far", "r1")].what


def test_a_pin_is_let_go_only_where_a_fuse_the_maker_allows_is_made() -> None:
    """10 A pinned where 7.5 A would do: letting go helps. Where none as small is made only a way of its own does."""
    shared = set_part("l3", maker={"fuse_a": 7.5})
    assert len(told(shared, pin_fuse("r2", 10))[("fuse-above-maker", "r2")].fixes) == 2
    small = set_part("l3", maker={"fuse_a": 4.5})
    assert len(told(small, pin_fuse("r2", 10))[("fuse-above-maker", "r2")].fixes) == 1


@pytest.mark.parametrize(("body", "sealed", "told_of"), [
    ("steel", None, False), ("steel", False, True), ("steel", True, False),
    ("aluminium", None, True), ("aluminium", False, True), ("aluminium", True, False)])  # fmt: skip
def test_copper_on_aluminium_is_asked_about_and_a_bolt_said_to_be_open_is_told(
    body: str, sealed: bool | None, told_of: bool
) -> None:
    doc = base()
    doc["job"]["vehicle"] = {"body": body}
    both(BOND, set_part("g1", sealed=sealed))(doc)
    assert (("bond-corrodes", "g1") in found(doc)) is told_of
