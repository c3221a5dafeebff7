"""What a current passes, piece by piece: every joint, fuse, wire and contact with its resistance when it is sound."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from lucernis.core.circuit.contacts import chassis_point_ohm, contact_ohm
from lucernis.core.circuit.terminals import CHASSIS, has_negative, has_positive, point
from lucernis.core.protection.fuses import fuse_resistance_ohm
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import far_fuse, far_key, fed_by_start
from lucernis.core.wire.copper import resistance_ohm_per_m
from lucernis.core.wire.joints import joint_kind, joint_ohm
from lucernis.plan.model import Plan, Run

Sort = Literal["joint", "fuse", "wire", "contact", "shunt", "body"]


@dataclass(frozen=True, slots=True)
class Element:
    """A piece of the circuit. `conductor` is the conductor it is part of, `ohm` what it has sound and at 25 °C. [Ω]

    `run` and `leg` are empty for what is inside a part, `part` is where a joint, a fuse or a contact is; empty for the
    middle of a wire. `fuse_a` is the rating of a fuse. [A]
    """

    id: str
    sort: Sort
    conductor: int
    ohm: float
    label: str
    tag: str
    run: str = ""
    leg: Literal["positive", "negative", ""] = ""
    part: str = ""
    fuse_a: float | None = None


def _leg(plan: Plan, sized: Sized, at: int, *, positive: bool, cold_ohm: float) -> Iterator[Element]:
    """One leg of a run from its start to its finish."""
    run = plan.runs[at]
    option, parts = sized.chosen[run.id], sized.topology.parts
    side, sign = ("positive", "+") if positive else ("negative", "−")
    letter, conductor = ("p", 2 * at) if positive else ("n", 2 * at + 1)
    ends = sized.cases[run.id].fittings
    first = 0 if positive or run.legs != "both" else 2
    joints = [fitting.joint(option.size) for _, fitting in ends[first : first + 2]]

    def made(name: str, sort: Sort, ohm: float, label: str, part: str = "", fuse_a: float | None = None) -> Element:
        return Element(
            f"{run.id}:{letter}:{name}", sort, conductor, ohm, label, run.tag, run.id,
            "positive" if side == "positive" else "negative", part, fuse_a,
        )  # fmt: skip

    def joint(name: str, which: int, part_id: str) -> Element:
        ohm = joint_ohm(joints[which], option.size) / run.parallel
        label = f"{run.tag} {sign}: {joint_kind(joints[which]).label.lower()} at {parts[part_id].name}"
        return made(name, "joint", ohm, label, part_id)

    def fuse(name: str, key: str, part_id: str) -> Iterator[Element]:
        found = sized.fuses.get(key)
        if positive and found is not None and found.fuse is not None:
            ohm = fuse_resistance_ohm(found.fuse.family, found.fuse.rating_a) / found.count
            many = f"{found.count} × " if found.count > 1 else ""
            label = f"{run.tag}: fuse {many}{found.fuse.rating_a:g} A at {parts[part_id].name}"
            yield made(name, "fuse", ohm, label, part_id, found.fuse.rating_a)

    by_start = fed_by_start(sized.topology, run)
    near, far = run.id, far_key(run.id) if far_fuse(sized.topology, run) is not None else ""
    yield joint("start", 0, run.start.part)
    yield from fuse("fuse-start", near if by_start else far, run.start.part)
    yield made("wire", "wire", cold_ohm, f"{run.tag} {sign}: {option.size.label}, {run.length_m:g} m")
    yield from fuse("fuse-finish", far if by_start else near, run.finish.part)
    yield joint("finish", 1, run.finish.part)


def cold_ohm(sized: Sized, run: Run, temp_c: float = 25.0) -> float:
    """One leg's conductors alone.

    Parameters
    ----------
    sized : Sized
        The plan's sizes.
    run : Run
        The run.
    temp_c : float
        Of the conductor. [°C]

    Returns
    -------
    float
        ``R = L · R20 · (1 + α (T − 20)) / p``. [Ω]
    """
    size = sized.chosen[run.id].size
    return run.length_m * resistance_ohm_per_m(size.resistance_20_ohm_per_m, temp_c) / run.parallel


def elements_of(plan: Plan, sized: Sized) -> list[Element]:
    """All pieces of a plan's circuit.

    Parameters
    ----------
    plan : Plan
        Laid out.
    sized : Sized
        Its sizes.

    Returns
    -------
    list of Element
        Leg by leg from start to finish, then what is inside the parts. Spares, and legs that are not there, have none.
    """
    found: list[Element] = []
    for at, run in enumerate(plan.runs):
        if at in sized.wiring.spares:
            continue
        if has_positive(run) or run.legs == "series":
            found += _leg(plan, sized, at, positive=True, cold_ohm=cold_ohm(sized, run))
        if has_negative(run):
            found += _leg(plan, sized, at, positive=False, cold_ohm=cold_ohm(sized, run))
    parts = sized.topology.parts
    for (part_id, name), at_all in sized.wiring.contact_at.items():
        part = parts[part_id]
        for which, conductor in enumerate(at_all):
            pole = ", second pole" if which else ""
            label = f"{part.name}: contact{'' if name == 'main' else ' ' + name}{pole}"
            found.append(
                Element(f"{part_id}:{name}:{which}", "contact", conductor, contact_ohm(part), label, part.tag,
                        part=part_id)
            )  # fmt: skip
    circuit, neg = sized.wiring.circuit, sized.wiring.neg
    across = {(a, b): k for k, (a, b) in enumerate(zip(circuit.conductor_from, circuit.conductor_to, strict=True))}
    for part in plan.parts:
        if part.kind == "shunt":
            k = across[(neg[part.id], neg[point(part.id, "out")])]
            found.append(
                Element(f"{part.id}:shunt", "shunt", k, contact_ohm(part), f"{part.name}", part.tag, part=part.id)
            )
        elif part.kind == "chassis_point":
            k = across[(neg[part.id], neg[CHASSIS])]
            ohm = chassis_point_ohm(plan)
            found.append(
                Element(f"{part.id}:body", "body", k, ohm, f"{part.name}: from its bolt into the body", part.tag,
                        part=part.id)
            )  # fmt: skip
    return found
