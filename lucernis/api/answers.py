"""Plans read and judged once: what is known of a document goes by its text, so that it can never be stale."""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from cachetools import LRUCache
from fastapi import Request
from pydantic import TypeAdapter

from lucernis import __version__
from lucernis.core.evaluation.effort import check_effort
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report
from lucernis.errors import EditRefused
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.store.plans import PlanStore
from lucernis.store.revisions import StoredPlan

_PLAN: TypeAdapter[Plan] = TypeAdapter(Plan)
REPORT: TypeAdapter[Report] = TypeAdapter(Report)
# In bytes of JSON, the least it could be kept as; read, it takes five to ten times that.
_MOST_ANSWERS, _MOST_PLANS = 20_000_000, 6_000_000
# A document shares so much with the van of an open case that it is that van, renamed or touched here and there.
_SAME_VAN = 0.6


@dataclass(frozen=True, slots=True)
class Answer:
    """A plan with its report, and both as JSON."""

    plan: Plan
    report: Report
    plan_json: bytes
    report_json: bytes


def digest(text: str) -> bytes:
    return hashlib.blake2b(text.encode(), digest_size=20).digest()


@cache
def program() -> str:
    """What this program is: its version and all that rules and tables are made of. Reports of another may differ."""
    found = hashlib.blake2b(__version__.encode(), digest_size=12)

    def add(folder: Any) -> None:
        for entry in sorted(folder.iterdir(), key=lambda one: one.name):
            if entry.is_dir():
                add(entry)
            elif entry.name.endswith((".py", ".csv", ".json", ".toml")):
                found.update(entry.name.encode() + entry.read_bytes())

    for name in ("core", "plan", "practice"):
        add(files("lucernis") / name)
    return found.hexdigest()


def report_of(plan: Plan) -> Report:
    """What is told of a plan with every answer. A figure's working is asked for when it is opened: with every edit it
    would be most of the answer.

    Raises
    ------
    TooMuch
        If it could not be computed in reasonable time.
    """
    check_effort(plan)
    return evaluate(plan, with_working=False)


class Answers:
    """The last answers, by the text of their documents."""

    def __init__(self) -> None:
        self._known: LRUCache[bytes, Answer] = LRUCache(_MOST_ANSWERS, lambda one: len(one.report_json))
        self._plans: LRUCache[bytes, tuple[Plan, int]] = LRUCache(_MOST_PLANS, lambda one: one[1])
        self._lock = threading.Lock()

    def plan(self, stored: StoredPlan) -> Plan:
        """The plan of a stored document, read once. Plans are frozen, so that it can be handed round."""
        key = digest(stored.text)
        with self._lock:
            known = self._plans.get(key)
        plan = known[0] if known is not None else parse_plan(stored.document)
        self._keep(key, plan, len(stored.text))
        return plan

    def _keep(self, key: bytes, plan: Plan, size: int, answer: Answer | None = None) -> None:
        with self._lock:
            # What is larger than all that is kept is computed each time.
            with suppress(ValueError):
                self._plans[key] = plan, size
            if answer is not None:
                with suppress(ValueError):
                    self._known[key] = answer

    def answer(self, stored: StoredPlan, plan: Plan | None = None, report: Report | None = None) -> Answer:
        """Plan and report of a stored document; from what is given where it was just computed."""
        key = digest(stored.text)
        with self._lock:
            known = self._known.get(key)
        if known is not None:
            return known
        plan = plan or self.plan(stored)
        report = report or report_of(plan)
        found = Answer(plan, report, _PLAN.dump_json(plan), REPORT.dump_json(report))
        self._keep(key, plan, len(stored.text), found)
        return found


def answers_of(request: Request) -> Answers:
    """The answers this application remembers."""
    found: Answers = request.app.state.answers
    return found


def store_of(request: Request) -> PlanStore:
    """The repository this application was built with."""
    store: PlanStore = request.app.state.plans
    return store


def unjudged(request: Request) -> dict[str, str]:
    """Vans of the school that are looked over for mistakes: plan to case. Nothing may give them away."""
    found: dict[str, str] | None = request.app.state.unjudged
    if found is None:
        found = request.app.state.unjudged = request.app.state.school.list_open_plans()
    return found


def not_while_searched(request: Request, plan_id: str) -> None:
    """Keep what judges a van from those who are to find what is wrong in it.

    Raises
    ------
    EditRefused
        If the van is looked over for mistakes just now.
    """
    if plan_id in unjudged(request):
        raise EditRefused(
            "this van is looked over for mistakes: hand the case in first",
            field="plan_id", value=plan_id, allowed="a plan that is judged",
        )  # fmt: skip


def _things(document: Mapping[str, Any]) -> frozenset[tuple[str, str]]:
    """What a document is made of: its parts and runs by id and name."""
    lists = (document.get("parts") or (), document.get("runs") or ())
    return frozenset(
        (str(one.get("id")), str(one.get("name") or one.get("tag")))
        for some in lists
        for one in some
        if isinstance(one, dict)
    )


def not_a_searched_van(request: Request, document: Mapping[str, Any]) -> None:
    """Keep the van of an open case from being judged under another name: it is known by what it is made of.

    Raises
    ------
    EditRefused
        If a document is, for the most part, such a van.
    """
    for plan_id in unjudged(request):
        van = _things(store_of(request).get(plan_id).document)
        here = _things(document)
        if van and len(van & here) > _SAME_VAN * len(van | here):
            raise EditRefused(
                "this is the van of an open case: hand the case in first",
                field="plan", value=plan_id, allowed="a plan that is judged",
            )  # fmt: skip


def plan_of(request: Request, plan_id: str) -> Plan:
    """The newest revision of a plan, read."""
    return answers_of(request).plan(store_of(request).get(plan_id))
