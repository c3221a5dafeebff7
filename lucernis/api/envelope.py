"""The answer to whatever changes a plan: the plan with its report, put together from what is encoded already."""

from __future__ import annotations

import json

from fastapi import Request, Response

from lucernis.api.answers import REPORT, answers_of, unjudged
from lucernis.api.cards import keep_card
from lucernis.core.evaluation.unjudged import without_judgement
from lucernis.core.report import Report
from lucernis.plan.model import Plan
from lucernis.store.revisions import StoredPlan


def envelope(request: Request, stored: StoredPlan, plan: Plan | None = None, report: Report | None = None) -> Response:
    """A plan with its report, as `PlanEnvelope` says."""
    answer = answers_of(request).answer(stored, plan, report)
    case_id = unjudged(request).get(stored.plan_id)
    report_json = answer.report_json
    if case_id is not None:
        report_json = REPORT.dump_json(without_judgement(answer.report))
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
