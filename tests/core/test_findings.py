"""Every code of the checks can fire and can be silent: one plan that raises it, and the same plan mended."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucernis.core.codes import CODES
from lucernis.core.evaluate import evaluate
from lucernis.core.report import Finding
from lucernis.plan.model import parse_plan
from tests.helpers import part, run, small_document

Doc = dict[str, Any]
Spoil = Callable[[Doc], None]


def pin_wire(run_id: str, size: str, system: str = "awg") -> Spoil:
    return lambda doc: run(doc, run_id).update(wire={"system": system, "size": size, "reason": "test"})


def pin_fuse(run_id: str, rating_a: float, family: str | None = None) -> Spoil:
    def spoil(doc: Doc) -> None:
        pin = {"rating_a": rating_a, "reason": "test"} | ({"family": family} if family else {})
        run(doc, run_id)["fuse_at_start"]["pin"] = pin

    return spoil


def set_part(part_id: str, **fields: Any) -> Spoil:
    return lambda doc: part(doc, part_id).update(fields)


def set_run(run_id: str, **fields: Any) -> Spoil:
    return lambda doc: run(doc, run_id).update(fields)


def rules(**values: Any) -> Spoil:
    def spoil(doc: Doc) -> None:
        overrides = [{"rule": rule, "value": value, "reason": "test"} for rule, value in values.items()]
        doc["practice"] = {"set": "small_craft_us", "overrides": overrides}

    return spoil


def both(*spoils: Spoil) -> Spoil:
    def spoil(doc: Doc) -> None:
        for one in spoils:
            one(doc)

    return spoil


def drop_run(run_id: str) -> Spoil:
    return lambda doc: doc["runs"].remove(run(doc, run_id))


def second_feed(doc: Doc) -> None:
    doc["runs"].append(
        {
            "id": "r9",
            "tag": "C09",
            "start": {"part": "b1"},
            "finish": {"part": "l1"},
            "length_m": 2.0,
            "fuse_at_start": {"distance_m": 0.1},
        }
    )


def lone_run(doc: Doc) -> None:
    doc["parts"].append({"kind": "load", "id": "l9", "name": "Lone", "tag": "L09", "power_w": 5.0, "hours_per_day": 0})
    doc["runs"].remove(run(doc, "r4"))
    doc["runs"].append({"id": "r9", "tag": "C09", "start": {"part": "l3"}, "finish": {"part": "l9"}, "length_m": 1.0})


def spare_run(doc: Doc) -> None:
    doc["parts"].append({"kind": "fuse_block", "id": "f9", "name": "Spare", "tag": "F09"})
    doc["runs"].append(
        {
            "id": "r9",
            "tag": "C09",
            "start": {"part": "f1", "way": 5},
            "finish": {"part": "f9"},
            "length_m": 1.0,
            "fuse_at_start": {},
        }
    )


SPOILS: dict[str, tuple[Spoil, str]] = {
    "wire-over-ampacity": (both(set_part("l2", current_a=40.0), pin_wire("r3", "16")), "r3"),
    "wire-over-derated": (
        both(pin_wire("r3", "16"), set_part("l2", current_a=15.0), set_run("r3", bundle_count=8)),
        "r3",
    ),
    "wire-no-figure": (pin_wire("r2", "18", "sae"), "r2"),
    "wire-insulation-cool": (set_run("r2", zone="hot", insulation_c=60), "r2"),
    "wire-nothing-fits": (set_part("l2", current_a=600.0, maker={"greatest": {"system": "awg", "size": "10"}}), "r3"),
    "wire-below-least": (pin_wire("r2", "18"), "r2"),
    "wire-below-maker": (
        both(set_part("l1", maker={"least": {"system": "awg", "size": "10"}}), pin_wire("r2", "14")),
        "r2",
    ),
    "wire-above-terminal": (
        both(set_part("l1", maker={"greatest": {"system": "awg", "size": "14"}}), pin_wire("r2", "8")),
        "r2",
    ),
    "wire-look-alike": (both(pin_wire("r1", "4/0"), pin_wire("r2", "4")), "r2"),
    "drop-over-limit": (both(pin_wire("r3", "16"), set_part("l2", sensitive=True)), "l2"),
    "drop-out-of-reach": (set_part("l2", drop_limit_frac=0.001), "l2"),
    "load-under-voltage": (set_part("l1", min_v=11.99), "l1"),
    "load-collapse": (both(set_part("l1", power_w=1500.0), pin_wire("r2", "18"), set_run("r2", length_m=20.0)), "l1"),
    "load-no-figure": (set_part("l1", power_w=None), "l1"),
    "load-no-hours": (set_part("l1", hours_per_day=None), "l1"),
    "load-unfed": (drop_run("r3"), "l2"),
    "run-unfed": (lone_run, "r9"),
    "run-nothing-behind": (spare_run, "r9"),
    "circuit-closes-loop": (second_feed, "r2"),
    "fuse-missing": (set_run("r3", fuse_at_start=None), "r3"),
    "fuse-too-far": (set_run("r1", fuse_at_start={"distance_m": 0.9}), "r1"),
    "fuse-above-wire": (both(pin_wire("r2", "16"), pin_fuse("r2", 40)), "r2"),
    "fuse-below-load": (pin_fuse("r3", 5), "r3"),
    "fuse-above-maker": (both(set_part("l3", maker={"fuse_a": 2.0}), pin_fuse("r2", 10)), "r2"),
    "fuse-none-fits": (set_part("l2", current_a=60.0), "r3"),
    "fuse-not-made": (pin_fuse("r3", 17), "r3"),
    "fuse-low-voltage": (lambda doc: None, "r3"),
    "fuse-unsealed-hot": (set_run("r3", zone="z2"), "r3"),
    "block-over-total": (set_part("f1", total_limit_a=5.0), "f1"),
    "block-over-way": (set_part("f1", way_limit_a=5.0), "r3"),
    "block-ways": (set_part("f1", ways=1), "f1"),
    "battery-missing": (lambda doc: (doc["parts"].pop(0), doc["runs"].pop(0))[0], "plan"),
    "waiver-idle": (lambda doc: doc.update(waivers=[{"code": "fuse-missing", "subject": "r2", "reason": "x"}]), "r2"),
}


def found(doc: Doc) -> dict[tuple[str, str], Finding]:
    return {(one.code, one.subject): one for one in evaluate(parse_plan(doc)).findings}


def base() -> Doc:
    doc = small_document()
    doc["zones"].append({"id": "hot", "name": "Oven", "ambient_c": 65})
    return doc


def test_every_code_has_a_case() -> None:
    assert set(SPOILS) == set(CODES)


def test_small_plan_is_silent() -> None:
    assert found(base()) == {}


@pytest.mark.parametrize("code", sorted(set(SPOILS) - {"fuse-low-voltage"}))
def test_code_fires_where_it_should(code: str) -> None:
    spoil, subject = SPOILS[code]
    doc = base()
    spoil(doc)
    assert (code, subject) in found(doc)


def test_fuse_low_voltage_fires_for_a_family_made_for_less(monkeypatch: pytest.MonkeyPatch) -> None:
    # Every shipped family is made for 28 V and more, so the case needs a system above all that ship.
    from dataclasses import replace

    from lucernis.core.checks import protection

    known = protection.family
    monkeypatch.setattr(protection, "family", lambda name: replace(known(name), max_v=10.0))
    assert ("fuse-low-voltage", "r3") in found(base())


@pytest.mark.parametrize("code", sorted(CODES))
def test_findings_carry_three_lines_and_no_exclamation(code: str) -> None:
    if code == "fuse-low-voltage":
        return
    doc = base()
    SPOILS[code][0](doc)
    for one in found(doc).values():
        assert one.what
        assert one.why
        assert one.mend
        assert one.severity == CODES[one.code].severity
        assert "!" not in one.what + one.why + one.mend


def test_waived_finding_stays_and_no_longer_counts() -> None:
    doc = base()
    SPOILS["fuse-too-far"][0](doc)
    doc["waivers"] = [{"code": "fuse-too-far", "subject": "r1", "reason": "moved next week"}]
    report = evaluate(parse_plan(doc))
    waived = [one for one in report.findings if one.waived is not None]
    assert [(one.code, one.waived) for one in waived] == [("fuse-too-far", "moved next week")]
    assert (report.summary.open_stop, report.summary.waived) == (0, 1)
    assert report.findings[-1] is waived[0]


def test_pinned_fuse_above_the_wire_is_caught_although_150_percent_would_cover_it() -> None:
    doc = base()
    part(doc, "l2").update(current_a=18.0)
    run(doc, "r3").update(length_m=0.5)
    pin_wire("r3", "16")(doc)
    pin_fuse("r3", 35)(doc)
    assert ("fuse-above-wire", "r3") in found(doc)


def test_out_of_reach_says_what_would_help() -> None:
    doc = base()
    part(doc, "l2").update(sensitive=True, current_a=30.0)
    run(doc, "r3").update(length_m=90.0)
    doc["practice"]["overrides"] = [{"rule": "shelf", "value": ["14", "12", "10"], "reason": "test"}]
    finding = found(doc)[("drop-out-of-reach", "l2")]
    assert "24 V" in finding.mend
    assert "a fuse block nearer to it" in finding.mend.lower()
