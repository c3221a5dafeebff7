"""Checks of channels and of where things are fixed: what lies near, holes, clamps, fill, walls that stay closed."""

from __future__ import annotations

from collections.abc import Sequence

from lucernis.core.checks.fixes import set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.checks.routing import LONGEST_SPAN_M
from lucernis.core.layout.fill import fill_frac, fill_limit, grommet_for, inside_needed_mm
from lucernis.core.layout.laid import Layout, layout_of
from lucernis.core.report import Fix
from lucernis.core.sizing.lying import wires_mm
from lucernis.core.sizing.places import zone_of_places
from lucernis.plan.edits.operations import FollowChannels, SetFields, SetFuse
from lucernis.plan.layout import Channel, Crossing
from lucernis.plan.model import Battery, Charger, Fuse, FuseBlock, Joint, Load, Part, Relay, Run
from lucernis.plan.units import told_length

# A hole measured this much too small is the tape's fault. [mm]
_HAIR_MM = 0.05
_THROUGH = {
    "firewall": "the firewall",
    "metal": "sheet metal",
    "plastic_or_wood": "plastic or wood",
    "roof": "the roof",
}


def check_layout(raised: Raised) -> None:
    """Raise what is wrong along channels in use and at places."""
    layout = layout_of(raised.plan, raised.rules)
    for run in raised.plan.runs:
        _no_way(raised, layout, run)
        _in_line(raised, run)
    wires = wires_mm(layout, raised.sized)
    for channel in raised.plan.channels:
        runs = layout.lying[channel.id]
        if runs:
            _near(raised, channel, runs)
            _held(raised, channel)
            _beside(raised, channel)
            _full(raised, channel, wires[channel.id])
            for crossing in channel.crossings:
                _hole(raised, channel, crossing, wires[channel.id])
    _buried(raised)
    for part in raised.plan.parts:
        _fixed(raised, part)


def _on(
    raised: Raised, code: str, channel: Channel, *, what: str, mend: str, fixes: Sequence[Fix], **figures: float
) -> None:
    text = f"{channel.name}: {what}"
    raised.raise_(code, channel.id, "channel", "", what=text, mend=mend, fixes=fixes, figures=figures)


def _set(channel: Channel, label: str, **values: object) -> Fix:
    return Fix(label, [SetFields(op="set_fields", subject=channel.id, values=values)])


def _no_way(raised: Raised, layout: Layout, run: Run) -> None:
    route = layout.routes.get(run.id)
    if route is None or not route.missing:
        return
    fixes = []
    if run.way is not None and (run.way.use or run.way.avoid):
        edit = FollowChannels(op="follow_channels", runs=[run.id])
        fixes.append(Fix(f"Let {run.tag} take any channel", [edit]))
    raised.on_run(
        "run-no-way",
        run,
        what=f"{run.tag} finds no way: {route.missing}; {told_length(run.length_m, raised.plan.units)} taken instead",
        mend="A channel that joins them, or a length measured for this run.",
        fixes=fixes,
        asked=route.missing,
    )


def _near(raised: Raised, channel: Channel, runs: Sequence[Run]) -> None:
    count = f"{len(runs)} run{'s' if len(runs) > 1 else ''}"
    guard = [_set(channel, "Note the guard", guarded=True)]
    near = () if channel.guarded else channel.near
    if "exhaust" in near:
        _on(
            raised,
            "channel-exhaust",
            channel,
            what=f"{count} near the exhaust, without a guard",
            mend="Another way, or a heat shield and sleeve with room to the pipe.",
            fixes=guard,
        )
    if "heat" in near:
        _on(
            raised,
            "channel-heat",
            channel,
            what=f"{count} near something hot, without a guard",
            mend="Another way, or a shield; insulation for the heat that is there.",
            fixes=guard,
        )
    if "fuel" in near:
        _on(
            raised,
            "channel-fuel",
            channel,
            what=f"{count} near a fuel line, without a guard",
            mend="Another way, or conduit, and never below or tied to the line.",
            fixes=guard,
        )
    if "moving" in near:
        _on(
            raised,
            "channel-moving",
            channel,
            what=f"{count} near something that moves, without a guard",
            mend="Another way, or a guard and clamps that keep it off.",
            fixes=guard,
        )
    if channel.screws and not channel.guarded:
        _on(
            raised,
            "channel-screws",
            channel,
            what="screws go there later",
            mend="Another way, or a steel plate or conduit over it; mark it on the wall.",
            fixes=[_set(channel, "Note the plate over it", guarded=True)],
        )


