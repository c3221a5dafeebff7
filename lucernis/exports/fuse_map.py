"""The fuse map: what goes under the lid of each fuse block, way by way, and the main fuses."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, Spacer, Table, TableStyle

from lucernis.core.harness.harness import Harness, harness_of
from lucernis.core.harness.holders import Holder
from lucernis.core.report import Report, RunReport
from lucernis.exports.code_drawing import code_drawing
from lucernis.exports.paper import INK, SHADE, PaperSize, Stamp, make_pdf, para
from lucernis.plan.model import FuseBlock, Plan


def _feeds(harness: Harness, run: RunReport) -> str:
    """What a fuse is for, from the end that feeds its run."""
    plan = harness.plan
    parts = {part.id: part for part in plan.parts}
    fed = next(one for one in plan.runs if one.id == run.id)
    start, finish = parts[fed.start.part], parts[fed.finish.part]
    behind = [parts[load].name for load in run.loads]
    if finish.kind == "fuse_block":
        return f"{finish.name} ({len(behind)} loads)"
    if behind:
        return ", ".join(behind)
    charger = next((one.name for one in (start, finish) if one.kind == "charger"), None)
    if charger is not None:
        return charger
    # What links banks and joins sides has no load behind it and is no spare.
    return "spare" if run.spare or finish.kind == "joint" else finish.name


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
    own = main_rows(plan, report)
    if own:
        rows = [[para(text, bold=True) for text in ("Tag", "Fuse", "Kind", "Where", "Protects")]]
        rows += [
            [para(one.tag, "mono"), para(one.amps, "head"), para(one.kind), para(one.where), para(one.feeds)]
            for one in own
        ]
        story += [
            para("Main and in-line fuses", "head"),
            Spacer(0, 2 * mm),
            _table(rows, (18, 22, 38, 48, 58)),
            Spacer(0, 6 * mm),
        ]
    for part in plan.parts:
        if not isinstance(part, FuseBlock):
            continue
        rows = [[para(text, bold=True) for text in ("Way", "Fuse", "Tag", "Feeds", "Wire")]]
        for one in way_rows(plan, report, part):
            rows.append(
                [
                    para(str(one.way), "mono"), para(one.amps, "head") if one.tag else "", para(one.tag, "mono"),
                    para(one.feeds, "body" if one.tag else "small"), para(one.wire, "mono"),
                ]
            )  # fmt: skip
        title = para(f"{part.tag}  {part.name}", "head")
        story.append(KeepTogether([title, Spacer(0, 2 * mm), _table(rows, (14, 22, 18, 104, 26)), Spacer(0, 6 * mm)]))
    story.append(para("Find out why a fuse blew before a new one goes in, and fit the same rating.", "body"))
    return story


@dataclass(frozen=True, slots=True)
class FuseRow:
    """A line of the map: a fuse by itself, or a way of a block, with what it feeds."""

    tag: str
    amps: str
    kind: str
    where: str
    feeds: str
    way: int | None = None
    wire: str = ""


def _amps(holder: Holder) -> str:
    return (f"{holder.count} × " if holder.count > 1 else "") + f"{holder.rating_a:g} A"


def main_rows(plan: Plan, report: Report) -> list[FuseRow]:
    """Fuses that stand in no way, with the end they stand at."""
    runs, harness = {run.id: run for run in report.runs}, harness_of(plan)
    found = []
    for one in harness.holders.values():
        if one.mounting == "way":
            continue
        where = f"{one.where}{f' ({one.place})' if one.place else ''}"
        feeds = "the same run from its other end" if one.finish else _feeds(harness, runs[one.run])
        found.append(FuseRow(one.tag, _amps(one), f"{one.label}{', sealed' if one.sealed else ''}", where, feeds))
    return found


def way_rows(plan: Plan, report: Report, block: FuseBlock) -> list[FuseRow]:
    """Every way of a block, free ones too."""
    runs, harness = {run.id: run for run in report.runs}, harness_of(plan)
    in_ways = {one.way: one for one in harness.holders.values() if one.mounting == "way" and one.part == block.id}
    fed = {
        end.way: runs[run.id]
        for run in plan.runs
        for end in (run.start, run.finish)
        if end.part == block.id and end.way is not None
    }
    found = []
    for way in range(1, max([block.ways, *fed]) + 1):
        run, fuse = fed.get(way), in_ways.get(way)
        if run is None:
            found.append(FuseRow("", "", "", "", "free", way))
            continue
        amps, kind = (_amps(fuse), fuse.label) if fuse is not None else ("no fuse", "")
        where = fuse.where if fuse is not None else ""
        found.append(FuseRow(run.tag, amps, kind, where, _feeds(harness, run), way, run.wire.label))
    return found
