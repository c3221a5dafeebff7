"""A new plan with enough in it to start typing loads: a battery, a main fuse, a feeder and one fuse block."""

from __future__ import annotations

from lucernis.plan.document import check_plan
from lucernis.plan.model import (
    Battery,
    Body,
    End,
    Fuse,
    FuseBlock,
    Job,
    Place,
    Plan,
    Practice,
    Run,
    State,
    Vehicle,
    Zone,
)
from lucernis.plan.units import Preference

_UNITS: dict[str, Preference] = {"small_craft_us": "us", "vehicle_accessory": "us", "overland_bs": "metric_bs"}


def blank_plan(name: str, *, practice_set: str, body: Body = "steel") -> Plan:
    """A plan to begin with.

    Parameters
    ----------
    name : str
        Name of the job.
    practice_set : str
        A shipped practice set.
    body : str
        Body of the vehicle.

    Returns
    -------
    Plan
        Valid, without loads.

    Raises
    ------
    BadDocument
        If the practice set is not known.
    """
    return check_plan(
        Plan(
            job=Job(name=name, vehicle=Vehicle(body=body)),
            units=_UNITS.get(practice_set, "metric"),
            practice=Practice(set=practice_set),
            zones=(
                Zone(id="living", name="Living space", ambient_c=30),
                Zone(id="engine", name="Engine bay", ambient_c=50, engine_space=True),
                Zone(id="roof", name="Roof and ceiling void", ambient_c=45),
            ),
            places=(
                Place(id="store", name="Battery locker", zone="living"),
                Place(id="panel", name="Fuse panel", zone="living"),
            ),
            parts=(
                Battery(id="b1", name="House battery", tag="B01", place="store"),
                FuseBlock(id="f1", name="House block", tag="F01", place="panel"),
            ),
            runs=(
                Run(
                    id="r1",
                    tag="C01",
                    name="Main feed",
                    start=End(part="b1"),
                    finish=End(part="f1"),
                    length_m=1.5,
                    fuse_at_start=Fuse(distance_m=0.1),
                ),
            ),
            states=(
                State(id="all_on", name="Everything on"),
                State(id="key_off", name="Parked, key off", key_on=False),
            ),
        )
    )
