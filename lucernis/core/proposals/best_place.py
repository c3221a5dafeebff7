"""Where a block, a battery or a charger would stand best: every place that may hold it, tried."""

from __future__ import annotations

from dataclasses import dataclass, replace

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.layout.laid import laid_out, layout_of
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.wire.copper import COPPER_KG_PER_M3
from lucernis.errors import UnknownRow
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import FollowChannels, SetFields
from lucernis.plan.model import Battery, Part, Place, Plan
from lucernis.plan.units import told_length

KINDS = ("fuse_block", "battery", "charger", "busbar", "switch")
_BEST = 3
# A metre more of way is a metre more to pull, hold and close up; a look is worth a walk. In kilograms of copper they
# are worth about so much: common practice, no source.
_METRE_KG, _LOOK_KG = 0.1, 0.2
# So many places are reckoned through, those first that would cost least with today's sizes; more only while fewer than
# three of them do without a stop that is not there now.
_TRIED = 7


@dataclass(frozen=True, slots=True)
class PlaceOption:
    """A place for a part: what the whole plan comes to with it there, and what it takes to move it. Runs at the part
    in metres, one way."""

    place: str
    name: str
    here: bool
    copper_kg: float
    worst_drop_frac: float
    longest_m: float
    runs_m: float
    stop: int
    fix: int
    look: int
    why: str
    edits: list[SetFields | FollowChannels]


@dataclass(frozen=True, slots=True)
class BestPlaces:
    """The best places, best first, where it stands now among them or after them; how many were reckoned through, how
    many were left out because they lie too far off, and which could not hold it."""

    options: list[PlaceOption]
    tried: int
    left_out: int
    refused: list[str]


def _refusal(plan: Plan, part: Part, place: Place) -> str:
    zone = next(one for one in plan.zones if one.id == place.zone)
    if place.reach == "closed":
        return f"{place.name}: behind a wall that stays closed"
    if isinstance(part, Battery) and zone.vapour:
        return f"{place.name}: vapour can gather there"
    if part.kind == "charger" and place.airy is False:
        return f"{place.name}: no room or air around it"
    return ""


@dataclass(frozen=True, slots=True)
class _Moved:
    """The plan with the part in another place, and what its runs would cost with today's sizes. [kg]"""

    place: Place
    plan: Plan
    edits: list[SetFields | FollowChannels]
    lengths_m: list[float]
    like_now_kg: float


def _moved(plan: Plan, part: Part, place: Place, kg_per_m: dict[str, float]) -> _Moved | str:
    edits: list[SetFields | FollowChannels] = []
    if place.id != part.place:
        edits = [
            SetFields(op="set_fields", subject=part.id, values={"place": place.id}),
            FollowChannels(op="follow_channels", runs=list(kg_per_m)),
        ]
    moved = apply_edits(plan, list(edits)) if edits else plan
    routes = layout_of(moved).routes
    lost = next((routes[one].missing for one in kg_per_m if one in routes and routes[one].missing), "")
    if lost:
        return f"{place.name}: {lost}"
    lengths = {run.id: run.length_m for run in laid_out(moved).runs if run.id in kg_per_m}
    like_now_kg = sum(length_m * (kg_per_m[name] + _METRE_KG) for name, length_m in lengths.items())
    return _Moved(place, moved, edits, list(lengths.values()), like_now_kg)


def _option(part: Part, moved: _Moved) -> PlaceOption:
    summary = evaluate(moved.plan, with_working=False).summary
    place, lengths = moved.place, moved.lengths_m
    return PlaceOption(
        place=place.id,
        name=place.name,
        here=place.id == part.place,
        copper_kg=summary.copper_kg,
        worst_drop_frac=summary.worst_drop_frac.value,
        longest_m=max(lengths, default=0.0),
        runs_m=sum(lengths),
        stop=summary.open_stop,
        fix=summary.open_fix,
        look=summary.open_look,
        why="",
        edits=moved.edits,
    )


def _worth_kg(option: PlaceOption) -> float:
    """Copper, and what else a place costs as copper. [kg]"""
    return option.copper_kg + _METRE_KG * option.runs_m + _LOOK_KG * option.look


def _why(plan: Plan, option: PlaceOption, now: PlaceOption) -> str:
    if option.here:
        return "where it stands"
    copper_kg, metres = option.copper_kg - now.copper_kg, option.runs_m - now.runs_m
    said = [f"{abs(copper_kg):.1f} kg of copper {'less' if copper_kg < 0 else 'more'}"]
    said.append(f"{told_length(abs(metres), plan.units)} of way {'less' if metres < 0 else 'more'}")
    worse = (option.stop - now.stop, option.fix - now.fix)
    for count, word in zip(worse, ("stop", "fix"), strict=True):
        if count:
            said.append(f"{abs(count)} {word if abs(count) == 1 else {'stop': 'stops', 'fix': 'fixes'}[word]} "
                        f"{'more' if count > 0 else 'less'}")  # fmt: skip
    return ", ".join(said)


def best_places(plan: Plan, part_id: str) -> BestPlaces:
    """The places at which a part makes the best plan.

    Parameters
    ----------
    plan : Plan
        The plan; runs at the part are taken to follow the channels wherever it goes.
    part_id : str
        A fuse block, battery, charger, bar or switch.

    Returns
    -------
    BestPlaces
        Three places by stops, then fixes, then copper with the metres of way and the looks; and where it stands now.
        Places far off, by what they would cost with today's sizes, are left out where there are many.

    Raises
    ------
    UnknownRow
        If there is no such part.
    """
    part = next((one for one in plan.parts if one.id == part_id and one.kind in KINDS), None)
    if part is None:
        raise UnknownRow(f"no such part {part_id!r}", field="part", value=part_id, allowed=", ".join(KINDS))
    touching = {run.id for run in plan.runs if part_id in (run.start.part, run.finish.part)}
    sized, lengths = sized_plan(plan), {run.id: run.length_m for run in laid_out(plan).runs}
    kg_per_m = {
        name: sized.chosen[name].copper_mm2_m / lengths[name] * 1e-6 * COPPER_KG_PER_M3 for name in sorted(touching)
    }
    refused: list[str] = []
    waiting: list[_Moved] = []
    for place in plan.places:
        refusal = "" if place.id == part.place else _refusal(plan, part, place)
        found = refusal or _moved(plan, part, place, kg_per_m)
        if isinstance(found, str):
            refused.append(found)
        else:
            waiting.append(found)
    # Where it stands now comes first: the others are told beside it.
    waiting.sort(key=lambda one: (one.place.id != part.place, one.like_now_kg))
    options: list[PlaceOption] = []
    for one in waiting:
        without = sum(option.stop <= options[0].stop for option in options)
        if len(options) >= _TRIED and without >= _BEST:
            break
        options.append(_option(part, one))
    ranked = sorted(options, key=lambda one: (one.stop, one.fix, round(_worth_kg(one), 3), not one.here))
    now = next((one for one in ranked if one.here), None)
    best = ranked[:_BEST]
    if now is not None and now not in best:
        best.append(now)
    told = [replace(one, why=_why(plan, one, now or one)) for one in best]
    return BestPlaces(told, len(options), len(waiting) - len(options), refused)
