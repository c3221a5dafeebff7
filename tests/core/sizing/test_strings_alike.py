"""Cables of batteries side by side are alike, whichever of them feeds what hangs on their bar."""

from __future__ import annotations

import itertools

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.plan.document import parse_plan
from tests.law.cases import Doc, device, piece, wire


def bank(names: tuple[str, ...]) -> Doc:
    """Batteries on one bar, a motor straight on the first of them, a lamp on the bar."""
    batteries = [piece("battery", one, "locker", chemistry="lfp", capacity_ah=50) for one in ("main", *names)]
    parts = [
        *batteries, piece("busbar", "bars", "locker", rated_a=300, studs=8),
        device("motor", "locker", 0.05, current_a=100.0, device="motor", stays_live=True),
        device("lamp", "locker", 1, power_w=12.0),
    ]  # fmt: skip
    runs = [wire(f"of_{one['id']}", one["id"], "bars", 0.4, fuse_at_start={}) for one in batteries]
    runs += [
        wire("to_motor", "main", "motor", 1.0, fuse_at_start={}),
        wire("to_lamp", "bars", "lamp", 1.0, fuse_at_start={}),
    ]  # fmt: skip
    return {
        "format": "lucernis-plan", "version": 4, "job": {"name": "Bank"}, "practice": {"set": "small_craft_us"},
        "zones": [{"id": "living", "name": "Living"}],
        "places": [{"id": "locker", "name": "Locker", "zone": "living", "vented": True}],
        "parts": parts, "runs": runs, "states": [{"id": "on", "name": "On"}],
    }  # fmt: skip


@pytest.mark.parametrize("names", list(itertools.permutations(("aa", "mm", "zz"))))
def test_strings_of_a_bank_have_one_size_and_one_fuse_whatever_they_are_called(names: tuple[str, ...]) -> None:
    runs = [one for one in evaluate(parse_plan(bank(names))).runs if one.id.startswith("of_")]
    assert len(runs) == 4
    assert len({one.wire.label for one in runs}) == 1
    assert len({one.fuse.rating_a for one in runs if one.fuse is not None}) == 1
