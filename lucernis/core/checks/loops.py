"""Checks of rings and feedback: a device fed backwards through another's wire, two feeds that are live at once."""

from __future__ import annotations

from lucernis.core.checks.fixes import fed_end, insert
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.switching import SWITCHING
from lucernis.core.circuit.terminals import end_terminal
from lucernis.core.circuit.topology import path_runs
from lucernis.core.report import Fix
from lucernis.core.sizing.states import StateResult
from lucernis.plan.model import Battery, Load, Run, State

_FLOWS_A = 1e-3


def check_loops(raised: Raised) -> None:
    """Raise what rings do in the states of the plan; a ring no state closes does nothing."""
    topology = raised.sized.topology
    batteries = {part.id for part in raised.plan.parts if isinstance(part, Battery)}
    rings = [
        topology.runs[one]
        for one in topology.closing
        if not batteries & {topology.runs[one].start.part, topology.runs[one].finish.part}
        and _one_side(raised, topology.runs[one])
    ]
    for state in raised.plan.states:
        result = raised.sized.rated[state.id]
        for ring in rings:
            fed = _fed_backwards(raised, state, result, ring)
            if fed is not None:
                _say_backwards(raised, state, ring, *fed)
            elif _one_root(raised, ring) and _closed(raised, state, ring):
                _say_ring(raised, state, ring)


def _one_side(raised: Raised, run: Run) -> bool:
    """Whether both ends hang on batteries of one use: what joins starter and house side is no ring."""
    topology = raised.sized.topology
    roots = [topology.parts.get(topology.root_of.get(one, "")) for one in topology.ends(run)]
    return len({root.use for root in roots if isinstance(root, Battery)}) < 2


def _one_root(raised: Raised, run: Run) -> bool:
    """Whether both ends hang on one battery: what joins the studs of two is a bank, and each side has its own fuse."""
    topology = raised.sized.topology
    return len({topology.root_of.get(one, "") for one in topology.ends(run)}) == 1


def _closed(raised: Raised, state: State, ring: Run) -> bool:
    """Whether both ends of a run are live without it, by different ways."""
    sized = raised.sized
    switched = sized.demand.switched[state.id]
    live = sized.switching.reach(switched.closed, switched.open_runs | {ring.id})
    return sized.wiring_point(ring, "start") in live and sized.wiring_point(ring, "finish") in live


def _path_is_open(raised: Raised, name: str, closed: frozenset[tuple[str, str]]) -> bool:
    """Whether a contact on the usual way to a point is open."""
    topology = raised.sized.topology
    for run_id in path_runs(topology, name):
        run = topology.runs[run_id]
        forward = topology.start_of[run_id] == topology.ends_of[run_id][0]
        end, side = (run.start, "start") if forward else (run.finish, "finish")
        part = topology.parts[end.part]
        if part.kind not in SWITCHING:
            continue
        terminal = end_terminal(part, end, "start" if side == "start" else "finish")
        contact = (part.id, "b" if terminal == "out_b" else "main")
        if terminal not in (None, "in") and contact not in closed:
            return True
    return False


def _fed_backwards(raised: Raised, state: State, result: StateResult, ring: Run) -> tuple[Run, list[Load]] | None:
    """A run of a ring whose current flows against its feed, and the loads that are live only so."""
    sized = raised.sized
    closed = sized.demand.switched[state.id].closed
    index = {run.id: at for at, run in enumerate(raised.plan.runs)}
    for run_id in (one.id for one in raised.plan.runs if one.id in sized.topology.both_fed):
        forward = sized.topology.start_of[run_id] == sized.topology.ends_of[run_id][0]
        along_a = float(result.solution.conductor_a[2 * index[run_id]])
        if along_a * (1 if forward else -1) > -_FLOWS_A:
            continue
        victims = [
            part
            for part in raised.plan.parts
            if isinstance(part, Load)
            and result.load_a.get(part.id, 0.0) > _FLOWS_A
            and run_id not in path_runs(sized.topology, part.id)
            and _path_is_open(raised, part.id, closed)
        ]
        if victims:
            return sized.topology.runs[run_id], victims
    return None


def _say_backwards(raised: Raised, state: State, ring: Run, back: Run, victims: list[Load]) -> None:
    topology = raised.sized.topology
    rest = [one.id for one in raised.plan.runs if one.id in topology.both_fed and one.id != back.id]
    other = rest[0] if back.id == ring.id else ring.id
    shared = topology.far_part(back)
    fixes: list[Fix] = []
    for run in (back, topology.runs[other]):
        near_m = min(0.3, run.length_m / 2)
        fields: dict[str, object] = {"kind": "diode", "name": f"Diode in {run.tag}"}
        made = insert(run, f"Put a diode in {run.tag}", fields, at_m=near_m, near=fed_end(raised, run))
        fixes += made
    both = (
        [Fix("Put a diode in each feed", [edit for fix in fixes for edit in fix.edits])] if len(fixes) == 2 else fixes
    )
    names = " and ".join(one.name for one in victims)
    raised.on_run(
        "circuit-closes-loop",
        ring,
        what=f"{names} {'is' if len(victims) == 1 else 'are'} fed backwards through {back.tag}, "
        f"by way of {shared.name} ({state.name})",
        mend=f"A diode in each feed of {shared.name}, a switch with a contact for each, or a wire of its own.",
        fixes=both,
        asked=f"two feeds on {shared.name}",
    )


def _say_ring(raised: Raised, state: State, ring: Run) -> None:
    topology = raised.sized.topology
    both = ring.fuse_at_start is not None and ring.fuse_at_finish is not None
    names = [topology.fed_part(ring).name, topology.far_part(ring).name]
    raised.on_run(
        "circuit-closes-loop",
        ring,
        what=f"{ring.tag} joins {names[0]} and {names[1]}, which are both fed without it"
        + (", fused at both ends" if both else ", not fused at both ends")
        + f" ({state.name})",
        mend="Open the ring, or fuse both ends and size each side to carry all of it.",
        asked=f"two ways to {names[1]}",
    )
