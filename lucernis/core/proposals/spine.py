"""The spine of a system: post, main fuse, one switch, bars, and everything that draws or charges behind that switch."""

from __future__ import annotations

import math
from typing import Any, Literal

from lucernis.core.checks.distribution import FAR_M
from lucernis.core.circuit.batteries import house_batteries, strings_of
from lucernis.core.circuit.loads import load_figures
from lucernis.core.proposals.wishes import Wishes
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits, next_id
from lucernis.plan.edits.desk import next_tag
from lucernis.plan.edits.operations import DeletePart, InsertPart, ShareFeeder
from lucernis.plan.model import Busbar, FuseBlock, Load, Plan, Run, Switch

Outcome = tuple[Plan, str]
Document = dict[str, Any]
# How far switch and bars stand from the battery, and the fuse from where it starts. Common practice, no source.
_SWITCH_M, _BARS_M, _FUSE_M, _INVERTER_M = 0.4, 0.3, 0.1, 1.2
# A device above this hangs on the bars: a blade way is not made for more. A block serves so many devices, so that a
# fifth of its ways stays free; sizes that blocks are made in. Common practice, no source.
_WAY_A = 20.0
_ON_A_BLOCK = 9
_BLOCK_WAYS = (6, 12)
_BAR_RATINGS_A = (300.0, 600.0)
_SPARE_STUDS = 5
# A main fuse for less breaks what a lead bank drives without being of class T; what the thickest usual cable carries
# with its fuse behind it. Common practice, no source.
_PLAIN_MAIN_A, _TRUNK_A = 100.0, 320.0


def document_part(doc: Document, part_id: str) -> Document:
    """A part of a document by id."""
    found: Document = next(one for one in doc["parts"] if one["id"] == part_id)
    return found


def bank_bars(plan: Plan) -> set[str]:
    """Bars that strings of the bank meet on, before the switch."""
    house = {one.id for one in house_batteries(plan)}
    bars = {part.id for part in plan.parts if isinstance(part, Busbar)}
    found = set()
    for bar in bars:
        joined = {
            end for run in plan.runs if bar in (ends := {run.start.part, run.finish.part}) for end in ends & house
        }
        if len(joined) > 1:
            found.add(bar)
    return found


def main_bars(plan: Plan) -> str | None:
    """Where things hang: bars that are not the bank's own, else those, else the first house battery."""
    own = bank_bars(plan)
    bars = [part.id for part in plan.parts if isinstance(part, Busbar) and part.bars == "both"]
    house = house_batteries(plan)
    behind = [one for one in bars if one not in own]
    return next(iter(behind or bars or [one.id for one in house]), None)


def _posts(plan: Plan) -> tuple[str, str] | None:
    """Parts the positive and the negative of the bank leave from."""
    strings = strings_of(plan)
    if not strings:
        return None
    bars = sorted(bank_bars(plan))
    return (bars[0], bars[0]) if bars else (strings[0][0].id, strings[0][-1].id)


def _before_switch(plan: Plan) -> set[str]:
    """Batteries of the bank and their own bars."""
    return {one.id for one in house_batteries(plan)} | bank_bars(plan)


def _hung_before(plan: Plan, sources: set[str], stays: set[str]) -> list[Run]:
    """Runs that leave the bank itself for something else than the switch, those to what stays live left out."""
    kinds = {part.id: part for part in plan.parts}
    found = []
    for run in plan.runs:
        ends = {run.start.part, run.finish.part}
        other = ends - sources
        if len(ends & sources) != 1 or not other or run.legs == "series":
            continue
        part = kinds[next(iter(other))]
        if part.kind in ("shunt", "joint") or (isinstance(part, Switch) and part.use == "isolator") or part.id in stays:
            continue
        found.append(run)
    return found


