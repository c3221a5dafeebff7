"""The cut list: every conductor of a plan as the pieces it is cut in, with what goes on at either end."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from lucernis.core.circuit.terminals import end_terminal
from lucernis.core.layout.fill import outside_mm
from lucernis.core.layout.laid import layout_of
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.ends import Fitting, fitting, fitting_of, holder_fitting
from lucernis.core.sizing.fusing import far_key
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.wire.copper import WireSize, wire_size
from lucernis.plan.model import End, Fuse, FuseBlock, Part, Plan, Run, Switch
from lucernis.plan.rules import plan_rules
from lucernis.plan.terminals import Side
from lucernis.practice.tables import load_table

# A fuse of this family sits on the post itself: no wire stands before it.
_ON_THE_POST = "post_block"
# Insulated push-ons are told apart by the colour of their collar, up to these sizes [mm²]; DIN 46245, from memory.
_COLLARS = ((1.65, "red"), (2.7, "blue"), (6.7, "yellow"))
_LUG_FROM_MM2 = 9.9
# Key of the fuse at the far end of a run, behind its id.
_FAR = far_key("")
# Parts that have no negative: that of a pair passes them by.
_ONE_POLE = ("switch", "relay", "diode", "keyed_feed")
# A coil has both its ends.
_COIL = "coil"
# Ends whose grip can be tried by pulling.
_CRIMPED = ("lug_large", "lug_small", "push_on", "splice", "plug", "solar", "chassis", "body")
# A tube goes over the barrel, which is thicker than the wire's insulation by about so much. Common practice, no source.
_OVER_BARREL = 1.3


@dataclass(frozen=True, slots=True)
class PieceEnd:
    """One end of a piece: where it goes, what is put on, and the tube over it [mm], None where there is none.

    `run` and `finish` say at which end of which run that is; `part_id` is empty where it ends in a holder in the wire
    near there; `pull_n` is what its crimp must stand, None where nothing is crimped. [N]
    """

    run: str
    finish: bool
    part_id: str
    part: str
    place: str
    at: str
    fits: str
    stud: str
    torque_nm: float | None
    strip_mm: float
    shrink_before_mm: float | None
    shrink_after_mm: float | None
    shrink_length_mm: float
    pull_n: float | None
    label: str


@dataclass(frozen=True, slots=True)
class CutPiece:
    """One piece of wire. `cut_m` is what is cut off: its way, both ends stripped, and a crimp more at each.

    `runs` are those it lies along: several where a negative passes switches by.
    """

    id: str
    run: str
    runs: tuple[str, ...]
    tag: str
    leg: str
    which: str
    colour: str
    size: str
    area_mm2: float
    way_m: float
    cut_m: float
    guessed: bool
    channels: tuple[str, ...]
    start: PieceEnd
    finish: PieceEnd

    @property
    def done_as(self) -> str:
        """What is cut, in words: as it is told in the record."""
        return f"{self.leg} {self.size} {self.colour} {self.cut_m:.2f} m"


@dataclass(frozen=True, slots=True)
class WireTotal:
    """All of one size and colour. [m]"""

    size: str
    colour: str
    area_mm2: float
    pieces: int
    total_m: float
    longest_m: float


@dataclass(frozen=True, slots=True)
class EndTotal:
    """So many of one thing that goes on ends, or so much tube. [mm]"""

    what: str
    count: int
    length_mm: float


@dataclass(frozen=True, slots=True)
class CutList:
    """Every piece in the order of the plan, what it comes to, and what is not known yet."""

    pieces: list[CutPiece]
    wires: list[WireTotal]
    ends: list[EndTotal]
    guessed: list[str]


@cache
def pull_n(area_mm2: float) -> float:
    """What a crimp on a wire must stand for a minute before it is trusted.

    Parameters
    ----------
    area_mm2 : float
        Copper, > 0. [mm²]

    Returns
    -------
    float
        Of the AWG size nearest to it in copper, crimp_pull.csv; the least size below all of them. [N]
    """
    rows = load_table("crimp_pull").rows
    near = min(rows, key=lambda row: abs(math.log(wire_size("awg", row["awg"]).area_mm2 / area_mm2)))
    return float(near["pull_n"])


@cache
def shrink_for(outside: float) -> tuple[float, float] | None:
    """Tube that goes over a crimp and grips its wire.

    Parameters
    ----------
    outside : float
        Outside diameter of the wire. [mm]

    Returns
    -------
    tuple of float or None
        Inside diameter as sold and fully shrunk, of heat_shrink.csv. [mm]
    """
    for row in load_table("heat_shrink").rows:
        before, after = float(row["before_mm"]), float(row["after_mm"])
        if before >= _OVER_BARREL * outside and after <= outside:
            return before, after
    return None


def stud_of(found: Fitting, size: WireSize) -> str:
    """The thread a lug or ring goes on where nobody has said: that of studs.csv, empty where the row has none."""
    row = next((one for one in load_table("studs").rows if one["device"] == found.cell.row), None)
    if row is None:
        return ""
    thick = row["thick"] and size.area_mm2 >= float(row["thick_from_mm2"])
    return row["thick"] if thick else row["label"]


def _end(
    found: Fitting,
    size: WireSize,
    part: Part | None,
    place: str,
    at: str,
    label: str,
    run: str,
    finish: bool,
    own: End | None = None,
) -> PieceEnd:
    joint = found.joint(size)
    row = load_table("wire_ends").find(joint)
    what, stud = row["fields"], ""
    if what in ("lug", "ring"):
        # Large lugs begin where a hand crimper ends.
        what = "lug" if size.area_mm2 >= _LUG_FROM_MM2 else "ring"
        stud = (own.stud if own is not None else None) or stud_of(found, size) or "M8"
        what = f"{what} {size.label} × {stud}"
    elif joint == "push_on":
        colour = next((name for most, name in _COLLARS if size.area_mm2 <= most), "none made")
        what = f"{what}, {colour}"
    elif joint not in ("lever", "cap"):
        what = f"{what} {size.label}"
    shrink = shrink_for(outside_mm(size.area_mm2)) if float(row["shrink_mm"]) else None
    crimped = joint in _CRIMPED
    return PieceEnd(
        run=run,
        finish=finish,
        part_id=part.id if part is not None else "",
        part=part.name if part is not None else "",
        place=place,
        at=at,
        fits=what,
        stud=stud,
        torque_nm=own.torque_nm if own is not None and stud else None,
        strip_mm=float(row["strip_mm"]),
        shrink_before_mm=shrink[0] if shrink else None,
        shrink_after_mm=shrink[1] if shrink else None,
        shrink_length_mm=float(row["shrink_mm"]) if shrink else 0.0,
        pull_n=pull_n(size.area_mm2) if crimped else None,
        label=label,
    )


def _again_m(found: Fitting, size: WireSize) -> float:
    row = load_table("wire_ends").find(found.joint(size))
    return (float(row["strip_mm"]) + float(row["again_mm"])) / 1000


def _in_line(run: Run, fuse: Fuse | None, end: End, part: Part, sized: Sized, key: str) -> float | None:
    """How far from an end a fuse of its own cuts the positive in two; None where it sits in a way or on a post. [m]"""
    if fuse is None or (isinstance(part, FuseBlock) and end.way is not None) or fuse.distance_m <= 0:
        return None
    made = sized.fuses.get(key)
    if made is None or made.fuse is None or made.fuse.family == _ON_THE_POST or fuse.distance_m >= run.length_m:
        return None
    return fuse.distance_m


def _one_pole(part: Part) -> bool:
    """Whether only the positive goes through a part."""
    return part.kind in _ONE_POLE and not (isinstance(part, Switch) and part.form == "reversing")


class _Cutter:
    """Cuts the runs of one plan."""

    def __init__(self, plan: Plan) -> None:
        layout = layout_of(plan)
        self.plan, self.sized, self.layout = layout.plan, sized_plan(plan), layout
        self.parts = {part.id: part for part in self.plan.parts}
        self.places = {place.id: place.name for place in self.plan.places}
        self.slack_frac = plan_rules(plan).values.slack_frac
        self.onward = self._passing()
        self.passed = {run.id for run in self.onward.values()}

    def _where(self, part: Part) -> str:
        return self.places.get(part.place or "", "")

    def _at(self, run: Run, side: Side, positive: bool) -> tuple[Fitting, Part, str]:
        end = run.start if side == "start" else run.finish
        part = self.parts[end.part]
        found = fitting(part, end, side, self.sized.cases[run.id].design_current_a, positive=positive)
        if isinstance(part, FuseBlock) and end.way is not None:
            return found, part, f"way {end.way}" if positive else "negative bar"
        if not positive and run.legs == "both" and _one_pole(part) and end.terminal != _COIL:
            # Where more than one pair leaves, or in another size, the negatives meet beside it.
            return fitting_of("splice", None), part, "beside it, to the other negatives"
        sign = "+" if positive else "−"
        terminal = end_terminal(part, end, side)
        return found, part, f"{terminal} {sign}" if terminal else sign

    def _label(self, run: Run, size: WireSize, far: Part) -> str:
        fuse = self.sized.fuses.get(run.id)
        amps = f" {fuse.fuse.rating_a:g} A" if fuse is not None and fuse.fuse is not None else ""
        name = run.name or self.parts[run.finish.part].name
        return f"{run.tag} {name} · {size.label}{amps} · to {far.name}"

    def of_run(self, run: Run) -> Iterator[CutPiece]:
        """Its pieces: each conductor of each leg, the positive cut where its fuse stands in the wire.

        The negative of a pair passes switches and the like by: it goes with the first run of such a row.
        """
        for number in range(1, run.parallel + 1):
            if run.legs != "negative":
                yield from self._conductor([run], True, number)
            if run.legs in ("both", "negative") and run.id not in self.passed:
                yield from self._conductor(self._row(run), False, number)

    def _row(self, run: Run) -> list[Run]:
        """A run and those its negative goes on as."""
        row = [run]
        while row[-1].id in self.onward:
            row.append(self.onward[row[-1].id])
        return row

    def _passing(self) -> dict[str, Run]:
        """Run id to the run its negative goes on as, past a part of one pole with one pair in and one alike out."""
        found = {}
        for part in self.plan.parts:
            if not _one_pole(part):
                continue
            pairs = [run for run in self.plan.runs if run.legs == "both"]
            before = [run for run in pairs if run.finish.part == part.id and run.finish.terminal != _COIL]
            after = [run for run in pairs if run.start.part == part.id and run.start.terminal != _COIL]
            if len(before) == len(after) == 1 and before[0].parallel == after[0].parallel:
                one, other = (self.sized.chosen[run.id].size.label for run in (before[0], after[0]))
                if one == other:
                    found[before[0].id] = after[0]
        return found

    def _length_m(self, run: Run) -> float:
        """What follows the channels has tails and slack already; a tape along the wire's own way has neither."""
        route = self.layout.routes.get(run.id)
        followed = route is not None and route.missing == "" and bool(route.channels)
        return run.length_m * (1.0 if followed or run.length_guessed else 1 + self.slack_frac)

    def _conductor(self, row: list[Run], positive: bool, number: int) -> Iterator[CutPiece]:
        run = row[0]
        size = self.sized.chosen[run.id].size
        start, finish = self._at(run, "start", positive), self._at(row[-1], "finish", positive)
        whole_m = sum(self._length_m(one) for one in row)
        channels = tuple(
            channel
            for one in row
            if (route := self.layout.routes.get(one.id)) is not None
            for channel in route.channels
        )
        cuts = []
        if positive:
            ends = (
                (run.fuse_at_start, run.start, run.id, False),
                (run.fuse_at_finish, run.finish, far_key(run.id), True),
            )
            for fuse, end, key, far in ends:
                at_m = _in_line(run, fuse, end, self.parts[end.part], self.sized, key)
                if at_m is not None:
                    cuts.append((whole_m - at_m if far else at_m, key))
        cuts.sort()
        stations = [(0.0, ""), *cuts, (whole_m, "")]
        for k, ((from_m, key), (to_m, next_key)) in enumerate(itertools.pairwise(stations)):
            here = start if not key else self._holder(key, start)
            there = finish if not next_key else self._holder(next_key, finish)
            way_m = to_m - from_m
            cut_m = way_m + _again_m(here[0], size) + _again_m(there[0], size)
            leg = "±" if run.legs == "series" else "+" if positive else "−"
            which = "" if len(stations) == 2 else f"{k + 1} of {len(stations) - 1}"
            yield CutPiece(
                id=f"{run.id}{'+' if positive else '-'}{number}.{k + 1}",
                run=run.id,
                runs=tuple(one.id for one in row),
                tag="/".join(one.tag for one in row),
                leg=leg if run.parallel == 1 else f"{leg}{number}",
                which=which,
                colour=self.plan.wire_colours.positive if positive else self.plan.wire_colours.negative,
                size=size.label,
                area_mm2=size.area_mm2,
                way_m=way_m,
                cut_m=math.ceil(100 * cut_m - 1e-6) / 100,
                guessed=any(one.length_guessed for one in row),
                channels=channels if k == len(stations) - 2 else (),
                start=_end(
                    here[0],
                    size,
                    here[1],
                    self._where(start[1]),
                    here[2],
                    self._label(run, size, finish[1]),
                    run.id,
                    key.endswith(_FAR),
                    None if key else run.start,
                ),
                finish=_end(
                    there[0],
                    size,
                    there[1],
                    self._where(finish[1]),
                    there[2],
                    self._label(run, size, start[1]),
                    row[-1].id,
                    not next_key or next_key.endswith(_FAR),
                    None if next_key else row[-1].finish,
                ),
            )

    def _holder(self, key: str, near: tuple[Fitting, Part, str]) -> tuple[Fitting, Part | None, str]:
        made = self.sized.fuses[key].fuse
        if made is None:
            return near
        return holder_fitting(made.family), None, f"holder of {made.label} {made.rating_a:g} A"


