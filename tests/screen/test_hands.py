"""Touch, rows and small things a person does all day."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.screen.choosing import choose
from tests.screen.test_walk import plan_of

Open = Callable[[str, str], Page]


def load_names(page: Page) -> list[str]:
    return [part["name"] for part in plan_of(page)["plan"]["parts"] if part["kind"] == "load"]


def revision(page: Page, number: int) -> None:
    expect(page.get_by_role("status")).to_contain_text(f"revision {number}")


def row_does(page: Page, load: str, what: str) -> None:
    """Open a row's menu and press a line of it."""
    page.get_by_role("button", name=f"What to do with {load}").click()
    page.get_by_role("menuitem", name=what).click()


def test_duplicate_and_delete_a_row(job: Open) -> None:
    page = job("Tern", "loads")
    row_does(page, "Data logger", "Duplicate")
    revision(page, 2)
    assert load_names(page).count("Data logger") == 2
    row_does(page, "Air pump", "Delete")
    revision(page, 3)
    assert "Air pump" not in load_names(page)


def test_delete_in_a_chain_keeps_what_hung_behind(job: Open) -> None:
    page = job("Tern", "loads")
    row_does(page, "Canopy lamps", "Delete")
    revision(page, 2)
    report: Any = plan_of(page)["report"]
    tail = next(load for load in report["loads"] if load["name"] == "Tailgate lamp")
    assert tail["circuit"] is not None
    onward = next(run for run in report["runs"] if run["tag"] == "C04")
    # From the switch at the canopy wall the tray side is the shorter way: (1.12 + 0.2 + 0.2) · 1.05.
    assert abs(onward["length_m"] - 1.6) < 1e-9


def test_boxes_and_choices_in_the_grid(job: Open) -> None:
    page = job("Heron", "loads")
    page.get_by_label("Sensitive, Water pump").check()
    revision(page, 2)
    choose(page.get_by_label("Behaviour, Water pump"), "resistive")
    revision(page, 3)
    choose(page.get_by_label("Place, Water pump"), "Galley")
    revision(page, 4)
    pump = next(part for part in plan_of(page)["plan"]["parts"] if part["id"] == "l7")
    assert (pump["sensitive"], pump["behaviour"], pump["place"]) == (True, "resistive", "galley")


def test_escape_gives_the_old_text_back(job: Open) -> None:
    page = job("Heron", "loads")
    cell = page.get_by_label("Name, Water pump")
    cell.fill("Something else")
    cell.press("Escape")
    expect(cell).to_have_value("Water pump")
    assert plan_of(page)["revision"] == 1


def test_take_off_and_put_back_on_a_block(job: Open) -> None:
    page = job("Heron", "loads")
    choose(page.get_by_label("Fed from, Roof fan"), "no circuit")
    revision(page, 2)
    expect(page.get_by_label("One way, Roof fan")).to_have_value("")
    choose(page.get_by_label("Fed from, Roof fan"), "Galley block")
    revision(page, 3)
    expect(page.get_by_label("One way, Roof fan")).to_have_value("~3.00 m")


def test_run_panel_sets_zone_bundle_and_fuse_distance(job: Open) -> None:
    page = job("Heron", "circuits?run=r2")
    choose(page.get_by_label("Passes zone"), "Engine bay")
    revision(page, 2)
    page.get_by_role("button", name="Measure it by itself").click()
    revision(page, 3)
    together = page.get_by_label("Conductors together")
    together.fill("8")
    together.press("Enter")
    revision(page, 4)
    distance = page.get_by_label("Fuse after, m")
    distance.fill("0.5")
    distance.press("Enter")
    revision(page, 5)
    expect(page.get_by_role("dialog")).to_contain_text("500 mm of wire before the fuse; 300 mm allowed")


def test_fuse_pin_and_a_step_with_its_own_fuse(job: Open) -> None:
    page = job("Heron", "circuits?run=r12")
    page.get_by_role("button", name="Pin the fuse").click()
    dialog = page.get_by_role("dialog", name="Pin the fuse")
    choose(dialog.get_by_label("Rating"), "20 A")
    dialog.get_by_label("Reason").fill("what is in the box")
    dialog.get_by_role("button", name="Pin", exact=True).click()
    expect(page.get_by_text("20 A; it would be 5 A. what is in the box")).to_be_visible()
    page.goto(page.url.replace("run=r12", "run=r13"))
    page.get_by_role("button", name="Give this step a fuse of its own").click()
    expect(page.get_by_role("button", name="Remove this fuse")).to_be_visible()


