"""Where every fuse of a plan stands: in a way, on a post, or in a holder in the wire. The one place that knows."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import RunFuse, far_key
from lucernis.plan.model import End, Fuse, FuseBlock, Part, Plan, Run
from lucernis.practice.rules import FuseFamily
from lucernis.practice.tables import load_table

Mounting = Literal["way", "post", "in_line"]
# A fuse of this family sits on the post itself: no wire stands before it.
_ON_THE_POST = "post_block"
# A holder at the very end of a wire still stands off by so much: lug, bend and holder. Practice. [m]
_LEAST_STUB_M = 0.05


@dataclass(frozen=True, slots=True)
class Holder:
    """A fuse with the end of its run it stands at.

    `key` is that of the fuse among the sized ones, `finish` whether it stands at the finish of its run as fed, `part`
    the part at that end and `place` where that stands. `distance_m` is the wire before it, 0 in a way or on a post.
    `stud` is the thread of its terminals, empty where it has leads or a way; `fixed` how it is held.
    `at_start_as_typed` says which end of the run as the plan has it that is.
    """

    key: str
    run: str
    tag: str
    finish: bool
    at_start_as_typed: bool
    part: str
    part_name: str
    place: str
    mounting: Mounting
    way: int | None
    distance_m: float
    family: FuseFamily
    label: str
    rating_a: float
    count: int
    sealed: bool
    pinned: bool
    stud: str
    fixed: str

    @property
    def what(self) -> str:
        """The fuse in words, as ``2 × ANL strip 150 A``."""
        count = f"{self.count} × " if self.count > 1 else ""
        return f"{count}{self.label} {self.rating_a:g} A"

    @property
    def name(self) -> str:
        """The holder in words, as a piece ends in it."""
        return f"holder of {self.label} {self.rating_a:g} A"

    @property
    def where(self) -> str:
        """Where it stands in words: ``at Locker busbars, 100 mm off``."""
        if self.mounting == "way":
            return f"{self.part_name}, way {self.way}"
        if self.mounting == "post":
            return f"on the post of {self.part_name}"
        return f"at {self.part_name}, {1000 * self.distance_m:.0f} mm off"


def holder_stud(family: FuseFamily) -> str:
    """The thread of a holder's terminals, fuse_families.csv; empty where it is pushed in and has leads."""
    return load_table("fuse_families").find(family)["stud"]


def _distance_m(run: Run, fuse: Fuse) -> float:
    """How far a holder in the wire stands from its end: it needs a stub before it and wire behind it. [m]"""
    room_m = run.length_m / 2
    return min(max(fuse.distance_m, min(_LEAST_STUB_M, room_m)), max(run.length_m - _LEAST_STUB_M, room_m))


def mounting_of(part: Part, end: End, family: FuseFamily) -> Mounting:
    """How a fuse at an end is held."""
    if isinstance(part, FuseBlock) and end.way is not None:
        return "way"
    return "post" if family == _ON_THE_POST else "in_line"


def _fixed(mounting: Mounting, stud: str) -> str:
    if mounting == "way":
        return "in its way"
    if mounting == "post":
        return "on the post, under its nut"
    return "screwed down on a base" if stud else "clipped or tied beside the wire"


def holders_of(fed: Plan, sized: Sized, turned: frozenset[str], places: Mapping[str, str]) -> Iterator[Holder]:
    """Every fuse that is chosen, in the order of the plan, that at the fed end of a run first.

    Parameters
    ----------
    fed : Plan
        As `as_fed` writes it.
    sized : Sized
        Its fuses.
    turned : frozenset of str
        Runs that were turned for it.
    places : Mapping
        Id of a place to its name.
    """
    parts = {part.id: part for part in fed.parts}
    for run in fed.runs:
        sides = ((False, run.start, run.fuse_at_start, run.id), (True, run.finish, run.fuse_at_finish, far_key(run.id)))
        for finish, end, fuse, key in sides:
            made: RunFuse | None = sized.fuses.get(key)
            if fuse is None or made is None or made.fuse is None:
                continue
            part = parts[end.part]
            mounting = mounting_of(part, end, made.fuse.family)
            stud = holder_stud(made.fuse.family) if mounting != "way" else ""
            yield Holder(
                key=key,
                run=run.id,
                tag=run.tag,
                finish=finish,
                at_start_as_typed=finish == (run.id in turned),
                part=part.id,
                part_name=part.name,
                place=places.get(part.place or "", ""),
                mounting=mounting,
                way=end.way if mounting == "way" else None,
                distance_m=_distance_m(run, fuse) if mounting == "in_line" else 0.0,
                family=made.fuse.family,
                label=made.fuse.label,
                rating_a=made.fuse.rating_a,
                count=made.count,
                sealed=made.sealed_holder,
                pinned=made.fuse.pinned,
                stud=stud,
                fixed=_fixed(mounting, stud),
            )
