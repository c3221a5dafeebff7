"""Devices let in from the network. A token is shown once, to its device; kept is its hash alone."""

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

Role = Literal["owner", "worker", "reader"]
MOST_DEVICES = 50


@dataclass(frozen=True, slots=True)
class Device:
    """A device that was let in: what it may do, and the one job it sees if it is a reader."""

    device_id: str
    name: str
    made_at: str
    role: Role
    plan_id: str


def _hash(token: str) -> str:
    # A token has 256 bits of its own, so that a plain hash is enough.
    return hashlib.sha256(token.encode()).hexdigest()


class DeviceStore:
    """Repository of devices."""

    def __init__(self, database: Database, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._database = database
        self._now = now
        self._sql = {name: query.sql for name, query in load_queries("devices").items()}

    def list_devices(self) -> list[Device]:
        """All devices, oldest first."""
        with self._database.reading() as connection:
            rows = connection.execute(self._sql["list_devices"]).fetchall()
        return [Device(*row) for row in rows]

    def let_in(self, name: str, role: Role = "worker", plan_id: str = "") -> str:
        """Let a device in; returns its token. A reader sees the one plan it is let in for.

        Raises
        ------
        EditRefused
            If there are too many already.
        """
        token = secrets.token_urlsafe(32)
        stamp = self._now().astimezone(UTC).isoformat(timespec="seconds")
        with self._database.writing() as connection:
            held = connection.execute(self._sql["get_device_count"]).fetchone()["devices"]
            if held >= MOST_DEVICES:
                raise EditRefused(
                    f"{held} devices are let in", field="name", value=name, allowed=f"{MOST_DEVICES}; withdraw one"
                )
            values = {
                "device_id": secrets.token_hex(6),
                "name": name,
                "token_hash": _hash(token),
                "made_at": stamp,
                "role": role,
                "plan_id": plan_id,
            }
            connection.execute(self._sql["insert_device"], values)
        return token

    def known(self, token: str) -> Device | None:
        """The device a token is that of, if it is let in."""
        with self._database.reading() as connection:
            found = connection.execute(self._sql["get_device"], {"token_hash": _hash(token)}).fetchone()
        return None if found is None else Device(*found)

    def give_role(self, device_id: str, role: Role) -> None:
        """Say what a device may do from now on.

        Raises
        ------
        NotFound
            If there is none of that id, or it sees one job only.
        """
        with self._database.writing() as connection:
            values = {"device_id": device_id, "role": role}
            if connection.execute(self._sql["update_device_role"], values).rowcount == 0:
                raise NotFound(
                    f"no device {device_id!r} that works on jobs",
                    field="device_id",
                    value=device_id,
                    allowed="one let in here, not by a link to one job",
                )

    def withdraw(self, device_id: str) -> None:
        """Let a device in no more.

        Raises
        ------
        NotFound
            If there is none of that id.
        """
        with self._database.writing() as connection:
            if connection.execute(self._sql["delete_device"], {"device_id": device_id}).rowcount == 0:
                raise NotFound(
                    f"no device {device_id!r}", field="device_id", value=device_id, allowed="one let in here"
                )
