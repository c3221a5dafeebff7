"""Fuse families, made ratings and the schools of choosing one. Opening times and breaking capacity come with faults."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

from lucernis.errors import require_range
from lucernis.practice.names import made_ratings_a
from lucernis.practice.rules import FuseFamily, FuseOverLoad, FuseUnderWire
from lucernis.practice.tables import TableRow, load_table

# What a fuse must at least be above its load; never equal to it. Common practice, no source.
NEXT_FACTOR = 1.05
LONG_FACTOR = 1.25
UNDER_WIRE_FACTOR = 1.5


@dataclass(frozen=True, slots=True)
class Family:
    """One family of fuses or breakers."""

    name: FuseFamily
    label: str
    ratings_a: tuple[float, ...]
    max_v: float
    sealed: str
    fixing: str
    ignition_protected: bool
    kind: str
    limiting: bool
    drop_at_rated_v: float
    cell: TableRow
    drop_cell: TableRow


@dataclass(frozen=True, slots=True)
class ChosenFuse:
    """A rating out of a family, and whether a person pinned it."""

    family: FuseFamily
    label: str
    rating_a: float
    pinned: bool


@cache
def family(name: FuseFamily) -> Family:
    """Look a family up by name.

    Raises
    ------
    UnknownRow
        If there is none of that name.
    """
    table, drops = load_table("fuse_families"), load_table("fuse_drop")
    row, drop = table.find(name), drops.find(name)
    return Family(
        name=name,
        label=row["label"],
        ratings_a=made_ratings_a(name),
        max_v=float(row["max_v"]),
        sealed=row["sealed"],
        fixing=row["fixing"],
        ignition_protected=row["ignition_protected"] == "yes",
        kind=row["kind"],
        limiting=row["limiting"] == "yes",
        drop_at_rated_v=float(drop["drop_at_rated_mv"]) / 1000,
        cell=table.cite(row, "ratings_a"),
        drop_cell=drops.cite(drop, "drop_at_rated_mv"),
    )


def fuse_resistance_ohm(name: FuseFamily, rating_a: float) -> float:
    """Resistance of a fuse with its contacts.

    Parameters
    ----------
    name : str
        Family.
    rating_a : float
        Rated current, > 0. [A]

    Returns
    -------
    float
        Resistance. [Ω]

    Raises
    ------
    OutOfRange
        If the rating is not above 0.

    Notes
    -----
    ``R = U_rated / I_rated`` with the usual drop at rated current from fuse_drop.csv.
    """
    return family(name).drop_at_rated_v / require_range("rating_a", rating_a, above=0)


def over_load_factor(school: FuseOverLoad, *, long: bool) -> float:
    """How far a fuse stands above a load.

    Parameters
    ----------
    school : str
        ``next``, ``125`` or ``125_when_long``.
    long : bool
        The load runs for three hours or more at a stretch, or is a charger or an inverter at its rating.

    Returns
    -------
    float
        1.05 or 1.25. [1]

    Examples
    --------
    >>> over_load_factor("125_when_long", long=True)
    1.25
    """
    return LONG_FACTOR if school == "125" or (school == "125_when_long" and long) else NEXT_FACTOR


def least_fuse_a(current_a: float, school: FuseOverLoad, *, long: bool = False) -> float:
    """The current a fuse must at least be rated for.

    Parameters
    ----------
    current_a : float
        Greatest steady current of the circuit, >= 0. [A]
    school : str
        ``next``, ``125`` or ``125_when_long``.
    long : bool
        As for `over_load_factor`.

    Returns
    -------
    float
        ``m · I``. [A]

    Examples
    --------
    >>> least_fuse_a(12.0, "125")
    15.0
    """
    return require_range("current_a", current_a, least=0) * over_load_factor(school, long=long)


def next_made_a(ratings_a: tuple[float, ...], least_a: float) -> float | None:
    """The smallest made rating at or above a current, or None where none is made.

    Parameters
    ----------
    ratings_a : tuple of float
        Made ratings, rising. [A]
    least_a : float
        What it must at least be. [A]

    Returns
    -------
    float or None
        Made rating. [A]

    Examples
    --------
    >>> next_made_a((5.0, 7.5, 10.0), 5.93)
    7.5
    """
    # Rounding in the sum of currents must not push 10.000000001 A to the next size.
    return next((rating for rating in ratings_a if rating >= least_a * (1 - 1e-9)), None)


def choose_fuse(
    families: tuple[FuseFamily, ...],
    least_a: float,
    *,
    system_v: float,
    stock_a: Callable[[FuseFamily], tuple[float, ...] | None] | None = None,
) -> ChosenFuse | None:
    """The first family in order of choice that has a rating at or above a current, at its smallest such rating.

    Parameters
    ----------
    families : tuple of str
        Families in order of choice.
    least_a : float
        What the rating must at least be. [A]
    system_v : float
        Nominal voltage; families for less are passed over. [V]
    stock_a : callable, optional
        Ratings of a family on the shelf, None for all that are made. [A]

    Returns
    -------
    ChosenFuse or None
        None where no family has one.
    """
    for name in families:
        made = family(name)
        shelf = stock_a(name) if stock_a is not None else None
        rating = next_made_a(made.ratings_a if shelf is None else shelf, least_a)
        if rating is not None and made.max_v >= system_v:
            return ChosenFuse(name, made.label, rating, pinned=False)
    return None


def wire_stands_fuse(
    ampacity_a: float,
    rating_a: float,
    *,
    load_a: float,
    least_a: float,
    made_a: tuple[float, ...],
    school: FuseUnderWire,
    conductors: int = 1,
) -> bool:
    """Whether a fuse protects a wire by the school in force.

    Parameters
    ----------
    ampacity_a : float
        What the wire carries where it lies. [A]
    rating_a : float
        Rated current of the fuse before it. [A]
    load_a : float
        What flows through it lastingly. [A]
    least_a : float
        What the fuse must at least be for its load; decides whether a smaller made rating would have fitted. [A]
    made_a : tuple of float
        Ratings the family is made in, rising. [A]
    school : str
        ``strict`` (In <= Iz) or ``150_when_none_fits``.
    conductors : int
        How many side by side share the load behind the one fuse; the wire is one of them.

    Returns
    -------
    bool
        True if protected.

    Notes
    -----
    150 % applies only when no made rating lies between the load and the ampacity; the wire must carry the load itself
    in any case.

    References
    ----------
    .. [1] ABYC E-11, overcurrent protection up to 150 % of the conductor's allowable current (memory).
    """
    if rating_a <= ampacity_a * (1 + 1e-9):
        return True
    smallest_a = next_made_a(made_a, least_a)
    none_fits = smallest_a is None or smallest_a > ampacity_a * (1 + 1e-9)
    return (
        school == "150_when_none_fits"
        and none_fits
        and load_a / conductors <= ampacity_a * (1 + 1e-9)
        and rating_a <= UNDER_WIRE_FACTOR * ampacity_a * (1 + 1e-9)
    )
