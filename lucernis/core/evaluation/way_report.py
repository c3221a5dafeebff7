"""What the report says of the way of a run."""

from __future__ import annotations

from lucernis.core.layout.laid import Layout
from lucernis.core.report import WayReport
from lucernis.plan.model import Plan, Run


def way_report(layout: Layout, plan: Plan, run: Run) -> WayReport | None:
    """The way of a run; None for one that is measured by itself."""
    route = layout.routes.get(run.id)
    if route is None or run.way is None:
        return None
    channels = {one.id: one for one in plan.channels}
    taken = [channels[one] for one in route.channels]
    worst = layout.worst[run.id]
    spans_m = [one.clamp_m for one in taken if one.clamp_m is not None and one.inside_mm is None]
    return WayReport(
        channels=list(route.channels),
        through=", ".join(one.name for one in taken),
        channels_m=route.channels_m,
        tail_start_m=route.tail_start_m,
        tail_finish_m=route.tail_finish_m,
        slack_m=route.slack_m,
        along_m=route.along_m,
        length_pinned=run.way.length_pinned,
        missing=route.missing,
        worst=worst.name,
        worst_share=worst.share,
        holes=sum(len(one.crossings) for one in taken) + len(run.passes),
        clamp_m=max(spans_m, default=None),
    )
