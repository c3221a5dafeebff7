"""What is known of the day readings are taken on: volts of batteries measured just now, and the sky."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.prove.panels import WEATHERS
from lucernis.errors import NotUnderstood
from lucernis.plan.model import Battery, Plan

# A battery is measured within so much of its nominal volts. [1]
_LEAST_FRAC, _MOST_FRAC = 0.5, 1.35


@dataclass(frozen=True, slots=True)
class Day:
    """Volts of batteries at rest by id, in the order of their ids [V], and the sky, empty where nobody said."""

    measured_v: tuple[tuple[str, float], ...] = ()
    sky: str = ""

    @property
    def known(self) -> bool:
        """Whether anything is."""
        return bool(self.measured_v or self.sky)


def read_day(plan: Plan, measured: str, sky: str) -> Day:
    """What is known of a day, as it is typed.

    Parameters
    ----------
    plan : Plan
        Whose batteries they are.
    measured : str
        As ``b1:12.63,b2:12.60``; may be empty.
    sky : str
        Of panels.WEATHERS; may be empty.

    Returns
    -------
    Day
        In the order of the ids, so that the same day is the same.

    Raises
    ------
    NotUnderstood
        If it is none.
    """
    if sky and sky not in WEATHERS:
        raise NotUnderstood(f"no sky {sky!r}", field="sky", value=sky, allowed=", ".join(WEATHERS))
    batteries = {part.id: part for part in plan.parts if isinstance(part, Battery)}
    found: dict[str, float] = {}
    for one in filter(None, measured.split(",")):
        name, _, text = one.partition(":")
        battery = batteries.get(name)
        if battery is None:
            raise NotUnderstood(
                f"no battery {name!r}", field="measured", value=one, allowed=", ".join(batteries) or "no battery"
            )
        nominal_v = float(battery.rated_v or plan.nominal_v)
        least, most = _LEAST_FRAC * nominal_v, _MOST_FRAC * nominal_v
        allowed = f"{least:g} to {most:g} V"
        try:
            volts = float(text)
        except ValueError as error:
            raise NotUnderstood(
                f"{text!r} is no number of volts", field="measured", value=one, allowed=allowed
            ) from error
        if not least <= volts <= most:
            raise NotUnderstood(f"{battery.name}: {text} V", field="measured", value=one, allowed=allowed)
        found[name] = volts
    return Day(tuple(sorted(found.items())), sky)
