"""Mistakes with wires: too thin, too thick, of the wrong kind, at the wrong end."""

from __future__ import annotations

from lucernis.core.school.breaking.registry import breaks
from lucernis.core.school.breaking.van import FITTED, Van


@breaks("wire-over-derated", 2)
def over_derated(van: Van) -> tuple[str, ...]:
    """Pulled into a fat bundle of others."""
    run = van.any_run(
        lambda one: (
            van.told(one["id"]).greatest_a > 0.405 * (van.told(one["id"]).wire.ampacity_a or 1e9)
            and van.kind_of(one["finish"]["part"]) != "switch"
        )
    )
    run.update(bundle_count=30, length_as_typed=None)
    run.pop("way", None)
    return (run["id"],)


@breaks("wire-no-figure", 3, of_trade=False)
def no_figure(van: Van) -> tuple[str, ...]:
    """A wire from a box with another measure on it."""
    run = van.branch()
    van.pin_wire(run, "18", "sae")
    return (run["id"],)


@breaks("wire-insulation-cool", 3)
def insulation_cool(van: Van) -> tuple[str, ...]:
    """Cheap insulation where it is hot."""
    run = van.any_run(lambda one: van.told(one["id"]).engine_space or van.told(one["id"]).ambient_c >= 45)
    run["insulation_c"] = 60
    return (run["id"],)


def _size(van: Van, which: str) -> dict[str, str]:
    system = van.good.report.runs[0].wire.system
    sizes = {
        "awg": {"small": "14", "large": "8"},
        "bs": {"small": "14", "large": "8"},
        "mm2": {"small": "1.5", "large": "10"},
    }
    return {"system": system, "size": sizes[system][which]}


@breaks("wire-below-least", 1)
def below_least(van: Van) -> tuple[str, ...]:
    """Thin stuff from the box of loudspeaker wire."""
    run = van.branch(lambda one: van.told(one["id"]).design_current_a < 2)
    thin = {"awg": "18", "bs": "18", "mm2": "0.75"}[van.told(run["id"]).wire.system]
    van.pin_wire(run, thin)
    van.pin_fuse(run, 3.0)
    return (run["id"],)


@breaks("wire-below-maker", 2)
def below_maker(van: Van) -> tuple[str, ...]:
    """The maker asks for more copper than was fitted."""
    run = van.branch()
    load = van.part(run["finish"]["part"])
    load["maker"] = load.get("maker", {}) | {"least": _size(van, "large")}
    return (run["id"],)


@breaks("wire-above-terminal", 2)
def above_terminal(van: Van) -> tuple[str, ...]:
    """Thicker than goes into the device."""
    run = van.branch(lambda one: len(van.thicker(one["id"])) > 2)
    load = van.part(run["finish"]["part"])
    load["maker"] = load.get("maker", {}) | {
        "greatest": {"system": van.told(run["id"]).wire.system, "size": van.told(run["id"]).wire.size}
    }
    load["maker"].pop("least", None)
    van.pin_wire(run, van.thicker(run["id"])[1])
    return (run["id"],)


@breaks("joint-over", 3, whole=True)
def joint_over(van: Van) -> tuple[str, ...]:
    """A push-on terminal where twenty-five amperes go."""
    run = van.branch(lambda one: van.told(one["id"]).design_current_a > 15)
    run["finish"]["joint"] = "push_on"
    load = van.part(run["finish"]["part"])
    load.pop("power_w", None)
    load.update(current_a=23.0, behaviour="constant_current")
    return (run["id"],)


