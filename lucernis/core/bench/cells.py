"""A wire cut into cells from a joint to its middle: heat made, kept, passed along the copper, and given away.

Each cell is copper, shells of what covers it, and the wires around it in its bundle. In a short the copper is hot
before its cover knows, so the shells are thin near the copper. They are solved out in each step, from the outside in,
so that what is left is one row of cells.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import solve_banded

from lucernis.core.bench.setup import BenchWire, Setup
from lucernis.core.wire.copper import ALPHA_PER_K, WireSize, wire_size
from lucernis.core.wire.heat import Covered, given_away_w_per_m, heat_property, wall_mm
from lucernis.core.wire.joints import joint_kind
from lucernis.practice.tables import TableRow, load_table

Floats = NDArray[np.float64]
# From a joint on the cells grow by this; the last one stands for all the rest of the wire.
_GROWS = 1.5
_FIRST_M = 0.004
_MODELLED_M = 0.6
# Shares of the covering's wall, from the copper out.
_SHELLS = (0.08, 0.17, 0.30, 0.45)
# What is left of a covering that has burnt away: nothing that matters, and nothing to divide by zero with.
_BURNT = 1e-3


@dataclass(frozen=True, slots=True)
class Harm:
    """What insulation does where it lies on the copper, when it is overheated. [°C]"""

    kind: str
    softens_c: float
    blisters_c: float
    smokes_c: float
    gone_c: float
    cell: TableRow


def harm_of(insulation_c: int) -> Harm:
    """What insulation does when it is overheated.

    Parameters
    ----------
    insulation_c : int
        What it is rated for. [°C]

    Returns
    -------
    Harm
        Of the last row of insulation_harm.csv whose insulation is rated no more.
    """
    table = load_table("insulation_harm")
    row = ([one for one in table.rows if int(one["from_c"]) <= insulation_c] or [table.rows[0]])[-1]
    softens, blisters, smokes, gone = (float(row[f"{one}_c"]) for one in ("softens", "blisters", "smokes", "gone"))
    return Harm(row["kind"], softens, blisters, smokes, gone, table.cite(row, "smokes_c"))


@dataclass(frozen=True, slots=True)
class Bundle:
    """What lies around a wire: how many, how large all are together, and what heat has to cross. Per metre."""

    count: int
    diameter_m: float
    to_neighbours_km_per_w: float
    to_outside_km_per_w: float
    store_j_per_mk: float
    carries: bool


def bundle_of(wire: BenchWire, size: WireSize) -> Bundle:
    """The bundle a wire lies in; a wire alone is a bundle of one.

    Notes
    -----
    A circle that wires fill to `bundle_packing_frac`. Heat made evenly in it meets ``1/(8·π·k)`` from its mean to its
    outside; heat of the wire in its middle alone meets ``ln(D/d)/(2·π·k)`` in all.
    """
    covered = covered_of(wire, size)
    outer_m, strand_m = float(covered.outer_m), float(covered.strand_m)
    count = wire.neighbours + 1
    if count == 1:
        return Bundle(1, outer_m, math.inf, 0.0, 0.0, carries=False)
    diameter_m = outer_m * math.sqrt(count / heat_property("bundle_packing_frac"))
    conducts = heat_property("bundle_w_per_mk")
    to_outside = 1 / (8 * math.pi * conducts)
    to_neighbours = math.log(diameter_m / outer_m) / (2 * math.pi * conducts) - to_outside
    covering = math.pi / 4 * (outer_m**2 - strand_m**2) * heat_property("insulation_j_per_m3k")
    store = wire.neighbours * (size.area_mm2 * 1e-6 * heat_property("copper_j_per_m3k") + covering)
    return Bundle(count, diameter_m, max(to_neighbours, 1e-3), to_outside, store, carries=wire.neighbours_carry)


def covered_of(wire: BenchWire, size: WireSize) -> Covered:
    """The wire as the heat balance knows it; a thin wall is half the usual one."""
    wall = wall_mm(size.area_mm2) * (0.5 if wire.thin_wall else 1.0)
    return Covered(np.array(size.area_mm2), np.array(size.resistance_20_ohm_per_m), np.array(wall))


class Cells:
    """Temperatures of a wire from its joint to its middle, and how they change.

    `widths_m` (n,), `conductor_c`, `surface_c`, `around_c` (n,): the joint first, the middle last. `melted_frac` (n,).
    """

    def __init__(self, setup: Setup) -> None:
        wire = setup.wire
        self.wire = wire
        self.size = wire_size(wire.system, wire.size)
        self.harm = harm_of(wire.insulation_c)
        self.bundle = bundle_of(wire, self.size)
        self._covered = covered_of(wire, self.size)
        barrel_m = max(joint_kind(setup.end.joint).barrel_m, _FIRST_M)
        half_m = max(wire.length_m / 2, barrel_m + _FIRST_M)
        widths = [barrel_m]
        step_m = _FIRST_M
        while sum(widths) + step_m < min(half_m, _MODELLED_M):
            widths.append(step_m)
            step_m *= _GROWS
        widths.append(max(min(half_m, _MODELLED_M) - sum(widths), _FIRST_M))
        self.widths_m: Floats = np.array(widths)
        self._half_m = half_m
        n = len(widths)
        self.conductor_c: Floats = np.full(n, wire.ambient_c)
        self.surface_c: Floats = np.full(n, wire.ambient_c)
        self.around_c: Floats = np.full(n, wire.ambient_c)
        self.melted_frac: Floats = np.zeros(n)
        self.bare: NDArray[np.bool_] = np.zeros(n, dtype=bool)
        self._melts_c = heat_property("copper_melts_c")
        self._diameter = float(self._covered.outer_m)
        self._strand = float(self._covered.strand_m)
        self._copper_j = self.size.area_mm2 * 1e-6 * heat_property("copper_j_per_m3k")
        self._shell_j, self._shell_km_per_w = self._shells()
        self.shell_c: Floats = np.full((len(_SHELLS), n), wire.ambient_c)
        # A terminal has more metal and more surface than its wire.
        self._more: Floats = np.ones(n)
        self._more[0] = heat_property("lug_surface_times")
        along = heat_property("copper_w_per_mk") * self.size.area_mm2 * 1e-6
        self._along = along / ((self.widths_m[1:] + self.widths_m[:-1]) / 2)

    def _shells(self) -> tuple[Floats, Floats]:
        """Heat each shell keeps (n_shells,) [J/(m·K)], and what heat meets on its way from the copper to the first, on
        to each next one, and from the last to the surface (n_shells + 1,) [K·m/W]."""
        inside = self._strand / 2
        wall = self._diameter / 2 - inside
        edges = inside + wall * np.concatenate([[0.0], np.cumsum(_SHELLS)])
        middles = (edges[1:] + edges[:-1]) / 2
        kept = math.pi * (edges[1:] ** 2 - edges[:-1] ** 2) * heat_property("insulation_j_per_m3k")
        radii = np.concatenate([[edges[0]], middles, [edges[-1]]])
        meets: Floats = np.log(radii[1:] / radii[:-1]) / (2 * math.pi * heat_property("insulation_w_per_mk"))
        return kept, meets

    @property
    def leg_ohm(self) -> float:
        """Resistance of one leg of the wire as warm as it is: the middle stands for all that is not modelled. [Ω]"""
        per_m = self.size.resistance_20_ohm_per_m * (1 + ALPHA_PER_K * (self.conductor_c - 20))
        near = float(per_m @ self.widths_m)
        rest = self._half_m - float(self.widths_m.sum())
        return 2 * (near + rest * float(per_m[-1]))

    def fastest_k_per_s(self, current_a: float, joint_ohm: float) -> float:
        """How quickly its hottest cell would warm if it gave nothing away. [K/s]"""
        made = self._made(current_a) * (1 + ALPHA_PER_K * (self.conductor_c - 20))
        made[0] += current_a**2 * joint_ohm / 2 / self.widths_m[0]
        return float((made / (self._copper_j * self._more)).max())

    def _made(self, current_a: float) -> Floats:
        # At 20 °C, per metre.
        made: Floats = np.full(len(self.widths_m), current_a**2 * self.size.resistance_20_ohm_per_m)
        return made

    def step(self, current_a: float, joint_ohm: float, step_s: float) -> None:
        """Move on by a time.

        Parameters
        ----------
        current_a : float
            Current in the wire meanwhile. [A]
        joint_ohm : float
            Resistance of the contact at the joint; half of its heat goes into this wire, half into what it is joined
            to. [Ω]
        step_s : float
            How long, > 0. [s]

        Notes
        -----
        Implicit: ``C·dT/dt = made - (T - shell)/R + k·A·d²T/dx²``, what the surface gives away taken linear about its
        last temperature. Copper at its melting point stays there until the heat of fusion is in it.
        """
        n = len(self.widths_m)
        air = np.full(n, self.wire.ambient_c)
        burnt = np.where(self.bare, _BURNT, 1.0)
        kept = self._shell_j[:, None] * burnt
        meets = self._shell_km_per_w[:, None] * burnt / self._more
        made = self._made(current_a)
        # The joint's own heat does not grow with its temperature.
        own = np.zeros(n)
        own[0] = current_a**2 * joint_ohm / 2 / self.widths_m[0]
        across, settled = self._outside(air)
        # From the outside in: what a shell's inner neighbour sees is a conductance to a temperature.
        sees_w, sees_c = 1 / (meets[-1] + 1 / across), settled
        chain = []
        for shell in range(len(_SHELLS) - 1, -1, -1):
            inward = 1 / meets[shell]
            total = kept[shell] / step_s + inward + sees_w
            still = (kept[shell] / step_s * self.shell_c[shell] + sees_w * sees_c) / total
            takes = inward / total
            chain.append((still, takes))
            # Heat from inside: inward·(T - shell), with shell = still + takes·T.
            sees_w = inward * (1 - takes)
            sees_c = still / np.maximum(1 - takes, 1e-12)
        # Copper: inner·(T - T0)/dt = made·(1 + α(T - 20)) + own - sees·(T - what it sees) + along
        inner = self._copper_j * self._more
        main = inner / step_s - made * ALPHA_PER_K + sees_w
        right = inner / step_s * self.conductor_c + made * (1 - ALPHA_PER_K * 20) + own + sees_w * sees_c
        banded = np.zeros((3, n))
        banded[0, 1:] = -self._along / self.widths_m[:-1]
        banded[2, :-1] = -self._along / self.widths_m[1:]
        banded[1] = np.maximum(main, 1e-9)
        banded[1, :-1] += self._along / self.widths_m[:-1]
        banded[1, 1:] += self._along / self.widths_m[1:]
        conductor: Floats = solve_banded((1, 1), banded, right)
        # What is beyond the melting point goes into melting, and comes out of it again.
        excess_j = (conductor - self._melts_c) * inner
        melting = (excess_j > 0) | (self.melted_frac > 0)
        fusion = heat_property("copper_fusion_j_per_m3") * self.size.area_mm2 * 1e-6
        self.melted_frac = np.clip(np.where(melting, self.melted_frac + excess_j / fusion, 0.0), 0.0, 1.0)
        self.conductor_c = np.where(melting & (self.melted_frac > 0), self._melts_c, conductor)
        inside_c = self.conductor_c
        for shell, (still, takes) in enumerate(reversed(chain)):
            inside_c = still + takes * inside_c
            self.shell_c[shell] = inside_c
        self.surface_c = inside_c - (inside_c - settled) * meets[-1] / (meets[-1] + 1 / across)
        self._neighbours(air, current_a, step_s)
        self.bare |= self.shell_c[1] > self.harm.gone_c

    def _film(self, surface_c: Floats, air_c: Floats, diameter_m: Floats) -> Floats:
        rise = np.maximum(surface_c - air_c, 1e-3)
        found: Floats = given_away_w_per_m(air_c + rise, air_c, diameter_m) / rise
        return found

    def _outside(self, air_c: Floats) -> tuple[Floats, Floats]:
        """Conductance from the surface to what is around it [W/(m·K)], and the temperature that has."""
        if self.bundle.count == 1:
            diameter = np.where(self.bare, self._strand, self._diameter)
            return self._film(self.surface_c, air_c, diameter) * self._more, air_c
        return np.full(len(air_c), 1 / self.bundle.to_neighbours_km_per_w), self.around_c

    def _neighbours(self, air_c: Floats, current_a: float, step_s: float) -> None:
        if self.bundle.count == 1:
            return
        bundle = self.bundle
        film = self._film(self.around_c, air_c, np.full(len(air_c), bundle.diameter_m))
        away = 1 / (bundle.to_outside_km_per_w + 1 / film)
        per_m = self.size.resistance_20_ohm_per_m * (1 + ALPHA_PER_K * (self.around_c - 20))
        made = (bundle.count - 1) * current_a**2 * per_m if bundle.carries else np.zeros(len(air_c))
        to_them, kept = 1 / bundle.to_neighbours_km_per_w, bundle.store_j_per_mk / step_s
        gets = kept * self.around_c + to_them * self.surface_c + made + away * air_c
        self.around_c = gets / (kept + to_them + away)
