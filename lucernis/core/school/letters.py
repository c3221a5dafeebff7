"""Letters to plan from: a customer's wishes and a vehicle, and how a plan is graded beside the proposal."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.power.costs import costs_of
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.wishes import Wishes
from lucernis.core.report import Report
from lucernis.core.school.dice import Dice
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.blank import blank_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Battery, Load, Plan
from lucernis.plan.prices import Price
from lucernis.practice.tables import load_table

_VEHICLES = (
    ("a panel van", "steel", "It is empty, steel all round."),
    ("an old caravan", "fibreglass_or_wood", "The body is fibreglass."),
    ("a pickup with a canopy", "steel", "The bank goes behind the seats."),
)
_WHO = ("a baker on tour", "a beekeeper", "two climbers", "a bird counter", "a bagpipe teacher", "a stone mason")
_WANTED = (
    "Compressor fridge",
    "Water pump",
    "Ceiling lamp",
    "Reading lamp",
    "Roof fan",
    "USB socket",
    "Laptop charger",
    "Air heater on diesel",
    "Phone charger",
    "Router",
    "Radio",
)
_SETS = ("small_craft_us", "metric_caravan", "overland_bs", "vehicle_accessory")
# Of 100: nothing that must not be built, nothing to mend, all that was asked for, it lasts, copper, cost, craft.
_STOPS, _FIXES, _ASKED, _LASTS, _COPPER, _COST, _CRAFT = 30.0, 15.0, 20.0, 15.0, 5.0, 5.0, 10.0
NO_PRICES: Mapping[str, Price] = {}
_PER_STOP, _PER_FIX, _PER_LOOK = 10.0, 3.0, 1.0


@dataclass(frozen=True, slots=True)
class Wanted:
    """A device that is asked for. [W, h]"""

    name: str
    power_w: float
    hours: float
    count: int


@dataclass(frozen=True, slots=True)
class Letter:
    """What a customer writes."""

    seed: int
    level: int
    practice: str
    body: str
    text: str
    wanted: tuple[Wanted, ...]
    days: float


def letter(seed: int, level: int, practice: str) -> Letter:
    """A letter by its seed and level.

    Parameters
    ----------
    seed : int
        Which, >= 0.
    level : int
        1 to 4: three to nine devices.
    practice : str
        Practice set it is to be planned by.

    Returns
    -------
    Letter
        The same every time.
    """
    dice = Dice(seed, level, 4)
    vehicle, body, about = dice.one_of(_VEHICLES)
    who = dice.one_of(_WHO)
    rows = [
        row
        for row in load_table("consumers").rows
        if row["device"] != "inverter" and float(row["usual_w"]) < 150 and row["keyed"] == "no"
    ]
    known = [row for row in rows if row["name"] in _WANTED] or rows
    others = [row for row in rows if row not in known]
    chosen = dice.some_of(known, 2 + level) + dice.some_of(others, level)
    wanted = tuple(
        Wanted(
            row["name"],
            float(row["usual_w"]),
            float(row["hours"]),
            dice.one_of([1, 1, 2]) if "lamp" in row["name"].lower() else 1,
        )
        for row in chosen
    )
    days = float(dice.one_of([1, 2, 3]))
    lines = [
        f"{('' if one.count == 1 else f'{one.count} × ')}{one.name.lower()} ({one.power_w:g} W, {one.hours:g} h a day)"
        for one in wanted
    ]
    text = (
        f"We are {who} and have {vehicle}. {about} We would like: {', '.join(lines)}. It should last {days:g} days "
        f"without driving. We do not want to think about it again."
    )
    return Letter(seed, level, practice if practice in _SETS else "metric_caravan", body, text, wanted, days)


def start_of(made: Letter) -> dict[str, Any]:
    """The document a learner begins with: the vehicle, and what a new plan has."""
    plan = blank_plan(
        f"Letter {made.seed}",
        practice_set=made.practice,
        body="steel" if made.body == "steel" else "fibreglass_or_wood",
    )
    doc = plan_document(plan)
    doc["job"]["note"] = made.text[:500]
    doc.setdefault("energy", {})["days"] = made.days
    return doc


def proposal_of(made: Letter) -> Plan:
    """What the program proposes for the same letter."""
    doc = start_of(made)
    for at, one in enumerate(made.wanted, start=1):
        doc["parts"].append(
            {
                "kind": "load",
                "id": f"l{at}",
                "tag": f"L{at:02d}",
                "name": one.name,
                "power_w": one.power_w,
                "hours_per_day": one.hours,
                "count": one.count,
            }
        )
    return propose(parse_plan(doc), Wishes(days=made.days))[0]


@dataclass(slots=True)
class LetterLine:
    """One line of the comparison: the learner's figure and the proposal's."""

    name: str
    yours: str
    proposed: str
    points: float
    most: float


@dataclass(slots=True)
class LetterGrade:
    """A plan graded, of 100, line by line beside the proposal; what of the letter is missing."""

    points: float
    lines: list[LetterLine]
    missing: list[str]


def _asked(made: Letter, plan: Plan) -> list[str]:
    """Devices of the letter the plan has no load for: by watts within a fifth, or by name."""
    have = Counter[str]()
    loads = [part for part in plan.parts if isinstance(part, Load)]
    missing = []
    used: set[str] = set()
    for one in made.wanted:
        match = next(
            (
                load
                for load in loads
                if load.id not in used
                and (
                    one.name.lower() in load.name.lower()
                    or abs((load.power_w or 0.0) - one.power_w) <= 0.2 * one.power_w
                )
            ),
            None,
        )
        if match is None:
            missing.append(one.name)
        else:
            used.add(match.id)
            have[one.name] += 1
    return missing


def _days(plan: Plan, report: Report) -> float:
    """How long the house batteries last by what is planned to be used of them. [d]"""
    table = load_table("battery_chemistry")
    usable = sum(
        part.capacity_ah * float(table.find(part.chemistry)["usable"])
        for part in plan.parts
        if isinstance(part, Battery) and part.use == "house"
    )
    return usable / report.summary.ah_per_day if report.summary.ah_per_day > 0 else 0.0


def grade_letter(made: Letter, plan: Plan, prices: Mapping[str, Price] = NO_PRICES) -> LetterGrade:
    """Grade a plan beside the proposal.

    Parameters
    ----------
    made : Letter
        What was asked.
    plan : Plan
        What the learner planned.
    prices : Mapping
        The workshop's price list; without one the cost is as good as the copper.

    Returns
    -------
    LetterGrade
        30 for stops, 15 for fixes, 20 for what was asked, 15 for lasting, 5 for copper, 5 for cost, 10 for looks.
    """
    proposed = proposal_of(made)
    mine, theirs = evaluate(plan, with_working=False), evaluate(proposed, with_working=False)
    missing = _asked(made, plan)
    days, their_days = _days(plan, mine), _days(proposed, theirs)
    fed = mine.summary.ah_per_day > 0
    share = 1 - len(missing) / len(made.wanted)
    copper, their_copper = mine.summary.copper_kg, theirs.summary.copper_kg
    more = max(0, mine.summary.open_look - theirs.summary.open_look)
    leaner = min(1.0, their_copper / copper) * share if copper > 0 else 0.0
    cost, their_cost = (costs_of(one, sized_plan(one), prices).total for one in (plan, proposed))
    cheaper = min(1.0, their_cost / cost) * share if cost > 0 else leaner
    stops, fixes, looks = mine.summary.open_stop, mine.summary.open_fix, mine.summary.open_look
    lines = [
        LetterLine(
            "Stops", str(stops), str(theirs.summary.open_stop), max(0.0, _STOPS - _PER_STOP * stops) * fed, _STOPS
        ),
        LetterLine(
            "Fixes", str(fixes), str(theirs.summary.open_fix), max(0.0, _FIXES - _PER_FIX * fixes) * fed, _FIXES
        ),
        LetterLine(
            "Asked for",
            f"{len(made.wanted) - len(missing)} of {len(made.wanted)}",
            f"{len(made.wanted)}",
            _ASKED * share,
            _ASKED,
        ),
        LetterLine(
            "Days without charging",
            f"{days:.1f}",
            f"{their_days:.1f}",
            _LASTS * min(1.0, days / made.days) * share,
            _LASTS,
        ),
        LetterLine(
            "Copper",
            f"{copper:.1f} kg",
            f"{their_copper:.1f} kg",
            _COPPER * leaner,
            _COPPER,
        ),
        LetterLine(
            "Cost", f"{cost:.0f}" if cost else "–", f"{their_cost:.0f}" if cost else "–", _COST * cheaper, _COST
        ),
        LetterLine(
            "Looks", str(looks), str(theirs.summary.open_look), max(0.0, _CRAFT - _PER_LOOK * more) * fed, _CRAFT
        ),
    ]
    for one in lines:
        one.points = round(one.points, 1)
    return LetterGrade(round(sum(one.points for one in lines), 1), lines, missing)
