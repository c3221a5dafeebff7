"""Sharing with the network: pairing, tokens, back-off, who counts as the host; certificate; passcodes."""

from __future__ import annotations

import logging
import socket
import ssl
import threading
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from lucernis.api.app import create_app
from lucernis.api.pairing import Guesses, Pairing, new_code, qr_text, shown_code
from lucernis.core.prove.vehicle import Vehicle
from lucernis.demo import demo_plan
from lucernis.errors import LucernisError
from lucernis.meters.monitor import MonitorServer
from lucernis.plan.document import plan_document
from lucernis.serve import listening, own_addresses, own_certificate, read_bind, read_passcode, told_addresses
from lucernis.store.database import Database

HOST = "http://192.168.1.5:8765"
CODE = "LANTERN7"


class Shared:
    """A shared program with a clock of its own, and clients at other addresses."""

    def __init__(self, folder: Path, *, tls: bool = False) -> None:
        database = Database(folder / "plans.sqlite3")
        database.open()
        self.now = 0.0
        self.pairing = Pairing(CODE, (HOST,), tls, Guesses(clock=lambda: self.now))
        self.app = create_app(database, pairing=self.pairing)

    def device(self, address: str = "192.168.1.9", base_url: str = HOST) -> TestClient:
        return TestClient(self.app, base_url=base_url, client=(address, 50000), follow_redirects=False)

    def host(self) -> TestClient:
        return TestClient(self.app, base_url="http://127.0.0.1:8765", client=("127.0.0.1", 50001))


@pytest.fixture
def shared(tmp_path: Path) -> Shared:
    return Shared(tmp_path)


def pair(client: TestClient, code: str = CODE, name: str = "Phone in the van") -> int:
    return client.post("/pair", data={"code": code, "name": name}).status_code


def test_a_device_is_let_in_by_the_code_and_stays(shared: Shared) -> None:
    phone = shared.device()
    assert phone.get("/api/plans").status_code == 401
    assert phone.get("/api/plans").json()["type"] == "urn:lucernis:problem:not-paired"
    assert phone.get("/plan/x/loads").headers["location"] == "/pair"
    assert pair(phone) == 303
    assert phone.get("/api/plans").status_code == 200
    assert shared.device("192.168.1.10").get("/api/plans").status_code == 401


@pytest.mark.parametrize("typed", ["LANT-ERN7", "lantern7", " lant ern7 "])
def test_a_made_code_is_taken_however_it_is_grouped(tmp_path: Path, typed: str) -> None:
    shared = Shared(tmp_path)
    shared.pairing.code = "LANTERN7".replace("L", "M")
    assert pair(shared.device(), typed.upper().replace("L", "M") if "-" in typed else typed.replace("l", "m")) == 303


def test_opening_the_link_of_the_picture_pairs_nothing(shared: Shared) -> None:
    phone = shared.device()
    page = phone.get("/pair", params={"code": CODE})
    assert page.status_code == 200
    assert f'value="{CODE}"' in page.text
    assert phone.get("/api/plans").status_code == 401
    assert "<script" not in phone.get("/pair", params={"code": '"><script>'}).text


def test_a_token_is_kept_as_its_hash_and_not_shown_to_scripts(shared: Shared, tmp_path: Path) -> None:
    phone = shared.device()
    answer = phone.post("/pair", data={"code": CODE, "name": "Phone"})
    cookie = answer.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    token = phone.cookies["lucernis_device"]
    assert len(token) >= 40
    for path in tmp_path.iterdir():
        assert token.encode() not in path.read_bytes()


def test_with_tls_the_token_travels_by_nothing_else(tmp_path: Path) -> None:
    phone = Shared(tmp_path, tls=True).device(base_url="https://192.168.1.5:8765")
    assert "Secure" in phone.post("/pair", data={"code": CODE, "name": "Phone"}).headers["set-cookie"]


def test_withdrawn_it_is_out_at_once(shared: Shared) -> None:
    phone, host = shared.device(), shared.host()
    pair(phone)
    device = host.get("/api/sharing").json()["devices"][0]
    assert device["name"] == "Phone in the van"
    assert phone.delete(f"/api/devices/{device['device_id']}").status_code == 403, "only the host sends away"
    assert host.delete(f"/api/devices/{device['device_id']}").status_code == 204
    assert phone.get("/api/plans").status_code == 401
    assert host.delete(f"/api/devices/{device['device_id']}").status_code == 404


