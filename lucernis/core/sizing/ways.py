"""What is lost on the way from a source to a point and back: in all, and in the conductors alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from scipy.sparse import csr_matrix

from lucernis.core.circuit.returns import Returns
from lucernis.core.circuit.solver import Floats
from lucernis.core.circuit.topology import Topology, path_runs
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
        self.back = {name: returns.way_back(topology, name) for name in points} | dict(homeward or {})
        at_run = {run.id: at for at, run in enumerate(plan.runs)}
        below = {run.start.part: run for run in plan.runs if run.legs == "series"}
        self.pieces: dict[str, list[tuple[int, int, float]]] = {name: [] for name in self.points}
        rows: list[int] = []
        columns: list[int] = []
        signs: list[float] = []

        def note(row: int, column: int, sign: float) -> None:
            self.pieces[self.points[row]].append((column // 2, column % 2, sign))
            rows.append(row)
            columns.append(column)
            signs.append(sign)

        for row, name in enumerate(self.points):
            for run_id in path_runs(topology, name) if name in topology.root_of else ():
                forward = topology.start_of[run_id] == topology.ends_of[run_id][0]
                note(row, 2 * at_run[run_id], 1.0 if forward else -1.0)
            for run_id, sign in self.back[name]:
                note(row, 2 * at_run[run_id] + 1, float(sign))
            here, seen = topology.root_of.get(name, ""), set[str]()
            while here in below and here not in seen:
                seen.add(here)
                # A link leads from the upper battery's negative down to the lower one's positive: current climbs it.
                note(row, 2 * at_run[below[here].id], -1.0)
                here = below[here].finish.part
        self._matrix = csr_matrix((signs, (rows, columns)), shape=(len(self.points), 2 * len(plan.runs)), dtype=float)

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
        found: Floats = np.asarray(self._matrix @ leg_v)
        return found
