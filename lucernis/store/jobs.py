"""A whole job as one file: a zip with the plan as it stands and its history, to be carried elsewhere and back."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from typing import Any

from lucernis.errors import BadDocument, FieldProblem, LucernisError
from lucernis.store.database import Database
from lucernis.store.deltas import checksum, rebuilt
from lucernis.store.plans import PlanStore
from lucernis.store.queries_file import load_queries
from lucernis.store.revisions import Brought, StoredPlan

PLAN_NAME = "plan.lucernis.json"
HISTORY_NAME = "history.ndjson"
# Unpacked; a zip may claim to hold far more than it weighs.
MOST_BYTES = 60_000_000
MOST_REVISIONS = 20_000
_FIELDS = ("revision", "kind", "origin", "before", "redo", "summary", "made_at", "whole", "content", "checksum", "name")


def take_out(database: Database, store: PlanStore, plan_id: str) -> bytes:
    """A job as a zip.

    Parameters
    ----------
    database : Database
        Where it is.
    store : PlanStore
        The plans there.
    plan_id : str
        Which.

    Returns
    -------
    bytes
        `plan.lucernis.json` is the plan as any import takes it; `history.ndjson` has a line of JSON a revision, whole
        documents and what changed between them. Pictures will lie in a folder beside them.

    Raises
    ------
    NotFound
        If there is no such plan.
    """
    stored = store.get(plan_id)
    sql = load_queries("plans")["list_all"].sql
    with database.reading() as connection:
        rows = connection.execute(sql, {"plan_id": plan_id}).fetchall()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr(PLAN_NAME, json.dumps(stored.document, ensure_ascii=False, indent=2) + "\n")
        lines = [json.dumps({name: row[name] for name in _FIELDS}, ensure_ascii=False) for row in rows]
        file.writestr(HISTORY_NAME, "\n".join(lines) + "\n")
    return out.getvalue()


def _refused(detail: str, pointer: str = "#/file") -> BadDocument:
    return BadDocument("this is no job that can be brought in", [FieldProblem(pointer, detail)])


def _member(file: zipfile.ZipFile, name: str) -> str:
    try:
        info = file.getinfo(name)
    except KeyError:
        raise _refused(f"{name} is missing in the zip") from None
    if info.file_size > MOST_BYTES:
        raise _refused(f"{name} unpacks to more than {MOST_BYTES} bytes")
    with file.open(info) as member:
        body = member.read(MOST_BYTES + 1)
    if len(body) > MOST_BYTES:
        raise _refused(f"{name} unpacks to more than {MOST_BYTES} bytes")
    return body.decode("utf-8")


def bring_in(store: PlanStore, body: bytes, check: Callable[[dict[str, Any]], object]) -> StoredPlan:
    """Take a job in as a new plan with its history, all or nothing.

    Parameters
    ----------
    store : PlanStore
        Where to.
    body : bytes
        A zip from `take_out`.
    check : callable
        Raises if a document is no plan; called with the newest.

    Returns
    -------
    StoredPlan
        The new plan at its newest revision.

    Raises
    ------
    BadDocument
        If it is no such zip, or what is in it does not hold together; the line of the history is named.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(body)) as file:
            lines = [line for line in _member(file, HISTORY_NAME).splitlines() if line.strip()]
    except LucernisError:
        raise
    except (zipfile.BadZipFile, UnicodeDecodeError, RuntimeError, NotImplementedError, OSError, EOFError) as error:
        raise _refused(f"not a zip that can be read ({error})") from error
    except Exception as error:
        # What zlib raises has no common class with the rest.
        raise _refused("not a zip that can be read") from error
    if not 1 <= len(lines) <= MOST_REVISIONS:
        raise _refused(f"a history has 1 to {MOST_REVISIONS} lines, this one {len(lines)}")
    revisions, text = [], ""
    for number, line in enumerate(lines, start=1):
        try:
            one = Brought.read(json.loads(line), number)
            text = one.content if one.whole else rebuilt(text, [one.content])
        except (ValueError, TypeError, KeyError, IndexError, RecursionError) as error:
            raise _refused(f"this revision cannot be read ({str(error)[:120]})", f"#/history/{number}") from error
        if checksum(text) != one.checksum:
            raise _refused("it reads otherwise than it was stored", f"#/history/{number}")
        revisions.append(one)
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _refused("the newest revision is no JSON", f"#/history/{len(lines)}") from error
    check(document)
    return store.bring_in(revisions, text)
