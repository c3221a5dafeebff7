"""The plan document: what a person decided about one vehicle. One open JSON document, SI inside, lengths one way.

Nothing computed stands here. A value a person may pin is absent until pinned: absent means computed.
`docs/format.md` explains every field to a reader without this file.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from lucernis.errors import LucernisError
from lucernis.plan.base import (
    Amps,
    Body,
    Colour,
    Doc,
    Id,
    Length,
    MaybeName,
    Name,
    Reason,
    SizeName,
    SizeRef,
    Tag,
    Text,
)
from lucernis.plan.energy import Energy, Slot, Stop
from lucernis.plan.identity import with_ids
from lucernis.plan.layout import Channel, Crossing, Outline, Place, Way, Zone
from lucernis.plan.parts import (
    Busbar,
    ChassisPoint,
    Diode,
    FuseBlock,
    Joint,
    KeyedFeed,
    Load,
    Maker,
    Part,
    Relay,
    Shunt,
    Switch,
)
from lucernis.plan.source_parts import Alternator, Battery, Charger, Inverter, Isolator, Panel
from lucernis.plan.terminals import Terminal
from lucernis.plan.units import LONG_M, LONGEST_M, Preference, parse_length_m
from lucernis.practice.rules import FuseFamily, SizeSystem


class Vehicle(Doc):
    """The vehicle as surveyed."""

    name: Name = "Vehicle"
    body: Body = "steel"
    chassis_ohm: Annotated[float, Field(gt=0, le=1)] | None = Field(
        default=None, description="Resistance of the body from one chassis point to another, measured."
    )
    outline: Outline | None = Field(default=None, description="Drawn from above; not drawn when absent.")


class Job(Doc):
    """Who the plan is for."""

    name: Name
    workshop: MaybeName = ""
    customer: MaybeName = ""
    note: Text = ""
    vehicle: Vehicle = Vehicle()


class WireColours(Doc):
    """Colours of the insulation."""

    positive: Colour = "red"
    negative: Colour = "black"


class Override(Doc):
    """One rule of the practice set, changed for this plan."""

    rule: Annotated[str, Field(max_length=40)]
    value: bool | int | float | str | tuple[str, ...]
    reason: Text = ""


class Practice(Doc):
    """The practice set and what this plan changes in it."""

    set: Annotated[str, Field(max_length=40)]
    overrides: tuple[Override, ...] = ()


class WirePin(Doc):
    """A wire size a person insists on."""

    system: SizeSystem
    size: SizeName
    reason: Reason


class FusePin(Doc):
    """A fuse rating, and if need be a family, a person insists on."""

    rating_a: Amps
    family: FuseFamily | None = None
    reason: Reason


JointKind = Literal["lug_large", "lug_small", "clamp", "push_on", "splice", "lever", "plug", "solar", "cap"]


class Fuse(Doc):
    """Protection at one end of a run; the rating and family are computed unless pinned."""

    distance_m: Annotated[float, Field(ge=0, le=LONGEST_M)] = Field(
        default=0.0, description="Wire from the terminal to the fuse: the unprotected length."
    )
    sheathed: bool = Field(default=False, description="That length lies in conduit, sheath or loom.")
    family: FuseFamily | None = Field(default=None, description="Family to take the rating from.")
    holder: Literal["open", "sealed"] | None = Field(default=None, description="As its place asks when absent.")
    each: bool = Field(default=False, description="One for each of several conductors in parallel.")
    bracket: bool | None = Field(default=None, description="On a bracket of its own; not known when absent.")
    tied: bool | None = Field(default=None, description="The wire before it is tied; not known when absent.")
    pin: FusePin | None = None


class End(Doc):
    """Where a run ends: a part, and for a fuse block the way, for a part with several terminals which one."""

    part: Id
    way: Annotated[int, Field(ge=1, le=60)] | None = None
    terminal: Terminal | None = None
    joint: JointKind | None = Field(default=None, description="How the wire ends; by what it is joined to when absent.")
    stud: Literal["M4", "M5", "M6", "M8", "M10", "M12"] | None = Field(
        default=None, description="Thread there, as stamped on the part; usual for its kind when absent."
    )
    torque_nm: Annotated[float, Field(gt=0, le=80)] | None = Field(
        default=None, description="What its maker says it is tightened to; usual for the thread when absent."
    )


class Run(Doc):
    """Conductors between two parts: a positive and a negative of one size, one of them alone, or a link in series from
    the negative post of one battery to the positive post of the next."""

    id: Id
    tag: Tag
    name: MaybeName = ""
    start: End
    finish: End
    legs: Literal["both", "positive", "negative", "series"] = "both"
    parallel: Annotated[int, Field(ge=1, le=8)] = Field(default=1, description="Equal conductors side by side a leg.")
    length_m: Length
    length_as_typed: Annotated[str, Field(max_length=40)] | None = None
    length_confirmed: bool = Field(default=False, description="A length over 100 m is meant as it stands.")
    length_guessed: bool = Field(default=False, description="Nobody has measured it yet.")
    zone: Id | None = Field(default=None, description="The hottest zone it passes; the ends' places count too.")
    bundle_count: Annotated[int, Field(ge=1, le=200)] = Field(
        default=2, description="Current-carrying conductors side by side, its own two included."
    )
    insulation_c: Annotated[int, Field(ge=60, le=200)] | None = None
    wire_type: Literal["marine_tinned", "automotive", "battery_cable", "building", "solid"] | None = Field(
        default=None, description="How it is made; a stranded vehicle type by the practice set when absent."
    )
    planned_a: Amps | None = Field(
        default=None, description="Current it is planned for where no load decides it, as in a charging link."
    )
    unsupported_m: Annotated[float, Field(ge=0, le=LONGEST_M)] | None = Field(
        default=None, description="Longest stretch between two clamps."
    )
    passes: tuple[Crossing, ...] = Field(
        default=(), max_length=20, description="Holes of its own, besides those of the channels of its way."
    )
    way: Way | None = Field(
        default=None,
        description="It follows the channels: length, heat and neighbours are theirs; length_m counts while no way is "
        "found.",
    )
    fuse_at_start: Fuse | None = None
    fuse_at_finish: Fuse | None = None
    wire: WirePin | None = None

    @field_validator("passes")
    @classmethod
    def _holes_are_known(cls, passes: tuple[Crossing, ...]) -> tuple[Crossing, ...]:
        return with_ids(passes, "h")

    @model_validator(mode="after")
    def _length_is_meant(self) -> Run:
        if self.length_m > LONG_M and not self.length_confirmed:
            raise ValueError(
                f"length_m: {self.length_m:g} m one way is over {LONG_M:g} m; set length_confirmed if it is meant"
            )
        if self.length_as_typed is not None:
            try:
                typed_m, _ = parse_length_m(self.length_as_typed, field="length_as_typed", preference="metric")
            except LucernisError as error:
                raise ValueError(f"length_as_typed: {error}") from error
            if abs(typed_m - self.length_m) > 0.005 * self.length_m:
                raise ValueError(f"length_as_typed says {typed_m:g} m one way, length_m {self.length_m:g} m")
        return self


class Mode(Doc):
    """Position of a three-position or reversing switch."""

    part: Id
    position: Literal["off", "a", "b"]


class Duty(Doc):
    """Share of the time a load runs in a state."""

    load: Id
    share: Annotated[float, Field(gt=0, le=1)]


class State(Doc):
    """An operating state: what is closed and what is on at the same time."""

    id: Id
    name: Name
    key_on: bool = True
    engine_on: bool = False
    shore_on: bool = False
    sun: bool = Field(default=False, description="Panels give all they can.")
    off: tuple[Id, ...] = Field(default=(), description="Loads that are off in this state.")
    open: tuple[Id, ...] = Field(default=(), description="Switches that are open, and runs whose fuse is out.")
    modes: tuple[Mode, ...] = Field(default=(), description="Position a where none is named.")
    duty: tuple[Duty, ...] = Field(default=(), description="All the time where none is named.")


class Waiver(Doc):
    """A finding a person accepts, with the reason."""

    code: Annotated[str, Field(max_length=60)]
    subject: Id
    reason: Reason


class Plan(Doc):
    """The whole document."""

    format: Literal["lucernis-plan"] = "lucernis-plan"
    version: Literal[7] = 7
    job: Job
    nominal_v: Literal[6, 12, 24] = 12
    units: Preference = "metric"
    wire_colours: WireColours = WireColours()
    practice: Practice
    zones: tuple[Zone, ...] = Field(min_length=1, max_length=50)
    places: tuple[Place, ...] = Field(default=(), max_length=200)
    channels: tuple[Channel, ...] = Field(default=(), max_length=400)
    parts: tuple[Part, ...] = Field(default=(), max_length=5000)
    runs: tuple[Run, ...] = Field(default=(), max_length=10000)
    states: tuple[State, ...] = Field(default=(State(id="all_on", name="Everything on"),), min_length=1, max_length=20)
    energy: Energy = Energy()
    waivers: tuple[Waiver, ...] = Field(default=(), max_length=2000)


__all__ = [
    "Alternator",
    "Battery",
    "Body",
    "Busbar",
    "Channel",
    "Charger",
    "ChassisPoint",
    "Crossing",
    "Diode",
    "Doc",
    "Duty",
    "End",
    "Energy",
    "Fuse",
    "FuseBlock",
    "FusePin",
    "Inverter",
    "Isolator",
    "Job",
    "Joint",
    "JointKind",
    "KeyedFeed",
    "Load",
    "Maker",
    "Mode",
    "Outline",
    "Override",
    "Panel",
    "Part",
    "Place",
    "Plan",
    "Practice",
    "Relay",
    "Run",
    "Shunt",
    "SizeRef",
    "Slot",
    "State",
    "Stop",
    "Switch",
    "Vehicle",
    "Waiver",
    "Way",
    "WireColours",
    "WirePin",
    "Zone",
]
