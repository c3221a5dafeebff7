"""Plants each fault of the sample, runs the tests that could see it, and says which were noticed."""

from __future__ import annotations

import argparse
import csv
import json
import os
import sys
import time
from contextlib import ExitStack
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from scipy.stats import binomtest

from tools.mutants.cover import Covered, covered
from tools.mutants.run import begin, over, planted, prepare
from tools.mutants.sites import ROOT, Mutant, room, sample

WORK = ROOT / ".make" / "mutants"
COUNT, SMALL_COUNT, SMALL_SEED = 60, 300, 20261126
HISTORY = ROOT / "docs" / "mutants.csv"
# Tests are taken until so much of their own time is reached, or so many. [s]
MOST_S, MOST_TESTS = 150.0, 300
# What stands in the same room comes first even where it takes long: there a case for each code and limit is one test.
OWN_ROOM, OWN_NAME = 0.001, 0.3
# With fewer than so many that are known to run a line, those that may run it are taken too.
FEW = 3
# What only declares has no line a test runs: the contract of the client and the fields' pages are made from it.
DECLARATIONS = [
    "tests/api/test_door.py::test_committed_contract_is_the_served_one",
    "tests/test_shape.py::test_tables_of_fields_are_those_of_the_models",
]
WANTED_FRAC, WANTED_IN_A_ROOM = 0.9, 0.7
QUICK_S = 2.0
# What pytest ends with where it found nothing to run: that is no fault noticed.
NO_TESTS = 5


def near(mutant: Mutant, known: Covered) -> list[str]:
    """Tests that run the line, the quick ones and those that stand where the module stands or have its name first."""
    stem, room = Path(mutant.path).stem.split("_")[0], f"/{Path(mutant.path).parent.name}/"
    seeing = set(known.lines.get(mutant.path, {}).get(mutant.line, ()))
    if len(seeing) < FEW:
        seeing |= set(known.loose.get(mutant.path, ()))

    def order(name: str) -> float:
        file = name.partition("::")[0]
        return known.took_s[name] * (OWN_NAME if stem in Path(file).stem else 1.0) * (OWN_ROOM if room in file else 1.0)

    taken, spent_s = [], 0.0
    for name in sorted(seeing, key=lambda one: (order(one), one)):
        if not taken or (spent_s + known.took_s[name] <= MOST_S and len(taken) < MOST_TESTS):
            taken.append(name)
            spent_s += known.took_s[name]
    if not known.lines.get(mutant.path, {}).get(mutant.line) and mutant.path.startswith("lucernis/plan"):
        taken = [*DECLARATIONS, *taken]
    original = (ROOT / mutant.path).read_text(encoding="utf-8")
    return [mutant.path, *taken] if ">>>" in original else taken


@dataclass(slots=True)
class _Running:
    mutant: Mutant
    code: str
    tests: list[str]
    folder: Path
    child: int
    began_s: float
    limit_s: float
    stack: ExitStack


def _begun(mutant: Mutant, folder: Path, known: Covered) -> _Running:
    code, tests = mutant.planted(), near(mutant, known)
    if code is None:
        raise RuntimeError(f"{mutant.name} changes nothing")
    stack = ExitStack()
    stack.enter_context(planted(folder, mutant.path, code))
    limit_s = 60 + 4 * sum(known.took_s.get(one, 0.0) for one in tests)
    return _Running(mutant, code, tests, folder, begin(folder, tests), time.perf_counter(), limit_s, stack)


def _told(run: _Running, ended: int) -> dict[str, Any]:
    said = (run.folder / "told.txt").read_text(encoding="utf-8", errors="replace")
    if ended == NO_TESTS or "ERROR: not found" in said:
        raise RuntimeError(f"{run.mutant.name}: no such tests, find the lines anew with --cover\n{said[-600:]}")
    original = (ROOT / run.mutant.path).read_text(encoding="utf-8").splitlines()
    changed = [a for a, b in zip(run.code.splitlines(), original, strict=False) if a != b]
    return run.mutant.plain() | {
        "name": run.mutant.name,
        "noticed": ended != 0,
        "line_text": changed[0].strip() if changed else "",
        "tests": len(run.tests),
        "end": said[-400:],
        "took_s": round(time.perf_counter() - run.began_s, 1),
    }


def _well_without(wanted: list[Mutant], known: Covered, folder: Path) -> None:
    """The same tests without any fault, the long ones left out: what fails then would seem to notice everything."""
    used = {one for mutant in wanted for one in near(mutant, known)}
    tests = sorted({one for one in used if known.took_s.get(one, QUICK_S) < QUICK_S} | set(DECLARATIONS))
    child, began_s = begin(folder, tests), time.perf_counter()
    while (ended := over(child, began_s, 1800.0)) is None:
        time.sleep(0.2)
    if ended:
        raise RuntimeError((folder / "told.txt").read_text(encoding="utf-8", errors="replace")[-3000:])


