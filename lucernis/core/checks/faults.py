"""Checks of shorts: can the fuse break them, does anything open, what has the wire reached by then, what opens too."""

from __future__ import annotations

from lucernis.core.checks import demands
from lucernis.core.checks.fixes import (
    fed_end,
    let_go_of_fuse,
    let_go_of_wire,
    put_fuse,
    set_part,
    strong_enough,
    thicker_wire,
)
from lucernis.core.checks.protection import free_link
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.batteries import house_batteries
from lucernis.core.circuit.terminals import has_positive
from lucernis.core.circuit.topology import path_runs
from lucernis.core.faults.backing import backing_run
from lucernis.core.faults.study import Fault
from lucernis.core.protection.fuse_curves import breaking_capacity
from lucernis.core.protection.fuses import ChosenFuse, family
from lucernis.core.report import Fix
from lucernis.core.sizing.fusing import RunFuse, charging_table_v, far_key, fuse_run
from lucernis.plan.edits.operations import SetFields, SetFuse
from lucernis.plan.model import Battery, Busbar, FuseBlock, Load, Part, Run


def check_faults(raised: Raised) -> None:
    """Raise what a short would do that it must not."""
    backed: dict[str, list[tuple[Run, RunFuse, str]]] = {}
    for run in raised.plan.runs:
        if run.id not in raised.faults.of_run:
            continue
        near = fed_end(raised, run)
        for key, end in ((run.id, near), (far_key(run.id), "finish" if near == "start" else "start")):
            fuse = raised.sized.fuses.get(key)
            if fuse is not None and fuse.fuse is not None:
                _breaking(raised, run, fuse, fuse.fuse, end, backed)
        guarded = raised.sized.cases[run.id].protector is not None
        if (guarded or run.id in raised.sized.topology.both_fed) and not free_link(raised, run):
            _endings(raised, run, raised.faults.of_run[run.id])
    _backed(raised, backed)


def _breaking(
    raised: Raised,
    run: Run,
    fuse: RunFuse,
    made: ChosenFuse,
    end: str,
    backed: dict[str, list[tuple[Run, RunFuse, str]]],
) -> None:
    """What a fuse has to break: the strongest short through it, where it stands."""
    fault_a, volts = fuse.break_a, charging_table_v(raised.plan)
    breaks = breaking_capacity(made.family, volts)
    if breaks.breaking_a is not None and fault_a <= breaks.breaking_a * (1 + 1e-9):
        return
    which = run.start if end == "start" else run.finish
    part = raised.sized.topology.parts[which.part]
    in_block = isinstance(part, FuseBlock) and which.way is not None
    fixes, asked = _stronger(raised, run, fuse, end, part, in_block=in_block)
    if breaks.breaking_a is None:
        raised.on_run(
            "breaking-unknown",
            run,
            what=f"{made.label}: no breaking capacity known at {volts:g} V",
            mend="Read it off the maker's sheet, or take a family it is known for.",
            fixes=fixes,
            asked=asked,
            fault_a=fault_a,
        )
        return
    backing = backing_run(raised.plan, raised.sized, run, fault_a, volts)
    if backing is not None and backing[1]:
        # Usual behind a main fuse that cuts the short off: told on its sheet.
        return
    if backing is not None:
        backed.setdefault(backing[0].id, []).append((run, fuse, part.tag if in_block else run.tag))
        return
    # All ways of a block stand before the same short: it is said once.
    subject, kind, tag = (part.id, "part", part.tag) if in_block else (run.id, "run", run.tag)
    raised.raise_(
        "breaking-low",
        subject,
        "part" if kind == "part" else "run",
        tag,
        what=f"{fault_a:.0f} A short through {made.label}, which breaks {breaks.breaking_a:g} A{_by_what(raised)}",
        mend="A family that breaks more, a fuse before it that does, or a fuse at each battery, so that each breaks "
        "one battery's share.",
        fixes=[*fixes, *_fuse_each_battery(raised)],
        asked=asked,
        fault_a=fault_a,
        breaking_a=breaks.breaking_a,
    )


def _by_what(raised: Raised) -> str:
    """A word where the short rests on usual figures."""
    typical = any(
        isinstance(part := raised.sized.topology.parts.get(name), Battery) and part.short_circuit_a is None
        for name in raised.faults.sources
    )
    return (
        " (by usual figures of the chemistry: read the battery's short-circuit current off its sheet)"
        if typical
        else ""
    )


