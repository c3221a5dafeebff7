"""What is bought besides wire, what it is offered for, and the shelf before and after."""

from __future__ import annotations

import math
from typing import Any

import pytest

from lucernis.core.build.buying import WirePurchase, buy_wires
from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.order import order_of_work
from lucernis.core.build.quote import Quote, Terms, make_quote
from lucernis.core.build.shelf import KEEP_M, OnShelf, after_job, back_to_shelf, remnants, things
from lucernis.core.build.shopping import GROUPS, ShopLine, price_of, shopping
from lucernis.core.build.steps import Step
from lucernis.core.harness.harness import harness_of
from lucernis.core.harness.openings import is_sealed, needs_gland, needs_grommet
from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.laid import layout_of
from lucernis.demo import JOBS, demo_plan, demo_prices
from lucernis.plan.document import parse_plan
from lucernis.plan.layout import Crossing
from lucernis.plan.prices import Price
from tests.core.checks.test_findings import base, set_run
from tests.core.checks.test_layout_findings import laid

PRICES = {one.key: one for one in demo_prices()}
Doc = dict[str, Any]


def bought(doc: Doc, **shelf: float) -> dict[str, ShopLine]:
    plan = parse_plan(doc)
    found = shopping(plan, cut_list(plan), PRICES, {key.replace("__", ":"): count for key, count in shelf.items()})
    return {one.key: one for one in found}


@pytest.mark.parametrize("job", JOBS)
def test_every_end_tube_and_fuse_of_a_job_is_counted(job: str) -> None:
    plan = demo_plan(job)
    cut = cut_list(plan)
    lines = shopping(plan, cut, PRICES)
    harness = harness_of(plan)
    ends = sum(one.needed for one in lines if one.group == "ends")
    bare = sum(one.count for one in cut.ends if one.what.startswith("bare end"))
    spliced = [end for piece in cut.pieces for end in piece.ends if end.what == "butt splice" and end.part_id]
    led = sum(n for lead in harness.leads for key, _, n in lead.bought if not key.startswith(("fuse", "holder")))
    assert ends + bare == 2 * len(cut.pieces) - len(spliced) + len(harness.joints) + led
    assert sum(one.needed for one in lines if one.group == "labels") == 2 * len(cut.pieces)
    tube_mm = sum(end.shrink_length_mm for piece in cut.pieces for end in (piece.start, piece.finish))
    assert 1000 * sum(one.needed for one in lines if one.group == "tube") == pytest.approx(tube_mm)
    assert [one.group for one in lines] == sorted(
        (one.group for one in lines), key=[group for group, _ in GROUPS].index
    )
    assert all(one.cost is not None for one in lines if one.group != "devices")
    holders = sum(one.needed for one in lines if one.key.startswith("holder:") and not one.key.endswith(":lead"))
    assert holders == sum(one.count for one in harness.holders.values() if one.mounting != "way")


def test_one_fuse_of_each_rating_is_carried_and_the_shelf_is_taken_off() -> None:
    """One extra of each rating and family: common practice, no source."""
    plain = bought(base())
    fuse = next(one for one in plain.values() if one.key.startswith("fuse:blade_regular"))
    assert (fuse.spare, fuse.buy) == (1, fuse.needed + 1)
    terminals = plain["push_on:6.3 mm, red"]
    assert terminals.spare == 3, "a tenth, and three at least"
    stocked = bought(base(), **{"push_on__6.3 mm, red": 5})["push_on:6.3 mm, red"]
    assert (stocked.on_shelf, stocked.buy) == (5, terminals.buy - 5)
    full = bought(base(), **{"push_on__6.3 mm, red": 500})["push_on:6.3 mm, red"]
    assert (full.on_shelf, full.buy, full.cost) == (terminals.buy, 0, 0)


