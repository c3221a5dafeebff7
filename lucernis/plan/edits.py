"""Edits by the work: what a person does to a plan, as operations on the document. Simple fields go by JSON Patch.

An operation takes a document (the full JSON of a plan) and changes its own copy; `apply_edits` validates the outcome,
so that nothing half-done is ever kept.
"""

from __future__ import annotations

import copy
import re
from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from lucernis.errors import BadDocument, EditRefused, FieldProblem, LucernisError
from lucernis.plan.cells import COLUMNS, CellContext, Column, set_cell
from lucernis.plan.model import Plan, parse_plan, plan_document
from lucernis.plan.sizes import parse_size
from lucernis.plan.units import LengthReading, parse_length_m
from lucernis.practice.rules import FuseFamily, resolve_rules

Document = dict[str, Any]
CellText = Annotated[str, Field(max_length=400)]


class _Op(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class SetCell(_Op):
    """Type a text into one cell of the load list."""

    op: Literal["set_cell"]
    part: str
    column: Column
    text: CellText
    confirmed: bool = False


class AddLoads(_Op):
    """Add rows to the load list, each on a way of its own of a block while there is one."""

    op: Literal["add_loads"]
    rows: list[dict[Column, CellText]] = Field(min_length=1, max_length=500)
    after: str | None = None
    block: str | None = None
    confirmed: bool = False


class DuplicateLoad(_Op):
    """A copy of a load on a run of its own."""

    op: Literal["duplicate_load"]
    part: str


class DeletePart(_Op):
    """Take a part out with the run that feeds it; what hung behind a load is joined to what fed it."""

    op: Literal["delete_part"]
    part: str


class MoveLoad(_Op):
    """Move a load up or down the list."""

    op: Literal["move_load"]
    part: str
    by: Annotated[int, Field(ge=-5000, le=5000)]


class PutLoad(_Op):
    """Put a load on a block, or after another load in a chain; with the length from there."""

    op: Literal["put_load"]
    part: str
    on: str
    length: Annotated[str, Field(max_length=40)] | None = None
    reading: LengthReading = "one_way"
    confirmed: bool = False


class TakeOff(_Op):
    """Take a load off its circuit."""

    op: Literal["take_off"]
    part: str


class AddBlock(_Op):
    """Feed a new fuse block from a battery or from another block."""

    op: Literal["add_block"]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    fed_from: str
    length: Annotated[str, Field(max_length=40)]
    ways: Annotated[int, Field(ge=1, le=60)] = 12
    place: str | None = None
    confirmed: bool = False


class SetLength(_Op):
    """Type the length of a run."""

    op: Literal["set_length"]
    run: str
    text: Annotated[str, Field(max_length=40)]
    reading: LengthReading = "one_way"
    confirmed: bool = False


class PinWire(_Op):
    """Insist on a wire size; an empty size lets go."""

    op: Literal["pin_wire"]
    run: str
    size: Annotated[str, Field(max_length=20)]
    reason: Annotated[str, Field(max_length=400)] = ""


class PinFuse(_Op):
    """Insist on a fuse rating; no rating lets go."""

    op: Literal["pin_fuse"]
    run: str
    rating_a: Annotated[float, Field(gt=0, le=5000)] | None
    family: FuseFamily | None = None
    reason: Annotated[str, Field(max_length=400)] = ""


class Waive(_Op):
    """Accept a finding, with the reason."""

    op: Literal["waive"]
    code: str
    subject: str
    reason: Annotated[str, Field(max_length=400)]


class Unwaive(_Op):
    """Take a waiver back."""

    op: Literal["unwaive"]
    code: str
    subject: str


Edit = Annotated[
    SetCell
    | AddLoads
    | DuplicateLoad
    | DeletePart
    | MoveLoad
    | PutLoad
    | TakeOff
    | AddBlock
    | SetLength
    | PinWire
    | PinFuse
    | Waive
    | Unwaive,
    Field(discriminator="op"),
]


def next_id(taken: Iterable[str], prefix: str) -> str:
    """The id after the highest numbered one with a prefix: `l7` after `l2` and `l6`."""
    numbers = [int(one[len(prefix) :]) for one in taken if re.fullmatch(rf"{prefix}\d+", one)]
    return f"{prefix}{max(numbers, default=0) + 1}"


def next_tag(taken: Iterable[str], prefix: str) -> str:
    """The tag after the highest numbered one with a letter: `C07` after `C06`."""
    numbers = [int(one[len(prefix) :]) for one in taken if re.fullmatch(rf"{prefix}\d+", one)]
    return f"{prefix}{max(numbers, default=0) + 1:02d}"


class _Desk:
    """A document on the desk, with the small searches every operation needs."""

    def __init__(self, document: Document) -> None:
        self.doc = document

    def part(self, part_id: str, field: str = "part") -> Document:
        for part in self.doc["parts"]:
            if part["id"] == part_id:
                return part  # type: ignore[no-any-return]
        raise EditRefused(f"no part {part_id!r}", field=field, value=part_id, allowed="the id of a part of this plan")

    def load(self, part_id: str, field: str = "part") -> Document:
        part = self.part(part_id, field)
        if part["kind"] != "load":
            raise EditRefused(f"{part['name']} is not a load", field=field, value=part_id, allowed="the id of a load")
        return part

    def run(self, run_id: str) -> Document:
        for run in self.doc["runs"]:
            if run["id"] == run_id:
                return run  # type: ignore[no-any-return]
        raise EditRefused(f"no run {run_id!r}", field="run", value=run_id, allowed="the id of a run of this plan")

    def feeder(self, part_id: str) -> Document | None:
        return next((run for run in self.doc["runs"] if run["finish"]["part"] == part_id), None)

    def onward(self, part_id: str) -> list[Document]:
        return [run for run in self.doc["runs"] if run["start"]["part"] == part_id]

    def ids(self) -> list[str]:
        return [one["id"] for one in (*self.doc["parts"], *self.doc["runs"])]

    def tags(self) -> list[str]:
        return [one["tag"] for one in (*self.doc["parts"], *self.doc["runs"])]

    def free_way(self, block_id: str) -> int:
        used = {run["start"]["way"] for run in self.onward(block_id)}
        return next(way for way in range(1, 10_000) if way not in used)

    def first_block(self) -> str | None:
        return next((part["id"] for part in self.doc["parts"] if part["kind"] == "fuse_block"), None)

    def context(self, confirmed: bool) -> CellContext:
        rules = resolve_rules(
            self.doc["practice"]["set"],
            {one["rule"]: (one["value"], one["reason"]) for one in self.doc["practice"]["overrides"]},
        )
        return CellContext(
            preference=self.doc["units"],
            size_system=rules.values.size_system,
            places={place["name"].casefold(): place["id"] for place in self.doc["places"]},
            confirmed=confirmed,
        )

    def new_run(self, start: str, finish: str, length_m: float, typed: str | None, confirmed: bool) -> Document:
        source = self.part(start, "on")
        way = self.free_way(start) if source["kind"] == "fuse_block" else None
        fuse = {"distance_m": 0.1} if source["kind"] == "battery" else {} if source["kind"] == "fuse_block" else None
        run: Document = {
            "id": next_id(self.ids(), "r"),
            "tag": next_tag(self.tags(), "C"),
            "start": {"part": start, "way": way},
            "finish": {"part": finish, "way": None},
            "length_m": length_m,
            "length_as_typed": typed,
            "length_confirmed": confirmed,
            "fuse_at_start": fuse,
        }
        self.doc["runs"].append(run)
        return run

    def forget(self, subject: str) -> None:
        """Drop what points at a subject that is gone."""
        self.doc["waivers"] = [one for one in self.doc["waivers"] if one["subject"] != subject]
        for state in self.doc["states"]:
            state["off"] = [one for one in state["off"] if one != subject]

    def remove_run(self, run: Document) -> None:
        self.doc["runs"].remove(run)
        self.forget(run["id"])


# A load without a typed length still needs one; the grid shows it, so that nobody takes it for measured.
_FIRST_LENGTH_M = 3.0


def _set_cell(desk: _Desk, edit: SetCell) -> None:
    part = desk.load(edit.part)
    set_cell(part, desk.feeder(edit.part), edit.column, edit.text, desk.context(edit.confirmed))


def _add_loads(desk: _Desk, edit: AddLoads) -> None:
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
            run = desk.new_run(block, part["id"], _FIRST_LENGTH_M, None, confirmed=False)
        for column, text in row.items():
            if text.strip() or column != "name":
                try:
                    set_cell(part, run, column, text, context)
                except LucernisError as error:
                    error.field = f"rows/{number}/{column}"
                    raise


def _duplicate(desk: _Desk, edit: DuplicateLoad) -> None:
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
    for name in ("zone", "bundle_count", "insulation_c"):
        run[name] = feeder[name]


def _delete(desk: _Desk, edit: DeletePart) -> None:
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
                start = feeder["start"]["part"]
                block = desk.part(start)["kind"] == "fuse_block"
                run["start"] = {"part": start, "way": desk.free_way(start) if block else None}
                run["fuse_at_start"] = {} if block else run["fuse_at_start"]
    else:
        for run in onward:
            desk.remove_run(run)
    if feeder is not None:
        desk.remove_run(feeder)
    for run in [run for run in desk.doc["runs"] if edit.part in (run["finish"]["part"], run["start"]["part"])]:
        desk.remove_run(run)
    desk.doc["parts"].remove(part)
    desk.forget(edit.part)


def _move(desk: _Desk, edit: MoveLoad) -> None:
    part = desk.load(edit.part)
    loads = [one for one in desk.doc["parts"] if one["kind"] == "load"]
    at = loads.index(part)
    to = min(max(at + edit.by, 0), len(loads) - 1)
    loads.insert(to, loads.pop(at))
    order = iter(loads)
    desk.doc["parts"] = [next(order) if one["kind"] == "load" else one for one in desk.doc["parts"]]


def _behind(desk: _Desk, part_id: str) -> set[str]:
    found: set[str] = set()
    ahead = [part_id]
    while ahead:
        for run in desk.onward(ahead.pop()):
            if run["finish"]["part"] not in found:
                found.add(run["finish"]["part"])
                ahead.append(run["finish"]["part"])
    return found


def _put(desk: _Desk, edit: PutLoad) -> None:
    part, target = desk.load(edit.part), desk.part(edit.on, "on")
    if edit.on == edit.part or edit.on in _behind(desk, edit.part):
        raise EditRefused(
            f"{target['name']} hangs behind {part['name']}", field="on", value=edit.on, allowed="a part not behind it"
        )
    feeder = desk.feeder(edit.part)
    length_m, typed, confirmed = _FIRST_LENGTH_M, None, False
    if feeder is not None:
        length_m, typed, confirmed = feeder["length_m"], feeder["length_as_typed"], feeder["length_confirmed"]
    if edit.length is not None:
        length_m, typed = parse_length_m(
            edit.length, field="length", preference=desk.doc["units"], reading=edit.reading
        )
        confirmed = edit.confirmed
    if feeder is None:
        desk.new_run(edit.on, edit.part, length_m, typed, confirmed)
        return
    if feeder["start"]["part"] != edit.on:
        kind = target["kind"]
        feeder["start"] = {"part": edit.on, "way": desk.free_way(edit.on) if kind == "fuse_block" else None}
        feeder["fuse_at_start"] = {"distance_m": 0.1} if kind == "battery" else {} if kind == "fuse_block" else None
    feeder["length_m"], feeder["length_as_typed"], feeder["length_confirmed"] = length_m, typed, confirmed


def _take_off(desk: _Desk, edit: TakeOff) -> None:
    desk.load(edit.part)
    feeder = desk.feeder(edit.part)
    if feeder is not None:
        desk.remove_run(feeder)


def _add_block(desk: _Desk, edit: AddBlock) -> None:
    source = desk.part(edit.fed_from, "fed_from")
    if source["kind"] == "load":
        raise EditRefused(
            f"{source['name']} is a load", field="fed_from", value=edit.fed_from, allowed="a battery or a fuse block"
        )
    length_m, typed = parse_length_m(edit.length, field="length", preference=desk.doc["units"])
    block: Document = {
        "kind": "fuse_block",
        "id": next_id(desk.ids(), "f"),
        "tag": next_tag(desk.tags(), "F"),
        "name": edit.name,
        "place": edit.place,
        "ways": edit.ways,
    }
    desk.doc["parts"].append(block)
    desk.new_run(edit.fed_from, block["id"], length_m, typed, edit.confirmed)


def _set_length(desk: _Desk, edit: SetLength) -> None:
    run = desk.run(edit.run)
    length_m, typed = parse_length_m(edit.text, field="length", preference=desk.doc["units"], reading=edit.reading)
    run["length_m"], run["length_as_typed"], run["length_confirmed"] = length_m, typed, edit.confirmed


def _need_reason(reason: str) -> str:
    if not reason.strip():
        raise EditRefused("a reason is needed", field="reason", value="", allowed="one line that says why")
    return reason.strip()


def _pin_wire(desk: _Desk, edit: PinWire) -> None:
    run = desk.run(edit.run)
    if not edit.size.strip():
        run["wire"] = None
        return
    system, size = parse_size(edit.size, default_system=desk.context(False).size_system)
    run["wire"] = {"system": system, "size": size, "reason": _need_reason(edit.reason)}


def _pin_fuse(desk: _Desk, edit: PinFuse) -> None:
    run = desk.run(edit.run)
    fuse = run["fuse_at_start"]
    if fuse is None:
        if edit.rating_a is None:
            return
        fuse = run["fuse_at_start"] = {"distance_m": 0.0}
    if edit.rating_a is None:
        fuse["pin"] = None
    else:
        fuse["pin"] = {"rating_a": edit.rating_a, "family": edit.family, "reason": _need_reason(edit.reason)}


def _waive(desk: _Desk, edit: Waive) -> None:
    _unwaive(desk, Unwaive(op="unwaive", code=edit.code, subject=edit.subject))
    desk.doc["waivers"].append({"code": edit.code, "subject": edit.subject, "reason": _need_reason(edit.reason)})


def _unwaive(desk: _Desk, edit: Unwaive) -> None:
    desk.doc["waivers"] = [
        one for one in desk.doc["waivers"] if (one["code"], one["subject"]) != (edit.code, edit.subject)
    ]


_DOERS: dict[type[_Op], Any] = {
    SetCell: _set_cell,
    AddLoads: _add_loads,
    DuplicateLoad: _duplicate,
    DeletePart: _delete,
    MoveLoad: _move,
    PutLoad: _put,
    TakeOff: _take_off,
    AddBlock: _add_block,
    SetLength: _set_length,
    PinWire: _pin_wire,
    PinFuse: _pin_fuse,
    Waive: _waive,
    Unwaive: _unwaive,
}


_ADDING = (AddLoads, DuplicateLoad, PutLoad, AddBlock, PinFuse)


def apply_edits(plan: Plan, edits: list[Edit]) -> Plan:
    """Carry out edits in order; all or none.

    Parameters
    ----------
    plan : Plan
        The plan as it stands.
    edits : list of Edit
        What to do.

    Returns
    -------
    Plan
        The new plan, valid.

    Raises
    ------
    EditRefused
        If an edit names what is not there or would make no sense.
    NotUnderstood, OutOfRange, UnknownRow
        If a typed text is no quantity, not allowed, or names no row.
    BadDocument
        If the outcome is not a valid plan.
    """
    desk = _Desk(plan_document(plan))
    try:
        for edit in edits:
            _DOERS[type(edit)](desk, edit)
            if isinstance(edit, _ADDING):
                # Later operations read fields that a freshly added part or run leaves at its default.
                desk = _Desk(plan_document(parse_plan(desk.doc)))
        return parse_plan(desk.doc)
    except BadDocument as error:
        raise _in_words(error, desk.doc) from error


def _in_words(error: BadDocument, document: Document) -> BadDocument:
    """Name the part or run a pointer leads to, so that a person finds it."""
    problems = []
    for problem in error.problems:
        match = re.match(r"#/(parts|runs)/(\d+)(.*)", problem.pointer)
        named = ""
        if match and int(match[2]) < len(document[match[1]]):
            subject = document[match[1]][int(match[2])]
            named = f"{subject.get('name') or subject['tag']}: "
        problems.append(FieldProblem(problem.pointer, f"{named}{problem.detail}"))
    return BadDocument(str(error), problems)


__all__ = ["COLUMNS", "Edit", "apply_edits", "next_id", "next_tag"]
