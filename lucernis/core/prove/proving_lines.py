"""What the proving list asks for, section by section."""

from __future__ import annotations

from dataclasses import replace

from lucernis.core.layout.bundles import is_bond
from lucernis.core.prove import meanings
from lucernis.core.prove.frame import Frame, Reading
from lucernis.core.prove.living import Living
from lucernis.core.prove.proving_list import ProvingList
from lucernis.plan.model import Battery, Charger, Joint, Load, Run
from lucernis.plan.source_parts import Isolator
from lucernis.practice.tables import load_table

_MOST_SHARE = 0.3
_NOT_READ = ("battery", "joint", "alternator", "panel", "charger", "chassis_point")
_OUTLETS = ("outlet", "plug", "towing_plug")
# Below this a leg loses too little for a meter. Practice. [A]
_BRANCH_A = 0.3
# Further above the end of charge a battery gasses and lithium's management opens. Common practice, no source.
# [V for each 12 V]
_OVER_V = 0.2
# From so much on a bad joint in a charger's wire gets hot. Common practice, no source. [A]
_CHARGING_A = 10.0


def dead_lines(made: ProvingList) -> None:
    """Bonds, the way back of every device, and nothing joined that should be apart."""
    frame_, parts = made.frame, made.frame.sized.topology.parts
    home = next((part.id for part in frame_.plan.parts if isinstance(part, Battery) and part.use == "house"), None)
    home = home or next((part.id for part in frame_.plan.parts if isinstance(part, Battery)), None)
    bodies = [
        part for part in frame_.plan.parts if part.kind == "chassis_point" and part.id in frame_.sized.wiring.neg
    ][:1]
    for run in frame_.plan.runs:
        if is_bond(run, parts):
            ends = sorted((run.start.part, run.finish.part), key=lambda one: parts[one].kind != "chassis_point")
            body, other = parts[ends[0]], parts[ends[1]]
            reading = frame_.ohms(f"-{body.id}", f"-{other.id}", f"Bond {run.tag}, {body.name} to {other.name}",
                                  part=body.id, run=run.id)  # fmt: skip
            made.want("dead", "dead", reading, meanings.BOND)
    for part in frame_.plan.parts:
        if part.kind in ("busbar", "fuse_block"):
            reading = frame_.ohms(f"+{part.id}", f"-{part.id}", f"{part.name}, + to −", part=part.id)
            made.want("dead", "dead", reading, meanings.APART, apart=True)
            for body in bodies:
                label = f"{part.name}, + to {body.name}"
                to_body = frame_.ohms(f"+{part.id}", f"-{body.id}", label, part=part.id)
                made.want("dead", "dead", to_body, meanings.FROM_BODY, apart=True)
    for part in frame_.plan.parts:
        if isinstance(part, Load) and home is not None and part.id in frame_.sized.topology.feeder_of:
            # The battery's negative is off: its lug is read, not the post.
            label = f"Return of {part.name} to the negative lug of {parts[home].name}"
            reading = frame_.ohms(f"-{part.id}", f"-{home}", label, part=part.id)
            made.want("dead", "dead", reading, meanings.RETURN)


def at_rest_lines(made: ProvingList) -> None:
    """Batteries, then point by point as the fuses go in."""
    frame_, topology = made.frame, made.frame.sized.topology
    for part in frame_.plan.parts:
        if isinstance(part, Battery):
            reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, post to post", part=part.id)
            made.want("fuses", "rest", reading, meanings.REST)
    seen: set[str] = set()
    for run_id in topology.order:
        run, there = topology.runs[run_id], topology.finish_of[run_id]
        part = topology.part_at(there)
        # Polarity is asked where both legs come; a pin of a plug that carries one leg has none.
        outlet = isinstance(part, Joint) and part.form in _OUTLETS and run.legs == "both"
        if part.id in seen or (part.kind in _NOT_READ and not outlet):
            continue
        plus = f"+{there}" if there in frame_.sized.wiring.pos else f"+{part.id}"
        if part.kind in ("switch", "relay", "keyed_feed", "isolator", "diode"):
            continue
        seen.add(part.id)
        if there not in frame_.situations["rest"].switched.live:
            # Dead at rest: it is read with the keyed feeds.
            continue
        fuse = frame_.sized.fuses.get(run_id)
        label = f"{part.name}, + to −" + (", before a device goes in" if outlet or isinstance(part, Load) else "")
        means = meanings.SWITCHED_ON
        if fuse is not None and fuse.fuse is not None:
            first = f"{run.tag} {fuse.fuse.rating_a:g} A goes in: if it blows, find out why."
            means = replace(means, good=f"{first} {means.good}")
        made.want("fuses", "rest", frame_.volts(plus, f"-{part.id}", label, part=part.id), means)


