"""Edits of the layout: places, channels, and runs that follow them."""

from __future__ import annotations

from collections.abc import Sequence

from lucernis.errors import EditRefused
from lucernis.plan.channels_csv import read_channels
from lucernis.plan.edits.desk import Desk, Document, next_id
from lucernis.plan.edits.operations import (
    AddChannel,
    AddPlace,
    DeleteChannel,
    DeletePlace,
    FollowChannels,
    MeasureChannel,
    PutPlace,
    TakeChannels,
)
from lucernis.plan.layout import Outline
from lucernis.plan.layout_references import bounds_m
from lucernis.plan.units import parse_length_m

# Places stand on a grid of this, or at a wall that is nearer than twice as much. [m]
GRID_M = 0.05
# Shorter words are too near one another to tell a slip from a name.
_LEAST_WORD = 4


def snapped_m(value_m: float, walls_m: tuple[float, ...]) -> float:
    """A position on the grid, or at a wall close by.

    Parameters
    ----------
    value_m : float
        Where it was put. [m]
    walls_m : tuple of float
        Positions of walls. [m]

    Returns
    -------
    float
        Where it stands. [m]
    """
    near = min(walls_m, key=lambda wall: abs(wall - value_m), default=None)
    if near is not None and abs(near - value_m) < 2 * GRID_M:
        return near
    return round(round(value_m / GRID_M) * GRID_M, 3)


def _place(desk: Desk, place_id: str, field: str = "place") -> Document:
    for place in desk.doc["places"]:
        if place["id"] == place_id:
            return place  # type: ignore[no-any-return]
    raise EditRefused(f"no place {place_id!r}", field=field, value=place_id, allowed="the id of a place of this plan")


def _channel(desk: Desk, channel_id: str) -> Document:
    for channel in desk.doc["channels"]:
        if channel["id"] == channel_id:
            return channel  # type: ignore[no-any-return]
    raise EditRefused(
        f"no channel {channel_id!r}", field="channel", value=channel_id, allowed="the id of a channel of this plan"
    )


def _position(desk: Desk, x_m: float, y_m: float) -> tuple[float, float]:
    drawn = desk.doc["job"]["vehicle"].get("outline")
    if drawn is None:
        return snapped_m(x_m, ()), snapped_m(y_m, ())
    outline = Outline.model_validate(drawn)
    bounds = bounds_m(outline)
    x_m = min(max(x_m, bounds["x_m"][0]), bounds["x_m"][1])
    y_m = min(max(y_m, bounds["y_m"][0]), bounds["y_m"][1])
    return (
        snapped_m(x_m, (-outline.nose_m, 0.0, outline.cab_m, outline.length_m)),
        snapped_m(y_m, (0.0, outline.width_m)),
    )


def _new_place(desk: Desk, name: str, zone: str | None) -> Document:
    places = desk.doc["places"]
    zone = zone or (places[-1]["zone"] if places else desk.doc["zones"][0]["id"])
    place: Document = {"id": next_id([one["id"] for one in places], "pl"), "name": name, "zone": zone}
    places.append(place)
    return place


def add_place(desk: Desk, edit: AddPlace) -> None:
    """A new place."""
    if any(one["name"].casefold() == edit.name.strip().casefold() for one in desk.doc["places"]):
        raise EditRefused(
            f"there is a place {edit.name!r} already", field="name", value=edit.name, allowed="a name of its own"
        )
    place = _new_place(desk, edit.name.strip(), edit.zone)
    if edit.x_m is not None and edit.y_m is not None:
        place["x_m"], place["y_m"] = _position(desk, edit.x_m, edit.y_m)


def put_place(desk: Desk, edit: PutPlace) -> None:
    """Where a place stands, on the grid and within the vehicle."""
    place = _place(desk, edit.place)
    place["x_m"], place["y_m"] = _position(desk, edit.x_m, edit.y_m)


def delete_place(desk: Desk, edit: DeletePlace) -> None:
    """A place goes, with the channels that lead to it; parts that stood there stand nowhere."""
    place = _place(desk, edit.place)
    for channel in [one for one in desk.doc["channels"] if place["id"] in (one["start"], one["finish"])]:
        _take_out(desk, channel)
    for part in desk.doc["parts"]:
        if part.get("place") == place["id"]:
            part["place"] = None
    # Nothing points at a place by its id alone, and a part may have the same.
    desk.doc["places"].remove(place)


def _measure(desk: Desk, channel: Document, text: str) -> None:
    if not text.strip():
        channel["length_m"] = channel["length_as_typed"] = None
        return
    channel["length_m"], channel["length_as_typed"] = parse_length_m(
        text, field="length", preference=desk.doc["units"], reading="one_way"
    )


def add_channel(desk: Desk, edit: AddChannel) -> None:
    """A new channel between two places."""
    start, finish = _place(desk, edit.start, "start"), _place(desk, edit.finish, "finish")
    channels = desk.doc["channels"]
    channel: Document = {
        "id": next_id([one["id"] for one in channels], "ch"),
        "name": edit.name.strip() or f"{start['name']} to {finish['name']}"[:80],
        "start": start["id"],
        "finish": finish["id"],
    }
    _measure(desk, channel, edit.length)
    channels.append(channel)


