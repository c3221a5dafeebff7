"""What is typed is kept: corrected before the answer, half typed while another arrives, refused twice, locked out."""

from __future__ import annotations

import json
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, Route, expect

from tests.screen.test_away import EDITS, held_w, type_watts
from tests.screen.test_walk import elsewhere

Open = Callable[[str, str], Page]


def test_a_cell_corrected_before_the_answer_came_holds_the_correction(job: Open) -> None:
    page = job("Heron", "loads")
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route(EDITS, hold)
    field = page.get_by_label("Watts each, Water pump")
    field.fill("21")
    field.press("Enter")
    page.wait_for_timeout(200)
    field.click()
    field.fill("22")
    field.press("Enter")
    assert len(held) == 1
    held[0].continue_()
    page.unroute(EDITS)
    expect(page.get_by_role("status").first).to_have_text("saved · revision 3")
    expect(field).to_have_value("22")
    assert held_w(page)["Water pump"] == 22


def test_a_correction_while_the_program_is_away_is_sent_as_well(job: Open) -> None:
    page = job("Heron", "loads")
    page.route(EDITS, lambda route: route.abort())
    type_watts(page, "Water pump", "21")
    expect(page.get_by_role("status").first).to_have_text("waiting for the server")
    type_watts(page, "Water pump", "22")
    page.unroute(EDITS)
    expect(page.get_by_role("status").first).to_have_text("saved · revision 3")
    assert held_w(page)["Water pump"] == 22


def test_half_typed_text_stays_when_an_answer_arrives(job: Open) -> None:
    page = job("Heron", "loads")
    field = page.get_by_label("Watts each, Water pump")
    field.fill("21")
    field.press("Enter")
    field.click()
    field.fill("3")
    expect(page.get_by_role("status").first).to_have_text("saved · revision 2")
    expect(field).to_have_value("3")
    field.press("Escape")
    expect(field).to_have_value("21")


@pytest.mark.parametrize("code", [401, 403, 408, 429, 500, 503])
def test_an_edit_waits_where_it_was_no_answer_to_it(job: Open, code: int) -> None:
    page = job("Heron", "loads")
    body = {
        "type": "urn:lucernis:problem:not-paired",
        "title": "Not now",
        "status": code,
        "detail": "x",
        "instance": "",
    }
    page.route(EDITS, lambda route: route.fulfill(status=code, json=body, content_type="application/problem+json"))
    type_watts(page, "Water pump", "91")
    expect(page.get_by_role("status").first).to_have_text("waiting for the server")
    page.get_by_role("button", name="Unsent").click()
    expect(page.get_by_text("The program says: Not now.")).to_be_visible()
    with page.expect_download() as found:
        page.get_by_role("button", name="Save to file").click()
    kept = json.loads(found.value.path().read_text(encoding="utf-8"))
    assert [one["change"]["edits"][0]["text"] for one in kept["changes"]] == ["91"]
    page.keyboard.press("Escape")
    page.unroute(EDITS)
    expect(page.get_by_role("status").first).to_have_text("saved · revision 2")
    assert held_w(page)["Water pump"] == 91


def test_two_refused_edits_are_both_asked_about_also_over_a_reload(job: Open, base: str) -> None:
    page = job("Heron", "loads")
    elsewhere(page, base, "l7", "80")
    elsewhere(page, base, "l1", "30")
    # Both are typed before either is answered: a question that opens in between would take the keys of the second.
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route(EDITS, hold)
    type_watts(page, "Water pump", "91")
    type_watts(page, "Field recorder", "41")
    for one in held:
        one.continue_()
    page.unroute(EDITS)
    ask = page.get_by_role("dialog", name="Edit conflict")
    expect(ask).to_be_visible()
    expect(ask.get_by_text("1 more to be asked about")).to_be_visible()
    page.reload()
    expect(ask).to_be_visible()
    expect(ask.get_by_text("Typed: 91")).to_be_visible()
    ask.get_by_role("button", name="Apply mine").click()
    expect(ask.get_by_text("Typed: 41")).to_be_visible()
    ask.get_by_role("button", name="Apply mine").click()
    expect(ask).to_have_count(0)
    expect(page.get_by_role("status").first).to_have_text("saved · revision 5")
    assert (held_w(page)["Water pump"], held_w(page)["Field recorder"]) == (91, 41)
    page.reload()
    page.get_by_role("navigation", name="Order of work").wait_for()
    expect(ask).to_have_count(0)


def test_an_enter_meant_for_a_field_answers_no_question_that_opens_under_it(job: Open, base: str) -> None:
    page = job("Heron", "loads")
    elsewhere(page, base, "l7", "80")
    type_watts(page, "Water pump", "91")
    ask = page.get_by_role("dialog", name="Edit conflict")
    expect(ask).to_be_visible()
    page.keyboard.press("Enter")
    page.wait_for_timeout(500)
    expect(ask).to_be_visible()
    assert held_w(page)["Water pump"] == 80


def test_undo_takes_back_nothing_of_somebody_else(job: Open, base: str) -> None:
    page = job("Heron", "loads")
    type_watts(page, "Water pump", "91")
    expect(page.get_by_role("status").first).to_have_text("saved · revision 2")
    elsewhere(page, base, "l7", "80", revision=2)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Not undone")).to_be_visible()
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert held_w(page)["Water pump"] == 80


def test_a_view_of_an_older_page_is_fetched_by_loading_the_page_once(page: Page, base: str) -> None:
    plan_id = page.request.get(f"{base}/api/plans").json()[0]["plan_id"]
    page.goto(f"{base}/plan/{plan_id}/loads")
    page.get_by_role("navigation", name="Order of work").wait_for()
    page.route("**/assets/BuildView-*.js", lambda route: route.fulfill(status=404, body=""))
    with page.expect_event("load"):
        page.get_by_role("link", name="Build").click()
    again: list[str] = []
    page.on("load", lambda one: again.append(one.url))
    expect(page.get_by_role("heading", name="This view cannot be shown")).to_be_visible()
    page.wait_for_timeout(1000)
    assert again == []
    page.unroute("**/assets/BuildView-*.js")
    page.get_by_role("button", name="Reload page").click()
    expect(page.get_by_role("navigation", name="Order of work")).to_be_visible()
    expect(page.get_by_role("heading", name="This view cannot be shown")).to_have_count(0)