def test_code_and_devices_are_told_on_the_host_alone(shared: Shared) -> None:
    phone, host = shared.device(), shared.host()
    pair(phone)
    told = host.get("/api/sharing").json()
    assert (told["shared"], told["code"], told["addresses"]) == (True, shown_code(CODE), [HOST])
    assert "whoever listens" in told["warning"]
    there = phone.get("/api/sharing").json()
    assert (there["at_host"], there["code"], there["devices"]) == (False, "", [])
    assert phone.get("/api/sharing/code.svg").status_code == 403
    picture = host.get("/api/sharing/code.svg")
    assert picture.headers["content-type"] == "image/svg+xml"
    assert picture.text.startswith("<?xml")


def test_wrong_codes_wait_longer_and_longer_and_are_logged(shared: Shared, caplog: pytest.LogCaptureFixture) -> None:
    phone = shared.device()
    with caplog.at_level(logging.WARNING, logger="lucernis"):
        assert [pair(phone, "WRONG") for _ in range(3)] == [403] * 3
        assert pair(phone, "WRONG") == 403
        assert pair(phone) == 429, "even the right one has to wait now"
    assert "wrong pairing code from 192.168.1.9 (4 so far)" in caplog.text
    shared.now += 1.9
    assert pair(phone) == 429
    shared.now += 0.2
    assert pair(phone, "WRONG") == 403
    shared.now += 3.9
    assert pair(phone) == 429
    shared.now -= 3.0
    # Four seconds after the fifth wrong one, of which nine tenths are gone.
    assert phone.post("/pair", data={"code": CODE, "name": "x"}).headers["retry-after"] == "3"
    shared.now += 3.2
    assert pair(phone) == 303


def test_guesses_from_many_addresses_wait_as_one(shared: Shared) -> None:
    answers = [pair(shared.device(f"192.168.1.{at}"), "WRONG") for at in range(20, 60)]
    assert answers.count(403) == 21
    assert pair(shared.device("192.168.1.99")) == 429


def test_a_long_siege_waits_no_longer_than_a_quarter_of_an_hour() -> None:
    guesses = Guesses(clock=lambda: 0.0)
    waits = [guesses.wrong("a")[1] for _ in range(40)]
    assert waits[:4] == [0.0, 0.0, 0.0, 2.0]
    assert max(waits) == 900.0


def test_a_page_elsewhere_cannot_borrow_the_host(shared: Shared) -> None:
    """A name that leads to this machine does not make its page the host, and its origin changes nothing."""
    rebound = TestClient(shared.app, base_url="http://evil.example:8765", client=("127.0.0.1", 50002))
    assert rebound.get("/api/plans").status_code == 401
    phone = shared.device()
    pair(phone)
    answer = phone.post("/api/plans", json={"name": "x", "practice_set": "small_craft_us"},
                        headers={"origin": "http://evil.example"})  # fmt: skip
    assert answer.status_code == 403


@pytest.mark.parametrize(
    ("name", "status"),
    [("", 422), ("   ", 422), ("a\x00b", 422), ("x" * 300, 303), ("Host", 422), ("Hostel", 303)],
)
def test_a_device_has_a_name(shared: Shared, name: str, status: int) -> None:
    assert pair(shared.device(), name=name) == status


def test_not_shared_there_is_no_pairing(client: TestClient) -> None:
    assert client.get("/pair").status_code == 404
    assert client.get("/api/sharing").json()["shared"] is False


def test_answers_to_other_machines_are_compressed(shared: Shared) -> None:
    phone = shared.device()
    pair(phone)
    practice = phone.get("/api/practice")
    assert practice.headers["content-encoding"] == "gzip"
    assert "content-encoding" not in shared.host().get("/api/practice").headers


@pytest.mark.parametrize(
    ("text", "good"), [("lantern", True), ("lanter", True), ("lante", False), ("  ", False), ("", False)]
)
def test_a_passcode_comes_from_prompt_file_or_environment(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, text: str, good: bool
) -> None:
    (tmp_path / "code").write_text(f"{text}\n", encoding="utf-8")
    monkeypatch.setenv("LUCERNIS_PASSCODE", text)
    for how in ("prompt", "env", f"file:{tmp_path / 'code'}"):
        if good:
            assert read_passcode(how, ask=lambda _: text) == text
        else:
            with pytest.raises(LucernisError, match=r"blank|too short"):
                read_passcode(how, ask=lambda _: text)


