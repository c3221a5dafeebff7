"""Writes the OpenAPI description of the served application, for the typed client: `python -m lucernis.api.contract`."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from lucernis.api.app import create_app
from lucernis.store.database import Database


def contract() -> str:
    """The OpenAPI document as it is committed in web/openapi.json."""
    app = create_app(Database(Path("unopened.sqlite3")))
    return json.dumps(app.openapi(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    sys.stdout.write(contract())
