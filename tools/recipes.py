"""Writes which draws of which breakers succeed in which van of the school: `python -m tools.recipes`."""

from __future__ import annotations

import json
from pathlib import Path

from lucernis.core.school.mistakes import find_recipes

FILE = Path(__file__).resolve().parents[1] / "lucernis" / "core" / "school" / "recipes.json"

if __name__ == "__main__":
    vans = [
        f'"{van}": {{\n' + ",\n".join(f'"{code}": {json.dumps(draws)}' for code, draws in mine.items()) + "\n}"
        for van, mine in find_recipes().items()
    ]
    FILE.write_text("{\n" + ",\n".join(vans) + "\n}\n", encoding="utf-8")