def test_made_codes_differ_and_are_easy_to_read_out() -> None:
    codes = {new_code() for _ in range(200)}
    assert len(codes) == 200
    assert all(len(one) == 8 and not set(one) & set("ILO01") for one in codes)
    assert shown_code("ABCDEFGH") == "ABCD-EFGH"


def test_the_certificate_is_for_its_addresses_and_made_once(tmp_path: Path) -> None:
    cert, key, fingerprint = own_certificate(tmp_path, ["192.168.1.5"])
    assert key.stat().st_mode & 0o077 == 0
    assert own_certificate(tmp_path, ["192.168.1.5"])[2] == fingerprint
    assert len(fingerprint.split(":")) == 32
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(cert, key)
    assert own_certificate(tmp_path, ["192.168.1.6"])[2] != fingerprint, "a new address asks for a new one"


def test_what_is_printed_tells_addresses_code_and_whether_it_is_secret() -> None:
    told = "\n".join(told_addresses(Pairing("ABCDEFGH", (HOST,), tls=False), ""))
    assert HOST in told
    assert "ABCD-EFGH" in told
    assert "whoever listens on this network can read" in told
    secret = "\n".join(told_addresses(Pairing("ABCDEFGH", (HOST,), tls=True), "AA:BB"))
    assert "whoever listens" not in secret
    assert "AA:BB" in secret
    assert "no network" in told_addresses(Pairing("ABCDEFGH", (), tls=False), "")[0]
    assert all(not one.startswith("127.") for one in own_addresses())
    assert "█" in qr_text(HOST)


def test_a_backup_brings_no_withdrawn_device_back(shared: Shared) -> None:
    lost, later, host = shared.device(), shared.device("192.168.1.10"), shared.host()
    pair(lost, name="Lost phone")
    made = host.post("/api/backups").json()["name"]
    host.delete(f"/api/devices/{host.get('/api/sharing').json()['devices'][0]['device_id']}")
    pair(later, name="Tablet")
    assert host.post(f"/api/backups/{made}/restore").status_code == 200
    assert lost.get("/api/plans").status_code == 401
    assert later.get("/api/plans").status_code == 200
    assert [one["name"] for one in host.get("/api/sharing").json()["devices"]] == ["Tablet"]


def test_backups_prices_and_terms_are_the_hosts(shared: Shared) -> None:
    phone, host = shared.device(), shared.host()
    pair(phone)
    made = host.post("/api/backups").json()["name"]
    terms = host.get("/api/terms").json()["terms"]
    asked = [
        lambda one: one.post(f"/api/backups/{made}/restore"),
        lambda one: one.put("/api/prices", json=[]),
        lambda one: one.post("/api/prices/import", content=b"key,price\n", headers={"content-type": "text/csv"}),
        lambda one: one.put("/api/terms", json=terms),
    ]
    for ask in asked:
        refused = ask(phone)
        assert refused.status_code == 403
        assert "Only the host, or a device it made an owner" in refused.json()["detail"]
        assert ask(host).status_code != 403


def test_a_device_reaches_no_instrument_the_host_has_not_asked(shared: Shared) -> None:
    phone, host = shared.device(), shared.host()
    pair(phone)
    with MonitorServer(Vehicle(demo_plan("tern")), port=0) as monitor:
        threading.Thread(target=monitor.serve_forever, daemon=True).start()
        at = {"host": "127.0.0.1", "port": monitor.server_address[1]}
        assert phone.post("/api/monitor", json=at).status_code == 403
        assert host.post("/api/monitor", json=at).status_code == 200
        assert phone.post("/api/monitor", json=at).status_code == 200
        assert phone.post("/api/monitor", json=at | {"port": 22}).status_code == 403
        monitor.shutdown()
    for far in ("169.254.169.254", "fe80::1", "8.8.8.8", "0.0.0.0"):  # noqa: S104 - refused
        assert host.post("/api/monitor", json={"host": far, "port": 80}).status_code in (400, 409, 422)


