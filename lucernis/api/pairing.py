"""Letting devices of the network in: a code shown on the host is typed once, then a token of its own lets each in."""

from __future__ import annotations

import html
import io
import ipaddress
import logging
import math
import secrets
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated
from urllib.parse import parse_qs, quote

import qrcode
from fastapi import APIRouter, Path, Query, Request
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, RedirectResponse, Response

from lucernis.api.answers import store_of
from lucernis.api.incoming import RawBody
from lucernis.api.rights import HOST, decides, role_of
from lucernis.api.shapes import DeviceCard, ReaderLink, Sharing, WantedLink, WantedRole
from lucernis.plan.base import plain
from lucernis.store.devices import DeviceStore

LOG = logging.getLogger("lucernis")
COOKIE = "lucernis_device"
LEAST_CODE = 6
# No letter or digit that is taken for another.
_LETTERS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
_FREE_GUESSES = 3
_ALL_FREE_GUESSES = 20
_LONGEST_S = 900.0
# Half of the wrong guesses are forgotten after so long. [s]
_HALF_S = 900.0
_MOST_KNOWN = 10_000
PLAIN_WORDS = (
    "Over plain HTTP whoever listens on this network can read all that is sent, the pairing code too. On a network "
    "that is not your own share with --tls."
)
router = APIRouter(tags=["sharing"])


def new_code() -> str:
    """A code of 8 letters and digits, 39 bits."""
    return "".join(secrets.choice(_LETTERS) for _ in range(8))


def shown_code(code: str) -> str:
    """A made code in two groups, as it is easier to read out."""
    made = len(code) == 8 and all(one in _LETTERS for one in code)
    return f"{code[:4]}-{code[4:]}" if made else code


def _same(typed: str, code: str) -> bool:
    made = code == code.upper() and all(one in _LETTERS for one in code)
    tidy = "".join(one for one in typed.upper() if one.isalnum()) if made else typed
    return secrets.compare_digest(tidy.encode(), code.encode())


@dataclass(slots=True)
class _Wrong:
    """Wrong guesses: how many, fading; when the last was, and until when the next has to wait. [s]"""

    count: float = 0.0
    last_s: float = 0.0
    until_s: float = 0.0

    def now(self, now_s: float) -> float:
        """How many still count: half of them after a while."""
        return self.count * math.exp2((self.last_s - now_s) / _HALF_S)


def _whose(address: str) -> str:
    """An address, or the network a single device of IPv6 has to itself."""
    try:
        ip = ipaddress.ip_address(address.partition("%")[0])
    except ValueError:
        return address
    return str(ipaddress.ip_network((ip, 64), strict=False)) if ip.version == 6 else address


