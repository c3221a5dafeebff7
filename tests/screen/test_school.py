"""Bench, school, words and tour in a real browser: one whole case of each kind, by hand, keyboard and phone."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from lucernis.core.school.drills.ask import drill
from lucernis.core.school.fault_case import causes_at, fault_case, frame_of_van
from lucernis.core.school.mistakes import mistake_case
from tests.screen.choosing import choose

Open = Callable[[str, str], Page]


@pytest.fixture
def wren(quiet: Page, base: str) -> int:
    """Somebody who learns, chosen in this browser."""
    quiet.goto(base)
    quiet.get_by_role("link", name="School", exact=True).click()
    quiet.get_by_label("Your name").fill("Wren")
    quiet.get_by_role("button", name="Begin", exact=True).click()
    expect(quiet.get_by_text("The next ten minutes")).to_be_visible()
    found: int = quiet.evaluate("Number(localStorage.getItem('lucernis-learner'))")
    return found


def test_two_set_ups_burn_side_by_side(quiet: Page, base: str) -> None:
    quiet.goto(base)
    quiet.get_by_role("link", name="Bench", exact=True).click()
    first, second = (quiet.get_by_role("region", name=f"{one} set-up") for one in ("First", "Second"))
    expect(first).to_contain_text("the fuse opens between")
    expect(second).to_contain_text("stop")
    moment = quiet.get_by_label("Moment")
    moment.fill("0")
    expect(second.get_by_role("img", name="Wire sound, joint sound")).to_be_visible()
    moment.focus()
    quiet.keyboard.press("End")
    expect(second.get_by_role("img", name="Wire burnt bare")).to_be_visible()
    expect(first.get_by_text("open", exact=True)).to_be_visible()
    # The clock runs by itself and stops at the end.
    quiet.get_by_role("button", name="To the start").click()
    choose(quiet.get_by_label("Speed"), "× 100")
    quiet.get_by_role("button", name="Run the clock").click()
    expect(second.get_by_role("img", name="Wire burnt bare")).to_be_visible()
    expect(quiet.get_by_role("button", name="Run the clock")).to_be_visible()


def test_a_set_up_is_changed_and_what_cannot_be_is_refused_by_field(quiet: Page, base: str) -> None:
    quiet.goto(f"{base}/bench?pair=gauge")
    first = quiet.get_by_role("region", name="First set-up")
    expect(first).to_contain_text("16 AWG · 2 m · 80 A")
    first.get_by_role("button", name="change").click()
    choose(first.get_by_label("Wire", exact=True), "4")
    expect(first).to_contain_text("4 AWG · 2 m · 80 A")
    expect(first).to_contain_text("good")
    length = first.get_by_label("One way, m")
    length.fill("4000")
    length.press("Enter")
    expect(quiet.get_by_role("alert")).to_contain_text("length_m")
    length.fill("3")
    length.press("Enter")
    expect(quiet.get_by_role("alert")).to_have_count(0)
    expect(first).to_contain_text("4 AWG · 3 m")
    quiet.get_by_role("button", name="As it was").click()
    expect(first).to_contain_text("16 AWG · 2 m")


def test_a_run_goes_to_the_bench_and_comes_back_as_a_note(job: Open) -> None:
    page = job("Heron", "circuits?run=r7")
    page.get_by_role("link", name="C07 on the bench").click()
    only = page.get_by_role("region", name="Set-up")
    expect(only).to_contain_text("dead short · 5 A Regular blade")
    page.get_by_role("button", name="Put another beside it").click()
    expect(page.get_by_role("region", name="Second set-up")).to_contain_text("no fuse")
    page.get_by_role("button", name="Note it in the record").first.click()
    page.get_by_role("link", name="C07 of the plan").click()
    page.goto(page.url.replace("circuits?run=r7", "build/record"))
    expect(page.get_by_text("On the bench: 1.5 mm²")).to_be_visible()


def test_a_drill_is_answered_by_keyboard_and_its_mistake_is_named(quiet: Page, base: str, wren: int) -> None:
    quiet.goto(f"{base}/school/drill/read_length")
    expect(quiet.get_by_text("Level 1 of 4")).to_be_visible()
    field = quiet.get_by_role("textbox")
    field.fill("0.5")
    field.press("Enter")
    status = quiet.get_by_role("status")
    expect(status).to_contain_text("It is")
    quiet.get_by_role("button", name="Next question").click()
    expect(status).to_have_count(0)
    quiet.goto(f"{base}/school")
    expect(quiet.get_by_text("0 of 1 right")).to_be_visible()


def test_a_mistake_is_found_marked_and_mended(quiet: Page, base: str, wren: int) -> None:
    seed = next(k for k in range(60) if [one.code for one in mistake_case(k, 1).mistakes] == ["battery-loose"])
    mistake = mistake_case(seed, 1).mistakes[0]
    quiet.goto(f"{base}/school")
    number = quiet.get_by_label("Case number")
    number.fill(str(seed))
    number.press("Enter")
    quiet.get_by_role("button", name="Begin", exact=True).last.click()
    expect(quiet.get_by_text("One thing is wrong.")).to_be_visible()
    quiet.get_by_role("link", name="Walk the van").click()
    bar = quiet.get_by_role("region", name="Case")
    quiet.get_by_role("link", name="Checks").click()
    expect(quiet.get_by_text("Hidden while you look for what is wrong")).to_be_visible()
    bar.get_by_role("button", name="Mark what is wrong").click()
    plan = quiet.request.get(quiet.url.replace("/plan/", "/api/plans/").replace("/checks", "")).json()["plan"]
    battery = next(one for one in plan["parts"] if one["id"] == mistake.subject)
    choose(bar.get_by_label("At", exact=True), f"{battery['tag']} {battery['name']}")
    bar.get_by_label("What is wrong, in words").fill("not fixed")
    bar.get_by_role("button", name="Battery not fixed").click()
    expect(bar.get_by_role("list", name="Marked")).to_contain_text("Battery not fixed")
    fixed = [one | {"fixed": True} if one["id"] == mistake.subject else one for one in plan["parts"]]
    plan_id = quiet.url.split("/plan/")[1].split("/")[0]
    mended = quiet.request.patch(
        f"{base}/api/plans/{plan_id}",
        data=[{"op": "replace", "path": "/parts", "value": fixed}],
        headers={"If-Match": "1", "Origin": base},
    )
    assert mended.ok
    bar.get_by_role("link", name="find the mistake").click()
    quiet.get_by_role("button", name="Hand in").click()
    grade = quiet.get_by_role("region", name="Grade")
    expect(grade).to_contain_text("100 of 100")
    expect(grade).to_contain_text("The mend is clean.")
    grade.get_by_role("button", name="battery-loose").click()
    expect(quiet.get_by_role("dialog")).to_contain_text("Battery not fixed")


def test_a_fault_is_found_with_the_meter_on_a_phone(quiet: Page, base: str, wren: int) -> None:
    quiet.set_viewport_size({"width": 390, "height": 844})
    # The second draw is a fault in a run.
    made = fault_case(2, 1)
    begun = quiet.request.post(
        f"{base}/api/school/learners/{wren}/cases",
        data={"kind": "fault", "level": 1, "seed": 2},
        headers={"Origin": base},
    ).json()
    quiet.goto(f"{base}/school/case/{begun['card']['case_id']}")
    expect(quiet.get_by_role("region", name="What is told")).to_contain_text("does nothing")
    parts = {one.id: f"{one.tag} {one.name}" for one in frame_of_van(made.van).plan.parts}
    choose(quiet.get_by_label("At", exact=True), parts["f1"])
    reading = quiet.get_by_label("Reading", exact=True)
    reading.click()
    quiet.get_by_role("option").nth(1).click()
    quiet.get_by_role("button", name="Read", exact=True).click()
    expect(quiet.get_by_role("list", name="Readings").get_by_role("listitem")).to_have_count(1)
    expect(quiet.get_by_text("of 120 spent")).to_be_visible()
    cause = made.planted.cause
    subject = cause.run or cause.part
    run = next(one for one in frame_of_van(made.van).plan.runs if one.id == subject)
    choose(quiet.get_by_label("It is at"), f"{run.tag} {run.name}".strip())
    text = next(one.text for one in causes_at(made.van, subject) if one.id == cause.id)
    choose(quiet.get_by_label("Cause"), text)
    quiet.get_by_role("button", name="Hand in").click()
    grade = quiet.get_by_role("region", name="Grade")
    expect(grade).to_contain_text("found. It was")
    expect(grade).to_contain_text("the program, by its own next readings")
    assert quiet.evaluate("document.documentElement.scrollWidth <= document.documentElement.clientWidth")


def test_a_letter_is_planned_in_the_plan_itself(quiet: Page, base: str, wren: int) -> None:
    begun = quiet.request.post(
        f"{base}/api/school/learners/{wren}/cases",
        data={"kind": "letter", "level": 1, "seed": 3},
        headers={"Origin": base},
    ).json()
    quiet.goto(f"{base}/school/case/{begun['card']['case_id']}")
    expect(quiet.get_by_role("region", name="What is told")).to_contain_text("We would like")
    quiet.get_by_role("link", name="Plan it").click()
    quiet.get_by_role("navigation", name="Order of work").wait_for()
    quiet.go_back()
    quiet.get_by_role("button", name="Hand in").click()
    grade = quiet.get_by_role("region", name="Grade")
    expect(grade).to_contain_text("Days without charging")
    expect(grade).to_contain_text("Missing from the letter")


def test_words_open_by_key_in_a_finding_and_in_the_glossary(job: Open, base: str) -> None:
    page = job("Plover", "checks")
    code = page.get_by_role("button", name="fuse-too-far", exact=True)
    code.focus()
    page.keyboard.press("Enter")
    opened = page.get_by_role("dialog")
    expect(opened).to_contain_text("Fuse too far from the source (stop).")
    opened.get_by_role("link", name="All words").click()
    page.get_by_placeholder("A term or a code").fill("select")
    page.get_by_role("button", name="Selectivity").click()
    shown = page.get_by_role("region", name="What it is")
    expect(shown).to_contain_text("The fuse nearest a fault opens first.")
    expect(shown.locator("svg")).to_be_visible()


def test_the_tour_is_three_findings_mended_by_hand(quiet: Page, base: str) -> None:
    quiet.goto(base)
    quiet.get_by_role("button", name="Begin the tour").click()
    bar = quiet.get_by_role("region", name="Tour")
    expect(bar).to_contain_text("1 of 3. C09")
    bar.get_by_role("button", name="Go to C09").click()
    expect(quiet.get_by_role("dialog").or_(quiet.get_by_role("complementary")).first).to_be_visible(timeout=20_000)
    plan_id = quiet.url.split("/plan/")[1].split("/")[0]
    findings = quiet.request.get(f"{base}/api/plans/{plan_id}").json()["report"]["findings"]
    for _ in range(3):
        worst = findings[0]
        edits = worst["fixes"][0]["edits"]
        revision = quiet.request.get(f"{base}/api/plans/{plan_id}").json()["revision"]
        answer = quiet.request.post(
            f"{base}/api/plans/{plan_id}/edits",
            data={"edits": edits},
            headers={"If-Match": str(revision), "Origin": base},
        )
        assert answer.ok, answer.text()
        findings = answer.json()["report"]["findings"]
    quiet.reload()
    expect(bar).to_contain_text("All three mended.")
    bar.get_by_role("button", name="End the tour").click()
    quiet.goto(base)
    expect(quiet.get_by_role("heading", name="Heron")).to_be_visible()
    expect(quiet.get_by_role("button", name="Begin the tour")).to_have_count(0)


def test_the_question_on_screen_is_the_core_s(quiet: Page, base: str, wren: int) -> None:
    asked = quiet.request.get(f"{base}/api/school/learners/{wren}/drill", params={"skill": "bank", "seed": "5"}).json()
    assert asked["question"] == drill("bank", 1, 5, "metric_caravan").question
