"""Resistance of what a current passes besides wire and fuse: contacts, shunts, joints, the body."""

from __future__ import annotations

from lucernis.plan.model import Part, Plan, Switch
from lucernis.practice.tables import load_table


def contact_ohm(part: Part) -> float:
    """Resistance of a part's closed contacts, or of a shunt.

    Parameters
    ----------
    part : Part
        Switch, keyed feed, relay, isolator, diode or shunt; anything else has none. A diode counts as what loses its
        volts at its rated current.

    Returns
    -------
    float
        Resistance. [Ω]

    Notes
    -----
    ``R = U_rated / I_rated``: a shunt by its own figures, contacts by contact_drop.csv.
    """
    if part.kind == "shunt":
        return part.rated_mv / 1000 / part.rated_a
    if part.kind == "diode":
        return part.drop_v / (part.rated_a or float(load_table("contact_drop").find("diode")["usual_rated_a"]))
    if part.kind not in ("switch", "keyed_feed", "relay", "isolator"):
        return 0.0
    kind = part.use if isinstance(part, Switch) else "voltage_sensing" if part.kind == "isolator" else part.kind
    row = load_table("contact_drop").find(kind)
    if part.kind == "isolator" and part.form == "diode":
        return part.diode_v / (part.rated_a or float(row["usual_rated_a"]))
    rated_a = part.contact_a if part.kind == "relay" else part.rated_a
    return float(row["drop_at_rated_mv"]) / 1000 / (rated_a or float(row["usual_rated_a"]))


def _fixed_ohm(joint: str) -> float:
    """A joint that no wire's size changes. [Ω]"""
    return float(load_table("joint_resistance").find(joint)["contact_mohm"]) / 1000


def chassis_point_ohm(plan: Plan) -> float:
    """From a chassis point into the middle of the body: its joint and half of the body between any two. [Ω]"""
    body_ohm = plan.job.vehicle.chassis_ohm or _fixed_ohm("body")
    return _fixed_ohm("chassis") + body_ohm / 2
