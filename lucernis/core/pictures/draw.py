"""The one door to the pictures: a kind, a subject and a state in, a drawing out."""

from __future__ import annotations

from typing import Literal

from lucernis.core.build.landing import landings
from lucernis.core.circuit.switching import find_state
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.unjudged import without_judgement
from lucernis.core.faults.study import study_faults
from lucernis.core.layout.laid import layout_of
from lucernis.core.pictures.board import state_board
from lucernis.core.pictures.connections import connection_drawing
from lucernis.core.pictures.drawing import Drawing
from lucernis.core.pictures.fuse_window import fuse_window
from lucernis.core.pictures.pinch import pinch_chart
from lucernis.core.pictures.roof_off import roof_off
from lucernis.core.pictures.step_down import step_down_map
from lucernis.core.pictures.wiring import wiring_sheet
from lucernis.core.report import Report
from lucernis.core.sizing.sized import sized_plan
from lucernis.errors import UnknownRow
from lucernis.plan.model import Load, Plan

PictureKind = Literal["map", "board", "fuse-window", "pinch", "layout", "wiring", "connections"]


def _report(plan: Plan, *, judged: bool) -> Report:
    report = evaluate(plan, with_working=False)
    return report if judged else without_judgement(report)


def draw(
    plan: Plan, kind: PictureKind, subject: str | None = None, state_id: str | None = None, *, judged: bool = True
) -> Drawing:
    """Draw one picture.

    Parameters
    ----------
    plan : Plan
        The plan.
    kind : str
        ``map``, ``board``, ``fuse-window`` (subject: a run), ``pinch`` (subject: a load), ``layout`` (subject: a run
        whose way is shown, or none), ``wiring`` (subject: a sheet, the first otherwise) or ``connections`` (subject: a
        part).
    subject : str, optional
        What it is of.
    state_id : str, optional
        A state in place of the worst of all.
    judged : bool
        Whether it shows what the checks find.

    Returns
    -------
    Drawing
        With its table.

    Raises
    ------
    UnknownRow
        If there is no such run, load, part, sheet or state.
    """
    state = find_state(plan, state_id)
    if kind in ("map", "board"):
        report = _report(plan, judged=judged)
        return step_down_map(plan, report, state_id) if kind == "map" else state_board(plan, report)
    if kind == "wiring":
        return wiring_sheet(plan, subject, state)
    if kind == "connections":
        landed = next((one for one in landings(plan) if one.part == subject), None)
        if landed is None:
            raise UnknownRow(f"no part {subject!r}", field="subject", value=subject, allowed="the id of a part")
        return connection_drawing(landed)
    layout = layout_of(plan)
    plan = layout.plan
    if kind == "layout":
        if subject is not None and not any(run.id == subject for run in plan.runs):
            raise UnknownRow(f"no run {subject!r}", field="subject", value=subject, allowed="the id of a run")
        return roof_off(plan, _report(plan, judged=judged), layout, subject)
    sized = sized_plan(plan)
    if kind == "fuse-window":
        for run in plan.runs:
            if run.id == subject:
                return fuse_window(plan, sized, study_faults(plan, sized, state), run)
        raise UnknownRow(f"no run {subject!r}", field="subject", value=subject, allowed="the id of a run")
    for part in plan.parts:
        if part.id == subject and isinstance(part, Load):
            return pinch_chart(plan, sized, part, state)
    raise UnknownRow(f"no load {subject!r}", field="subject", value=subject, allowed="the id of a load")
