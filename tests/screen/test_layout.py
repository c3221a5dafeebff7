"""Layout at the desk and in the hand: measure the vehicle once, and every run knows its length."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Browser, Page, expect

from tests.screen.choosing import choose

Open = Callable[[str, str], Page]


def plan_of(page: Page) -> dict[str, Any]:
    plan_id = page.url.split("/plan/")[1].split("/")[0]
    found: dict[str, Any] = page.request.get(f"{page.url.split('/plan/')[0]}/api/plans/{plan_id}").json()
    return found


def length_of(page: Page, tag: str) -> float:
    return float(next(one["length_m"] for one in plan_of(page)["report"]["runs"] if one["tag"] == tag))


def test_a_measured_channel_changes_the_length_of_every_run_in_it(job: Open) -> None:
    page = job("Heron", "layout")
    before = length_of(page, "C11")
    field = page.get_by_role("textbox", name="Length of Galley floor to the tanks").last
    field.fill("3.34 m")
    field.press("Enter")
    expect(page.get_by_text("saved · revision 2")).to_be_visible()
    assert abs(length_of(page, "C11") - before - 0.5 * 1.05) < 0.011
    expect(page.get_by_role("button", name=re.compile(r"^C11 3\.41 m, 2\.5 mm², 10 A → 3\.93 m, "))).to_be_visible()
    field.fill("about three")
    field.press("Enter")
    expect(page.get_by_text("Typed: about three")).to_be_visible()
    assert plan_of(page)["revision"] == 2
    page.keyboard.press("Control+z")
    field.blur()


def test_the_way_of_a_run_is_shown_and_its_channel_opens(job: Open) -> None:
    page = job("Heron", "layout")
    choose(page.get_by_label("Show the way of", exact=True), "C33 DC-DC charger")
    expect(page.get_by_text("Frame rail from the engine bay · 6.20 m · 2 holes")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Frame rail from the engine bay: Engine bay to")).press("Enter")
    sheet = page.get_by_role("dialog", name="Frame rail from the engine bay")
    expect(sheet).to_contain_text("15 % full")
    sheet.get_by_label("guarded there").uncheck()
    expect(sheet).to_contain_text("near the exhaust, without a guard")
    sheet.get_by_role("button", name="Note the guard").first.click()
    page.get_by_role("dialog", name="Note the guard").get_by_role("button", name="Take it").click()
    expect(sheet.get_by_text("without a guard")).to_have_count(0)
    page.go_back()
    expect(page).to_have_url(re.compile("way=r33"))


def test_a_place_is_put_where_one_clicks_and_removed_with_its_channels(job: Open) -> None:
    page = job("Tern", "layout?place=bench")
    sheet = page.get_by_role("dialog", name="Canopy bench")
    sheet.get_by_role("button", name="Put it on the plan").click()
    expect(page.get_by_role("status").filter(has_text="Click on the plan")).to_contain_text("where Canopy bench is")
    before = next(one for one in plan_of(page)["plan"]["places"] if one["id"] == "bench")
    page.get_by_role("button", name=re.compile("^Dash:")).click()
    expect(page.get_by_text("saved · revision 2")).to_be_visible()
    after = next(one for one in plan_of(page)["plan"]["places"] if one["id"] == "bench")
    dash = next(one for one in plan_of(page)["plan"]["places"] if one["id"] == "dash")
    assert (after["x_m"], after["y_m"]) != (before["x_m"], before["y_m"])
    assert abs(after["x_m"] - dash["x_m"]) <= 0.1
    assert abs(after["y_m"] - dash["y_m"]) <= 0.1
    page.get_by_role("button", name=re.compile("^Canopy bench, ?|^Canopy bench ")).last.click()
    page.get_by_role("dialog", name="Canopy bench").get_by_role("button", name="Remove it with its channels").click()
    expect(page.get_by_text("saved · revision 3")).to_be_visible()
    assert all(one["name"] != "Bench leg" for one in plan_of(page)["plan"]["channels"])
    expect(page.get_by_text("C05 finds no way yet")).to_be_visible()


def test_a_table_that_is_not_understood_names_its_line_and_changes_nothing(job: Open) -> None:
    page = job("Plover", "layout")
    table = "from,to,length\nKitchen,Roof,1 m\nKitchen,Stern window,soon\n"
    page.get_by_label("CSV file of channels").set_input_files(
        {"name": "channels.csv", "mimeType": "text/csv", "buffer": table.encode()}
    )
    expect(page.get_by_text("line 3, length: 'soon' is not understood")).to_be_visible()
    assert plan_of(page)["revision"] == 1
    page.get_by_label("CSV file of channels").set_input_files(
        {"name": "channels.csv", "mimeType": "text/csv", "buffer": table.replace("soon", "7 ft").encode()}
    )
    expect(page.get_by_text("saved · revision 2")).to_be_visible()
    assert {one["name"] for one in plan_of(page)["plan"]["places"]} >= {"Roof"}


def test_a_run_is_bent_pinned_and_measured_by_itself(job: Open) -> None:
    page = job("Heron", "circuits?run=r11")
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("Galley floor to the tanks")
    sheet.get_by_role("button", name=re.compile("^Channels it must take or avoid")).click()
    choose(sheet.get_by_label("C11 and Galley floor to the tanks"), "must not take")
    expect(sheet).to_contain_text("Rear floor to the tanks")
    sheet.get_by_role("button", name=re.compile("^Length along its channels")).click()
    expect(page.get_by_role("dialog", name="C11: length along its channels")).to_contain_text("Rear floor to the tanks")
    page.go_back()
    sheet.get_by_role("textbox", name="One way").fill("4 m")
    sheet.get_by_role("textbox", name="One way").press("Enter")
    expect(sheet).to_contain_text("Its length is pinned at 4.00 m")
    sheet.get_by_role("button", name="Take the length of its way").click()
    expect(sheet.get_by_text("Its length is pinned")).to_have_count(0)
    sheet.get_by_role("button", name="Measure it by itself").click()
    expect(sheet).to_contain_text("Measured by itself")


def press(page: Page, keys: str) -> None:
    """Type with the field's own keys: signs, a unit by its name, and the key that takes it in."""
    for one in keys.split():
        page.get_by_role("group", name="Keys").get_by_role("button", name=one, exact=True).click()
    page.get_by_role("group", name="Keys").get_by_role("button", name="Done").click()


