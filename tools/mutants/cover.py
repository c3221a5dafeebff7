"""Which test files run which lines, and how long each takes: each file by itself, so that nothing remembered by
another hides what it runs."""

from __future__ import annotations

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


def covered(keep: Path, *, anew: bool) -> Covered:
    """Of each test file how long it takes and the lines it runs; from what was kept unless asked for anew."""
    if keep.exists() and not anew:
        stored = json.loads(keep.read_text(encoding="utf-8"))
        return {file: (took, {path: set(lines) for path, lines in ran.items()}) for file, (took, ran) in stored.items()}
    files = test_files()
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        found = dict(zip(files, pool.map(_run, files), strict=True))
    keep.parent.mkdir(parents=True, exist_ok=True)
    plain = {file: (took, {path: sorted(lines) for path, lines in ran.items()}) for file, (took, ran) in found.items()}
    keep.write_text(json.dumps(plain), encoding="utf-8")
    return found
