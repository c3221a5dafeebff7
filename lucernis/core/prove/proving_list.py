"""The proving list in the making: readings are asked for one by one and reckoned state by state."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from lucernis.core.prove.expect import Foreseen, foresee
from lucernis.core.prove.frame import Frame, Reading
from lucernis.core.prove.living import Living, live
from lucernis.core.prove.meanings import Meaning
from lucernis.core.prove.proving_line import Line, line_id
from lucernis.core.prove.words import UNIT_OF, span_text

SECTIONS: tuple[tuple[str, str], ...] = (
    ("dead", "Nothing live"),
    ("fuses", "At rest, fuses in one by one"),
    ("isolated", "Main switch off"),
    ("keyed", "Keyed feeds"),
    ("loads", "Device by device"),
    ("branches", "Branch circuits, drop on each leg"),
    ("most", "At the most that flows"),
    ("engine", "Engine running"),
    ("shore", "On shore power"),
    ("sun", "In the sun"),
    ("warm", "After thirty minutes at load"),
)
# Between a positive and a negative with everything unplugged. Common practice, no source. [Ω]
APART_OHM = 1e4


@dataclass(frozen=True, slots=True)
class Wanted:
    """A reading that is asked for. `apart` where nothing may join what it is read between; `most_v` where more than
    that harms, whatever the band says. [V]"""

    section: str
    reading: Reading
    means: Meaning
    apart: bool = False
    most_v: float | None = None


class ProvingList:
    """The list in the making: readings of one situation are reckoned together."""

    def __init__(self, made: Frame) -> None:
        self.frame, self.lines, self.wanted = made, [], {}
        self._livings: dict[str, Living] = {}

    lines: list[Line]
    wanted: dict[str, list[Wanted]]

    def living(self, name: str) -> Living:
        """A situation, solved once."""
        if name not in self._livings:
            self._livings[name] = live(self.frame, self.frame.situations[name])
        return self._livings[name]

    def want(
        self,
        section: str,
        situation: str,
        reading: Reading,
        means: Meaning,
        *,
        apart: bool = False,
        most_v: float | None = None,
    ) -> None:
        """Ask for a reading, see `Wanted`."""
        if situation in self.frame.situations:
            self.wanted.setdefault(situation, []).append(Wanted(section, reading, means, apart, most_v))

    def settle(self) -> list[Line]:
        """Reckon everything that was asked for, in the order of the sections."""
        ranked: list[tuple[int, int, Line]] = []
        order = {name: k for k, (name, _) in enumerate(SECTIONS)}
        count = 0
        for situation, asked in self.wanted.items():
            living = self.living(situation)
            foreseen = foresee(living, [one.reading for one in asked])
            for k, one in enumerate(asked):
                ranked.append((order[one.section], count, self._line(one, living, foreseen, k)))
                count += 1
        return [line for _, _, line in sorted(ranked, key=lambda one: one[:2])]

    def _line(self, wanted: Wanted, living: Living, foreseen: Foreseen, k: int) -> Line:
        reading = wanted.reading
        value, low = float(foreseen.value[k]), float(foreseen.low[k])
        high: float | None = float(foreseen.high[k])
        if wanted.most_v is not None and high is not None and high > wanted.most_v > low:
            high, value = wanted.most_v, min(value, wanted.most_v)
        if wanted.apart:
            value, low, high = max(value, APART_OHM), APART_OHM, None
        if high is not None and not np.isfinite(high):
            high = None
        amps = ohm = None
        if reading.quantity == "volts" and reading.run and reading.red is not None and reading.black is not None:
            passed = set(reading.black.passed) ^ set(reading.red.passed)
            if passed:
                c = int(self.frame.of[next(iter(passed))])
                amps = float(living.conductor_a[c])
                ohm = float(sum(living.element_ohm[one] for one in passed))
        unit = UNIT_OF[reading.quantity]
        as_read = f"{reading.label}: {low:.3g} to {'any' if high is None else f'{high:.3g}'} {unit}"
        return Line(
            line_id(reading.id, living.situation.id), wanted.section, living.situation.id, reading.id, reading.label,
            wanted.means,
            reading.quantity, unit, reading.red.label if reading.red is not None else "clamp",
            reading.black.label if reading.black is not None else "", reading.part, reading.run, value, low, high,
            span_text(low, math.inf if high is None else high, unit), bool(foreseen.floating[k]), amps, ohm, as_read,
        )  # fmt: skip