class Guesses:
    """Wrong codes by address and in all: after a few, each asks for a longer wait than the one before. They fade with
    time, and of one address no more count for all than it has free: nobody keeps the others out."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._by: dict[str, _Wrong] = {}
        self._all = _Wrong()
        self._lock = threading.Lock()

    def wait_s(self, address: str) -> float:
        """How long this address has to wait before its next guess. [s]"""
        with self._lock:
            own = self._by.get(_whose(address), _Wrong())
            return max(0.0, own.until_s - self._clock(), self._all.until_s - self._clock())

    def wrong(self, address: str) -> tuple[int, float]:
        """Note a wrong guess; how many of this address count, and how long it has to wait. [s]"""
        with self._lock:
            now = self._clock()
            if len(self._by) > _MOST_KNOWN:
                self._by = {key: one for key, one in self._by.items() if one.now(now) >= 1}
            own = self._by.setdefault(_whose(address), _Wrong())
            counted = self._add(own, now, _FREE_GUESSES)
            if counted <= _FREE_GUESSES:
                self._add(self._all, now, _ALL_FREE_GUESSES)
            return round(counted), max(0.0, own.until_s - now)

    @staticmethod
    def _add(one: _Wrong, now: float, free: int) -> float:
        one.count, one.last_s = one.now(now) + 1, now
        over = one.count - free
        one.until_s = now + min(_LONGEST_S, 2.0**over) if over > 0.5 else 0.0
        return one.count

    def right(self, address: str) -> None:
        """The code was right: what this address guessed before is forgotten."""
        with self._lock:
            self._by.pop(_whose(address), None)


@dataclass(slots=True)
class Pairing:
    """What devices are let in by: the code, where the program is reached, whether what is sent is secret."""

    code: str
    addresses: tuple[str, ...]
    tls: bool
    guesses: Guesses = field(default_factory=Guesses)


def qr_text(text: str) -> str:
    """A QR code in block characters, for a terminal."""
    code = qrcode.QRCode(border=2)
    code.add_data(text)
    out = io.StringIO()
    code.print_ascii(out=out, invert=True)
    return out.getvalue()


def pair_url(pairing: Pairing, address: str) -> str:
    """What the QR code says: the page of pairing with the code filled in."""
    return f"{address}/pair?code={quote(pairing.code)}"


def _pairing(request: Request) -> Pairing:
    found: Pairing | None = request.app.state.pairing
    if found is None:
        raise HTTPException(404)
    return found


def _devices(request: Request) -> DeviceStore:
    found: DeviceStore = request.app.state.devices
    return found


_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1"><title>Lucernis: let this device in</title>
<style>body{{font:17px/1.5 sans-serif;max-width:26rem;margin:3rem auto;padding:0 1rem;color:#1c1b18;background:#f6f4ee}}
label{{display:block;margin-top:1rem}}input,button{{font:inherit;width:100%;box-sizing:border-box;padding:.6rem;
border:1px solid #7a756a;border-radius:4px}}button{{margin-top:1.5rem;background:#1c1b18;color:#fff}}
.wrong{{border-left:4px solid #a3261b;padding-left:.8rem}}@media (prefers-color-scheme:dark){{
body{{color:#ece8df;background:#191815}}input{{background:#232220;color:inherit}}button{{background:#ece8df;color:#191815}}}}
</style><main><h1>Let this device in</h1>{told}
<form method="post" action="/pair"><label>Pairing code, as the host shows it
<input name="code" value="{code}" autocomplete="off" autocapitalize="characters" spellcheck="false" required></label>
<label>A name for this device <input name="name" value="{name}" maxlength="60" required></label>
<button>Let it in</button></form><p>{words}</p></main></html>"""


def _page(pairing: Pairing, told: str = "", code: str = "", name: str = "Phone", status: int = 200) -> HTMLResponse:
    words = "" if pairing.tls else html.escape(PLAIN_WORDS)
    shown = f'<p class="wrong" role="alert">{html.escape(told)}</p>' if told else ""
    return HTMLResponse(
        _PAGE.format(told=shown, code=html.escape(code), name=html.escape(name), words=words), status_code=status
    )


@router.get("/pair", include_in_schema=False)
def pair_page(request: Request, code: str = Query(default="", max_length=80)) -> Response:
    """Where a device asks to be let in. A code in the address is only filled in: opening a link pairs nothing."""
    return _page(_pairing(request), code=code)


@router.post("/pair", include_in_schema=False)
def pair(request: Request, body: RawBody) -> Response:
    """Let a device in that knows the code."""
    pairing = _pairing(request)
    fields = parse_qs(body[:4000].decode("utf-8", "replace"))
    code, name = fields.get("code", [""])[0].strip(), fields.get("name", [""])[0].strip()[:60]
    address = request.client.host if request.client else ""
    wait_s = pairing.guesses.wait_s(address)
    if wait_s > 0:
        told = f"Too many wrong codes. Try again in {wait_s:.0f} s."
        answer = _page(pairing, told, name=name, status=429)
        answer.headers["retry-after"] = f"{wait_s:.0f}"
        return answer
    try:
        plain(name)
    except ValueError:
        name = ""
    if name.casefold() == HOST:
        # The record calls the host so: no device may pass for it.
        return _page(pairing, "Name this device otherwise: the host is called so.", code, status=422)
    if not name:
        return _page(pairing, "Name this device: letters and digits, 60 at most.", code, status=422)
    if not _same(code, pairing.code):
        count, wait_s = pairing.guesses.wrong(address)
        LOG.warning("wrong pairing code from %s (%d so far); next try in %.0f s", address, count, wait_s)
        return _page(pairing, "That is not the code the host shows.", name=name, status=403)
    pairing.guesses.right(address)
    token = _devices(request).let_in(name)
    LOG.warning("device %r let in from %s", name, address)
    return _inside(pairing, token, "/")


