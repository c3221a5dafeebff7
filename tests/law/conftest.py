"""How long the laws are tried: LUCERNIS_LAW_PLANS plans, 300 in `make test` and 5,000 in `make soak`."""

from __future__ import annotations

import os

PLANS = int(os.environ.get("LUCERNIS_LAW_PLANS", "300"))
