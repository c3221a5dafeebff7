"""Two reports of one system held against each other, subject by subject: sizes, fuses, currents, drops, findings."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Mapping
from typing import Any

from lucernis.core.report import FaultReport, Finding, FuseReport, GuardReport, Report, RunState, every

Facts = dict[str, Any]
Name = Callable[[str], str]
# Two ways of writing a circuit are solved in another order: figures agree to this share of themselves.
CLOSE = 1e-6


def _fuse(fuse: FuseReport | None) -> Facts | None:
    if fuse is None:
        return None
    return {
        "family": fuse.family, "rating_a": fuse.rating_a, "count": fuse.count, "short_a": fuse.short_a,
        "least_a": fuse.least_a, "sealed": fuse.sealed_holder, "computed": fuse.computed_rating_a,
    }  # fmt: skip


def _fault(fault: FaultReport, tags: Mapping[str, str]) -> Facts:
    return {
        "strongest_a": fault.strongest_a, "weakest_a": fault.weakest_a, "slow_s": fault.slow_s,
        "openers": sorted(tags.get(one, one) for one in fault.openers), "wire_c": fault.wire_c,
    }  # fmt: skip


def _state(state: RunState) -> Facts:
    return {
        "current_a": abs(state.current_a), "drop_v": state.drop_v, "conductor_drop_v": state.conductor_drop_v,
        "to_end_v": state.drop_to_end_v, "conductor_c": state.conductor_c,
    }  # fmt: skip


def _guard(guard: GuardReport, tags: Mapping[str, str]) -> Facts:
    fuses = sorted(tags.get(one, one) for one in guard.fuses)
    return {"fed": guard.fed, "fuses": fuses, "bare_m": guard.unprotected_m}


def _finding(one: Finding, name: Name) -> tuple[str, Facts]:
    key = f"{one.code} on {name(one.subject) if one.subject != 'plan' else 'plan'}"
    return key, {"severity": one.severity, "figures": dict(one.figures), "asked": bool(one.asked)}


def facts(report: Report, *, turned: frozenset[str] = frozenset(), name: Name = lambda one: one) -> dict[str, Facts]:
    """What a report says of each subject, the ends of turned runs exchanged, ids by the names they had."""
    found: dict[str, Facts] = {}
    tags = {run.tag: name(run.id) for run in report.runs}
    for run in report.runs:
        back = name(run.id) in turned
        guards = [_guard(one, tags) for one in (run.start_guard, run.finish_guard)]
        faults = {one.where: _fault(one, tags) for one in run.faults}
        if back:
            guards.reverse()
            faults = {{"start": "finish", "finish": "start"}.get(where, where): one for where, one in faults.items()}
        found[f"run {name(run.id)}"] = {
            "wire": run.wire.label,
            "computed": run.wire.computed_label,
            "fuses": [_fuse(run.fuse), _fuse(run.far_fuse)],
            "design_a": run.design_current_a,
            "greatest_a": run.greatest_a,
            "worst": _state(run.worst),
            "states": {name(key): _state(one) for key, one in run.states.items()},
            "guards": guards,
            "faults": faults,
            "role": run.role,
            "fed": run.fed,
            "protected_by": tags.get(run.protected_by or "", run.protected_by),
            "loads": sorted(name(one) for one in run.loads),
            "verdict": run.verdict,
            "length_m": run.length_m,
            "later_a": run.later_fuse_a,
            "decided": run.why.decided,
        }
    for load in report.loads:
        found[f"load {name(load.id)}"] = {
            "design_a": load.design_current_a,
            "ah": load.ah_per_day,
            "drop_v": load.worst.drop_v,
            "conductor_drop_v": load.worst.conductor_drop_v,
            "served": load.worst.served,
            "verdict": load.verdict,
        }
    for part in report.parts:
        found[f"part {name(part.id)}"] = {
            "through_a": part.through_a, "connected_a": part.connected_a, "guard_a": part.guard_a,
            "verdict": part.verdict,
        }  # fmt: skip
    for node in report.nodes:
        key, _, terminal = node.id.partition(":")
        if node.fault is not None:
            found[f"point {name(key)}:{terminal}"] = {"fault": _fault(node.fault, tags)}
    found["summary"] = {
        "battery_a": report.summary.battery_current_a,
        "ah": report.summary.ah_per_day,
        "copper_kg": report.summary.copper_kg,
        "counts": (report.summary.open_stop, report.summary.open_fix, report.summary.open_look),
    }
    found["findings"] = dict(_finding(one, name) for one in every(report.findings))
    found["heads"] = {"of": sorted(_finding(one, name)[0] for one in report.findings)}
    return found


def differences(one: Any, other: Any, path: str = "") -> list[str]:
    """Where two sets of facts differ, in words."""
    if isinstance(one, dict) and isinstance(other, dict):
        keys = sorted({*one, *other}, key=str)
        return [
            line
            for key in keys
            for line in (
                differences(one[key], other[key], f"{path}/{key}")
                if key in one and key in other
                else [f"{path}/{key}: {'only before' if key in one else 'only after'}"]
            )
        ]
    if isinstance(one, list | tuple) and isinstance(other, list | tuple) and len(one) == len(other):
        return [
            line for k, pair in enumerate(zip(one, other, strict=True)) for line in differences(*pair, f"{path}/{k}")
        ]
    numbers = isinstance(one, int | float) and isinstance(other, int | float) and not isinstance(one, bool)
    if numbers and math.isclose(one, other, rel_tol=CLOSE, abs_tol=CLOSE):
        return []
    return [] if one == other else [f"{path}: {one!r} / {other!r}"]


def _rounded(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _rounded(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_rounded(one) for one in value]
    return float(f"{value:.5g}") if isinstance(value, float) else value


def unnamed(found: Facts) -> list[str]:
    """Facts without whose they are: of what is alike in everything but its name either may speak for both."""
    told = []
    for name, one in found.items():
        kind = name.split()[0]
        if kind == "run":
            told.append(f"run {json.dumps({key: _rounded(one[key]) for key in ('wire', 'fuses', 'greatest_a')})}")
        elif kind == "summary":
            told.append(f"summary {json.dumps(_rounded(one))}")
        elif kind == "findings":
            told += [f"finding {key.split(' on ')[0]}" for key in one]
    return sorted(told)
