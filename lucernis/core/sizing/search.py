"""The cheapest copper whose solved circuit keeps every limit that can be kept: choose, solve, look, choose again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats
from lucernis.core.circuit.supplies import CHARGING
from lucernis.core.circuit.topology import Topology, path_runs
from lucernis.core.sizing.demand import Demand
from lucernis.core.sizing.few_sizes import Spools, fewer_sizes, sets_by_bound, sets_near
from lucernis.core.sizing.lines import fed_by_line
from lucernis.core.sizing.options import Case
from lucernis.core.sizing.selection import Shape, cheapest_options
from lucernis.core.sizing.states import StateResult, StateSolver
from lucernis.core.sizing.stretch import Option
from lucernis.core.sizing.ways import Ways
from lucernis.core.sizing.wiring import leg_shares
from lucernis.plan.model import Battery, Plan, State

_ROUNDS_UP = 5
_ROUNDS_TIGHTER = 8
_ROUNDS_AGAIN = 2
# On plans with no more runs than that every exchange of copper between two of them is tried.
_FEW_RUNS = 8
_FAR_STEPS = 3
# So many sets of sizes to carry are tried on them, the cheapest there could be first.
_MOST_SETS = 24
# On larger plans those next to the one found.
_NEAR_SETS = 3
# Plans with more runs than that in their tree are not worth the look for such exchanges.
MOST_EXCHANGED = 16
# How much of what is to spare is spent at once, boldest first: a solve that disagrees is not kept.
_BOLD = (1.04, 1.0, 0.96, 0.6)
_SLACK_V = 1e-7
# A ceiling may be missed by this share of it: a practice, nobody's need, and not worth another size.
_CEILING_SLACK = 0.04


@dataclass(frozen=True, slots=True)
class Limits:
    """What consumers must get: volts that may be lost on the way as the rules count them, and least volts.

    `wanted_v` is what should rather be lost at most. Points in `ceilings` are blocks, whose feeders should not take
    more; nobody is short for that.
    """

    names: tuple[str, ...]
    lost_v: Floats
    least_v: Floats
    wanted_v: Floats
    ceilings: frozenset[str]

    @property
    def soft(self) -> NDArray[np.bool_]:
        """Which of them are ceilings."""
        return np.array([name in self.ceilings for name in self.names], dtype=bool)


@dataclass(frozen=True, slots=True)
class _State:
    """One state of a trial: which limited consumers are on, what each has to spare by either limit, and its result."""

    on: NDArray[np.bool_]
    spare_v: Floats
    spare_volts: Floats
    result: StateResult


@dataclass(frozen=True, slots=True)
class Trial:
    """One choice of sizes with its cost, copper and ends, and its solution.

    Per limited consumer, shape (n,): the volts lost as the rules count them and those lost besides, worst of all
    states, and whether it falls short. [V]
    """

    options: dict[str, Option]
    cost_mm2_m: float
    current_a: dict[str, float]
    lost_v: Floats
    besides_v: Floats
    short: frozenset[str]
    states: tuple[_State, ...]


@dataclass(slots=True)
class Search:
    """Finds the sizes. What cannot be kept changes only what hangs on it."""

    plan: Plan
    topology: Topology
    figures: Demand
    cases: dict[str, Case]
    limits: Limits
    ways: Ways
    solver: StateSolver
    free_of_pins: Found | None = None
    thorough: bool = True
    taper: bool = False
    jump_most: int = 2
    spools: Spools | None = None
    tried: dict[tuple[int, ...], Trial] = field(default_factory=dict)
    _states: list[State] = field(default_factory=list)
    _roots: tuple[str, ...] = ()
    _shape: Shape | None = None
    _fixed: dict[str, int] = field(default_factory=dict)
    _blocks_behind: dict[str, list[str]] = field(default_factory=dict)

    def run(self) -> Found:
        """The sizes, and the consumers out of reach."""
        self._states = hardest_states(self.figures, self.plan, self.topology)
        self._roots = tuple(name for name, root in self.topology.root_of.items() if name == root)
        for name in self.limits.ceilings:
            for run_id in path_runs(self.topology, name):
                self._blocks_behind.setdefault(run_id, []).append(name)
        best, out_of_reach = self._sizes()
        if self.spools is not None and not best.short - out_of_reach:
            best = self._on_few_spools(best, out_of_reach)
        return Found(best.options, out_of_reach - self.limits.ceilings, self.limits)

    def _sizes(self) -> tuple[Trial, frozenset[str]]:
        """The least copper, and the consumers out of reach."""
        thickest = self._eased(self._attempt({run_id: case.options[-1] for run_id, case in self.cases.items()}))
        out_of_reach = thickest.short
        self._fixed = self._fix(out_of_reach)
        if self._fixed and out_of_reach:
            # What still hangs together is looked at with the sizes that are settled.
            thickest = self._attempt(
                self._followed(
                    {run_id: case.options[self._fixed.get(run_id, -1)] for run_id, case in self.cases.items()}
                )
            )
            out_of_reach |= thickest.short
        kept = [at for at, name in enumerate(self.limits.names) if name not in out_of_reach]
        trial = self._first_that_passes(thickest, kept, out_of_reach)
        best = self._thinned(self._again(trial, kept, out_of_reach), out_of_reach)
        open_runs = [one for one in self._free_runs() if best.options[one] is not self.cases[one].options[0]]
        if self.thorough and open_runs and len(self._free_runs()) <= _FEW_RUNS:
            best = self._exchanged(best, kept, out_of_reach)
        return best, out_of_reach

    def _eased(self, thickest: Trial) -> Trial:
        """Where the thickest wire does not keep what is wanted, what is allowed counts; a ceiling that is out of reach
        is let go."""
        allowed = self.limits.lost_v
        over = [name for name in thickest.short if name not in self.limits.ceilings]
        if not thickest.short:
            return thickest
        wanted = self.limits.wanted_v.copy()
        for at, name in enumerate(self.limits.names):
            if name in over:
                wanted[at] = allowed[at]
            elif name in thickest.short:
                wanted[at] = np.inf
        self.limits = replace(self.limits, wanted_v=wanted)
        self.tried.clear()
        return self._attempt(thickest.options)

    def _cost(self, options: Mapping[str, Option]) -> float:
        """Copper, and what carrying its sizes costs. [mm²·m]"""
        copper = sum(one.cost_mm2_m for one in options.values())
        shelf = self.spools
        return copper if shelf is None else copper + shelf.cost_mm2_m([one.size.label for one in options.values()])

    def _on_few_spools(self, best: Trial, out_of_reach: frozenset[str]) -> Trial:
        """Sizes hardly used give way to the next thicker one that is carried, and what that spares is taken back."""
        shelf, every, needed = self.spools, self.cases, best
        if shelf is None:
            return best
        settled = self._fixed
        open_runs = [
            name for name, case in every.items() if not case.pinned and case.leader is None and name not in settled
        ]
        if not open_runs:
            return best
        shelf = replace(shelf, there=shelf.there | {best.options[name].size.label for name in settled})
        now = {
            name: next(k for k, one in enumerate(every[name].options) if one.size is best.options[name].size)
            for name in open_runs
        }
        options = {**best.options, **{name: every[name].options[k] for name, k in fewer_sizes(
            {name: every[name] for name in open_runs}, now, shelf, jump_most=self.jump_most).items()}}  # fmt: skip
        up = self._attempt(self._followed(options))
        few = self.thorough and len(self._free_runs()) <= _FEW_RUNS
        if not up.short - out_of_reach and self._cost(up.options) < self._cost(best.options) - 1e-9:
            best = up
        elif not few:
            return best
        carried = frozenset(best.options[name].size.label for name in open_runs)
        most = {name: self._most_mm2(name, needed.options[name]) for name in open_runs}
        cases = {name: every[name] for name in open_runs}
        tries = sets_by_bound(cases, shelf) if few else sets_near(cases, shelf, carried)
        for bound, sizes in tries[: _MOST_SETS if few else _NEAR_SETS]:
            if bound >= self._cost(best.options) - 1e-9:
                break
            trial = self._with(sizes, open_runs, best, out_of_reach, anew=few)
            if trial is None or self._cost(trial.options) >= self._cost(best.options) - 1e-9:
                continue
            if all(trial.options[name].size.area_mm2 <= most[name] for name in open_runs):
                best = trial
        return best

    def _most_mm2(self, run_id: str, needed: Option) -> float:
        """The thickest a run may be made for the sake of few sizes: so many made sizes above what it needs. [mm²]"""
        areas = [one.size.area_mm2 for one in self.cases[run_id].options]
        at = areas.index(needed.size.area_mm2)
        return areas[min(at + self.jump_most, len(areas) - 1)] * 1.001

    def _with(
        self, carried: frozenset[str], open_runs: list[str], best: Trial, out_of_reach: frozenset[str], *, anew: bool
    ) -> Trial | None:
        """The least copper with only some sizes on the van; a run that can have none of them keeps its own."""
        every, fixed, limits = self.cases, self._fixed, self.limits
        if fixed and not anew:
            return None
        cases = dict(every)
        for name in open_runs:
            kept = tuple(one for one in every[name].options if one.size.label in carried)
            if kept and len(kept) < len(every[name].options):
                cases[name] = replace(every[name], options=kept)
        self.cases, self._fixed = cases, {}
        try:
            kept_at = [at for at, name in enumerate(self.limits.names) if name not in out_of_reach]
            options = self._picked(best.current_a, self._reckoned(kept_at, best, {}))
            if self._cost(options) >= self._cost(best.options) - 1e-9:
                # Dearer before it is even solved.
                return None
            if anew:
                trial, missed = self._sizes()
            else:
                trial, missed = self._thinned(self._attempt(options), out_of_reach), out_of_reach
        finally:
            self.cases, self._fixed = every, fixed
            eased, self.limits = self.limits is not limits, limits
        if eased:
            # What some sizes cannot keep, all of them may: a reserve is not given away for a spool.
            self.tried.clear()
            trial = self._attempt(trial.options)
        return trial if missed <= out_of_reach and not trial.short - out_of_reach else None

    def _free_runs(self) -> list[str]:
        """Runs of the tree whose size is open."""
        return [
            run_id
            for run_id in self.topology.order
            if run_id not in self._fixed and self.cases[run_id].leader is None and len(self.cases[run_id].options) > 1
        ]

    def _again(self, best: Trial, kept: list[int], out_of_reach: frozenset[str]) -> Trial:
        """The cheapest for the currents that really flow, as long as that comes out cheaper and passes."""
        if best.short - out_of_reach:
            return best
        for _ in range(_ROUNDS_AGAIN):
            trial = self._cheapest(best.current_a, self._reckoned(kept, best, {}))
            if trial.short - out_of_reach or trial.cost_mm2_m >= best.cost_mm2_m - 1e-9:
                break
            best = trial
        return best

    def _exchanged(self, best: Trial, kept: list[int], out_of_reach: frozenset[str]) -> Trial:
        """One run held thicker or thinner, the rest chosen anew for it: on a small plan each such exchange is tried."""
        settled, better = self._fixed, True
        while better:
            better = False
            for run_id in self._free_runs():
                options = self.cases[run_id].options
                now = next((at for at, one in enumerate(options) if one.size is best.options[run_id].size), 0)
                for to in range(max(0, now - _FAR_STEPS), min(now + _FAR_STEPS + 1, len(options))):
                    if to == now:
                        continue
                    self._fixed = {**settled, run_id: to}
                    trial = self._cheapest(best.current_a, self._reckoned(kept, best, {}))
                    self._fixed = settled
                    trial = self._thinned(trial, out_of_reach)
                    if not trial.short - out_of_reach and trial.cost_mm2_m < best.cost_mm2_m - 1e-9:
                        best, better = trial, True
                        break
        return best

    def _fix(self, out_of_reach: frozenset[str]) -> dict[str, int]:
        """Runs behind which nothing can be kept: what they would be without the pins, else as thick as is sensible."""
        if not out_of_reach:
            return {}
        limited = set(self.limits.names) - self.limits.ceilings
        fixed: dict[str, int] = {}
        for run_id in self.topology.order:
            behind = [one for one in self.topology.behind[run_id] if one in limited]
            if not behind or not out_of_reach.issuperset(behind):
                continue
            case = self.cases[run_id]
            # No step down to a usual terminal for what cannot be kept all the same.
            plain = [k for k, one in enumerate(case.options) if not one.steps]
            at = plain[-1] if plain else len(case.options) - 1
            free = self.free_of_pins
            if free is not None and not free.out_of_reach.intersection(behind):
                wanted = free.options[run_id].size.area_mm2 * 0.999
                at = next((k for k, one in enumerate(case.options) if one.size.area_mm2 >= wanted), at)
            fixed[run_id] = at
        return fixed

    def _followed(self, options: dict[str, Option]) -> dict[str, Option]:
        """Runs that take another's size take it: those of a line first, because negatives go with them."""
        for in_line in (True, False):
            for run_id, case in self.cases.items():
                if case.leader in options and case.in_line is in_line and not case.pinned:
                    options[run_id] = case.at_least(options[case.leader].size)
        return options

    def _attempt(self, options: dict[str, Option]) -> Trial:
        """Solve one choice; what has been tried already is remembered."""
        key = tuple(id(one) for one in options.values())
        known = self.tried.get(key)
        if known is None or known.options.keys() != options.keys():
            known = self.tried[key] = self._solved(options)
        return known

    def _solved(self, options: dict[str, Option]) -> Trial:
        results = self.solver.solve(options, self._states, give=False, rated=True)
        wire = leg_shares(self.plan, options).wire
        current_a = {}
        for run_id in self.topology.order:
            solved_a = max(abs(result.run_a[run_id]) for result in results.values())
            # A branch that is off in every state still has to serve its own load.
            current_a[run_id] = solved_a if solved_a > 1e-9 else self.figures.carry_a[run_id]
        names, soft, slack_v = self.limits.names, self.limits.soft, self._slack_v
        lost, besides = np.zeros(len(names)), np.zeros(len(names))
        states = []
        short: set[str] = set()
        for result in results.values():
            volts = np.array([result.part_v[name] for name in names])
            # A block counts wherever it is live.
            on = np.array([name in result.load_a for name in names], dtype=bool) | (soft & (volts > 0))
            home = np.array([result.home_v.get(self.topology.root_of.get(name, ""), 0.0) for name in names])
            whole = home - volts
            counted = whole if self._counts_all else self.ways.along(result.leg_v * wire)
            unserved = np.array([name in result.unserved for name in names], dtype=bool)
            spare, spare_volts = self.limits.wanted_v - counted, volts - self.limits.least_v
            # Where even the source has less than a device asks for, no wire mends it.
            spare_volts = np.where(home < self.limits.least_v, np.inf, spare_volts)
            missed = on & ((spare < -slack_v) | (spare_volts < -_SLACK_V) | unserved)
            short |= {names[at] for at in np.flatnonzero(missed)}
            lost = np.where(on, np.maximum(lost, counted), lost)
            besides = np.where(on, np.maximum(besides, whole - counted), besides)
            states.append(_State(on, spare, spare_volts, result))
        return Trial(
            options,
            sum(option.cost_mm2_m for option in options.values()),
            current_a,
            lost,
            besides,
            frozenset(short),
            tuple(states),
        )

    @property
    def _slack_v(self) -> Floats:
        """How much a limit may be missed by: a ceiling by a little, because it is nobody's need. [V]"""
        wanted = np.where(np.isfinite(self.limits.wanted_v), self.limits.wanted_v, 0.0)
        slack: Floats = np.where(self.limits.soft, _CEILING_SLACK * wanted, _SLACK_V)
        return slack

    @property
    def _counts_all(self) -> bool:
        return next((case.counts == "everything" for case in self.cases.values()), False)

    def _picked(self, current_a: dict[str, float], kept_v: dict[str, float]) -> dict[str, Option]:
        """The cheapest sizes for currents as they are given."""
        shape = self._shape
        if shape is None or shape.cases is not self.cases or shape.fixed != self._fixed:
            shape = self._shape = Shape(self.topology, self.cases, self._roots, self._fixed, self.taper)
        picks = cheapest_options(shape, current_a, kept_v)
        # A run off the tree takes what fuse and ampacity ask; the drop search has no say in it.
        options = {run_id: case.options[picks.get(run_id, 0)] for run_id, case in self.cases.items()}
        return self._followed(options)

    def _cheapest(self, current_a: dict[str, float], kept_v: dict[str, float]) -> Trial:
        return self._attempt(self._picked(current_a, kept_v))

    def _reckoned(self, kept: list[int], trial: Trial, tightened: Mapping[int, float]) -> dict[str, float]:
        """Volts the choice may count on for each consumer: its limit, and what its least volts leave once fuses, joints
        and contacts have had theirs."""
        found = {}
        for at in kept:
            home_v = trial.states[0].result.home_v.get(self.topology.root_of.get(self.limits.names[at], ""), 0.0)
            room = home_v - self.limits.least_v[at] - (0.0 if self._counts_all else trial.besides_v[at])
            wanted = self.limits.wanted_v[at]
            limit = wanted if home_v < self.limits.least_v[at] else min(wanted, room)
            found[self.limits.names[at]] = float(limit - tightened.get(at, 0.0))
        return found

    def _first_that_passes(self, thickest: Trial, kept: list[int], out_of_reach: frozenset[str]) -> Trial:
        """From the lowest currents there can be upward; then each limit still missed is drawn in by what it missed."""
        current_a, tightened = dict(thickest.current_a), dict[int, float]()
        trial = thickest
        index = {name: at for at, name in enumerate(self.limits.names)}
        for step in range(_ROUNDS_UP + _ROUNDS_TIGHTER):
            trial = self._cheapest(current_a, self._reckoned(kept, trial, tightened))
            missed = trial.short - out_of_reach
            if not missed:
                return trial
            current_a = {run: max(trial.current_a[run], current_a[run]) for run in current_a}
            if step >= 1:
                for name in missed:
                    at = index[name]
                    over = max(
                        max((float(-one.spare_v[at]) for one in trial.states if one.on[at]), default=0.0),
                        max((float(-one.spare_volts[at]) for one in trial.states if one.on[at]), default=0.0),
                    )
                    most = max(0.0, float(self.limits.wanted_v[at] - thickest.lost_v[at]))
                    tightened[at] = min(tightened.get(at, 0.0) + 1.1 * over + 1e-3, most)
        return self._thickened(trial, thickest, out_of_reach)

    def _thickened(self, trial: Trial, thickest: Trial, out_of_reach: frozenset[str]) -> Trial:
        """Ways to what is still short as thick as they go; all of it only if that does not do."""
        for _ in range(3):
            missed = trial.short - out_of_reach
            if not missed:
                return trial
            options = dict(trial.options)
            for name in missed:
                for run_id in self._way(name):
                    if run_id not in self._fixed:
                        options[run_id] = self.cases[run_id].options[-1]
            trial = self._attempt(self._followed(options))
        return trial if not trial.short - out_of_reach else thickest

    def _way(self, name: str) -> set[str]:
        """Runs a consumer's current passes, there and back."""
        return {*path_runs(self.topology, name), *(run_id for run_id, _ in self.ways.back(name))}

    def _thinned(self, trial: Trial, out_of_reach: frozenset[str]) -> Trial:
        """Thinner wire where what is to spare allows it, most copper first; kept only if the solved circuit agrees."""
        if trial.short - out_of_reach:
            return trial
        for bold in _BOLD:
            moved = self._moves(trial, out_of_reach, bold)
            if not moved:
                continue
            after = self._attempt(self._followed(dict(trial.options) | moved))
            if not after.short - out_of_reach and after.cost_mm2_m < trial.cost_mm2_m - 1e-9:
                trial = after
        return trial

    def _least_area(self, run_id: str, options: Mapping[str, Option], moves: Mapping[str, Option]) -> float:
        """Copper of the thickest run that what ends a run's line feeds, pins left out. [mm²]"""
        return max(
            (
                moves.get(one, options[one]).size.area_mm2 * self.topology.runs[one].parallel
                for one in fed_by_line(self.topology, self.cases, run_id)
            ),
            default=0.0,
        )

    def _moves(self, trial: Trial, out_of_reach: frozenset[str], bold: float) -> dict[str, Option]:
        index = {name: at for at, name in enumerate(self.limits.names) if name not in out_of_reach}
        spare = [(one.on, one.spare_v * bold, one.spare_volts * bold, one.result) for one in trial.states]
        found: list[tuple[float, str, int, int]] = []
        for run_id in self.topology.order:
            case = self.cases[run_id]
            if run_id in self._fixed or case.leader is not None or len(case.options) == 1:
                continue
            now = next((at for at, one in enumerate(case.options) if one.size is trial.options[run_id].size), 0)
            if now > 0:
                found.append((float(case.copper[now] - case.copper[0]), run_id, now, 0))
        moves: dict[str, Option] = {}
        for _, run_id, now, _ in sorted(found, reverse=True):
            case = self.cases[run_id]
            least = self._least_area(run_id, trial.options, moves) if self.taper else 0.0
            points = (*self.topology.behind[run_id], *self._blocks_behind.get(run_id, ()))
            behind = np.array([index[one] for one in points if one in index], dtype=np.int64)
            for to in range(now):
                if case.options[to].size.area_mm2 * case.run.parallel < least * 0.999:
                    continue
                more_ohm = float(case.counted_ohm[to] - case.counted_ohm[now])
                takes = [abs(result.run_a[run_id]) * more_ohm for _, _, _, result in spare]
                if all(
                    (lost[behind][on[behind]] >= amps_v).all() and (volts[behind][on[behind]] >= amps_v).all()
                    for (on, lost, volts, _), amps_v in zip(spare, takes, strict=True)
                ):
                    moves[run_id] = case.options[to]
                    for (_, lost, volts, _), amps_v in zip(spare, takes, strict=True):
                        lost[behind] -= amps_v
                        volts[behind] -= amps_v
                    break
        return moves


