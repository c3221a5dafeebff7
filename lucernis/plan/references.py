"""What holds a plan together beyond its fields: names that lead somewhere, ids used once, ends that can be."""

from __future__ import annotations

from lucernis.errors import FieldProblem, LucernisError
from lucernis.plan.base import SizeRef
from lucernis.plan.layout_references import layout_problems
from lucernis.plan.model import End, Fuse, FuseBlock, Load, Part, Plan, Run, WirePin
from lucernis.plan.terminals import has_legs, terminals
from lucernis.practice.names import size_names
from lucernis.practice.rules import load_sets, resolve_rules


def reference_problems(plan: Plan) -> list[FieldProblem]:
    """Names that lead nowhere, ids used twice, ends that cannot be."""
    problems = _ids(plan)
    parts = {part.id: part for part in plan.parts}
    places = {place.id for place in plan.places}
    for index, part in enumerate(plan.parts):
        if isinstance(part, Load):
            problems += _size(part.maker.least, f"#/parts/{index}/maker/least")
            problems += _size(part.maker.greatest, f"#/parts/{index}/maker/greatest")
        elif part.kind == "charger":
            problems += _size(part.greatest, f"#/parts/{index}/greatest")
        if part.place is not None and part.place not in places:
            problems.append(FieldProblem(f"#/parts/{index}/place", f"no place {part.place!r}"))
    zones = {zone.id for zone in plan.zones}
    used_ways: dict[tuple[str, int], int] = {}
    for index, run in enumerate(plan.runs):
        problems += _run(run, index, parts, zones, used_ways)
    problems += layout_problems(plan)
    problems += _states(plan, parts)
    states = {state.id for state in plan.states}
    for at, slot in enumerate(plan.energy.day):
        if slot.state not in states:
            problems.append(FieldProblem(f"#/energy/day/{at}/state", f"no state {slot.state!r}"))
    return problems


def _ids(plan: Plan) -> list[FieldProblem]:
    problems: list[FieldProblem] = []

    def unique(what: str, ids: list[str]) -> None:
        seen: set[str] = set()
        for index, one in enumerate(ids):
            if one in seen:
                problems.append(FieldProblem(f"#/{what}/{index}/id", f"id {one!r} is used twice; ids are unique"))
            seen.add(one)

    unique("zones", [zone.id for zone in plan.zones])
    unique("places", [place.id for place in plan.places])
    unique("channels", [channel.id for channel in plan.channels])
    unique("states", [state.id for state in plan.states])
    # Parts and runs share one name space: findings and waivers point at either by id alone.
    unique("parts", [part.id for part in plan.parts])
    part_ids = {part.id for part in plan.parts}
    for index, run in enumerate(plan.runs):
        if run.id in part_ids or run.id == "plan":
            problems.append(FieldProblem(f"#/runs/{index}/id", f"id {run.id!r} is a part's or reserved"))
    unique("runs", [run.id for run in plan.runs])
    others = part_ids | {run.id for run in plan.runs} | {state.id for state in plan.states} | {"plan"}
    for index, channel in enumerate(plan.channels):
        if channel.id in others:
            problems.append(FieldProblem(f"#/channels/{index}/id", f"id {channel.id!r} is another's or reserved"))
    zone_ids = {zone.id for zone in plan.zones}
    for index, place in enumerate(plan.places):
        if place.zone not in zone_ids:
            problems.append(FieldProblem(f"#/places/{index}/zone", f"no zone {place.zone!r}"))
    return problems


def _size(wire: WirePin | SizeRef | None, where: str) -> list[FieldProblem]:
    if wire is None or wire.size in size_names(wire.system):
        return []
    return [FieldProblem(f"{where}/size", f"must be one of {', '.join(size_names(wire.system))}")]


