"""Runs tests in a copy with a fault in it. What the tests need of other people's packages is loaded once and forked."""

from __future__ import annotations

import compileall
import os
import shutil
import sys
import time
import traceback
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from importlib import import_module
from pathlib import Path

from tools.mutants.cover import LAW_PLANS
from tools.mutants.sites import ROOT

_LEFT_OUT = shutil.ignore_patterns("node_modules", ".git", ".venv", ".make", "*.sqlite3*", "*.egg-info")
# They take seconds to load, and no fault of ours is in them.
_HEAVY = (
    "pytest", "hypothesis", "numpy", "scipy.optimize", "scipy.sparse.linalg", "scipy.sparse.csgraph", "pandas", "pvlib",
    "pydantic", "fastapi.testclient", "schemathesis", "ht", "reportlab.platypus", "jsonpatch", "httpx", "cachetools",
)  # fmt: skip


def prepare(folders: list[Path]) -> None:
    """Make the copies, compiled, and load what is heavy."""
    for folder in folders:
        shutil.rmtree(folder, ignore_errors=True)
        shutil.copytree(ROOT, folder, ignore=_LEFT_OUT)
        compileall.compile_dir(folder / "lucernis", quiet=2)
        compileall.compile_dir(folder / "tests", quiet=2)
    sys.dont_write_bytecode = True
    for name in _HEAVY:
        with suppress(ImportError):
            import_module(name)
    if any(name.split(".")[0] == "lucernis" for name in sys.modules):
        raise RuntimeError("what is to be tried is loaded already")


@contextmanager
def planted(folder: Path, path: str, code: str) -> Iterator[None]:
    """The copy with other code in one file, as long as it lasts."""
    file, original = folder / path, (ROOT / path).read_text(encoding="utf-8")
    stamp = file.stat()
    file.write_text(code, encoding="utf-8")
    try:
        yield
    finally:
        file.write_text(original, encoding="utf-8")
        # What was compiled of it counts again.
        os.utime(file, ns=(stamp.st_atime_ns, stamp.st_mtime_ns))


def begin(folder: Path, tests: list[str]) -> int:
    """Start the tests in a process of its own; gives back its number."""
    child = os.fork()
    if child:
        return child
    try:
        out = os.open(folder / "told.txt", os.O_WRONLY | os.O_CREAT | os.O_TRUNC)
        os.dup2(out, 1)
        os.dup2(out, 2)
        os.chdir(folder)
        os.environ.update(LAW_PLANS)
        sys.path.insert(0, str(folder))
        import pytest

        options = ["-x", "-q", "-p", "no:cacheprovider", "--no-header", "--tb=line", "--hypothesis-seed=0"]
        # Loaded before the fork, which is the point of it.
        options += ["-W", "ignore::pytest.PytestAssertRewriteWarning"]
        code = int(pytest.main([*options, "--rootdir", str(folder), *tests]))
    except BaseException:
        traceback.print_exc()
        code = 9
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)


def over(child: int, began_s: float, limit_s: float) -> int | None:
    """How a run ended: its code, 1 where it took too long, None while it goes on."""
    done, status = os.waitpid(child, os.WNOHANG)
    if done:
        return os.waitstatus_to_exitcode(status)
    if time.perf_counter() - began_s > limit_s:
        os.kill(child, 9)
        os.waitpid(child, 0)
        return 1
    return None
