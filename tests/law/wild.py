"""Plans as they come in from outside: vans and demo jobs with mistakes put in, several at a time, whatever follows."""

from __future__ import annotations

import copy
from functools import cache

from lucernis.core.school.breaking.registry import BREAKERS
from lucernis.core.school.breaking.van import Van
from lucernis.core.school.dice import Dice
from lucernis.core.school.mistakes import good_van, van_names
from lucernis.errors import LucernisError
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan


@cache
def wild_plan(seed: int) -> Plan:
    """A van with one to four mistakes, and not only those the school would take."""
    dice = Dice(seed, 77)
    name = dice.one_of(van_names())
    van = Van(good_van(name), dice)
    for _ in range(dice.between(1, 4)):
        code = dice.one_of(sorted(BREAKERS))
        before = copy.deepcopy(van.doc)
        try:
            BREAKERS[code].breaks(van)
            parse_plan(van.doc)
        except (LucernisError, StopIteration, KeyError, IndexError):
            van.doc = before
    if dice.between(0, 1):
        # As planned, before anything was fitted: the program chooses.
        for run in van.doc["runs"]:
            run["wire"] = None
            for end in ("fuse_at_start", "fuse_at_finish"):
                if run.get(end):
                    run[end]["pin"] = None
    return parse_plan(van.doc)
