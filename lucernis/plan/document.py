"""The plan as a document: JSON read and checked, a plan written back. What a plan holds stands in `model.py`."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from lucernis.errors import BadDocument, FieldProblem
from lucernis.plan.model import Plan
from lucernis.plan.parts import PART_CLASSES
from lucernis.plan.references import practice_problems, reference_problems
from lucernis.plan.upgrades import upgrade

FORMAT = "lucernis-plan"
VERSION = 7


def _pointer(loc: tuple[int | str, ...]) -> str:
    # Pydantic puts the union's tag (battery, load, ...) into the path; it is not in the document.
    return "#" + "".join(f"/{step}" for step in loc if step not in PART_CLASSES)


def check_plan(plan: Plan) -> Plan:
    """Return the plan if all its references hold.

    Raises
    ------
    BadDocument
        Listing every field that does not.
    """
    problems = reference_problems(plan) + practice_problems(plan)
    if problems:
        raise BadDocument("the plan does not hold together", problems)
    return plan


def parse_plan(document: Any) -> Plan:
    """Read a plan from decoded JSON, upgrading older versions.

    Parameters
    ----------
    document : Any
        What a JSON decoder gave.

    Returns
    -------
    Plan
        A valid plan; all references hold.

    Raises
    ------
    BadDocument
        If it is not a plan; every bad field is listed with its pointer.
    """
    if not isinstance(document, dict):
        raise BadDocument("not a plan", [FieldProblem("#", "a plan is a JSON object")])
    if document.get("format") != FORMAT:
        raise BadDocument("not a plan", [FieldProblem("#/format", f"must be {FORMAT!r}")])
    document = upgrade(document, to_version=VERSION)
    try:
        # Through JSON so that strict typing applies: "3" is not a number and true is not a length.
        plan = Plan.model_validate_json(json.dumps(document), strict=True)
    except ValidationError as error:
        raise BadDocument(
            "the plan has fields that are not allowed",
            [FieldProblem(_pointer(item["loc"]), item["msg"].removeprefix("Value error, ")) for item in error.errors()],
        ) from error
    return check_plan(plan)


def plan_document(plan: Plan, *, full: bool = True) -> dict[str, Any]:
    """The plan as JSON values.

    Parameters
    ----------
    plan : Plan
        A valid plan.
    full : bool
        With every field, as edits and screens need it; else without those that stand at their default,
        as a person wants the file.

    Returns
    -------
    dict
        Ready for a JSON encoder; `parse_plan` reads it back to an equal plan.
    """
    document: dict[str, Any] = plan.model_dump(mode="json", exclude_defaults=not full)
    # A document says what it is even though these equal the defaults.
    for part, shown in zip(plan.parts, document.get("parts", []), strict=False):
        shown["kind"] = part.kind
    return {"format": FORMAT, "version": VERSION} | document
