"""How full conduits, holes and grommets are, by the outside diameters of the wires in them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from lucernis.core.wire.heat import heat_property, wall_mm
from lucernis.practice.tables import TableRow, load_table

Opening = Literal["conduit", "hole"]
# Round wires lie together in a bundle about as tight as this; common practice, no source.
_TIGHT_FRAC = 0.7


def outside_mm(area_mm2: float) -> float:
    """Outside diameter of a stranded wire.

    Parameters
    ----------
    area_mm2 : float
        Copper, > 0. [mm²]

    Returns
    -------
    float
        Over its insulation. [mm]

    Notes
    -----
    ``d = sqrt(4 A / (π k)) + 2 w`` with the share of copper in a strand k of heat_properties.csv and the usual wall w
    of insulation_wall.csv.
    """
    return math.sqrt(4 * area_mm2 / (math.pi * heat_property("stranding_frac"))) + 2 * wall_mm(area_mm2)


def fill_limit(count: int, of: Opening) -> tuple[float, TableRow]:
    """Share of the inside so many wires may fill.

    Parameters
    ----------
    count : int
        Wires, >= 1. [1]
    of : str
        ``conduit``, in which they are pulled along, or ``hole``, which they pass.

    Returns
    -------
    tuple of float and TableRow
        Share [1] and its row in fill_limits.csv.
    """
    table = load_table("fill_limits")
    row = [one for one in table.rows if one["of"] == of and int(one["from_count"]) <= max(1, count)][-1]
    return float(row["frac"]), table.cite(row, "frac")


def fill_frac(diameters_mm: Sequence[float], inside_mm: float) -> float:
    """Share of an inside that wires fill.

    Parameters
    ----------
    diameters_mm : sequence of float
        Outside diameters. [mm]
    inside_mm : float
        Inside diameter, > 0. [mm]

    Returns
    -------
    float
        ``Σd² / D²``. [1]
    """
    return sum(one**2 for one in diameters_mm) / inside_mm**2


def inside_needed_mm(diameters_mm: Sequence[float], of: Opening) -> float:
    """Least inside diameter for wires.

    Parameters
    ----------
    diameters_mm : sequence of float
        Outside diameters; none need nothing. [mm]
    of : str
        ``conduit`` or ``hole``.

    Returns
    -------
    float
        ``D = sqrt(Σd² / limit)``. [mm]
    """
    if not diameters_mm:
        return 0.0
    limit_frac, _ = fill_limit(len(diameters_mm), of)
    return math.sqrt(sum(one**2 for one in diameters_mm) / limit_frac)


def bundle_mm(diameters_mm: Sequence[float]) -> float:
    """How thick wires lie together, tied.

    Parameters
    ----------
    diameters_mm : sequence of float
        Outside diameters. [mm]

    Returns
    -------
    float
        Of one wire its own; of several that of a circle they fill to seven tenths. [mm]
    """
    if len(diameters_mm) <= 1:
        return sum(diameters_mm)
    return math.sqrt(sum(one**2 for one in diameters_mm) / _TIGHT_FRAC)


def grommet_for(inside_mm: float) -> tuple[float, float] | None:
    """The smallest made grommet that leaves so much inside.

    Parameters
    ----------
    inside_mm : float
        Inside diameter that is needed. [mm]

    Returns
    -------
    tuple of float, or None
        Its inside diameter and the hole to drill [mm], by grommets.csv; None where none is made so large.
    """
    for row in load_table("grommets").rows:
        if float(row["inside_mm"]) >= inside_mm - 1e-9:
            return float(row["inside_mm"]), float(row["drill_mm"])
    return None
