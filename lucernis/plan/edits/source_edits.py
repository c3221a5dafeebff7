"""Edits of what gives power: a charger with its wires, a battery made into a bank."""

from __future__ import annotations

from itertools import pairwise

from lucernis.errors import EditRefused
from lucernis.plan.edits.desk import Desk, Document, next_id, next_tag
from lucernis.plan.edits.operations import AddCharger, MakeBank, SetSlot
from lucernis.plan.units import parse_length_m

_NEAR_M = 0.1


def _new_run(desk: Desk, start: Document, finish: Document, length: str, legs: str = "both") -> Document:
    length_m, typed = parse_length_m(length, field="length", preference=desk.doc["units"])
    blank = {"way": None, "terminal": None}
    run: Document = {
        "id": next_id(desk.ids(), "r"),
        "tag": next_tag(desk.tags(), "C"),
        "start": blank | start,
        "finish": blank | finish,
        "length_m": length_m,
        "length_as_typed": typed,
        "length_confirmed": False,
        "fuse_at_start": None,
        "fuse_at_finish": None,
        "legs": legs,
    }
    desk.doc["runs"].append(run)
    return run


def _near(length_m: float) -> Document:
    return {"distance_m": min(_NEAR_M, length_m)}


def add_charger(desk: Desk, edit: AddCharger) -> None:
    """A charger, fused wherever one of its positives meets a battery."""
    if edit.part.get("kind") != "charger":
        raise EditRefused("no charger", field="part/kind", value=edit.part.get("kind"), allowed="charger")
    form = edit.part.get("form", "dcdc")
    target = desk.part(edit.gives_to, "gives_to")
    charger = desk.new_part({"place": target["place"], **edit.part})
    if form == "dcdc":
        if edit.fed_from is None:
            raise EditRefused("no supply", field="fed_from", value=None, allowed="a battery, bar or block")
        source = desk.part(edit.fed_from, "fed_from")
        run = _new_run(desk, desk.end_at(source), {"part": charger["id"], "terminal": "in"}, edit.feed_length)
        run["fuse_at_start"] = {} if source["kind"] == "fuse_block" else _near(run["length_m"])
    for terminal in ("out", "out_b")[: edit.part.get("outputs", 1)]:
        run = _new_run(desk, {"part": charger["id"], "terminal": terminal}, {"part": target["id"]}, edit.give_length)
        run["fuse_at_finish"] = _near(run["length_m"])
    if edit.panel is not None:
        if edit.panel.get("kind") != "panel":
            raise EditRefused("no panel", field="panel/kind", value=edit.panel.get("kind"), allowed="panel")
        panel = desk.new_part(edit.panel)
        _new_run(desk, {"part": panel["id"]}, {"part": charger["id"], "terminal": "pv"}, edit.panel_length)


def _split(desk: Desk, run: Document) -> Document:
    """Part a pair into its positive, which keeps its fuse, and a negative of its own."""
    back = {
        **run,
        "id": next_id(desk.ids(), "r"),
        "tag": next_tag(desk.tags(), "C"),
        "legs": "negative",
        "fuse_at_start": None,
        "fuse_at_finish": None,
        "start": {**run["start"], "way": None},
        "finish": {**run["finish"], "way": None},
    }
    run["legs"] = "positive"
    desk.doc["runs"].insert(desk.doc["runs"].index(run) + 1, back)
    return back


def make_bank(desk: Desk, edit: MakeBank) -> None:
    """Copies of a battery, linked; what hung on its posts hangs on those of the bank."""
    first = desk.part(edit.battery, "battery")
    if first["kind"] != "battery":
        raise EditRefused(f"{first['name']} is no battery", field="battery", value=edit.battery, allowed="a battery")
    if edit.series == edit.parallel == 1:
        raise EditRefused("one battery is no bank", field="parallel", value=1, allowed="more than one battery in all")
    each_v = (first.get("rated_v") or desk.doc["nominal_v"]) / (1 if first.get("rated_v") else edit.series)
    if each_v not in (6, 12, 24):
        raise EditRefused(
            f"{edit.series} in series would be {each_v:g} V each",
            field="series",
            value=edit.series,
            allowed="6, 12 or 24 V",
        )
    first["rated_v"] = int(each_v)
    hanging = [run for run in desk.doc["runs"] if first["id"] in (run["start"]["part"], run["finish"]["part"])]
    # tops[k] and bottoms[k] are the ends of string k; the battery there is stays the top of the first.
    tops, bottoms = [], []
    for k in range(edit.parallel):
        chain = []
        for i in range(edit.series):
            keeps = k == i == 0
            number = k * edit.series + i + 1
            fields = {name: value for name, value in first.items() if name not in ("id", "tag")}
            chain.append(first if keeps else desk.new_part(fields | {"name": f"{first['name']} {number}"}))
        for upper, lower in pairwise(chain):
            _new_run(desk, {"part": upper["id"]}, {"part": lower["id"]}, edit.link_length, "series")
        tops.append(chain[0])
        bottoms.append(chain[-1])
    _hang(desk, edit, first, hanging, tops, bottoms)


