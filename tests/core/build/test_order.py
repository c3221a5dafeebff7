"""The order of work: nothing before what it needs, everything once, what a change undoes, what was done too early."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.order import Order, order_of_work
from lucernis.core.build.progress import Tick, progress
from lucernis.core.build.since import cut_changes
from lucernis.core.build.steps import PHASES, torque_text
from lucernis.core.harness.harness import harness_of
from lucernis.core.layout.laid import laid_out
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from tests.core.checks.test_findings import base, into, named, pin_wire, set_run
from tests.core.checks.test_layout_findings import laid

Doc = dict[str, Any]


def check_order(order: Order) -> None:
    """What holds of every order of work."""
    every = [*order.steps, *order.power_up]
    at = {step.id: number for number, step in enumerate(every)}
    assert len(at) == len(every), "every step once"
    for step in every:
        for need in step.needs:
            assert at[need] < at[step.id], f"{step.id} before {need}"
    # A hole is drilled before anything is pulled through it, negatives that pass a switch by included.
    drilled = {step.id for step in order.steps if step.phase == "holes"}
    for step in order.steps:
        if step.phase == "pull" and step.work == "pull":
            assert {need for need in step.needs if need.startswith("hole:")} <= drilled
    phases = [key for key, _ in PHASES]
    seen = [phases.index(step.phase) for step in order.steps]
    assert seen == sorted(seen)


def at(order: Order, *names: str) -> list[int]:
    ids = [step.id for step in order.steps]
    return [ids.index(name) for name in names]


def step(order: Order, name: str) -> Any:
    return next(one for one in [*order.steps, *order.power_up] if one.id == name)


@pytest.mark.parametrize("job", JOBS)
def test_each_piece_waits_for_every_hole_it_passes(job: str) -> None:
    """Piece by piece from the plan: holes of its channels and those of the runs it lies along."""
    plan = laid_out(demo_plan(job))
    order = order_of_work(plan)
    number = {step.id: at for at, step in enumerate(order.steps)}
    through = 0
    for piece in cut_list(plan).pieces:
        waits = [
            f"hole:{one.id}:{hole.id}" for one in plan.channels if one.id in piece.channels for hole in one.crossings
        ]
        waits += [f"hole:run:{one.id}:{hole.id}" for one in plan.runs if one.id in piece.runs for hole in one.passes]
        for hole in waits:
            assert number[hole] < number[f"pull:{piece.run}"], (piece.id, hole)
            assert hole in step(order, f"pull:{piece.run}").needs, (piece.id, hole)
        through += len(waits)
    assert through > 0


def test_a_negative_that_passes_a_switch_by_waits_for_the_hole_behind_it() -> None:
    """The positive goes by the switch, the negative in one piece beside it: through the hole of the second run too."""
    doc = base()
    into("r3", named("switch", "s2"))(doc)
    hole = {"id": "h1", "through": "metal"}
    behind = next(one for one in doc["runs"] if one["start"]["part"] == "s2")
    behind["passes"] = [hole]
    order = order_of_work(parse_plan(doc))
    drilled = f"hole:run:{behind['id']}:h1"
    assert drilled in step(order, "pull:r3").needs
    assert drilled in step(order, f"pull:{behind['id']}").needs
    check_order(order)


@pytest.mark.parametrize("job", JOBS)
def test_every_piece_is_cut_crimped_and_landed_once_and_nothing_before_what_it_needs(job: str) -> None:
    plan = demo_plan(job)
    order, pieces = order_of_work(plan), cut_list(plan).pieces
    check_order(order)
    every = [*order.steps, *order.power_up]
    amount = {phase: sum(one.amount for one in every if one.phase == phase) for phase, _ in PHASES}
    seals = sum(one.amount for one in order.steps if one.work == "seal")
    assert amount["cut"] == len(pieces)
    assert amount["crimp"] == 2 * len(pieces)
    assert amount["pull"] - seals == pytest.approx(sum(piece.way_m for piece in pieces))
    # At parts and in holders alike, each with its torque where there is a stud.
    phases = ("negatives", "positives", "batteries", "sun")
    landed = [one for one in every if one.phase in phases and not one.id.startswith("lead:")]
    assert sum(one.amount for one in landed) == 2 * len(pieces)
    studs = sum(bool(end.stud) for piece in pieces for end in piece.ends)
    assert sum(one.amount for one in landed if one.torque) == studs
    assert order.steps[0].id == "safe"


def test_the_order_a_tradesman_keeps() -> None:
    """Common practice, no source: negatives before positives, load ends first, the battery's negative last of all but
    panels, which are plugged when a battery holds their controller's volts."""
    order = order_of_work(demo_plan("heron"))
    batteries = [one for one in order.steps if one.phase == "batteries"]
    assert [one.id.split(":")[0] for one in batteries] == ["positive", "positive", "negative", "negative"]
    assert all(one.id in batteries[-1].needs for one in batteries[:2])
    assert "negative goes on last" in batteries[-1].caution
    assert not batteries[0].caution
    assert not [one for one in order.steps if one.phase == "sun"]
    sun = [one for one in order.power_up if one.phase == "sun" and not one.id.startswith("lead:")]
    assert [one.text.split(" at ")[1].split(",")[0] for one in sun] == ["Solar controller"] * 2 + ["Roof panels"] * 2
    assert all(batteries[-1].id in one.needs for one in sun)
    controller = next(one.id for one in order.power_up if one.text.startswith("C35:"))
    assert all(controller in one.needs for one in sun), "the controller has its battery before its panels"
    bond = next(one for one in order.steps if one.phase == "negatives")
    assert "the bond" in bond.text
    pump = next(run for run in demo_plan("heron").runs if run.tag == "C11")
    load, block = at(order, f"positive:{pump.id}:b", f"positive:{pump.id}:a")
    assert load < block


