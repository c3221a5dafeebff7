"""One cause, told once: what follows from it is folded under it, and the mends of one part agree."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Finding, every
from lucernis.plan.document import parse_plan
from tests.helpers import document, part, powered_document, run, small_document

Doc = dict[str, Any]


def findings(job: str, *spoils: Callable[[Doc], object]) -> dict[str, Finding]:
    """Heads of a spoilt demo job by code and tag, without those the job has by itself."""
    usual = {one.id for one in evaluate(parse_plan(document(job))).findings}
    doc = document(job)
    for spoil in spoils:
        spoil(doc)
    return {f"{one.code} {one.tag}": one for one in evaluate(parse_plan(doc)).findings if one.id not in usual}


def under(head: Finding) -> set[str]:
    return {one.code for one in head.consequences}


@pytest.mark.parametrize(
    ("head", "folded", "spoil"),
    [
        ("block-over-total F04", "block-no-prefuse", lambda doc: part(doc, "f4").update(total_limit_a=12.0)),
        ("busbar-over U01", "guard-above-rating", lambda doc: part(doc, "u1").update(rated_a=60.0)),
        ("switch-over S01", "guard-above-rating", lambda doc: part(doc, "s1").update(rated_a=60.0)),
        ("inverter-over-bank L11", "bank-discharge-over", lambda doc: part(doc, "b1").update(discharge_a=50.0)),
        (
            "fuse-above-wire C02",
            "drop-over-limit",
            lambda doc: run(doc, "r2").update(wire={"system": "mm2", "size": "1.5", "reason": "test"}),
        ),
    ],
)
def test_one_cause_is_one_finding(head: str, folded: str, spoil: Callable[[Doc], object]) -> None:
    found = findings("heron", spoil)
    assert list(found) == [head]
    assert folded in under(found[head])


@pytest.mark.parametrize("part_id", ["u1", "s1"])
def test_mends_of_one_rating_agree(part_id: str) -> None:
    """What a bar is made for is raised to what flows and to what its fuse lets through, by one mend."""
    (found,) = findings("heron", lambda doc: part(doc, part_id).update(rated_a=60.0)).values()
    offered = {fix.label for one in (found, *found.consequences) for fix in one.fixes}
    assert offered == {"Take one for 200 A"}


def test_volts_tied_together_come_before_the_currents_they_drive() -> None:
    found = findings("plover_mended", tied)
    stops = [one for one in found.values() if one.severity == "stop"]
    assert [one.code for one in stops] == ["sources-tied"]
    assert {"fuse-below-load", "bank-discharge-over"} <= under(stops[0])


def test_a_missing_negative_is_told_as_such() -> None:
    """Neither thicker wire for what does not work, nor the lamp behind it once more."""
    found = findings("plover_mended", lambda doc: run(doc, "r2").update(legs="positive"))
    assert list(found) == ["return-missing L01"]
    assert under(found["return-missing L01"]) == {"return-missing", "load-collapse"}


def test_a_larger_fuse_is_one_that_is_made() -> None:
    pinned = {"pin": {"rating_a": 3.0, "reason": "test"}}
    (found,) = findings("heron", lambda doc: run(doc, "r16").update(fuse_at_start=pinned)).values()
    assert found.mend == "At least 15 A, with a wire that stands it."


def test_a_larger_fuse_is_never_above_its_maker() -> None:
    def spoil(doc: Doc) -> None:
        run(doc, "r16").update(fuse_at_start={"pin": {"rating_a": 3.0, "reason": "test"}})
        part(doc, "l12").update(maker={"fuse_a": 7.5})

    found = findings("heron", spoil)["fuse-below-load C16"]
    assert "allows 7.5 A" in found.mend
    assert "At least" not in found.mend


def test_derating_is_named() -> None:
    doc = small_document()
    run(doc, "r3").update(wire={"system": "awg", "size": "16", "reason": "test"}, bundle_count=8)
    part(doc, "l2").update(current_a=15.0)
    found = next(one for one in evaluate(parse_plan(doc)).findings if one.code == "wire-over-derated")
    assert found.what.endswith("(8 conductors together)")


def test_a_charger_is_set_for_the_bank_and_not_for_the_stranger_in_it() -> None:
    doc = powered_document()
    part(doc, "b1").update(chemistry="agm", capacity_ah=90.0)
    doc["parts"].append(
        {"kind": "battery", "id": "b2", "name": "Main", "tag": "B02", "chemistry": "lfp", "capacity_ah": 200.0}
    )
    doc["runs"].append(
        {"id": "r98", "tag": "C98", "start": {"part": "b2"}, "finish": {"part": "u1"}, "length_m": 0.5}
        | {"fuse_at_start": {"distance_m": 0.1}}
    )
    codes = {one.code for head in evaluate(parse_plan(doc)).findings for one in (head, *head.consequences)}
    assert "bank-mixed-chemistry" in codes
    assert "charger-chemistry-wrong" not in codes


def tied(doc: Doc) -> None:
    doc["parts"].append(part(doc, "b1") | {"id": "b9", "tag": "B09", "name": "Old pair", "rated_v": 24})
    doc["runs"].append(
        {"id": "r99", "tag": "C99", "start": {"part": "b9"}, "finish": {"part": "u1"}, "length_m": 1.0}
        | {"fuse_at_start": {"distance_m": 0.1}}
    )


def test_what_is_wrong_without_the_tie_stays_a_finding_of_its_own() -> None:
    """A fuse too large for its wire is one whatever the volts are."""

    def thin(doc: Doc) -> None:
        run(doc, "r12")["wire"] = {"system": "awg", "size": "18", "reason": "test"}
        run(doc, "r12")["fuse_at_start"]["pin"] = {"rating_a": 30.0, "reason": "test"}

    found = findings("plover_mended", tied, thin)
    assert {"sources-tied B09", "fuse-above-wire C12"} <= set(found)


def test_a_tie_that_is_waived_hides_nothing() -> None:
    def waive(doc: Doc) -> None:
        doc["waivers"] = [{"code": "sources-tied", "subject": "b9", "reason": "test"}]

    found = findings("plover_mended", tied, waive)
    assert found["sources-tied B09"].waived == "test"
    assert {"fuse-below-load C01", "bank-discharge-over B09"} <= set(found)


def test_a_starter_battery_s_own_limit_is_no_consequence_of_the_house_bank_s() -> None:
    def spoil(doc: Doc) -> None:
        part(doc, "b1").update(discharge_a=50.0)
        part(doc, "b0").update(discharge_a=2.0)
        doc["parts"].append({"kind": "load", "id": "l99", "name": "Horn", "tag": "L99", "power_w": 60.0})
        doc["runs"].append(
            {"id": "r99", "tag": "C99", "start": {"part": "b0"}, "finish": {"part": "l99"}, "length_m": 1.0}
            | {"fuse_at_start": {"distance_m": 0.1}}
        )

    found = findings("heron", spoil)
    assert {"inverter-over-bank L11", "bank-discharge-over B00"} <= set(found)


def test_a_usual_figure_never_heads_what_a_stated_one_wants_mended() -> None:
    """The pump's lowest volts are usual, its drop limit is a rule: the drop says it."""
    doc = small_document()
    part(doc, "l2").update(current_a=23.0, maker={"greatest": {"system": "awg", "size": "10"}})
    run(doc, "r3")["length_m"] = 8.0
    head = next(one for one in evaluate(parse_plan(doc)).findings if one.subject == "l2" and one.consequences)
    assert (head.code, head.severity) == ("drop-out-of-reach", "fix")
    assert [(one.code, one.severity) for one in head.consequences] == [("load-under-voltage", "look")]


def test_gas_in_a_closed_box_is_one_finding() -> None:
    doc = powered_document()
    part(doc, "b1").update(chemistry="flooded")
    doc["places"][0]["vented"] = False
    (head,) = (one for one in evaluate(parse_plan(doc)).findings if one.code in ("lead-unvented", "spark-in-vapour"))
    assert (head.code, head.severity) == ("lead-unvented", "stop")
    assert "spark-in-vapour" in under(head)
    doc["places"][0]["vented"] = True
    assert "spark-in-vapour" not in {one.code for one in every(evaluate(parse_plan(doc)).findings)}
