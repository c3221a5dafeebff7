"""A whole system from loads and wishes: every step with its reason, to be taken whole, in part, or not at all."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.preview import Preview, preview
from lucernis.core.proposals.steps import STEPS
from lucernis.core.proposals.wishes import Wishes
from lucernis.errors import LucernisError, UnknownRow
from lucernis.plan.changes import describe_changes
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Load, Plan

NOTHING_TO_DO = "Nothing to do: the plan has it already, or it is not wished."


@dataclass(slots=True)
class ProposedStep:
    """One step: what it is for, whether it changes the plan, why so, and what it changes. `outcome` is ``done``,
    ``nothing`` to do, ``cannot`` be done here, or ``left`` out."""

    id: str
    title: str
    changes_plan: bool
    outcome: Literal["done", "nothing", "cannot", "left"]
    reason: str
    changes: list[str]


@dataclass(slots=True)
class Proposal:
    """A proposal and what it would make of the plan. `problem` says why there is none."""

    problem: str
    steps: list[ProposedStep]
    preview: Preview | None


def _guessed(plan: Plan, now: Plan) -> Plan:
    """The plan with the lengths nobody measured noted as guessed: of new runs and of those moved. What the wishes name
    from starter battery and roof counts as measured."""
    before = {run.id: run for run in plan.runs}
    named = {
        part.id for part in now.parts if part.kind == "panel" or (part.kind == "battery" and part.use == "starter")
    }
    doc = plan_document(now)
    for run in doc["runs"]:
        old = before.get(run["id"])
        if named & {run["start"]["part"], run["finish"]["part"]}:
            continue
        if old is None or abs(old.length_m - run["length_m"]) > 1e-9:
            run["length_guessed"], run["length_as_typed"] = True, None
    return parse_plan(doc)


def propose(plan: Plan, wishes: Wishes, steps: Collection[str] | None = None) -> tuple[Plan, Proposal]:
    """Propose a system.

    Parameters
    ----------
    plan : Plan
        Gives loads, vehicle, places, lengths.
    wishes : Wishes
        What is wished.
    steps : collection of str, optional
        Which steps to take; all of them otherwise. Later ones see what earlier ones did, or did not do.

    Returns
    -------
    tuple of Plan and Proposal
        The plan with the steps taken, and the account of it. Nothing is stored.

    Raises
    ------
    UnknownRow
        If a step is not known.
    """
    unknown = sorted(set(steps or ()) - STEPS.keys())
    if unknown:
        raise UnknownRow(f"no step {unknown[0]!r}", field="steps", value=unknown[0], allowed=", ".join(STEPS))
    if not any(isinstance(part, Load) and (part.power_w or part.current_a) for part in plan.parts):
        return plan, Proposal("The load list is empty: enter what draws power first.", [], None)
    now, told = plan, []
    for name, (title, make) in STEPS.items():
        if steps is not None and name not in steps:
            told.append(ProposedStep(name, title, False, "left", "Left out.", []))
            continue
        try:
            # What nobody measured has to be known before it can follow the channels.
            outcome = make(_guessed(plan, now) if name == "ways" else now, wishes)
        except LucernisError as error:
            # One step that cannot be done on this plan must not take the others with it.
            told.append(ProposedStep(name, title, False, "cannot", f"Cannot be done here: {error}.", []))
            continue
        if outcome is None or outcome[0] == now:
            told.append(ProposedStep(name, title, False, "nothing", outcome[1] if outcome else NOTHING_TO_DO, []))
            continue
        after, reason = outcome
        changes = describe_changes(plan_document(now), plan_document(after))
        told.append(ProposedStep(name, title, True, "done", reason, changes))
        now = after
    now = _guessed(plan, now)
    lines = describe_changes(plan_document(plan), plan_document(now))
    before, then = evaluate(plan, with_working=False), evaluate(now, with_working=False)
    return now, Proposal("", told, preview(before, then, lines))
