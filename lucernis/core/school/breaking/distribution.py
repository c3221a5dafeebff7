"""Mistakes with blocks, bars, switches, relays and what comes back: ratings, studs, what is switched, what returns."""

from __future__ import annotations

from typing import Any

from lucernis.core.school.breaking.registry import breaks
from lucernis.core.school.breaking.van import Van, made_above, made_below
from lucernis.errors import NothingFits


@breaks("block-over-total", 2, along=("block-no-prefuse",))
def over_total(van: Van) -> tuple[str, ...]:
    """A small block for all that hangs on it."""
    block = van.any_part("fuse_block")
    carried = max(van.told(van.feed_of(block["id"])["id"]).greatest_a, 1.0)
    block["total_limit_a"] = round(carried * 0.8, 1)
    return (block["id"],)


@breaks("block-over-way", 2)
def over_way(van: Van) -> tuple[str, ...]:
    """A fuse larger than a way of the block is made for."""
    run = van.branch(lambda one: one["fuse_at_start"]["pin"]["rating_a"] >= 7.5)
    block = van.part(run["start"]["part"])
    block["way_limit_a"] = round(run["fuse_at_start"]["pin"]["rating_a"] - 1.0, 1)
    return (run["id"], block["id"])


@breaks("block-ways", 1)
def ways(van: Van) -> tuple[str, ...]:
    """More wires than ways."""
    block = van.any_part(
        "fuse_block", lambda one: sum(run["start"]["part"] == one["id"] for run in van.doc["runs"]) > 1
    )
    held = [one for one in van.doc["runs"] if one["start"]["part"] == block["id"]]
    block["ways"] = len(held) - 1
    return (block["id"],)


@breaks("battery-missing", 1, whole=True, of_trade=False)
def no_battery(van: Van) -> tuple[str, ...]:
    """The battery was taken out of the drawing with its wires."""
    gone = {one["id"] for one in van.doc["parts"] if one["kind"] == "battery"}
    van.doc["parts"] = [one for one in van.doc["parts"] if one["id"] not in gone]
    van.doc["runs"] = [
        one for one in van.doc["runs"] if one["start"]["part"] not in gone and one["finish"]["part"] not in gone
    ]
    return ("plan",)


@breaks("circuit-closes-loop", 3)
def loop(van: Van) -> tuple[str, ...]:
    """Two feeds to one device, from two ways."""
    run = van.branch()
    block = van.any_part("fuse_block", lambda one: one["id"] == run["start"]["part"])
    made = van.add_run(van.way(block["id"]), run["finish"]["part"], run["length_m"] + 0.3, fuse_at_start={})
    made["wire"] = dict(run["wire"])
    made["fuse_at_start"] = {"pin": dict(run["fuse_at_start"]["pin"])}
    return (made["id"], run["id"], run["finish"]["part"])


@breaks("busbar-over", 2)
def busbar(van: Van) -> tuple[str, ...]:
    """A bar for less than what flows through it."""
    bar = van.any_part("busbar")
    carried = max(one.greatest_a for one in van.good.report.runs if van.run(one.id)["finish"]["part"] == bar["id"])
    bar["rated_a"] = made_below(van, carried)
    return (bar["id"],)


@breaks("guard-above-rating", 3)
def guard(van: Van) -> tuple[str, ...]:
    """A bar behind a fuse larger than the bar."""
    bar = van.any_part("busbar")
    carried = max(one.greatest_a for one in van.good.report.runs if van.run(one.id)["finish"]["part"] == bar["id"])
    bar["rated_a"] = made_above(van, carried)
    return (bar["id"],)


@breaks("switch-over", 2)
def switch(van: Van) -> tuple[str, ...]:
    """A switch for less than what flows through it."""
    switch = van.any_part("switch", lambda one: _through(van, one["id"]) > 1)
    switch.update(rated_a=made_below(van, _through(van, switch["id"])))
    switch.pop("short_time_a", None)
    return (switch["id"],)


def _through(van: Van, part_id: str) -> float:
    return max(
        (one.greatest_a for one in van.good.report.runs if van.run(one.id)["finish"]["part"] == part_id), default=0.0
    )


@breaks("switch-short-time", 3)
def switch_short_time(van: Van) -> tuple[str, ...]:
    """A switch that does not stand the start of what it feeds."""
    switch = van.any_part("switch", lambda one: _through(van, one["id"]) > 1)
    switch["short_time_a"] = round(_through(van, switch["id"]) * 1.02, 1)
    return (switch["id"],)


