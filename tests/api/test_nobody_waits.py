"""Nobody waits for somebody else: the loop that serves everybody does no work, what waits holds no thread, caches have
an end. How long a small request takes meanwhile is measured in the bench."""

from __future__ import annotations

import ast
import asyncio
import inspect
import io
import json
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from PIL import Image

from lucernis.api import answers, cards
from lucernis.api.answers import Answers
from lucernis.api.app import create_app
from lucernis.api.heavy import MOST_WAITING, Heavy, done
from lucernis.core.energy import climate
from lucernis.demo import demo_plan, load_demo
from lucernis.errors import BadDocument, Busy
from lucernis.plan.document import plan_document
from lucernis.store.cards import CardStore
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore

ROOT = Path(__file__).resolve().parents[2] / "lucernis"
# What awaits the process apart or its turn. Everything else is a plain function, which is run in a thread.
AWAITING = {
    "bringJobIn", "compareOptions", "downloadFile", "getBestPlaces", "importPlan", "importWeather", "keepPhoto",
    "listMends", "makeReport", "proposeSystem", "takeProposal",
}  # fmt: skip


def _routes(client: TestClient) -> Iterator[APIRoute]:
    found = [*client.app.router.routes]  # type: ignore[attr-defined]
    while found:
        one = found.pop()
        if isinstance(one, APIRoute):
            yield one
        found += getattr(getattr(one, "original_router", one), "routes", [])


def test_only_what_waits_for_the_process_apart_is_awaited(client: TestClient) -> None:
    spec = client.get("/api/openapi.json").json()
    every = {op["operationId"] for path in spec["paths"].values() for op in path.values()}
    routes = list(_routes(client))
    assert every <= {one.operation_id for one in routes}
    assert {one.operation_id for one in routes if inspect.iscoroutinefunction(one.endpoint)} == AWAITING


@contextmanager
def _no_work_in_the_loop(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[str]]:
    """Notes whatever reads the data file, parses a plan or unpacks a picture where everybody is served."""
    found: list[str] = []

    def watched(owner: Any, name: str) -> None:
        real = getattr(owner, name)

        def called(*given: Any, **named: Any) -> Any:
            try:
                asyncio.get_running_loop()
                found.append(name)
            except RuntimeError:
                pass
            return real(*given, **named)

        monkeypatch.setattr(owner, name, called)

    watched(Database, "_connect")
    watched(Heavy, "do")
    watched(answers, "parse_plan")
    watched(answers, "report_of")
    watched(Image, "open")
    watched(json, "dumps")
    yield found


