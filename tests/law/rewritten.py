"""The same plan written another way: other order, runs turned, other names, a system beside it, a run cut."""

from __future__ import annotations

import copy
import random
from collections.abc import Mapping
from typing import Any

from lucernis.core.circuit.terminals import end_terminal
from lucernis.core.report import Report
from lucernis.core.wire.copper import all_sizes
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan, Run

Doc = dict[str, Any]
_LISTS = ("parts", "runs", "states", "zones", "places", "channels")


def in_other_order(plan: Plan, seed: int) -> Plan:
    """Every list of the plan in another order."""
    doc, draw = plan_document(plan), random.Random(seed)
    for name in _LISTS:
        draw.shuffle(doc[name])
    return parse_plan(doc)


def turned_round(plan: Plan, seed: int) -> tuple[Plan, frozenset[str]]:
    """Some runs from their finish to their start; gives back which. What an end left open is said, because it went by
    the side."""
    doc, draw, turned = plan_document(plan), random.Random(seed), set[str]()
    parts = {part.id: part for part in plan.parts}
    for run, written in zip(plan.runs, doc["runs"], strict=True):
        kinds = {parts[run.start.part].kind, parts[run.finish.part].kind}
        # A link in series has its direction by its name; at a block's way a run starts, and at a block it finishes.
        if run.legs == "series" or "fuse_block" in kinds or draw.random() < 0.4:
            continue
        for side, end in (("start", run.start), ("finish", run.finish)):
            if end.way is None:
                written[side]["terminal"] = end_terminal(parts[end.part], end, side)  # type: ignore[arg-type]
        for one, other in (("start", "finish"), ("fuse_at_start", "fuse_at_finish")):
            written[one], written[other] = written.get(other), written.get(one)
        if written.get("way"):
            written["way"]["use"] = list(reversed(written["way"].get("use", ())))
        written["passes"] = list(reversed(written.get("passes", ())))
        turned.add(run.id)
    return parse_plan(doc), frozenset(turned)


# Where ids of other things stand; anything else that reads like one is a word.
_NAMING = {"id", "part", "place", "zone", "start", "finish", "use", "avoid"}


def _with_names(value: Any, names: Mapping[str, str], key: str = "") -> Any:
    if isinstance(value, dict):
        return {name: _with_names(one, names, name) for name, one in value.items()}
    if isinstance(value, list | tuple):
        return [_with_names(one, names, key) for one in value]
    return names.get(value, value) if isinstance(value, str) and key in _NAMING else value


def _named_anew(value: Any, names: Mapping[str, str]) -> Any:
    if isinstance(value, dict):
        return {key: _named_anew(one, names) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_named_anew(one, names) for one in value]
    return names.get(value, value) if isinstance(value, str) else value


def with_other_names(plan: Plan, seed: int) -> tuple[Plan, dict[str, str]]:
    """Other ids, tags and names everywhere; gives back what each id was."""
    doc, draw = plan_document(plan), random.Random(seed)
    ids = [one["id"] for name in _LISTS for one in doc[name]]
    numbers = list(range(len(ids)))
    draw.shuffle(numbers)
    names = {old: f"n{number:04d}" for old, number in zip(ids, numbers, strict=True)}
    for name in _LISTS:
        for one in doc[name]:
            one["id"] = names[one["id"]]
            one["name"] = f"Thing {one['id'][1:]}"
            if "tag" in one:
                one["tag"] = f"T{one['id'][1:]}"
    for place in doc["places"]:
        place["zone"] = names[place["zone"]]
    for channel in doc["channels"]:
        for key in ("start", "finish", "zone"):
            channel[key] = names.get(channel.get(key), channel.get(key))
    for part in doc["parts"]:
        if part.get("place"):
            part["place"] = names[part["place"]]
    for run in doc["runs"]:
        for side in ("start", "finish"):
            run[side]["part"] = names[run[side]["part"]]
        if run.get("zone"):
            run["zone"] = names[run["zone"]]
        if run.get("way"):
            run["way"] = _named_anew(run["way"], names)
    for state in doc["states"]:
        for key in ("off", "open", "modes", "duty"):
            if state.get(key):
                state[key] = _named_anew(state[key], names)
    for waiver in doc.get("waivers", ()):
        waiver["subject"] = names.get(waiver["subject"], waiver["subject"])
    doc["energy"] = _named_anew(doc.get("energy", {}), names)
    return parse_plan(doc), {new: old for old, new in names.items()}


