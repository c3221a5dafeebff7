"""Vehicles with faults as ngspice sees them: every joint, fuse, wire and contact a resistor of its own.

Only numbers of the plan go into the netlist (resistances, volts, watts); what a meter reads there is ngspice's answer.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.solver import Circuit
from lucernis.core.prove.cause import Change
from lucernis.core.prove.expect import meter_sd
from lucernis.core.prove.frame import Frame, spread
from lucernis.core.prove.living import OFF_OHM, OPEN_OHM, live
from tests.outside.spice import node_volts

_OPEN_FROM_OHM = 1e6


@dataclass
class SpiceVehicle:
    """A plan as it was built, with one thing wrong, measured by ngspice and a hand meter with noise."""

    made: Frame
    change: Change
    rng: np.random.Generator
    folder: Path

    def __post_init__(self) -> None:
        made, rng = self.made, self.rng
        self._ohm: NDArray[np.float64] = made.ohm * np.exp(made.spread_ln * rng.standard_normal(len(made.ohm)))
        self._volts = made.rest_v + made.rest_spread_v * np.clip(rng.standard_normal(len(made.rest_v)), -1.7, 1.7)
        self._volts += made.bank * made.bank_spread_v * float(np.clip(rng.standard_normal(), -1.7, 1.7))
        self._inside = made.inside_ohm * np.exp(spread("inside") * rng.standard_normal(len(made.rest_v)))
        self._draw = np.exp(spread("draw") * rng.standard_normal(len(made.sized.wiring.consumers)))
        one = self.change
        if one.element >= 0:
            here = self._ohm[one.element]
            self._ohm[one.element] = OPEN_OHM if one.open else here * one.times + one.series_ohm
        if one.source >= 0:
            self._volts[one.source] += one.source_v
            self._inside[one.source] *= one.inside
        if one.load >= 0 and one.drain_a == 0:
            self._draw[one.load] *= max(one.draw, 1e-6)
        self._answers: dict[str, tuple[dict[int, float], dict[tuple[int, int], int]]] = {}

    def _netlist(self, situation: str) -> tuple[Circuit, dict[tuple[int, int], int]]:
        """The circuit with every piece a conductor, and the nodes between them by conductor and count."""
        made, there = self.made, self.made.situations[situation]
        base, wiring = made.sized.wiring.circuit, made.sized.wiring
        closed = live(made, there).closed > 0
        out = Circuit(node_count=base.node_count)
        between: dict[tuple[int, int], int] = {}
        for c, pieces in sorted(made.on_leg.items()):
            here = base.conductor_from[c]
            between[(c, 0)] = here
            if not closed[c]:
                closes = self.change.closes == c
                out.conductor(here, base.conductor_to[c], self.change.series_ohm if closes else OPEN_OHM)
                continue
            for k, piece in enumerate(pieces, start=1):
                last = k == len(pieces)
                node = base.conductor_to[c] if last else out.node_count
                out.node_count += 0 if last else 1
                out.conductor(here, node, float(self._ohm[piece]))
                between[(c, k)] = here = node
        if not there.dead:
            for s, (pos, neg) in enumerate(zip(base.source_pos, base.source_neg, strict=True)):
                if self.made.sized.topology.parts[wiring.sources[s]].kind == "battery":
                    out.source(pos, neg, float(self._volts[s]), float(self._inside[s]))
        for at, name in enumerate(wiring.consumers):
            pos, neg, kind = base.load_pos[at], base.load_neg[at], base.load_kind[at]
            if self.change.load == at and self.change.drain_a > 0 and name not in there.on:
                out.load(pos, neg, "resistive", made.plan.nominal_v / self.change.drain_a)
            elif name not in there.on or there.dead:
                out.load(pos, neg, "resistive", OFF_OHM)
            else:
                factor, value = float(self._draw[at]), base.load_value[at]
                if kind == "constant_current":
                    # An ideal current would pull kilovolts through an open joint.
                    kind, value = "resistive", made.plan.nominal_v / value
                out.load(pos, neg, kind, value * (1 / factor if kind == "resistive" else factor))
        if self.change.bridge[0] >= 0 and (self.change.when == "always" or (self.change.when == "dead") == there.dead):
            out.conductor(*self.change.bridge, self.change.bridge_ohm)
        return out, between

    def read(self, reading_id: str, situation: str) -> float:
        """What the hand meter shows. [V], [A] or [Ω]"""
        reading = self.made.reading(reading_id)
        if reading.quantity == "ohms":
            return self._ohms(reading_id, situation)
        if situation not in self._answers:
            circuit, between = self._netlist(situation)
            self._answers[situation] = (node_volts([circuit], self.folder)[0], between)
        volts, between = self._answers[situation]
        base = self.made.sized.wiring.circuit
        if reading.quantity == "amps":
            c = reading.conductor
            first = self.made.on_leg[c][0]
            drop = volts[between[(c, 0)]] - volts[between[(c, 1)]] if (c, 1) in between else 0.0
            value = abs(drop / float(self._ohm[first]))
        else:
            at = []
            for spot in (reading.red, reading.black):
                assert spot is not None
                node = spot.node
                if spot.passed:
                    c = int(self.made.of[spot.passed[0]])
                    node = between.get((c, len(spot.passed)), base.conductor_to[c])
                at.append(volts.get(node, 0.0))
            value = at[0] - at[1]
        return value + float(meter_sd(reading.quantity, np.array(value))) * float(self.rng.standard_normal())

    def _ohms(self, reading_id: str, situation: str) -> float:
        """By a milliamp pushed through, as an ohmmeter does."""
        reading = self.made.reading(reading_id)
        circuit, _ = self._netlist(situation)
        assert reading.red is not None
        assert reading.black is not None
        circuit.load(reading.black.node, reading.red.node, "constant_current", 1e-3)
        volts = node_volts([circuit], self.folder)[0]
        ohm = abs(volts.get(reading.red.node, 0.0) - volts.get(reading.black.node, 0.0)) / 1e-3
        if ohm > _OPEN_FROM_OHM:
            return 1e7
        return max(ohm + float(meter_sd("ohms", np.array(ohm))) * float(self.rng.standard_normal()), 0.0)
