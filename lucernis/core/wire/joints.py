"""Resistance of a joint: a piece of its own wire as long as the crimp, and the contact to what it is joined to."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache

from lucernis.core.wire.copper import WireSize
from lucernis.practice.tables import TableRow, load_table

# Keys go by figures that anybody may type, so that no cache of them may grow for ever.
_MOST_KNOWN = 4096


@dataclass(frozen=True, slots=True)
class JointKind:
    """A kind of joint; a limit is None where the part it is joined to decides."""

    kind: str
    label: str
    contact_ohm: float
    barrel_m: float
    greatest_mm2: float | None
    greatest_a: float | None
    cell: TableRow


@cache
def joint_kind(kind: str) -> JointKind:
    """Look a kind of joint up by name.

    Raises
    ------
    UnknownRow
        If there is none of that name.
    """
    table = load_table("joint_resistance")
    row = table.find(kind)
    return JointKind(
        kind=kind,
        label=row["label"],
        contact_ohm=float(row["contact_mohm"]) / 1000,
        barrel_m=float(row["barrel_mm"]) / 1000,
        greatest_mm2=float(row["greatest_mm2"]) if row["greatest_mm2"] else None,
        greatest_a=float(row["greatest_a"]) if row["greatest_a"] else None,
        cell=table.cite(row, "contact_mohm"),
    )


@lru_cache(maxsize=_MOST_KNOWN)
def joint_ohm(kind: str, size: WireSize) -> float:
    """Resistance of one sound joint on a wire.

    Parameters
    ----------
    kind : str
        Kind of joint.
    size : WireSize
        The wire.

    Returns
    -------
    float
        Resistance. [Ω]

    Notes
    -----
    ``R = R20 · l + R_contact``: the barrel conducts no worse than a piece of the wire as long as itself.

    Examples
    --------
    A lug on 2/0 AWG, some 0.03 mΩ:

    >>> from lucernis.core.wire.copper import wire_size
    >>> 1000 * joint_ohm("lug_large", wire_size("awg", "2/0"))
    0.03043

    References
    ----------
    .. [1] joint_resistance.csv, common practice.
    """
    made = joint_kind(kind)
    return made.contact_ohm + made.barrel_m * size.resistance_20_ohm_per_m
