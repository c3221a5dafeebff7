"""The program killed in the middle of writing, again and again: what was answered is there, and the file is sound."""

from __future__ import annotations

import io
import random
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

from PIL import Image

from lucernis.demo import demo_plan
from lucernis.plan.document import plan_document
from lucernis.store.backups import Backups
from lucernis.store.database import Database
from lucernis.store.devices import DeviceStore
from lucernis.store.files import look_into
from lucernis.store.jobs import take_out
from lucernis.store.photos import PhotoStore
from lucernis.store.plans import PlanStore
from lucernis.store.record import RecordStore
from tests.law.conftest import PLANS
from tests.store.test_record import add as added

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


_RESTORER = """
import sys
from pathlib import Path
from lucernis.store.backups import Backups
from lucernis.store.database import Database

database = Database(Path(sys.argv[1]))
database.open()
backups = Backups(database)
name = next(one.name for one in backups.list_backups() if one.why == "asked")
print("now", flush=True)
backups.restore(name)
print("done", flush=True)
"""

_IMPORTER = """
import sys
from pathlib import Path
from fastapi.testclient import TestClient
from lucernis.api.app import create_app
from lucernis.store.database import Database

database = Database(Path(sys.argv[1]))
database.open()
body = Path(sys.argv[2]).read_bytes()
with TestClient(create_app(database), base_url="http://127.0.0.1:8765") as client:
    print("now", flush=True)
    answer = client.post("/api/jobs", content=body)
    print("done" if answer.status_code == 200 else answer.text, flush=True)
"""


def killed(script: str, *given: str, after_s: float | None) -> tuple[str, float]:
    """Run a script and kill it so long after it has said that it begins; what it said last, and how long it took."""
    with subprocess.Popen([sys.executable, "-c", script, *given], stdout=subprocess.PIPE, text=True) as run:
        assert run.stdout is not None
        assert run.stdout.readline() == "now\n"
        start = time.monotonic()
        if after_s is not None:
            time.sleep(after_s)
            run.send_signal(signal.SIGKILL)
        said = run.stdout.read().strip()
        return said, time.monotonic() - start


def whole(path: Path) -> dict[str, tuple[int, int, int]]:
    """Each plan with its revision, its entries and its photos, all of them readable."""
    database = Database(path)
    database.open()
    store, photos, record = PlanStore(database), PhotoStore(database), RecordStore(database)
    found = {}
    for one in store.list_plans():
        shown = photos.list_photos(one.plan_id)
        assert all(len(photos.get_photo(one.plan_id, photo.photo_id)) == photo.size_bytes for photo in shown)
        found[one.plan_id] = (one.revision, len(record.list_entries(one.plan_id)), len(shown))
    database.close()
    assert look_into(path).problem == ""
    return found


def _picture(at: int) -> bytes:
    out = io.BytesIO()
    Image.effect_noise((200, 150), 50 + at).convert("RGB").save(out, "JPEG")
    return out.getvalue()


def _job(store: PlanStore, photos: PhotoStore, record: RecordStore, name: str) -> str:
    plan_id = store.create(plan_document(demo_plan(name)), "begun").plan_id
    for at in range(12):
        photos.keep_photo(plan_id, "r1", "run", "", _picture(at))
        added(record, plan_id, key=f"key-{at:05}")
    return plan_id


def test_a_restore_that_is_killed_has_happened_or_not(tmp_path: Path) -> None:
    first, rng = tmp_path / "first", random.Random(11)
    first.mkdir()
    database = Database(first / "plans.sqlite3")
    database.open()
    stores = PlanStore(database), PhotoStore(database), RecordStore(database)
    devices, backups = DeviceStore(database), Backups(database)
    _job(*stores, "plover")
    lost = devices.let_in("lost")
    old = whole(database.path)
    backups.make()
    devices.withdraw(devices.list_devices()[0].device_id)
    kept = devices.let_in("kept")
    for _ in range(15):
        _job(*stores, "tern")
    new = whole(database.path)
    database.close()

    def tried(after_s: float | None) -> float:
        here = tmp_path / "here"
        shutil.copytree(first, here)
        said, took_s = killed(_RESTORER, str(here / "plans.sqlite3"), after_s=after_s)
        found = whole(here / "plans.sqlite3")
        assert found == old or (found == new and said != "done")
        again = DeviceStore(Database(here / "plans.sqlite3"))
        assert again.known(lost) is None
        assert again.known(kept) is not None
        # Nothing that was left behind is in the way of the next.
        assert killed(_RESTORER, str(here / "plans.sqlite3"), after_s=None)[0] == "done"
        assert whole(here / "plans.sqlite3") == old
        shutil.rmtree(here)
        return took_s

    whole_s = tried(None)
    for _ in range(max(3, KILLS // 2)):
        tried(rng.uniform(0.0, 1.1 * whole_s))


def test_a_job_whose_import_is_killed_is_there_whole_or_not_at_all(tmp_path: Path) -> None:
    rng, first = random.Random(13), tmp_path / "first"
    first.mkdir()
    database = Database(first / "plans.sqlite3")
    database.open()
    stores = PlanStore(database), PhotoStore(database), RecordStore(database)
    plan_id = _job(*stores, "plover")
    zipped = tmp_path / "job.zip"
    zipped.write_bytes(take_out(database, *stores, plan_id))
    before = whole(database.path)
    database.close()

    def tried(after_s: float | None) -> float:
        here = tmp_path / "here"
        shutil.copytree(first, here)
        said, took_s = killed(_IMPORTER, str(here / "plans.sqlite3"), str(zipped), after_s=after_s)
        found = whole(here / "plans.sqlite3")
        more = [one for name, one in found.items() if name not in before]
        assert {name: one for name, one in found.items() if name in before} == before
        assert more in ([], [before[plan_id]])
        assert said != "done" or more
        assert said in ("done", "")
        shutil.rmtree(here)
        return took_s

    whole_s = tried(None)
    for _ in range(max(3, KILLS // 2)):
        tried(rng.uniform(0.0, 1.1 * whole_s))
