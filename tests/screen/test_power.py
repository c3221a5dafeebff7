"""The Power view in a real browser: answers, sources, fit, days, a year, proposals, options, prices."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pvlib
from playwright.sync_api import Page, expect

from tests.screen.choosing import choose

Open = Callable[[str, str], Page]
TMY3 = Path(pvlib.__file__).parent / "data" / "723170TYA.CSV"


def test_power_answers_the_three_questions_and_opens_to_working(job: Open) -> None:
    page = job("Heron", "power")
    expect(page.get_by_text("Will it last?")).to_be_visible()
    expect(page.get_by_text("asked", exact=False).first).to_be_visible()
    page.get_by_role("button", name=re.compile("DC-DC charger, what it gives: 40.0 A")).click()
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("I = η · V_in · I_in / V_out")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("Lithium .LFP., bank")).click()
    expect(page.get_by_role("dialog")).to_contain_text("battery_chemistry")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Q02 Solar controller").click()
    expect(page.get_by_role("dialog", name="Solar controller")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("heading", name="Power")).to_be_visible()


def test_a_charger_is_added_and_undone(job: Open) -> None:
    page = job("Tern", "power")
    page.get_by_role("button", name="Add a charger").click()
    dialog = page.get_by_role("dialog", name="Add a charger")
    choose(dialog.get_by_label("Fed by"), "shore power (mains charger)")
    dialog.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("row", name=re.compile("mains charger")).first).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Nothing charges yet")).to_be_visible()


def test_a_bank_is_made_and_shares(job: Open) -> None:
    page = job("Plover, mended", "power")
    page.get_by_role("button", name="Make a bank").click()
    dialog = page.get_by_role("dialog", name="Make a bank")
    choose(dialog.get_by_label("Taken off"), "a chain, taken off at one end")
    dialog.get_by_role("button", name="Make it").click()
    expect(page.get_by_text("1 in series × 2 side by side")).to_be_visible()
    expect(page.get_by_role("region", name="Batteries, scrolls sideways")).to_contain_text("of even")


def test_fit_shows_every_limit_by_both_schools(job: Open) -> None:
    page = job("Heron", "power/fit")
    rows = page.locator("tbody tr")
    expect(rows).to_have_count(4)
    expect(rows.first).to_contain_text("holds")
    page.get_by_role("button", name=re.compile("Mains inverter, current")).first.click()
    expect(page.get_by_role("dialog")).to_contain_text("I = P / (η · V)")


def test_days_follow_the_habits(job: Open) -> None:
    page = job("Heron", "power/days")
    expect(page.get_by_role("group", name="Day ribbon")).to_be_visible()
    lowest = page.get_by_role("row", name=re.compile("^fair")).get_by_role("cell").first
    before = lowest.inner_text()
    hours = page.get_by_label("Hours").nth(2)
    hours.fill("0.5")
    hours.press("Enter")
    expect(lowest).not_to_have_text(before)
    expect(page.get_by_label("Hours").nth(3)).to_have_value("9.5")
    hours.fill("30")
    hours.press("Enter")
    expect(
        page.get_by_text("Not done").or_(page.get_by_text("Edit refused")).or_(page.get_by_text("less than 24")).first
    ).to_be_visible()


def test_a_year_shows_progress_and_can_be_cancelled(job: Open) -> None:
    page = job("Heron", "power/days")
    page.get_by_role("group", name="Day ribbon").wait_for()
    page.get_by_role("radio", name="Year").click()
    year = page.get_by_role("radio", name="Year")
    expect(year).to_have_attribute("aria-checked", "true", timeout=30_000)
    expect(page.get_by_role("progressbar")).to_have_count(0)
    page.get_by_role("radio", name="14 days").click()
    expect(page.get_by_role("radio", name="Year")).to_have_attribute("aria-checked", "false")
    page.get_by_role("radio", name="Year").click()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("progressbar")).to_have_count(0)
    expect(page.get_by_role("radio", name="Year")).to_have_attribute("aria-checked", "false")


def test_a_weather_file_is_brought_in_and_used(job: Open, tmp_path: Path) -> None:
    page = job("Heron", "power/days")
    bad = tmp_path / "bad.epw"
    bad.write_text("nothing of the kind")
    page.get_by_label("Hourly weather file, EPW or TMY3").set_input_files(bad)
    expect(page.get_by_text("EPW or TMY3 form")).to_be_visible()
    page.get_by_label("Hourly weather file, EPW or TMY3").set_input_files(TMY3)
    choose(page.get_by_label("Weather", exact=True), "file tya")
    expect(page.get_by_text("weather file tya").first).to_be_visible()


def test_a_proposal_is_looked_at_taken_in_part_and_undone(job: Open) -> None:
    page = job("Plover, mended", "power/propose")
    page.get_by_role("button", name="Propose a system").click()
    page.get_by_role("button", name="Apply", exact=True).wait_for()
    expect(page.get_by_text("are left to the sun")).to_be_visible()
    page.get_by_label("Sun", exact=True).uncheck()
    expect(page.get_by_text("Left out.")).to_be_visible()
    page.get_by_role("button", name="Apply what is ticked").click()
    expect(page.get_by_text("revision 2")).to_be_visible()
    page.goto(page.url.replace("/power/propose", "/log/revisions"))
    expect(page.get_by_text(re.compile("^Proposed: ")).first).to_be_visible()


def test_a_proposal_can_be_refused(job: Open) -> None:
    page = job("Tern", "power/propose")
    page.get_by_role("button", name="Propose a system").click()
    page.get_by_role("button", name="Discard").click()
    expect(page.get_by_text("Nothing changes until you take it")).to_be_visible()
    expect(page.get_by_text("revision 1")).to_be_visible()


def test_options_stand_side_by_side(job: Open) -> None:
    page = job("Heron", "power/options")
    page.get_by_role("columnheader", name="24 V").wait_for()
    page.get_by_label("Two thinner cables").check()
    page.get_by_role("columnheader", name="Two thinner cables side by side").wait_for()
    expect(page.get_by_label("DC-DC charger")).to_be_disabled()
    page.get_by_role("cell", name=re.compile("nominal volts 12 → 24")).get_by_role(
        "button", name="Take this one"
    ).click()
    expect(page.get_by_text("revision 2")).to_be_visible()


def test_prices_can_be_typed_and_a_missing_one_is_said(job: Open) -> None:
    page = job("Heron", "power/prices")
    total = page.get_by_role("heading", name=re.compile("What it costs"))
    expect(total).to_contain_text(re.compile(r"\d{4}"))
    field = page.get_by_label("Panel, a W")
    field.fill("")
    field.press("Enter")
    expect(page.get_by_text("No price for panel")).to_be_visible()
    field = page.get_by_label("Panel, a W")
    field.fill("2")
    field.press("Enter")
    expect(page.get_by_text("No price for panel")).to_have_count(0)
    expect(page.get_by_role("row", name=re.compile("^Panel panel"))).to_contain_text("1440")


def test_power_of_an_empty_plan_says_what_is_missing(quiet: Page, base: str) -> None:
    made = quiet.request.post(
        f"{base}/api/plans", data={"name": "Empty", "practice_set": "metric_caravan", "body": "steel"}
    ).json()
    for view, words in (
        ("power", "Nothing charges yet"),
        ("power/fit", "No inverter with stated ratings"),
        ("power/days", "No stop named"),
        ("power/propose", "From the load list"),
    ):
        quiet.goto(f"{base}/plan/{made['plan_id']}/{view}")
        expect(quiet.get_by_text(words).first).to_be_visible()
    quiet.get_by_role("button", name="Propose a system").click()
    expect(quiet.get_by_text("The load list is empty")).to_be_visible()
