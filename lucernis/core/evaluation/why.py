"""Why a run has its size, what the next ones would bring, and how much more it stands: in a line each."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats
from lucernis.core.circuit.topology import path_runs
from lucernis.core.protection.fuses import NEXT_FACTOR
from lucernis.core.report import Decided, Reserve, Why
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.lines import fed_by_line
from lucernis.core.sizing.options import Case, Reason
from lucernis.core.sizing.stretch import Option, leg_count
from lucernis.core.wire.copper import COPPER_KG_PER_M3, WireSize, wire_size
from lucernis.plan.model import Plan, Run
from lucernis.plan.units import told_length
from lucernis.practice.rules import Rules

_KG_PER_MM2_M = COPPER_KG_PER_M3 * 1e-6
_BY_REASON: dict[Reason, Decided] = {
    "no_figure": "load", "load": "load", "warm": "warmth", "fuse": "fuse", "short": "fuse", "least": "least",
    "roof": "roof", "inverter": "maker", "maker_least": "maker", "output": "drop", "line": "one_size", "taper": "taper",
    "terminal": "terminal", "holder": "terminal", "copper": "copper", "shelf": "least",
}  # fmt: skip


@dataclass(slots=True)
class WhyBook:
    """Answers for every run of a sized plan. What a size would lose is reckoned with today's currents."""

    plan: Plan
    rules: Rules
    sized: Sized
    shelf: list[WireSize] = field(default_factory=list)
    lost: list[Floats] = field(default_factory=list)
    on: list[Floats] = field(default_factory=list)
    used: frozenset[str] = frozenset()
    part_v: list[Floats] = field(default_factory=list)
    way_ohm: dict[str, float] = field(default_factory=dict)
    behind: dict[str, NDArray[np.int64]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """What each limited point loses in each state, and which of them stand behind each run."""
        values, sized, limits = self.rules.values, self.sized, self.sized.limits
        found = [wire_size(values.size_system, name, tinned=values.tinned) for name in values.shelf]
        self.shelf = sorted(found, key=lambda one: one.area_mm2)
        self.used = frozenset(one.size.label for one in sized.chosen.values())
        rows = [sized.ways.index[name] for name in limits.names]
        for result in sized.rated.values():
            if sized.counts_everything:
                lost = np.array([sized.lost_v(name, result) for name in limits.names])
            else:
                lost = sized.ways.along(result.leg_v * sized.shares.wire)[rows]
            self.lost.append(lost)
            self.on.append(
                np.array([name in result.load_a or name in limits.ceilings for name in limits.names], dtype=bool)
            )
            self.part_v.append(np.array([result.part_v[name] for name in limits.names]))
        for run_id in sized.topology.order:
            before_ohm = self.way_ohm.get(sized.topology.start_of[run_id], 0.0)
            self.way_ohm[sized.topology.finish_of[run_id]] = before_ohm + self._counted_ohm(sized.chosen[run_id])
        behind: dict[str, list[int]] = {}
        for at, name in enumerate(limits.names):
            for run_id in path_runs(sized.topology, name):
                behind.setdefault(run_id, []).append(at)
        self.behind = {run_id: np.array(some) for run_id, some in behind.items()}

    def why(self, run: Run) -> Why:
        """What decided its size, and what the next thinner and thicker one would bring."""
        case, own = self.sized.cases[run.id], self.sized.chosen[run.id].size
        thicker = self._thicker(run, case, own)
        if case.pinned and run.wire is not None:
            return Why("pin", f"pinned: {run.wire.reason}", thicker)
        if case.leader is not None:
            head = self.sized.topology.runs[case.leader].tag
            return Why("one_size", f"goes with {head}", f"goes with {head}")
        decided, thinner = self._thinner(run, case, own)
        return Why(decided, thinner, thicker)

    def _thinner(self, run: Run, case: Case, own: WireSize) -> tuple[Decided, str]:
        below = [one for one in self.shelf if one.area_mm2 < own.area_mm2 * 0.999]
        if not below:
            return "least", "no thinner size on the shelf"
        label = below[-1].label
        refused = next((one for one in case.refusals if one.label == label), None)
        if refused is not None:
            return _BY_REASON[refused.reason], f"{label}: {refused.text}"
        found = next((k for k, one in enumerate(case.options) if one.size.label == label), None)
        if found is None:
            return "load", f"{label}: not among what it may have"
        now = next(k for k, one in enumerate(case.options) if one.size is own)
        more_ohm = float(case.counted_ohm[found] - case.counted_ohm[now])
        broken = self._broken(run, more_ohm)
        if broken is not None:
            return broken[0], f"{label}: {broken[1]}"
        fed = (
            fed_by_line(self.sized.topology, self.sized.cases, run.id)
            if run.id in self.sized.topology.finish_of
            else []
        )
        for one in fed if self.rules.values.taper else ():
            whole_mm2 = self.sized.chosen[one].size.area_mm2 * self.sized.topology.runs[one].parallel
            if below[-1].area_mm2 * run.parallel < whole_mm2 * 0.999:
                return "taper", f"{label}: thinner than {self.sized.topology.runs[one].tag}, which it feeds"
        spared = float(case.copper[now] - case.copper[found]) * _KG_PER_MM2_M
        if label not in self.used:
            return "spool", f"{label}: would spare {1000 * spared:.0f} g of copper and be one more size on the van"
        return "drop", f"{label}: would have to be made up for by thicker wire behind it"

    def _broken(self, run: Run, more_ohm: float) -> tuple[Decided, str] | None:
        """What a size would lose too much of, worst first."""
        limits, sized, volts = self.sized.limits, self.sized, float(self.plan.nominal_v)
        behind = self.behind.get(run.id)
        if behind is None:
            return None
        over_v, worst, short = 1e-7, None, None
        for lost, on, part_v, result in zip(self.lost, self.on, self.part_v, sized.rated.values(), strict=True):
            takes_v = abs(result.run_a[run.id]) * more_ohm
            some = behind[on[behind]]
            if not len(some):
                continue
            missed_v = lost[some] + takes_v - limits.wanted_v[some]
            most = int(np.argmax(missed_v))
            if missed_v[most] > over_v:
                over_v, worst = float(missed_v[most]), (int(some[most]), float(lost[some[most]]) + takes_v)
            low = (part_v[some] - takes_v < limits.least_v[some]) & (limits.least_v[some] <= part_v[some])
            at = next((one for one in some[low].tolist() if limits.names[one] not in limits.ceilings), None)
            if at is not None and short is None:
                short = (at, float(part_v[at]) - takes_v)
        if worst is not None:
            name, wanted_v = limits.names[worst[0]], limits.wanted_v[worst[0]]
            text = (
                f"{100 * worst[1] / volts:.1f} % at {sized.topology.part_at(name).name}, "
                f"{100 * wanted_v / volts:.1f} % wanted"
            )
            return "feeder" if name in limits.ceilings else "drop", text
        if short is not None:
            part = sized.topology.part_at(limits.names[short[0]]).name
            return "drop", f"{short[1]:.2f} V at {part}, which needs {limits.least_v[short[0]]:.2f} V"
        return None

    def _thicker(self, run: Run, case: Case, own: WireSize) -> str:
        above = [one for one in self.shelf if one.area_mm2 > own.area_mm2 * 1.001]
        if not above:
            return "no thicker size on the shelf"
        label = above[0].label
        refused = next((one for one in case.refusals if one.label == label), None)
        if refused is not None:
            return f"{label}: {refused.text}"
        option = next((one for one in case.options if one.size.label == label), None)
        if option is not None and option.steps:
            part, fitting = next((part, one) for part, one in case.fittings if not one.takes(option.size))
            return f"{label}: thicker than {part.name} takes as is usual ({fitting.label}: {fitting.greatest_label})"
        metres = leg_count(run) * run.length_m * run.parallel
        more_kg = metres * (above[0].area_mm2 - own.area_mm2) * _KG_PER_MM2_M
        laid = told_length(metres, self.plan.units)
        return f"{label}: {laid} of it, {1000 * more_kg:.0f} g more copper, and nothing asks for it"

    def _counted_ohm(self, option: Option) -> float:
        """What a drop limit counts of a run. [Ω]"""
        return option.total_ohm if self.sized.counts_everything else option.wire_loop_ohm

    def reserve(self, run: Run) -> Reserve:
        """How much more length, current or heat it stands before something is exceeded."""
        sized, case = self.sized, self.sized.cases[run.id]
        option = sized.chosen[run.id]
        carried_a = option.amp.ampacity_a
        own_ohm = self._counted_ohm(option)
        way_ohm = self.way_ohm.get(sized.topology.finish_of.get(run.id, ""), 0.0)
        length_m = current_a = None
        by = ""
        behind = self.behind.get(run.id, np.empty(0, dtype=np.int64))
        behind = behind[np.isfinite(sized.limits.lost_v[behind])]
        for lost, on, result in zip(self.lost, self.on, sized.rated.values(), strict=True):
            amps = abs(result.run_a[run.id])
            some = behind[on[behind]]
            if not len(some):
                continue
            spare_v = max(0.0, float((sized.limits.lost_v[some] - lost[some]).min()))
            if amps * own_ohm > 1e-9:
                found_m = spare_v / (amps * own_ohm / run.length_m)
                length_m = found_m if length_m is None else min(length_m, found_m)
            if way_ohm > 0 and (current_a is None or spare_v / way_ohm < current_a):
                current_a, by = spare_v / way_ohm, "drop"
        if carried_a is not None and case.carry_a > 0:
            spare_a = max(0.0, carried_a * run.parallel - case.carry_a)
            if current_a is None or spare_a < current_a:
                current_a, by = spare_a, "wire"
        guard = case.protector_fuse
        if guard is not None and guard.lasting_a is not None:
            spare_a = max(0.0, guard.lasting_a / NEXT_FACTOR - max(guard.carry_a, case.carry_a))
            if current_a is None or spare_a < current_a:
                current_a, by = spare_a, "fuse"
        ambient_k = None
        if carried_a:
            # Ampacity follows the root of what is left up to the insulation's rating.
            load = min(1.0, case.carry_a / run.parallel / carried_a)
            ambient_k = (case.insulation_c - case.around.ambient_c) * (1 - load**2)
        return Reserve(length_m=length_m, current_a=current_a, current_by=by, ambient_k=ambient_k)
