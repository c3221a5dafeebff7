"""Mistakes with fuses and breakers: missing, far, too large, too small, of the wrong kind."""

from __future__ import annotations

from lucernis.core.school.breaking.registry import breaks
from lucernis.core.school.breaking.van import Van


@breaks("fuse-missing", 1)
def missing(van: Van) -> tuple[str, ...]:
    """A wire straight from a battery."""
    run = van.any_run(
        lambda one: one.get("fuse_at_start") is not None and van.kind_of(one["start"]["part"]) == "battery"
    )
    run["fuse_at_start"] = None
    return (run["id"],)


@breaks("fuse-too-far", 1)
def too_far(van: Van) -> tuple[str, ...]:
    """Fused where there was room, not where it counts."""
    run = van.any_run(
        lambda one: (
            one.get("fuse_at_start") is not None
            and van.kind_of(one["start"]["part"]) in ("battery", "busbar")
            and one["length_m"] > 0.55
        )
    )
    run["fuse_at_start"].update(distance_m=0.5, sheathed=False)
    return (run["id"],)


@breaks("fuse-above-wire", 2)
def above_wire(van: Van) -> tuple[str, ...]:
    """It kept blowing, so a larger one was put in."""
    run = van.branch()
    van.pin_fuse(
        run, 30.0 if van.told(run["id"]).wire.ampacity_a and (van.told(run["id"]).wire.ampacity_a or 0) < 28 else 40.0
    )
    return (run["id"],)


@breaks("fuse-below-load", 2)
def below_load(van: Van) -> tuple[str, ...]:
    """Too small for what runs through it."""
    run = van.branch(lambda one: van.told(one["id"]).design_current_a > 4)
    current = van.told(run["id"]).design_current_a
    van.pin_fuse(run, max(one for one in (2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0) if one < current * 0.97))
    return (run["id"],)


@breaks("fuse-at-load", 3)
def at_load(van: Van) -> tuple[str, ...]:
    """A fuse that holds by a hair."""
    run = van.branch(lambda one: van.told(one["id"]).design_current_a > 2)
    load = van.part(run["finish"]["part"])
    rating = run["fuse_at_start"]["pin"]["rating_a"]
    load.pop("power_w", None)
    load.update(current_a=round(rating * 0.985 / load.get("count", 1), 2), behaviour="constant_current", device="other")
    for key in ("inrush_factor", "inrush_s", "cycle_on_s", "cycle_off_s"):
        load.pop(key, None)
    return (run["id"],)


@breaks("fuse-above-maker", 2)
def above_maker(van: Van) -> tuple[str, ...]:
    """More than the device's sheet allows."""
    run = van.branch()
    load = van.part(run["finish"]["part"])
    rating = run["fuse_at_start"]["pin"]["rating_a"]
    lower = [
        one for one in (1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0) if van.told(run["id"]).design_current_a * 1.3 < one < rating
    ]
    load["maker"] = load.get("maker", {}) | {"fuse_a": van.dice.one_of(lower)}
    return (run["id"],)


@breaks("fuse-none-fits", 3)
def none_fits(van: Van) -> tuple[str, ...]:
    """More current than any fuse of that holder is made for."""
    run = van.branch()
    load = van.part(run["finish"]["part"])
    load.pop("power_w", None)
    load.update(current_a=60.0, behaviour="constant_current", maker={})
    run["fuse_at_start"].pop("pin", None)
    run["wire"]["size"] = van.thicker(run["id"])[6]
    return (run["id"],)


@breaks("fuse-not-made", 2)
def not_made(van: Van) -> tuple[str, ...]:
    """A rating nobody makes."""
    run = van.branch()
    rating = run["fuse_at_start"]["pin"]["rating_a"]
    van.pin_fuse(run, {5.0: 6.0, 7.5: 8.0, 10.0: 9.0, 15.0: 14.0, 20.0: 18.0}.get(rating, rating + 1.0))
    return (run["id"],)


@breaks("fuse-unsealed-hot", 3)
def unsealed(van: Van) -> tuple[str, ...]:
    """An open holder under the bonnet."""
    run = van.any_run(
        lambda one: (one.get("fuse_at_start") or {}).get("holder") == "sealed" and van.told(one["id"]).engine_space
    )
    run["fuse_at_start"]["holder"] = "open"
    return (run["id"],)


