"""Meters over SCPI: the simulated one spoken to by an independent client, ours against meters that misbehave."""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager

import pytest
import pyvisa

from lucernis.core.prove.expect import foresee
from lucernis.core.prove.vehicle import LEADS_OHM, Vehicle
from lucernis.demo import demo_plan
from lucernis.errors import LucernisError, MeterGone, NotUnderstood, OutOfRange, UnknownRow
from lucernis.meters.client import Meter, meter_address, one_of_few
from lucernis.meters.monitor import MonitorServer, monitor_line, read_monitor
from lucernis.meters.simulated import Conversation, MeterServer
from tests.core.prove.shop import ready, sound


@contextmanager
def serving(vehicle: Vehicle) -> Iterator[int]:
    """A simulated meter at a port of its own."""
    with MeterServer(vehicle, 0) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield int(server.server_address[1])
        server.shutdown()


@contextmanager
def saying(*answers: bytes) -> Iterator[int]:
    """Something that answers whatever it is asked with these bytes in turn, then goes away."""
    with socket.create_server(("127.0.0.1", 0)) as door:

        def talk() -> None:
            other, _ = door.accept()
            with other:
                for answer in answers:
                    other.recv(4096)
                    other.sendall(answer)

        thread = threading.Thread(target=talk, daemon=True)
        thread.start()
        yield int(door.getsockname()[1])
        thread.join(2)


def test_an_independent_client_reads_it_by_the_open_standard() -> None:
    """PyVISA with PyVISA-py, which know nothing of this project: IEEE 488.2 commands and SCPI measurements."""
    vehicle = Vehicle(demo_plan("heron"), ("C11 joint 80 mohm",), noise=False)
    with serving(vehicle) as port:
        manager = pyvisa.ResourceManager("@py")
        meter = manager.open_resource(
            f"TCPIP::127.0.0.1::{port}::SOCKET", read_termination="\n", write_termination="\n"
        )
        try:
            assert meter.query("*IDN?").split(",")[1] == "Simulated meter"
            assert meter.query("*OPC?") == "1"
            meter.write('SIM:STAT "load:l7"')
            meter.write('SIM:PROB "volts:r11:p:0~r11:p:1"')
            assert meter.query("SYST:ERR?").startswith("0,")
            drop = float(meter.query("MEAS:VOLT:DC?"))
            meter.write('SIM:PROB "amps:r11:p"')
            amps = float(meter.query("MEASure:CURRent:DC?"))
            assert drop / amps == pytest.approx(0.085, abs=0.006)
            meter.write('SIM:PROB ""')
            assert float(meter.query("MEAS:RES?")) == pytest.approx(LEADS_OHM)
            meter.write("SING:SONG")
            assert meter.query("SYST:ERR?").startswith("-113")
            assert meter.query("SYST:ERR?").startswith("0,")
        finally:
            meter.close()
            manager.close()


def test_our_client_says_where_the_probes_are_and_reads() -> None:
    vehicle = Vehicle(demo_plan("heron"), seed=4)
    with serving(vehicle) as port, Meter("localhost", port) as meter:
        assert meter.simulated
        meter.place("rest", "volts:+b1~-b1")
        read = meter.read("volts")
        band = foresee(sound("heron", "rest"), [ready("heron").reading("volts:+b1~-b1")])
        assert float(band.low[0]) <= read.value <= float(band.high[0])
        meter.place("dead", "ohms:+u1~-u1")
        assert meter.read("ohms").open
        meter.place("dead", "ohms:-g1~-u1")
        assert meter.read("ohms").value == pytest.approx(LEADS_OHM, abs=0.2)
        with pytest.raises(NotUnderstood, match="no such state"):
            meter.place("nowhere", "volts:+b1~-b1")
        with pytest.raises(NotUnderstood, match="no such spot"):
            meter.place("rest", "volts:+zz~-zz")
        with pytest.raises(NotUnderstood):
            meter.place("rest", 'volts"; *RST')


