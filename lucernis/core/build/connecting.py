"""Steps that land the ends: bonds and negatives, positives, batteries with their negatives last, panels after them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from lucernis.core.build.ending import SUN
from lucernis.core.build.steps import Phase, Step, torque_text
from lucernis.core.build.work import RunSide, Work, called, counted
from lucernis.core.harness.holders import Holder
from lucernis.core.harness.pieces import CutPiece, PieceEnd
from lucernis.core.layout.bundles import is_bond
from lucernis.plan.model import Battery, Part, Run

_LAST = "The negative goes on last. A spark here says that something is on: take it off and look."
_Word = Literal["negative", "positive"]


@dataclass(frozen=True, slots=True)
class _Landing:
    """Ends of one leg of a run at one part or holder, and where they come in their phase."""

    id: str
    side: RunSide
    word: _Word
    phase: Phase
    rank: tuple[int, ...]
    ends: tuple[tuple[CutPiece, PieceEnd], ...]
    part: Part
    holder: Holder | None


def _far_is_finish(work: Work, run: Run) -> bool:
    """Whether the finish is the end that is connected first: it is at least as far from the batteries."""
    return work.depth[run.finish.part] >= work.depth[run.start.part]


def of_the_sun(work: Work, run: Run) -> bool:
    """Whether a run comes from panels."""
    ends = (run.start, run.finish)
    return any(work.parts[end.part].kind == "panel" or end.terminal == "pv" for end in ends)


def _grouped(side: RunSide) -> dict[tuple[_Word, str, str], list[tuple[CutPiece, PieceEnd]]]:
    """Ends at a side by leg and by the part or the holder they end at."""
    found: dict[tuple[_Word, str, str], list[tuple[CutPiece, PieceEnd]]] = {}
    for piece, end in side.ends:
        word: _Word = "negative" if piece.leg[0] == "−" else "positive"
        found.setdefault((word, end.part_id, end.holder), []).append((piece, end))
    return found


def _landings(work: Work) -> Iterator[_Landing]:
    for side in work.sides:
        far = side.finish == _far_is_finish(work, side.run)
        for (word, part_id, holder_key), some in _grouped(side).items():
            holder = work.harness.holders[holder_key] if holder_key else None
            part = work.parts[holder.part if holder is not None else part_id]
            negative, walk = word == "negative", work.rank(part)
            phase: Phase = "negatives" if negative else "positives"
            # Far ends on the way back to the battery, near ends on the way out.
            rank: tuple[int, ...] = (0 if far else 1, -walk if far else walk)
            if of_the_sun(work, side.run):
                phase, rank = "sun", (0 if part.kind != "panel" else 1, int(not negative), walk)
            elif isinstance(part, Battery) and holder is None:
                between = 0 if side.run.legs == "series" else 2 if negative else 1
                phase, rank = "batteries", (between, 0 if part.use == "house" else 1, walk)
            elif negative:
                rank = (0 if is_bond(side.run, work.parts) else 1, *rank)
            name = f"{word}:{side.key}"
            if holder is not None:
                name = f"holder:{holder.key}"
            elif part_id != side.part_id:
                name = f"{name}:{part_id}"
            yield _Landing(name, side, word, phase, rank, tuple(some), part, holder)


def _step(work: Work, landing: _Landing, mounted: set[str]) -> Step:
    side, ends, part, holder = landing.side, landing.ends, landing.part, landing.holder
    at = ends[0][1].at
    bond = is_bond(side.run, work.parts)
    name = f"{called(side.run)}, the bond," if bond else f"{called(side.run)}, {landing.word},"
    last = isinstance(part, Battery) and landing.word == "negative"
    text = f"Land {name} at {part.name}{f', {at}' if at not in '+−' else ''}"
    mount = f"mount:{part.id}"
    if holder is not None:
        verb = "Land both wires on" if holder.stud else "Splice both wires to the leads of"
        text, mount = f"{verb} the {holder.name} of {called(side.run)}, {holder.where}", f"mount:{holder.key}"
    lines = counted(f"{end.fits}, {piece.size} {piece.colour}" for piece, end in ends)
    studs = sorted({(end.on_stud, end.layer) for _, end in ends if end.layer and (end.on_stud > 1 or end.layer > 1)})
    for on_stud, layer in studs:
        lines = (*lines, f"stud {on_stud}, lug {layer} from below" if layer > 1 else f"stud {on_stud}")
    return Step(
        landing.id,
        landing.phase,
        text,
        holder.place if holder is not None else work.place(part),
        subject=side.run.id,
        subject_kind="run",
        tag=side.run.tag,
        lines=lines,
        caution=_LAST if last else SUN if landing.phase == "sun" else "",
        is_bond=bond,
        check="Bare metal to bare metal; the resistance of the bond is measured before it is sealed." if bond else "",
        torque=next((told for _, end in ends if (told := torque_text(end.stud, end.torque_nm))), ""),
        needs=tuple(dict.fromkeys((f"crimp:{side.key}", *([mount] if mount in mounted else [])))),
        done_as=f"{holder.where if holder is not None else part.name} {at}, {ends[0][1].fits}",
        work="connect",
        amount=len(ends),
    )


def _lead_steps(work: Work, mounted: set[str]) -> Iterator[Step]:
    """Leads that no run stands for, laid and landed by themselves: cases with the negatives, panels with their own."""
    for lead in work.harness.leads:
        phase: Phase = "negatives" if lead.kind == "case" else "sun" if lead.kind == "panel" else "positives"
        mount = f"mount:{lead.part}"
        check = "A tug moves nothing; no strand shows."
        if lead.kind == "case":
            check = "Bare metal to bare metal."
        elif lead.kind == "sense":
            check = "Its fuse is out until the first power-up."
        yield Step(
            f"lead:{lead.id}",
            phase,
            f"Lay and land: {lead.what}",
            lead.place,
            subject=lead.part,
            subject_kind="part",
            lines=(f"from {lead.fro} to {lead.to}, {lead.size}" if lead.fro != lead.to else f"wire {lead.size}",),
            have=tuple(f"{count} × {what}" for _, what, count in lead.bought),
            caution=SUN if phase == "sun" else "",
            check=check,
            needs=(mount,) if mount in mounted else ("safe",),
            done_as=f"{lead.what}, {lead.count}",
            work="lead",
            amount=lead.count,
        )


def connections(work: Work, mounted: set[str]) -> list[Step]:
    """Every end landed, each after what it needs.

    Parameters
    ----------
    work : Work
        The plan's.
    mounted : set of str
        Ids of the steps that fasten parts.

    Returns
    -------
    list of Step
        Far ends before near ones, a run's negative before its positive at the same end, batteries after all that is
        fused, their negatives last of all but panels; leads that no run stands for at the end of their phase.
    """
    phases: tuple[Phase, ...] = ("negatives", "positives", "batteries", "sun")
    found = sorted(
        _landings(work), key=lambda one: (phases.index(one.phase), one.rank, one.side.part_id, one.side.run.tag)
    )
    known = {one.id: one for one in found}
    leads = list(_lead_steps(work, mounted))
    wired = [one.id for one in leads if one.phase != "sun"]
    wired += [one.id for one in found if one.phase in ("negatives", "positives")]
    last = [one.id for one in found if one.phase == "batteries" and one.word == "negative"]
    before_last = [one.id for one in found if one.phase == "batteries" and one.word != "negative"]
    steps = []
    for one in found:
        step = _step(work, one, mounted)
        needs = list(step.needs)
        other = f"{one.word}:{one.side.run.id}:{'a' if one.side.finish else 'b'}"
        far = one.side.finish == _far_is_finish(work, one.side.run)
        if one.phase in ("negatives", "positives") and not far and other in known:
            needs.append(other)
        beside = known.get(f"negative:{one.side.key}")
        if one.phase == "positives" and beside is not None and beside.phase == "negatives":
            needs.append(beside.id)
        if one.phase == "batteries":
            needs += wired
            needs += before_last if one.id in last else []
        if one.phase == "sun":
            needs += last
        steps.append(replace(step, needs=tuple(dict.fromkeys(needs))))
    for lead in leads:
        if lead.phase == "sun":
            steps.append(replace(lead, needs=(*lead.needs, *last)))
        else:
            steps.append(lead)
    # Stable: within a phase the leads come after what a run stands for, panels' own before they are plugged.
    return sorted(
        steps, key=lambda one: (phases.index(one.phase), one.phase == "sun" and not one.id.startswith("lead"))
    )