def _hang(
    desk: Desk, edit: MakeBank, first: Document, hanging: list[Document], tops: list[Document], bottoms: list[Document]
) -> None:
    """Join the strings, and move what hung on the one battery to where the bank gives."""
    if edit.take_off == "busbar" and edit.parallel > 1:
        bar = desk.new_part(
            {
                "kind": "busbar",
                "name": f"{first['name']} bars",
                "place": first["place"],
                "studs": min(40, edit.parallel + max(2, len(hanging))),
            }
        )
        for top, bottom in zip(tops, bottoms, strict=True):
            if top is bottom:
                run = _new_run(desk, {"part": top["id"]}, {"part": bar["id"]}, edit.link_length)
            else:
                run = _new_run(desk, {"part": top["id"]}, {"part": bar["id"]}, edit.link_length, "positive")
                _new_run(desk, {"part": bottom["id"]}, {"part": bar["id"]}, edit.link_length, "negative")
            run["fuse_at_start"] = _near(run["length_m"])
        _move(hanging, first["id"], bar["id"])
        return
    for (top, bottom), (next_top, next_bottom) in pairwise(zip(tops, bottoms, strict=True)):
        _new_run(desk, {"part": top["id"]}, {"part": next_top["id"]}, edit.link_length, "positive")
        _new_run(desk, {"part": bottom["id"]}, {"part": next_bottom["id"]}, edit.link_length, "negative")
    far = bottoms[-1] if edit.take_off == "diagonal" else bottoms[0]
    if far is first:
        return
    for run in hanging:
        back = _split(desk, run) if run["legs"] == "both" else run
        if back["legs"] == "negative":
            _move([back], first["id"], far["id"])


def _move(runs: list[Document], here: str, there: str) -> None:
    for run in runs:
        for end in ("start", "finish"):
            if run[end]["part"] == here:
                run[end] = {**run[end], "part": there}


def set_slot(desk: Desk, edit: SetSlot) -> None:
    """A stretch of the day: its state, its hours at the cost of the next one, halved, or given to the next one."""
    day = desk.doc["energy"]["day"]
    if not day:
        day.append({"id": "d1", "state": desk.doc["states"][0]["id"], "hours": 24.0})
    names = [one["id"] for one in day]
    if edit.slot is None and len(day) == 1:
        at = 0
    elif edit.slot in names:
        at = names.index(edit.slot)
    else:
        raise EditRefused(
            f"no stretch {edit.slot!r} in the day", field="slot", value=edit.slot, allowed=", ".join(names)
        )
    slot, following = day[at], day[(at + 1) % len(day)]
    if edit.state is not None:
        slot["state"] = edit.state
    if edit.action == "split":
        half = slot["hours"] / 2
        slot["hours"] = half
        day.insert(at + 1, {"id": next_id(names, "d"), "state": slot["state"], "hours": half})
    elif edit.action == "remove":
        if len(day) == 1:
            day.clear()
            return
        following["hours"] = round(following["hours"] + slot["hours"], 6)
        day.remove(slot)
    elif edit.hours is not None:
        most = slot["hours"] + following["hours"] if following is not slot else 24.0
        if following is slot or edit.hours >= most:
            raise EditRefused(
                f"{edit.hours:g} h leave nothing for the next stretch",
                field="hours",
                value=edit.hours,
                allowed=f"less than {most:g} h; split a stretch to make room",
            )
        slot["hours"], following["hours"] = edit.hours, round(most - edit.hours, 6)
