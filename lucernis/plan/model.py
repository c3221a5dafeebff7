"""The plan document: what a person decided about one vehicle. One open JSON document, SI inside, lengths one way.

Nothing computed stands here. A value a person may pin is absent until pinned: absent means computed.
`docs/format.md` explains every field to a reader without this file.
"""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from lucernis.errors import BadDocument, FieldProblem, LucernisError
from lucernis.plan.units import LONG_M, LONGEST_M, Preference, parse_length_m
from lucernis.plan.upgrades import upgrade
from lucernis.practice.names import made_ratings_a, size_names
from lucernis.practice.rules import FuseFamily, SizeSystem, load_sets, resolve_rules

FORMAT = "lucernis-plan"
VERSION = 1

Id = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_-]{0,39}$", description="Stable, never shown to a person.")]
Tag = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9 ._/-]{0,11}$", description="What the printed sleeve says.")]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Text = Annotated[str, Field(max_length=2000)]
Length = Annotated[float, Field(gt=0, le=LONGEST_M)]
Amps = Annotated[float, Field(gt=0, le=5000)]
SizeName = Annotated[str, Field(pattern=r"^[0-9][0-9./ m]{0,7}$")]

Body = Literal["steel", "aluminium", "fibreglass_or_wood", "boat_hull", "frame"]
Colour = Literal["red", "black", "yellow", "brown", "blue", "green", "white", "orange", "grey", "purple", "pink", "tan"]


