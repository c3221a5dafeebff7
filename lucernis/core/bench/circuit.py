"""What flows on the bench: source, fuse, joints and the wire as warm as it is, and the load by its kind."""

from __future__ import annotations

import math
from dataclasses import dataclass

from lucernis.core.bench.cells import Cells
from lucernis.core.bench.setup import CUT_OFF_V_PER_12V, INVERTER_EFFICIENCY, Setup, source_of
from lucernis.core.protection.fuses import fuse_resistance_ohm
from lucernis.core.protection.thermal_memory import Cycling
from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.joints import joint_kind, joint_ohm


@dataclass(frozen=True, slots=True)
class Flow:
    """What flows: current [A], volts at the load [V]; `lacks` where the load cannot be served."""

    current_a: float
    load_v: float
    lacks: bool = False


# So many cycles are followed one by one; more are taken as the root mean square of their current, which warms alike.
_MOST_CYCLES = 300


def is_averaged(setup: Setup, end_s: float) -> bool:
    """Whether a load turns on and off too often within a time to be followed cycle by cycle."""
    load = setup.load
    return load.kind == "heater" and end_s > _MOST_CYCLES * (load.on_s + load.off_s)


class BenchCircuit:
    """The one loop of a set-up.

    Parameters
    ----------
    setup : Setup
        What is on the bench.
    end_s : float
        How long it is followed: with a cycle far shorter than that the root mean square of its current flows. [s]
    """

    def __init__(self, setup: Setup, end_s: float = 0.0) -> None:
        self.setup = setup
        self.open_v, self.inside_ohm = source_of(setup)
        self.nominal_v = float(setup.source.nominal_v)
        size = wire_size(setup.wire.system, setup.wire.size)
        self.legs = 2 if setup.wire.returns == "wire" else 1
        sound = joint_ohm(setup.end.joint, size)
        # The contact alone is the joint's own heat: its barrel is a piece of the wire already.
        self.joint_ohm = joint_kind(setup.end.joint).contact_ohm + setup.end.too_much_mohm / 1000
        others = 2 * self.legs - 1
        self.fixed_ohm = self.inside_ohm + others * sound + self.joint_ohm
        if setup.wire.returns == "body":
            self.fixed_ohm += joint_kind("chassis").contact_ohm * 2 + joint_kind("body").contact_ohm
        if setup.fuse is not None:
            self.fixed_ohm += fuse_resistance_ohm(setup.fuse.family, setup.fuse.rating_a)
        load = setup.load
        averaged = is_averaged(setup, end_s)
        self._cycle = Cycling(1.0, load.on_s, load.off_s) if load.kind == "heater" and not averaged else None
        self._rms_frac = math.sqrt(load.on_s / (load.on_s + load.off_s)) if averaged else 1.0
        self._cut_v = CUT_OFF_V_PER_12V * self.nominal_v / 12

    @property
    def peak_factor(self) -> float:
        """How many times what is followed flows while a load that cycles fast is on."""
        return 1 / self._rms_frac

    def edges_s(self, end_s: float) -> list[float]:
        """Times at which the load turns on or off, or has started. [s]"""
        load = self.setup.load
        if self._cycle is not None:
            return self._cycle.edges_s(end_s)
        return [load.inrush_s] if load.kind == "motor" and 0 < load.inrush_s < end_s else []

    def flow(self, cells: Cells, time_s: float) -> Flow:
        """What flows at a time, with the wire as warm as it is.

        Parameters
        ----------
        cells : Cells
            The wire.
        time_s : float
            Since switching on. [s]

        Returns
        -------
        Flow
            An inverter or electronics that cannot have its volts is off: it `lacks`.

        Notes
        -----
        ``I = E / (R + R_load)``; a current that the load holds, as far as the source can push it; a power by
        ``U = (E + sqrt(E² - 4·P·R)) / 2``.
        """
        series = self.fixed_ohm + self.legs * cells.leg_ohm
        load, most = self.setup.load, self.open_v / (self.fixed_ohm + self.legs * cells.leg_ohm)
        amount = load.amount or 0.0
        if load.kind == "short":
            return Flow(most, 0.0)
        if load.kind in ("current", "motor"):
            starting = load.kind == "motor" and time_s < load.inrush_s
            current = min(amount * (load.inrush_factor if starting else 1.0), most)
            return Flow(current, self.open_v - current * series, lacks=current >= most)
        if load.kind in ("resistive", "heater"):
            if self._cycle is not None and not self._cycle.on_at(time_s):
                return Flow(0.0, self.open_v)
            current = self._rms_frac * self.open_v / (series + self.nominal_v**2 / amount)
            return Flow(current, self.open_v - current * series)
        power = amount / (INVERTER_EFFICIENCY if load.kind == "inverter" else 1.0)
        inside = self.open_v**2 - 4 * power * series
        load_v = (self.open_v + math.sqrt(inside)) / 2 if inside >= 0 else 0.0
        if load_v < self._cut_v:
            return Flow(0.0, self.open_v, lacks=True)
        return Flow(power / load_v, load_v)
