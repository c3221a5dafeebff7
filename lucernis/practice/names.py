"""Which names of wire sizes and made ratings exist. Figures behind the names are computed in `core`."""

from __future__ import annotations

from lucernis.practice.rules import FuseFamily, SizeSystem
from lucernis.practice.tables import load_table

SIZE_TABLE: dict[SizeSystem, str] = {
    "awg": "conductor_awg",
    "bs": "conductor_awg",
    "mm2": "conductor_iec60228",
    "sae": "conductor_sae",
    "auto_mm": "conductor_auto_mm",
}


def size_names(system: SizeSystem) -> tuple[str, ...]:
    """Every size name of a system, in the order of its table."""
    table = load_table(SIZE_TABLE[system])
    return tuple(row[table.columns[0]] for row in table.rows)


def made_ratings_a(family: FuseFamily) -> tuple[float, ...]:
    """Rated currents a family is made in, rising. [A]"""
    row = load_table("fuse_families").find(family)
    return tuple(float(item) for item in row["ratings_a"].split())
