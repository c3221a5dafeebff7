"""One cause, one finding: what follows from the same cause is folded under it."""

from __future__ import annotations

from collections.abc import Iterable

from lucernis.core.checks.codes import CODES
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.topology import path_runs
from lucernis.core.report import SEVERITY_ORDER, Finding
from lucernis.core.sizing.fusing import fuse_run
from lucernis.plan.model import Battery, Load, Run

# Of findings with one cause the one that stands first here says what it is.
_FIRST = (
    "short-by-wiring", "sources-tied", "reversing-by-body", "return-missing", "inverter-over-bank",
    "bank-discharge-over", "switch-over", "busbar-over", "block-over-total", "lead-unvented", "spark-in-vapour",
    "fuse-missing", "wire-nothing-fits", "wire-insulation-cool", "wire-no-figure", "wire-over-ampacity",
    "wire-over-derated", "wire-above-terminal", "fuse-not-made", "fuse-below-load", "fuse-above-wire", "step-unfused",
    "fuse-parallel", "fuse-one-end", "fault-harms-wire", "fault-not-cleared", "wire-below-maker", "wire-below-least",
    "load-reversed", "load-collapse", "load-under-voltage", "drop-over-limit", "drop-out-of-reach",
)  # fmt: skip
_OF_WIRE = {
    "wire-nothing-fits", "wire-insulation-cool", "wire-no-figure", "wire-over-ampacity", "wire-over-derated",
    "wire-below-maker", "wire-below-least", "wire-above-terminal", "joint-over", "fuse-above-wire", "fuse-parallel",
    "step-unfused", "fault-harms-wire", "fault-not-cleared", "return-thinner", "fuse-at-load",
}  # fmt: skip
_OF_DELIVERY = {"load-reversed", "load-collapse", "load-under-voltage", "drop-over-limit", "drop-out-of-reach"}
_WRONG_JOINS = ("short-by-wiring", "sources-tied")
# Currents and volts that are what they are because the wires join what must not be joined. What a fuse lets through
# against what a wire carries, and an end without a fuse, are wrong with or without it.
_OF_WRONG_JOIN = {
    *_WRONG_JOINS, "breaking-low", "breaking-unknown", "fault-harms-wire", "fault-not-cleared", "not-selective",
    "switch-short-time", "wire-over-ampacity", "wire-over-derated", "wire-nothing-fits", "fuse-below-load",
    "fuse-at-load", "fuse-none-fits", "inrush-opens", "cycle-trips", "pin-over", "relay-over", "shunt-over",
    "keyed-feed-over", "switch-over", "busbar-over", "block-over-total", "load-collapse", "load-reversed",
    "load-under-voltage", "drop-over-limit", "drop-out-of-reach", "bank-discharge-over", "bank-charge-over",
    "inverter-over-bank", "inverter-surge-over-bank", "bank-sharing", "bank-mixed-chemistry", "bank-mixed-lead",
    "battery-limit-usual",
}  # fmt: skip
# What one part is made for, by what flows and by what its fuse lets through.
_OF_RATING = {"switch-over", "busbar-over", "block-over-total", "block-no-prefuse", "guard-above-rating"}
# What gathers in one place, and what sparks there.
_OF_VAPOUR = {"lead-unvented", "spark-in-vapour"}
_OF_BANK = {"inverter-over-bank", "bank-discharge-over", "inverter-surge-over-bank"}
_OF_NO_FUSE = {"fuse-missing", "fuse-one-end", "fault-not-cleared", "block-no-prefuse", "coil-unfused"}
_OF_FUSE = {
    "fuse-not-made", "fuse-below-load", "fuse-at-load", "fuse-low-voltage", "fuse-above-wire", "step-unfused",
    "fuse-above-maker", "fault-harms-wire",
}  # fmt: skip


def fold(raised: Raised, findings: Iterable[Finding]) -> list[Finding]:
    """Findings with their consequences folded under them, worst first.

    Parameters
    ----------
    raised : Raised
        The plan and its sizes.
    findings : iterable of Finding
        As the checks raised them; those that are waived stay by themselves.

    Returns
    -------
    list of Finding
        One for each cause; its severity is that of the worst that follows from it.
    """
    groups: dict[tuple[str, str], list[Finding]] = {}
    for one in findings:
        key = _cause(raised, one) if one.waived is None else (one.code, one.subject)
        groups.setdefault(key, []).append(one)
    heads = []
    # Of runs that say the same the first from the battery leads.
    at = {run_id: number for number, run_id in enumerate(raised.sized.topology.order)}
    for group in groups.values():
        # A usual figure explains nothing that is wrong by a stated one.
        group.sort(
            key=lambda one: (
                _only_usual(one),
                _rank(one.code),
                SEVERITY_ORDER[one.severity],
                at.get(one.subject, len(at)),
            )
        )
        head = group[0]
        head.consequences = group[1:]
        head.severity = min((one.severity for one in group), key=lambda one: SEVERITY_ORDER[one])
        heads.append(head)
    return sorted(heads, key=lambda one: (one.waived is not None, SEVERITY_ORDER[one.severity]))