@breaks("pin-over", 2)
def pin(van: Van) -> tuple[str, ...]:
    """A plug for less than what flows through it."""
    plug = van.any_part(
        "joint", lambda one: one.get("form") in ("plug", "towing_plug") and _through(van, one["id"]) > 0.3
    )
    plug["rated_a"] = made_below(van, _through(van, plug["id"]))
    return (plug["id"],)


@breaks("relay-over", 2)
def relay(van: Van) -> tuple[str, ...]:
    """A relay for less than what flows through it."""
    relay = van.any_part("relay", lambda one: _through(van, one["id"]) > 0.3)
    relay["contact_a"] = made_below(van, _through(van, relay["id"]))
    return (relay["id"],)


@breaks("keyed-feed-over", 2, of_trade=False)
def keyed_feed(van: Van) -> tuple[str, ...]:
    """A device straight on a feed of the vehicle that gives less."""
    feed = van.any_part("keyed_feed")
    feed["rated_a"] = 0.1
    return (feed["id"],)


@breaks("shunt-over", 2)
def shunt(van: Van) -> tuple[str, ...]:
    """A small shunt on a large battery."""
    shunt = van.any_part("shunt")
    shunt["rated_a"] = 50.0
    return (shunt["id"],)


@breaks("shunt-bypassed", 2)
def bypassed(van: Van) -> tuple[str, ...]:
    """Another negative on the battery's side of the shunt."""
    shunt = van.any_part("shunt")
    battery = van.battery()["id"]
    load = van.add_part("l", "load", "Clock", power_w=1.0, hours_per_day=24, stays_live=True)
    van.add_run(battery, load["id"], 1.0, fuse_at_start={"distance_m": 0.1, "bracket": True, "tied": True})
    return (shunt["id"],)


@breaks("stud-crowded", 1)
def crowded(van: Van) -> tuple[str, ...]:
    """Five lugs on one stud."""
    run = van.branch()
    stud = van.add_part("j", "joint", "Stud", form="stud", place=van.part(run["finish"]["part"]).get("place"))
    van.into(run, stud)
    for _ in range(4):
        lamp = van.add_part("l", "load", "Strip lamp", power_w=1.0, hours_per_day=0.5, device="lamp")
        made = van.add_run(stud["id"], lamp["id"], 0.6)
        made["wire"] = dict(run["wire"])
    return (stud["id"],)


@breaks("post-stacked", 1)
def stacked(van: Van) -> tuple[str, ...]:
    """A device straight on the battery post, on top of the main cable."""
    battery = van.battery()["id"]
    load = van.add_part("l", "load", "Gas alarm", power_w=2.0, hours_per_day=24, stays_live=True)
    made = van.add_run(
        battery, load["id"], 1.5, legs="positive", fuse_at_start={"distance_m": 0.1, "bracket": True, "tied": True}
    )
    block = van.any_part("fuse_block")
    van.add_run(load["id"], block["id"], 1.0, legs="negative")
    return (battery, made["id"])


@breaks("block-no-prefuse", 2)
def no_prefuse(van: Van) -> tuple[str, ...]:
    """A block behind a fuse larger than the block."""
    block = van.any_part("fuse_block", lambda one: bool(van.feed_of(one["id"]).get("fuse_at_start")))
    rating = van.feed_of(block["id"])["fuse_at_start"]["pin"]["rating_a"]
    block["total_limit_a"] = round(rating * 0.8, 0)
    return (block["id"],)


@breaks("block-ways-sum", 3, whole=True)
def ways_sum(van: Van) -> tuple[str, ...]:
    """Fuses that together are more than the block, and nothing before it to hold them."""
    block = van.any_part(
        "fuse_block", lambda one: sum(run["start"]["part"] == one["id"] for run in van.doc["runs"]) > 1
    )
    feeder = van.feed_of(block["id"])
    total = sum(
        one["fuse_at_start"]["pin"]["rating_a"]
        for one in van.doc["runs"]
        if one["start"]["part"] == block["id"] and one.get("fuse_at_start")
    )
    block["total_limit_a"] = round(max(van.told(feeder["id"]).greatest_a * 1.2, total * 0.7), 1)
    feeder["fuse_at_start"] = None
    van.main()["fuse_at_start"] = None
    return (block["id"], feeder["id"], van.main()["id"])