def test_block_and_battery_are_set_where_they_stand(job: Open) -> None:
    page = job("Tern", "circuits/parts")
    page.get_by_role("button", name="B01 Second battery").click()
    dialog = page.get_by_role("dialog", name="B01 Second battery")
    dialog.get_by_label("Capacity, Ah").fill("120")
    dialog.get_by_label("Capacity, Ah").press("Enter")
    revision(page, 2)
    dialog.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="F01 Canopy block").click()
    dialog = page.get_by_role("dialog", name="F01 Canopy block")
    dialog.get_by_label("Max current of the block, A").fill("10")
    dialog.get_by_label("Max current of the block, A").press("Enter")
    revision(page, 3)
    codes = [finding["code"] for finding in plan_of(page)["report"]["findings"]]
    assert "block-over-total" in codes


def test_zone_that_is_used_cannot_be_deleted_and_says_why(job: Open) -> None:
    page = job("Heron", "vehicle")
    page.get_by_role("button", name="Delete zone Roof void").click()
    expect(page.get_by_text("no zone 'roof'").first).to_be_visible()
    assert plan_of(page)["revision"] == 1


def test_theme_is_kept(job: Open) -> None:
    page = job("Heron", "build")
    page.get_by_role("button", name="Dark theme").click()
    page.reload()
    page.get_by_role("navigation", name="Order of work").wait_for()
    assert page.evaluate("document.documentElement.dataset.theme") == "dark"
    page.get_by_role("button", name="Glare theme").click()
    assert page.evaluate("document.documentElement.dataset.theme") == "glare"
    assert page.evaluate("getComputedStyle(document.body).color") == "rgb(0, 0, 0)"
    page.get_by_role("button", name="Daylight theme").click()
    assert page.evaluate("document.documentElement.dataset.theme") == "light"


def test_meter_strip_leads_to_what_it_names(job: Open) -> None:
    page = job("Plover", "build")
    strip = page.get_by_role("contentinfo", name="Meter strip")
    strip.get_by_role("button", name="A day").click()
    expect(page.get_by_role("dialog", name="Charge a day")).to_contain_text("Q = Σ")
    page.keyboard.press("Escape")
    strip.get_by_role("button", name="Open stops").click()
    expect(page.get_by_role("heading", name="Checks")).to_be_visible()


def test_job_taken_off_the_shelf_comes_back(quiet: Page, base: str) -> None:
    quiet.goto(base)
    quiet.get_by_role("button", name="Archive: Tern").click()
    expect(quiet.get_by_role("heading", name="Tern")).to_have_count(0)
    quiet.get_by_role("button", name="Show archived jobs").click()
    quiet.get_by_role("button", name="Put back: Tern").click()
    quiet.get_by_role("button", name="Show the shelf").click()
    expect(quiet.get_by_role("heading", name="Tern")).to_be_visible()


def test_address_of_nothing_leads_back(quiet: Page, base: str) -> None:
    quiet.goto(f"{base}/plan/none/loads")
    expect(quiet.get_by_role("heading", name="This job cannot be opened")).to_be_visible()
    quiet.goto(f"{base}/nowhere/at/all")
    quiet.get_by_role("link", name="Back to the shelf").click()
    expect(quiet.get_by_role("heading", name="Heron")).to_be_visible()


def test_the_catalogue_fills_what_is_empty_and_nothing_else(job: Open) -> None:
    page = job("Heron", "loads")
    page.get_by_role("button", name="Add a load").click()
    revision(page, 2)
    name = page.get_by_label("Name, New load")
    name.fill("Bilge pump")
    name.press("Enter")
    revision(page, 3)
    told = page.get_by_role("region", name="From the catalogue")
    expect(told).to_contain_text("48 W (24 to 90), 0.2 h a day")
    told.get_by_role("button", name="Fill what is empty").click()
    revision(page, 4)
    expect(page.get_by_label("Watts each, Bilge pump")).to_have_value("48")
    expect(page.get_by_label("One way, Bilge pump")).to_have_value("~3.00 m")
    expect(told).to_have_count(0)


def test_a_run_says_why_its_size_and_why_no_other(job: Open) -> None:
    page = job("Heron", "circuits?run=r3")
    why = page.get_by_role("region", name=re.compile("^Why 10 mm²"))
    expect(why).to_contain_text("Not thinner: 6 mm²")
    expect(why).to_contain_text("Not thicker: 16 mm²")
    expect(why).to_contain_text("longer")


def test_what_runs_on_ac_makes_the_watts_of_the_inverter(job: Open) -> None:
    page = job("Heron", "circuits/parts?part=l11")
    page.get_by_role("button", name="Add a device").click()
    revision(page, 2)
    page.get_by_label("Watts", exact=True).fill("350")
    page.get_by_label("Watts", exact=True).press("Enter")
    revision(page, 3)
    expect(page.get_by_text("Together 350 W")).to_be_visible()
