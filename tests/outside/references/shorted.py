"""Current of a bolted short in trees and rings, by a nodal matrix built from the plan alone.

Ohm's and Kirchhoff's laws, flexible copper at 20 °C by IEC 60228, class 5 (from memory); a battery is its open volts
behind the resistance that its own short-circuit current names. Joints and fuses are left out.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from lucernis.plan.model import Battery, Plan

# Greatest resistance of plain flexible conductors at 20 °C, IEC 60228 class 5, from memory. [mm²] to [Ω/km]
CLASS_5_OHM_PER_KM = {1.5: 13.3, 2.5: 7.98, 4.0: 4.95, 6.0: 3.30, 10.0: 1.91}
Node = tuple[str, str]


def short_a(plan: Plan, area_mm2: Mapping[str, float], open_v: float, positive: str, negative: str) -> float:
    """Amperes of a bolted short from the positive at one part to the negative at another.

    Parameters
    ----------
    plan : Plan
        Batteries, bars and consumers, runs of one or two legs; no contacts.
    area_mm2 : mapping
        Cross-section of each run by its id. [mm²]
    open_v : float
        Open volts of every battery. [V]
    positive, negative : str
        Parts between whose points the short lies.
    """
    nodes = {(part.id, leg): 2 * at + (leg == "-") for at, part in enumerate(plan.parts) for leg in "+-"}
    count = len(nodes)
    matrix, pushed = np.zeros((count, count)), np.zeros(count)

    def joined(a: Node, b: Node, ohm: float) -> None:
        i, j = nodes[a], nodes[b]
        matrix[[i, j], [i, j]] += 1 / ohm
        matrix[[i, j], [j, i]] -= 1 / ohm

    for run in plan.runs:
        ohm = CLASS_5_OHM_PER_KM[area_mm2[run.id]] / 1000 * run.length_m / run.parallel
        for leg in {"both": "+-", "positive": "+", "negative": "-"}[run.legs]:
            joined((run.start.part, leg), (run.finish.part, leg), ohm)
    for part in plan.parts:
        if isinstance(part, Battery) and part.short_circuit_a is not None:
            inside_ohm = open_v / part.short_circuit_a
            joined((part.id, "+"), (part.id, "-"), inside_ohm)
            pushed[nodes[part.id, "+"]] += open_v / inside_ohm
            pushed[nodes[part.id, "-"]] -= open_v / inside_ohm
    # What floats is held by something no current notices; a bolted short is a millionth of an ohm.
    matrix += np.eye(count) * 1e-9
    joined((positive, "+"), (negative, "-"), 1e-6)
    volts = np.linalg.solve(matrix, pushed)
    return float((volts[nodes[positive, "+"]] - volts[nodes[negative, "-"]]) / 1e-6)
