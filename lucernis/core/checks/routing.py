"""Checks of the way a wire takes: holes, clamps, kinds of wire, and the one size that would save a spool."""

from __future__ import annotations

from lucernis.core.checks.fixes import set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.layout.laid import layout_of
from lucernis.core.report import Fix
from lucernis.core.wire.copper import wire_size
from lucernis.plan.edits.operations import PinWire
from lucernis.plan.model import Load, Run
from lucernis.plan.units import told_length

# ABYC E-11: support every 18 in, from memory.
LONGEST_SPAN_M = 0.457
SAVES_A_SPOOL_M = 4.0
# Made for so little of the system's volts: somebody means to put two in series. Common practice, no
# source.
HALF_FRAC = 0.6


def check_routing(raised: Raised) -> None:
    """Raise what is wrong with holes, clamps and kinds of wire."""
    for run in raised.plan.runs:
        _holes(raised, run)
        if run.wire_type in ("building", "solid"):
            raised.on_run(
                "wire-not-for-vehicles",
                run,
                what="Solid wire" if run.wire_type == "solid" else "Building wire",
                mend="Fine-stranded wire made for vehicles or boats.",
                fixes=[set_part(run, "Take stranded wire", wire_type=None)],
            )
        if run.unsupported_m is not None and run.unsupported_m > LONGEST_SPAN_M + 1e-9:
            raised.on_run(
                "span-unsupported",
                run,
                what=f"{told_length(run.unsupported_m, raised.plan.units, short=True)} between two clamps, "
                f"{told_length(LONGEST_SPAN_M, raised.plan.units, short=True)} at most",
                mend="More clamps.",
                fixes=[set_part(run, "Note it as clamped", unsupported_m=LONGEST_SPAN_M)],
                span_m=run.unsupported_m,
            )
    _guessed(raised)
    _spools(raised)
    _in_series(raised)


def _guessed(raised: Raised) -> None:
    """Lengths nobody has measured: said once, with the runs they are of."""
    runs = [run for run in raised.plan.runs if run.length_guessed]
    if not runs:
        return
    layout = layout_of(raised.plan, raised.rules)
    unmeasured = [
        one.name
        for one in raised.plan.channels
        if one.length_m is None and any(layout.routes[run.id].guessed for run in layout.lying[one.id])
    ]
    runs.sort(key=lambda run: run.tag)
    tags = ", ".join(run.tag for run in runs[:12]) + (f" and {len(runs) - 12} more" if len(runs) > 12 else "")
    raised.raise_(
        "lengths-guessed",
        "plan",
        "plan",
        "",
        what=f"{len(runs)} length{'s' if len(runs) > 1 else ''} not measured yet: {tags}",
        mend=f"Measure {', '.join(unmeasured[:6])}{' and others' if len(unmeasured) > 6 else ''}; sizes follow."
        if unmeasured
        else "Measure and type each; sizes follow.",
        lengths=float(len(runs)),
    )


def _holes(raised: Raised, run: Run) -> None:
    for hole in run.passes:
        if hole.through in ("firewall", "metal") and not hole.grommet:
            raised.on_run(
                "hole-no-grommet",
                run,
                what=f"Through a hole in {hole.through.replace('metal', 'sheet metal')} without a grommet",
                mend="Deburr, paint, grommet.",
                fixes=[_holes_mended(run, "Note the grommet", grommet=True)],
            )
        if hole.through == "firewall" and not hole.sealed:
            raised.on_run(
                "hole-unsealed",
                run,
                what="The hole through the firewall is not sealed",
                mend="Seal it against fumes, water and fire.",
                fixes=[_holes_mended(run, "Note it as sealed", sealed=True)],
            )


def _holes_mended(run: Run, label: str, **values: bool) -> Fix:
    return set_part(run, label, passes=[one.model_dump() | values for one in run.passes])


def _spools(raised: Raised) -> None:
    """A size used once, for a short run, where the next is on the van already: said where the choice does not reckon
    with what a size is worth."""
    sized, worth = raised.sized, raised.rules.values.size_worth_m
    users: dict[str, list[Run]] = {}
    for run in raised.plan.runs:
        users.setdefault(sized.chosen[run.id].size.label, []).append(run)
    for runs in users.values():
        # A negative that goes with its positive is no other user.
        leading = [one for one in runs if sized.cases[one.id].leader is None]
        if len(leading) != 1 or any(sized.cases[one.id].leader not in (None, leading[0].id) for one in runs):
            continue
        run, case = leading[0], sized.cases[leading[0].id]
        if case.pinned or case.forced or run.length_m > SAVES_A_SPOOL_M or len(users) < 3 or worth:
            continue
        thicker = [one.size for one in case.options if one.size.area_mm2 > sized.chosen[run.id].size.area_mm2 * 1.001]
        if thicker and thicker[0].label in users:
            size = wire_size(thicker[0].system, thicker[0].name)
            edit = PinWire(op="pin_wire", run=run.id, size=size.label, reason="one spool fewer")
            raised.on_run(
                "wire-one-up",
                run,
                what=f"Only {run.tag} uses {sized.chosen[run.id].size.label}; {size.label} is on the van anyway",
                mend="One size up saves a spool.",
                fixes=[Fix(f"Take {size.label} for {run.tag}", [edit])],
                length_m=run.length_m,
            )


def _in_series(raised: Raised) -> None:
    """Devices for about half the system's voltage: somebody means to put two in series."""
    for part in raised.plan.parts:
        most_v = HALF_FRAC * raised.plan.nominal_v + 1e-9
        if isinstance(part, Load) and part.rated_v is not None and part.rated_v <= most_v:
            raised.on_part(
                "loads-in-series",
                part,
                what=f"{part.name} is made for {part.rated_v:g} V, the system has {raised.plan.nominal_v} V",
                mend="Take devices for the system's voltage: in series one failing takes the other along.",
                rated_v=part.rated_v,
            )
