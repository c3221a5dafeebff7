"""Photos of a survey, kept with their job."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Literal

from lucernis.errors import EditRefused, NotFound
from lucernis.store.database import Database
from lucernis.store.queries_file import load_queries

PhotoOf = Literal["channel", "place", "run", "part"]
Kind = PhotoOf | Literal[""]
MOST_PHOTOS = 500


@dataclass(frozen=True, slots=True)
class Photo:
    """A photo without its bytes: what it shows, and when it was taken in. `kind` is empty where nobody said; a size of
    0 says that its picture was missing beside the backup that was brought back."""

    photo_id: str
    subject: str
    kind: Kind
    note: str
    made_at: str
    size_bytes: int


def _none(photo_id: str) -> NotFound:
    return NotFound(f"no photo {photo_id!r}", field="photo_id", value=photo_id, allowed="a photo of this plan")


class PhotoStore:
    """Repository of photos."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("photos").items()}

    def list_photos(self, plan_id: str) -> list[Photo]:
        """Photos of a plan, oldest first."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_photos"], {"plan_id": plan_id}).fetchall()
        return [Photo(**{name: row[name] for name in Photo.__slots__}) for row in rows]

    def get_photo(self, plan_id: str, photo_id: str) -> bytes:
        """The JPEG of one photo.

        Raises
        ------
        NotFound
            If the plan has no such photo, or its picture is missing.
        """
        with self._database.reading() as connection:
            row = connection.execute(self._sql["get_photo"], {"plan_id": plan_id, "photo_id": photo_id}).fetchone()
        if row is None:
            raise _none(photo_id)
        if row["picture"] is None:
            raise NotFound(
                f"the picture of photo {photo_id!r} was not beside the backup that was brought back",
                field="photo_id",
                value=photo_id,
                allowed="a photo whose picture is kept",
            )
        return bytes(row["picture"])

    def keep_photo(
        self,
        plan_id: str,
        subject: str,
        kind: Kind,
        note: str,
        picture: bytes,
        made_at: str | None = None,
    ) -> Photo:
        """Keep a photo.

        Raises
        ------
        EditRefused
            If the plan has too many.
        """
        photo_id = secrets.token_hex(6)
        stamp = made_at or self._now().astimezone(UTC).isoformat(timespec="seconds")
        with self._database.writing() as connection:
            held = connection.execute(self._sql["get_photo_count"], {"plan_id": plan_id}).fetchone()["photos"]
            if held >= MOST_PHOTOS:
                raise EditRefused(
                    f"the job has {held} photos", field="photo", value=subject, allowed=f"{MOST_PHOTOS} in all"
                )
            digest = hashlib.sha256(picture).hexdigest()
            connection.execute(self._sql["insert_picture"], {"digest": digest, "picture": picture})
            connection.execute(
                self._sql["insert_photo"],
                {
                    "photo_id": photo_id,
                    "plan_id": plan_id,
                    "subject": subject,
                    "kind": kind,
                    "note": note,
                    "made_at": stamp,
                    "digest": digest,
                },
            )
        return Photo(photo_id, subject, kind, note, stamp, len(picture))

    def remove_photo(self, plan_id: str, photo_id: str, *, removed: bool = True) -> None:
        """Take a photo away, or bring it back.

        Raises
        ------
        NotFound
            If the plan has no such photo, or it is as asked already.
        """
        values = {"plan_id": plan_id, "photo_id": photo_id, "removed": int(removed)}
        with self._database.writing() as connection:
            if connection.execute(self._sql["update_photo_removed"], values).rowcount == 0:
                raise _none(photo_id)
