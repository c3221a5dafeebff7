"""`evaluate(plan) -> Report`: the one door to the core. Same plan, same report, byte for byte."""

from __future__ import annotations

from dataclasses import dataclass, field

from lucernis.core.checks.bank import check_bank
from lucernis.core.checks.charging import check_charging
from lucernis.core.checks.delivery import check_delivery
from lucernis.core.checks.distribution import check_distribution, check_keyed
from lucernis.core.checks.faults import check_faults
from lucernis.core.checks.protection import check_protection
from lucernis.core.checks.raising import Raised
from lucernis.core.checks.returns import check_returns
from lucernis.core.checks.routing import check_routing
from lucernis.core.checks.switching import check_switching
from lucernis.core.checks.wire import check_wire
from lucernis.core.circuit.contacts import contact_ohm
from lucernis.core.evaluation.distribution_report import RunHeat, fault_report, guard_report, node_reports, run_heat
from lucernis.core.evaluation.working import WorkingBook
from lucernis.core.evaluation.working_faults import write_heat, write_part, write_shorts
from lucernis.core.evaluation.working_power import write_power
from lucernis.core.faults.guards import Guards
from lucernis.core.faults.study import FaultStudy, study_faults
from lucernis.core.power.bank import BankFigures, bank_figures
from lucernis.core.report import (
    CAUTION,
    SEVERITY_ORDER,
    BlockReport,
    Extreme,
    Finding,
    FuseReport,
    GuardReport,
    LoadReport,
    LoadState,
    PartReport,
    Report,
    Role,
    RunReport,
    RunState,
    StateSummary,
    Summary,
    Verdict,
    WireReport,
    Working,
)
from lucernis.core.sizing.fusing import RunFuse, far_key, fed_by_start, fuse_run
from lucernis.core.sizing.options import leg_count
from lucernis.core.sizing.search import Sized, StateResult, drop_limit_frac, size_plan
from lucernis.core.wire.copper import COPPER_KG_PER_M3
from lucernis.plan.model import End, FuseBlock, Load, Part, Plan, Run
from lucernis.practice.rules import Rules, resolve_rules

REPORT_FORMAT = "lucernis-report"
REPORT_VERSION = 1
DELIVERY_CODES = {"drop-over-limit", "drop-out-of-reach", "load-under-voltage", "load-collapse"}


def plan_rules(plan: Plan) -> Rules:
    """The rules in force for a plan: its practice set with its overrides."""
    return resolve_rules(plan.practice.set, {one.rule: (one.value, one.reason) for one in plan.practice.overrides})