@breaks("feeder-shorter", 2)
def feeder_shorter(van: Van) -> tuple[str, ...]:
    """Three long thin wires side by side to one place."""
    block = van.any_part(
        "fuse_block",
        lambda one: int(one.get("ways", 6)) - sum(run["start"]["part"] == one["id"] for run in van.doc["runs"]) >= 3,
    )
    van.doc.setdefault("places", []).append({"id": "far", "name": "Awning rail", "zone": van.doc["zones"][0]["id"]})
    for name in ("Awning lamp", "Awning socket", "Awning fan"):
        load = van.add_part("l", "load", name, power_w=12.0, hours_per_day=1, place="far")
        van.add_run(van.way(block["id"]), load["id"], 6.0, fuse_at_start={})
    return (block["id"],)


@breaks("no-isolator", 1)
def no_isolator(van: Van) -> tuple[str, ...]:
    """Nothing switches the house off."""
    van.any_part("switch", lambda one: one.get("use") == "isolator")["use"] = "circuit"
    return ("plan",)


@breaks("live-when-off", 2)
def live_when_off(van: Van) -> tuple[str, ...]:
    """A device before the isolating switch."""
    switch = van.any_part("switch", lambda one: one.get("use") == "isolator")
    run = van.branch()
    before = van.feed_of(switch["id"])["start"]["part"]
    run["start"] = {"part": before}
    run["fuse_at_start"].update(distance_m=0.1, bracket=True, tied=True)
    return (switch["id"], run["id"], run["finish"]["part"])


@breaks("keyed-constant", 2)
def keyed_constant(van: Van) -> tuple[str, ...]:
    """What is to follow the key is always live."""
    load = van.any_load(lambda one: not one.get("keyed") and one.get("device") != "inverter")
    load["keyed"] = True
    return (load["id"],)


@breaks("coil-unfused", 3)
def coil_unfused(van: Van) -> tuple[str, ...]:
    """The coil hangs on a fuse for something large."""
    relay = van.any_part("relay")
    coil = van.dice.one_of(
        [one for one in van.doc["runs"] if one["finish"] == {"part": relay["id"], "terminal": "coil"}]
    )
    feed = van.feed_of(coil["start"]["part"])
    while feed.get("fuse_at_start") is None:
        feed = van.feed_of(feed["start"]["part"])
    van.pin_fuse(feed, 20.0)
    return (relay["id"], coil["id"], feed["id"])


@breaks("coil-unfed", 1)
def coil_unfed(van: Van) -> tuple[str, ...]:
    """Nobody wired the coil."""
    relay = van.any_part("relay")
    coil = van.dice.one_of(
        [one for one in van.doc["runs"] if one["finish"] == {"part": relay["id"], "terminal": "coil"}]
    )
    van.doc["runs"].remove(coil)
    return (relay["id"],)


@breaks("coil-kick", 3)
def coil_kick(van: Van) -> tuple[str, ...]:
    """Nothing across the coil."""
    relay = van.any_part("relay")
    relay["suppression"] = "none"
    return (relay["id"],)


@breaks("solenoid-not-continuous", 3)
def solenoid(van: Van) -> tuple[str, ...]:
    """A starting solenoid held on for hours."""
    relay = van.any_part("relay")
    relay["continuous"] = False
    return (relay["id"],)


@breaks("relay-self-fed", 3)
def self_fed(van: Van) -> tuple[str, ...]:
    """A coil that its own contact feeds."""
    relay = van.any_part("relay")
    coil = van.dice.one_of(
        [one for one in van.doc["runs"] if one["finish"] == {"part": relay["id"], "terminal": "coil"}]
    )
    fed = next(one for one in van.doc["runs"] if one["start"]["part"] == relay["id"])["finish"]["part"]
    coil["start"] = van.way(fed) if van.kind_of(fed) == "fuse_block" else {"part": fed}
    if van.kind_of(fed) == "fuse_block":
        coil["fuse_at_start"] = {"pin": {"rating_a": 2.0, "family": "blade_regular", "reason": "As fitted."}}
    return (relay["id"],)


@breaks("inverter-no-switch", 2)
def inverter_no_switch(van: Van) -> tuple[str, ...]:
    """An inverter before the isolating switch, without a switch of its own."""
    inverter = van.any_load(lambda one: one.get("device") == "inverter")
    feed = van.feed_of(inverter["id"])
    own = feed["start"]["part"]
    if van.kind_of(own) != "switch":
        raise NothingFits("its switch is not its own")
    before = van.feed_of(own)
    isolator = van.any_part("switch", lambda one: one.get("use") == "isolator")
    before.update(start={"part": isolator["id"], "terminal": "in"}, finish=feed["finish"], legs="positive")
    before.pop("way", None)
    feed.update(start={"part": van.any_part("busbar")["id"]}, legs="negative")
    feed.pop("way", None)
    van.doc["parts"] = [one for one in van.doc["parts"] if one["id"] != own]
    return (inverter["id"],)


