"""Reference test: the fault worked by hand in docs/worked-fault.md, figure by figure, within 1 %."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import FaultStudy, study_faults
from lucernis.core.protection.fuse_curves import opening
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import every_finding

BATTERY = {"kind": "battery", "capacity_ah": 100.0}


def link(**run_fields: Any) -> Plan:
    """Two batteries and a link of 3 m, 25 mm², a 300 A fuse at each end."""
    fuse = {"distance_m": 0.0, "family": "bolt_m8", "pin": {"rating_a": 300.0, "reason": "worked by hand"}}
    return parse_plan(
        {
            "format": "lucernis-plan",
            "version": 2,
            "job": {"name": "Link"},
            "practice": {"set": "metric_caravan"},
            "zones": [{"id": "z", "name": "Inside"}],
            "parts": [
                {"kind": "battery", "id": "b1", "name": "Lithium", "tag": "B01", "capacity_ah": 100.0},
                {
                    "kind": "battery",
                    "id": "b2",
                    "name": "Lead",
                    "tag": "B02",
                    "chemistry": "flooded",
                    "capacity_ah": 100.0,
                },
            ],
            "runs": [
                {
                    "id": "r1",
                    "tag": "C01",
                    "start": {"part": "b1"},
                    "finish": {"part": "b2"},
                    "length_m": 3.0,
                    "wire": {"system": "mm2", "size": "25", "reason": "worked by hand"},
                    "fuse_at_start": fuse,
                    "fuse_at_finish": fuse,
                }
                | run_fields
            ],
        }
    )


@pytest.fixture(scope="module")
def study() -> tuple[Sized, FaultStudy]:
    plan = link()
    sized = size_plan(plan, plan_rules(plan))
    # Of a link that both its ends feed the one or the other counts as the way in.
    assert sized.topology.start_of["r1"] == "b2"
    return sized, study_faults(plan, sized)


def test_strongest_and_weakest_short_in_the_middle(study: tuple[Sized, FaultStudy]) -> None:
    """2406.8 + 1921.6 A, and 1511.3 + 1584.2 A."""
    middle = study[1].of_run["r1"][1]
    assert middle.where == "middle"
    assert middle.strongest_a == pytest.approx(2406.8 + 1921.6, rel=0.01)
    assert middle.weakest_a == pytest.approx(1511.3 + 1584.2, rel=0.01)


def test_fuses_open_one_after_the_other(study: tuple[Sized, FaultStudy]) -> None:
    """Lead side after 1.464 s, lithium side after 1.686 s: then it is over."""
    middle = study[1].of_run["r1"][1]
    assert middle.openers == ["r1", "r1:far"]
    assert middle.slow_s == pytest.approx(1.686, rel=0.01)


@pytest.mark.parametrize(("where", "near", "other", "battery"), [
    (0, "r1:far", "r1", "b2"), (2, "r1", "r1:far", "b1")])  # fmt: skip
def test_a_short_at_one_end_is_over_when_the_far_battery_s_fuse_has_opened(
    study: tuple[Sized, FaultStudy], where: int, near: str, other: str, battery: str
) -> None:
    """The far battery feeds it through all of the link, before and after the near fuse has gone: V over its own
    resistance and both legs; its 300 A fuse takes its published time for that. Told is up to a tenth more: the near
    fuse is past its last published point, where its time is only a bound."""
    sized, faults = study
    fault, source, link_ohm = faults.of_run["r1"][where], faults.sources[battery], sized.chosen["r1"]
    legs_ohm = link_ohm.wire_loop_ohm + link_ohm.joints_ohm + link_ohm.fuse_ohm
    amps = source.half_v / (source.running_ohm + legs_ohm)
    assert fault.openers == [near, other]
    published = opening("bolt_m8", np.array([300.0]), np.array([amps]))
    assert fault.slow_s is not None
    assert 0.99 <= fault.slow_s / float(published.slow_s[0]) <= 1.1


def test_each_fuse_breaks_what_passes_through_it(study: tuple[Sized, FaultStudy]) -> None:
    """4351 A at the lithium side and 3096 A at the lead side, never the 4328 A of the wire between them."""
    fuses = study[0].fuses
    assert fuses["r1:far"].break_a == pytest.approx(4351, rel=0.01)
    assert fuses["r1"].break_a == pytest.approx(3096, rel=0.01)


def test_one_fuse_alone_does_not_end_it() -> None:
    """Without the fuse at the lead battery nothing ends what that battery feeds."""
    report = evaluate(link(fuse_at_finish=None))
    middle = report.runs[0].faults[1]
    assert middle.openers == ["C01"]
    assert middle.slow_s is None
    assert {code for code, _ in every_finding(report.findings)} >= {"fuse-one-end", "fault-not-cleared"}