def _stronger(
    raised: Raised, run: Run, fuse: RunFuse, end: str, part: Part, *, in_block: bool
) -> tuple[list[Fix], str]:
    """Mends of a fuse too weak, and what was asked that made it so."""
    better = strong_enough(raised, run, fuse.break_a, fuse.least_a)
    pinned = demands.fuse_pin(run)
    if in_block and isinstance(part, FuseBlock):
        # A block of another family must suit all its ways.
        ways = [
            raised.sized.fuses[one.id]
            for one in raised.plan.runs
            if one.start.part == part.id and one.id in raised.sized.fuses
        ]
        asked = pinned or f"{family(part.family).label} ways in {part.name}"
        if better is not None and all(strong_enough(raised, run, fuse.break_a, one.least_a) == better for one in ways):
            return [set_part(part, f"Take {family(better).label} ways in {part.name}", family=better)], asked
        return [], asked
    asked = pinned or f"{run.tag} starts at {part.name}, where {fuse.break_a:.0f} A flow in a short"
    behind = _behind_the_main(raised, run, end, part)
    if behind is not None:
        return [behind], asked
    if better is None or (fuse.fuse is not None and better == fuse.fuse.family):
        return let_go_of_fuse(run), asked
    edit = SetFuse.model_validate({"op": "set_fuse", "run": run.id, "end": end, "family": better})
    return [Fix(f"Take {family(better).label}", [edit])], asked


def _behind_the_main(raised: Raised, run: Run, end: str, part: Part) -> Fix | None:
    """A small thing on a battery starts at the bar behind the main fuse, if there is one and it may be switched off."""
    topology = raised.sized.topology
    far = topology.line_end_part(run)
    if not isinstance(part, Battery) or not isinstance(far, Load) or far.stays_live:
        return None
    bars = [one for one in raised.plan.parts if isinstance(one, Busbar) and one.bars == "both"]
    bar = next((one for one in bars if topology.root_of.get(one.id) == topology.root_of.get(part.id)), None)
    if bar is None:
        return None
    values = {end: {"part": bar.id, "way": None, "terminal": None}}
    return Fix(f"Start {run.tag} at {bar.name}", [SetFields(op="set_fields", subject=run.id, values=values)])


def _fuse_each_battery(raised: Raised) -> list[Fix]:
    """A class T at each battery of a bank whose cables have none, so that each breaks one battery's share."""
    house = {one.id for one in house_batteries(raised.plan)}
    if len(house) < 2:
        return []
    edits = []
    for run in raised.plan.runs:
        own = house & {run.start.part, run.finish.part}
        if len(own) != 1 or not has_positive(run):
            continue
        end = "start" if run.start.part in own else "finish"
        fuse = run.fuse_at_start if end == "start" else run.fuse_at_finish
        if fuse is None:
            edits.append(
                SetFuse.model_validate(
                    {"op": "set_fuse", "run": run.id, "end": end, "family": "class_t", "distance_m": 0.1}
                    | ({"distance_m": round(run.length_m, 3)} if run.length_m < 0.1 else {})
                )
            )
    return [Fix("Put a fuse at each battery", list(edits))] if edits else []


def _backed(raised: Raised, backed: dict[str, list[tuple[Run, RunFuse, str]]]) -> None:
    """Fuses that rely on a stronger one before them: said once, at the one most of them rely on."""
    if not backed:
        return
    runs = raised.sized.topology.runs
    first = max(backed, key=lambda one: len(backed[one]))
    said = []
    for name in sorted(backed, key=lambda one: one != first):
        tags = list(dict.fromkeys(tag for _, _, tag in backed[name]))
        _, fuse, _ = max(backed[name], key=lambda one: one[1].break_a)
        made = fuse.fuse
        breaks_a = breaking_capacity(made.family, charging_table_v(raised.plan)).breaking_a if made is not None else 0.0
        label = made.label if made is not None else ""
        said.append(
            f"{fuse.break_a:.0f} A short at {', '.join(tags)}: {label} breaks {breaks_a:g} A; {runs[name].tag} before "
            f"{'it' if len(tags) == 1 else 'them'} breaks that"
        )
    worst = max((one for weak in backed.values() for _, one, _ in weak), key=lambda one: one.break_a)
    raised.on_run(
        "breaking-backed",
        runs[first],
        what=". ".join(said),
        mend="Usual behind a strong main fuse; ask the maker of the fuses whether they go together.",
        fault_a=worst.break_a,
    )


