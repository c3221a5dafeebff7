"""Reads quantities as people type them, and keeps what was typed. Inside the plan all is SI, lengths one way.

No quantity is ever guessed: a text without a unit takes the unit the field names, anything odd is refused.
"""

from __future__ import annotations

import math
import re
from typing import Literal

from lucernis.errors import NotUnderstood, OutOfRange

LengthReading = Literal["one_way", "loop"]
Preference = Literal["us", "metric", "metric_bs"]

METRE_PER: dict[str, float] = {
    "m": 1.0,
    "cm": 0.01,
    "mm": 0.001,
    "ft": 0.3048,
    "feet": 0.3048,
    "foot": 0.3048,
    "'": 0.3048,
    "in": 0.0254,
    "inch": 0.0254,
    '"': 0.0254,
}
DEFAULT_LENGTH_UNIT: dict[Preference, str] = {"us": "ft", "metric": "m", "metric_bs": "m"}
LONG_M = 100.0
LONGEST_M = 1000.0

_NUMBER = r"[+-]?(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:e[+-]?\d+)?"
_FEET_INCHES = re.compile(rf"^({_NUMBER})\s*(?:'|ft|feet)\s*({_NUMBER})\s*(?:\"|in|inch)$")
_LENGTH = re.compile(rf"^({_NUMBER})\s*(m|cm|mm|ft|feet|foot|'|in|inch|\")?$")
_LOOP = re.compile(r"\s*(?:loop|there and back|both ways|two way|2 way)$")
_ONE_WAY = re.compile(r"\s*(?:one way|one-way|1 way)$")


def parse_number(text: str, *, field: str) -> float:
    """Read a plain number; a decimal comma is taken, a thousands separator is refused.

    Raises
    ------
    NotUnderstood
        If the text is not one finite number.
    """
    clean = text.strip().replace("\u2212", "-").replace("\u00a0", " ")
    if not re.fullmatch(_NUMBER, clean, re.IGNORECASE):
        raise NotUnderstood(
            f"{field}: {text.strip()[:40]!r} is not a number", field=field, value=text[:40], allowed="a number like 6.2"
        )
    value = float(clean.replace(",", "."))
    if not math.isfinite(value):
        raise NotUnderstood(f"{field}: the number is too large", field=field, value=text[:40], allowed="a number")
    return value


def parse_length_m(
    text: str, *, field: str, preference: Preference, reading: LengthReading = "one_way"
) -> tuple[float, str]:
    """Read a length as typed and return it one way in metres, with a tidy copy of what was typed.

    Parameters
    ----------
    text : str
        Like ``14 ft``, ``4.2``, ``3,5 m``, ``12' 6"``, ``28 ft loop``.
    field : str
        Name for messages.
    preference : Preference
        Decides the unit when none is typed.
    reading : LengthReading
        How a length without a word is meant; ``loop`` halves it.

    Returns
    -------
    tuple of float and str
        One-way length [m] and the text to keep.

    Raises
    ------
    NotUnderstood
        If the text is not a length.
    OutOfRange
        If it is not above zero.

    Examples
    --------
    >>> parse_length_m("28 ft loop", field="length", preference="metric")
    (4.2672, '28 ft loop')
    """
    # A length shown as guessed begins with a tilde.
    clean = (
        text.strip().lstrip("~").strip().lower().replace("\u2032", "'").replace("\u2033", '"').replace("\u2212", "-")
    )
    if _LOOP.search(clean):
        reading, clean = "loop", _LOOP.sub("", clean)
    elif _ONE_WAY.search(clean):
        reading, clean = "one_way", _ONE_WAY.sub("", clean)
    both = _FEET_INCHES.match(clean)
    single = _LENGTH.match(clean)
    if both:
        value_m = parse_number(both[1], field=field) * 0.3048 + parse_number(both[2], field=field) * 0.0254
        shown = f"{both[1]} ft {both[2]} in"
    elif single:
        unit = single[2] or DEFAULT_LENGTH_UNIT[preference]
        value_m = parse_number(single[1], field=field) * METRE_PER[unit]
        shown = f"{single[1].replace(',', '.')} {unit}"
    else:
        raise NotUnderstood(
            f"{field}: {text.strip()[:40]!r} is not a length",
            field=field,
            value=text[:40],
            allowed="a number with m, cm, mm, ft or in, and 'loop' for there and back",
        )
    if not value_m > 0:
        raise OutOfRange(f"{field} must be above 0", field=field, value=text[:40], allowed="a length > 0")
    if reading == "loop":
        value_m, shown = value_m / 2, f"{shown} loop"
    return round(value_m, 6), shown


def length_text(length_m: float, preference: Preference) -> str:
    """A length in the unit a person prefers, for print and text."""
    if preference == "us":
        return f"{length_m / 0.3048:.1f} ft"
    return f"{length_m:.2f} m"


def told_length(length_m: float, preference: Preference, *, short: bool = False) -> str:
    """A length in the middle of a sentence, to three digits; a short one in millimetres or inches."""
    if preference == "us":
        return f"{round(length_m / 0.0254, 1):g} in" if short else f"{length_m / 0.3048:.3g} ft"
    return f"{1000 * length_m:.0f} mm" if short else f"{length_m:.3g} m"


def told_cut(length_m: float, preference: Preference) -> str:
    """A length as it is cut off: to the centimetre, or to a tenth of an inch."""
    if preference == "metric":
        return f"{length_m:.2f} m"
    feet, inches = divmod(round(length_m / 0.0254, 1), 12)
    return f"{feet:.0f} ft {inches:.1f} in" if feet else f"{inches:.1f} in"


def told_area(area_m2: float, preference: Preference) -> str:
    """An area in the middle of a sentence, to three digits."""
    return f"{area_m2 / 0.3048**2:.3g} sq ft" if preference == "us" else f"{area_m2:.3g} m²"
