"""Where things stand and wires lie: zones of places, and the hottest surroundings of a run."""

from __future__ import annotations

from lucernis.core.circuit.topology import Topology
from lucernis.core.layout.bundles import is_bond as is_bond_of
from lucernis.core.layout.laid import layout_of
from lucernis.core.wire.ampacity import Surroundings
from lucernis.plan.layout import usual_zone
from lucernis.plan.model import Plan, Run, Zone
from lucernis.practice.rules import Rules


def zone_of_places(plan: Plan) -> dict[str | None, Zone]:
    """The zone of every place, and of every zone by its own id."""
    zones: dict[str | None, Zone] = {zone.id: zone for zone in plan.zones}
    return {f"place {place.id}": zones[place.zone] for place in plan.places} | zones


def surroundings(
    plan: Plan, topology: Topology, run: Run, zones: dict[str | None, Zone], rules: Rules | None = None
) -> Surroundings:
    """Where a run lies: by the worst stretch of its way along channels; by hand the hottest zone it touches, its own
    and those of the places at both ends.

    Parameters
    ----------
    plan : Plan
        Zones and places.
    topology : Topology
        Finds the parts at its ends.
    run : Run
        The run.
    zones : dict
        From `zone_of_places`.
    rules : Rules, optional
        In place of the plan's own.

    Returns
    -------
    Surroundings
        Ambient [°C], whether any of them is an engine space, conductors in the bundle.
    """
    if run.way is not None:
        return layout_of(plan, rules).worst[run.id].around
    names = [run.zone, *(f"place {topology.parts[end.part].place}" for end in (run.start, run.finish))]
    touched = [zones[name] for name in names if name in zones] or [usual_zone(plan.zones)]
    return Surroundings(
        ambient_c=max(zone.ambient_c for zone in touched),
        engine_space=any(zone.engine_space for zone in touched),
        bundle_count=run.bundle_count,
    )


def is_bond(topology: Topology, run: Run) -> bool:
    """Whether a negative alone joins the system to the body; one that comes from a device is that device's return."""
    return is_bond_of(run, topology.parts)
