"""Edits of the load list and of what each load hangs on."""

from __future__ import annotations

import copy

from lucernis.errors import EditRefused, LucernisError
from lucernis.plan.cells import set_cell
from lucernis.plan.edits.desk import FIRST_LENGTH_M, Desk, Document, first_fuse, next_id, next_tag, pin_length
from lucernis.plan.edits.operations import (
    AddLoads,
    DeletePart,
    DuplicateLoad,
    FillLoad,
    MoveLoad,
    PutLoad,
    SetCell,
    TakeOff,
)
from lucernis.plan.parts import Load
from lucernis.plan.units import parse_length_m


def type_cell(desk: Desk, edit: SetCell) -> None:
    """Type into the load list."""
    part = desk.load(edit.part)
    set_cell(part, desk.feeder(edit.part), edit.column, edit.text, desk.context(edit.confirmed))


def add_loads(desk: Desk, edit: AddLoads) -> None:
    """Rows for the load list, each on a run of its own."""
    context = desk.context(edit.confirmed)
    block = edit.block or desk.first_block()
    at = len(desk.doc["parts"])
    if edit.after is not None:
        at = desk.doc["parts"].index(desk.load(edit.after, "after")) + 1
    for number, row in enumerate(edit.rows):
        part: Document = {
            "kind": "load",
            "id": next_id(desk.ids(), "l"),
            "tag": next_tag(desk.tags(), "L"),
            "name": row.get("name", "").strip() or "New load",
            "maker": {},
        }
        desk.doc["parts"].insert(at + number, part)
        run = None
        if block is not None:
            if desk.part(block, "block")["kind"] != "fuse_block":
                raise EditRefused("loads go on a fuse block", field="block", value=block, allowed="id of a fuse block")
            run = desk.new_run(block, part["id"], FIRST_LENGTH_M, None, confirmed=False)
        for column, text in row.items():
            if text.strip() or column != "name":
                try:
                    set_cell(part, run, column, text, context)
                except LucernisError as error:
                    error.field = f"rows/{number}/{column}"
                    raise


def fill(desk: Desk, edit: FillLoad) -> None:
    """Fields a load still has at their default take usual figures: watts only where neither watts nor amps are typed,
    starting current and cycles only as pairs nobody has begun."""
    part = desk.load(edit.part)
    typed = part.get("power_w") is not None or part.get("current_a") is not None
    paired = {"inrush_factor": "inrush_s", "cycle_on_s": "cycle_off_s"}
    partner = paired | {other: one for one, other in paired.items()}
    begun = {name for name in partner if part.get(name) is not None}
    for name, value in edit.values.items():
        default = Load.model_fields[name].default
        if part.get(name, default) != default or (name == "power_w" and typed):
            continue
        if name in partner and (name in begun or partner[name] in begun):
            continue
        part[name] = value


def duplicate(desk: Desk, edit: DuplicateLoad) -> None:
    """A copy of a load on a run of its own."""
    source = desk.load(edit.part)
    twin = copy.deepcopy(source)
    twin["id"], twin["tag"] = next_id(desk.ids(), "l"), next_tag(desk.tags(), "L")
    desk.doc["parts"].insert(desk.doc["parts"].index(source) + 1, twin)
    feeder = desk.feeder(edit.part)
    if feeder is None:
        return
    run = desk.new_run(
        feeder["start"]["part"], twin["id"], feeder["length_m"], feeder["length_as_typed"], feeder["length_confirmed"]
    )
    for name in ("zone", "bundle_count", "insulation_c", "way"):
        run[name] = feeder[name]


def delete(desk: Desk, edit: DeletePart) -> None:
    """Take a part out; what hung behind a load stays fed."""
    part = desk.part(edit.part)
    feeder, onward = desk.feeder(edit.part), desk.onward(edit.part)
    if part["kind"] == "load" and feeder is not None:
        for index, run in enumerate(onward):
            # What hung behind keeps its copper's way: the stretch to the removed load is added to it.
            run["length_m"] = round(run["length_m"] + feeder["length_m"], 6)
            run["length_as_typed"] = None
            run["length_confirmed"] = run["length_confirmed"] or feeder["length_confirmed"]
            if index == 0:
                run["start"], run["fuse_at_start"] = feeder["start"], feeder["fuse_at_start"]
            else:
                source = desk.part(feeder["start"]["part"])
                run["start"] = desk.end_at(source)
                run["fuse_at_start"] = {} if source["kind"] == "fuse_block" else run["fuse_at_start"]
    else:
        for run in onward:
            desk.remove_run(run)
    if feeder is not None:
        desk.remove_run(feeder)
    for run in [run for run in desk.doc["runs"] if edit.part in (run["finish"]["part"], run["start"]["part"])]:
        desk.remove_run(run)
    desk.doc["parts"].remove(part)
    desk.forget(edit.part)


def move(desk: Desk, edit: MoveLoad) -> None:
    """Move a load in the list."""
    part = desk.load(edit.part)
    loads = [one for one in desk.doc["parts"] if one["kind"] == "load"]
    at = loads.index(part)
    to = min(max(at + edit.by, 0), len(loads) - 1)
    loads.insert(to, loads.pop(at))
    order = iter(loads)
    desk.doc["parts"] = [next(order) if one["kind"] == "load" else one for one in desk.doc["parts"]]


def _behind(desk: Desk, part_id: str) -> set[str]:
    found: set[str] = set()
    ahead = [part_id]
    while ahead:
        for run in desk.onward(ahead.pop()):
            if run["finish"]["part"] not in found:
                found.add(run["finish"]["part"])
                ahead.append(run["finish"]["part"])
    return found


def put(desk: Desk, edit: PutLoad) -> None:
    """Put a load on a part."""
    part, target = desk.load(edit.part), desk.part(edit.on, "on")
    if edit.on == edit.part or edit.on in _behind(desk, edit.part):
        raise EditRefused(
            f"{target['name']} hangs behind {part['name']}", field="on", value=edit.on, allowed="a part not behind it"
        )
    feeder = desk.feeder(edit.part)
    length_m, typed, confirmed = FIRST_LENGTH_M, None, False
    if feeder is not None:
        length_m, typed, confirmed = feeder["length_m"], feeder["length_as_typed"], feeder["length_confirmed"]
    if edit.length is not None:
        length_m, typed = parse_length_m(
            edit.length, field="length", preference=desk.doc["units"], reading=edit.reading
        )
        confirmed = edit.confirmed
        if feeder is not None:
            pin_length(feeder)
    if feeder is None:
        desk.new_run(edit.on, edit.part, length_m, typed, confirmed)
        return
    if feeder["start"]["part"] != edit.on:
        feeder["start"], feeder["fuse_at_start"] = desk.end_at(target), first_fuse(target)
    feeder["length_m"], feeder["length_as_typed"], feeder["length_confirmed"] = length_m, typed, confirmed


def take_off(desk: Desk, edit: TakeOff) -> None:
    """Take a load off its circuit."""
    desk.load(edit.part)
    feeder = desk.feeder(edit.part)
    if feeder is not None:
        desk.remove_run(feeder)
