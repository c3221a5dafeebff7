"""Serving: the data file opened and kept, backups, and, where it is asked, the network let in."""

from __future__ import annotations

import contextlib
import gc
import getpass
import ipaddress
import os
import signal
import socket
import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

import uvicorn

from lucernis import __version__
from lucernis.api.app import create_app
from lucernis.api.heavy import Heavy
from lucernis.api.pairing import LEAST_CODE, PLAIN_WORDS, Pairing, new_code, pair_url, qr_text, shown_code
from lucernis.demo import load_demo, load_demo_prices, load_demo_record, load_demo_trade
from lucernis.errors import LucernisError
from lucernis.store.backups import Backups, Keeper
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from lucernis.store.record import RecordStore
from lucernis.store.trade import TradeStore
from lucernis.store.workshop import WorkshopStore

PASSCODE_VARIABLE = "LUCERNIS_PASSCODE"
_VALID = timedelta(days=825)
_SWITCH_S = 0.0005


@dataclass(frozen=True, slots=True)
class ServeOptions:
    """What serving was asked for. `passcode` is "prompt", "file:PATH", "env", or empty: a code made at each
    start. `bind` is the one address of this machine that a network is let in by, beside this machine itself; empty for
    all."""

    data: Path
    port: int
    demo: bool = False
    share: bool = False
    tls: bool = False
    passcode: str = ""
    bind: str = ""


def own_addresses() -> list[str]:
    """Addresses of this machine on its networks, as a person can type them: those of IPv4."""
    found: list[str] = []
    # Nothing is sent: the system only tells from which address it would be. Without a network it says so.
    with contextlib.suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        probe.connect(("192.0.2.1", 9))
        found.append(str(probe.getsockname()[0]))
    with contextlib.suppress(OSError):
        found += [str(one[4][0]) for one in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)]
    return [one for one in dict.fromkeys(found) if not ipaddress.ip_address(one).is_loopback]


def read_bind(text: str) -> str:
    """The address of this machine that a network is let in by.

    Raises
    ------
    LucernisError
        If it is no address of IPv4, that of this machine alone, or that of all networks.
    """
    try:
        address = ipaddress.IPv4Address(text)
    except ValueError:
        address = None
    if address is None or address.is_loopback or address.is_unspecified or address.is_multicast:
        raise LucernisError(
            f"{text!r} is no address a network reaches this machine by",
            field="bind",
            value=text,
            allowed="one of " + (", ".join(own_addresses()) or "its addresses: it is on no network at present"),
        )
    return str(address)


def listening(host: str, port: int) -> socket.socket:
    """A socket that takes calls.

    Raises
    ------
    LucernisError
        If the port is taken, or the address is not this machine's.
    """
    # Named as TCP, or the event loop leaves small answers waiting for the acknowledgement of those before: 40 ms each.
    taken = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        taken.bind((host, port))
    except OSError as error:
        taken.close()
        raise LucernisError(
            f"port {port} at {host} cannot be used ({error.strerror})",
            field="port",
            value=port,
            allowed="another --port if a program has it, perhaps this one; an address of this machine as --bind",
        ) from error
    return taken


def read_passcode(how: str, ask: Callable[[str], str] = getpass.getpass) -> str:
    """The pairing code: made anew, or what a person has laid down.

    Parameters
    ----------
    how : str
        As `ServeOptions.passcode`.
    ask : callable
        Asks without showing what is typed.

    Returns
    -------
    str
        Never blank.

    Raises
    ------
    LucernisError
        If it is shorter than six characters or cannot be read.
    """
    if not how:
        return new_code()
    if how == "prompt":
        code = ask("Pairing code for devices of the network: ").strip()
    elif how == "env":
        code = os.environ.get(PASSCODE_VARIABLE, "").strip()
    else:
        code = Path(how.removeprefix("file:")).read_text(encoding="utf-8").strip()
    if len(code) < LEAST_CODE:
        raise LucernisError(
            "the pairing code is too short" if code else "the pairing code is blank",
            field="passcode",
            allowed=f"{LEAST_CODE} characters or more",
        )
    return code


def own_certificate(folder: Path, addresses: list[str]) -> tuple[Path, Path, str]:
    """A certificate of this program's own for its addresses, made once and again when they change or it runs out.

    Parameters
    ----------
    folder : Path
        Where certificate and key lie; the key is readable by its owner only.
    addresses : list of str
        What it is reached by.

    Returns
    -------
    tuple of Path, Path and str
        Certificate, key, and the fingerprint (SHA-256) that a device shows when it asks whether to trust it.
    """
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes, serialization
    from cryptography.hazmat.primitives.asymmetric import ec

    cert_path, key_path = folder / "lucernis-cert.pem", folder / "lucernis-key.pem"
    wanted: list[x509.GeneralName] = [x509.DNSName("localhost"), x509.DNSName(socket.gethostname() or "lucernis")]
    wanted += [x509.IPAddress(ipaddress.ip_address(one)) for one in ("127.0.0.1", *addresses)]
    names = x509.SubjectAlternativeName(wanted)
    now = datetime.now(UTC)
    if cert_path.is_file() and key_path.is_file():
        known = x509.load_pem_x509_certificate(cert_path.read_bytes())
        same = known.extensions.get_extension_for_class(x509.SubjectAlternativeName).value == names
        if same and known.not_valid_after_utc > now + timedelta(days=7):
            return cert_path, key_path, _fingerprint(known.fingerprint(hashes.SHA256()))
    key = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, "Lucernis on " + (socket.gethostname() or "?"))])
    made = (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + _VALID)
        .add_extension(names, critical=False)
        .sign(key, hashes.SHA256())
    )
    folder.mkdir(parents=True, exist_ok=True)
    body = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    key_path.unlink(missing_ok=True)
    with os.fdopen(os.open(key_path, os.O_CREAT | os.O_WRONLY | os.O_EXCL, 0o600), "wb") as file:
        file.write(body)
    cert_path.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    return cert_path, key_path, _fingerprint(made.fingerprint(hashes.SHA256()))


