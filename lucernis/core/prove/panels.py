"""What panels read by themselves, for the weather there is."""

from __future__ import annotations

import math

from lucernis.plan.model import Panel
from lucernis.practice.tables import load_table

WEATHERS = {"bright": "Bright sun", "hazy": "Thin cloud", "grey": "Grey sky"}
# Light on a flat panel from and to [W/m²], and warmth of its cells from and to [°C]. Common practice, no source.
_LIGHT: dict[str, tuple[float, float]] = {"bright": (550.0, 1050.0), "hazy": (200.0, 600.0), "grey": (30.0, 220.0)}
_CELLS: dict[str, tuple[float, float]] = {"bright": (25.0, 65.0), "hazy": (15.0, 45.0), "grey": (0.0, 30.0)}
_STANDARD_W_M2 = 1000.0
# Volts of a cell fall by so much of 25 mV for each factor e of light; as a share of open volts. Memory. [1]
_PER_E = 0.045
# A panel against its sheet, both ways. Common practice, no source. [1]
_SHEET_FRAC = 0.04


def light_of(sky: str) -> tuple[float, float]:
    """What panels give of their rating under a sky, and one standard deviation of it as a share.

    Parameters
    ----------
    sky : str
        Of WEATHERS; empty where nobody said: any of them.

    Returns
    -------
    tuple of float
        Middle of what is met, and its even spread against it. [1]
    """
    some = [_LIGHT[sky]] if sky else list(_LIGHT.values())
    low, high = min(one for one, _ in some) / _STANDARD_W_M2, max(one for _, one in some) / _STANDARD_W_M2
    middle = (low + high) / 2
    return middle, (high - low) / math.sqrt(12.0) / middle


def panel_bands(panel: Panel) -> list[tuple[str, str, str, dict[str, tuple[float, float]]]]:
    """Open volts and short-circuit current of panels in bright sun, thin cloud and under a grey sky.

    Parameters
    ----------
    panel : Panel
        The panels, in series and side by side as they are joined.

    Returns
    -------
    list of (str, str, str, dict)
        Name, unit, words, and by weather from and to. [V], [A]

    Notes
    -----
    ``Voc = Voc0 (1 + β (T − 25)) (1 + k ln(G / 1000))`` and ``Isc = Isc0 G / 1000``; β by panel_typical.csv, k from
    memory.
    """
    usual = float(load_table("panel_typical").find("crystalline")["open_frac_per_k"])
    beta = panel.open_frac_per_k if panel.open_frac_per_k is not None else usual
    volts, amps = {}, {}
    for weather in WEATHERS:
        light, cells = _LIGHT[weather], _CELLS[weather]
        ends = [
            panel.open_v * panel.series * (1 + beta * (warm - 25)) * (1 + _PER_E * math.log(g / _STANDARD_W_M2))
            for g, warm in ((light[0], cells[1]), (light[1], cells[0]))
        ]
        volts[weather] = (min(ends) * (1 - _SHEET_FRAC), max(ends) * (1 + _SHEET_FRAC))
        short = panel.short_a * panel.strings / _STANDARD_W_M2
        amps[weather] = (short * light[0] * (1 - _SHEET_FRAC), short * light[1] * (1 + _SHEET_FRAC))
    return [("open", "V", "open volts", volts), ("short", "A", "short-circuit current", amps)]