class Doc(BaseModel):
    """Base of every piece of the document: unknown fields, NaN and infinity are refused."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class Vehicle(Doc):
    """The vehicle as surveyed."""

    name: Name = "Vehicle"
    body: Body = "steel"


class Job(Doc):
    """Who the plan is for."""

    name: Name
    workshop: Annotated[str, Field(max_length=80)] = ""
    customer: Annotated[str, Field(max_length=80)] = ""
    note: Text = ""
    vehicle: Vehicle = Vehicle()


class Zone(Doc):
    """A part of the vehicle with one ambient temperature."""

    id: Id
    name: Name
    ambient_c: Annotated[float, Field(ge=-40, le=120)] = 30.0
    engine_space: bool = False


class Place(Doc):
    """A named spot where things are mounted, in one zone."""

    id: Id
    name: Name
    zone: Id


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
    reason: Annotated[str, Field(min_length=1, max_length=400)]


class FusePin(Doc):
    """A fuse rating, and if need be a family, a person insists on."""

    rating_a: Amps
    family: FuseFamily | None = None
    reason: Annotated[str, Field(min_length=1, max_length=400)]


class Fuse(Doc):
    """Protection at one end of a run; the rating and family are computed unless pinned."""

    distance_m: Annotated[float, Field(ge=0, le=LONGEST_M)] = Field(
        default=0.0, description="Wire from the terminal to the fuse: the unprotected length."
    )
    pin: FusePin | None = None


class Battery(Doc):
    """A battery or bank with one positive and one negative terminal."""

    kind: Literal["battery"] = "battery"
    id: Id
    name: Name
    tag: Tag
    place: Id | None = None
    chemistry: Literal["flooded", "agm", "gel", "lfp"] = "lfp"
    capacity_ah: Annotated[float, Field(gt=0, le=20000)] = 100.0


class FuseBlock(Doc):
    """A block with a positive bus, fused ways and a negative bar."""

    kind: Literal["fuse_block"] = "fuse_block"
    id: Id
    name: Name
    tag: Tag
    place: Id | None = None
    ways: Annotated[int, Field(ge=1, le=60)] = 12
    family: FuseFamily = "blade_regular"
    way_limit_a: Amps | None = Field(default=None, description="Greatest fuse a way takes, by its maker.")
    total_limit_a: Amps | None = Field(default=None, description="Greatest current the block takes, by its maker.")


class SizeRef(Doc):
    """A wire size by its name."""

    system: SizeSystem
    size: SizeName


class Maker(Doc):
    """What the maker of a device demands of its wiring."""

    least: SizeRef | None = None
    greatest: SizeRef | None = None
    fuse_a: Amps | None = None


class Load(Doc):
    """A consumer. Watts or amps, never both: the other is computed."""

    kind: Literal["load"] = "load"
    id: Id
    name: Name
    tag: Tag
    place: Id | None = None
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
    drop_limit_frac: Annotated[float, Field(gt=0, le=0.5)] | None = None
    maker: Maker = Maker()

    @model_validator(mode="after")
    def _one_of_watts_and_amps(self) -> Load:
        if self.power_w is not None and self.current_a is not None:
            raise ValueError("give power_w or current_a, not both")
        return self


Part = Annotated[Battery | FuseBlock | Load, Field(discriminator="kind")]


class End(Doc):
    """Where a run ends: a part, and for a fuse block the way."""

    part: Id
    way: Annotated[int, Field(ge=1, le=60)] | None = None


class Run(Doc):
    """A pair of conductors, positive and negative of one size, between two parts."""

    id: Id
    tag: Tag
    name: Annotated[str, Field(max_length=80)] = ""
    start: End
    finish: End
    length_m: Length
    length_as_typed: Annotated[str, Field(max_length=40)] | None = None
    length_confirmed: bool = Field(default=False, description="A length over 100 m is meant as it stands.")
    zone: Id | None = Field(default=None, description="The hottest zone it passes; the ends' places count too.")
    bundle_count: Annotated[int, Field(ge=1, le=200)] = Field(
        default=2, description="Current-carrying conductors side by side, its own two included."
    )
    insulation_c: Annotated[int, Field(ge=60, le=200)] | None = None
    fuse_at_start: Fuse | None = None
    fuse_at_finish: Fuse | None = None
    wire: WirePin | None = None

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


class State(Doc):
    """An operating state: what is on at the same time."""

    id: Id
    name: Name
    key_on: bool = True
    off: tuple[Id, ...] = Field(default=(), description="Loads that are off in this state.")


class Waiver(Doc):
    """A finding a person accepts, with the reason."""

    code: Annotated[str, Field(max_length=60)]
    subject: Id
    reason: Annotated[str, Field(min_length=1, max_length=400)]


class Plan(Doc):
    """The whole document."""

    format: Literal["lucernis-plan"] = "lucernis-plan"
    version: Literal[1] = 1
    job: Job
    nominal_v: Literal[6, 12, 24] = 12
    units: Preference = "metric"
    wire_colours: WireColours = WireColours()
    practice: Practice
    zones: tuple[Zone, ...] = Field(min_length=1, max_length=50)
    places: tuple[Place, ...] = Field(default=(), max_length=200)
    parts: tuple[Part, ...] = Field(default=(), max_length=5000)
    runs: tuple[Run, ...] = Field(default=(), max_length=10000)
    states: tuple[State, ...] = Field(default=(State(id="all_on", name="Everything on"),), min_length=1, max_length=20)
    waivers: tuple[Waiver, ...] = Field(default=(), max_length=2000)


def _pointer(loc: tuple[int | str, ...]) -> str:
    # Pydantic puts the union's tag (battery, load, ...) into the path; it is not in the document.
    kinds = {"battery", "fuse_block", "load"}
    return "#" + "".join(f"/{step}" for step in loc if step not in kinds)


def _reference_problems(plan: Plan) -> list[FieldProblem]:
    """Names that lead nowhere, ids used twice, ends that cannot be."""
    problems: list[FieldProblem] = []

    def unique(what: str, ids: list[str]) -> None:
        seen: set[str] = set()
        for index, one in enumerate(ids):
            if one in seen:
                problems.append(FieldProblem(f"#/{what}/{index}/id", f"id {one!r} is used twice; ids are unique"))
            seen.add(one)

    unique("zones", [zone.id for zone in plan.zones])
    unique("places", [place.id for place in plan.places])
    unique("states", [state.id for state in plan.states])
    # Parts and runs share one name space: findings and waivers point at either by id alone.
    unique("parts", [part.id for part in plan.parts])
    part_ids = {part.id for part in plan.parts}
    for index, run in enumerate(plan.runs):
        if run.id in part_ids or run.id == "plan":
            problems.append(FieldProblem(f"#/runs/{index}/id", f"id {run.id!r} is a part's or reserved"))
    unique("runs", [run.id for run in plan.runs])
    zone_ids = {zone.id for zone in plan.zones}
    place_ids = {place.id for place in plan.places}
    kinds = {part.id: part.kind for part in plan.parts}
    for index, place in enumerate(plan.places):
        if place.zone not in zone_ids:
            problems.append(FieldProblem(f"#/places/{index}/zone", f"no zone {place.zone!r}"))

    def size_exists(wire: WirePin | SizeRef | None, where: str) -> None:
        if wire is not None and wire.size not in size_names(wire.system):
            known = ", ".join(size_names(wire.system))
            problems.append(FieldProblem(f"{where}/size", f"must be one of {known}"))

    for index, part in enumerate(plan.parts):
        if isinstance(part, Load):
            size_exists(part.maker.least, f"#/parts/{index}/maker/least")
            size_exists(part.maker.greatest, f"#/parts/{index}/maker/greatest")
        if part.place is not None and part.place not in place_ids:
            problems.append(FieldProblem(f"#/parts/{index}/place", f"no place {part.place!r}"))
    used_ways: dict[tuple[str, int], int] = {}
    for index, run in enumerate(plan.runs):
        if run.zone is not None and run.zone not in zone_ids:
            problems.append(FieldProblem(f"#/runs/{index}/zone", f"no zone {run.zone!r}"))
        for side, end in (("start", run.start), ("finish", run.finish)):
            where = f"#/runs/{index}/{side}"
            kind = kinds.get(end.part)
            if kind is None:
                problems.append(FieldProblem(f"{where}/part", f"no part {end.part!r}"))
            elif end.way is not None and kind != "fuse_block":
                problems.append(FieldProblem(f"{where}/way", "only a fuse block has ways"))
            elif end.way is not None:
                if side == "finish":
                    problems.append(FieldProblem(f"{where}/way", "a run starts at a way; it cannot finish at one"))
                other = used_ways.setdefault((end.part, end.way), index)
                if other != index:
                    problems.append(FieldProblem(f"{where}/way", f"way {end.way} already feeds run {other}"))
            elif kind == "fuse_block" and side == "start":
                problems.append(FieldProblem(f"{where}/way", "a run from a fuse block starts at one of its ways"))
        if run.start.part == run.finish.part:
            problems.append(FieldProblem(f"#/runs/{index}/finish/part", "a run cannot lead from a part to itself"))
        for side, fuse in (("fuse_at_start", run.fuse_at_start), ("fuse_at_finish", run.fuse_at_finish)):
            if fuse is not None and fuse.distance_m > run.length_m:
                problems.append(
                    FieldProblem(f"#/runs/{index}/{side}/distance_m", f"must be <= length_m ({run.length_m:g})")
                )
        for side, fuse in (("fuse_at_start", run.fuse_at_start), ("fuse_at_finish", run.fuse_at_finish)):
            pin = fuse.pin if fuse is not None else None
            if pin is not None and pin.family is not None and pin.rating_a not in made_ratings_a(pin.family):
                made = " ".join(f"{one:g}" for one in made_ratings_a(pin.family))
                problems.append(FieldProblem(f"#/runs/{index}/{side}/pin/rating_a", f"made in {made} A"))
        size_exists(run.wire, f"#/runs/{index}/wire")
    for index, state in enumerate(plan.states):
        for at, off in enumerate(state.off):
            if kinds.get(off) != "load":
                problems.append(FieldProblem(f"#/states/{index}/off/{at}", f"no load {off!r}"))
    return problems


def _practice_problems(plan: Plan) -> list[FieldProblem]:
    if plan.practice.set not in load_sets():
        return [FieldProblem("#/practice/set", "must be one of " + ", ".join(load_sets()))]
    names = [override.rule for override in plan.practice.overrides]
    if len(names) != len(set(names)):
        return [FieldProblem("#/practice/overrides", "a rule is overridden twice")]
    for index, override in enumerate(plan.practice.overrides):
        try:
            resolve_rules(plan.practice.set, {override.rule: (override.value, override.reason)})
        except LucernisError as error:
            return [FieldProblem(f"#/practice/overrides/{index}", f"{error}; allowed: {error.allowed}")]
    values = resolve_rules(
        plan.practice.set, {one.rule: (one.value, one.reason) for one in plan.practice.overrides}
    ).values
    unknown = [size for size in values.shelf if size not in size_names(values.size_system)]
    if unknown:
        known = ", ".join(size_names(values.size_system))
        return [FieldProblem("#/practice/overrides", f"shelf: no size {unknown[0]!r} in this system; allowed: {known}")]
    return []


def check_plan(plan: Plan) -> Plan:
    """Return the plan if all its references hold.

    Raises
    ------
    BadDocument
        Listing every field that does not.
    """
    problems = _reference_problems(plan) + _practice_problems(plan)
    if problems:
        raise BadDocument("the plan does not hold together", problems)
    return plan


def parse_plan(document: Any) -> Plan:
    """Read a plan from decoded JSON, upgrading older versions.

    Parameters
    ----------
    document : Any
        What a JSON decoder gave.

    Returns
    -------
    Plan
        A valid plan; all references hold.

    Raises
    ------
    BadDocument
        If it is not a plan; every bad field is listed with its pointer.
    """
    if not isinstance(document, dict):
        raise BadDocument("not a plan", [FieldProblem("#", "a plan is a JSON object")])
    if document.get("format") != FORMAT:
        raise BadDocument("not a plan", [FieldProblem("#/format", f"must be {FORMAT!r}")])
    document = upgrade(document, to_version=VERSION)
    try:
        # Through JSON so that strict typing applies: "3" is not a number and true is not a length.
        plan = Plan.model_validate_json(json.dumps(document), strict=True)
    except ValidationError as error:
        raise BadDocument(
            "the plan has fields that are not allowed",
            [FieldProblem(_pointer(item["loc"]), item["msg"].removeprefix("Value error, ")) for item in error.errors()],
        ) from error
    return check_plan(plan)


def plan_document(plan: Plan, *, full: bool = True) -> dict[str, Any]:
    """The plan as JSON values.

    Parameters
    ----------
    plan : Plan
        A valid plan.
    full : bool
        With every field, as edits and screens need it; else without those that stand at their default,
        as a person wants the file.

    Returns
    -------
    dict
        Ready for a JSON encoder; `parse_plan` reads it back to an equal plan.
    """
    document: dict[str, Any] = plan.model_dump(mode="json", exclude_defaults=not full)
    # A document says what it is even though these equal the defaults.
    for part, shown in zip(plan.parts, document.get("parts", []), strict=False):
        shown["kind"] = part.kind
    return {"format": FORMAT, "version": VERSION} | document
