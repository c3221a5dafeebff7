"""Vans as ngspice netlists with a name on every line, faults as edits of that text, and a hand meter that reads them.

Of the project only the plan's own numbers go in (ohms of pieces, volts, watts) and where contacts stand while nothing
is wrong; how a van differs from its plan, how a device behaves and what a meter adds are not what the program assumes.
"""

from __future__ import annotations

import json
import random
import re
import subprocess
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from lucernis.core.prove.frame import Frame, Spot, frame
from lucernis.core.prove.living import closed_conductors
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Alternator, Battery, Charger, Panel

DATA = Path(__file__).parent / "data"
# A van as found: batteries charged by eye, wires as long as somebody's arm made them. Even spreads, not the program's.
CHARGED_V = {"agm": (12.45, 12.85), "flooded": (12.4, 12.7), "gel": (12.5, 12.9), "lfp": (13.05, 13.35)}
WIRE_TIMES, FUSE_TIMES, JOINT_TIMES, DRAW_TIMES = (0.92, 1.15), (0.8, 1.4), (0.5, 1.9), (0.85, 1.15)
_TIMES = {"wire": WIRE_TIMES, "fuse": FUSE_TIMES, "shunt": (0.995, 1.005)}
# What is open; what a device that is off and a hand meter let through. [Ω]
OPEN, OFF, METER = 1e8, 3e6, 1e7
LEADS = 0.2
# Setting of chargers and of a usual alternator for each 12 V, and how they give way. [V]
CHARGER_V = {"agm": 14.4, "flooded": 14.4, "gel": 14.2, "lfp": 14.4}
ALTERNATOR_V, ALTERNATOR_OHM = 14.2, 0.008


@cache
def van(name: str) -> Frame:
    """The plan of a van, ready for the meter."""
    return frame(parse_plan(json.loads((DATA / "vans" / f"{name}.json").read_text(encoding="utf-8"))))


def _node_names(made: Frame) -> list[str]:
    wiring = made.sized.wiring
    found = [""] * wiring.circuit.node_count
    for sign, side in (("p", wiring.pos), ("n", wiring.neg)):
        for name, node in side.items():
            tag = re.sub(r"\W", "_", name)
            if not found[node] or len(f"{tag}_{sign}") < len(found[node]):
                found[node] = f"{tag}_{sign}"
    return ["0" if k == 0 else name or f"node{k}" for k, name in enumerate(found)]


def piece_name(element_id: str) -> str:
    """Name of a resistor: `Rr8p_start`, `Rr8p_fuse_start`, `Rs1_main_0`, `Rh1_shunt`."""
    return "R" + re.sub(r"\W", "_", element_id.replace(":p:", "p_").replace(":n:", "n_"))


@dataclass
class Netlist:
    """A van in one situation: lines by the name they begin with."""

    lines: dict[str, str]

    def edit(self, text: str, *, engine: bool, live: bool, on: frozenset[str]) -> None:
        """One edit by hand.

        `NAME = VALUE` gives a line another last word, `NAME * TIMES` multiplies it, `+ LINE` adds one, `- NAME` takes
        one out, `NAME : a b` moves its ends. In front `engine?`, `live?` or `on L1?` keeps it to where that holds.
        """
        asked, cut, rest = text.partition("?")
        if cut:
            asked = asked.strip()
            if not {"engine": engine, "live": live}.get(asked, asked.removeprefix("on ").strip() in on):
                return
            text = rest
        words = text.split()
        if words[0] == "+":
            self.lines[words[1]] = " ".join(words[1:])
        elif words[0] == "-":
            self.lines.pop(words[1])
        else:
            name, sign, *more = words
            old = self.lines[name].split()
            if sign == ":":
                old[1:3] = more
            else:
                old[-1] = more[0] if sign == "=" else f"{float(old[-1]) * float(more[0]):.9g}"
            self.lines[name] = " ".join(old)