def test_holes_conduit_loom_and_clamps_follow_the_channels() -> None:
    doc = laid()
    c1, c2 = (next(one for one in doc["channels"] if one["id"] == key) for key in ("c1", "c2"))
    c1 |= {"inside_mm": 25.0, "clamp_m": 0.5, "crossings": [{"id": "h1", "through": "metal"}]}
    c2["inside_mm"] = None
    found = bought(doc)
    assert found["conduit:25"].needed == pytest.approx(c1["length_m"])
    looms = [one for key, one in found.items() if key.startswith("loom:")]
    assert sum(one.needed for one in looms) == pytest.approx(c2["length_m"])
    assert sum(one.needed for key, one in found.items() if key.startswith("grommet:")) == 1
    clamps = found["clamp"].needed
    c1["clamp_m"] = 0.25
    more = bought(doc)["clamp"].needed
    assert more - clamps == round(c1["length_m"] / 0.25) - round(c1["length_m"] / 0.5)
    c1["inside_mm"] = None
    assert not [key for key in bought(doc) if key.startswith("conduit:")]


def test_no_two_things_share_a_key_and_a_sealed_holder_is_another() -> None:
    """Else what is on the shelf would be counted twice."""
    for job in JOBS:
        plan = demo_plan(job)
        lines = [one for one in shopping(plan, cut_list(plan), PRICES) if one.group not in ("parts", "devices")]
        assert len({one.key for one in lines}) == len(lines)
    keys = {one.key for one in shopping(demo_plan("heron"), cut_list(demo_plan("heron")), PRICES)}
    assert {"holder:anl", "holder:anl:sealed"} <= keys
    assert price_of("holder:anl:sealed", PRICES) == PRICES["holder:anl"]


def test_a_channel_nobody_has_measured_is_bought_for_as_it_is_drawn() -> None:
    doc = laid()
    for one, x_m in zip(doc["places"], (0.5, 2.0, 3.0), strict=False):
        one |= {"x_m": x_m, "y_m": 0.5, "z_m": 0.5}
    for one in doc["channels"]:
        one |= {"length_m": None, "inside_mm": 25.0}
    plan = parse_plan(doc)
    drawn, lying = measured_channels(plan), layout_of(plan).lying
    assert all(one.guessed for one in drawn.values())
    lengths_m = [drawn[name].length_m or 0.0 for name, runs in lying.items() if runs]
    assert min(lengths_m) > 0
    assert bought(doc)["conduit:25"].needed == pytest.approx(sum(lengths_m), abs=0.01)


def test_the_finest_price_wins() -> None:
    prices = {key: Price(key, key, "piece", value) for key, value in (("lug", 1.0), ("lug:50 mm² × M8", 2.0))}
    prices |= {key: Price(key, key, "piece", value) for key, value in (("fuse:main", 9.0), ("fuse:anl", 5.0))}
    assert price_of("lug:50 mm² × M8", prices).price == 2.0  # type: ignore[union-attr]
    assert price_of("lug:16 mm² × M8", prices).price == 1.0  # type: ignore[union-attr]
    assert price_of("fuse:anl:35", prices).price == 5.0  # type: ignore[union-attr]
    assert price_of("fuse:class_t:200", prices).price == 9.0  # type: ignore[union-attr]
    assert price_of("fuse:blade_regular:5", prices) is None
    assert price_of("ring:6 mm² × M8", prices) is None


def test_a_battery_is_paid_by_its_watt_hours_and_the_vehicles_own_is_not_bought() -> None:
    plan = demo_plan("heron")
    lines = shopping(plan, cut_list(plan), PRICES)
    (bank,) = [one for one in lines if one.key.startswith("battery:")]
    assert (bank.what, bank.buy, bank.cost) == ("House bank, 5520 Wh", 1.0, pytest.approx(5520 * 0.42))
    assert "Starter battery" not in [one.what for one in lines]


def offer(terms: Terms, doc: Doc | None = None) -> Quote:
    plan = parse_plan(doc or base())
    cut = cut_list(plan)
    order = order_of_work(plan)
    steps = [*order.steps, *order.power_up]
    return make_quote(buy_wires(cut, PRICES, spare_frac=0.05), shopping(plan, cut, PRICES), steps, terms)


