"""The steps of a proposal. Each looks at the plan as it stands, changes one thing, and says why; or has nothing to do.

The spine comes behind the bank, so that everything finds its place behind the switch. Mends come last.
"""

from __future__ import annotations

from collections.abc import Callable

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.proposals.bank import make_bank
from lucernis.core.proposals.begin import begin
from lucernis.core.proposals.charging_steps import link_engine, put_shore
from lucernis.core.proposals.day import lay_out_day
from lucernis.core.proposals.spine import Outcome, blocks_near_loads, document_part, main_bars, put_spine, tidy_block
from lucernis.core.proposals.sun import put_sun, tell_energy
from lucernis.core.proposals.ways import follow_ways, put_spares
from lucernis.core.proposals.wishes import Wishes, next_unit
from lucernis.core.report import Finding, every
from lucernis.errors import LucernisError
from lucernis.plan.ac_side import ac_need
from lucernis.plan.document import check_plan, parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import FeedPart
from lucernis.plan.model import Load, Plan

Maker = Callable[[Plan, Wishes], Outcome | None]
# How far the bond stands from the bars; what an inverter may give above what is plugged in, so that it does not run at
# its end. Common practice, no source.
_BOND_M = "0.6 m"
_AT_BAR_M = 0.1
_INVERTER_ROOM = 1.1


