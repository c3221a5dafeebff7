"""One line of the proving list."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.prove.meanings import Meaning


@dataclass(frozen=True, slots=True)
class Line:
    """One reading of the list.

    `value` with `low` and `high` is what should be read, in `unit`, `band` the same in words; None for no
    upper end. `amps` is what flows there then [A], `ohm` what the stretch read across has when it is sound [Ω]. `means`
    says what it shows, in its band and out of it.
    `red` and `black` are where the probes go. Readings of one `id` belong together as long as
    `as_read` stays.
    """

    id: str
    section: str
    situation: str
    reading: str
    label: str
    means: Meaning
    quantity: str
    unit: str
    red: str
    black: str
    part: str
    run: str
    value: float
    low: float
    high: float | None
    band: str
    floating: bool
    amps: float | None
    ohm: float | None
    as_read: str


def line_id(reading: str, situation: str) -> str:
    """Name of a line for good."""
    return f"{reading}@{situation}"
