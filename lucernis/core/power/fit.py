"""Fit of battery limit, inverter, cable, fuse and terminal, at continuous power and at surge, by both schools."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from lucernis.core.circuit.batteries import LimitName, rest_curve, string_limit
from lucernis.core.circuit.loads import inverter_current_a
from lucernis.core.circuit.sources import source_figures
from lucernis.core.circuit.topology import path_runs
from lucernis.core.power.bank import BankFigures
from lucernis.core.protection.fuse_curves import opening_times_s
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import far_key
from lucernis.plan.model import Load, Plan
from lucernis.practice.rules import InverterCurrent

Holds = Literal["holds", "fails", "unknown"]
Mode = Literal["continuous", "surge"]
# How long a surge lasts where nothing is said: starting of a motor behind the inverter. Common practice, no source.
SURGE_S = 5.0
# Down to this charge a lithium bank is used in a day. Common practice, no source.
HELD_FRAC = 0.2


@dataclass(frozen=True, slots=True)
class FitCell:
    """One limit against what is asked of it: both in amperes, and whether it holds. `note` says whose limit; `usual`
    that nobody has stated it."""

    what: str
    limit: float | None
    asked: float
    unit: str
    holds: Holds
    note: str
    usual: bool = False


@dataclass(frozen=True, slots=True)
class FitRow:
    """An inverter at one power by one school: its current, and battery, cable, fuse and terminal against it."""

    inverter: str
    tag: str
    name: str
    mode: Mode
    school: InverterCurrent
    chosen_school: bool
    ac_w: float
    current_a: float
    others_a: float
    cells: tuple[FitCell, ...]

    @property
    def holds(self) -> bool:
        """Whether nothing fails."""
        return all(cell.holds != "fails" for cell in self.cells)


def _against(what: str, limit: float | None, asked: float, note: str) -> FitCell:
    holds: Holds = "unknown" if limit is None else "holds" if asked <= limit * (1 + 1e-9) else "fails"
    return FitCell(what, limit, asked, "A", holds, note)


def _fuse_cell(sized: Sized, path: tuple[str, ...], asked_a: float, mode: Mode) -> FitCell:
    keys = [key for run_id in path for key in (run_id, far_key(run_id)) if key in sized.fuses]
    fuses = [(sized.fuses[key], key) for key in keys if sized.fuses[key].fuse is not None]
    if not fuses:
        return _against("fuse", None, asked_a, "no fuse on its way")
    # The nearest one: those before it carry what others draw as well.
    least, key = fuses[-1] if mode == "continuous" else min(fuses, key=lambda one: one[0].lasting_a or 0.0)
    lasting_a = least.lasting_a or 0.0
    made = least.fuse
    if made is None:
        return _against("fuse", None, asked_a, "no fuse on its way")
    label = f"{made.label} {made.rating_a:g} A in {sized.topology.runs[key.partition(':')[0]].tag}"
    if mode == "continuous":
        return _against("fuse", lasting_a, asked_a, label)
    fast_s = float(opening_times_s(made.family, np.array([asked_a / lasting_a]))[0][0])
    if asked_a <= lasting_a:
        return FitCell("fuse", lasting_a, asked_a, "A", "holds", label)
    if np.isnan(fast_s):
        return FitCell("fuse", None, asked_a, "A", "unknown", f"{label}: its quick edge is not published there")
    holds: Holds = "holds" if fast_s >= SURGE_S else "fails"
    return FitCell("fuse", lasting_a, asked_a, "A", holds, f"{label}: may open after {fast_s:.2g} s")


def _terminal_cell(sized: Sized, load: Load, last: str) -> FitCell:
    """The thickest wire the inverter's terminal takes against the one that ends there."""
    size = sized.chosen[last].size
    fitting = next((one for part, one in sized.cases[last].fittings if part.id == load.id), None)
    if fitting is None:
        return FitCell("terminal", None, size.area_mm2, "mm²", "unknown", f"{size.label}; no terminal known")
    usual = ", as is usual" if fitting.typical else ""
    fits = fitting.takes(size)
    note = f"{size.label} {'fits' if fits else 'does not fit'} (terminal takes up to {fitting.greatest_label}{usual})"
    holds: Holds = "holds" if fits else "fails"
    return FitCell("terminal", fitting.greatest_mm2, size.area_mm2, "mm²", holds, note, fitting.typical)


