"""Mistakes with ways, holes and places."""

from __future__ import annotations

from typing import Any

from lucernis.core.school.breaking.registry import breaks
from lucernis.core.school.breaking.van import Doc, Van


def _channel(van: Van) -> Doc:
    """A channel something lies in."""
    used = {name for one in van.good.report.runs if one.way is not None for name in one.way.channels}
    found: Doc = van.dice.one_of([one for one in van.doc["channels"] if one["id"] in used])
    return found


def _crossing(van: Van, *kinds: str) -> tuple[Doc, Doc]:
    used = {name for one in van.good.report.runs if one.way is not None for name in one.way.channels}
    pairs = [
        (one, hole)
        for one in van.doc["channels"]
        if one["id"] in used
        for hole in one.get("crossings", [])
        if not kinds or hole["through"] in kinds
    ]
    return van.dice.one_of(pairs)


@breaks("hole-no-grommet", 1)
def no_grommet(van: Van) -> tuple[str, ...]:
    """A bare hole in sheet metal."""
    channel, hole = _crossing(van, "metal", "firewall", "roof")
    hole["grommet"] = False
    return (channel["id"],)


@breaks("hole-unsealed", 2)
def unsealed(van: Van) -> tuple[str, ...]:
    """A hole to the engine or the weather, left open."""
    channel, hole = _crossing(van, "firewall", "roof")
    hole["sealed"] = False
    return (channel["id"],)


@breaks("hole-small", 2)
def hole_small(van: Van) -> tuple[str, ...]:
    """Too small for what goes through."""
    channel, hole = _crossing(van)
    hole["hole_mm"] = 6.0
    return (channel["id"],)


@breaks("span-unsupported", 1)
def span(van: Van) -> tuple[str, ...]:
    """Wires that hang over a long stretch."""
    channel = _channel(van)
    channel.update(clamp_m=0.9)
    channel.pop("inside_mm", None)
    return (channel["id"],)


@breaks("run-no-way", 2)
def no_way(van: Van) -> tuple[str, ...]:
    """A device nobody put anywhere."""
    run = van.branch(lambda one: one.get("way") == {} and bool(van.part(one["finish"]["part"]).get("place")))
    van.part(run["finish"]["part"]).pop("place")
    return (run["id"], run["finish"]["part"])


def _near(what: str, hard: Any) -> None:
    @breaks(f"channel-{what}", hard)
    def near(van: Van) -> tuple[str, ...]:
        channel = _channel(van)
        channel.update(near=[what], guarded=False)
        return (channel["id"],)

    near.__doc__ = f"Laid near what is told by {what!r}, without a guard."


for _what in ("exhaust", "heat", "fuel", "moving"):
    _near(_what, 1)


@breaks("channel-screws", 2)
def screws(van: Van) -> tuple[str, ...]:
    """Where somebody will drive a screw."""
    channel = _channel(van)
    channel.update(screws=True, guarded=False)
    return (channel["id"],)


@breaks("gas-with-wires", 1)
def gas(van: Van) -> tuple[str, ...]:
    """Beside the gas pipe."""
    channel = _channel(van)
    channel.update(gas=True, guarded=False)
    return (channel["id"],)


@breaks("mains-with-wires", 1)
def mains(van: Van) -> tuple[str, ...]:
    """Mains in the same way."""
    channel = _channel(van)
    channel["mains"] = "together"
    return (channel["id"],)


@breaks("conduit-full", 2)
def full(van: Van) -> tuple[str, ...]:
    """More wire than the conduit holds."""
    channel = _channel(van)
    channel["inside_mm"] = 7.0
    return (channel["id"],)


@breaks("joint-buried", 2)
def buried(van: Van) -> tuple[str, ...]:
    """A splice behind a panel that is closed for years."""
    run = van.branch()
    van.doc["places"].append(
        {"id": "behind", "name": "Behind the lining", "zone": van.doc["zones"][0]["id"], "reach": "closed"}
    )
    joint = van.add_part("j", "joint", "Splice", form="plug", place="behind")
    van.into(run, joint, 0.3)
    return (joint["id"],)


