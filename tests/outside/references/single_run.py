"""One run by itself, by the small-craft standard's own formula and table.

ABYC E-11, from memory: ``CM = K · I · L / E`` with K 10.75, L the circuit there and back [ft], E the volts that may be
lost; and the current a single conductor of 105 °C insulation carries outside engine spaces at 30 °C.
"""

from __future__ import annotations

K_CMIL_OHM_PER_FT = 10.75
FT_PER_M = 3.280840
# Size, copper [circular mil], allowable amperage of 105 °C insulation outside engine spaces [A].
E11 = (
    ("18", 1620, 20), ("16", 2580, 25), ("14", 4110, 35), ("12", 6530, 45), ("10", 10380, 60), ("8", 16510, 80),
    ("6", 26240, 120), ("4", 41740, 160), ("2", 66360, 210), ("1", 83690, 245), ("1/0", 105600, 285),
    ("2/0", 133100, 330), ("3/0", 167800, 385), ("4/0", 211600, 445),
)  # fmt: skip
ENGINE_SPACE = 0.85
SIZES = tuple(one[0] for one in E11)


def least_size(
    amps: float, one_way_m: float, lost_v: float, *, least: str = "18", engine_space: bool = False, fuse_a: float = 0.0
) -> str | None:
    """The thinnest wire that carries a current, and its fuse, and loses no more than it may; None beyond the table.

    Parameters
    ----------
    amps : float
        Current. [A]
    one_way_m : float
        Length one way. [m]
    lost_v : float
        Most that may be lost there and back. [V]
    least : str
        Thinnest size that is taken at all.
    engine_space : bool
        Lies in one.
    fuse_a : float
        Its fuse, which the wire has to carry. [A]
    """
    cmil = K_CMIL_OHM_PER_FT * amps * 2 * one_way_m * FT_PER_M / lost_v
    factor = ENGINE_SPACE if engine_space else 1.0
    for size, copper_cmil, carries_a in E11[SIZES.index(least) :]:
        if copper_cmil >= cmil and carries_a * factor >= max(amps, fuse_a):
            return size
    return None
