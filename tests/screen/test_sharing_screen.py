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
from tests.screen.conftest import ELSEWHERE, PATIENCE_MS
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
        page.get_by_role("option", name="Owner: like the host").click()
        expect(page.get_by_label("What Phone in the van may do")).to_contain_text("Owner: like the host")
        found = devices.known(token)
        assert found is not None
        assert found.role == "owner"
        page.get_by_label("Who it is for").fill("Customer")
        page.get_by_role("button", name="Make the link").click()
        expect(page.get_by_text("http://192.168.1.5:8765/look/")).to_be_visible()
        expect(page.get_by_text("Reader: ")).to_be_visible()


@pytest.mark.parametrize("size", [(1280, 800), (390, 844)])
def test_a_reader_opens_its_link_sees_the_job_and_changes_nothing(
    page: Page, tmp_path: Path, size: tuple[int, int]
) -> None:
    """By another name of this machine, as from another: only who comes by the host's own name is the host."""
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    heron = next(one for one in PlanStore(database).list_plans() if one.document["job"]["name"] == "Heron")
    token = DeviceStore(database).let_in("Customer", "reader", heron.plan_id)
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.set_default_timeout(PATIENCE_MS)
    with served(database, Pairing("LANTERN7", (), tls=False)) as base:
        there = base.replace("127.0.0.1", ELSEWHERE)
        page.goto(f"{there}/look/{token}")
        expect(page.get_by_text("This link shows the job, read only.")).to_be_visible(timeout=PATIENCE_MS)
        page.get_by_role("button", name="Add a load").first.click()
        expect(page.get_by_text("Nothing was changed")).to_be_visible()
        # What goes another way than edits is refused, and does not wait in the browser for ever.
        page.goto(f"{there}/plan/{heron.plan_id}/build/order")
        page.get_by_role("checkbox", name="disconnect every battery", exact=False).click()
        expect(page.get_by_text("Not kept in the record")).to_be_visible(timeout=PATIENCE_MS)
        expect(page.get_by_text("The link only shows one job")).to_be_visible()
        page.goto(there)
        expect(page.get_by_role("heading", name="Heron")).to_be_visible(timeout=PATIENCE_MS)
        expect(page.get_by_role("heading", name="Tern")).to_have_count(0)
        # Nothing is offered that would be refused.
        for name in ("New job", "Archive", "School", "Backups and devices"):
            expect(page.get_by_text(name)).to_have_count(0)
    assert PlanStore(database).get(heron.plan_id).revision == heron.revision