def set_volts(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Nominal voltage."""
    if plan.nominal_v == wishes.nominal_v:
        return None
    doc = plan_document(plan)
    doc["nominal_v"] = wishes.nominal_v
    for part in doc["parts"]:
        if part["kind"] == "battery" and part["use"] == "starter":
            part["rated_v"] = 12
        elif part["kind"] == "battery":
            part["rated_v"] = None
        if part["kind"] == "charger" and part["form"] == "dcdc":
            part["in_nominal_v"] = 12
        if part["kind"] == "load" and part["rated_v"] is None and part["current_a"] is not None:
            # Amps typed at the old volts stay the same watts.
            part["power_w"], part["current_a"] = part["current_a"] * plan.nominal_v, None
        if part["kind"] == "load":
            scale = wishes.nominal_v / plan.nominal_v
            for name in ("min_v", "rated_v"):
                if part[name] is not None:
                    part[name] = part[name] * scale
    return parse_plan(doc), (
        f"{wishes.nominal_v} V in place of {plan.nominal_v} V: half the current for the same watts at 24 V, so thinner "
        "wire; every device must be made for it."
    )


def rate_inverter(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Ratings for inverters that have none."""
    doc, said = plan_document(plan), []
    for load in plan.parts:
        if not isinstance(load, Load) or load.device != "inverter" or load.inverter is not None or not load.power_w:
            continue
        wanted_w = load.power_w * _INVERTER_ROOM
        if load.ac:
            # Half of what starts: usual inverters give twice their power for a moment.
            wanted_w = max(wanted_w, ac_need(load.ac).surge_w / 2)
        unit = next_unit("inverter", wanted_w)
        part = document_part(doc, load.id)
        part["inverter"] = dict(unit.fields)
        part["behaviour"], part["count"], part["rated_v"] = "constant_power", 1, None
        said.append(f"{load.name}: {unit.size:g} W for {load.power_w:g} W in use, so that it does not run at its end")
    return (parse_plan(doc), ". ".join(said) + ".") if said else None


def put_ground(plan: Plan, wishes: Wishes) -> Outcome | None:
    """One bond to the body, where there is metal to bond to."""
    target = main_bars(plan)
    bonded = any(part.kind == "chassis_point" for part in plan.parts)
    if target is None or bonded or plan.job.vehicle.body not in ("steel", "aluminium"):
        return None
    edit = FeedPart(
        op="feed_part",
        part={"kind": "chassis_point", "name": "Body bond", "sealed": True},
        fed_from=target,
        length=_BOND_M,
        legs="negative",
    )
    return apply_edits(plan, [edit]), (
        "One bond from the negative bar to clean bare metal, tinned lug and a seal over it, as thick as the largest "
        "positive: a wire that touches the body then blows its fuse."
    )


def _open(plan: Plan) -> list[Finding]:
    return [one for one in evaluate(plan, with_working=False).findings if one.waived is None and one.severity != "look"]


def mend(plan: Plan, wishes: Wishes) -> Outcome | None:
    """What the checks still stop or want fixed and an edit mends."""
    said: list[str] = []
    left = _open(plan)
    # Each round tries one kind of mend for every finding it would help; a round that helps nobody tries the next one.
    for choice in (0, 0, 1, 0, 2):
        mended = plan
        labels = []
        for one in left:
            if len(one.fixes) > choice:
                try:
                    mended = apply_edits(mended, one.fixes[choice].edits)
                    labels.append(one.fixes[choice].label)
                except LucernisError:
                    # An earlier mend of this round has taken away what this one would change.
                    continue
        if not labels:
            continue
        after = _open(mended)
        if len(after) < len(left):
            plan, left = mended, after
            said += labels
        if not left:
            break
    if not said:
        return None
    return check_plan(plan), "What the checks found in all this, mended: " + "; ".join(dict.fromkeys(said)) + "."


_STARVED = {"drop-out-of-reach", "drop-over-limit", "load-under-voltage", "load-collapse"}


def _starved(plan: Plan) -> list[str]:
    """Loads that lose more than they may, by what the checks want fixed."""
    found = [one.subject for one in every(_open(plan)) if one.code in _STARVED and one.severity != "look"]
    return list(dict.fromkeys(found))


def straight_from_bars(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A wire of its own from the bars for a load that cannot keep its limit from its block."""
    bars, said = main_bars(plan), list[str]()
    for name in _starved(plan):
        doc = plan_document(plan)
        kinds = {part["id"]: part["kind"] for part in doc["parts"]}
        run = next((one for one in doc["runs"] if one["finish"]["part"] == name), None)
        if bars is None or run is None or kinds.get(bars) != "busbar" or kinds[run["start"]["part"]] != "fuse_block":
            continue
        block = run["start"]["part"]
        feeder = next(
            (one for one in doc["runs"] if one["finish"]["part"] == block and one["legs"] != "negative"), None
        )
        length_m = run["length_m"] + (feeder["length_m"] if feeder is not None else 0.0)
        run["start"] = {"part": bars, "way": None, "terminal": None}
        run |= {
            "fuse_at_start": {"distance_m": min(_AT_BAR_M, length_m)},
            "length_m": round(length_m, 3),
            "length_as_typed": None,
            "length_guessed": True,
        }
        moved = tidy_block(parse_plan(doc), block)
        if len(_open(moved)) < len(_open(plan)):
            label = next(part["name"] for part in doc["parts"] if part["id"] == name)
            said.append(label)
            plan = moved
    if not said:
        return None
    return plan, (
        f"{', '.join(said)}: too far from the block for what may be lost, so straight from the bars by its own wire."
    )


STEPS: dict[str, tuple[str, Maker]] = {
    "begin": ("Battery and circuits to begin with", begin),
    "volts": ("Nominal voltage", set_volts),
    "inverter": ("Inverter", rate_inverter),
    "bank": ("Bank", make_bank),
    "bars": ("Main fuse, switch and bars", put_spine),
    "blocks": ("Blocks near the loads", blocks_near_loads),
    "link": ("Charging while driving", link_engine),
    "sun": ("Sun", put_sun),
    "shore": ("Shore", put_shore),
    "ground": ("Ground", put_ground),
    "day": ("Course of the day", lay_out_day),
    "energy": ("A fair week", tell_energy),
    "spares": ("Spares where walls close", put_spares),
    "ways": ("Along the channels", follow_ways),
    "straight": ("Straight from the bars", straight_from_bars),
    "mends": ("Wire, fuses and mends", mend),
}
