"""What runs on AC behind an inverter: each device, and what all of it asks. The AC wiring is a licensed person's."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from lucernis.plan.base import Doc, Name


class AcDevice(Doc):
    """A device on AC: what it draws, for how long, how it starts, and whether it runs beside the others."""

    name: Name
    power_w: Annotated[float, Field(gt=0, le=20000)]
    hours_per_day: Annotated[float, Field(ge=0, le=24)] = 1.0
    inrush_factor: Annotated[float, Field(ge=1, le=20)] = Field(
        default=1.0, description="Starting power as a multiple of its running power."
    )
    alone: bool = Field(default=False, description="Never on together with the others.")


@dataclass(frozen=True, slots=True)
class AcNeed:
    """What the devices ask of an inverter: watts together, watts while one starts, energy and hours a day.

    `together` are the devices counted at once, `starting` the one whose start asks most.
    """

    continuous_w: float
    surge_w: float
    wh_per_day: float
    hours_per_day: float
    together: tuple[str, ...]
    starting: str


def ac_need(devices: Sequence[AcDevice]) -> AcNeed:
    """What devices on AC ask.

    Parameters
    ----------
    devices : sequence of AcDevice
        At least one.

    Returns
    -------
    AcNeed
        Continuous: those that may run together, or the largest that runs alone. Surge: the worst start with all that
        may run beside it on. Hours are those that give the same energy at the continuous watts.

    Examples
    --------
    >>> kettle = AcDevice(name="Kettle", power_w=1000, hours_per_day=0.2, alone=True)
    >>> laptop = AcDevice(name="Laptop", power_w=90, hours_per_day=4)
    >>> need = ac_need([kettle, laptop])
    >>> need.continuous_w, need.wh_per_day
    (1000.0, 560.0)
    """
    beside = [one for one in devices if not one.alone]
    both_w = sum(one.power_w for one in beside)
    largest = max((one for one in devices if one.alone), key=lambda one: one.power_w, default=None)
    if largest is not None and largest.power_w > both_w:
        counted, continuous_w = [largest], largest.power_w
    else:
        counted, continuous_w = beside, both_w
    starts = {
        one.name: one.power_w * one.inrush_factor + (0.0 if one.alone else both_w - one.power_w) for one in devices
    }
    starting = max(starts, key=lambda name: starts[name])
    energy_wh = sum(one.power_w * one.hours_per_day for one in devices)
    return AcNeed(
        continuous_w=continuous_w,
        surge_w=max(continuous_w, starts[starting]),
        wh_per_day=energy_wh,
        hours_per_day=min(24.0, energy_wh / continuous_w),
        together=tuple(one.name for one in counted),
        starting=starting,
    )
