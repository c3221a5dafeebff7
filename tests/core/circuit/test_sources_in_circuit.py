"""What feeds a circuit besides the house battery: the starter side with the engine running, panels straight on it."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report
from lucernis.plan.document import parse_plan
from tests.helpers import every_finding, part, powered_document, run


def report_of(doc: dict[str, Any]) -> Report:
    return evaluate(parse_plan(doc))


def volts(report: Report, point: str) -> dict[str, float | None]:
    node = next(one for one in report.nodes if one.id == point)
    return dict(zip([one.state_id for one in report.summary.states], node.voltage_v, strict=True))


def test_the_starter_side_stands_at_the_alternator_with_the_engine_on() -> None:
    at = volts(report_of(powered_document()), "b0")
    assert at["driving"] is not None
    assert at["driving"] > 13.5
    assert at["all_on"] is None or at["all_on"] < 13.0


def test_a_charger_from_the_engine_shows_its_true_drop() -> None:
    """Its input draws what its output needs, over the wire it has: twice the length is nearly twice the drop."""
    found = []
    for length_m in (4.0, 8.0):
        doc = powered_document()
        run(doc, "r21").update(length_m=length_m, wire={"system": "awg", "size": "6", "reason": "test"})
        worst = next(one for one in report_of(doc).runs if one.id == "r21")
        found.append(worst.states["driving"].conductor_drop_v)
    assert found[0] > 0.1
    assert found[1] == pytest.approx(2 * found[0], rel=0.1)


def test_a_charger_rests_with_the_engine_off() -> None:
    report = report_of(powered_document())
    assert next(one for one in report.runs if one.id == "r21").states["all_on"].current_a == pytest.approx(
        0.0, abs=0.05
    )


def straight(short_a: float = 6.0) -> dict[str, Any]:
    """A panel on the bars of the battery, with no controller between."""
    doc = powered_document()
    doc["parts"].append(
        {"kind": "panel", "id": "v9", "name": "Old panel", "tag": "V09", "power_w": 100.0, "mp_v": 18.0, "open_v": 22.0,
         "short_a": short_a, "series": 1}
    )  # fmt: skip
    doc["runs"].append(
        {"id": "r9", "tag": "C09", "start": {"part": "v9"}, "finish": {"part": "u1"}, "length_m": 3.0,
         "fuse_at_finish": {"distance_m": 0.1}}
    )  # fmt: skip
    return doc


@pytest.mark.parametrize("short_a", [6.0, 14.0])
def test_a_panel_straight_on_a_battery_counts_a_quarter_more_than_its_short_circuit(short_a: float) -> None:
    """Wire and fuse for 1.25 · Isc: bright cloud edges give more than the rating. NEC 690.8, from memory."""
    one = next(one for one in report_of(straight(short_a)).runs if one.id == "r9")
    assert one.design_current_a == pytest.approx(1.25 * short_a)
    assert one.wire.ampacity_a is not None
    assert one.wire.ampacity_a >= 1.25 * short_a
    fuse = one.fuse or one.far_fuse
    assert fuse is not None
    assert fuse.rating_a is not None
    assert fuse.rating_a >= 1.25 * short_a


def test_a_panel_a_battery_can_feed_back_into_needs_its_fuse() -> None:
    """Thin wire behind the main fuse alone burns when the panel shorts; a fuse at the bars mends it."""
    unfused = {"fuse-missing", "fuse-one-end", "fuse-above-wire", "step-unfused"}
    found = []
    for fuse in (None, {"distance_m": 0.1}):
        doc = straight()
        run(doc, "r9").update(wire={"system": "awg", "size": "14", "reason": "found so"}, fuse_at_finish=fuse)
        found.append({code for code, subject in every_finding(report_of(doc).findings) if subject == "r9"} & unfused)
    assert found[0]
    assert not found[1]


def test_nothing_generates_that_is_no_source() -> None:
    """No load feeds current back in any state, whatever is switched."""
    report = report_of(powered_document())
    for one in report.loads:
        for state in one.states.values():
            assert (state.current_a or 0.0) >= -1e-9
            assert state.conductor_drop_frac <= 1.0


def test_a_load_with_reversed_volts_draws_nothing_and_says_so() -> None:
    doc = powered_document()
    run(doc, "r3").update(legs="positive")
    back = run(doc, "r3") | {"id": "r31", "tag": "C31", "legs": "negative", "fuse_at_start": None}
    back["start"], back["finish"] = {"part": "l2"}, {"part": "u1"}
    doc["runs"].append(back)
    served = next(one for one in report_of(doc).loads if one.id == "l2").states["all_on"]
    assert served.served
    doc["runs"].remove(back)
    lone = report_of(doc)
    dead = next(one for one in lone.loads if one.id == "l2").states["all_on"]
    assert (dead.served, dead.current_a or 0.0) == (False, 0.0)
    assert any(subject in ("l2", "r3") for _, subject in every_finding(lone.findings))


def test_an_alternator_is_told_its_share() -> None:
    """A charger that asks most of an alternator is looked at, one that asks a third is not."""
    found = {}
    for rated_a in (45.0, 200.0):
        doc = powered_document()
        part(doc, "a1")["rated_a"] = rated_a
        found[rated_a] = {code for code, _ in every_finding(report_of(doc).findings)}
    assert "alternator-share" in found[45.0]
    assert "alternator-share" not in found[200.0]
