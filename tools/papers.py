"""Writes the sample papers in docs/papers from the demo data: `make papers`."""

from __future__ import annotations

from pathlib import Path

from lucernis.demo import demo_plan
from lucernis.exports.files import make_file

TARGET = Path(__file__).resolve().parents[1] / "docs" / "papers"
PAPERS = ("run-sheet.pdf", "cut-list.pdf", "order.pdf", "wiring.pdf", "labels-12.pdf", "plates.pdf", "fuse-map.pdf")


def main() -> None:
    """Every paper one builds from, of Heron."""
    TARGET.mkdir(parents=True, exist_ok=True)
    plan = demo_plan("heron")
    for name in PAPERS:
        (TARGET / f"heron-{name}").write_bytes(make_file(name, plan, revision=1, date="2026-11-27"))


if __name__ == "__main__":
    main()
