"""Fuse window of one circuit: when its fuse opens and when its wire is harmed, over current, both logarithmic."""

from __future__ import annotations

import numpy as np

from lucernis.core.circuit.answers import Floats
from lucernis.core.faults.study import Fault, FaultStudy
from lucernis.core.pictures.axes import Scale, tick_text
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Words
from lucernis.core.protection.fuse_curves import band
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import RunFuse, fuse_run
from lucernis.core.wire.heat import ADIABATIC_S, Covered, adiabatic_k, heat_up, short_time_limit, wall_mm
from lucernis.plan.model import Load, Plan, Run

WIDTH, HEIGHT = 560.0, 400.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 62.0, 18.0, 34.0, 54.0
_SHORTEST_S, _LONGEST_S = 0.004, 36000.0


def harm_times_s(sized: Sized, run: Run, current_a: Floats) -> Floats:
    """When the wire of a run reaches what its insulation stands for a short time.

    Parameters
    ----------
    sized : Sized
        The sizes.
    run : Run
        The run.
    current_a : ndarray
        Currents of one conductor, shape (n,). [A]

    Returns
    -------
    ndarray
        Shape (n,), infinite where it never gets there within ten hours, 0 where it is there in service. [s]

    Notes
    -----
    From its temperature at the design current: the adiabatic equation ``t = (k·S/I)²`` up to five seconds, beyond that
    the transient heat balance, whichever is sooner. The balance lets half the insulation warm along at once, which no
    short leaves time for.
    """
    option, case = sized.chosen[run.id], sized.cases[run.id]
    limit_c, _ = short_time_limit(case.insulation_c)
    n = len(current_a)
    if option.temp_c >= limit_c:
        return np.zeros(n)
    wire = Covered(
        np.full(n, option.size.area_mm2),
        np.full(n, option.size.resistance_20_ohm_per_m),
        np.full(n, wall_mm(option.size.area_mm2)),
    )
    with np.errstate(divide="ignore"):
        adiabatic_s = (adiabatic_k(option.temp_c, limit_c) * option.size.area_mm2 / current_a) ** 2
    out = np.where(adiabatic_s <= ADIABATIC_S, adiabatic_s, np.inf)
    # Two spans, so that minutes and hours are both finely stepped.
    for end_s in (400.0, _LONGEST_S):
        warming = heat_up(wire, current_a, np.array(case.around.ambient_c), np.array(option.temp_c), end_s, steps=140)
        hot = warming.conductor_c >= limit_c
        reached = hot.any(axis=0) & ~np.isfinite(out)
        out[reached] = warming.time_s[hot.argmax(axis=0)][reached]
    return out


def fuse_window(plan: Plan, sized: Sized, faults: FaultStudy, run: Run) -> Drawing:
    """The fuse window of a run.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Sizes and fuses.
    faults : FaultStudy
        Its shorts.
    run : Run
        The run whose wire is looked at; the fuse is the one that guards it.

    Returns
    -------
    Drawing
        Nothing is drawn beyond the published points of the fuse.
    """
    case, option = sized.cases[run.id], sized.chosen[run.id]
    guard, key = case.protector_fuse, case.protector
    shorts = faults.of_run.get(run.id, [])
    strongest = max((one.strongest_a for one in shorts), default=0.0)
    low = max(0.5, 0.4 * min(x for x in (case.design_current_a, option.amp.ampacity_a or 1e9) if x > 0))
    high = max(1.3 * strongest, 20 * low)
    x = Scale(low, high, _LEFT, WIDTH - _RIGHT, log=True)
    y = Scale(_SHORTEST_S, _LONGEST_S, HEIGHT - _BOTTOM, _TOP, log=True)
    name = "no fuse"
    if guard is not None and guard.fuse is not None and key is not None:
        tag = sized.topology.runs[fuse_run(key)].tag
        name = f"{guard.fuse.rating_a:g} A {guard.fuse.label}" + ("" if fuse_run(key) == run.id else f" in {tag}")
    drawing = Drawing(
        kind="fuse-window",
        title=f"{run.tag}: {option.size.label} behind {name}",
        note="The wire is safe where the fuse's slow edge stays below the wire's line. "
        "Bands from memory of the standards; nothing is drawn beyond their last point.",
        width=WIDTH,
        height=HEIGHT,
        columns=["What", "Current", "Time"],
    )
    _frame(drawing, x, y)
    if guard is not None and guard.fuse is not None:
        _band(drawing, x, y, guard)
    _harm(drawing, x, y, sized, run)
    _marks(drawing, x, y, plan, sized, run, shorts)
    return drawing


def _frame(drawing: Drawing, x: Scale, y: Scale) -> None:
    piece = Piece("Axes: current in amperes, time in seconds")
    piece.box(_LEFT, _TOP, WIDTH - _LEFT - _RIGHT, HEIGHT - _TOP - _BOTTOM)
    for value in x.ticks():
        at = x.at(value)
        piece.strokes.append(Stroke([(at, _TOP), (at, HEIGHT - _BOTTOM)], tone="zinc"))
        piece.words.append(Words(at, HEIGHT - _BOTTOM + 16, tick_text(value), tone="soft", size=12, anchor="middle"))
    for value in y.ticks():
        at = y.at(value)
        piece.strokes.append(Stroke([(_LEFT, at), (WIDTH - _RIGHT, at)], tone="zinc"))
        piece.words.append(Words(_LEFT - 6, at + 4, tick_text(value), tone="soft", size=12, anchor="end"))
    piece.words.append(Words(WIDTH - _RIGHT, HEIGHT - _BOTTOM + 34, "amperes", tone="soft", size=12, anchor="end"))
    piece.words.append(Words(4, _TOP - 14, "seconds", tone="soft", size=12))
    drawing.pieces.append(piece)