@dataclass(slots=True)
class _Filler:
    """Turns a sized plan and its findings into the parts of the report."""

    plan: Plan
    rules: Rules
    sized: Sized
    faults: FaultStudy
    guards: Guards
    findings: list[Finding]
    limit_frac: dict[str, float]
    heat: RunHeat
    bank: BankFigures | None
    starts: set[str] = field(default_factory=set)
    _of: dict[str, list[Finding]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.starts = {run.start.part for run in self.plan.runs}
        for finding in self.findings:
            self._of.setdefault(finding.subject, []).append(finding)

    def of(self, subject: str) -> list[Finding]:
        """Findings on a subject."""
        return self._of.get(subject, [])

    def of_run(self, run_id: str, finish: str) -> list[Finding]:
        """Findings on a run: its own, and what it fails to deliver to the load at its end."""
        return self.of(run_id) + [one for one in self.of(finish) if one.code in DELIVERY_CODES]

    def end_label(self, end: End) -> str:
        part = self.sized.topology.parts[end.part]
        return f"{part.name}, way {end.way}" if end.way is not None else part.name


def _verdict(findings: list[Finding]) -> Verdict:
    open_ones = [one.severity for one in findings if one.waived is None]
    return min(open_ones, key=lambda severity: SEVERITY_ORDER[severity], default="good")


def _fuse(fuse: RunFuse) -> FuseReport:
    return FuseReport(
        family=fuse.fuse.family if fuse.fuse else None,
        family_label=fuse.fuse.label if fuse.fuse else "",
        rating_a=fuse.fuse.rating_a if fuse.fuse else None,
        count=fuse.count,
        least_a=fuse.least_a,
        distance_m=fuse.distance_m,
        pinned=bool(fuse.fuse and fuse.fuse.pinned),
        pin_reason=fuse.pin_reason,
        computed_family_label=fuse.computed.label if fuse.computed else "",
        computed_rating_a=fuse.computed.rating_a if fuse.computed else None,
    )


def _run_state(filler: _Filler, run: Run, result: StateResult, conductor_c: float, surface_c: float) -> RunState:
    nominal_v = float(filler.plan.nominal_v)
    finish = filler.sized.topology.finish_of.get(run.id)
    at_end_v = result.part_v[finish] if finish is not None else 0.0
    # What is not live in a state has lost nothing there.
    home_v = filler.sized.home_v(finish or "")
    to_end_v = home_v - at_end_v if at_end_v > 0 else 0.0
    if filler.plan.nominal_v != home_v and finish is not None:
        # A panel's string or another battery has its own volts to count from.
        nominal_v = filler.plan.nominal_v * home_v / filler.sized.source_v
    return RunState(
        current_a=abs(result.run_a[run.id]),
        drop_v=result.run_drop_v[run.id],
        drop_frac=result.run_drop_v[run.id] / nominal_v,
        drop_to_end_v=to_end_v,
        drop_to_end_frac=to_end_v / nominal_v,
        conductor_c=conductor_c,
        surface_c=surface_c,
    )


def _tightest(filler: _Filler, run: Run) -> tuple[float | None, str | None, float | None]:
    """Of the loads behind a run the one with the least margin: its limit, its id, and the margin as a share."""
    best: tuple[float | None, str | None, float | None] = (None, None, None)
    sized = filler.sized
    for load in sized.topology.loads_behind.get(run.id, ()):
        for result in sized.states.values():
            if load not in result.load_a:
                continue
            limit_v = sized.limit_v[load]
            margin = (limit_v - (sized.home_v(load) - result.part_v[load])) / filler.plan.nominal_v
            if best[2] is None or margin < best[2]:
                best = (filler.limit_frac[load], load, margin)
    return best


def _role(run: Run, source: str, finish: str, goes_on: bool) -> Role:
    if run.legs == "negative":
        return "return"
    if run.legs == "series":
        return "main"
    if source == "battery":
        return "main"
    if source == "load":
        return "onward"
    if finish == "fuse_block" or (finish != "load" and goes_on):
        return "feeder"
    return "branch"


def _guards(filler: _Filler, run: Run) -> tuple[GuardReport, GuardReport]:
    if run.id in filler.sized.topology.both_fed:
        found = filler.guards.of_run(run)
        return guard_report(filler.sized, found.start), guard_report(filler.sized, found.finish)
    case = filler.sized.cases[run.id]
    tags = [filler.sized.topology.runs[fuse_run(case.protector)].tag] if case.protector else []
    bare_m = case.fuse.distance_m if case.fuse is not None else 0.0 if tags else run.length_m
    fed, other = GuardReport(run.id not in filler.sized.topology.dead, tags, bare_m), GuardReport(False, [], 0.0)
    return (fed, other) if fed_by_start(filler.sized.topology, run) else (other, fed)


def _run(filler: _Filler, at: int, run: Run) -> RunReport:
    sized = filler.sized
    case, option, topology = sized.cases[run.id], sized.chosen[run.id], sized.topology
    conductor_c, surface_c = filler.heat.conductor_c[:, at].tolist(), filler.heat.surface_c[:, at].tolist()
    states = {
        state: _run_state(filler, run, result, conductor_c[k], surface_c[k])
        for k, (state, result) in enumerate(sized.states.items())
    }
    worst = RunState(
        current_a=max(one.current_a for one in states.values()),
        drop_v=max(one.drop_v for one in states.values()),
        drop_frac=max(one.drop_frac for one in states.values()),
        drop_to_end_v=max(one.drop_to_end_v for one in states.values()),
        drop_to_end_frac=max(one.drop_to_end_frac for one in states.values()),
        conductor_c=max(conductor_c),
        surface_c=max(surface_c),
    )
    start_guard, finish_guard = _guards(filler, run)
    connected_a = sized.demand.connected_a[run.id]
    limit_frac, limit_load, margin_frac = _tightest(filler, run)
    source = topology.part_at(case.fed_from).kind
    end_point = topology.finish_of.get(run.id, run.finish.part)
    finish = topology.part_at(end_point).kind
    amp_a = option.amp.ampacity_a * run.parallel if option.amp.ampacity_a is not None else None
    findings = filler.of_run(run.id, end_point)
    return RunReport(
        id=run.id,
        tag=run.tag,
        name=run.name,
        role=_role(run, source, finish, run.finish.part in filler.starts),
        start_label=filler.end_label(run.start),
        finish_label=filler.end_label(run.finish),
        finish_kind=finish,
        fed=run.id not in topology.dead,
        legs=run.legs,
        parallel=run.parallel,
        length_m=run.length_m,
        loop_length_m=leg_count(run) * run.length_m,
        length_as_typed=run.length_as_typed,
        ambient_c=case.around.ambient_c,
        engine_space=case.around.engine_space,
        bundle_count=case.around.bundle_count,
        design_current_a=case.design_current_a,
        design_state=sized.demand.design_state[run.id],
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
        fuse=_fuse(case.fuse) if case.fuse else None,
        far_fuse=_fuse(sized.fuses[far_key(run.id)]) if far_key(run.id) in sized.fuses else None,
        protected_by=topology.runs[fuse_run(case.protector)].tag if case.protector else None,
        temp_c=option.temp_c,
        resistance_ohm=option.total_ohm,
        worst=worst,
        states=states,
        limit_frac=limit_frac,
        limit_load=limit_load,
        margin_frac=margin_frac,
        ampacity_margin_frac=amp_a / case.design_current_a - 1
        if amp_a is not None and case.design_current_a > 0
        else None,
        connected_a=connected_a,
        diversity_frac=case.design_current_a / connected_a if connected_a > 0 else None,
        start_guard=start_guard,
        finish_guard=finish_guard,
        faults=[fault_report(sized, one) for one in filler.faults.of_run.get(run.id, ())],
        loads=list(topology.loads_behind.get(run.id, ())),
        verdict=_verdict(findings),
        finding_ids=[one.id for one in findings],
    )


def _load_state(filler: _Filler, load: Load, state_id: str) -> LoadState:
    result, sized = filler.sized.states[state_id], filler.sized
    on = load.id in result.load_a
    fed = load.id in sized.topology.feeder_of
    volts = result.part_v[load.id] if fed else 0.0
    drop_v = sized.home_v(load.id) - volts if on and fed and volts > 0 else 0.0
    min_v = sized.demand.loads[load.id].min_v
    return LoadState(
        on=on,
        served=fed and on and load.id not in result.unserved and volts >= min_v - 1e-9,
        current_a=result.load_a.get(load.id, 0.0) if fed else 0.0,
        voltage_v=volts,
        drop_v=drop_v,
        drop_frac=drop_v / filler.plan.nominal_v,
    )


def _load(filler: _Filler, load: Load) -> LoadReport:
    sized = filler.sized
    figures = sized.demand.loads[load.id]
    states = {state.id: _load_state(filler, load, state.id) for state in filler.plan.states}
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
        worst=max(states.values(), key=lambda one: (one.on, one.drop_v)),
        states=states,
        verdict=_verdict(filler.of(load.id)),
        finding_ids=[one.id for one in filler.of(load.id)],
    )


