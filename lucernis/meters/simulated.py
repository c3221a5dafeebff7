"""A simulated meter: speaks SCPI over TCP and finds in a simulated vehicle what its probes would."""

from __future__ import annotations

import math
import re
import socketserver
import threading
from collections import deque

from lucernis import __version__
from lucernis.core.prove.vehicle import Vehicle
from lucernis.errors import LucernisError
from lucernis.meters.client import OVERFLOW

_NAME = f"Lucernis,Simulated meter,1,{__version__}"
_MOST_LINE = 400
_QUANTITY = {"VOLT": "volts", "CURR": "amps", "RES": "ohms", "FRES": "ohms"}
_MEASURE = re.compile(
    r"^:?MEAS(?:URE)?(?::SCAL(?:AR)?)?:(VOLT|CURR|RES|FRES)(?:AGE|ENT|ISTANCE)?(?::DC)?\?(?:\s+.*)?$", re.IGNORECASE
)
_SET = re.compile(r'^:?SIM(?:ULATE)?:(STAT|PROB)(?:E)?\s+"([^"]*)"$', re.IGNORECASE)


class Conversation:
    """One connection: where its probes are, and its queue of errors."""

    def __init__(self, vehicle: Vehicle) -> None:
        self._vehicle = vehicle
        self._situation, self._reading = "rest", ""
        self._errors: deque[str] = deque(maxlen=20)

    def answer(self, line: str) -> str | None:
        """Answer one line, None where it is not a question."""
        text = line.strip()
        upper = text.upper()
        if upper == "*IDN?":
            return _NAME
        if upper in ("*RST", "*CLS", ""):
            self._errors.clear()
            return None
        if upper in ("SYST:ERR?", "SYSTEM:ERROR?", "SYST:ERR:NEXT?"):
            return self._errors.popleft() if self._errors else '0,"No error"'
        if upper == "*OPC?":
            return "1"
        placed = _SET.match(text)
        if placed is not None:
            self._place(placed.group(1).upper(), placed.group(2))
            return None
        measured = _MEASURE.match(text)
        if measured is not None:
            return self._measure(_QUANTITY[measured.group(1).upper()])
        self._errors.append('-113,"Undefined header"')
        return None

    def _place(self, what: str, name: str) -> None:
        known = self._vehicle.frame
        if what == "STAT":
            if name in known.situations:
                self._situation = name
            else:
                self._errors.append('-224,"Illegal parameter value; no such state"')
            return
        try:
            if name:
                known.reading(name)
            self._reading = name
        except LucernisError:
            self._errors.append('-224,"Illegal parameter value; no such spot"')

    def _measure(self, quantity: str) -> str:
        if quantity == "ohms" and not self._reading:
            return f"{self._vehicle.leads():.6E}"
        if not self._reading or not self._reading.startswith(quantity):
            # Probes in the air: nothing there to read, and no ohms at all.
            return f"{OVERFLOW:.6E}" if quantity == "ohms" else f"{0.0:.6E}"
        value = self._vehicle.read(self._reading, self._situation)
        return f"{OVERFLOW if math.isinf(value) else value:.6E}"


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        """Line by line until the other side goes."""
        server = self.server
        if not isinstance(server, MeterServer):
            return
        talk = Conversation(server.vehicle)
        while True:
            line = self.rfile.readline(_MOST_LINE)
            if not line:
                return
            with server.lock:
                said = talk.answer(line.decode("ascii", "replace"))
            if said is not None:
                self.wfile.write(said.encode("ascii") + b"\n")


class MeterServer(socketserver.ThreadingTCPServer):
    """Serves one vehicle to any number of meters.

    Parameters
    ----------
    vehicle : Vehicle
        What is measured.
    port : int
        Port on 127.0.0.1; 0 for any that is free.
    """

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, vehicle: Vehicle, port: int = 5025) -> None:
        self.vehicle = vehicle
        self.lock = threading.Lock()
        super().__init__(("127.0.0.1", port), _Handler)
