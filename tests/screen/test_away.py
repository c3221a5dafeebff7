"""The program is away for a while: the screen says so, nothing typed is lost, nothing is done twice."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, Route, expect

from lucernis.demo import load_demo
from lucernis.store.database import Database
from lucernis.store.plans import PlanStore
from tests.screen.test_walk import plan_of
from tests.serving import served

Open = Callable[[str, str], Page]
EDITS = "**/edits"


def type_watts(page: Page, load: str, watts: str) -> None:
    field = page.get_by_label(f"Watts each, {load}")
    field.fill(watts)
    field.press("Enter")


def held_w(page: Page) -> dict[str, float | None]:
    return {part["name"]: part.get("power_w") for part in plan_of(page)["plan"]["parts"] if part["kind"] == "load"}


def test_edits_wait_and_go_out_in_order(job: Open) -> None:
    page = job("Heron", "loads")
    expect(page.get_by_role("status")).to_have_text("saved · revision 1")
    page.route(EDITS, lambda route: route.abort())
    type_watts(page, "Water pump", "91")
    expect(page.get_by_role("status")).to_have_text("waiting for the server")
    type_watts(page, "Field recorder", "41")
    expect(page.get_by_label("Watts each, Water pump")).to_have_value("91")
    page.unroute(EDITS)
    expect(page.get_by_role("status")).to_have_text("saved · revision 3")
    assert (held_w(page)["Water pump"], held_w(page)["Field recorder"]) == (91, 41)


def test_edits_that_wait_survive_a_reload(job: Open) -> None:
    page = job("Heron", "loads")
    page.route(EDITS, lambda route: route.abort())
    type_watts(page, "Water pump", "91")
    expect(page.get_by_role("status")).to_have_text("waiting for the server")
    type_watts(page, "Field recorder", "41")
    page.reload()
    page.get_by_role("navigation", name="Order of work").wait_for()
    expect(page.get_by_role("status")).to_have_text("waiting for the server")
    page.unroute(EDITS)
    expect(page.get_by_role("status")).to_have_text("saved · revision 3")
    assert (held_w(page)["Water pump"], held_w(page)["Field recorder"]) == (91, 41)


def test_an_edit_whose_answer_is_lost_is_done_once(job: Open) -> None:
    page = job("Heron", "loads")
    lost: list[str] = []

    def lose_the_first(route: Route) -> None:
        if not lost:
            lost.append(route.request.headers["idempotency-key"])
            route.fetch()
            route.abort()
        else:
            assert route.request.headers["idempotency-key"] == lost[0]
            route.continue_()

    page.route(EDITS, lose_the_first)
    page.get_by_role("button", name="Add a load").click()
    expect(page.get_by_label("Name, New load")).to_have_count(1)
    expect(page.get_by_role("status")).to_have_text("saved · revision 2")
    assert lost
    assert list(held_w(page)).count("New load") == 1


def test_a_refusal_shows_what_was_typed(job: Open) -> None:
    page = job("Heron", "loads")
    type_watts(page, "Water pump", "plenty")
    expect(page.get_by_text("Typed: plenty")).to_be_visible()
    expect(page.get_by_role("status")).to_have_text("saved · revision 1")


def test_a_view_that_was_never_open_opens_with_the_program_away(job: Open) -> None:
    """In a driveway the network comes and goes: once the page has had a moment, all of it is there."""
    page = job("Heron", "loads")
    with page.expect_response("**/assets/LayoutView-*.js"):
        pass
    page.wait_for_load_state("networkidle")
    page.route("**/*", lambda route: route.abort())
    page.get_by_role("link", name="Layout").click()
    expect(page.get_by_role("heading", name="Channels")).to_be_visible()
    expect(page.get_by_role("textbox", name="Length of Galley floor to the tanks").last).to_have_value("2.84 m")


def until(page: Page, truth: str) -> None:
    """Wait for what no element shows; the page's own policy lets nobody evaluate a text inside it."""
    for _ in range(150):
        if page.evaluate(truth):
            return
        page.wait_for_timeout(100)
    raise AssertionError(truth)


def test_page_and_job_open_again_where_the_program_cannot_be_reached(browser: Browser, tmp_path: Path) -> None:
    """The program ends, the page is loaded anew: the job as it was last seen, with a word that it is that."""
    database = Database(tmp_path / "demo.sqlite3")
    database.open()
    load_demo(PlanStore(database))
    context = browser.new_context(viewport={"width": 390, "height": 844})
    page = context.new_page()
    with served(database) as base:
        plan_id = next(one["plan_id"] for one in page.request.get(f"{base}/api/plans").json() if one["name"] == "Heron")
        page.goto(f"{base}/plan/{plan_id}/loads")
        until(page, "navigator.serviceWorker.controller !== null")
        page.reload()
        page.get_by_role("button", name="Change Water pump").click()
        type_watts(page, "Water pump", "91")
        expect(page.get_by_role("status").first).to_have_text("saved · revision 2")
        kept = f"caches.open('seen').then(c => c.match('/api/plans/{plan_id}')).then(r => r.json())"
        until(page, f"{kept}.then(e => e.revision === 2)")
    page.reload()
    expect(page.get_by_text("The program cannot be reached")).to_be_visible()
    expect(page.get_by_text("91 W")).to_be_visible()
    page.get_by_role("link", name="Layout").click()
    expect(page.get_by_role("heading", name="Channels")).to_be_visible()
    context.close()
    database.close()
