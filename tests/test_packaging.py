"""The wheel carries what the program needs and runs in a fresh environment, without the source and without Node."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import time
import tomllib
import zipfile
from pathlib import Path

import httpx
import pytest

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("wheel")
    # Of a copy, so that nothing left over from an earlier build gets in.
    source = tmp_path_factory.mktemp("source")
    shutil.copytree(ROOT / "lucernis", source / "lucernis", ignore=shutil.ignore_patterns("__pycache__"))
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source / name)
    # With what is installed here: a build of its own would ask a registry.
    command = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", "--no-index", "-w"]
    subprocess.run([*command, str(folder), str(source)], check=True, capture_output=True)
    return next(folder.glob("*.whl"))


def test_the_wheel_has_screens_tables_and_fonts(wheel: Path) -> None:
    with zipfile.ZipFile(wheel) as file:
        names = set(file.namelist())
    tracked = subprocess.run(
        ["git", "ls-files", "lucernis"], cwd=ROOT, check=True, capture_output=True, text=True
    ).stdout.split()
    assert not [one for one in tracked if one not in names], "every file of the package travels"
    screens = {str(path.relative_to(ROOT)) for path in (ROOT / "lucernis" / "web").rglob("*") if path.is_file()}
    assert screens <= names
    assert any(one.endswith(".js.br") for one in names)
    assert not [one for one in names if one.startswith(("tests/", "bench/", "tools/", "web/"))]


def test_dependencies_are_ranges_and_the_lock_is_exact() -> None:
    wanted = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]["dependencies"]
    assert wanted
    assert all(">=" in one and "==" not in one for one in wanted)
    pinned = [
        line.split("==")[0]
        for line in (ROOT / "requirements.txt").read_text(encoding="utf-8").splitlines()
        if "==" in line and not line.startswith((" ", "#"))
    ]
    assert {one.split(">=")[0] for one in wanted} <= set(pinned)


def test_it_runs_in_a_fresh_environment(wheel: Path, tmp_path: Path) -> None:
    """What it depends on is lent by this environment; the program itself is the wheel alone."""
    home = tmp_path / "env"
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", str(home)], check=True)
    python = home / "bin" / "python"
    own = next((home / "lib").glob("python*")) / "site-packages"
    with zipfile.ZipFile(wheel) as file:
        file.extractall(own)
    lent = [path for path in sys.path if path.endswith("site-packages")]
    # Beside the wheel, never before it, and without the links of an installed source.
    (own / "lent.pth").write_text(
        "\n".join(f"import sys; sys.path.append({path!r})" for path in lent), encoding="utf-8"
    )
    environment = {"PATH": "/nowhere", "HOME": str(tmp_path), "LANG": "C.UTF-8"}
    told = subprocess.run(
        [python, "-c", "import lucernis; print(lucernis.__file__)"], cwd=tmp_path, env=environment, check=True,
        capture_output=True, text=True,
    ).stdout  # fmt: skip
    assert str(own) in told
    size = [python, "-m", "lucernis.cli", "size", "--amps", "5", "--length", "3m", "--json"]
    answer = subprocess.run(size, cwd=tmp_path, env=environment, capture_output=True, text=True, check=False)
    assert json.loads(answer.stdout)["size"]
    with subprocess.Popen(
        [python, "-m", "lucernis.cli", "demo", "--data", str(tmp_path / "d.sqlite3"), "--port", "8897"],
        cwd=tmp_path, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    ) as server:  # fmt: skip
        try:
            base = "http://127.0.0.1:8897"
            for _ in range(150):
                try:
                    page = httpx.get(f"{base}/", trust_env=False).text
                    break
                except httpx.TransportError:
                    assert server.poll() is None, server.stdout.read() if server.stdout else ""
                    time.sleep(0.2)
            script = httpx.get(base + page.split('src="')[1].split('"')[0], trust_env=False)
            assert script.headers["content-encoding"] in ("br", "gzip")
            assert "immutable" in script.headers["cache-control"]
            cards = httpx.get(f"{base}/api/plans", timeout=60, trust_env=False).json()
            assert cards[0]["name"] == "Heron"
        finally:
            server.terminate()


def test_the_first_script_is_small() -> None:
    """What the shelf needs before it shows: at most 95 kB as it goes over the wire."""
    page = (ROOT / "lucernis" / "web" / "index.html").read_text(encoding="utf-8")
    scripts = [one.split('"')[0] for one in page.split('"/assets/')[1:] if one.split('"')[0].endswith(".js")]
    assert scripts
    total = sum((ROOT / "lucernis" / "web" / "assets" / f"{one}.br").stat().st_size for one in scripts)
    assert total < 95_000
