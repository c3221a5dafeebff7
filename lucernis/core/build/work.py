"""What the steps of the work are made from: pieces by run, ends by side, and where in the vehicle each is."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from lucernis.core.build.walk import place_order
from lucernis.core.harness.depths import depths
from lucernis.core.harness.harness import harness_of
from lucernis.core.harness.pieces import CutPiece, PieceEnd
from lucernis.core.layout.laid import layout_of
from lucernis.plan.layout import Channel
from lucernis.plan.model import Part, Plan, Run

_NOWHERE = 999


@dataclass(frozen=True, slots=True)
class RunSide:
    """One end of a run, with the ends of all pieces there: at the part itself, or at holders in the wire near it."""

    run: Run
    finish: bool
    ends: tuple[tuple[CutPiece, PieceEnd], ...]

    @property
    def key(self) -> str:
        """Names it in ids of steps."""
        return f"{self.run.id}:{'b' if self.finish else 'a'}"

    @property
    def part_id(self) -> str:
        """The part there."""
        return (self.run.finish if self.finish else self.run.start).part


class Work:
    """Lookups over one plan, shared by all that makes steps.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    """

    def __init__(self, plan: Plan) -> None:
        self.layout = layout_of(plan)
        self.harness = harness_of(plan)
        # Its runs begin at the end that feeds them.
        self.plan = self.harness.plan
        self.parts = {part.id: part for part in self.plan.parts}
        self.runs = {run.id: run for run in self.plan.runs}
        self.channels = {channel.id: channel for channel in self.plan.channels}
        self._places = {place.id: place for place in self.plan.places}
        self._walk = place_order(self.plan)
        self.depth = depths(self.plan)
        self.pieces: dict[str, list[CutPiece]] = {run.id: [] for run in self.plan.runs}
        self.along: dict[str, list[CutPiece]] = {run.id: [] for run in self.plan.runs}
        found: dict[tuple[str, bool], list[tuple[CutPiece, PieceEnd]]] = {}
        for piece in self.harness.pieces:
            self.pieces[piece.run].append(piece)
            for run_id in piece.runs:
                self.along[run_id].append(piece)
            for end in (piece.start, piece.finish):
                found.setdefault((end.run, end.finish), []).append((piece, end))
        self.sides = [RunSide(self.runs[run], finish, tuple(ends)) for (run, finish), ends in found.items()]

    def place(self, part: Part) -> str:
        """Name of the place a part stands at; empty where it has none."""
        place = self._places.get(part.place or "")
        return place.name if place is not None else ""

    def rank(self, part: Part) -> int:
        """Number of that place on the walk from the battery, those without a place last."""
        return self._walk.get(part.place or "", _NOWHERE)

    def ways(self, run: Run) -> list[str]:
        """Ids of the channels the pieces of a run lie in, in order, each once."""
        return list(dict.fromkeys(channel for piece in self.pieces[run.id] for channel in piece.channels))

    def walked(self) -> list[Channel]:
        """Channels in the order one comes past them."""
        rank = self._walk

        def key(one: Channel) -> tuple[int, int, str]:
            near, far = sorted((rank[one.start], rank[one.finish]))
            return near, far, one.id

        return sorted(self.plan.channels, key=key)

    def lying(self, channel_id: str) -> list[Run]:
        """Runs a channel holds with a piece of theirs, in the order of the plan."""
        held = {run_id for piece in self.harness.in_channel[channel_id] for run_id in piece.runs}
        within = {run.id for run in self.layout.lying.get(channel_id, ())}
        return [run for run in self.plan.runs if run.id in held & within]


def called(run: Run) -> str:
    """A run by tag and name."""
    return f"{run.tag} {run.name}".strip()


def counted(things: Iterable[str]) -> tuple[str, ...]:
    """Each thing once, with how many where there are several."""
    return tuple(f"{count} × {what}" if count > 1 else what for what, count in Counter(things).items())
