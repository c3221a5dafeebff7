"""The kinds of parts a plan may hold, with their ratings; those that give power stand in `source_parts.py`, and which
terminals each has in `terminals.py`.

A rating that is absent is not known; then no check can say that it is kept.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from lucernis.plan.ac_side import AcDevice, ac_need
from lucernis.plan.base import Amps, Doc, PartBase, Seconds, SizeRef
from lucernis.plan.source_parts import Alternator, Battery, Charger, Inverter, Isolator, Panel
from lucernis.practice.rules import FuseFamily


class FuseBlock(PartBase):
    """A block with a positive bus, or two, and fused ways."""

    kind: Literal["fuse_block"] = "fuse_block"
    ways: Annotated[int, Field(ge=1, le=60)] = 12
    family: FuseFamily = "blade_regular"
    way_limit_a: Amps | None = Field(default=None, description="Max fuse a way takes, by its maker.")
    total_limit_a: Amps | None = Field(default=None, description="Max current the block takes, by its maker.")
    negative_bar: bool = Field(default=True, description="Whether it has a bar for the negatives.")
    second_bank_from: Annotated[int, Field(ge=2, le=60)] | None = Field(
        default=None, description="First way of a second bank with a feed of its own; one bank when absent."
    )

    @model_validator(mode="after")
    def _bank_inside(self) -> FuseBlock:
        if self.second_bank_from is not None and self.second_bank_from > self.ways:
            raise ValueError(f"second_bank_from must be <= ways ({self.ways})")
        return self


class Busbar(PartBase):
    """A bar, or a pair of them, with studs."""

    kind: Literal["busbar"] = "busbar"
    bars: Literal["both", "positive", "negative"] = "both"
    rated_a: Amps | None = None
    studs: Annotated[int, Field(ge=2, le=40)] = 4


class Switch(PartBase):
    """A switch worked by hand: the system's isolating switch or one for a circuit."""

    kind: Literal["switch"] = "switch"
    use: Literal["isolator", "circuit"] = "circuit"
    form: Literal["single", "three_position", "reversing"] = "single"
    rated_a: Amps | None = None
    short_time_a: Amps | None = Field(default=None, description="What it stands for half a minute, by its maker.")
    position_b: Literal["b", "both"] = Field(
        default="b", description="Outputs live in the second position of a three-position switch."
    )
    poles: Literal[1, 2] = Field(default=1, description="Two: the negative is switched along with the positive.")


class KeyedFeed(PartBase):
    """A feed of the vehicle that is live only under a condition."""

    kind: Literal["keyed_feed"] = "keyed_feed"
    follows: Literal["key", "engine", "shore"] = "key"
    rated_a: Amps | None = None


class Relay(PartBase):
    """A contact moved by a coil: plug-in relay or solenoid."""

    kind: Literal["relay"] = "relay"
    contact_a: Amps | None = None
    coil_a: Annotated[float, Field(gt=0, le=20)] = Field(default=0.15, description="Coil current at nominal volts.")
    continuous: bool = Field(default=True, description="Made to stay on; a starting solenoid is not.")
    suppression: Literal["none", "diode", "resistor"] = "none"
    terminals: Literal["down", "side", "up"] | None = Field(
        default=None, description="Which way its terminals point; not known when absent."
    )


class Diode(PartBase):
    """Lets current through from its way in to its way out only, so that two feeds may share a device."""

    kind: Literal["diode"] = "diode"
    rated_a: Amps | None = None
    drop_v: Annotated[float, Field(gt=0, le=2)] = Field(default=0.7, description="Lost in it at its rating.")


class Joint(PartBase):
    """A point where wires meet, or the capped end of a spare."""

    kind: Literal["joint"] = "joint"
    form: Literal["splice", "lever", "plug", "stud", "outlet", "towing_plug", "cap"] = "splice"
    rated_a: Amps | None = Field(default=None, description="For one pin, by its maker.")
    pins: Annotated[int, Field(ge=1, le=24)] = 2


class Shunt(PartBase):
    """A measuring shunt in the battery's negative."""

    kind: Literal["shunt"] = "shunt"
    rated_a: Amps = 500.0
    rated_mv: Annotated[float, Field(gt=0, le=200)] = 50.0


class ChassisPoint(PartBase):
    """A bolted joint to the body."""

    kind: Literal["chassis_point"] = "chassis_point"
    bare_metal: bool = Field(default=True, description="Paint taken off down to clean metal.")
    sealed: bool | None = Field(
        default=None, description="Tinned lug, contact grease, sealed against water; none: nobody has said."
    )


