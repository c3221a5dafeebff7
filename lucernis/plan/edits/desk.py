"""A document on the desk, with the searches and small steps every edit needs."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from lucernis.errors import EditRefused
from lucernis.plan.cells import CellContext
from lucernis.practice.rules import resolve_rules

Document = dict[str, Any]
# A load without a typed length still needs one; the grid shows it, so that nobody takes it for measured.
FIRST_LENGTH_M = 3.0
# Prefixes of ids and of tags by kind of part; runs are r and C.
PREFIX = {
    "battery": ("b", "B"),
    "alternator": ("a", "A"),
    "isolator": ("i", "I"),
    "charger": ("q", "Q"),
    "panel": ("p", "P"),
    "fuse_block": ("f", "F"),
    "busbar": ("u", "U"),
    "switch": ("s", "S"),
    "keyed_feed": ("k", "K"),
    "relay": ("y", "Y"),
    "diode": ("d", "D"),
    "joint": ("j", "J"),
    "shunt": ("h", "H"),
    "chassis_point": ("g", "G"),
    "load": ("l", "L"),
}


def next_id(taken: Iterable[str], prefix: str) -> str:
    """The id after the highest numbered one with a prefix: `l7` after `l2` and `l6`."""
    numbers = [int(one[len(prefix) :]) for one in taken if re.fullmatch(rf"{prefix}\d+", one)]
    return f"{prefix}{max(numbers, default=0) + 1}"


def next_tag(taken: Iterable[str], prefix: str) -> str:
    """The tag after the highest numbered one with a letter: `C07` after `C06`."""
    numbers = [int(one[len(prefix) :]) for one in taken if re.fullmatch(rf"{prefix}\d+", one)]
    return f"{prefix}{max(numbers, default=0) + 1:02d}"


class Desk:
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

    def subject(self, subject: str) -> Document:
        """A part, a run, a state or a channel by its id."""
        lists = ("parts", "runs", "states", "channels")
        for one in (one for name in lists for one in self.doc[name]):
            if one["id"] == subject:
                return one  # type: ignore[no-any-return]
        raise EditRefused(
            f"no part, run, state or channel {subject!r}", field="subject", value=subject, allowed="an id"
        )

    def ids(self) -> list[str]:
        return [one["id"] for one in (*self.doc["parts"], *self.doc["runs"])]

    def tags(self) -> list[str]:
        return [one["tag"] for one in (*self.doc["parts"], *self.doc["runs"])]

    def free_way(self, block_id: str) -> int:
        used = {run["start"].get("way") for run in self.onward(block_id)}
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
        run: Document = {
            "id": next_id(self.ids(), "r"),
            "tag": next_tag(self.tags(), "C"),
            "start": self.end_at(source),
            "finish": {"part": finish, "way": None, "terminal": None},
            "length_m": length_m,
            "length_as_typed": typed,
            "length_confirmed": confirmed,
            "length_guessed": typed is None and not confirmed,
            "fuse_at_start": first_fuse(source),
            "fuse_at_finish": None,
            "legs": "both",
        }
        self.doc["runs"].append(run)
        return run

    def end_at(self, source: Document) -> Document:
        """Where a new run leaves a part: the next free way of a block, the usual terminal of anything else."""
        way = self.free_way(source["id"]) if source["kind"] == "fuse_block" else None
        return {"part": source["id"], "way": way, "terminal": None}

    def negative_home(self, near: str) -> str | None:
        """A part with a negative to join to: the one named, else a bar, else a battery."""

        def joins(part: Document) -> bool:
            kind: str = part["kind"]
            if kind == "fuse_block":
                return bool(part["negative_bar"])
            return kind == "battery" or bool(kind == "busbar" and part["bars"] != "positive")

        parts = sorted(self.doc["parts"], key=lambda one: (one["id"] != near, one["kind"] != "busbar"))
        return next((one["id"] for one in parts if joins(one)), None)

    def new_part(self, fields: Document) -> Document:
        """Add a part from its fields without id and tag."""
        kind = fields.get("kind")
        if kind not in PREFIX:
            raise EditRefused(f"no kind of part {kind!r}", field="part/kind", value=kind, allowed=", ".join(PREFIX))
        own, tag = PREFIX[kind]
        part = {
            "name": kind.replace("_", " ").capitalize(),
            **{name: value for name, value in fields.items() if value is not None},
            "id": next_id(self.ids(), own),
            "tag": next_tag(self.tags(), tag),
        }
        self.doc["parts"].append(part)
        return part

    def note_isolator(self, part: Document) -> None:
        """With the first isolating switch comes a state in which it is off."""
        if part["kind"] != "switch" or part.get("use") != "isolator":
            return
        if any(part["id"] in state["open"] for state in self.doc["states"]):
            return
        if len(self.doc["states"]) < 20:
            taken = [state["id"] for state in self.doc["states"]]
            self.doc["states"].append(
                {"id": next_id(taken, "off"), "name": "Master off", "key_on": False, "open": [part["id"]]}
            )

    def forget(self, subject: str) -> None:
        """Drop what points at a subject that is gone."""
        self.doc["waivers"] = [one for one in self.doc["waivers"] if one["subject"] != subject]
        for state in self.doc["states"]:
            for name in ("off", "open"):
                state[name] = [one for one in state.get(name, ()) if one != subject]
            state["modes"] = [one for one in state.get("modes", ()) if one["part"] != subject]
            state["duty"] = [one for one in state.get("duty", ()) if one["load"] != subject]

    def remove_run(self, run: Document) -> None:
        self.doc["runs"].remove(run)
        self.forget(run["id"])


def pin_length(run: Document) -> None:
    """A length was typed: a run that follows channels keeps its way, but no longer takes its length from it."""
    if run.get("way") is not None:
        run["way"] = run["way"] | {"length_pinned": True}


def first_fuse(source: Document) -> Document | None:
    """The fuse a new run begins with: close to a battery, in the way of a block, none after anything else."""
    if source["kind"] == "battery":
        return {"distance_m": 0.1}
    return {} if source["kind"] == "fuse_block" else None
