"""A set-up followed through time: what gets how hot, what opens when, what is harmed. One course holds every frame."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal

from lucernis.core.bench.cells import Cells
from lucernis.core.bench.circuit import BenchCircuit
from lucernis.core.bench.memory import FuseMemory
from lucernis.core.bench.setup import Setup

What = Literal["rated", "softens", "blisters", "smokes", "bare", "melts", "parts", "opens", "lacks", "neighbours"]
USUAL_END_S = {"short": 60.0}
_OTHER_END_S = 1800.0
SHORTEST_S, LONGEST_S = 0.01, 36000.0
# A step warms nothing by more than this, or by this share of how warm it is.
_WARMS_K, _WARMS_FRAC = 2.0, 0.02
_GROWS = 1.3
_CAREFUL_FRAC = 0.1
_MOST_STEPS = 6000
_TIE_S = 1e-9
_FRAMES = 480


@dataclass(slots=True)
class Frames:
    """What is shown at each time; all of one length (n_frames,). `on_way_frac` is how near the fuse is to opening."""

    time_s: list[float] = field(default_factory=list)
    conductor_c: list[float] = field(default_factory=list)
    surface_c: list[float] = field(default_factory=list)
    joint_c: list[float] = field(default_factory=list)
    neighbours_c: list[float] = field(default_factory=list)
    current_a: list[float] = field(default_factory=list)
    load_v: list[float] = field(default_factory=list)
    let_through_a2s: list[float] = field(default_factory=list)
    wire_j_per_m: list[float] = field(default_factory=list)
    on_way_frac: list[float] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happens: when [s], what, and where: at the middle of the wire, its joint, the fuse."""

    time_s: float
    what: What
    where: str


@dataclass(slots=True)
class Course:
    """A set-up followed to `end_s`.

    `fuse_fast_s` and `fuse_slow_s` are when the two edges of the fuse's band open, None where they don't within the
    time; `most_a` the greatest current; `cut_short` where it took too many steps.
    """

    setup: Setup
    end_s: float
    frames: Frames
    events: list[Event]
    fuse_fast_s: float | None
    fuse_slow_s: float | None
    most_a: float
    hottest_c: float
    hottest_joint_c: float
    let_through_a2s: float
    cut_short: bool


def usual_end_s(setup: Setup) -> float:
    """How long a set-up is watched if nothing is said. [s]"""
    return USUAL_END_S.get(setup.load.kind, _OTHER_END_S)


class _Watch:
    """Notes what happens when it first does."""

    def __init__(self, cells: Cells) -> None:
        self.events: list[Event] = []
        self._seen: set[tuple[str, str]] = set()
        harm = cells.harm
        self._marks: list[tuple[What, float]] = [
            ("softens", harm.softens_c),
            ("blisters", harm.blisters_c),
            ("smokes", harm.smokes_c),
        ]

    def note(self, time_s: float, what: What, where: str) -> None:
        if (what, where) not in self._seen:
            self._seen.add((what, where))
            self.events.append(Event(time_s, what, where))

    def look(self, cells: Cells, time_s: float) -> None:
        for at, where in ((-1, "wire"), (0, "joint")):
            if cells.conductor_c[at] >= cells.wire.insulation_c:
                self.note(time_s, "rated", where)
            # It is the cover that is harmed: a short cleared in milliseconds leaves it cool.
            for what, mark_c in self._marks:
                if cells.shell_c[0, at] >= mark_c:
                    self.note(time_s, what, where)
            if cells.bare[at]:
                self.note(time_s, "bare", where)
            if cells.melted_frac[at] > 0:
                self.note(time_s, "melts", where)
        if cells.bundle.count > 1 and float(cells.around_c[-1]) >= cells.wire.insulation_c:
            self.note(time_s, "neighbours", "wire")


