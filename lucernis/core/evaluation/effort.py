"""How long a plan takes to compute, by its shape, before it is tried: what would hold up everybody is refused."""

from __future__ import annotations

from lucernis.core.circuit.batteries import strings_of
from lucernis.core.circuit.topology import Topology, trace
from lucernis.errors import TooMuch
from lucernis.plan.model import Plan

MOST_S = 20.0
# Plans with no more runs than that are computed in a moment whatever their shape.
_SMALL = 600
# Measured on a small machine of two cores (docs/bench.md), seconds.
_A_RUN_S = 0.0035
_A_CHAIN_S = 3.6e-6
_A_STEP_S = 4.5e-5
# A search from one place with channels barred, for each channel there is.
_A_SEARCH_S = 6e-6


def longest_chain(topology: Topology) -> int:
    """The most runs that lie one behind the other."""
    depth: dict[str, int] = {}
    for run_id in topology.order:
        depth[topology.finish_of[run_id]] = depth.get(topology.start_of[run_id], 0) + 1
    return max(depth.values(), default=0)


def _bent_s(plan: Plan) -> float:
    """Searches for ways of runs with channels barred, each set of barred ones for itself. [s]"""
    bent = {
        (run.way.avoid, start)
        for run in plan.runs
        if run.way is not None and run.way.avoid
        for start in (run.start.part, *run.way.use)
    }
    return 2 * len(bent) * len(plan.channels) * _A_SEARCH_S


def check_effort(plan: Plan) -> None:
    """Refuse a plan that cannot be computed in reasonable time.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Raises
    ------
    TooMuch
        If it would take longer than 20 s or so; what makes it so is named, the worst alone.
    """
    runs, bent_s = len(plan.runs), _bent_s(plan)
    if runs <= _SMALL and bent_s <= MOST_S / 2:
        return
    topology = trace(plan)
    chain, ways = longest_chain(topology), max(len(strings_of(plan)) - 1, len(topology.closing))
    costs = {
        "runs that bar channels, each another set of them": bent_s,
        f"{runs} runs": runs * _A_RUN_S,
        f"{chain} runs one behind the other in a chain": chain**2 * _A_CHAIN_S,
        f"{ways} more ways to feed each short (strings of the bank, rings) of {runs} runs": (
            4 * runs * max(0, ways) * _A_STEP_S * (0.5 + runs / 1000)
        ),
    }
    if sum(costs.values()) > MOST_S:
        worst = max(costs, key=lambda one: costs[one])
        raise TooMuch(
            f"this plan would take about {sum(costs.values()):.0f} s to compute after each edit, because of {worst}",
            field="runs",
            value=runs,
            allowed=f"a plan of {MOST_S:.0f} s: split the vehicle into several jobs",
        )
