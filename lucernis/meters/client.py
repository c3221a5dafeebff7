"""A meter on the network, asked in SCPI (the open standard of instruments) over TCP."""

from __future__ import annotations

import ipaddress
import math
import re
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from types import TracebackType
from typing import Literal

from lucernis.errors import MeterGone, NotUnderstood, OutOfRange

USUAL_PORT = 5025
_TIMEOUT_S = 4.0
_MOST_BYTES = 4096
# So many instruments are asked at once: each holds a worker of the program, and one that drips must not take them all.
_AT_ONCE = 6
_asked = threading.BoundedSemaphore(_AT_ONCE)
# What an instrument answers when its range is exceeded (SCPI 1999, volume 1, 7.2.1.4 and 7.2.1.5; memory).
OVERFLOW = 9.9e37
_ASK: dict[str, str] = {"volts": "MEAS:VOLT:DC?", "amps": "MEAS:CURR:DC?", "ohms": "MEAS:RES?"}
SIMULATED = "SIMULATED METER"
_ADDRESS = re.compile(r"^[A-Za-z0-9_@~:+.-]{1,160}$")


@dataclass(frozen=True, slots=True)
class MeterReading:
    """What a meter said, in V, A or Ω; `open` where it was beyond its range. `instrument` is its own name."""

    value: float
    open: bool
    instrument: str


def meter_address(host: str) -> str:
    """The address of a meter, in this network.

    Parameters
    ----------
    host : str
        ``localhost`` or an address in digits.

    Returns
    -------
    str
        The same in digits.

    Raises
    ------
    NotUnderstood
        If it is neither.
    OutOfRange
        If it lies outside of this machine and private networks: nothing is sent to the internet.
    """
    if host.strip().lower() == "localhost":
        return "127.0.0.1"
    try:
        found = ipaddress.ip_address(host.strip())
    except ValueError as error:
        raise NotUnderstood(
            f"meter at {host[:60]!r}", field="host", value=host[:60], allowed="localhost, or an address in digits"
        ) from error
    # Link-local addresses are those of routers, clouds and things that answer whoever asks: no meter is set to one.
    apart = found.is_multicast or found.is_unspecified or found.is_link_local
    if not (found.is_private or found.is_loopback) or apart:
        raise OutOfRange(
            f"meter at {host}", field="host", value=host, allowed="an address of this machine or a private network"
        )
    return str(found)


@contextmanager
def one_of_few(what: str) -> Iterator[None]:
    """A turn at an instrument, refused at once where too many are being asked.

    Parameters
    ----------
    what : str
        Named in the refusal, as ``meter``.

    Raises
    ------
    MeterGone
        If all turns are taken.
    """
    if not _asked.acquire(blocking=False):
        raise MeterGone(
            f"{what}: {_AT_ONCE} instruments are being asked already; try again in a moment", field=what,
            value=_AT_ONCE, allowed=f"{_AT_ONCE} at once",
        )  # fmt: skip
    try:
        yield
    finally:
        _asked.release()


def line_by(talk: socket.socket, left: bytes, until_s: float) -> tuple[bytes, bytes]:
    """One line of an instrument, whole by a deadline however slowly it comes.

    Parameters
    ----------
    talk : socket
        Connected.
    left : bytes
        What has come already.
    until_s : float
        The deadline, by `time.monotonic`. [s]

    Returns
    -------
    tuple of bytes
        The line, and what came after it. Empty where the other side went away or said more than a reading.

    Raises
    ------
    TimeoutError
        If it is not whole by then.
    """
    while b"\n" not in left:
        rest_s = until_s - time.monotonic()
        if rest_s <= 0:
            raise TimeoutError
        talk.settimeout(rest_s)
        more = talk.recv(_MOST_BYTES)
        if not more or len(left) > _MOST_BYTES:
            return b"", left if more else b""
        left += more
    line, _, left = left.partition(b"\n")
    return line + b"\n", left


def _named(said: str) -> str:
    """What an instrument calls itself: four fields (IEEE 488.2, 10.14; memory); anything else is no name of one."""
    return said[:120] if said.count(",") == 3 and said.isprintable() else "an instrument without a name"


class Meter:
    """A connection to one meter, closed with the block it is opened in.

    Parameters
    ----------
    host : str
        ``localhost`` or an address of a private network.
    port : int
        Usually 5025.

    Raises
    ------
    MeterGone
        If nobody answers there, or it goes away in the middle of a reading.
    """

    def __init__(self, host: str, port: int = USUAL_PORT, *, timeout_s: float = _TIMEOUT_S) -> None:
        self._at, self._timeout_s = f"{host}:{port}", timeout_s
        try:
            self._socket = socket.create_connection((meter_address(host), port), timeout=timeout_s)
        except OSError as error:
            raise self._gone("nobody answers") from error
        self._left = b""
        self.instrument = ""

    def _gone(self, why: str) -> MeterGone:
        return MeterGone(
            f"meter at {self._at}: {why}; the reading is not taken", field="meter", value=self._at,
            allowed="a meter that is switched on and speaks SCPI over TCP",
        )  # fmt: skip

    def __enter__(self) -> Meter:
        try:
            self.instrument = _named(self.ask("*IDN?"))
        except BaseException:
            self._socket.close()
            raise
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._socket.close()

    @property
    def simulated(self) -> bool:
        """Whether it is one that ships with the program, which has to be told where its probes are."""
        return SIMULATED in self.instrument.upper()

    def tell(self, command: str) -> None:
        """Send a command that is not answered."""
        try:
            self._socket.sendall(command.encode("ascii") + b"\n")
        except (OSError, UnicodeError) as error:
            raise self._gone("it went away") from error

    def ask(self, question: str) -> str:
        """Ask and wait for one line."""
        self.tell(question)
        try:
            line, self._left = line_by(self._socket, self._left, time.monotonic() + self._timeout_s)
        except TimeoutError as error:
            raise self._gone("it does not answer") from error
        except OSError as error:
            raise self._gone("it went away") from error
        if not line:
            raise self._gone("it says more than a reading" if self._left else "it went away")
        return line.decode("ascii", "replace").strip()

    def place(self, situation: str, reading: str) -> None:
        """Tell a simulated meter which state is made and where its probes are; any other has eyes to place it."""
        if not self.simulated:
            return
        for text in (situation, reading):
            if not _ADDRESS.match(text):
                raise NotUnderstood(
                    f"probe {text[:80]!r}", field="reading", value=text[:80], allowed="an id of the plan"
                )
        self.tell(f'SIM:STAT "{situation}"')
        self.tell(f'SIM:PROB "{reading}"')
        said = self.ask("SYST:ERR?")
        if not said.startswith(("0", "+0")):
            raise NotUnderstood(
                f"meter at {self._at}: {said}", field="reading", value=reading, allowed="a reading of its plan"
            )

    def read(self, quantity: Literal["volts", "amps", "ohms"]) -> MeterReading:
        """Measure once.

        Returns
        -------
        MeterReading
            In V, A or Ω.

        Raises
        ------
        MeterGone
            If it answers something else than a number.
        """
        said = self.ask(_ASK[quantity])
        try:
            value = float(said)
        except ValueError as error:
            # What it says is not handed on: it may be the banner of something that is no meter.
            raise self._gone("it says something else than a number") from error
        if math.isnan(value):
            raise self._gone("it says that this is no number")
        return MeterReading(value, abs(value) >= OVERFLOW * 0.99, self.instrument)
