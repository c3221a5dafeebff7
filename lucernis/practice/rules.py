"""Practice sets: which school applies to each matter. Values live in `sets/*.toml` with source and certainty.

A plan names a set and may override single values; what was overridden shows in the resolved rules.
"""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Annotated, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from lucernis.errors import OutOfRange, UnknownRow
from lucernis.practice.tables import load_table

AmpacityTable = Literal["e11", "iso_small_craft", "inverter_guide"]
SizeSystem = Literal["awg", "bs", "mm2", "sae", "auto_mm"]
DesignVolts = Literal["nominal", "lowest", "running"]
InverterCurrent = Literal["efficiency", "ten_to_one"]
SmallPanel = Literal["15_w", "never"]
FuseOverLoad = Literal["next", "125", "125_when_long"]
DropCounts = Literal["conductors", "everything"]
FuseUnderWire = Literal["strict", "150_when_none_fits"]
FuseFamily = Literal[
    "blade_mini",
    "blade_regular",
    "blade_maxi",
    "bolt_m5",
    "bolt_m8",
    "anl",
    "post_block",
    "class_t",
    "breaker_auto",
    "breaker_manual",
    "breaker_magnetic",
]
Frac = Annotated[float, Field(gt=0, le=0.5)]


class RuleValues(BaseModel):
    """The value of every rule of a practice set. Units stand at the end of the names."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    ampacity_table: AmpacityTable = Field(description="Table of allowable currents.")
    size_system: SizeSystem = Field(description="How wire sizes are named.")
    shelf: tuple[str, ...] = Field(min_length=1, max_length=40, description="Sizes on the shelf, in that system.")
    tinned: bool = Field(description="Metric sizes take the resistance of tinned strands.")
    insulation_c: Annotated[int, Field(ge=60, le=200)] = Field(description="Insulation temperature rating.")
    least_area_mm2: Annotated[float, Field(ge=0.2, le=10)] = Field(description="No thinner wire than this.")
    drop_sensitive_frac: Frac = Field(description="Max drop for a sensitive load, share of nominal volts.")
    drop_other_frac: Frac = Field(description="Max drop for any other load, share of nominal volts.")
    design_volts: DesignVolts = Field(description="Volts that turn watts into the design current.")
    inverter_current: InverterCurrent = Field(description="How the current of an inverter is figured.")
    small_panel: SmallPanel = Field(description="A panel on a battery without a controller.")
    fuse_over_load: FuseOverLoad = Field(description="How far the fuse stands above the load.")
    fuse_under_wire: FuseUnderWire = Field(description="How far the fuse may stand above the wire.")
    fuse_distance_m: Annotated[float, Field(gt=0, le=3)] = Field(description="Longest wire from source to fuse.")
    sheathed_longer: bool = Field(description="In a sheath the fuse may stand further off, by fuse_distance.csv.")
    branch_families: tuple[FuseFamily, ...] = Field(min_length=1, description="Fuses for branches, first choice first.")
    main_families: tuple[FuseFamily, ...] = Field(min_length=1, description="Fuses at a battery, first choice first.")
    margin_frac: Annotated[float, Field(ge=0, le=1)] = Field(description="Wire carries this share more than the load.")
    fuse_stock: tuple[Annotated[str, Field(pattern=r"^[a-z_0-9]+( [0-9.]+)+$")], ...] = Field(
        max_length=20, description="Fuses on the shelf, a family and its ratings; all made ones of a family not named."
    )
    drop_counts: DropCounts = Field(description="What a drop limit counts.")
    drop_least_a_per_mm2: Annotated[float, Field(ge=0, le=10)] = Field(
        description="For its drop alone a wire is made no thicker than to this much current for each mm²; 0: any."
    )
    warmest_c: Annotated[float, Field(ge=0, le=200)] = Field(
        description="No conductor warmer than this at its design current, whatever its insulation stands; 0: any."
    )
    drop_reserve_frac: Annotated[float, Field(ge=0, le=0.5)] = Field(
        description="Share of each drop limit that stays free."
    )
    feeder_share: Annotated[float, Field(ge=0, le=1)] = Field(
        description="Share of the tightest drop limit behind it that the way to a block may take; 0: any."
    )
    growth_frac: Annotated[float, Field(ge=0, le=1)] = Field(description="Room to grow in the feeder of a block.")
    size_worth_m: Annotated[float, Field(ge=0, le=100)] = Field(
        description="Metres of the next thicker wire one would rather waste than carry another size; 0: none."
    )
    cable_worth_m: Annotated[float, Field(ge=0, le=100)] = Field(
        description="The same for battery cable, above 16 mm², which is bought by the metre and not by the spool."
    )
    end_worth_m: Annotated[float, Field(ge=0, le=5)] = Field(
        description="Metres of its own wire one would rather lay than make one more end: lug, tool, bending; 0: none."
    )
    step_worth_m: Annotated[float, Field(ge=0, le=50)] = Field(
        description="Metres of its own wire one would rather lay than step down to a usual terminal on a stud."
    )
    size_jump_most: Annotated[int, Field(ge=0, le=10)] = Field(
        description="So many made sizes above what a run needs it may go for the sake of few sizes."
    )
    one_line: bool = Field(description="Runs in a row with the same current take one size.")
    taper: bool = Field(description="Nothing nearer the source is thinner than what it feeds.")
    roof_least_mm2: Annotated[float, Field(ge=0, le=16)] = Field(
        description="No thinner wire from panels, whatever less the current would allow; 0: any."
    )
    inverter_a_per_mm2: Annotated[float, Field(ge=0, le=10)] = Field(
        description="No more current for each mm² in the leads of an inverter at its rating; 0: any."
    )
    charger_a_per_mm2: Annotated[float, Field(ge=0, le=20)] = Field(
        description="No more current for each mm² in a charger's output, however short; 0: any."
    )
    link_free_m: Annotated[float, Field(ge=0, le=2)] = Field(
        description="A jumper between two batteries up to this length needs no fuse of its own."
    )
    tail_m: Annotated[float, Field(ge=0, le=2)] = Field(
        description="Wire at each end of a run that follows channels, besides the channels."
    )
    tail_battery_m: Annotated[float, Field(ge=0, le=2)] = Field(description="That at a battery.")
    slack_frac: Annotated[float, Field(ge=0, le=0.5)] = Field(
        description="Share a run that follows channels is longer than they are."
    )
    wire_spare_frac: Annotated[float, Field(ge=0, le=0.5)] = Field(
        description="Share of wire bought or kept on a spool beyond the pieces cut from it."
    )
    bundle_free_m: Annotated[float, Field(ge=0, le=2)] = Field(
        description="Wires that lie together no further than this in one go are no bundle; 0: any are."
    )

    @field_validator("fuse_stock")
    @classmethod
    def _made(cls, value: tuple[str, ...]) -> tuple[str, ...]:
        for entry in value:
            name, *ratings = entry.split()
            if name not in get_args(FuseFamily):
                raise ValueError(f"no fuse family {name!r}; one of {', '.join(get_args(FuseFamily))}")
            made = {float(item) for item in load_table("fuse_families").find(name)["ratings_a"].split()}
            not_made = [item for item in ratings if float(item) not in made]
            if not_made:
                raise ValueError(f"{name} is not made in {not_made[0]} A")
        return value

    def stock_a(self, family: FuseFamily) -> tuple[float, ...] | None:
        """Ratings of a family on the shelf, rising; None where the shelf has all that are made. [A]"""
        for entry in self.fuse_stock:
            name, *ratings = entry.split()
            if name == family:
                return tuple(sorted(float(item) for item in ratings))
        return None


RULE_NAMES: tuple[str, ...] = tuple(RuleValues.model_fields)

SCHOOLS: dict[str, dict[str, str]] = {
    "ampacity_table": {
        "e11": "small-craft AWG table",
        "iso_small_craft": "small-craft mm² table",
        "inverter_guide": "cautious guide for inverter leads",
    },
    "size_system": {"awg": "AWG", "bs": "B&S", "mm2": "mm²", "sae": "SAE", "auto_mm": "outer mm"},
    "design_volts": {
        "nominal": "nominal volts",
        "lowest": "lowest working voltage of the device",
        "running": "engine running (13.5)",
    },
    "inverter_current": {
        "efficiency": "by its efficiency at the lowest voltage",
        "ten_to_one": "a tenth of its watts at 12 V, a twentieth at 24 V",
    },
    "small_panel": {"15_w": "up to 15 W", "never": "never"},
    "fuse_over_load": {
        "next": "105 % of the load, then the next made rating",
        "125": "125 % of the load, then the next made rating",
        "125_when_long": "125 % of what runs three hours or more and of chargers, 105 % of the rest",
    },
    "drop_counts": {
        "conductors": "the conductors, there and back",
        "everything": "conductors, joints, fuses, contacts",
    },
    "fuse_under_wire": {
        "strict": "at most the wire's ampacity",
        "150_when_none_fits": "at most 150 % of the wire's ampacity where no made rating fits below",
    },
}


@dataclass(frozen=True, slots=True)
class RuleOrigin:
    """Where the value of one rule comes from."""

    rule: str
    label: str
    shown: str
    source: str
    certainty: str
    overridden: bool
    reason: str


@dataclass(frozen=True, slots=True)
class Rules:
    """The rules that apply to a plan: the values, and where each comes from."""

    set_name: str
    set_label: str
    values: RuleValues
    origins: dict[str, RuleOrigin]


@dataclass(frozen=True, slots=True)
class PracticeSet:
    """A shipped practice set."""

    name: str
    label: str
    about: str
    values: RuleValues
    sources: dict[str, tuple[str, str]]


def shown_value(rule: str, value: object) -> str:
    """The value of a rule in words a person reads."""
    if rule in SCHOOLS:
        return SCHOOLS[rule].get(str(value), str(value))
    if rule in ("drop_least_a_per_mm2", "inverter_a_per_mm2"):
        return f"{value:g} A/mm²" if value else "any"
    if rule in ("warmest_c", "size_worth_m", "feeder_share", "roof_least_mm2") and not value:
        return "off"
    if rule == "fuse_stock" and isinstance(value, list | tuple):
        return "; ".join(str(item) for item in value) or "all that are made"
    if rule.endswith("_frac") and isinstance(value, int | float):
        return f"{100 * value:g} %"
    if rule.endswith("_mm2"):
        return f"{value} mm²"
    if rule == "feeder_share" and isinstance(value, int | float):
        return f"{100 * value:g} %"
    if rule == "size_worth_m":
        return f"{value:g} m"
    if rule in ("insulation_c", "warmest_c"):
        return f"{value:g} °C"
    if rule in ("fuse_distance_m", "link_free_m", "tail_m", "tail_battery_m") and isinstance(value, int | float):
        return f"{1000 * value:.0f} mm ({value / 0.0254:.0f} in)"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list | tuple):
        return " ".join(str(item) for item in value)
    return str(value)


@cache
def load_sets() -> dict[str, PracticeSet]:
    """All shipped practice sets by name."""
    folder = files("lucernis.practice") / "sets"
    found: dict[str, PracticeSet] = {}
    for entry in sorted(folder.iterdir(), key=lambda item: item.name):
        if not entry.name.endswith(".toml"):
            continue
        raw = tomllib.loads(entry.read_text(encoding="utf-8"))
        values = RuleValues.model_validate({name: cell["value"] for name, cell in raw["values"].items()})
        sources = {name: (cell["source"], cell["certainty"]) for name, cell in raw["values"].items()}
        name = entry.name[:-5]
        found[name] = PracticeSet(name=name, label=raw["label"], about=raw["about"], values=values, sources=sources)
    return found


def resolve_rules(set_name: str, overrides: dict[str, tuple[object, str]]) -> Rules:
    """The rules of a set with a plan's overrides laid over them.

    Parameters
    ----------
    set_name : str
        A name from `load_sets`.
    overrides : dict
        Rule name to (value, reason).

    Returns
    -------
    Rules
        Values, and for each its origin.

    Raises
    ------
    UnknownRow
        If the set or a rule is not known.
    OutOfRange
        If an overriding value is not allowed.
    """
    sets = load_sets()
    if set_name not in sets:
        raise UnknownRow(
            f"no practice set named {set_name!r}", field="practice.set", value=set_name, allowed=", ".join(sets)
        )
    chosen = sets[set_name]
    values = chosen.values.model_dump()
    for rule, (value, _) in overrides.items():
        if rule not in RULE_NAMES:
            raise UnknownRow(
                f"no rule named {rule!r}",
                field=f"practice.overrides.{rule}",
                value=rule,
                allowed=", ".join(RULE_NAMES),
            )
        values[rule] = value
    try:
        merged = RuleValues.model_validate(values)
    except ValidationError as error:
        first = error.errors()[0]
        rule = str(first["loc"][0])
        raise OutOfRange(
            f"practice.overrides.{rule}: {first['msg']}",
            field=f"practice.overrides.{rule}",
            allowed=allowed_text(rule),
        ) from error
    origins = {}
    for rule in RULE_NAMES:
        source, certainty = chosen.sources[rule]
        reason = ""
        if rule in overrides:
            reason = overrides[rule][1]
            source, certainty = "changed in this plan", "practice"
        origins[rule] = RuleOrigin(
            rule=rule,
            label=RuleValues.model_fields[rule].description or rule,
            shown=shown_value(rule, getattr(merged, rule)),
            source=source,
            certainty=certainty,
            overridden=rule in overrides,
            reason=reason,
        )
    return Rules(set_name=set_name, set_label=chosen.label, values=merged, origins=origins)


def allowed_text(rule: str) -> str:
    """What a rule may be, in words."""
    if rule in SCHOOLS:
        return "one of " + ", ".join(SCHOOLS[rule])
    if rule == "fuse_stock":
        return "a list of a family and its ratings, as 'blade_regular 5 7.5 10'"
    if rule in ("branch_families", "main_families"):
        return "a list out of " + ", ".join(get_args(FuseFamily))
    field = RuleValues.model_fields[rule]
    bounds = [str(item) for item in field.metadata]
    return " ".join(bounds) or str(field.annotation)
