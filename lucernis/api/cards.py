"""What the shelf shows of each job: kept with what it was made from, and made anew behind where that has changed."""

from __future__ import annotations

import threading
import time
from contextlib import suppress

from fastapi import Request

from lucernis.api.answers import Answer, answers_of, digest, program, report_of, store_of
from lucernis.api.heavy import LIMIT_S, Heavy
from lucernis.api.shapes import ShelfCard
from lucernis.core.report import Report
from lucernis.errors import BadDocument, LucernisError, PlanDamaged
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.store.cards import CardStore
from lucernis.store.revisions import StoredPlan

# A new version of the program judges every job anew: so much is waited for, the rest is done behind. [s]
_WAIT_S = 2.0


def _card(stored: StoredPlan, plan: Plan, report: Report) -> ShelfCard:
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
        behind=False,
    )


def _bare(plan_id: str, name: str, *, problem: str = "", behind: bool = False) -> ShelfCard:
    return ShelfCard(
        plan_id=plan_id, revision=0, name=name, vehicle="", customer="", practice_label="", made_at="",
        summary="", load_count=0, run_count=0, open_stop=0, open_fix=0, open_look=0, ah_per_day=0.0,
        problem=problem, behind=behind,
    )  # fmt: skip


def _made_from(stored: StoredPlan) -> str:
    return f"{program()} {stored.revision} {digest(stored.text).hex()}"


def keep_card(request: Request, stored: StoredPlan, answer: Answer) -> None:
    """Keep what the shelf shows of a plan, if it has changed."""
    known: dict[str, str] = request.app.state.kept_cards
    if known.get(stored.plan_id) != _made_from(stored):
        _keep(request.app.state.cards, known, stored, _card(stored, answer.plan, answer.report))


def _keep(cards: CardStore, known: dict[str, str], stored: StoredPlan, card: ShelfCard) -> None:
    cards.insert_card(stored.plan_id, _made_from(stored), card.model_dump_json())
    known[stored.plan_id] = _made_from(stored)


def _unreadable(plan_id: str, error: LucernisError) -> ShelfCard:
    where = f" ({error.problems[0].pointer}: {error.problems[0].detail})" if isinstance(error, BadDocument) else ""
    return _bare(plan_id, f"Plan {plan_id}", problem=f"{error}{where}")


def made_card(stored: StoredPlan) -> ShelfCard:
    """What the shelf shows of a plan, judged now; one that cannot be read says so."""
    try:
        plan = parse_plan(stored.document)
        return _card(stored, plan, report_of(plan))
    except LucernisError as error:
        return _unreadable(stored.plan_id, error)


class Behind:
    """Makes cards anew, one after the other, in the process that reads what comes in; nobody waits for them.

    What it made is held here too: a card that cannot be stored, or could not be made, is not made again and again.
    """

    def __init__(self, cards: CardStore, known: dict[str, str], by: Heavy) -> None:
        self._cards, self._known, self._by = cards, known, by
        self._waiting: dict[str, StoredPlan] = {}
        self._made: dict[str, tuple[str, ShelfCard]] = {}
        self._under_way = ""
        self._lock = threading.Lock()
        self._runs = False

    def made(self, stored: StoredPlan) -> ShelfCard | None:
        """The card it made of a revision, if it did."""
        made_from, card = self._made.get(stored.plan_id, ("", None))
        return card if made_from == _made_from(stored) else None

    def add(self, wanted: list[StoredPlan]) -> None:
        """Have cards made; the newest revision of each job that was asked for."""
        with self._lock:
            self._waiting.update({one.plan_id: one for one in wanted if _made_from(one) != self._under_way})
            if self._runs or not self._waiting:
                return
            self._runs = True
        threading.Thread(target=self._run, name="cards", daemon=True).start()

    def _run(self) -> None:
        while True:
            with self._lock:
                if not self._waiting:
                    self._runs = False
                    return
                stored = self._waiting.pop(next(iter(self._waiting)))
                self._under_way = _made_from(stored)
            try:
                card = self._by.do(threading.Event(), LIMIT_S, made_card, stored)
            except Exception as error:
                # Told on its own card as long as the program runs, and stored nowhere: it may go better the next time.
                card = _bare(stored.plan_id, f"Plan {stored.plan_id}", problem=str(error) or type(error).__name__)
            else:
                # A disk that is full keeps none: this one is held all the same.
                with suppress(LucernisError):
                    _keep(self._cards, self._known, stored, card)
            with self._lock:
                self._made[stored.plan_id], self._under_way = (_made_from(stored), card), ""


def shelf(request: Request, *, archived: bool) -> list[ShelfCard]:
    """The cards of the shelf: as they were kept, where neither plan nor program has changed since. What has is made
    anew for a moment, and behind from then on; until then its card is the one before and says so."""
    cards: CardStore = request.app.state.cards
    behind: Behind = request.app.state.behind
    kept, out = cards.list_cards(), []
    until, left = time.monotonic() + _WAIT_S, []
    for stored in store_of(request).shelf(archived=archived):
        if isinstance(stored, PlanDamaged):
            out.append(_unreadable(str(stored.value), stored))
            continue
        made_from, content = kept.get(stored.plan_id, ("", ""))
        old = _read(content)
        if old is not None and made_from == _made_from(stored):
            out.append(old)
        elif (made := behind.made(stored)) is not None:
            out.append(made)
        elif time.monotonic() < until:
            out.append(_now(request, stored))
        else:
            left.append(stored)
            name = str((stored.document.get("job") or {}).get("name") or "") or f"Plan {stored.plan_id}"
            out.append(old.model_copy(update={"behind": True}) if old else _bare(stored.plan_id, name, behind=True))
    behind.add(left)
    return out


def _read(content: str) -> ShelfCard | None:
    """A card as it was kept; None where there is none, or one of before it had all it has now."""
    try:
        return ShelfCard.model_validate_json(content) if content else None
    except ValueError:
        return None


def _now(request: Request, stored: StoredPlan) -> ShelfCard:
    try:
        answer = answers_of(request).answer(stored)
    except LucernisError as error:
        return _unreadable(stored.plan_id, error)
    keep_card(request, stored, answer)
    return _card(stored, answer.plan, answer.report)
