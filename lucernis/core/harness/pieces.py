"""Every conductor between two terminations: its way, what it is cut to, and what is at either end."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from lucernis.core.circuit.terminals import end_terminal
from lucernis.core.harness.ends import LUG_FROM_MM2, MadeEnd, end_of, splice_joins, stud_of
from lucernis.core.harness.holders import Holder
from lucernis.core.harness.spans import Spans
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.ends import fitting, holder_fitting
from lucernis.core.wire.copper import WireSize
from lucernis.plan.model import End, FuseBlock, Part, Plan, Run, Switch
from lucernis.plan.terminals import Side

# Parts that have no negative: that of a pair passes them by.
_ONE_POLE = ("switch", "relay", "diode", "keyed_feed")
# A coil has both its ends.
COIL = "coil"
# Where the negatives of pairs meet that a part of one pole does not take.
BESIDE = "beside it, to the other negatives"
# From the coil of a relay to the nearest negative where it stands. Practice. [m]
_HOME_M = 0.5
# Two holders in one wire stand off from one another by at least so much. Practice. [m]
_BETWEEN_M = 0.05


@dataclass(frozen=True, slots=True)
class PieceEnd:
    """One end of a piece: where it goes, what is put on, and the tube over it [mm], None where there is none.

    `run` and `finish` say at which end of which run that is; `part_id` is empty where it ends in a holder, `holder`
    elsewhere; `pull_n` is what its crimp must stand, None where nothing is crimped [N]. `on_stud` numbers the studs of
    a bar, `layer` counts the lugs on its stud from the bottom, the thickest first; both 0 where it is on none.
    """

    run: str
    finish: bool
    part_id: str
    part: str
    holder: str
    place: str
    at: str
    what: str
    fits: str
    stud: str
    on_stud: int
    layer: int
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

    `runs` are those it lies along: several where a negative passes switches by. `channels` are those it lies in, in
    order, one twice where it comes back through it.
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

    @property
    def ends(self) -> tuple[PieceEnd, PieceEnd]:
        """Both of its ends."""
        return self.start, self.finish


@dataclass(frozen=True, slots=True)
class _Station:
    """Where a conductor is cut: a part's terminal or a holder."""

    part: Part | None
    holder: Holder | None
    place: str
    at: str
    made: MadeEnd
    finish: bool
    own: End | None


def one_pole(part: Part) -> bool:
    """Whether only the positive goes through a part."""
    return part.kind in _ONE_POLE and not (isinstance(part, Switch) and (part.form == "reversing" or part.poles == 2))


