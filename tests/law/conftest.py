"""How long the laws are tried: LUCERNIS_LAW_PLANS plans, 100 in `make test` and 5,000 in `make soak`."""

from __future__ import annotations

import os

PLANS = int(os.environ.get("LUCERNIS_LAW_PLANS", "100"))


def some(quick: int, parts: int = 4) -> int:
    """How many plans a law takes whose every plan is judged several times: a few at first, and so large a part of all
    in the long run."""
    return quick if PLANS <= 300 else max(quick, PLANS // parts)
