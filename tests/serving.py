"""A real server in a thread, as `lucernis serve` runs it: for browser tests and the bench."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime

import uvicorn

from lucernis.api.answers import Answers
from lucernis.api.app import create_app
from lucernis.api.pairing import Pairing
from lucernis.store.database import Database

_BEGAN = datetime.now(UTC)


def clock() -> datetime:
    """Goes on from a day that is given: what is due in the demo's record is the same whenever the tests are run."""
    return datetime(2026, 12, 2, 9, tzinfo=UTC) + (datetime.now(UTC) - _BEGAN)


# The demo jobs are judged once, not once a test.
ANSWERS = Answers()


@contextmanager
def served(database: Database, pairing: Pairing | None = None) -> Iterator[str]:
    """Its address, as long as it runs; shared with the network where there is a pairing."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    # A connection that is kept must not be closed just as it is used again.
    config = uvicorn.Config(
        create_app(database, pairing=pairing, answers=ANSWERS, clock=clock),
        host="127.0.0.1",
        port=port,
        log_level="warning",
        timeout_keep_alive=120,
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.should_exit = True
        thread.join(10)