def test_a_quote_adds_up_to_the_last_digit() -> None:
    found = offer(Terms(hour=61.0, margin_frac=0.2, tax_frac=0.19))
    assert found.parts_total == pytest.approx(sum(round(one.total, 2) for one in found.parts), abs=1e-9)
    assert found.net == pytest.approx(found.parts_total + found.work_total, abs=1e-9)
    assert found.tax == pytest.approx(0.19 * found.net, abs=0.005001)
    assert found.total == pytest.approx(found.net + found.tax, abs=1e-9)
    assert all(one.total == pytest.approx(1.2 * one.cost, abs=0.0051) for one in found.parts)
    assert found.missing == []
    dearer = offer(Terms(hour=61.0, margin_frac=0.5, tax_frac=0.19))
    assert dearer.parts_total == pytest.approx(found.parts_total * 1.5 / 1.2, rel=0.01)
    assert dearer.work_total == found.work_total


def test_hours_follow_the_work_and_the_workshops_own_minutes() -> None:
    usual = offer(Terms(hour=60.0))
    cuts = next(one for one in usual.work if one.kind == "cut")
    pieces = len(cut_list(parse_plan(base())).pieces)
    assert (cuts.quantity, cuts.minutes, cuts.hours) == (pieces, 2, pytest.approx(pieces * 2 / 60, abs=0.005))
    assert cuts.total == pytest.approx(60 * cuts.hours)
    own = offer(Terms(hour=60.0, minutes={"cut": 6.0}))
    slower = next(one for one in own.work if one.kind == "cut")
    assert slower.hours == pytest.approx(pieces * 6 / 60, abs=0.005)
    # A workshop that does it for nothing bills nothing.
    free = next(one for one in offer(Terms(hour=60.0, minutes={"cut": 0.0})).work if one.kind == "cut")
    assert (free.hours, free.total) == (0.0, 0.0)
    longer = base()
    set_run("r3", length_m=14.0)(longer)
    pulled = [next(one for one in found.work if one.kind == "pull") for found in (usual, offer(Terms(), longer))]
    assert pulled[1].quantity - pulled[0].quantity == pytest.approx(2 * 10 * 1.05, abs=0.11)


def test_what_has_no_price_is_named_and_not_taken_as_nothing() -> None:
    plan = parse_plan(base())
    cut, order = cut_list(plan), order_of_work(plan)
    found = make_quote(buy_wires(cut, {}, spare_frac=0.05), shopping(plan, cut, {}), order.steps, Terms())
    assert "an hour of work" in found.missing
    assert "push-on 6.3 mm, red" in found.missing
    assert any(one.startswith("wire 16 AWG red") for one in found.missing)
    assert (found.parts_total, found.work_total) == (0, 0)
    assert "an hour of work" not in offer(Terms(hour=1.0)).missing
    assert make_quote([], [], list[Step](), Terms()).total == 0


def test_the_shelf_after_a_job_holds_remnants_worth_keeping_and_spares() -> None:
    plan = parse_plan(base())
    cut = cut_list(plan)
    shelf = [OnShelf("wire:16 AWG:red", 5.0, 1), OnShelf("push_on:6.3 mm, red", 0, 2), OnShelf("clamp", 0, 7, "big")]
    prices = PRICES | {"spool:16 AWG:50": Price("spool:16 AWG:50", "", "piece", 0.5)}
    wires = buy_wires(cut, prices, remnants(shelf), spare_frac=0.05)
    lines = shopping(plan, cut, prices, things(shelf))
    left = {(one.key, one.length_m): one.count for one in after_job(shelf, wires, lines)}
    red = next(one for one in wires if (one.wire.size, one.wire.colour) == ("16 AWG", "red"))
    assert [cut.length_m for cut in red.bought.shelf] == [5.0]
    assert ("wire:16 AWG:red", 5.0) not in left
    spares = next(one for one in lines if one.key == "push_on:6.3 mm, red")
    assert left[("push_on:6.3 mm, red", 0)] == spares.spare
    assert left[("clamp", 0)] == 7
    kept = [one.length_m for one in back_to_shelf(wires)]
    assert min(kept) >= KEEP_M
    every = [cut.left_m for one in wires for cut in (*one.bought.shelf, *one.bought.spools)]
    assert len(kept) == len({round(one, 2) for one in every if one >= KEEP_M})


