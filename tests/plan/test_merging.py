"""Items are known by themselves and not by their place; two hands meet only where both changed the same."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucernis.errors import EditRefused
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.identity import known_by, names_places, place_of
from lucernis.plan.merging import merge
from tests.helpers import small_document

Doc = dict[str, Any]


def full() -> Doc:
    return plan_document(parse_plan(small_document()))


def named(doc: Doc, section: str, item: str) -> Doc:
    found: Doc = next(one for one in doc[section] if one["id"] == item)
    return found


def by(change: Callable[[Doc], None]) -> Doc:
    doc = full()
    change(doc)
    return doc


def watts(item: str, value: float) -> Callable[[Doc], None]:
    return lambda doc: named(doc, "parts", item).update(power_w=value)


def without(item: str) -> Callable[[Doc], None]:
    return lambda doc: doc["parts"].remove(named(doc, "parts", item))


@pytest.mark.parametrize(
    ("mine", "theirs", "told"),
    [
        (watts("l1", 7.0), watts("l2", 8.0), []),
        (watts("l1", 7.0), lambda doc: named(doc, "parts", "l1").update(hours_per_day=3.0), []),
        (watts("l1", 7.0), watts("l1", 8.0), ["watts is 7 in yours, 8 in theirs"]),
        (watts("l1", 7.0), watts("l1", 7.0), []),
        (watts("l1", 7.0), without("l1"), ["is taken away in theirs"]),
        (without("l1"), watts("l1", 7.0), ["is taken away in yours"]),
        (without("l1"), without("l1"), []),
        (without("l1"), watts("l2", 7.0), []),
        (lambda doc: doc["parts"].reverse(), watts("l2", 7.0), []),
        (lambda doc: doc["parts"].reverse(), without("l1"), []),
        (lambda doc: doc["states"][0]["off"].append("l1"), lambda doc: doc["states"][0]["off"].append("l2"), []),
        (lambda doc: doc.update(nominal_v=24), lambda doc: doc["job"].update(name="Other"), []),
        (
            lambda doc: doc["job"].update(name="One"),
            lambda doc: doc["job"].update(name="Two"),
            ["One in yours, Two in"],
        ),
    ],
)
def test_two_hands_meet_only_in_one_field(
    mine: Callable[[Doc], None], theirs: Callable[[Doc], None], told: list[str]
) -> None:
    found = merge(full(), by(mine), by(theirs))
    assert bool(found.conflicts) is bool(told)
    for words in told:
        assert any(words in line for line in found.conflicts), found.conflicts


def test_what_the_others_have_done_already_is_not_done_again() -> None:
    assert merge(full(), by(without("l1")), by(without("l1"))).done_already
    assert merge(full(), by(watts("l1", 7.0)), by(watts("l1", 7.0))).done_already
    assert not merge(full(), by(watts("l1", 7.0)), by(watts("l1", 8.0))).done_already
    assert not merge(full(), by(watts("l1", 7.0)), full()).done_already

    def added(doc: Doc) -> None:
        doc["parts"].append(named(doc, "parts", "l1") | {"id": "l9", "tag": "L09"})

    assert not merge(full(), by(added), by(added)).done_already
    assert merge(full(), by(added), by(added)).conflicts == []


def test_a_path_meets_its_item_wherever_it_has_moved() -> None:
    doc = full()
    place = [one["id"] for one in doc["runs"]].index("r3")
    assert place_of(doc, "/runs/id:r3/length_m") == f"/runs/{place}/length_m"
    doc["runs"].insert(0, doc["runs"].pop())
    moved = [one["id"] for one in doc["runs"]].index("r3")
    assert place_of(doc, "/runs/id:r3/length_m") == f"/runs/{moved}/length_m"
    assert place_of(doc, "/job/name") == "/job/name"
    assert place_of(doc, "/runs/-") == "/runs/-"
    with pytest.raises(EditRefused, match="is gone"):
        place_of(doc, "/runs/id:r99/length_m")


@pytest.mark.parametrize(
    ("item", "name"),
    [
        ({"id": "z1"}, "id:z1"),
        ({"rule": "shelf", "value": []}, "rule:shelf"),
        ({"load": "l3", "share": 0.5}, "load:l3"),
        ({"code": "no-isolator", "subject": "plan", "reason": "x"}, "waiver:no-isolator/plan"),
        ("l3", "is:l3"),
        ({"name": "nobody"}, None),
        (3.5, None),
    ],
)
def test_what_an_item_is_known_by(item: Any, name: str | None) -> None:
    assert known_by(item) == name


def test_places_in_a_path_are_seen() -> None:
    assert names_places("/runs/4/length_m")
    assert not names_places("/runs/id:r4/length_m")
    assert not names_places("/runs/-")


def test_stretches_stops_and_holes_are_known_though_nobody_named_them() -> None:
    doc = small_document(energy={"day": [{"state": "all_on", "hours": 12.0}, {"state": "all_on", "hours": 12.0}]})
    stop = {"name": "Field", "latitude_deg": 50.0, "longitude_deg": 10.0}
    doc["energy"]["stops"] = [stop, stop | {"id": "s1"}, stop]
    doc["runs"][0]["passes"] = [{"through": "metal"}, {"through": "firewall"}]
    plan = parse_plan(doc)
    assert [one.id for one in plan.energy.day] == ["d1", "d2"]
    assert [one.id for one in plan.energy.stops] == ["s2", "s1", "s3"]
    assert [one.id for one in plan.runs[0].passes] == ["h1", "h2"]
    assert parse_plan(plan_document(plan)) == plan
