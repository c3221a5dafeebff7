"""Roof-off plan of the vehicle: its outline, places, channels with what lies in them, the way of one
run. The front is at the left; the scale is the same along and across."""

from __future__ import annotations

import math

from lucernis.core.layout.laid import Layout
from lucernis.core.pictures.drawing import PIXELS_PER_MM, Drawing, Piece, Scale, Stroke, Tone, Words
from lucernis.core.pictures.labelling import Room
from lucernis.core.report import ChannelReport, Report
from lucernis.plan.layout import Outline, Place
from lucernis.plan.model import Plan
from lucernis.plan.units import told_length

_WIDE_PX, _MARGIN = 1100.0, 46.0
_DOT = 5.0
# Places without a position stand in a row under the vehicle.
_ROW, _COLUMN = 30.0, 180.0
_TEXT = 12.5
# An area goes so far around its places. [m]
_ZONE_M = 0.12


def sides(outline: Outline) -> tuple[str, str]:
    """What the left and the right side are called, by the side of the road one drives on.

    Parameters
    ----------
    outline : Outline
        Its traffic.

    Returns
    -------
    tuple of str
        Left, right.
    """
    kerb, driver = "kerb side", "driver's side"
    return (f"left, {kerb}", f"right, {driver}") if outline.traffic == "left" else (f"left, {driver}", f"right, {kerb}")