def _block(filler: _Filler, block: FuseBlock) -> BlockReport:
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


def _part(filler: _Filler, part: Part) -> PartReport:
    sized, guards = filler.sized, filler.guards
    feeder, guard = sized.topology.feeder_of.get(part.id), guards.nearest.get(part.id)
    rated_a = getattr(part, "rated_a", None) or getattr(part, "contact_a", None) or getattr(part, "total_limit_a", None)
    return PartReport(
        id=part.id,
        tag=part.tag,
        name=part.name,
        kind=part.kind,
        through_a=guards.through_a(part.id),
        connected_a=sized.demand.connected_a[feeder] if feeder is not None else 0.0,
        rated_a=rated_a,
        guarded_by=sized.topology.runs[fuse_run(guard)].tag if guard is not None else None,
        guard_a=guards.lasting_a(part.id),
        resistance_ohm=contact_ohm(part),
        verdict=_verdict(filler.of(part.id)),
        finding_ids=[one.id for one in filler.of(part.id)],
    )


def _worst_drop(loads: list[LoadReport], state_id: str | None) -> Extreme:
    shown = [(load, load.states[state_id] if state_id else load.worst) for load in loads]
    live = [(state.drop_frac, load) for load, state in shown if state.on and load.circuit]
    if not live:
        return Extreme(0.0, None, "")
    value, load = max(live, key=lambda one: one[0])
    return Extreme(value, load.id, load.tag)


