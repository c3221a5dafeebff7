"""A plan as laid out: runs that follow channels get length and neighbours from their ways."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import groupby
from threading import Lock
from weakref import finalize

from cachetools import LRUCache

from lucernis.core.itself import Itself
from lucernis.core.layout.bundles import conductors, counts, in_channels
from lucernis.core.layout.channels import Measured, measured_channels
from lucernis.core.layout.routes import Route, find_routes
from lucernis.core.wire.ampacity import Surroundings, ampacity
from lucernis.core.wire.copper import WireSize, wire_size
from lucernis.plan.layout import usual_zone
from lucernis.plan.model import Plan, Run, Zone
from lucernis.plan.rules import plan_rules
from lucernis.practice.rules import AmpacityTable, Rules

# Tables give factors by insulation and place alone: any size shows them that each of them has.
_ANY: dict[AmpacityTable, WireSize] = {
    "e11": wire_size("awg", "8"), "inverter_guide": wire_size("awg", "8"), "iso_small_craft": wire_size("mm2", "10"),
}  # fmt: skip
# So much above its surroundings a conductor may always get, as the choice of sizes has it. [K]
_ALWAYS_K = 15.0


@dataclass(frozen=True, slots=True)
class Piece:
    """A stretch of a way: a channel, or the tail at a place. What a conductor may carry there is a share of what it
    may in free air."""

    channel: str | None
    name: str
    length_m: float
    around: Surroundings
    share: float


@dataclass(frozen=True, slots=True)
class Layout:
    """Where every run lies."""

    plan: Plan
    """The plan with what its runs take from their ways."""
    typed: Plan
    """The plan as it was given."""
    routes: dict[str, Route]
    pieces: dict[str, tuple[Piece, ...]]
    worst: dict[str, Piece]
    """The stretch of each run in which it may carry least."""
    lying: dict[str, tuple[Run, ...]]
    counts: dict[str, int]


_KNOWN: LRUCache[tuple[Itself[Plan], tuple[object, ...]], Layout] = LRUCache(maxsize=8)
_CUT: dict[int, Layout] = {}
_LOCK = Lock()


def layout_of(plan: Plan, rules: Rules | None = None) -> Layout:
    """Where every run lies, once for a plan as long as it is among those asked for last.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold, as typed or as laid out.
    rules : Rules, optional
        In place of its own.

    Returns
    -------
    Layout
        Ways, stretches, what lies in each channel, and the plan as laid out.
    """
    cut = _CUT.get(id(plan))
    if cut is not None:
        return replace(cut, plan=plan, typed=plan)
    if not any(run.way is not None for run in plan.runs):
        return _unlaid(plan)
    rules = rules or plan_rules(plan)
    values = rules.values
    # All that a layout takes from the rules.
    taken = (
        values.tail_m, values.tail_battery_m, values.slack_frac, values.ampacity_table, values.insulation_c,
        values.warmest_c, values.bundle_free_m,
    )  # fmt: skip
    key = (Itself(plan), taken)
    with _LOCK:
        found = _KNOWN.get(key)
    if found is None:
        found = _lay(plan, rules)
        with _LOCK:
            _KNOWN[key] = _KNOWN[Itself(found.plan), taken] = found
    return found


def cut_out(layout: Layout, parts: frozenset[str]) -> Plan:
    """Some parts of a plan with the runs between them, lying where they lie in the whole, beside all that lies there.

    Parameters
    ----------
    layout : Layout
        Of the whole plan.
    parts : frozenset of str
        Ids of the parts; a run has both of its ends among them or none.

    Returns
    -------
    Plan
        Laid out already. What its states and waivers name beyond it means nothing to it.
    """
    whole = layout.plan
    plan = whole.model_copy(
        update={
            "parts": tuple(part for part in whole.parts if part.id in parts),
            "runs": tuple(run for run in whole.runs if run.start.part in parts),
        }
    )
    # By the object and for as long as it lives; the layout kept does not hold it.
    _CUT[id(plan)] = layout
    finalize(plan, _CUT.pop, id(plan), None)
    return plan


def laid_out(plan: Plan, rules: Rules | None = None) -> Plan:
    """The plan with length and neighbours of its runs from their ways; the plan itself where no run follows channels.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    rules : Rules, optional
        In place of its own.

    Returns
    -------
    Plan
        Laid out again it is the very same.
    """
    return layout_of(plan, rules).plan


def _touched(zones: dict[str, Zone], names: tuple[str | None, ...]) -> list[Zone]:
    return [zones[name] for name in names if name is not None]


def _piece(
    channel: str | None, name: str, length_m: float, touched: list[Zone], count: int, rules: Rules, insulation_c: int
) -> Piece:
    around = Surroundings(
        ambient_c=max(zone.ambient_c for zone in touched),
        engine_space=any(zone.engine_space for zone in touched),
        bundle_count=max(1, count),
    )
    table = rules.values.ampacity_table
    found = ampacity(table, _ANY[table], insulation_c, around)
    share = found.zone_factor * found.bundle_factor if found.ampacity_a is not None else 0.0
    if rules.values.warmest_c and insulation_c > around.ambient_c:
        # Warm, not hot: T = Ta + (Trated - Ta) · (I/Iz)², solved for the current at the warmest allowed.
        most_c = max(rules.values.warmest_c, around.ambient_c + _ALWAYS_K)
        share *= min(1.0, math.sqrt((most_c - around.ambient_c) / (insulation_c - around.ambient_c)))
    return Piece(channel, name, length_m, around, share)


def _beside(
    route: Route, run: Run, together: dict[str, int], measured: dict[str, Measured], free_m: float
) -> dict[str, int]:
    """Conductors that warm a run in each channel of its way, itself among them.

    Channels in a row in which it has neighbours are one bundle. One no longer than `free_m` [m] loses its heat at both
    ends, so that only the run's own conductors count there.
    """
    own, found = conductors(run), dict[str, int]()
    for crowded, names in groupby(dict.fromkeys(route.channels), key=lambda name: together[name] > own):
        some = list(names)
        long = sum(measured[name].length_m or 0.0 for name in some) > free_m + 1e-9
        found |= {name: together[name] if crowded and long else own for name in some}
    return found


def _unlaid(plan: Plan) -> Layout:
    lying: dict[str, tuple[Run, ...]] = {channel.id: () for channel in plan.channels}
    return Layout(plan, plan, {}, {}, {}, lying, dict.fromkeys(lying, 0))


def _lay(plan: Plan, rules: Rules) -> Layout:
    routes = find_routes(plan, rules.values)
    lying = in_channels(plan, routes)
    together = counts(plan, lying, routes)
    zones = {zone.id: zone for zone in plan.zones}
    places = {place.id: place for place in plan.places}
    measured = measured_channels(plan)
    channels = {channel.id: channel for channel in plan.channels}
    parts = {part.id: part for part in plan.parts}
    pieces: dict[str, tuple[Piece, ...]] = {}
    worst: dict[str, Piece] = {}
    runs: list[Run] = []
    for run in plan.runs:
        route = routes.get(run.id)
        if route is None:
            runs.append(run)
            continue
        insulation_c = run.insulation_c or rules.values.insulation_c
        found: list[Piece] = []
        ends = ((run.start.part, route.tail_start_m), (run.finish.part, route.tail_finish_m))
        for part_id, length_m in ends:
            place = places.get(parts[part_id].place or "")
            touched = _touched(zones, (place.zone,)) if place is not None else [usual_zone(plan.zones)]
            name = f"at {place.name if place is not None else parts[part_id].name}"
            found.append(_piece(None, name, length_m, touched, conductors(run), rules, insulation_c))
        between = []
        beside = _beside(route, run, together, measured, rules.values.bundle_free_m)
        for name, count in beside.items():
            channel = channels[name]
            own = (channel.zone,) if channel.zone else (places[channel.start].zone, places[channel.finish].zone)
            length_m = measured[name].length_m or 0.0
            between.append(_piece(name, channel.name, length_m, _touched(zones, own), count, rules, insulation_c))
        if run.zone is not None:
            # Said by hand besides: with as many neighbours as it has anywhere on its way.
            most = max([conductors(run), *(one.around.bundle_count for one in between)])
            between.append(_piece(None, zones[run.zone].name, 0.0, [zones[run.zone]], most, rules, insulation_c))
        pieces[run.id] = (found[0], *between, found[1])
        # Of stretches alike the longest is named.
        worst[run.id] = min(pieces[run.id], key=lambda one: (round(one.share, 9), -one.length_m))
        update: dict[str, object] = {
            "length_m": route.length_m,
            "length_guessed": route.guessed,
            "bundle_count": worst[run.id].around.bundle_count,
        }
        if not (run.way is not None and run.way.length_pinned):
            update["length_as_typed"] = None
        runs.append(run.model_copy(update=update))
    return Layout(plan.model_copy(update={"runs": tuple(runs)}), plan, routes, pieces, worst, lying, together)
