"""The run sheet: every run with what one needs in hand to wire it, and what the checks still say."""

from __future__ import annotations

from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import Spacer

from lucernis.core.harness.harness import Harness, harness_of
from lucernis.core.report import Finding, Report, RunReport
from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled
from lucernis.plan.model import Plan
from lucernis.plan.units import length_text
from lucernis.practice.labels import QUANTITIES

HEADS = (
    QUANTITIES["tag"],
    QUANTITIES["name"],
    QUANTITIES["from"],
    QUANTITIES["to"],
    f"{QUANTITIES['length_m']} / loop",
    QUANTITIES["design_current_a"],
    QUANTITIES["wire"],
    QUANTITIES["ampacity_a"],
    QUANTITIES["fuse"],
    QUANTITIES["conductor_drop_to_end_frac"],
    QUANTITIES["limit_frac"],
    "Done",
)
_WIDTHS_MM = (15, 38, 36, 33, 29, 14, 21, 15, 31, 24, 12, 10)


def fuse_text(run: RunReport, harness: Harness) -> str:
    """Every fuse of a run with the end it stands at and how far off."""
    if run.spare:
        return f"spare, none yet; {run.later_fuse_a:g} A at most later" if run.later_fuse_a else "spare, none yet"
    if run.fuse is None and run.far_fuse is None:
        return f"by {run.protected_by}" if run.protected_by else "none"
    own = harness.on_run(run.id)
    said = [f"{one.what}{', pinned' if one.pinned else ''}, {one.where}" for one in own]
    said += ["none made" for one in (run.fuse, run.far_fuse) if one is not None and one.rating_a is None]
    return "; ".join(said)


def _wire_text(run: RunReport) -> str:
    count = f"{run.parallel} × " if run.parallel > 1 else ""
    return count + run.wire.label + (", pinned" if run.wire.pinned else "")


def _row(plan: Plan, harness: Harness, run: RunReport) -> list[Any]:
    length = f"{length_text(run.length_m, plan.units)} / {length_text(run.loop_length_m, plan.units)}"
    if run.length_guessed:
        length = f"~{length} measure"
    if run.way is not None and run.way.through:
        holes = {0: "", 1: "; 1 hole"}.get(run.way.holes, f"; {run.way.holes} holes")
        length += f", by {run.way.through}{holes}"
    carries = f"{run.wire.ampacity_a:.0f} A" if run.wire.ampacity_a is not None else "no figure"
    mark = {"stop": " (stop)", "fix": " (fix)"}.get(run.verdict, "")
    worst = run.worst
    drop = f"{100 * worst.conductor_drop_to_end_frac:.1f} %, in all {100 * worst.drop_to_end_frac:.1f} %"
    # From the end that feeds it, however it was typed.
    ends = (run.start_label, run.finish_label)
    start, finish = ends[::-1] if run.id in harness.turned else ends
    return [
        para(
            run.tag + mark + {"positive": " +", "negative": " −", "both": "", "series": " in series"}[run.legs], "mono"
        ),
        para(run.name or finish),
        para(start),
        para(finish),
        para(length),
        para(f"{run.design_current_a:.1f}", "mono"),
        para(_wire_text(run), "mono"),
        para(carries),
        para(fuse_text(run, harness)),
        para("" if run.spare else drop),
        para(f"{100 * run.limit_frac:g} %" if run.limit_frac is not None else ""),
        "",
    ]


def _finding_lines(title: str, findings: list[Finding]) -> list[Any]:
    if not findings:
        return []
    story: list[Any] = [Spacer(0, 4 * mm), para(title, "head")]
    for one in findings:
        tag = f"{one.tag}: " if one.tag else ""
        story.append(para(f"{one.severity.upper()}  {tag}{one.what}. {one.why} {one.mend}"))
        for other in one.consequences:
            story.append(para(f"follows: {other.tag} {other.what}", "small"))
        if one.waived is not None:
            story.append(para(f"waived: {one.waived}", "small"))
    return story


def _counts_all(report: Report) -> bool:
    return any(rule.rule == "drop_counts" and rule.shown.startswith("conductors, joints") for rule in report.rules)


def run_sheet_pdf(plan: Plan, report: Report, stamp: Stamp, size: PaperSize) -> bytes:
    """The run sheet as PDF.

    Parameters
    ----------
    plan : Plan
        Gives units and wire colours.
    report : Report
        Gives the figures.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        Landscape pages; open findings and waived ones follow the table.
    """
    harness = harness_of(plan)
    rows = [_row(plan, harness, run) for run in report.runs]
    table = ruled(HEADS, rows, _WIDTHS_MM, size, wide=True, boxes=(len(HEADS) - 1,))
    colours = plan.wire_colours
    intro = (
        f"{plan.nominal_v} V. Positive {colours.positive}, negative {colours.negative}, both of the size shown; "
        "+ or − after a tag: that leg alone. Drop is "
        "from the battery there and back, worst of all states, first in the conductors, then with joints, fuses and "
        f"contacts, of {plan.nominal_v} V; the limit counts "
        + ("everything. " if _counts_all(report) else "the conductors. ")
        + f"Copper {report.summary.copper_kg:.1f} kg."
    )
    story: list[Any] = [para(intro), Spacer(0, 2 * mm)]
    story.append(table if report.runs else para("No runs yet."))
    grave = [one for one in report.findings if one.severity != "look"]
    story += _finding_lines("Open findings", [one for one in grave if one.waived is None])
    story += _finding_lines("Waived, with the reason", [one for one in report.findings if one.waived is not None])
    return make_pdf(story, stamp, size, wide=True)
