"""Property tests of the choice of wire and fuse."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeRequest, size_run
from lucernis.core.sizing.choice import size_plan
from lucernis.core.sizing.selection import Shape, cheapest_options
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import small_document

SETS = st.sampled_from(["small_craft_us", "metric_caravan", "overland_bs", "vehicle_accessory"])


def request(**fields: object) -> SizeRequest:
    return SizeRequest.model_validate(fields)


@settings(max_examples=60, deadline=None)
@given(amps=st.floats(0.5, 60), short=st.floats(0.3, 12), more=st.floats(1.0, 3.0), practice=SETS, power=st.booleans())
def test_size_run_longer_never_lets_a_smaller_wire(
    amps: float, short: float, more: float, practice: str, power: bool
) -> None:
    draw = {"watts": 12 * amps} if power else {"amps": amps}
    near = size_run(request(**draw, length_m=short, practice_set=practice))
    far = size_run(request(**draw, length_m=short * more, practice_set=practice))
    out_of_reach = {"drop-out-of-reach", "wire-nothing-fits", "load-collapse"}
    # Where nothing on the shelf keeps the drop, the wire follows the fuse alone and a finding says so.
    if not out_of_reach & {finding.code for finding in far.findings}:
        assert far.area_mm2 >= near.area_mm2 - 1e-9


@settings(max_examples=60, deadline=None)
@given(amps=st.floats(0.5, 40), more=st.floats(1.0, 3.0), practice=SETS)
def test_size_run_more_current_never_a_smaller_fuse(amps: float, more: float, practice: str) -> None:
    low = size_run(request(amps=amps, length_m=1.0, practice_set=practice))
    high = size_run(request(amps=amps * more, length_m=1.0, practice_set=practice))
    assert low.fuse_a is not None
    if high.fuse_a is None:
        assert "fuse-none-fits" in {finding.code for finding in high.findings}
    else:
        assert high.fuse_a >= low.fuse_a


@settings(max_examples=40, deadline=None)
@given(amps=st.floats(0.5, 60), length=st.floats(0.3, 15), practice=SETS)
def test_size_run_without_findings_keeps_every_limit(amps: float, length: float, practice: str) -> None:
    answer = size_run(request(amps=amps, length_m=length, practice_set=practice))
    if not answer.findings:
        assert answer.ampacity_a is not None
        assert answer.fuse_a is not None
        assert answer.design_current_a <= answer.fuse_a + 1e-9
        assert answer.design_current_a <= answer.ampacity_a + 1e-9
        assert answer.conductor_drop_frac <= answer.limit_frac + 1e-6
        allowed = 1.5 if practice == "small_craft_us" else 1.0
        assert answer.fuse_a <= allowed * answer.ampacity_a + 1e-9


def random_plan(lengths: list[float], watts: list[float], sensitive: list[bool]) -> Plan:
    document = small_document()
    for run, length in zip(document["runs"], lengths, strict=True):
        run["length_m"] = length
    for index, (power, flag) in enumerate(zip(watts, sensitive, strict=True)):
        part = document["parts"][2 + index]
        part.pop("current_a", None)
        part |= {"power_w": power, "behaviour": "constant_power", "sensitive": flag, "keyed": False}
    return parse_plan(document)


PLANS = st.builds(
    random_plan,
    st.lists(st.floats(0.3, 6), min_size=4, max_size=4),
    st.lists(st.floats(2, 150), min_size=3, max_size=3),
    st.lists(st.booleans(), min_size=3, max_size=3),
)


@settings(max_examples=40, deadline=None)
@given(plan=PLANS)
def test_evaluate_drop_is_the_sum_along_the_path(plan: Plan) -> None:
    report = evaluate(plan)
    runs = {run.id: run.states["all_on"].drop_v for run in report.runs}
    loads = {load.id: load.states["all_on"].drop_v for load in report.loads}
    assert loads["l1"] == pytest.approx(runs["r1"] + runs["r2"], abs=1e-5)
    assert loads["l3"] == pytest.approx(runs["r1"] + runs["r2"] + runs["r4"], abs=1e-5)
    assert loads["l2"] == pytest.approx(runs["r1"] + runs["r3"], abs=1e-5)


@settings(max_examples=25, deadline=None)
@given(plan=PLANS)
def test_size_plan_found_sizes_keep_limits_or_say_so(plan: Plan) -> None:
    sized = size_plan(plan, plan_rules(plan))
    for load, limit_v in sized.limit_v.items():
        if load in sized.out_of_reach:
            continue
        for state in sized.states.values():
            conductors_v = sized.parts_lost_v(state)[load][0]
            assert conductors_v <= limit_v + 1e-6


@settings(max_examples=25, deadline=None)
@given(plan=PLANS)
def test_cheapest_options_equals_trying_everything(plan: Plan) -> None:
    # With the currents fixed, the staircase search must find what brute force over every choice finds.
    sized = size_plan(plan, plan_rules(plan))
    order = sized.topology.order
    cases = {run: replace(case, options=case.options[:7]) for run, case in sized.cases.items()}
    current_a = {run: sized.demand.design_current_a[run] for run in order}
    paths = {"l1": ("r1", "r2"), "l3": ("r1", "r2", "r4"), "l2": ("r1", "r3")}

    def lost_v(pick: dict[str, int], load: str) -> float:
        return sum(current_a[run] * cases[run].counted_ohm[pick[run]] for run in paths[load])

    best = None
    for combo in itertools.product(*(range(len(cases[run].options)) for run in order)):
        pick = dict(zip(order, combo, strict=True))
        if all(lost_v(pick, load) <= sized.limit_v[load] for load in paths):
            copper = sum(cases[run].options[at].cost_mm2_m for run, at in pick.items())
            best = copper if best is None else min(best, copper)
    if best is None:
        return
    found = cheapest_options(Shape(sized.topology, cases, ("b1",), {}, taper=False), current_a, sized.limit_v)
    assert all(lost_v(found, load) <= sized.limit_v[load] + 1e-9 for load in paths)
    assert sum(cases[run].options[at].cost_mm2_m for run, at in found.items()) == pytest.approx(best, rel=1e-9)


def test_size_plan_pin_shows_what_it_would_have_been() -> None:
    document = small_document()
    free = {run.id: run.wire.label for run in evaluate(parse_plan(document)).runs}
    document["runs"][1]["wire"] = {"system": "awg", "size": "4", "reason": "on the shelf"}
    wire = next(run.wire for run in evaluate(parse_plan(document)).runs if run.id == "r2")
    assert (wire.label, wire.pinned, wire.computed_label) == ("4 AWG", True, free["r2"])
    assert wire.pin_reason == "on the shelf"


def test_size_plan_state_with_fewer_loads_lowers_its_own_figures_only() -> None:
    report = evaluate(parse_plan(small_document()))
    feeder = report.runs[0]
    assert feeder.states["key_off"].current_a < feeder.states["all_on"].current_a
    assert feeder.design_current_a == pytest.approx(9.0)
    assert feeder.design_state == "all_on"
    pump = next(load for load in report.loads if load.id == "l2")
    assert not pump.states["key_off"].on
