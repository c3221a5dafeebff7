"""Pairs of set-ups to begin with, from pairs.toml: two that differ in one thing."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from lucernis.core.bench.setup import Setup


@dataclass(frozen=True, slots=True)
class Pair:
    """Two set-ups side by side, what they are called and what they ask."""

    id: str
    title: str
    asks: str
    left: Setup
    right: Setup


def _setup(raw: dict[str, Any]) -> Setup:
    # What a pair does not name has no fuse and no amount; all else is as the model says.
    return Setup.model_validate({"fuse": None} | raw | {"load": {"amount": None} | raw["load"]})


@cache
def pairs() -> tuple[Pair, ...]:
    """All pairs that ship, in the order of their file."""
    raw = tomllib.loads((files("lucernis.core.bench") / "pairs.toml").read_text(encoding="utf-8"))
    return tuple(
        Pair(name, one["title"], one["asks"], _setup(one["left"]), _setup(one["right"])) for name, one in raw.items()
    )
