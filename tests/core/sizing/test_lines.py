"""One line, one size; nothing thinner than what it feeds; few sizes: the rules of a tidy van, each on and off."""

from __future__ import annotations

import itertools
import random
from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report
from lucernis.core.sizing.choice import size_plan
from lucernis.core.sizing.few_sizes import fewer_sizes, sets_by_bound, spools
from lucernis.core.wire.copper import wire_size
from lucernis.plan.document import parse_plan
from lucernis.plan.rules import plan_rules
from tests.core.evaluation.test_why import OFF
from tests.helpers import part, run, small_document


def report_of(doc: dict[str, Any], **rules: Any) -> Report:
    doc["practice"]["overrides"] = [{"rule": name, "value": value, "reason": "test"} for name, value in rules.items()]
    return evaluate(parse_plan(doc))


def area(report: Report, name: str) -> float:
    return next(one.wire.area_mm2 for one in report.runs if one.id == name)


def switched(hot: bool) -> dict[str, Any]:
    """The pump behind a switch; one half of its line through the engine bay in a thick bundle, or not."""
    doc = small_document()
    doc["parts"].append({"kind": "switch", "id": "s1", "name": "Pump switch", "tag": "S01", "rated_a": 40.0})
    part(doc, "l2").update(current_a=18.0, keyed=False)
    run(doc, "r3").update(finish={"part": "s1"}, length_m=0.6)
    onward = {"id": "r8", "tag": "C08", "start": {"part": "s1"}, "finish": {"part": "l2"}, "length_m": 0.6}
    doc["runs"].append(onward | ({"zone": "z2", "bundle_count": 10} if hot else {}))
    return doc


def test_a_line_takes_the_size_its_worst_stretch_asks() -> None:
    loose = report_of(switched(hot=True), **OFF)
    line = report_of(switched(hot=True), **(OFF | {"one_line": True}))
    assert area(loose, "r8") > area(loose, "r3")
    assert area(line, "r3") == area(line, "r8") == area(loose, "r8")


def test_a_pin_ends_a_line() -> None:
    doc = switched(hot=False)
    run(doc, "r3")["wire"] = {"system": "awg", "size": "6", "reason": "there"}
    line = report_of(doc, **(OFF | {"one_line": True}))
    assert area(line, "r8") < area(line, "r3")


def test_a_line_ends_where_it_branches() -> None:
    doc = switched(hot=True)
    doc["parts"].append({"kind": "load", "id": "l9", "name": "Lamp", "tag": "L09", "power_w": 5, "hours_per_day": 1})
    doc["runs"].append({"id": "r9", "tag": "C09", "start": {"part": "s1"}, "finish": {"part": "l9"}, "length_m": 1.0})
    # Near the battery, so that no drop asks for more than the load.
    run(doc, "r1")["length_m"] = 0.3
    line = report_of(doc, **(OFF | {"one_line": True}))
    assert area(line, "r8") > area(line, "r3")


def test_nothing_is_thinner_than_what_it_feeds() -> None:
    doc = switched(hot=False)
    part(doc, "l2").update(current_a=3.0, sensitive=True)
    run(doc, "r3").update(length_m=0.5)
    run(doc, "r2")["length_m"] = 9.0
    run(doc, "r8")["length_m"] = 9.0
    run(doc, "r1")["length_m"] = 0.4
    report = report_of(doc, **(OFF | {"taper": True}))
    assert area(report, "r1") >= max(area(report, name) for name in ("r2", "r3"))
    assert area(report, "r3") >= area(report, "r8") * 0.999


def test_sizes_not_worth_carrying_give_way() -> None:
    doc = small_document()
    part(doc, "l2").update(current_a=14.0, keyed=False, sensitive=True)
    run(doc, "r3")["length_m"] = 1.2
    used = [
        {one.wire.label for one in report_of(doc, **(OFF | {"size_worth_m": worth_m, "cable_worth_m": worth_m})).runs}
        for worth_m in (0.0, 40.0)
    ]
    assert len(used[1]) < len(used[0])


