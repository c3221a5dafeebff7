"""The fuse map: what goes under the lid of each fuse block, way by way, and the main fuses."""

from __future__ import annotations

from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, Spacer, Table, TableStyle

from lucernis.core.harness.harness import harness_of
from lucernis.core.harness.holders import Holder
from lucernis.core.report import Report, RunReport
from lucernis.exports.code_drawing import code_drawing
from lucernis.exports.paper import INK, SHADE, PaperSize, Stamp, make_pdf, para
from lucernis.plan.model import FuseBlock, Plan


def _feeds(plan: Plan, report: Report, run: RunReport) -> str:
    names = {part.id: part.name for part in plan.parts}
    behind = [names[load] for load in run.loads]
    if run.finish_kind == "fuse_block":
        return f"{run.finish_label} ({len(behind)} loads)"
    if behind:
        return ", ".join(behind)
    chargers = [part.name for part in plan.parts if part.kind == "charger"]
    ends = [run.start_label, run.finish_label]
    charger = next((one for one in ends if one in chargers), None)
    if charger is not None:
        return charger
    # What links banks and joins sides has no load behind it and is no spare.
    return "spare" if run.spare or run.finish_kind == "joint" else run.finish_label


def _table(rows: list[list[Any]], widths_mm: tuple[int, ...]) -> Table:
    table = Table(rows, colWidths=[width * mm for width in widths_mm], repeatRows=1, hAlign="LEFT")
    table.setStyle(
        TableStyle(
            [
                ("GRID", (0, 0), (-1, -1), 0.8, INK),
                ("BACKGROUND", (0, 0), (-1, 0), SHADE),
                ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
                ("TOPPADDING", (0, 0), (-1, -1), 3),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 4),
            ]
        )
    )
    return table


def fuse_map_pdf(plan: Plan, report: Report, stamp: Stamp, size: PaperSize, link: str = "") -> bytes:
    """The fuse map as PDF.

    Parameters
    ----------
    plan : Plan
        Gives blocks and ways.
    report : Report
        Gives the ratings.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.
    link : str
        Where the log of the vehicle opens, as a code for the lid; none where empty.

    Returns
    -------
    bytes
        Upright pages, one table a block.
    """
    code: list[Any] = [code_drawing(link), para("The log of this vehicle", "small"), Spacer(0, 3 * mm)] if link else []
    return make_pdf([*code, *fuse_map_story(plan, report)], stamp, size, wide=False)


def fuse_map_story(plan: Plan, report: Report) -> list[Any]:
    """The fuse map as pieces of a page: main and in-line fuses, then a table a block.

    Parameters
    ----------
    plan : Plan
        Gives blocks and ways.
    report : Report
        Gives the ratings.

    Returns
    -------
    list
        Pieces of the PDF library.
    """
    story: list[Any] = []
    runs = {run.id: run for run in report.runs}
    holders = harness_of(plan).holders.values()
    own = [one for one in holders if one.mounting != "way"]
    if own:
        rows: list[list[Any]] = [[para(text, bold=True) for text in ("Tag", "Fuse", "Kind", "Where", "Protects")]]
        for one in own:
            where = f"{one.where}{f' ({one.place})' if one.place else ''}"
            feeds = "the same run from its other end" if one.finish else _feeds(plan, report, runs[one.run])
            rows.append(
                [
                    para(one.tag, "mono"),
                    para(_amps(one), "head"),
                    para(f"{one.label}{', sealed' if one.sealed else ''}"),
                    para(where),
                    para(feeds),
                ]
            )
        story += [
            para("Main and in-line fuses", "head"),
            Spacer(0, 2 * mm),
            _table(rows, (18, 22, 38, 48, 58)),
            Spacer(0, 6 * mm),
        ]
    in_ways = {(one.part, one.way): one for one in holders if one.mounting == "way"}
    at_way = {
        (end.part, end.way): runs[run.id] for run in plan.runs for end in (run.start, run.finish) if end.way is not None
    }
    for part in plan.parts:
        if not isinstance(part, FuseBlock):
            continue
        taken = [way for block, way in at_way if block == part.id and way is not None]
        rows = [[para(text, bold=True) for text in ("Way", "Fuse", "Tag", "Feeds", "Wire")]]
        for way in range(1, max([part.ways, *taken]) + 1):
            fed, fuse = at_way.get((part.id, way)), in_ways.get((part.id, way))
            if fed is None:
                rows.append([para(str(way), "mono"), "", "", para("free", "small"), ""])
                continue
            rows.append(
                [
                    para(str(way), "mono"),
                    para(_amps(fuse) if fuse is not None else "no fuse", "head"),
                    para(fed.tag, "mono"),
                    para(_feeds(plan, report, fed)),
                    para(fed.wire.label, "mono"),
                ]
            )
        title = para(f"{part.tag}  {part.name}", "head")
        story.append(KeepTogether([title, Spacer(0, 2 * mm), _table(rows, (14, 22, 18, 104, 26)), Spacer(0, 6 * mm)]))
    story.append(para("Find out why a fuse blew before a new one goes in, and fit the same rating.", "body"))
    return story


def _amps(holder: Holder) -> str:
    return (f"{holder.count} × " if holder.count > 1 else "") + f"{holder.rating_a:g} A"