def test_an_empty_vehicle_is_surveyed_in_the_hand(quiet: Page, base: str) -> None:
    """From nothing to the first run sheet with a thumb: places, a channel by its own keys, a load, its run's way."""
    quiet.set_viewport_size({"width": 390, "height": 844})
    quiet.goto(base)
    quiet.get_by_role("button", name="New job").click()
    quiet.get_by_label("Name of the job").fill("Wren")
    quiet.get_by_role("button", name="Begin").click()
    quiet.get_by_role("navigation", name="Order of work").wait_for()
    quiet.get_by_role("link", name="Layout").click()
    expect(quiet.get_by_text("No channel yet.")).to_be_visible()
    quiet.get_by_role("button", name="Add a place").click()
    quiet.get_by_label("Name of the place").fill("Under the sink")
    quiet.get_by_role("button", name="Add it").click()
    expect(quiet.get_by_role("dialog")).to_have_count(0)
    quiet.get_by_role("button", name="Add a channel").click()
    choose(quiet.get_by_label("From", exact=True), "Fuse panel")
    choose(quiet.get_by_label("To", exact=True), "Under the sink")
    tape = quiet.get_by_label("Tape says")
    tape.click()
    # The telephone's own keys stay away: they would hide half of what is typed in.
    assert tape.get_attribute("inputmode") == "none"
    press(quiet, "2 Point 2 5 m")
    expect(tape).to_have_value("2.25 m")
    quiet.get_by_role("button", name="Add it").click()
    card = quiet.get_by_role("list", name="Channels").get_by_role("listitem")
    expect(card).to_contain_text("Fuse panel – Under the sink")
    expect(card).to_contain_text("2.25 m")
    reading = card.get_by_role("textbox", name="Length of ")
    reading.click()
    press(quiet, "2 4 0 cm")
    expect(card).to_contain_text("2.40 m")
    assert quiet.evaluate("document.scrollingElement.scrollWidth <= innerWidth")
    quiet.get_by_role("link", name="Loads").click()
    quiet.get_by_role("button", name="Add a load").click()
    load = quiet.get_by_role("list", name="Loads").get_by_role("listitem")
    load.get_by_role("button", name=re.compile("^Change ")).click()
    load.get_by_label(re.compile("^Watts each")).click()
    press(quiet, "8 4")
    expect(load).to_contain_text("84 W")
    choose(load.get_by_label(re.compile("^Place, ")), "Under the sink")
    choose(load.get_by_label(re.compile("^Fed from, ")), "House block")
    expect(load).not_to_contain_text("on no circuit")
    quiet.get_by_role("link", name="Layout").click()
    quiet.get_by_role("button", name="Let them follow the channels").click()
    expect(quiet.get_by_text(re.compile("measured by (itself|themselves)"))).to_have_count(0)
    expect(quiet.get_by_text("C01 finds no way yet; Checks says why.")).to_be_visible()
    run = next(one for one in plan_of(quiet)["report"]["runs"] if one["way"] and one["way"]["channels"])
    # (2.40 + 0.2 + 0.2) · 1.05
    assert abs(run["length_m"] - 2.94) < 1e-9
    quiet.get_by_role("link", name="Build").click()
    sheet = quiet.get_by_role("link", name="A4").first
    assert quiet.request.get(base.rstrip("/") + (sheet.get_attribute("href") or "")).body().startswith(b"%PDF")


