"""What is lost on the way from a source to a point and back: in all, and in the conductors alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from lucernis.core.circuit.answers import Floats
from lucernis.core.circuit.returns import Returns
from lucernis.core.circuit.topology import Topology
from lucernis.plan.model import Plan


class Ways:
    """The legs between points and their sources, each with the direction in which it counts.

    The positive way is that of the feeding tree, the way back that of the negatives; links in series on the way count
    with them. Contacts, shunts and the body are no legs.
    """

    def __init__(
        self,
        plan: Plan,
        topology: Topology,
        returns: Returns,
        points: Sequence[str],
        homeward: Mapping[str, tuple[tuple[str, int], ...]] | None = None,
    ) -> None:
        # Negatives alone are no points of the feeding tree: only their way home counts.
        self.points = (*points, *(homeward or {}))
        self.index = {name: at for at, name in enumerate(self.points)}
        self._topology, self._returns, self._homeward = topology, returns, dict(homeward or {})
        at_run = {run.id: at for at, run in enumerate(plan.runs)}
        below = {run.start.part: run for run in plan.runs if run.legs == "series"}
        # A column is a leg, twice the number of its run and one more for the negative; with its direction, in a row.
        nothing = np.empty((0, 2))
        out: dict[str, Floats] = {}
        for run_id in topology.order:
            start, finish = topology.start_of[run_id], topology.finish_of[run_id]
            forward = 1.0 if start == topology.ends_of[run_id][0] else -1.0
            out[finish] = np.vstack([out.get(start, nothing), [[2 * at_run[run_id], forward]]])
        signed: list[Floats] = []
        for name in self.points:
            legs = [out.get(name, nothing) if name in topology.root_of else nothing]
            if name in self._homeward or returns.came_by:
                home = [(2 * at_run[run_id] + 1, float(sign)) for run_id, sign in self.back(name)]
                legs.append(np.array(home, dtype=float).reshape(-1, 2))
            else:
                # Every run has both legs: the way back is the way out.
                legs.append(out.get(name, nothing)[::-1] * (1, -1) + (1, 0))
            links = []
            here, seen = topology.root_of.get(name, ""), set[str]()
            while here in below and here not in seen:
                seen.add(here)
                # A link leads from the upper battery's negative down to the lower one's positive: current climbs it.
                links.append((2 * at_run[below[here].id], -1.0))
                here = below[here].finish.part
            signed.append(np.vstack([*legs, np.array(links, dtype=float).reshape(-1, 2)]))
        flat = np.vstack([nothing, *signed])
        self._columns, self._signs = flat[:, 0].astype(np.int64), flat[:, 1]
        self._rows = np.repeat(np.arange(len(signed)), [len(one) for one in signed])

    def back(self, name: str) -> tuple[tuple[str, int], ...]:
        """Runs whose negative leg brings current home from a point, with the direction in which each counts."""
        return self._homeward[name] if name in self._homeward else self._returns.way_back(self._topology, name)

    def pieces(self, name: str) -> list[tuple[int, int, float]]:
        """The legs of a way: number of the run, 0 for its positive and 1 for its negative, and the direction."""
        own = self._rows == self.index[name]
        legs = zip(self._columns[own].tolist(), self._signs[own].tolist(), strict=True)
        return [(at // 2, at % 2, sign) for at, sign in legs]

    def along(self, leg_v: Floats) -> Floats:
        """Volts lost along the legs of each way, or any part of them.

        Parameters
        ----------
        leg_v : ndarray, shape (2 n_runs,)
            Lost along each leg from its start to its finish. [V]

        Returns
        -------
        ndarray
            Shape (n_points,). [V]
        """
        lost_v = self._signs * leg_v[self._columns]
        found: Floats = np.bincount(self._rows, weights=lost_v, minlength=len(self.points)).astype(
            np.float64, copy=False
        )
        return found
