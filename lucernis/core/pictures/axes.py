"""Axes of a chart: where values lie and which ticks are written."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Scale:
    """Maps a value to a pixel, straight or logarithmic."""

    low: float
    high: float
    start: float
    end: float
    log: bool = False

    def at(self, value: float) -> float:
        """Pixel of a value, held inside the frame."""
        low, high, here = self.low, self.high, min(max(value, self.low), self.high)
        if self.log:
            low, high, here = math.log(low), math.log(high), math.log(here)
        return self.start + (here - low) / (high - low) * (self.end - self.start)

    def inside(self, value: float) -> bool:
        """Whether a value lies in the frame."""
        return self.low <= value <= self.high

    def ticks(self) -> list[float]:
        """Round values inside, few enough to be read."""
        if self.log:
            first, last = math.floor(math.log10(self.low)), math.ceil(math.log10(self.high))
            return [10.0**k for k in range(first, last + 1) if self.low * 0.999 <= 10.0**k <= self.high * 1.001]
        step = 10 ** math.floor(math.log10((self.high - self.low) / 4 or 1))
        for factor in (1, 2, 5, 10):
            if (self.high - self.low) / (step * factor) <= 6:
                step *= factor
                break
        first = math.ceil(self.low / step - 1e-9)
        return [round(k * step, 9) for k in range(first, math.floor(self.high / step + 1e-9) + 1)]


def tick_text(value: float) -> str:
    """A tick as it is written."""
    return f"{value:g}" if value < 10000 else f"{value / 1000:g}k"
