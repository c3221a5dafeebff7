"""Readings of the record against the proving list: which stand, which are out, which are older than the plan."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from lucernis.aftercare.log import Noted, of_kind
from lucernis.core.prove.judge import Judged, judge_line
from lucernis.core.prove.proving_line import Line


@dataclass(frozen=True, slots=True)
class Proved:
    """The last reading of a line. `old` tells that the plan has changed what is expected there since."""

    line: str
    entry: int
    typed: str
    who: str
    made_at: str
    instrument: str
    leads_ohm: float
    judged: Judged
    old: bool
    times: int
    """How often it was read."""


def leads_ohm(noted: Sequence[Noted]) -> float:
    """What the leads have by the last reading that says it. [Ω]"""
    known = [value for one in of_kind(noted, "reading") if (value := one.number_of("leads_ohm")) is not None]
    return known[-1] if known else 0.0


def proved(
    lines: Sequence[Line],
    noted: Sequence[Noted],
    of_day: Callable[[str, str], Mapping[str, Line]] | None = None,
) -> dict[str, Proved]:
    """The last reading of every line that was read.

    Parameters
    ----------
    lines : sequence of Line
        The proving list.
    noted : sequence of Noted
        The record.
    of_day : callable, optional
        The lines by id for the measured batteries and the sky a reading was noted with: it is judged by its own day,
        never by another.

    Returns
    -------
    dict of str to Proved
        By id of the line.
    """
    by_id = {line.id: line for line in lines}
    found: dict[str, Proved] = {}
    times: dict[str, int] = {}
    for one in of_kind(noted, "reading"):
        line = by_id.get(one.subject)
        if line is None:
            continue
        times[line.id] = times.get(line.id, 0) + 1
        measured, sky = (str(one.detail.get(name) or "") for name in ("measured", "sky"))
        own = of_day(measured, sky).get(line.id, line) if of_day is not None and (measured or sky) else line
        instrument, leads = one.detail.get("instrument"), one.number_of("leads_ohm") or 0.0
        found[line.id] = Proved(
            line.id, one.number, one.text, one.who, one.made_at, str(instrument or ""), leads,
            judge_line(own, one.text, leads),
            bool(one.was) and one.was != line.as_read, times[line.id],
        )  # fmt: skip
    return found
