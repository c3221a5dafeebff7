"""What chargers do by themselves while a meter looks: turn down when full, give less when their input sags."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from lucernis.core.circuit.answers import Floats
from lucernis.core.circuit.solver import Circuit, Solution
from lucernis.core.circuit.supplies import charging_v
from lucernis.core.prove.frame import Frame
from lucernis.plan.model import Charger

# So often what a starved charger gives is halved. [1]
_HALVINGS = 7


def turned_down(frame: Frame, circuit: Circuit, load_v: Floats) -> Circuit | None:
    """Chargers turned down whose output stands above what they hold.

    Parameters
    ----------
    frame : Frame
        The plan.
    circuit : Circuit
        As it was solved.
    load_v : ndarray, shape (n_loads,)
        Volts found at the consumers. [V]

    Returns
    -------
    Circuit or None
        With lower limits; None where none stands too high.
    """
    parts, consumers = frame.sized.topology.parts, frame.sized.wiring.consumers
    changed, some = False, []
    for known in circuit.converters:
        one = known
        charger = parts[consumers[one.gives].partition(":")[0]]
        if isinstance(charger, Charger):
            most_v = charging_v(charger, float(frame.plan.nominal_v))
            over_v = float(load_v[one.gives]) - most_v
            if over_v > 0.005 and one.out_limit_a > 0.05:
                changed = True
                one = replace(one, out_limit_a=one.out_limit_a * max(0.02, 1 - 12 * over_v / most_v))
        some.append(one)
    return replace(circuit, converters=some) if changed else None


def held_up(circuit: Circuit, solve: Callable[[Circuit], Solution], found: Solution) -> tuple[Circuit, Solution]:
    """The circuit with chargers that give less because their input would fall below the least they work at.

    Left to themselves they would switch off, rise, and switch on again for ever: what a meter shows is the mean. Halved
    until their input is where they just stay on.

    Parameters
    ----------
    circuit : Circuit
        As it was solved.
    solve : callable
        Solves it once more.
    found : Solution
        Its solution.

    Returns
    -------
    tuple of Circuit and Solution
        The same where nothing is starved.
    """
    starved = {
        one
        for one in circuit.converters
        if one.draws is not None and one.in_low_v > 0 and one.out_limit_a > 0.05
        and not found.served[one.draws] and float(found.load_v[one.draws]) > one.in_low_v + 0.02
    }  # fmt: skip
    if not starved:
        return circuit, found
    low, high, best, answer = 0.0, 1.0, circuit, found
    for _ in range(_HALVINGS):
        share = (low + high) / 2
        some = [replace(one, out_limit_a=one.out_limit_a * share) if one in starved else one
                for one in circuit.converters]  # fmt: skip
        tried = replace(circuit, converters=some)
        solution = solve(tried)
        if all(solution.served[one.draws] for one in starved if one.draws is not None):
            low, best, answer = share, tried, solution
        else:
            high = share
    return best, answer
