"""A wire somebody else has pulled, known by its strands or its outside: which size it may be, and how sure that is."""

from __future__ import annotations

import math
from dataclasses import dataclass

from lucernis.core.wire.copper import all_sizes, wire_size
from lucernis.core.wire.heat import heat_property, wall_mm
from lucernis.errors import OutOfRange, require_range
from lucernis.practice.rules import SizeSystem

# A calliper on one strand, and on insulation that gives. Common practice, no source. [mm]
_STRAND_SD_MM = 0.012
_OUTSIDE_SD_MM = 0.15
# Copper of a made size against its name, and walls of one kind of wire, one standard deviation. Practice. [1]
_MADE_SD = 0.04
_WALL_SD = 0.25
# Thin-wall vehicle wire has so much of the insulation of boat cable: memory. [1]
_THIN_WALL_FRAC = 0.5
_LEAST_SHARE = 0.01
# What is thinner than what is reckoned with may be so likely. Common practice, no source. [1]
_RISK = 0.1


@dataclass(frozen=True, slots=True)
class Guess:
    """A size it may be, with its share of belief, its copper [mm²] and the outside it would have [mm]."""

    system: SizeSystem
    size: str
    label: str
    share: float
    area_mm2: float
    outside_mm: float


@dataclass(frozen=True, slots=True)
class Identified:
    """What was measured comes to so much copper, from and to [mm²]; sizes it may be, likeliest first; and the size to
    reckon with, which is not thicker than what is there in nine cases of ten."""

    area_mm2: float | None
    low_mm2: float
    high_mm2: float
    guesses: tuple[Guess, ...]
    reckon_with: str
    doubt: str


def outside_of(area_mm2: float, wall_frac: float) -> float:
    """Outside of a stranded wire.

    Parameters
    ----------
    area_mm2 : float
        Copper. [mm²]
    wall_frac : float
        Its insulation against that of boat cable. [1]

    Returns
    -------
    float
        ``sqrt(4 A / (π k)) + 2 w`` with the share of copper in a strand k and the wall w. [mm]
    """
    return math.sqrt(4 * area_mm2 / (math.pi * heat_property("stranding_frac"))) + 2 * wall_frac * wall_mm(area_mm2)


def identify_wire(
    system: SizeSystem,
    *,
    strands: int | None = None,
    strand_mm: float | None = None,
    outside_mm: float | None = None,
) -> Identified:
    """Which size a wire may be.

    Parameters
    ----------
    system : str
        Sizes to choose from.
    strands : int, optional
        How many strands there are.
    strand_mm : float, optional
        Diameter of one. [mm]
    outside_mm : float, optional
        Diameter over the insulation. [mm]

    Returns
    -------
    Identified
        By the strands where both are given (``A = n π d² / 4``), by the outside otherwise, by both together where all
        are.

    Raises
    ------
    OutOfRange
        If there is nothing to go by, or a figure is none a wire has.

    Notes
    -----
    Shares by a normal spread of the logarithm of the area (twice that of the strand's diameter, and 4 % of how sizes
    are made) and of the outside (calliper, walls 25 %; thick and thin walls alike likely). Practice.
    """
    by_strands = strands is not None and strand_mm is not None
    if not by_strands and outside_mm is None:
        raise OutOfRange(
            "nothing to go by", field="strands", allowed="strands with strand_mm, or outside_mm, or all three"
        )
    if strands is not None:
        require_range("strands", strands, least=1, most=10_000)
    if strand_mm is not None:
        require_range("strand_mm", strand_mm, least=0.03, most=12)
    if outside_mm is not None:
        require_range("outside_mm", outside_mm, least=0.5, most=60)
    area = strands * math.pi * strand_mm**2 / 4 if strands is not None and strand_mm is not None else None
    area_sd = math.hypot(2 * _STRAND_SD_MM / strand_mm, _MADE_SD) if strand_mm is not None else 0.0
    weighed: list[tuple[float, Guess]] = []
    for name in all_sizes(system):
        size = wire_size(system, name)
        walls = [outside_of(size.area_mm2, frac) for frac in (1.0, _THIN_WALL_FRAC)]
        belief = 1.0
        if area is not None:
            belief *= math.exp(-0.5 * (math.log(area / size.area_mm2) / area_sd) ** 2)
        if outside_mm is not None:
            spreads = [math.hypot(_OUTSIDE_SD_MM, _WALL_SD * (one - outside_of(size.area_mm2, 0))) for one in walls]
            belief *= sum(
                math.exp(-0.5 * ((outside_mm - one) / sd) ** 2) / sd for one, sd in zip(walls, spreads, strict=True)
            )
        near = min(walls, key=lambda one: abs(one - outside_mm)) if outside_mm is not None else walls[0]
        weighed.append((belief, Guess(system, name, size.label, 0.0, size.area_mm2, near)))
    total = sum(belief for belief, _ in weighed)
    if total < 1e-12:
        low, high = (area * math.exp(-2 * area_sd), area * math.exp(2 * area_sd)) if area else (0.0, 0.0)
        return Identified(area, low, high, (), "", "No size of that system is near it; measure again.")
    shared = [
        Guess(one.system, one.size, one.label, belief / total, one.area_mm2, one.outside_mm) for belief, one in weighed
    ]
    likely = sorted((one for one in shared if one.share >= _LEAST_SHARE), key=lambda one: (-one.share, one.area_mm2))
    thin, thinner = likely[0], 0.0
    for thin in sorted(likely, key=lambda one: one.area_mm2):
        thinner += thin.share
        if thinner > _RISK:
            break
    low = area * math.exp(-2 * area_sd) if area is not None else min(one.area_mm2 for one in likely)
    high = area * math.exp(2 * area_sd) if area is not None else max(one.area_mm2 for one in likely)
    sure = likely[0].share >= 0.9
    doubt = (
        f"{likely[0].label}, {100 * likely[0].share:.0f} of 100"
        if sure
        else f"One of {', '.join(one.label for one in likely[:4])}: reckon with {thin.label} until its print says more"
    )
    return Identified(area, low, high, tuple(likely), likely[0].size if sure else thin.size, doubt + ".")
