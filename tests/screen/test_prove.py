"""Proving and aftercare in a real browser: readings judged and kept, a fault found by the meter's readings, the log."""

from __future__ import annotations

import re
import threading
from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Page, expect

from lucernis.core.prove.vehicle import Vehicle
from lucernis.demo import demo_plan
from lucernis.meters.simulated import MeterServer
from tests.screen.choosing import choose

Open = Callable[[str, str], Page]


@pytest.fixture
def meter() -> Iterator[int]:
    """A simulated meter in a Heron whose pump has a bad joint."""
    with MeterServer(Vehicle(demo_plan("heron"), ("C11 joint 80 mohm",), seed=3), 0) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield int(server.server_address[1])
        server.shutdown()


def use_meter(page: Page, port: int) -> None:
    page.get_by_role("button", name="A meter on the network").click()
    page.get_by_label("Name", exact=True).fill("Bench meter")
    page.get_by_label("Port").fill(str(port))
    page.get_by_role("button", name="Use it").click()


def pump(page: Page) -> None:
    page.get_by_role("button", name="Device by device").click()


def test_a_reading_is_typed_judged_kept_and_taken_back(job: Open) -> None:
    page = job("Heron", "prove")
    expect(page.get_by_text("Negatives off the batteries, every fuse out")).to_be_visible()
    pump(page)
    line = page.get_by_role("listitem", name="Water pump, at its terminals")
    expect(line).to_contain_text("12.44 to 13.07 V")
    field = line.get_by_label("Read, V")
    field.fill("12450")
    field.press("Enter")
    expect(line.get_by_role("alert")).to_contain_text("was it mV")
    line.get_by_role("button", name="It was 12450 mV").click()
    # In band it is no longer open.
    expect(page.get_by_role("listitem", name="Water pump, at its terminals")).to_have_count(0)
    page.get_by_role("radio", name="All").click()
    expect(line).to_contain_text("12.45 V, as expected")
    page.reload()
    pump(page)
    expect(line).to_contain_text("12.45 V, as expected")
    line.get_by_role("button", name="Take back").click()
    expect(line).not_to_contain_text("as expected")


def test_nonsense_is_asked_about_and_not_kept(job: Open) -> None:
    page = job("Heron", "prove")
    pump(page)
    line = page.get_by_role("listitem", name="Water pump, at its terminals")
    line.get_by_label("Read, V").fill("lots")
    line.get_by_role("button", name="Keep").click()
    expect(line.get_by_role("alert")).to_contain_text("not a number")
    page.reload()
    pump(page)
    expect(line.get_by_text("lots")).to_have_count(0)


def test_a_fault_is_found_by_following_the_readings_the_program_names(job: Open, meter: int) -> None:
    """From a weak pump to the joint, by the simulated meter alone; then it is noted, and the odds learn it."""
    page = job("Heron", "prove/fault")
    choose(page.get_by_label("What it does"), "Weak while it runs")
    choose(page.get_by_label("Which"), "Water pump")
    page.get_by_role("button", name="Say so").click()
    use_meter(page, meter)
    following = page.get_by_role("region", name="Read next")
    first = page.get_by_role("list", name="Causes, likeliest first").get_by_role("listitem").first
    known = page.get_by_role("list", name="What is known").get_by_role("listitem")
    for count in range(1, 12):
        expect(known).to_have_count(count)
        expect(following.or_(page.get_by_text("No reading would tell more")).first).to_have_attribute(
            "aria-busy", "false"
        )
        if re.search(r"^9\d %|^100 %", first.inner_text()):
            break
        following.get_by_role("button", name="From the meter").click()
    expect(first).to_contain_text("C11 +: push-on terminal at Galley block: joint resists")
    expect(first).to_contain_text("If it is this")
    first.get_by_role("button", name="This was it").click()
    first.get_by_label("What mended it").fill("crimped anew")
    first.get_by_role("button", name="Note cause and mend in the record").click()
    expect(page.get_by_text("Say what does not do as it should")).to_be_visible()
    page.goto(page.url.replace("/prove/fault", "/build/record"))
    expect(page.get_by_role("list", name="Entries")).to_contain_text("crimped anew")
    page.goto(page.url.replace("/build/record", "/prove/fault"))
    choose(page.get_by_label("What it does"), "Does nothing")
    choose(page.get_by_label("Which"), "Roof fan")
    page.get_by_role("button", name="Say so").click()
    expect(page.get_by_text("what this workshop has found so far")).to_be_visible()


def test_a_reading_out_of_band_leads_to_the_search(job: Open) -> None:
    page = job("Heron", "prove")
    pump(page)
    line = page.get_by_role("listitem", name="Water pump, at its terminals")
    line.get_by_label("Read, V").fill("11.4")
    line.get_by_role("button", name="Keep").click()
    line.get_by_role("button", name="Find the fault from here").click()
    expect(page.get_by_role("list", name="What is known")).to_contain_text("11.4")
    expect(page.get_by_role("region", name="Read next")).to_be_visible()
    page.get_by_role("button", name="Begin anew").click()
    expect(page.get_by_role("list", name="What is known")).to_have_count(0)
    page.go_back()
    expect(page.get_by_text("read and in band")).to_be_visible()


