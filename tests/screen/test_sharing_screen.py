"""Who is let in, on screen: roles, a link that shows one job, and what its reader sees."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from lucernis.api.pairing import Pairing
from lucernis.demo import load_demo
from lucernis.store.database import Database
from lucernis.store.devices import DeviceStore
from lucernis.store.plans import PlanStore
from tests.serving import served


def test_the_host_says_what_a_device_may_do_and_makes_a_link(page: Page, tmp_path: Path) -> None:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    devices = DeviceStore(database)
    token = devices.let_in("Phone in the van")
    with served(database, Pairing("LANTERN7", ("http://192.168.1.5:8765",), tls=False)) as base:
        page.goto(f"{base}/keeping")
        page.get_by_label("What Phone in the van may do").click()
        page.get_by_role("option", name="may do all the host may").click()
        expect(page.get_by_label("What Phone in the van may do")).to_contain_text("may do all the host may")
        found = devices.known(token)
        assert found is not None
        assert found.role == "owner"
        page.get_by_label("Who it is for").fill("Customer")
        page.get_by_role("button", name="Make the link").click()
        expect(page.get_by_text("http://192.168.1.5:8765/look/")).to_be_visible()
        expect(page.get_by_text("looks at")).to_be_visible()


@pytest.mark.parametrize("narrow", [False, True])
def test_a_reader_is_told_so_and_changes_nothing(page: Page, base: str, narrow: bool) -> None:
    if narrow:
        page.set_viewport_size({"width": 390, "height": 844})
    page.route("**/api/sharing", lambda route: route.fulfill(json={
        "shared": True, "at_host": False, "role": "reader", "code": "", "addresses": [], "warning": "", "devices": [],
    }))  # fmt: skip
    page.goto(base)
    page.get_by_role("link", name="Heron").first.click()
    expect(page.get_by_text("You were given a link to look at this job.")).to_be_visible()
    sent = []
    page.on("request", lambda one: sent.append(one.method) if one.method not in ("GET", "HEAD") else None)
    page.get_by_role("button", name="Add a load").first.click()
    expect(page.get_by_text("Nothing was changed")).to_be_visible()
    assert sent == []
