"""Plans drawn at random as an installer might lay them out, nothing pinned: what the program then chooses is its own.

Trees with feeders, blocks, chains, links, parallel strings; lead and lithium; engine spaces and bundles; 12 and 24 V.
"""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from hypothesis import strategies as st

Doc = dict[str, Any]
SETS = ("small_craft_us", "metric_caravan", "overland_bs", "vehicle_accessory")
ZONES = [
    {"id": "z1", "name": "Living"},
    {"id": "z2", "name": "Engine", "ambient_c": 50, "engine_space": True},
    {"id": "z3", "name": "Roof", "ambient_c": 45},
]
PLACES = [
    {"id": "p1", "name": "Locker", "zone": "z1", "vented": True},
    {"id": "p2", "name": "Galley", "zone": "z1"},
    {"id": "p3", "name": "Bonnet", "zone": "z2", "vented": True},
    {"id": "p4", "name": "Roof", "zone": "z3"},
]


def _round(low: float, high: float, digits: int = 2) -> st.SearchStrategy[float]:
    return st.floats(low, high, allow_nan=False).map(lambda value: round(value, digits))


class Build:
    """A document being put together, with numbers for what is added."""

    def __init__(self, draw: st.DrawFn) -> None:
        self.draw = draw
        self.count = 0
        self.doc: Doc = {
            "format": "lucernis-plan",
            "version": 3,
            "job": {"name": "Law", "vehicle": {"body": "fibreglass_or_wood"}},
            "zones": ZONES,
            "places": PLACES,
            "parts": [],
            "runs": [],
            "states": [{"id": "all_on", "name": "All on"}],
        }

    def part(self, kind: str, **fields: Any) -> str:
        """Add a part; returns its id."""
        self.count += 1
        part_id = f"{kind[:3]}{self.count}"
        self.doc["parts"].append(
            {"kind": kind, "id": part_id, "name": f"{kind} {self.count}", "tag": f"P{self.count}", "place": "p1"}
            | fields
        )
        return part_id

    def run(self, start: str, finish: str, length_m: float, **fields: Any) -> str:
        """Add a run; returns its id. A start or finish may be written part:way or part.terminal."""
        self.count += 1
        run_id = f"r{self.count}"

        def end(text: str) -> Doc:
            part, _, way = text.partition(":")
            part, _, terminal = part.partition(".")
            found: Doc = {"part": part}
            if way:
                found["way"] = int(way)
            if terminal:
                found["terminal"] = terminal
            return found

        run = {"id": run_id, "tag": f"C{self.count}", "start": end(start), "finish": end(finish), "length_m": length_m}
        self.doc["runs"].append(run | fields)
        return run_id


def _load(build: Build, most_a: float) -> str:
    draw, volts = build.draw, build.doc["nominal_v"]
    amps = draw(_round(0.1, most_a))
    fields: Doc = {
        "behaviour": draw(st.sampled_from(["constant_power", "constant_current", "resistive"])),
        "hours_per_day": draw(st.sampled_from([0.2, 1.0, 2.9, 3.0, 8.0, 24.0])),
        "sensitive": draw(st.booleans()),
        "place": draw(st.sampled_from(["p1", "p2", "p2", "p4", "p3"])),
    }
    if fields["behaviour"] == "constant_current":
        fields["current_a"] = amps
    else:
        fields["power_w"] = round(amps * volts, 1)
    if draw(st.integers(0, 3)) == 0:
        # A motor or compressor: it starts with more than it runs on.
        fields |= {
            "device": "motor",
            "inrush_factor": draw(st.sampled_from([2.0, 3.0, 5.0])),
            "inrush_s": draw(st.sampled_from([0.1, 0.5, 1.5])),
        }
    return build.part("load", **fields)


def _pair(build: Build, source: str, finish: str, length_m: float, **fields: Any) -> None:
    """A run of two legs, now and then drawn as a positive and a negative by themselves."""
    if build.draw(st.integers(0, 5)):
        build.run(source, finish, length_m, **fields)
        return
    build.run(source, finish, length_m, legs="positive", **fields)
    build.run(finish, source, length_m, legs="negative")


