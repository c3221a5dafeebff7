"""Day ribbon: state of charge over the days, fair and poor, above what comes in and what goes out."""

from __future__ import annotations

import math

from lucernis.core.energy.forecast import Course, Forecast
from lucernis.core.pictures.axes import Scale, tick_text
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Tone, Words

WIDTH = 770.0
LEFT, RIGHT, TOP = 54.0, 16.0, 34.0
CHARGE_H, FLOW_H, BETWEEN = 210.0, 120.0, 44.0
# Shades, not colours: copper means conductor and the others mean a verdict.
_FLOWS: tuple[tuple[int, str, Tone], ...] = ((3, "engine", "ink"), (4, "shore", "soft"), (5, "sun", "line"))


def day_ribbon(found: Forecast) -> Drawing:
    """The ribbon of a forecast.

    Parameters
    ----------
    found : Forecast
        With its courses.

    Returns
    -------
    Drawing
        State of charge of both courses with the band between, and under it the powers of the poor one's days.
    """
    flows = len(found.courses)
    drawing = Drawing(
        kind="days",
        title="Day ribbon",
        note="Above: how full the bank is, lowest of each stretch; the band lies between a fair and a poor course. "
        "Below: what comes in (up) and what the loads take (down), course by course.",
        width=WIDTH,
        height=TOP + CHARGE_H + (FLOW_H + BETWEEN) * flows + 30,
        columns=[
            "Course",
            "Lowest",
            "At",
            "End",
            "In",
            "Loads",
            "Engine",
            "Shore",
            "Sun",
            "Sun not used",
            "Not served",
        ],
    )
    if not found.courses:
        return drawing
    end_h = found.courses[0].points[-1][0]
    x = Scale(0.0, end_h, LEFT, WIDTH - RIGHT)
    y = Scale(0.0, 1.0, TOP + CHARGE_H, TOP)
    _days(drawing, x, end_h)
    _charge(drawing, x, y, found)
    for at, course in enumerate(found.courses):
        top = TOP + CHARGE_H + BETWEEN + at * (FLOW_H + BETWEEN)
        _flow(drawing, x, course, top)
        drawing.rows.append(_row(course))
    return drawing


def _row(course: Course) -> list[str]:
    return [
        f"{course.name}: {course.label}",
        f"{100 * course.lowest_soc:.0f} %",
        f"day {course.lowest_at_h / 24 + 1:.1f}",
        f"{100 * course.end_soc:.0f} %",
        f"{course.in_wh / 1000:.1f} kWh",
        f"{course.loads_wh / 1000:.1f} kWh",
        f"{100 * course.engine_frac:.0f} %",
        f"{100 * course.shore_frac:.0f} %",
        f"{100 * course.sun_frac:.0f} %",
        f"{course.unused_sun_wh / 1000:.1f} kWh",
        f"{course.unserved_wh / 1000:.1f} kWh",
    ]


def _days(drawing: Drawing, x: Scale, end_h: float) -> None:
    piece = Piece("Days")
    days = math.ceil(end_h / 24)
    every = max(1, math.ceil(days / 14))
    bottom = drawing.height - 30
    for day in range(0, days, every):
        at = x.at(day * 24.0)
        piece.strokes.append(Stroke([(at, TOP), (at, bottom)], tone="zinc"))
        piece.words.append(Words(at + 4, TOP - 8, f"day {day + 1}", tone="soft", size=12))
    drawing.pieces.append(piece)


