"""Faults put into netlists of four vans by hand, line by line: does who follows the program's readings find them?

Outside the project: circuits and answers are ngspice's, how devices, chargers and meters behave is written here
(`vans.py`), and the faults are edits of the text (`data/faults_by_hand.csv`) made before the search was asked. Half of
them were there to tune by; the others were looked at once. Two batteries side by side, 24 V of two in series, a boat on
two wires, a truck with a relay. `-s` prints the table.
"""

from __future__ import annotations

import csv
import statistics
import zlib
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import pytest

from lucernis.core.prove.next_reading import next_readings
from lucernis.core.prove.suspects import Taken, weigh
from lucernis.core.prove.symptoms import Symptom, SymptomKind
from tests.law.conftest import PLANS
from tests.outside.vans import DATA, Van, van

# Who is this sure stops and looks; nobody reads more often than that.
_SURE, _MOST_READINGS = 0.95, 14


@dataclass(frozen=True)
class Fault:
    """A line of the table."""

    van: str
    half: str
    kind: str
    said: SymptomKind
    subject: str
    causes: tuple[str, ...]
    edits: tuple[str, ...]


@dataclass(frozen=True)
class Search:
    """What came of a search: the place of the true cause, 1 for the first, and how many readings it took."""

    fault: Fault
    place: int
    readings: int
    said: str


@cache
def faults() -> tuple[Fault, ...]:
    """All faults put in by hand."""
    text = (DATA / "faults_by_hand.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(line for line in text.splitlines() if not line.startswith("#"))
    found = []
    for row in rows:
        kind, subject = row["said"].split()
        edits = tuple(one.strip() for one in row["edits"].split(";") if one.strip())
        found.append(Fault(row["van"], row["half"], row["kind"], kind, subject, tuple(row["cause"].split("|")), edits))  # type: ignore[arg-type]
    return tuple(found)


def search(fault: Fault, folder: Path) -> Search:
    """Take the readings the program names until it is sure, or has none to name any more."""
    made = van(fault.van)
    there = Van(fault.van, fault.edits, zlib.crc32(repr(fault).encode()), folder)
    said, taken = [Symptom(fault.said, fault.subject)], list[Taken]()
    while True:
        case = weigh(made, taken, said)
        shares = case.by_cause()
        if len(taken) >= _MOST_READINGS or (float(shares.max()) > _SURE and len(taken) > 2):
            break
        following = next_readings(case, 1)
        if not following:
            break
        one = following[0]
        taken.append(Taken(one.reading, one.situation, there.read(one.reading, one.situation)))
    order = [case.causes[k].id for k in np.argsort(-shares, kind="stable").tolist()]
    assert set(fault.causes) <= set(order), f"not offered: {fault.causes}"
    return Search(fault, min(order.index(one) for one in fault.causes) + 1, len(taken), order[0])


def table(found: list[Search]) -> str:
    """By kind of fault: how many, first, among the first three, readings."""
    lines = []
    for kind in sorted({one.fault.kind for one in found}):
        mine = [one for one in found if one.fault.kind == kind]
        first, three = sum(one.place == 1 for one in mine), sum(one.place <= 3 for one in mine)
        readings = ", ".join(str(one.readings) for one in mine)
        lines.append(f"{kind:28} {len(mine):2} {first:2} {three:2}   {readings}")
    return "\n".join(lines)


# The half that was looked at while the search was written is tried again in the long runs.
@pytest.mark.parametrize("half", ["last"] if PLANS <= 300 else ["tune", "last"])
def test_faults_put_in_by_hand_are_found(half: str, tmp_path: Path) -> None:
    some = [one for one in faults() if one.half == half]
    assert len(some) >= 30
    found = [search(one, tmp_path) for one in some]
    first = sum(one.place == 1 for one in found) / len(found)
    three = sum(one.place <= 3 for one in found) / len(found)
    late = [(one.fault.van, one.fault.causes, one.place, one.said) for one in found if one.place > 1]
    readings = statistics.median(one.readings for one in found)
    print(f"\n{half}: {len(found)}, first {first:.2f}, first three {three:.2f}, median readings {readings:g}")
    print(table(found))
    print(*late, sep="\n")
    assert first >= 0.8, late
    assert three >= 0.93, late
    assert readings <= 6


def test_there_are_sixty_of_every_kind_on_four_vans() -> None:
    assert len(faults()) >= 60
    assert {one.van for one in faults()} == {"postvan", "minibus", "boat", "truck"}
    assert {one.half for one in faults()} == {"tune", "last"}
