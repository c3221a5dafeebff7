"""Plans read and judged once: what is known of a document goes by its text, so that it can never be stale."""

from __future__ import annotations

import hashlib
import json
import threading
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from cachetools import LRUCache
from fastapi import Request, Response
from pydantic import TypeAdapter

from lucernis import __version__
from lucernis.api.shapes import ShelfCard
from lucernis.core.evaluation.effort import check_effort
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.unjudged import without_judgement
from lucernis.core.report import Report
from lucernis.errors import BadDocument, EditRefused, LucernisError, PlanDamaged
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.store.cards import CardStore
from lucernis.store.plans import PlanStore
from lucernis.store.revisions import StoredPlan

_PLAN: TypeAdapter[Plan] = TypeAdapter(Plan)
_REPORT: TypeAdapter[Report] = TypeAdapter(Report)
# An answer of a large job takes a few megabytes.
_MOST_ANSWERS = 40
# A document shares so much with the van of an open case that it is that van, renamed or touched here and there.
_SAME_VAN = 0.6


@dataclass(frozen=True, slots=True)
class Answer:
    """A plan with its report, and both as JSON."""

    plan: Plan
    report: Report
    plan_json: bytes
    report_json: bytes


def _digest(text: str) -> bytes:
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
        self._known: LRUCache[bytes, Answer] = LRUCache(_MOST_ANSWERS)
        self._plans: LRUCache[bytes, Plan] = LRUCache(_MOST_ANSWERS)
        self._lock = threading.Lock()

    def plan(self, stored: StoredPlan) -> Plan:
        """The plan of a stored document, read once. Plans are frozen, so that it can be handed round."""
        key = _digest(stored.text)
        with self._lock:
            known = self._plans.get(key)
        plan = known or parse_plan(stored.document)
        with self._lock:
            self._plans[key] = plan
        return plan

    def answer(self, stored: StoredPlan, plan: Plan | None = None, report: Report | None = None) -> Answer:
        """Plan and report of a stored document; from what is given where it was just computed."""
        key = _digest(stored.text)
        with self._lock:
            known = self._known.get(key)
        if known is not None:
            return known
        plan = plan or self.plan(stored)
        report = report or report_of(plan)
        found = Answer(plan, report, _PLAN.dump_json(plan), _REPORT.dump_json(report))
        with self._lock:
            self._known[key], self._plans[key] = found, plan
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


def envelope(request: Request, stored: StoredPlan, plan: Plan | None = None, report: Report | None = None) -> Response:
    """A plan with its report, as `PlanEnvelope` says; put together from what is encoded already."""
    answer = answers_of(request).answer(stored, plan, report)
    case_id = unjudged(request).get(stored.plan_id)
    report_json = answer.report_json
    if case_id is not None:
        report_json = _REPORT.dump_json(without_judgement(answer.report))
    else:
        keep_card(request, stored, answer)
    head = json.dumps(
        {
            "plan_id": stored.plan_id,
            "revision": stored.revision,
            "can_undo": stored.can_undo,
            "can_redo": stored.can_redo,
            "summary": stored.summary,
            "made_at": stored.made_at,
            "case_id": case_id,
        },
        ensure_ascii=False,
        separators=(",", ":"),
    ).encode()
    body = b"".join((head[:-1], b',"plan":', answer.plan_json, b',"report":', report_json, b"}"))
    return Response(body, media_type="application/json", headers={"etag": f'"{stored.revision}"'})


def _card(stored: StoredPlan, answer: Answer) -> ShelfCard:
    plan, report = answer.plan, answer.report
    return ShelfCard(
        plan_id=stored.plan_id,
        revision=stored.revision,
        name=plan.job.name,
        vehicle=plan.job.vehicle.name,
        customer=plan.job.customer,
        practice_label=report.practice_label,
        made_at=stored.made_at,
        summary=stored.summary,
        load_count=len(report.loads),
        run_count=len(report.runs),
        open_stop=report.summary.open_stop,
        open_fix=report.summary.open_fix,
        open_look=report.summary.open_look,
        ah_per_day=report.summary.ah_per_day,
        problem="",
    )


def _made_from(stored: StoredPlan) -> str:
    return f"{program()} {stored.revision} {_digest(stored.text).hex()}"


def keep_card(request: Request, stored: StoredPlan, answer: Answer) -> None:
    """Keep what the shelf shows of a plan, if it has changed."""
    cards: CardStore = request.app.state.cards
    known: dict[str, str] = request.app.state.kept_cards
    made_from = _made_from(stored)
    if known.get(stored.plan_id) != made_from:
        cards.insert_card(stored.plan_id, made_from, _card(stored, answer).model_dump_json())
        known[stored.plan_id] = made_from


def _unreadable(plan_id: str, error: LucernisError) -> ShelfCard:
    where = f" ({error.problems[0].pointer}: {error.problems[0].detail})" if isinstance(error, BadDocument) else ""
    return ShelfCard(
        plan_id=plan_id, revision=0, name=f"Plan {plan_id}", vehicle="", customer="", practice_label="", made_at="",
        summary="", load_count=0, run_count=0, open_stop=0, open_fix=0, open_look=0, ah_per_day=0.0,
        problem=f"{error}{where}",
    )  # fmt: skip


def shelf(request: Request, *, archived: bool) -> list[ShelfCard]:
    """The cards of the shelf: as they were kept, where neither plan nor program has changed since."""
    cards: CardStore = request.app.state.cards
    kept, out = cards.list_cards(), []
    for stored in store_of(request).shelf(archived=archived):
        if isinstance(stored, PlanDamaged):
            out.append(_unreadable(str(stored.value), stored))
            continue
        made_from, content = kept.get(stored.plan_id, ("", ""))
        if made_from == _made_from(stored):
            out.append(ShelfCard.model_validate_json(content))
            continue
        try:
            answer = answers_of(request).answer(stored)
        except LucernisError as error:
            out.append(_unreadable(stored.plan_id, error))
            continue
        keep_card(request, stored, answer)
        out.append(_card(stored, answer))
    return out