def _held(raised: Raised, channel: Channel) -> None:
    if channel.clamp_m is None or channel.clamp_m <= LONGEST_SPAN_M + 1e-9 or channel.inside_mm is not None:
        return
    units = raised.plan.units
    _on(
        raised,
        "span-unsupported",
        channel,
        what=f"{told_length(channel.clamp_m, units, short=True)} between two clamps, "
        f"{told_length(LONGEST_SPAN_M, units, short=True)} at most",
        mend="More clamps.",
        fixes=[_set(channel, "Note it as clamped", clamp_m=LONGEST_SPAN_M)],
        span_m=channel.clamp_m,
    )


def _beside(raised: Raised, channel: Channel) -> None:
    if channel.gas and not channel.guarded:
        _on(
            raised,
            "gas-with-wires",
            channel,
            what="a gas line and wires in one channel",
            mend="Another way; where there is none, wires above the line, in conduit, and no joint there.",
            fixes=[_set(channel, "Note the conduit", guarded=True)],
        )
    if channel.mains == "together":
        _on(
            raised,
            "mains-with-wires",
            channel,
            what="mains and low voltage beside one another",
            mend="A wall, conduit or sheath between them, by a licensed person.",
            fixes=[_set(channel, "Note them as kept apart", mains="apart")],
        )


def _full(raised: Raised, channel: Channel, wires: Sequence[float]) -> None:
    if channel.inside_mm is None:
        return
    limit_frac, _ = fill_limit(len(wires), "conduit")
    found_frac = fill_frac(wires, channel.inside_mm)
    if found_frac > limit_frac + 1e-9:
        needed_mm = inside_needed_mm(wires, "conduit")
        _on(
            raised,
            "conduit-full",
            channel,
            what=f"{len(wires)} wires fill {100 * found_frac:.0f} % of {channel.inside_mm:g} mm, "
            f"{100 * limit_frac:.0f} % at most",
            mend=f"Conduit of {needed_mm:.0f} mm inside or more, or a second one.",
            fixes=[],
            fill_frac=found_frac,
            limit_frac=limit_frac,
            needed_mm=needed_mm,
        )


def _hole(raised: Raised, channel: Channel, hole: Crossing, wires: Sequence[float]) -> None:
    def mended(label: str, **values: object) -> Fix:
        crossings = [one.model_dump() | (values if one.id == hole.id else {}) for one in channel.crossings]
        return _set(channel, label, crossings=crossings)

    where = _THROUGH[hole.through]
    if hole.through != "plastic_or_wood" and not hole.grommet:
        _on(
            raised,
            "hole-no-grommet",
            channel,
            what=f"through a hole in {where} without a grommet or gland",
            mend="Deburr, paint, grommet.",
            fixes=[mended("Note the grommet", grommet=True)],
        )
    if hole.through in ("firewall", "roof") and not hole.sealed:
        _on(
            raised,
            "hole-unsealed",
            channel,
            what=f"the hole through {where} is not sealed",
            mend="Seal it against fumes, water and fire.",
            fixes=[mended("Note it as sealed", sealed=True)],
        )
    needed_mm = inside_needed_mm(wires, "hole")
    if hole.hole_mm is not None and hole.hole_mm < needed_mm - _HAIR_MM:
        made = grommet_for(needed_mm)
        buy = f"Grommet of {made[0]:g} mm in a {made[1]:g} mm hole" if made else "A gland plate"
        _on(
            raised,
            "hole-small",
            channel,
            what=f"{hole.hole_mm:g} mm left in {where}, {len(wires)} wires need {needed_mm:.0f} mm",
            mend=f"{buy}, or a second hole.",
            fixes=[mended(f"Note {made[0]:g} mm", hole_mm=made[0])] if made else [],
            hole_mm=hole.hole_mm,
            needed_mm=needed_mm,
        )


