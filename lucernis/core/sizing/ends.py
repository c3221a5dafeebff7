"""How a wire ends at a part: which kind of joint, and the thickest wire that goes into it.

What a maker states wins over the typical figures of terminal_sizes.csv.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Literal

from lucernis.core.circuit.terminals import end_terminal
from lucernis.core.wire.copper import WireSize, wire_size
from lucernis.core.wire.joints import joint_kind
from lucernis.plan.model import Busbar, Charger, End, FuseBlock, Joint, Load, Part, Run, SizeRef, Switch
from lucernis.plan.terminals import Side
from lucernis.practice.rules import FuseFamily
from lucernis.practice.tables import TableRow, load_table

_WAYS: dict[FuseFamily, str] = {"blade_mini": "way_blade", "blade_regular": "way_blade", "blade_maxi": "way_maxi"}
_HOLDERS: dict[FuseFamily, str] = {
    "blade_mini": "holder_blade",
    "blade_regular": "holder_blade",
    "blade_maxi": "holder_maxi",
    "breaker_auto": "holder_breaker_auto",
    "breaker_manual": "holder_breaker",
    "breaker_magnetic": "holder_breaker",
}
_STEPPED: dict[str, Literal["yes", "last", "no"]] = {"yes": "yes", "last": "last", "no": "no"}
# A hair of tolerance: 6 mm² of a table and 6.0000001 of a formula are one size.
_HAIR = 1.001


@dataclass(frozen=True, slots=True)
class Fitting:
    """What one end of a run is joined to.

    `greatest_mm2` is the thickest wire it takes, `typical` whether that is a usual figure and not a maker's, `stepped`
    whether a thicker wire may be led to it, because one steps down on a stud or by a short tail: ``last`` only where a
    drop limit cannot be kept otherwise. A wire
    from `thick_from_mm2` on ends in `thick`, a thinner one in `thin`.
    """

    label: str
    greatest_mm2: float
    greatest_label: str
    typical: bool
    stepped: Literal["yes", "last", "no"]
    thin: str
    thick: str
    thick_from_mm2: float
    cell: TableRow

    def joint(self, size: WireSize) -> str:
        """Kind of joint a wire of this size ends in."""
        return self.thick if size.area_mm2 >= self.thick_from_mm2 else self.thin

    def takes(self, size: WireSize) -> bool:
        """Whether a wire goes into it."""
        return size.area_mm2 <= self.greatest_mm2 * _HAIR


@cache
def _fittings(device: str) -> tuple[tuple[float, Fitting], ...]:
    """The terminals of a kind of part, each with the most it serves. [A]"""
    table = load_table("terminal_sizes")
    return tuple(
        (
            float(row["up_to_a"] or "inf"),
            Fitting(
                label=row["label"],
                greatest_mm2=float(row["greatest_mm2"]),
                greatest_label=f"{float(row['greatest_mm2']):g} mm²",
                typical=True,
                stepped=_STEPPED[row["stepped"]],
                thin=row["thin"],
                thick=row["thick"],
                thick_from_mm2=float(row["thick_from_mm2"]),
                cell=table.cite(row, "greatest_mm2"),
            ),
        )
        for row in table.rows
        if row["device"] == device
    )


def fitting_of(device: str, amps: float | None) -> Fitting:
    """The usual terminal of a kind of part.

    Parameters
    ----------
    device : str
        As in terminal_sizes.csv.
    amps : float or None
        Its rating or current; the smallest such part where None. [A]

    Returns
    -------
    Fitting
        The first row that covers the current.
    """
    every = _fittings(device)
    return next(one for up_to_a, one in every if amps is None or up_to_a >= amps * (1 - 1e-9))


def maker_size(named: SizeRef | None) -> WireSize | None:
    """The wire size a maker names, if any."""
    return None if named is None else wire_size(named.system, named.size)


def _device(part: Part, end: End, side: Side, *, positive: bool) -> str:
    """Row of terminal_sizes.csv for an end at a part."""
    terminal = end_terminal(part, end, side)
    if isinstance(part, FuseBlock):
        if end.way is not None:
            return _WAYS.get(part.family, "way_bolt") if positive else "block_negative"
        return "block_blade" if part.family in _WAYS else "block_large"
    if isinstance(part, Switch):
        return "isolator_switch" if part.use == "isolator" else "circuit_switch"
    if isinstance(part, Charger):
        return "charger_pv" if terminal == "pv" else "charger"
    if isinstance(part, Joint):
        return part.form
    if part.kind == "relay" and terminal == "coil":
        return "relay_coil"
    return "busbar" if isinstance(part, Busbar) else part.kind


def fitting(part: Part, end: End, side: Side, current_a: float, *, positive: bool = True) -> Fitting:
    """What an end of a run is joined to.

    Parameters
    ----------
    part : Part
        The part there.
    end : End
        Way or terminal, and the joint a person set.
    side : str
        ``start`` or ``finish`` of the run.
    current_a : float
        Design current of the run: decides where the part states no rating. [A]
    positive : bool
        Of its positive conductor; a negative from a way goes to the block's bar.

    Returns
    -------
    Fitting
        By the maker where one is named, typical otherwise. A push-on ends where its own limits do.
    """
    rated_a = part.contact_a if part.kind == "relay" else getattr(part, "rated_a", None)
    by_rating = isinstance(part, Switch | Joint) or part.kind in ("relay", "diode")
    found = fitting_of(_device(part, end, side, positive=positive), rated_a if by_rating and rated_a else current_a)
    named = part.maker.greatest if isinstance(part, Load) else part.greatest if isinstance(part, Charger) else None
    high = maker_size(named)
    thin, thick, thick_from = found.thin, found.thick, found.thick_from_mm2
    if end.joint is not None:
        thin = thick = end.joint
    elif thin == "push_on" and current_a > (joint_kind("push_on").greatest_a or current_a) * (1 + 1e-9):
        thin = thick if thick != "push_on" else "lug_small"
    if (
        high is None
        and end.joint is None
        and (thin, thick, thick_from) == (found.thin, found.thick, found.thick_from_mm2)
    ):
        return found
    most, shown, typical = found.greatest_mm2, found.greatest_label, found.typical
    if high is not None:
        most, shown, typical = high.area_mm2, high.label, False
    limit = joint_kind(end.joint).greatest_mm2 if end.joint is not None else None
    if limit is not None and limit < most:
        most, shown, typical = limit, f"{limit:g} mm²", True
    stepped = found.stepped if typical and limit is None else "no"
    return Fitting(found.label, most, shown, typical, stepped, thin, thick, thick_from, found.cell)


def holder_fitting(family: FuseFamily) -> Fitting:
    """The usual in-line holder of a fuse family, as what a wire is joined to."""
    return fitting_of(_HOLDERS.get(family, "holder_bolt"), None)


def holder_takes(family: FuseFamily, size: WireSize) -> bool:
    """Whether a wire goes into the usual in-line holder of a fuse family."""
    return holder_fitting(family).takes(size)


def holder_label(family: FuseFamily) -> str:
    """The usual in-line holder of a fuse family, in words."""
    found = holder_fitting(family)
    return f"{found.label} ({found.greatest_label})"


def run_fittings(run: Run, parts: dict[str, Part], current_a: float) -> tuple[tuple[Part, Fitting], ...]:
    """Everything the conductors of a run are joined to: positive ends first, then the negative ones.

    Parameters
    ----------
    run : Run
        The run.
    parts : dict
        Id to part.
    current_a : float
        Its design current. [A]

    Returns
    -------
    tuple of (Part, Fitting)
        Two for each leg.
    """
    sides: tuple[tuple[Side, End], ...] = (("start", run.start), ("finish", run.finish))
    legs = (True, False) if run.legs == "both" else (run.legs != "negative",)
    return tuple(
        (parts[end.part], fitting(parts[end.part], end, side, current_a, positive=positive))
        for positive in legs
        for side, end in sides
    )