def test_runs_and_loads_are_cards_in_the_hand(job: Open) -> None:
    page = job("Heron", "circuits")
    page.set_viewport_size({"width": 390, "height": 844})
    card = page.get_by_role("button", name=re.compile("^C11 Water pump"))
    expect(card).to_contain_text("2.5 mm² · 10 A · 3.41 m")
    expect(card).to_contain_text("Galley floor to the tanks")
    expect(page.get_by_role("table")).to_have_count(0)
    card.click()
    expect(page.get_by_role("dialog")).to_contain_text("Water pump")
    page = job("Heron", "loads")
    card = page.get_by_role("list", name="Loads").get_by_role("listitem").filter(has_text="L07")
    expect(card).to_contain_text("84 W · 7.00 A")
    card.get_by_role("button", name="Change Water pump").click()
    watts = card.get_by_label("Watts each, Water pump")
    watts.fill("96")
    watts.press("Enter")
    expect(card).to_contain_text("96 W · 8.00 A")
    choose(card.get_by_label("Fed from, Water pump"), "no circuit")
    expect(card).to_contain_text("on no circuit")
    assert page.evaluate("document.scrollingElement.scrollWidth <= innerWidth")


def test_shorts_to_the_body_tell_what_the_bond_reaches_or_why_there_are_none(job: Open) -> None:
    page = job("Heron", "circuits/shorts")
    choose(page.get_by_label("Show shorts"), "to the body")
    expect(
        page.get_by_text(re.compile(r"^Bond C26: reaches \d+ °C at most, in a short of C\d+; it stands \d+ °C"))
    ).to_be_visible()
    page = job("Plover", "circuits/shorts")
    choose(page.get_by_label("Show shorts"), "to the body")
    expect(
        page.get_by_text("The body is fibreglass or wood: it carries no current, two wires everywhere.")
    ).to_be_visible()


def test_a_photo_is_taken_of_a_channel_made_smaller_and_taken_away_again(job: Open) -> None:
    import io

    from PIL import Image

    page = job("Heron", "layout?channel=c9")
    out = io.BytesIO()
    Image.new("RGB", (3200, 1600), (90, 140, 60)).save(out, "JPEG")
    sheet = page.get_by_role("dialog", name="Frame rail from the engine bay")
    sheet.get_by_label("Photo of Frame rail from the engine bay").set_input_files(
        {"name": "rail.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}
    )
    shown = sheet.get_by_role("img", name=re.compile("^Photo 1 of Frame rail"))
    expect(shown).to_be_visible()
    page.wait_for_function("image => image.naturalWidth > 0", arg=shown.element_handle())
    assert shown.evaluate("image => [image.naturalWidth, image.naturalHeight]") == [1600, 800]
    sheet.get_by_role("button", name="Take photo 1 away").click()
    expect(shown).to_have_count(0)
    page.get_by_role("button", name="Bring it back").click()
    expect(shown).to_be_visible()
    sheet.get_by_label("Photo of Frame rail from the engine bay").set_input_files(
        {"name": "notes.txt", "mimeType": "image/jpeg", "buffer": b"not a picture"}
    )
    expect(page.get_by_text("notes.txt is not a picture that can be read.")).to_be_visible()


def test_two_fingers_make_the_plan_larger(browser: Browser, base: str) -> None:
    """Pinched from 80 to 240 px apart it is about three times as large."""
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, service_workers="block")
    page = context.new_page()
    plan_id = next(one["plan_id"] for one in page.request.get(f"{base}/api/plans").json() if one["name"] == "Heron")
    page.goto(f"{base}/plan/{plan_id}/layout")
    drawn = page.get_by_role("button", name=re.compile("^Frame rail from the engine bay: Engine bay to")).first
    drawn.wait_for()
    zoom = page.get_by_role("toolbar", name="Zoom").get_by_text(re.compile("^[0-9]+ %$"))
    before = int((zoom.text_content() or "").split()[0])
    drawing = page.locator(".react-transform-wrapper")
    drawing.scroll_into_view_if_needed()
    box = drawing.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    fingers = context.new_cdp_session(page)

    def touch(kind: str, *points: tuple[float, float]) -> None:
        at = [{"x": a, "y": b, "id": k} for k, (a, b) in enumerate(points)]
        fingers.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": at})

    touch("touchStart", (x - 40, y), (x + 40, y))
    for spread in (60, 90, 120):
        touch("touchMove", (x - spread, y), (x + spread, y))
    touch("touchEnd")
    page.wait_for_timeout(300)
    after = int((zoom.text_content() or "").split()[0])
    assert 2.0 * before < after < 4.0 * before
    context.close()
