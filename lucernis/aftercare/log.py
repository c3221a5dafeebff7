"""What aftercare reads of a record: entries that stand, oldest first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime

Value = str | float | int | bool | None


@dataclass(frozen=True, slots=True)
class Noted:
    """An entry that stands, as far as it is read here."""

    number: int
    kind: str
    subject: str
    was: str
    text: str
    who: str
    made_at: str
    revision: int
    detail: Mapping[str, Value]

    @property
    def day(self) -> date:
        """The day it was done, by UTC."""
        return datetime.fromisoformat(self.made_at).astimezone(UTC).date()

    def number_of(self, name: str) -> float | None:
        """A figure of it, None where it has none."""
        value = self.detail.get(name)
        return float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None


def of_kind(noted: Sequence[Noted], kind: str) -> list[Noted]:
    """Entries of one kind."""
    return [one for one in noted if one.kind == kind]


def handed_over(noted: Sequence[Noted]) -> Noted | None:
    """The entry from which a vehicle counts as built: as-built frozen, else its first power-up done."""
    frozen = of_kind(noted, "asbuilt")
    if frozen:
        return frozen[0]
    powered = [one for one in of_kind(noted, "done") if one.subject in ("power:again", "power:load")]
    return powered[0] if powered else None


def built_last(noted: Sequence[Noted]) -> Noted | None:
    """The entry from which rechecks count: the last as-built, since what was built anew settles anew; else as
    `handed_over`."""
    frozen = of_kind(noted, "asbuilt")
    return max(frozen, key=lambda one: (one.day, one.number)) if frozen else handed_over(noted)


def odometer_km(noted: Sequence[Noted]) -> float | None:
    """The odometer as it was noted last, by the day it was read. [km]"""
    known = [(one.day, one.number, value) for one in noted if (value := one.number_of("odometer_km")) is not None]
    return max(known)[2] if known else None
