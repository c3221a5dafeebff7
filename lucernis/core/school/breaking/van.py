"""A good van as it was fitted, and the moves by which mistakes are put into it."""

from __future__ import annotations

import copy
import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report, RunReport
from lucernis.core.school.dice import Dice
from lucernis.core.wire.copper import all_sizes, wire_size
from lucernis.errors import NothingFits
from lucernis.plan.document import parse_plan
from lucernis.practice.rules import SizeSystem

Doc = dict[str, Any]
FITTED = "As fitted."


@dataclass(frozen=True, slots=True)
class GoodVan:
    """A van that is right: its document with every size and fuse as fitted, and its report."""

    name: str
    doc: Doc
    report: Report


@cache
def van_names() -> tuple[str, ...]:
    """Vans of the school."""
    folder = files("lucernis.core.school") / "vans"
    return tuple(sorted(one.name[:-5] for one in folder.iterdir() if one.name.endswith(".json")))


def fitted(doc: Doc, report: Report) -> Doc:
    """A document with every wire and fuse pinned as the report has them: a van is fitted, it does not size itself
    anew when something else is changed."""
    doc = copy.deepcopy(doc)
    for run, told in zip(doc["runs"], report.runs, strict=True):
        run["wire"] = {"system": told.wire.system, "size": told.wire.size, "reason": FITTED}
        for fuse in (told.fuse, told.far_fuse):
            if fuse is not None and fuse.rating_a is not None:
                pin = {"rating_a": fuse.rating_a, "family": fuse.family, "reason": FITTED}
                run[f"fuse_at_{fuse.end}"]["pin"] = pin
    return doc


@cache
def good_van(name: str) -> GoodVan:
    """A van by name.

    Raises
    ------
    NothingFits
        If there is none of that name.
    """
    if name not in van_names():
        raise NothingFits(f"no van {name!r}", field="van", value=name, allowed=", ".join(van_names()))
    text = (files("lucernis.core.school") / "vans" / f"{name}.json").read_text(encoding="utf-8")
    raw = json.loads(text)
    doc = fitted(raw, evaluate(parse_plan(raw), with_working=False))
    return GoodVan(name, doc, evaluate(parse_plan(doc), with_working=False))


