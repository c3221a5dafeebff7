"""One cause, one finding: what follows from the same cause is folded under it."""

from __future__ import annotations

from collections.abc import Iterable

from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.topology import path_runs
from lucernis.core.report import SEVERITY_ORDER, Finding
from lucernis.core.sizing.fusing import fuse_run
from lucernis.plan.model import Load, Run

# Of findings with one cause the one that stands first here says what it is.
_FIRST = (
    "short-by-wiring", "sources-tied", "reversing-by-body", "return-missing", "inverter-over-bank",
    "bank-discharge-over", "switch-over", "busbar-over", "block-over-total",
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
# Currents and volts that are what they are because the wires join what must not be joined.
_OF_WRONG_JOIN = {
    "short-by-wiring", "sources-tied", "breaking-low", "breaking-unknown", "fault-harms-wire", "fault-not-cleared",
    "not-selective", "switch-short-time", "wire-over-ampacity", "wire-over-derated", "wire-nothing-fits",
    "fuse-below-load", "fuse-at-load", "fuse-none-fits", "fuse-one-end", "fuse-above-wire", "inrush-opens",
    "cycle-trips", "pin-over", "relay-over", "shunt-over", "keyed-feed-over", "switch-over", "busbar-over",
    "block-over-total", "guard-above-rating", "load-collapse", "load-reversed", "load-under-voltage",
    "drop-over-limit", "drop-out-of-reach", "bank-discharge-over", "bank-charge-over", "inverter-over-bank",
    "inverter-surge-over-bank", "bank-sharing", "bank-mixed-chemistry", "bank-mixed-lead", "charger-chemistry-wrong",
    "battery-limit-usual", "circuit-closes-loop", "charger-in-a-ring",
}  # fmt: skip
# What one part is made for, by what flows and by what its fuse lets through.
_OF_RATING = {"switch-over", "busbar-over", "block-over-total", "block-no-prefuse", "guard-above-rating"}
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
        group.sort(key=lambda one: (_rank(one.code), SEVERITY_ORDER[one.severity], at.get(one.subject, len(at))))
        head = group[0]
        head.consequences = group[1:]
        head.severity = min((one.severity for one in group), key=lambda one: SEVERITY_ORDER[one])
        heads.append(head)
    return sorted(heads, key=lambda one: (one.waived is not None, SEVERITY_ORDER[one.severity]))


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
        joined = [code for code in ("short-by-wiring", "sources-tied") if raised.subjects_of(code)]
        if joined:
            return joined[0], "plan"
    if part is not None and one.code in _OF_DELIVERY and raised.has(part.id, {"return-missing"}):
        return "return-missing", _first_lost(raised, part.id)
    if part is not None and one.code == "return-missing":
        return "return-missing", _first_lost(raised, part.id)
    if one.code in _OF_BANK:
        return "bank", "plan"
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
        turned = [name for name in raised.subjects_of("reversing-by-body") if part.id in _behind(raised, name)]
        if turned:
            return "reversing-by-body", turned[0]
        thin = [
            run_id
            for run_id in path_runs(topology, part.id)
            if topology.runs[run_id].wire is not None and raised.has(run_id, _OF_WIRE)
        ]
        return ("wire", thin[0]) if thin else ("way", part.id)
    return one.code, one.subject


def _first_lost(raised: Raised, part_id: str) -> str:
    """Of the parts on the way to one without a way back the first that has none either."""
    topology, lost = raised.sized.topology, raised.subjects_of("return-missing")
    way = [topology.part_at(topology.start_of[run_id]).id for run_id in path_runs(topology, part_id)]
    return next((name for name in way if name in lost), part_id)


def _behind(raised: Raised, name: str) -> set[str]:
    """Consumers behind a point."""
    topology = raised.sized.topology
    return {one for run_id in topology.fed_runs.get(name, ()) for one in topology.behind[run_id]}


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
