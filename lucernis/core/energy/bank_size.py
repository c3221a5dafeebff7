"""How large a bank must be for the days asked, by chemistry, side by side."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucernis.core.energy.battery import RATED_HOURS
from lucernis.core.power.bank import usable_share
from lucernis.errors import require_range
from lucernis.plan.prices import Price
from lucernis.practice.tables import load_table


@dataclass(slots=True)
class BankSize:
    """A bank of one chemistry for the days asked. `peukert_frac` is what Peukert adds for lead, `cost` None without
    a price."""

    chemistry: str
    label: str
    usable_frac: float
    needed_ah: float
    peukert_frac: float
    mass_kg: float
    cost: float | None


def needed_ah(ah_per_day: float, days: float, *, share_frac: float, peukert: float) -> float:
    """Capacity for a number of days.

    Parameters
    ----------
    ah_per_day : float
        Charge a day, >= 0. [Ah]
    days : float
        Days without charging, > 0.
    share_frac : float
        Share of the capacity that is used, > 0 and <= 1.
    peukert : float
        Exponent of the chemistry, >= 1.

    Returns
    -------
    float
        Capacity at the twenty-hour rate. [Ah]

    Raises
    ------
    OutOfRange
        If an input is outside the range given above.

    Notes
    -----
    ``C = Q · d / u``; where the mean current ``I = Q / 24`` exceeds ``C / 20``, Peukert takes the usable charge down by
    ``(I / (C/20))^(k-1)`` and C is raised until it fits: ``C = (Q d / u)^(1/k) · (20 I)^(1-1/k)``.

    Examples
    --------
    60 Ah a day for two days, half of it used:

    >>> needed_ah(60.0, 2.0, share_frac=0.5, peukert=1.25)
    240.0

    A whole day's use in lead that is emptied in less than twenty hours:

    >>> needed_ah(100.0, 0.4, share_frac=1.0, peukert=1.25)
    46.3246
    """
    require_range("ah_per_day", ah_per_day, least=0)
    require_range("days", days, above=0)
    require_range("share_frac", share_frac, above=0, most=1)
    require_range("peukert", peukert, least=1)
    plain = ah_per_day * days / share_frac
    at_mean = RATED_HOURS * ah_per_day / 24
    if plain <= 0 or plain >= at_mean:
        return plain
    return float(plain ** (1 / peukert) * at_mean ** (1 - 1 / peukert))


def bank_sizes(
    ah_per_day: float, days: float, nominal_v: float, own_share_frac: float | None, prices: Mapping[str, Price]
) -> list[BankSize]:
    """The bank by each chemistry.

    Parameters
    ----------
    ah_per_day : float
        Charge a day at the battery. [Ah]
    days : float
        Days without charging.
    nominal_v : float
        Nominal voltage. [V]
    own_share_frac : float or None
        Share used in place of each chemistry's own.
    prices : Mapping
        Price list.

    Returns
    -------
    list of BankSize
        In the order of the table of chemistries.
    """
    found = []
    for row in load_table("battery_planning").rows:
        chemistry = row["chemistry"]
        share = usable_share(chemistry, own_share_frac)
        exponent = float(load_table("battery_chemistry").find(chemistry)["peukert"])
        capacity = needed_ah(ah_per_day, days, share_frac=share, peukert=exponent)
        plain = ah_per_day * days / share
        price = prices.get(f"battery:{chemistry}")
        found.append(
            BankSize(
                chemistry=chemistry,
                label=row["label"],
                usable_frac=share,
                needed_ah=capacity,
                peukert_frac=capacity / plain - 1 if plain > 0 else 0.0,
                mass_kg=capacity * nominal_v / float(row["wh_per_kg"]),
                cost=capacity * nominal_v * price.price if price is not None else None,
            )
        )
    return found