def test_two_meters_find_the_same_vehicle_each_where_its_own_probes_are() -> None:
    vehicle = Vehicle(demo_plan("tern"), noise=False)
    with serving(vehicle) as port, Meter("127.0.0.1", port) as one, Meter("127.0.0.1", port) as other:
        one.place("load:l6", "volts:+l6~-l6")
        other.place("load:l6", "amps:r7:p")
        volts, amps = one.read("volts").value, other.read("amps").value
        assert volts * amps == pytest.approx(240, rel=0.3)


def test_the_probe_of_another_quantity_reads_nothing() -> None:
    talk = Conversation(Vehicle(demo_plan("tern"), noise=False))
    assert float(talk.answer("MEAS:VOLT:DC?") or "1") == 0
    assert float(talk.answer("MEAS:RES?") or "0") == pytest.approx(LEADS_OHM)
    talk.answer('SIM:PROB "volts:+b1~-b1"')
    assert float(talk.answer("MEAS:CURR:DC?") or "1") == 0
    assert float(talk.answer("MEAS:RES?") or "0") > 1e37
    assert float(talk.answer("meas:volt:dc?") or "0") == pytest.approx(12.5, abs=0.5)
    assert talk.answer("*RST") is None


@pytest.mark.parametrize(
    ("answers", "told"),
    [
        ((b"Maker,Meter,1,1\n",), "went away"), ((b"Maker,Meter,1,1\n", b"12.\xff\n"), "says"),
        ((b"Maker,Meter,1,1\n", b"hello\n"), "else than a number"), ((b"Maker,Meter,1,1\n", b"NaN\n"), "no number"),
        ((b"Maker,Meter,1,1\n", b"1" * 9000), "more than a reading"),
    ],
)  # fmt: skip
def test_a_meter_that_goes_or_talks_nonsense_gives_no_reading(answers: tuple[bytes, ...], told: str) -> None:
    with saying(*answers) as port, pytest.raises(MeterGone, match=told) as caught, Meter("127.0.0.1", port) as meter:
        meter.read("volts")
    assert caught.value.field == "meter"


def test_a_meter_of_another_maker_is_not_told_where_its_probes_are() -> None:
    with saying(b"Maker,Meter,1,1\n", b"+1.271300E+01\n") as port, Meter("127.0.0.1", port) as meter:
        meter.place("rest", "volts:+b1~-b1")
        assert meter.read("volts").value == pytest.approx(12.713)


def test_one_that_does_not_answer_is_waited_for_a_while_only() -> None:
    with socket.create_server(("127.0.0.1", 0)) as door:
        silent = Meter("127.0.0.1", int(door.getsockname()[1]), timeout_s=0.3)
        # Entering closes it again where nobody says who it is.
        with pytest.raises(MeterGone, match="does not answer"), silent:
            pass


def test_one_that_drips_has_one_deadline_for_a_whole_answer() -> None:
    """A byte now and then is no answer: the line has to be whole in time."""
    with socket.create_server(("127.0.0.1", 0)) as door:
        stop = threading.Event()

        def drip() -> None:
            other, _ = door.accept()
            with other:
                while not stop.wait(0.1):
                    try:
                        other.sendall(b"1")
                    except OSError:
                        return

        threading.Thread(target=drip, daemon=True).start()
        began = time.monotonic()
        dripping = Meter("127.0.0.1", int(door.getsockname()[1]), timeout_s=0.6)
        with pytest.raises(MeterGone, match="does not answer"), dripping:
            pass
        stop.set()
        # Ten drips would have come within their own time each.
        assert time.monotonic() - began < 5


def test_a_few_instruments_at_once_and_the_next_is_refused_at_once() -> None:
    with ExitStack() as held:
        for _ in range(6):
            held.enter_context(one_of_few("meter"))
        with pytest.raises(MeterGone, match="being asked already") as refused, one_of_few("meter"):
            pass
        assert refused.value.field == "meter"
    with one_of_few("meter"):
        pass


