"""Runs and loads as CSV. Cells that a spreadsheet would take for a formula are made plain text."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable

from lucernis.core.prove.board import cell_text, reading_board
from lucernis.core.report import FuseReport, Report, RunReport
from lucernis.plan.model import Load, Plan

# At the start of a cell, or after what another spreadsheet takes for the end of one.
_STARTS = re.compile(r"(^|[,;|\t\r\n])([\s\"']*)(?=[=+\-@\t\r])")


def safe_cell(value: object) -> object:
    """A text that starts like a formula gets an apostrophe, and so does what comes after a separator in it: a program
    that cuts at semicolons or tabs sees a cell there. Numbers stay numbers."""
    if isinstance(value, str):
        return _STARTS.sub(lambda found: f"{found[1]}'{found[2]}", value)
    return "" if value is None else value


def written(rows: Iterable[Iterable[object]]) -> bytes:
    """Rows as CSV: UTF-8 with a byte-order mark, CRLF, no cell a formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in rows:
        writer.writerow([safe_cell(cell) for cell in row])
    # The mark tells spreadsheets that the file is UTF-8.
    return out.getvalue().encode("utf-8-sig")


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _fuse_at(run: RunReport, fuse: FuseReport | None) -> str:
    """The end a fuse stands at, by name."""
    if fuse is None:
        return ""
    return run.start_label if fuse.end == "start" else run.finish_label


def runs_csv(report: Report) -> bytes:
    """Every run with its figures, SI, worst of all states.

    Parameters
    ----------
    report : Report
        The report.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF.
    """
    head = (
        "tag", "name", "from", "to", "role", "length_m", "loop_length_m", "design_current_a", "wire", "area_mm2",
        "ampacity_a", "insulation_c", "ambient_c", "bundle_count", "fuse_family", "fuse_a", "fuse_distance_m",
        "fuse_at", "far_fuse_family", "far_fuse_a", "far_fuse_at",
        "protected_by", "legs", "parallel", "conductor_drop_v", "conductor_drop_to_end_v", "conductor_drop_to_end_frac",
        "drop_v", "drop_to_end_v", "drop_to_end_frac", "limit_frac", "conductor_c", "greatest_a", "spare",
        "later_fuse_a",
        "wire_pinned", "fuse_pinned", "verdict", "length_guessed", "way", "holes", "worst_stretch",
    )  # fmt: skip
    rows: list[Iterable[object]] = [head]
    for run in report.runs:
        fuse, way = run.fuse, run.way
        rows.append(
            (
                run.tag,
                run.name,
                run.start_label,
                run.finish_label,
                run.role,
                _rounded(run.length_m, 4),
                _rounded(run.loop_length_m, 4),
                _rounded(run.design_current_a, 3),
                run.wire.label,
                _rounded(run.wire.area_mm2, 3),
                _rounded(run.wire.ampacity_a, 2),
                run.wire.insulation_c,
                run.ambient_c,
                run.bundle_count,
                fuse.family_label if fuse else "",
                fuse.rating_a if fuse else None,
                fuse.distance_m if fuse else None,
                _fuse_at(run, fuse),
                run.far_fuse.family_label if run.far_fuse else "",
                run.far_fuse.rating_a if run.far_fuse else None,
                _fuse_at(run, run.far_fuse),
                run.protected_by or "",
                run.legs,
                run.parallel,
                _rounded(run.worst.conductor_drop_v, 4),
                _rounded(run.worst.conductor_drop_to_end_v, 4),
                _rounded(run.worst.conductor_drop_to_end_frac, 5),
                _rounded(run.worst.drop_v, 4),
                _rounded(run.worst.drop_to_end_v, 4),
                _rounded(run.worst.drop_to_end_frac, 5),
                _rounded(run.limit_frac, 4),
                _rounded(run.temp_c, 1),
                _rounded(run.greatest_a, 3),
                "yes" if run.spare else "no",
                run.later_fuse_a,
                "yes" if run.wire.pinned else "no",
                "yes" if fuse and fuse.pinned else "no",
                run.verdict,
                "yes" if run.length_guessed else "no",
                way.through if way else "",
                way.holes if way else None,
                way.worst if way else "",
            )
        )
    return written(rows)


