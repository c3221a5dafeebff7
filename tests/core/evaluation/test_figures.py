"""Unit tests of fuses, ampacity, loads, one run, comparison, and that the report is a pure function."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from lucernis.core.circuit.loads import load_figures
from lucernis.core.evaluation.compare import compare_sets
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeRequest, size_run
from lucernis.core.protection.fuses import choose_fuse, family, fuse_resistance_ohm, next_made_a, wire_stands_fuse
from lucernis.core.report import Report
from lucernis.core.wire.ampacity import Surroundings, ambient_factor, ampacity, bundle_factor, conductor_temp_c
from lucernis.core.wire.copper import all_sizes, wire_size
from lucernis.demo import JOBS, demo_plan
from lucernis.errors import BadDocument, OutOfRange, UnknownRow
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Load
from lucernis.practice.rules import load_sets
from tests.helpers import as_printed, small_document, small_plan

BLADES = family("blade_regular").ratings_a
CABIN = Surroundings(30.0, engine_space=False, bundle_count=2)


@pytest.mark.parametrize("name", JOBS)
def test_evaluate_same_plan_same_bytes(name: str) -> None:
    encode = TypeAdapter(Report).dump_json
    assert encode(evaluate(demo_plan(name))) == encode(evaluate(demo_plan(name)))


@pytest.mark.parametrize(
    ("current_a", "ampacity_a", "rating_a", "school", "stands"),
    [
        (18, 20, 20, "strict", True),
        (18, 19, 20, "strict", False),
        (18, 19, 20, "150_when_none_fits", True),
        (18, 17, 20, "150_when_none_fits", False),
        (18, 20, 40, "150_when_none_fits", False),
        # 20 A and 25 A are made between load and wire, so 35 A may not stand there although it is below 150 %.
        (18, 25, 35, "150_when_none_fits", False),
    ],
)
def test_wire_stands_fuse(current_a: float, ampacity_a: float, rating_a: float, school: str, stands: bool) -> None:
    assert (
        wire_stands_fuse(ampacity_a, rating_a, load_a=current_a, least_a=current_a, made_a=BLADES, school=school)
        is stands
    )  # type: ignore[arg-type]


def test_choose_fuse_takes_next_family_when_first_ends() -> None:
    chosen = choose_fuse(("blade_regular", "blade_maxi"), 45.0, system_v=12)
    assert chosen is not None
    assert (chosen.family, chosen.rating_a) == ("blade_maxi", 50.0)
    assert choose_fuse(("blade_regular",), 45.0, system_v=12) is None
    assert choose_fuse(("blade_regular",), 5.0, system_v=48) is None


def test_next_made_a_does_not_jump_for_rounding() -> None:
    assert next_made_a((5.0, 10.0), 10.0 * (1 + 1e-12)) == 10.0


def test_fuse_resistance_gives_its_usual_drop_at_rating() -> None:
    made = family("blade_regular")
    assert fuse_resistance_ohm("blade_regular", 10.0) * 10.0 == pytest.approx(made.drop_at_rated_v)
    with pytest.raises(OutOfRange, match="rating_a must be"):
        fuse_resistance_ohm("blade_regular", 0.0)


@pytest.mark.parametrize(("system", "size"), [("sae", "14"), ("auto_mm", "4 mm")])
def test_ampacity_unlisted_size_takes_row_of_less_copper(system: str, size: str) -> None:
    wire = wire_size(system, size)  # type: ignore[arg-type]
    found = ampacity("e11", wire, 105, CABIN)
    assert found.base_a == 25.0
    assert "16 AWG of no more copper" in found.note


def test_ampacity_engine_space_takes_the_smaller_factor() -> None:
    wire = wire_size("awg", "10")
    at_50 = ampacity("e11", wire, 105, Surroundings(50.0, engine_space=True, bundle_count=2))
    at_70 = ampacity("e11", wire, 105, Surroundings(70.0, engine_space=True, bundle_count=2))
    assert at_50.zone_factor == 0.85
    assert at_70.zone_factor == pytest.approx((35 / 75) ** 0.5)


def test_ampacity_insulation_without_engine_row_is_not_allowed_there() -> None:
    found = ampacity(
        "iso_small_craft", wire_size("mm2", "4"), 60, Surroundings(50.0, engine_space=True, bundle_count=2)
    )
    assert found.ampacity_a == 0.0
    assert "not allowed in an engine space" in found.note


def test_ampacity_iso_85_c_insulation_takes_column_90() -> None:
    assert ampacity("iso_small_craft", wire_size("mm2", "10"), 85, CABIN).base_a == 70.0
    assert ampacity("e11", wire_size("awg", "10"), 85, CABIN).base_a == 50.0


@given(low=st.floats(-20, 100), more=st.floats(0, 50))
def test_ambient_factor_never_rises_with_heat(low: float, more: float) -> None:
    assert 0.0 <= ambient_factor(low + more, 105.0) <= ambient_factor(low, 105.0) <= 1.0


@pytest.mark.parametrize(
    ("count", "e11", "iso"), [(2, 1.0, 1.0), (3, 0.7, 1.0), (5, 0.6, 0.7), (24, 0.5, 0.6), (60, 0.4, 0.5)]
)
def test_bundle_factor_rows(count: int, e11: float, iso: float) -> None:
    assert (bundle_factor("e11", count)[0], bundle_factor("iso_small_craft", count)[0]) == (e11, iso)


def test_conductor_temp_reaches_rating_at_ampacity() -> None:
    assert conductor_temp_c(40.0, 40.0, ambient_c=30.0, insulation_c=105.0) == pytest.approx(105.0)
    assert conductor_temp_c(0.0, 40.0, ambient_c=30.0, insulation_c=105.0) == 30.0
    assert conductor_temp_c(1.0, None, ambient_c=30.0, insulation_c=105.0) == 105.0


def test_wire_size_lookup_never_guesses() -> None:
    with pytest.raises(UnknownRow, match="no wire size '11'"):
        wire_size("awg", "11")
    assert all_sizes("awg")[0] == "26"
    assert all_sizes("awg")[-1] == "4/0"


@pytest.mark.parametrize(
    ("behaviour", "school", "amps"),
    [
        ("constant_power", "nominal", "5.00"),
        ("constant_power", "lowest", "5.71"),
        ("constant_power", "running", "4.44"),
        ("constant_current", "running", "5.00"),
        ("resistive", "running", "5.63"),
        ("resistive", "lowest", "5.00"),
    ],
)
def test_load_figures_design_current_by_school(behaviour: str, school: str, amps: str) -> None:
    load = Load(id="l1", name="x", tag="L01", power_w=60.0, behaviour=behaviour)  # type: ignore[arg-type]
    assert as_printed(amps) == load_figures(load, nominal_v=12.0, school=school).design_current_a  # type: ignore[arg-type]


def test_load_figures_amps_typed_at_rated_volts() -> None:
    load = Load(id="l1", name="x", tag="L01", current_a=2.0, rated_v=24.0, count=3, hours_per_day=2)
    figures = load_figures(load, nominal_v=12.0, school="nominal")
    assert (figures.current_a, figures.power_w) == (6.0, 144.0)
    assert figures.ah_per_day == pytest.approx(24.0)


def test_maker_fuse_is_taken_for_a_single_load_and_caps_a_shared_run() -> None:
    doc = small_document()
    doc["parts"][3]["maker"] = {"fuse_a": 15.0}
    doc["parts"][2]["maker"] = {"fuse_a": 10.0}
    runs = {run.id: run for run in evaluate(parse_plan(doc)).runs}
    assert runs["r3"].fuse is not None
    assert runs["r3"].fuse.rating_a == 15.0
    assert runs["r2"].fuse is not None
    assert runs["r2"].fuse.rating_a == 5.0


def test_run_behind_a_load_must_stand_the_fuse_before_it() -> None:
    doc = small_document()
    doc["parts"][2]["power_w"] = 420.0
    runs = {run.id: run for run in evaluate(parse_plan(doc)).runs}
    assert runs["r4"].protected_by == "C02"
    assert runs["r2"].fuse is not None
    assert runs["r4"].wire.ampacity_a is not None
    assert runs["r4"].wire.ampacity_a * 1.5 >= (runs["r2"].fuse.rating_a or 0)


def test_working_opens_every_figure_of_a_run() -> None:
    report = evaluate(small_plan())
    for figure in (
        "design_current_a",
        "length_m",
        "ampacity_a",
        "wire",
        "fuse",
        "temp_c",
        "resistance_ohm",
        "drop_v",
        "drop_to_end",
    ):
        assert f"r2.{figure}" in report.working
    shown = report.working["r2.ampacity_a"]
    assert shown.value == report.runs[1].wire.ampacity_a
    assert {row.table for row in shown.rows} == {"ampacity_e11", "bundling_factor"}
    assert all(row.source and row.certainty for row in shown.rows)
    assert "small-craft AWG table" in shown.school


def test_working_inputs_reproduce_the_figure() -> None:
    report = evaluate(small_plan())
    for run in report.runs:
        put_in = {one.symbol: one.value for one in report.working[f"{run.id}.resistance_ohm"].inputs}
        numbers = {symbol: value for symbol, value in put_in.items() if isinstance(value, float)}
        copper = 2 * numbers["L"] * numbers["R20"] * (1 + numbers["α"] * (numbers["T"] - 20))
        assert copper + numbers["R_joints"] + numbers.get("R_fuse", 0.0) == pytest.approx(run.resistance_ohm * 1000)
        drop = {one.symbol: one.value for one in report.working[f"{run.id}.drop_v"].inputs}
        legs = [float(drop[f"I{leg}"]) * float(drop[f"R{leg}"]) / 1000 for leg in ("₁", "₂")]
        assert abs(legs[0] - legs[1]) == pytest.approx(run.worst.drop_v, rel=1e-6)


def test_size_run_takes_every_option() -> None:
    answer = size_run(
        SizeRequest(
            watts=120,
            behaviour="resistive",
            rated_v=12,
            min_v=10.5,
            length_m=8,
            length_reading="loop",
            nominal_v=24,
            insulation_c=90,
            ambient_c=45,
            engine_space=True,
            bundle_count=5,
            limit_pct=4,
            family="blade_maxi",
            margin_frac=0.25,
            practice_set="metric_caravan",
            pinned_size=None,
        )
    )
    assert (answer.length_m, answer.loop_length_m, answer.limit_frac) == (4.0, 8.0, 0.04)
    assert answer.fuse_label == "Large blade"
    assert answer.ampacity_a is not None
    assert answer.ampacity_a >= 1.25 * answer.design_current_a


def test_size_run_same_engine_as_a_plan() -> None:
    answer = size_run(SizeRequest(amps=6.0, length_m=4.0))
    assert answer.drop_v == pytest.approx(
        answer.design_current_a * float(answer.working["r1.resistance_ohm"].value or 0) / 1000, rel=1e-6
    )


@pytest.mark.parametrize(
    ("fields", "match"),
    [
        ({"length_m": 1.0}, "give amps or watts"),
        ({"amps": 1, "watts": 1, "length_m": 1.0}, "give amps or watts"),
        ({"amps": -1, "length_m": 1.0}, "greater than 0"),
        ({"amps": 1, "length_m": float("nan")}, "greater than 0|finite"),
        ({"amps": 1, "length_m": 0}, "greater than 0"),
        ({"amps": 1, "length_m": 1, "nominal_v": 0}, "6, 12 or 24"),
    ],
)
def test_size_request_refuses(fields: dict[str, object], match: str) -> None:
    with pytest.raises(ValidationError, match=match):
        SizeRequest.model_validate(fields)


def test_size_run_unknown_set_is_named() -> None:
    with pytest.raises(BadDocument, match="does not hold together"):
        size_run(SizeRequest(amps=1, length_m=1, practice_set="nobody"))


@pytest.mark.parametrize("name", list(load_sets()))
def test_compare_sets_every_set(name: str) -> None:
    plan = small_plan()
    found = compare_sets(plan, name)
    assert len(found.runs) == len(plan.runs)
    if name == "small_craft_us":
        assert found.changed == 0
    else:
        assert found.changed > 0
        assert found.rules


def test_compare_sets_unknown_set() -> None:
    with pytest.raises(UnknownRow, match="no practice set 'x'"):
        compare_sets(small_plan(), "x")


def test_practice_override_changes_the_outcome() -> None:
    doc = small_document()
    doc["practice"]["overrides"] = [{"rule": "shelf", "value": ["4"], "reason": "one spool"}]
    report = evaluate(parse_plan(doc))
    assert {run.wire.label for run in report.runs} == {"4 AWG"}
    rule = next(one for one in report.rules if one.rule == "shelf")
    assert (rule.overridden, rule.reason) == (True, "one spool")
