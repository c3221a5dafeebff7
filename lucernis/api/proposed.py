"""Proposals made once: what was shown is what is taken, and nobody waits for it twice."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from threading import Lock

from cachetools import LRUCache
from fastapi import Request
from fastapi.concurrency import run_in_threadpool

from lucernis.api.heavy import done
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.pictures.drawing import Drawing
from lucernis.core.pictures.step_down import step_down_map
from lucernis.core.proposals.propose import Proposal, propose
from lucernis.core.proposals.wishes import Wishes
from lucernis.plan.document import plan_document
from lucernis.plan.model import Plan

# Those of a few people who try wishes at the same time.
_MOST = 16


@dataclass(slots=True)
class ProposedSystem(Proposal):
    """A proposal with the system as it is and as it would be, drawn; none where nothing is proposed."""

    map_before: Drawing | None = None
    map_after: Drawing | None = None


Made = tuple[Plan, ProposedSystem]
Key = tuple[bytes, tuple[str, ...] | None]


def _make(plan: Plan, wishes: Wishes, steps: list[str] | None) -> Made:
    after, proposal = propose(plan, wishes, steps)
    found = ProposedSystem(proposal.problem, proposal.steps, proposal.preview)
    if proposal.preview is not None:
        found.map_before, found.map_after = (
            step_down_map(one, evaluate(one, with_working=False)) for one in (plan, after)
        )
    return after, found


class Proposed:
    """The proposals made last, by the plan and the wishes they were made for."""

    def __init__(self) -> None:
        self._made: LRUCache[Key, Made] = LRUCache(maxsize=_MOST)
        self._lock = Lock()

    def get(self, key: Key) -> Made | None:
        """One that was made already."""
        with self._lock:
            return self._made.get(key)

    def keep(self, key: Key, made: Made) -> None:
        """Remember one."""
        with self._lock:
            self._made[key] = made


async def proposed(request: Request, plan: Plan, wishes: Wishes, steps: list[str] | None) -> Made:
    """The proposal for a plan: made in the process apart, once as long as it is among those asked for last."""
    known: Proposed = request.app.state.proposed
    asked = await run_in_threadpool(_asked, plan, wishes)
    made = known.get((asked, _named(steps)))
    if made is None:
        made = await done(request, _make, plan, wishes, steps)
        known.keep((asked, _named(steps)), made)
        every = [step.id for step in made[1].steps]
        # Steps named in full are those of a proposal with none left out.
        if steps is None and every:
            known.keep((asked, _named(every)), made)
    return made


def _asked(plan: Plan, wishes: Wishes) -> bytes:
    text = json.dumps([plan_document(plan), wishes.model_dump(mode="json")], sort_keys=True)
    return hashlib.blake2b(text.encode(), digest_size=20).digest()


def _named(steps: list[str] | None) -> tuple[str, ...] | None:
    return None if steps is None else tuple(steps)