def with_another_beside(plan: Plan, other: Plan) -> tuple[Plan, str]:
    """A second system in the same document, joined to the first by nothing; gives back what its ids begin with.

    The body and the engine of a vehicle join, so what hangs on them is left out of the second.
    """
    doc, beside = plan_document(plan), plan_document(other)
    shared = {
        one["id"]
        for one in beside["parts"]
        if one["kind"] in ("chassis_point", "alternator") or one.get("use") == "starter"
    }
    beside["parts"] = [one for one in beside["parts"] if one["id"] not in shared]
    beside["runs"] = [one for one in beside["runs"] if not shared & {one["start"]["part"], one["finish"]["part"]}]
    # What has no place stands in the mildest zone of its vehicle: a milder one beside it would move it.
    mildest_c = min((one["ambient_c"] for one in doc["zones"]), default=30.0)
    for one in beside["zones"]:
        one["ambient_c"] = max(one["ambient_c"], mildest_c + 1)
    lists = ("parts", "runs", "zones", "places", "channels")
    names = {one["id"]: f"zz_{one['id']}" for name in lists for one in beside[name]}
    for one in (*beside["parts"], *beside["runs"]):
        one["tag"] = f"Z{one['tag']}"
    for name in lists:
        doc[name] = doc[name] + [_with_names(one, names) for one in beside[name]]
    return parse_plan(doc), "zz_"


def cut_in_two(plan: Plan, run_id: str, share: float) -> tuple[Plan, str]:
    """A run in two pieces that meet on a stud without resistance; gives back the id of the second."""
    doc = plan_document(plan)
    at = next(k for k, one in enumerate(doc["runs"]) if one["id"] == run_id)
    first = doc["runs"][at]
    second = copy.deepcopy(first)
    # In the hotter of the two places, so that both pieces lie as warm as the whole.
    zones, places = {zone.id: zone for zone in plan.zones}, {one.id: one for one in plan.places}
    ends = [
        part.place for part in plan.parts if part.id in (first["start"]["part"], first["finish"]["part"]) and part.place
    ]
    place = max(ends, key=lambda one: zones[places[one].zone].ambient_c, default=None)
    doc["parts"].append(
        {"kind": "joint", "id": "cut_joint", "name": "Cut", "tag": "X99", "form": "stud", "place": place}
    )
    # A capped end is the one joint of the tables that loses nothing.
    first["finish"], first["fuse_at_finish"] = {"part": "cut_joint", "joint": "cap"}, None
    second["start"], second["fuse_at_start"] = {"part": "cut_joint", "joint": "cap"}, None
    second["id"], second["tag"] = "cut_piece", "X98"
    whole_m = first["length_m"]
    first["length_m"], second["length_m"] = whole_m * share, whole_m * (1 - share)
    for one in (first, second):
        one["length_as_typed"] = None
    doc["runs"].insert(at + 1, second)
    return parse_plan(doc), "cut_piece"


def lies_beyond(run: Run, share: float) -> float | None:
    """A share of a run to cut it at that leaves its fuses where they are; None where there is none."""
    if run.fuse_at_start is not None and run.fuse_at_start.distance_m > share * run.length_m:
        share = 0.95
    near = run.fuse_at_start is not None and run.fuse_at_start.distance_m > share * run.length_m
    far = run.fuse_at_finish is not None and run.fuse_at_finish.distance_m > (1 - share) * run.length_m
    return None if near or far else share


def as_built(plan: Plan, report: Report) -> Plan:
    """A plan with the sizes and fuses that were chosen for it put in by hand."""
    doc, chosen = plan_document(plan), {one.id: one for one in report.runs}
    for run in doc["runs"]:
        one = chosen[run["id"]]
        run["wire"] = {"system": one.wire.system, "size": one.wire.size, "reason": "as built"}
        for fuse in (one.fuse, one.far_fuse):
            own = run.get(f"fuse_at_{fuse.end}") if fuse is not None else None
            if fuse is not None and own and fuse.rating_a:
                own["pin"] = {"rating_a": fuse.rating_a, "family": fuse.family, "reason": "as built"}
    return parse_plan(doc)


# What a battery or a relay between batteries may give is no room: more of it lets more flow.
_ROOM = ("rated_a", "short_time_a", "total_limit_a", "way_limit_a", "discharge_short_a")


def with_more_room(plan: Plan) -> Plan:
    """What parts are made for, half as much again."""
    doc = plan_document(plan)
    for part in doc["parts"]:
        # An alternator made for more gives more.
        for name in _ROOM if part["kind"] != "alternator" else ():
            if part.get(name):
                part[name] *= 1.5
    return parse_plan(doc)


def with_a_load_less(plan: Plan, load_id: str) -> Plan:
    """A load that draws nothing any more: it stays where it is, off in every state."""
    doc = plan_document(plan)
    for state in doc["states"]:
        state["off"] = sorted({*state.get("off", ()), load_id})
    return parse_plan(doc)


def with_run(plan: Plan, run_id: str, *, shorter: float = 1.0, thicker: bool = False) -> Plan:
    """A run made shorter by a factor, or pinned two sizes thicker."""
    doc = plan_document(plan)
    run = next(one for one in doc["runs"] if one["id"] == run_id)
    run["length_m"] *= shorter
    run["length_as_typed"] = None
    for end in ("fuse_at_start", "fuse_at_finish"):
        if run.get(end):
            run[end]["distance_m"] *= shorter
    if thicker:
        names = all_sizes(run["wire"]["system"])
        at = names.index(run["wire"]["size"])
        run["wire"]["size"] = names[min(at + 2, len(names) - 1)]
    return parse_plan(doc)
