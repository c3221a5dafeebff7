"""Whole plans that once went wrong: a steel van with everything, and an open boat with a shared lamp."""

from __future__ import annotations

from typing import Any

Doc = dict[str, Any]
HEAVY = {"wire": {"system": "awg", "size": "2/0", "reason": "as found"}}


def piece(kind: str, name: str, place: str, **fields: Any) -> Doc:
    return {"kind": kind, "id": name, "name": name.title(), "tag": name.upper()[:12], "place": place} | fields


def wire(name: str, start: Any, finish: Any, length_m: float, **fields: Any) -> Doc:
    ends = [end if isinstance(end, dict) else {"part": end} for end in (start, finish)]
    return {"id": name, "tag": name.upper(), "start": ends[0], "finish": ends[1], "length_m": length_m} | fields


def way(number: int, load: str, length_m: float) -> Doc:
    return wire(f"w{number}", {"part": "block", "way": number}, load, length_m, fuse_at_start={})


def device(name: str, place: str, hours: float, **fields: Any) -> Doc:
    draws = "current_a" in fields
    behaviour = "constant_current" if draws else "constant_power"
    return piece("load", name, place, hours_per_day=hours, behaviour=behaviour, **fields)


def _loads(sensitive: bool) -> list[Doc]:
    motor, keen = {"device": "motor"}, {"sensitive": sensitive}
    return [
        device("fridge", "galley", 8, power_w=60, min_v=10.4, maker={"fuse_a": 15}, **motor, **keen),
        device("pump", "galley", 0.3, power_w=84, maker={"fuse_a": 10}, **motor),
        device("ceiling", "roof", 4, current_a=0.25, count=8, device="lamp"),
        device("reading", "rear", 2, current_a=0.2, count=2, device="lamp"),
        device("fan", "roof", 8, power_w=36, **motor),
        device("usb_rear", "rear", 2, power_w=45, device="electronics", **keen),
        device("usb_galley", "galley", 2, power_w=45, device="electronics", **keen),
        device("heater", "rear", 4, power_w=110, min_v=10.5, maker={"fuse_a": 15}, device="heater"),
        device("router", "galley", 24, power_w=15, device="electronics", **keen),
        device("socket", "rear", 0.5, power_w=120),
    ]


def van(
    *,
    sensitive: bool = False,
    inverter_m: float = 0.8,
    inverter_w: float = 1500.0,
    in_use_w: float = 1200.0,
    series: bool = False,
    practice: str = "small_craft_us",
) -> Doc:
    """A good steel van: everything on its bars behind fuse and switch, three chargers, a block of ten ways."""
    chemistry = {"chemistry": "lfp", "capacity_ah": 200, "discharge_a": 300, "discharge_short_a": 400, "charge_a": 100}
    if series:
        chemistry = {"chemistry": "agm", "capacity_ah": 200, "rated_v": 6}
    batteries = [
        piece("battery", name, "locker", **chemistry) for name in (("house", "second") if series else ("house",))
    ]
    last = batteries[-1]["id"]
    anl, near = {"family": "anl"}, {"distance_m": 0.1}
    main = {"distance_m": 0.1, "family": "class_t", "pin": {"rating_a": 250, "family": "class_t", "reason": "as found"}}
    parts = [
        *batteries,
        piece("battery", "starter", "bay", use="starter", chemistry="agm", capacity_ah=90),
        piece("alternator", "alternator", "bay", rated_a=150),
        piece("switch", "main", "locker", use="isolator", rated_a=300, short_time_a=900),
        piece("shunt", "shunt", "locker"),
        piece("busbar", "bars", "locker", rated_a=400, studs=6),
        piece("switch", "inverter_switch", "locker", use="circuit", rated_a=300),
        piece("chassis_point", "bond", "locker"),
        piece("fuse_block", "block", "locker", ways=12, way_limit_a=30, total_limit_a=100),
        *_loads(sensitive),
        device("inverter", "locker", 0.5, power_w=in_use_w, device="inverter",
               inverter={"continuous_w": inverter_w, "efficiency_frac": 0.9}),
        piece("charger", "dcdc", "locker", form="dcdc", out_a=30, chemistry=chemistry["chemistry"], sense="wired",
              in_low_v=11.5, in_high_v=16, in_a=40),
        piece("charger", "sun", "locker", form="sun", out_a=30, chemistry=chemistry["chemistry"], pv_high_v=100,
              pv_w=440, pv_a=30),
        piece("panel", "panels", "rooftop", power_w=200, mp_v=20.4, open_v=24.3, short_a=10.4, series=2),
        piece("charger", "shore", "locker", form="shore", out_a=30, chemistry=chemistry["chemistry"]),
    ]  # fmt: skip
    fed = [("fridge", 3), ("pump", 3.5), ("ceiling", 4), ("reading", 4.5), ("fan", 4), ("usb_rear", 4.2),
           ("usb_galley", 2.5), ("heater", 2), ("router", 3), ("socket", 4)]  # fmt: skip
    runs = [
        wire("r1", "house", "main", 0.5, legs="positive", fuse_at_start=main, **HEAVY),
        wire("r2", "main", "bars", 0.3, legs="positive", **HEAVY),
        wire("r3", last, "shunt", 0.3, legs="negative", **HEAVY),
        wire("r4", "shunt", "bars", 0.3, legs="negative", **HEAVY),
        wire("r5", "bars", "bond", 0.6, legs="negative", **HEAVY),
        wire("r6", "bars", "inverter_switch", 0.4, **HEAVY),
        wire("r7", "inverter_switch", "inverter", inverter_m, **HEAVY),
        wire("r8", "bars", "block", 0.6,
             fuse_at_start=near | anl | {"pin": {"rating_a": 100, "family": "anl", "reason": "as found"}}),
        wire("r9", "starter", {"part": "dcdc", "terminal": "in"}, 7, zone="engine",
             fuse_at_start={"distance_m": 0.15, "family": "anl", "holder": "sealed"},
             passes=[{"through": "firewall", "grommet": True, "sealed": True}]),
        *(wire(f"q{k}", {"part": name, "terminal": "out"}, "bars", 0.8, fuse_at_finish=near | anl)
          for k, name in enumerate(("dcdc", "sun", "shore"), start=1)),
        wire("q4", "panels", {"part": "sun", "terminal": "pv"}, 5),
        *(way(number, name, length_m) for number, (name, length_m) in enumerate(fed, start=1)),
    ]  # fmt: skip
    if series:
        runs.append(wire("r0", "house", "second", 0.25, legs="series", **HEAVY))
    return {
        "format": "lucernis-plan", "version": 4, "job": {"name": "Steel van", "vehicle": {"body": "steel"}},
        "nominal_v": 12, "units": "us", "practice": {"set": practice},
        "zones": [
            {"id": "living", "name": "Living"},
            {"id": "engine", "name": "Engine bay", "ambient_c": 50, "engine_space": True},
            {"id": "sky", "name": "Roof", "ambient_c": 50, "wet": True},
        ],
        "places": [
            {"id": "locker", "name": "Locker", "zone": "living", "vented": True},
            {"id": "bay", "name": "Engine bay", "zone": "engine", "vented": True},
            {"id": "rooftop", "name": "Roof", "zone": "sky"},
            *({"id": one, "name": one.title(), "zone": "living"} for one in ("galley", "rear", "roof")),
        ],
        "parts": parts, "runs": runs,
        "states": [{"id": "on", "name": "Everything on"}, {"id": "drive", "name": "Driving", "engine_on": True},
                   {"id": "sunny", "name": "Sun", "sun": True}],
    }  # fmt: skip


