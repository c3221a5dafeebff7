"""A reading as it was typed, against what was expected."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

Unit = Literal["V", "mV", "A"]
_TYPED = re.compile(r"^\s*([+\-−]?\d+(?:[.,]\d+)?)\s*(mV|V|A|mA)?\s*$", re.IGNORECASE)
_FACTOR: dict[str, tuple[Unit, float]] = {"v": ("V", 1.0), "mv": ("V", 1e-3), "a": ("A", 1.0), "ma": ("A", 1e-3)}


@dataclass(frozen=True, slots=True)
class Expected:
    """What a meter should say, from and to, and why."""

    low: float
    high: float
    unit: Unit
    why: str


@dataclass(frozen=True, slots=True)
class Judged:
    """A typed reading: whether it lies in its band, and in words."""

    verdict: Literal["in", "out", "unit", "unread"]
    text: str


def band_text(expected: Expected) -> str:
    """The band in words."""
    return f"{expected.low:.2f} to {expected.high:.2f} {expected.unit}"


def judge(typed: str, expected: Expected) -> Judged:
    """Judge a reading.

    Parameters
    ----------
    typed : str
        As it was typed, with or without a unit.
    expected : Expected
        What should be read.

    Returns
    -------
    Judged
        ``unit`` where it would fit a thousand times larger or smaller, or is in another unit: then somebody is asked.
    """
    found = _TYPED.match(typed)
    if found is None:
        return Judged("unread", f"“{typed[:40]}” is not a number of {expected.unit}; {band_text(expected)} expected.")
    value = float(found.group(1).replace(",", ".").replace("−", "-"))
    unit, factor = _FACTOR[(found.group(2) or expected.unit).lower()]
    value *= factor
    if unit != expected.unit:
        return Judged("unit", f"{typed.strip()} is not in {expected.unit}; {band_text(expected)} expected.")
    if expected.low <= value <= expected.high:
        return Judged("in", f"{value:.2f} {unit}, as expected ({band_text(expected)}).")
    if expected.low <= -value <= expected.high:
        return Judged("out", f"{value:.2f} {unit}: the other way round. Leads of the meter first, then the wires.")
    for times, other in ((1e-3, "mV"), (1e3, "kV")):
        if expected.low <= value * times <= expected.high:
            return Judged("unit", f"{value:g} {unit}: was it {other}? {band_text(expected)} expected.")
    more = "more" if value > expected.high else "less"
    return Judged("out", f"{value:.2f} {unit}, {more} than {band_text(expected)}: {expected.why}.")
