"""Where things stand and wires lie: zones of places, and the hottest surroundings of a run."""

from __future__ import annotations

from lucernis.core.circuit.topology import Topology
from lucernis.core.wire.ampacity import Surroundings
from lucernis.plan.model import Battery, Busbar, ChassisPoint, FuseBlock, Plan, Run, Shunt, Zone


def zone_of_places(plan: Plan) -> dict[str | None, Zone]:
    """The zone of every place, and of every zone by its own id."""
    zones: dict[str | None, Zone] = {zone.id: zone for zone in plan.zones}
    return {f"place {place.id}": zones[place.zone] for place in plan.places} | zones


def surroundings(plan: Plan, topology: Topology, run: Run, zones: dict[str | None, Zone]) -> Surroundings:
    """The hottest zone a run touches: its own and those of the places at both ends.

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

    Returns
    -------
    Surroundings
        Ambient [°C], whether any of them is an engine space, conductors in the bundle.
    """
    names = [run.zone, *(f"place {topology.parts[end.part].place}" for end in (run.start, run.finish))]
    touched = [zones[name] for name in names if name in zones] or [plan.zones[0]]
    return Surroundings(
        ambient_c=max(zone.ambient_c for zone in touched),
        engine_space=any(zone.engine_space for zone in touched),
        bundle_count=run.bundle_count,
    )


def is_bond(topology: Topology, run: Run) -> bool:
    """Whether a negative alone joins the system to the body; one that comes from a device is that device's return."""
    if run.legs != "negative":
        return False
    parts = [topology.parts[end.part] for end in (run.start, run.finish)]
    return any(part.kind == "chassis_point" for part in parts) and all(
        isinstance(part, Battery | Busbar | Shunt | FuseBlock | ChassisPoint) for part in parts
    )
