"""Build at the desk and in the hand: what to cut, what to buy."""

from __future__ import annotations

import re
from collections.abc import Callable

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
    page.get_by_role("tab", name="Wire to buy").click()
    bought = page.get_by_role("region", name=re.compile("^Wire to buy"))
    expect(bought).to_contain_text("cut by the metre")
    expect(bought).to_contain_text("1 spool of")


def test_pieces_are_cards_in_the_hand_and_what_is_not_measured_is_not_cut(job: Open) -> None:
    page = job("Tern", "build/cut")
    page.set_viewport_size({"width": 390, "height": 844})
    card = page.get_by_role("list", name="Pieces").get_by_role("listitem").first
    expect(card).to_contain_text("lug 2/0 B&S × M8")
    assert page.evaluate("document.scrollingElement.scrollWidth <= innerWidth")
