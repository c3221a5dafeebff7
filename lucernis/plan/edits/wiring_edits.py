"""Edits of the distribution: feed a part from here, put one into a run, share a feeder, connect."""

from __future__ import annotations

from lucernis.errors import EditRefused
from lucernis.plan.edits.desk import Desk, Document, next_id, next_tag, pin_length
from lucernis.plan.edits.operations import AddBlock, Connect, DeleteRun, FeedPart, InsertPart, PutRelay, ShareFeeder
from lucernis.plan.units import parse_length_m


def add_block(desk: Desk, edit: AddBlock) -> None:
    """A new fuse block with the run that feeds it."""
    source = desk.part(edit.fed_from, "fed_from")
    if source["kind"] == "load":
        raise EditRefused(
            f"{source['name']} is a load", field="fed_from", value=edit.fed_from, allowed="a battery or a fuse block"
        )
    length_m, typed = parse_length_m(edit.length, field="length", preference=desk.doc["units"])
    block = desk.new_part({"kind": "fuse_block", "name": edit.name, "place": edit.place, "ways": edit.ways})
    desk.new_run(edit.fed_from, block["id"], length_m, typed, edit.confirmed)


def feed_part(desk: Desk, edit: FeedPart) -> None:
    """A new part with the run that feeds it."""
    source = desk.part(edit.fed_from, "fed_from")
    length_m, typed = parse_length_m(edit.length, field="length", preference=desk.doc["units"])
    part = desk.new_part(edit.part)
    run = desk.new_run(source["id"], part["id"], length_m, typed, edit.confirmed)
    run["legs"] = edit.legs
    if edit.terminal is not None:
        run["start"] = {"part": source["id"], "way": None, "terminal": edit.terminal}
    if edit.legs == "negative":
        run["fuse_at_start"], run["start"]["way"] = None, None
    desk.note_isolator(part)


def insert_part(desk: Desk, edit: InsertPart) -> None:
    """Cut a run and put a part in; what was at the run's ends stays there."""
    run = desk.run(edit.run)
    length_m, typed = parse_length_m(edit.length, field="length", preference=desk.doc["units"])
    if length_m >= run["length_m"]:
        raise EditRefused(
            f"{run['tag']} is {run['length_m']:g} m long",
            field="length",
            value=edit.length,
            allowed=f"less than {run['length_m']:g} m",
        )
    if run["legs"] == "negative" and edit.part.get("kind") not in ("shunt", "busbar", "joint", "chassis_point"):
        raise EditRefused(
            f"{run['tag']} carries the negative only",
            field="part/kind",
            value=edit.part.get("kind"),
            allowed="shunt, busbar, joint or chassis_point",
        )
    part = desk.new_part({"place": desk.part(run[edit.near]["part"])["place"], **edit.part})
    piece: Document = {
        **run,
        "id": next_id(desk.ids(), "r"),
        "tag": next_tag(desk.tags(), "C"),
        "name": "",
        "length_m": length_m,
        "length_as_typed": typed,
        "wire": None,
        "passes": [],
    }
    here = {"part": part["id"], "way": None, "terminal": None}
    if edit.near == "start":
        piece["finish"], piece["fuse_at_finish"] = here, None
        run["start"], run["fuse_at_start"] = dict(here), None
    else:
        piece["start"], piece["fuse_at_start"] = here, None
        run["finish"], run["fuse_at_finish"] = dict(here), None
    pin_length(piece)
    run["length_m"], run["length_as_typed"] = round(run["length_m"] - length_m, 6), None
    for one in (piece, run):
        for end in ("fuse_at_start", "fuse_at_finish"):
            fuse = one[end]
            if fuse is not None and fuse.get("distance_m", 0.0) > one["length_m"]:
                raise EditRefused(
                    f"the fuse of {run['tag']} stands {fuse['distance_m']:g} m from its end",
                    field="length",
                    value=edit.length,
                    allowed="a place behind the fuse",
                )
    desk.doc["runs"].insert(desk.doc["runs"].index(run) + (edit.near == "finish"), piece)
    desk.note_isolator(part)