def _on_the_post(build: Build) -> None:
    """Small things straight on a battery: an alarm, a panel that keeps it full; and now and then a winch."""
    draw = build.draw
    battery = next(one for one in build.doc["parts"] if one["kind"] == "battery")
    if draw(st.integers(0, 2)) == 0:
        alarm = build.part(
            "load", current_a=draw(_round(0.1, 2.0)), behaviour="constant_current", hours_per_day=24.0, stays_live=True
        )
        build.run(battery["id"], alarm, draw(_round(0.5, 4.0)), fuse_at_start=_near(build))
    if draw(st.integers(0, 4)) == 0 and build.doc["nominal_v"] == 12:
        panel = build.part("panel", power_w=12.0, mp_v=17.5, open_v=21.5, short_a=0.77, place="p4")
        build.run(panel, battery["id"], draw(_round(2.0, 7.0)), fuse_at_finish=_near(build))
        build.doc["practice"]["overrides"] = [{"rule": "small_panel", "value": "15_w", "reason": "law"}]
    if draw(st.integers(0, 5)) == 0:
        winch = build.part(
            "load", current_a=draw(_round(100, 350, 0)), behaviour="constant_current", device="motor",
            hours_per_day=0.05, place="p3", min_v=8.0 * build.doc["nominal_v"] / 12, stays_live=True,
        )  # fmt: skip
        build.run(battery["id"], winch, draw(_round(0.8, 4.0)), fuse_at_start=_near(build))


def _lies(build: Build) -> Doc:
    """How a run lies: its bundle and the zone it passes."""
    draw = build.draw
    return {
        "bundle_count": draw(st.sampled_from([2, 2, 2, 3, 4, 6])),
        "zone": draw(st.sampled_from([None, None, None, "z1", "z3", "z2"])),
    }


def _near(build: Build, most_m: float = 0.17) -> Doc:
    return {"distance_m": build.draw(_round(0.0, most_m))}


def _bank(build: Build) -> str:
    """The bank; returns the part everything hangs on behind its main fuse and switch."""
    draw = build.draw
    chemistry = draw(st.sampled_from(["lfp", "lfp", "agm", "flooded", "gel"]))
    # Lithium side by side meets on bars, each battery with its fuse; lead may be linked by jumpers.
    shape = draw(st.sampled_from(["single", "single", "series", "bars", "bars" if chemistry == "lfp" else "chain"]))
    strings = 1 if shape in ("single", "series") else draw(st.integers(2, 4))
    each_ah = draw(_round(50, 600 / strings, 0))
    place = draw(st.sampled_from(["p1", "p1", "p1", "p3"])) if chemistry != "lfp" else "p1"
    kind = {"chemistry": chemistry, "capacity_ah": each_ah, "place": place}
    if shape == "series":
        kind["rated_v"] = build.doc["nominal_v"] // 2
        strings = 2
    house = [build.part("battery", **kind) for _ in range(strings)]
    bars = build.part("busbar", studs=12, place=place)
    switch = build.part("switch", use="isolator", place=place)
    trunk_m = draw(_round(0.2, 1.5))
    if shape == "bars":
        first = build.part("busbar", studs=8, place=place)
        for one in house:
            build.run(one, first, 0.4, fuse_at_start=_near(build))
        build.run(first, switch, trunk_m, fuse_at_start=_near(build))
    elif shape == "chain":
        for one, other in pairwise(house):
            build.run(one, other, 0.3, legs="positive")
            build.run(one, other, 0.3, legs="negative")
        build.run(house[0], switch, trunk_m, legs="positive", fuse_at_start=_near(build))
        build.run(house[-1], bars, trunk_m + 0.3, legs="negative")
        build.run(switch, bars, 0.3, legs="positive")
        return bars
    elif shape == "series":
        build.run(house[0], house[1], 0.25, legs="series")
        build.run(house[0], switch, trunk_m, legs="positive", fuse_at_start=_near(build))
        build.run(switch, bars, 0.3, legs="positive")
        build.run(house[1], bars, trunk_m + 0.3, legs="negative")
        return bars
    else:
        build.run(house[0], switch, trunk_m, fuse_at_start=_near(build))
    build.run(switch, bars, 0.3)
    return bars