def fit_rows(plan: Plan, sized: Sized, bank: BankFigures | None, chosen: InverterCurrent) -> list[FitRow]:
    """The fit table.

    Parameters
    ----------
    plan : Plan
        The plan.
    sized : Sized
        Its sizes.
    bank : BankFigures or None
        The house bank.
    chosen : str
        The practice set's school for an inverter's current.

    Returns
    -------
    list of FitRow
        For every inverter with stated ratings: continuous and surge by either school. The battery has to give what
        the other loads take in the inverter's worst state besides.
    """
    rows: list[FitRow] = []
    for load in plan.parts:
        if not isinstance(load, Load) or load.inverter is None:
            continue
        path = path_runs(sized.topology, load.id)
        figures = sized.demand.loads[load.id]
        others_a = max(
            (
                sum(
                    sized.demand.loads[one].design_current_a
                    for one in sized.demand.on[state.id]
                    if one != load.id and one not in sized.demand.supplies and one in sized.topology.feeder_of
                )
                for state in plan.states
                if load.id in sized.demand.on[state.id]
            ),
            default=0.0,
        )
        powers: list[tuple[Mode, float]] = [("continuous", load.inverter.continuous_w)]
        if load.inverter.surge_w is not None:
            powers.append(("surge", load.inverter.surge_w))
        schools: tuple[InverterCurrent, ...] = ("efficiency", "ten_to_one")
        for mode, ac_w in powers:
            for school in schools:
                current_a = inverter_current_a(
                    ac_w,
                    efficiency_frac=load.inverter.efficiency_frac,
                    low_v=figures.min_v,
                    nominal_v=float(plan.nominal_v),
                    school=school,
                )
                asked_a = current_a
                if school == "efficiency":
                    asked_a = min(current_a, _held_a(plan, sized, bank, path, ac_w / load.inverter.efficiency_frac))
                cells = [_battery_cell(bank, asked_a + others_a, mode)]
                if path:
                    cells.append(_cable_cell(sized, path, current_a, mode))
                    cells.append(_fuse_cell(sized, path, current_a, mode))
                    cells.append(_terminal_cell(sized, load, path[-1]))
                rows.append(
                    FitRow(
                        load.id,
                        load.tag,
                        load.name,
                        mode,
                        school,
                        school == chosen,
                        ac_w,
                        current_a,
                        others_a,
                        tuple(cells),
                    )
                )
    return rows


def _held_a(plan: Plan, sized: Sized, bank: BankFigures | None, path: tuple[str, ...], dc_w: float) -> float:
    """What a lithium bank gives for a power at the volts it holds at a fifth of its charge, under that load and behind
    the wires to it: I such that P = I · (V - I · R). Lead sags to the lowest volts there are: infinite. [A]"""
    if bank is None or any(one.chemistry != "lfp" for string in bank.strings for one in string):
        return math.inf
    low_v = float(np.interp(HELD_FRAC, *rest_curve("lfp")))
    volts = min(sum(low_v * (one.rated_v or plan.nominal_v) / 12 for one in string) for string in bank.strings)
    each = [sum(source_figures(one, plan.nominal_v).running_ohm for one in string) for string in bank.strings]
    ohm = 1 / sum(1 / one for one in each) + sum(sized.chosen[run_id].total_ohm for run_id in path)
    inside = volts**2 - 4 * ohm * dc_w
    return (volts - math.sqrt(inside)) / (2 * ohm) if inside > 0 else math.inf


def _battery_cell(bank: BankFigures | None, asked_a: float, mode: Mode) -> FitCell:
    if bank is None:
        return _against("battery", None, asked_a, "no battery")
    name: LimitName = "discharge_short_a" if mode == "surge" else "discharge_a"
    usual = any(string_limit(string, name).typical for string in bank.strings)
    note = "for a few seconds, all strings" if mode == "surge" else "continuous, all strings"
    limit_a = bank.discharge_short_a if mode == "surge" else bank.discharge_a
    found = _against("battery", limit_a, asked_a, note + (", as is usual for its chemistry" if usual else ""))
    return replace(found, usual=usual)


def _cable_cell(sized: Sized, path: tuple[str, ...], asked_a: float, mode: Mode) -> FitCell:
    worst = None
    for run_id in path:
        amp_a = sized.chosen[run_id].amp.ampacity_a
        if amp_a is None:
            return _against("cable", None, asked_a, f"no ampacity for {sized.topology.runs[run_id].tag}")
        carried = amp_a * sized.topology.runs[run_id].parallel
        if worst is None or carried < worst[0]:
            worst = (carried, f"{sized.chosen[run_id].size.label} in {sized.topology.runs[run_id].tag}")
    if worst is None:
        return _against("cable", None, asked_a, "no cable")
    if mode == "surge":
        # For seconds a conductor stands a multiple of its lasting current: the adiabatic limit is far above a surge.
        return FitCell("cable", worst[0], asked_a, "A", "holds", f"{worst[1]}; seconds do not warm it")
    return _against("cable", worst[0], asked_a, worst[1])
