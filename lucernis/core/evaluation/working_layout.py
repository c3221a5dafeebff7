"""Writes down how lengths along channels and the fill of channels came about. It repeats no calculation."""

from __future__ import annotations

from lucernis.core.evaluation.working import WorkingBook
from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.fill import fill_limit
from lucernis.core.layout.laid import layout_of
from lucernis.core.report import ChannelReport, Input
from lucernis.core.sizing.lying import wires_mm
from lucernis.plan.model import Plan, Run


def write_way(book: WorkingBook, run: Run) -> None:
    """Working of the length of a run that follows channels, and of its worst stretch."""
    layout = layout_of(book.plan, book.rules)
    route = layout.routes.get(run.id)
    if route is None or route.missing:
        return
    measured = measured_channels(book.plan)
    worst = layout.worst[run.id]
    pinned = run.way is not None and run.way.length_pinned
    book.add(
        run.id,
        "way_m",
        f"{run.tag}: length along its channels",
        "L = (Σ c + t1 + t2) · (1 + k)",
        [
            *(
                Input(
                    "c",
                    measured[one].channel.name + (", as drawn, a guess" if measured[one].guessed else ""),
                    measured[one].length_m or 0.0,
                    "m",
                )
                for one in route.channels
            ),
            Input("t1", "tail at its start", route.tail_start_m, "m"),
            Input("t2", "tail at its finish", route.tail_finish_m, "m"),
            Input("k", "slack", book.rules.values.slack_frac, ""),
        ],
        route.along_m,
        "m",
        school=book.school("slack_frac"),
        note=(f"Pinned at {run.length_m:g} m instead. " if pinned else "Cut to the next centimetre. ")
        + f"Worst stretch, {worst.name}: {worst.around.ambient_c:g} °C, "
        f"{worst.around.bundle_count} conductors together.",
    )


def write_channel(book: WorkingBook, plan: Plan, channel: ChannelReport) -> None:
    """Working of how full a conduit is."""
    if channel.fill_frac is None or not channel.wires:
        return
    inside_mm = next(one.inside_mm or 0.0 for one in plan.channels if one.id == channel.id)
    wires = wires_mm(layout_of(plan, book.rules), book.sized)[channel.id]
    squares = [Input("q", "square of a wire's outside diameter", one**2, "mm²") for one in wires]
    book.add(
        channel.id,
        "fill_frac",
        f"{channel.name}: how full its conduit is",
        "f = Σ q / Q",
        [*squares, Input("Q", "square of its inside diameter", inside_mm**2, "mm²")],
        channel.fill_frac,
        "",
        rows=[fill_limit(len(wires), "conduit")[1]],
    )
