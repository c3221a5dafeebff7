"""Heat of a covered copper conductor in still air: steady state, heating up, and the short time of a fault.

Arrays run over conductors; all arguments of one call broadcast against one another.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from lucernis.core.wire.copper import ALPHA_PER_K
from lucernis.errors import require_range
from lucernis.practice.tables import TableRow, load_table

Floats = NDArray[np.float64]
KELVIN = 273.15
_STEFAN = 5.670374e-8
_GRAVITY = 9.80665
# No insulation lives beyond; the balance is not followed further.
HOTTEST_C = 400.0
# Shorter than this a fault leaves the wire no time to give heat away.
ADIABATIC_S = 5.0
_SETTLING_STEPS = 14
# Keys go by figures that anybody may type, so that no cache of them may grow for ever.
_MOST_KNOWN = 4096


@cache
def heat_property(name: str) -> float:
    """A value of heat_properties.csv."""
    return float(load_table("heat_properties").find(name)["value"])


def property_cells() -> tuple[TableRow, ...]:
    """The rows of heat_properties.csv, for the working."""
    table = load_table("heat_properties")
    return tuple(table.cite(row, "value") for row in table.rows)


@dataclass(frozen=True, slots=True)
class Covered:
    """Covered conductors. Shapes broadcast; resistance is at 20 °C and for one conductor."""

    area_mm2: Floats
    resistance_20_ohm_per_m: Floats
    wall_mm: Floats

    @property
    def strand_m(self) -> Floats:
        """Diameter of the bare strand. [m]"""
        found: Floats = np.sqrt(4 * self.area_mm2 / (math.pi * heat_property("stranding_frac"))) / 1000
        return found

    @property
    def outer_m(self) -> Floats:
        """Diameter over the insulation. [m]"""
        found: Floats = self.strand_m + 2 * self.wall_mm / 1000
        return found


@lru_cache(maxsize=_MOST_KNOWN)
def wall_mm(area_mm2: float) -> float:
    """Usual thickness of the insulation.

    Parameters
    ----------
    area_mm2 : float
        Copper, > 0. [mm²]

    Returns
    -------
    float
        From insulation_wall.csv, the row of the next larger copper. [mm]
    """
    require_range("area_mm2", area_mm2, above=0)
    rows = load_table("insulation_wall").rows
    return next((float(row["wall_mm"]) for row in rows if float(row["to_mm2"]) >= area_mm2), float(rows[-1]["wall_mm"]))


def convection_w_per_m2k(surface_c: Floats, ambient_c: Floats, diameter_m: Floats) -> Floats:
    """Heat a horizontal cylinder gives to still air.

    Parameters
    ----------
    surface_c : ndarray
        Its surface. [°C]
    ambient_c : ndarray
        Air. [°C]
    diameter_m : ndarray
        Outer diameter, > 0. [m]

    Returns
    -------
    ndarray
        Coefficient, 0 where there is no difference. [W/(m²·K)]

    Notes
    -----
    ``Nu = (0.60 + 0.387 Ra^(1/6) / (1 + (0.559/Pr)^(9/16))^(8/27))²``; air by Sutherland's formulas at the mean of
    surface and air.

    References
    ----------
    .. [1] S. W. Churchill, H. H. S. Chu, 1975, free convection from a horizontal cylinder (memory).
    .. [2] US Standard Atmosphere 1976, viscosity and conductivity of air (memory).
    """
    film_k = (surface_c + ambient_c) / 2 + KELVIN
    viscosity = 1.458e-6 * film_k**1.5 / (film_k + 110.4)
    conductivity = 2.64638e-3 * film_k**1.5 / (film_k + 245.4 * 10 ** (-12 / film_k))
    density = 353.05 / film_k
    prandtl = viscosity * 1006.0 / conductivity
    rise = np.maximum(surface_c - ambient_c, 0.0)
    rayleigh = _GRAVITY * rise / film_k * diameter_m**3 * (density / viscosity) ** 2 * prandtl
    below = (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)
    nusselt = (0.60 + 0.387 * rayleigh ** (1 / 6) / below) ** 2
    out: Floats = np.where(rise > 0, nusselt * conductivity / diameter_m, 0.0)
    return out


def given_away_w_per_m(surface_c: Floats, ambient_c: Floats, diameter_m: Floats) -> Floats:
    """Heat one metre of wire gives away by convection and radiation.

    Parameters
    ----------
    surface_c : ndarray
        Surface of the insulation. [°C]
    ambient_c : ndarray
        Air and walls around it. [°C]
    diameter_m : ndarray
        Over the insulation. [m]

    Returns
    -------
    ndarray
        [W/m]
    """
    convection = convection_w_per_m2k(surface_c, ambient_c, diameter_m) * (surface_c - ambient_c)
    radiation = heat_property("emissivity") * _STEFAN * ((surface_c + KELVIN) ** 4 - (ambient_c + KELVIN) ** 4)
    out: Floats = math.pi * diameter_m * (convection + radiation)
    return out


def insulation_km_per_w(wire: Covered) -> Floats:
    """How much warmer the conductor is than its surface for each watt a metre gives away. [K·m/W]"""
    found: Floats = np.log(wire.outer_m / wire.strand_m) / (2 * math.pi * heat_property("insulation_w_per_mk"))
    return found


def steady_c(wire: Covered, current_a: Floats, ambient_c: Floats) -> tuple[Floats, Floats]:
    """Temperatures of conductor and insulation surface at a steady current.

    Parameters
    ----------
    wire : Covered
        The wires.
    current_a : ndarray
        Current of one conductor, >= 0. [A]
    ambient_c : ndarray
        Air around it. [°C]

    Returns
    -------
    tuple of ndarray
        Conductor and surface, at most `HOTTEST_C`, where no balance exists. [°C]

    Notes
    -----
    Heat made ``I²·R(T)`` equals heat given away by the surface, conducted through the insulation on its way. The
    surface is moved to where its last coefficient would give that heat away; since the coefficient grows with a small
    power of the rise, a dozen moves settle it to a thousandth of a degree.
    """
    wire_r, diameter = insulation_km_per_w(wire), wire.outer_m
    shape = np.broadcast_shapes(np.shape(current_a), diameter.shape, np.shape(ambient_c))
    ambient = np.broadcast_to(ambient_c, shape).astype(float)
    cold = current_a**2 * wire.resistance_20_ohm_per_m
    surface, away = ambient + 1.0, np.zeros(shape)
    for _ in range(_SETTLING_STEPS):
        rise = np.maximum(surface - ambient, 1e-3)
        per_k = given_away_w_per_m(ambient + rise, ambient, diameter) / rise
        # made = cold · (1 + α · (S + made · R - 20)), solved for made at this surface.
        denominator = 1 - cold * ALPHA_PER_K * wire_r
        made = cold * (1 + ALPHA_PER_K * (surface - 20)) / np.where(denominator > 0.05, denominator, 0.05)
        away = made
        surface = np.minimum(ambient + made / per_k, HOTTEST_C)
    conductor = np.minimum(surface + away * wire_r, HOTTEST_C)
    return conductor, surface


def ampacity_from_heat_a(wire: Covered, limit_c: Floats, ambient_c: Floats) -> Floats:
    """Steady current that brings a conductor to a temperature.

    Parameters
    ----------
    wire : Covered
        The wires.
    limit_c : ndarray
        Conductor temperature to reach. [°C]
    ambient_c : ndarray
        Air, below that. [°C]

    Returns
    -------
    ndarray
        [A]
    """
    wire_r, diameter = insulation_km_per_w(wire), wire.outer_m
    low = np.broadcast_to(ambient_c, np.broadcast_shapes(np.shape(limit_c), diameter.shape)).astype(float)
    high = np.broadcast_to(limit_c, low.shape).astype(float)
    for _ in range(30):
        surface = (low + high) / 2
        reached = surface + given_away_w_per_m(surface, ambient_c, diameter) * wire_r
        low, high = np.where(reached < limit_c, surface, low), np.where(reached < limit_c, high, surface)
    away = given_away_w_per_m((low + high) / 2, ambient_c, diameter)
    out: Floats = np.sqrt(away / (wire.resistance_20_ohm_per_m * (1 + ALPHA_PER_K * (limit_c - 20))))
    return out


@dataclass(frozen=True, slots=True)
class Heating:
    """Temperatures over time: `time_s` (n_times,), conductor and surface (n_times, n_wires). [s, °C]"""

    time_s: Floats
    conductor_c: Floats
    surface_c: Floats


def heat_up(
    wire: Covered, current_a: Floats, ambient_c: Floats, start_c: Floats, end_s: float, *, steps: int = 160
) -> Heating:
    """Follow conductor and surface from a start to a time.

    Parameters
    ----------
    wire : Covered
        The wires.
    current_a : ndarray
        Current of one conductor, from the start on. [A]
    ambient_c : ndarray
        Air. [°C]
    start_c : ndarray
        Conductor at the start; the surface begins at the balance that goes with it. [°C]
    end_s : float
        How long, > 0. [s]
    steps : int
        How many, growing from a thousandth of the whole.

    Returns
    -------
    Heating
        Held at `HOTTEST_C`.

    Notes
    -----
    Two stores: copper with half of the insulation, and the surface with the other half. Each step is solved
    implicitly for both; what the surface gives away is taken linear about its last temperature.
    """
    require_range("end_s", end_s, above=0)
    shape = np.broadcast_shapes(np.shape(current_a), wire.area_mm2.shape, np.shape(ambient_c), np.shape(start_c))
    time_s = np.concatenate([[0.0], np.geomspace(end_s / 1000, end_s, steps)])
    resistance, diameter = insulation_km_per_w(wire), wire.outer_m
    covering = math.pi / 4 * (diameter**2 - wire.strand_m**2) * heat_property("insulation_j_per_m3k")
    inner = wire.area_mm2 * 1e-6 * heat_property("copper_j_per_m3k")
    share = heat_property("insulation_share_frac")
    inner, outer = inner + share * covering, (1 - share) * covering
    conductor = np.broadcast_to(start_c, shape).astype(float)
    # The surface lies between conductor and air where the same heat passes on both sides.
    low, high = np.broadcast_to(ambient_c, shape).astype(float), conductor.copy()
    for _ in range(25):
        middle = (low + high) / 2
        less = (conductor - middle) / resistance > given_away_w_per_m(middle, ambient_c, diameter)
        low, high = np.where(less, middle, low), np.where(less, high, middle)
    surface = (low + high) / 2
    conductors, surfaces = [conductor], [surface]
    for step in np.diff(time_s):
        away = given_away_w_per_m(surface, ambient_c, diameter)
        slope = np.maximum(away / np.maximum(surface - ambient_c, 1e-3), 0.0)
        made = current_a**2 * wire.resistance_20_ohm_per_m
        # made · (1 + α (T - 20)) - (T - S)/R = inner · dT/dt;  (T - S)/R - slope · (S - Ta) = outer · dS/dt
        a11 = inner / step + 1 / resistance - made * ALPHA_PER_K
        a22 = outer / step + 1 / resistance + slope
        b1 = inner / step * conductor + made * (1 - ALPHA_PER_K * 20)
        b2 = outer / step * surface + slope * ambient_c
        off = 1 / resistance
        determinant = a11 * a22 - off * off
        safe = np.where(determinant > 0, determinant, 1.0)
        conductor = np.where(determinant > 0, (b1 * a22 + b2 * off) / safe, HOTTEST_C)
        surface = np.where(determinant > 0, (a11 * b2 + off * b1) / safe, HOTTEST_C)
        conductor, surface = np.minimum(conductor, HOTTEST_C), np.minimum(surface, HOTTEST_C)
        conductors.append(conductor)
        surfaces.append(surface)
    return Heating(time_s, np.array(conductors), np.array(surfaces))


def adiabatic_k(start_c: float, end_c: float) -> float:
    """Constant of the adiabatic equation for copper.

    Parameters
    ----------
    start_c : float
        Conductor before the fault. [°C]
    end_c : float
        Conductor after it, above the start. [°C]

    Returns
    -------
    float
        [A·√s/mm²]

    Notes
    -----
    ``k = 226 · sqrt(ln((234.5 + θf) / (234.5 + θi)))``.

    Examples
    --------
    >>> round(adiabatic_k(70.0, 160.0), 1)
    115.0

    References
    ----------
    .. [1] IEC 60364-4-43, short-circuit protection (memory).
    """
    require_range("end_c", end_c, above=start_c)
    return 226 * math.sqrt(math.log((234.5 + end_c) / (234.5 + start_c)))


def adiabatic_end_c(start_c: Floats, heat_a2s: Floats, area_mm2: Floats) -> Floats:
    """Conductor temperature after a short fault, no heat given away.

    Parameters
    ----------
    start_c : ndarray
        Before the fault. [°C]
    heat_a2s : ndarray
        Current squared times time in one conductor. [A²s]
    area_mm2 : ndarray
        Copper of one conductor. [mm²]

    Returns
    -------
    ndarray
        At most the melting point of copper, 1085 °C. [°C]

    Notes
    -----
    ``θf = (234.5 + θi) · exp(I²t / (226 · S)²) - 234.5``.
    """
    exponent = np.minimum(heat_a2s / (226 * area_mm2) ** 2, 50.0)
    out: Floats = np.minimum((234.5 + start_c) * np.exp(exponent) - 234.5, 1085.0)
    return out


@cache
def short_time_limit(insulation_c: int) -> tuple[float, TableRow]:
    """Greatest conductor temperature insulation stands in a fault.

    Parameters
    ----------
    insulation_c : int
        Its rating. [°C]

    Returns
    -------
    tuple of float and TableRow
        [°C]
    """
    table = load_table("insulation_limits")
    fitting = [row for row in table.rows if int(row["from_c"]) <= insulation_c] or [table.rows[0]]
    return float(fitting[-1]["short_time_c"]), table.cite(fitting[-1], "short_time_c")
