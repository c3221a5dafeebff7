"""The walk of an installer through the demo, in a real browser."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect

from lucernis.demo import JOBS
from tests.screen.choosing import choose

Open = Callable[[str, str], Page]


def plan_of(page: Page) -> Any:
    found = re.match(r"(https?://[^/]+)/plan/([^/]+)", page.url)
    assert found
    return page.request.get(f"{found[1]}/api/plans/{found[2]}").json()


def test_shelf_opens_heron(quiet: Page, base: str) -> None:
    quiet.goto(base)
    for name in ("Heron", "Tern", "Plover", "Plover, mended"):
        expect(quiet.get_by_role("heading", name=name, exact=True)).to_be_visible()
    quiet.get_by_role("link", name=re.compile("Heron")).click()
    expect(quiet.get_by_label("Name, Compressor fridge")).to_have_value("Compressor fridge")
    quiet.go_back()
    expect(quiet.get_by_role("heading", name="Plover", exact=True)).to_be_visible()


def test_typed_load_changes_its_run(job: Open) -> None:
    page = job("Heron", "loads")
    before = next(run for run in plan_of(page)["report"]["runs"] if run["id"] == "r10")
    watts = page.get_by_label("Watts each, Compressor fridge")
    watts.fill("290")
    watts.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    expect(page.get_by_label("Amps each, Compressor fridge")).to_have_value("24.2")
    after = next(run for run in plan_of(page)["report"]["runs"] if run["id"] == "r10")
    assert after["fuse"]["rating_a"] > before["fuse"]["rating_a"]
    assert after["wire"]["area_mm2"] > before["wire"]["area_mm2"]
    page.get_by_role("link", name=re.compile("^Circuits")).click()
    row = page.locator("#run-r10")
    expect(row).to_contain_text(after["wire"]["label"])
    expect(row).to_contain_text(f"{after['fuse']['rating_a']:g} A")


def test_bad_text_stays_and_says_why(job: Open) -> None:
    page = job("Heron", "loads")
    watts = page.get_by_label("Watts each, Water pump")
    watts.fill("plenty")
    watts.press("Enter")
    expect(page.get_by_text("'plenty' is not a number").first).to_be_visible()
    expect(watts).to_have_value("plenty")
    assert plan_of(page)["revision"] == 1


def test_there_and_back_is_halved_and_over_100_m_asks(job: Open) -> None:
    page = job("Heron", "loads")
    loop = page.get_by_label("There and back, Water pump")
    loop.fill("9 m")
    loop.press("Enter")
    expect(page.get_by_label("One way, Water pump")).to_have_value("4.50 m")
    one_way = page.get_by_label("One way, Water pump")
    one_way.fill("120 m")
    one_way.press("Enter")
    dialog = page.get_by_role("dialog", name="Over 100 m one way?")
    expect(dialog).to_be_visible()
    dialog.get_by_role("button", name="It is meant so").click()
    expect(page.get_by_role("status")).to_contain_text("revision 3")
    assert next(run for run in plan_of(page)["plan"]["runs"] if run["id"] == "r11")["length_m"] == 120


def test_pin_shows_what_it_would_have_been_and_asks_the_reason(job: Open) -> None:
    page = job("Heron", "circuits?run=r5")
    page.get_by_role("button", name="Pin the wire").click()
    dialog = page.get_by_role("dialog", name="Pin the wire")
    expect(dialog.get_by_role("button", name="Pin", exact=True)).to_be_disabled()
    choose(dialog.get_by_label("Size"), "16")
    dialog.get_by_label("Reason").fill("end of a spool")
    dialog.get_by_role("button", name="Pin", exact=True).click()
    expect(page.get_by_text("16 mm²; it would be 1.5 mm². end of a spool")).to_be_visible()
    page.get_by_role("button", name="Unpin", exact=True).click()
    expect(page.get_by_text("1.5 mm², computed")).to_be_visible()


def test_working_opens_and_back_button_closes_it(job: Open) -> None:
    page = job("Plover", "circuits")
    page.get_by_role("button", name=re.compile("Wire of C06")).click()
    sheet = page.get_by_role("dialog", name="C06: wire size")
    expect(sheet).to_contain_text("Pinned: Already in the wall")
    assert "working=r6.wire" in page.url
    page.reload()
    expect(page.get_by_role("dialog", name="C06: wire size")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_waive_a_finding_and_take_it_back(job: Open) -> None:
    page = job("Plover", "checks")
    card = page.get_by_role("listitem").filter(has_text="fuse-too-far")
    card.get_by_role("button", name="Waive").click()
    page.get_by_label("Reason, printed on the run sheet").fill("moved on the day")
    page.get_by_role("button", name="Waive it").click()
    expect(card).to_contain_text("Waived: moved on the day")
    assert plan_of(page)["report"]["summary"]["waived"] == 2
    card.get_by_role("button", name="Take waiver back").click()
    expect(card.get_by_role("button", name="Waive")).to_be_visible()


def test_finding_leads_to_its_subject(job: Open) -> None:
    page = job("Plover", "checks")
    page.get_by_role("button", name="Go to C01").first.click()
    expect(page.get_by_role("dialog")).to_contain_text("Bench block")
    assert "circuits?run=r1" in page.url


def test_undo_and_redo_by_button_and_key(job: Open) -> None:
    page = job("Tern", "loads")
    name = page.get_by_label("Name, Data logger")
    name.fill("Logger two")
    name.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Name, Data logger")).to_be_visible()
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_label("Name, Logger two")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Name, Data logger")).to_be_visible()


def test_switch_practice_shows_what_changes_first(job: Open) -> None:
    page = job("Tern", "vehicle")
    choose(page.get_by_label("Practice set"), "Small craft, US")
    dialog = page.get_by_role("dialog", name="Switch to Small craft, US")
    expect(dialog).to_contain_text("Runs that change: 21 of 21")
    expect(dialog).to_contain_text("16 AWG")
    dialog.get_by_role("button", name="Switch").click()
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    assert plan_of(page)["report"]["practice_set"] == "small_craft_us"


def test_change_one_rule_with_its_reason(job: Open) -> None:
    page = job("Heron", "vehicle")
    page.get_by_role("button", name=re.compile("Change: Max drop for any other load")).click()
    page.get_by_label("New value").fill("5")
    page.get_by_label("Reason").fill("customer wants bright lamps")
    page.get_by_role("button", name="Change for this plan").click()
    expect(page.get_by_text("changed here: customer wants bright lamps")).to_be_visible()
    overrides = {one["rule"]: one["value"] for one in plan_of(page)["plan"]["practice"]["overrides"]}
    assert overrides["drop_other_frac"] == 0.05


def test_survey_fields_are_kept(job: Open) -> None:
    page = job("Heron", "vehicle")
    page.get_by_label("Customer").fill("Somebody else")
    page.get_by_label("Customer").press("Tab")
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    choose(page.get_by_label("Body"), "Aluminium")
    expect(page.get_by_role("status")).to_contain_text("revision 3")
    page.get_by_role("button", name="Add a zone").click()
    expect(page.get_by_role("status")).to_contain_text("revision 4")
    plan = plan_of(page)["plan"]
    assert (plan["job"]["customer"], plan["job"]["vehicle"]["body"], len(plan["zones"])) == (
        "Somebody else",
        "aluminium",
        6,
    )


def test_state_switch_changes_figures(job: Open) -> None:
    page = job("Heron", "circuits")
    strip = page.get_by_role("contentinfo", name="Meter strip")
    worst = strip.get_by_role("button", name=re.compile("From the battery")).inner_text()
    choose(page.get_by_label("State"), "Parked at night")
    expect(strip.get_by_role("button", name=re.compile("From the battery"))).not_to_have_text(worst)
    assert "state=night" in page.url
    page.get_by_role("link", name=re.compile("^Loads")).click()
    assert "state=night" in page.url


def test_add_block_and_move_a_load_to_it(job: Open) -> None:
    page = job("Heron", "circuits/parts?part=u1")
    page.get_by_role("button", name="Feed a part from here").click()
    dialog = page.get_by_role("dialog", name="Feed a part from Locker busbars")
    dialog.get_by_placeholder("Search the library").fill("6-way")
    dialog.get_by_role("option", name="6-way blade block", exact=True).click()
    dialog.get_by_label("Name").fill("Roof block")
    dialog.get_by_label("Length, one way").fill("3.2 m")
    dialog.get_by_role("button", name="Feed it").click()
    expect(page.get_by_role("button", name=re.compile("Roof block"))).to_be_visible()
    page.get_by_role("link", name=re.compile("^Loads")).click()
    choose(page.get_by_label("Fed from, Roof fan"), "Roof block")
    expect(page.get_by_role("status")).to_contain_text("revision 3")
    assert next(run for run in plan_of(page)["plan"]["runs"] if run["finish"]["part"] == "l16")["start"]["part"] == "f6"


def test_put_a_load_after_another_in_a_chain(job: Open) -> None:
    page = job("Heron", "loads")
    choose(page.get_by_label("Fed from, Roof fan"), "after Reading lamps")
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    run = next(run for run in plan_of(page)["report"]["runs"] if run["finish_label"] == "Roof fan")
    assert run["role"] == "onward"
    assert run["protected_by"] == "C17"


def test_paste_a_block_from_a_spreadsheet(job: Open) -> None:
    page = job("Tern", "loads")
    page.get_by_label("Name, Data logger").focus()
    page.evaluate(
        """(text) => {
            const data = new DataTransfer();
            data.setData('text/plain', text);
            const event = new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true});
            document.activeElement.dispatchEvent(event);
        }""",
        "Logger A\t6\nPump B\t240\nRadio C\t60\nNew one\t12\nNew two\t15\n",
    )
    expect(page.get_by_label("Name, New two")).to_be_visible()
    names = [part["name"] for part in plan_of(page)["plan"]["parts"] if part["kind"] == "load"]
    assert names[-5:] == ["Logger A", "Pump B", "Radio C", "New one", "New two"]
    assert plan_of(page)["revision"] == 2


def test_csv_preview_names_bad_cells_and_takes_the_good_rows(job: Open, tmp_path: Path) -> None:
    page = job("Heron", "loads")
    file = tmp_path / "loads.csv"
    file.write_bytes(b"\xef\xbb\xbfname;watts;hours;length\r\nSpot lamp;10,5;2;3,2\r\nBad;plenty;2;3\r\n")
    page.get_by_label("CSV file of loads").set_input_files(file)
    dialog = page.get_by_role("dialog", name="Loads in loads.csv")
    expect(dialog).to_contain_text("Separator: semicolon")
    expect(dialog).to_contain_text("'plenty' is not a number")
    dialog.get_by_role("button", name="Take the 1 good rows").click()
    expect(page.get_by_label("Name, Spot lamp")).to_be_visible()
    assert all(part["name"] != "Bad" for part in plan_of(page)["plan"]["parts"])


def test_print_and_files(job: Open) -> None:
    page = job("Heron", "build")
    links = page.get_by_role("main").get_by_role("link").all()
    assert len(links) >= 10
    for link in links:
        href = link.get_attribute("href")
        assert href
        answer = page.request.get(page.url.split("/plan/")[0] + href)
        assert answer.ok
        if ".pdf" in href:
            assert answer.body().startswith(b"%PDF")


def test_export_and_import_give_the_identical_plan(job: Open, base: str, tmp_path: Path) -> None:
    page = job("Plover", "build")
    before = plan_of(page)["plan"]
    with page.expect_download() as caught:
        page.get_by_role("link", name="Plan: JSON").click()
    file = tmp_path / "plover.json"
    caught.value.save_as(file)
    assert json.loads(file.read_text(encoding="utf-8"))["format"] == "lucernis-plan"
    page.goto(base)
    page.get_by_label("Plan file").set_input_files(file)
    expect(page.get_by_label("Name, Radio")).to_be_visible()
    assert plan_of(page)["plan"] == before


def test_import_of_nonsense_says_why_and_stores_nothing(quiet: Page, base: str, tmp_path: Path) -> None:
    file = tmp_path / "bad.json"
    quiet.goto(base)
    for text, says in (
        ("{", "not JSON"),
        ('{"format": "lucernis-plan", "version": 1, "job": {"name": 3}}', "#/job/name"),
    ):
        file.write_text(text, encoding="utf-8")
        quiet.get_by_label("Plan file").set_input_files(file)
        expect(quiet.get_by_text(says).first).to_be_visible()
    assert len(quiet.request.get(f"{base}/api/plans").json()) == len(JOBS)


def test_new_job_from_nothing_to_a_run(quiet: Page, base: str) -> None:
    quiet.goto(base)
    quiet.get_by_role("button", name="New job").click()
    quiet.get_by_label("Name of the job").fill("Curlew")
    choose(quiet.get_by_label("Practice set"), "Small craft, US")
    quiet.get_by_role("button", name="Begin").click()
    expect(quiet.get_by_text("No loads yet")).to_be_visible()
    quiet.get_by_role("button", name="Add a load").click()
    expect(quiet.get_by_label("Name, New load")).to_be_focused()
    quiet.keyboard.type("Anchor lamp")
    quiet.keyboard.press("Tab")
    quiet.keyboard.type("10")
    quiet.keyboard.press("Enter")
    expect(quiet.get_by_label("Amps each, Anchor lamp")).to_have_value("0.833")
    report = plan_of(quiet)["report"]
    assert [run["tag"] for run in report["runs"]] == ["C01", "C02"]
    assert report["runs"][1]["wire"]["label"] == "16 AWG"


def elsewhere(page: Page, base: str, load: str, watts: str, revision: int = 1) -> None:
    """Another hand types watts on a revision."""
    plan_id = page.url.split("/plan/")[1].split("/")[0]
    other = {"edits": [{"op": "set_cell", "part": load, "column": "power_w", "text": watts}]}
    made = page.request.post(f"{base}/api/plans/{plan_id}/edits", data=other, headers={"If-Match": f'"{revision}"'})
    assert made.ok, made.text()


def test_edits_of_two_hands_to_different_fields_both_land(job: Open, base: str) -> None:
    page = job("Heron", "loads")
    elsewhere(page, base, "l1", "50")
    hours = page.get_by_label("Hours a day, Water pump")
    hours.fill("2")
    hours.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("revision 3")
    expect(page.get_by_label("Watts each, Field recorder")).to_have_value("50")
    parts = {part["id"]: part for part in plan_of(page)["plan"]["parts"]}
    assert (parts["l1"]["power_w"], parts["l7"]["hours_per_day"]) == (50.0, 2.0)


def test_somebody_elses_edit_of_the_same_is_shown_before_mine_is_made(job: Open, base: str) -> None:
    page = job("Heron", "loads")
    elsewhere(page, base, "l1", "50")
    watts = page.get_by_label("Watts each, Field recorder")
    watts.fill("44")
    watts.press("Enter")
    dialog = page.get_by_role("dialog", name="Edit conflict")
    expect(dialog).to_contain_text("Field recorder: watts is 44 in yours, 50 in theirs")
    dialog.get_by_role("button", name="Apply mine").click()
    expect(page.get_by_role("status")).to_contain_text("revision 3")
    assert next(part for part in plan_of(page)["plan"]["parts"] if part["id"] == "l1")["power_w"] == 44.0


def test_a_double_click_takes_one_away(job: Open) -> None:
    page = job("Heron", "vehicle")
    before = [zone["name"] for zone in plan_of(page)["plan"]["zones"]]
    for at, name in enumerate(("Loft", "Annex"), start=len(before)):
        page.get_by_role("button", name="Add a zone").click()
        expect(page.get_by_role("button", name="Delete zone New zone")).to_be_visible()
        field = page.get_by_label("Zone", exact=True).nth(at)
        field.fill(name)
        field.press("Enter")
        expect(page.get_by_role("button", name=f"Delete zone {name}")).to_be_visible()
    page.get_by_role("button", name="Delete zone Loft").dblclick()
    expect(page.get_by_role("button", name="Delete zone Loft")).to_have_count(0)
    page.wait_for_timeout(500)
    assert [zone["name"] for zone in plan_of(page)["plan"]["zones"]] == [*before, "Annex"]


def test_log_lists_what_was_done_and_goes_back(job: Open) -> None:
    page = job("Tern", "loads")
    name = page.get_by_label("Name, Data logger")
    name.fill("Logger two")
    name.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("revision 2")
    page.get_by_role("link", name="Log").click()
    page.get_by_role("tab", name="Revisions of the plan").click()
    expect(page.get_by_text("Logger two: name Data logger → Logger two").first).to_be_visible()
    page.get_by_role("button", name="Back to this").last.click()
    expect(page.get_by_text("Back to revision 1")).to_be_visible()


def test_search_filter_and_sort_runs(job: Open) -> None:
    page = job("Plover", "circuits")
    page.get_by_role("button", name="Design current").click()
    page.get_by_role("button", name="Design current").click()
    expect(page.locator("tbody tr").first).to_contain_text("C01")
    page.get_by_label("Search runs").fill("radio")
    expect(page.locator("tbody tr")).to_have_count(1)
    page.get_by_label("Search runs").fill("no such run")
    expect(page.get_by_text("No run matches.")).to_be_visible()
    page.get_by_label("Search runs").fill("")
    choose(page.get_by_label("Show runs"), "pinned")
    expect(page.locator("tbody tr")).to_have_count(2)


def test_keyboard_alone_from_shelf_to_a_changed_run(quiet: Page, base: str) -> None:
    quiet.goto(base)
    quiet.get_by_role("heading", name="Heron").wait_for()
    for _ in range(12):
        quiet.keyboard.press("Tab")
        if (
            "Heron" in quiet.evaluate("document.activeElement.textContent")
            and quiet.evaluate("document.activeElement.tagName") == "A"
        ):
            break
    quiet.keyboard.press("Enter")
    quiet.get_by_label("Name, Field recorder").wait_for()
    for _ in range(40):
        quiet.keyboard.press("Tab")
        if quiet.evaluate("document.activeElement.id") == "cell-0-name":
            break
    quiet.keyboard.press("ArrowDown")
    quiet.keyboard.press("ArrowRight")
    assert quiet.evaluate("document.activeElement.id") == "cell-1-power_w"
    quiet.keyboard.type("28")
    quiet.keyboard.press("Enter")
    assert quiet.evaluate("document.activeElement.id") == "cell-2-power_w"
    expect(quiet.get_by_role("status")).to_contain_text("revision 2")
    quiet.keyboard.press("Control+z")
    expect(quiet.get_by_role("status")).to_contain_text("revision 3")
    expect(quiet.get_by_label("Watts each, Microphone preamps")).to_have_value("14")
    quiet.keyboard.press("Alt+ArrowUp")
    expect(quiet.get_by_role("status")).to_contain_text("revision 4")
    order = [part["id"] for part in plan_of(quiet)["plan"]["parts"] if part["kind"] == "load"]
    assert order[:3] == ["l1", "l3", "l2"]
