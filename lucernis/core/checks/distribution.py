"""Checks of what shares current: switches, busbars, blocks, connectors, studs, the way the system is laid out."""

from __future__ import annotations

from lucernis.core.checks.fixes import fed_end, fed_end_fuse, insert, next_rating, pin_rating, put_fuse, set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.terminals import has_positive, point
from lucernis.core.faults.guards import Guards
from lucernis.core.protection.fuse_curves import greatest_multiple_for
from lucernis.core.protection.fuses import family
from lucernis.core.report import Fix
from lucernis.plan.edits.operations import PutLoad, PutRelay, SetFields, ShareFeeder
from lucernis.plan.model import Battery, Busbar, FuseBlock, Joint, Load, Part, Relay, Run, Shunt, Switch
from lucernis.plan.units import told_length

# ABYC E-11, from memory.
MOST_LUGS = 4
SHORT_TIME_S = 30.0
# Where loads sit further off than this a feeder and a block near them are looked at.
FAR_M = 3.0


def check_distribution(raised: Raised, guards: Guards) -> None:
    """Raise what is above its rating or laid out badly."""
    for part in raised.plan.parts:
        if isinstance(part, Switch):
            _switch(raised, guards, part)
        elif isinstance(part, Busbar):
            _guarded(raised, guards, part, part.rated_a)
            _rated(raised, guards, part, "busbar-over", part.rated_a, "rated_a")
            _lugs(raised, part, part.studs * MOST_LUGS)
        elif isinstance(part, Joint):
            _rated(raised, guards, part, "pin-over", part.rated_a, "rated_a")
            if part.form == "stud":
                _lugs(raised, part, MOST_LUGS)
        elif isinstance(part, Relay):
            _rated(raised, guards, part, "relay-over", part.contact_a, "contact_a")
        elif isinstance(part, Shunt):
            _shunt_rating(raised, guards, part)
        elif isinstance(part, FuseBlock):
            _block(raised, guards, part)
        elif isinstance(part, Battery):
            _post(raised, part)
        elif part.kind == "keyed_feed":
            _rated(raised, guards, part, "keyed-feed-over", part.rated_a, None)
    _layout(raised)
    _isolation(raised)


def _rated(raised: Raised, guards: Guards, part: Part, code: str, rated_a: float | None, field: str | None) -> None:
    carried_a = guards.through_a(part.id)
    if rated_a is None or carried_a <= rated_a * (1 + 1e-9):
        return
    better = next_rating(_made_for_a(guards, part))
    each = " a pin" if code == "pin-over" else ""
    raised.on_part(
        code,
        part,
        what=f"{carried_a:.1f} A through {part.name}, made for {rated_a:g} A{each}",
        mend="Take a larger one, or move loads away from it.",
        fixes=[] if field is None else [set_part(part, f"Take one for {better:g} A", **{field: better})],
        current_a=carried_a,
        rated_a=rated_a,
    )


def _made_for_a(guards: Guards, part: Part) -> float:
    """What a part has to be made for: what flows, and for bars and isolators what their fuse lets through. [A]"""
    guarded = isinstance(part, Busbar) or (isinstance(part, Switch) and part.use == "isolator")
    lasting_a = guards.lasting_a(part.id) if guarded else None
    return max(guards.through_a(part.id), lasting_a or 0.0)


def _guarded(raised: Raised, guards: Guards, part: Busbar | Switch, rated_a: float | None) -> None:
    """A bar or switch whose fuse lets more through than it is made for."""
    lasting_a = guards.lasting_a(part.id)
    if rated_a is None or lasting_a is None or lasting_a <= rated_a * (1 + 1e-9):
        return
    better = next_rating(_made_for_a(guards, part))
    raised.on_part(
        "guard-above-rating",
        part,
        what=f"{part.name} is made for {rated_a:g} A; the fuse before it lets {lasting_a:g} A through",
        mend=f"One for {better:g} A, or a fuse of at most {rated_a:g} A."
        if guards.through_a(part.id) <= rated_a
        else f"One for {better:g} A.",
        fixes=[set_part(part, f"Take one for {better:g} A", rated_a=better)],
        asked=f"{part.name} made for {rated_a:g} A",
        guard_a=lasting_a,
        rated_a=rated_a,
    )


