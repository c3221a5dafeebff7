"""Proposals: a whole system from a load list that the checks let pass; taken whole, in part, or not at all."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.core.energy.bank_size import needed_ah
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.power import power_report
from lucernis.core.proposals import sun
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.steps import STEPS
from lucernis.core.proposals.variants import LABELS, compare_variants, make_variant
from lucernis.core.proposals.wishes import Wishes, last_unit, next_unit, units
from lucernis.demo import demo_plan, demo_prices
from lucernis.errors import UnknownRow
from lucernis.plan.blank import blank_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import AddLoads
from lucernis.plan.model import Plan

PRICES = {one.key: one for one in demo_prices()}
PLACES = ("Desk", "Galley", "Rear")
LIST: list[tuple[str, str, str, str]] = [
    (f"Load {k}", str(8 + 7 * (k % 6)), str(1 + k % 5), PLACES[k % 3]) for k in range(19)
] + [("Mains inverter", "400", "0.5", "Desk")]


def listed(rows: list[tuple[str, str, str, str]] = LIST, body: str = "steel", inverter: bool = True) -> Plan:
    """A blank plan with a load list and nothing else decided."""
    doc: dict[str, Any] = plan_document(blank_plan("New", practice_set="metric_caravan", body=body))  # type: ignore[arg-type]
    zone = doc["zones"][0]["id"]
    doc["places"] = [{"id": f"p{k}", "name": name, "zone": zone} for k, name in enumerate((*PLACES, "Locker"))]
    for one in doc["parts"]:
        one["place"] = "p3"
    cells = [{"name": n, "power_w": w, "hours_per_day": h, "place": p} for n, w, h, p in rows]
    plan = apply_edits(parse_plan(doc), [AddLoads.model_validate({"op": "add_loads", "rows": cells})])
    if not inverter:
        return plan
    doc = plan_document(plan)
    for one in doc["parts"]:
        if one["name"] == "Mains inverter":
            one["device"] = "inverter"
    return parse_plan(doc)


@pytest.fixture(scope="module")
def proposed() -> tuple[Plan, Any]:
    return propose(listed(), Wishes())


@pytest.mark.parametrize("volts", [12, 24])
def test_twenty_loads_become_a_system_without_stops(volts: int) -> None:
    plan, proposal = propose(listed(), Wishes(nominal_v=volts))  # type: ignore[arg-type]
    stops = [one.what for one in evaluate(plan).findings if one.severity == "stop"]
    assert stops == []
    assert proposal.problem == ""
    assert {part.kind for part in plan.parts} >= {"battery", "busbar", "switch", "charger", "panel", "chassis_point"}


def test_every_step_says_why(proposed: tuple[Plan, Any]) -> None:
    _, proposal = proposed
    assert [step.id for step in proposal.steps] == list(STEPS)
    for step in proposal.steps:
        assert step.reason.endswith(".")
        assert step.changes_plan == (step.outcome == "done") == bool(step.changes)
    assert proposal.preview is not None


def test_bank_holds_what_is_asked(proposed: tuple[Plan, Any]) -> None:
    plan, _ = proposed
    power = power_report(plan, {})
    assert power.bank is not None
    assert power.bank.capacity_ah >= needed_ah(power.ah_per_day, 2.0, share_frac=0.85, peukert=1.03)
    assert all(row.holds for row in power.fit if row.chosen_school)


def test_the_plan_itself_is_left_alone(proposed: tuple[Plan, Any]) -> None:
    before = listed()
    propose(before, Wishes())
    assert before == listed()
    assert proposed[0] != before


def test_part_of_it_is_only_that_part() -> None:
    plan, proposal = propose(listed(), Wishes(), ["bank", "shore"])
    assert {step.id for step in proposal.steps if step.outcome != "left"} == {"bank", "shore"}
    assert not any(part.kind == "panel" for part in plan.parts)
    assert any(part.kind == "charger" and part.form == "shore" for part in plan.parts)


def test_nothing_of_it_is_the_plan() -> None:
    before = listed()
    plan, proposal = propose(before, Wishes(), [])
    assert plan == before
    assert all(step.outcome == "left" for step in proposal.steps)


def test_again_there_is_little_left_to_do(proposed: tuple[Plan, Any]) -> None:
    plan, _ = proposed
    _, again = propose(plan, Wishes())
    assert {step.id for step in again.steps if step.outcome == "done"} <= {"mends", "blocks"}


def test_unknown_step_is_named() -> None:
    with pytest.raises(UnknownRow, match="no step 'roof'"):
        propose(listed(), Wishes(), ["roof"])


def test_empty_load_list_is_an_answer() -> None:
    plan = blank_plan("New", practice_set="metric_caravan", body="steel")
    after, proposal = propose(plan, Wishes())
    assert after == plan
    assert "load list is empty" in proposal.problem


def test_wishes_are_heeded() -> None:
    plan, _ = propose(listed(), Wishes(sun=False, shore=False, drive_hours=0.0))
    assert not any(part.kind in ("panel", "charger", "isolator") for part in plan.parts)
    generous, lean = (propose(listed(), Wishes(leaning=one))[0] for one in ("generous", "lean"))  # type: ignore[arg-type]
    size = [
        sum(p.capacity_ah for p in plan.parts if p.kind == "battery" and p.use == "house") for plan in (generous, lean)
    ]
    assert size[0] >= size[1]


def test_lean_lead_gets_a_plain_link_and_a_body_of_plastic_no_bond() -> None:
    plan, _ = propose(listed(body="fibreglass_or_wood"), Wishes(chemistry="agm", leaning="lean", days=1.0))
    # What this bank takes is more than the alternator has left, so a charger that holds back stands between.
    assert any(part.kind == "charger" and part.form == "dcdc" for part in plan.parts)
    assert not any(part.kind == "chassis_point" for part in plan.parts)
    small, _ = propose(
        listed([("Lamp", "5", "4", "Desk")], body="fibreglass_or_wood", inverter=False),
        Wishes(chemistry="agm", leaning="lean", days=0.5),
    )
    assert any(part.kind == "isolator" for part in small.parts)


def test_lithium_takes_the_plain_link_to_lead_out() -> None:
    plan, proposal = propose(demo_plan("tern"), Wishes(chemistry="lfp"))
    assert not any(part.kind == "isolator" for part in plan.parts)
    assert any(part.kind == "charger" and part.form == "dcdc" for part in plan.parts)
    assert any("plain contact between lithium and lead goes out" in one.reason for one in proposal.steps)


@settings(max_examples=4, deadline=None)
@given(
    rows=st.lists(
        st.tuples(
            st.from_regex(r"[A-Z][a-z]{3,8}", fullmatch=True),
            st.integers(2, 150).map(str),
            st.integers(1, 12).map(str),
            st.sampled_from(PLACES),
        ),
        min_size=1,
        max_size=8,
    ),
    days=st.floats(0.5, 4),
    chemistry=st.sampled_from(["lfp", "agm", "flooded"]),
)
def test_any_load_list_gives_a_valid_plan(rows: list[tuple[str, str, str, str]], days: float, chemistry: Any) -> None:
    plan, proposal = propose(listed(rows, inverter=False), Wishes(days=days, chemistry=chemistry))
    assert parse_plan(plan_document(plan)) == plan
    assert all(step.outcome != "cannot" for step in proposal.steps)


@pytest.mark.parametrize("name", ["heron", "tern", "plover", "plover_mended"])
def test_demo_jobs_can_be_asked(name: str) -> None:
    plan, proposal = propose(demo_plan(name), Wishes())
    assert proposal.preview is not None
    assert proposal.preview.after_stop <= proposal.preview.before_stop
    assert parse_plan(plan_document(plan)) == plan


def test_units_are_picked_from_the_table() -> None:
    assert [one.size for one in units("charger:dcdc")] == [20.0, 30.0, 40.0, 60.0]
    assert next_unit("charger:dcdc", 31.0).size == 40.0
    assert next_unit("charger:dcdc", 500.0).size == 60.0
    assert last_unit("charger:dcdc", 39.0).size == 30.0
    assert last_unit("charger:dcdc", 1.0).size == 20.0


@pytest.mark.parametrize("name", list(LABELS))
@pytest.mark.parametrize("job", ["heron", "tern"])
def test_every_variant_is_a_valid_plan_or_says_why_not(name: Any, job: str) -> None:
    plan = demo_plan(job)
    (found,) = compare_variants(plan, [name], PRICES)
    assert found.label == LABELS[name]
    if found.problem:
        assert found.differs == []
        return
    variant = make_variant(plan, name)
    assert parse_plan(plan_document(variant)) == variant
    assert (found.differs == []) == (name == "as_it_is")
    assert found.cost is not None
    assert found.cost > 0


def test_variants_say_what_is_different_about_them() -> None:
    heron = demo_plan("heron")
    own, high, lead = compare_variants(heron, ["as_it_is", "volts_24", "lead"], PRICES)
    assert high.copper_kg < own.copper_kg
    assert high.worst_drop_frac < own.worst_drop_frac
    assert lead.mass_kg > 2 * own.mass_kg
    assert lead.days == pytest.approx(own.days, rel=0.05)
    assert "nominal volts 12 → 24" in high.differs


def test_without_prices_there_is_no_cost_but_all_else() -> None:
    own, high = compare_variants(demo_plan("heron"), ["as_it_is", "volts_24"], {})
    assert own.cost is high.cost is None
    assert "battery:lfp" in own.missing_prices
    assert own.mass_kg > 0


def test_a_plain_link_changes_neither_chemistry_nor_alternator() -> None:
    doc = plan_document(demo_plan("plover_mended"))
    before = {one["id"]: one for one in doc["parts"]}
    after = make_variant(parse_plan(doc), "isolator")
    assert any(part.kind == "isolator" for part in after.parts)
    for part in after.parts:
        if part.kind == "alternator":
            assert part.regulation == before[part.id]["regulation"] == "sagging"
        elif part.kind == "battery":
            assert part.chemistry == before[part.id]["chemistry"]


def test_a_plain_link_is_not_to_be_had_between_12_and_24_volts() -> None:
    high = make_variant(demo_plan("heron"), "volts_24")
    (found,) = compare_variants(high, ["isolator"], {})
    assert "one voltage" in found.problem


def test_a_shunt_that_is_there_is_never_bypassed() -> None:
    doc = plan_document(listed())
    doc["parts"].append({"kind": "shunt", "id": "h1", "name": "Shunt", "tag": "H01"})
    doc["runs"].append(
        {"id": "r90", "tag": "C90", "start": {"part": "b1"}, "finish": {"part": "h1"}, "length_m": 0.3,
         "legs": "negative"}
    )  # fmt: skip
    before = parse_plan(doc)
    after, proposal = propose(before, Wishes(), ["bars"])
    told = next(step for step in proposal.steps if step.id == "bars")
    assert after == before
    assert "shunt" in told.reason


def test_what_stays_live_hangs_before_the_switch_behind_the_main_fuse() -> None:
    doc = plan_document(listed([("Alarm", "2", "24", "Desk"), ("Lamp", "10", "3", "Desk")], inverter=False))
    for one in doc["parts"]:
        if one["name"] == "Alarm":
            one["stays_live"] = True
    plan, _ = propose(parse_plan(doc), Wishes(), ["bars"])
    stud = next(part.id for part in plan.parts if part.kind == "joint")
    alarm = next(part.id for part in plan.parts if part.name == "Alarm")
    feed = next(run for run in plan.runs if run.finish.part == alarm)
    assert feed.start.part == stud
    assert feed.fuse_at_start is not None
    first = next(run for run in plan.runs if run.finish.part == stud)
    assert first.start.part == "b1"
    assert first.fuse_at_start is not None
    assert not [one for one in evaluate(plan).findings if one.code == "live-when-off"]


@pytest.mark.parametrize(("in_wh", "told"), [(1e6, "a larger bank"), (0.0, "Wh a day are missing")])
def test_a_week_not_served_says_what_would_serve_it(
    proposed: tuple[Plan, Any], monkeypatch: pytest.MonkeyPatch, in_wh: float, told: str
) -> None:
    found = sun.fair_week(proposed[0], Wishes())
    assert found is not None
    short = replace(found[0], lowest_soc=0.0, in_wh=in_wh)
    monkeypatch.setattr(sun, "fair_week", lambda *_: (short, found[1]))
    outcome = sun.tell_energy(proposed[0], Wishes())
    assert outcome is not None
    assert outcome[0] == proposed[0]
    assert told in outcome[1]


def test_a_plain_link_that_does_not_suit_is_told_and_not_replaced_by_a_charger() -> None:
    (found,) = compare_variants(demo_plan("heron"), ["isolator"], {})
    assert "a plain link does not suit" in found.problem
    assert found.differs == []


def test_devices_keep_their_watts_when_the_volts_change() -> None:
    """6 A at 12 V are 72 W, and 72 W at 24 V are 3 A: with the new volts put in they would be 144 W."""
    doc = plan_document(listed())
    lamp = doc["parts"][-1]
    lamp.update(power_w=None, current_a=6.0, device="other", min_v=10.5)
    plan, _ = propose(parse_plan(doc), Wishes(nominal_v=24), ["volts"])
    after = next(part for part in plan.parts if part.id == lamp["id"])
    assert (plan.nominal_v, after.power_w, after.current_a, after.min_v) == (24, 72.0, None, 21.0)  # type: ignore[union-attr]


@pytest.mark.parametrize("volts", [12, 24])
def test_a_variant_at_other_volts_holds_the_same_energy(volts: int) -> None:
    plan = demo_plan("heron")
    other = make_variant(plan, f"volts_{volts}")  # type: ignore[arg-type]

    def stored_wh(one: Plan) -> float:
        return (
            sum(part.capacity_ah for part in one.parts if part.kind == "battery" and part.use == "house")
            * one.nominal_v
        )

    assert stored_wh(other) == pytest.approx(stored_wh(plan))


def test_less_driving_asks_for_a_larger_charger() -> None:
    """The day's charge has to come in the hours driven, as far as alternator and bank go."""
    sizes = []
    for hours in (4.0, 2.0):
        plan, _ = propose(listed(LIST[:8]), Wishes(drive_hours=hours, sun=False, shore=False))
        unit = next(part for part in plan.parts if part.kind == "charger" and part.form == "dcdc")
        sizes.append(unit.out_a)
    assert sizes == [20.0, 30.0]
