"""Heavy work in a process of its own, so that it never delays an edit: one piece at a time, with a limit, and ended
when nobody waits for it any more. There are two: what is computed at length, and what comes in from outside. Mends are
tried in this process, where what was computed before is remembered, but by the same turns: an edit competes with one
of them at most."""

from __future__ import annotations

import asyncio
import multiprocessing
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, Literal, TypeVar

from anyio import CapacityLimiter, to_thread
from fastapi import Request

from lucernis.errors import Busy, TooMuch

T = TypeVar("T")
LIMIT_S = 60.0
_LOOK_S = 0.2
_POLL_S = 0.05
# So many may wait for their turn; each holds what it sent.
MOST_WAITING = 20


def _work(pipe: Connection) -> None:
    """The other process: takes a function and its arguments, gives back what comes of it."""
    while True:
        try:
            function, arguments = pipe.recv()
        except (EOFError, KeyboardInterrupt):
            return
        try:
            answer: tuple[bool, Any] = (True, function(*arguments))
        except Exception as error:
            answer = (False, error)
        try:
            pipe.send(answer)
        except Exception as error:
            # What cannot be sent is said, so that nobody waits for ever.
            pipe.send((False, RuntimeError(str(error))))


class Heavy:
    """Does heavy work; in this process if `apart` is False, as tests and short-lived programs want it."""

    def __init__(self, *, apart: bool, most_waiting: int = MOST_WAITING) -> None:
        self._apart, self.most_waiting = apart, most_waiting
        self._turn = threading.Lock()
        self._process: multiprocessing.process.BaseProcess | None = None
        self._pipe: Connection | None = None
        # Who waits for a turn waits without a thread: those are for short work.
        self._turns: CapacityLimiter | None = None

    @property
    def turns(self) -> CapacityLimiter:
        """Turns in the event loop that asks first."""
        if self._turns is None:
            self._turns = CapacityLimiter(1)
        return self._turns

    def start(self) -> None:
        """Make the process ready, so that the first piece of work need not wait for it."""
        if self._apart and (self._process is None or not self._process.is_alive()):
            context = multiprocessing.get_context("spawn")
            self._pipe, there = context.Pipe()
            self._process = context.Process(target=_work, args=(there,), name="heavy", daemon=True)
            self._process.start()
            there.close()

    def stop(self) -> None:
        """End the process and whatever it does."""
        if self._process is not None:
            self._process.terminate()
            self._process.join(5)
        self._process = self._pipe = None

    def do(self, gone: threading.Event, limit_s: float, function: Callable[..., T], *arguments: object) -> T:
        """One piece of work; see `done`."""
        until = time.monotonic() + limit_s
        if not self._apart:
            self._look(gone, until, limit_s)
            return function(*arguments)
        self._look(gone, until, limit_s)
        while not self._turn.acquire(timeout=_POLL_S):
            self._look(gone, until, limit_s)
        try:
            self.start()
            pipe = self._pipe
            assert pipe is not None  # noqa: S101 - made by start
            pipe.send((function, arguments))
            while not pipe.poll(_POLL_S):
                if self._process is None or not self._process.is_alive():
                    raise RuntimeError("the process for heavy work ended by itself")
                self._look(gone, until, limit_s)
            good, answer = pipe.recv()
        except BaseException:
            # What it was doing nobody wants; a fresh one is made for the next piece.
            self.stop()
            raise
        finally:
            self._turn.release()
        if not good:
            raise answer
        found: T = answer
        return found

    def _look(self, gone: threading.Event, until: float, limit_s: float) -> None:
        if gone.is_set():
            raise asyncio.CancelledError
        if time.monotonic() > until:
            raise TooMuch(
                f"this took longer than {limit_s:.0f} s and was ended; nothing was stored",
                field="plan",
                allowed="a smaller plan, or another try when the machine has less to do",
            )


async def done(
    request: Request,
    function: Callable[..., T],
    *arguments: object,
    limit_s: float = LIMIT_S,
    by: Literal["heavy", "intake", "trials"] = "heavy",
) -> T:
    """What comes of heavy work for a request; it is ended when the client goes away.

    Raises
    ------
    TooMuch
        If it takes longer than the limit.
    Busy
        If too many wait already.
    """
    heavy: Heavy = getattr(request.app.state, by)
    if heavy.turns.statistics().tasks_waiting >= heavy.most_waiting:
        raise Busy(
            f"{heavy.most_waiting} pieces of long work wait already; nothing was done",
            field="request",
            allowed="another try in a minute",
        )
    gone = threading.Event()
    work = asyncio.ensure_future(
        to_thread.run_sync(lambda: heavy.do(gone, limit_s, function, *arguments), limiter=heavy.turns)
    )
    try:
        while True:
            finished, _ = await asyncio.wait({work}, timeout=_LOOK_S)
            if finished:
                return work.result()
            if await request.is_disconnected():
                gone.set()
    finally:
        gone.set()
