"""How many wires go into a butt splice: common practice, no source."""

from __future__ import annotations

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.plan.document import parse_plan
from tests.core.checks.test_findings import base, named, wire
from tests.helpers import every_finding


@pytest.mark.parametrize(("count", "size", "found"), [
    (2, "14", False), (3, "14", False), (3, "12", True), (4, "16", True), (2, "6", False), (2, "4", True)])  # fmt: skip
def test_a_butt_splice_joins_two_wires_or_three_thin_ones(count: int, size: str, found: bool) -> None:
    """14 AWG is 2.1 mm², 12 AWG 3.3 mm²; splices are made to 16 mm², 6 AWG. Common practice, no source."""
    doc = base()
    pinned = {"system": "awg", "size": size, "reason": "test"}
    doc["parts"].append(named("joint", "j9", form="splice"))
    doc["runs"].append(wire("r90", {"part": "f1", "way": 6}, "j9", 1.0, wire=pinned, fuse_at_start={}))
    for k in range(count - 1):
        doc["parts"].append(named("load", f"l9{k}", power_w=5.0, hours_per_day=1))
        doc["runs"].append(wire(f"r9{k + 1}", "j9", f"l9{k}", 1.0, wire=pinned))
    told = every_finding(evaluate(parse_plan(doc)).findings)
    assert (("splice-overfull", "j9") in told) is found


@pytest.mark.parametrize(("size", "found"), [("10", False), ("8", True)])
def test_a_splice_does_not_grip_a_wire_three_times_thinner(size: str, found: bool) -> None:
    """14 AWG is 2.08 mm²: 10 AWG is 2.5 times as thick, 8 AWG four times."""
    doc = base()
    pins = [{"system": "awg", "size": one, "reason": "test"} for one in (size, "14")]
    doc["parts"] += [named("joint", "j9", form="splice"), named("load", "l90", power_w=5.0, hours_per_day=1)]
    doc["runs"].append(wire("r90", {"part": "f1", "way": 6}, "j9", 1.0, wire=pins[0], fuse_at_start={}))
    doc["runs"].append(wire("r91", "j9", "l90", 1.0, wire=pins[1]))
    told = every_finding(evaluate(parse_plan(doc)).findings)
    assert (("splice-overfull", "j9") in told) is found
