"""Which tests run which lines, and how long each takes. Each file runs by itself: what another remembers would hide
what it runs."""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from xml.etree import ElementTree

from coverage import CoverageData

from tools.mutants.sites import ROOT

# They look at the code's text, need a browser, or start programs of their own.
APART = (
    "tests/screen", "tests/test_shape.py", "tests/test_packaging.py", "tests/store/test_kills.py", "tests/test_cli.py",
)  # fmt: skip
# Laws in a small form: enough to see whether they notice.
LAW_PLANS = {"LUCERNIS_LAW_PLANS": "60"}


@dataclass(slots=True)
class Covered:
    """Test functions by their ids: how long each takes [s], and of each source line those that run it. What runs on
    import or in what a file prepares belongs to no test: `loose` are the first tests of such files."""

    took_s: dict[str, float] = field(default_factory=dict)
    lines: dict[str, dict[int, list[str]]] = field(default_factory=dict)
    loose: dict[str, list[str]] = field(default_factory=dict)


def test_files() -> list[str]:
    """Files of tests that may notice a fault in what is computed."""
    found = [str(one.relative_to(ROOT)) for one in sorted((ROOT / "tests").rglob("test_*.py"))]
    return [one for one in found if not one.startswith(APART)]


def _digest(file: str) -> str:
    path = ROOT / file
    return hashlib.blake2b(path.read_bytes(), digest_size=8).hexdigest() if path.exists() else ""


def _run(file: str) -> dict[str, object]:
    """One test file: seconds of each of its functions, and the lines each runs."""
    with tempfile.TemporaryDirectory() as folder:
        data, told, rules = (Path(folder) / name for name in ("data", "told.xml", "rules"))
        rules.write_text("[run]\nsource = lucernis\ndynamic_context = test_function\n", encoding="utf-8")
        command = [sys.executable, "-m", "coverage", "run", f"--rcfile={rules}", f"--data-file={data}", "-m", "pytest"]
        subprocess.run(  # noqa: S603
            [*command, "-q", "-p", "no:cacheprovider", f"--junitxml={told}", file],
            cwd=ROOT, check=False, capture_output=True, env=os.environ | LAW_PLANS,
        )  # fmt: skip
        took: dict[str, float] = {}
        for case in ElementTree.parse(told).iter("testcase"):  # noqa: S314
            name = f"{file}::{case.get('name', '').partition('[')[0]}"
            took[name] = took.get(name, 0.0) + float(case.get("time", 0))
        found = CoverageData(str(data))
        found.read()
        lines: dict[str, dict[str, list[int]]] = {}
        for source in found.measured_files():
            path = Path(source)
            if not path.is_relative_to(ROOT):
                continue
            by_test = lines.setdefault(str(path.relative_to(ROOT)), {})
            for line, contexts in found.contexts_by_lineno(source).items():
                for context in contexts or [""]:
                    name = f"{file}::{context.rpartition('.')[2]}" if context else ""
                    by_test.setdefault(name if name in took else "", []).append(line)
        return {"digest": _digest(file), "took_s": took, "lines": lines}


def covered(keep: Path, *, anew: bool) -> Covered:
    """What is known of every test; what was kept counts for test files that are as they were.

    Lines of a source that has changed since are not known: whatever runs any of it may see them.
    """
    stored = (
        json.loads(keep.read_text(encoding="utf-8")) if keep.exists() and not anew else {"tests": {}, "sources": {}}
    )
    files = test_files()
    fresh = [one for one in files if stored["tests"].get(one, {}).get("digest") != _digest(one)]
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for file, ran in zip(fresh, pool.map(_run, fresh), strict=True):
            stored["tests"][file] = ran
            for path in ran["lines"]:  # type: ignore[attr-defined]
                stored["sources"].setdefault(path, _digest(path))
    keep.parent.mkdir(parents=True, exist_ok=True)
    keep.write_text(json.dumps(stored), encoding="utf-8")
    found = Covered()
    for file in files:
        ran = stored["tests"][file]
        found.took_s |= ran["took_s"]
        for path, by_test in ran["lines"].items():
            changed = stored["sources"][path] != _digest(path)
            for name, lines in by_test.items():
                if not name or changed:
                    found.loose.setdefault(path, []).extend([name] if name else list(ran["took_s"])[:5])
                    continue
                at = found.lines.setdefault(path, {})
                for line in lines:
                    at.setdefault(line, []).append(name)
    return found