@breaks("wire-far-thicker", 1)
def far_thicker(van: Van) -> tuple[str, ...]:
    """What was left on the spool."""
    bar, system = van.any_part("busbar"), van.main()["wire"]["system"]
    size = van.main()["wire"]["size"]
    load = van.add_part("l", "load", "Amplifier", power_w=80.0, hours_per_day=0.5, place=bar.get("place"),
                        maker={"greatest": {"system": system, "size": size}})  # fmt: skip
    near = {"distance_m": 0.1, "bracket": True, "tied": True, "holder": "sealed", "family": "anl",
            "pin": {"rating_a": 35.0, "family": "anl", "reason": FITTED}}  # fmt: skip
    run = van.add_run(bar["id"], load["id"], 1.2, fuse_at_start=near)
    run["wire"] = {"system": system, "size": size, "reason": FITTED}
    return (run["id"],)


@breaks("wire-look-alike", 2)
def look_alike(van: Van) -> tuple[str, ...]:
    """4 where others are 4/0, as a box says it."""
    twins = {one["wire"]["size"].partition("/")[0] for one in van.doc["runs"] if one["wire"]["size"].endswith("/0")}
    sizes = sorted(twins) or ["6"]
    run = van.any_run(
        lambda one: van.kind_of(one["finish"]["part"]) in ("isolator", "fuse_block", "switch") and one["length_m"] > 0.5
    )
    if twins:
        van.pin_wire(run, van.dice.one_of(sizes))
    else:
        van.pin_wire(run, "6", "bs" if run["wire"]["system"] == "mm2" else "mm2")
    return tuple(one["id"] for one in van.doc["runs"])


@breaks("drop-over-limit", 2)
def drop_over(van: Van) -> tuple[str, ...]:
    """Sized by what it carries alone, not by what it loses."""
    run = van.branch(lambda one: bool(van.part(one["finish"]["part"]).get("sensitive")))
    run.update(
        length_m=round(run["length_m"] * van.dice.between(4, 7), 2), length_as_typed=None, way={"length_pinned": True}
    )
    return (run["finish"]["part"], run["id"])


@breaks("drop-out-of-reach", 3, of_trade=False)
def drop_out_of_reach(van: Van) -> tuple[str, ...]:
    """A limit nobody can keep."""
    run = van.branch()
    for one in van.doc["runs"]:
        one.pop("wire", None)
    van.part(run["finish"]["part"]).update(drop_limit_frac=0.001)
    return (run["finish"]["part"], run["id"])


@breaks("load-under-voltage", 2)
def under_voltage(van: Van) -> tuple[str, ...]:
    """A device that wants more volts than it gets."""
    run = van.branch()
    # As its sheet says: what stands so high is a radio or a recorder.
    van.part(run["finish"]["part"])["min_v"] = 11.9
    return (run["finish"]["part"], run["id"])


@breaks("load-collapse", 3)
def collapse(van: Van) -> tuple[str, ...]:
    """A greedy device at the end of a long thin wire."""
    run = van.branch()
    load = van.part(run["finish"]["part"])
    for key in ("current_a", "count", "inrush_factor", "inrush_s", "sensitive", "min_v", "rated_v"):
        load.pop(key, None)
    load.update(power_w=70.0, behaviour="constant_power", device="electronics", maker={})
    per_m = van.resistance_ohm_per_m(run["id"])
    run.update(length_m=round(0.68 / (2 * per_m), 1), length_as_typed=None)
    run.pop("way", None)
    van.pin_fuse(run, 7.5)
    return (run["finish"]["part"], run["id"])


@breaks("load-no-figure", 1)
def no_load_figure(van: Van) -> tuple[str, ...]:
    """A device nobody read the plate of."""
    load = van.any_load(lambda one: one.get("device") != "inverter")
    load.pop("power_w", None)
    load.pop("current_a", None)
    return (load["id"],)


@breaks("load-no-hours", 1)
def no_hours(van: Van) -> tuple[str, ...]:
    """Nobody asked how long it runs."""
    load = van.any_load(lambda one: one.get("device") != "inverter")
    load.pop("hours_per_day", None)
    return (load["id"],)


@breaks("load-unfed", 1)
def unfed(van: Van) -> tuple[str, ...]:
    """A device that got no wire."""
    run = van.branch()
    van.doc["runs"].remove(run)
    return (run["finish"]["part"],)