@dataclass(frozen=True, slots=True)
class Found:
    """The sizes of a search, the consumers whose limits are out of reach of sensible ones, and what was kept instead
    of what was wanted."""

    options: dict[str, Option]
    out_of_reach: frozenset[str]
    limits: Limits


def hardest_states(figures: Demand, plan: Plan, topology: Topology) -> list[State]:
    """States no other state outdoes: with the same contacts and more loads on, every drop is larger.

    What chargers give is left out of the search, and what they draw from elsewhere than the house side is looked at
    in a state of its own.
    """
    house = {part.id for part in plan.parts if isinstance(part, Battery) and part.use == "house"}
    apart = {name for name, one in figures.supplies.items() if one.gives or topology.root_of.get(name, "") not in house}
    on_in = {state.id: figures.on[state.id] - apart for state in plan.states}
    kept: list[State] = []
    # At the volts of a running engine what is resistive draws more, with the key off what has constant power does.
    running = {state.id: state.key_on or state.engine_on for state in plan.states}
    for state in plan.states:
        on = on_in[state.id]
        own = figures.switched[state.id]
        rivals = [
            one
            for one in plan.states
            if figures.switched[one.id].closed == own.closed
            and figures.switched[one.id].open_runs == own.open_runs
            and (running[one.id], one.engine_on) == (running[state.id], state.engine_on)
        ]
        if not on or any(on < on_in[other.id] for other in rivals):
            continue
        if all(on != on_in[other.id] or other not in rivals for other in kept):
            kept.append(state)
    kept = kept or [plan.states[0]]
    return [*kept, CHARGING] if figures.supplies else kept
