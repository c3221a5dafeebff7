"""One order for every plan: by what things are and what they are joined to, whatever they are called and however the
lists stand. What is chosen among equals then does not hang on who was written first.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping
from threading import Lock
from typing import Any

from cachetools import LRUCache

from lucernis.core.circuit.terminals import end_terminal
from lucernis.core.itself import Itself
from lucernis.plan.model import Plan, Run

# Names and notes say nothing of what a thing is.
_OF_A_PART = {"id", "name", "tag", "place", "maker"}
_OF_A_RUN = {
    "id", "name", "tag", "start", "finish", "fuse_at_start", "fuse_at_finish", "zone", "way", "passes", "wire",
    "length_as_typed", "length_confirmed", "length_guessed", "unsupported_m",
}  # fmt: skip
_LAID = {"length_m", "bundle_count"}
_OF_A_STATE = {"id", "name", "off", "open", "modes", "duty"}
# Beyond so many steps away what a thing is joined to tells nothing new on any van.
_MOST_ROUNDS = 200

_KNOWN: LRUCache[Itself[Plan], Plan] = LRUCache(maxsize=16)
_LOCK = Lock()


def _ranks(keys: Mapping[str, Hashable]) -> dict[str, int]:
    """Numbers for some keys, equal ones alike, in their order."""
    at = {key: number for number, key in enumerate(sorted(set(keys.values())))}  # type: ignore[type-var]
    return {name: at[key] for name, key in keys.items()}


def _plain(thing: Any, left_out: set[str]) -> str:
    text: str = thing.model_dump_json(exclude=left_out, exclude_defaults=True)
    return text


class _Colours:
    """What can be told of parts and runs without their names, a step further round by round."""

    def __init__(self, plan: Plan) -> None:
        parts = {part.id: part for part in plan.parts}
        zones = {zone.id: _plain(zone, {"id", "name"}) for zone in plan.zones}
        places = {place.id: _plain(place, {"id", "name", "zone"}) + zones[place.zone] for place in plan.places}
        self.states = {state.id: _plain(state, _OF_A_STATE) for state in plan.states}
        said: dict[str, list[str]] = {}
        for state in plan.states:
            own = self.states[state.id]
            for name in (*state.off, *state.open):
                said.setdefault(name, []).append(own)
            for mode in state.modes:
                said.setdefault(mode.part, []).append(own + mode.position)
            for duty in state.duty:
                said.setdefault(duty.load, []).append(f"{own}{duty.share}")

        def of_states(name: str) -> str:
            return "|".join(sorted(said.get(name, ())))

        self.parts = _ranks(
            {
                part.id: f"{part.kind}{_plain(part, _OF_A_PART)}{getattr(part, 'maker', None)}"
                f"{places.get(part.place or '', '')}{of_states(part.id)}"
                for part in plan.parts
            }
        )
        # What a laid out run takes from its way is left out: laid out or not the order is the same.
        of_runs = {
            run.id: _plain(run, _OF_A_RUN | (_LAID if run.way is not None else set()))
            + zones.get(run.zone or "", "")
            + (f"{run.wire.system}{run.wire.size}" if run.wire is not None else "")
            + of_states(run.id)
            for run in plan.runs
        }
        self.ends: dict[str, tuple[tuple[str, int], tuple[str, int]]] = {}
        ends = _ranks({f"{run.id} {side}": self._end(run, side, parts) for run in plan.runs for side in _SIDES})
        self.runs = _ranks(of_runs)
        for run in plan.runs:
            first, last = ((getattr(run, side).part, ends[f"{run.id} {side}"]) for side in _SIDES)
            self.ends[run.id] = (first, last)
        # A link in series goes from a negative post to a positive one: its ends are not alike.
        self.directed = {run.id for run in plan.runs if run.legs == "series"}

    @staticmethod
    def _end(run: Run, side: str, parts: Mapping[str, Any]) -> str:
        end, fuse = getattr(run, side), getattr(run, f"fuse_at_{side}")
        pin = fuse.pin if fuse is not None else None
        terminal = end_terminal(parts[end.part], end, side)  # type: ignore[arg-type]
        fused = _plain(fuse, {"pin"}) if fuse is not None else "-"
        pinned = (pin.rating_a, pin.family) if pin is not None else ""
        return f"{end.way is not None}{terminal}{end.joint}{end.stud}{end.torque_nm}{fused}{pinned}"

    def finer(self) -> bool:
        """One step further; whether that told anything apart."""
        around: dict[str, list[tuple[int, int, int, int]]] = {name: [] for name in self.parts}
        runs: dict[str, Hashable] = {}
        for run_id, ((one, at_one), (other, at_other)) in self.ends.items():
            own, here, there = self.runs[run_id], (self.parts[one], at_one), (self.parts[other], at_other)
            turn = run_id in self.directed
            runs[run_id] = (own, *((here, there) if turn else sorted((here, there))))
            around[one].append((own, at_one, *there))
            around[other].append((own, at_other, *here))
        parts = _ranks({name: (self.parts[name], tuple(sorted(some))) for name, some in around.items()})
        new = _ranks(runs)
        told = _count(parts) > _count(self.parts) or _count(new) > _count(self.runs)
        self.parts, self.runs = parts, new
        return told


_SIDES = ("start", "finish")


def _count(ranks: Mapping[str, int]) -> int:
    return len(set(ranks.values()))


def in_order(plan: Plan) -> Plan:
    """The same plan with its lists in an order that does not hang on how they were written.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    Plan
        Parts, runs and states by what they are and what they are joined to, step by step further out; what is alike in
        all of that by its id. Put in order again it is the very same.

    Notes
    -----
    Colour refinement of the graph of parts and runs (Weisfeiler and Leman 1968, from memory).
    """
    key = Itself(plan)
    with _LOCK:
        found = _KNOWN.get(key)
    if found is None:
        found = _ordered(plan)
        with _LOCK:
            _KNOWN[key] = _KNOWN[Itself(found)] = found
    return found


def _ordered(plan: Plan) -> Plan:
    colours = _Colours(plan)
    for _ in range(_MOST_ROUNDS):
        if not colours.finer():
            break
    parts = tuple(sorted(plan.parts, key=lambda one: (colours.parts[one.id], one.id)))
    runs = tuple(sorted(plan.runs, key=lambda one: (colours.runs[one.id], one.id)))

    def known(names: Iterable[str]) -> tuple[int, ...]:
        return tuple(sorted(colours.parts.get(name, colours.runs.get(name, 0)) for name in names))

    states = tuple(
        sorted(plan.states, key=lambda one: (colours.states[one.id], known(one.off), known(one.open), one.id))
    )
    if (parts, runs, states) == (plan.parts, plan.runs, plan.states):
        return plan
    return plan.model_copy(update={"parts": parts, "runs": runs, "states": states})