def branch_lines(made: ProvingList) -> None:
    """Each leg to a device while it runs: a joint of some tens of milliohms hides behind the battery's volts else."""
    frame_, topology = made.frame, made.frame.sized.topology
    for part in frame_.plan.parts:
        name, run_id = f"load:{part.id}", topology.feeder_of.get(part.id)
        if not isinstance(part, Load) or name not in frame_.situations or run_id is None:
            continue
        if part.id not in frame_.situations[name].on:
            continue
        run, living = topology.runs[run_id], made.living(name)
        for letter, c in (("p", 2 * _index(frame_, run_id)), ("n", 2 * _index(frame_, run_id) + 1)):
            if frame_.on_leg.get(c) and abs(float(living.conductor_a[c])) >= _BRANCH_A:
                made.want("branches", name, _along(made, living, c, letter, run), meanings.BRANCH_DROP)


def switched_lines(made: ProvingList) -> None:
    """What the main switch stops and what it leaves alive; keyed feeds dead and live."""
    frame_ = made.frame
    situations = frame_.situations
    for part in frame_.plan.parts:
        if (
            part.kind in ("busbar", "fuse_block", "load")
            and part.id in frame_.sized.wiring.pos
            and "isolated" in situations
        ):
            alive = part.id in situations["isolated"].switched.live
            if part.kind == "busbar" or alive:
                means = meanings.STAYS if alive else meanings.DEAD
                reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, + to −", part=part.id)
                made.want("isolated", "isolated", reading, means)
    for part in frame_.plan.parts:
        if part.kind == "keyed_feed" and f"{part.id}:out" in frame_.sized.wiring.pos:
            for name, means in (
                ("rest", meanings.KEY_OFF),
                ("key", meanings.KEY_ON),
            ):
                if part.follows == "key":
                    battery = next((one.id for one in frame_.plan.parts if isinstance(one, Battery)), "")
                    reading = frame_.volts(f"+{part.id}:out", f"-{battery}", f"{part.name}, behind it", part=part.id)
                    made.want("keyed", name, reading, means)
        on_key = "key" in situations and part.id in situations["key"].switched.live
        if part.kind not in ("load", "fuse_block") or not on_key or part.id in situations["rest"].switched.live:
            continue
        reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, + to −", part=part.id)
        made.want("keyed", "rest", reading, meanings.KEY_OFF)
        made.want("keyed", "key", reading, meanings.KEY_ON)


def loads_lines(made: ProvingList) -> None:
    """Each device by itself: its volts while it runs, and what it draws."""
    frame_, topology = made.frame, made.frame.sized.topology
    for part in frame_.plan.parts:
        name = f"load:{part.id}"
        run_id = topology.feeder_of.get(part.id)
        if not isinstance(part, Load) or name not in frame_.situations or run_id is None:
            continue
        if part.id not in frame_.situations[name].on:
            continue
        volts = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, at its terminals", part=part.id)
        made.want("loads", name, volts, meanings.LOADED)
        if 2 * _index(frame_, run_id) in frame_.on_leg:
            amps = frame_.amps(run_id, "p", f"{topology.runs[run_id].tag}, what {part.name} draws")
            made.want("loads", name, amps, meanings.DRAWN)


def _index(made: Frame, run_id: str) -> int:
    return next(k for k, run in enumerate(made.plan.runs) if run.id == run_id)


def _along(made: ProvingList, living: Living, c: int, letter: str, run: Run) -> Reading:
    """Volts along a leg from end to end, the leads so that the reading is positive."""
    whole = len(made.frame.on_leg[c])
    ends = (0, whole) if living.conductor_a[c] >= 0 else (whole, 0)
    sign = "+" if letter == "p" else "−"
    return made.frame.volts(
        f"{run.id}:{letter}:{ends[0]}", f"{run.id}:{letter}:{ends[1]}", f"{run.tag} {sign}, end to end", run=run.id
    )


def charging_lines(made: ProvingList) -> None:
    """The copper of chargers where most flows in it: a joint there takes as many watts as one on the way to a load."""
    frame_ = made.frame
    sections = [one for one in ("engine", "shore", "sun") if one in frame_.situations]
    loaded = _most_state(made)
    for k, run in enumerate(frame_.plan.runs):
        for letter, c in (("p", 2 * k), ("n", 2 * k + 1)):
            if not sections or not frame_.on_leg.get(c):
                continue
            amps = {one: abs(float(made.living(one).conductor_a[c])) for one in sections}
            best = max(amps, key=lambda one: amps[one])
            under_load = abs(float(made.living(loaded).conductor_a[c])) if loaded else 0.0
            if amps[best] >= _CHARGING_A and amps[best] > under_load:
                made.want(best, best, _along(made, made.living(best), c, letter, run), meanings.WIRE_DROP)


