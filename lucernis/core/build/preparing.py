"""Steps before the first end is made: dead vehicle, holes, parts, pieces cut and pulled."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lucernis.core.build.steps import Mark, Step
from lucernis.core.build.work import Work, called, counted
from lucernis.core.circuit.giving import becomes_dead
from lucernis.core.harness.openings import is_sealed, needs_grommet
from lucernis.core.harness.pieces import CutPiece
from lucernis.core.layout.fill import grommet_for, inside_needed_mm, outside_mm
from lucernis.plan.layout import Crossing
from lucernis.plan.model import Battery, Load, Panel, Part, Run
from lucernis.plan.units import told_cut

_IN_THE_VEHICLE = ("alternator", "keyed_feed")
_NOT_FASTENED = ("splice", "lever", "cap")
_HEAVY = ("battery", "charger", "panel")
_THROUGH = {
    "firewall": "the firewall",
    "metal": "sheet metal",
    "plastic_or_wood": "plastic or wood",
    "roof": "the roof",
}
_DEAD = (
    "Disconnect the negative of every battery first, the vehicle's own too. Rings and watch off, tools insulated: a "
    "lithium bank is never worked on live. Airbags and vehicle electronics: wait as the vehicle's maker says."
)
_DRILL = "Look at the far side first: wiring, fuel, brake lines, airbags, gas, mains."
_GAS = "Lead gives off hydrogen while it is charged: its box opens to outside air, no spark near it."
_AC = "Its mains side is for licensed people."


def dead(work: Work) -> Step:
    """The step before all others: what gives besides batteries is taken away first."""
    away = becomes_dead(work.plan)
    first = f"{away[0].upper()}{away[1:]}; then disconnect" if away else "Disconnect"
    return Step(
        "safe",
        "safe",
        f"{first} every battery, negative first; every fuse out, every switch off",
        "",
        have=("meter", "covers for the posts"),
        caution=_DEAD,
        check="A meter reads nothing between bare points.",
        work="prepare",
        amount=1,
    )


def _hole(work: Work, hole: Crossing, key: str, where: str, pieces: Sequence[CutPiece], tag: str) -> Step:
    wires = [outside_mm(piece.area_mm2) for piece in pieces]
    made = grommet_for(hole.hole_mm or inside_needed_mm(wires, "hole"))
    through = _THROUGH[hole.through]
    count = f"{len(wires)} wire{'' if len(wires) == 1 else 's'}"
    bush = needs_grommet(hole)
    if hole.existing:
        text = f"Hole through {through} that is there: deburred, room for {count}{', a grommet' if bush else ''}"
    elif not bush and made is not None:
        text = f"Hole through {through}: drill {made[0]:g} mm, edges broken, {count}"
    elif made is None:
        text = f"Hole through {through}: {count} need more than any grommet is made for, so two holes"
    else:
        text = f"Hole through {through}: drill {made[1]:g} mm for a grommet of {made[0]:g} mm inside, {count}"
    single = key.startswith("run:")
    return Step(
        f"hole:{key}:{hole.id}",
        "holes",
        text,
        where,
        subject=key.removeprefix("run:"),
        subject_kind="run" if single else "channel",
        tag=tag if single else "",
        have=(
            *(() if hole.existing else ("step drill",)),
            "file",
            "paint",
            *((f"grommet {made[0]:g} mm" if made else "grommets",) if bush else ()),
        ),
        caution="" if hole.existing else _DRILL,
        check=f"Both faces deburred and painted{', grommet sits all round' if bush else ''}.",
        needs=("safe",),
        done_as=f"{through}, {made[0]:g} mm inside" if made else through,
        work="hole",
        amount=0 if hole.existing else 1,
    )


def holes(work: Work) -> Iterator[Step]:
    """Every hole: channel by channel, then those of single runs."""
    for key, where, hole, pieces, tag in _all_holes(work):
        yield _hole(work, hole, key, where, pieces, tag)


def _all_holes(work: Work) -> Iterator[tuple[str, str, Crossing, tuple[CutPiece, ...], str]]:
    """Every hole with what names it, where it is, and the pieces that pass it."""
    for channel in work.walked():
        for hole in channel.crossings:
            yield channel.id, channel.name, hole, work.harness.in_channel[channel.id], ""
    for run in work.plan.runs:
        for hole in run.passes:
            where = work.place(work.parts[run.start.part])
            yield f"run:{run.id}", where, hole, work.harness.through_run[run.id], run.tag


def seals(work: Work) -> Iterator[Step]:
    """Holes to the engine, the outside and gas spaces closed once all that passes them is pulled."""
    for key, where, hole, pieces, tag in _all_holes(work):
        if not is_sealed(hole) or not pieces:
            continue
        single = key.startswith("run:")
        yield Step(
            f"seal:{key}:{hole.id}",
            "pull",
            f"Seal the hole through {_THROUGH[hole.through]}",
            where,
            subject=key.removeprefix("run:"),
            subject_kind="run" if single else "channel",
            tag=tag,
            have=("gland or sealant",) if hole.through == "roof" else ("sealant",),
            check="No light from the other side; water poured over it stays outside." if hole.through == "roof"
            else "No light and no draught from the other side.",
            needs=tuple(dict.fromkeys(f"pull:{piece.run}" for piece in pieces)),
            done_as=f"{_THROUGH[hole.through]}, {len(pieces)} wires",
            work="seal",
            amount=1,
        )  # fmt: skip


def _of_part(part: Part) -> tuple[str, str, str, bool]:
    """What is said of a part that is fastened: text, caution, check, and whether it is heavy."""
    text, caution, check, heavy = f"Fasten {part.name}", "", "It does not move.", part.kind in _HEAVY
    if isinstance(part, Battery):
        caution = "Fixed so that a crash does not tear it loose."
        caution += f" {_GAS}" if part.chemistry in ("agm", "gel", "flooded") else ""
        check = "Strapped or bracketed, it does not move; posts covered until they are needed."
    elif part.kind == "chassis_point":
        text = f"Make {part.name}: clean bare metal, serrated washers on both sides"
        check = "Bare to the edge of the washer; sealed once it is tight."
    elif part.kind == "relay":
        check = "Its terminals point down."
    elif (isinstance(part, Load) and part.inverter is not None) or (part.kind == "charger" and part.form == "shore"):
        caution, heavy = _AC, True
    return text, caution, check, heavy


def mounts(work: Work) -> Iterator[Step]:
    """Every part fastened where it stands, place by place."""
    for part in sorted(work.plan.parts, key=work.rank):
        if part.kind in _IN_THE_VEHICLE or (isinstance(part, Battery) and part.use == "starter"):
            continue
        if part.kind == "joint" and part.form in _NOT_FASTENED:
            continue
        text, caution, check, heavy = _of_part(part)
        yield Step(
            f"mount:{part.id}",
            "mount",
            text,
            work.place(part),
            subject=part.id,
            subject_kind="part",
            tag=part.tag,
            have=("strap or bracket",)
            if isinstance(part, Battery)
            else ("brackets",)
            if isinstance(part, Panel)
            else (),
            caution=caution,
            check=check,
            needs=("safe",),
            done_as=", ".join(word for word in (part.name, work.place(part)) if word),
            work="mount_panel" if isinstance(part, Panel) else "mount_heavy" if heavy else "mount",
            amount=part.series * part.strings if isinstance(part, Panel) else 1,
        )


def mounted_holders(work: Work) -> Iterator[Step]:
    """Every holder in the wire fastened where it stands, beside the end it belongs to."""
    holders = sorted(work.harness.in_line, key=lambda one: (work.rank(work.parts[one.part]), one.tag, one.finish))
    for one in holders:
        sealed = ", sealed" if one.sealed else ""
        lug = f" ({one.stud})" if one.stud else ""
        yield Step(
            f"mount:{one.key}",
            "mount",
            f"Fasten the {one.name}{sealed}{lug} of {one.tag} {one.where}",
            one.place,
            subject=one.run,
            subject_kind="run",
            tag=one.tag,
            have=("screws",) if one.stud else ("ties",),
            check="It does not move; its fuse can be reached and read. No fuse in it yet.",
            needs=("safe",),
            done_as=f"{one.name} {one.where}",
            work="mount_holder",
            amount=one.count,
        )


def cuts(work: Work) -> Iterator[Step]:
    """Pieces cut and labelled: one size after the other, the thickest first."""
    runs = [run for run in work.plan.runs if work.pieces[run.id]]
    for run in sorted(runs, key=lambda one: -work.pieces[one.id][0].area_mm2):
        pieces = work.pieces[run.id]
        guessed = any(one.guessed for one in pieces)
        lines = []
        for one in pieces:
            cut = told_cut(one.cut_m, work.plan.units)
            lines.append(f"{one.leg} {one.size} {one.colour}: {cut}{f' ({one.which})' if one.which else ''}")
        yield Step(
            f"cut:{run.id}",
            "cut",
            f"Cut and label {called(run)}{', once it is measured' if guessed else ''}",
            "",
            subject=run.id,
            subject_kind="run",
            tag=run.tag,
            lines=tuple(lines),
            have=(*counted(f"{one.size} {one.colour}" for one in pieces), f"{2 * len(pieces)} sleeves"),
            caution="Nobody has measured this one: do not cut it yet." if guessed else "",
            check="Both ends carry their sleeve before it leaves the bench.",
            done_as="; ".join(one.done_as for one in pieces),
            made_of=tuple(Mark(f"piece:{one.id}", one.done_as) for one in pieces),
            work="cut",
            amount=len(pieces),
        )


def pulls(work: Work) -> Iterator[Step]:
    """Wire laid along its way: channel by channel, thick before thin."""
    ranked = {channel.id: at for at, channel in enumerate(work.walked())}

    def key(run: Run) -> tuple[int, float]:
        own = [ranked[one] for one in work.ways(run)]
        return min(own, default=len(ranked)), -work.pieces[run.id][0].area_mm2

    for run in sorted((one for one in work.plan.runs if work.pieces[one.id]), key=key):
        ways = [work.channels[one] for one in work.ways(run)]
        needs = [f"cut:{run.id}"]
        needs += [f"hole:{channel.id}:{hole.id}" for channel in ways for hole in channel.crossings]
        for run_id in dict.fromkeys(one for piece in work.pieces[run.id] for one in piece.runs):
            needs += [f"hole:run:{run_id}:{hole.id}" for hole in work.runs[run_id].passes]
        along = ", ".join(channel.name for channel in ways)
        here = (
            min(ways, key=lambda channel: ranked[channel.id]).name if ways else work.place(work.parts[run.start.part])
        )
        yield Step(
            f"pull:{run.id}",
            "pull",
            f"Pull {called(run)}{f' along {along}' if along else ''}",
            here,
            subject=run.id,
            subject_kind="run",
            tag=run.tag,
            have=("leader", "silicone", "ties") if along else ("ties",),
            check="Nothing tight, nothing rubs, grommets sit; both ends reach with their loop to spare.",
            needs=tuple(needs),
            done_as=", ".join(word for word in (work.pieces[run.id][0].size, along) if word),
            work="pull",
            amount=sum(piece.way_m for piece in work.pieces[run.id]),
        )