@dataclass
class Van:
    """A van with faults: every reading is ngspice's, with the digits of a hand meter."""

    name: str
    edits: tuple[str, ...]
    seed: int
    folder: Path
    _nets: dict[str, Netlist] = field(default_factory=dict)

    def __post_init__(self) -> None:
        made = self.made = van(self.name)
        dice = random.Random(self.seed)
        # A meter's gain is what it is; only the last digits differ from reading to reading.
        self._meter = random.Random(self.seed + 1)
        self._gain_v, self._gain_mv = self._meter.uniform(0.995, 1.005), self._meter.uniform(0.993, 1.007)
        self._gain_a = self._meter.uniform(0.98, 1.02)
        self._nodes = _node_names(made)
        self._ohm = {one.id: one.ohm * dice.uniform(*_TIMES.get(one.sort, JOINT_TIMES)) for one in made.elements}
        self._draw = [dice.uniform(*DRAW_TIMES) for _ in made.sized.wiring.consumers]
        charged = dice.random()
        self._rest: dict[str, float] = {}
        for part in made.plan.parts:
            if isinstance(part, Battery):
                low, high = CHARGED_V[part.chemistry]
                share = charged if part.use == "house" else dice.random()
                blocks = (part.rated_v or float(made.plan.nominal_v)) / 12
                self._rest[part.id] = (low + (high - low) * share) * blocks

    def netlist(self, situation: str) -> Netlist:
        """The netlist of a situation with the edits made."""
        if situation not in self._nets:
            found = self._sound(situation)
            there = self.made.situations[situation]
            for one in self.edits:
                found.edit(one, engine=there.state.engine_on, live=not there.dead, on=there.on)
            self._nets[situation] = found
        return self._nets[situation]

    def _sound(self, situation: str) -> Netlist:
        made, there, node = self.made, self.made.situations[situation], self._nodes
        circuit, wiring, lines = made.sized.wiring.circuit, made.sized.wiring, dict[str, str]()
        closed = closed_conductors(made, there)
        for c, pieces in sorted(made.on_leg.items()):
            here = node[circuit.conductor_from[c]]
            for k, piece in enumerate(pieces, start=1):
                element = made.elements[piece]
                far = node[circuit.conductor_to[c]] if k == len(pieces) else f"x{c}_{k}"
                contact = element.sort in ("contact", "fuse")
                ohm = self._ohm[element.id] if closed[c] or not contact else OPEN
                name = piece_name(element.id)
                lines[name] = f"{name} {here} {far} {ohm:.9g}"
                here = far
        if not there.dead:
            self._sources(lines, engine=there.state.engine_on, sun=there.state.sun)
        gives = {one.gives: one for one in circuit.converters}
        draws = {one.draws for one in circuit.converters if one.draws is not None}
        for at, name in enumerate(wiring.consumers):
            called = re.sub(r"\W", "_", name)
            plus, minus = node[circuit.load_pos[at]], node[circuit.load_neg[at]]
            on, kind, value = name in there.on and not there.dead, circuit.load_kind[at], circuit.load_value[at]
            if at in gives and on:
                self._charger(lines, at, name.partition(":")[0])
            elif at in draws or at in gives or not on:
                lines.setdefault(f"Roff_{called}", f"Roff_{called} {plus} {minus} {OFF:g}")
            elif kind == "constant_power":
                watts, fold = value * self._draw[at], 0.6 * made.plan.nominal_v
                volts = f"max(abs(v({plus})-v({minus})),{fold:g})"
                lines[f"B{called}"] = f"B{called} {plus} {minus} I={watts:.6g}*(v({plus})-v({minus}))/{volts}^2"
            else:
                ohm = (value if kind == "resistive" else made.plan.nominal_v / value) / self._draw[at]
                lines[f"R{called}"] = f"R{called} {plus} {minus} {ohm:.9g}"
        lines["Rearth"] = f"Rearth {node[1] if len(node) > 1 else '0'} 0 1e12"
        return Netlist(lines)

    def _sources(self, lines: dict[str, str], *, engine: bool, sun: bool) -> None:
        made, node = self.made, self._nodes
        circuit, parts = made.sized.wiring.circuit, made.sized.topology.parts
        sags = next((one for one in made.plan.parts if isinstance(one, Alternator)), None)
        for s, name in enumerate(made.sized.wiring.sources):
            part, plus, minus = parts[name], node[circuit.source_pos[s]], node[circuit.source_neg[s]]
            if isinstance(part, Panel):
                # As stiff as from its open volts down to its best; nobody shorts it here.
                open_v, best_v = part.open_v * part.series, part.mp_v * part.series
                ohm = (open_v - best_v) / (0.7 * part.power_w / part.mp_v * part.strings)
                lines[f"V{name}"] = f"V{name} e_{name} {minus} {open_v if sun else 0.0:g}"
                lines[f"R{name}_in"] = f"R{name}_in e_{name} {plus} {ohm if sun else 8000.0:.6g}"
                continue
            assert isinstance(part, Battery)
            volts, ohm = self._rest[name], float(made.inside_ohm[s])
            if part.use == "starter" and engine and sags is not None:
                volts, ohm = ALTERNATOR_V * (part.rated_v or made.plan.nominal_v) / 12, ALTERNATOR_OHM
            lines[f"V{name}"] = f"V{name} e_{name} {minus} {volts:.6g}"
            lines[f"R{name}_in"] = f"R{name}_in e_{name} {plus} {ohm:.6g}"

    def _charger(self, lines: dict[str, str], at: int, part_id: str) -> None:
        """What a charger gives falls to nothing over the last tenths of a volt; it draws what that takes, and from a
        battery nothing below 11 V for each 12."""
        made, node = self.made, self._nodes
        circuit = made.sized.wiring.circuit
        part, one = made.sized.topology.parts[part_id], next(x for x in circuit.converters if x.gives == at)
        assert isinstance(part, Charger)
        plus, minus = node[circuit.load_pos[at]], node[circuit.load_neg[at]]
        set_v = CHARGER_V[part.chemistry or "agm"] * made.plan.nominal_v / 12
        up = f"min(max(({set_v:g}-(v({plus})-v({minus})))/0.2,0),1)"
        amps = f"{one.out_limit_a:.6g}*{up}"
        if one.draws is not None:
            a, b = node[circuit.load_pos[one.draws]], node[circuit.load_neg[one.draws]]
            wakes = f"min(max((v({a})-v({b})-{11.0 * made.plan.nominal_v / 12:g})/0.3,0),1)"
            if part.form == "sun":
                # What the panels can: nine tenths of their watts in good light.
                watts = 0.7 * sum(p.power_w * p.series * p.strings for p in made.plan.parts if isinstance(p, Panel))
                amps = f"min({one.out_limit_a:.6g},{watts:g}/max(v({plus})-v({minus}),5))*{up}*{wakes}"
            else:
                amps += f"*{wakes}"
            draw = f"{1 / one.efficiency_frac:.5g}*(v({plus})-v({minus}))*{amps}/max(v({a})-v({b}),6)"
            lines[f"B{part_id}_in"] = f"B{part_id}_in {a} {b} I={draw}"
            lines[f"R{part_id}_in"] = f"R{part_id}_in {a} {b} 20000"
        lines[f"B{part_id}_out"] = f"B{part_id}_out {minus} {plus} I={amps}"

    def _solve(self, net: Netlist, more: list[str], wanted: list[str]) -> list[float]:
        print_line = "print " + " ".join(wanted)
        text = "\n".join(
            ["van", *net.lines.values(), *more, ".options reltol=1e-7 vntol=1e-8 abstol=1e-8 gmin=1e-12 itl1=2000",
             ".control", "op", print_line, ".endc", ".end", ""]
        )  # fmt: skip
        file = self.folder / "van.cir"
        file.write_text(text, encoding="utf-8")
        done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=60, check=False)
        found = re.findall(r"^(?:v\(|0-v).* = (-?[\d.]+(?:e[-+]?\d+)?)\s*$", done.stdout, re.MULTILINE)
        assert len(found) >= len(wanted), done.stdout[-800:] + done.stderr[-800:] + text
        return [float(one) for one in found[: len(wanted)]]

    def _across(self, red: Spot, black: Spot) -> tuple[str, str] | None:
        """The two ends of one piece where that is what the probes are held to, wherever an edit has put it."""
        between = set(red.passed) ^ set(black.passed)
        if red.node != black.node or len(between) != 1:
            return None
        line = self.netlist("rest").lines.get(piece_name(self.made.elements[next(iter(between))].id))
        if line is None:
            return None
        one, other = line.split()[1:3]
        return (one, other) if len(red.passed) < len(black.passed) else (other, one)

    def _at(self, spot: Spot) -> str:
        circuit, made = self.made.sized.wiring.circuit, self.made
        if not spot.passed:
            return self._nodes[spot.node]
        # Where a probe is put at a piece it touches the piece's far end, wherever an edit has moved it.
        last = self.netlist("rest").lines.get(piece_name(made.elements[spot.passed[-1]].id))
        if last is not None:
            return last.split()[2]
        return self._nodes[circuit.conductor_to[int(made.of[spot.passed[0]])]]

    def read(self, reading_id: str, situation: str) -> float:
        """What the meter shows. [V], [A] or [Ω]"""
        reading, net = self.made.reading(reading_id), self.netlist(situation)
        if reading.quantity == "amps":
            piece = next(one for one in self.made.on_leg[reading.conductor] if self.made.elements[one].sort == "wire")
            name = piece_name(self.made.elements[piece].id)
            _, a, b, ohm = net.lines[name].split()
            amps = abs(self._solve(net, [], [_v(a, b)])[0] / float(ohm))
            return abs(round(amps * self._gain_a + self._meter.uniform(-0.05, 0.05), 2))
        assert reading.red is not None
        assert reading.black is not None
        red, black = self._across(reading.red, reading.black) or (self._at(reading.red), self._at(reading.black))
        if red == black:
            value = 0.0
        elif reading.quantity == "ohms":
            one = self._solve(net, [f"Imeter {black} {red} 1e-4", f"Rmeter {red} {black} 2e7"], [_v(red, black)])[0]
            ohm = abs(one) / 1e-4
            if ohm > 1e6:
                return 1e7
            return round(ohm * self._meter.uniform(0.99, 1.01) + self._meter.choice((0.0, 0.1)), 1)
        else:
            value = self._solve(net, [f"Rmeter {red} {black} {METER:g}"], [_v(red, black)])[0]
        if abs(value) < 0.4:
            return round(value * self._gain_mv + self._meter.uniform(-2e-4, 2e-4), 4)
        return round(value * self._gain_v + self._meter.uniform(-0.01, 0.01), 2)


def _v(red: str, black: str) -> str:
    return "-".join(f"v({one})" if one != "0" else "0" for one in (red, black))