def test_nobody_there_is_said() -> None:
    with socket.create_server(("127.0.0.1", 0)) as door:
        port = int(door.getsockname()[1])
    with pytest.raises(MeterGone, match="nobody answers"):
        Meter("127.0.0.1", port)


@pytest.mark.parametrize("host", ["127.0.0.1", "localhost", "LOCALHOST", "192.168.1.20", "10.0.0.7", "::1", "fd00::5"])
def test_meters_of_this_machine_and_private_networks_are_asked(host: str) -> None:
    assert meter_address(host)


@pytest.mark.parametrize(
    ("host", "kind"),
    [("8.8.8.8", OutOfRange), ("meter.example", NotUnderstood), ("", NotUnderstood), ("224.0.0.1", OutOfRange),
     ("0.0.0.0", OutOfRange), ("192.168.1.20; ls", NotUnderstood)],  # noqa: S104
)  # fmt: skip
def test_nothing_is_sent_anywhere_else(host: str, kind: type[LucernisError]) -> None:
    with pytest.raises(kind) as caught:
        meter_address(host)
    assert caught.value.field == "host"


def test_the_battery_monitor_says_lines_of_json() -> None:
    vehicle = Vehicle(demo_plan("heron"), noise=False)
    with MonitorServer(vehicle, "load:l11", 0) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        port = int(server.server_address[1])
        one = read_monitor("127.0.0.1", port)
        with socket.create_connection(("127.0.0.1", port), timeout=3) as talk:
            line = talk.makefile().readline()
        server.shutdown()
    assert one == monitor_line(vehicle, "load:l11").__class__(**json.loads(line))
    assert one.current_a == pytest.approx(51, rel=0.3)
    assert 12.5 < one.voltage_v < 13.6
    assert 0 <= one.charge_frac <= 1
    assert monitor_line(vehicle, "engine").current_a < -30


@pytest.mark.parametrize("line", [b"12.5\n", b"{}\n", b'{"voltage_v": 13, "current_a": "x", "charge_frac": 0.5}\n',
                                  b'{"voltage_v": 13, "current_a": 1, "charge_frac": 5}\n', b"\n"])  # fmt: skip
def test_a_line_that_is_none_is_refused(line: bytes) -> None:
    with socket.create_server(("127.0.0.1", 0)) as door:

        def talk() -> None:
            other, _ = door.accept()
            with other:
                other.sendall(line)

        threading.Thread(target=talk, daemon=True).start()
        with pytest.raises(NotUnderstood):
            read_monitor("127.0.0.1", int(door.getsockname()[1]))
    with pytest.raises(MeterGone):
        read_monitor("127.0.0.1", 1)


def test_a_vehicle_is_the_same_by_its_seed_and_another_by_another() -> None:
    plan = demo_plan("tern")
    first, again, other = (Vehicle(plan, seed=seed).read("volts:+l1~-l1", "load:l1") for seed in (1, 1, 2))
    assert first == again != other


def test_faults_that_bridge_are_found_by_the_probes_too() -> None:
    short = Vehicle(demo_plan("heron"), ("C11 short",), noise=False)
    assert short.read("ohms:+l7~-l7", "dead") == pytest.approx(LEADS_OHM + 0.05, abs=0.1)
    assert abs(short.read("volts:+l7~-l7", "load:l7")) < 0.1
    stuck = Vehicle(demo_plan("heron"), ("L08 stuck 0.8 A",), noise=False)
    assert stuck.read("amps:r12:p", "rest") == pytest.approx(0.8, abs=0.15)
    crossed = Vehicle(demo_plan("heron"), ("L08 crossed",), noise=False)
    assert crossed.read("volts:+l8~-l8", "rest") < -12
    welded = Vehicle(demo_plan("heron"), ("S01 welded",), noise=False)
    assert welded.read("volts:+u1~-u1", "isolated") > 12
    with pytest.raises(UnknownRow):
        welded.read("volts:+u1~-u1", "nowhere")
