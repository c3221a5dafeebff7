"""A plan's revisions as they are handed round: the newest with its document, lines of a history, brought ones."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any


def _plain(text: str, most: int) -> str:
    if any(ord(one) < 32 for one in text):
        raise ValueError("must not have control characters")
    return text[:most]


@dataclass(frozen=True)
class StoredPlan:
    """A revision of a plan as stored; its document is decoded when it is first asked for."""

    plan_id: str
    revision: int
    kind: str
    origin: int
    before: int | None
    redo: tuple[int, ...]
    summary: str
    made_at: str
    text: str
    archived: bool

    @cached_property
    def document(self) -> dict[str, Any]:
        """The plan document."""
        found: dict[str, Any] = json.loads(self.text)
        return found

    @property
    def can_undo(self) -> bool:
        """Whether there is an edit to take back."""
        return self.before is not None

    @property
    def can_redo(self) -> bool:
        """Whether something was taken back and not edited over."""
        return bool(self.redo)


@dataclass(frozen=True, slots=True)
class HistoryRow:
    """One line of a plan's history; `name` is empty where it has none."""

    revision: int
    kind: str
    origin: int
    summary: str
    made_at: str
    name: str


@dataclass(frozen=True, slots=True)
class Brought:
    """A revision that comes from elsewhere with its content as it was stored there."""

    revision: int
    kind: str
    origin: int
    before: int | None
    redo: str
    summary: str
    made_at: str
    whole: bool
    content: str
    checksum: str
    name: str

    @classmethod
    def read(cls, line: dict[str, Any], number: int) -> Brought:
        """From one decoded line of a history; raises ValueError, TypeError or KeyError."""
        redo = [int(one) for one in json.loads(line["redo"])]
        before = None if line["before"] is None else int(line["before"])
        found = cls(
            int(line["revision"]), str(line["kind"]), int(line["origin"]), before, json.dumps(redo),
            _plain(str(line["summary"]), 500),
            datetime.fromisoformat(str(line["made_at"])).isoformat(timespec="seconds"),
            bool(line["whole"]), str(line["content"]), str(line["checksum"]), _plain(str(line["name"]), 60),
        )  # fmt: skip
        if found.revision != number or found.kind not in ("new", "edit", "undo", "redo"):
            raise ValueError("revisions are numbered from 1 and are new, edit, undo or redo")
        earlier = [found.origin, *redo, *([] if before is None else [before])]
        if not all(1 <= one <= number for one in earlier) or (before is not None and before >= number):
            raise ValueError("it refers to a revision that is not before it")
        if (number == 1) != (found.kind == "new") or (number == 1 and not found.whole):
            raise ValueError("the first revision, and only that, is a new and whole one")
        json.loads(found.content)
        return found


def encoded(document: dict[str, Any]) -> str:
    """A document as it is stored."""
    return json.dumps(document, separators=(",", ":"), ensure_ascii=False)