def boat(*, shared: bool = True) -> Doc:
    """An open boat whose all-round lamp is lit by both outputs of the lamp switch, without a diode."""
    amps = {"allround": 0.8, "bow": 1.2, "bilge": 4.0, "bait": 3.0, "horn": 5.0, "radio": 5.0, "sonar": 1.5}
    four = {"wire": {"system": "awg", "size": "4", "reason": "as found"}}
    runs = [
        wire("r1", "battery", "main", 0.4, **four),
        wire("r2", "main", "block", 4.5, **four),
        wire("w1", {"part": "block", "way": 1}, "lamps", 0.6, fuse_at_start={}),
        wire("anchor", {"part": "lamps", "terminal": "out"}, "allround", 4.5),
        wire("running", {"part": "lamps", "terminal": "out_b"}, "bow", 2.5),
        way(2, "bilge", 4.5), way(3, "bait", 4.5), way(4, "horn", 2.5), way(5, "radio", 0.8), way(6, "sonar", 0.8),
    ]  # fmt: skip
    if shared:
        runs.append(wire("shared", {"part": "lamps", "terminal": "out_b"}, "allround", 4.5))
    return {
        "format": "lucernis-plan", "version": 4, "job": {"name": "Open boat", "vehicle": {"body": "boat_hull"}},
        "units": "us", "practice": {"set": "small_craft_us"},
        "zones": [{"id": "stern", "name": "Stern", "wet": True}, {"id": "dash", "name": "Dash"}],
        "places": [{"id": "box", "name": "Battery box", "zone": "stern", "vented": True},
                   {"id": "console", "name": "Console", "zone": "dash"}],
        "parts": [
            piece("battery", "battery", "box", chemistry="flooded", capacity_ah=80),
            piece("switch", "main", "box", use="isolator", rated_a=300),
            piece("fuse_block", "block", "console", ways=12, way_limit_a=30, total_limit_a=100),
            piece("switch", "lamps", "console", use="circuit", form="three_position", rated_a=15),
            *(device(name, "console", 1, current_a=one, sensitive=name in ("allround", "bow", "sonar"))
              for name, one in amps.items()),
        ],
        "runs": runs,
        "states": [
            {"id": "anchor", "name": "anchor", "modes": [{"part": "lamps", "position": "a"}]},
            {"id": "running", "name": "running", "modes": [{"part": "lamps", "position": "b"}]},
        ],
    }  # fmt: skip