def _only_usual(one: Finding) -> bool:
    """Whether a finding is lighter than its code, because it goes by a figure that nobody has stated."""
    return SEVERITY_ORDER[one.severity] > SEVERITY_ORDER[CODES[one.code].severity]


def _rank(code: str) -> int:
    return _FIRST.index(code) if code in _FIRST else len(_FIRST)


def _cause(raised: Raised, one: Finding) -> tuple[str, str]:
    """What a finding comes from: a kind of cause and a subject."""
    topology = raised.sized.topology
    run, part = topology.runs.get(one.subject), topology.parts.get(one.subject)
    if one.code == "wire-above-terminal" and one.severity == "look":
        # Terminals nobody has read off yet: said once.
        return "usual terminals", "plan"
    if one.code in _OF_WRONG_JOIN:
        joined = {other.code for other in raised.findings if other.code in _WRONG_JOINS and other.waived is None}
        if joined:
            return "wrong join", "plan"
    if part is not None and one.code in {*_OF_DELIVERY, "return-missing"} and raised.has(part.id, {"return-missing"}):
        return "return-missing", _first_on_way(raised, part.id, "return-missing") or part.id
    if one.code in _OF_BANK and not (isinstance(part, Battery) and part.use == "starter"):
        return "bank", "plan"
    if part is not None and one.code in _OF_VAPOUR:
        return "vapour", part.place or part.id
    if one.code in _OF_NO_FUSE:
        bare = _first_bare(raised, one)
        if bare is not None:
            return "no fuse", bare
    if part is not None and one.code in _OF_RATING:
        return "rating", part.id
    if one.code == "fuse-one-end" or (one.code == "fault-not-cleared" and raised.has(one.subject, {"fuse-one-end"})):
        return "fuse-one-end", one.subject
    if run is not None and one.code in _OF_FUSE | _OF_WIRE:
        guard = raised.sized.cases[run.id].protector
        own = topology.runs[fuse_run(guard)] if guard is not None else None
        pinned = own is not None and _fuse_is_pinned(own) and run.wire is None
        if own is not None and pinned and one.code in _OF_FUSE:
            return "fuse", own.id
        if one.code in _OF_WIRE:
            return "wire", _first_alike(raised, run).id
    if isinstance(part, Load) and one.code in _OF_DELIVERY:
        turned = _first_on_way(raised, part.id, "reversing-by-body")
        if turned is not None:
            return "reversing-by-body", turned
        thin = [
            run_id
            for run_id in path_runs(topology, part.id)
            if topology.runs[run_id].wire is not None and raised.has(run_id, _OF_WIRE)
        ]
        if thin:
            return "wire", thin[0]
        pinned_thin = _first_pinned_thin(raised, part.id)
        return ("pinned thin", pinned_thin) if pinned_thin is not None else ("way", part.id)
    return one.code, one.subject


def _first_pinned_thin(raised: Raised, part_id: str) -> str | None:
    """Of the runs on the way to a part the first that is pinned thinner than it would be chosen."""
    sized = raised.sized
    for run_id in path_runs(sized.topology, part_id):
        thinner = sized.chosen[run_id].size.area_mm2 < sized.unpinned[run_id].size.area_mm2 * 0.999
        if sized.topology.runs[run_id].wire is not None and thinner:
            return run_id
    return None


def _first_on_way(raised: Raised, part_id: str, code: str) -> str | None:
    """Of the parts on the way to one the first that a code was raised on."""
    topology, subjects = raised.sized.topology, raised.subjects_of(code)
    way = (topology.part_at(topology.start_of[run_id]).id for run_id in path_runs(topology, part_id))
    return next((name for name in way if name in subjects), None)


def _fuse_is_pinned(run: Run) -> bool:
    return any(fuse is not None and fuse.pin is not None for fuse in (run.fuse_at_start, run.fuse_at_finish))


def _first_bare(raised: Raised, one: Finding) -> str | None:
    """The run nearest to the battery on the way to a subject that no fuse guards."""
    topology = raised.sized.topology
    run = topology.runs.get(one.subject)
    point = topology.start_of.get(run.id, "") if run is not None else one.subject
    if one.code == "coil-unfused":
        point = f"{one.subject}:coil"
    bare = raised.subjects_of("fuse-missing")
    way = [*path_runs(topology, point), *([run.id] if run is not None else [])] if bare else []
    return next((run_id for run_id in way if run_id in bare), None)


def _first_alike(raised: Raised, run: Run) -> Run:
    """Of runs in a row that carry the same current and are stopped alike the first from the battery."""
    topology, cases = raised.sized.topology, raised.sized.cases
    while cases[run.id].forced:
        before = topology.feeder_of.get(topology.start_of.get(run.id, ""))
        if before is None or not cases[before].forced or abs(cases[before].carry_a - cases[run.id].carry_a) > 0.01:
            break
        run = topology.runs[before]
    return run
