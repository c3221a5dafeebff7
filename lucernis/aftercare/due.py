"""What is due when, by the day or by the odometer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from lucernis.aftercare.log import Noted, built_last, odometer_km, of_kind
from lucernis.plan.model import Battery, Plan
from lucernis.practice.tables import load_table

# Due is told so long before.
SOON = timedelta(days=14)


@dataclass(frozen=True, slots=True)
class Due:
    """Something to do again. `on` is the day at the latest, `at_km` the odometer where that comes first; `state` says
    whether it lies in the past. `every_days` is how often from then on. [d]"""

    what: str
    label: str
    explain: str
    on: date
    at_km: float | None
    every_days: int
    last: str
    state: str


def _fits(plan: Plan, what: str) -> bool:
    if what != "lead":
        return True
    return any(isinstance(part, Battery) and part.chemistry == "flooded" for part in plan.parts)


def due_dates(plan: Plan, noted: Sequence[Noted], today: date) -> list[Due]:
    """What is due on a vehicle.

    Parameters
    ----------
    plan : Plan
        Its plan.
    noted : sequence of Noted
        Its record, what was taken back left out.
    today : date
        The day it is asked.

    Returns
    -------
    list of Due
        Next first; none before it counts as built. By aftercare.csv (practice).
    """
    start = built_last(noted)
    if start is None:
        return []
    km = odometer_km(noted)
    found = []
    for row in load_table("aftercare").rows:
        what = row["what"]
        if not _fits(plan, what):
            continue
        # What was checked before it was built anew says nothing of what is new; one entered late is as old as it is.
        done = [one for one in of_kind(noted, "recheck") if one.subject == what and one.day >= start.day]
        done.sort(key=lambda one: (one.day, one.number))
        every = int(row["every_days"])
        at_km = None
        if done:
            on, last = done[-1].day + timedelta(days=every), done[-1].made_at
        else:
            on, last = start.day + timedelta(days=int(row["first_days"])), ""
            began_km = start.number_of("odometer_km")
            if row["first_km"] and began_km is not None:
                at_km = began_km + float(row["first_km"])
        passed_km = at_km is not None and km is not None and km > at_km
        state = "overdue" if today > on or passed_km else "soon" if today >= on - SOON else "later"
        found.append(Due(what, row["label"], row["explain"], on, at_km, every, last, state))
    return sorted(found, key=lambda one: (one.on, one.what))
