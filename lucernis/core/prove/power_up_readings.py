"""What the meter says at the first power-up: nothing draws, so every point stands at the rest of its battery."""

from __future__ import annotations

from lucernis.core.build.losses import Loss, losses
from lucernis.core.build.order import Order
from lucernis.core.circuit.sources import alternator_v
from lucernis.core.circuit.terminals import feed_point
from lucernis.core.harness.harness import harness_of
from lucernis.core.layout.laid import laid_out
from lucernis.core.prove.expect import foresee
from lucernis.core.prove.frame import frame
from lucernis.core.prove.judge import Expected
from lucernis.core.prove.living import live
from lucernis.core.sizing.fusing import fuse_run
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.model import Battery, Charger, Plan
from lucernis.plan.terminals import Side
from lucernis.practice.tables import load_table

# A hand meter's own share and its last digits. Common practice, no source.
_METER_FRAC = 0.005
_METER_V = 0.02


def _with_meter(low_v: float, high_v: float, why: str) -> Expected:
    return Expected(low_v * (1 - _METER_FRAC) - _METER_V, high_v * (1 + _METER_FRAC) + _METER_V, "V", why)


def resting(battery: Battery, nominal_v: float) -> Expected:
    """What a battery reads that has stood without load, half to full.

    Parameters
    ----------
    battery : Battery
        The part.
    nominal_v : float
        Of the plan, where the battery states none. [V]

    Returns
    -------
    Expected
        By chemistry, battery_chemistry.csv (practice), with the meter's own error.
    """
    row = load_table("battery_chemistry").find(battery.chemistry)
    blocks = (battery.rated_v or nominal_v) / 12
    why = f"{battery.name} at rest, half to full; one that was charged in the last hours stands higher"
    return _with_meter(float(row["ocv_50"]) * blocks, float(row["ocv_100"]) * blocks, why)


def _charging(battery: Battery, nominal_v: float) -> Expected:
    row = load_table("battery_chemistry").find(battery.chemistry)
    blocks = (battery.rated_v or nominal_v) / 12
    why = f"{battery.name} while it is charged: above its rest, at most what its chemistry takes"
    return _with_meter(float(row["ocv_75"]) * blocks, float(row["absorb_v"]) * blocks, why)


def _lost(plan: Plan, loss: Loss, source: str, state_id: str) -> Expected | None:
    """What is lost to a load on the way from its battery, by the solve for reading; its band is that of both readings
    together."""
    made = frame(plan)
    situation = made.situations.get(f"state:{state_id}")
    if situation is None:
        return None
    readings = [made.volts(f"+{one}", f"-{one}", part=one) for one in (source, loss.load)]
    foreseen = foresee(live(made, situation), readings)
    volts = float(foreseen.value[0] - foreseen.value[1])
    # What moves both together, as the volts of the battery, is no part of what lies between.
    apart = float(((foreseen.slope[0] - foreseen.slope[1]) ** 2).sum()) ** 0.5
    half = 2 * (apart**2 + 2 * _METER_V**2) ** 0.5
    why = f"{loss.name} draws some {loss.amps:.1f} A then; more is a bad joint or a longer way, less a load that is off"
    return Expected(max(0.0, volts - half), volts + half, "V", why)


def power_up_readings(plan: Plan, order: Order) -> dict[str, Expected]:
    """What to read at the steps of the first power-up.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    order : Order
        Its order of work.

    Returns
    -------
    dict of str to Expected
        By id of the step; those without a reading, or behind no battery, are left out.
    """
    plan = laid_out(plan)
    sized = sized_plan(plan)
    topology = sized.topology
    batteries = {part.id: part for part in plan.parts if isinstance(part, Battery)}
    house = next((one for one in batteries.values() if one.use == "house"), None)
    starter = next((one for one in batteries.values() if one.use == "starter"), None)
    nominal_v = float(plan.nominal_v)
    chargers = {part.id: part for part in plan.parts if isinstance(part, Charger)}

    def behind(part_id: str) -> Battery | None:
        """The battery a part hangs on."""
        roots = {topology.root_of[name] for name in topology.root_of if name.partition(":")[0] == part_id}
        return batteries.get(next(iter(sorted(roots)), ""))

    # As fed: the fuse that goes by its run's id stands at the start.
    runs = {run.id: run for run in harness_of(plan).plan.runs}
    found: dict[str, Expected] = {}
    for step in order.power_up:
        if not step.reading or not step.id.startswith("power:"):
            continue
        kind, _, rest = step.id.removeprefix("power:").partition(":")
        battery: Battery | None = None
        if kind == "rest":
            battery = batteries[rest]
        elif kind == "switch":
            battery = behind(rest)
        elif kind == "fuse":
            # Read at the far end from the fuse.
            run = runs[fuse_run(rest)]
            side: Side = "finish" if rest == run.id else "start"
            end = run.finish if rest == run.id else run.start
            battery = batteries.get(topology.root_of.get(feed_point(topology.parts[end.part], end, side), ""))
        elif kind == "keyed":
            battery = behind(rest) or starter or house
        elif kind == "charge":
            charged = house or starter
            if charged is not None:
                found[step.id] = _charging(charged, nominal_v)
            if chargers[rest].form == "dcdc" and starter is not None and charged is starter:
                volts = alternator_v(plan, float(starter.rated_v or nominal_v))
                found[step.id] = _with_meter(volts - 0.3, volts + 0.3, "what the alternator holds")
            continue
        if kind == "load" and step.reading:
            worst = losses(plan, sized)[0]
            most = max(sized.states.values(), key=lambda one: one.source_a)
            lost = _lost(plan, worst, topology.root_of[worst.load], most.state_id)
            if lost is not None:
                found[step.id] = lost
        if battery is not None:
            found[step.id] = resting(battery, nominal_v)
    return found
