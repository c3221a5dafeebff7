"""Heavy work apart: what comes of it, what goes wrong in it, its limit, and that nobody's leaving holds it up."""

from __future__ import annotations

import copy
import os
import threading
import time
from asyncio import CancelledError
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from lucernis.api.app import create_app
from lucernis.api.heavy import Heavy
from lucernis.demo import demo_plan
from lucernis.errors import (
    BadDocument,
    FieldProblem,
    NotFound,
    OutOfRange,
    StaleRevision,
    TooMuch,
    require_range,
)
from lucernis.plan.document import plan_document
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore


@pytest.fixture(scope="module")
def heavy() -> Iterator[Heavy]:
    found = Heavy(apart=True)
    found.start()
    yield found
    found.stop()


def test_it_is_done_in_another_process_and_again(heavy: Heavy) -> None:
    first = heavy.do(threading.Event(), 30, os.getpid)
    assert first != os.getpid()
    assert heavy.do(threading.Event(), 30, os.getpid) == first


def test_an_error_comes_back_as_it_is(heavy: Heavy) -> None:
    with pytest.raises(OutOfRange, match="x must be") as caught:
        heavy.do(threading.Event(), 30, require_range, "x", float("nan"))
    assert str(caught.value)


def test_every_error_of_ours_travels() -> None:
    problems = [FieldProblem("#/a", "b")]
    for error in (BadDocument("no", problems), StaleRevision("late", current_revision=3), NotFound("x", field="y")):
        again = copy.copy(error)
        assert type(again) is type(error)
        assert (str(again), vars(again)) == (str(error), vars(error))


def test_beyond_its_limit_it_is_ended_and_the_next_is_done(heavy: Heavy) -> None:
    start = time.monotonic()
    with pytest.raises(TooMuch, match="took longer than 1 s and was ended"):
        heavy.do(threading.Event(), 1, time.sleep, 60)
    assert time.monotonic() - start < 20
    assert heavy.do(threading.Event(), 30, abs, -3) == 3


def test_it_is_ended_when_nobody_waits(heavy: Heavy) -> None:
    gone = threading.Event()
    threading.Timer(0.5, gone.set).start()
    with pytest.raises(CancelledError):
        heavy.do(gone, 60, time.sleep, 60)
    assert heavy.do(threading.Event(), 30, abs, -3) == 3


def test_a_process_that_dies_is_told_and_replaced(heavy: Heavy) -> None:
    with pytest.raises((RuntimeError, EOFError)):
        heavy.do(threading.Event(), 30, os._exit, 3)
    assert heavy.do(threading.Event(), 30, abs, -3) == 3


def test_proposals_options_and_papers_are_the_same_as_in_the_program_itself(heavy: Heavy, tmp_path: Path) -> None:
    answers = []
    for number, who in enumerate((None, heavy)):
        database = Database(tmp_path / f"{number}.sqlite3")
        database.open()
        plan_id = PlanStore(database).create(plan_document(demo_plan("plover_mended")), "x").plan_id
        with TestClient(create_app(database, heavy=who), base_url="http://127.0.0.1:8765") as client:
            at = f"/api/plans/{plan_id}"
            answers.append(
                [
                    client.post(f"{at}/propose", json={"wishes": {}}).json(),
                    client.post(f"{at}/options", json={"variants": ["as_it_is", "lead"]}).json(),
                    client.get(f"{at}/files/runs.csv").content,
                    client.get(f"{at}/files/fuse-window.svg", params={"subject": "nobody"}).status_code,
                ]
            )
    assert answers[0] == answers[1]
    assert answers[0][3] >= 400
