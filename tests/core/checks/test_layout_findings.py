"""Every code about channels and places fires where it should, each limit on either side, and each mend mends."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.fill import inside_needed_mm, outside_mm
from lucernis.core.report import Finding
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import apply_edits
from tests.helpers import every_finding, part, run, severity_stands, small_document

Doc = dict[str, Any]
Spoil = Callable[[Doc], None]


def laid() -> Doc:
    """The small plan along two channels: battery and block at the bench, the pump at the far end, the lamp between."""
    doc = small_document(version=5)
    doc["zones"].append({"id": "tank", "name": "Locker of the tank", "vapour": True})
    doc["places"] = [
        {"id": "p1", "name": "Bench", "zone": "z1"},
        {"id": "p2", "name": "Middle", "zone": "z1"},
        {"id": "p3", "name": "Far end", "zone": "z1", "airy": True, "reach": "panel"},
        {"id": "p4", "name": "Cupboard", "zone": "z1", "reach": "closed"},
        {"id": "p5", "name": "Tank", "zone": "tank"},
    ]
    hole = {"through": "firewall", "hole_mm": 20}
    doc["channels"] = [
        {"id": "c1", "name": "Left sill", "start": "p1", "finish": "p2", "length_m": 1.0, "clamp_m": 0.4,
         "crossings": [hole]},
        {"id": "c2", "name": "Left rib", "start": "p2", "finish": "p3", "length_m": 2.0, "inside_mm": 25},
        {"id": "c3", "name": "Roof rib", "start": "p1", "finish": "p3", "length_m": 9.0},
    ]  # fmt: skip
    for one, place in {"b1": "p1", "f1": "p1", "l1": "p2", "l2": "p3", "l3": "p3"}.items():
        part(doc, one)["place"] = place
    part(doc, "b1").update(short_circuit_a=900.0, fixed=True)
    part(doc, "l2")["keyed"] = False
    doc["parts"].append(
        {"kind": "switch", "id": "s1", "name": "Main switch", "tag": "S01", "use": "isolator", "place": "p1"}
    )
    run(doc, "r1")["finish"] = {"part": "s1"}
    doc["runs"].append({"id": "r8", "tag": "C08", "start": {"part": "s1"}, "finish": {"part": "f1"}, "length_m": 0.3})
    for one in ("r2", "r3", "r4"):
        run(doc, one)["way"] = {}
    return doc


def channel(name: str, **fields: Any) -> Spoil:
    return lambda doc: next(one for one in doc["channels"] if one["id"] == name).update(fields)


def hole(**fields: Any) -> Spoil:
    return lambda doc: doc["channels"][0]["crossings"][0].update(fields)


def put(part_id: str, **fields: Any) -> Spoil:
    return lambda doc: part(doc, part_id).update(fields)


def fuse(**fields: Any) -> Spoil:
    return lambda doc: run(doc, "r1")["fuse_at_start"].update(fields)


def with_part(run_id: str, place: str, **fields: Any) -> Spoil:
    """Another part into a run, at a place."""

    def spoil(doc: Doc) -> None:
        new = {"id": "x1", "name": "New", "tag": "X01", "place": place} | fields
        end = dict(run(doc, run_id)["finish"])
        run(doc, run_id)["finish"] = {"part": "x1"}
        doc["parts"].append(new)
        doc["runs"].append({"id": "r9", "tag": "C09", "start": {"part": "x1"}, "finish": end, "length_m": 0.4})

    return spoil


def relay(doc: Doc) -> None:
    with_part("r3", "p3", kind="relay", contact_a=30.0, suppression="diode", terminals="up")(doc)
    doc["runs"].append(
        {"id": "r10", "tag": "C10", "start": {"part": "f1", "way": 5}, "finish": {"part": "x1", "terminal": "coil"},
         "length_m": 2.0, "fuse_at_start": {}}
    )  # fmt: skip


def charger(doc: Doc) -> None:
    part(doc, "l2").update(
        device="inverter", current_a=None, power_w=100.0, behaviour="constant_power",
        inverter={"continuous_w": 100.0, "surge_w": 120.0},
    )  # fmt: skip
    next(one for one in doc["places"] if one["id"] == "p3")["airy"] = False


SPOILS: dict[str, tuple[Spoil, str]] = {
    "run-no-way": (put("l2", place=None), "r3"),
    "channel-exhaust": (channel("c1", near=["exhaust"]), "c1"),
    "channel-heat": (channel("c1", near=["heat"]), "c1"),
    "channel-fuel": (channel("c1", near=["fuel"]), "c1"),
    "channel-moving": (channel("c1", near=["moving"]), "c1"),
    "channel-screws": (channel("c1", screws=True), "c1"),
    "gas-with-wires": (channel("c1", gas=True), "c1"),
    "mains-with-wires": (channel("c1", mains="together"), "c1"),
    "conduit-full": (channel("c2", inside_mm=7.0), "c2"),
    "hole-small": (hole(hole_mm=6.0), "c1"),
    "joint-buried": (with_part("r3", "p4", kind="joint", form="plug"), "x1"),
    "fuse-buried": (put("f1", place="p4"), "f1"),
    "fuse-hanging": (fuse(bracket=False), "r1"),
    "fuse-untied": (fuse(tied=False), "r1"),
    "battery-loose": (put("b1", fixed=False), "b1"),
    "battery-vapour": (put("b1", place="p5"), "b1"),
    "charger-no-air": (charger, "l2"),
    "relay-up": (relay, "x1"),
}
# What only a person can do has no edit.
BY_HAND = {"run-no-way", "conduit-full", "joint-buried", "fuse-buried", "battery-vapour", "charger-no-air"}


def found(doc: Doc) -> dict[tuple[str, str], Finding]:
    return every_finding(evaluate(parse_plan(doc)).findings)


def test_laid_out_plan_is_silent() -> None:
    assert found(laid()) == {}


@pytest.mark.parametrize("code", sorted(SPOILS))
def test_code_fires_and_its_mend_mends(code: str) -> None:
    spoil, subject = SPOILS[code]
    doc = laid()
    spoil(doc)
    plan = parse_plan(doc)
    one = every_finding(evaluate(plan).findings)[code, subject]
    assert one.what
    assert one.mend
    assert severity_stands(one)
    assert bool(one.fixes) is (code not in BY_HAND)
    for fix in one.fixes:
        after = every_finding(evaluate(apply_edits(plan, fix.edits)).findings)
        assert (code, subject) not in after, fix.label


@pytest.mark.parametrize(
    "code", ["channel-exhaust", "channel-heat", "channel-fuel", "channel-moving", "channel-screws", "gas-with-wires"]
)
def test_what_is_guarded_is_silent(code: str) -> None:
    doc = laid()
    SPOILS[code][0](doc)
    channel("c1", guarded=True)(doc)
    assert (code, "c1") not in found(doc)


@pytest.mark.parametrize("code", ["channel-exhaust", "hole-small", "mains-with-wires"])
def test_a_channel_nothing_lies_in_says_nothing(code: str) -> None:
    doc = laid()
    SPOILS[code][0](doc)
    for one in doc["runs"]:
        one.pop("way", None)
    assert found(doc) == {}


def test_mains_kept_apart_are_silent() -> None:
    doc = laid()
    channel("c1", mains="apart")(doc)
    assert found(doc) == {}


@pytest.mark.parametrize(("through", "grommet", "sealed", "codes"), [
    ("firewall", False, True, {"hole-no-grommet"}),
    ("firewall", True, False, {"hole-unsealed"}),
    ("roof", True, False, {"hole-unsealed"}),
    ("metal", True, False, set()),
    ("metal", False, True, {"hole-no-grommet"}),
    ("plastic_or_wood", False, False, set()),
])  # fmt: skip
def test_holes_by_what_they_go_through(through: str, grommet: bool, sealed: bool, codes: set[str]) -> None:
    doc = laid()
    hole(through=through, grommet=grommet, sealed=sealed)(doc)
    assert {code for code, subject in found(doc) if subject == "c1"} == codes
    plan = parse_plan(doc)
    for one in evaluate(plan).findings:
        for fix in one.fixes:
            assert every_finding(evaluate(apply_edits(plan, fix.edits)).findings) == {}


def test_clamps_at_their_limit_and_in_conduit() -> None:
    doc = laid()
    channel("c1", clamp_m=0.457)(doc)
    assert found(doc) == {}
    channel("c1", clamp_m=0.46)(doc)
    assert set(found(doc)) == {("span-unsupported", "c1")}
    channel("c1", clamp_m=0.46, inside_mm=40)(doc)
    assert found(doc) == {}


def test_a_hole_and_a_conduit_at_their_limits() -> None:
    doc = laid()
    sizes = {one.id: one.wire.area_mm2 for one in evaluate(parse_plan(doc)).runs}
    in_hole = [outside_mm(sizes[one]) for one in ("r2", "r2", "r3", "r3")]
    needed_mm = inside_needed_mm(in_hole, "hole")
    for off_mm, codes in ((0.1, set()), (-0.1, {("hole-small", "c1")})):
        hole(hole_mm=needed_mm + off_mm)(doc)
        assert set(found(doc)) == codes
    hole(hole_mm=20)(doc)
    # C03 to the pump and C04 to the far lamp lie in the second channel.
    in_conduit = [outside_mm(sizes[one]) for one in ("r3", "r3", "r4", "r4")]
    needed_mm = inside_needed_mm(in_conduit, "conduit")
    for off_mm, codes in ((0.05, set()), (-0.05, {("conduit-full", "c2")})):
        channel("c2", inside_mm=needed_mm + off_mm)(doc)
        assert set(found(doc)) == codes


def test_a_splice_behind_a_closed_wall_is_found_at_the_end_of_a_run() -> None:
    doc = laid()
    part(doc, "l3")["place"] = "p4"
    run(doc, "r4")["finish"]["joint"] = "lever"
    run(doc, "r4").pop("way")
    assert set(found(doc)) == {("joint-buried", "r4")}
    run(doc, "r4")["finish"]["joint"] = "lug_small"
    assert found(doc) == {}


def test_a_length_that_is_drawn_only_is_said_to_be_a_guess() -> None:
    doc = laid()
    for at, place in enumerate(doc["places"]):
        place.update(x_m=0.5 * at, y_m=0.0)
    next(one for one in doc["channels"] if one["id"] == "c1").pop("length_m")
    told = found(doc)
    assert set(told) == {("lengths-guessed", "plan")}
    one = told["lengths-guessed", "plan"]
    assert "C02, C03" in one.what
    assert one.mend == "Measure Left sill; sizes follow."


def test_a_way_that_is_bent_out_of_reach_says_so_and_lets_go() -> None:
    doc = laid()
    run(doc, "r3")["way"] = {"avoid": ["c2", "c3"]}
    one = found(doc)["run-no-way", "r3"]
    assert "what it must use and avoid leaves no way" in one.what
    plan = parse_plan(doc)
    assert every_finding(evaluate(apply_edits(plan, one.fixes[0].edits)).findings) == {}


def test_an_island_says_between_which_places() -> None:
    doc = laid()
    doc["channels"] = doc["channels"][:1]
    told = found(doc)
    assert "no channel joins Bench and Far end" in told["run-no-way", "r3"].what
    assert "4 m taken instead" in told["run-no-way", "r3"].what
