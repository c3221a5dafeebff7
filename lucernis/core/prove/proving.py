"""The proving list: what to read on a built system, in which order, with which state made, and what should be read."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lucernis.core.itself import Itself
from lucernis.core.layout.bundles import is_bond
from lucernis.core.prove.expect import Foreseen, foresee
from lucernis.core.prove.frame import Frame, Reading, frame
from lucernis.core.prove.living import Living, live
from lucernis.core.prove.panels import WEATHERS, panel_bands
from lucernis.core.prove.proving_line import Line, line_id
from lucernis.core.prove.situations import Situation
from lucernis.core.prove.words import UNIT_OF, span_text
from lucernis.plan.model import Battery, Charger, Load, Panel, Plan

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
    ("warm", "After ten minutes at load"),
)
# Between a positive and a negative with everything unplugged. Common practice, no source. [Ω]
APART_OHM = 1e4
# A joint is well when it is no more than so much above its wire. Common practice, no source. [K]
JOINT_RISE_K = 15.0
_HOTTEST = 5
_MOST_SHARE = 0.3


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
    wanted: dict[str, list[tuple[str, Reading, str, bool]]]

    def living(self, name: str) -> Living:
        """A situation, solved once."""
        if name not in self._livings:
            self._livings[name] = live(self.frame, self.frame.situations[name])
        return self._livings[name]

    def want(self, section: str, situation: str, reading: Reading, means: str, *, apart: bool = False) -> None:
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
        self, section: str, living: Living, reading: Reading, means: str, foreseen: Foreseen, k: int, *, apart: bool
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
    for run in frame_.plan.runs:
        if is_bond(run, parts):
            ends = sorted((run.start.part, run.finish.part), key=lambda one: parts[one].kind != "chassis_point")
            body, other = parts[ends[0]], parts[ends[1]]
            reading = frame_.ohms(f"-{body.id}", f"-{other.id}", f"Bond {run.tag}, {body.name} to {other.name}",
                                  part=body.id, run=run.id)  # fmt: skip
            made.want("dead", "dead", reading, "The same as with the probes held together: the bond is good.")
    for part in frame_.plan.parts:
        if part.kind in ("busbar", "fuse_block"):
            reading = frame_.ohms(f"+{part.id}", f"-{part.id}", f"{part.name}, + to −", part=part.id)
            made.want("dead", "dead", reading, "Apart: no short before the first fuse goes in.", apart=True)
    for part in frame_.plan.parts:
        if isinstance(part, Load) and home is not None and part.id in frame_.sized.topology.feeder_of:
            reading = frame_.ohms(f"-{part.id}", f"-{home}", f"Return of {part.name} to {parts[home].name}",
                                  part=part.id)  # fmt: skip
            made.want("dead", "dead", reading, "Its negative comes home; leads' own ohms taken off.")


def _at_rest(made: _List) -> None:
    """Batteries, then point by point as the fuses go in."""
    frame_, topology = made.frame, made.frame.sized.topology
    for part in frame_.plan.parts:
        if isinstance(part, Battery):
            reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, post to post", part=part.id)
            made.want("fuses", "rest", reading, "Its rest by chemistry, half to full; the right way round.")
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
        means = "Polarity, and volts as before it."
        if fuse is not None and fuse.fuse is not None:
            means = (
                f"{run.tag} {fuse.fuse.rating_a:g} A goes in: if it blows, find out why. Polarity; volts as before it."
            )
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
                means = "Stays alive: what is meant to, and nothing else." if alive else "Dead."
                reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, + to −", part=part.id)
                made.want("isolated", "isolated", reading, means)
    for part in frame_.plan.parts:
        if part.kind == "keyed_feed" and f"{part.id}:out" in frame_.sized.wiring.pos:
            for name, means in (
                ("rest", "Dead with the key off."),
                ("key", "Live with the key on; does it stay while cranking?"),
            ):
                if part.follows == "key":
                    battery = next((one.id for one in frame_.plan.parts if isinstance(one, Battery)), "")
                    reading = frame_.volts(f"+{part.id}:out", f"-{battery}", f"{part.name}, behind it", part=part.id)
                    made.want("keyed", name, reading, means)
        on_key = "key" in situations and part.id in situations["key"].switched.live
        if part.kind not in ("load", "fuse_block") or not on_key or part.id in situations["rest"].switched.live:
            continue
        reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, + to −", part=part.id)
        made.want("keyed", "rest", reading, "Dead with the key off.")
        made.want("keyed", "key", reading, "Live with the key on.")


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
        made.want("loads", name, volts, "What is left for it while it runs.")
        if 2 * _index(frame_, run_id) in frame_.on_leg:
            amps = frame_.amps(run_id, "p", f"{topology.runs[run_id].tag}, what {part.name} draws")
            made.want("loads", name, amps, "Close to its plate.")


def _index(made: Frame, run_id: str) -> int:
    return next(k for k, run in enumerate(made.plan.runs) if run.id == run_id)


def _most(made: _List) -> None:
    """The big copper and everything in it, at the most that flows."""
    frame_, wiring = made.frame, made.frame.sized.wiring
    names = [one for one in frame_.situations if one.startswith("state:")]
    if not names:
        return
    house = [
        k for k, name in enumerate(wiring.sources)
        if isinstance(part := frame_.sized.topology.parts[name], Battery) and part.use == "house"
    ]  # fmt: skip
    most = max(names, key=lambda one: float(made.living(one).source_a[house].sum()) if house else 0.0)
    living = made.living(most)
    total = float(living.source_a[house].sum()) if house else 0.0
    if total <= 0:
        return
    for k, run in enumerate(frame_.plan.runs):
        for letter, c in (("p", 2 * k), ("n", 2 * k + 1)):
            leg = frame_.on_leg.get(c, ())
            if not leg or abs(float(living.conductor_a[c])) < _MOST_SHARE * total:
                continue
            sign = "+" if letter == "p" else "−"
            # The leads lie so that the reading is positive.
            ends = (0, len(leg)) if living.conductor_a[c] >= 0 else (len(leg), 0)
            reading = frame_.volts(f"{run.id}:{letter}:{ends[0]}", f"{run.id}:{letter}:{ends[1]}",
                                   f"{run.tag} {sign}, end to end", run=run.id)  # fmt: skip
            made.want("most", most, reading, "Wire, joints and fuse together.")
            for at, piece in enumerate(leg):
                if frame_.elements[piece].sort == "fuse":
                    a, b = (at, at + 1) if living.conductor_a[c] >= 0 else (at + 1, at)
                    one = frame_.volts(f"{run.id}:{letter}:{a}", f"{run.id}:{letter}:{b}",
                                       f"Across {frame_.elements[piece].label}", run=run.id)  # fmt: skip
                    made.want("most", most, one, "Fuse and its contacts.")
    for element in frame_.elements:
        c = element.conductor
        if element.sort in ("contact", "shunt") and abs(float(living.conductor_a[c])) >= _MOST_SHARE * total:
            sign = "-" if element.sort == "shunt" else "+"
            here, there = f"{sign}{element.part}", f"{sign}{element.part}:out"
            forward = living.conductor_a[c] >= 0
            reading = frame_.volts(here if forward else there, there if forward else here,
                                   f"Across {element.label}", part=element.part)  # fmt: skip
            means = "The monitor reads this." if element.sort == "shunt" else "A contact that burns shows here first."
            made.want("most", most, reading, means)


def _sources(made: _List) -> None:
    """Engine, shore and sun: both posts, and what each charger gives."""
    frame_, topology = made.frame, made.frame.sized.topology
    for section, forms in (("engine", ("dcdc",)), ("shore", ("shore",)), ("sun", ("sun", "dcdc"))):
        if section not in frame_.situations:
            continue
        for part in frame_.plan.parts:
            if isinstance(part, Battery) and (part.use == "house" or section == "engine"):
                means = "Above its rest: it is charged." if part.use == "house" else "What the alternator holds."
                reading = frame_.volts(f"+{part.id}", f"-{part.id}", f"{part.name}, post to post", part=part.id)
                made.want(section, section, reading, means)
        for run in frame_.plan.runs:
            for end in (run.start, run.finish):
                part = topology.parts[end.part]
                out = isinstance(part, Charger) and end.terminal in ("out", "out_b")
                gives = frame_.situations[section].on
                if out and isinstance(part, Charger) and part.form in forms and f"{part.id}:{end.terminal}" in gives:
                    reading = frame_.amps(run.id, "p", f"{run.tag}, what {part.name} gives")
                    made.want(section, section, reading, "Its rating, as long as the battery takes it; less near full.")
    for part in frame_.plan.parts:
        if part.kind == "isolator" and "engine" in frame_.situations:
            reading = frame_.volts(f"+{part.id}", f"+{part.id}:out", f"Across {part.name}", part=part.id)
            made.want(
                "engine", "engine", reading, "Closed: both posts near each other. If only one rises, it does nothing."
            )


def _panels(plan: Plan) -> Iterator[Line]:
    """Panels by themselves, for the weather there is."""
    for part in plan.parts:
        if isinstance(part, Panel):
            for name, unit, what, bands in panel_bands(part):
                for weather, (low, high) in bands.items():
                    label = f"{part.name}, {what}, {WEATHERS[weather].lower()}"
                    yield Line(
                        f"panel:{name}:{part.id}:{weather}", "sun", "panel", "", label,
                        "Plug off the controller; a reading by the weather, not by a solve.",
                        "volts" if unit == "V" else "amps", unit, f"+ of {part.name}", f"− of {part.name}", part.id, "",
                        (low + high) / 2, low, high, span_text(low, high, unit), False, None, None,
                        f"{label}: {low:.3g} to {high:.3g} {unit}",
                    )  # fmt: skip


def _warm(made: _List) -> Iterator[Line]:
    """The joints that take most, against their wires."""
    frame_ = made.frame
    names = [one for one in frame_.situations if one.startswith("state:")]
    if not names:
        return
    most = max(names, key=lambda one: float(np.abs(made.living(one).source_a).sum()))
    living = made.living(most)
    watts = living.element_ohm * living.conductor_a[frame_.of] ** 2
    joints = [k for k, one in enumerate(frame_.elements) if one.sort in ("joint", "fuse", "contact")]
    joints.sort(key=lambda k: (-float(watts[k]), k))
    for k in joints[:_HOTTEST]:
        element = frame_.elements[k]
        rise = 0.0
        if element.run:
            chosen, case = frame_.sized.chosen[element.run], frame_.sized.cases[element.run]
            if chosen.amp.ampacity_a:
                amps = abs(float(living.conductor_a[element.conductor])) / case.run.parallel
                rise = (case.insulation_c - case.around.ambient_c) * (amps / chosen.amp.ampacity_a) ** 2
        high = rise * 1.4 + JOINT_RISE_K
        label = f"{element.label}, above the air"
        yield Line(
            f"warm:{element.id}@{most}", "warm", most, "", label,
            "By a thermometer, or a hand near it, not on it. Warmer than its wire is a bad joint.",
            "warmth", "K", element.label, "", element.part, element.run, rise, 0.0, high,
            span_text(0.0, high, "K"), False,
            abs(float(living.conductor_a[element.conductor])), None, f"{label}: up to {high:.0f} K",
        )  # fmt: skip


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
    lines = made.settle() + list(_panels(made.frame.plan)) + list(_warm(made))
    lines = _places_order(made.frame, lines)
    used = {line.section for line in lines}
    states = {name: _state(one) for name, one in made.frame.situations.items()}
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
