"""Plants each fault of the sample, runs the tests that could see it, and says which were noticed."""

from __future__ import annotations

import argparse
import json
import os
import queue
import shutil
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from tools.mutants.cover import LAW_PLANS, Covered, covered
from tools.mutants.sites import ROOT, Mutant, sample

WORK = ROOT / ".make" / "mutants"
COUNT, SEED = 300, 20261126
# Tests are taken until so much of their own time is reached. [s]
MOST_S = 60.0
# With fewer than so many that are known to run a line, those that may run it are taken too.
FEW = 3
_LEFT_OUT = shutil.ignore_patterns("node_modules", ".git", ".venv", ".make", "__pycache__", "*.sqlite3*", "*.egg-info")


def near(mutant: Mutant, known: Covered) -> list[str]:
    """Tests that run the line, the quick ones and those of files named for the module first."""
    stem = Path(mutant.path).stem.split("_")[0]
    seeing = set(known.lines.get(mutant.path, {}).get(mutant.line, ()))
    if len(seeing) < FEW:
        seeing |= set(known.loose.get(mutant.path, ()))

    def order(name: str) -> float:
        return known.took_s[name] * (0.3 if stem in Path(name.partition("::")[0]).stem else 1.0)

    taken, spent_s = [], 0.0
    for name in sorted(seeing, key=lambda one: (order(one), one)):
        if not taken or spent_s + known.took_s[name] <= MOST_S:
            taken.append(name)
            spent_s += known.took_s[name]
    return taken


def tried(mutant: Mutant, folder: Path, known: Covered) -> dict[str, object]:
    """Plant it in a copy, run the tests, take it out again."""
    file, original = folder / mutant.path, (ROOT / mutant.path).read_text(encoding="utf-8")
    changed = mutant.planted()
    if changed is None:
        raise RuntimeError(f"{mutant.name} changes nothing")
    files = near(mutant, known)
    if ">>>" in original:
        files = [mutant.path, *files]
    start, end = time.perf_counter(), ""
    limit_s = 60 + 4 * sum(known.took_s.get(one, 0.0) for one in files)
    file.write_text(changed, encoding="utf-8")
    try:
        run = subprocess.run(  # noqa: S603
            [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "--no-header", "--tb=line",
             "--hypothesis-seed=0", "--doctest-modules", *files],
            cwd=folder, timeout=limit_s, capture_output=True, text=True, check=False,
            env=os.environ | {"PYTHONPATH": str(folder), "PYTHONDONTWRITEBYTECODE": "1"} | LAW_PLANS,
        )  # fmt: skip
        noticed, end = run.returncode != 0, run.stdout[-600:]
    except subprocess.TimeoutExpired:
        noticed, end = True, "took too long"
    finally:
        file.write_text(original, encoding="utf-8")
    line = next((a for a, b in zip(changed.splitlines(), original.splitlines(), strict=False) if a != b), "")
    return mutant.plain() | {
        "name": mutant.name, "noticed": noticed, "files": files, "line_text": line.strip(), "end": end,
        "took_s": round(time.perf_counter() - start, 1),
    }  # fmt: skip


def main() -> int:
    """Command line."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--count", type=int, default=COUNT)
    asked.add_argument("--seed", type=int, default=SEED)
    asked.add_argument("--again", action="store_true", help="only those not noticed last time")
    asked.add_argument("--cover", action="store_true", help="find out anew which tests run which lines")
    asked.add_argument("--only", default="", help="only faults in paths that hold this text")
    options = asked.parse_args()
    known = covered(WORK / "covered.json", anew=options.cover)
    kept = WORK / "found.json"
    before = json.loads(kept.read_text(encoding="utf-8")) if kept.exists() else []
    if options.again:
        wanted = [Mutant(**{key: one[key] for key in Mutant.__slots__}) for one in before if not one["noticed"]]
    else:
        wanted = sample(options.count, options.seed)
    wanted = [one for one in wanted if options.only in one.path]
    folders: queue.Queue[Path] = queue.Queue()
    for number in range(os.cpu_count() or 1):
        folder = WORK / f"copy{number}"
        shutil.rmtree(folder, ignore_errors=True)
        shutil.copytree(ROOT, folder, ignore=_LEFT_OUT)
        folders.put(folder)
    found: dict[str, dict[str, object]] = {one["name"]: one for one in before} if options.again else {}

    def one(mutant: Mutant) -> None:
        folder = folders.get()
        try:
            found[mutant.name] = tried(mutant, folder, known)
        finally:
            folders.put(folder)
        told = found[mutant.name]
        print("noticed " if told["noticed"] else "MISSED  ", mutant.name, "|", told["line_text"], flush=True)
        kept.write_text(json.dumps(list(found.values()), indent=1), encoding="utf-8")

    with ThreadPoolExecutor(folders.qsize()) as pool:
        list(pool.map(one, wanted))
    noticed = sum(bool(told["noticed"]) for told in found.values())
    print(f"{noticed} of {len(found)} noticed: {noticed / max(1, len(found)):.0%}")
    return 0 if noticed >= 0.85 * len(found) else 1


if __name__ == "__main__":
    sys.exit(main())