def _inside(pairing: Pairing, token: str, to: str) -> Response:
    inside = RedirectResponse(to, status_code=303)
    # What changes anything is held to its origin besides, so that a link from elsewhere may open a plan.
    inside.set_cookie(COOKIE, token, max_age=365 * 86400, httponly=True, samesite="lax", secure=pairing.tls, path="/")
    return inside


@router.get("/look/{token}", include_in_schema=False)
def look(request: Request, token: Annotated[str, Path(max_length=80)]) -> Response:
    """The link a reader was given: opens its job. Who is let in already stays who it is."""
    pairing = _pairing(request)
    reader = _devices(request).known(token)
    if reader is None or reader.role != "reader":
        return _page(pairing, "This link opens nothing any more. Ask for another, or for the code.", status=403)
    to = f"/plan/{reader.plan_id}/loads"
    held = request.cookies.get(COOKIE)
    known = _devices(request).known(held) if held else None
    if request.state.at_host or (known is not None and known.role != "reader"):
        return RedirectResponse(to, status_code=303)
    return _inside(pairing, token, to)


@router.get("/api/sharing", operation_id="getSharing")
def get_sharing(request: Request) -> Sharing:
    """Whether the network is let in, by which code, and the devices that are."""
    pairing: Pairing | None = request.app.state.pairing
    role = role_of(request)
    tells = role in (HOST, "owner")
    return Sharing(
        shared=pairing is not None,
        at_host=request.state.at_host,
        role=role,
        code=shown_code(pairing.code) if pairing is not None and tells else "",
        addresses=list(pairing.addresses) if pairing is not None else [],
        warning="" if pairing is None or pairing.tls else PLAIN_WORDS,
        devices=[
            DeviceCard(device_id=one.device_id, name=one.name, made_at=one.made_at, role=one.role, plan_id=one.plan_id)
            for one in _devices(request).list_devices()
        ]
        if tells
        else [],
    )


@router.get("/api/sharing/code.svg", operation_id="getPairingPicture", response_class=Response)
def pairing_picture(request: Request, address: Annotated[int, Query(ge=0, le=20)] = 0) -> Response:
    """The QR code of one of the addresses, with the code in it."""
    decides(request, "who is let in")
    pairing = _pairing(request)
    if address >= len(pairing.addresses):
        raise HTTPException(404)
    from qrcode.image.svg import SvgPathFillImage

    out = io.BytesIO()
    qrcode.make(pair_url(pairing, pairing.addresses[address]), image_factory=SvgPathFillImage, border=2).save(out)
    return Response(out.getvalue(), media_type="image/svg+xml")


@router.delete("/api/devices/{device_id}", operation_id="withdrawDevice", status_code=204)
def withdraw_device(request: Request, device_id: str) -> None:
    """Let a device in no more."""
    decides(request, "who is let in")
    _devices(request).withdraw(device_id)


@router.put("/api/devices/{device_id}/role", operation_id="giveRole", status_code=204)
def give_role(request: Request, device_id: str, wanted: WantedRole) -> None:
    """Say what a device may do: the work, or all the host may."""
    decides(request, "what a device may do")
    _devices(request).give_role(device_id, wanted.role)


@router.post("/api/plans/{plan_id}/link", operation_id="makeReaderLink")
def make_reader_link(request: Request, plan_id: str, wanted: WantedLink) -> ReaderLink:
    """A link by which somebody may look at one job and at nothing else; shown once, withdrawn like a device."""
    decides(request, "who is let in")
    pairing = _pairing(request)
    store_of(request).get(plan_id)
    token = _devices(request).let_in(wanted.name, "reader", plan_id)
    addresses = pairing.addresses or (str(request.base_url).rstrip("/"),)
    return ReaderLink(links=[f"{one}/look/{token}" for one in addresses])