def test_a_meter_that_goes_away_is_said_and_nothing_is_kept(job: Open, meter: int) -> None:
    page = job("Heron", "prove")
    use_meter(page, 1)
    pump(page)
    line = page.get_by_role("listitem", name="Water pump, at its terminals")
    line.get_by_role("button", name="From the meter").click()
    expect(page.get_by_text("nobody answers").first).to_be_visible()
    expect(line).not_to_contain_text("as expected")
    # A second meter takes over.
    page.get_by_label("Name", exact=True).fill("Other meter")
    page.get_by_label("Port").fill(str(meter))
    page.get_by_role("button", name="Use it").click()
    page.get_by_role("button", name="Probes together: read the leads").click()
    expect(page.get_by_text("leads 0.").first).to_be_visible()
    line.get_by_role("button", name="From the meter").click()
    expect(line).to_contain_text("Simulated meter")


def test_where_the_probes_go_is_shown_on_map_and_plan(job: Open) -> None:
    page = job("Heron", "prove")
    pump(page)
    line = page.get_by_role("listitem", name="Water pump, at its terminals")
    line.get_by_role("button", name="Where: Water pump, at its terminals").click()
    expect(line.get_by_text("Red + of Water pump")).to_be_visible()
    expect(line.get_by_role("group", name="Step-down map")).to_be_visible()
    line.get_by_role("radio", name="On the plan of the vehicle").click()
    expect(line.get_by_role("group", name=re.compile("Roof-off plan|Plan"))).to_be_visible()


def test_in_the_hand_a_reading_is_typed_with_one_thumb(job: Open) -> None:
    page = job("Heron", "prove")
    page.set_viewport_size({"width": 390, "height": 844})
    pump(page)
    line = page.get_by_role("listitem", name="Water pump, at its terminals")
    field = line.get_by_label("Read, V")
    field.click()
    keys = page.get_by_role("group", name="Keys")
    for key in ("1", "2", "Point", "6"):
        keys.get_by_role("button", name=key, exact=True).click()
    expect(field).to_have_value("12.6")
    line.get_by_role("button", name="Keep").click()
    expect(line).to_have_count(0)
    width = page.evaluate("document.documentElement.scrollWidth")
    assert width <= 390


def test_the_log_freezes_as_built_and_tells_what_is_due(job: Open) -> None:
    page = job("Heron", "log")
    expect(page.get_by_text("Nothing is due before the vehicle counts as built")).to_be_visible()
    page.get_by_label("Odometer, km").fill("120400")
    page.get_by_label("Name of what was built").fill("As built")
    page.get_by_role("button", name="Freeze this revision as built").click()
    due = page.get_by_role("list", name="What is due")
    expect(due).to_contain_text("Studs tightened again")
    expect(due).to_contain_text("120900 km")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Calendar").click()
    assert taken.value.suggested_filename.endswith(".ics")
    due.get_by_role("listitem", name="Studs tightened again").get_by_role("button", name="Done today").click()
    expect(due).to_contain_text("Last done")


def test_a_fuse_that_blew_stays_open_until_its_cause_is_noted(job: Open, base: str) -> None:
    page = job("Tern", "log")
    page.get_by_role("button", name="A fuse blew").click()
    choose(page.get_by_label("Which fuse"), re.compile("^C08"))
    page.get_by_label("When, and what ran just then").fill("keying the radio")
    page.get_by_role("button", name="Note it").first.click()
    amiss = page.get_by_role("list", name="What is amiss")
    expect(amiss).to_contain_text("no cause found")
    page.goto(base)
    expect(page.get_by_role("link", name=re.compile("1 fuse without a cause"))).to_be_visible()
    page.get_by_role("link", name=re.compile("1 fuse without a cause")).click()
    open_ones = page.get_by_role("list", name="Fuses without a cause")
    open_ones.get_by_label("What was found, and what mended it").fill("screw through C08 at the sill")
    open_ones.get_by_role("button", name="This was the cause: a new fuse may go in").click()
    expect(page.get_by_text("no cause found")).to_have_count(0)


def test_somebody_elses_wire_is_identified_and_pinned_with_its_doubt(job: Open) -> None:
    page = job("Plover", "log")
    page.get_by_role("button", name="Somebody else's work, as found").click()
    page.get_by_label("Outside, mm").fill("3")
    page.get_by_label("Outside, mm").press("Enter")
    page.get_by_role("button", name="Which size is it").click()
    expect(page.get_by_text("reckon with").first).to_be_visible()
    page.get_by_label("Strands").fill("50")
    page.get_by_label("One strand, mm").fill("0.25")
    page.get_by_label("One strand, mm").press("Enter")
    page.get_by_role("button", name="Which size is it").click()
    expect(page.get_by_role("list", name="Sizes it may be")).to_contain_text("2.5 mm²")
    choose(page.get_by_label("Of which run"), "C02 Bench block, way 1 to Ceiling lamps")
    page.get_by_role("button", name="Pin it as found").click()
    expect(page.get_by_text("revision 2")).to_be_visible()


def test_what_was_read_for_the_list_helps_the_search(job: Open) -> None:
    page = job("Heron", "prove")
    pump(page)
    for name, volts in (("Water pump, at its terminals", "11.4"), ("Compressor fridge, at its terminals", "13.1")):
        line = page.get_by_role("listitem", name=name)
        line.get_by_label("Read, V").fill(volts)
        line.get_by_role("button", name="Keep").click()
    page.get_by_role("tab", name="Find a fault").click()
    page.get_by_role("button", name="Take 2 readings of the proving list").click()
    known = page.get_by_role("list", name="What is known")
    expect(known.get_by_role("listitem")).to_have_count(2)
    expect(page.get_by_role("list", name="Causes, likeliest first")).to_contain_text("C11")
    expect(page.get_by_role("button", name="of the proving list")).to_have_count(0)