def _switch(raised: Raised, guards: Guards, part: Switch) -> None:
    if part.use == "isolator":
        _guarded(raised, guards, part, part.rated_a)
    carried_a = guards.through_a(part.id)
    if part.rated_a is not None and carried_a > part.rated_a * (1 + 1e-9):
        better = next_rating(_made_for_a(guards, part))
        fixes = [set_part(part, f"Take one for {better:g} A", rated_a=better)]
        if part.use == "circuit":
            fixes = [*_relay(raised, part, better), *fixes]
        raised.on_part(
            "switch-over",
            part,
            what=f"{carried_a:.1f} A through {part.name}, made for {part.rated_a:g} A",
            mend="A relay that the switch only tells, or a larger switch.",
            fixes=fixes,
            current_a=carried_a,
            rated_a=part.rated_a,
        )
    guard = guards.nearest.get(part.id)
    fuse = raised.sized.fuses.get(guard) if guard is not None else None
    if part.short_time_a is not None and fuse is not None and fuse.fuse is not None:
        passing_a = greatest_multiple_for(fuse.fuse.family, SHORT_TIME_S) * fuse.fuse.rating_a * fuse.count
        if passing_a > part.short_time_a * (1 + 1e-9):
            raised.on_part(
                "switch-short-time",
                part,
                what=f"Its fuse may pass {passing_a:.0f} A for {SHORT_TIME_S:.0f} s; {part.name} stands "
                f"{part.short_time_a:g} A",
                mend="A switch of higher short-time rating, or a smaller fuse before it.",
                passing_a=passing_a,
                short_time_a=part.short_time_a,
            )


def _relay(raised: Raised, part: Switch, contact_a: float) -> list[Fix]:
    behind = [run for run in raised.plan.runs if run.start.part == part.id]
    before = [run for run in raised.plan.runs if run.finish.part == part.id]
    if len(before) != 1 or not behind or part.form != "single":
        return []
    return [
        Fix(f"Put a {contact_a:g} A relay behind it", [PutRelay(op="put_relay", switch=part.id, contact_a=contact_a)])
    ]


def _shunt_rating(raised: Raised, guards: Guards, part: Shunt) -> None:
    carried_a = guards.through_a(part.id)
    if carried_a > part.rated_a:
        raised.on_part(
            "shunt-over",
            part,
            what=f"{carried_a:.0f} A through {part.name}, made for {part.rated_a:g} A",
            mend="Take a larger shunt.",
            fixes=[set_part(part, f"Take one for {next_rating(carried_a):g} A", rated_a=next_rating(carried_a))],
            current_a=carried_a,
            rated_a=part.rated_a,
        )


def _lugs(raised: Raised, part: Part, most: int) -> None:
    lugs = sum(run.parallel for run in raised.plan.runs if part.id in (run.start.part, run.finish.part))
    if lugs > most:
        raised.on_part(
            "stud-crowded",
            part,
            what=f"{lugs} lugs on {part.name}, {most} at most",
            mend="A busbar with more studs, or a second one.",
            lugs=float(lugs),
        )


def _post(raised: Raised, part: Battery) -> None:
    on_post = [run for run in raised.plan.runs if part.id in (run.start.part, run.finish.part) and has_positive(run)]
    if len(on_post) > 1:
        raised.on_part(
            "post-stacked",
            part,
            what=f"{len(on_post)} cables on the positive post of {part.name}: " + ", ".join(run.tag for run in on_post),
            mend="One cable from each post to a busbar; branch from there.",
            cables=float(len(on_post)),
        )


