"""What a conductor may carry: table, zone and bundle. Resistance stands in `copper.py`."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache, lru_cache

from lucernis.core.wire.copper import WireSize, awg_area_mm2
from lucernis.errors import require_range
from lucernis.practice.rules import AmpacityTable
from lucernis.practice.tables import Table, TableRow, load_table

TABLE_AMBIENT_C = 30.0
# Keys go by figures that anybody may type, so that no cache of them may grow for ever.
_MOST_KNOWN = 4096


@dataclass(frozen=True, slots=True)
class Ampacity:
    """Allowable continuous current of one conductor, and how it came about.

    `ampacity_a` is None where the table gives nothing: then no figure exists and none is made up.
    """

    ampacity_a: float | None
    base_a: float | None
    zone_factor: float
    bundle_factor: float
    insulation_column_c: int | None
    note: str
    cells: tuple[TableRow, ...]


@dataclass(frozen=True, slots=True)
class Surroundings:
    """Where a conductor lies: the hottest air on its way, engine space or not, and how many lie together."""

    ambient_c: float
    engine_space: bool
    bundle_count: int


@cache
def _columns(table: AmpacityTable) -> tuple[int, ...]:
    return tuple(int(column) for column in load_table(f"ampacity_{table}").columns[1:])


def _insulation_column(table: AmpacityTable, insulation_c: int) -> int | None:
    """The largest tabulated rating not above the wire's; ISO's column 90 is printed for 85 °C too."""
    if table == "iso_small_craft" and insulation_c == 85:
        return 90
    fitting = [column for column in _columns(table) if column <= insulation_c]
    return max(fitting) if fitting else None


@cache
def _rows_by_area(table: AmpacityTable) -> tuple[tuple[float, dict[str, str]], ...]:
    data = load_table(f"ampacity_{table}")
    if table == "iso_small_craft":
        return tuple((float(row["mm2"]), row) for row in data.rows)
    numbers = {row["awg"]: int(row["number"]) for row in load_table("conductor_awg").rows}
    return tuple((awg_area_mm2(numbers[row["awg"]]), row) for row in data.rows)


def _base_row(data: Table, table: AmpacityTable, size: WireSize) -> tuple[dict[str, str] | None, str]:
    """The row for a size: its own where the table lists it, else the next smaller copper. Never between rows."""
    own = ("mm2",) if table == "iso_small_craft" else ("awg", "bs")
    if size.system in own:
        for row in data.rows:
            if row[data.columns[0]] == size.name:
                return row, ""
    # A hair of tolerance so that 2.08 mm² of 14 AWG meets a 14 AWG row computed by the same formula.
    smaller = [row for area, row in _rows_by_area(table) if area <= size.area_mm2 * 1.0001]
    if not smaller:
        return None, "thinner than the smallest size in the table"
    row = smaller[-1]
    unit = "mm²" if table == "iso_small_craft" else "AWG"
    return row, f"not listed; row {row[data.columns[0]]} {unit} of no more copper is used"


def ambient_factor(ambient_c: float, insulation_c: float) -> float:
    """Share of the 30 °C current a conductor may carry in warmer air.

    Parameters
    ----------
    ambient_c : float
        Air around the conductor. [°C]
    insulation_c : float
        Insulation temperature rating, > 30. [°C]

    Returns
    -------
    float
        0..1; 1 at 30 °C and below, 0 where the air is as hot as the insulation may be. [1]

    Raises
    ------
    OutOfRange
        If the rating is not above 30 °C.

    Notes
    -----
    ``sqrt((Tr - Ta) / (Tr - 30))``: heat goes with the square of current and leaves with the temperature rise.
    No credit is given for cold air.

    Examples
    --------
    >>> ambient_factor(50.0, 105.0)
    0.856349

    References
    ----------
    .. [1] The same formula is printed under tables of allowable current, NFPA 70 (2020) 310.15(B) (memory).
    """
    require_range("insulation_c", insulation_c, above=TABLE_AMBIENT_C)
    if ambient_c <= TABLE_AMBIENT_C:
        return 1.0
    return math.sqrt(max(0.0, insulation_c - ambient_c) / (insulation_c - TABLE_AMBIENT_C))


def _factors_of(table: AmpacityTable) -> str:
    """The table whose zone and bundle factors apply: a guide without its own takes those of the AWG table."""
    return "e11" if table == "inverter_guide" else table


def _engine_factor(table: AmpacityTable, column_c: int) -> tuple[float, TableRow | None]:
    data = load_table("engine_space_factor")
    for row in data.rows:
        if row["table"] == _factors_of(table) and int(row["insulation_c"]) == column_c:
            return float(row["factor"]), data.cite(row, "factor")
    return 0.0, None


def bundle_factor(table: AmpacityTable, count: int) -> tuple[float, TableRow]:
    """Share of current a conductor may carry among others.

    Parameters
    ----------
    table : str
        Ampacity table whose factors apply.
    count : int
        Current-carrying conductors lying together, >= 1. [1]

    Returns
    -------
    tuple of float and TableRow
        Factor 0..1 [1] and its row.

    Raises
    ------
    OutOfRange
        If the count is below 1.
    """
    require_range("bundle_count", count, least=1)
    data = load_table("bundling_factor")
    fitting = [row for row in data.rows if row["table"] == _factors_of(table) and int(row["from_count"]) <= count]
    row = fitting[-1]
    return float(row["factor"]), data.cite(row, "factor")


@lru_cache(maxsize=_MOST_KNOWN)
def ampacity(table: AmpacityTable, size: WireSize, insulation_c: int, around: Surroundings) -> Ampacity:
    """Allowable continuous current of one conductor where it lies.

    Parameters
    ----------
    table : str
        Ampacity table by the practice set.
    size : WireSize
        The conductor.
    insulation_c : int
        Insulation temperature rating; the next lower tabulated one applies. [°C]
    around : Surroundings
        Ambient, engine space, bundle.

    Returns
    -------
    Ampacity
        `ampacity_a` [A], or None where the table gives no figure.

    Notes
    -----
    ``Iz = table · zone factor · bundling factor``. In an engine space the zone factor is the smaller of the table's
    and that of `ambient_factor`; elsewhere that of `ambient_factor`.

    References
    ----------
    .. [1] The head of each table names its document and certainty.
    """
    data = load_table(f"ampacity_{table}")
    column_c = _insulation_column(table, insulation_c)
    row, note = _base_row(data, table, size)
    of_bundle, bundle_cell = bundle_factor(table, around.bundle_count)
    if column_c is None or row is None or not row[str(column_c)]:
        return Ampacity(None, None, 1.0, of_bundle, column_c, note or "no figure at this insulation", ())
    base_a = float(row[str(column_c)])
    cells = [data.cite(row, str(column_c))]
    of_zone = ambient_factor(around.ambient_c, float(column_c))
    if around.engine_space:
        of_engine, engine_cell = _engine_factor(table, column_c)
        of_zone = min(of_zone, of_engine)
        if engine_cell is None:
            note = f"insulation of {column_c} °C is not allowed in an engine space"
        else:
            cells.append(engine_cell)
    cells.append(bundle_cell)
    return Ampacity(base_a * of_zone * of_bundle, base_a, of_zone, of_bundle, column_c, note, tuple(cells))


def conductor_temp_c(current_a: float, ampacity_a: float | None, *, ambient_c: float, insulation_c: float) -> float:
    """Temperature of a conductor at a steady current.

    Parameters
    ----------
    current_a : float
        Steady current, >= 0. [A]
    ampacity_a : float or None
        What it may carry where it lies; None or 0 where there is no figure. [A]
    ambient_c : float
        Air around it. [°C]
    insulation_c : float
        Insulation temperature rating, reached at `ampacity_a`. [°C]

    Returns
    -------
    float
        Conductor temperature, at most the rating when there is no figure for the ampacity. [°C]

    Notes
    -----
    ``T = Ta + (Tr - Ta) * (I / Iz)^2``. Capped at 250 °C: beyond, the insulation has gone and the formula with it.

    Examples
    --------
    >>> conductor_temp_c(12.5, 25.0, ambient_c=30.0, insulation_c=105.0)
    48.75
    """
    if not ampacity_a:
        return max(ambient_c, insulation_c)
    rise_k = max(0.0, insulation_c - ambient_c)
    return min(250.0, ambient_c + rise_k * (current_a / ampacity_a) ** 2)
