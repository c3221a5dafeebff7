"""Who may do what: the host and owners decide, workers do the work, readers look at one job."""

from __future__ import annotations

import re
from typing import Literal

from fastapi import Request
from starlette.exceptions import HTTPException

from lucernis.meters.client import meter_address
from lucernis.store.devices import Device, Role

HOST: Literal["host"] = "host"
# What a reader's pages ask for beside the job itself: nothing of the workshop, nothing of other jobs.
_TABLES = frozenset(
    {"/api/health", "/api/practice", "/api/sharing", "/api/plans", "/api/consumers", "/api/parts", "/api/openapi.json"}
)
# A whole job has all that was ever typed in it; what the workshop buys and reckons at is its own.
_NOT_SHOWN = r"job|quotes?|shopping(\..*|/.*)?"


def device_of(request: Request) -> Device | None:
    """The device a request comes from; None for the host."""
    found: Device | None = None if request.state.at_host else request.state.device
    return found


def device_name(request: Request) -> str:
    """What the record calls where an entry came from."""
    device = device_of(request)
    return HOST if device is None else device.name


def role_of(request: Request) -> Role | Literal["host"]:
    """What whoever asks may do."""
    device = device_of(request)
    return HOST if device is None else device.role


def seen_by(device: Device, method: str, path: str) -> bool:
    """Whether a device may ask for a path at all: a reader for its job and what its pages show it with, and to look."""
    if device.role != "reader" or not path.startswith("/api"):
        return True
    if method not in ("GET", "HEAD"):
        return False
    own = re.fullmatch(f"/api/plans/{re.escape(device.plan_id)}(?:/(.*))?", path)
    if own is not None:
        return not re.fullmatch(_NOT_SHOWN, own[1] or "")
    return path in _TABLES or re.fullmatch(r"/api/(words|schema)(/.*)?", path) is not None


def decides(request: Request, what: str = "this") -> None:
    """Refuse whoever is neither the host nor an owner.

    Parameters
    ----------
    request : Request
        Passed by the door.
    what : str
        What it is about, in words.

    Raises
    ------
    HTTPException
        403 for workers and readers.
    """
    if role_of(request) not in (HOST, "owner"):
        raise HTTPException(403, f"Only the host, or a device it made an owner, decides this: {what}.")


def may_reach(request: Request, host: str, port: int) -> None:
    """Whether an instrument may be asked: by the host always, by a device only where the host has asked before.

    A device that was let in is not to use this machine as a way to others, an owner neither.

    Raises
    ------
    HTTPException
        403 where a device names an instrument the host has not asked since the program began.
    NotUnderstood, OutOfRange
        If it is no address an instrument may have.
    """
    known: set[tuple[str, int]] = request.app.state.instruments
    at = (meter_address(host), port)
    if request.state.at_host:
        known.add(at)
    elif at not in known:
        raise HTTPException(403, "Only an instrument the host has asked: take one reading from it there first.")
