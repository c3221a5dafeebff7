"""What is due as iCalendar (RFC 5545): one event a day something is due, coming back as often as it does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta

from icalendar import Alarm, Calendar, Event


@dataclass(frozen=True, slots=True)
class DueEvent:
    """Something due: the day, the odometer where that comes first [km], and how often it comes back [d]."""

    what: str
    label: str
    explain: str
    on: date
    at_km: float | None
    every_days: int


def due_calendar(job: str, plan_id: str, due: Sequence[DueEvent], address: str = "") -> bytes:
    """What is due on a vehicle as iCalendar.

    Parameters
    ----------
    job : str
        Name of the job.
    plan_id : str
        Makes the ids of its events.
    due : sequence
        What is due.
    address : str
        Where the log of the vehicle opens; left out where empty.

    Returns
    -------
    bytes
        A calendar; the same again with the same ids, so that an import replaces what was there. The stamp is the day it
        is due: the file is the same as long as nothing changed.
    """
    # A line of a calendar is a line: a break in a name would begin another.
    job = " ".join(job.split())
    calendar = Calendar()
    calendar.add("prodid", "-//Lucernis//Due dates//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"{job}: due")
    for one in due:
        event = Event()
        event.add("uid", f"{plan_id}-{one.what}@lucernis")
        event.add("dtstamp", datetime.combine(one.on, time(), UTC))
        event.add("dtstart", one.on)
        event.add("summary", f"{job}: {one.label}")
        km = f" Or at {one.at_km:,.0f} km, whichever comes first." if one.at_km is not None else ""
        event.add("description", f"{one.explain}.{km}")
        event.add("rrule", {"freq": "daily", "interval": one.every_days})
        if address:
            event.add("url", address)
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", f"{job}: {one.label}")
        alarm.add("trigger", timedelta(days=-7))
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
