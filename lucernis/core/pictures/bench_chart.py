"""The course of a bench set-up: temperatures against time with what they mean, and the amperes below.

Two courses side by side share their axes, so that they can be compared.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from lucernis.core.bench.cells import harm_of
from lucernis.core.bench.course import Course, Frames
from lucernis.core.bench.meaning import event_text, setup_text
from lucernis.core.pictures.axes import Scale, tick_text
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Tone, Words

WIDTH, NARROW, HEIGHT = 560.0, 340.0, 350.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 58.0, 14.0, 24.0, 26.0
_AMPS_HIGH, _GAP = 58.0, 12.0
_SHORTEST_S = 1e-3
Axis = Literal["log", "straight"]
# A course whose whole story is over in this share of the time is told on a logarithmic axis.
_EARLY_FRAC = 0.05


@dataclass(slots=True)
class Chart:
    """A drawing of a course, and for each of its frames where on it that is [px]."""

    drawing: Drawing
    at_px: list[float]
    top_px: float
    bottom_px: float


def usual_axis(courses: Sequence[Course]) -> Axis:
    """Logarithmic where something happens in the first twentieth of the time."""
    early = any(one.events and one.events[0].time_s < _EARLY_FRAC * one.end_s for one in courses)
    return "log" if early else "straight"


def bench_charts(courses: Sequence[Course], axis: Axis, *, narrow: bool = False) -> list[Chart]:
    """Charts of courses with one scale of time, temperature and current.

    Parameters
    ----------
    courses : sequence of Course
        One or two, followed to the same end.
    axis : str
        ``log`` or ``straight``.
    narrow : bool
        For the hand: as wide as it is shown there, so that its words stay as large.

    Returns
    -------
    list of Chart
        In their order.
    """
    end_s, width = max(one.end_s for one in courses), NARROW if narrow else WIDTH
    first_s = min([_SHORTEST_S, *(one.events[0].time_s / 3 for one in courses if one.events)])
    first_s = max(min(first_s, end_s / 100), 1e-5)
    x = Scale(first_s if axis == "log" else 0.0, end_s, _LEFT, width - _RIGHT, log=axis == "log")
    hottest = max(temp_c for one in courses for temp_c in (*one.frames.conductor_c, *one.frames.joint_c))
    rated = max(one.setup.wire.insulation_c for one in courses)
    low = min(one.setup.wire.ambient_c for one in courses)
    strongest = max([0.001, *(one.most_a for one in courses)])
    y = Scale(min(low, 0.0), max(hottest, rated + 20) * 1.06, HEIGHT - _BOTTOM - _AMPS_HIGH - _GAP, _TOP)
    amps = Scale(0.0, strongest * 1.1, HEIGHT - _BOTTOM, HEIGHT - _BOTTOM - _AMPS_HIGH)
    return [_chart(one, x, y, amps) for one in courses]


def _chart(course: Course, x: Scale, y: Scale, amps: Scale) -> Chart:
    drawing = Drawing(
        kind="bench",
        title=setup_text(course.setup),
        note="Temperature of the copper (thick), of the insulation's surface (dashed) and of the joint (thin); "
        "amperes below. Still air.",
        width=x.end + _RIGHT,
        height=HEIGHT,
        columns=["Time", "Copper", "Surface", "Joint", "Current", "At the load", "Let through"],
    )
    _frame(drawing, x, y, amps)
    # Under the words of the marks.
    _band(drawing, course, x, y)
    _marks(drawing, course, x, y)
    _lines(drawing, course, x, y, amps)
    _rows(drawing, course)
    return Chart(drawing, [round(x.at(time_s), 1) for time_s in course.frames.time_s], _TOP, HEIGHT - _BOTTOM)


def time_tick(time_s: float) -> str:
    """A tick of time: milliseconds, seconds, minutes or hours."""
    if 0 < time_s < 1:
        return f"{1000 * time_s:.3g} ms"
    if time_s <= 120:
        return f"{time_s:g} s"
    return f"{time_s / 60:.3g} min" if time_s < 7200 else f"{time_s / 3600:.3g} h"


def _frame(drawing: Drawing, x: Scale, y: Scale, amps: Scale) -> None:
    piece = Piece("Axes: time, temperature in °C, current in amperes")
    piece.box(_LEFT, _TOP, x.end - _LEFT, y.start - _TOP)
    piece.box(_LEFT, amps.end, x.end - _LEFT, _AMPS_HIGH)
    ticks = x.ticks()
    every = max(1, math.ceil(len(ticks) * 56 / (x.end - _LEFT)))
    for at, value in enumerate(ticks):
        px = x.at(value)
        for top, bottom in ((_TOP, y.start), (amps.end, amps.start)):
            piece.strokes.append(Stroke([(px, top), (px, bottom)], tone="zinc"))
        if at % every == 0 and px < x.end - 16:
            piece.words.append(
                Words(px, HEIGHT - _BOTTOM + 16, time_tick(value), tone="soft", size=12, anchor="middle")
            )
    for value in y.ticks():
        py = y.at(value)
        piece.strokes.append(Stroke([(_LEFT, py), (x.end, py)], tone="zinc"))
        piece.words.append(Words(_LEFT - 6, py + 4, tick_text(value), tone="soft", size=12, anchor="end"))
    for value in amps.ticks()[-1:]:
        piece.words.append(Words(_LEFT - 6, amps.at(value) + 4, tick_text(value), tone="soft", size=12, anchor="end"))
    piece.words.append(Words(4, _TOP - 8, "°C", tone="soft", size=12))
    piece.words.append(Words(4, amps.start - 2, "A", tone="soft", size=12))
    drawing.pieces.append(piece)


def _marks(drawing: Drawing, course: Course, x: Scale, y: Scale) -> None:
    harm = harm_of(course.setup.wire.insulation_c)
    marks: list[tuple[float, str, Tone]] = [(float(course.setup.wire.insulation_c), "rated", "look")]
    marks += [(harm.blisters_c, "blisters", "fix"), (harm.smokes_c, "smokes", "stop"), (1085.0, "copper melts", "stop")]
    rated, blisters, smokes = course.setup.wire.insulation_c, harm.blisters_c, harm.smokes_c
    piece = Piece(f"Rated for {rated} °C, blisters at {blisters:g} °C, smokes at {smokes:g} °C")
    last = 1e9
    for temp_c, name, tone in marks:
        if not y.inside(temp_c):
            continue
        py = y.at(temp_c)
        piece.strokes.append(Stroke([(_LEFT, py), (x.end, py)], tone=tone, dashed=True))
        if last - py > 13:
            piece.words.append(Words(_LEFT + 5, py - 4, f"{name} {temp_c:g} °C", tone=tone, size=12))
            last = py
    drawing.pieces.append(piece)


def _band(drawing: Drawing, course: Course, x: Scale, y: Scale) -> None:
    fast, slow = course.fuse_fast_s, course.fuse_slow_s
    if fast is None and slow is None:
        return
    left, right = x.at(fast if fast is not None else slow or 0.0), x.at(slow if slow is not None else course.end_s)
    band = Piece("When the fuse opens, from its quick edge to its slow one")
    band.strokes.append(
        Stroke([(left, _TOP), (right, _TOP), (right, y.start), (left, y.start), (left, _TOP)], tone="none",
               fill="copper_wash")
    )  # fmt: skip
    for px in (left, right):
        band.strokes.append(Stroke([(px, _TOP), (px, y.start)], tone="copper", dashed=px == left))
    right_side = left > x.end * 0.7
    band.words.append(
        Words(
            left - 4 if right_side else left + 4,
            _TOP + 14,
            "fuse opens",
            size=12,
            anchor="end" if right_side else "start",
        )
    )
    drawing.pieces.append(band)


def _points(frames: Frames, values: list[float], x: Scale, y: Scale) -> list[tuple[float, float]]:
    return [
        (round(x.at(time_s), 1), round(y.at(value), 1))
        for time_s, value in zip(frames.time_s, values, strict=True)
        if time_s >= x.low
    ]


def _lines(drawing: Drawing, course: Course, x: Scale, y: Scale, amps: Scale) -> None:
    frames = course.frames
    piece = Piece("Temperatures")
    if course.setup.wire.neighbours:
        piece.strokes.append(Stroke(_points(frames, frames.neighbours_c, x, y), tone="soft", dashed=True))
    piece.strokes.append(Stroke(_points(frames, frames.surface_c, x, y), tone="copper", width=1.5, dashed=True))
    piece.strokes.append(Stroke(_points(frames, frames.joint_c, x, y), tone="ink", width=1.2))
    piece.strokes.append(Stroke(_points(frames, frames.conductor_c, x, y), tone="copper", width=2.6))
    piece.strokes.append(Stroke(_points(frames, frames.current_a, x, amps), tone="ink", width=1.6))
    drawing.pieces.append(piece)


def _rows(drawing: Drawing, course: Course) -> None:
    frames = course.frames
    n = len(frames.time_s)
    for at in sorted({*range(0, n, max(1, n // 24)), n - 1}):
        drawing.rows.append(
            [
                time_tick(float(f"{frames.time_s[at]:.3g}")), f"{frames.conductor_c[at]:.0f} °C",
                f"{frames.surface_c[at]:.0f} °C", f"{frames.joint_c[at]:.0f} °C", f"{frames.current_a[at]:.1f} A",
                f"{frames.load_v[at]:.2f} V", f"{frames.let_through_a2s[at]:.3g} A²s",
            ]
        )  # fmt: skip
    drawing.rows += [[event_text(course, one), "", "", "", "", "", ""] for one in course.events]
