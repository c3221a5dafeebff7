"""Checks of the way back: negatives, the measuring shunt, the body and its bonds."""

from __future__ import annotations

from lucernis.core.checks import demands
from lucernis.core.checks.fixes import let_go_of_wire, set_part, thicker_wire
from lucernis.core.checks.raising import Raised
from lucernis.core.circuit.terminals import has_negative
from lucernis.core.faults.body import study_body
from lucernis.core.report import Fix
from lucernis.core.sizing.bonds import largest_positive
from lucernis.core.sizing.places import is_bond
from lucernis.core.wire.copper import wire_size
from lucernis.plan.edits.operations import SetFields
from lucernis.plan.model import Battery, ChassisPoint, Run, Shunt, Switch

CAN_RETURN = {"steel"}
BODY = {
    "steel": "steel",
    "aluminium": "aluminium",
    "fibreglass_or_wood": "fibreglass or wood",
    "boat_hull": "a boat's hull",
    "frame": "an open frame",
}


def check_returns(raised: Raised) -> None:
    """Raise what is wrong with how current gets back."""
    for name in raised.sized.returns.lost:
        part = raised.sized.topology.part_at(name)
        raised.on_part(
            "return-missing",
            part,
            what=f"{part.name} has no way back to the battery",
            mend="A negative to a bar or to the chassis, where the body allows it.",
        )
    for part in raised.plan.parts:
        if isinstance(part, Shunt):
            _shunt(raised, part)
    _reversed_by_body(raised)
    _chassis(raised)
    _body_clears(raised)
    for run in raised.plan.runs:
        if run.legs == "negative":
            _matches(raised, run)


def _reversed_by_body(raised: Raised) -> None:
    """Reversing switches before what returns through the body."""
    topology, by_body = raised.sized.topology, set(raised.sized.returns.by_chassis)
    for part in raised.plan.parts:
        if not isinstance(part, Switch) or part.form != "reversing":
            continue
        names = [
            name for run_id in topology.fed_runs.get(part.id, ()) for name in topology.behind[run_id] if name in by_body
        ]
        if names:
            devices = ", ".join(topology.part_at(name).name for name in dict.fromkeys(names))
            raised.on_part(
                "reversing-by-body",
                part,
                what=f"{devices} behind {part.name} returns through the body",
                mend="Two wires from the switch to the device: what is reversed needs a return of its own.",
                asked=f"a return through the body behind {part.name}",
            )


def _negative_runs(raised: Raised, part_id: str) -> list[Run]:
    return [run for run in raised.plan.runs if has_negative(run) and part_id in (run.start.part, run.finish.part)]


def _shunt(raised: Raised, shunt: Shunt) -> None:
    """Only the shunt on the battery's negative post, only the battery on the shunt's battery side."""
    parts = raised.sized.topology.parts
    ends: dict[str, list[tuple[Run, str]]] = {"in": [], "out": []}
    for run in _negative_runs(raised, shunt.id):
        for side, end in (("start", run.start), ("finish", run.finish)):
            if end.part == shunt.id:
                terminal = end.terminal or ("in" if side == "finish" else "out")
                other = run.finish.part if side == "start" else run.start.part
                ends["out" if terminal == "out" else "in"].append((run, other))
    for battery_side in ("in", "out"):
        batteries = [other for _, other in ends[battery_side] if isinstance(parts[other], Battery)]
        if not batteries:
            continue
        away = "out" if battery_side == "in" else "in"
        strangers = [(run, other) for run, other in ends[battery_side] if other not in batteries]
        for battery in batteries:
            strangers += [
                (run, run.finish.part if run.start.part == battery else run.start.part)
                for run in _negative_runs(raised, battery)
                if shunt.id not in (run.start.part, run.finish.part)
                and not isinstance(parts[run.finish.part if run.start.part == battery else run.start.part], Battery)
            ]
        for run, other in strangers:
            fixes = []
            if run.legs == "negative":
                side = "start" if run.finish.part == other else "finish"
                values = {side: {"part": shunt.id, "way": None, "terminal": away}}
                fixes = [
                    Fix(f"Move {run.tag} behind the shunt", [SetFields(op="set_fields", subject=run.id, values=values)])
                ]
            raised.on_part(
                "shunt-bypassed",
                shunt,
                what=f"{run.tag} to {parts[other].name} hangs on the battery's side of {shunt.name}",
                mend="Only the shunt on the battery's negative; everything else behind it.",
                fixes=fixes,
            )


