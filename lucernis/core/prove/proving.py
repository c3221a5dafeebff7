"""The proving list: what to read on a built system, in which order, with which state made, and what should be read."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from lucernis.core.itself import Itself
from lucernis.core.layout.bundles import is_bond
from lucernis.core.prove import meanings
from lucernis.core.prove.expect import Foreseen, foresee
from lucernis.core.prove.frame import Frame, Reading, frame
from lucernis.core.prove.living import Living, live
from lucernis.core.prove.meanings import Meaning
from lucernis.core.prove.plain_lines import held_lines, held_states, panel_lines, standing_lines, warm_lines
from lucernis.core.prove.proving_line import Line, line_id
from lucernis.core.prove.situations import Situation
from lucernis.core.prove.words import UNIT_OF, span_text
from lucernis.plan.model import Battery, Charger, Load, Plan, Run

SECTIONS: tuple[tuple[str, str], ...] = (
    ("dead", "Nothing live"),
    ("fuses", "At rest, fuses in one by one"),
    ("isolated", "Main switch off"),
    ("keyed", "Keyed feeds"),
    ("loads", "Device by device"),
    ("most", "At the most that flows"),
    ("engine", "Engine running"),
    ("shore", "On shore power"),
    ("sun", "In the sun"),
    ("warm", "After thirty minutes at load"),
)
# Between a positive and a negative with everything unplugged. Common practice, no source. [Ω]
APART_OHM = 1e4
_MOST_SHARE = 0.3
# From so much on a bad joint in a charger's wire gets hot. Common practice, no source. [A]
_CHARGING_A = 10.0


@dataclass(frozen=True, slots=True)
class Made:
    """A state to make for readings."""

    id: str
    name: str
    to_make: str
    caution: str


@dataclass(frozen=True, slots=True)
class Proving:
    """The whole list: sections in order with their names, the states to make, and the lines."""

    sections: tuple[tuple[str, str], ...]
    states: dict[str, Made]
    lines: tuple[Line, ...]
    method: str


METHOD = (
    "First order: every length, joint, fuse, contact, battery and load spreads by reading_spread.csv; the band holds "
    "95 readings of 100, the error of a usual hand meter in it."
)


class _List:
    """The list in the making: readings of one situation are reckoned together."""

    def __init__(self, made: Frame) -> None:
        self.frame, self.lines, self.wanted = made, [], {}
        self._livings: dict[str, Living] = {}

    lines: list[Line]
    wanted: dict[str, list[tuple[str, Reading, Meaning, bool]]]

    def living(self, name: str) -> Living:
        """A situation, solved once."""
        if name not in self._livings:
            self._livings[name] = live(self.frame, self.frame.situations[name])
        return self._livings[name]

    def want(self, section: str, situation: str, reading: Reading, means: Meaning, *, apart: bool = False) -> None:
        """Ask for a reading; `apart` where nothing may join what it is read between."""
        if situation in self.frame.situations:
            self.wanted.setdefault(situation, []).append((section, reading, means, apart))

    def settle(self) -> list[Line]:
        """Reckon everything that was asked for, in the order of the sections."""
        ranked: list[tuple[int, int, Line]] = []
        order = {name: k for k, (name, _) in enumerate(SECTIONS)}
        count = 0
        for situation, asked in self.wanted.items():
            living = self.living(situation)
            foreseen = foresee(living, [reading for _, reading, _, _ in asked])
            for k, (section, reading, means, apart) in enumerate(asked):
                line = self._line(section, living, reading, means, foreseen, k, apart=apart)
                ranked.append((order[section], count, line))
                count += 1
        return [line for _, _, line in sorted(ranked, key=lambda one: one[:2])]

    def _line(
        self, section: str, living: Living, reading: Reading, means: Meaning, foreseen: Foreseen, k: int, *, apart: bool
    ) -> Line:
        value, low = float(foreseen.value[k]), float(foreseen.low[k])
        high: float | None = float(foreseen.high[k])
        if apart:
            value, low, high = max(value, APART_OHM), APART_OHM, None
        if high is not None and not np.isfinite(high):
            high = None
        amps = ohm = None
        if reading.quantity == "volts" and reading.run and reading.red is not None and reading.black is not None:
            passed = set(reading.black.passed) ^ set(reading.red.passed)
            if passed:
                c = int(self.frame.of[next(iter(passed))])
                amps = float(living.conductor_a[c])
                ohm = float(sum(living.element_ohm[one] for one in passed))
        unit = UNIT_OF[reading.quantity]
        as_read = f"{reading.label}: {low:.3g} to {'any' if high is None else f'{high:.3g}'} {unit}"
        return Line(
            line_id(reading.id, living.situation.id), section, living.situation.id, reading.id, reading.label, means,
            reading.quantity, unit, reading.red.label if reading.red is not None else "clamp",
            reading.black.label if reading.black is not None else "", reading.part, reading.run, value, low, high,
            span_text(low, math.inf if high is None else high, unit), bool(foreseen.floating[k]), amps, ohm, as_read,
        )  # fmt: skip


def _dead(made: _List) -> None:
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


def _at_rest(made: _List) -> None:
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
        if part.id in seen or part.kind in ("battery", "joint", "alternator", "panel", "charger", "chassis_point"):
            continue
        plus = f"+{there}" if there in frame_.sized.wiring.pos else f"+{part.id}"
        if part.kind in ("switch", "relay", "keyed_feed", "isolator", "diode"):
            continue
        seen.add(part.id)
        if there not in frame_.situations["rest"].switched.live:
            # Dead at rest: it is read with the keyed feeds.
            continue
        fuse = frame_.sized.fuses.get(run_id)
        label = f"{part.name}, + to −"
        means = meanings.SWITCHED_ON
        if fuse is not None and fuse.fuse is not None:
            first = f"{run.tag} {fuse.fuse.rating_a:g} A goes in: if it blows, find out why."
            means = replace(means, good=f"{first} {means.good}")
        made.want("fuses", "rest", frame_.volts(plus, f"-{part.id}", label, part=part.id), means)


def _switched(made: _List) -> None:
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


def _loads(made: _List) -> None:
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


def _along(made: _List, living: Living, c: int, letter: str, run: Run) -> Reading:
    """Volts along a leg from end to end, the leads so that the reading is positive."""
    whole = len(made.frame.on_leg[c])
    ends = (0, whole) if living.conductor_a[c] >= 0 else (whole, 0)
    sign = "+" if letter == "p" else "−"
    return made.frame.volts(
        f"{run.id}:{letter}:{ends[0]}", f"{run.id}:{letter}:{ends[1]}", f"{run.tag} {sign}, end to end", run=run.id
    )


def _charging(made: _List) -> None:
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


def _house(made: _List) -> list[int]:
    """House batteries among the sources."""
    topology = made.frame.sized.topology
    return [
        k
        for k, name in enumerate(made.frame.sized.wiring.sources)
        if isinstance(part := topology.parts[name], Battery) and part.use == "house"
    ]


def _most_state(made: _List) -> str | None:
    """The plan's state in which the house batteries give most; None where they give nothing in any."""
    house = _house(made)
    names = [one for one in made.frame.situations if one.startswith("state:")]
    if not names or not house:
        return None
    most = max(names, key=lambda one: float(made.living(one).source_a[house].sum()))
    return most if float(made.living(most).source_a[house].sum()) > 0 else None