def _band(drawing: Drawing, x: Scale, y: Scale, guard: RunFuse) -> None:
    if guard.fuse is None:
        return
    made, rating_a = band(guard.fuse.family), guard.fuse.rating_a * guard.count
    fast = [(m * rating_a, t) for m, t in zip(made.fast.multiple.tolist(), made.fast.time_s.tolist(), strict=True)]
    slow = [(m * rating_a, t) for m, t in zip(made.slow.multiple.tolist(), made.slow.time_s.tolist(), strict=True)]
    outline = [(x.at(i), y.at(t)) for i, t in [*fast, *reversed(slow)] if x.low <= i <= x.high]
    if len(outline) < 3:
        return
    piece = Piece(f"Band in which the {rating_a:g} A {guard.fuse.label} opens")
    piece.strokes.append(Stroke([*outline, outline[0]], tone="none", fill="copper_wash"))
    for edge, dashed in ((fast, True), (slow, False)):
        points = [(x.at(i), y.at(t)) for i, t in edge if x.low <= i <= x.high]
        piece.strokes.append(Stroke(points, tone="copper", width=2, dashed=dashed))
    drawing.pieces.append(piece)
    for edge_name, edge in (("quick edge", fast), ("slow edge", slow)):
        drawing.rows += [[f"fuse, {edge_name}", f"{i:.1f} A", f"{t:g} s"] for i, t in edge]


def _harm(drawing: Drawing, x: Scale, y: Scale, sized: Sized, run: Run) -> None:
    amps = np.geomspace(x.low, x.high, 60)
    times = harm_times_s(sized, run, amps / run.parallel)
    points = [(x.at(i), y.at(t)) for i, t in zip(amps.tolist(), times.tolist(), strict=True) if y.inside(t)]
    limit_c, _ = short_time_limit(sized.cases[run.id].insulation_c)
    piece = Piece(f"Line where the wire reaches {limit_c:.0f} °C")
    if points:
        piece.strokes.append(Stroke(points, tone="stop", width=2.5))
        piece.words.append(
            Words(points[0][0] + 6, max(points[0][1], _TOP + 14), f"{limit_c:.0f} °C", tone="stop", size=12)
        )
    drawing.pieces.append(piece)
    drawing.rows += [
        [f"wire reaches {limit_c:.0f} °C", f"{i:.1f} A", f"{t:.3g} s"]
        for i, t in list(zip(amps.tolist(), times.tolist(), strict=True))[::6]
        if y.inside(t)
    ]


def _amps(amps: float) -> str:
    return f"{amps:.0f}" if amps >= 100 else f"{amps:.3g}"


def _marks(drawing: Drawing, x: Scale, y: Scale, plan: Plan, sized: Sized, run: Run, shorts: list[Fault]) -> None:
    design_a = sized.demand.design_current_a[run.id]
    marks: list[tuple[str, float, bool]] = []
    if design_a > 0:
        marks.append(("running", design_a, False))
    carried_a = sized.chosen[run.id].amp.ampacity_a
    if carried_a:
        marks.append(("wire carries", carried_a * run.parallel, True))
    if shorts:
        marks.append(("weakest short", min(one.weakest_a for one in shorts), False))
        marks.append(("strongest short", max(one.strongest_a for one in shorts), False))
    for k, (name, amps, dashed) in enumerate(marks):
        if not x.inside(amps):
            continue
        at = x.at(amps)
        piece = Piece(f"{name}: {amps:.1f} A")
        piece.strokes.append(Stroke([(at, _TOP), (at, HEIGHT - _BOTTOM)], tone="ink", dashed=dashed, width=1.2))
        near_end = at > WIDTH - 130
        piece.words.append(
            Words(at + (-4 if near_end else 4), _TOP + 14 + 15 * k, f"{name} {_amps(amps)}", size=11,
                  anchor="end" if near_end else "start")
        )  # fmt: skip
        drawing.pieces.append(piece)
        drawing.rows.append([name, f"{amps:.1f} A", ""])
    for one in sized.topology.loads_behind.get(run.id, ()):
        load = sized.topology.parts[one]
        figures = sized.demand.loads[one]
        if isinstance(load, Load) and load.inrush_factor and load.inrush_s and figures.current_a:
            amps = load.inrush_factor * figures.current_a
            if x.inside(amps) and y.inside(load.inrush_s):
                px, py = x.at(amps), y.at(load.inrush_s)
                piece = Piece(f"{load.name} starts with {amps:.1f} A for {load.inrush_s:g} s")
                piece.strokes.append(Stroke([(px - 5, py - 5), (px + 5, py + 5)], tone="ink", width=2))
                piece.strokes.append(Stroke([(px - 5, py + 5), (px + 5, py - 5)], tone="ink", width=2))
                piece.words.append(Words(px + 8, py + 4, f"start of {load.name}", size=11))
                drawing.pieces.append(piece)
                drawing.rows.append([f"{load.name} starts", f"{amps:.1f} A", f"{load.inrush_s:g} s"])


__all__ = ["fuse_window", "harm_times_s"]
