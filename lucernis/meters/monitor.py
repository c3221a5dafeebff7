"""A battery monitor stand-in: amps, volts and state of charge as lines of JSON over TCP; and who reads it."""

from __future__ import annotations

import json
import math
import socket
import socketserver
import time
from dataclasses import dataclass

from lucernis.core.prove.situations import find_situation
from lucernis.core.prove.vehicle import Vehicle
from lucernis.errors import MeterGone, NotUnderstood
from lucernis.meters.client import line_by, meter_address
from lucernis.plan.model import Battery
from lucernis.practice.tables import load_table

USUAL_PORT = 5026
_EVERY_S = 0.5


@dataclass(frozen=True, slots=True)
class MonitorLine:
    """What a monitor says of a bank: volts [V], amps out of it [A], state of charge [1]."""

    voltage_v: float
    current_a: float
    charge_frac: float


def monitor_line(vehicle: Vehicle, situation: str) -> MonitorLine:
    """What the monitor of a vehicle's house bank shows.

    Parameters
    ----------
    vehicle : Vehicle
        The vehicle.
    situation : str
        The state it is in.

    Returns
    -------
    MonitorLine
        Volts and amps as they are there; charge by the volts it would rest at.
    """
    made = vehicle.frame
    find_situation(list(made.situations.values()), situation)
    living = vehicle.living(situation)
    wiring, parts = made.sized.wiring, made.sized.topology.parts
    house = [
        k for k, name in enumerate(wiring.sources)
        if isinstance(part := parts[name], Battery) and part.use == "house"
    ]  # fmt: skip
    if not house:
        return MonitorLine(0.0, 0.0, 0.0)
    first = house[0]
    part = parts[wiring.sources[first]]
    circuit = wiring.circuit
    volts = float(living.node_v[circuit.source_pos[first]] - living.node_v[circuit.source_neg[first]])
    amps = sum(float(living.source_a[k]) for k in house if wiring.sources[k] not in wiring.above)
    charge = 0.5
    if isinstance(part, Battery):
        row = load_table("battery_chemistry").find(part.chemistry)
        blocks = (part.rated_v or made.plan.nominal_v) / 12
        ends = float(row["ocv_50"]) * blocks, float(row["ocv_100"]) * blocks
        charge = 0.5 + 0.5 * (float(living.sources.volts[first]) - ends[0]) / (ends[1] - ends[0])
    return MonitorLine(volts, amps, min(max(charge, 0.0), 1.0))


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        """A line every half second until the other side goes."""
        server = self.server
        if not isinstance(server, MonitorServer):
            return
        try:
            while True:
                one = monitor_line(server.vehicle, server.situation)
                said = {
                    "voltage_v": round(one.voltage_v, 3), "current_a": round(one.current_a, 2),
                    "charge_frac": round(one.charge_frac, 3),
                }  # fmt: skip
                self.wfile.write(json.dumps(said).encode() + b"\n")
                self.wfile.flush()
                time.sleep(_EVERY_S)
        except OSError:
            return


class MonitorServer(socketserver.ThreadingTCPServer):
    """Serves the monitor of one vehicle in one state, on 127.0.0.1."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, vehicle: Vehicle, situation: str = "rest", port: int = USUAL_PORT) -> None:
        self.vehicle, self.situation = vehicle, situation
        super().__init__(("127.0.0.1", port), _Handler)


def read_monitor(host: str, port: int = USUAL_PORT, *, timeout_s: float = 4.0) -> MonitorLine:
    """One line of a battery monitor.

    Parameters
    ----------
    host : str
        ``localhost`` or an address of a private network.
    port : int
        Its port.
    timeout_s : float
        How long is waited. [s]

    Returns
    -------
    MonitorLine
        The next whole line.

    Raises
    ------
    MeterGone
        If nobody answers.
    NotUnderstood
        If the line is none.
    """
    at, until_s = f"{host}:{port}", time.monotonic() + timeout_s
    try:
        with socket.create_connection((meter_address(host), port), timeout=timeout_s) as talk:
            whole, left = line_by(talk, b"", until_s)
            data = whole or left
    except OSError as error:
        raise MeterGone(
            f"battery monitor at {at}: nobody answers", field="monitor", value=at, allowed="a monitor that is on"
        ) from error
    line = data.partition(b"\n")[0]
    try:
        said = json.loads(line)
        values = [float(said[name]) for name in ("voltage_v", "current_a", "charge_frac")]
        if not all(map(math.isfinite, values)) or not 0 <= values[2] <= 1:
            raise ValueError("outside of what can be")
    except (ValueError, KeyError, TypeError) as error:
        raise NotUnderstood(
            f"battery monitor at {at} says {line[:60]!r}",
            field="monitor",
            value=at,
            allowed='lines such as {"voltage_v": 13.2, "current_a": 4.1, "charge_frac": 0.8}',
        ) from error
    return MonitorLine(*values)
