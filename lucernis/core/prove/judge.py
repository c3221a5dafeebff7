"""A reading as it was typed, against what was expected."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace
from typing import Literal

from lucernis.core.prove.proving_line import Line
from lucernis.core.prove.words import UNIT_OF, Unit, small, span_text

_TYPED = re.compile(
    r"^\s*([+\-−]?(?:\d+(?:[.,]\d+)?|[.,]\d+)|OL|open)\s*(mV|V|mA|A|mΩ|mohm|kΩ|kohm|MΩ|Mohm|Ω|ohm|K|°C|C)?\s*$",
    re.IGNORECASE,
)
_FACTOR: dict[str, tuple[Unit, float]] = {
    "v": ("V", 1.0), "mv": ("V", 1e-3), "a": ("A", 1.0), "ma": ("A", 1e-3), "ω": ("Ω", 1.0), "ohm": ("Ω", 1.0),
    "kω": ("Ω", 1e3), "kohm": ("Ω", 1e3), "k": ("K", 1.0), "°c": ("K", 1.0), "c": ("K", 1.0),
}  # fmt: skip
# These differ by their capital alone.
_OHMS: dict[str, float] = {"mΩ": 1e-3, "mohm": 1e-3, "MΩ": 1e6, "Mohm": 1e6}
_MOST: dict[Unit, float] = {"V": 1000.0, "A": 5000.0, "Ω": 1e9, "K": 500.0}
_PLAIN: dict[Unit, str] = {"V": "mV", "A": "mA", "Ω": "mΩ", "K": ""}
# More than any circuit of a vehicle's twelve or twenty-four volts has. [V]
_MISSED_POINT_V = 100.0
_WARM = re.compile(
    r"^\s*([+\-−]?\d+(?:[.,]\d+)?)\s*°?C?\s*(?:at|in|-|−|,)\s*(\d+(?:[.,]\d+)?)\s*°?C?\s*$", re.IGNORECASE
)
_DEGREES = re.compile(r"^\s*[+\-−]?\d+(?:[.,]\d+)?\s*(?:°\s*C?|C)\s*$", re.IGNORECASE)
# Times its resistance from which a stretch is called by its ohms.
_TIMES = 1.3


@dataclass(frozen=True, slots=True)
class Expected:
    """What a meter should say, from and to, and why; no upper end where `high` is infinite."""

    low: float
    high: float
    unit: Unit
    why: str


@dataclass(frozen=True, slots=True)
class Judged:
    """A typed reading: whether it lies in its band, in words, and its value in the unit that was expected."""

    verdict: Literal["in", "out", "unit", "unread"]
    text: str
    value: float | None = None
    meant: str = ""
    """What it would be typed as where another unit was meant."""


def band_text(expected: Expected) -> str:
    """The band in words."""
    return span_text(expected.low, expected.high, expected.unit)


def _limit_text(expected: Expected) -> str:
    """A band as what is passed: more than 0.12 Ω, not more than at most."""
    return band_text(expected).removeprefix("at most ").removeprefix("at least ")


def typed_value(typed: str, unit: Unit) -> tuple[float, Unit] | None:
    """A typed reading in its own base unit, by `unit` where none was typed; None where it is no number. [V], [A], [Ω],
    [K]"""
    found = _TYPED.match(typed)
    if found is None:
        return None
    number, given = found.group(1), found.group(2) or ""
    base: tuple[Unit, float] = ("Ω", _OHMS[given]) if given in _OHMS else _FACTOR.get(given.lower(), (unit, 1.0))
    own, factor = base
    if number.upper() in ("OL", "OPEN"):
        return (math.inf, "Ω")
    # No such letter for thousandths of an ohm in capitals: MV and MA are milli, as people type them.
    return float(number.replace(",", ".").replace("−", "-")) * factor, own


def judge(typed: str, expected: Expected) -> Judged:
    """Judge a reading.

    Parameters
    ----------
    typed : str
        As it was typed, with or without a unit; ``OL`` for open.
    expected : Expected
        What should be read.

    Returns
    -------
    Judged
        ``unit`` where it would fit a thousand times larger or smaller, or is in another unit: then somebody is asked.
        ``unread`` where it is no number, or none a hand meter shows.
    """
    band = band_text(expected)
    read = typed_value(typed, expected.unit)
    if read is None:
        return Judged("unread", f"“{typed[:40]}” is not a number of {expected.unit}; {band} expected.")
    value, unit = read
    if unit != expected.unit:
        return Judged("unit", f"{typed.strip()} is not in {expected.unit}; {band} expected.")
    told = "open" if math.isinf(value) else small(value, unit)
    if expected.low <= value <= expected.high:
        return Judged("in", f"{told}, as expected ({band}).", value)
    if expected.low <= -value <= expected.high and unit in ("V", "A"):
        return Judged("out", f"{told}: the other way round. Leads of the meter first, then the wires.", value)
    if unit == "V" and abs(value) >= _MISSED_POINT_V and not math.isinf(value):
        # 1251 for 12.51: the point was left out, and no hand meter of a vehicle shows so much.
        for times in (1e-2, 1e-1):
            if expected.low <= abs(value) * times <= expected.high:
                meant = f"{value * times:.4g} V"
                return Judged("unit", f"{typed.strip()}: was it {meant}? {band} expected.", value, meant)
    if expected.low > 0 and not math.isinf(value):
        for times, other in ((1e-3, _PLAIN[unit]), (1e3, f"k{unit}")):
            if other and expected.low <= value * times <= expected.high and value > 0:
                bare = typed.strip().rstrip("VAΩKmkohMC° ").strip()
                return Judged("unit", f"{bare} {unit}: was it {other}? {band} expected.", value, f"{bare} {other}")
    if abs(value) > _MOST[unit] and not math.isinf(value):
        return Judged("unread", f"{typed.strip()}: no hand meter shows that; {band} expected.")
    more = "more" if value > expected.high else "less"
    return Judged("out", f"{told}, {more} than {_limit_text(expected)}: {expected.why}.", value)


def _out_text(line: Line, value: float, expected: Expected) -> str:
    """What a reading out of its band says, and what to do next; never what it would mean inside."""
    means = line.means
    if math.isinf(value):
        return f"Open, {band_text(expected)} expected. {means.open}"
    told = small(value, expected.unit)
    if line.ohm and line.amps and not line.floating:
        ohm = abs(value / line.amps)
        if ohm > _TIMES * line.ohm:
            where = line.label.removesuffix(", end to end")
            told = f"{small(value, 'V')} lost in {where} at {abs(line.amps):.3g} A"
            return f"{told}: {small(ohm, 'Ω')} instead of {small(line.ohm, 'Ω')}. {means.high}"
    if expected.unit in ("V", "A") and expected.low <= -value <= expected.high:
        return f"{told}: {means.turned}"
    if value > expected.high:
        return f"{told}, more than {_limit_text(expected)}. {means.high}"
    return f"{told}, less than {_limit_text(expected)}. {means.low}"


def judge_line(line: Line, typed: str, leads_ohm: float = 0.0) -> Judged:
    """Judge a reading of the proving list.

    Parameters
    ----------
    line : Line
        Where, and what should be read.
    typed : str
        As it was typed.
    leads_ohm : float
        What the leads have by themselves, taken off ohms. [Ω]

    Returns
    -------
    Judged
        Out of its band with what that means and what to do next, never with what it would mean inside: "0.21 V lost in
        C07 + at 6 A: 35 mΩ instead of 4". A warmth may be typed with the air's: "45 °C at 20 °C".
    """
    unit = UNIT_OF[line.quantity]
    high = math.inf if line.high is None else line.high
    taken = typed
    if unit == "K":
        warm = _WARM.match(typed)
        if warm is not None:
            hot, air = (float(one.replace(",", ".").replace("−", "-")) for one in warm.groups())
            taken = f"{hot - air:.2f}"
        elif _DEGREES.match(typed):
            # A temperature is no rise: 45 °C in 20 °C of air is 25 K.
            text = f"{typed.strip()} is a temperature. How warm is the air? Type both, as 45 °C at 20 °C."
            return Judged("unread", text)
    if unit == "Ω" and leads_ohm > 0:
        read = typed_value(typed, "Ω")
        if read is not None and read[1] == "Ω" and not math.isinf(read[0]):
            own = read[0] - leads_ohm
            if own < -0.15:
                text = "The leads alone read more than leads and circuit together: hold the probes together again."
                return Judged("unread", text)
            taken = f"{max(own, 0.0):.6f} Ω"
    if unit == "A" and line.low >= 0:
        # A clamp is put on either way round.
        taken = taken.strip().removeprefix("-").removeprefix("−")
    expected = Expected(line.low, high, unit, line.means.good)
    found = judge(taken, expected)
    if found.verdict == "out" and found.value is not None:
        found = replace(found, text=_out_text(line, found.value, expected))
    if line.floating and found.verdict == "in":
        return Judged("in", f"{found.text} Nothing holds this point: a lamp across it shows none.", found.value)
    return found