class _Clock:
    """A set-up in time: the wire, what flows, the fuse, and what was noticed on the way."""

    def __init__(self, setup: Setup, end_s: float) -> None:
        self.setup, self.end_s = setup, end_s
        self.cells, self.circuit = Cells(setup), BenchCircuit(setup, end_s)
        self.memories = {}
        if setup.fuse is not None:
            self.memories = {edge: FuseMemory(setup.fuse, slow=edge == "slow") for edge in ("slow", "fast")}
        self.followed = None if setup.fuse is None else self.memories[setup.fuse.edge]
        self.watch, self.frames = _Watch(self.cells), Frames()
        self.edges = [*self.circuit.edges_s(end_s), end_s]
        self.opened: dict[str, float] = {}
        self.time_s, self.most_a, self.squared_a2s, self.heat_j_per_m = 0.0, 0.0, 0.0, 0.0
        self.hottest_c = self.hottest_joint_c = -math.inf
        self._step_s, self._moves_k_per_s, self._changed = 0.0, 0.0, True
        self._parted = self._off = False

    def current_a(self) -> float:
        """What flows now, nothing once something has opened; and the frame of this moment."""
        dead = self._parted or self._off or (self.followed is not None and self.followed.opened)
        flow = self.circuit.flow(self.cells, self.time_s + _TIE_S)
        if flow.lacks and not dead:
            self.watch.note(self.time_s, "lacks", "load")
            # What holds its watts switches off; what holds its amperes takes what it can get.
            dead = self._off = self.setup.load.kind in ("inverter", "electronics")
        current = 0.0 if dead else flow.current_a
        self.most_a = max(self.most_a, current * self.circuit.peak_factor)
        self.hottest_c = max(self.hottest_c, float(self.cells.conductor_c[-1]))
        self.hottest_joint_c = max(self.hottest_joint_c, float(self.cells.conductor_c[0]))
        self._frame(current, 0.0 if dead else flow.load_v)
        return current

    def _frame(self, current_a: float, load_v: float) -> None:
        frames, cells = self.frames, self.cells
        frames.time_s.append(self.time_s)
        frames.conductor_c.append(round(float(cells.conductor_c[-1]), 2))
        frames.surface_c.append(round(float(cells.surface_c[-1]), 2))
        frames.joint_c.append(round(float(cells.conductor_c[0]), 2))
        frames.neighbours_c.append(round(float(cells.around_c[-1]), 2))
        frames.current_a.append(round(current_a, 3))
        frames.load_v.append(round(load_v, 3))
        frames.let_through_a2s.append(round(self.squared_a2s, 3))
        frames.wire_j_per_m.append(round(self.heat_j_per_m, 3))
        frames.on_way_frac.append(0.0 if self.followed is None else round(self.followed.way_frac, 4))

    def step_s(self, current_a: float) -> float:
        """How far the next step may go."""
        rise = max(float(self.cells.conductor_c.max()) - self.setup.wire.ambient_c, 0.0)
        allowed_k = max(_WARMS_K, _WARMS_FRAC * rise)
        if self._changed:
            # What follows a change is not known yet: as if nothing were given away.
            speed = self.cells.fastest_k_per_s(current_a, self.circuit.joint_ohm)
            step = _CAREFUL_FRAC * allowed_k / max(speed, 1e-6)
        else:
            step = min(self._step_s * _GROWS, allowed_k / max(self._moves_k_per_s, 1e-9))
        step = min(step, self.end_s / 150)
        step = min(step, next(edge for edge in self.edges if edge > self.time_s + _TIE_S) - self.time_s)
        for memory in self.memories.values():
            if not memory.opened:
                step = min(step, max(memory.next_s(current_a), 1e-7))
        return step

    def advance(self, current_a: float, step_s: float) -> None:
        """Move all on by a step at a current."""
        before = self.cells.conductor_c
        self.cells.step(current_a, self.circuit.joint_ohm, step_s)
        self._step_s, self._moves_k_per_s = step_s, float(abs(self.cells.conductor_c - before).max()) / step_s
        self.time_s += step_s
        self.squared_a2s += current_a**2 * step_s
        self.heat_j_per_m += current_a**2 * self.cells.leg_ohm / self.setup.wire.length_m * step_s
        changed = any(abs(edge - self.time_s) < _TIE_S for edge in self.edges[:-1])
        for edge, memory in self.memories.items():
            memory.step(current_a, step_s)
            if memory.opened and edge not in self.opened:
                self.opened[edge] = self.time_s
                if memory is self.followed:
                    self.watch.note(self.time_s, "opens", "fuse")
                    changed = True
        self.watch.look(self.cells, self.time_s)
        if not self._parted and float(self.cells.melted_frac.max()) >= 1.0:
            self._parted = changed = True
            self.watch.note(self.time_s, "parts", "joint" if self.cells.melted_frac[0] >= 1.0 else "wire")
        self._changed = changed


def follow(setup: Setup, end_s: float | None = None) -> Course:
    """Follow a set-up through time.

    Parameters
    ----------
    setup : Setup
        What stands on the bench.
    end_s : float, optional
        How long it is watched; a minute for a short, half an hour otherwise. [s]

    Returns
    -------
    Course
        With its frames. The wire goes on cooling once the fuse has opened or the wire has parted.

    Notes
    -----
    Steps are so short that copper moves by no more than some 2 K or a fiftieth, that no switching of the load is
    stepped over, and that both edges of the fuse open at the end of a step. Each is at most a third longer than the one
    before.
    """
    end_s = usual_end_s(setup) if end_s is None else min(max(end_s, SHORTEST_S), LONGEST_S)
    clock = _Clock(setup, end_s)
    current = clock.current_a()
    for _ in range(_MOST_STEPS):
        if clock.time_s >= end_s - _TIE_S:
            break
        clock.advance(current, clock.step_s(current))
        current = clock.current_a()
    return Course(
        setup, end_s, _thinned(clock.frames), clock.watch.events, clock.opened.get("fast"), clock.opened.get("slow"),
        clock.most_a, clock.hottest_c, clock.hottest_joint_c, clock.squared_a2s, clock.time_s < end_s - _TIE_S,
    )  # fmt: skip


def _thinned(frames: Frames) -> Frames:
    """Frames enough to look smooth: those that differ most are kept, by time and by temperature."""
    n = len(frames.time_s)
    if n <= _FRAMES:
        return frames
    span_c = max(frames.conductor_c) - min(frames.conductor_c) + max(frames.joint_c) - min(frames.joint_c) + 1e-9
    first = math.log(max(frames.time_s[1], 1e-6))
    decades = math.log(frames.time_s[-1]) - first
    end = frames.time_s[-1]
    kept, since = [0], 0.0
    for at in range(1, n):
        before = max(frames.time_s[at - 1], 1e-6)
        moved = abs(frames.conductor_c[at] - frames.conductor_c[at - 1]) + abs(
            frames.joint_c[at] - frames.joint_c[at - 1]
        )
        since += (
            moved / span_c
            + (frames.time_s[at] - frames.time_s[at - 1]) / end
            + math.log(max(frames.time_s[at], 1e-6) / before) / max(decades, 1e-9)
        )
        turned = abs(frames.current_a[at] - frames.current_a[at - 1]) > 0.2 * max(frames.current_a)
        if since >= 5.0 / _FRAMES or at == n - 1 or turned:
            if turned and kept[-1] != at - 1:
                kept.append(at - 1)
            kept.append(at)
            since = 0.0
    return Frames(*([getattr(frames, name)[at] for at in kept] for name in Frames.__dataclass_fields__))