def _summary(filler: _Filler, loads: list[LoadReport], runs: list[RunReport]) -> Summary:
    sized, plan = filler.sized, filler.plan
    battery_state = max(plan.states, key=lambda state: sized.states[state.id].source_a).id
    # A wire without an ampacity has no temperature that means anything.
    known = [run for run in runs if run.design_current_a > 0 and run.wire.ampacity_a is not None]
    hottest = max(known, key=lambda run: run.temp_c, default=None)
    open_ones = [one.severity for one in filler.findings if one.waived is None]
    copper_m3 = sum(option.copper_mm2_m for option in sized.chosen.values()) * 1e-6
    return Summary(
        battery_current_a=sized.states[battery_state].source_a,
        battery_state=battery_state,
        ah_per_day=sum((load.ah_per_day or 0.0 for load in loads), 0.0),
        load_current_a=sum((load.current_a or 0.0 for load in loads), 0.0),
        worst_drop_frac=_worst_drop(loads, None),
        hottest_wire_c=Extreme(hottest.temp_c, hottest.id, hottest.tag) if hottest else Extreme(0.0, None, ""),
        copper_kg=copper_m3 * COPPER_KG_PER_M3,
        open_stop=open_ones.count("stop"),
        open_fix=open_ones.count("fix"),
        open_look=open_ones.count("look"),
        waived=sum(1 for one in filler.findings if one.waived is not None),
        states=[
            StateSummary(
                state_id=state.id,
                name=state.name,
                battery_current_a=sized.states[state.id].source_a,
                worst_drop_frac=_worst_drop(loads, state.id),
                converged=sized.states[state.id].converged,
            )
            for state in plan.states
        ],
    )


def _working(filler: _Filler, load_parts: list[Load], runs: list[RunReport], summary: Summary) -> dict[str, Working]:
    """How every shown figure came about."""
    plan, sized, guards, faults = filler.plan, filler.sized, filler.guards, filler.faults
    book = WorkingBook(plan, filler.rules, sized)
    for part in load_parts:
        book.load(part)
    for other in plan.parts:
        if other.kind not in ("load", "battery", "panel"):
            write_part(book, other, guards)
    for at, (run, figures) in enumerate(zip(plan.runs, runs, strict=True)):
        book.run(run)
        write_heat(book, run, at, filler.heat)
        write_shorts(book, plan, run, faults)
        if figures.limit_load is not None and figures.limit_frac is not None and figures.margin_frac is not None:
            book.margin(run, figures.limit_load, figures.limit_frac, figures.margin_frac)
    write_power(book, plan, filler.bank)
    book.summary(summary.ah_per_day, summary.battery_current_a, summary.battery_state)
    return book.entries


def evaluate(plan: Plan, rules: Rules | None = None, *, with_working: bool = True) -> Report:
    """Everything there is to say about a plan.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold, from `parse_plan` or `check_plan`.
    rules : Rules, optional
        Rules in place of the plan's own, to compare practice sets.
    with_working : bool
        Write down how each figure came about; without it the report is as it is, but for that.

    Returns
    -------
    Report
        Figures, verdicts, findings and working of every subject.
    """
    rules = rules or plan_rules(plan)
    sized = size_plan(plan, rules)
    faults, guards = study_faults(plan, sized), Guards(plan, sized)
    raised = Raised(plan, rules, sized, faults)
    check_wire(raised)
    check_protection(raised, guards)
    check_faults(raised)
    check_distribution(raised, guards)
    check_keyed(raised)
    check_switching(raised, guards)
    check_returns(raised)
    bank = bank_figures(plan, sized)
    check_bank(raised, bank)
    check_charging(raised)
    check_routing(raised)
    check_delivery(raised)
    raised.check_waivers()
    findings = raised.worst_first()
    load_parts = [part for part in plan.parts if isinstance(part, Load)]
    limits = {part.id: drop_limit_frac(part, rules) for part in load_parts}
    filler = _Filler(plan, rules, sized, faults, guards, findings, limits, run_heat(plan, sized), bank)
    loads = [_load(filler, part) for part in load_parts]
    runs = [_run(filler, at, run) for at, run in enumerate(plan.runs)]
    summary = _summary(filler, loads, runs)
    working = _working(filler, load_parts, runs, summary) if with_working else {}
    return Report(
        format=REPORT_FORMAT,
        version=REPORT_VERSION,
        job=plan.job.name,
        nominal_v=plan.nominal_v,
        source_v=sized.source_v,
        practice_set=rules.set_name,
        practice_label=rules.set_label,
        rules=list(rules.origins.values()),
        summary=summary,
        loads=loads,
        runs=runs,
        blocks=[_block(filler, part) for part in plan.parts if isinstance(part, FuseBlock)],
        parts=[_part(filler, part) for part in plan.parts if part.kind != "load"],
        nodes=node_reports(plan, sized, faults),
        findings=findings,
        working=working,
        caution=CAUTION,
    )
