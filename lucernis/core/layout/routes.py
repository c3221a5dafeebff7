"""The shortest permitted way of each run along the channels."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lucernis.core.circuit.answers import Floats, Ints
from lucernis.core.layout.channels import Measured, measured_channels
from lucernis.plan.layout import Way
from lucernis.plan.model import Battery, Part, Plan, Run
from lucernis.practice.rules import RuleValues

# Of two ways equally long the one through fewer channels: each counts as a hair longer.
_HAIR_M = 1e-6
# Wire is cut to the centimetre.
_STEP_M = 0.01


@dataclass(frozen=True, slots=True)
class Route:
    """The way of a run: its channels from start to finish, and what makes its length. Lengths in m, one way."""

    run_id: str
    channels: tuple[str, ...]
    channels_m: float
    tail_start_m: float
    tail_finish_m: float
    slack_m: float
    length_m: float
    guessed: bool
    missing: str = ""
    """Why there is none: what a person reads; empty where there is one."""

    @property
    def along_m(self) -> float:
        """Channels, tails and slack, before it is cut to a centimetre. [m]"""
        return self.channels_m + self.tail_start_m + self.tail_finish_m + self.slack_m


@dataclass(frozen=True, slots=True)
class _Solved:
    """Distances [m] and predecessors, a row for each place they are from, and the channel between two places."""

    far: Floats
    before: Ints
    by: dict[tuple[int, int], str]


class Roads:
    """Places and the channels between them as a graph; shortest ways by Dijkstra's algorithm (scipy).

    Parameters
    ----------
    places : sequence of str
        Ids.
    measured : mapping
        Channels with their lengths; those without are no way.
    """

    def __init__(self, places: Sequence[str], measured: Mapping[str, Measured]) -> None:
        self.at = {place: number for number, place in enumerate(places)}
        self._usable = [one for one in measured.values() if one.length_m is not None]
        self.length_m = {one.channel.id: one.length_m for one in self._usable if one.length_m is not None}
        self._ends = {one.channel.id: (one.channel.start, one.channel.finish) for one in self._usable}
        self._known: dict[tuple[frozenset[str], int | None], _Solved] = {}

    def _solved(self, avoid: frozenset[str], start: int) -> _Solved:
        """Distances and predecessors without some channels: from everywhere at once where all may be taken, from one
        place where a person has barred some."""
        key = (avoid, start if avoid else None)
        if key not in self._known:
            # Late, because many plans have no channels.
            from scipy.sparse import csr_matrix
            from scipy.sparse.csgraph import dijkstra

            best: dict[tuple[int, int], tuple[float, str]] = {}
            for one in self._usable:
                if one.channel.id in avoid:
                    continue
                low, high = sorted((self.at[one.channel.start], self.at[one.channel.finish]))
                weight = self.length_m[one.channel.id] + _HAIR_M
                if (low, high) not in best or weight < best[low, high][0]:
                    best[low, high] = (weight, one.channel.id)
            weights = [weight for weight, _ in best.values()]
            ends = ([low for low, _ in best], [high for _, high in best])
            graph = csr_matrix((weights, ends), shape=(len(self.at), len(self.at)))
            from_here = [start] if avoid else None
            far, before = dijkstra(graph, directed=False, indices=from_here, return_predecessors=True)
            self._known[key] = _Solved(
                far, before.astype(np.int64), {between: name for between, (_, name) in best.items()}
            )
        return self._known[key]

    def shortest(self, start: str, finish: str, avoid: Iterable[str] = ()) -> tuple[str, ...] | None:
        """Channels from one place to another.

        Parameters
        ----------
        start, finish : str
            Places.
        avoid : iterable of str
            Channels not to take.

        Returns
        -------
        tuple of str or None
            In order; none for a place to itself. None where they are not joined.
        """
        here, goal, barred = self.at[start], self.at[finish], frozenset(avoid)
        solved = self._solved(barred, here)
        row = 0 if barred else here
        if not np.isfinite(solved.far[row, goal]):
            return None
        found: list[str] = []
        while goal != here:
            last = int(solved.before[row, goal])
            found.append(solved.by[min(last, goal), max(last, goal)])
            goal = last
        return tuple(reversed(found))

    def along(self, start: str, finish: str, way: Way) -> tuple[str, ...] | None:
        """The shortest way through the channels a person named, in their order, each from either end.

        Parameters
        ----------
        start, finish : str
            Places.
        way : Way
            Channels to use and to avoid.

        Returns
        -------
        tuple of str or None
            As `shortest`; None where there is no such way.
        """
        # For every place one may stand at after the channels named so far: the shortest way there.
        stands: dict[str, tuple[str, ...]] = {start: ()}
        for name in way.use:
            if name not in self._ends:
                return None
            after: dict[str, tuple[str, ...]] = {}
            a, b = self._ends[name]
            for here, so_far in stands.items():
                for near, far in ((a, b), (b, a)):
                    lead = self.shortest(here, near, way.avoid)
                    if lead is not None:
                        taken = (*so_far, *lead, name)
                        if far not in after or self.metres(taken) < self.metres(after[far]):
                            after[far] = taken
            stands = after
        best: tuple[str, ...] | None = None
        for here, so_far in stands.items():
            rest = self.shortest(here, finish, way.avoid)
            if rest is not None and (best is None or self.metres((*so_far, *rest)) < self.metres(best)):
                best = (*so_far, *rest)
        return best

    def metres(self, channels: Iterable[str]) -> float:
        """Length of a way. [m]"""
        return sum((self.length_m[one] for one in channels), 0.0)

    def reached(self, start: str) -> set[str]:
        """Places that channels lead to from one, itself included."""
        far = self._solved(frozenset(), self.at[start]).far
        return {place for place, number in self.at.items() if np.isfinite(far[self.at[start], number])}


def tail_m(part: Part, values: RuleValues) -> float:
    """Wire from the end of the last channel to the terminal of a part. [m]"""
    return values.tail_battery_m if isinstance(part, Battery) else values.tail_m


def _no_way(run: Run, parts: Mapping[str, Part], roads: Roads, names: Mapping[str, str]) -> str:
    here, there = parts[run.start.part], parts[run.finish.part]
    loose = [part.name for part in (here, there) if part.place is None]
    if loose:
        return f"{' and '.join(loose)} {'stand' if len(loose) > 1 else 'stands'} at no place yet"
    if run.way is not None and here.place is not None and there.place is not None:
        unmeasured = [one for one in run.way.use if one not in roads.length_m]
        if unmeasured:
            return "a channel it must take has no length yet"
        if there.place in roads.reached(here.place):
            return "what it must use and avoid leaves no way"
    return f"no channel joins {names[here.place or '']} and {names[there.place or '']}"


def find_routes(plan: Plan, values: RuleValues) -> dict[str, Route]:
    """The way of every run that follows channels.

    Parameters
    ----------
    plan : Plan
        Its places, channels and runs.
    values : RuleValues
        Tails and slack.

    Returns
    -------
    dict
        By the run's id. A run without a way keeps its own length and says why.

    Notes
    -----
    ``L = (channels + tail at start + tail at finish) · (1 + slack)``, to the next centimetre; common practice, no
    source.
    """
    measured = measured_channels(plan)
    roads = Roads([place.id for place in plan.places], measured)
    parts, names = {part.id: part for part in plan.parts}, {place.id: place.name for place in plan.places}
    return {
        run.id: _route(run, run.way, parts, roads, measured, names, values) for run in plan.runs if run.way is not None
    }


def _route(
    run: Run,
    way: Way,
    parts: Mapping[str, Part],
    roads: Roads,
    measured: Mapping[str, Measured],
    names: Mapping[str, str],
    values: RuleValues,
) -> Route:
    start, finish = parts[run.start.part], parts[run.finish.part]
    found = None
    if start.place is not None and finish.place is not None:
        found = roads.along(start.place, finish.place, way)
    if found is None:
        missing = _no_way(run, parts, roads, names)
        return Route(run.id, (), 0.0, 0.0, 0.0, 0.0, run.length_m, not way.length_pinned, missing)
    here_m, there_m, channels_m = tail_m(start, values), tail_m(finish, values), roads.metres(found)
    bare_m = channels_m + here_m + there_m
    slack_m = values.slack_frac * bare_m
    length_m = max(_STEP_M, float(np.ceil(round((bare_m + slack_m) / _STEP_M, 6))) * _STEP_M)
    guessed = any(measured[one].guessed for one in found)
    if way.length_pinned:
        return Route(run.id, found, channels_m, here_m, there_m, slack_m, run.length_m, run.length_guessed)
    return Route(run.id, found, channels_m, here_m, there_m, slack_m, round(length_m, 4), guessed)
