"""How long a small request takes while somebody else sends something large: a real server, both clients processes of
their own."""

from __future__ import annotations

import io
import multiprocessing
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
from PIL import Image

from lucernis.demo import demo_plan, load_demo
from lucernis.plan.document import plan_document
from lucernis.store.database import Database
from lucernis.store.jobs import take_out
from lucernis.store.photos import PhotoStore
from lucernis.store.plans import PlanStore
from lucernis.store.record import RecordStore

_IDLE_S, _LEAST, _PAUSE_S = 5.0, 300, 0.003
Work = Callable[[httpx.Client, str], httpx.Response]


@contextmanager
def _server(data: Path) -> Iterator[tuple[str, int]]:
    """A server of its own, its address and the id of its process."""
    port = 20000 + os.getpid() % 20000
    command = [sys.executable, "-m", "lucernis.cli", "serve", "--data", str(data), "--port", str(port)]
    with subprocess.Popen(command, stdout=subprocess.DEVNULL) as server:
        base = f"http://127.0.0.1:{port}"
        for _ in range(300):
            try:
                httpx.get(f"{base}/api/health")
                break
            except httpx.TransportError:
                time.sleep(0.1)
        try:
            yield base, server.pid
        finally:
            server.terminate()


def _send(work: Work, base: str, plan_id: str, times: int) -> None:
    with httpx.Client(base_url=base, timeout=300) as client:
        for _ in range(times):
            work(client, plan_id)


def _latencies(base: str, plan_id: str, until: Callable[[int, float], bool]) -> list[float]:
    found: list[float] = []
    with httpx.Client(base_url=base, timeout=60) as client:
        path = f"/api/plans/{plan_id}/history"
        client.get(path)
        begun = time.monotonic()
        while not until(len(found), time.monotonic() - begun):
            start = time.perf_counter()
            client.get(path)
            found.append(time.perf_counter() - start)
            time.sleep(_PAUSE_S)
    return sorted(found)


def _p99_ms(found: list[float]) -> float:
    return found[min(len(found) - 1, int(0.99 * len(found)))] * 1000


def _memory_mb(process: int) -> int:
    status = Path(f"/proc/{process}/status").read_text(encoding="utf-8")
    return int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1]) // 1024


def _photo(client: httpx.Client, plan_id: str) -> httpx.Response:
    subject = client.get(f"/api/plans/{plan_id}").json()["plan"]["places"][0]["id"]
    body = Path(os.environ["LUCERNIS_BENCH_PHOTO"]).read_bytes()
    return client.post(f"/api/plans/{plan_id}/photos", params={"subject": subject, "kind": "place"}, content=body)


def _job(client: httpx.Client, plan_id: str) -> httpx.Response:
    return client.post("/api/jobs", content=Path(os.environ["LUCERNIS_BENCH_JOB"]).read_bytes())


def _weather(client: httpx.Client, plan_id: str) -> httpx.Response:
    return client.post("/api/weather?name=x", content=b"1,2,3,4\n" * 8800)


def _stock(client: httpx.Client, plan_id: str) -> httpx.Response:
    return client.post("/api/stock/import", content=("key,count\n" + "wire:16 mm²:red,x\n" * 1990).encode())


def _proposal(client: httpx.Client, plan_id: str) -> httpx.Response:
    return client.post(f"/api/plans/{plan_id}/propose", json={"wishes": {"days_without_sun": 1 + time.time() % 1}})


def _edit(client: httpx.Client, plan_id: str) -> httpx.Response:
    revision = client.get(f"/api/plans/{plan_id}/history").json()[0]["revision"]
    patch = [{"op": "replace", "path": "/job/name", "value": f"Heron {time.time()}"}]
    return client.patch(f"/api/plans/{plan_id}", json=patch, headers={"if-match": f'"{revision}"'})


def _made(folder: Path, revisions: int) -> tuple[Path, str]:
    """A data file with the demo jobs, and what is sent: a photo of 59 megapixels, a job with a long history."""
    database = Database(folder / "plans.sqlite3")
    database.open()
    store, photos, record = PlanStore(database), PhotoStore(database), RecordStore(database)
    load_demo(store)
    picture = io.BytesIO()
    Image.effect_noise((890, 660), 60).resize((8900, 6600)).convert("RGB").save(picture, "JPEG", quality=20)
    (folder / "photo.jpg").write_bytes(picture.getvalue())
    document = plan_document(demo_plan("heron"))
    plan_id = store.create(document, "begun").plan_id
    for at in range(1, revisions):
        document["job"]["name"] = f"Heron {at}"
        store.edit(plan_id, at, document, f"edit {at}")
    (folder / "job.zip").write_bytes(take_out(database, store, photos, record, plan_id))
    heron = next(one.plan_id for one in store.list_plans() if one.document["job"]["name"] == "Heron")
    database.close()
    os.environ["LUCERNIS_BENCH_PHOTO"] = str(folder / "photo.jpg")
    os.environ["LUCERNIS_BENCH_JOB"] = str(folder / "job.zip")
    return folder / "plans.sqlite3", heron


def waiting(revisions: int = 5000) -> list[str]:
    """A small request's 99th of 100 while each of them runs, against its own when nobody else asks."""
    works: list[tuple[str, Work, int, int]] = [
        ("eight photos of 59 megapixels at once", _photo, 8, 1),
        (f"a job of {revisions} revisions", _job, 1, 1),
        ("a year of weather that is none", _weather, 1, 10),
        ("1,990 rows of stock, each wrong", _stock, 1, 10),
        ("proposals for Heron", _proposal, 1, 2),
        ("edits of Heron, one after the other", _edit, 1, 25),
    ]
    context = multiprocessing.get_context("spawn")
    with tempfile.TemporaryDirectory() as name:
        data, plan_id = _made(Path(name), revisions)
        with _server(data) as (base, process):
            # Warm, as it is after a morning's work.
            _send(_edit, base, plan_id, 3)
            idle = _latencies(base, plan_id, lambda _, taken_s: taken_s > _IDLE_S)
            idle_ms = _p99_ms(idle)
            longest_ms, memory_mb = idle[-1] * 1000, _memory_mb(process)
            lines = [
                "| a small request while ... | 99 of 100 within | against nobody else | longest | program's memory |",
                "|---|---|---|---|---|",
                f"| nobody else asks | {idle_ms:.1f} ms | 1.0 x | {longest_ms:.0f} ms | {memory_mb} MB |",
            ]
            for label, work, at_once, times in works:
                senders = [context.Process(target=_send, args=(work, base, plan_id, times)) for _ in range(at_once)]
                for one in senders:
                    one.start()

                def over(count: int, _: float, senders: list[multiprocessing.process.BaseProcess] = senders) -> bool:
                    return count >= _LEAST and not any(one.is_alive() for one in senders)

                found = _latencies(base, plan_id, over)
                for one in senders:
                    one.join()
                p99_ms = _p99_ms(found)
                lines.append(
                    f"| {label} | {p99_ms:.1f} ms | {p99_ms / idle_ms:.1f} x | {found[-1] * 1000:.0f} ms "
                    f"| {_memory_mb(process)} MB |"
                )
    return lines


if __name__ == "__main__":
    print("\n".join(waiting()))