def cut_list(plan: Plan) -> CutList:
    """Every conductor of a plan as pieces to cut.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    CutList
        Pieces in the order of the plan; wire by size and colour, ends and tube by their kind; tags of runs whose length
        nobody has measured, which are not to be cut yet.

    Notes
    -----
    ``cut = way + Σ (strip + again)`` over both ends, to the next centimetre; a length typed along the wire's own way
    gets the rule's slack besides. Figures of ends from wire_ends.csv, studs.csv and heat_shrink.csv.
    """
    cutter = _Cutter(plan)
    return cut_totals([piece for run in cutter.plan.runs for piece in cutter.of_run(run)])


def cut_totals(pieces: list[CutPiece]) -> CutList:
    """A cut list of some pieces.

    Parameters
    ----------
    pieces : list of CutPiece
        In the order they are listed.

    Returns
    -------
    CutList
        With what they come to.
    """
    wires: dict[tuple[float, str, str], list[float]] = {}
    fits, tubes = Counter[str](), Counter[tuple[float, float]]()
    for piece in pieces:
        wires.setdefault((piece.area_mm2, piece.size, piece.colour), []).append(piece.cut_m)
        for end in (piece.start, piece.finish):
            fits[end.fits] += 1
            if end.shrink_before_mm is not None and end.shrink_after_mm is not None:
                tubes[(end.shrink_before_mm, end.shrink_after_mm)] += round(end.shrink_length_mm)
    totals = [EndTotal(what, count, 0.0) for what, count in sorted(fits.items())]
    totals += [EndTotal(f"heat-shrink {a:g} to {b:g} mm", 0, float(mm)) for (a, b), mm in sorted(tubes.items())]
    return CutList(
        pieces=pieces,
        wires=[
            WireTotal(size, colour, area, len(some), round(sum(some), 2), max(some))
            for (area, size, colour), some in sorted(wires.items(), reverse=True)
        ],
        ends=totals,
        guessed=list(dict.fromkeys(piece.tag for piece in pieces if piece.guessed)),
    )
