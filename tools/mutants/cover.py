"""Which test files run which lines, and how long each takes: each file by itself, so that nothing remembered by
another hides what it runs."""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from coverage import CoverageData

from tools.mutants.sites import ROOT

# They look at the code's text, need a browser, or start programs of their own.
APART = (
    "tests/screen", "tests/test_shape.py", "tests/test_packaging.py", "tests/store/test_kills.py", "tests/test_cli.py",
)  # fmt: skip
Covered = dict[str, tuple[float, dict[str, set[int]]]]


def test_files() -> list[str]:
    """Files of tests that may notice a fault in what is computed."""
    found = [str(one.relative_to(ROOT)) for one in sorted((ROOT / "tests").rglob("test_*.py"))]
    return [one for one in found if not one.startswith(APART)]


def _run(file: str) -> tuple[float, dict[str, set[int]]]:
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        command = [sys.executable, "-m", "coverage", "run", "--source=lucernis", f"--data-file={data}", "-m", "pytest"]
        start = time.perf_counter()
        subprocess.run(  # noqa: S603
            [*command, "-q", "-p", "no:cacheprovider", file],
            cwd=ROOT, check=False, capture_output=True, env=os.environ | {"LUCERNIS_LAW_PLANS": "60"},
        )  # fmt: skip
        took_s = time.perf_counter() - start
        found = CoverageData(str(data))
        found.read()
        lines = {}
        for name in found.measured_files():
            path = Path(name)
            if path.is_relative_to(ROOT):
                lines[str(path.relative_to(ROOT))] = set(found.lines(name) or ())
        return took_s, lines


def _digest(file: str) -> str:
    return hashlib.blake2b((ROOT / file).read_bytes(), digest_size=8).hexdigest()


def covered(keep: Path, *, anew: bool) -> Covered:
    """Of each test file how long it takes and the lines it runs; what was kept counts for files that are as they were.

    Lines of a source that has changed since are not known: whatever runs any of it may see them.
    """
    stored = (
        json.loads(keep.read_text(encoding="utf-8")) if keep.exists() and not anew else {"tests": {}, "sources": {}}
    )
    files = test_files()
    fresh = [one for one in files if stored["tests"].get(one, [""])[0] != _digest(one)]
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for file, (took_s, ran) in zip(fresh, pool.map(_run, fresh), strict=True):
            stored["tests"][file] = [_digest(file), took_s, {path: sorted(lines) for path, lines in ran.items()}]
            stored["sources"].update({path: digest for path in ran if (digest := _digest(path)) and anew})
    for _, _, ran in stored["tests"].values():
        for path in ran:
            if (ROOT / path).exists():
                stored["sources"].setdefault(path, _digest(path))
    keep.parent.mkdir(parents=True, exist_ok=True)
    keep.write_text(json.dumps(stored), encoding="utf-8")
    changed = {
        path for path, digest in stored["sources"].items() if not (ROOT / path).exists() or digest != _digest(path)
    }
    return {
        file: (took_s, {path: set() if path in changed else set(lines) for path, lines in ran.items()})
        for file, (_, took_s, ran) in ((file, stored["tests"][file]) for file in files)
    }
