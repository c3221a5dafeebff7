"""Plans that could not be computed in reasonable time are refused by their shape, before they are tried."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import pytest
from fastapi.testclient import TestClient

from bench.plans import laid_plan, made_plan
from bench.shapes import bank_plan, chain_plan, ring_plan
from lucernis.api.app import create_app
from lucernis.core.circuit.topology import trace
from lucernis.core.evaluation.effort import check_effort, longest_chain
from lucernis.demo import JOBS, demo_plan
from lucernis.errors import TooMuch
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan
from lucernis.store.database import Database


@pytest.mark.parametrize(
    ("made", "told"),
    [
        (partial(chain_plan, 4500), "4500 runs one behind the other"),
        (partial(bank_plan, 2000, 60), "59 more ways to feed"),
    ],
    ids=["chain", "bank"],
)
def test_what_would_hold_up_everybody_is_named(made: Callable[[], Plan], told: str) -> None:
    plan = made()
    with pytest.raises(TooMuch, match=told):
        check_effort(plan)


def bent_plan(runs: int, *, bars: int) -> Plan:
    """Every run bars other channels."""
    document = plan_document(laid_plan(runs, 200))
    ids = [channel["id"] for channel in document["channels"]]
    for at, run in enumerate(document["runs"]):
        run["way"] = {"avoid": [ids[(at + 7 * k) % len(ids)] for k in range(bars)], "use": []}
    return parse_plan(document)


def test_ways_barred_run_by_run_are_refused_in_thousands_and_not_in_a_van() -> None:
    check_effort(bent_plan(150, bars=3))
    document = plan_document(bent_plan(2000, bars=3))
    ids = [channel["id"] for channel in document["channels"]]
    for at, run in enumerate(document["runs"]):
        run["way"]["avoid"] = [ids[at % 300], ids[300 + at // 300]]
        run["way"]["use"] = [ids[(at + 40) % 300], ids[(at + 80) % 300], ids[(at + 120) % 300]]
    with pytest.raises(TooMuch, match="runs that bar channels"):
        check_effort(parse_plan(document))


@pytest.mark.parametrize(
    "made",
    [
        partial(chain_plan, 1000),
        partial(made_plan, 4600),
        partial(bank_plan, 500, 40),
        partial(ring_plan, 500),
        *(partial(demo_plan, name) for name in JOBS),
    ],
    ids=["chain", "tree", "bank", "ring", *JOBS],
)
def test_what_takes_seconds_is_not_refused(made: Callable[[], Plan]) -> None:
    check_effort(made())


def test_the_chain_is_counted() -> None:
    assert longest_chain(trace(chain_plan(37))) == 37
    assert longest_chain(trace(bank_plan(40))) == 5


def test_refused_it_is_not_stored(tmp_path: object) -> None:
    database = Database(tmp_path / "plans.sqlite3")  # type: ignore[operator]
    database.open()
    with TestClient(create_app(database), base_url="http://127.0.0.1:8765") as client:
        answer = client.post("/api/plans/import", json=plan_document(chain_plan(4500), full=False))
        assert answer.status_code == 422
        assert "one behind the other" in answer.json()["detail"]
        assert client.get("/api/plans").json() == []