def tried(wanted: list[Mutant], known: Covered, found: dict[str, dict[str, Any]], kept: Path) -> None:
    """Try each, as many at once as there are processors; what is found so far is always kept."""
    free = [WORK / f"copy{number}" for number in range(os.cpu_count() or 1)]
    prepare(free)
    _well_without(wanted, known, free[0])
    waiting, running = list(reversed(wanted)), list[_Running]()
    while waiting or running:
        while free and waiting:
            running.append(_begun(waiting.pop(), free.pop(), known))
        time.sleep(0.05)
        for run in list(running):
            ended = over(run.child, run.began_s, run.limit_s)
            if ended is None:
                continue
            running.remove(run)
            told = found[run.mutant.name] = _told(run, ended)
            run.stack.close()
            free.append(run.folder)
            print("noticed " if told["noticed"] else "MISSED  ", told["name"], "|", told["line_text"], flush=True)
            kept.write_text(json.dumps(list(found.values()), indent=1), encoding="utf-8")


def by_room(found: list[dict[str, Any]]) -> list[tuple[str, int, int, float, float]]:
    """Per room and of all: planted, noticed, and between what shares the true one lies by 95 % (Wilson)."""
    rooms: dict[str, list[bool]] = {}
    for one in found:
        rooms.setdefault(room(one["path"]), []).append(bool(one["noticed"]))
    out = []
    for name, each in [*sorted(rooms.items()), ("all", [bool(one["noticed"]) for one in found])]:
        share = binomtest(sum(each), len(each)).proportion_ci(method="wilson")
        out.append((name, len(each), sum(each), float(share.low), float(share.high)))
    return out


def keep_history(found: list[dict[str, Any]], seed: int, kind: str) -> None:
    """A line a room in docs/mutants.csv: what a sample nobody had seen before came to on its day."""
    fresh = not HISTORY.exists()
    with HISTORY.open("a", encoding="utf-8", newline="") as file:
        lines = csv.writer(file)
        if fresh:
            lines.writerow(["day", "seed", "kind", "room", "planted", "noticed", "low", "high"])
        for name, planted_count, noticed, low, high in by_room(found):
            day = datetime.now(UTC).date().isoformat()
            lines.writerow([day, seed, kind, name, planted_count, noticed, f"{low:.2f}", f"{high:.2f}"])


def main() -> int:
    """Command line."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--count", type=int, default=None)
    asked.add_argument("--seed", type=int, default=None, help="the day's date where none is given: a fresh sample")
    asked.add_argument("--small", action="store_true", help="the fixed sample of cosmic-ray's small faults")
    asked.add_argument("--again", action="store_true", help="only those not noticed last time")
    asked.add_argument("--cover", action="store_true", help="find out anew which tests run which lines")
    asked.add_argument("--only", default="", help="only faults in paths that hold this text")
    options = asked.parse_args()
    today = int(datetime.now(UTC).strftime("%Y%m%d"))
    seed = options.seed or (SMALL_SEED if options.small else today)
    count = options.count or (SMALL_COUNT if options.small else COUNT)
    known = covered(WORK / "covered.json", anew=options.cover)
    kept = WORK / "found.json"
    before = json.loads(kept.read_text(encoding="utf-8")) if options.again else []
    if options.again:
        wanted = [Mutant(**{key: one[key] for key in Mutant.__slots__}) for one in before if not one["noticed"]]
    else:
        wanted = sample(count, seed, realistic=not options.small)
    found = {one["name"]: one for one in before}
    tried([one for one in wanted if options.only in one.path], known, found, kept)
    noticed = sum(bool(told["noticed"]) for told in found.values())
    poor = []
    for name, planted_count, seen, low, high in by_room(list(found.values())):
        print(f"{name:20} {seen:3} of {planted_count:3}   {low:.0%} to {high:.0%}")
        if name != "all" and seen < WANTED_IN_A_ROOM * planted_count:
            poor.append(name)
    print(
        f"{noticed} of {len(found)} noticed: {noticed / max(1, len(found)):.0%}; rooms under 70 %:",
        ", ".join(poor) or "none",
    )
    if not options.again and not options.only:
        keep_history(list(found.values()), seed, "small" if options.small else "realistic")
    return 0 if noticed >= WANTED_FRAC * len(found) and not poor else 1


if __name__ == "__main__":
    sys.exit(main())