class TestRoles:
    @pytest.fixture
    def job(self, shared: Shared) -> str:
        made = shared.host().post("/api/plans/import", json=plan_document(demo_plan("plover")))
        return str(made.json()["plan_id"])

    def _id(self, shared: Shared, name: str) -> str:
        every = shared.host().get("/api/sharing").json()["devices"]
        return str(next(one["device_id"] for one in every if one["name"] == name))

    def _link(self, shared: Shared, job: str, name: str = "Customer") -> str:
        links = shared.host().post(f"/api/plans/{job}/link", json={"name": name}).json()["links"]
        assert links[0].startswith(f"{HOST}/look/")
        return str(links[0]).removeprefix(HOST)

    def test_an_owner_decides_what_the_host_does_and_reaches_no_instrument(self, shared: Shared, job: str) -> None:
        phone, host = shared.device(), shared.host()
        pair(phone)
        terms = host.get("/api/terms").json()["terms"]
        assert phone.put("/api/terms", json=terms).status_code == 403
        at = f"/api/devices/{self._id(shared, 'Phone in the van')}/role"
        assert phone.put(at, json={"role": "owner"}).status_code == 403, "nobody makes itself an owner"
        assert host.put(at, json={"role": "owner"}).status_code == 204
        assert phone.get("/api/sharing").json()["role"] == "owner"
        assert phone.put("/api/terms", json=terms).status_code == 200
        assert phone.get("/api/sharing").json()["devices"][0]["role"] == "owner"
        assert phone.post("/api/monitor", json={"host": "127.0.0.1", "port": 9}).status_code == 403
        assert host.put(at, json={"role": "worker"}).status_code == 204
        assert phone.put("/api/terms", json=terms).status_code == 403
        assert host.put("/api/devices/none/role", json={"role": "owner"}).status_code == 404
        assert host.put(at, json={"role": "reader"}).status_code == 422

    def test_a_reader_looks_at_one_job_and_at_nothing_else(self, shared: Shared, job: str) -> None:
        host, phone = shared.host(), shared.device()
        other = host.post("/api/plans", json={"name": "Other", "practice_set": "small_craft_us"}).json()["plan_id"]
        opened = phone.get(self._link(shared, job))
        assert (opened.status_code, opened.headers["location"]) == (303, f"/plan/{job}/loads")
        assert "HttpOnly" in opened.headers["set-cookie"]
        assert phone.get("/api/sharing").json() | {"warning": ""} == {
            "shared": True, "at_host": False, "role": "reader", "code": "", "addresses": [HOST], "warning": "",
            "devices": [],
        }  # fmt: skip
        assert [one["plan_id"] for one in phone.get("/api/plans").json()] == [job]
        assert phone.get(f"/api/plans/{job}").status_code == 200
        assert phone.get(f"/api/plans/{job}/files/runs.csv").status_code == 200
        assert phone.get(f"/api/plans/{job}/record").status_code == 200
        spec = host.get("/api/openapi.json").json()
        open_to_it = {
            "/api/health", "/api/practice", "/api/sharing", "/api/plans", "/api/consumers", "/api/parts",
            "/api/schema/plan", "/api/schema/report", "/api/words", "/api/words/{name}",
        }  # fmt: skip
        kept_back = {"job", "quote", "quotes", "shopping", "shopping.csv", "shopping.pdf", "shopping.xlsx"}
        for path, item in spec["paths"].items():
            for method in item:
                here = path.replace("{plan_id}", job).replace("{", "").replace("}", "")
                there = path.replace("{plan_id}", other).replace("{", "").replace("}", "")
                may = method == "get" and (path in open_to_it or here.startswith(f"/api/plans/{job}"))
                may = may and path.removeprefix("/api/plans/{plan_id}/") not in kept_back
                answer = phone.request(method, here, json={})
                assert ("urn:lucernis:problem:only-looks" not in answer.text) == may, (method, path)
                if here != there:
                    assert phone.request(method, there).status_code == 403, (method, there)
        assert phone.get(f"/api/plans/{job}x").status_code == 403
        assert phone.get(f"/api/plans/{job}/../{other}").status_code in (403, 404)

    def test_a_link_is_withdrawn_like_a_device_and_opens_nothing_then(self, shared: Shared, job: str) -> None:
        link, phone = self._link(shared, job), shared.device()
        phone.get(link)
        device = self._id(shared, "Customer")
        assert shared.host().put(f"/api/devices/{device}/role", json={"role": "owner"}).status_code == 404
        assert shared.host().delete(f"/api/devices/{device}").status_code == 204
        assert phone.get(f"/api/plans/{job}").status_code == 401
        gone = shared.device("192.168.1.77").get(link)
        assert gone.status_code == 403
        assert "opens nothing any more" in gone.text

    def test_a_link_makes_no_reader_of_who_works(self, shared: Shared, job: str) -> None:
        link, worker = self._link(shared, job), shared.device()
        pair(worker)
        assert worker.get(link).status_code == 303
        assert worker.get("/api/sharing").json()["role"] == "worker"
        assert worker.post(f"/api/plans/{job}/link", json={"name": "x"}).status_code == 403
        assert shared.host().post("/api/plans/none/link", json={"name": "x"}).status_code == 404
        # A token of a worker is no link.
        token = worker.cookies["lucernis_device"]
        assert shared.device("192.168.1.78").get(f"/look/{token}").status_code == 403

    def test_each_entry_names_the_device_it_came_from(self, shared: Shared, job: str) -> None:
        phone, host = shared.device(), shared.host()
        pair(phone)
        for at, client in enumerate((phone, host)):
            entry = {"key": f"entry-{at:08}", "kind": "note", "text": "wet floor", "who": "Ada"}
            assert client.post(f"/api/plans/{job}/record", json=entry).status_code == 200
        assert [one["device"] for one in host.get(f"/api/plans/{job}/record").json()] == ["Phone in the van", "host"]
        assert "Phone in the van" in host.get(f"/api/plans/{job}/record.csv").text
        zipped = host.get(f"/api/plans/{job}/job").content
        again = host.post("/api/jobs", content=zipped).json()["plan_id"]
        assert [one["device"] for one in host.get(f"/api/plans/{again}/record").json()] == ["Phone in the van", "host"]