def test_a_wall_waits_for_pulls_and_crimps_and_a_hole_comes_before_its_wire() -> None:
    doc = laid()
    next(one for one in doc["channels"] if one["id"] == "c1")["closed"] = True
    next(one for one in doc["channels"] if one["id"] == "c2")["crossings"] = [{"id": "h1", "through": "firewall"}]
    order = order_of_work(parse_plan(doc))
    check_order(order)
    close = step(order, "close:c1")
    assert {"pull:r3", "crimp:r3:a", "crimp:r3:b"} <= set(close.needs)
    hole = step(order, "hole:c2:h1")
    assert "hole:c2:h1" in step(order, "pull:r3").needs
    assert "drill" in hole.text
    assert "Look at the far side" in hole.caution
    assert {"pull:r3"} <= set(step(order, "seal:c2:h1").needs)
    next(one for one in doc["channels"] if one["id"] == "c2")["crossings"][0]["existing"] = True
    there = step(order_of_work(parse_plan(doc)), "hole:c2:h1")
    assert (there.caution, there.amount) == ("", 0)
    next(one for one in doc["channels"] if one["id"] == "c1")["closed"] = False
    assert not [one for one in order_of_work(parse_plan(doc)).steps if one.phase == "close"]


def test_a_wall_before_what_is_landed_is_closed_after_it() -> None:
    order = order_of_work(demo_plan("heron"))
    ceiling = next(one for one in order.steps if one.text == "Close the wall before Ceiling")
    places = {part.id: part.place for part in demo_plan("heron").parts}
    ends = [
        one.id
        for run in demo_plan("heron").runs
        for letter, end in (("a", run.start), ("b", run.finish))
        for one in order.steps
        if places[end.part] == ceiling.subject and one.id.endswith(f":{run.id}:{letter}")
    ]
    assert len(ends) > 6
    assert set(ceiling.needs) == set(ends)
    early = progress(order, ticks(order, ceiling.id)).amiss
    assert [one.code for one in early] == ["wall-closed-early"]