def test_what_is_awaited_does_no_work_in_the_loop(
    client: TestClient, heron: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    plan = client.get(f"/api/plans/{heron}").json()["plan"]
    job = client.get(f"/api/plans/{heron}/job").content
    block = next(one["id"] for one in plan["parts"] if one["kind"] == "fuse_block")
    picture = io.BytesIO()
    Image.new("RGB", (40, 30)).save(picture, "JPEG")
    at, place = f"/api/plans/{heron}", plan["places"][0]["id"]
    asked = {
        "bringJobIn": ("POST", "/api/jobs", {"content": job}),
        "compareOptions": ("POST", f"{at}/options", {"json": {"variants": ["as_it_is", "lead"]}}),
        "downloadFile": ("GET", f"{at}/files/runs.csv", {}),
        "getBestPlaces": ("GET", f"{at}/best-places/{block}", {}),
        "importPlan": ("POST", "/api/plans/import", {"json": plan}),
        "importWeather": ("POST", "/api/weather", {"params": {"name": "x"}, "content": b"LOCATION,x\n"}),
        "keepPhoto": (
            "POST", f"{at}/photos", {"params": {"subject": place, "kind": "place"}, "content": picture.getvalue()},
        ),
        "listMends": ("GET", f"{at}/mends/none-such", {}),
        "makeReport": ("POST", "/api/report", {"json": plan}),
        "proposeSystem": ("POST", f"{at}/propose", {"json": {"wishes": {}}}),
        "takeProposal": (
            "POST", f"{at}/propose/take", {"json": {"wishes": {}}, "headers": {"if-match": _revision(client, at)}},
        ),
    }  # fmt: skip
    assert set(asked) == AWAITING
    client.app.state.unjudged = None  # type: ignore[attr-defined]
    for operation, (method, path, rest) in asked.items():
        with monkeypatch.context() as patch, _no_work_in_the_loop(patch) as found:
            answer = client.request(method, path, **rest)
        expected = (422,) if operation == "importWeather" else (200, 409, 422)
        assert answer.status_code in expected, (operation, answer.text[:300])
        assert not found, operation
    assert client.post("/api/jobs", content=job).status_code == 200


def _revision(client: TestClient, at: str) -> str:
    return f'"{client.get(at).json()["revision"]}"'


def test_who_waits_for_long_work_holds_no_thread_and_too_many_are_sent_away() -> None:
    who = Heavy(apart=False)
    request: Any = SimpleNamespace(app=SimpleNamespace(state=SimpleNamespace(heavy=who)), is_disconnected=_never)
    go, threads = threading.Event(), list[threading.Thread]()

    async def all_at_once() -> list[Any]:
        first = [asyncio.ensure_future(done(request, go.wait, 20)) for _ in range(1 + MOST_WAITING)]
        await asyncio.sleep(0.3)
        threads.extend(one for one in threading.enumerate() if one not in before and "worker" in one.name.lower())
        with pytest.raises(Busy, match="wait already"):
            await done(request, go.wait, 20)
        go.set()
        return await asyncio.gather(*first)

    before = threading.enumerate()
    # In a thread of its own: the browser of other tests keeps a loop in this one.
    with ThreadPoolExecutor(1) as own:
        assert own.submit(lambda: asyncio.run(all_at_once())).result() == [True] * (1 + MOST_WAITING)
    assert len(threads) <= 1


async def _never() -> bool:
    return False


def test_what_nobody_waits_for_any_more_is_not_begun() -> None:
    who, gone = Heavy(apart=False), threading.Event()
    gone.set()
    apart = Heavy(apart=True)
    for each in (apart, who):
        with pytest.raises(asyncio.CancelledError):
            each.do(gone, 30, abs, -3)


def test_a_page_of_findings_tries_its_mends_one_after_the_other(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """An edit competes with one trial at most, however many findings ask for their mends."""
    plan_id = next(card["plan_id"] for card in client.get("/api/plans").json() if card["name"] == "Plover")
    findings = client.get(f"/api/plans/{plan_id}").json()["report"]["findings"]
    now, most = [0], [0]
    turn = threading.Lock()

    def slow(*_: object) -> list[Any]:
        with turn:
            now[0] += 1
            most[0] = max(most[0], now[0])
        time.sleep(0.05)
        with turn:
            now[0] -= 1
        return []

    monkeypatch.setattr("lucernis.api.plans.tried_mends", slow)
    with ThreadPoolExecutor(6) as hands:
        codes = hands.map(lambda found: client.get(f"/api/plans/{plan_id}/mends/{found['id']}").status_code, findings)
        assert set(codes) == {200}
    assert most == [1]


@pytest.mark.parametrize(
    ("path", "most"),
    [("/api/prices/import", 1_000_000), ("/api/weather?name=x", 5_000_000), ("/api/plans/import", 5_000_000)],
)
def test_a_body_is_as_large_as_what_it_is_for(client: TestClient, path: str, most: int) -> None:
    for size, refused in ((most, False), (most + 1, True)):
        answer = client.post(path, content=b"x" * size)
        assert (answer.status_code == 413) == refused
        assert answer.status_code >= 400


def test_a_table_of_a_hundred_thousand_lines_is_refused_before_it_is_read(monkeypatch: pytest.MonkeyPatch) -> None:
    import pvlib

    monkeypatch.setattr(pvlib.iotools, "read_tmy3", lambda *_, **__: pytest.fail("read"))
    with pytest.raises(BadDocument) as caught:
        climate.read_weather("1,2,3\n" * 8821, "x")
    assert "has 8821 lines" in caught.value.problems[0].detail


def test_a_photo_is_unpacked_no_larger_than_it_is_kept(tmp_path: Path) -> None:
    picture = tmp_path / "large.jpg"
    Image.effect_noise((890, 660), 60).resize((8900, 6600)).convert("RGB").save(picture, "JPEG", quality=20)
    text = """
import resource, sys
from pathlib import Path
from lucernis.exports.photos import fit_to_keep
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
made = fit_to_keep(Path(sys.argv[1]).read_bytes())
print((resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) // 1024, len(made))
"""
    said = subprocess.run([sys.executable, "-c", text, str(picture)], capture_output=True, text=True, check=True)
    grown_mb, size = (int(one) for one in said.stdout.split())
    # Whole it would be 176 MB, and as much again turned upright.
    assert grown_mb < 90
    assert size > 10_000


class TestCards:
    @pytest.fixture
    def shelf(self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
        database = Database(tmp_path / "plans.sqlite3")
        database.open()
        load_demo(PlanStore(database))
        with TestClient(create_app(database), base_url="http://127.0.0.1:8765") as client:
            yield client

    def test_a_new_version_of_the_program_shows_the_old_cards_and_makes_them_anew(
        self, shelf: TestClient, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(cards, "_WAIT_S", 60.0)
        before = {one["name"]: one for one in shelf.get("/api/plans").json()}
        assert not any(one["behind"] for one in before.values())
        monkeypatch.setattr(cards, "program", lambda: "the next")
        monkeypatch.setattr(cards, "_WAIT_S", -1.0)
        old = shelf.get("/api/plans").json()
        assert {one["name"]: one["ah_per_day"] for one in old} == {
            name: one["ah_per_day"] for name, one in before.items()
        }
        assert all(one["behind"] for one in old)
        _until(lambda: not any(one["behind"] for one in shelf.get("/api/plans").json()))
        assert {one["name"]: one for one in shelf.get("/api/plans").json()} == before

    def test_a_job_without_a_card_is_there_by_its_name(
        self, shelf: TestClient, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(cards, "_WAIT_S", -1.0)
        first = shelf.get("/api/plans").json()
        assert {one["name"] for one in first} >= {"Heron", "Tern", "Plover"}
        assert all(one["behind"] and not one["problem"] for one in first)
        _until(lambda: all(one["load_count"] for one in shelf.get("/api/plans").json()))

    def test_work_that_fails_behind_is_told_on_its_card_and_the_rest_goes_on(
        self, shelf: TestClient, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(cards, "_WAIT_S", -1.0)
        real = cards.made_card

        def broken(stored: Any) -> Any:
            if stored.document["job"]["name"] == "Tern":
                raise RuntimeError("not this one")
            return real(stored)

        monkeypatch.setattr(cards, "made_card", broken)
        shelf.get("/api/plans")
        _until(lambda: not any(one["behind"] for one in shelf.get("/api/plans").json()))
        assert [one["problem"] for one in shelf.get("/api/plans").json() if one["problem"]] == ["not this one"]
        # Stored nowhere: with the program started again it is tried again.
        app = create_app(shelf.app.state.database)  # type: ignore[attr-defined]
        monkeypatch.undo()
        monkeypatch.setattr(cards, "_WAIT_S", 60.0)
        with TestClient(app, base_url="http://127.0.0.1:8765") as again:
            assert not [one["problem"] for one in again.get("/api/plans").json() if one["problem"]]

    def test_where_no_card_can_be_stored_each_is_made_once(
        self, shelf: TestClient, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(cards, "_WAIT_S", -1.0)
        monkeypatch.setattr(CardStore, "insert_card", lambda *_: None)
        real, made = cards.made_card, list[str]()
        monkeypatch.setattr(cards, "made_card", lambda stored: made.append(stored.plan_id) or real(stored))
        shelf.get("/api/plans")
        _until(lambda: not any(one["behind"] for one in shelf.get("/api/plans").json()))
        for _ in range(3):
            assert all(one["load_count"] for one in shelf.get("/api/plans").json())
        assert len(made) == len(set(made)) == len(shelf.get("/api/plans").json())


def _until(holds: Any) -> None:
    end = time.monotonic() + 60
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.05)


class TestVerdictsOfBefore:
    def test_another_program_is_another_whatever_of_it_changed(
        self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """Verdicts are kept by what made them: rules, formulas, tables and the model of a plan."""
        for folder in ("core/wire", "plan", "practice/tables"):
            (tmp_path / folder).mkdir(parents=True)
        kept = {
            "core/wire/copper.py": "a", "plan/model.py": "b", "practice/tables/ampacity.csv": "c",
            "practice/sets.toml": "d", "core/recipes.json": "e",
        }  # fmt: skip
        for name, text in kept.items():
            (tmp_path / name).write_text(text, encoding="utf-8")
        monkeypatch.setattr(answers, "files", lambda _: tmp_path)

        def now() -> str:
            answers.program.cache_clear()
            return answers.program()

        try:
            found = {now()}
            assert found == {now()}
            for name in kept:
                (tmp_path / name).write_text("other", encoding="utf-8")
                found.add(now())
            (tmp_path / "plan" / "model.py").rename(tmp_path / "plan" / "renamed.py")
            found.add(now())
            monkeypatch.setattr(answers, "__version__", "999")
            found.add(now())
            assert len(found) == len(kept) + 3
        finally:
            monkeypatch.undo()
            answers.program.cache_clear()


class TestCaches:
    def test_none_without_an_end_goes_by_figures(self) -> None:
        """A cache that goes by a figure or a thing anybody may type must have a size."""
        plain = {"str", "int", "bool", "FuseFamily", "AmpacityTable", "SizeSystem"}
        wrong = []
        for path in ROOT.rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.FunctionDef) and any(
                    ast.unparse(one) in ("cache", "functools.cache") for one in node.decorator_list
                ):
                    given = [*node.args.args, *node.args.kwonlyargs]
                    wrong += [
                        f"{path.name}:{node.name}"
                        for one in given
                        if one.annotation is None
                        or (
                            ast.unparse(one.annotation) not in plain
                            and not ast.unparse(one.annotation).startswith("Literal[")
                        )
                    ]
        assert wrong == []

    def test_answers_hold_so_many_bytes_and_what_is_larger_is_computed_each_time(
        self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        database = Database(tmp_path / "plans.sqlite3")
        database.open()
        store = PlanStore(database)
        document = plan_document(demo_plan("plover"))
        size = len(Answers().answer(store.create(document, "one")).report_json)
        monkeypatch.setattr(answers, "_MOST_ANSWERS", int(2.5 * size))
        known = Answers()
        made = [store.create({**document, "job": {**document["job"], "name": f"Plover {at}"}}, "x") for at in range(4)]
        kept = [known.answer(one) for one in made]
        assert known.answer(made[3]) is kept[3]
        assert known.answer(made[0]) is not kept[0]
        monkeypatch.setattr(answers, "_MOST_ANSWERS", size // 2)
        small = Answers()
        assert small.answer(made[0]) is not small.answer(made[0])
        assert small.answer(made[0]).report_json == kept[0].report_json
