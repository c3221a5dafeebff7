"""Resistance of a bond: by a meter whose leads have more than the bond, and by millivolts at a known current."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

# What the last digit of a usual hand meter stands for on its lowest range. Common practice, no source. [Ω]
RESOLUTION_OHM = 0.1
# A bond may have so many times what its wire and joints are reckoned to have before one looks for the joint. Practice.
_TIMES = 3.0


@dataclass(frozen=True, slots=True)
class BondReading:
    """What a bond has by a reading [Ω], its verdict, and in words. None where the readings cannot both be right."""

    ohm: float | None
    verdict: Literal["good", "bad", "again"]
    text: str


def bond_by_ohms(bond_ohm: float, leads_ohm: float) -> BondReading:
    """A bond by a meter on ohms.

    Parameters
    ----------
    bond_ohm : float
        With the probes on both sides of the bond. [Ω]
    leads_ohm : float
        With the probes held together. [Ω]

    Returns
    -------
    BondReading
        Good where both read the same to the meter's last digit: all there is then lies below what it can see.

    Notes
    -----
    ``R = R_bond − R_leads``. Equal readings mean a good bond, more is the bond: common practice, no source.
    """
    own = bond_ohm - leads_ohm
    if own < -RESOLUTION_OHM * 1.5:
        text = "The leads alone read more than leads and bond together: hold the probes together again, then the bond."
        return BondReading(None, "again", text)
    if own <= RESOLUTION_OHM * 1.01:
        text = f"Under {RESOLUTION_OHM:g} Ω, all that such a meter sees. Millivolts at a known current say how much."
        return BondReading(max(0.0, own), "good", text)
    return BondReading(own, "bad", f"{own:.2g} Ω in the bond: clean bare metal, washers, tighten, and measure again.")


def bond_by_millivolts(drop_mv: float, current_a: float, expected_ohm: float | None = None) -> BondReading:
    """A bond by what it loses at a known current.

    Parameters
    ----------
    drop_mv : float
        Across the bond. [mV]
    current_a : float
        Through it, by a clamp or a load that is known, > 0. [A]
    expected_ohm : float, optional
        What its wire and joints are reckoned to have. [Ω]

    Returns
    -------
    BondReading
        Bad from three times what is expected on; without an expectation from 10 mΩ on (practice).
    """
    own = abs(drop_mv) / 1000 / current_a
    most = _TIMES * expected_ohm if expected_ohm is not None else 0.01
    told = f"{1000 * own:.2g} mΩ"
    beside = f", {1000 * expected_ohm:.2g} mΩ expected" if expected_ohm is not None else ""
    if own <= most:
        return BondReading(own, "good", f"{told}{beside}.")
    return BondReading(
        own, "bad", f"{told}{beside}: a joint is bad. Clean bare metal, washers, tighten, measure again."
    )