def _most(made: _List) -> None:
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


def _sources(made: _List) -> None:
    """Engine, shore and sun: both posts, and what each charger gives."""
    frame_, topology = made.frame, made.frame.sized.topology
    for section, forms in (("engine", ("dcdc",)), ("shore", ("shore",)), ("sun", ("sun", "dcdc"))):
        if section not in frame_.situations:
            continue
        for part in frame_.plan.parts:
            if isinstance(part, Battery) and (part.use == "house" or section == "engine"):
                means = meanings.CHARGED if part.use == "house" else meanings.ALTERNATOR
                reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, post to post", part=part.id)
                made.want(section, section, reading, means)
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
        if part.kind == "isolator" and "engine" in frame_.situations:
            reading = frame_.volts(f"+{part.id}", f"+{part.id}:out", f"Across {part.name}", part=part.id)
            made.want("engine", "engine", reading, meanings.CLOSED_RELAY)


def _places_order(made: Frame, lines: list[Line]) -> list[Line]:
    """As it is; a state is made once: lines of one section and state stand together."""
    order: dict[tuple[str, str], int] = {}
    for line in lines:
        order.setdefault((line.section, line.situation), len(order))
    sections = {name: k for k, (name, _) in enumerate(SECTIONS)}
    return sorted(lines, key=lambda one: (sections[one.section], order[(one.section, one.situation)]))


def _state(one: Situation) -> Made:
    return Made(one.id, one.name, one.to_make, one.caution)


@lru_cache(maxsize=4)
def _proving(this: Itself[Plan]) -> Proving:
    made = _List(frame(this.thing))
    _dead(made)
    _at_rest(made)
    _switched(made)
    _loads(made)
    _most(made)
    _sources(made)
    _charging(made)
    plain = [*held_lines(made.frame), *standing_lines(made.frame), *panel_lines(made.frame.plan)]
    lines = [*made.settle(), *plain, *warm_lines(made.frame, made.living)]
    lines = _places_order(made.frame, lines)
    used = {line.section for line in lines}
    states = {name: _state(one) for name, one in made.frame.situations.items()}
    states |= {one.id: Made(one.id, one.name, one.to_make, one.caution) for one in held_states(made.frame)}
    states["panel"] = Made("panel", "Panels by themselves", "Panel plug off its controller, in the light",
                           "Panels are live as long as there is light; no plug is pulled under load.")  # fmt: skip
    return Proving(tuple(one for one in SECTIONS if one[0] in used), states, tuple(lines), METHOD)


def proving(plan: Plan) -> Proving:
    """The proving list of a plan.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    Proving
        Nothing live; fuses in; main switch; keyed feeds; device by device; at the most that flows; engine, shore, sun;
        warm joints. What a plan has nothing for is left out.
    """
    return _proving(Itself(plan))