def _expected_a(plan: Plan) -> float:
    """What the trunk may carry, everything on, inverters at their rating. [A]"""
    total = 0.0
    for part in plan.parts:
        if isinstance(part, Load):
            total += load_figures(part, nominal_v=float(plan.nominal_v), school="lowest").peak_a
    return total


def _rating_a(amps: float) -> float:
    return next((one for one in _BAR_RATINGS_A if one >= amps), _BAR_RATINGS_A[-1])


class Builder:
    """Adds parts and runs to a document."""

    def __init__(self, plan: Plan) -> None:
        self.doc = plan_document(plan)

    def part(self, prefix: str, tag: str, fields: Document) -> str:
        name = next_id([one["id"] for one in self.doc["parts"]], prefix)
        self.doc["parts"].append(fields | {"id": name, "tag": next_tag([one["tag"] for one in self.doc["parts"]], tag)})
        return name

    def run(self, start: str, finish: str, length_m: float, **fields: Any) -> Document:
        made: Document = {
            "id": next_id([one["id"] for one in self.doc["runs"]], "r"),
            "tag": next_tag([one["tag"] for one in self.doc["runs"]], "C"),
            "start": {"part": start},
            "finish": {"part": finish},
            "length_m": length_m,
            "length_guessed": True,
        } | fields
        self.doc["runs"].append(made)
        return made


def _fuse(length_m: float, **fields: Any) -> Document:
    return {"distance_m": min(_FUSE_M, length_m)} | fields


