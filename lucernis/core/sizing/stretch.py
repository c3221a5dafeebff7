"""One run at several wire sizes: resistance of its conductors, joints and fuses, and what it may carry there."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from lucernis.core.sizing.ends import Fitting
from lucernis.core.wire.ampacity import Ampacity, Surroundings, ampacity, conductor_temp_c
from lucernis.core.wire.copper import WireSize, resistance_ohm_per_m
from lucernis.core.wire.joints import joint_ohm
from lucernis.plan.model import Run
from lucernis.practice.rules import AmpacityTable


@dataclass(slots=True)
class Option:
    """One wire size for one run, with the resistances that follow from it.

    Loop: all its legs together, conductors in parallel counted. `amp` is that of one conductor, `copper_mm2_m` that
    of all of them, `ends_mm2_m` what its ends cost in copper, `steps` how many of them one steps down from, because a
    usual terminal takes less. `joints` counts the kinds of joint its ends come to.
    """

    size: WireSize
    amp: Ampacity
    temp_c: float
    wire_loop_ohm: float
    joints_ohm: float
    fuse_ohm: float
    copper_mm2_m: float
    ends_mm2_m: float
    steps: int
    joints: tuple[tuple[str, int], ...]

    @property
    def cost_mm2_m(self) -> float:
        """What a choice counts: the copper laid, and what its ends cost in copper. [mm²·m]"""
        return self.copper_mm2_m + self.ends_mm2_m

    @property
    def total_ohm(self) -> float:
        """Everything from the start of the run to its finish, all its legs. [Ω]"""
        return self.wire_loop_ohm + self.joints_ohm + self.fuse_ohm


@dataclass(frozen=True, slots=True)
class Stretch:
    """What the resistances of a run depend on besides its size. `fittings` are the ends of all its legs."""

    table: AmpacityTable
    length_m: float
    legs: int
    parallel: int
    insulation_c: int
    around: Surroundings
    current_a: float
    fittings: tuple[Fitting, ...]
    fuse_ohm: float
    end_worth_m: float
    step_worth_m: float


def leg_count(run: Run) -> int:
    """Conductors of a run that the current passes one after the other: two for a pair, one for a leg alone."""
    return 2 if run.legs == "both" else 1


@lru_cache(maxsize=20000)
def make_options(sizes: tuple[WireSize, ...], stretch: Stretch) -> tuple[Option, ...]:
    """Resistances of a run at several wire sizes; an edit leaves most runs as they were, so they are remembered.

    Parameters
    ----------
    sizes : tuple of WireSize
        The sizes.
    stretch : Stretch
        The run.

    Returns
    -------
    tuple of Option
        With the loop resistance at load temperature, in the order of the sizes.

    Notes
    -----
    ``R = n · L · R20 · (1 + α (T - 20)) / p`` with n legs one after the other and p conductors side by side, T from
    `conductor_temp_c` at the design current of one conductor, capped at the insulation rating: a wire beyond it is
    refused, not computed further. Each end adds its joint, by kind and size.
    """
    return tuple(_option(size, stretch) for size in sizes)


def _option(size: WireSize, stretch: Stretch) -> Option:
    amp = ampacity(stretch.table, size, stretch.insulation_c, stretch.around)
    temp_c = conductor_temp_c(
        stretch.current_a / stretch.parallel,
        amp.ampacity_a,
        ambient_c=stretch.around.ambient_c,
        insulation_c=float(stretch.insulation_c),
    )
    warm = resistance_ohm_per_m(size.resistance_20_ohm_per_m, temp_c)
    # In an order of their own, so that a run turned round comes to the last digit alike.
    kinds = sorted(fitting.joint(size) for fitting in stretch.fittings)
    steps = sum(1 for fitting in stretch.fittings if fitting.stepped != "no" and not fitting.takes(size))
    # A capped end is no work; one too thick for a usual terminal is led to it over a stud or by a tail.
    ends_m = stretch.end_worth_m * sum(kind != "cap" for kind in kinds) + stretch.step_worth_m * steps
    return Option(
        size=size,
        amp=amp,
        temp_c=temp_c,
        wire_loop_ohm=stretch.legs * stretch.length_m * warm / stretch.parallel,
        joints_ohm=sum(joint_ohm(kind, size) for kind in kinds) / stretch.parallel,
        fuse_ohm=stretch.fuse_ohm,
        copper_mm2_m=stretch.legs * stretch.length_m * size.area_mm2 * stretch.parallel,
        ends_mm2_m=ends_m * size.area_mm2 * stretch.parallel,
        steps=steps,
        joints=tuple((kind, kinds.count(kind)) for kind in dict.fromkeys(kinds)),
    )
