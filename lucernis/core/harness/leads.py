"""Leads that every system has and a plan names only in passing: sensing, keys, displays, panels, cases, lamps."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from lucernis.plan.model import Charger, ChassisPoint, Load, Panel, Part, Plan

Kind = Literal["sense", "display", "panel", "case", "onward"]
# Thin leads that carry no load: common practice, no source.
_SIGNAL = "0.75 mm² (18 AWG)"


@dataclass(frozen=True, slots=True)
class Lead:
    """A lead with what it is for. It has no run in the plan, so that its length is measured where it lies."""

    id: str
    kind: Kind
    part: str
    what: str
    size: str
    fro: str
    to: str
    place: str
    count: int
    bought: tuple[tuple[str, str, int], ...]
    """Key, words and number of what it takes besides wire."""


def _case_bonds(plan: Plan, places: Mapping[str, str]) -> Iterator[Lead]:
    """Cases of inverters and of what hangs on the mains, to the body or the negative bar."""
    bolts: list[Part] = [part for part in plan.parts if isinstance(part, ChassisPoint)]
    bars: list[Part] = [part for part in plan.parts if part.kind == "busbar" and part.bars != "positive"]
    targets = bolts or bars
    if not targets:
        return
    for part in plan.parts:
        # The nearest, whatever stands first in the list.
        target = min(targets, key=lambda one: (one.place != part.place, one.id))
        mains = (isinstance(part, Load) and part.device == "inverter") or (
            isinstance(part, Charger) and part.form == "shore"
        )
        if mains:
            yield Lead(
                f"case:{part.id}", "case", part.id, f"Case of {part.name} to {target.name}", "as its maker asks",
                part.name, target.name, places.get(part.place or "", ""), 1,
                (("ring", "Ring terminal for the case", 2),),
            )  # fmt: skip


def _of_charger(part: Charger, plan: Plan, place: str) -> Iterator[Lead]:
    if part.form == "dcdc" and part.sense == "wired":
        feeds = sorted((one.id, one.name) for one in plan.parts if one.kind == "keyed_feed" and one.follows != "shore")
        feed = feeds[0][1] if feeds else "a wire that is live with the engine running"
        yield Lead(
            f"sense:{part.id}", "sense", part.id, f"Engine signal of {part.name}", _SIGNAL, feed, part.name, place, 1,
            (("fuse:blade_mini:3", "Mini blade 3 A", 1), ("holder:blade_mini", "Holder for Mini blade", 1)),
        )  # fmt: skip


def _of_panel(part: Panel, place: str) -> Iterator[Lead]:
    total = part.series * part.strings
    if total > 1:
        pairs = part.strings - 1
        bought: tuple[tuple[str, str, int], ...] = (("solar_y", "Pair of Y-pieces for panels", pairs),) if pairs else ()
        how = f"{part.series} in series" if part.series > 1 else ""
        if part.strings > 1:
            how = ", ".join(word for word in (how, f"{part.strings} side by side") if word)
        yield Lead(
            f"panel:{part.id}", "panel", part.id, f"Leads of {total} panels, {how}", "as the panels have them",
            part.name, part.name, place, total, bought,
        )  # fmt: skip


def leads_of(plan: Plan, places: Mapping[str, str]) -> Iterator[Lead]:
    """Leads of a plan that no run stands for.

    Parameters
    ----------
    plan : Plan
        As fed.
    places : Mapping
        Id of a place to its name.
    """
    for part in plan.parts:
        place = places.get(part.place or "", "")
        if isinstance(part, Charger):
            yield from _of_charger(part, plan, place)
        elif isinstance(part, Panel):
            yield from _of_panel(part, place)
        elif part.kind == "shunt":
            yield Lead(
                f"display:{part.id}", "display", part.id, f"Display lead and fused positive of {part.name}", _SIGNAL,
                part.name, "its display", place, 1,
                (("fuse:blade_mini:2", "Mini blade 2 A", 1), ("holder:blade_mini", "Holder for Mini blade", 1)),
            )  # fmt: skip
        elif isinstance(part, Load) and part.count > 1:
            yield Lead(
                f"onward:{part.id}", "onward", part.id, f"From one {part.name} to the next, {part.count} of them",
                "as the run that feeds them", part.name, part.name, place, part.count - 1, (),
            )  # fmt: skip
    yield from _case_bonds(plan, places)
