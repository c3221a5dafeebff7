"""Edits of the layout: places on the grid, channels by the tape and by a table, runs that follow them."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import TypeAdapter

from lucernis.core.layout.laid import laid_out
from lucernis.errors import BadDocument, EditRefused, LucernisError, NotUnderstood, TooLarge
from lucernis.plan.channels_csv import read_channels
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.edits.operations import TakeChannels
from lucernis.plan.model import Channel, Plan
from tests.core.checks.test_layout_findings import laid
from tests.helpers import document, run, small_document

EDITS: TypeAdapter[list[Edit]] = TypeAdapter(list[Edit])


def edited(doc: dict[str, Any], *edits: dict[str, Any]) -> Plan:
    return apply_edits(parse_plan(doc), EDITS.validate_python(list(edits)))


def channel(plan: Plan, name: str) -> Channel:
    return next(one for one in plan.channels if one.id == name)


def test_version_4_has_no_layout_and_its_lengths_stand() -> None:
    doc = small_document(version=4)
    run(doc, "r2").update(length_as_typed="3 m")
    run(doc, "r3").update(length_guessed=True)
    plan = parse_plan(doc)
    assert (plan.version, plan.channels, plan.job.vehicle.outline) == (7, (), None)
    assert all(one.way is None for one in plan.runs)
    assert laid_out(plan) is plan
    assert [(one.length_m, one.length_guessed) for one in plan.runs] == [
        (2.0, False), (3.0, False), (4.0, True), (1.5, False),
    ]  # fmt: skip


def test_a_place_snaps_to_the_grid_to_walls_and_into_the_vehicle() -> None:
    doc = laid()
    doc["job"]["vehicle"] = {"outline": {"length_m": 4.0, "width_m": 1.8, "cab_m": 1.0, "nose_m": 0.8}}

    def put(x_m: float, y_m: float) -> tuple[float | None, float | None]:
        plan = edited(doc, {"op": "put_place", "place": "p2", "x_m": x_m, "y_m": y_m})
        place = next(one for one in plan.places if one.id == "p2")
        return place.x_m, place.y_m

    assert put(2.23, 0.57) == (2.25, 0.55)
    # Nearer than 0.1 m to a wall it stands at the wall: front, cab, rear, left, right.
    assert put(0.09, 0.09) == (0.0, 0.0)
    assert put(0.101, 0.11) == (0.1, 0.1)
    assert put(0.93, 1.75) == (1.0, 1.8)
    assert put(3.95, 1.0) == (4.0, 1.0)
    assert put(-0.75, 1.0) == (-0.8, 1.0)
    # Thrown out of the vehicle it stops where things may still stand.
    assert put(30.0, -9.0) == (4.3, -0.3)


def test_a_place_outside_the_vehicle_is_refused_by_name() -> None:
    doc = laid()
    doc["job"]["vehicle"] = {"outline": {"length_m": 4.0, "width_m": 1.8, "height_m": 1.9}}
    doc["places"][1].update(x_m=4.3, y_m=2.1, z_m=2.5)
    parse_plan(doc)
    for name, value in (("x_m", 4.31), ("y_m", 2.11), ("z_m", 2.51)):
        spoiled = laid() | {"job": doc["job"]}
        spoiled["places"][1].update({name: value})
        with pytest.raises(BadDocument) as caught:
            parse_plan(spoiled)
        assert [one.pointer for one in caught.value.problems] == [f"#/places/1/{name}"]
        assert "Middle stands outside the vehicle" in caught.value.problems[0].detail


def test_a_new_place_takes_the_zone_of_the_last_and_a_name_of_its_own() -> None:
    plan = edited(laid(), {"op": "add_place", "name": " Tail "}, {"op": "add_place", "name": "Nose", "zone": "z2"})
    assert [(one.name, one.zone) for one in plan.places[-2:]] == [("Tail", "tank"), ("Nose", "z2")]
    with pytest.raises(EditRefused, match="there is a place 'bench' already"):
        edited(laid(), {"op": "add_place", "name": "bench"})


def test_a_place_that_goes_takes_its_channels_and_leaves_its_parts() -> None:
    doc = laid()
    run(doc, "r3")["way"] = {"use": ["c1"]}
    plan = edited(doc, {"op": "delete_place", "place": "p2"})
    assert [one.id for one in plan.channels] == ["c3"]
    assert next(one for one in plan.parts if one.id == "l1").place is None
    way = next(one for one in plan.runs if one.id == "r3").way
    assert way is not None
    assert way.use == ()


def test_the_tape_is_typed_in_any_unit_and_let_go() -> None:
    doc = laid()
    for text, length_m in (("2.4 m", 2.4), ("240 cm", 2.4), ("7 ft 10 in", 2.3876), ("2400 mm", 2.4)):
        found = channel(edited(doc, {"op": "measure_channel", "channel": "c1", "text": text}), "c1")
        assert found.length_m == pytest.approx(length_m)
        assert found.length_as_typed == text
    loose = channel(edited(doc, {"op": "measure_channel", "channel": "c1", "text": " "}), "c1")
    assert (loose.length_m, loose.length_as_typed) == (None, None)


@pytest.mark.parametrize("text", ["0", "-2 m", "long", "2 kg", "1001 m", "150 m"])
def test_a_reading_that_is_none_is_refused_and_nothing_changes(text: str) -> None:
    doc = laid()
    with pytest.raises(LucernisError):
        edited(doc, {"op": "measure_channel", "channel": "c1", "text": text})


def test_a_channel_is_named_after_its_places_where_nothing_is_said() -> None:
    plan = edited(laid(), {"op": "add_channel", "start": "p4", "finish": "p5", "length": "1 m"})
    assert (plan.channels[-1].id, plan.channels[-1].name) == ("ch1", "Cupboard to Tank")
    with pytest.raises(EditRefused, match="no place 'p9'"):
        edited(laid(), {"op": "add_channel", "start": "p9", "finish": "p5"})
    with pytest.raises(BadDocument, match="fields that are not allowed"):
        edited(laid(), {"op": "add_channel", "start": "p5", "finish": "p5"})


def test_a_typed_length_pins_a_run_and_an_empty_one_lets_it_follow_again() -> None:
    doc = laid()
    typed = edited(doc, {"op": "set_length", "run": "r3", "text": "5 m"})
    assert next(one.length_m for one in laid_out(typed).runs if one.id == "r3") == 5.0
    again = apply_edits(typed, EDITS.validate_python([{"op": "set_length", "run": "r3", "text": ""}]))
    assert next(one.length_m for one in laid_out(again).runs if one.id == "r3") == pytest.approx(3.57)
    # A run that never followed begins to; without channels an empty length is none.
    begun = edited(doc, {"op": "set_length", "run": "r8", "text": ""})
    assert next(one.way for one in begun.runs if one.id == "r8") is not None
    with pytest.raises(NotUnderstood):
        edited(small_document(), {"op": "set_length", "run": "r3", "text": ""})


def test_runs_follow_bend_and_stop_following() -> None:
    follow = {"op": "follow_channels", "runs": ["r3"], "use": ["c3"], "keep_length": True}
    way = next(one.way for one in edited(laid(), follow).runs if one.id == "r3")
    assert way is not None
    assert (way.use, way.length_pinned) == (("c3",), True)
    gone = edited(laid(), {"op": "follow_channels", "runs": ["r2", "r3"], "follow": False})
    assert [one.way for one in gone.runs if one.id in ("r2", "r3")] == [None, None]
    with pytest.raises(BadDocument) as caught:
        edited(laid(), {"op": "follow_channels", "runs": ["r3"], "use": ["c1"], "avoid": ["c1"]})
    assert "is to be used and avoided" in caught.value.problems[0].detail


TABLE = """name;from;to;length;zone;holes;clamp;inside_mm;near;closed
Left sill;Bench;Middle;1,25 m;;firewall 20; 40 cm;25;exhaust moving;yes
;Bench;New corner;7 ft 4 in;Engine;metal 16|roof;;;;
"""


def test_a_table_of_channels_measures_anew_adds_and_makes_places() -> None:
    plan = edited(laid(), {"op": "take_channels", "csv": TABLE.replace("firewall 20;", "firewall 20 ;", 1)})
    first = channel(plan, "c1")
    assert (first.length_m, first.clamp_m, first.inside_mm, first.near, first.closed) == (
        1.25, 0.4, 25.0, ("exhaust", "moving"), True,
    )  # fmt: skip
    new = plan.channels[-1]
    assert (new.name, new.zone) == ("Bench to New corner", "z2")
    assert new.length_m == pytest.approx(2.2352)
    assert [(one.through, one.hole_mm) for one in new.crossings] == [("metal", 16.0), ("roof", None)]
    assert [one.name for one in plan.places][-1] == "New corner"
    assert len(plan.channels) == 4


def test_a_table_changes_nothing_it_has_no_column_for() -> None:
    """A channel measured anew by a table of lengths keeps what lies near it, and a hole without its grommet."""
    doc = laid()
    doc["channels"][0].update(near=["exhaust"], guarded=False, inside_mm=30.0)
    doc["channels"][0]["crossings"][0].update(grommet=False, sealed=False, existing=True)
    before = channel(parse_plan(doc), "c1")
    lengths = "name,from,to,length\nLeft sill,Bench,Middle,1.4 m\n"
    after = channel(edited(doc, {"op": "take_channels", "csv": lengths}), "c1")
    assert after == before.model_copy(update={"length_m": 1.4, "length_as_typed": "1.4 m"})
    holes = "name,from,to,holes\nLeft sill,Bench,Middle,firewall 25; metal 16\n"
    after = channel(edited(doc, {"op": "take_channels", "csv": holes}), "c1")
    assert [(one.through, one.hole_mm, one.grommet, one.existing) for one in after.crossings] == [
        ("firewall", 25.0, False, True),
        ("metal", 16.0, True, False),
    ]
    assert after.length_m == before.length_m


def test_a_place_that_goes_leaves_alone_a_part_of_the_same_id() -> None:
    doc = laid()
    doc["places"].append({"id": "l2", "name": "Like a load", "zone": "z1"})
    doc["states"][0]["off"] = ["l2"]
    plan = edited(doc, {"op": "delete_place", "place": "l2"})
    assert plan.states[0].off == ("l2",)


@pytest.mark.parametrize(("text", "says"), [
    ("", "empty"),
    ("from,length\nA,1 m", "no heading 'to'"),
    ("from,to,length\nBench,,1 m", "line 2, to"),
    ("from,to,length\nBench,Middle,1 m\nBench,Middle,soon", "line 3, length"),
    ("from,to,holes\nBench,Middle,window 20", "line 2, holes"),
    ("from,to,holes\nBench,Middle,metal wide", "line 2, holes"),
    ("from,to,inside_mm\nBench,Middle,0", "line 2, inside_mm"),
    ("from,to,closed\nBench,Middle,perhaps", "line 2, closed"),
    ("from,to,near\nBench,Middle,water", "line 2, near"),
    ("from,to,zone\nBench,Middle,Attic", "line 2, zone"),
    ("from,to\nBench,bench", "to itself"),
])  # fmt: skip
def test_a_table_that_is_not_understood_names_line_and_column(text: str, says: str) -> None:
    with pytest.raises(LucernisError, match=says):
        edited(laid(), {"op": "take_channels", "csv": text or " "})


@pytest.mark.parametrize("text", [
    "from,to\n" + "x" * 140_000 + ",Middle",
    "from,to\n" + "x" * 81 + ",Middle",
    'from,to\n"Bench,Middle',
    "from,to,length\nBench,Middle,1e999",
    "from,to,inside_mm\nBench,Middle,nan",
])  # fmt: skip
def test_a_hostile_table_is_refused_in_words(text: str) -> None:
    with pytest.raises(LucernisError):
        edited(laid(), {"op": "take_channels", "csv": text})


def test_a_table_has_an_end() -> None:
    rows = ["from,to", *["Bench,Middle"] * 401]
    with pytest.raises(TooLarge):
        read_channels("\n".join(rows), "metric")
    assert len(read_channels("\n".join(rows[:401]), "metric")) == 400


def test_channels_go_out_and_come_back_as_they_were() -> None:
    from lucernis.exports.files import make_file

    plan = parse_plan(document("heron"))
    text = make_file("channels.csv", plan, revision=1, date="2026-11-26").decode("utf-8-sig")
    again = apply_edits(plan, EDITS.validate_python([{"op": "take_channels", "csv": text}]))
    assert again.channels == plan.channels


@pytest.mark.parametrize(("change", "pointer"), [
    (lambda doc: doc["channels"][0].update(start="nowhere"), "#/channels/0/start"),
    (lambda doc: doc["channels"][1].update(finish="nowhere"), "#/channels/1/finish"),
    (lambda doc: doc["channels"][0].update(zone="attic"), "#/channels/0/zone"),
    (lambda doc: doc["channels"][0].update(finish="p1"), "#/channels/0"),
    (lambda doc: doc["channels"][0].update(length_m=0.0), "#/channels/0/length_m"),
    (lambda doc: doc["channels"][0].update(length_m=100.5), "#/channels/0"),
    (lambda doc: doc["channels"][0].update(length_as_typed="3 m"), "#/channels/0"),
    (lambda doc: doc["channels"][1].update(id="c1"), "#/channels/1/id"),
    (lambda doc: doc["channels"][1].update(id="r3"), "#/channels/1/id"),
    (lambda doc: run(doc, "r2").update(way={"use": ["c9"]}), "#/runs/1/way/use/0"),
    (lambda doc: run(doc, "r2").update(way={"avoid": ["c9"]}), "#/runs/1/way/avoid/0"),
])  # fmt: skip
def test_a_layout_that_does_not_hold_together_names_the_field(change: Any, pointer: str) -> None:
    doc = laid()
    change(doc)
    with pytest.raises(BadDocument) as caught:
        parse_plan(doc)
    assert pointer in [one.pointer for one in caught.value.problems]


def test_a_round_trip_keeps_the_layout() -> None:
    plan = parse_plan(laid())
    assert parse_plan(plan_document(plan)) == plan
    assert parse_plan(plan_document(plan, full=False)) == plan


def test_of_the_threads_of_version_6_nobody_has_said() -> None:
    doc = small_document(version=6)
    ends = [end for one in parse_plan(doc).runs for end in (one.start, one.finish)]
    assert {(end.stud, end.torque_nm) for end in ends} == {(None, None)}
    assert parse_plan(doc).version == 7


def test_of_the_bolts_of_version_5_nobody_has_said_whether_they_are_sealed() -> None:
    doc = small_document(version=5)
    doc["parts"].append({"kind": "chassis_point", "id": "g1", "name": "Bond", "tag": "G01"})
    doc["runs"].append(
        {"id": "r90", "tag": "C90", "start": {"part": "b1"}, "finish": {"part": "g1"}, "length_m": 0.5,
         "legs": "negative"}
    )  # fmt: skip
    plan = parse_plan(doc)
    assert plan.version == 7
    assert next(part for part in plan.parts if part.id == "g1").sealed is None  # type: ignore[union-attr]


@pytest.mark.parametrize(("csv", "told"), [
    ("name,from,to,lenght\nA,Locker,Galley,2 m\n", "'lenght'"),
    ("name,from,to,length,length\nA,Locker,Galley,2 m,3 m\n", "two columns"),
    ("name,from,to,length\nA,Locker,Gallery,2 m\n", "one letter off")])  # fmt: skip
def test_a_misspelt_table_is_refused_and_says_what_was_meant(csv: str, told: str) -> None:
    doc = plan_document(parse_plan(small_document()))
    zone = doc["zones"][0]["id"]
    doc["places"] = [{"id": "a", "name": "Locker", "zone": zone}, {"id": "b", "name": "Galley", "zone": zone}]
    with pytest.raises(LucernisError) as refused:
        apply_edits(parse_plan(doc), [TakeChannels(op="take_channels", csv=csv)])
    assert told in str(refused.value)
    assert refused.value.field == "csv"


def test_places_told_apart_by_a_number_or_a_letter_are_new_places_and_two_rows_are_two_channels() -> None:
    doc = plan_document(parse_plan(small_document()))
    zone = doc["zones"][0]["id"]
    doc["places"] = [{"id": "a", "name": "Locker 1", "zone": zone}, {"id": "b", "name": "Bay A", "zone": zone}]
    csv = "name,from,to,length\nRail,Locker 1,Locker 2,2 m\nRail,Locker 1,Locker 2,3 m\nSill,Bay A,Bay B,1 m\n"
    plan = apply_edits(parse_plan(doc), [TakeChannels(op="take_channels", csv=csv)])
    assert [one.length_m for one in plan.channels] == [2.0, 3.0, 1.0]
    again = apply_edits(plan, [TakeChannels(op="take_channels", csv=csv)])
    assert [one.length_m for one in again.channels] == [2.0, 3.0, 1.0]