@breaks("short-by-wiring", 3, whole=True)
def short_by_wiring(van: Van) -> tuple[str, ...]:
    """A reversing switch whose two sides are joined by another wire."""
    run = van.branch()
    switch = van.add_part("s", "switch", "Reversing switch", form="reversing", rated_a=60.0)
    load = run["finish"]["part"]
    van.into(run, switch, 0.3)
    van.add_run({"part": switch["id"], "terminal": "in"}, load, 1.0)
    van.doc["states"][0].setdefault("modes", []).append({"part": switch["id"], "position": "b"})
    return (switch["id"], van.battery()["id"], run["id"])


@breaks("sources-tied", 3, whole=True, of_trade=False)
def sources_tied(van: Van) -> tuple[str, ...]:
    """A second battery of other volts on the same bar."""
    battery = van.battery()
    bar = van.any_part("busbar")
    other = van.add_part(
        "b",
        "battery",
        "Spare battery",
        rated_v=24,
        chemistry=battery.get("chemistry", "lfp"),
        capacity_ah=50.0,
        short_circuit_a=800.0,
        place=battery.get("place"),
        fixed=True,
    )
    van.add_run(other["id"], bar["id"], 0.8, fuse_at_start={"distance_m": 0.1, "bracket": True, "tied": True})
    return (other["id"], battery["id"])


@breaks("part-unfed", 1, of_trade=False)
def part_unfed(van: Van) -> tuple[str, ...]:
    """A bar nobody wired."""
    bar = van.add_part("u", "busbar", "Second bars", rated_a=100.0, studs=6)
    return (bar["id"],)


def _body(van: Van, body: str) -> dict[str, Any]:
    vehicle: dict[str, Any] = van.doc["job"]["vehicle"]
    vehicle["body"] = body
    return vehicle


@breaks("chassis-cannot-return", 1, of_trade=False)
def chassis_cannot(van: Van) -> tuple[str, ...]:
    """A way back through a body that is no conductor."""
    point = van.add_part("g", "chassis_point", "Frame screw")
    other = van.add_part("g", "chassis_point", "Floor screw")
    _body(van, "fibreglass_or_wood")
    run = van.branch()
    run["legs"] = "positive"
    van.add_run(van.any_part("busbar")["id"], point["id"], 0.5, legs="negative")
    van.add_run(run["finish"]["part"], other["id"], 0.3, legs="negative")
    return (run["finish"]["part"], run["id"])


@breaks("chassis-several", 2)
def chassis_several(van: Van) -> tuple[str, ...]:
    """A second bond, where one is enough."""
    bond = van.any_part("chassis_point", lambda one: van.kind_of(van.feed_of(one["id"])["start"]["part"]) == "busbar")
    other = van.add_part("g", "chassis_point", "Second bond", place=bond.get("place"))
    first = van.feed_of(bond["id"])
    made = van.add_run(first["start"]["part"], other["id"], 0.6, legs="negative")
    made["wire"] = dict(first["wire"])
    return (other["id"], bond["id"])


@breaks("bond-small", 2)
def bond_small(van: Van) -> tuple[str, ...]:
    """A thin wire to the body."""
    run = van.any_run(
        lambda one: (
            van.kind_of(one["finish"]["part"]) == "chassis_point"
            and one.get("legs") == "negative"
            and van.kind_of(one["start"]["part"]) == "busbar"
        )
    )
    thin = {"awg": "12", "bs": "12", "mm2": "4"}[run["wire"]["system"]]
    van.pin_wire(run, thin)
    return (run["id"],)


@breaks("bond-missing", 1)
def bond_missing(van: Van) -> tuple[str, ...]:
    """No bond to a metal body."""
    bond = van.any_part("chassis_point", lambda one: van.kind_of(van.feed_of(one["id"])["start"]["part"]) == "busbar")
    van.doc["runs"].remove(van.feed_of(bond["id"]))
    van.doc["parts"].remove(bond)
    return ("plan",)


@breaks("bond-through-paint", 2)
def bond_paint(van: Van) -> tuple[str, ...]:
    """Bolted onto paint."""
    bond = van.any_part("chassis_point")
    bond["bare_metal"] = False
    return (bond["id"],)


@breaks("bond-corrodes", 3)
def bond_corrodes(van: Van) -> tuple[str, ...]:
    """Nothing over the bare metal."""
    bond = van.any_part("chassis_point")
    bond["sealed"] = False
    return (bond["id"],)