def test_the_first_power_up_goes_from_the_battery_outwards_and_small_fuses_first() -> None:
    """Common practice, no source."""
    order = order_of_work(demo_plan("heron"))
    texts = [one.text for one in order.power_up]
    assert texts[0].startswith("Every fuse out")
    assert texts[1] == "House bank at rest"
    main, isolator, feeder, branch = (
        next(at for at, text in enumerate(texts) if text.startswith(begin))
        for begin in ("C01: Class T", "Isolating switch", "C02: ANL", "C05: Regular blade")
    )
    assert main < isolator < feeder < branch
    assert order.power_up[main].reading == "volts at Isolating switch"
    ratings = [float(text.split(" A in")[0].split()[-1]) for text in texts[branch:] if " A in, " in text]
    assert ratings == sorted(ratings)
    assert min(ratings) < max(ratings)
    assert texts[-1].startswith("Off again; every stud tightened")


@pytest.mark.parametrize(("stud", "low", "high"), [("M5", 2, 3), ("M8", 8, 12), ("M10", 15, 20)])
def test_a_stud_has_its_torque_marked_as_practice(stud: str, low: float, high: float) -> None:
    """Common practice, no source."""
    assert torque_text(stud) == f"{stud}: {low} to {high} Nm, practice; the maker's sheet wins"
    assert torque_text("M7") == ""
    landed = step(order_of_work(demo_plan("heron")), "positive:r1:a")
    assert landed.torque.startswith("M8: 8 to 12 Nm")


def ticks(order: Order, *names: str, who: str = "Bea") -> list[Tick]:
    return [
        Tick(number, name, step(order, name).done_as, "", who, "2026-11-27T09:00:00+00:00")
        for number, name in enumerate(names, start=1)
    ]


def test_progress_tells_what_is_done_what_may_be_done_and_what_waits() -> None:
    order = order_of_work(parse_plan(base()))
    nothing = progress(order, [])
    standing = {one.step.id: one.standing for one in nothing.steps}
    assert (standing["safe"], standing["cut:r3"], standing["pull:r3"]) == ("ready", "ready", "waiting")
    assert (nothing.done, nothing.amiss, nothing.gone) == (0, [], [])
    some = progress(order, ticks(order, "cut:r3"))
    states = {one.step.id: one for one in some.steps}
    assert (states["cut:r3"].standing, states["cut:r3"].who) == ("done", "Bea")
    assert states["pull:r3"].standing == "ready"
    assert states["crimp:r3:a"].waits_for == [states["pull:r3"].step.text]
    assert (some.done, some.total) == (1, len(order.steps) + len(order.power_up))
    whole = progress(order, ticks(order, *(one.id for one in [*order.steps, *order.power_up])))
    assert {one.standing for one in [*whole.steps, *whole.power_up]} == {"done"}
    assert whole.amiss == []


def test_a_step_before_what_it_needs_and_a_wall_closed_too_early_are_told() -> None:
    doc = laid()
    next(one for one in doc["channels"] if one["id"] == "c1")["closed"] = True
    order = order_of_work(parse_plan(doc))
    early = progress(order, ticks(order, "cut:r3", "crimp:r3:a"))
    (found,) = early.amiss
    assert (found.code, found.step) == ("step-early", "crimp:r3:a")
    assert step(order, "pull:r3").text in found.what
    needs = step(order, "close:c1").needs
    (wall,) = [one for one in progress(order, ticks(order, "close:c1")).amiss if one.step == "close:c1"]
    assert wall.code == "wall-closed-early"
    assert f"and {len(needs) - 3} more, not ticked" in wall.what
    behind = [one.id for one in order.steps if one.phase in ("safe", "holes", "cut", "pull", "crimp")]
    assert progress(order, ticks(order, *behind, "close:c1")).amiss == []


def test_a_changed_plan_says_which_done_steps_it_undoes() -> None:
    before = order_of_work(parse_plan(base()))
    done = ticks(before, "cut:r3", "pull:r3", "cut:r1")
    thicker = base()
    pin_wire("r3", "14")(thicker)
    now = progress(order_of_work(parse_plan(thicker)), done)
    states = {one.step.id: one for one in now.steps}
    assert (states["cut:r3"].standing, states["cut:r1"].standing) == ("changed", "done")
    (told,) = [one for one in now.amiss if one.step == "cut:r3"]
    assert told.code == "done-otherwise"
    assert "16 AWG" in told.what.split(", now ")[0]
    assert "14 AWG" in told.what.split(", now ")[1]
    assert states["crimp:r3:a"].waits_for, "what was pulled otherwise has to be pulled again"
    without = base()
    without["runs"] = [one for one in without["runs"] if one["id"] != "r3"]
    gone = progress(order_of_work(parse_plan(without)), done).gone
    assert [one.step for one in gone] == ["cut:r3", "pull:r3"]