def _block(raised: Raised, guards: Guards, block: FuseBlock) -> None:
    for bank, name in (((block.id), block.name), (point(block.id, "bank_b"), f"{block.name}, second bank")):
        feeder = raised.sized.topology.feeder_of.get(bank)
        if feeder is None or block.total_limit_a is None:
            continue
        run = raised.sized.topology.runs[feeder]
        lasting_a = guards.lasting_a(bank)
        if lasting_a is None or lasting_a > block.total_limit_a * (1 + 1e-9):
            fuse = raised.sized.fuses.get(feeder)
            fixes: list[Fix] = []
            if fuse is not None and fuse.fuse is not None:
                made = family(fuse.fuse.family)
                fitting = [one for one in made.ratings_a if fuse.least_a <= one <= block.total_limit_a]
                if fitting:
                    fixes = [
                        pin_rating(
                            run,
                            fed_end(raised, run),
                            fitting[-1],
                            made.name,
                            f"{block.name} takes {block.total_limit_a:g} A",
                        )
                    ]
            else:
                fixes = [put_fuse(raised, run, f"Put a fuse before {block.name}")]
            raised.on_part(
                "block-no-prefuse",
                block,
                what=f"{name} is made for {block.total_limit_a:g} A; the fuse before it lets "
                + (f"{lasting_a:g} A through" if lasting_a is not None else "everything through"),
                mend=f"A fuse of at most {block.total_limit_a:g} A in its feeder.",
                fixes=fixes,
                total_limit_a=block.total_limit_a,
            )
        ways_a = sum(
            fuse.lasting_a or 0.0
            for run_id in raised.sized.topology.fed_runs.get(bank, ())
            if (fuse := raised.sized.fuses.get(run_id)) is not None
        )
        if lasting_a is None and ways_a > block.total_limit_a:
            raised.on_part(
                "block-ways-sum",
                block,
                what=f"The fuses of its ways add up to {ways_a:g} A, {name} is made for {block.total_limit_a:g} A",
                mend="A fuse before the block that it stands.",
                ways_a=ways_a,
            )


def _layout(raised: Raised) -> None:
    """Several long runs from one block to one place: a feeder and a block there would be shorter."""
    topology = raised.sized.topology
    groups: dict[tuple[str, str], list[Run]] = {}
    for run_id in topology.order:
        run = topology.runs[run_id]
        source, end = topology.fed_part(run), topology.far_part(run)
        if not isinstance(source, FuseBlock) or not isinstance(end, Load) or end.place is None:
            continue
        if end.place != source.place and run.length_m >= FAR_M:
            groups.setdefault((source.id, end.place), []).append(run)
    names = {place.id: place.name for place in raised.plan.places}
    for (source_id, place), runs in groups.items():
        if len(runs) < 3:
            continue
        now_m = sum(run.length_m for run in runs)
        feeder_m = min(run.length_m for run in runs)
        branch_m = max(0.5, sum(run.length_m - feeder_m for run in runs) / len(runs))
        then_m = feeder_m + branch_m * len(runs)
        if then_m > 0.6 * now_m:
            continue
        block = topology.parts[source_id]
        edit = ShareFeeder(
            op="share_feeder",
            parts=[topology.far_part(run).id for run in runs],
            name=f"{names[place]} block",
            length=f"{feeder_m:.2f} m",
            branch_length=f"{branch_m:.2f} m",
            place=place,
        )
        now = told_length(2 * now_m, raised.plan.units)
        raised.on_part(
            "feeder-shorter",
            block,
            what=f"{len(runs)} runs from {block.name} to {names[place]}, {now} of wire there and back; a "
            f"feeder and a block there need {told_length(2 * then_m, raised.plan.units)}",
            mend="One feeder to a block near the loads.",
            fixes=[Fix(f"Feed {names[place]} by a block of its own", [edit])],
            now_m=2 * now_m,
            then_m=2 * then_m,
        )


def _isolation(raised: Raised) -> None:
    plan, sized = raised.plan, raised.sized
    batteries = [part for part in plan.parts if isinstance(part, Battery)]
    if not batteries or not sized.topology.order:
        return
    isolators = [part for part in plan.parts if isinstance(part, Switch) and part.use == "isolator"]
    breakers = [run for run in plan.runs if _breaker_at_battery(raised, run)]
    if not isolators and breakers:
        # A breaker one works by hand in the battery's cable switches it off as well.
        return
    if not isolators:
        first = next((sized.topology.runs[one] for one in sized.topology.order), None)
        far = sized.topology.far_part(first) if first is not None else None
        fields: dict[str, object] = {
            "kind": "switch",
            "use": "isolator",
            "name": "Isolating switch",
            "rated_a": next_rating(_guard_of_first(raised, first)) if first is not None else 100.0,
        }
        own = fed_end_fuse(raised, first) if first is not None else None
        at_m = 0.2 + (own.distance_m if own is not None else 0.0)
        raised.raise_(
            "no-isolator",
            "plan",
            "plan",
            "",
            what="Nothing switches the whole system off",
            mend="An isolating switch between the main fuse and everything else.",
            fixes=insert(
                first, f"Put an isolating switch before {far.name}", fields, at_m=at_m, near=fed_end(raised, first)
            )
            if first is not None and far is not None and has_positive(first)
            else [],
        )
        return
    _meant_to_stay(raised, isolators)
    switches = {part.id for part in isolators}
    closed = [contact for contact in sized.switching.contacts if contact[0] not in switches]
    live = sized.switching.reach(closed, frozenset())
    left = [part for part in plan.parts if isinstance(part, Load) and part.id in live and not part.stays_live]
    if left:
        names = ", ".join(part.name for part in isolators)
        many = f"{left[0].name} and {len(left) - 1} more" if len(left) > 3 else ", ".join(one.name for one in left)
        raised.on_part(
            "live-when-off",
            isolators[0],
            what=f"{many} stay live with {names} off" if len(left) > 1 else f"{many} stays live with {names} off",
            mend="Feed it behind the switch, or note it as always live.",
            fixes=[
                Fix(
                    f"Note {left[0].name} as always live",
                    [SetFields(op="set_fields", subject=left[0].id, values={"stays_live": True})],
                )
            ]
            if len(left) == 1
            else [],
            loads=float(len(left)),
        )


