"""Labels of quantities and choices: one file for screen, paper and tables, so that each has one name."""

from __future__ import annotations

import json
from importlib.resources import files

LABELS: dict[str, dict[str, str]] = json.loads((files("lucernis.practice") / "labels.json").read_text(encoding="utf-8"))
QUANTITIES = LABELS["quantities"]
DECIDED = LABELS["decided"]
RESERVE_BY = LABELS["reserve_by"]
