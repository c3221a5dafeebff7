"""The harness of a plan: pieces, terminations, holders, joints and leads, worked out once and read by every paper."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from lucernis.core.harness.as_fed import as_fed
from lucernis.core.harness.holders import Holder, holders_of
from lucernis.core.harness.joints import BoughtJoint, joints_of
from lucernis.core.harness.leads import Lead, leads_of
from lucernis.core.harness.pieces import CutPiece, Cutter, PieceEnd
from lucernis.core.harness.spans import Spans
from lucernis.core.itself import Itself
from lucernis.core.layout.laid import layout_of
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.model import Busbar, Plan, Run
from lucernis.plan.rules import plan_rules


@dataclass(frozen=True, slots=True, eq=False)
class Harness:
    """What is screwed and crimped in a vehicle.

    `plan` has its runs written from the end that feeds them, `turned` those that were typed the other way round.
    `holders` are all fuses by their key, `pieces` in the order of the plan, `in_channel` the pieces each channel
    holds, one twice where it comes back through it, `through_run` those that pass the holes of a run of its own.
    """

    plan: Plan
    turned: frozenset[str]
    sized: Sized
    holders: dict[str, Holder]
    pieces: tuple[CutPiece, ...]
    joints: tuple[BoughtJoint, ...]
    leads: tuple[Lead, ...]
    in_channel: dict[str, tuple[CutPiece, ...]]
    through_run: dict[str, tuple[CutPiece, ...]]

    @property
    def in_line(self) -> list[Holder]:
        """Holders in the wire."""
        return [one for one in self.holders.values() if one.mounting == "in_line"]

    def on_run(self, run_id: str) -> list[Holder]:
        """Fuses of a run, that at its fed end first."""
        return [one for one in self.holders.values() if one.run == run_id]

    def ends_at(self, holder: Holder) -> list[tuple[CutPiece, PieceEnd]]:
        """The ends of pieces that meet in a holder."""
        return [(piece, end) for piece in self.pieces for end in piece.ends if end.holder == holder.key]


def _stacked(plan: Plan, pieces: list[CutPiece]) -> list[CutPiece]:
    """Lugs on their studs: evenly over those of a bar, and where several share one the thickest at the bottom, nearest
    the bar."""
    studs = {part.id: part.studs for part in plan.parts if isinstance(part, Busbar)}
    stacks: dict[tuple[str, str, str], list[tuple[float, str, bool]]] = {}
    for piece in pieces:
        for finish, end in ((False, piece.start), (True, piece.finish)):
            if end.stud and end.part_id:
                stacks.setdefault((end.part_id, end.at, end.stud), []).append((-piece.area_mm2, piece.id, finish))
    spot: dict[tuple[str, bool], tuple[int, int]] = {}
    for (part_id, _, _), stack in stacks.items():
        count = studs.get(part_id, 1)
        for at, (_, piece_id, finish) in enumerate(sorted(stack)):
            spot[piece_id, finish] = (at % count + 1, at // count + 1)

    def put(end: PieceEnd, key: tuple[str, bool]) -> PieceEnd:
        on_stud, layer = spot.get(key, (0, 0))
        return replace(end, on_stud=on_stud, layer=layer) if layer else end

    return [
        replace(piece, start=put(piece.start, (piece.id, False)), finish=put(piece.finish, (piece.id, True)))
        for piece in pieces
    ]


def _through(run: Run, own: list[CutPiece]) -> tuple[CutPiece, ...]:
    """The pieces of a run that pass its own holes: of each conductor the longest, not the stub before a holder."""
    longest: dict[str, CutPiece] = {}
    for piece in own:
        if run.id not in piece.runs:
            continue
        conductor = piece.id.rpartition(".")[0]
        if conductor not in longest or piece.way_m > longest[conductor].way_m:
            longest[conductor] = piece
    return tuple(longest.values())


@lru_cache(maxsize=4)
def _made(this: Itself[Plan]) -> Harness:
    layout = layout_of(this.thing)
    plan, sized = layout.plan, sized_plan(layout.plan)
    fed, turned = as_fed(plan, sized.topology)
    places = {place.id: place.name for place in plan.places}
    holders = {one.key: one for one in holders_of(fed, sized, turned, places)}
    spans = Spans(fed, turned, layout, plan_rules(plan).values.slack_frac)
    cutter = Cutter(fed, sized, holders, spans, places)
    pieces = _stacked(fed, [piece for run in fed.runs for piece in cutter.of_run(run)])
    along: dict[str, list[CutPiece]] = {run.id: [] for run in fed.runs}
    lying: dict[str, list[CutPiece]] = {channel.id: [] for channel in plan.channels}
    for piece in pieces:
        for run_id in piece.runs:
            along[run_id].append(piece)
        for channel in piece.channels:
            lying[channel].append(piece)
    return Harness(
        plan=fed,
        turned=turned,
        sized=sized,
        holders=holders,
        pieces=tuple(pieces),
        joints=tuple(joints_of(fed, pieces, cutter)),
        leads=tuple(leads_of(fed, places)),
        in_channel={channel: tuple(some) for channel, some in lying.items()},
        through_run={run.id: _through(run, along[run.id]) for run in fed.runs},
    )


def harness_of(plan: Plan) -> Harness:
    """The harness of a plan, once as long as it is among those asked for last.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    Harness
        A pure function of the plan, its sizes and its layout: the same for every way of writing a run.
    """
    return _made(Itself(layout_of(plan).plan))