@breaks("fuse-one-end", 1, whole=True)
def one_end(van: Van) -> tuple[str, ...]:
    """The wire between two batteries, fused at one of them."""
    run = van.any_run(
        lambda one: van.kind_of(one["start"]["part"]) == "battery" and van.kind_of(one["finish"]["part"]) == "isolator"
    )
    run["fuse_at_start"] = None
    return (run["id"],)


@breaks("fuse-parallel", 3)
def parallel(van: Van) -> tuple[str, ...]:
    """Two wires side by side behind one big fuse."""
    run = van.main()
    fuse = float(run["fuse_at_start"]["pin"]["rating_a"])
    run["parallel"] = 2
    told = van.told(run["id"])
    share = fuse / (told.wire.ampacity_a or fuse)
    area = told.wire.area_mm2 * share
    fitting = [name for name in van.thinner(run["id"]) if 0.45 * area < van.area(run["id"], name) < 0.9 * area]
    van.pin_wire(run, van.dice.one_of(fitting))
    return (run["id"],)


@breaks("step-unfused", 2)
def step(van: Van) -> tuple[str, ...]:
    """A thinner wire goes on from a device without a fuse of its own."""
    tail = van.any_run(
        lambda one: (
            van.kind_of(one["start"]["part"]) in ("load", "switch")
            and one.get("fuse_at_start") is None
            and van.kind_of(one["finish"]["part"]) == "load"
            and van.told(one["id"]).design_current_a < 10
            and bool(van.feed_of(one["start"]["part"]).get("fuse_at_start"))
        )
    )
    before = van.feed_of(tail["start"]["part"])
    van.pin_wire(before, {"awg": "10", "bs": "8", "mm2": "6"}[before["wire"]["system"]])
    van.pin_fuse(
        before,
        {"awg": 40.0, "bs": 40.0, "mm2": 30.0}[before["wire"]["system"]],
        "blade_maxi" if before["wire"]["system"] != "mm2" else None,
    )
    return (tail["id"],)


@breaks("fuse-ignition", 3)
def ignition(van: Van) -> tuple[str, ...]:
    """Fuses that may spark where vapour gathers."""
    block = van.any_part("fuse_block", lambda one: bool(one.get("place")))
    place = next(one for one in van.doc["places"] if one["id"] == block["place"])
    zone = {"id": "petrol", "name": "Petrol locker", "vapour": True}
    van.doc["zones"].append(zone)
    place["zone"] = "petrol"
    ids = [one["id"] for one in van.doc["runs"] if one["start"]["part"] == block["id"]]
    return (*ids, block["id"])


@breaks("breaker-auto-reset", 2, whole=True)
def auto_reset(van: Van) -> tuple[str, ...]:
    """A breaker that closes by itself on a fault, before a heater or several loads."""
    starts = [one["start"]["part"] for one in van.doc["runs"]]
    run = van.branch(
        lambda one: van.part(one["finish"]["part"]).get("device") == "heater" or one["finish"]["part"] in starts
    )
    rating = run["fuse_at_start"]["pin"]["rating_a"]
    van.pin_fuse(run, max(rating, 5.0), "breaker_auto")
    run["fuse_at_start"]["family"] = "breaker_auto"
    return (run["id"],)


@breaks("inrush-opens", 3)
def inrush(van: Van) -> tuple[str, ...]:
    """A motor that starts harder than the fuse stands."""
    run = van.branch(lambda one: van.part(one["finish"]["part"]).get("device") == "motor")
    van.part(run["finish"]["part"]).update(inrush_factor=7.0, inrush_s=1.5)
    return (run["id"], run["finish"]["part"])


