"""Build at the desk and in the hand: what to cut, what to buy."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.screen.choosing import choose

Open = Callable[[str, str], Page]


def test_the_cut_list_is_sorted_opens_its_run_and_leads_to_what_is_bought(job: Open) -> None:
    page = job("Heron", "build")
    page.get_by_role("tab", name="Cut list").click()
    table = page.get_by_role("region", name=re.compile("^Pieces to cut"))
    expect(table.get_by_role("row").nth(1)).to_contain_text("C01")
    choose(page.get_by_label("In order"), "by size, longest first")
    expect(table.get_by_role("row").nth(1)).to_contain_text("50 mm²")
    expect(page).to_have_url(re.compile("order=size"))
    table.get_by_role("button", name="Open C33−").click()
    expect(page.get_by_role("dialog")).to_contain_text("C33")
    page.go_back()
    page.get_by_role("tab", name="To buy").click()
    bought = page.get_by_role("region", name=re.compile("^Wire to buy"))
    expect(bought).to_contain_text("m cut off, 17 pieces")
    expect(bought).to_contain_text("on whole spools alone")
    expect(bought).to_contain_text("1 remnant from the shelf")


def test_pieces_are_cards_in_the_hand_and_what_is_not_measured_is_not_cut(job: Open) -> None:
    page = job("Tern", "build/cut")
    page.set_viewport_size({"width": 390, "height": 844})
    card = page.get_by_role("list", name="Pieces").get_by_role("listitem").first
    expect(card).to_contain_text("lug 2/0 B&S × M8")
    assert page.evaluate("document.scrollingElement.scrollWidth <= innerWidth")


def test_a_step_is_ticked_by_who_is_at_work_and_taken_back(job: Open) -> None:
    page = job("Heron", "build/order")
    page.get_by_label("Who is at work").fill("Bea")
    page.keyboard.press("Tab")
    dead = page.get_by_role("checkbox", name="disconnect every battery", exact=False)
    dead.click()
    expect(page.get_by_text(re.compile(r"^1 of \d+ done$"))).to_be_visible()
    page.get_by_role("radio", name="All").click()
    done = page.get_by_role("listitem", name="disconnect every battery", exact=False)
    expect(done).to_contain_text("Bea")
    page.get_by_role("tab", name="Record").click()
    entries = page.get_by_role("list", name="Entries")
    expect(entries.get_by_role("listitem")).to_have_count(1)
    entries.get_by_role("button", name="Take back").click()
    expect(entries.get_by_role("listitem")).to_have_count(2)
    page.get_by_label("Note on the whole job").fill("One grommet short")
    page.get_by_role("button", name="Note it").click()
    expect(entries).to_contain_text("One grommet short")
    page.get_by_role("tab", name="Order of work").click()
    expect(page.get_by_text(re.compile(r"^0 of \d+ done$"))).to_be_visible()


def test_ticks_wait_in_the_browser_while_the_program_is_away_and_survive_a_reload(job: Open) -> None:
    page = job("Plover", "build/order")
    page.get_by_role("checkbox", name="disconnect every battery", exact=False).wait_for()
    page.route("**/record", lambda route: route.abort() if route.request.method == "POST" else route.continue_())
    page.get_by_role("checkbox", name="disconnect every battery", exact=False).click()
    expect(page.get_by_text("On its way to the record")).to_be_visible()
    page.reload()
    expect(page.get_by_text("On its way to the record")).to_be_visible()
    page.unroute("**/record")
    expect(page.get_by_text(re.compile(r"^1 of \d+ done$"))).to_be_visible()


def test_done_otherwise_than_planned_becomes_a_pin_with_its_reason(job: Open) -> None:
    page = job("Heron", "build/order")
    page.get_by_role("button", name=re.compile("^Pull")).click()
    step = page.get_by_role("listitem", name="Pull C11", exact=False)
    step.get_by_role("button", name="Note, photo").click()
    step.get_by_label("What is different, or worth knowing").fill("only 2.5 was left on the spool")
    step.get_by_role("button", name="Done otherwise than planned").click()
    page.get_by_role("tab", name="Record").click()
    page.get_by_label("Wire that is there").fill("2.5")
    page.get_by_role("button", name="Pin it in the plan").click()
    expect(page.get_by_text("saved · revision 2")).to_be_visible()
    page.get_by_role("tab", name="Cut list").click()
    expect(page.get_by_role("row").filter(has_text="C11").first).to_contain_text("2.5 mm²")


def test_a_piece_is_ticked_and_what_changed_since_printing_is_a_difference(job: Open) -> None:
    page = job("Heron", "build/cut")
    tick = page.get_by_role("checkbox", name="Cut: C11+ ", exact=True)
    tick.click()
    expect(tick).to_be_checked()
    with page.context.expect_page():
        page.get_by_role("link", name="Print it, A4").click()
    expect(page.get_by_text("nothing in it has changed since")).to_be_visible()
    page.evaluate(
        """async () => {
            const id = location.pathname.split("/")[2];
            const edits = [{ op: "pin_wire", run: "r11", size: "4", reason: "x" }];
            await fetch(`/api/plans/${id}/edits`, { method: "POST", headers: { "content-type": "application/json",
                "If-Match": '"1"' }, body: JSON.stringify({ edits }) });
        }"""
    )
    page.reload()
    expect(page.get_by_role("button", name=re.compile("differ from the printed list"))).to_be_visible()
    expect(page.get_by_role("listitem").filter(has_text="C11 +").first).to_contain_text("4 mm² red")
    expect(page.get_by_text("cut otherwise")).to_have_count(1)


def test_what_is_on_the_shelf_is_bought_less_and_a_quote_is_kept(job: Open) -> None:
    page = job("Heron", "build/buy")
    rest = page.get_by_role("region", name=re.compile("^To buy"))
    clamps = rest.get_by_role("row").filter(has_text="clamp").first
    before = clamps.inner_text()
    page.get_by_role("button", name=re.compile("^On the shelf")).click()
    page.get_by_label("Key").fill("clamp")
    page.get_by_label("How many").fill("500")
    page.get_by_role("button", name="Put on the shelf").click()
    expect(clamps).not_to_have_text(before)
    page.get_by_label("Key").fill("wire:16 mm²:red")
    page.get_by_role("button", name="Put on the shelf").click()
    expect(page.get_by_role("alert")).to_contain_text("a remnant of wire has a length")
    page.get_by_role("tab", name="Quote").click()
    page.get_by_label("An hour costs").fill("70")
    page.keyboard.press("Tab")
    page.get_by_role("button", name="Give it a number and keep it").click()
    expect(page.get_by_role("link", name="Customer's copy")).to_have_count(1)
    page.get_by_role("button", name="Give it a number and keep it").click()
    expect(page.get_by_role("link", name="Own copy")).to_have_count(2)


def test_each_sheet_and_each_part_of_the_wiring_is_reached_by_keyboard_and_has_its_table(job: Open) -> None:
    page = job("Heron", "build/wiring")
    drawing = page.get_by_role("group", name="Sheet 1 of 5: Locker busbars")
    wire = drawing.get_by_role("button", name=re.compile("^C15"))
    wire.focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("run=r15"))
    page.go_back()
    choose(page.get_by_label("Sheet", exact=True), "Desk block")
    expect(page.get_by_role("group", name="Sheet 2 of 5: Desk block")).to_be_visible()
    page.get_by_role("radio", name="Part by part").click()
    choose(
        page.get_by_label("Part or holder", exact=True),
        "Holder of Large bolt-down (M8) 60 A of C34, at Locker busbars, 100 mm off",
    )
    expect(page.get_by_role("group", name=re.compile("Holder of Large bolt-down.*of C34"))).to_contain_text("load side")
    choose(page.get_by_label("Part or holder", exact=True), "F02 Desk block")
    page.get_by_role("button", name="The same as a table").click()
    table = page.get_by_role("region", name=re.compile("Desk block.*table"))
    expect(table.get_by_role("row").filter(has_text="way 1")).to_contain_text("Field recorder")
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.scrollingElement.scrollWidth <= innerWidth")


def test_the_order_of_work_is_read_in_the_hand(job: Open) -> None:
    page = job("Tern", "build/order")
    page.set_viewport_size({"width": 390, "height": 844})
    expect(page.get_by_role("checkbox", name="disconnect every battery", exact=False)).to_be_visible()
    assert page.evaluate("document.scrollingElement.scrollWidth <= innerWidth")
    box = page.get_by_role("checkbox", name="disconnect every battery", exact=False).locator("..").bounding_box()
    assert box is not None
    assert min(box["width"], box["height"]) >= 44


@pytest.mark.parametrize(("view", "cards"), [("buy", "To buy"), ("quote", "What it is made of")])
def test_what_to_buy_and_the_quote_are_cards_in_the_hand(job: Open, view: str, cards: str) -> None:
    page = job("Heron", f"build/{view}")
    page.set_viewport_size({"width": 390, "height": 844})
    expect(page.get_by_role("list", name=cards, exact=True).get_by_role("listitem").first).to_be_visible()
    expect(page.get_by_role("table")).to_have_count(0)
    assert page.evaluate("document.scrollingElement.scrollWidth <= innerWidth")


def test_the_meter_is_told_what_to_say_and_a_wrong_reading_is_seen(job: Open) -> None:
    page = job("Heron", "build/order?steps=all")
    page.get_by_role("button", name=re.compile("^First power-up")).click()
    step = page.get_by_role("listitem", name="House bank at rest", exact=False)
    expect(step).to_contain_text("Expect 13.06 to 13.59 V")
    step.get_by_label("Read volts at House bank").fill("12.2")
    step.get_by_role("checkbox").click()
    expect(step).to_contain_text("12.20 V, less than 13.06 to 13.59 V")


def test_a_bond_is_measured_where_it_is_landed(job: Open) -> None:
    page = job("Heron", "build/order")
    page.get_by_role("button", name=re.compile("^Bonds and negatives")).click()
    step = page.get_by_role("listitem", name="Land C26", exact=False).first
    step.get_by_label("Probes together, Ω").fill("1.2")
    step.get_by_label("Across the bond, Ω").fill("1.7")
    page.keyboard.press("Tab")
    step.get_by_role("button", name="Judge it").click()
    expect(step.get_by_role("status")).to_contain_text("0.5 Ω in the bond")
    step.get_by_role("button", name="Note it").click()
    page.get_by_role("tab", name="Record").click()
    expect(page.get_by_role("list", name="Entries")).to_contain_text("bond 1.2 and 1.7 Ω")