@breaks("run-unfed", 2, along=("load-unfed", "part-unfed"))
def run_unfed(van: Van) -> tuple[str, ...]:
    """A wire from a splice that no wire feeds to a device."""
    load = van.add_part("l", "load", "Mirror heater", power_w=12.0, hours_per_day=0.2)
    start = van.add_part("j", "joint", "Old splice", form="splice")
    run = van.add_run(start["id"], load["id"], 1.2)
    return (run["id"], load["id"], start["id"])


@breaks("run-nothing-behind", 2)
def nothing_behind(van: Van) -> tuple[str, ...]:
    """A feed to a block that holds nothing."""
    block = van.any_part("fuse_block", lambda one: int(one.get("ways", 6)) > 4)
    spare = van.add_part("f", "fuse_block", "Spare block", place=block.get("place"))
    run = van.add_run(van.way(block["id"]), spare["id"], 0.5, fuse_at_start={})
    return (run["id"], spare["id"])


@breaks("wire-not-for-vehicles", 1)
def building_wire(van: Van) -> tuple[str, ...]:
    """House wire, solid."""
    run = van.branch()
    run["wire_type"] = van.dice.one_of(["solid", "building"])
    return (run["id"],)


@breaks("loads-in-series", 2)
def in_series(van: Van) -> tuple[str, ...]:
    """Two lamps of half the volts, one after the other."""
    load = van.any_load(lambda one: one.get("device") == "lamp")
    load["rated_v"] = 6.0
    return (load["id"],)


@breaks("lengths-guessed", 1)
def guessed(van: Van) -> tuple[str, ...]:
    """A length nobody measured."""
    run = van.branch()
    run.update(length_guessed=True, length_as_typed=None)
    return ("plan", run["id"])


@breaks("lug-not-made", 3)
def lug_not_made(van: Van) -> tuple[str, ...]:
    """A thick wire on a small stud."""
    run = van.main()
    run["start"]["stud"] = "M4"
    return (run["id"],)


@breaks("stud-short", 3, whole=True)
def stud_short(van: Van) -> tuple[str, ...]:
    """Four thick lugs stacked on one stud."""
    run = van.any_run(
        lambda one: van.kind_of(one["start"]["part"]) == "switch" and van.kind_of(one["finish"]["part"]) == "busbar"
    )
    stud = van.add_part("j", "joint", "Stud", form="stud", place=van.part(run["start"]["part"]).get("place"))
    van.into(run, stud)
    system = run["wire"]["system"]
    thick = {"mm2": "95"}.get(system, "4/0")
    for name in ("Winch", "Crane"):
        load = van.add_part(
            "l", "load", name, power_w=5.0, hours_per_day=0.1, maker={"greatest": {"system": system, "size": thick}}
        )
        made = van.add_run(stud["id"], load["id"], 0.4)
        made["wire"] = {"system": system, "size": thick, "reason": FITTED}
    return (stud["id"], *(one["id"] for one in van.doc["runs"][-2:]))


@breaks("return-thinner", 2)
def return_thinner(van: Van) -> tuple[str, ...]:
    """The way back in thinner wire than the way out."""
    run = van.branch(lambda one: bool(van.thinner(one["id"])))
    block = run["start"]["part"]
    run["legs"] = "positive"
    back = van.add_run(run["finish"]["part"], block, run["length_m"], legs="negative")
    van.pin_wire(back | {"id": run["id"]}, van.thinner(run["id"])[0])
    back["wire"] = {"system": run["wire"]["system"], "size": van.thinner(run["id"])[0], "reason": "As fitted."}
    return (back["id"],)


@breaks("return-missing", 1, along=("load-collapse",))
def return_missing(van: Van) -> tuple[str, ...]:
    """Only the positive was pulled."""
    run = van.branch()
    run["legs"] = "positive"
    return (run["finish"]["part"], run["id"])
