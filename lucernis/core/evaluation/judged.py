"""A plan sized, its shorts studied and every check run: what a report is filled from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lucernis.core.checks.bank import check_bank
from lucernis.core.checks.causes import fold
from lucernis.core.checks.charging import check_charging
from lucernis.core.checks.delivery import check_delivery
from lucernis.core.checks.distribution import check_distribution, check_keyed
from lucernis.core.checks.ends import check_ends
from lucernis.core.checks.faults import check_faults
from lucernis.core.checks.layout import check_layout
from lucernis.core.checks.loops import check_loops
from lucernis.core.checks.places import check_places
from lucernis.core.checks.protection import check_protection
from lucernis.core.checks.raising import Raised
from lucernis.core.checks.returns import check_returns
from lucernis.core.checks.routing import check_routing
from lucernis.core.checks.switching import check_switching
from lucernis.core.checks.taps import check_taps
from lucernis.core.checks.wire import check_wire
from lucernis.core.circuit.in_order import in_order
from lucernis.core.faults.guards import Guards
from lucernis.core.faults.study import FaultStudy, study_faults
from lucernis.core.layout.laid import laid_out
from lucernis.core.power.bank import BankFigures, bank_figures
from lucernis.core.report import SEVERITY_ORDER, Finding, Severity
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.sized import sized_systems, systems_by
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from lucernis.practice.rules import Rules


@dataclass(frozen=True, slots=True)
class Judged:
    """A system along its channels and in order, its sizes and shorts, and what the checks say: `findings` with what
    follows folded under its cause, `severities` of each by itself."""

    plan: Plan
    rules: Rules
    sized: Sized
    faults: FaultStudy
    guards: Guards
    bank: BankFigures | None
    findings: list[Finding]
    severities: dict[str, Severity]


def judge_systems(plan: Plan, rules: Rules | None = None) -> list[Judged]:
    """Size a plan and run every check, each system that nothing joins to another by itself.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    rules : Rules, optional
        Rules in place of the plan's own.

    Returns
    -------
    list of Judged
        The one with most battery first; the same every time.
    """
    # Whatever is found first, or said of the first of several, does not hang on how the lists stand.
    plan = laid_out(in_order(plan), rules)
    some = sized_systems(plan) if rules is None else systems_by(plan, rules)
    return [_judge(one, rules or plan_rules(plan), sized) for one, sized in some]


def findings_of(plan: Plan, rules: Rules | None = None) -> list[Finding]:
    """What the checks say of a plan, what follows folded under its cause, gravest first.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    rules : Rules, optional
        Rules in place of the plan's own.
    """
    return together([one.findings for one in judge_systems(plan, rules)])


def together(some: Sequence[list[Finding]]) -> list[Finding]:
    """Findings of several systems in one list, gravest first. What is said of the plan as a whole is said once."""
    if len(some) == 1:
        return some[0]
    found: dict[str, Finding] = {}
    for one in (one for findings in some for one in findings):
        first = found.setdefault(one.id, one)
        if first is not one:
            if one.what not in first.what:
                first.what = f"{first.what}. {one.what}"
            first.fixes += [fix for fix in one.fixes if fix not in first.fixes]
            first.consequences += one.consequences
            first.severity = min(first.severity, one.severity, key=lambda said: SEVERITY_ORDER[said])
    idle = [one.id for findings in some for one in findings if one.code == "waiver-idle"]
    rest = [one for one in found.values() if one.code != "waiver-idle" or idle.count(one.id) == len(some)]
    return sorted(rest, key=lambda one: (one.waived is not None, SEVERITY_ORDER[one.severity]))


def _judge(plan: Plan, rules: Rules, sized: Sized) -> Judged:
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
    check_taps(raised)
    check_charging(raised)
    check_routing(raised)
    check_ends(raised)
    check_layout(raised)
    check_places(raised)
    check_loops(raised)
    check_delivery(raised)
    raised.check_waivers()
    flat = list(raised.findings)
    severities = {one.id: one.severity for one in flat}
    return Judged(plan, rules, sized, faults, guards, bank, fold(raised, flat), severities)