@breaks("fuse-buried", 1)
def fuse_buried(van: Van) -> tuple[str, ...]:
    """Fuses nobody can reach."""
    block = van.any_part("fuse_block", lambda one: bool(one.get("place")))
    place = next(one for one in van.doc["places"] if one["id"] == block["place"])
    van.doc["places"].append(dict(place, id="behind", name="Behind the lining", reach="closed"))
    block["place"] = "behind"
    for one in van.doc["runs"]:
        if block["id"] in (one["start"]["part"], one["finish"]["part"]):
            one.pop("way", None)
    return (block["id"],)


@breaks("fuse-hanging", 1)
def hanging(van: Van) -> tuple[str, ...]:
    """A holder that hangs on its wire."""
    run = van.any_run(lambda one: bool((one.get("fuse_at_start") or {}).get("bracket")))
    run["fuse_at_start"]["bracket"] = False
    return (run["id"],)


@breaks("fuse-untied", 2)
def untied(van: Van) -> tuple[str, ...]:
    """A loosened end could swing to the body."""
    run = van.any_run(lambda one: bool((one.get("fuse_at_start") or {}).get("tied")))
    run["fuse_at_start"]["tied"] = False
    return (run["id"],)


@breaks("battery-loose", 1)
def battery_loose(van: Van) -> tuple[str, ...]:
    """Not held against a crash."""
    battery = van.any_part("battery")
    battery["fixed"] = False
    return (battery["id"],)


@breaks("battery-vapour", 2)
def battery_vapour(van: Van) -> tuple[str, ...]:
    """Beside the petrol can."""
    battery = van.battery()
    place = next(one for one in van.doc["places"] if one["id"] == battery["place"])
    van.doc["zones"].append({"id": "petrol", "name": "Petrol locker", "vapour": True})
    van.doc["places"].append(dict(place, id="petrolbox", name="Petrol locker", zone="petrol"))
    battery["place"] = "petrolbox"
    for one in van.doc["runs"]:
        if battery["id"] in (one["start"]["part"], one["finish"]["part"]):
            one.pop("way", None)
    return (battery["id"],)


@breaks("charger-no-air", 2)
def no_air(van: Van) -> tuple[str, ...]:
    """A warm box in a closed cupboard."""
    one = van.dice.one_of(
        [
            part
            for part in van.doc["parts"]
            if (part["kind"] == "charger" or part.get("device") == "inverter") and part.get("place")
        ]
    )
    place = next(each for each in van.doc["places"] if each["id"] == one["place"])
    van.doc["places"].append(dict(place, id="cupboard", name="Closed cupboard", airy=False))
    one["place"] = "cupboard"
    for run in van.doc["runs"]:
        if one["id"] in (run["start"]["part"], run["finish"]["part"]):
            run.pop("way", None)
    return (one["id"],)


@breaks("relay-up", 3)
def relay_up(van: Van) -> tuple[str, ...]:
    """A relay that collects water in its terminals."""
    relay = van.any_part("relay")
    relay["terminals"] = "up"
    return (relay["id"],)


@breaks("part-place", 3)
def part_place(van: Van) -> tuple[str, ...]:
    """A block, a switch or a bar where it is not made to be."""
    part = van.dice.one_of(
        [one for one in van.doc["parts"] if one["kind"] in ("fuse_block", "switch", "busbar") and one.get("place")]
    )
    van.doc["zones"].append({"id": "bay", "name": "Beside the engine", "engine_space": True, "ambient_c": 60.0})
    place = next(one for one in van.doc["places"] if one["id"] == part["place"])
    van.doc["places"].append(dict(place, id="bayshelf", name="Beside the engine", zone="bay"))
    part["place"] = "bayshelf"
    for one in van.doc["runs"]:
        if part["id"] in (one["start"]["part"], one["finish"]["part"]):
            one.pop("way", None)
    return (part["id"],)
