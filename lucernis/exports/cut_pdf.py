"""The cut list on paper, in the order it is worked: one size and colour after the other, longest first."""

from __future__ import annotations

from reportlab.lib.units import mm
from reportlab.platypus import CondPageBreak, Flowable, Spacer

from lucernis.core.build.cut_list import cut_list
from lucernis.core.harness.harness import harness_of
from lucernis.core.harness.pieces import CutPiece, PieceEnd
from lucernis.core.report import Report
from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled
from lucernis.plan.model import Plan
from lucernis.plan.units import told_cut


def _end(end: PieceEnd) -> str:
    where = ", ".join(word for word in (end.part, end.at, end.place) if word)
    strip = f"strip {end.strip_mm:g} mm" if end.strip_mm else "not stripped"
    tube = f", tube {end.shrink_before_mm:g} × {end.shrink_length_mm:g} mm" if end.shrink_before_mm is not None else ""
    pull = f", holds {end.pull_n:g} N" if end.pull_n is not None else ""
    return f"{end.fits} · {where} · {strip}{tube}{pull}"


def cut_list_pdf(plan: Plan, report: Report, stamp: Stamp, size: PaperSize) -> bytes:
    """The cut list as PDF.

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
        A table for each size and colour with a box for each piece, then what goes on the ends.
    """
    found = cut_list(plan)
    story: list[Flowable] = []
    if found.guessed:
        story.append(para(f"Not measured yet, not to be cut: {', '.join(found.guessed)}.", bold=True))
    for wire in found.wires:
        own = [one for one in found.pieces if (one.size, one.colour) == (wire.size, wire.colour)]
        own.sort(key=lambda one: -one.cut_m)
        story.append(
            para(f"{wire.size} {wire.colour}: {wire.pieces} pieces, {told_cut(wire.total_m, plan.units)}", "head")
        )
        rows = [[_tag(one), _cut(plan, one), _end(one.start), _end(one.finish), ""] for one in own]
        story.append(
            ruled(
                ("Piece", "Cut off", "End A", "End B", "Cut"), rows, (28, 22, 104, 104, 10), size, wide=True, boxes=(4,)
            )
        )
        story.append(Spacer(0, 3 * mm))
    story += [CondPageBreak(45 * mm), para("On the ends", "head")]
    counts = [[one.what, f"{one.count:g}" if one.count else f"{one.length_mm / 1000:.2f} m"] for one in found.ends]
    story.append(ruled(("What", "How many"), counts, (160, 40), size, wide=True))
    leads = harness_of(plan).leads
    if leads:
        story += [CondPageBreak(45 * mm), para("Leads, measured where they lie", "head")]
        told = [[one.what, one.size, one.fro, one.to, one.place, f"{one.count}"] for one in leads]
        heads = ("What", "Size", "From", "To", "Place", "How many")
        story.append(ruled(heads, told, (92, 42, 46, 46, 30, 12), size, wide=True))
    story.append(
        para("Cut off: the way, both ends stripped, and one crimp more at each. Pull: what a crimp stands for a minute "
             "(ABYC E-11, from memory). The barrel and stud in the hand win.", "small")
    )  # fmt: skip
    return make_pdf(story, stamp, size, wide=True)


def _tag(one: CutPiece) -> str:
    return f"{one.tag} {one.leg}{f' {one.which}' if one.which else ''}"


def _cut(plan: Plan, one: CutPiece) -> str:
    told = told_cut(one.cut_m, plan.units)
    return f"~{told}, measure" if one.guessed else told
