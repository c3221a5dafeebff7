"""Fills the report: runs, loads, blocks and parts of a sized plan with its findings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields

from lucernis.core.circuit.contacts import contact_ohm
from lucernis.core.circuit.topology import path_runs
from lucernis.core.evaluation.distribution_report import RunHeat, fault_report, guard_report
from lucernis.core.evaluation.way_report import way_report
from lucernis.core.evaluation.why import WhyBook
from lucernis.core.faults.backing import backing_run
from lucernis.core.faults.guards import Guards
from lucernis.core.faults.study import FaultStudy
from lucernis.core.layout.laid import Layout, layout_of
from lucernis.core.power.bank import BankFigures
from lucernis.core.protection.fuse_curves import breaking_capacity
from lucernis.core.protection.fuses import family
from lucernis.core.report import (
    SEVERITY_ORDER,
    BlockReport,
    Finding,
    FuseReport,
    GuardReport,
    LoadReport,
    LoadState,
    PartReport,
    Role,
    RunReport,
    RunState,
    Severity,
    Verdict,
    WireReport,
)
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import RunFuse, charging_table_v, far_key, fed_by_start, fuse_run
from lucernis.core.sizing.states import StateResult
from lucernis.core.sizing.stretch import leg_count
from lucernis.plan.model import End, FuseBlock, Load, Part, Plan, Run
from lucernis.practice.rules import Rules

DELIVERY_CODES = {"drop-over-limit", "drop-out-of-reach", "load-under-voltage", "load-collapse"}


@dataclass(slots=True)
class Filler:
    """Turns a sized plan and its findings into the parts of the report."""

    plan: Plan
    rules: Rules
    sized: Sized
    faults: FaultStudy
    guards: Guards
    findings: list[Finding]
    severities: dict[str, Severity]
    limit_frac: dict[str, float]
    heat: RunHeat
    bank: BankFigures | None
    whys: WhyBook
    shown: dict[str, _Lost] = field(default_factory=dict)
    rated: dict[str, _Lost] = field(default_factory=dict)
    margin_v: dict[str, float] = field(default_factory=dict)
    tightest: dict[str, str] = field(default_factory=dict)
    layout: Layout = field(init=False)
    _of: dict[str, list[Finding]] = field(default_factory=dict)
    _head: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        sized = self.sized
        self.layout = layout_of(self.plan, self.rules)
        self.shown = lost_in(sized, sized.states)
        self.rated = self.shown if sized.rated is sized.states else lost_in(sized, sized.rated)
        for lost in self.rated.values():
            for load in lost.result.load_a:
                if load in sized.limit_v and load in sized.topology.root_of:
                    counted_v = sized.lost_v(load, lost.result) if sized.counts_everything else lost.conductors_v(load)
                    margin_v = sized.limit_v[load] - counted_v
                    self.margin_v[load] = min(margin_v, self.margin_v.get(load, margin_v))
        self._find_tightest()
        for head in self.findings:
            for finding in (head, *head.consequences):
                self._of.setdefault(finding.subject, []).append(finding)
                self._head[finding.id] = head.id

    def _find_tightest(self) -> None:
        """For each run the load behind it with the least margin: that at its end, or that of a run it feeds."""
        topology = self.sized.topology
        place = {name: at for at, name in enumerate(topology.consumers)}
        for run_id in reversed(topology.order):
            finish = topology.finish_of[run_id]
            some = [self.tightest[one] for one in topology.fed_runs.get(finish, ()) if one in self.tightest]
            some += [finish] if finish in self.margin_v and finish in self.limit_frac else []
            if some:
                self.tightest[run_id] = min(some, key=lambda one: (self.margin_v[one], place.get(one, 0)))

    def of(self, subject: str) -> list[Finding]:
        """Findings on a subject."""
        return self._of.get(subject, [])

    def of_run(self, run_id: str, finish: str) -> list[Finding]:
        """Findings on a run: its own, and what it fails to deliver to the load at its end."""
        return self.of(run_id) + [one for one in self.of(finish) if one.code in DELIVERY_CODES]

    def verdict(self, findings: list[Finding]) -> Verdict:
        """The gravest of some findings that are not waived, each by itself."""
        open_ones = [self.severities[one.id] for one in findings if one.waived is None]
        return min(open_ones, key=lambda severity: SEVERITY_ORDER[severity], default="good")

    def ids(self, findings: list[Finding]) -> list[str]:
        """Findings by their id; one that is folded under its cause by that of the cause."""
        return list(dict.fromkeys(self._head[one.id] for one in findings))

    def end_label(self, end: End) -> str:
        part = self.sized.topology.parts[end.part]
        return f"{part.name}, way {end.way}" if end.way is not None else part.name


def _fuse(filler: Filler, run: Run, fuse: RunFuse, *, at_start: bool) -> FuseReport:
    volts, backing = charging_table_v(filler.plan), None
    breaks_a = breaking_capacity(fuse.fuse.family, volts).breaking_a if fuse.fuse else None
    if breaks_a is not None and fuse.break_a > breaks_a:
        backing = backing_run(filler.plan, filler.sized, run, fuse.break_a, volts)
    return FuseReport(
        end="start" if at_start else "finish",
        family=fuse.fuse.family if fuse.fuse else None,
        family_label=fuse.fuse.label if fuse.fuse else "",
        rating_a=fuse.fuse.rating_a if fuse.fuse else None,
        count=fuse.count,
        least_a=fuse.least_a,
        breaks_a=breaks_a,
        short_a=fuse.break_a,
        backed_by=backing[0].tag if backing is not None else None,
        sealed_holder=fuse.sealed_holder,
        distance_m=fuse.distance_m,
        pinned=bool(fuse.fuse and fuse.fuse.pinned),
        pin_reason=fuse.pin_reason,
        computed_family_label=fuse.computed.label if fuse.computed else "",
        computed_rating_a=fuse.computed.rating_a if fuse.computed else None,
    )


@dataclass(frozen=True, slots=True)
class _Lost:
    """What is lost to every point in one state: everything, and conductors, joints and fuses by themselves. [V]"""

    result: StateResult
    parts_v: dict[str, tuple[float, float, float]]

    def conductors_v(self, point: str) -> float:
        """In the conductors there and back. [V]"""
        return self.parts_v[point][0] if point in self.parts_v else 0.0


def lost_in(sized: Sized, results: Mapping[str, StateResult]) -> dict[str, _Lost]:
    """What is lost to every point, state by state."""
    return {state: _Lost(result, sized.parts_lost_v(result)) for state, result in results.items()}


def _to_end(filler: Filler, run: Run, lost: _Lost) -> tuple[float, float, float]:
    """Volts lost from the source to the end of a run, in all and in the conductors; and the volts they are a share of.

    A negative alone counts from its far end home.
    """
    sized, result = filler.sized, lost.result
    nominal_v = float(filler.plan.nominal_v)
    finish = sized.topology.finish_of.get(run.id)
    if finish is None:
        name = f"{run.id}:home"
        if name not in sized.ways.index:
            return 0.0, 0.0, nominal_v
        return sized.home_lost_v(run, result), lost.conductors_v(name), nominal_v
    if result.part_v[finish] <= 0:
        return *_one_leg_to_end(sized, finish, lost), nominal_v
    home_v = sized.home_v(finish)
    if nominal_v != home_v:
        # A panel's string or another battery has its own volts to count from.
        nominal_v = nominal_v * home_v / sized.source_v
    return sized.lost_v(finish, result), lost.conductors_v(finish), nominal_v


def _one_leg_to_end(sized: Sized, finish: str, lost: _Lost) -> tuple[float, float]:
    """Volts lost to a point without a negative: those of the positives since the last point that has one. What is not
    live has lost nothing."""
    whole_v = conductors_v = 0.0
    for run_id in reversed(path_runs(sized.topology, finish)):
        whole_v += lost.result.run_drop_v[run_id]
        conductors_v += lost.result.conductor_drop_v[run_id]
        start = sized.topology.start_of[run_id]
        if lost.result.part_v.get(start, 0.0) > 0:
            return whole_v + sized.lost_v(start, lost.result), conductors_v + lost.conductors_v(start)
    return whole_v, conductors_v


def _run_state(filler: Filler, run: Run, lost: _Lost, conductor_c: float, surface_c: float) -> RunState:
    result = lost.result
    to_end_v, conductors_v, nominal_v = _to_end(filler, run, lost)
    return RunState(
        current_a=abs(result.run_a[run.id]),
        drop_v=result.run_drop_v[run.id],
        drop_frac=result.run_drop_v[run.id] / nominal_v,
        drop_to_end_v=to_end_v,
        drop_to_end_frac=to_end_v / nominal_v,
        conductor_drop_v=result.conductor_drop_v[run.id],
        conductor_drop_frac=result.conductor_drop_v[run.id] / nominal_v,
        conductor_drop_to_end_v=conductors_v,
        conductor_drop_to_end_frac=conductors_v / nominal_v,
        conductor_c=conductor_c,
        surface_c=surface_c,
    )


def _tightest(filler: Filler, run: Run) -> tuple[float | None, str | None, float | None]:
    """Of the loads behind a run the one with the least margin: its limit, its id, and the margin as a share."""
    best: tuple[float | None, str | None, float | None] = (None, None, None)
    load = filler.tightest.get(run.id)
    if load is not None:
        best = (filler.limit_frac[load], load, filler.margin_v[load] / filler.plan.nominal_v)
    return best


def _role(run: Run, source: str, finish: str, goes_on: bool, *, dead: bool) -> Role:
    if run.legs == "negative":
        return "return"
    if run.legs == "series":
        return "main"
    if dead:
        return "branch"
    if source == "battery":
        return "main"
    if source == "load":
        return "onward"
    if finish == "fuse_block" or (finish != "load" and goes_on):
        return "feeder"
    return "branch"


def _guards(filler: Filler, run: Run) -> tuple[GuardReport, GuardReport]:
    if run.id in filler.sized.topology.both_fed:
        found = filler.guards.of_run(run)
        return guard_report(filler.sized, found.start), guard_report(filler.sized, found.finish)
    if run.id in filler.sized.topology.dead:
        # Nothing feeds it, so that neither of its ends comes before the other.
        return GuardReport(False, [], 0.0), GuardReport(False, [], 0.0)
    case = filler.sized.cases[run.id]
    tags = [filler.sized.topology.runs[fuse_run(case.protector)].tag] if case.protector else []
    bare_m = case.fuse.distance_m if case.fuse is not None else 0.0 if tags else run.length_m
    fed, other = GuardReport(True, tags, bare_m), GuardReport(False, [], 0.0)
    if run.id in filler.sized.topology.returns:
        # A negative alone is held to the fuse its current has passed; no battery's positive feeds it from either end.
        return GuardReport(False, tags, 0.0), GuardReport(False, tags, 0.0)
    return (fed, other) if fed_by_start(filler.sized.topology, run) else (other, fed)


def run_report(filler: Filler, at: int, run: Run) -> RunReport:
    """Figures of one run, the `at`-th of the plan."""
    sized = filler.sized
    case, option, topology = sized.cases[run.id], sized.chosen[run.id], sized.topology
    conductor_c, surface_c = filler.heat.conductor_c[:, at].tolist(), filler.heat.surface_c[:, at].tolist()
    states = {
        state: _run_state(filler, run, lost, conductor_c[k], surface_c[k])
        for k, (state, lost) in enumerate(filler.shown.items())
    }
    every = list(states.values())
    if filler.rated is not filler.shown:
        hot = filler.heat.rated_c[:, at].tolist(), filler.heat.rated_surface_c[:, at].tolist()
        every += [_run_state(filler, run, lost, hot[0][k], hot[1][k]) for k, lost in enumerate(filler.rated.values())]
    worst = RunState(**{one.name: max(getattr(state, one.name) for state in every) for one in fields(RunState)})
    start_guard, finish_guard = _guards(filler, run)
    connected_a = sized.demand.connected_a[run.id]
    limit_frac, limit_load, margin_frac = _tightest(filler, run)
    source = topology.part_at(case.fed_from).kind
    end_point = topology.finish_of.get(run.id, run.finish.part)
    finish = topology.part_at(end_point).kind
    amp_a = option.amp.ampacity_a * run.parallel if option.amp.ampacity_a is not None else None
    findings = filler.of_run(run.id, end_point)
    by_start = fed_by_start(topology, run)
    return RunReport(
        id=run.id,
        tag=run.tag,
        name=run.name,
        role=_role(run, source, finish, bool(topology.fed_runs.get(end_point)), dead=run.id in topology.dead),
        start_label=filler.end_label(run.start),
        finish_label=filler.end_label(run.finish),
        start_joint=case.fittings[0][1].joint(option.size),
        finish_joint=case.fittings[1][1].joint(option.size),
        finish_kind=finish,
        fed=run.id not in topology.dead and run.id not in topology.spares,
        spare=run.id in topology.spares,
        later_fuse_a=_later_fuse_a(filler, run) if run.id in topology.spares else None,
        legs=run.legs,
        parallel=run.parallel,
        length_m=run.length_m,
        loop_length_m=leg_count(run) * run.length_m,
        length_as_typed=run.length_as_typed,
        length_guessed=run.length_guessed,
        way=way_report(filler.layout, filler.plan, run),
        ambient_c=case.around.ambient_c,
        engine_space=case.around.engine_space,
        bundle_count=case.around.bundle_count,
        design_current_a=case.design_current_a,
        design_state=sized.demand.design_state[run.id],
        greatest_a=case.carry_a,
        wire=WireReport(
            system=option.size.system,
            size=option.size.name,
            label=option.size.label,
            area_mm2=option.size.area_mm2,
            diameter_mm=option.size.diameter_mm,
            insulation_c=case.insulation_c,
            ampacity_a=amp_a,
            table_ampacity_a=option.amp.base_a,
            pinned=case.pinned,
            pin_reason=run.wire.reason if run.wire else "",
            computed_label=sized.unpinned[run.id].size.label,
        ),
        fuse=_fuse(filler, run, case.fuse, at_start=by_start) if case.fuse else None,
        far_fuse=_fuse(filler, run, sized.fuses[far_key(run.id)], at_start=not by_start)
        if far_key(run.id) in sized.fuses
        else None,
        protected_by=topology.runs[fuse_run(case.protector)].tag if case.protector else None,
        temp_c=option.temp_c,
        resistance_ohm=option.total_ohm,
        worst=worst,
        states=states,
        limit_frac=limit_frac,
        limit_load=limit_load,
        margin_frac=margin_frac,
        ampacity_margin_frac=amp_a / case.carry_a - 1 if amp_a is not None and case.carry_a > 0 else None,
        connected_a=connected_a,
        diversity_frac=case.design_current_a / connected_a if connected_a > 0 else None,
        start_guard=start_guard,
        finish_guard=finish_guard,
        faults=[fault_report(sized, one) for one in filler.faults.of_run.get(run.id, ())],
        loads=list(topology.loads_behind.get(run.id, ())),
        why=filler.whys.why(run),
        reserve=filler.whys.reserve(run),
        verdict=filler.verdict(findings),
        finding_ids=filler.ids(findings),
    )


def _later_fuse_a(filler: Filler, run: Run) -> float | None:
    """The largest fuse a spare may get once something hangs on it: by its wire, and by its way where it has one."""
    case, option = filler.sized.cases[run.id], filler.sized.chosen[run.id]
    carried_a = option.amp.ampacity_a
    parts = [filler.sized.topology.parts[end.part] for end in (run.start, run.finish)]
    block = next((part for part in parts if isinstance(part, FuseBlock)), None)
    names = (block.family,) if block is not None else filler.rules.values.branch_families
    if carried_a is None or case.forced:
        return None
    most_a = min(carried_a, block.way_limit_a or carried_a) if block is not None else carried_a
    fitting = [rating for name in names for rating in family(name).ratings_a if rating <= most_a * (1 + 1e-9)]
    return max(fitting, default=None)


def _load_state(filler: Filler, load: Load, lost: _Lost) -> LoadState:
    result, sized = lost.result, filler.sized
    on = load.id in result.load_a
    fed = load.id in sized.topology.feeder_of
    volts = result.part_v[load.id] if fed else 0.0
    counts = on and fed and volts > 0
    drop_v = sized.lost_v(load.id, result) if counts else 0.0
    wire_v, joints_v, fuses_v = lost.parts_v.get(load.id, (0.0, 0.0, 0.0)) if counts else (0.0, 0.0, 0.0)
    min_v = sized.demand.loads[load.id].min_v
    return LoadState(
        on=on,
        served=fed and on and load.id not in result.unserved and volts >= min_v - 1e-9,
        current_a=result.load_a.get(load.id, 0.0) if fed else 0.0,
        voltage_v=volts,
        drop_v=drop_v,
        drop_frac=drop_v / filler.plan.nominal_v,
        conductor_drop_v=wire_v,
        conductor_drop_frac=wire_v / filler.plan.nominal_v,
        joints_drop_v=joints_v,
        fuses_drop_v=fuses_v,
        contacts_drop_v=drop_v - wire_v - joints_v - fuses_v,
    )


def load_report(filler: Filler, load: Load) -> LoadReport:
    """Figures of one entry of the load list."""
    sized = filler.sized
    figures = sized.demand.loads[load.id]
    states = {state: _load_state(filler, load, lost) for state, lost in filler.shown.items()}
    every = [*states.values()]
    if filler.rated is not filler.shown:
        every += [_load_state(filler, load, lost) for lost in filler.rated.values()]
    feeder = sized.topology.feeder_of.get(load.id)
    run = sized.topology.runs[feeder] if feeder else None
    places = {place.id: place.name for place in filler.plan.places}
    return LoadReport(
        id=load.id,
        tag=load.tag,
        name=load.name,
        place=places.get(load.place or "", ""),
        power_w=figures.power_w,
        current_a=figures.current_a,
        each_power_w=figures.power_w / load.count if figures.power_w is not None else None,
        each_current_a=figures.current_a / load.count if figures.current_a is not None else None,
        design_current_a=figures.design_current_a,
        ah_per_day=figures.ah_per_day,
        circuit=feeder,
        circuit_tag=run.tag if run else None,
        fed_from=sized.topology.start_of[feeder] if feeder else None,
        length_m=run.length_m if run else None,
        loop_length_m=leg_count(run) * run.length_m if run else None,
        limit_frac=filler.limit_frac[load.id],
        worst=max(every, key=lambda one: (one.on, one.conductor_drop_v, one.drop_v)),
        states=states,
        verdict=filler.verdict(filler.of(load.id)),
        finding_ids=filler.ids(filler.of(load.id)),
    )


def block_report(filler: Filler, block: FuseBlock) -> BlockReport:
    """Figures of a fuse block."""
    feeder = filler.sized.topology.feeder_of.get(block.id)
    return BlockReport(
        id=block.id,
        tag=block.tag,
        name=block.name,
        ways=block.ways,
        ways_used=sum(1 for run in filler.plan.runs if run.start.part == block.id),
        design_current_a=filler.sized.demand.design_current_a[feeder] if feeder else 0.0,
        fed_by=filler.sized.topology.runs[feeder].tag if feeder else None,
    )


def _through_a(filler: Filler, part: Part) -> float:
    """What passes a part: through a battery what is solved, elsewhere what the guards say. [A]"""
    results = filler.sized.rated.values()
    if part.kind == "battery":
        return max((abs(one.battery_a.get(part.id, 0.0)) for one in results), default=0.0)
    return filler.guards.through_a(part.id)


def _positions(part: Part) -> list[str]:
    """What each position of a switch makes live."""
    if part.kind != "switch":
        return []
    poles = "both poles" if part.poles == 2 else "positive only"
    if part.form == "single":
        return [f"off: nothing ({poles})", f"on: out ({poles})"]
    if part.form == "reversing":
        return ["off: nothing", "a: out", "b: out, exchanged"]
    second = "out and second way out" if part.position_b == "both" else "second way out"
    return [f"off: nothing ({poles})", f"a: out ({poles})", f"b: {second} ({poles})"]


def part_report(filler: Filler, part: Part) -> PartReport:
    """Figures of a part of the distribution."""
    sized, guards = filler.sized, filler.guards
    feeder, guard = sized.topology.feeder_of.get(part.id), guards.nearest.get(part.id)
    rated_a = getattr(part, "rated_a", None) or getattr(part, "contact_a", None) or getattr(part, "total_limit_a", None)
    return PartReport(
        id=part.id,
        tag=part.tag,
        name=part.name,
        kind=part.kind,
        through_a=_through_a(filler, part),
        connected_a=sized.demand.connected_a[feeder] if feeder is not None else 0.0,
        rated_a=rated_a,
        guarded_by=sized.topology.runs[fuse_run(guard)].tag if guard is not None else None,
        guard_a=guards.lasting_a(part.id),
        resistance_ohm=contact_ohm(part),
        shunt_mv=1000 * _through_a(filler, part) * contact_ohm(part) if part.kind == "shunt" else None,
        positions=_positions(part),
        verdict=filler.verdict(filler.of(part.id)),
        finding_ids=filler.ids(filler.of(part.id)),
    )