def _end(run: Run, side: str, end: End, part: Part | None, where: str) -> list[FieldProblem]:
    if part is None:
        return [FieldProblem(f"{where}/part", f"no part {end.part!r}")]
    problems: list[FieldProblem] = []
    if end.terminal is not None and end.terminal not in terminals(part):
        allowed = ", ".join(terminals(part)) or "none"
        problems.append(FieldProblem(f"{where}/terminal", f"terminals of {part.name}: {allowed}"))
    if end.way is not None and end.terminal is not None:
        problems.append(FieldProblem(f"{where}/terminal", "a way is a terminal already"))
    positive, negative = has_legs(part)
    if (run.legs == "positive" and not positive) or (run.legs == "negative" and not negative):
        problems.append(FieldProblem(f"{where}/part", f"{part.name} has no {run.legs} terminal"))
    elif run.legs == "both" and not positive:
        problems.append(FieldProblem(f"{where}/part", f"{part.name} has only a negative; take legs negative"))
    if end.way is not None and not isinstance(part, FuseBlock):
        problems.append(FieldProblem(f"{where}/way", "only a fuse block has ways"))
    elif end.way is not None and side == "finish":
        problems.append(FieldProblem(f"{where}/way", "a run starts at a way; it cannot finish at one"))
    elif end.way is None and isinstance(part, FuseBlock) and side == "start" and run.legs != "negative":
        problems.append(FieldProblem(f"{where}/way", "a run from a fuse block starts at one of its ways"))
    return problems


def _fuse(run: Run, fuse: Fuse | None, where: str) -> list[FieldProblem]:
    if fuse is None:
        return []
    problems = []
    if run.legs in ("negative", "series"):
        problems.append(FieldProblem(where, "a fuse stands in the positive; this run has none"))
    if fuse.distance_m > run.length_m:
        problems.append(FieldProblem(f"{where}/distance_m", f"must be <= length_m ({run.length_m:g})"))
    return problems


def _run(
    run: Run, index: int, parts: dict[str, Part], zones: set[str], used_ways: dict[tuple[str, int], int]
) -> list[FieldProblem]:
    problems = []
    if run.zone is not None and run.zone not in zones:
        problems.append(FieldProblem(f"#/runs/{index}/zone", f"no zone {run.zone!r}"))
    for side, end in (("start", run.start), ("finish", run.finish)):
        where = f"#/runs/{index}/{side}"
        problems += _end(run, side, end, parts.get(end.part), where)
        if end.way is not None:
            other = used_ways.setdefault((end.part, end.way), index)
            if other != index:
                problems.append(FieldProblem(f"{where}/way", f"way {end.way} already feeds run {other}"))
        if run.legs == "series" and end.part in parts and parts[end.part].kind != "battery":
            problems.append(FieldProblem(f"{where}/part", "a link in series joins two batteries"))
    if run.start.part == run.finish.part:
        problems.append(FieldProblem(f"#/runs/{index}/finish/part", "a run cannot lead from a part to itself"))
    problems += _fuse(run, run.fuse_at_start, f"#/runs/{index}/fuse_at_start")
    problems += _fuse(run, run.fuse_at_finish, f"#/runs/{index}/fuse_at_finish")
    return problems + _size(run.wire, f"#/runs/{index}/wire")


def _states(plan: Plan, parts: dict[str, Part]) -> list[FieldProblem]:
    problems = []
    kinds = {part.id: part.kind for part in plan.parts}
    can_open = {part.id for part in plan.parts if part.kind == "switch"} | {
        run.id for run in plan.runs if run.fuse_at_start is not None or run.fuse_at_finish is not None
    }
    modal = {part.id for part in plan.parts if part.kind == "switch" and part.form != "single"}
    for index, state in enumerate(plan.states):
        for at, one in enumerate(state.off):
            if kinds.get(one) != "load":
                problems.append(FieldProblem(f"#/states/{index}/off/{at}", f"no load {one!r}"))
        for at, one in enumerate(state.open):
            if one not in can_open:
                problems.append(FieldProblem(f"#/states/{index}/open/{at}", f"no switch or fused run {one!r}"))
        for at, mode in enumerate(state.modes):
            if mode.part not in modal:
                where = f"#/states/{index}/modes/{at}/part"
                problems.append(FieldProblem(where, f"no three-position or reversing switch {mode.part!r}"))
        for at, duty in enumerate(state.duty):
            if kinds.get(duty.load) != "load":
                problems.append(FieldProblem(f"#/states/{index}/duty/{at}/load", f"no load {duty.load!r}"))
    return problems


def practice_problems(plan: Plan) -> list[FieldProblem]:
    """A set that is not known, rules overridden twice or with what is not allowed."""
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
