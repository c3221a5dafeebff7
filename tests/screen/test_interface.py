"""What every view shares: finding by keyboard, sheets beside the work, the map under hand, lengths led through."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Locator, Page, expect

from tests.screen.choosing import choose

Open = Callable[[str, str], Page]


def box(part: Locator) -> dict[str, float]:
    found = part.bounding_box()
    assert found is not None
    return dict(found)


def test_anything_is_found_by_keyboard(job: Open) -> None:
    page = job("Heron", "loads")
    page.keyboard.press("Control+k")
    page.keyboard.type("c10")
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name=re.compile("Compressor fridge"))).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("state board")
    page.keyboard.press("Enter")
    expect(page.get_by_role("tab", name="States")).to_have_attribute("aria-selected", "true")
    page.keyboard.press("Control+k")
    page.keyboard.type("breaking cap")
    page.keyboard.press("Enter")
    expect(page.get_by_text(re.compile("can open without bursting")).first).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.keyboard.type("no such thing anywhere")
    expect(page.get_by_text("Nothing of that name in this job.")).to_be_visible()


def test_a_sheet_stands_beside_the_table_it_was_opened_from(job: Open) -> None:
    page = job("Heron", "circuits")
    page.get_by_role("button", name="Open run C10").click()
    sheet = page.get_by_role("dialog", name=re.compile("Compressor fridge"))
    expect(sheet).to_be_visible()
    left = box(sheet)["x"]
    for what in (
        page.get_by_role("button", name=re.compile("^Fuse of C10")),
        page.get_by_role("row", name=re.compile("^Open run C10")),
    ):
        seen = box(what)
        assert seen["x"] + seen["width"] <= left + 1
    strip = box(page.get_by_role("contentinfo", name="Meter strip"))
    assert strip["x"] + strip["width"] >= 1279
    assert box(sheet)["y"] + box(sheet)["height"] <= strip["y"] + 1
    expect(page.get_by_role("columnheader", name="Margin")).to_have_count(0)
    sheet.get_by_role("button", name="Close").click()
    expect(page.get_by_role("columnheader", name="Margin")).to_be_visible()


def test_the_map_zooms_by_keys_and_wheel_and_a_drag_opens_nothing(job: Open) -> None:
    page = job("Heron", "circuits/map")
    board = page.get_by_role("region", name="Step-down map, moves and zooms")
    board.wait_for()
    shown = page.get_by_role("toolbar", name="Zoom")
    expect(shown).to_contain_text("100 %")
    battery = page.get_by_role("button", name=re.compile("^House bank"))
    expect(battery).to_be_in_viewport()
    board.focus()
    page.keyboard.press("w")
    expect(shown).not_to_contain_text("100 %")
    expect(page.get_by_role("button", name=re.compile("^Field recorder"))).to_be_in_viewport()
    page.keyboard.press("0")
    expect(shown).to_contain_text("100 %")
    middle = box(board)
    x, y = middle["x"] + middle["width"] / 2, middle["y"] + middle["height"] / 2
    page.mouse.move(x, y)
    page.mouse.wheel(0, -300)
    expect(shown).not_to_contain_text("100 %")
    page.keyboard.press("0")
    seen = box(page.get_by_role("button", name=re.compile("^Desk block")))
    at = seen["x"] + seen["width"] / 2, seen["y"] + seen["height"] / 2
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] - 120, at[1] + 40, steps=4)
    page.mouse.up()
    moved = box(page.get_by_role("button", name=re.compile("^Desk block")))
    assert moved["x"] < seen["x"] - 60
    assert "part=" not in page.url
    page.get_by_role("button", name=re.compile("^Desk block")).click()
    expect(page.get_by_role("dialog", name=re.compile("Desk block"))).to_be_visible()
    expect(page.get_by_role("button", name="To F02")).to_be_enabled()


def test_runs_are_grouped_by_size_and_the_address_keeps_it(job: Open) -> None:
    page = job("Heron", "circuits")
    choose(page.get_by_label("Group runs"), "by size")
    expect(
        page.get_by_role("rowheader", name=re.compile(r"^1\.5 mm² 19 runs · 8[0-9.]+ m of conductor"))
    ).to_be_visible()
    assert "by=size" in page.url
    choose(page.get_by_label("Group runs"), "by place")
    expect(page.get_by_role("rowheader", name=re.compile("^Galley"))).to_be_visible()
    choose(page.get_by_label("Group runs"), "not grouped")
    assert "by=" not in page.url


def test_lengths_nobody_measured_are_led_through(job: Open) -> None:
    page = job("Heron", "loads")
    for load in ("Roof fan", "Water pump"):
        choose(page.get_by_label(f"Fed from, {load}"), "no circuit")
        expect(page.get_by_label(f"One way, {load}")).to_have_value("")
        choose(page.get_by_label(f"Fed from, {load}"), "Galley block")
        expect(page.get_by_label(f"One way, {load}")).to_have_value(re.compile("^~"))
    page.get_by_role("link", name=re.compile("^Checks")).click()
    page.get_by_role("button", name="Measure them one by one").click()
    for length in ("2.2 m", "3.1 m"):
        field = page.get_by_label("Measured, one way")
        expect(field).to_have_value(re.compile("^~"))
        expect(field).to_be_focused()
        page.keyboard.type(length)
        page.keyboard.press("Enter")
        page.wait_for_timeout(200)
    expect(page.get_by_label("Measured, one way")).to_have_count(0)
    page.get_by_role("link", name=re.compile("^Checks")).click()
    expect(page.get_by_text(re.compile("not measured yet"))).to_have_count(0)


def test_the_rail_holds_what_power_answers(job: Open) -> None:
    page = job("Heron", "power")
    refill = page.get_by_text("Will it refill?")
    expect(refill).to_contain_text("look")
    expect(page.get_by_role("link", name=re.compile("^Power"))).to_contain_text("look")
    page = job("Tern", "power")
    expect(page.get_by_text("Will it refill?")).to_contain_text("good")
    expect(page.get_by_role("link", name=re.compile("^Power"))).to_contain_text("good")
