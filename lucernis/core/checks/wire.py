"""Checks of the wire itself: ampacity, place, sizes, terminals, names that are mixed up."""

from __future__ import annotations

from lucernis.core.checks import demands
from lucernis.core.checks.fixes import let_go_of_wire, set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.sizing.ends import maker_size
from lucernis.core.sizing.options import SMALL_MM2, Case, maker_end
from lucernis.core.sizing.stretch import Option
from lucernis.core.wire.ampacity import conductor_temp_c
from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.joints import joint_kind
from lucernis.plan.model import Charger, Load, Run
from lucernis.practice.rules import SizeSystem

# A pinned wire of so many times the copper that would do is worth a look. Common practice, no source.
FAR_MORE = 4.0
_ALIKE = (("4", "4/0"), ("3", "3/0"), ("2", "2/0"), ("1", "1/0"))


def check_wire(raised: Raised) -> None:
    """Raise what is wrong with the wire of each run."""
    for run in raised.plan.runs:
        case, option = raised.sized.cases[run.id], raised.sized.chosen[run.id]
        if case.forced and not _too_cool(case, option):
            _nothing_fits(raised, run, case, option)
            continue
        if case.carry_a > 0 and run.id not in raised.sized.topology.spares:
            _ampacity(raised, run, case, option)
        _size(raised, run, case, option)
        _generous(raised, run, case, option)
    _look_alikes(raised)


def _too_cool(case: Case, option: Option) -> bool:
    """Whether the place alone is as hot as the insulation stands."""
    amp = option.amp
    return case.around.ambient_c >= case.insulation_c or (amp.base_a is not None and amp.zone_factor == 0)


def _ampacity(raised: Raised, run: Run, case: Case, option: Option) -> None:
    # Each of several conductors in parallel carries its share.
    asked_a = case.carry_a / run.parallel * (1 + raised.rules.values.margin_frac)
    amp = option.amp
    if _too_cool(case, option):
        raised.on_run(
            "wire-insulation-cool",
            run,
            what=f"{case.insulation_c} °C insulation in {case.around.ambient_c:g} °C"
            + (", engine space" if case.around.engine_space else ""),
            mend="Take insulation of a higher rating, or another way.",
            asked=f"{case.insulation_c} °C insulation where it lies",
            insulation_c=float(case.insulation_c),
            ambient_c=case.around.ambient_c,
        )
        return
    asked = demands.of_run(raised, run)
    if amp.ampacity_a is None or amp.base_a is None:
        raised.on_run(
            "wire-no-figure",
            run,
            what=f"{option.size.label} at {case.insulation_c} °C: {amp.note or 'not in the table'}",
            mend="Take a size the table lists.",
            fixes=let_go_of_wire(run),
            asked=asked,
            area_mm2=option.size.area_mm2,
        )
    elif amp.base_a < asked_a - 1e-9:
        raised.on_run(
            "wire-over-ampacity",
            run,
            what=f"{asked_a:.1f} A on {option.size.label}, which carries {amp.ampacity_a:.1f} A",
            mend="Take a thicker wire, fewer loads on it, or a cooler way.",
            fixes=let_go_of_wire(run),
            asked=asked,
            current_a=asked_a,
            ampacity_a=amp.ampacity_a,
            temp_c=conductor_temp_c(
                asked_a, amp.ampacity_a, ambient_c=case.around.ambient_c, insulation_c=case.insulation_c
            ),
        )
    elif amp.ampacity_a < asked_a - 1e-9:
        raised.on_run(
            "wire-over-derated",
            run,
            what=f"{asked_a:.1f} A on {option.size.label}: {amp.base_a:g} A in the table, {amp.ampacity_a:.1f} A here "
            f"({demands.derating(amp, case)})",
            mend="Take a thicker wire, fewer loads on it, or a cooler way.",
            fixes=let_go_of_wire(run),
            asked=asked,
            current_a=asked_a,
            ampacity_a=amp.ampacity_a,
            table_a=amp.base_a,
        )


