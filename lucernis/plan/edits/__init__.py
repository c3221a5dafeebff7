"""Edits by the work: what a person does to a plan, as operations on the document. Simple fields go by JSON Patch.

An operation takes a document (the full JSON of a plan) and changes its own copy; `apply_edits` validates the outcome,
so that nothing half-done is ever kept.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from lucernis.errors import BadDocument, FieldProblem
from lucernis.plan.cells import COLUMNS
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import decisions, layout_edits, load_edits, source_edits, wiring_edits
from lucernis.plan.edits.desk import Desk, Document, next_id, next_tag
from lucernis.plan.edits.operations import (
    AddBlock,
    AddChannel,
    AddCharger,
    AddLoads,
    AddPlace,
    Connect,
    DeleteChannel,
    DeletePart,
    DeletePlace,
    DeleteRun,
    DuplicateLoad,
    Edit,
    FeedPart,
    FillLoad,
    FollowChannels,
    InsertPart,
    MakeBank,
    MeasureChannel,
    MoveLoad,
    Operation,
    PinFuse,
    PinWire,
    PutLoad,
    PutPlace,
    PutRelay,
    SetCell,
    SetFields,
    SetFuse,
    SetLength,
    SetSlot,
    ShareFeeder,
    TakeChannels,
    TakeOff,
    Unwaive,
    Waive,
)
from lucernis.plan.model import Plan

_DOERS: dict[type[Operation], Callable[[Desk, Any], None]] = {
    SetCell: load_edits.type_cell,
    AddLoads: load_edits.add_loads,
    FillLoad: load_edits.fill,
    DuplicateLoad: load_edits.duplicate,
    DeletePart: load_edits.delete,
    MoveLoad: load_edits.move,
    PutLoad: load_edits.put,
    TakeOff: load_edits.take_off,
    AddBlock: wiring_edits.add_block,
    FeedPart: wiring_edits.feed_part,
    InsertPart: wiring_edits.insert_part,
    PutRelay: wiring_edits.put_relay,
    ShareFeeder: wiring_edits.share_feeder,
    Connect: wiring_edits.connect,
    AddCharger: source_edits.add_charger,
    MakeBank: source_edits.make_bank,
    SetSlot: source_edits.set_slot,
    DeleteRun: wiring_edits.delete_run,
    SetFuse: decisions.set_fuse,
    SetFields: decisions.set_fields,
    AddPlace: layout_edits.add_place,
    PutPlace: layout_edits.put_place,
    DeletePlace: layout_edits.delete_place,
    AddChannel: layout_edits.add_channel,
    MeasureChannel: layout_edits.measure_channel,
    DeleteChannel: layout_edits.delete_channel,
    FollowChannels: layout_edits.follow_channels,
    TakeChannels: layout_edits.take_channels,
    SetLength: decisions.set_length,
    PinWire: decisions.pin_wire,
    PinFuse: decisions.pin_fuse,
    Waive: decisions.waive,
    Unwaive: decisions.unwaive,
}


_ADDING = (
    AddLoads,
    DuplicateLoad,
    PutLoad,
    AddBlock,
    FeedPart,
    InsertPart,
    PutRelay,
    ShareFeeder,
    Connect,
    AddCharger,
    MakeBank,
    SetFuse,
    PinFuse,
    AddPlace,
    AddChannel,
    FollowChannels,
    TakeChannels,
)


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
    desk = Desk(plan_document(plan))
    try:
        for edit in edits:
            _DOERS[type(edit)](desk, edit)
            if isinstance(edit, _ADDING):
                # Later operations read fields that a freshly added part or run leaves at its default.
                desk = Desk(plan_document(parse_plan(desk.doc)))
        return parse_plan(desk.doc)
    except BadDocument as error:
        raise _in_words(error, desk.doc) from error


def _in_words(error: BadDocument, document: Document) -> BadDocument:
    """Name the part or run a pointer leads to, so that a person finds it."""
    problems = []
    for problem in error.problems:
        match = re.match(r"#/(parts|runs|places|channels)/(\d+)(.*)", problem.pointer)
        named = ""
        if match and int(match[2]) < len(document[match[1]]):
            subject = document[match[1]][int(match[2])]
            named = f"{subject.get('name') or subject.get('tag', '')}: "
        problems.append(FieldProblem(problem.pointer, f"{named}{problem.detail}"))
    return BadDocument(str(error), problems)


__all__ = ["COLUMNS", "Edit", "apply_edits", "next_id", "next_tag"]
