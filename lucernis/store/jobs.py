"""A whole job as one file: a zip with the plan as it stands and its history, to be carried elsewhere and back."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable, Iterable, Iterator
from dataclasses import asdict
from typing import Any, get_args

from lucernis.errors import BadDocument, FieldProblem, LucernisError
from lucernis.store.database import Database
from lucernis.store.deltas import checksum, rebuilt
from lucernis.store.photos import MOST_PHOTOS, Kind, PhotoOf, PhotoStore
from lucernis.store.plans import PlanStore
from lucernis.store.queries_file import load_queries
from lucernis.store.record import MOST_ENTRIES, Entry, RecordStore
from lucernis.store.revisions import Brought, StoredPlan

PLAN_NAME = "plan.lucernis.json"
HISTORY_NAME = "history.ndjson"
PHOTOS, PHOTOS_NAME = "photos", "photos.ndjson"
RECORD_NAME = "record.ndjson"
MOST_PHOTO_BYTES = 2_000_000
# Unpacked; a zip may claim to hold far more than it weighs.
MOST_BYTES = 60_000_000
MOST_REVISIONS = 20_000
_FIELDS = ("revision", "kind", "origin", "before", "redo", "summary", "made_at", "whole", "content", "checksum", "name")


def take_out(database: Database, store: PlanStore, photos: PhotoStore, record: RecordStore, plan_id: str) -> bytes:
    """A job as a zip.

    Parameters
    ----------
    database : Database
        Where it is.
    store : PlanStore
        The plans there.
    photos : PhotoStore
        Their photos.
    record : RecordStore
        What was done to their vehicles.
    plan_id : str
        Which.

    Returns
    -------
    bytes
        `plan.lucernis.json` is the plan as any import takes it; `history.ndjson` has a line of JSON a revision, whole
        documents and what changed between them; photos lie in a folder, `photos.ndjson` says what each shows;
        `record.ndjson` has a line an entry of the record.

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
        told = [one for one in photos.list_photos(plan_id) if one.size_bytes]
        for one in told:
            # A JPEG is packed already.
            body = photos.get_photo(plan_id, one.photo_id)
            file.writestr(f"{PHOTOS}/{one.photo_id}.jpg", body, compress_type=zipfile.ZIP_STORED)
        if told:
            file.writestr(PHOTOS_NAME, _lines(told))
        if entries := record.list_entries(plan_id):
            file.writestr(RECORD_NAME, _lines(entries))
    return out.getvalue()


def _lines(told: Iterable[Any]) -> str:
    return "\n".join(json.dumps(asdict(one), ensure_ascii=False) for one in told) + "\n"


def record_in(body: bytes) -> list[Entry]:
    """The record of a job's zip.

    Parameters
    ----------
    body : bytes
        A zip from `take_out`, read by `bring_in` before.

    Returns
    -------
    list of Entry
        Oldest first; none where the zip has none.

    Raises
    ------
    BadDocument
        Naming the line that cannot be read.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(body)) as file:
            text = _member(file, RECORD_NAME) if RECORD_NAME in file.namelist() else ""
    except LucernisError:
        raise
    except Exception as error:
        # What zlib raises has no common class with the rest.
        raise _refused("not a zip that can be read") from error
    found: list[Entry] = []
    for number, line in enumerate(text.splitlines()[:MOST_ENTRIES], start=1):
        try:
            found.append(Entry.read(json.loads(line), number))
        except (ValueError, TypeError, KeyError, RecursionError) as error:
            raise _refused(f"this entry cannot be read ({str(error)[:120]})", f"#/record/{number}") from error
    backs = [one.takes_back for one in found if one.takes_back is not None]
    if len({one.key for one in found}) < len(found) or len(set(backs)) < len(backs):
        raise _refused("two entries have one key, or take one entry back", "#/record")
    return found


def photos_in(body: bytes) -> Iterator[tuple[str, Kind, str, str, bytes]]:
    """Photos of a job's zip, as they lie there, one at a time.

    Parameters
    ----------
    body : bytes
        A zip from `take_out`, read by `bring_in` before.

    Yields
    ------
    tuple
        Subject, what kind of thing that is, note, when it was taken in, and the picture; none where the zip has none.

    Raises
    ------
    BadDocument
        If a line cannot be read or its picture is missing.
    """
    with zipfile.ZipFile(io.BytesIO(body)) as file:
        if PHOTOS_NAME not in file.namelist():
            return
        for number, line in enumerate(_member(file, PHOTOS_NAME).splitlines()[:MOST_PHOTOS], start=1):
            try:
                one = json.loads(line)
                subject, note, made_at = str(one["subject"])[:40], str(one["note"])[:400], str(one["made_at"])[:40]
                kind: Kind = next((kind for kind in get_args(PhotoOf) if kind == one.get("kind")), "")
                info = file.getinfo(f"{PHOTOS}/{one['photo_id']}.jpg")
            except (ValueError, TypeError, KeyError) as error:
                raise _refused("this photo cannot be read", f"#/photos/{number}") from error
            if info.file_size > MOST_PHOTO_BYTES:
                raise _refused(f"this photo has more than {MOST_PHOTO_BYTES} bytes", f"#/photos/{number}")
            with file.open(info) as member:
                picture = member.read(MOST_PHOTO_BYTES)
            yield subject, kind, note, made_at, picture


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


def history_in(body: bytes, check: Callable[[dict[str, Any]], object]) -> tuple[list[Brought], str]:
    """The history of a job's zip, read and checked; nothing is stored.

    Parameters
    ----------
    body : bytes
        A zip from `take_out`.
    check : callable
        Raises if a document is no plan; called with the newest.

    Returns
    -------
    tuple
        Its revisions, oldest first, and the text of the newest, as `PlanStore.bring_in` takes them.

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
    return revisions, text


def bring_in(store: PlanStore, body: bytes, check: Callable[[dict[str, Any]], object]) -> StoredPlan:
    """Take the history of a job in as a new plan, all or nothing; see `history_in`."""
    return store.bring_in(*history_in(body, check))