def _house(made: ProvingList) -> list[int]:
    """House batteries among the sources."""
    topology = made.frame.sized.topology
    return [
        k
        for k, name in enumerate(made.frame.sized.wiring.sources)
        if isinstance(part := topology.parts[name], Battery) and part.use == "house"
    ]


def _most_state(made: ProvingList) -> str | None:
    """The plan's state in which the house batteries give most; None where they give nothing in any."""
    house = _house(made)
    names = [one for one in made.frame.situations if one.startswith("state:")]
    if not names or not house:
        return None
    most = max(names, key=lambda one: float(made.living(one).source_a[house].sum()))
    return most if float(made.living(most).source_a[house].sum()) > 0 else None


def most_lines(made: ProvingList) -> None:
    """The big copper and everything in it, at the most that flows."""
    frame_, most = made.frame, _most_state(made)
    if most is None:
        return
    living = made.living(most)
    total = float(living.source_a[_house(made)].sum())
    for k, run in enumerate(frame_.plan.runs):
        for letter, c in (("p", 2 * k), ("n", 2 * k + 1)):
            leg = frame_.on_leg.get(c, ())
            if not leg or abs(float(living.conductor_a[c])) < _MOST_SHARE * total:
                continue
            made.want("most", most, _along(made, living, c, letter, run), meanings.WIRE_DROP)
            for at, piece in enumerate(leg):
                if frame_.elements[piece].sort == "fuse":
                    a, b = (at, at + 1) if living.conductor_a[c] >= 0 else (at + 1, at)
                    one = frame_.volts(f"{run.id}:{letter}:{a}", f"{run.id}:{letter}:{b}",
                                       f"Across {frame_.elements[piece].label}", run=run.id)  # fmt: skip
                    made.want("most", most, one, meanings.FUSE_DROP)
    for element in frame_.elements:
        c = element.conductor
        if element.sort in ("contact", "shunt") and abs(float(living.conductor_a[c])) >= _MOST_SHARE * total:
            sign = "-" if element.sort == "shunt" else "+"
            here, there = f"{sign}{element.part}", f"{sign}{element.part}:out"
            forward = living.conductor_a[c] >= 0
            reading = frame_.volts(here if forward else there, there if forward else here,
                                   f"Across {element.label}", part=element.part)  # fmt: skip
            means = meanings.SHUNT_DROP if element.sort == "shunt" else meanings.CONTACT_DROP
            made.want("most", most, reading, means)


def _most_v(battery: Battery, nominal_v: float) -> float:
    """What a battery is never charged beyond, by its chemistry. [V]"""
    row = load_table("battery_chemistry").find(battery.chemistry)
    return (float(row["absorb_v"]) + _OVER_V) * (battery.rated_v or nominal_v) / 12


def sources_lines(made: ProvingList) -> None:
    """Engine, shore and sun: both posts, and what each charger gives."""
    frame_, topology = made.frame, made.frame.sized.topology
    for section, forms in (("engine", ("dcdc",)), ("shore", ("shore",)), ("sun", ("sun", "dcdc"))):
        if section not in frame_.situations:
            continue
        for part in frame_.plan.parts:
            if isinstance(part, Battery) and (part.use == "house" or section == "engine"):
                means = meanings.CHARGED if part.use == "house" else meanings.ALTERNATOR
                reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, post to post", part=part.id)
                made.want(section, section, reading, means, most_v=_most_v(part, float(frame_.plan.nominal_v)))
        for k, run in enumerate(frame_.plan.runs):
            for end in (run.start, run.finish):
                part = topology.parts[end.part]
                # A negative in a run of its own has no positive for the clamp.
                if 2 * k not in frame_.on_leg:
                    continue
                out = isinstance(part, Charger) and end.terminal in ("out", "out_b")
                gives = frame_.situations[section].on
                if out and isinstance(part, Charger) and part.form in forms and f"{part.id}:{end.terminal}" in gives:
                    reading = frame_.amps(run.id, "p", f"{run.tag}, what {part.name} gives")
                    made.want(section, section, reading, meanings.GIVEN)
    for part in frame_.plan.parts:
        if isinstance(part, Isolator) and "engine" in frame_.situations:
            reading = frame_.volts(f"+{part.id}", f"+{part.id}:out", f"Across {part.name}", part=part.id)
            made.want("engine", "engine", reading, meanings.CLOSED_RELAY)
            if part.form == "voltage_sensing":
                made.want("fuses", "rest", reading, meanings.RELAY_OPENED)
