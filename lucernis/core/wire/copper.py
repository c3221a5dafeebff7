"""Wire sizes and the resistance of copper. What a wire may carry stands in `ampacity.py`."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

from lucernis.errors import UnknownRow, require_range
from lucernis.practice.names import SIZE_TABLE, size_names
from lucernis.practice.rules import SizeSystem
from lucernis.practice.tables import TableRow, load_table

RHO_20_OHM_MM2_PER_M = 0.017241
ALPHA_PER_K = 0.00393
LAY_FACTOR = 1.02
COPPER_KG_PER_M3 = 8890.0

_LABEL: dict[SizeSystem, str] = {
    "awg": "{} AWG",
    "bs": "{} B&S",
    "mm2": "{} mm²",
    "sae": "{} SAE",
    "auto_mm": "{} auto",
}


@dataclass(frozen=True, slots=True, eq=False)
class WireSize:
    """One size of copper wire. Resistance is that of one conductor at 20 °C.

    `wire_size` hands out the same object for the same size, so sizes compare by identity.
    """

    system: SizeSystem
    name: str
    label: str
    area_mm2: float
    resistance_20_ohm_per_m: float
    diameter_mm: float
    formula: str
    cell: TableRow


def awg_area_mm2(number: int) -> float:
    """Copper area of an AWG (equal to B&S) size.

    Parameters
    ----------
    number : int
        Gauge number; 1/0 is 0, 2/0 is -1, 3/0 is -2, 4/0 is -3. [1]

    Returns
    -------
    float
        Cross-section. [mm²]

    Notes
    -----
    ``d = 0.127 mm * 92^((36 - n) / 39)``, area of that solid circle.

    Examples
    --------
    >>> awg_area_mm2(10)
    5.2612

    References
    ----------
    .. [1] ASTM B258, standard nominal diameters of AWG wire (memory).
    """
    diameter_mm: float = 0.127 * 92 ** ((36 - number) / 39)
    return math.pi / 4 * diameter_mm**2


def resistance_ohm_per_m(resistance_20_ohm_per_m: float, temp_c: float) -> float:
    """Resistance of a copper conductor at a temperature.

    Parameters
    ----------
    resistance_20_ohm_per_m : float
        At 20 °C, > 0. [Ω/m]
    temp_c : float
        Conductor temperature. [°C]

    Returns
    -------
    float
        At that temperature. [Ω/m]

    Notes
    -----
    ``R = R20 * (1 + 0.00393 * (T - 20))``.

    Examples
    --------
    >>> resistance_ohm_per_m(0.01, 75.0)
    0.0121615

    References
    ----------
    .. [1] IEC 60028, temperature coefficient of annealed copper (memory).
    """
    return resistance_20_ohm_per_m * (1 + ALPHA_PER_K * (temp_c - 20))


def stranded_resistance_20_ohm_per_m(area_mm2: float) -> float:
    """Resistance at 20 °C of stranded copper of an area.

    Parameters
    ----------
    area_mm2 : float
        Metal cross-section, > 0. [mm²]

    Returns
    -------
    float
        At 20 °C. [Ω/m]

    Raises
    ------
    OutOfRange
        If the area is not above 0.

    Notes
    -----
    ``R = rho20 * k_lay / A`` with rho20 = 0.017241 Ω·mm²/m (IACS) and k_lay = 1.02 for stranding.

    Examples
    --------
    >>> stranded_resistance_20_ohm_per_m(1.0)
    0.01758582

    References
    ----------
    .. [1] IEC 60028:1925, standard annealed copper (memory).
    """
    require_range("area_mm2", area_mm2, above=0)
    return RHO_20_OHM_MM2_PER_M * LAY_FACTOR / area_mm2


@cache
def wire_size(system: SizeSystem, name: str, *, tinned: bool = False) -> WireSize:
    """Look a wire size up, exactly by its name.

    Parameters
    ----------
    system : str
        ``awg``, ``bs``, ``mm2``, ``sae`` or ``auto_mm``.
    name : str
        Like ``10``, ``1/0``, ``2.5``, ``4 mm``.
    tinned : bool
        For mm², take the tinned column.

    Returns
    -------
    WireSize
        With the table row it came from.

    Raises
    ------
    UnknownRow
        If the size is not in its table; nothing near is taken instead.
    """
    table = load_table(SIZE_TABLE[system])
    try:
        row = table.find(name)
    except UnknownRow as error:
        raise UnknownRow(
            f"no wire size {name!r} in {_LABEL[system].format('').strip()}",
            field="size",
            value=name,
            allowed=error.allowed,
        ) from error
    if system == "mm2":
        column = "tinned_mohm_per_m" if tinned else "plain_mohm_per_m"
        area_mm2 = float(name)
        r_20 = float(row[column]) / 1000
        formula = "R20 from the table"
    else:
        if system in ("awg", "bs"):
            column = "number"
            area_mm2 = awg_area_mm2(int(row["number"]))
            formula = "A = π/4 · (0.127 mm · 92^((36−n)/39))²; R20 = ρ20 · k_lay / A"
        else:
            column = table.columns[1]
            area_mm2 = float(row[column])
            formula = "R20 = ρ20 · k_lay / A"
        r_20 = stranded_resistance_20_ohm_per_m(area_mm2)
    label = _LABEL[system].format(name)
    return WireSize(
        system=system,
        name=name,
        label=label,
        area_mm2=area_mm2,
        resistance_20_ohm_per_m=r_20,
        # Drawings show the metal as one round bar; a stranded conductor is some 15 % wider.
        diameter_mm=math.sqrt(4 * area_mm2 / math.pi),
        formula=formula,
        cell=table.cite(row, column),
    )


@cache
def all_sizes(system: SizeSystem) -> tuple[str, ...]:
    """Every size name of a system, thinnest first."""
    return tuple(sorted(size_names(system), key=lambda name: wire_size(system, name).area_mm2))
