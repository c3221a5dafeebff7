"""The door: who may talk to this server, how much they may send, and what a page of ours may load."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import urlsplit

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.requests import Request, cookie_parser
from starlette.responses import RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lucernis.api.pairing import COOKIE
from lucernis.api.problems import OTHER, problem_response
from lucernis.api.rights import seen_by
from lucernis.store.devices import Device

# A plan, a photo, a year of weather.
MOST_BODY_BYTES = 5_000_000
# A job with its photos is larger than anything else that comes in.
MOST_JOB_BYTES = 100_000_000
# All else: it is taken apart where everybody is served.
MOST_SMALL_BYTES = 1_000_000
_LARGE = {
    "/api/jobs": MOST_JOB_BYTES,
    "/api/plans/import": MOST_BODY_BYTES,
    "/api/report": MOST_BODY_BYTES,
    "/api/weather": MOST_BODY_BYTES,
}


def _most_bytes(scope: Scope) -> int:
    photo = scope["path"].startswith("/api/plans/") and scope["path"].endswith("/photos")
    return MOST_BODY_BYTES if photo else _LARGE.get(scope["path"], MOST_SMALL_BYTES)


def _too_large(most: int) -> str:
    return f"At most {most} bytes are taken; nothing was stored."


POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
_HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}
_CHANGING = {"POST", "PUT", "PATCH", "DELETE"}


@dataclass(frozen=True, slots=True)
class DoorRules:
    """Hosts that may be named in a request; where the door is open to a network, what knows the tokens of devices."""

    hosts: frozenset[str] = frozenset({"127.0.0.1", "localhost", "::1"})
    known: Callable[[str], Device | None] | None = None


def _host_name(value: str) -> str:
    try:
        return (urlsplit(f"//{value}").hostname or "").lower()
    except ValueError:
        return ""


def _is_loopback(address: str) -> bool:
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        # No address at all: a client within the same process.
        return address in ("testclient", "")


def _netloc(origin: str) -> str | None:
    try:
        return urlsplit(origin).netloc.lower()
    except ValueError:
        return None


class Door:
    """ASGI layer in front of everything else."""

    def __init__(self, app: ASGIApp, rules: DoorRules) -> None:
        self.app = app
        self.rules = rules

    def _refusal(self, scope: Scope, headers: Headers) -> tuple[int, str, str] | None:
        host = headers.get("host", "")
        # Shared, the server may be reached by any name; a device's token is the lock then.
        if self.rules.known is None and _host_name(host) not in self.rules.hosts:
            return 403, "wrong-door", "This server answers to this machine only."
        origin = headers.get("origin")
        if scope["method"] in _CHANGING and origin is not None and _netloc(origin) != host.lower():
            return 403, "wrong-door", "A page from another address may not change anything here."
        if headers.get("sec-fetch-site") == "cross-site" and scope["method"] in _CHANGING:
            return 403, "wrong-door", "A page from another address may not change anything here."
        length = headers.get("content-length", "0")
        most = _most_bytes(scope)
        if not (length.isascii() and length.isdigit()) or int(length) > most:
            return 413, "too-large", _too_large(most)
        return None

    def _at_host(self, scope: Scope, headers: Headers) -> bool:
        """Whether a request comes from this machine and means it: a page elsewhere may lead a browser here by a name
        of its own, and then the name is not one of ours."""
        address = (scope.get("client") or ("", 0))[0]
        return _is_loopback(address) and _host_name(headers.get("host", "")) in self.rules.hosts

    def _let_in(self, headers: Headers) -> Device | None:
        token = cookie_parser(headers.get("cookie", "")).get(COOKIE)
        return self.rules.known(token) if token is not None and self.rules.known is not None else None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or answer it here."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                own = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    own[name] = value
                if scope["path"].startswith(("/pair", "/look/")):
                    # Without any referrer a browser would not tell the origin of the form either.
                    own["referrer-policy"] = "same-origin"
                if scope["path"].startswith("/api"):
                    own["cache-control"] = "no-store"
            await send(message)

        if "\x00" in scope["path"]:
            # No file has such a name, and no system lets anybody ask for one.
            none = problem_response(Request(scope), "not-found", 404, "Not found", "Nothing at a path with a NUL in it")
            await none(scope, receive, send_with_headers)
            return
        refusal = self._refusal(scope, headers)
        if refusal is not None:
            status, slug, detail = refusal
            title = OTHER[slug][1] if slug in OTHER else "Too large"
            answer = problem_response(Request(scope), slug, status, title, detail)
            await answer(scope, receive, send_with_headers)
            return
        at_host = self._at_host(scope, headers)
        state = scope.setdefault("state", {})
        state["at_host"], state["device"] = at_host, None
        asks = scope["path"] == "/pair" or scope["path"].startswith("/look/")
        open_to_it = self.rules.known is None or at_host or asks
        if not open_to_it:
            # A token is looked up in the data file: not in the loop that serves everybody.
            state["device"] = await run_in_threadpool(self._let_in, headers)
        device: Device | None = state["device"]
        if device is not None and not seen_by(device, scope["method"], scope["path"]):
            title = OTHER["only-looks"][1]
            no = problem_response(Request(scope), "only-looks", 403, title, "The link only shows one job.")
            await no(scope, receive, send_with_headers)
            return
        if not open_to_it and device is None:
            away: Response = RedirectResponse("/pair", status_code=303)
            if scope["method"] != "GET" or scope["path"].startswith(("/api", "/assets")):
                title = OTHER["not-paired"][1]
                away = problem_response(Request(scope), "not-paired", 401, title, "Open /pair on this device first.")
            await away(scope, receive, send_with_headers)
            return
        seen = 0

        async def counted() -> Message:
            # A body without a length could still be endless.
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > _most_bytes(scope):
                raise HTTPException(413, _too_large(_most_bytes(scope)))
            return message

        await self.app(scope, counted, send_with_headers)