class _Sheet:
    """Metres of the vehicle to pixels of the sheet."""

    def __init__(self, plan: Plan) -> None:
        self.outline = plan.job.vehicle.outline or _around(plan)
        long_m = self.outline.length_m + self.outline.nose_m
        self.px_per_m = min((_WIDE_PX - 2 * _MARGIN) / long_m, 320.0)
        self.width = long_m * self.px_per_m + 2 * _MARGIN
        self.inside_h = self.outline.width_m * self.px_per_m
        self.loose = [place for place in plan.places if place.x_m is None or place.y_m is None]
        per_row = max(1, int((self.width - 2 * _MARGIN) // _COLUMN))
        rows = math.ceil(len(self.loose) / per_row)
        self.height = self.inside_h + 2 * _MARGIN + (rows * _ROW + 24 if rows else 0)
        self._loose_at = {
            place.id: (
                _MARGIN + (at % per_row) * _COLUMN + 8,
                self.inside_h + 2 * _MARGIN + 20 + (at // per_row) * _ROW,
            )
            for at, place in enumerate(self.loose)
        }

    def x(self, x_m: float) -> float:
        return _MARGIN + (x_m + self.outline.nose_m) * self.px_per_m

    def y(self, y_m: float) -> float:
        return _MARGIN + y_m * self.px_per_m

    def at(self, place: Place) -> tuple[float, float]:
        if place.x_m is None or place.y_m is None:
            return self._loose_at[place.id]
        return self.x(place.x_m), self.y(place.y_m)


def _around(plan: Plan) -> Outline:
    """A plain rectangle around what is drawn, for a vehicle nobody has measured."""
    drawn = [(one.x_m, one.y_m) for one in plan.places if one.x_m is not None and one.y_m is not None]
    most_x = max([3.5, *(x_m + 0.3 for x_m, _ in drawn)])
    most_y = max([1.6, *(y_m + 0.2 for _, y_m in drawn)])
    nose_m = max([0.0, *(-x_m for x_m, _ in drawn)])
    return Outline(length_m=min(30.0, most_x), width_m=min(6.0, most_y), nose_m=min(6.0, nose_m))


def _body(sheet: _Sheet) -> Piece:
    """Walls, cab, what lies ahead, wheel arches and doors."""
    outline, piece = sheet.outline, Piece("Vehicle")
    left, right, top, bottom = sheet.x(0), sheet.x(outline.length_m), sheet.y(0), sheet.y(outline.width_m)
    nose, middle = sheet.x(-outline.nose_m), (top + bottom) / 2
    if outline.nose_m > 0:
        share = {"boat": 0.02, "caravan": 0.06, "motorcycle": 0.2}.get(outline.shape, 0.36)
        half = share * (bottom - top)
        front = [(left, top), (nose, middle - half), (nose, middle + half), (left, bottom)]
        piece.strokes.append(Stroke([*front, front[0]], tone="line", fill="zinc"))
    piece.box(left, top, right - left, bottom - top, tone="ink")
    if outline.cab_m > 0:
        cab = sheet.x(outline.cab_m)
        piece.strokes.append(Stroke([(cab, top), (cab, bottom)], tone="line", dashed=True))
        piece.words.append(Words(left + 8, top + 18, "cab", tone="soft", size=12))
    for arch in outline.arches:
        deep = arch.width_m * sheet.px_per_m
        y = top if arch.side == "left" else bottom - deep
        piece.box(sheet.x(arch.from_front_m), y, arch.length_m * sheet.px_per_m, deep, fill="zinc")
    for door in outline.doors:
        wide = door.width_m * sheet.px_per_m
        if door.side in ("left", "right"):
            y = top if door.side == "left" else bottom
            ends = [(sheet.x(door.from_m), y), (sheet.x(door.from_m) + wide, y)]
        else:
            x = left if door.side == "front" else right
            ends = [(x, sheet.y(door.from_m)), (x, sheet.y(door.from_m) + wide)]
        piece.strokes.append(Stroke(ends, tone="sheet", width=5))
        piece.strokes.append(Stroke(ends, tone="soft", width=1.5, dashed=True))
    left_name, right_name = sides(outline)
    piece.words.append(Words(sheet.width / 2, top - 14, left_name, tone="soft", size=12, anchor="middle"))
    piece.words.append(Words(sheet.width / 2, bottom + 24, right_name, tone="soft", size=12, anchor="middle"))
    piece.words.append(Words(nose - 6, middle + 4, "front", tone="soft", size=12, anchor="end"))
    return piece


def _zones(sheet: _Sheet, plan: Plan, room: Room) -> list[Piece]:
    """Where it is hotter or wetter than where most places are: an area around the places of each other zone."""
    standing: dict[str, list[tuple[float, float]]] = {zone.id: [] for zone in plan.zones}
    for place in plan.places:
        if place.x_m is not None and place.y_m is not None:
            standing[place.zone].append(sheet.at(place))
    most = max(standing, key=lambda zone: len(standing[zone]))
    found, pad = [], _ZONE_M * sheet.px_per_m
    for zone in plan.zones:
        points = standing[zone.id]
        if not points or zone.id == most:
            continue
        left, right = min(x for x, _ in points) - pad, max(x for x, _ in points) + pad
        top, bottom = min(y for _, y in points) - pad, max(y for _, y in points) + pad
        corners = [(left, top), (right, top), (right, bottom), (left, bottom), (left, top)]
        piece = Piece(f"Zone {zone.name}")
        piece.strokes.append(Stroke(corners, tone="line", dashed=True))
        text = f"{zone.name}, {zone.ambient_c:g} °C" + (", wet" if zone.wet else "")
        x, base, anchor = room.at_corner((left, top, right, bottom), text, 12)
        piece.words.append(Words(x, base, text, tone="soft", size=12, anchor=anchor))
        found.append(piece)
    return found


def _channel(
    sheet: _Sheet, channel: ChannelReport, ends: tuple[Place, Place], *, on_way: bool, text: str, bend: float
) -> Piece:
    (x1, y1), (x2, y2) = sheet.at(ends[0]), sheet.at(ends[1])
    far = math.hypot(x2 - x1, y2 - y1) or 1.0
    # Bent a little, so that two channels between the same places and those in a row stay apart.
    off_x, off_y = -(y2 - y1) / far * bend, (x2 - x1) / far * bend
    points = [
        (x1, y1),
        (x1 + (x2 - x1) / 3 + off_x, y1 + (y2 - y1) / 3 + off_y),
        (x1 + 2 * (x2 - x1) / 3 + off_x, y1 + 2 * (y2 - y1) / 3 + off_y),
        (x2, y2),
    ]
    piece = Piece(text, subject=channel.id)
    width = max(1.5, min(14.0, channel.bundle_mm * PIXELS_PER_MM / 3))
    tone: Tone = "copper" if on_way else "soft"
    if channel.verdict in ("stop", "fix"):
        tone = "stop" if channel.verdict == "stop" else "fix"
    stroke = Stroke(points, tone=tone, width=width + (2.5 if on_way else 0), dashed=channel.length_guessed, curve=True)
    piece.strokes.append(stroke)
    middle_x, middle_y = (x1 + x2) / 2 + 0.75 * off_x, (y1 + y2) / 2 + 0.75 * off_y
    for at in range(len(channel.holes)):
        x = middle_x + 11 * (at - (len(channel.holes) - 1) / 2)
        ring = [(x + 4 * math.cos(k * math.pi / 4), middle_y + 4 * math.sin(k * math.pi / 4)) for k in range(9)]
        piece.strokes.append(Stroke(ring, tone="ink", width=1.2, fill="sheet"))
    return piece


def _number(sheet: _Sheet, ends: tuple[Place, Place], number: int, bend: float, room: Room) -> Piece:
    """The number of a channel beside its middle, as the table below has it."""
    (x1, y1), (x2, y2) = sheet.at(ends[0]), sheet.at(ends[1])
    far = math.hypot(x2 - x1, y2 - y1) or 1.0
    x, y = (x1 + x2) / 2 - (y2 - y1) / far * bend, (y1 + y2) / 2 + (x2 - x1) / far * bend
    piece = Piece(f"Number {number}")
    left, base, anchor = room.beside(x, y, str(number), 12)
    piece.words.append(Words(left, base, str(number), size=12, anchor=anchor, mono=True))
    return piece


def _scale_bar(sheet: _Sheet) -> Piece:
    """A metre as it is drawn, at the lower left."""
    piece = Piece("Scale: one metre")
    x, y = _MARGIN, sheet.height - 10
    piece.strokes.append(Stroke([(x, y - 5), (x, y), (x + sheet.px_per_m, y), (x + sheet.px_per_m, y - 5)], tone="ink"))
    piece.words.append(Words(x + sheet.px_per_m + 6, y, "1 m", size=12))
    return piece


def roof_off(plan: Plan, report: Report, layout: Layout, run_id: str | None = None) -> Drawing:
    """The plan of the vehicle.

    Parameters
    ----------
    plan : Plan
        Outline, places, channels.
    report : Report
        What lies in the channels.
    layout : Layout
        Where the runs lie.
    run_id : str, optional
        A run whose way is shown.

    Returns
    -------
    Drawing
        To scale, with the channels as a table.
    """
    sheet = _Sheet(plan)
    places = {place.id: place for place in plan.places}
    way = set(layout.routes[run_id].channels) if run_id in layout.routes else set[str]()
    drawing = Drawing(
        kind="layout",
        title="Roof-off plan",
        note="Seen from above. Drawn to scale; lengths are those of the tape, a channel drawn dashed has none yet. "
        "Rings are holes.",
        width=sheet.width,
        height=sheet.height,
        scale=Scale(sheet.x(0), sheet.y(0), sheet.px_per_m),
        columns=["Channel", "From", "To", "Length", "Runs", "Conductors together", "Bundle", "Holes", "Number"],
    )
    drawing.pieces.append(_body(sheet))
    tags = {run.id: run.tag for run in report.runs}
    room = Room(sheet.width, sheet.height)
    for place in plan.places:
        room.take(*sheet.at(place), _DOT + 2)
    for one in plan.channels:
        # Names keep off the channels where they can.
        (x1, y1), (x2, y2) = sheet.at(places[one.start]), sheet.at(places[one.finish])
        for k in range(1, 12):
            room.take(x1 + (x2 - x1) * k / 12, y1 + (y2 - y1) * k / 12, 3.0)
    drawing.pieces += _zones(sheet, plan, room)
    documents = {channel.id: channel for channel in plan.channels}
    seen: dict[frozenset[str], int] = {}
    for number, channel in enumerate(report.channels, start=1):
        doc = documents[channel.id]
        between = frozenset((doc.start, doc.finish))
        seen[between] = seen.get(between, 0) + 1
        long = "no length" if channel.length_m is None else told_length(channel.length_m, plan.units)
        long = f"~{long}" if channel.length_guessed and channel.length_m is not None else long
        lying = ", ".join(tags[one] for one in channel.runs) or "nothing"
        text = f"{channel.name}: {channel.start} to {channel.finish}, {long}, holds {lying}"
        ends = (places[doc.start], places[doc.finish])
        bend = 10.0 + 12.0 * (seen[between] - 1)
        drawing.pieces.append(_channel(sheet, channel, ends, on_way=channel.id in way, text=text, bend=bend))
        drawing.rows.append(
            [
                channel.name, channel.start, channel.finish, long, lying, str(channel.conductors),
                f"{channel.bundle_mm:.0f} mm" if channel.wires else "–", str(len(channel.holes)), str(number),
            ]
        )  # fmt: skip
        drawing.pieces.append(_number(sheet, ends, number, bend, room))
    drawing.pieces.append(_scale_bar(sheet))
    standing: dict[str, list[str]] = {}
    for part in plan.parts:
        standing.setdefault(part.place or "", []).append(part.name)
    for place in plan.places:
        x, y = sheet.at(place)
        things = ", ".join(standing.get(place.id, [])) or "nothing"
        piece = Piece(f"{place.name}: {things}", subject=place.id)
        fill: Tone = "ink" if standing.get(place.id) else "sheet"
        piece.box(x - _DOT, y - _DOT, 2 * _DOT, 2 * _DOT, tone="ink", fill=fill)
        left, base, anchor = room.beside(x, y, place.name, _TEXT)
        piece.words.append(Words(left, base, place.name, size=_TEXT, anchor=anchor))
        drawing.pieces.append(piece)
    if sheet.loose:
        note = Piece("Not placed yet")
        note.words.append(
            Words(_MARGIN, sheet.inside_h + 2 * _MARGIN, "Not placed on the plan yet", tone="soft", size=12)
        )
        drawing.pieces.append(note)
    return drawing
