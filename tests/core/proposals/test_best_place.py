"""The best place for a block: what a person who wires vans would say, and every figure as the moved plan has it."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.laid import laid_out
from lucernis.core.proposals import best_place
from lucernis.core.proposals.best_place import best_places
from lucernis.demo import demo_plan
from lucernis.errors import UnknownRow
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import apply_edits
from tests.core.checks.test_layout_findings import laid
from tests.helpers import part, run
from tests.law.conftest import PLANS


def van() -> dict[str, Any]:
    """The block at the bench; all three loads at the far end, three metres on."""
    doc = laid()
    for one in ("l1", "l2", "l3"):
        part(doc, one)["place"] = "p3"
    for one in ("r1", "r8"):
        run(doc, one)["way"] = {}
    return doc


def test_a_block_belongs_where_its_loads_are() -> None:
    """Common practice, no source: the long run is the fat one and the thin ones are short."""
    found = best_places(parse_plan(van()), "f1")
    assert (found.options[0].name, found.options[0].here) == ("Far end", False)
    assert found.options[0].runs_m < next(one.runs_m for one in found.options if one.here)
    assert "Cupboard: behind a wall that stays closed" in found.refused
    assert "Tank: no channel joins" in " ".join(found.refused)
    assert len(found.options) + len(found.refused) >= 5


def test_figures_are_those_of_the_plan_once_it_is_moved() -> None:
    plan = parse_plan(van())
    for option in best_places(plan, "f1").options:
        moved = apply_edits(plan, list(option.edits))
        summary = evaluate(moved, with_working=False).summary
        assert option.copper_kg == summary.copper_kg
        assert (option.stop, option.fix, option.look) == (summary.open_stop, summary.open_fix, summary.open_look)
        lengths = [one.length_m for one in laid_out(moved).runs if "f1" in (one.start.part, one.finish.part)]
        assert option.runs_m == pytest.approx(sum(lengths))
        assert option.longest_m == max(lengths)


def test_a_place_that_makes_stops_comes_after_one_that_makes_none() -> None:
    doc = van()
    # Petrol vapour at the far end: a blade block there is no place for sparks.
    doc["zones"][0]["vapour"] = False
    next(one for one in doc["places"] if one["id"] == "p3")["zone"] = "tank"
    doc["channels"][1]["zone"] = doc["channels"][2]["zone"] = "z1"
    found = best_places(parse_plan(doc), "f1")
    far = next((one for one in found.options if one.name == "Far end"), None)
    assert found.options[0].name != "Far end"
    assert far is None or far.stop + far.fix > found.options[0].stop + found.options[0].fix


def test_a_battery_does_not_go_where_vapour_gathers_nor_a_charger_without_air() -> None:
    doc = van()
    doc["channels"].append({"id": "c4", "name": "Vent", "start": "p1", "finish": "p5", "length_m": 1.0})
    assert "Tank: vapour can gather there" in best_places(parse_plan(doc), "b1").refused
    doc["parts"].append(
        {"kind": "charger", "id": "q1", "name": "Shore", "tag": "Q01", "form": "shore", "out_a": 10.0, "place": "p1"}
    )
    doc["runs"].append(
        {"id": "r30", "tag": "C30", "start": {"part": "q1"}, "finish": {"part": "s1"}, "length_m": 1.0, "way": {},
         "fuse_at_finish": {"distance_m": 0.1}}
    )  # fmt: skip
    next(one for one in doc["places"] if one["id"] == "p3")["airy"] = False
    assert "Far end: no room or air around it" in best_places(parse_plan(doc), "q1").refused


def test_what_has_no_place_of_its_own_is_refused() -> None:
    for name in ("l1", "nothing"):
        with pytest.raises(UnknownRow):
            best_places(parse_plan(van()), name)


@pytest.mark.parametrize("job", ["plover_mended"] if PLANS <= 300 else ["heron", "plover_mended"])
def test_what_is_left_out_is_not_the_best(job: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """With every place reckoned through the best one is the same, for every block."""
    plan = demo_plan(job)
    names = [one.id for one in plan.parts if one.kind == "fuse_block"]
    few = {name: best_places(plan, name) for name in names}
    monkeypatch.setattr(best_place, "_TRIED", 1000)
    for one, found in few.items():
        every = best_places(plan, one)
        assert every.left_out == 0
        assert found.tried + found.left_out == every.tried
        assert found.options[0] == every.options[0]
    assert job != "heron" or any(one.left_out for one in few.values())