def _size(raised: Raised, run: Run, case: Case, option: Option) -> None:
    area = option.size.area_mm2
    asked = demands.of_run(raised, run)
    if area < raised.rules.values.least_area_mm2 - 1e-9:
        raised.on_run(
            "wire-below-least",
            run,
            what=f"{option.size.label} is {area:.2f} mm²; min {raised.rules.values.least_area_mm2:g} mm²",
            mend="Take the min size or thicker.",
            fixes=let_go_of_wire(run),
            asked=asked,
            area_mm2=area,
        )
    device = maker_end(raised.sized.topology, run)
    low = maker_size(device.maker.least) if device is not None else None
    if device is not None and low is not None and area < low.area_mm2 * 0.999:
        raised.on_run(
            "wire-below-maker",
            run,
            what=f"{option.size.label}; the maker of {device.name} asks {low.label}",
            mend="Take the maker's size.",
            fixes=let_go_of_wire(run),
            asked=asked,
            area_mm2=area,
            least_area_mm2=low.area_mm2,
        )
    for part, fitting in case.fittings:
        if not fitting.takes(option.size):
            usual = ", as is usual; its maker's sheet wins" if fitting.typical else ""
            enter = isinstance(part, Load | Charger) and fitting.typical
            place = f"{fitting.label} of {part.name}"
            raised.on_run(
                "wire-above-terminal",
                run,
                what=f"{option.size.label}; {place} takes {fitting.greatest_label} at most{usual}",
                mend="End the thick wire on a stud near it, or step down by a short tail of what the terminal takes."
                + (f" Read it off {part.name} and enter the thickest wire it takes." if enter else ""),
                fixes=let_go_of_wire(run),
                asked=asked or place,
                severity="look" if fitting.typical else None,
                area_mm2=area,
                greatest_area_mm2=fitting.greatest_mm2,
            )
    for end, (part, _) in zip((run.start, run.finish), case.fittings[:2], strict=True):
        limit_a = joint_kind(end.joint).greatest_a if end.joint is not None else None
        if limit_a is not None and end.joint is not None and case.carry_a > limit_a * (1 + 1e-9):
            raised.on_run(
                "joint-over",
                run,
                what=f"{case.carry_a:.1f} A through a {joint_kind(end.joint).label.lower()} at {part.name}, made for "
                f"{limit_a:g} A",
                mend="End it in a ring or a lug.",
                fixes=[
                    set_part(
                        run,
                        "Let the part decide how it ends",
                        **{side: getattr(run, side).model_dump() | {"joint": None} for side in ("start", "finish")},
                    )
                ],
                asked=f"{joint_kind(end.joint).label.lower()} at {part.name}",
                current_a=case.carry_a,
                limit_a=limit_a,
            )


def _generous(raised: Raised, run: Run, case: Case, option: Option) -> None:
    """A pinned wire of far more copper than anything asks."""
    free = raised.sized.unpinned[run.id].size
    if not case.pinned or option.size.area_mm2 < FAR_MORE * max(free.area_mm2, SMALL_MM2 / 2):
        return
    raised.on_run(
        "wire-far-thicker",
        run,
        what=f"{option.size.label} pinned; {free.label} would do",
        mend="Fine where it is there already; else unpin it.",
        fixes=let_go_of_wire(run),
        asked=demands.wire_pin(raised, run),
        area_mm2=option.size.area_mm2,
        enough_mm2=free.area_mm2,
    )


def _nothing_fits(raised: Raised, run: Run, case: Case, option: Option) -> None:
    shown = case.refusals[:1] + case.refusals[-1:] if len(case.refusals) > 1 else case.refusals
    because = "; ".join(dict.fromkeys(f"{one.label} {one.text}" for one in shown))
    guards = [case.protector] if case.protector is not None else []
    raised.on_run(
        "wire-nothing-fits",
        run,
        what=f"{option.size.label} is shown, but no size passes: {because}",
        mend=_help_when_nothing_fits(raised, case),
        asked=demands.of_run(raised, run, *guards),
        current_a=case.carry_a,
    )


def _help_when_nothing_fits(raised: Raised, case: Case) -> str:
    reasons = {one.reason for one in case.refusals}
    helps = []
    if "fuse" in reasons:
        helps.append("give this step a fuse of its own")
    if reasons & {"terminal", "holder"}:
        helps.append("step down on a stud close to the terminal")
    if demands.surroundings(case):
        helps.append("lead it apart from the others and by a cooler way")
    if "load" in reasons:
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
            # What the program wrote itself goes on every list and label with its system, plain to read.
            chosen = raised.sized.cases[run.id].pinned or raised.sized.cases[used.get((system, other), run).id].pinned
            if name == one and (system, other) in used and chosen:
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