def _meant_to_stay(raised: Raised, isolators: list[Switch]) -> None:
    """Loads named as staying live that a main switch or the key takes along."""
    sized = raised.sized
    names = {part.id for part in isolators}
    closed = [contact for contact in sized.switching.contacts if contact[0] not in names]
    off = sized.switching.reach(closed, frozenset())
    for load in raised.plan.parts:
        if not isinstance(load, Load) or not load.stays_live or load.id not in sized.topology.feeder_of:
            continue
        dark = [state for state in raised.plan.states if load.id not in sized.demand.switched[state.id].live]
        if load.id in off and not dark:
            continue
        by = ", ".join(part.name for part in isolators) if load.id not in off else f"{dark[0].name}"
        raised.on_part(
            "stays-live-switched",
            load,
            what=f"{load.name} is meant to stay live, but loses its battery "
            + (f"with {by} off" if load.id not in off else f"in {by}"),
            mend="Feed it from before the switch, with a fuse of its own there; or note that it may be switched.",
            fixes=[set_part(load, f"Note that {load.name} may be switched", stays_live=False)],
            asked=f"{load.name} to stay live",
        )


def _guard_of_first(raised: Raised, first: Run) -> float:
    """What a switch in the first run must be made for: what flows, and what its fuse lets through. [A]"""
    fuse = raised.sized.fuses.get(first.id)
    return max(raised.sized.carry_a(first.id), (fuse.lasting_a or 0.0) if fuse is not None else 0.0)


def _breaker_at_battery(raised: Raised, run: Run) -> bool:
    """A breaker worked by hand in a house battery's cable."""
    fuse = raised.sized.fuses.get(run.id)
    battery = raised.sized.topology.parts.get(raised.sized.topology.start_of.get(run.id, ""))
    by_hand = fuse is not None and fuse.fuse is not None and fuse.fuse.family in ("breaker_manual", "breaker_magnetic")
    return by_hand and isinstance(battery, Battery) and battery.use == "house"


def check_keyed(raised: Raised) -> None:
    """Raise keyed loads that are live without the key."""
    sized = raised.sized
    keyed_banks = [
        part.id
        for part in raised.plan.parts
        if isinstance(part, FuseBlock) and (path := sized.topology.feeder_of.get(part.id)) is not None
        and any(sized.topology.part_at(sized.topology.start_of[path]).kind == kind for kind in ("relay", "keyed_feed"))
    ]  # fmt: skip
    for state in raised.plan.states:
        if state.key_on:
            continue
        live = sized.demand.switched[state.id].alive
        for load in raised.plan.parts:
            if isinstance(load, Load) and load.keyed and load.id in live:
                fixes = [
                    Fix("Put it on the keyed block", [PutLoad(op="put_load", part=load.id, on=bank)])
                    for bank in keyed_banks[:1]
                ]
                edit = SetFields(op="set_fields", subject=load.id, values={"keyed": False})
                fixes.append(Fix("Note that it is not keyed", [edit]))
                raised.on_part(
                    "keyed-constant",
                    load,
                    what=f"{load.name} is meant to follow the key, but is live in {state.name}",
                    mend="Feed it from a bank that a keyed relay switches.",
                    fixes=fixes,
                )
