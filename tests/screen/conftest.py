"""A served demo and a real browser without a monitor."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from lucernis.demo import load_demo, load_demo_prices, load_demo_trade
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from lucernis.store.trade import TradeStore
from lucernis.store.workshop import WorkshopStore
from tests.serving import served

# This machine by a name that is not the host's own, as a device of the network has it.
ELSEWHERE = "workshop.test"
FLAGS = [
    f"--host-resolver-rules=MAP {ELSEWHERE} 127.0.0.1",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "tests/screen" in str(item.path):
            item.add_marker(pytest.mark.screen)


# An edit at a busy two-core machine may take longer than an expectation waits by itself.
PATIENCE_MS = 30_000
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Debian's Chromium; nothing is downloaded."""
    with sync_playwright() as playwright:
        found = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield found
        found.close()


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    """A fresh page in a context of its own."""
    # A worker of the page would come between it and what a test lets through.
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, color_scheme="light", service_workers="block"
    )
    yield context.new_page()
    context.close()


@pytest.fixture
def base(tmp_path: Path) -> Iterator[str]:
    """Address of a freshly served demo: the same server as `lucernis demo` starts, in a thread, so that it is up at
    once."""
    database = Database(tmp_path / "demo.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    load_demo_prices(WorkshopStore(database))
    load_demo_trade(TradeStore(database))
    with served(database) as address:
        yield address
    database.close()


@pytest.fixture
def quiet(page: Page, base: str) -> Iterator[Page]:
    """A page that must ask nobody else for anything and complain about nothing."""
    elsewhere: list[str] = []
    complaints: list[str] = []
    page.set_default_timeout(PATIENCE_MS)

    def seen(request: Any) -> None:
        if not request.url.startswith((base, "data:", "blob:")):
            elsewhere.append(request.url)

    page.on("request", seen)
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.on(
        "console",
        lambda message: (
            complaints.append(message.text)
            if message.type == "error" and "Failed to load resource" not in message.text
            else None
        ),
    )
    yield page
    assert elsewhere == []
    assert complaints == []


@pytest.fixture
def job(quiet: Page, base: str) -> Callable[[str, str], Page]:
    """Opens a view of a demo job."""

    def open_job(name: str, view: str) -> Page:
        cards = quiet.request.get(f"{base}/api/plans").json()
        plan_id = next(card["plan_id"] for card in cards if card["name"] == name)
        quiet.goto(f"{base}/plan/{plan_id}/{view}")
        quiet.get_by_role("navigation", name="Order of work").wait_for()
        # A view's own script arrives when it is first opened.
        quiet.get_by_text("Opening", exact=True).first.wait_for(state="detached")
        return quiet

    return open_job