def loads_csv(plan: Plan, report: Report) -> bytes:
    """The load list, in columns that can be brought in again.

    Parameters
    ----------
    plan : Plan
        Gives what was typed.
    report : Report
        Gives place, circuit and charge a day.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF.
    """
    head = (
        "name", "power_w", "current_a", "behaviour", "count", "hours_per_day", "place", "sensitive", "keyed", "length",
        "maker_least", "maker_greatest", "maker_fuse_a", "rated_v", "min_v", "drop_limit_pct", "tag", "circuit",
        "ah_per_day",
    )  # fmt: skip
    rows: list[Iterable[object]] = [head]
    by_id = {load.id: load for load in report.loads}
    systems = {"awg": "AWG", "bs": "B&S", "mm2": "mm²", "sae": "SAE", "auto_mm": "auto"}
    for part in plan.parts:
        if not isinstance(part, Load):
            continue
        shown = by_id[part.id]
        least, greatest = (
            f"{one.size} {systems[one.system]}" if one else "" for one in (part.maker.least, part.maker.greatest)
        )
        limit = part.drop_limit_frac
        rows.append(
            (
                part.name,
                part.power_w,
                part.current_a,
                part.behaviour.replace("_", " "),
                part.count,
                part.hours_per_day,
                shown.place,
                "yes" if part.sensitive else "no",
                "yes" if part.keyed else "no",
                f"{shown.length_m:g} m" if shown.length_m is not None else "",
                least,
                greatest,
                part.maker.fuse_a,
                part.rated_v,
                part.min_v,
                round(100 * limit, 4) if limit is not None else None,
                part.tag,
                shown.circuit_tag or "",
                _rounded(shown.ah_per_day, 2),
            )
        )
    return written(rows)


def faults_csv(report: Report) -> bytes:
    """Every bolted short: at each point, and at start, middle and finish of each run.

    Parameters
    ----------
    report : Report
        The report.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF. An empty time is one that is not published, or nothing that opens.
    """
    head = (
        "subject", "where", "strongest_a", "weakest_a", "opens", "fast_s", "slow_s", "at_most", "heat_a2s", "wire_c",
        "limit_c", "selective", "also_opens",
    )  # fmt: skip
    rows: list[Iterable[object]] = [head]
    shorts = [(node.label, node.fault) for node in report.nodes if node.fault is not None]
    shorts += [(run.tag, fault) for run in report.runs for fault in run.faults]
    for subject, fault in shorts:
        rows.append(
            (
                subject,
                fault.where,
                _rounded(fault.strongest_a, 1),
                _rounded(fault.weakest_a, 1),
                " ".join(fault.openers),
                _rounded(fault.fast_s, 4),
                _rounded(fault.slow_s, 4),
                "yes" if fault.bounded else "no",
                _rounded(fault.heat_a2s, 0),
                _rounded(fault.wire_c, 1),
                fault.limit_c,
                fault.selective,
                " ".join(fault.also_opens),
            )
        )
    return written(rows)


def states_csv(plan: Plan, report: Report) -> bytes:
    """The state board: volts at every point in every state; where no battery reaches it `live from` what holds it, or
    `dead`.

    Parameters
    ----------
    plan : Plan
        The plan.
    report : Report
        The report.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF.
    """
    rows: list[Iterable[object]] = [("tag", "point", *(state.name for state in report.summary.states))]
    for row in reading_board(plan, report.nodes):
        cells = (cell_text(cell) if cell.value_v is None else round(cell.value_v, 3) for cell in row.cells)
        rows.append((row.tag, row.label, *cells))
    return written(rows)