def _buried(raised: Raised) -> None:
    """Joints and fuses behind walls that stay closed."""
    closed = {place.id: place for place in raised.plan.places if place.reach == "closed"}
    parts = raised.sized.topology.parts
    for part in raised.plan.parts:
        if part.place in closed and isinstance(part, Joint):
            raised.on_part(
                "joint-buried",
                part,
                what=f"{part.name} lies behind a wall that stays closed: {closed[part.place].name}",
                mend="A place one can reach, or one piece of wire.",
            )
        if part.place in closed and isinstance(part, FuseBlock):
            _fuse_buried(raised, part, closed[part.place].name)
    for run in raised.plan.runs:
        for end in (run.start, run.finish):
            place = parts[end.part].place
            if place in closed and end.joint in ("splice", "lever"):
                raised.on_run(
                    "joint-buried",
                    run,
                    what=f"{run.tag} ends in a {end.joint} behind a wall that stays closed: {closed[place].name}",
                    mend="A place one can reach, or one piece of wire.",
                )


def _fuse_buried(raised: Raised, part: Part, place: str) -> None:
    raised.on_part(
        "fuse-buried",
        part,
        what=f"{part.name} stands behind a wall that stays closed: {place}",
        mend="A place one can reach without tools, lid and labels in sight.",
    )


def _in_line(raised: Raised, run: Run) -> None:
    ends: tuple[tuple[str, Fuse | None], ...] = (("start", run.fuse_at_start), ("finish", run.fuse_at_finish))
    for end, fuse in ends:
        if fuse is None:
            continue

        def noted(label: str, end: str = end, **values: bool) -> Fix:
            return Fix(label, [SetFuse.model_validate({"op": "set_fuse", "run": run.id, "end": end, **values})])

        if fuse.bracket is False:
            raised.on_run(
                "fuse-hanging",
                run,
                what=f"The fuse at the {end} of {run.tag} hangs free",
                mend="A bracket of its own that does not shake.",
                fixes=[noted("Note the bracket", bracket=True)],
            )
        if fuse.tied is False:
            raised.on_run(
                "fuse-untied",
                run,
                what=f"The wire before the fuse at the {end} of {run.tag} is not tied",
                mend="A tie on it, so that a loosened end cannot swing to the body.",
                fixes=[noted("Note the tie", tied=True)],
            )


def _fixed(raised: Raised, part: Part) -> None:
    places = {place.id: place for place in raised.plan.places}
    place = places.get(part.place or "")
    zone = zone_of_places(raised.plan).get(f"place {part.place}")
    if isinstance(part, Battery):
        if part.fixed is False:
            raised.on_part(
                "battery-loose",
                part,
                what=f"{part.name} is not fixed",
                mend="Straps or a frame bolted to the body that hold it in a crash and upside down.",
                fixes=[set_part(part, "Note it as fixed", fixed=True)],
            )
        if zone is not None and zone.vapour:
            raised.on_part(
                "battery-vapour",
                part,
                what=f"{part.name} stands in {zone.name}, where petrol or gas vapour can gather",
                mend="A place on the other side of the seal.",
            )
    airless = place is not None and place.airy is False
    if airless and (isinstance(part, Charger) or (isinstance(part, Load) and part.device == "inverter")):
        raised.on_part(
            "charger-no-air",
            part,
            what=f"{part.name} has no room or air around it at {place.name if place is not None else ''}",
            mend="Room on all sides by its sheet, air in below and out above.",
        )
    if isinstance(part, Relay) and part.terminals == "up":
        raised.on_part(
            "relay-up",
            part,
            what=f"{part.name} has its terminals up: water runs in",
            mend="Terminals down.",
            fixes=[set_part(part, "Note them as down", terminals="down")],
        )