def _block(build: Build, source: str) -> None:
    draw = build.draw
    place = draw(st.sampled_from(["p1", "p2", "p2", "p4"]))
    block = build.part("fuse_block", ways=12, place=place)
    build.run(source, block, draw(_round(0.3, 9.0)), fuse_at_start=_near(build), **_lies(build))
    for way in range(1, draw(st.integers(1, 5)) + 1):
        load = _load(build, draw(st.sampled_from([2.0, 6.0, 15.0, 22.0])))
        if draw(st.integers(0, 9)) == 0:
            # One that is fed over a diode, so that nothing comes back from it.
            diode = build.part("diode", place=place)
            build.run(f"{block}:{way}", diode, draw(_round(0.3, 3.0)), fuse_at_start={}, **_lies(build))
            build.run(diode, load, draw(_round(0.3, 6.0)), **_lies(build))
            continue
        build.run(f"{block}:{way}", load, draw(_round(0.3, 9.0)), fuse_at_start={}, **_lies(build))
        if draw(st.integers(0, 4)) == 0:
            # A second device behind the first, on the same fuse.
            build.run(load, _load(build, 3.0), draw(_round(0.3, 3.0)), **_lies(build))


def _inverter(build: Build, source: str) -> None:
    draw = build.draw
    watts = float(draw(st.sampled_from([300, 600, 1000, 2000, 3000])))
    use_w = draw(st.sampled_from([watts, 100.0]))
    load = build.part("load", device="inverter", power_w=use_w, hours_per_day=1.0, inverter={"continuous_w": watts})
    switch = build.part("switch")
    build.run(source, switch, 0.4, fuse_at_start=_near(build))
    build.run(switch, load, draw(_round(0.3, 3.0)))


def _chargers(build: Build, bars: str) -> None:
    draw = build.draw
    chemistry = next(one["chemistry"] for one in build.doc["parts"] if one["kind"] == "battery")
    if draw(st.booleans()):
        unit = build.part(
            "charger", form="shore", out_a=float(draw(st.sampled_from([10, 20, 40]))), chemistry=chemistry
        )
        build.run(f"{unit}.out", bars, draw(_round(0.3, 2.0)), fuse_at_finish=_near(build))
        build.doc["states"].append({"id": "shore", "name": "Shore", "key_on": False, "shore_on": True})
    if draw(st.booleans()):
        unit = build.part(
            "charger", form="sun", out_a=float(draw(st.sampled_from([15, 30, 50]))), chemistry=chemistry,
            pv_high_v=100.0,
        )  # fmt: skip
        build.run(f"{unit}.out", bars, draw(_round(0.3, 2.0)), fuse_at_finish=_near(build))
        panel = build.part(
            "panel", power_w=180.0, mp_v=19.8, open_v=23.6, short_a=9.6, series=2, strings=draw(st.integers(1, 2)),
            place="p4",
        )  # fmt: skip
        build.run(panel, f"{unit}.pv", draw(_round(1.0, 9.0)))
        build.doc["states"].append({"id": "sun", "name": "Sun", "key_on": False, "sun": True})
    if draw(st.booleans()):
        starter = build.part(
            "battery", use="starter", chemistry="agm", capacity_ah=80.0, rated_v=12, place="p3", name="Starter"
        )
        build.part("alternator", rated_a=180.0, place="p3")
        amps = float(draw(st.sampled_from([10, 20, 30])))
        if build.doc["nominal_v"] == 12 and chemistry != "lfp" and draw(st.booleans()):
            link = build.part("isolator")
            build.run(starter, link, draw(_round(1.0, 7.0)), fuse_at_start=_near(build))
            build.run(link, bars, 0.6, fuse_at_finish=_near(build))
        else:
            unit = build.part(
                "charger", form="dcdc", out_a=amps, chemistry=chemistry, sense="wired", in_nominal_v=12,
            )  # fmt: skip
            build.run(starter, unit, draw(_round(1.0, 9.0)), fuse_at_start=_near(build))
            build.run(f"{unit}.out", bars, draw(_round(0.3, 2.0)), fuse_at_finish=_near(build))
        build.doc["states"].append({"id": "driving", "name": "Driving", "engine_on": True})


@st.composite
def plan_documents(draw: st.DrawFn) -> Doc:
    """A plan's document, nothing pinned."""
    build = Build(draw)
    build.doc["practice"] = {"set": draw(st.sampled_from(SETS))}
    build.doc["nominal_v"] = draw(st.sampled_from([12, 12, 12, 24]))
    bars = _bank(build)
    if draw(st.integers(0, 2)) == 0:
        _inverter(build, bars)
    for _ in range(draw(st.integers(1, 3))):
        _block(build, bars)
    for _ in range(draw(st.integers(0, 2))):
        most_a = draw(st.sampled_from([5.0, 30.0, 80.0, 200.0]))
        _pair(build, bars, _load(build, most_a), draw(_round(0.3, 9.0)), fuse_at_start=_near(build), **_lies(build))
    _chargers(build, bars)
    _on_the_post(build)
    return build.doc
