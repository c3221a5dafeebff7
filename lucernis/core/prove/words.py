"""Readings and their bands in words: as a meter shows them, thousandths where they are small."""

from __future__ import annotations

import math
from typing import Literal

Unit = Literal["V", "A", "Ω", "K"]
UNIT_OF: dict[str, Unit] = {"volts": "V", "amps": "A", "ohms": "Ω", "warmth": "K"}
_SMALL = 0.1


def number_text(value: float) -> str:
    """As a meter shows it: two decimals, thousandths below a tenth."""
    if value != 0 and abs(value) < _SMALL:
        return f"{value:.4f}".rstrip("0").rstrip(".").replace("-0", "0", 1) or "0"
    text = f"{value:.2f}" if abs(value) < 100 else f"{value:.4g}"
    return "0.00" if text == "-0.00" else text


def small(value: float, unit: str) -> str:
    """A figure with its unit, thousandths where it is small: 0.021 V is 21 mV.

    Parameters
    ----------
    value : float
        In the unit.
    unit : str
        ``V``, ``A``, ``Ω`` or ``K``.

    Returns
    -------
    str
        In words.
    """
    if math.isinf(value):
        return "open"
    if unit in ("V", "A", "Ω") and 0 < abs(value) < _SMALL:
        text = f"{1000 * value:.3g}"
        return f"0 {unit}" if abs(value) < 5e-5 else f"{text} m{unit}"
    if unit == "Ω" and abs(value) >= 1e4:
        return f"{value / 1e6:.3g} MΩ" if abs(value) >= 1e6 else f"{value / 1e3:.3g} kΩ"
    return f"{number_text(value)} {unit}"


def span_text(low: float, high: float, unit: str) -> str:
    """A band in words.

    Parameters
    ----------
    low, high : float
        Its ends, in the unit; no upper end where it is infinite.
    unit : str
        ``V``, ``A``, ``Ω`` or ``K``.

    Returns
    -------
    str
        In words, in thousandths where all of it is small.
    """
    if math.isinf(high):
        return f"at least {small(low, unit)}"
    if unit in ("Ω", "K") and low <= 0:
        return f"at most {small(high, unit)}"
    if unit in ("V", "A") and low < 0 < high:
        return f"at most {small(max(-low, high), unit)}"
    if unit in ("V", "A") and max(abs(low), abs(high)) < _SMALL:
        return f"{1000 * low:.3g} to {1000 * high:.3g} m{unit}"
    return f"{number_text(low)} to {number_text(high)} {unit}"
