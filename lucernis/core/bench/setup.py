"""What stands on the bench: a source, a wire and what lies around it, its end, a load or a short, and a fuse or none.

The same model is asked for by the screen, filled from a run of a plan, and written in the pairs that ship.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from lucernis.core.circuit.sources import source_figures
from lucernis.core.wire.copper import all_sizes
from lucernis.plan.source_parts import Battery, Chemistry
from lucernis.practice.rules import FuseFamily, SizeSystem

LoadKind = Literal["current", "resistive", "electronics", "inverter", "motor", "heater", "short"]
# Of a usual inverter near its rating, and where it and most electronics switch off. Common practice, no source.
INVERTER_EFFICIENCY = 0.90
CUT_OFF_V_PER_12V = 10.5


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class BenchSource(_In):
    """A battery by chemistry and size; or, where both are given, a source of so many volts behind so many ohms."""

    chemistry: Chemistry = "lfp"
    capacity_ah: Annotated[float, Field(gt=0, le=5000)] = 100.0
    nominal_v: Literal[6, 12, 24] = 12
    open_v: Annotated[float, Field(gt=0, le=120)] | None = None
    inside_ohm: Annotated[float, Field(gt=0, le=100)] | None = None

    @model_validator(mode="after")
    def _both(self) -> BenchSource:
        if (self.open_v is None) != (self.inside_ohm is None):
            raise ValueError("open_v and inside_ohm are given together or not at all")
        return self


class BenchWire(_In):
    """A wire and where it lies. Length one way; the way back is a wire too, or the body. Neighbours are the other wires
    of its bundle."""

    system: SizeSystem = "awg"
    size: Annotated[str, Field(max_length=10)] = "10"
    length_m: Annotated[float, Field(ge=0.05, le=100)] = 3.0
    returns: Literal["wire", "body"] = "wire"
    insulation_c: Annotated[int, Field(ge=60, le=200)] = 105
    thin_wall: bool = False
    ambient_c: Annotated[float, Field(ge=-40, le=90)] = 30.0
    neighbours: Annotated[int, Field(ge=0, le=60)] = 0
    neighbours_carry: bool = False

    @model_validator(mode="after")
    def _made(self) -> BenchWire:
        if self.size not in all_sizes(self.system):
            raise ValueError(f"size is one of {', '.join(all_sizes(self.system))}")
        return self


class BenchEnd(_In):
    """The joint that is looked at: its kind, and how much it has beyond a sound one."""

    joint: Literal["lug_large", "lug_small", "clamp", "push_on", "splice", "lever", "plug"] = "lug_small"
    too_much_mohm: Annotated[float, Field(ge=0, le=1000)] = 0.0


class BenchLoad(_In):
    """What is at the far end.

    `amount` is amperes (current, motor) or watts (the others; an inverter's at its outlet); a short has none. A motor
    starts at `inrush_factor` times its amperes for `inrush_s`; a heater is on for `on_s` and off for `off_s`.
    """

    kind: LoadKind = "current"
    amount: Annotated[float, Field(gt=0, le=20000)] | None = 20.0
    inrush_factor: Annotated[float, Field(ge=1, le=20)] = 6.0
    inrush_s: Annotated[float, Field(ge=0, le=60)] = 0.5
    on_s: Annotated[float, Field(gt=0, le=36000)] = 300.0
    off_s: Annotated[float, Field(gt=0, le=36000)] = 120.0

    @model_validator(mode="after")
    def _measured(self) -> BenchLoad:
        if self.kind != "short" and self.amount is None:
            raise ValueError("amount is wanted for every load but a short")
        return self


class BenchFuse(_In):
    """A fuse, and which edge of its band it follows."""

    family: FuseFamily = "blade_regular"
    rating_a: Annotated[float, Field(gt=0, le=2000)] = 30.0
    edge: Literal["slow", "fast"] = "slow"


class Setup(_In):
    """One set-up of the bench, and for how long it is watched."""

    name: Annotated[str, Field(max_length=80)] = ""
    source: BenchSource = BenchSource()
    wire: BenchWire = BenchWire()
    end: BenchEnd = BenchEnd()
    load: BenchLoad = BenchLoad()
    fuse: BenchFuse | None = BenchFuse()


def source_of(setup: Setup) -> tuple[float, float]:
    """What pushes: open volts and what is inside.

    Parameters
    ----------
    setup : Setup
        Its source and load.

    Returns
    -------
    tuple of float
        Volts [V] and ohms [Ω]; of a battery full and at its low resistance for a short, half full and at the higher one
        otherwise.
    """
    given = setup.source
    if given.open_v is not None and given.inside_ohm is not None:
        return given.open_v, given.inside_ohm
    battery = Battery(
        kind="battery", id="bench", name="Bench", tag="B01", chemistry=given.chemistry, capacity_ah=given.capacity_ah,
        rated_v=given.nominal_v,
    )  # fmt: skip
    figures = source_figures(battery, given.nominal_v)
    short = setup.load.kind == "short"
    return (figures.full_v, figures.fault_ohm) if short else (figures.half_v, figures.running_ohm)