def test_only_what_changed_since_the_list_was_printed_is_told() -> None:
    then, longer, thicker = base(), base(), base()
    set_run("r4", length_m=2.0)(longer)
    pin_wire("r3", "14")(thicker)
    before = cut_list(parse_plan(then)).pieces
    assert cut_changes(before, before) == []
    found = cut_changes(before, cut_list(parse_plan(longer)).pieces)
    assert [(one.tag, one.leg, one.kind, one.was, one.now) for one in found] == [
        ("C04", "+", "other", "1.63 m", "2.16 m"),
        ("C04", "−", "other", "1.63 m", "2.16 m"),
    ]
    (thick,) = [one for one in cut_changes(before, cut_list(parse_plan(thicker)).pieces) if one.id == "r3+1.1"]
    assert thick.was == "16 AWG red, push-on 6.3 mm, red at Block, push-on 6.3 mm, red at Pump"
    assert thick.now == "14 AWG red, push-on 6.3 mm, blue at Block, push-on 6.3 mm, blue at Pump"
    short = base()
    short["runs"] = [one for one in short["runs"] if one["id"] != "r3"]
    gone = cut_changes(cut_list(parse_plan(then)).pieces, cut_list(parse_plan(short)).pieces)
    assert {one.tag for one in gone if one.kind == "gone"} == {"C03"}
    new = cut_changes(cut_list(parse_plan(short)).pieces, cut_list(parse_plan(then)).pieces)
    assert {one.tag for one in new if one.kind == "new"} == {"C03"}


def test_a_part_of_the_vehicle_is_not_fastened_and_heavy_ones_take_longer() -> None:
    order = order_of_work(demo_plan("heron"))
    fastened = {one.subject: one for one in order.steps if one.phase == "mount"}
    kinds = {part.id: part for part in demo_plan("heron").parts}
    assert not [one for one in fastened if one in kinds and kinds[one].kind in ("alternator", "keyed_feed")]
    assert not [one for one in fastened if getattr(kinds.get(one), "use", "") == "starter"]
    parts = {one: two for one, two in fastened.items() if one in kinds}
    assert len(fastened) > len(parts), "holders are fastened too"
    works = {kinds[one].kind: two.work for one, two in parts.items() if kinds[one].kind in ("battery", "busbar")}
    assert works == {"battery": "mount_heavy", "busbar": "mount"}
    shore = next(two for one, two in parts.items() if kinds[one].name == "Mains charger")
    assert "licensed" in shore.caution


def test_every_lead_a_plan_names_in_passing_is_laid_once_where_its_kind_belongs() -> None:
    """Cases with the negatives, signals and lamps with the positives, panels' own before the panels are plugged."""
    plan = demo_plan("heron")
    order = order_of_work(plan)
    steps = [*order.steps, *order.power_up]
    laid = [step for step in steps if step.id.startswith("lead:")]
    assert sorted(step.id.removeprefix("lead:") for step in laid) == sorted(one.id for one in harness_of(plan).leads)
    phase = {"case": "negatives", "panel": "sun"}
    assert all(step.phase == phase.get(step.id.split(":")[1], "positives") for step in laid)
    at = {step.id: k for k, step in enumerate(steps)}
    assert all(at[need] < at[step.id] for step in laid for need in step.needs)
    own = next(step for step in laid if step.phase == "sun")
    plugged = [
        step for step in steps if step.phase == "sun" and not step.id.startswith("lead:") and step.work == "connect"
    ]
    assert plugged
    assert all(at[own.id] < at[step.id] for step in plugged)
    batteries = [step for step in steps if step.phase == "batteries"]
    assert all({one.id for one in laid if one.phase != "sun"} <= set(step.needs) for step in batteries)
