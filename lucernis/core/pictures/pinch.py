"""Pinch chart of one way, battery to device: the positive falls, the negative rises, the gap is what arrives."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.circuit.contacts import contact_ohm
from lucernis.core.circuit.topology import path_runs
from lucernis.core.pictures.axes import Scale, tick_text
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Words
from lucernis.core.protection.fuses import fuse_resistance_ohm
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import far_key, fed_by_start
from lucernis.core.sizing.states import StateResult
from lucernis.plan.model import Load, Plan, Run, State

WIDTH, PANEL = 560.0, 150.0
_LEFT, _RIGHT, _TOP, _BREAK, _BOTTOM = 62.0, 18.0, 30.0, 44.0, 60.0


@dataclass(slots=True)
class _Step:
    """One stretch of the way: how far, and the potential of both rails where it ends [V]."""

    name: str
    length_m: float
    positive_v: float
    negative_v: float
    run_id: str


def worst_state(plan: Plan, sized: Sized, load: Load) -> State:
    """The state in which a device gets least."""
    on = [state for state in plan.states if load.id in sized.states[state.id].load_a]
    return min(on or plan.states, key=lambda state: sized.states[state.id].part_v[load.id])


def way_steps(plan: Plan, sized: Sized, load: Load, state: State) -> list[_Step]:
    """Every stretch from the battery to a device with the potentials at its end.

    Within a run the fuse stands at its place and the joints at its ends; both rails are measured against the
    battery's negative.
    """
    result, wiring = sized.states[state.id], sized.wiring
    node_v = result.solution.node_v
    index = {run.id: at for at, run in enumerate(plan.runs)}
    circuit = wiring.circuit
    battery = sized.topology.start_of[path_runs(sized.topology, load.id)[0]]
    steps = [_Step(sized.topology.part_at(battery).name, 0.0, float(node_v[wiring.pos[battery]]),
                   float(node_v[wiring.neg[battery]]), "")]  # fmt: skip
    for run_id in path_runs(sized.topology, load.id):
        run, at = sized.topology.runs[run_id], index[run_id]
        forward = fed_by_start(sized.topology, run)
        ends = (circuit.conductor_to[2 * at], circuit.conductor_to[2 * at + 1])
        if not forward:
            ends = (circuit.conductor_from[2 * at], circuit.conductor_from[2 * at + 1])
        to_pos = float(node_v[ends[0]])
        # A positive alone brings no negative along: it stays where the last one was.
        to_neg = float(node_v[ends[1]]) if run.legs == "both" else steps[-1].negative_v
        steps += _within(sized, run, result, steps[-1], to_pos, to_neg)
        part = sized.topology.part_at(sized.topology.finish_of[run_id])
        drop_v = contact_ohm(part) * abs(result.run_a[run_id]) if part.kind not in ("shunt", "load") else 0.0
        if drop_v > 0:
            steps.append(_Step(part.name, 0.0, to_pos - drop_v, to_neg, run_id))
    own = float(node_v[wiring.neg[load.id]])
    if abs(own - steps[-1].negative_v) > 1e-9:
        steps.append(_Step("its own negative", 0.0, steps[-1].positive_v, own, ""))
    return steps


def _within(
    sized: Sized, run: Run, result: StateResult, before: _Step, to_pos_v: float, to_neg_v: float
) -> list[_Step]:
    """Joint, fuse, wire, joint of one run, so that the ends meet the solved potentials."""
    option, amps = sized.chosen[run.id], abs(result.run_a[run.id])
    legs = 2 if run.legs == "both" else 1
    joint_v = option.joints_ohm / legs / 2 * amps
    fuses = []
    for key in (run.id, far_key(run.id)):
        fuse = sized.fuses.get(key)
        if fuse is not None and fuse.fuse is not None:
            ohm = fuse_resistance_ohm(fuse.fuse.family, fuse.fuse.rating_a) / fuse.count
            fuses.append(
                (f"{fuse.fuse.rating_a:g} A fuse", min(fuse.distance_m, run.length_m), ohm * amps, key == run.id)
            )
    here_p, here_n = before.positive_v, before.negative_v
    # What a run does not lose in wire it loses in joints and fuses; negatives only have wire and joints.
    neg_joint = joint_v if run.legs == "both" else 0.0
    steps = [_Step(f"{run.tag} joints", 0.0, here_p - joint_v, here_n + neg_joint, run.id)]
    wire_v = here_p - to_pos_v - 2 * joint_v - sum(drop for _, _, drop, _ in fuses)
    neg_wire_v = to_neg_v - here_n - 2 * neg_joint
    done_m = 0.0
    for name, distance_m, drop_v, near in fuses:
        upto = distance_m if near else run.length_m - distance_m
        share = (upto - done_m) / run.length_m
        last = steps[-1]
        steps.append(
            _Step(
                run.tag, upto - done_m, last.positive_v - wire_v * share, last.negative_v + neg_wire_v * share, run.id
            )
        )
        steps.append(_Step(name, 0.0, steps[-1].positive_v - drop_v, steps[-1].negative_v, run.id))
        done_m = upto
    share, last = (run.length_m - done_m) / run.length_m, steps[-1]
    steps.append(
        _Step(
            run.tag,
            run.length_m - done_m,
            last.positive_v - wire_v * share,
            last.negative_v + neg_wire_v * share,
            run.id,
        )
    )
    steps.append(_Step(f"{run.tag} joints", 0.0, to_pos_v, to_neg_v, run.id))
    return steps


def pinch_chart(plan: Plan, sized: Sized, load: Load, state: State | None = None) -> Drawing:
    """The pinch chart of a device.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its solved states.
    load : Load
        The device.
    state : State, optional
        Its worst state otherwise.

    Returns
    -------
    Drawing
        Both rails at the same scale of volts, with the middle left out.
    """
    here = state or worst_state(plan, sized, load)
    height = _TOP + 2 * PANEL + _BREAK + _BOTTOM
    drawing = Drawing(
        kind="pinch",
        title=f"{load.name}: where the volts go",
        note=f"State: {here.name}. Both rails at one scale; the middle is left out.",
        width=WIDTH,
        height=height,
        columns=["At", "Way", "Positive", "Negative", "Between"],
    )
    if load.id not in sized.topology.feeder_of or load.id not in sized.states[here.id].load_a:
        drawing.note = f"State: {here.name}. Nothing reaches {load.name}."
        drawing.height = 60
        return drawing
    steps = way_steps(plan, sized, load, here)
    total_m = sum(step.length_m for step in steps)
    min_v = sized.demand.loads[load.id].min_v
    end = steps[-1]
    needed_v = end.negative_v + min_v
    top_v = steps[0].positive_v
    span = max(top_v - min(end.positive_v, needed_v), *(step.negative_v for step in steps), 0.2) * 1.08
    x = Scale(0.0, total_m, _LEFT, WIDTH - _RIGHT)
    up = Scale(top_v - span, top_v, _TOP + PANEL, _TOP)
    down = Scale(0.0, span, _TOP + 2 * PANEL + _BREAK, _TOP + PANEL + _BREAK)
    _axes(drawing, x, up, down)
    at_m, points = 0.0, []
    for step in steps:
        at_m += step.length_m
        points.append((at_m, step))
    for run_id in path_runs(sized.topology, load.id):
        run = sized.topology.runs[run_id]
        own = [k for k, (_, step) in enumerate(points) if step.run_id == run_id]
        legs = points[own[0] - 1 : own[-1] + 1]
        lost_v = legs[0][1].positive_v - legs[-1][1].positive_v + legs[-1][1].negative_v - legs[0][1].negative_v
        piece = Piece(f"{run.tag}: {lost_v:.2f} V lost over {run.length_m:.2f} m one way", subject=run_id)
        piece.strokes.append(Stroke([(x.at(m), up.at(s.positive_v)) for m, s in legs], tone="copper", width=3))
        piece.strokes.append(Stroke([(x.at(m), down.at(s.negative_v)) for m, s in legs], tone="ink", width=3))
        centre = (x.at(legs[0][0]) + x.at(legs[-1][0])) / 2
        piece.words.append(Words(centre, height - _BOTTOM + 36, run.tag, size=11, anchor="middle", mono=True))
        drawing.pieces.append(piece)
    _end(drawing, x, up, down, end, min_v, total_m)
    so_far = 0.0
    for step in steps:
        so_far += step.length_m
        drawing.rows.append(
            [step.name, f"{so_far:.2f} m", f"{step.positive_v:.3f} V", f"{step.negative_v:.3f} V",
             f"{step.positive_v - step.negative_v:.3f} V"]
        )  # fmt: skip
    return drawing


def _axes(drawing: Drawing, x: Scale, up: Scale, down: Scale) -> None:
    piece = Piece("Axes: metres one way, volts against the battery's negative")
    for scale in (up, down):
        top, bottom = min(scale.start, scale.end), max(scale.start, scale.end)
        piece.box(_LEFT, top, WIDTH - _LEFT - _RIGHT, bottom - top)
        for value in scale.ticks():
            at = scale.at(value)
            piece.strokes.append(Stroke([(_LEFT, at), (WIDTH - _RIGHT, at)], tone="zinc"))
            piece.words.append(Words(_LEFT - 6, at + 4, f"{value:g}", tone="soft", size=12, anchor="end"))
    for value in x.ticks():
        piece.words.append(Words(x.at(value), down.start + 16, tick_text(value), tone="soft", size=12, anchor="middle"))
    piece.words.append(Words(4, _TOP - 12, "volts", tone="soft", size=12))
    piece.words.append(Words(WIDTH - _RIGHT, down.start + 52, "metres one way", tone="soft", size=12, anchor="end"))
    drawing.pieces.append(piece)


def _end(drawing: Drawing, x: Scale, up: Scale, down: Scale, end: _Step, min_v: float, total_m: float) -> None:
    arrives = end.positive_v - end.negative_v
    piece = Piece(f"{arrives:.2f} V arrive, {min_v:.2f} V are needed")
    at = x.at(total_m) - 2
    piece.strokes.append(Stroke([(at, up.at(end.positive_v)), (at, down.at(end.negative_v))], tone="line", dashed=True))
    needed_v = end.negative_v + min_v
    if up.inside(needed_v):
        level = up.at(needed_v)
        tone = "stop" if arrives < min_v - 1e-9 else "soft"
        piece.strokes.append(Stroke([(_LEFT, level), (WIDTH - _RIGHT, level)], tone=tone, dashed=True, width=1.5))  # type: ignore[arg-type]
        piece.words.append(Words(_LEFT + 6, level - 4, f"needs {min_v:.2f} V", tone=tone, size=12))  # type: ignore[arg-type]
    piece.words.append(
        Words(at - 6, (up.start + down.end) / 2 + 5, f"{arrives:.2f} V arrive", size=15, anchor="end", bold=True)
    )
    drawing.pieces.append(piece)


__all__ = ["pinch_chart", "way_steps", "worst_state"]
