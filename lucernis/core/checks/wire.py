"""Checks of the wire itself: ampacity, place, sizes, terminals, names that are mixed up."""

from __future__ import annotations

from lucernis.core.checks.raising import Raised
from lucernis.core.sizing.options import Case, Option, end_device, end_sizes
from lucernis.core.wire.ampacity import conductor_temp_c
from lucernis.core.wire.copper import wire_size
from lucernis.plan.model import Run
from lucernis.practice.rules import SizeSystem

_ALIKE = (("4", "4/0"), ("3", "3/0"), ("2", "2/0"), ("1", "1/0"))


def check_wire(raised: Raised) -> None:
    """Raise what is wrong with the wire of each run."""
    for run in raised.plan.runs:
        case, option = raised.sized.cases[run.id], raised.sized.chosen[run.id]
        if case.design_current_a > 0:
            _ampacity(raised, run, case, option)
        _size(raised, run, case, option)
    _look_alikes(raised)


def _ampacity(raised: Raised, run: Run, case: Case, option: Option) -> None:
    # Each of several conductors in parallel carries its share.
    asked_a = case.design_current_a / run.parallel * (1 + raised.rules.values.margin_frac)
    amp = option.amp
    if case.around.ambient_c >= case.insulation_c or (amp.base_a is not None and amp.zone_factor == 0):
        raised.raise_(
            "wire-insulation-cool",
            run.id,
            "run",
            run.tag,
            what=f"{case.insulation_c} °C insulation in {case.around.ambient_c:g} °C"
            + (", engine space" if case.around.engine_space else ""),
            mend="Take insulation of a higher rating, or another way.",
            insulation_c=float(case.insulation_c),
            ambient_c=case.around.ambient_c,
        )
        return
    if amp.ampacity_a is None or amp.base_a is None:
        raised.raise_(
            "wire-no-figure",
            run.id,
            "run",
            run.tag,
            what=f"{option.size.label} at {case.insulation_c} °C: {amp.note or 'not in the table'}",
            mend="Take a size the table lists.",
            area_mm2=option.size.area_mm2,
        )
    elif amp.base_a < asked_a - 1e-9:
        raised.raise_(
            "wire-over-ampacity",
            run.id,
            "run",
            run.tag,
            what=f"{asked_a:.1f} A on {option.size.label}, which carries {amp.ampacity_a:.1f} A",
            mend="Take a thicker wire, fewer loads on it, or a cooler way.",
            current_a=asked_a,
            ampacity_a=amp.ampacity_a,
            temp_c=conductor_temp_c(
                asked_a, amp.ampacity_a, ambient_c=case.around.ambient_c, insulation_c=case.insulation_c
            ),
        )
    elif amp.ampacity_a < asked_a - 1e-9:
        raised.raise_(
            "wire-over-derated",
            run.id,
            "run",
            run.tag,
            what=f"{asked_a:.1f} A on {option.size.label}: {amp.base_a:g} A in the table, {amp.ampacity_a:.1f} A here",
            mend="Take a thicker wire, fewer loads on it, or a cooler way.",
            current_a=asked_a,
            ampacity_a=amp.ampacity_a,
            table_a=amp.base_a,
        )


def _size(raised: Raised, run: Run, case: Case, option: Option) -> None:
    area = option.size.area_mm2
    device = end_device(raised.sized.topology, run)
    if area < raised.rules.values.least_area_mm2 - 1e-9:
        raised.raise_(
            "wire-below-least",
            run.id,
            "run",
            run.tag,
            what=f"{option.size.label} is {area:.2f} mm²; least {raised.rules.values.least_area_mm2:g} mm²",
            mend="Take the least size or thicker.",
            area_mm2=area,
        )
    if device is not None:
        low, high = end_sizes(device)
        if low is not None and area < low.area_mm2 * 0.999:
            raised.raise_(
                "wire-below-maker",
                run.id,
                "run",
                run.tag,
                what=f"{option.size.label}; the maker of {device.name} asks {low.label}",
                mend="Take the maker's size.",
                area_mm2=area,
                least_area_mm2=low.area_mm2,
            )
        if high is not None and area > high.area_mm2 * 1.001:
            raised.raise_(
                "wire-above-terminal",
                run.id,
                "run",
                run.tag,
                what=f"{option.size.label}; {device.name} takes {high.label} at most",
                mend="End the thick wire on a stud near the device and go on with what the terminal takes.",
                area_mm2=area,
                greatest_area_mm2=high.area_mm2,
            )
    if case.forced:
        shown = case.refusals[:1] + case.refusals[-1:] if len(case.refusals) > 1 else case.refusals
        because = "; ".join(dict.fromkeys(f"{label} {reason}" for label, reason in shown))
        raised.raise_(
            "wire-nothing-fits",
            run.id,
            "run",
            run.tag,
            what=f"{option.size.label} is shown, but no size passes: {because}",
            mend=_help_when_nothing_fits(raised, case),
            current_a=case.design_current_a,
        )


def _help_when_nothing_fits(raised: Raised, case: Case) -> str:
    reasons = " ".join(reason for _, reason in case.refusals)
    helps = []
    if "its fuse is" in reasons:
        helps.append("give this step a fuse of its own")
    if "thicker than the terminal" in reasons:
        helps.append("step down on a stud close to the device")
    if " asked" in reasons:
        helps.append("split the loads over two runs")
        if raised.plan.nominal_v < 24:
            helps.append(f"{2 * raised.plan.nominal_v} V would halve the current")
    text = ", or ".join(helps) or "put more sizes on the shelf"
    return text[0].upper() + text[1:] + "."


def _look_alikes(raised: Raised) -> None:
    used: dict[tuple[SizeSystem, str], Run] = {}
    for run in raised.plan.runs:
        size = raised.sized.chosen[run.id].size
        used.setdefault((size.system, size.name), run)
    for (system, name), run in used.items():
        for one, other in _ALIKE:
            if name == one and (system, other) in used:
                raised.raise_(
                    "wire-look-alike",
                    run.id,
                    "run",
                    run.tag,
                    what=f"{wire_size(system, one).label} here and {wire_size(system, other).label} "
                    f"on {used[(system, other)].tag}",
                    mend=f"Write {other} as {'0' * int(other[0])} or in mm² on the label.",
                    area_mm2=wire_size(system, one).area_mm2,
                    other_mm2=wire_size(system, other).area_mm2,
                )
    for first, second in (("awg", "sae"), ("bs", "sae"), ("mm2", "auto_mm")):
        runs = [
            next((run for (system, _), run in used.items() if system == wanted), None) for wanted in (first, second)
        ]
        if runs[0] is not None and runs[1] is not None:
            here = raised.sized.chosen[runs[1].id].size
            raised.raise_(
                "wire-look-alike",
                runs[1].id,
                "run",
                runs[1].tag,
                what=f"{here.label} here holds {here.area_mm2:.2f} mm²; "
                f"{runs[0].tag} is named {raised.sized.chosen[runs[0].id].size.label}, another system",
                mend="Keep to one system, or write the copper in mm² on each label.",
                area_mm2=here.area_mm2,
            )