def measure_channel(desk: Desk, edit: MeasureChannel) -> None:
    """The tape's reading; an empty one lets go."""
    _measure(desk, _channel(desk, edit.channel), edit.text)


def _take_out(desk: Desk, channel: Document) -> None:
    desk.doc["channels"].remove(channel)
    desk.forget(channel["id"])
    for run in desk.doc["runs"]:
        if run.get("way") is not None:
            for name in ("use", "avoid"):
                run["way"][name] = [one for one in run["way"].get(name, ()) if one != channel["id"]]


def delete_channel(desk: Desk, edit: DeleteChannel) -> None:
    """A channel goes; ways no longer name it."""
    _take_out(desk, _channel(desk, edit.channel))


def follow_channels(desk: Desk, edit: FollowChannels) -> None:
    """Let runs follow the channels, or no longer."""
    for run_id in edit.runs:
        run = desk.run(run_id)
        if edit.follow:
            run["way"] = {"use": list(edit.use), "avoid": list(edit.avoid), "length_pinned": edit.keep_length}
        else:
            run["way"] = None


def _holes_anew(held: Sequence[Document], read: Sequence[Document]) -> list[Document]:
    """Holes as read; what a table does not tell of one that is there already, as its grommet, stays."""
    left = list(held)
    found = []
    for hole in read:
        same = next((one for one in left if one["through"] == hole["through"]), None)
        if same is not None:
            left.remove(same)
        found.append({**(same or {}), **hole})
    return found


def _letters_off(one: str, other: str) -> bool:
    """Whether two words differ by one letter put in, left out or other, or by two exchanged; digits are no letters."""
    if abs(len(one) - len(other)) > 1 or min(len(one), len(other)) < _LEAST_WORD:
        return False
    at = next((k for k, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))
    swapped = one[:at] + one[at + 1 : at + 2] + one[at : at + 1] + one[at + 2 :]
    tails = {(one[at + 1 :], other[at:]), (one[at:], other[at + 1 :]), (one[at + 1 :], other[at + 1 :])}
    differing = one[at : at + 1] + other[at : at + 1]
    return differing.isalpha() and (swapped == other or any(a == b for a, b in tails))


def _not_misspelt(line: int, name: str, there: Sequence[str]) -> None:
    """Refuse a new place whose name is that of one there is but for a letter: it would become an island."""
    words = name.casefold().split()
    for known in there:
        others = known.split()
        pairs = [(a, b) for a, b in zip(words, others, strict=False) if a != b]
        if len(words) == len(others) and len(pairs) == 1 and _letters_off(*pairs[0]):
            raise EditRefused(
                f"line {line}: no place {name!r}; {known!r} is one letter off", field="csv", value=name, allowed=known
            )


def take_channels(desk: Desk, edit: TakeChannels) -> None:
    """Channels from a table of text."""
    places = {one["name"].casefold(): one["id"] for one in desk.doc["places"]}
    zones = {one["name"].casefold(): one["id"] for one in desk.doc["zones"]}
    there, met = list(places), set[str]()
    for row in read_channels(edit.csv, desk.doc["units"]):
        if row.zone and row.zone.casefold() not in zones:
            raise EditRefused(
                f"line {row.line}, zone: no zone {row.zone!r}",
                field="csv",
                value=row.zone,
                allowed=", ".join(one["name"] for one in desk.doc["zones"]),
            )
        zone = zones[row.zone.casefold()] if row.zone else None
        ends = []
        for name in (row.start, row.finish):
            if name.casefold() not in places:
                _not_misspelt(row.line, name, there)
                places[name.casefold()] = _new_place(desk, name, zone)["id"]
            ends.append(places[name.casefold()])
        if ends[0] == ends[1]:
            raise EditRefused(
                f"line {row.line}: leads from {row.start} to itself",
                field="csv",
                value=row.finish,
                allowed="two places",
            )
        name = row.name or f"{row.start} to {row.finish}"[:80]
        channels = desk.doc["channels"]
        # Each row is a channel of its own, two of one name between the same places too.
        same = [
            one
            for one in channels
            if one["id"] not in met and one["name"] == name and {one["start"], one["finish"]} == set(ends)
        ]
        channel: Document = same[0] if same else {"id": next_id([one["id"] for one in channels], "ch"), "name": name}
        met.add(channel["id"])
        if not same:
            channel |= {"start": ends[0], "finish": ends[1]}
            channels.append(channel)
        read: dict[str, Document] = {
            "length": {"length_m": row.length_m, "length_as_typed": row.length_as_typed},
            "zone": {"zone": zone},
            "holes": {"crossings": _holes_anew(channel.get("crossings", ()), row.holes)},
            "clamp": {"clamp_m": row.clamp_m},
            "inside_mm": {"inside_mm": row.inside_mm},
            "near": {"near": row.near},
            "closed": {"closed": row.closed},
        }
        for column, fields in read.items():
            # What the table has no column for stays as it was surveyed.
            if column in row.given:
                channel.update(fields)
