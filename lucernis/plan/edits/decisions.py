"""Edits that record a decision: lengths, pins, fuses, waivers, plain fields."""

from __future__ import annotations

from lucernis.errors import EditRefused
from lucernis.plan.edits.desk import Desk, pin_length
from lucernis.plan.edits.operations import PinFuse, PinWire, SetFields, SetFuse, SetLength, Unwaive, Waive
from lucernis.plan.sizes import parse_size
from lucernis.plan.units import parse_length_m

_FIXED = {"id", "kind"}


def set_length(desk: Desk, edit: SetLength) -> None:
    """Type a length."""
    run = desk.run(edit.run)
    if not edit.text.strip() and desk.doc["channels"]:
        # Nothing typed: the channels say it.
        run["way"] = (run.get("way") or {}) | {"length_pinned": False}
        return
    length_m, typed = parse_length_m(edit.text, field="length", preference=desk.doc["units"], reading=edit.reading)
    run["length_m"], run["length_as_typed"], run["length_confirmed"] = length_m, typed, edit.confirmed
    run["length_guessed"] = False
    pin_length(run)


def need_reason(reason: str) -> str:
    """A reason that says something."""
    if not reason.strip():
        raise EditRefused("a reason is needed", field="reason", value="", allowed="one line that says why")
    return reason.strip()


def pin_wire(desk: Desk, edit: PinWire) -> None:
    """Insist on a wire size, or let go."""
    run = desk.run(edit.run)
    if not edit.size.strip():
        run["wire"] = None
        return
    system, size = parse_size(edit.size, default_system=desk.context(False).size_system)
    run["wire"] = {"system": system, "size": size, "reason": need_reason(edit.reason)}


def pin_fuse(desk: Desk, edit: PinFuse) -> None:
    """Insist on a rating, or let go."""
    run = desk.run(edit.run)
    only_there = run["fuse_at_start"] is None and run["fuse_at_finish"] is not None
    field = f"fuse_at_{edit.end or ('finish' if only_there else 'start')}"
    fuse = run[field]
    if fuse is None:
        if edit.rating_a is None:
            return
        fuse = run[field] = {"distance_m": 0.0}
    if edit.rating_a is None:
        fuse["pin"] = None
    else:
        fuse["pin"] = {"rating_a": edit.rating_a, "family": edit.family, "reason": need_reason(edit.reason)}


def waive(desk: Desk, edit: Waive) -> None:
    """Accept a finding."""
    unwaive(desk, Unwaive(op="unwaive", code=edit.code, subject=edit.subject))
    desk.doc["waivers"].append({"code": edit.code, "subject": edit.subject, "reason": need_reason(edit.reason)})


def unwaive(desk: Desk, edit: Unwaive) -> None:
    """Take a waiver back."""
    desk.doc["waivers"] = [
        one for one in desk.doc["waivers"] if (one["code"], one["subject"]) != (edit.code, edit.subject)
    ]


def set_fuse(desk: Desk, edit: SetFuse) -> None:
    """Put a fuse at an end of a run, change it, or take it out."""
    run, field = desk.run(edit.run), f"fuse_at_{edit.end}"
    if not edit.present:
        run[field] = None
        return
    fuse = dict(run[field] or {})
    fields = {"distance_m", "sheathed", "family", "holder", "each", "bracket", "tied"}
    named = edit.model_dump(include=fields, exclude_none=True)
    if "family" in named and fuse.get("pin") is not None:
        # A pin of another family would win over the one asked for now.
        fuse["pin"] = None
    run[field] = fuse | named


def set_fields(desk: Desk, edit: SetFields) -> None:
    """Set plain fields; the outcome is validated as a whole."""
    subject = desk.subject(edit.subject)
    for name, value in edit.values.items():
        if name in _FIXED or name not in subject:
            allowed = ", ".join(sorted(set(subject) - _FIXED))
            raise EditRefused(f"no field {name!r}", field=f"values/{name}", value=name, allowed=allowed)
        subject[name] = value
