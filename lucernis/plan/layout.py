"""Where things are in the vehicle: its outline, its zones and places, the channels between them, the way of a run.

A channel is measured once, from place to place; what lies in it takes its length, its heat, its holes and its
neighbours from there. Drawn positions are for looking, measured lengths for wiring.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from lucernis.errors import LucernisError
from lucernis.plan.base import Doc, Id, Length, Name
from lucernis.plan.identity import with_ids
from lucernis.plan.units import LONG_M, LONGEST_M, parse_length_m

BodyShape = Literal["long_van", "short_van", "pickup", "caravan", "coach", "boat", "motorcycle", "plain"]
Near = Literal["exhaust", "heat", "fuel", "moving"]
Through = Literal["firewall", "metal", "plastic_or_wood", "roof"]
_Coordinate = Annotated[float, Field(ge=-20, le=40)]


class WheelArch(Doc):
    """A wheel arch inside: along one wall, so far from the front."""

    id: Id | None = Field(default=None, description="Given by the program where it is left out.")
    side: Literal["left", "right"]
    from_front_m: Annotated[float, Field(ge=0, le=30)]
    length_m: Annotated[float, Field(gt=0, le=5)] = 0.9
    width_m: Annotated[float, Field(gt=0, le=2)] = 0.25


class Door(Doc):
    """A door: in a side wall so far from the front, in the front or rear wall so far from the left."""

    id: Id | None = Field(default=None, description="Given by the program where it is left out.")
    side: Literal["left", "right", "front", "rear"]
    from_m: Annotated[float, Field(ge=0, le=30)]
    width_m: Annotated[float, Field(gt=0, le=10)] = 0.9


class Outline(Doc):
    """The vehicle from above, from a few measures; the front of the inside is 0, its left wall is 0."""

    shape: BodyShape = "plain"
    length_m: Annotated[float, Field(ge=0.3, le=30)] = 4.0
    width_m: Annotated[float, Field(ge=0.2, le=6)] = 1.8
    height_m: Annotated[float, Field(ge=0.2, le=5)] = 1.9
    nose_m: Annotated[float, Field(ge=0, le=6)] = Field(
        default=0.0, description="What lies ahead of the inside: engine space, drawbar, bow."
    )
    cab_m: Annotated[float, Field(ge=0, le=6)] = Field(default=0.0, description="Length of the cab within the inside.")
    traffic: Literal["left", "right"] = Field(
        default="right", description="Side of the road one drives on; who drives sits on the other side."
    )
    arches: tuple[WheelArch, ...] = Field(default=(), max_length=8)
    doors: tuple[Door, ...] = Field(default=(), max_length=12)

    @field_validator("arches")
    @classmethod
    def _arches_are_known(cls, arches: tuple[WheelArch, ...]) -> tuple[WheelArch, ...]:
        return with_ids(arches, "a")

    @field_validator("doors")
    @classmethod
    def _doors_are_known(cls, doors: tuple[Door, ...]) -> tuple[Door, ...]:
        return with_ids(doors, "d")


class Zone(Doc):
    """A part of the vehicle with one ambient temperature."""

    id: Id
    name: Name
    ambient_c: Annotated[float, Field(ge=-40, le=120)] = 30.0
    coldest_c: Annotated[float, Field(ge=-40, le=60)] | None = Field(
        default=None, description="In the coldest hours its batteries must charge in; that of the days when absent."
    )
    engine_space: bool = False
    vapour: bool = Field(default=False, description="Petrol or gas vapour can gather: no sparks.")
    wet: bool = Field(default=False, description="Spray, rain or bilge water reach it.")


def usual_zone(zones: tuple[Zone, ...]) -> Zone:
    """The zone of what has none named: the mildest there is, whichever stands first in the list."""
    return min(zones, key=lambda one: (one.engine_space, one.vapour, one.wet, one.ambient_c, one.id))


class Place(Doc):
    """A named spot where things are mounted or channels meet, in one zone."""

    id: Id
    name: Name
    zone: Id
    vented: bool | None = Field(default=None, description="Opens to outside air, high up; not known when absent.")
    x_m: _Coordinate | None = Field(default=None, description="From the front of the inside towards the rear.")
    y_m: _Coordinate | None = Field(default=None, description="From the left wall towards the right.")
    z_m: Annotated[float, Field(ge=-3, le=6)] | None = Field(default=None, description="Above the floor.")
    reach: Literal["open", "panel", "closed"] = Field(
        default="open", description="At hand, behind a panel that opens, or behind a wall that stays closed."
    )
    airy: bool | None = Field(default=None, description="Room and air around what stands there; not known when absent.")


class Crossing(Doc):
    """A hole on a channel, or one that a run goes through by itself."""

    id: Id | None = Field(default=None, description="Given by the program where it is left out.")
    through: Through
    hole_mm: Annotated[float, Field(gt=0, le=200)] | None = Field(
        default=None, description="Inside diameter that is left for wires; not measured when absent."
    )
    grommet: bool = True
    sealed: bool = True
    existing: bool = Field(default=False, description="There already: nothing to drill.")


class Channel(Doc):
    """A way for wires from one place to another, measured once."""

    id: Id
    name: Name
    start: Id
    finish: Id
    length_m: Length | None = Field(default=None, description="By the tape; as drawn, and guessed, when absent.")
    length_as_typed: Annotated[str, Field(max_length=40)] | None = None
    zone: Id | None = Field(default=None, description="The zone it lies in; those of its two places when absent.")
    near: tuple[Near, ...] = Field(default=(), max_length=4, description="What lies near it.")
    guarded: bool = Field(default=False, description="Conduit, shield or plate where it lies near that.")
    clamp_m: Annotated[float, Field(gt=0, le=LONGEST_M)] | None = Field(
        default=None, description="Held every so often; not known when absent."
    )
    closed: bool = Field(default=False, description="Gets closed behind a panel.")
    screws: bool = Field(default=False, description="Screws go there later.")
    inside_mm: Annotated[float, Field(gt=0, le=500)] | None = Field(
        default=None, description="Inside diameter of its conduit; open when absent."
    )
    gas: bool = Field(default=False, description="A gas line lies in it.")
    mains: Literal["none", "apart", "together"] = Field(
        default="none", description="Mains wiring in it: none, kept apart by a wall or conduit, or beside."
    )
    crossings: tuple[Crossing, ...] = Field(default=(), max_length=20)

    @field_validator("crossings")
    @classmethod
    def _crossings_are_known(cls, crossings: tuple[Crossing, ...]) -> tuple[Crossing, ...]:
        return with_ids(crossings, "h")

    @model_validator(mode="after")
    def _leads_somewhere(self) -> Channel:
        if self.start == self.finish:
            raise ValueError("finish: a channel leads from one place to another")
        if self.length_m is not None and self.length_m > LONG_M:
            raise ValueError(f"length_m: {self.length_m:g} m is over {LONG_M:g} m, no channel is as long as that")
        if self.length_as_typed is not None:
            try:
                typed_m, _ = parse_length_m(self.length_as_typed, field="length_as_typed", preference="metric")
            except LucernisError as error:
                raise ValueError(f"length_as_typed: {error}") from error
            if self.length_m is None or abs(typed_m - self.length_m) > 0.005 * self.length_m:
                raise ValueError(f"length_as_typed says {typed_m:g} m, length_m {self.length_m}")
        return self


class Way(Doc):
    """That a run follows the channels, and what a person says of its way."""

    use: tuple[Id, ...] = Field(default=(), max_length=20, description="Channels it must take, in this order.")
    avoid: tuple[Id, ...] = Field(default=(), max_length=50, description="Channels it must not take.")
    length_pinned: bool = Field(default=False, description="Its length is the person's, not that of the channels.")
