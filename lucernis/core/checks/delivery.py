"""Checks of what arrives: drop at each device, loads without figures or circuit, blocks and batteries."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.checks import demands
from lucernis.core.checks.fixes import let_go_of_wire
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.topology import path_runs
from lucernis.plan.model import Battery, FuseBlock, Load, Run
from lucernis.plan.units import told_length

# What charges, and what joins two sources, has no load behind it.
_NO_LOAD_BEHIND = {"battery_link", "isolator", "alternator", "panel"}


def _ends(raised: Raised, run: Run, by_panels: frozenset[str]) -> set[str]:
    parts = raised.sized.topology.parts
    kinds = {parts[run.start.part].kind, parts[run.finish.part].kind}
    if run.id in by_panels:
        kinds.add("panel")
    return {"battery_link"} if kinds == {"battery"} else set(kinds)


def _by_panels(raised: Raised) -> frozenset[str]:
    """Runs that come from panels or lead to them, by whatever studs lie between."""
    topology, at = raised.sized.topology, dict[str, list[Run]]()
    for run in raised.plan.runs:
        for part in {run.start.part, run.finish.part}:
            if topology.parts[part].kind == "joint":
                at.setdefault(part, []).append(run)
    queue = [run for run in raised.plan.runs if topology.from_panel(run)]
    found = {run.id for run in queue}
    while queue:
        here = queue.pop()
        for part in (here.start.part, here.finish.part):
            for other in at.pop(part, []):
                if other.id not in found:
                    found.add(other.id)
                    queue.append(other)
    return frozenset(found)


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
    by_panels = _by_panels(raised)
    for run in raised.plan.runs:
        if run.id in raised.sized.topology.spares:
            continue
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
            and _ends(raised, run, by_panels).isdisjoint(_NO_LOAD_BEHIND)
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


def _says_least(load: Load) -> bool:
    """Whether the lowest volts a load works at are stated."""
    return load.min_v is not None or (load.inverter is not None and load.inverter.cut_off_v is not None)


@dataclass(slots=True)
class _Worst:
    """The state in which a load loses most by what the limits count."""

    counted_v: float
    whole_v: float
    at_load_v: float
    parts_v: tuple[float, float, float]
    state: str


def _worst(raised: Raised, load: Load) -> _Worst | None:
    """Judged with inverters at their rating. None where it is on in no state; a state that does not serve it counts
    as an answer of its own."""
    sized, found = raised.sized, None
    for state in raised.plan.states:
        result = sized.rated[state.id]
        if load.id not in result.load_a or load.id in result.unserved:
            continue
        parts = raised.lost(state.id)[load.id]
        whole_v = sized.lost_v(load.id, result)
        counted_v = whole_v if sized.counts_everything else parts[0]
        if found is None or counted_v > found.counted_v:
            found = _Worst(counted_v, whole_v, result.part_v[load.id], parts, state.name)
    return found


def _unserved(raised: Raised, load: Load, path: tuple[str, ...]) -> bool:
    """Raise a load that nothing reaches in some state; whether there is one."""
    sized = raised.sized
    for state in raised.plan.states:
        result = sized.rated[state.id]
        if load.id not in result.load_a or load.id not in result.unserved:
            continue
        figures = sized.demand.loads[load.id]
        backwards = result.part_v[load.id] < -1e-6 and figures.power_w is not None
        watts = figures.rated_w or 0.0
        if backwards:
            raised.on_part(
                "load-reversed",
                load,
                what=f"{load.name}: its terminals are exchanged, it draws nothing ({state.name})",
                mend="Look for a crossed pair, or for a way back through something else.",
                power_w=watts,
            )
        else:
            raised.on_part(
                "load-collapse",
                load,
                what=f"{load.name}: {watts:.0f} W do not reach it ({state.name})",
                mend="Shorten the run, take thicker wire, or raise the voltage.",
                asked=demands.of_way(raised, load, path, sized.limit_v[load.id] / raised.plan.nominal_v),
                power_w=watts,
            )
        return True
    return False


def _voltage(raised: Raised, load: Load) -> None:
    sized, nominal_v = raised.sized, raised.plan.nominal_v
    path = path_runs(sized.topology, load.id)
    limit_v = sized.limit_v[load.id]
    if _unserved(raised, load, path):
        return
    worst = _worst(raised, load)
    if worst is None:
        return
    asked = demands.of_way(raised, load, path, limit_v / nominal_v)
    min_v = sized.demand.loads[load.id].min_v
    if worst.whole_v > 0 and worst.at_load_v < min_v - 1e-9:
        raised.on_part(
            "load-under-voltage",
            load,
            what=f"{load.name}: {worst.at_load_v:.2f} V arrive, {min_v:.2f} V needed"
            + ("" if _says_least(load) else " as is usual")
            + f" ({worst.state})",
            mend="Thicker wire, a shorter run, or a block nearer to it."
            + ("" if _says_least(load) else f" Read the lowest volts off {load.name} and enter them."),
            asked=asked,
            # Lowest volts that nobody has stated are a usual figure.
            severity=None if _says_least(load) else "look",
            voltage_v=worst.at_load_v,
            min_v=min_v,
        )
    if worst.counted_v <= limit_v + 1e-7:
        return
    counts = "in all" if sized.counts_everything else "in the conductors"
    what = (
        f"{load.name}: {worst.counted_v:.2f} V {counts}, {100 * worst.counted_v / nominal_v:.1f} %; "
        f"limit {100 * limit_v / nominal_v:g} % ({worst.state})"
    )
    pinned = [sized.topology.runs[run].tag for run in path if sized.cases[run].pinned]
    besides_v = worst.whole_v - worst.parts_v[0]
    figures = {"drop_v": worst.counted_v, "limit_v": limit_v, "whole_v": worst.whole_v, "besides_v": besides_v}
    note = ""
    if besides_v > worst.parts_v[0]:
        joints_v, fuses_v = worst.parts_v[1:]
        note = (
            f" Fuses, joints and contacts lose {besides_v:.2f} V, more than the wire: thicker wire will not help. "
            f"Fuses {fuses_v:.2f} V, joints {joints_v:.2f} V, contacts {besides_v - joints_v - fuses_v:.2f} V."
        )
    if load.id in sized.out_of_reach and not pinned:
        raised.on_part(
            "drop-out-of-reach",
            load,
            what=what,
            mend=_reach(raised, load, path, limit_v) + note,
            asked=asked,
            figures=figures,
        )
    else:
        mend = f"Unpin {', '.join(pinned)}" if pinned else "Thicker wire on its way"
        raised.on_part(
            "drop-over-limit",
            load,
            what=what,
            mend=f"{mend}, or shorten the run.{note}",
            fixes=[fix for run in path for fix in let_go_of_wire(sized.topology.runs[run])],
            asked=asked if pinned else "",
            figures=figures,
        )


def _reach(raised: Raised, load: Load, path: tuple[str, ...], limit_v: float) -> str:
    """How short the last run would have to be with the thickest size it may have, and what else would help."""
    sized = raised.sized
    last, thick = sized.cases[path[-1]], sized.cases[path[-1]].options[-1]
    before_v = sum(sized.demand.carry_a[run] * sized.cases[run].options[-1].wire_loop_ohm for run in path[:-1])
    current_a = sized.demand.carry_a[path[-1]]
    left_v = limit_v - before_v
    per_m = thick.wire_loop_ohm / last.run.length_m
    helps = []
    if left_v > 0 and current_a > 0:
        helps.append(
            f"{told_length(left_v / (current_a * per_m), raised.plan.units)} one way at most with {thick.size.label}"
        )
    if len(path) > 1:
        helps.append("a shorter feeder and a fuse block nearer to it")
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
    total_a = raised.sized.carry_a(feeder) if feeder else 0.0
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
