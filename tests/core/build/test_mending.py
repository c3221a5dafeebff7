"""What a changed plan asks for beyond the one that is there."""

from __future__ import annotations

from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.mending import more_lines, more_pieces, more_steps
from lucernis.core.build.order import order_of_work
from lucernis.core.build.shopping import shopping
from lucernis.demo import demo_plan, demo_prices
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan

PRICES = {one.key: one for one in demo_prices()}


def mended() -> tuple[Plan, Plan]:
    """Plover as found, and with the return of its porch lamp's run in another size and a new lamp run."""
    then = demo_plan("plover")
    doc = plan_document(then)
    run = next(one for one in doc["runs"] if one["id"] == "r4")
    run["wire"] = {"system": "mm2", "size": "6", "reason": "too thin as found"}
    return then, parse_plan(doc)


def test_nothing_changed_asks_for_nothing_but_to_look_whether_all_is_well() -> None:
    then, _ = mended()
    assert more_pieces(cut_list(then), cut_list(then)).pieces == []
    lines = shopping(then, cut_list(then), PRICES)
    assert more_lines(lines, lines) == []
    steps = more_steps(order_of_work(then), order_of_work(then))
    assert {step.phase for step in steps} == {"safe", "power_up", "at_work"}
    assert len(steps) <= 5


def test_a_run_in_another_size_is_cut_crimped_and_pulled_anew_and_no_other() -> None:
    then, now = mended()
    more = more_pieces(cut_list(then), cut_list(now))
    changed = {run for piece in more.pieces for run in piece.runs}
    # With one size more on the van another run may take another.
    assert "r4" in changed
    assert len(changed) <= 2
    assert {piece.size for piece in more.pieces if "r4" in piece.runs} == {"6 mm²"}
    steps = more_steps(order_of_work(then), order_of_work(now))
    tags = {step.tag for step in steps if step.tag}
    assert "C04" in tags
    assert len(steps) < len(order_of_work(now).steps) / 3


def test_lines_whose_need_has_grown_are_bought_by_so_much() -> None:
    then, now = mended()
    before, after = (shopping(one, cut_list(one), PRICES) for one in (then, now))
    found = more_lines(before, after)
    needed = {(line.key, line.what): line.needed for line in before}
    for line in found:
        whole = next(one for one in after if (one.key, one.what) == (line.key, line.what))
        assert line.needed == round(whole.needed - needed.get((line.key, line.what), 0.0), 6)
        assert line.buy <= whole.buy
        if whole.cost is not None and whole.buy > 0:
            assert line.cost is not None
            assert line.cost <= whole.cost
    grown = {one.key for one in after if one.needed > needed.get((one.key, one.what), 0.0) + 1e-9}
    assert {line.key for line in found} == grown
