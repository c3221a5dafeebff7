"""Brings older plan documents up to the present version, one step a version, before they are validated.

A step takes a document of version n and returns one of version n + 1.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from lucernis.errors import BadDocument, FieldProblem

Step = Callable[[dict[str, Any]], dict[str, Any]]


def _to_2(document: dict[str, Any]) -> dict[str, Any]:
    """Version 2 adds kinds of parts, legs, parallel conductors, terminals and switching; all of version 1 stands."""
    return document


def _to_3(document: dict[str, Any]) -> dict[str, Any]:
    """Version 3 adds chargers, panels, isolators, alternators, links in series and the days; version 2 stands."""
    return document


def _to_4(document: dict[str, Any]) -> dict[str, Any]:
    """Version 4 adds how a wire ends, diodes, capped ends, poles and positions of switches, what a part is made for;
    all of version 3 stands."""
    return document


def _to_5(document: dict[str, Any]) -> dict[str, Any]:
    """Version 5 adds the outline, positions of places, channels and ways; lengths of version 4 stand as they were typed
    or guessed, since no run of it follows channels."""
    return document


def _to_6(document: dict[str, Any]) -> dict[str, Any]:
    """Version 6 adds whether a bolt on the body is sealed; of the bolts of version 5 nobody has said."""
    return document


def _to_7(document: dict[str, Any]) -> dict[str, Any]:
    """Version 7 adds thread and torque of an end; of those of version 6 nobody has said, so they are the usual ones."""
    return document


STEPS: dict[int, Step] = {1: _to_2, 2: _to_3, 3: _to_4, 4: _to_5, 5: _to_6, 6: _to_7}


def upgrade(document: dict[str, Any], *, to_version: int, steps: Mapping[int, Step] = STEPS) -> dict[str, Any]:
    """Return the document at `to_version`.

    Raises
    ------
    BadDocument
        If its version is not a whole number, is newer than this program, or has no way up.
    """
    version = document.get("version")
    if isinstance(version, bool) or not isinstance(version, int):
        raise BadDocument("a plan without a version", [FieldProblem("#/version", "must be a whole number")])
    if version > to_version:
        raise BadDocument(
            "a plan from a newer program",
            [FieldProblem("#/version", f"is {version}; this program reads up to {to_version}")],
        )
    while version < to_version:
        if version not in steps:
            raise BadDocument("a plan of an unknown version", [FieldProblem("#/version", f"{version} is not known")])
        document = steps[version](document) | {"version": version + 1}
        version += 1
    return document
