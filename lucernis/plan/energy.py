"""How a vehicle is lived in: the course of a day, where it stands, what the weather gives, what it must last."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, field_validator, model_validator

from lucernis.plan.base import Doc, Id, Name
from lucernis.plan.identity import with_ids

Frac = Annotated[float, Field(ge=0, le=1)]


class Slot(Doc):
    """A stretch of the day in one operating state."""

    id: Id | None = Field(default=None, description="Given by the program where it is left out.")
    state: Id
    hours: Annotated[float, Field(gt=0, le=24)]


class Stop(Doc):
    """A parking place and how long one stays; without sun in a garage or deep shade."""

    id: Id | None = Field(default=None, description="Given by the program where it is left out.")
    name: Name
    latitude_deg: Annotated[float, Field(ge=-90, le=90)]
    longitude_deg: Annotated[float, Field(ge=-180, le=180)]
    days: Annotated[int, Field(ge=1, le=366)] = 7
    shade_frac: Frac = Field(default=0.0, description="Share of the sun taken away by trees and houses.")


class Energy(Doc):
    """What the days ask and give."""

    days: Annotated[float, Field(gt=0, le=60)] = Field(default=2.0, description="To last without any charge.")
    usable_frac: Annotated[float, Field(gt=0, le=1)] | None = Field(
        default=None, description="Share of the bank used; by chemistry when absent."
    )
    day: tuple[Slot, ...] = Field(
        default=(), max_length=24, description="From midnight; all day with most loads on when empty."
    )
    stops: tuple[Stop, ...] = Field(default=(), max_length=30)
    month: Annotated[int, Field(ge=1, le=12)] = 6
    fair_frac: Frac = Field(default=0.8, description="Share of the clear sky's sun in a fair week.")
    poor_frac: Frac = Field(default=0.3, description="The same in a poor week.")
    battery_c: Annotated[float, Field(ge=-40, le=60)] = Field(default=20.0, description="Temperature of the bank.")
    outside_c: Annotated[float, Field(ge=-50, le=55)] = Field(default=20.0, description="Usual by day.")
    coldest_c: Annotated[float, Field(ge=-60, le=40)] = Field(
        default=-10.0, description="Coldest morning with sun, for the voltage of panels."
    )
    weather: Id | None = Field(default=None, description="An imported weather file in place of clear sky and shares.")

    @field_validator("day")
    @classmethod
    def _stretches_are_known(cls, day: tuple[Slot, ...]) -> tuple[Slot, ...]:
        return with_ids(day, "d")

    @field_validator("stops")
    @classmethod
    def _stops_are_known(cls, stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
        return with_ids(stops, "s")

    @model_validator(mode="after")
    def _a_whole_day(self) -> Energy:
        total = sum(slot.hours for slot in self.day)
        if self.day and abs(total - 24) > 0.01:
            raise ValueError(f"day: the hours add up to {total:g}, must be 24")
        if self.poor_frac > self.fair_frac:
            raise ValueError(f"poor_frac must be <= fair_frac ({self.fair_frac:g})")
        return self
