"""A plan sized, its shorts studied and every check run: what a report is filled from."""

from __future__ import annotations

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
from lucernis.core.checks.wire import check_wire
from lucernis.core.faults.guards import Guards
from lucernis.core.faults.study import FaultStudy, study_faults
from lucernis.core.layout.laid import laid_out
from lucernis.core.power.bank import BankFigures, bank_figures
from lucernis.core.report import Finding, Severity
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from lucernis.practice.rules import Rules


@dataclass(frozen=True, slots=True)
class Judged:
    """A plan along its channels, its sizes and shorts, and what the checks say: `findings` with what follows folded
    under its cause, `severities` of each by itself."""

    plan: Plan
    rules: Rules
    sized: Sized
    faults: FaultStudy
    guards: Guards
    bank: BankFigures | None
    findings: list[Finding]
    severities: dict[str, Severity]


def judge(plan: Plan, rules: Rules | None = None) -> Judged:
    """Size a plan and run every check.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    rules : Rules, optional
        Rules in place of the plan's own.

    Returns
    -------
    Judged
        The same every time.
    """
    plan = laid_out(plan, rules)
    sized = sized_plan(plan) if rules is None else size_plan(plan, rules)
    rules = rules or plan_rules(plan)
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
    check_ends(raised)
    check_layout(raised)
    check_places(raised)
    check_loops(raised)
    check_delivery(raised)
    raised.check_waivers()
    flat = list(raised.findings)
    severities = {one.id: one.severity for one in flat}
    return Judged(plan, rules, sized, faults, guards, bank, fold(raised, flat), severities)