@breaks("cycle-trips", 3, along=("fuse-at-load", "fuse-below-load"))
def cycle(van: Van) -> tuple[str, ...]:
    """A heater that cycles faster than its breaker cools."""
    bar = van.any_part("busbar")
    for one in van.doc["parts"]:
        if one.get("device") == "inverter":
            one["inverter"]["continuous_w"] = 700.0
            one["power_w"] = 400.0
    load = van.add_part(
        "l",
        "load",
        "Towel rail",
        device="heater",
        behaviour="constant_current",
        current_a=28.0,
        hours_per_day=0.2,
        cycle_on_s=300.0,
        cycle_off_s=10.0,
        place=bar.get("place"),
    )
    near = {
        "distance_m": 0.1,
        "bracket": True,
        "tied": True,
        "family": "breaker_manual",
        "holder": "sealed",
        "pin": {"rating_a": 25.0, "family": "breaker_manual", "reason": "As fitted."},
    }
    run = van.add_run(bar["id"], load["id"], 1.0, fuse_at_start=near)
    run["wire"] = {
        "system": van.main()["wire"]["system"],
        "size": {"awg": "8", "bs": "8", "mm2": "10"}[van.main()["wire"]["system"]],
        "reason": "As fitted.",
    }
    return (run["id"],)


@breaks("breaking-low", 3, whole=True)
def breaking_low(van: Van) -> tuple[str, ...]:
    """A fuse that bursts in the short it stands in."""
    run = van.main()
    van.battery()["short_circuit_a"] = 9000.0
    rating = run["fuse_at_start"]["pin"]["rating_a"]
    van.pin_fuse(run, rating, "bolt_m8")
    run["fuse_at_start"]["family"] = "bolt_m8"
    return (run["id"],)


@breaks("fault-not-cleared", 3)
def not_cleared(van: Van) -> tuple[str, ...]:
    """So long and thin that a short at its end opens nothing."""
    run = van.branch()
    run.update(length_m=55.0, length_as_typed=None, way={"length_pinned": True})
    van.pin_fuse(run, 15.0)
    load = van.part(run["finish"]["part"])
    load.pop("current_a", None)
    load.update(power_w=2.0, sensitive=False, behaviour="constant_power", device="other")
    return (run["id"],)


@breaks("fault-harms-wire", 3)
def harms_wire(van: Van) -> tuple[str, ...]:
    """A slow breaker on a thin wire."""
    run = van.branch()
    van.pin_fuse(run, 20.0, "breaker_auto" if run["wire"]["system"] == "mm2" else "breaker_manual")
    if run["wire"]["system"] != "mm2":
        van.pin_fuse(run, 25.0, "breaker_manual")
    run["fuse_at_start"]["family"] = run["fuse_at_start"]["pin"]["family"]
    return (run["id"],)


@breaks("not-selective", 2)
def not_selective(van: Van) -> tuple[str, ...]:
    """The fuse before it is hardly larger: a fault in one branch darkens the whole block."""
    run = van.branch(lambda one: bool(van.feed_of(one["start"]["part"]).get("fuse_at_start")))
    feeder = van.feed_of(run["start"]["part"])
    carried = van.told(feeder["id"]).greatest_a
    rating = next(one for one in (7.5, 10.0, 15.0, 20.0) if one > carried * 1.2)
    van.pin_fuse(feeder, rating, "blade_regular")
    feeder["fuse_at_start"]["family"] = "blade_regular"
    van.pin_fuse(run, min(rating, 7.5), "blade_regular")
    load = van.part(run["finish"]["part"])
    for key in ("power_w", "sensitive", "inrush_factor", "inrush_s", "cycle_on_s", "cycle_off_s", "rated_v", "min_v"):
        load.pop(key, None)
    load.update(current_a=1.0, behaviour="constant_current", device="other")
    run.update(length_m=round(0.3 / (2 * van.resistance_ohm_per_m(run["id"])), 1), length_as_typed=None)
    run.pop("way", None)
    return tuple(one["id"] for one in van.doc["runs"] if one["start"]["part"] == run["start"]["part"])


@breaks("body-not-cleared", 3, of_trade=False)
def body_not_cleared(van: Van) -> tuple[str, ...]:
    """A bond so poor that a short to the body opens nothing."""
    van.doc["job"]["vehicle"]["chassis_ohm"] = 0.9
    van.any_part("chassis_point")
    return ("plan",)


@breaks("waiver-idle", 1, of_trade=False)
def waiver_idle(van: Van) -> tuple[str, ...]:
    """Somebody signed for something that is not there."""
    run = van.branch()
    van.doc.setdefault("waivers", []).append({"code": "fuse-missing", "subject": run["id"], "reason": "Looked at."})
    return (run["id"],)
