"""Channels as a table that can be brought in again, and what lies in each."""

from __future__ import annotations

from collections.abc import Iterable

from lucernis.core.layout.bundles import conductors
from lucernis.core.layout.fill import outside_mm
from lucernis.core.report import Report
from lucernis.exports.tables_csv import written
from lucernis.plan.model import Plan


def channels_csv(plan: Plan, report: Report) -> bytes:
    """Every channel.

    Parameters
    ----------
    plan : Plan
        Its channels, places and zones.
    report : Report
        What lies in them.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF. The first columns can be brought in again.
    """
    places, zones = {one.id: one.name for one in plan.places}, {one.id: one.name for one in plan.zones}
    told = {one.id: one for one in report.channels}
    tags = {one.id: one.tag for one in report.runs}
    rows: list[Iterable[object]] = [
        (
            "name", "from", "to", "length", "zone", "holes", "clamp", "inside_mm", "near", "closed", "drawn_m", "runs",
            "conductors_together", "bundle_mm", "fill_frac",
        )
    ]  # fmt: skip
    for one in plan.channels:
        found = told[one.id]
        holes = "; ".join(
            f"{hole.through} {hole.hole_mm:g}" if hole.hole_mm else hole.through for hole in one.crossings
        )
        rows.append(
            (
                one.name, places[one.start], places[one.finish],
                one.length_as_typed or (f"{one.length_m:g} m" if one.length_m is not None else ""),
                zones.get(one.zone or "", ""), holes, f"{one.clamp_m:g} m" if one.clamp_m is not None else "",
                one.inside_mm, " ".join(one.near), "yes" if one.closed else "no",
                round(found.length_m, 3) if found.length_guessed and found.length_m is not None else None,
                " ".join(tags[run] for run in found.runs), found.conductors, round(found.bundle_mm, 1),
                None if found.fill_frac is None else round(found.fill_frac, 3),
            )
        )  # fmt: skip
    return written(rows)


def bundles_csv(plan: Plan, report: Report) -> bytes:
    """What lies in each channel, a line for each run.

    Parameters
    ----------
    plan : Plan
        Its runs.
    report : Report
        Their sizes.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF.
    """
    runs, docs = {one.id: one for one in report.runs}, {one.id: one for one in plan.runs}
    rows: list[Iterable[object]] = [("channel", "tag", "from", "to", "size", "conductors", "outside_mm")]
    for channel in report.channels:
        for run_id in channel.runs:
            run = runs[run_id]
            rows.append(
                (
                    channel.name, run.tag, run.start_label, run.finish_label, run.wire.label, conductors(docs[run_id]),
                    round(outside_mm(run.wire.area_mm2), 1),
                )
            )  # fmt: skip
    return written(rows)
