"""`evaluate(plan) -> Report`: the one door to the core. Same plan, same report, byte for byte."""

from __future__ import annotations

from lucernis.core.evaluation.distribution_report import node_reports, run_heat
from lucernis.core.evaluation.filling import Filler, block_report, load_report, part_report, run_report
from lucernis.core.evaluation.judged import Judged, judge_systems
from lucernis.core.evaluation.layout_report import channel_reports
from lucernis.core.evaluation.listed import as_listed
from lucernis.core.evaluation.merged import merged
from lucernis.core.evaluation.why import WhyBook
from lucernis.core.evaluation.working import WorkingBook
from lucernis.core.evaluation.working_faults import write_heat, write_part, write_shorts
from lucernis.core.evaluation.working_layout import write_channel, write_way
from lucernis.core.evaluation.working_loads import write_load
from lucernis.core.evaluation.working_power import write_power
from lucernis.core.report import (
    CAUTION,
    ChannelReport,
    Extreme,
    LoadReport,
    Report,
    RunReport,
    SizeInUse,
    StateSummary,
    Summary,
    Working,
)
from lucernis.core.sizing.choice import drop_limit_frac
from lucernis.core.wire.copper import COPPER_KG_PER_M3
from lucernis.plan.model import FuseBlock, Load, Plan
from lucernis.practice.rules import Rules

REPORT_FORMAT = "lucernis-report"
REPORT_VERSION = 1


def _worst_drop(loads: list[LoadReport], state_id: str | None) -> Extreme:
    shown = [(load, load.states[state_id] if state_id else load.worst) for load in loads]
    live = [(state.conductor_drop_frac, load) for load, state in shown if state.on and load.circuit]
    if not live:
        return Extreme(0.0, None, "")
    value, load = max(live, key=lambda one: one[0])
    return Extreme(value, load.id, load.tag)


def _sizes(runs: list[RunReport]) -> list[SizeInUse]:
    """Sizes in use, thinnest first."""
    found: dict[str, SizeInUse] = {}
    for run in sorted(runs, key=lambda one: one.wire.area_mm2):
        one = found.setdefault(run.wire.label, SizeInUse(run.wire.label, run.wire.area_mm2, 0.0, 0))
        one.conductor_m += run.loop_length_m * run.parallel
        one.runs += 1
    return list(found.values())


def _summary(filler: Filler, loads: list[LoadReport], runs: list[RunReport]) -> Summary:
    sized, plan = filler.sized, filler.plan
    battery_state = max(plan.states, key=lambda state: sized.rated[state.id].source_a).id
    # A wire without an ampacity has no temperature that means anything.
    known = [run for run in runs if run.design_current_a > 0 and run.wire.ampacity_a is not None]
    hottest = max(known, key=lambda run: run.temp_c, default=None)
    open_ones = [one.severity for one in filler.findings if one.waived is None]
    copper_m3 = sum(option.copper_mm2_m for option in sized.chosen.values()) * 1e-6
    return Summary(
        battery_current_a=sized.rated[battery_state].source_a,
        battery_state=battery_state,
        ah_per_day=sum((load.ah_per_day or 0.0 for load in loads), 0.0),
        load_current_a=sum((load.current_a or 0.0 for load in loads), 0.0),
        worst_drop_frac=_worst_drop(loads, None),
        hottest_wire_c=Extreme(hottest.temp_c, hottest.id, hottest.tag) if hottest else Extreme(0.0, None, ""),
        copper_kg=copper_m3 * COPPER_KG_PER_M3,
        sizes=_sizes(runs),
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


def _working(
    filler: Filler, load_parts: list[Load], runs: list[RunReport], channels: list[ChannelReport], summary: Summary
) -> dict[str, Working]:
    """How every shown figure came about."""
    plan, sized, guards, faults = filler.plan, filler.sized, filler.guards, filler.faults
    book = WorkingBook(plan, filler.rules, sized)
    for part in load_parts:
        write_load(book, part)
    for other in plan.parts:
        if other.kind not in ("load", "battery", "panel"):
            write_part(book, other, guards)
    for at, (run, figures) in enumerate(zip(plan.runs, runs, strict=True)):
        book.run(run)
        write_way(book, run)
        write_heat(book, run, at, filler.heat)
        write_shorts(book, plan, run, faults)
        if figures.limit_load is not None and figures.limit_frac is not None and figures.margin_frac is not None:
            book.margin(run, figures.limit_load, figures.limit_frac, figures.margin_frac)
    for channel in channels:
        write_channel(book, plan, channel)
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
    judged = judge_systems(plan, rules)
    reports = [_fill(one, with_working=with_working) for one in judged]
    return as_listed(reports[0] if len(reports) == 1 else merged(reports), plan)


def _fill(judged: Judged, *, with_working: bool) -> Report:
    """The report of one system."""
    plan, rules, sized, faults = judged.plan, judged.rules, judged.sized, judged.faults
    guards, bank, findings = judged.guards, judged.bank, judged.findings
    load_parts = [part for part in plan.parts if isinstance(part, Load)]
    limits = {part.id: drop_limit_frac(part, rules) for part in load_parts}
    heat, whys = run_heat(plan, sized), WhyBook(plan, rules, sized)
    filler = Filler(plan, rules, sized, faults, guards, findings, judged.severities, limits, heat, bank, whys)
    loads = [load_report(filler, part) for part in load_parts]
    runs = [run_report(filler, at, run) for at, run in enumerate(plan.runs)]
    channels = channel_reports(filler)
    summary = _summary(filler, loads, runs)
    working = _working(filler, load_parts, runs, channels, summary) if with_working else {}
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
        blocks=[block_report(filler, part) for part in plan.parts if isinstance(part, FuseBlock)],
        parts=[part_report(filler, part) for part in plan.parts if part.kind != "load"],
        nodes=node_reports(plan, sized, faults),
        channels=channels,
        findings=findings,
        working=working,
        caution=CAUTION,
    )