def _charge(drawing: Drawing, x: Scale, y: Scale, found: Forecast) -> None:
    frame = Piece("Axis: state of charge in percent")
    frame.box(LEFT, TOP, WIDTH - LEFT - RIGHT, CHARGE_H, fill="none")
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        frame.strokes.append(Stroke([(LEFT, y.at(share)), (WIDTH - RIGHT, y.at(share))], tone="zinc"))
        frame.words.append(
            Words(LEFT - 6, y.at(share) + 4, f"{100 * share:.0f} %", tone="soft", size=12, anchor="end", mono=True)
        )
    drawing.pieces.append(frame)
    curves = [[(x.at(point[0]), y.at(point[1])) for point in course.points] for course in found.courses]
    if len(curves) > 1:
        band = Piece("Between fair and poor weather")
        band.strokes.append(Stroke([*curves[0], *reversed(curves[-1])], tone="none", fill="zinc"))
        drawing.pieces.append(band)
    planned = Piece(f"Planned to stay above {100 * found.planned_low_soc:.0f} %")
    at = y.at(found.planned_low_soc)
    planned.strokes.append(Stroke([(LEFT, at), (WIDTH - RIGHT, at)], tone="stop", dashed=True))
    planned.words.append(Words(LEFT + 6, at + 14, "lowest that is planned for", tone="stop", size=12))
    drawing.pieces.append(planned)
    for k, (course, curve) in enumerate(zip(found.courses, curves, strict=True)):
        piece = Piece(f"{course.name}: lowest {100 * course.lowest_soc:.0f} %")
        piece.strokes.append(Stroke(curve, tone="ink", width=2.5 if k == 0 else 1.5, dashed=k > 0))
        at_x = WIDTH - RIGHT - 150 * (len(found.courses) - k)
        piece.strokes.append(
            Stroke([(at_x, 8), (at_x + 22, 8)], tone="ink", width=2.5 if k == 0 else 1.5, dashed=k > 0)
        )
        piece.words.append(Words(at_x + 28, 12, f"{course.name}, lowest {100 * course.lowest_soc:.0f} %", size=12))
        drawing.pieces.append(piece)


def _flow(drawing: Drawing, x: Scale, course: Course, top: float) -> None:
    came, taken = max(sum(point[3:6]) for point in course.points), max(point[2] for point in course.points)
    # Neither side so flat that its figure would lie on the zero.
    most, least = max(came, 0.25 * taken, 1.0), max(taken, 0.25 * came, 1.0)
    y = Scale(-least, most, top + FLOW_H, top)
    piece = Piece(f"Powers in {course.name} weather: in up to {most:.0f} W, loads up to {least:.0f} W")
    piece.box(LEFT, top, WIDTH - LEFT - RIGHT, FLOW_H, fill="none")
    for value in (-least, 0.0, most):
        text = tick_text(round(abs(value)))
        piece.words.append(Words(LEFT - 6, y.at(value) + 4, text, tone="soft", size=12, anchor="end", mono=True))
    piece.strokes.append(Stroke([(LEFT, y.at(0)), (WIDTH - RIGHT, y.at(0))], tone="line"))
    piece.words.append(Words(LEFT + 4, top - 6, f"{course.name}, W", tone="soft", size=12, bold=True))
    drawing.pieces.append(piece)
    under = [0.0] * len(course.points)
    legend = LEFT + 90
    for column, name, tone in _FLOWS:
        if not any(point[column] > 0 for point in course.points):
            continue
        over = [low + point[column] for low, point in zip(under, course.points, strict=True)]
        outline = [(x.at(p[0]), y.at(v)) for p, v in zip(course.points, over, strict=True)]
        outline += [(x.at(p[0]), y.at(v)) for p, v in reversed(list(zip(course.points, under, strict=True)))]
        area = Piece(f"{course.name}: from {name}")
        area.strokes.append(Stroke(outline, tone=tone, fill=tone, width=0.5))
        area.box(legend, top - 15, 10, 10, tone=tone, fill=tone)
        area.words.append(Words(legend + 14, top - 6, name, size=12, tone="soft"))
        legend += 70
        drawing.pieces.append(area)
        under = over
    loads = Piece(f"{course.name}: loads")
    outline = [(x.at(p[0]), y.at(-p[2])) for p in course.points]
    loads.strokes.append(
        Stroke([(x.at(course.points[0][0]), y.at(0)), *outline, (x.at(course.points[-1][0]), y.at(0))], tone="soft",
               fill="zinc", width=0.5)
    )  # fmt: skip
    loads.box(legend, top - 15, 10, 10, tone="soft", fill="zinc")
    loads.words.append(Words(legend + 14, top - 6, "loads", size=12, tone="soft"))
    drawing.pieces.append(loads)
