"""What a person asked of a run or a device that stands behind a finding, in words: pins, makers, places, lengths."""

from __future__ import annotations

from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.topology import path_runs
from lucernis.core.sizing.fusing import fuse_run
from lucernis.core.sizing.options import Case
from lucernis.core.wire.ampacity import Ampacity
from lucernis.plan.model import Charger, Load, Run
from lucernis.plan.units import told_length


def wire_pin(raised: Raised, run: Run) -> str:
    """The size pinned on a run."""
    return f"{raised.sized.chosen[run.id].size.label} pinned on {run.tag}" if run.wire is not None else ""


def fuse_pin(run: Run) -> str:
    """The fuses pinned or chosen by family on a run."""
    said = []
    for fuse in (run.fuse_at_start, run.fuse_at_finish):
        if fuse is not None and fuse.pin is not None:
            said.append(f"{fuse.pin.rating_a:g} A pinned in {run.tag}")
        elif fuse is not None and fuse.family is not None:
            said.append(f"family {fuse.family.replace('_', ' ')} asked for in {run.tag}")
    return ", ".join(said)


def pins(raised: Raised, run: Run, *guards: str) -> str:
    """Everything pinned on a run and in the runs of its fuses."""
    said = [wire_pin(raised, run), fuse_pin(run)]
    for key in guards:
        other = raised.sized.topology.runs[fuse_run(key)]
        if other.id != run.id:
            said.append(fuse_pin(other))
    return ", ".join(one for one in said if one)


def surroundings(case: Case) -> str:
    """Where and how a run lies, as far as it takes something away."""
    return derating(case.options[-1].amp, case)


def derating(amp: Ampacity, case: Case) -> str:
    """What takes something away from an ampacity, in words: empty where nothing does."""
    around, said = case.around, []
    if amp.bundle_factor < 1:
        said.append(f"{around.bundle_count} conductors together")
    if amp.zone_factor < 1:
        said.append(f"{around.ambient_c:g} °C" + (" in an engine space" if around.engine_space else ""))
    return ", ".join(said)


def terminals(case: Case) -> str:
    """Terminals that hold a run's size down."""
    held = [one.text for one in case.refusals if one.reason in ("terminal", "holder")]
    return held[0].removeprefix("thicker than ") if held else ""


def of_run(raised: Raised, run: Run, *guards: str) -> str:
    """What is asked of a run: pins first, else its amperes over its length, where it lies, what it is joined to."""
    case = raised.sized.cases[run.id]
    pinned = pins(raised, run, *guards)
    if pinned:
        return pinned
    thickest = raised.sized.chosen[run.id] is case.options[-1]
    held = thickest and any(one.reason in ("terminal", "holder", "copper") for one in case.refusals)
    if not case.forced and not held:
        return ""
    said = [
        f"{case.carry_a:.1f} A over {told_length(run.length_m, raised.plan.units)}",
        surroundings(case),
        terminals(case),
    ]
    return "; ".join(one for one in said if one)


def of_way(raised: Raised, load: Load, path: tuple[str, ...], limit_frac: float) -> str:
    """What is asked of the way to a device that cannot be met: pins on it, else its limit over its length.

    Parameters
    ----------
    raised : Raised
        The sized plan and what is raised on it.
    load : Load
        The device.
    path : tuple of str
        Runs on the way to it.
    limit_frac : float
        Its drop limit, a share of the nominal voltage. [-]

    Returns
    -------
    str
        Words; never empty.
    """
    runs = [raised.sized.topology.runs[one] for one in path]
    pinned = [wire_pin(raised, run) for run in runs if run.wire is not None]
    if pinned:
        return ", ".join(pinned)
    metres = sum(run.length_m for run in runs)
    return f"{100 * limit_frac:g} % for {load.name} over {told_length(metres, raised.plan.units)} one way"


def of_input(raised: Raised, charger: Charger, name: str, limit_v: float) -> str:
    """What is asked of the way to a charger's input: pins on it, else its limit over its length.

    Parameters
    ----------
    raised : Raised
        The sized plan and what is raised on it.
    charger : Charger
        The charger.
    name : str
        Its input in the topology.
    limit_v : float
        What may be lost before it. [V]

    Returns
    -------
    str
        Words; empty where the limit is within reach.
    """
    path = path_runs(raised.sized.topology, name)
    runs = [raised.sized.topology.runs[one] for one in path]
    pinned = [wire_pin(raised, run) for run in runs if run.wire is not None]
    if pinned:
        return ", ".join(pinned)
    if name not in raised.sized.out_of_reach:
        return ""
    way = told_length(sum(run.length_m for run in runs), raised.plan.units)
    return f"{limit_v:.2f} V at most on {way} to {charger.name}"
