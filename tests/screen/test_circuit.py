"""The circuit as it is wired, in a real browser: pictures, states, shorts, parts, mends, the library."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.screen.choosing import choose
from tests.screen.test_walk import plan_of

Open = Callable[[str, str], Page]


def test_map_is_reached_by_keyboard_and_leads_to_the_sheet_of_a_run(job: Open) -> None:
    page = job("Heron", "circuits/map")
    ribbon = page.get_by_role("button", name=re.compile("^C10, Galley block, way 1 to Compressor fridge"))
    ribbon.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("Guarded from its start")
    assert "circuits/map?run=r10" in page.url
    page.go_back()
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_map_reads_as_a_table_and_follows_the_state(job: Open) -> None:
    page = job("Heron", "circuits/map")
    page.get_by_text("The same as a table").click()
    row = page.get_by_role("row", name=re.compile("^C27"))
    expect(row).to_contain_text("104.0 A")
    choose(page.get_by_label("State"), "Parked at night")
    expect(row).to_contain_text("0.0 A")
    expect(page.get_by_text(re.compile("amperes are those of Parked at night"))).to_be_visible()


def test_state_board_tells_dead_from_live_and_opens_a_part(job: Open) -> None:
    page = job("Heron", "circuits/states")
    row = page.get_by_role("row", name=re.compile("Keyed block"))
    expect(row).to_be_visible()
    cells = row.get_by_role("cell").all_inner_texts()
    assert [cell == "dead" for cell in cells] == [False, True, False, True, True]
    # A live point shows what a meter reads, and from where to where it may lie.
    assert all(" V" in cell and " to " in cell for cell in cells if cell != "dead")
    row.get_by_role("button").click()
    expect(page.get_by_role("dialog", name="F05 Keyed block")).to_be_visible()


def test_shorts_list_shows_what_is_not_cleared(job: Open) -> None:
    page = job("Plover", "circuits/shorts")
    choose(page.get_by_label("Show shorts"), "that harm or are not cleared")
    expect(page.locator("tbody tr")).to_have_count(3)
    expect(page.locator("tbody tr").first).to_contain_text("nothing must open")
    choose(page.get_by_label("Show shorts"), "at the points")
    expect(page.locator("tbody")).to_contain_text("Caravan battery")


def test_mend_is_previewed_taken_and_undone(job: Open) -> None:
    page = job("Plover", "checks")
    page.get_by_role("button", name="Move the fuse to within reach").click()
    dialog = page.get_by_role("dialog", name="Move the fuse to within reach")
    expect(dialog).to_contain_text("Gone with it")
    expect(dialog).to_contain_text("23.6 in of wire before the fuse")
    assert plan_of(page)["revision"] == 1
    dialog.get_by_role("button", name="Take it").click()
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    expect(page.get_by_text("23.6 in of wire before the fuse; 7 in allowed")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("23.6 in of wire before the fuse; 7 in allowed").first).to_be_visible()


def test_relay_behind_a_switch_is_offered_and_put_in(job: Open) -> None:
    page = job("Plover", "checks")
    # Mends are carried out and judged before they are offered: on a busy machine that takes its time.
    page.get_by_role("button", name="Put a 10 A relay behind it").click(timeout=90_000)
    page.get_by_role("dialog").get_by_role("button", name="Take it").click()
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    plan = plan_of(page)["plan"]
    assert [part["name"] for part in plan["parts"] if part["kind"] == "relay"] == ["Pump switch relay"]


def test_put_a_switch_into_a_run(job: Open) -> None:
    page = job("Tern", "circuits?run=r5")
    page.get_by_role("button", name="Put a part into it").click()
    dialog = page.get_by_role("dialog", name="Put a part into C05")
    dialog.get_by_role("option", name="15 A rocker switch", exact=True).click()
    dialog.get_by_label("So far from it, one way").fill("0.4 m")
    dialog.get_by_role("button", name="Put it in").click()
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    assert any(part["name"] == "15 A rocker switch" for part in plan_of(page)["plan"]["parts"])


def test_refused_edit_says_why_and_keeps_the_form(job: Open) -> None:
    page = job("Tern", "circuits?run=r5")
    page.get_by_role("button", name="Put a part into it").click()
    dialog = page.get_by_role("dialog", name="Put a part into C05")
    dialog.get_by_role("option", name="15 A rocker switch", exact=True).click()
    dialog.get_by_label("So far from it, one way").fill("40 m")
    dialog.get_by_role("button", name="Put it in").click()
    expect(page.get_by_text("C05 is 1.21 m long").first).to_be_visible()
    expect(dialog.get_by_label("So far from it, one way")).to_have_value("40 m")
    assert plan_of(page)["revision"] == 1


def test_loads_share_a_feeder(job: Open) -> None:
    page = job("Plover", "circuits/parts")
    page.get_by_role("button", name="Make loads share a feeder").click()
    dialog = page.get_by_role("dialog", name="Make loads share a feeder")
    dialog.get_by_label("Radio").check()
    dialog.get_by_label("Phone sockets").check()
    dialog.get_by_label("Name of the block").fill("Stern block")
    dialog.get_by_label("Feeder, one way").fill("9 ft")
    dialog.get_by_label("Each branch, one way").fill("3 ft")
    dialog.get_by_role("button", name="Share it").click()
    expect(page.get_by_role("button", name=re.compile("Stern block"))).to_be_visible()


def test_run_sheet_has_its_pictures_and_figures_open(job: Open) -> None:
    page = job("Heron", "circuits?run=r10")
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_role("group", name=re.compile("^C10: 2.5 mm² behind 15 A"))).to_be_visible()
    expect(sheet.get_by_role("group", name="Compressor fridge: where the volts go")).to_be_visible()
    sheet.get_by_role("button", name=re.compile("^Weakest short at its finish")).click()
    expect(page.get_by_role("dialog", name="C10: weakest short")).to_contain_text("internal resistance")


def test_fuse_at_both_ends_mends_the_link(job: Open) -> None:
    page = job("Plover", "circuits?run=r9")
    expect(page.get_by_role("dialog")).to_contain_text("is fed from Spare battery too")
    page.get_by_role("button", name="Fuse the far end too").click()
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    expect(page.get_by_text("is fed from Spare battery too")).to_have_count(0)


def test_switches_of_a_state_are_set_where_states_are(job: Open) -> None:
    page = job("Heron", "vehicle")
    page.get_by_text("All switches closed, all fuses in").first.click()
    page.get_by_label("Inverter switch closed").first.uncheck()
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    assert plan_of(page)["plan"]["states"][0]["open"] == ["s2"]


def test_library_takes_a_csv_and_names_bad_lines(quiet: Page, base: str, tmp_path: Path) -> None:
    quiet.goto(f"{base}/parts")
    expect(quiet.get_by_role("row", name=re.compile("500 A shunt"))).to_be_visible()
    bad, good = tmp_path / "bad.csv", tmp_path / "good.csv"
    bad.write_text("kind,name,rated_a\nswitch,Stock switch,plenty\n", encoding="utf-8")
    good.write_text("kind,name,rated_a\nswitch,Stock switch,25\n", encoding="utf-8")
    quiet.get_by_label("CSV of parts").set_input_files(bad)
    expect(quiet.get_by_role("alert")).to_contain_text("line 2/rated_a")
    quiet.get_by_label("CSV of parts").set_input_files(good)
    expect(quiet.get_by_role("row", name=re.compile("Stock switch"))).to_contain_text("25 A")
    quiet.get_by_role("button", name="Remove Stock switch from the library").click()
    expect(quiet.get_by_role("row", name=re.compile("Stock switch"))).to_have_count(0)


def test_part_is_kept_in_the_library_and_fed_elsewhere(job: Open) -> None:
    page = job("Tern", "circuits/parts?part=f2")
    page.get_by_role("button", name="Keep in the library").click()
    expect(page.get_by_text("Cab keyed block is in the library")).to_be_visible()
    page.get_by_role("button", name="Feed a part from here").click()
    dialog = page.get_by_role("dialog", name="Feed a part from Cab keyed block")
    dialog.get_by_placeholder("Search the library").fill("own")
    dialog.get_by_placeholder("Search the library").fill("cab keyed")
    dialog.get_by_role("option", name="Cab keyed block (own)", exact=True).click()
    dialog.get_by_label("Length, one way").fill("0.5 m")
    dialog.get_by_role("button", name="Feed it").click()
    expect(page.get_by_role("status")).to_contain_text("revision 2")
