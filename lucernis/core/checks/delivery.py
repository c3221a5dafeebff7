"""Checks of what arrives: drop at each device, loads without figures or circuit, blocks and batteries."""

from __future__ import annotations

from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.topology import path_runs
from lucernis.plan.model import Battery, FuseBlock, Load, Run

# What charges, and what joins two sources, has no load behind it.
_NO_LOAD_BEHIND = {"battery_link", "isolator", "alternator", "panel"}


def _ends(raised: Raised, run: Run) -> set[str]:
    parts = raised.sized.topology.parts
    kinds = {parts[run.start.part].kind, parts[run.finish.part].kind}
    return {"battery_link"} if kinds == {"battery"} else set(kinds)


def check_delivery(raised: Raised) -> None:
    """Raise what is wrong with what the loads get, and with the blocks on the way."""
    if not any(isinstance(part, Battery) for part in raised.plan.parts):
        raised.raise_(
            "battery-missing", "plan", "plan", "", what="The plan has no battery", mend="Add one under Circuits."
        )
    for part in raised.plan.parts:
        if isinstance(part, Load):
            _load(raised, part)
        elif isinstance(part, FuseBlock):
            _block(raised, part)
    for run in raised.plan.runs:
        if run.id in raised.sized.topology.dead:
            raised.raise_(
                "run-unfed",
                run.id,
                "run",
                run.tag,
                what=f"No battery feeds {run.tag}",
                mend="Join its start to a block or the battery.",
            )
        elif (
            raised.sized.topology.behind.get(run.id) == ()
            and run.id not in raised.sized.topology.both_fed
            and _ends(raised, run).isdisjoint(_NO_LOAD_BEHIND)
        ):
            raised.raise_(
                "run-nothing-behind",
                run.id,
                "run",
                run.tag,
                what=f"No load behind {run.tag}",
                mend="Put a load on it, or keep it as a labelled spare.",
            )


def _load(raised: Raised, load: Load) -> None:
    figures = raised.sized.demand.loads[load.id]
    if figures.power_w is None:
        raised.raise_(
            "load-no-figure",
            load.id,
            "part",
            load.tag,
            what=f"{load.name}: no watts and no amps",
            mend="Read them off its plate or measure.",
        )
    if load.hours_per_day is None:
        raised.raise_(
            "load-no-hours",
            load.id,
            "part",
            load.tag,
            what=f"{load.name}: no hours a day",
            mend="Ask how long it runs; 0 is an answer.",
        )
    if load.id not in raised.sized.topology.feeder_of:
        raised.raise_(
            "load-unfed",
            load.id,
            "part",
            load.tag,
            what=f"{load.name} is on no circuit",
            mend="Put it on a fuse block or after another load.",
        )
        return
    _voltage(raised, load)


def _voltage(raised: Raised, load: Load) -> None:
    sized, nominal_v = raised.sized, raised.plan.nominal_v
    limit_v = sized.limit_v[load.id]
    worst_v, worst_state = 0.0, ""
    for state in raised.plan.states:
        result = sized.states[state.id]
        if load.id not in result.load_a:
            continue
        if load.id in result.unserved:
            raised.raise_(
                "load-collapse",
                load.id,
                "part",
                load.tag,
                what=f"{load.name}: {sized.demand.loads[load.id].power_w:.0f} W do not reach it ({state.name})",
                mend="Shorten the run, take thicker wire, or raise the voltage.",
                power_w=sized.demand.loads[load.id].power_w or 0.0,
            )
            return
        lost_v = sized.home_v(load.id) - result.part_v[load.id]
        if lost_v > worst_v:
            worst_v, worst_state = lost_v, state.name
    at_load_v = sized.home_v(load.id) - worst_v
    min_v = sized.demand.loads[load.id].min_v
    if worst_v > 0 and at_load_v < min_v - 1e-9:
        raised.raise_(
            "load-under-voltage",
            load.id,
            "part",
            load.tag,
            what=f"{load.name}: {at_load_v:.2f} V arrive, {min_v:.2f} V needed ({worst_state})",
            mend="Thicker wire, a shorter run, or a block nearer to it.",
            voltage_v=at_load_v,
            min_v=min_v,
        )
    if worst_v <= limit_v + 1e-7:
        return
    shares = f"{100 * worst_v / nominal_v:.1f} %; limit {100 * limit_v / nominal_v:g} %"
    what = f"{load.name}: {worst_v:.2f} V, {shares} ({worst_state})"
    path = path_runs(sized.topology, load.id)
    pinned = [sized.topology.runs[run].tag for run in path if sized.cases[run].pinned]
    if load.id in sized.out_of_reach and not pinned:
        raised.raise_(
            "drop-out-of-reach",
            load.id,
            "part",
            load.tag,
            what=what,
            mend=_reach(raised, load, path, limit_v),
            drop_v=worst_v,
            limit_v=limit_v,
        )
    else:
        mend = f"Let go of the pin on {', '.join(pinned)}" if pinned else "Thicker wire on its way"
        raised.raise_(
            "drop-over-limit",
            load.id,
            "part",
            load.tag,
            what=what,
            mend=f"{mend}, or shorten the run.",
            drop_v=worst_v,
            limit_v=limit_v,
        )


def _reach(raised: Raised, load: Load, path: tuple[str, ...], limit_v: float) -> str:
    """How short the last run would have to be with the thickest size it may have, and what else would help."""
    sized = raised.sized
    last = sized.cases[path[-1]]
    thick = last.options[-1]
    before_v = sum(sized.demand.design_current_a[run] * sized.cases[run].options[-1].total_ohm for run in path[:-1])
    current_a = sized.demand.design_current_a[path[-1]]
    left_v = limit_v - before_v - current_a * (thick.joints_ohm + thick.fuse_ohm)
    per_m = thick.wire_loop_ohm / last.run.length_m
    helps = []
    if left_v > 0 and current_a > 0:
        helps.append(f"{left_v / (current_a * per_m):.1f} m one way at most with {thick.size.label}")
    if len(path) > 1:
        helps.append("a fuse block nearer to it")
    if raised.plan.nominal_v < 24:
        helps.append(f"{2 * raised.plan.nominal_v} V")
    text = ", or ".join(helps) or "fewer joints and fuses on the way"
    return text[0].upper() + text[1:] + "."


def _block(raised: Raised, block: FuseBlock) -> None:
    fed = raised.sized.topology.fed_runs[block.id]
    ways = [run.start.way for run in raised.plan.runs if run.start.part == block.id and run.start.way is not None]
    over = sorted(way for way in ways if way > block.ways)
    if over:
        raised.raise_(
            "block-ways",
            block.id,
            "part",
            block.tag,
            what=f"{block.name} has {block.ways} ways; way {over[0]} is used",
            mend="Take a larger block or put several loads on one run.",
            ways=float(block.ways),
        )
    feeder = raised.sized.topology.feeder_of.get(block.id)
    total_a = raised.sized.demand.design_current_a[feeder] if feeder else 0.0
    if block.total_limit_a is not None and total_a > block.total_limit_a and fed:
        raised.raise_(
            "block-over-total",
            block.id,
            "part",
            block.tag,
            what=f"{total_a:.1f} A through {block.name}, made for {block.total_limit_a:g} A",
            mend="Move loads to a second block.",
            current_a=total_a,
            total_limit_a=block.total_limit_a,
        )