class Van:
    """A van in the hands of a breaker."""

    def __init__(self, good: GoodVan, dice: Dice) -> None:
        self.good, self.dice = good, dice
        self.doc: Doc = copy.deepcopy(good.doc)
        self._told = {one.id: one for one in good.report.runs}

    def part(self, part_id: str) -> Doc:
        """A part by id; none where another mistake has taken it away."""
        return self._named("parts", part_id)

    def run(self, run_id: str) -> Doc:
        """A run by id; none where another mistake has taken it away."""
        return self._named("runs", run_id)

    def _named(self, where: str, wanted: str) -> Doc:
        found: Doc | None = next((one for one in self.doc[where] if one["id"] == wanted), None)
        if found is None:
            raise NothingFits(f"no {wanted} in it any more", field=where, value=wanted, allowed="what is still there")
        return found

    def told(self, run_id: str) -> RunReport:
        """What the report says of a run while all was well."""
        return self._told[run_id]

    def any_part(self, kind: str, fits: Callable[[Doc], bool] = bool) -> Doc:
        """One part of a kind."""
        return self.dice.one_of([one for one in self.doc["parts"] if one["kind"] == kind and fits(one)])

    def any_load(self, fits: Callable[[Doc], bool] = bool) -> Doc:
        """One load."""
        return self.any_part("load", fits)

    def any_run(self, fits: Callable[[Doc], bool] = bool) -> Doc:
        """One run that was there."""
        return self.dice.one_of([one for one in self.doc["runs"] if one["id"] in self._told and fits(one)])

    def kind_of(self, part_id: str) -> str:
        """Kind of a part."""
        return str(self.part(part_id)["kind"])

    def branch(self, fits: Callable[[Doc], bool] = bool) -> Doc:
        """One run from a block to a load that has its own fuse and nothing behind the load."""
        tapped = {one["start"]["part"] for one in self.doc["runs"]}
        return self.any_run(
            lambda one: (
                one.get("fuse_at_start") is not None
                and self.kind_of(one["start"]["part"]) == "fuse_block"
                and self.kind_of(one["finish"]["part"]) == "load"
                and one["finish"]["part"] not in tapped
                and one.get("legs", "both") == "both"
                and fits(one)
            )
        )

    def feed_of(self, part_id: str) -> Doc:
        """The run that ends at a part."""
        return self.dice.one_of([one for one in self.doc["runs"] if one["finish"]["part"] == part_id])

    def feeder(self) -> Doc:
        """One run that feeds a block."""
        return self.any_run(lambda one: self.kind_of(one["finish"]["part"]) == "fuse_block")

    def battery(self) -> Doc:
        """The house battery."""
        return self.any_part("battery", lambda one: one.get("use", "house") == "house")

    def starter(self) -> Doc:
        """The starter battery."""
        return self.any_part("battery", lambda one: one.get("use") == "starter")

    def main(self) -> Doc:
        """The positive from the house battery."""
        battery = self.battery()["id"]
        return self.any_run(lambda one: one["start"]["part"] == battery and one.get("legs", "both") != "negative")

    def thinner(self, run_id: str, keep: Callable[[str], bool] = bool) -> list[str]:
        """Sizes of its system that hold less copper than a run has, thickest first."""
        told = self.told(run_id)
        system: SizeSystem = self._system(told.wire.system)
        mine = wire_size(system, told.wire.size).area_mm2
        names = [one for one in all_sizes(system) if wire_size(system, one).area_mm2 < mine - 1e-9 and keep(one)]
        return sorted(names, key=lambda one: -wire_size(system, one).area_mm2)

    def thicker(self, run_id: str) -> list[str]:
        """Sizes of its system that hold more copper than a run has, thinnest first."""
        told = self.told(run_id)
        system: SizeSystem = self._system(told.wire.system)
        mine = wire_size(system, told.wire.size).area_mm2
        names = [one for one in all_sizes(system) if wire_size(system, one).area_mm2 > mine + 1e-9]
        return sorted(names, key=lambda one: wire_size(system, one).area_mm2)

    @staticmethod
    def _system(name: str) -> SizeSystem:
        found: dict[str, SizeSystem] = {"awg": "awg", "bs": "bs", "mm2": "mm2", "sae": "sae", "auto_mm": "auto_mm"}
        return found[name]

    def area(self, run_id: str, size: str) -> float:
        """Copper of a size of a run's system. [mm²]"""
        return wire_size(self._system(self.told(run_id).wire.system), size).area_mm2

    def resistance_ohm_per_m(self, run_id: str) -> float:
        """Of the wire a run had, at 20 °C. [Ω/m]"""
        wire = self.told(run_id).wire
        return wire_size(self._system(wire.system), wire.size).resistance_20_ohm_per_m

    def pin_wire(self, run: Doc, size: str, system: str | None = None) -> None:
        """Fit another wire."""
        run["wire"] = {"system": system or self.told(run["id"]).wire.system, "size": size, "reason": FITTED}

    def pin_fuse(self, run: Doc, rating_a: float, family: str | None = None, key: str = "fuse_at_start") -> None:
        """Fit another fuse."""
        was = run[key].get("pin", {}).get("family")
        run[key]["pin"] = {"rating_a": rating_a, "family": family or was, "reason": FITTED}
        if run[key]["pin"]["family"] is None:
            del run[key]["pin"]["family"]

    def free(self, letter: str) -> tuple[str, str]:
        """An id and a tag nothing has yet."""
        ids = {one["id"] for one in (*self.doc["parts"], *self.doc["runs"])}
        number = next(k for k in range(1, 999) if f"{letter.lower()}{k}" not in ids)
        return f"{letter.lower()}{number}", f"{letter.upper()}{number:02d}"

    def add_part(self, letter: str, kind: str, name: str, **fields: Any) -> Doc:
        """Another part."""
        part_id, tag = self.free(letter)
        made = {"kind": kind, "id": part_id, "name": name, "tag": tag} | fields
        self.doc["parts"].append(made)
        return made

    def add_run(self, start: Any, finish: Any, length_m: float, **fields: Any) -> Doc:
        """Another run."""
        run_id, _ = self.free("r")
        tags = {one["tag"] for one in self.doc["runs"]}
        tag = next(f"C{k:02d}" for k in range(1, 999) if f"C{k:02d}" not in tags)
        ends = [one if isinstance(one, dict) else {"part": one} for one in (start, finish)]
        made = {"id": run_id, "tag": tag, "start": ends[0], "finish": ends[1], "length_m": length_m}
        made |= {"length_as_typed": f"{length_m:g} m"} | fields
        self.doc["runs"].append(made)
        return made

    def way(self, block: str) -> dict[str, Any]:
        """A way of a block nothing is on."""
        held = {one["start"].get("way") for one in self.doc["runs"] if one["start"]["part"] == block}
        ways = int(self.part(block).get("ways", 6))
        free = [k for k in range(1, ways + 1) if k not in held]
        return {"part": block, "way": self.dice.one_of(free)}

    def into(self, run: Doc, part: Doc, length_m: float = 0.4) -> Doc:
        """Put a part into a run, near its far end: the wire goes on as it was."""
        run.pop("way", None)
        rest = self.add_run(part["id"], run["finish"], length_m, legs=run.get("legs", "both"))
        rest["wire"] = dict(run["wire"])
        run["finish"] = {"part": part["id"]}
        return rest


# Ratings parts are sold in. Common practice, no source. [A], [W]
AMPS = (
    1.0,
    2.0,
    3.0,
    5.0,
    7.5,
    10.0,
    15.0,
    20.0,
    25.0,
    30.0,
    40.0,
    50.0,
    60.0,
    80.0,
    100.0,
    125.0,
    150.0,
    200.0,
    250.0,
)
# So much below is a mistake nobody argues about. Practice. [1]
_CLEARLY = 0.92
WATTS = (50.0, 75.0, 100.0, 150.0, 200.0, 250.0, 300.0, 400.0, 600.0, 800.0)


def made_below(van: Van, value: float, made: tuple[float, ...] = AMPS) -> float:
    """The greatest rating that is sold and clearly below a value; refused where there is none. [A] or [W]"""
    some = [one for one in made if one < _CLEARLY * value]
    return van.dice.one_of(some[-1:])


def made_above(van: Van, value: float, made: tuple[float, ...] = AMPS) -> float:
    """The smallest rating that is sold and above a value; refused where there is none. [A] or [W]"""
    return van.dice.one_of([one for one in made if one > value][:1])