def test_a_pinned_size_is_there_anyway() -> None:
    shelf = [wire_size("awg", name) for name in ("16", "14", "12")]
    doc = small_document()
    run(doc, "r4")["wire"] = {"system": "awg", "size": "14", "reason": "test"}
    plan = parse_plan(doc)
    cases = size_plan(plan, plan_rules(plan)).cases
    cost = spools(shelf, cases, 6.0)
    assert cost.cost_mm2_m(["14 AWG"]) == 0.0
    assert cost.cost_mm2_m(["16 AWG"]) == pytest.approx(6.0 * wire_size("awg", "14").area_mm2)
    assert cost.cost_mm2_m(["16 AWG", "16 AWG"]) == cost.cost_mm2_m(["16 AWG"])


@pytest.mark.parametrize("seed", range(12))
def test_the_sizes_carried_are_the_best_of_all_sets(seed: int) -> None:
    """Against every set of sizes, each run taking the next one up."""
    rng = random.Random(seed)
    doc = small_document()
    for name in ("r1", "r2", "r3", "r4"):
        run(doc, name)["length_m"] = round(rng.uniform(0.3, 8.0), 2)
    plan = parse_plan(doc)
    sized = size_plan(plan, plan_rules(plan))
    values = plan_rules(plan).values
    shelf = spools([wire_size(values.size_system, one) for one in values.shelf], {}, rng.choice([0.5, 3.0, 10.0]))
    now = {name: rng.randrange(len(case.options)) for name, case in sized.cases.items()}

    def cost(picks: dict[str, int]) -> float:
        labels = [sized.cases[name].options[at].size.label for name, at in picks.items()]
        return sum(float(sized.cases[name].copper[at]) for name, at in picks.items()) + shelf.cost_mm2_m(labels)

    best = float("inf")
    within = {
        name: [
            at for at in range(now[name], len(case.options))
            if at <= now[name] + 2
        ]
        for name, case in sized.cases.items()
    }  # fmt: skip
    for combo in itertools.product(*within.values()):
        best = min(best, cost(dict(zip(within, combo, strict=True))))
    assert cost(fewer_sizes(sized.cases, now, shelf, jump_most=2)) == pytest.approx(best)


def test_bounds_of_sets_rise_and_never_exceed_what_a_set_costs() -> None:
    plan = parse_plan(small_document())
    sized = size_plan(plan, plan_rules(plan))
    shelf = spools([wire_size("awg", one) for one in ("16", "14", "12", "10")], sized.cases, 6.0)
    found = sets_by_bound(sized.cases, shelf)
    bounds = [bound for bound, _ in found]
    assert bounds == sorted(bounds)
    own = frozenset(one.size.label for one in sized.chosen.values())
    least = next(bound for bound, labels in found if labels == own)
    assert least <= sum(one.cost_mm2_m for one in sized.chosen.values()) + shelf.cost_mm2_m(own) + 1e-9


def test_carrying_a_thicker_size_never_costs_less() -> None:
    """Cable by the metre at two metres, wire at six: 4 AWG costs what 6 AWG does, or a wire would become a cable."""
    shelf = [wire_size("awg", name) for name in ("8", "6", "4", "2", "2/0", "4/0")]
    found = spools(shelf, {}, 6.0, cable_worth_m=2.0)
    assert found.worth_mm2_m[0] == pytest.approx(6 * wire_size("awg", "6").area_mm2)
    assert found.worth_mm2_m[2] == found.worth_mm2_m[1] == pytest.approx(6 * wire_size("awg", "4").area_mm2)
    assert list(found.worth_mm2_m) == sorted(found.worth_mm2_m)
    assert found.worth_mm2_m[4] == pytest.approx(2 * wire_size("awg", "4/0").area_mm2)