class TestFading:
    def test_wrong_guesses_fade(self) -> None:
        now = [0.0]
        guesses = Guesses(clock=lambda: now[0])
        for _ in range(9):
            guesses.wrong("a")
        assert guesses.wait_s("a") == 64.0
        now[0] = 4 * 900.0
        assert guesses.wrong("a") == (2, 0.0), "of nine hardly one is left after an hour"

    def test_one_address_cannot_keep_all_others_waiting(self) -> None:
        guesses = Guesses(clock=lambda: 0.0)
        for _ in range(500):
            guesses.wrong("192.168.1.66")
        assert guesses.wait_s("192.168.1.66") == 900.0
        assert guesses.wait_s("192.168.1.9") == 0.0

    def test_a_device_of_ipv6_is_one_by_whichever_of_its_addresses(self) -> None:
        guesses = Guesses(clock=lambda: 0.0)
        for at in range(6):
            guesses.wrong(f"2001:db8:1:2::{at:x}")
        assert guesses.wait_s("2001:db8:1:2::ffff") == 8.0
        assert guesses.wait_s("2001:db8:1:3::1") == 0.0

        assert guesses.wrong("fe80::1%eth0")[0] == 1


@pytest.mark.parametrize("text", ["x", "127.0.0.1", "0.0.0.0", "224.0.0.1", "::1", "192.168.1"])  # noqa: S104 - refused
def test_an_address_to_share_by_is_one_of_a_network(text: str) -> None:
    with pytest.raises(LucernisError, match="is no address a network reaches this machine by"):
        read_bind(text)
    assert read_bind("192.168.1.5") == "192.168.1.5"


def test_a_taken_port_and_a_strange_address_are_told() -> None:
    with socket.socket() as held:
        held.bind(("127.0.0.1", 0))
        held.listen()
        port = held.getsockname()[1]
        with pytest.raises(LucernisError, match=f"port {port} at 127.0.0.1 cannot be used"):
            listening("127.0.0.1", port)
    with pytest.raises(LucernisError, match=r"at 203\.0\.113\.9 cannot be used"):
        listening("203.0.113.9", port)
    taken = listening("127.0.0.1", port)
    # Else the event loop does not turn Nagle's waiting off, and each small answer takes 40 ms.
    assert taken.proto == socket.IPPROTO_TCP
    taken.close()