def _endings(raised: Raised, run: Run, faults: list[Fault]) -> None:
    reaching = [one for one in faults if one.weakest_a > 0]
    lasting = [one for one in reaching if one.slow_s is None]
    if lasting:
        worst = min(lasting, key=lambda one: one.weakest_a)
        raised.on_run(
            "fault-not-cleared",
            run,
            what=f"A short at its {worst.where} draws {worst.weakest_a:.0f} A; no fuse must open at that",
            mend="A fuse at every end it is fed from, thicker or shorter wire, or a smaller fuse.",
            fixes=_ends_without_fuse(raised, run) or _opens(raised, run),
            asked=_asked(raised, run, worst),
            fault_a=worst.weakest_a,
        )
    hot = [one for one in reaching if one.wire_c is not None and one.limit_c is not None and one.wire_c > one.limit_c]
    if hot:
        worst = max(hot, key=lambda one: one.wire_c or 0.0)
        raised.on_run(
            "fault-harms-wire",
            run,
            what=f"A short at its {worst.where} may heat the wire to {worst.wire_c:.0f} °C"
            + (f" before {_names(raised, worst.openers)} opens" if worst.openers else ", and no fuse opens before")
            + f"; it stands {worst.limit_c:.0f} °C",
            mend="Thicker wire, or a smaller or quicker fuse.",
            fixes=[put_fuse(raised, run)] * (raised.sized.cases[run.id].fuse is None)
            + thicker_wire(raised, run, "it must stand a short until the fuse has opened"),
            asked=_asked(raised, run, worst),
            wire_c=worst.wire_c or 0.0,
            limit_c=worst.limit_c or 0.0,
            fault_a=worst.weakest_a,
            slow_s=worst.slow_s or 0.0,
        )
    both = [one for one in reaching if one.selective == "no"]
    if both and raised.sized.cases[run.id].fuse is not None:
        worst = min(both, key=lambda one: one.weakest_a)
        raised.on_run(
            "not-selective",
            run,
            what=f"At {worst.weakest_a:.0f} A {_names(raised, worst.also_opens)} may open before "
            f"{_names(raised, [one for one in worst.openers if one not in worst.also_opens])}",
            mend="A larger or slower fuse before it, or a smaller or quicker one here.",
            fault_a=worst.weakest_a,
            slow_s=worst.slow_s or 0.0,
        )


def _asked(raised: Raised, run: Run, fault: Fault) -> str:
    """What a person pinned or asked on the run and on what opens."""
    keys = [*fault.openers] or [key for key in (raised.sized.cases[run.id].protector,) if key is not None]
    return demands.of_run(raised, run, *keys)


def _opens(raised: Raised, run: Run) -> list[Fix]:
    """What lets a fuse open: the pins on the way taken out. Without pins the program has chosen so that it opens."""
    topology, guard = raised.sized.topology, raised.sized.cases[run.id].protector
    way = dict.fromkeys([run.id, *path_runs(topology, topology.start_of.get(run.id, ""))])
    pins = [fix for one in way for fix in let_go_of_wire(topology.runs[one])]
    pins += let_go_of_fuse(topology.runs[fuse_run(guard)]) if guard is not None else []
    if len(pins) < 2:
        return pins
    return [Fix(f"Unpin what is pinned before the end of {run.tag}", [edit for one in pins for edit in one.edits])]


def _ends_without_fuse(raised: Raised, run: Run) -> list[Fix]:
    """A fuse for each end current can come in by that has none."""
    ends = ["start", "finish"] if run.id in raised.sized.topology.both_fed else [fed_end(raised, run)]
    return [
        put_fuse(raised, run, end=end)
        for end in ends
        if (run.fuse_at_start if end == "start" else run.fuse_at_finish) is None
    ]


def _names(raised: Raised, keys: list[str]) -> str:
    return ", ".join(raised.sized.topology.runs[fuse_run(key)].tag for key in keys) or "nothing"
