"""Kinds of parts that give, pass on or turn power: batteries, alternator, isolators, chargers, panels, inverters.

A rating that is absent is not known; then no check can say that it is kept.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from lucernis.plan.base import Amps, Doc, PartBase, SizeRef

Chemistry = Literal["flooded", "agm", "gel", "lfp"]
Volts = Annotated[float, Field(gt=0, le=1000)]
Watts = Annotated[float, Field(gt=0, le=20000)]
Share = Annotated[float, Field(gt=0, le=1)]
Celsius = Annotated[float, Field(ge=-60, le=120)]


class Battery(PartBase):
    """A battery with one positive and one negative terminal; a bank is several, joined by runs."""

    kind: Literal["battery"] = "battery"
    use: Literal["house", "starter"] = Field(default="house", description="What it is there for.")
    chemistry: Chemistry = "lfp"
    capacity_ah: Annotated[float, Field(gt=0, le=20000)] = 100.0
    rated_v: Literal[6, 12, 24] | None = Field(default=None, description="The plan's nominal volts when absent.")
    internal_ohm: Annotated[float, Field(gt=0, le=1)] | None = Field(
        default=None, description="By its maker; by chemistry and capacity when absent."
    )
    fixed: bool | None = Field(default=None, description="Fixed against a crash; not known when absent.")
    short_circuit_a: Annotated[float, Field(gt=0, le=100000)] | None = Field(
        default=None, description="What it delivers into a dead short, by its maker."
    )
    discharge_a: Amps | None = Field(default=None, description="Max continuous discharge, by its maker.")
    discharge_short_a: Amps | None = Field(default=None, description="Max discharge for a few seconds.")
    charge_a: Amps | None = Field(default=None, description="Max charge, by its maker.")
    charge_least_c: Celsius | None = Field(default=None, description="Not charged below; by chemistry when absent.")
    hottest_c: Celsius | None = Field(default=None, description="Max temperature around it, by its maker.")
    heater_w: Watts | None = Field(default=None, description="Pads that warm it before it charges.")
    stud_mm: Annotated[float, Field(ge=3, le=20)] | None = Field(default=None, description="Thread of its posts.")
    mass_kg: Annotated[float, Field(gt=0, le=2000)] | None = Field(
        default=None, description="By chemistry and capacity when absent."
    )
    bare_cells: bool = Field(
        default=False, description="Lithium cells without management of their own: half the resistance of a pack."
    )
    made_year: Annotated[int, Field(ge=1990, le=2100)] | None = None


class Alternator(PartBase):
    """The engine's alternator, on the starter battery."""

    kind: Literal["alternator"] = "alternator"
    rated_a: Amps = 120.0
    idle_frac: Share = Field(default=0.5, description="Share of its rating hot and at idle.")
    regulation: Literal["steady", "sagging"] = Field(
        default="steady", description="Sagging: the engine's computer lets the voltage fall once the battery is full."
    )
    held_v: Volts | None = Field(default=None, description="Volts it holds; 14.4 for each 12 V when absent.")
    vehicle_a: Annotated[float, Field(ge=0, le=1000)] = Field(
        default=25.0, description="What the vehicle itself takes."
    )


class Isolator(PartBase):
    """Joins starter and house side while the engine charges: voltage-sensing contact or diodes."""

    kind: Literal["isolator"] = "isolator"
    form: Literal["voltage_sensing", "diode"] = "voltage_sensing"
    rated_a: Amps | None = None
    close_v: Volts | None = Field(default=None, description="13.3 for each 12 V when absent.")
    open_v: Volts | None = Field(default=None, description="12.8 for each 12 V when absent.")
    two_way: bool = Field(default=False, description="Closes for a charger on the house side too.")
    diode_v: Annotated[float, Field(ge=0, le=2)] = Field(default=0.7, description="Lost in a diode.")