def _chassis(raised: Raised) -> None:
    plan, sized = raised.plan, raised.sized
    points = [part for part in plan.parts if isinstance(part, ChassisPoint)]
    body = plan.job.vehicle.body
    for name in sized.returns.by_chassis:
        part = sized.topology.part_at(name)
        if body not in CAN_RETURN:
            raised.on_part(
                "chassis-cannot-return",
                part,
                what=f"{part.name} returns through the body, which is {BODY[body]}",
                mend="A negative of its own to the bar.",
            )
    for one in points:
        if not one.bare_metal:
            raised.on_part(
                "bond-through-paint",
                one,
                what=f"{one.name} is bolted through paint",
                mend="Take the paint off down to clean metal, then seal it.",
                fixes=[set_part(one, "Note it as cleaned", bare_metal=True)],
            )
        if one.sealed is False or (body == "aluminium" and one.sealed is None):
            what = "copper on aluminium" if body == "aluminium" else "bare metal, open to water"
            raised.on_part(
                "bond-corrodes",
                one,
                what=f"{one.name}: {what}" + ("" if one.sealed is False else ", and nobody has said that it is sealed"),
                mend="Clean it bright under the lug; tinned lug, contact grease, a star washer, and a seal over it.",
                fixes=[set_part(one, "Note it as sealed", sealed=True)],
            )
    bonds = [
        (run, one)
        for one in points
        for run in plan.runs
        if one.id in (run.start.part, run.finish.part) and is_bond(sized.topology, run)
    ]
    if len(bonds) > 1:
        raised.on_part(
            "chassis-several",
            bonds[1][1],
            what=f"{len(bonds)} bonds join the negative to the body: " + ", ".join(run.tag for run, _ in bonds),
            mend="One bond, so that no current runs round through the body.",
            bonds=float(len(bonds)),
        )
    largest = largest_positive(plan, sized.topology, sized.unpinned)
    if largest is None:
        return
    house = [part for part in plan.parts if isinstance(part, Battery) and part.use == "house"]
    if not points and house and body in ("steel", "aluminium") and any(p.kind == "busbar" for p in plan.parts):
        raised.raise_(
            "bond-missing",
            "plan",
            "plan",
            "",
            what=f"Nothing bonds the negative to the body, which is {BODY[body]}",
            mend="One bond from the negative bar to clean bare metal, as thick as the largest positive.",
        )
    size = sized.unpinned[largest.id].size
    needed_mm2 = size.area_mm2 * largest.parallel
    label = size.label if largest.parallel == 1 else f"{largest.parallel} × {size.label}"
    for run, one in bonds:
        own = sized.chosen[run.id]
        # One size down is usual, and never more than one size under the thickest on the shelf.
        enough_mm2 = _one_size_down(raised, needed_mm2 / run.parallel)
        if own.size.area_mm2 < enough_mm2 * 0.999:
            raised.on_run(
                "bond-small",
                run,
                what=f"{own.size.label} to {one.name}; the largest positive needs {label} ({largest.tag})",
                mend="A bond like the largest positive whose short it has to carry.",
                fixes=let_go_of_wire(run)
                or thicker_wire(raised, run, "like the largest positive it must clear", at_least_mm2=needed_mm2),
                asked=demands.wire_pin(raised, run),
                area_mm2=own.size.area_mm2,
                needed_mm2=needed_mm2,
            )


def _body_clears(raised: Raised) -> None:
    """Shorts to a body that was measured, or whose bond sits on paint: as usual the body is better than any wire, and
    what clears a short to the negative clears one to it."""
    plan = raised.plan
    doubtful = any(isinstance(part, ChassisPoint) and not part.bare_metal for part in plan.parts)
    if plan.job.vehicle.chassis_ohm is None and not doubtful:
        return
    found = study_body(plan, raised.sized)
    if found.study is None:
        return
    lost = []
    for run_id, faults in found.study.of_run.items():
        own = {one.where: one.slow_s for one in raised.faults.of_run.get(run_id, [])}
        if any(one.slow_s is None and one.weakest_a > 0 and own.get(one.where) is not None for one in faults):
            lost.append(raised.sized.topology.runs[run_id])
    if not lost:
        return
    endless = [one.weakest_a for run in lost for one in found.study.of_run[run.id] if one.slow_s is None]
    least_a = min(amps for amps in endless if amps > 0)
    tags = ", ".join(run.tag for run in lost[:8]) + (f" and {len(lost) - 8} more" if len(lost) > 8 else "")
    raised.raise_(
        "body-not-cleared",
        "plan",
        "plan",
        "",
        what=f"Shorts of {tags} to the body open no fuse: {least_a:.0f} A flow at least",
        mend="Clean bare metal under the bond, measured again by the millivolts at a known current.",
        asked="a body as it was measured" if plan.job.vehicle.chassis_ohm is not None else "a bond on paint",
        least_a=least_a,
    )


def _one_size_down(raised: Raised, area_mm2: float) -> float:
    """Copper of the next thinner size on the shelf. [mm²]"""
    values = raised.rules.values
    thinner = [
        size.area_mm2
        for name in values.shelf
        if (size := wire_size(values.size_system, name)).area_mm2 < area_mm2 * 0.999
    ]
    return max(thinner, default=area_mm2)


def _matches(raised: Raised, run: Run) -> None:
    leader = raised.sized.returns.leader_of.get(run.id)
    if leader is None or any(
        raised.sized.topology.parts[end.part].kind == "chassis_point" for end in (run.start, run.finish)
    ):
        return
    own, positive = raised.sized.chosen[run.id], raised.sized.chosen[leader]
    if own.copper_mm2_m / run.length_m < positive.size.area_mm2 * raised.sized.topology.runs[leader].parallel * 0.999:
        raised.on_run(
            "return-thinner",
            run,
            what=f"{own.size.label} back, {positive.size.label} out on {raised.sized.topology.runs[leader].tag}",
            mend="Positive and negative of the same size, unless the chassis returns.",
            fixes=let_go_of_wire(run),
            area_mm2=own.size.area_mm2,
            positive_mm2=positive.size.area_mm2,
        )
