"""Why each run has its size, what the next ones would bring and what it still stands, on paper."""

from __future__ import annotations

from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import Spacer, Table, TableStyle

from lucernis.core.report import Report, Reserve, RunReport
from lucernis.exports.paper import MARGIN_MM, PAGE_MM, RULE, SHADE, PaperSize, Stamp, make_pdf, para
from lucernis.plan.model import Plan
from lucernis.plan.units import length_text
from lucernis.practice.labels import DECIDED, QUANTITIES, RESERVE_BY

HEADS = tuple(QUANTITIES[name] for name in ("tag", "from", "to", "wire", "decided", "thinner", "thicker", "reserve"))
_WIDTHS_MM = (16, 34, 38, 20, 28, 62, 62, 40)


def reserve_text(plan: Plan, reserve: Reserve) -> str:
    """What a run stands besides, in words."""
    said = []
    if reserve.length_m is not None:
        said.append(f"{length_text(reserve.length_m, plan.units)} longer")
    if reserve.current_a is not None:
        said.append(f"{reserve.current_a:.1f} A more {RESERVE_BY[reserve.current_by]}")
    if reserve.ambient_k is not None:
        said.append(f"{reserve.ambient_k:.0f} K warmer")
    return "; ".join(said)


def _row(plan: Plan, run: RunReport) -> list[Any]:
    return [
        para(run.tag, "mono"),
        para(run.start_label),
        para(run.finish_label),
        para(run.wire.label, "mono"),
        para(DECIDED[run.why.decided]),
        para(run.why.thinner),
        para(run.why.thicker),
        para(reserve_text(plan, run.reserve)),
    ]


def reasons_pdf(plan: Plan, report: Report, stamp: Stamp, size: PaperSize) -> bytes:
    """Why each run has its size, as PDF.

    Parameters
    ----------
    plan : Plan
        Gives the units.
    report : Report
        Gives the reasons.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        Landscape pages.
    """
    rows: list[list[Any]] = [[para(text, bold=True) for text in HEADS]]
    rows += [_row(plan, run) for run in report.runs if run.fed]
    room_mm = PAGE_MM[size][1] - 2 * MARGIN_MM
    table = Table(
        rows, colWidths=[width * room_mm / sum(_WIDTHS_MM) * mm for width in _WIDTHS_MM], repeatRows=1, hAlign="LEFT"
    )
    table.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
                ("BACKGROUND", (0, 0), (-1, 0), SHADE),
            ]
        )
    )
    intro = "Reserve is what a run stands besides, each limit by itself, while all else stays as it is."
    return make_pdf(
        [para(intro), Spacer(0, 2 * mm), table if len(rows) > 1 else para("No runs yet.")], stamp, size, wide=True
    )