def _fingerprint(digest: bytes) -> str:
    return ":".join(f"{one:02X}" for one in digest)


def opened(data: Path, say: Callable[[str], None]) -> tuple[Database, Backups]:
    """The data file, opened, backed up before its schema is changed, and what is odd about it told."""
    database = Database(data)
    backups = Backups(database)

    def before_schema() -> None:
        say(f"Backup before the change of the schema: {backups.make('before-schema').name}")

    database.open(before_schema)
    if database.read_only:
        say(database.read_only)
    elif missing := backups.missing_plans():
        say(missing)
    return database, backups


def told_addresses(pairing: Pairing, fingerprint: str) -> list[str]:
    """What is printed where the network is let in."""
    lines = ["On this network:", *(f"  {one}" for one in pairing.addresses)]
    if not pairing.addresses:
        lines = ["This machine is on no network at present."]
    lines.append(f"Pairing code: {shown_code(pairing.code)}")
    if pairing.addresses and sys.stdout.isatty():
        lines.append(qr_text(pair_url(pairing, pairing.addresses[0])))
    if pairing.tls:
        lines.append(
            "The certificate is this program's own; a device asks once whether to trust it. Fingerprint (SHA-256):"
        )
        lines.append(f"  {fingerprint}")
    else:
        lines.append(PLAIN_WORDS)
    return lines


def _end_whole() -> None:
    """Any way of stopping goes through the end of `serve`, where the data file is folded: the server hands on the
    signal it was stopped by, and the system's own answer to it would be to drop everything."""

    def end(number: int, frame: object) -> None:
        raise SystemExit(128 + number)

    def hang_up(number: int, frame: object) -> None:
        os.kill(os.getpid(), signal.SIGTERM)

    if threading.current_thread() is not threading.main_thread():
        return
    signal.signal(signal.SIGTERM, end)
    if hasattr(signal, "SIGHUP"):
        signal.signal(signal.SIGHUP, hang_up)


def serve(options: ServeOptions, say: Callable[[str], None]) -> int:
    """Serve until it is stopped.

    Raises
    ------
    LucernisError
        If the passcode is blank or short, or the data file cannot be opened.
    """
    code = read_passcode(options.passcode) if options.share else ""
    database, backups = opened(options.data, say)
    if options.demo and not database.read_only:
        load_demo(PlanStore(database))
        load_demo_prices(WorkshopStore(database))
        load_demo_trade(TradeStore(database))
        load_demo_record(RecordStore(database), PlanStore(database))
    pairing, cert, key, fingerprint = None, None, None, ""
    scheme = "https" if options.share and options.tls else "http"
    if options.share:
        addresses = [read_bind(options.bind)] if options.bind else own_addresses()
        if options.tls:
            cert, key, fingerprint = own_certificate(options.data.parent, addresses)
        shown = tuple(f"{scheme}://{one}:{options.port}" for one in addresses)
        pairing = Pairing(code, shown, options.tls)
    heavy, intake = Heavy(apart=True), Heavy(apart=True)
    app = create_app(database, pairing=pairing, heavy=heavy, intake=intake)
    # Who waits for the interpreter gets it soon, whatever somebody else computes.
    sys.setswitchinterval(_SWITCH_S)
    # What is loaded now stays for good; a collection that walks all of it in the middle of an edit is felt.
    gc.collect()
    gc.freeze()
    hosts = ["127.0.0.1"]
    if options.share:
        # Only by an explicit flag, behind a pairing code.
        hosts = ["127.0.0.1", options.bind] if options.bind else ["0.0.0.0"]  # noqa: S104
    sockets = [listening(one, options.port) for one in hosts]
    say(f"Lucernis {__version__} at {scheme}://127.0.0.1:{options.port}  (plans in {options.data})")
    if pairing is not None:
        say("\n".join(told_addresses(pairing, fingerprint)))
    _end_whole()
    keeper = app.state.keeper = Keeper(backups, say)
    keeper.start()
    heavy.start()
    intake.start()
    try:
        config = uvicorn.Config(
            app,
            log_level="warning",
            server_header=False,
            proxy_headers=False,
            ssl_certfile=str(cert) if cert else None,
            ssl_keyfile=str(key) if key else None,
        )
        uvicorn.Server(config).run(sockets=sockets)
    finally:
        keeper.stop()
        heavy.stop()
        intake.stop()
        # From now on the file may be copied by itself.
        database.close()
    return 0