class Maker(Doc):
    """What the maker of a device demands of its wiring."""

    least: SizeRef | None = None
    greatest: SizeRef | None = None
    fuse_a: Amps | None = None


class Load(PartBase):
    """A consumer. Watts or amps, never both: the other is computed."""

    kind: Literal["load"] = "load"
    device: Literal["other", "lamp", "motor", "heater", "electronics", "inverter"] = "other"
    behaviour: Literal["constant_power", "constant_current", "resistive"] = "constant_power"
    power_w: Annotated[float, Field(gt=0, le=20000)] | None = None
    current_a: Amps | None = None
    rated_v: Annotated[float, Field(gt=0, le=100)] | None = Field(
        default=None, description="Volts the watts or amps are stated at; nominal volts when absent."
    )
    min_v: Annotated[float, Field(gt=0, le=100)] | None = Field(
        default=None, description="Lowest voltage the device works at."
    )
    count: Annotated[int, Field(ge=1, le=200)] = 1
    hours_per_day: Annotated[float, Field(ge=0, le=24)] | None = None
    sensitive: bool = False
    keyed: bool = Field(default=False, description="Live only with the key on.")
    stays_live: bool = Field(default=False, description="Meant to stay live with the isolating switch off.")
    drop_limit_frac: Annotated[float, Field(gt=0, le=0.5)] | None = None
    inrush_factor: Annotated[float, Field(ge=1, le=20)] | None = Field(
        default=None, description="Starting current as a multiple of the running current."
    )
    inrush_s: Annotated[float, Field(gt=0, le=60)] | None = Field(default=None, description="How long it lasts.")
    cycle_on_s: Seconds | None = Field(default=None, description="On time of one cycle, for what cycles by itself.")
    cycle_off_s: Seconds | None = Field(default=None, description="Off time between two cycles.")
    cycle_start_s: Annotated[float, Field(ge=0, le=86400)] = Field(
        default=0.0, description="When its first cycle begins: loads that take turns begin at different times."
    )
    maker: Maker = Maker()
    inverter: Inverter | None = Field(default=None, description="Ratings of an inverter; its watts are then AC watts.")
    ac: tuple[AcDevice, ...] = Field(
        default=(), max_length=40, description="What runs on AC behind an inverter; its watts and hours follow from it."
    )

    @model_validator(mode="before")
    @classmethod
    def _by_its_devices(cls, data: Any) -> Any:
        """Watts in use and hours follow from the devices on AC where there are any."""
        if not isinstance(data, dict):
            return data
        if not isinstance(data.get("ac"), list | tuple) or not data["ac"]:
            return data | {"ac": ()} if data.get("ac") == [] else data
        devices = [one if isinstance(one, AcDevice) else AcDevice.model_validate(one) for one in data["ac"]]
        need = ac_need(devices)
        return data | {
            "ac": tuple(devices),
            "power_w": need.continuous_w,
            "current_a": None,
            "hours_per_day": need.hours_per_day,
        }

    @model_validator(mode="after")
    def _one_of_watts_and_amps(self) -> Load:
        if self.power_w is not None and self.current_a is not None:
            raise ValueError("give power_w or current_a, not both")
        if self.inverter is not None and (self.device != "inverter" or self.count != 1):
            raise ValueError("inverter: only for one device that is an inverter")
        if self.ac and self.device != "inverter":
            raise ValueError("ac: only behind an inverter")
        if self.inverter is not None and self.current_a is not None:
            raise ValueError("inverter: give its AC power_w, not amps")
        return self


Part = Annotated[
    Battery
    | Alternator
    | Isolator
    | Charger
    | Panel
    | FuseBlock
    | Busbar
    | Switch
    | KeyedFeed
    | Relay
    | Diode
    | Joint
    | Shunt
    | ChassisPoint
    | Load,
    Field(discriminator="kind"),
]
PART_CLASSES: dict[str, type[PartBase]] = {
    "battery": Battery,
    "alternator": Alternator,
    "isolator": Isolator,
    "charger": Charger,
    "panel": Panel,
    "fuse_block": FuseBlock,
    "busbar": Busbar,
    "switch": Switch,
    "keyed_feed": KeyedFeed,
    "relay": Relay,
    "diode": Diode,
    "joint": Joint,
    "shunt": Shunt,
    "chassis_point": ChassisPoint,
    "load": Load,
}
