"""The program killed in the middle of writing, again and again: what was answered is there, and the file is sound."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import time
from pathlib import Path

from lucernis.store.database import Database
from lucernis.store.files import look_into
from lucernis.store.plans import PlanStore
from tests.law.conftest import PLANS

# Few in the suite; two hundred in the long run.
KILLS = 4 if PLANS < 1000 else 200

_WRITER = """
import sys
from pathlib import Path
from lucernis.store.backups import Backups
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore

database = Database(Path(sys.argv[1]))
database.open()
store = PlanStore(database)
plan_id = sys.argv[2]
head = store.get(plan_id)
document, revision = head.document, head.revision
while True:
    document["n"] = revision + 1
    document["items"][revision % 50] = {"id": revision, "text": "x" * (revision % 300)}
    revision = store.edit(plan_id, revision, document, f"edit {revision}").revision
    print(revision, flush=True)
    if revision % 9 == 0:
        database.fold()
"""


def test_nothing_answered_is_lost(tmp_path: Path) -> None:
    path, rng = tmp_path / "plans.sqlite3", random.Random(7)
    database = Database(path)
    database.open()
    items = [{"id": at, "text": "start"} for at in range(50)]
    plan_id = PlanStore(database).create({"n": 1, "items": items}, "begun").plan_id
    database.close()
    answered = 1
    for _ in range(KILLS):
        command = [sys.executable, "-c", _WRITER, str(path), plan_id]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as writer:
            assert writer.stdout is not None
            answered = int(writer.stdout.readline())
            time.sleep(rng.uniform(0.0, 0.25))
            writer.send_signal(signal.SIGKILL)
            for line in writer.stdout:
                answered = int(line) if line.endswith("\n") else answered
        again = Database(path)
        again.open()
        store = PlanStore(again)
        head = store.get(plan_id)
        # One more may have been stored than was answered, never one less.
        assert head.revision in (answered, answered + 1)
        assert head.document["n"] == head.revision
        for revision in {1, answered // 2 or 1, max(1, answered - 1), answered}:
            assert store.get_revision(plan_id, revision)["n"] == revision
        again.close()
        assert look_into(path).problem == ""
