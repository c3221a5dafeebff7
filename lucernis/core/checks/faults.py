"""Checks of shorts: can the fuse break them, does anything open, what has the wire reached by then, what opens too."""

from __future__ import annotations

from lucernis.core.checks.fixes import charging_v, fed_end, put_fuse, set_part, strong_enough, thicker_wire
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.terminals import positive_point
from lucernis.core.circuit.topology import path_runs
from lucernis.core.faults.study import Fault
from lucernis.core.protection.fuse_curves import breaking_capacity
from lucernis.core.protection.fuses import family
from lucernis.core.report import Fix, SubjectKind
from lucernis.core.sizing.fusing import RunFuse, far_key, fuse_run
from lucernis.plan.edits.operations import SetFuse
from lucernis.plan.model import FuseBlock, Run


def check_faults(raised: Raised) -> None:
    """Raise what a short would do that it must not."""
    for run in raised.plan.runs:
        faults = raised.faults.of_run.get(run.id)
        if faults is None:
            continue
        for key, end in ((run.id, fed_end(raised, run)), (far_key(run.id), None)):
            fuse = raised.sized.fuses.get(key)
            if fuse is not None and fuse.fuse is not None:
                _breaking(raised, run, fuse, end or ("finish" if fed_end(raised, run) == "start" else "start"))
        guarded = raised.sized.cases[run.id].protector is not None
        if guarded or run.id in raised.sized.topology.both_fed:
            _endings(raised, run, faults)


def _at_fuse_a(raised: Raised, run: Run, end: str) -> float:
    """The strongest short at the point a fuse is fed from. [A]"""
    which = run.start if end == "start" else run.finish
    point = positive_point(raised.sized.topology.parts[which.part], which, "start" if end == "start" else "finish")
    fault = raised.faults.of_point.get(point)
    return fault.strongest_a if fault is not None else 0.0


def _breaking(raised: Raised, run: Run, fuse: RunFuse, end: str) -> None:
    kind: SubjectKind
    if fuse.fuse is None:
        return
    fault_a, volts = _at_fuse_a(raised, run, end), charging_v(raised)
    breaks = breaking_capacity(fuse.fuse.family, volts)
    which = run.start if end == "start" else run.finish
    block = raised.sized.topology.parts[which.part]
    if breaks.breaking_a is not None and fault_a <= breaks.breaking_a:
        return
    better = strong_enough(raised, run, fault_a, fuse.least_a)
    fixes: list[Fix] = []
    if better is not None and isinstance(block, FuseBlock) and which.way is not None:
        # A block of another family must suit all its ways.
        ways = [raised.sized.fuses[one.id] for one in raised.plan.runs if one.start.part == block.id and one.id in
                raised.sized.fuses]  # fmt: skip
        if all(strong_enough(raised, run, fault_a, one.least_a) == better for one in ways):
            fixes = [set_part(block, f"Take {family(better).label} ways in {block.name}", family=better)]
    elif better is not None:
        edit = SetFuse.model_validate({"op": "set_fuse", "run": run.id, "end": end, "family": better})
        fixes = [Fix(f"Take {family(better).label}", [edit])]
    if breaks.breaking_a is None:
        raised.on_run(
            "breaking-unknown",
            run,
            what=f"{fuse.fuse.label}: no breaking capacity known at {volts:g} V",
            mend="Read it off the maker's sheet, or take a family it is known for.",
            fixes=fixes,
            fault_a=fault_a,
        )
        return
    backed = _backed(raised, run, fault_a, volts)
    # All ways of a block stand before the same short: it is said once.
    in_block = isinstance(block, FuseBlock) and which.way is not None
    subject, kind, tag = (block.id, "part", block.tag) if in_block else (run.id, "run", run.tag)
    if backed is not None:
        raised.raise_(
            "breaking-backed",
            subject,
            kind,
            tag,
            what=f"{fault_a:.0f} A short at {fuse.fuse.label}, which breaks {breaks.breaking_a:g} A; "
            f"{backed.tag} before it breaks that",
            mend="Ask the maker whether the two go together, or take a stronger family here.",
            fixes=fixes,
            fault_a=fault_a,
            breaking_a=breaks.breaking_a,
        )
        return
    raised.raise_(
        "breaking-low",
        subject,
        kind,
        tag,
        what=f"{fault_a:.0f} A short at {fuse.fuse.label}, which breaks {breaks.breaking_a:g} A",
        mend="A family that breaks more, or a fuse before it that does.",
        fixes=fixes,
        fault_a=fault_a,
        breaking_a=breaks.breaking_a,
    )


def _backed(raised: Raised, run: Run, fault_a: float, volts: float) -> Run | None:
    """A run nearer to the battery whose fuse breaks the short that is too strong here."""
    topology = raised.sized.topology
    for upstream in reversed(path_runs(topology, topology.start_of.get(run.id, ""))):
        fuse = raised.sized.fuses.get(upstream)
        if fuse is not None and fuse.fuse is not None:
            breaks = breaking_capacity(fuse.fuse.family, volts).breaking_a
            if breaks is not None and breaks >= fault_a:
                return topology.runs[upstream]
    return None


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
            fixes=_ends_without_fuse(raised, run) or thicker_wire(raised, run, "a short must open its fuse"),
            fault_a=worst.weakest_a,
        )
    hot = [one for one in reaching if one.wire_c is not None and one.limit_c is not None and one.wire_c > one.limit_c]
    if hot:
        worst = max(hot, key=lambda one: one.wire_c or 0.0)
        raised.on_run(
            "fault-harms-wire",
            run,
            what=f"A short at its {worst.where} may heat the wire to {worst.wire_c:.0f} °C before "
            f"{_names(raised, worst.openers)} opens; it stands {worst.limit_c:.0f} °C",
            mend="Thicker wire, or a smaller or quicker fuse.",
            fixes=[put_fuse(raised, run)] * (raised.sized.cases[run.id].fuse is None)
            + thicker_wire(raised, run, "it must stand a short until the fuse has opened"),
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
            f"{_names(raised, worst.openers)}",
            mend="A larger or slower fuse before it, or a smaller or quicker one here.",
            fault_a=worst.weakest_a,
            slow_s=worst.slow_s or 0.0,
        )


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
