"""Backups and devices on screen, names and pages in the log, jobs carried out and in, jobs that cannot be read."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from lucernis.api.pairing import Pairing
from lucernis.demo import load_demo
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from tests.screen.test_away import type_watts
from tests.serving import served

Open = Callable[[str, str], Page]


def test_a_backup_is_made_and_brought_back(job: Open, base: str) -> None:
    page = job("Heron", "loads")
    page.goto(base)
    page.get_by_role("link", name="Backups and devices").click()
    expect(page.get_by_text("No backup yet.")).to_be_visible()
    page.get_by_role("button", name="Back up now").click()
    expect(page.get_by_role("row", name=re.compile("asked for 4 jobs"))).to_be_visible()
    page = job("Heron", "loads")
    type_watts(page, "Water pump", "91")
    expect(page.get_by_role("status")).to_have_text("saved · revision 2")
    page.goto(f"{base}/keeping")
    page.get_by_role("button", name=re.compile("Restore the backup of")).click()
    asked = page.get_by_role("dialog", name="Restore this backup?")
    expect(asked).to_contain_text("those are backed up first")
    asked.get_by_role("button", name="Restore").click()
    expect(page.get_by_role("row", name=re.compile("before a restore"))).to_be_visible()
    page = job("Heron", "loads")
    expect(page.get_by_role("status")).to_have_text("saved · revision 1")


def test_a_revision_gets_a_name_and_stands_above_the_others(job: Open) -> None:
    page = job("Heron", "log/revisions")
    page.get_by_role("button", name="Name revision 1").click()
    asked = page.get_by_role("dialog", name="Name revision 1")
    asked.get_by_label("Name").fill("as quoted")
    asked.get_by_role("button", name="Keep the name").click()
    expect(page.get_by_role("list", name="Revisions with a name")).to_contain_text("as quoted")
    page.reload()
    expect(page.get_by_role("list", name="All revisions")).to_contain_text("as quoted")


def test_older_revisions_come_by_pages(quiet: Page, base: str) -> None:
    plan_id = quiet.request.get(f"{base}/api/plans").json()[0]["plan_id"]
    for revision in range(1, 105):
        patch = [{"op": "replace", "path": "/job/customer", "value": f"customer {revision}"}]
        quiet.request.patch(f"{base}/api/plans/{plan_id}", data=patch, headers={"If-Match": f'"{revision}"'})
    quiet.goto(f"{base}/plan/{plan_id}/log/revisions")
    entries = quiet.get_by_role("list", name="All revisions").get_by_role("button", name="Back to this")
    expect(entries).to_have_count(100)
    quiet.get_by_role("button", name="Show older ones").click()
    expect(entries).to_have_count(105)
    expect(quiet.get_by_role("button", name="Show older ones")).to_have_count(0)


def test_a_job_goes_out_and_comes_in_with_its_log(job: Open, base: str, tmp_path: Path) -> None:
    page = job("Tern", "log/revisions")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Take the job out, with its log").click()
    file = tmp_path / "tern.zip"
    taken.value.save_as(file)
    page.goto(base)
    page.get_by_label("Plan file").set_input_files(file)
    page.wait_for_url(re.compile("/loads"))
    expect(page.get_by_role("status")).to_have_text("saved · revision 1")
    page.goto(base)
    expect(page.get_by_role("heading", name="Tern")).to_have_count(2)
    bad = tmp_path / "bad.zip"
    bad.write_bytes(b"no zip")
    page.get_by_label("Plan file").set_input_files(bad)
    expect(page.get_by_text("not a zip that can be read")).to_be_visible()


@pytest.fixture
def spoilt(tmp_path: Path) -> Iterator[str]:
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    with closing(sqlite3.connect(database.path)) as connection, connection:
        which = "(SELECT plan_id FROM plan ORDER BY sort_order LIMIT 1)"
        connection.execute(f"UPDATE revision SET content = '[]' WHERE plan_id = {which}")  # noqa: S608 - our own words
        connection.execute(f"UPDATE plan SET document = '{{}}' WHERE plan_id = {which}")  # noqa: S608
    with served(database) as address:
        yield address


def test_a_job_that_cannot_be_read_is_one_card(page: Page, spoilt: str) -> None:
    page.goto(spoilt)
    expect(page.get_by_text("This job cannot be read")).to_have_count(1)
    expect(page.get_by_role("heading", name="Tern")).to_be_visible()
    page.get_by_role("link", name="Restore a backup").click()
    expect(page.get_by_role("heading", name="Backups", exact=True)).to_be_visible()


def test_a_phone_pairs_and_is_withdrawn(browser: Browser, tmp_path: Path) -> None:
    """The host and the phone are one machine here; a name that is not the host's makes it a stranger."""
    database = Database(tmp_path / "plans.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    with served(database, Pairing("MANTERN7", ("http://192.168.1.5:8765",), tls=False)) as address:
        port = address.rsplit(":", 1)[1]
        host = browser.new_page()
        host.goto(f"{address}/keeping")
        expect(host.get_by_text("MANT-ERN7")).to_be_visible()
        expect(host.get_by_alt_text("The address with the pairing code, for the camera of a phone")).to_be_visible()
        phone = browser.new_context(viewport={"width": 390, "height": 844}).new_page()
        phone.goto(f"http://van.localhost:{port}/")
        expect(phone.get_by_role("heading", name="Let this device in")).to_be_visible()
        phone.get_by_label("Pairing code, as the host shows it").fill("WRONGONE")
        phone.get_by_role("button", name="Let it in").click()
        expect(phone.get_by_role("alert")).to_have_text("That is not the code the host shows.")
        phone.get_by_label("Pairing code, as the host shows it").fill("mant ern7")
        phone.get_by_label("A name for this device").fill("Phone in the van")
        phone.get_by_role("button", name="Let it in").click()
        expect(phone.get_by_role("heading", name="Heron")).to_be_visible()
        host.reload()
        host.get_by_role("button", name="Withdraw Phone in the van").click()
        expect(host.get_by_role("button", name="Withdraw Phone in the van")).to_have_count(0)
        phone.reload()
        expect(phone.get_by_role("heading", name="Let this device in")).to_be_visible()
        host.close()
        phone.context.close()
    database.close()
