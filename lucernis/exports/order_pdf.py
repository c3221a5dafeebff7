"""The order of work on paper: phase by phase with a box for each step, then the first power-up with room to write."""

from __future__ import annotations

from collections.abc import Sequence

from reportlab.lib.units import mm
from reportlab.platypus import CondPageBreak, Flowable, Spacer

from lucernis.core.build.order import order_of_work
from lucernis.core.build.steps import PHASES, Step
from lucernis.core.report import Report
from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled
from lucernis.plan.model import Plan

_POWER_UP = ("Where", "What", "Mind and check", "Read", "Reading", "Done")


def _rows(steps: Sequence[Step]) -> list[list[str]]:
    rows = []
    for step in steps:
        hand = f"In the hand: {', '.join(step.have)}." if step.have else ""
        torque = f"{step.torque}." if step.torque else ""
        told = " ".join(word for word in (step.text + ".", *(f"{line}." for line in step.lines), hand) if word)
        rows.append([step.place, told, " ".join(word for word in (step.caution, step.check, torque) if word), ""])
    return rows


def order_pdf(plan: Plan, report: Report, stamp: Stamp, size: PaperSize) -> bytes:
    """The order of work as PDF.

    Parameters
    ----------
    plan : Plan
        The plan.
    report : Report
        Not needed; papers are all made alike.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        Steps in order, none before what it needs; boxes to tick, and to write readings in.
    """
    order = order_of_work(plan)
    story: list[Flowable] = []
    for key, name in PHASES:
        steps = [step for step in order.steps if step.phase == key]
        if steps:
            story += [CondPageBreak(45 * mm), para(name, "head")]
            story.append(
                ruled(
                    ("Where", "What", "Mind and check", "Done"),
                    _rows(steps),
                    (36, 130, 92, 10),
                    size,
                    wide=True,
                    boxes=(3,),
                )
            )
            story.append(Spacer(0, 3 * mm))
    story += [CondPageBreak(45 * mm), para("First power-up", "head")]
    rows = [
        [step.place, step.text, f"{step.caution} {step.check}".strip(), step.reading, "", ""] for step in order.power_up
    ]
    story.append(
        ruled(_POWER_UP, rows, (36, 88, 84, 36, 20, 10), size, wide=True, boxes=(4, 5))
    )  # fmt: skip
    return make_pdf(story, stamp, size, wide=True)