def put_relay(desk: Desk, edit: PutRelay) -> None:
    """What the switch carried goes over a relay's contact; the switch keeps the coil."""
    switch = desk.part(edit.switch, "switch")
    feeder, onward = desk.feeder(edit.switch), desk.onward(edit.switch)
    if switch["kind"] != "switch" or feeder is None or not onward:
        raise EditRefused(
            f"{switch['name']} switches nothing", field="switch", value=edit.switch, allowed="a switch in a circuit"
        )
    relay = desk.new_part(
        {
            "kind": "relay",
            "name": f"{switch['name']} relay",
            "place": switch["place"],
            "contact_a": edit.contact_a,
            "suppression": "diode",
        }
    )
    for run in onward:
        run["start"] = {"part": relay["id"], "way": None, "terminal": "out"}
    source = feeder["start"]["part"]
    contact = desk.new_run(
        source, relay["id"], feeder["length_m"], feeder["length_as_typed"], feeder["length_confirmed"]
    )
    # The contact takes over the way and the fuse the load had; the switch moves to the next way with a small one.
    contact["start"], contact["fuse_at_start"] = feeder["start"], feeder["fuse_at_start"]
    contact["way"] = feeder["way"]
    feeder["start"] = desk.end_at(desk.part(source))
    feeder["fuse_at_start"] = {"distance_m": min(0.1, feeder["length_m"])}
    length_m, typed = parse_length_m(edit.coil_length, field="coil_length", preference=desk.doc["units"])
    coil = desk.new_run(edit.switch, relay["id"], length_m, typed, confirmed=False)
    coil["finish"] = {"part": relay["id"], "way": None, "terminal": "coil"}
    if feeder["legs"] != "both":
        # The switch has no negative to lend: the coil gets one of its own.
        home = desk.negative_home(source)
        if home is not None:
            coil["legs"] = "positive"
            back = desk.new_run(home, relay["id"], length_m, typed, confirmed=False)
            back["start"] = {"part": home, "way": None, "terminal": None}
            back["finish"] = {"part": relay["id"], "way": None, "terminal": "coil"}
            back["legs"], back["fuse_at_start"] = "negative", None
    feeder["wire"] = None


def share_feeder(desk: Desk, edit: ShareFeeder) -> None:
    """One feeder and a block near the loads in place of long runs of their own."""
    loads = [desk.load(one, "parts") for one in dict.fromkeys(edit.parts)]
    feeders: list[Document] = []
    for load in loads:
        feeder = desk.feeder(load["id"])
        if feeder is None:
            raise EditRefused(f"{load['name']} is on no circuit", field="parts", value=load["id"], allowed="fed loads")
        feeders.append(feeder)
    length_m, typed = parse_length_m(edit.length, field="length", preference=desk.doc["units"])
    branch_m, branch_typed = parse_length_m(edit.branch_length, field="branch_length", preference=desk.doc["units"])
    first = feeders[0]
    block = desk.new_part(
        {"kind": "fuse_block", "name": edit.name, "place": edit.place, "ways": max(4, 2 * ((len(loads) + 3) // 2))}
    )
    start, fuse = first["start"], first["fuse_at_start"]
    for way, feeder in enumerate(feeders, start=1):
        feeder["start"] = {"part": block["id"], "way": way, "terminal": None}
        feeder["fuse_at_start"] = {}
        feeder["length_m"], feeder["length_as_typed"], feeder["wire"] = branch_m, branch_typed, None
        pin_length(feeder)
    run = desk.new_run(start["part"], block["id"], length_m, typed, confirmed=False)
    # The way the first load has left is taken by the feeder; a pin on its fuse was meant for the load.
    run["start"], run["fuse_at_start"] = start, {**fuse, "pin": None} if fuse else fuse
    desk.doc["runs"].remove(run)
    desk.doc["runs"].insert(desk.doc["runs"].index(first), run)


def connect(desk: Desk, edit: Connect) -> None:
    """A run between two parts that are there."""
    desk.part(edit.start.part, "start")
    desk.part(edit.finish.part, "finish")
    length_m, typed = parse_length_m(edit.length, field="length", preference=desk.doc["units"])
    run = desk.new_run(edit.start.part, edit.finish.part, length_m, typed, edit.confirmed)
    run["legs"] = edit.legs
    if edit.start.way is not None or edit.start.terminal is not None or edit.legs == "negative":
        run["start"] = edit.start.model_dump()
    run["finish"] = edit.finish.model_dump()
    if edit.legs == "negative":
        run["fuse_at_start"] = None
    elif edit.fused and run["fuse_at_start"] is None:
        run["fuse_at_start"] = {"distance_m": min(0.1, length_m)}


def delete_run(desk: Desk, edit: DeleteRun) -> None:
    """Take a run out."""
    desk.remove_run(desk.run(edit.run))
