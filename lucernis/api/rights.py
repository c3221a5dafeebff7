"""What only whoever sits at the host may do: let in, send away, bring backups back, price, reach others."""

from __future__ import annotations

from fastapi import Request
from starlette.exceptions import HTTPException

from lucernis.meters.client import meter_address


def host_only(request: Request, what: str = "this") -> None:
    """Refuse a device that was let in from the network.

    Parameters
    ----------
    request : Request
        Passed by the door.
    what : str
        What it is about, in words.

    Raises
    ------
    HTTPException
        403 for anybody but the host.
    """
    if not request.state.at_host:
        raise HTTPException(403, f"Only on the host itself: {what} is decided there.")


def may_reach(request: Request, host: str, port: int) -> None:
    """Whether an instrument may be asked: by the host always, by a device only where the host has asked before.

    A device that was let in is not to use this machine as a way to others.

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