class Cutter:
    """Cuts the runs of one plan.

    Parameters
    ----------
    fed : Plan
        Its runs as `as_fed` writes them.
    sized : Sized
        Its sizes.
    holders : Mapping
        Every fuse by its key.
    spans : Spans
        Where each run lies along its length.
    places : Mapping
        Id of a place to its name.
    """

    def __init__(
        self, fed: Plan, sized: Sized, holders: Mapping[str, Holder], spans: Spans, places: Mapping[str, str]
    ) -> None:
        self.plan, self.sized, self.spans, self.places = fed, sized, spans, places
        self.parts = {part.id: part for part in fed.parts}
        self.holders = holders
        self.in_line: dict[str, list[Holder]] = {run.id: [] for run in fed.runs}
        for one in holders.values():
            if one.mounting == "in_line":
                self.in_line[one.run].append(one)
        self.home = self._coils_home()
        self.onward = self._passing()
        self.passed = {run.id for run in self.onward.values()}
        self.beside = self._beside()

    def _where(self, part: Part) -> str:
        return self.places.get(part.place or "", "")

    def _coils_home(self) -> dict[str, tuple[Part, str]]:
        """Runs into a coil, to the negative beside its relay: a bar, a block's bar or a bolt in the same place."""
        found: dict[str, tuple[Part, str]] = {}
        for run in self.plan.runs:
            relay = self.parts[run.finish.part]
            if run.legs != "both" or run.finish.terminal != COIL or relay.place is None:
                continue
            start = self.parts[run.start.part]
            if start.place == relay.place:
                continue
            near = [part for part in self.plan.parts if part.place == relay.place and part.id != start.id]
            near.sort(key=lambda part: part.id)
            bar = next((part for part in near if part.kind == "busbar" and part.bars != "positive"), None)
            block = next((part for part in near if isinstance(part, FuseBlock) and part.negative_bar), None)
            bolt = next((part for part in near if part.kind == "chassis_point"), None)
            target = bar or bolt
            if target is not None:
                found[run.id] = (target, "−")
            elif block is not None:
                found[run.id] = (block, "negative bar")
        return found

    def _passing(self) -> dict[str, Run]:
        """Run id to the run its negative goes on as, past a part of one pole with one pair in and one alike out."""
        found = {}
        for part in self.plan.parts:
            if not one_pole(part):
                continue
            pairs = [run for run in self.plan.runs if run.legs == "both" and run.id not in self.home]
            before = [run for run in pairs if run.finish.part == part.id and run.finish.terminal != COIL]
            after = [run for run in pairs if run.start.part == part.id and run.start.terminal != COIL]
            if len(before) == len(after) == 1 and before[0].parallel == after[0].parallel:
                one, other = (self.sized.chosen[run.id].size.label for run in (before[0], after[0]))
                if one == other:
                    found[before[0].id] = after[0]
        return found

    def _beside(self) -> dict[str, list[float]]:
        """Copper of the negatives that meet beside each part of one pole. [mm²]"""
        found: dict[str, list[float]] = {}
        for run in self.plan.runs:
            if run.legs != "both" or run.id in self.home:
                continue
            area = self.sized.chosen[run.id].size.area_mm2
            for end, goes_on in ((run.start, run.id in self.passed), (run.finish, run.id in self.onward)):
                if one_pole(self.parts[end.part]) and end.terminal != COIL and not goes_on:
                    found.setdefault(end.part, []).extend([area] * run.parallel)
        return found

    def meets_on_a_stud(self, part_id: str) -> bool:
        """Whether the negatives beside a part are more than a butt splice joins."""
        return not splice_joins(self.beside.get(part_id, []))

    def _made(self, part: Part, end: End, side: Side, run: Run, *, positive: bool) -> tuple[str, MadeEnd, End | None]:
        """What an end of a run ends at, what is put on it, and the end as a person wrote it where that counts."""
        size = self.sized.chosen[run.id].size
        if not positive and run.legs == "both" and one_pole(part) and end.terminal != COIL:
            # Where more than one pair leaves, or in another size, the negatives meet beside it.
            if self.meets_on_a_stud(part.id):
                thick = max(self.beside[part.id]) >= LUG_FROM_MM2
                return BESIDE, end_of("lug_small", size, "M8" if thick else "M6"), None
            return BESIDE, end_of("splice", size, ""), None
        found = fitting(part, end, side, self.sized.cases[run.id].design_current_a, positive=positive)
        made = end_of(found.joint(size), size, end.stud or stud_of(found, size))
        if isinstance(part, FuseBlock) and end.way is not None:
            return f"way {end.way}" if positive else "negative bar", made, end
        sign = "+" if positive else "−"
        terminal = end_terminal(part, end, side)
        return f"{terminal} {sign}" if terminal else sign, made, end

    def _at_part(self, run: Run, side: Side, *, positive: bool) -> _Station:
        end = run.start if side == "start" else run.finish
        part = self.parts[end.part]
        at, made, own = self._made(part, end, side, run, positive=positive)
        return _Station(part, None, self._where(part), at, made, side == "finish", own)

    def _at_holder(self, holder: Holder, size: WireSize) -> _Station:
        made = end_of(holder_fitting(holder.family).joint(size), size, holder.stud)
        return _Station(None, holder, holder.place, holder.name, made, holder.finish, None)

    def _label(self, run: Run, size: WireSize, far: Part) -> str:
        fuse = self.holders.get(run.id)
        amps = f" {fuse.rating_a:g} A" if fuse is not None else ""
        name = run.name or self.parts[run.finish.part].name
        return f"{run.tag} {name} · {size.label}{amps} · to {far.name}"

    def _row(self, run: Run) -> list[Run]:
        """A run and those its negative goes on as."""
        row = [run]
        while row[-1].id in self.onward:
            row.append(self.onward[row[-1].id])
        return row

    def _needless(self, run: Run) -> bool:
        """Whether nothing comes home by a run's negative: it leads to a part of one pole, and all that goes on from
        there has a negative of its own."""
        part = self.parts[run.finish.part]
        ends_there = one_pole(part) and run.finish.terminal != COIL
        on = [one for one in self.plan.runs if one.start.part == part.id and one.id != run.id]
        return ends_there and bool(on) and all(one.id in self.home for one in on)

    def of_run(self, run: Run) -> Iterator[CutPiece]:
        """Its pieces: each conductor of each leg, the positive cut where its fuse stands in the wire.

        The negative of a pair passes switches and the like by: it goes with the first run of such a row.
        """
        for number in range(1, run.parallel + 1):
            if run.legs != "negative":
                yield from self._conductor([run], number, positive=True)
            if run.legs not in ("both", "negative") or run.id in self.passed or self._needless(run):
                continue
            if run.id in self.home:
                yield self._home_of(run, number)
            else:
                yield from self._conductor(self._row(run), number, positive=False)

    def _home_of(self, run: Run, number: int) -> CutPiece:
        """The negative of a coil, led to what is nearest instead of all the way along its positive."""
        target, at = self.home[run.id]
        size = self.sized.chosen[run.id].size
        kind: End = End(part=target.id, way=1 if isinstance(target, FuseBlock) else None)
        found = fitting(target, kind, "start", self.sized.cases[run.id].design_current_a, positive=False)
        made = end_of(found.joint(size), size, stud_of(found, size))
        start = _Station(target, None, self._where(target), at, made, True, None)
        return self._piece([run], number, False, "", (start, self._at_part(run, "finish", positive=False)), _HOME_M, ())

    def _conductor(self, row: Sequence[Run], number: int, *, positive: bool) -> Iterator[CutPiece]:
        run = row[0]
        size = self.sized.chosen[run.id].size
        whole_m = sum(self.spans.length_m(one) for one in row)
        cuts = self._cuts(run, whole_m) if positive else []
        ends = (self._at_part(run, "start", positive=positive), self._at_part(row[-1], "finish", positive=positive))
        stations = [(0.0, ends[0]), *((at_m, self._at_holder(one, size)) for at_m, one in cuts), (whole_m, ends[1])]
        for k, ((from_m, here), (to_m, there)) in enumerate(itertools.pairwise(stations)):
            which = "" if len(stations) == 2 else f"{k + 1} of {len(stations) - 1}"
            channels = self.spans.channels_between(row, from_m, to_m)
            yield self._piece(row, number, positive, which, (here, there), to_m - from_m, channels, k + 1)

    def _cuts(self, run: Run, whole_m: float) -> list[tuple[float, Holder]]:
        """Where holders cut a positive. [m]"""
        cuts = [(whole_m - one.distance_m if one.finish else one.distance_m, one) for one in self.in_line[run.id]]
        cuts.sort(key=lambda one: (one[1].finish, one[0]))
        if len(cuts) == 2 and cuts[1][0] - cuts[0][0] < _BETWEEN_M:
            return [(whole_m * (k + 1) / 3, one) for k, (_, one) in enumerate(cuts)]
        return cuts

    def _piece(
        self, row: Sequence[Run], number: int, positive: bool, which: str, ends: tuple[_Station, _Station],
        way_m: float, channels: tuple[str, ...], part_no: int = 1,
    ) -> CutPiece:  # fmt: skip
        run, last = row[0], row[-1]
        size, (here, there) = self.sized.chosen[run.id].size, ends
        cut_m = way_m + sum(one.made.strip_mm + one.made.again_mm for one in ends) / 1000
        leg = "±" if run.legs == "series" else "+" if positive else "−"
        colours = self.plan.wire_colours
        return CutPiece(
            id=f"{run.id}{'+' if positive else '-'}{number}.{part_no}",
            run=run.id,
            runs=tuple(one.id for one in row),
            tag="/".join(one.tag for one in row),
            leg=leg if run.parallel == 1 else f"{leg}{number}",
            which=which,
            colour=colours.positive if positive else colours.negative,
            size=size.label,
            area_mm2=size.area_mm2,
            way_m=way_m,
            cut_m=math.ceil(100 * cut_m - 1e-6) / 100,
            guessed=any(one.length_guessed for one in row),
            channels=channels,
            start=self._end(here, run, self._label(run, size, self.parts[last.finish.part])),
            finish=self._end(there, last, self._label(run, size, self.parts[run.start.part])),
        )

    def _end(self, station: _Station, run: Run, label: str) -> PieceEnd:
        made, own = station.made, station.own
        return PieceEnd(
            run=run.id,
            finish=station.finish,
            part_id=station.part.id if station.part is not None else "",
            part=station.part.name if station.part is not None else "",
            holder=station.holder.key if station.holder is not None else "",
            place=station.place,
            at=station.at,
            what=made.what,
            fits=made.fits,
            stud=made.stud,
            on_stud=0,
            layer=0,
            torque_nm=own.torque_nm if own is not None and made.stud else None,
            strip_mm=made.strip_mm,
            shrink_before_mm=made.shrink_before_mm,
            shrink_after_mm=made.shrink_after_mm,
            shrink_length_mm=made.shrink_length_mm,
            pull_n=made.pull_n,
            label=label,
        )