def put_spine(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Main fuse, isolating switch and bars, and everything on them; what is named as always live before the switch."""
    posts = _posts(plan)
    if posts is None:
        return None
    stays = {part.id for part in plan.parts if isinstance(part, Load) and part.stays_live}
    isolator = next((part.id for part in plan.parts if isinstance(part, Switch) and part.use == "isolator"), None)
    sources = _before_switch(plan)
    own_bars = bank_bars(plan)
    pairs = [part.id for part in plan.parts if isinstance(part, Busbar) and part.bars == "both"]
    bars = next((one for one in pairs if one not in own_bars), None)
    hung = _hung_before(plan, sources, stays)
    if isolator is not None and (bars is None or not hung):
        return None
    if isolator is None and any(part.kind == "shunt" for part in plan.parts):
        return plan, "A shunt stands in the negative already: put switch and bars behind it by hand, then ask again."
    trunk = next((run for run in hung if bars in (run.start.part, run.finish.part) and run.legs == "both"), None)
    if isolator is None and trunk is not None:
        plan = _switched(plan, trunk)
        isolator = plan.parts[-1].id
        hung = [run for run in hung if run.id != trunk.id]
    build = Builder(plan)
    place = document_part(build.doc, posts[0])["place"]
    if isolator is None:
        amps = max(60.0, 1.3 * _expected_a(plan))
        rating = _rating_a(amps)
        isolator = build.part(
            "s",
            "S",
            {"kind": "switch", "use": "isolator", "name": "Isolating switch", "place": place, "rated_a": rating,
             "short_time_a": 4 * rating},
        )  # fmt: skip
        if bars is None:
            bars = build.part(
                "u",
                "U",
                {"kind": "busbar", "name": "Main bars", "place": place, "rated_a": rating,
                 "studs": min(40, max(8, len(hung) + _SPARE_STUDS))},
            )  # fmt: skip
        # A main fuse at the bank's own bars does not stand at a battery: what it must break has to be said.
        family = "class_t" if wishes.chemistry == "lfp" or amps > _PLAIN_MAIN_A else "anl"
        fuse = _fuse(_SWITCH_M, **({"family": family} if posts[0] in own_bars else {}))
        first = _live_stud(build, posts[0], stays, fuse, place)
        if posts[0] == posts[1]:
            build.run(first, isolator, _SWITCH_M, fuse_at_start=None if first != posts[0] else fuse)
            build.run(isolator, bars, _BARS_M)
        else:
            build.run(first, isolator, _SWITCH_M, legs="positive", fuse_at_start=None if first != posts[0] else fuse)
            build.run(isolator, bars, _BARS_M, legs="positive")
            build.run(posts[1], bars, _SWITCH_M + _BARS_M, legs="negative")
    if bars is None:
        return None
    _rehang(build, hung, sources, bars)
    _large_on(build, plan, bars)
    text = (
        "Post, main fuse, one switch, bars: everything that draws or charges hangs on the bars behind that switch, "
        "each with its own fuse there."
    )
    expected_a = _expected_a(plan)
    if expected_a > _TRUNK_A:
        text += (
            f" {expected_a:.0f} A with everything on is more than one trunk and one main fuse are made for: a winch or"
            " a lift is wired straight from the starter battery, with a fuse of its own"
            + (", and 24 V halves the rest." if wishes.nominal_v == 12 else ".")
        )
    if stays:
        names = ", ".join(part.name for part in plan.parts if part.id in stays)
        text += f" Always live, as named: {names}."
    return parse_plan(build.doc), text


def _switched(plan: Plan, trunk: Run) -> Plan:
    """The plan with an isolating switch in the run from the bank to the bars there are."""
    rating = _rating_a(max(60.0, 1.3 * _expected_a(plan)))
    fields = {"kind": "switch", "use": "isolator", "name": "Isolating switch", "rated_a": rating,
              "short_time_a": 4 * rating}  # fmt: skip
    length_m = min(_SWITCH_M, trunk.length_m / 2)
    near: Literal["start", "finish"] = "start" if trunk.start.part in _before_switch(plan) else "finish"
    edit = InsertPart(op="insert_part", run=trunk.id, part=fields, near=near, length=f"{length_m:.2f} m")
    return apply_edits(plan, [edit])


def _live_stud(build: Builder, post: str, stays: set[str], fuse: Document, place: str | None) -> str:
    """A stud between main fuse and switch for what stays live; the post itself where nothing does."""
    fed = [one for one in build.doc["runs"] if one["finish"]["part"] in stays and one["legs"] == "both"]
    if not fed:
        return post
    stud = build.part("j", "J", {"kind": "joint", "form": "stud", "name": "Live stud", "place": place})
    build.run(post, stud, 0.2, fuse_at_start=fuse | {"distance_m": min(_FUSE_M, 0.2)})
    for run in fed:
        run["start"] = {"part": stud, "way": None, "terminal": None}
        run["fuse_at_start"] = _fuse(run["length_m"])
    return stud


def _rehang(build: Builder, hung: list[Run], sources: set[str], bars: str) -> None:
    """Runs that left the bank leave the bars, each with its fuse there."""
    by_id = {one["id"]: one for one in build.doc["runs"]}
    for run in hung:
        doc = by_id.get(run.id)
        if doc is None:
            continue
        end = "start" if run.start.part in sources else "finish"
        doc[end] = {"part": bars, "way": None, "terminal": None}
        if run.legs != "negative":
            kept = doc.get(f"fuse_at_{end}")
            pin = kept.get("pin") if kept else None
            doc[f"fuse_at_{end}"] = _fuse(run.length_m) | ({"pin": pin} if pin else {})


def _large_on(build: Builder, plan: Plan, bars: str) -> None:
    """Inverters and what is above a way's limit hang on the bars."""
    blocks = {part.id for part in plan.parts if isinstance(part, FuseBlock)}
    large = {
        part.id
        for part in plan.parts
        if isinstance(part, Load)
        and (
            part.device == "inverter"
            or load_figures(part, nominal_v=float(plan.nominal_v), school="nominal").design_current_a > _WAY_A
        )
    }
    for run in build.doc["runs"]:
        if run["finish"]["part"] in large and run["start"]["part"] in blocks:
            run["start"] = {"part": bars, "way": None, "terminal": None}
            inverter = document_part(build.doc, run["finish"]["part"])["device"] == "inverter"
            if inverter and run["length_as_typed"] is None and not run["length_confirmed"]:
                run["length_m"] = min(run["length_m"], _INVERTER_M)
            run["fuse_at_start"] = _fuse(run["length_m"])


def tidy_block(plan: Plan, block_id: str) -> Plan:
    """Ways without gaps, and a block of usual size with a fifth of them free; none left, no block."""
    doc = plan_document(plan)
    own = [run for run in doc["runs"] if run["start"]["part"] == block_id]
    if not own:
        return apply_edits(plan, [DeletePart(op="delete_part", part=block_id)])
    for way, run in enumerate(sorted(own, key=lambda one: one["start"]["way"]), start=1):
        run["start"]["way"] = way
    document_part(doc, block_id)["ways"] = ways_for(len(own))
    return parse_plan(doc)


def ways_for(count: int) -> int:
    """Ways of a block of usual size that keeps a fifth of them free.

    Parameters
    ----------
    count : int
        Ways in use.

    Returns
    -------
    int
        Ways of the block.
    """
    return next(
        (ways for ways in _BLOCK_WAYS if ways >= count / 0.8 - 1e-9), max(_BLOCK_WAYS[-1], math.ceil(count / 0.8))
    )


def blocks_near_loads(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A block in every place with several loads that one far block feeds, none with more than it has ways for."""
    parts = {part.id: part for part in plan.parts}
    groups: dict[tuple[str, str], list[str]] = {}
    lengths: dict[str, float] = {}
    closed = {place.id for place in plan.places if place.reach == "closed"}
    for run in plan.runs:
        block, end = parts[run.start.part], parts[run.finish.part]
        near = run.length_m < FAR_M or end.place in (None, block.place, *closed)
        if isinstance(block, FuseBlock) and isinstance(end, Load) and not near:
            groups.setdefault((block.id, end.place or ""), []).append(end.id)
            lengths[end.id] = run.length_m
    names = {place.id: place.name for place in plan.places}
    said, changed = [], plan
    sources: set[str] = set()
    for (source, place), loads in groups.items():
        if len(loads) < 2:
            continue
        count = math.ceil(len(loads) / _ON_A_BLOCK)
        for at in range(count):
            some = loads[at::count]
            nearest = min(lengths[one] for one in some)
            branch = max(0.6, sum(lengths[one] - nearest for one in some) / len(some) + 0.6)
            edit = ShareFeeder(
                op="share_feeder",
                parts=some,
                name=f"{names[place]} block" + (f" {at + 1}" if count > 1 else ""),
                length=f"{max(0.5, nearest - 0.5):.2f} m",
                branch_length=f"{branch:.2f} m",
                place=place,
            )
            changed = _on_bars(apply_edits(changed, [edit]), len(some))
        said.append(f"{names[place]} ({len(loads)} loads)")
        sources.add(source)
    if not said:
        return None
    for source in sources:
        changed = tidy_block(changed, source)
    return changed, (
        "The long run is the fat one and the thin ones are short: a block of its own for "
        + ", ".join(said)
        + ". A fifth of the ways stays free."
    )


def _on_bars(plan: Plan, count: int) -> Plan:
    """The block just made on the bars, with its own fuse there."""
    doc, block = plan_document(plan), plan.parts[-1].id
    document_part(doc, block)["ways"] = ways_for(count)
    for run in doc["runs"]:
        if run["start"]["part"] == block:
            run["length_guessed"] = True
    bars = main_bars(plan)
    if bars is not None and document_part(doc, bars)["kind"] == "busbar":
        feeder = next(run for run in doc["runs"] if run["finish"]["part"] == block)
        feeder["start"] = {"part": bars, "way": None, "terminal": None}
        feeder["fuse_at_start"] = _fuse(feeder["length_m"])
        feeder["length_guessed"] = True
    return parse_plan(doc)