class Charger(PartBase):
    """A charger with a regulated output: from another battery (dcdc), from panels (sun), from the mains (shore)."""

    kind: Literal["charger"] = "charger"
    form: Literal["dcdc", "sun", "shore"] = "dcdc"
    out_a: Amps = Field(default=30.0, description="Max output current, all outputs together.")
    outputs: Literal[1, 2] = Field(default=1, description="Positives that go out.")
    efficiency_frac: Share = 0.92
    chemistry: Chemistry | None = Field(default=None, description="What its charging is set to; absent: not set.")
    sense: Literal["wired", "voltage", "not_set"] = Field(
        default="not_set", description="How a dcdc charger knows that the engine runs."
    )
    shared_negative: bool = Field(default=True, description="Input and output have one negative.")
    in_low_v: Volts | None = Field(default=None, description="Lowest input; 11.0 for each 12 V when absent.")
    in_high_v: Volts | None = None
    in_a: Amps | None = Field(default=None, description="Max input current.")
    in_nominal_v: Literal[12, 24] | None = Field(
        default=None, description="Its input's nominal; the plan's when absent."
    )
    pv_high_v: Volts | None = Field(default=None, description="Max panel voltage; absent: no panel input.")
    pv_w: Watts | None = Field(default=None, description="Max panel power.")
    pv_a: Amps | None = Field(default=None, description="Max panel current.")
    standby_w: Annotated[float, Field(ge=0, le=200)] = 0.0
    greatest: SizeRef | None = Field(default=None, description="Thickest wire its terminals take.")
    hottest_c: Celsius | None = Field(default=None, description="Max temperature around it.")

    @model_validator(mode="after")
    def _limits_agree(self) -> Charger:
        if self.form == "sun" and self.pv_high_v is None:
            raise ValueError("pv_high_v is needed for a charger from panels")
        if self.form == "shore" and self.pv_high_v is not None:
            raise ValueError("pv_high_v: a charger from the mains has no panel input")
        if self.in_low_v is not None and self.in_high_v is not None and self.in_low_v >= self.in_high_v:
            raise ValueError("in_low_v must be < in_high_v")
        return self


class Panel(PartBase):
    """Equal panels, some in series, some of these strings side by side, flat on the roof."""

    kind: Literal["panel"] = "panel"
    power_w: Watts = 100.0
    mp_v: Volts = Field(default=18.0, description="Volts at max power (Vmp).")
    open_v: Volts = Field(default=22.0, description="Open-circuit volts at 25 °C.")
    short_a: Amps = Field(default=6.0, description="Short-circuit current.")
    open_frac_per_k: Annotated[float, Field(ge=-0.01, lt=0)] | None = Field(
        default=None, description="Change of open-circuit volts; typical when absent."
    )
    power_frac_per_k: Annotated[float, Field(ge=-0.01, lt=0)] | None = Field(
        default=None, description="Change of power; typical when absent."
    )
    series: Annotated[int, Field(ge=1, le=10)] = 1
    strings: Annotated[int, Field(ge=1, le=20)] = 1
    mass_kg: Annotated[float, Field(gt=0, le=100)] | None = None

    @model_validator(mode="after")
    def _one_panel(self) -> Panel:
        if self.mp_v >= self.open_v:
            raise ValueError(f"mp_v must be < open_v ({self.open_v:g})")
        if self.power_w / self.mp_v > self.short_a * 1.001:
            raise ValueError(f"power_w over mp_v is {self.power_w / self.mp_v:.2f} A: must be <= short_a")
        return self


class Inverter(Doc):
    """What makes a load an inverter: its ratings on the AC side, its losses, and its charger if it has one."""

    continuous_w: Watts
    surge_w: Watts | None = None
    efficiency_frac: Share = Field(default=0.88, description="At full power.")
    best_efficiency_frac: Share = Field(default=0.92, description="At about a third of it.")
    standby_w: Annotated[float, Field(ge=0, le=200)] = Field(
        default=8.0, description="Switched on with nothing plugged in."
    )
    standby_hours: Annotated[float, Field(ge=0, le=24)] | None = Field(
        default=None, description="Hours a day it is switched on; those of the load when absent."
    )
    cut_off_v: Volts | None = None
    charge_a: Amps | None = Field(default=None, description="Its charger's output, for an inverter-charger.")

    @model_validator(mode="after")
    def _surge_above(self) -> Inverter:
        if self.surge_w is not None and self.surge_w < self.continuous_w:
            raise ValueError("surge_w must be >= continuous_w")
        return self