def test_a_shelf_of_a_hundred_thousand_remnants_is_not_counted_one_by_one() -> None:
    """No job is cut from more than some hundreds of one length."""
    found = remnants([OnShelf("wire:16 AWG:red", 5.0, 100_000), OnShelf("wire:16 AWG:red", 2.0, 3)])
    assert 100 <= found["16 AWG", "red"].count(5.0) <= 1000
    assert found["16 AWG", "red"].count(2.0) == 3


def test_clamps_nobody_could_set_are_not_bought_by_the_million() -> None:
    doc = laid()
    next(one for one in doc["channels"] if one["id"] == "c1")["clamp_m"] = 1e-9
    assert bought(doc)["clamp"].needed < 200


def test_panels_are_bought_one_by_one_and_what_holds_them_too() -> None:
    lines = {one.key: one for one in shopping(demo_plan("heron"), cut_list(demo_plan("heron")), PRICES)}
    assert (lines["panel"].needed, lines["bracket"].needed) == (4, 4)
    assert lines["panel"].cost == pytest.approx(4 * 180 * 0.85)
    assert (lines["gland"].needed, lines["solar_y"].needed, lines["strap"].needed) == (1, 1, 1)


@pytest.mark.parametrize(("through", "grommet", "needs", "gland", "seal"), [
    ("metal", True, True, False, False), ("metal", False, True, False, False), ("firewall", True, True, False, True),
    ("plastic_or_wood", True, True, False, False), ("plastic_or_wood", False, False, False, False),
    ("roof", True, False, True, True)])  # fmt: skip
def test_a_hole_gets_what_its_edge_and_what_is_behind_it_ask(
    through: Any, grommet: bool, needs: bool, gland: bool, seal: bool
) -> None:
    hole = Crossing(through=through, grommet=grommet)
    assert (needs_grommet(hole), needs_gland(hole), is_sealed(hole)) == (needs, gland, seal)


def test_wire_is_bought_with_a_spare_share_and_a_remnant_is_never_cut_to_nothing() -> None:
    """By the metre to the next tenth; of a spool or a remnant so much stays, unless one piece takes the whole of it."""
    cut = cut_list(parse_plan(base()))
    size = ("16 AWG", "red")
    pieces = [one.cut_m for one in cut.pieces if (one.size, one.colour) == size]
    loose = {"wire:16 AWG": Price("wire:16 AWG", "", "m", 1.0)}

    def of(prices: dict[str, Price], shelf: list[float], spare_frac: float) -> WirePurchase:
        wires = buy_wires(cut, prices, {size: shelf}, spare_frac=spare_frac)
        return next(one for one in wires if (one.wire.size, one.wire.colour) == size)

    bought = of(loose, [], 0.10)
    assert bought.metres == math.ceil(11 * round(sum(pieces), 2)) / 10
    assert bought.bought.cost == pytest.approx(bought.metres)
    bare = of(loose, [], 0.0)
    assert sum(pieces) - 1e-9 <= bare.metres < sum(pieces) + 0.1
    assert bare.bought.bound <= bare.bought.cost
    tight, wide = round(sum(pieces) * 1.04, 3), round(sum(pieces) * 1.06, 3)
    assert of(loose, [wide], 0.05).bought.by_the_metre == []
    kept = of(loose, [tight], 0.05).bought
    assert kept.by_the_metre != []
    assert all(one.length_m == tight and one.left_m > 0.02 * tight for one in kept.shelf if len(one.pieces_m) > 1)
    whole = of(loose, [pieces[0]], 0.05).bought.shelf
    assert [(one.pieces_m, one.left_m) for one in whole] == [([pieces[0]], 0.0)]
    short = of({"spool:16 AWG:0.1": Price("spool:16 AWG:0.1", "", "piece", 9.0)}, [], 0.05).bought
    assert short.problem.endswith("the longest spool has 0.1 m")
