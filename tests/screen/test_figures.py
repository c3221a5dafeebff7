"""What the page shows is what the core says: every figure of the tables of runs and shorts, of every demo job, read off
the screen and held against the report within the digits that are shown."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page

Open = Callable[[str, str], Page]
METRE_PER_FOOT = 0.3048
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
JOBS = ("Heron", "Tern", "Plover")
# As another hand reads the columns, from left to right behind the tag.
NAME, LENGTH, CURRENT, WIRE, FUSE, DROP, MARGIN = range(7)


def shown(text: str) -> list[str]:
    """Numbers of a cell as they stand."""
    return NUMBER.findall(text.replace("\xa0", " "))


def is_shown(text: str, value: float) -> bool:
    """Whether a number on the page is a figure, rounded to the digits it is shown with."""
    digits = len(text.partition(".")[2])
    return abs(float(text) - value) <= 0.5 * 10**-digits * (1 + 1e-6) + 1e-9


def report_of(page: Page) -> dict[str, Any]:
    plan_id = page.url.split("/plan/")[1].split("/")[0]
    base = page.url.split("/plan/")[0]
    found: dict[str, Any] = page.request.get(f"{base}/api/plans/{plan_id}").json()
    return found


def wrong_cells(row: str, cells: list[str], wanted: dict[int, list[float | None]]) -> list[str]:
    """What a row shows that is not what was wanted in that column."""
    found = []
    for column, values in wanted.items():
        there = shown(cells[column])
        some = [value for value in values if value is not None]
        if len(there) < len(some) or not all(is_shown(*pair) for pair in zip(there, some, strict=False)):
            found.append(f"{row} column {column}: {cells[column]!r} for {some}")
    return found


@pytest.mark.parametrize("name", JOBS)
def test_every_figure_of_the_runs_is_that_of_the_report(job: Open, name: str) -> None:
    page = job(name, "circuits")
    whole = report_of(page)
    metre = METRE_PER_FOOT if whole["plan"]["units"] == "us" else 1.0
    problems = []
    rows = {
        row["id"]: row["cells"]
        for row in page.evaluate(
            "() => [...document.querySelectorAll('tr[id^=run-]')].map(row => ({id: row.id.slice(4),"
            " cells: [...row.querySelectorAll('td')].map(cell => cell.textContent)}))"
        )
    }
    assert set(rows) == {one["id"] for one in whole["report"]["runs"]}
    for one in whole["report"]["runs"]:
        cells = rows[one["id"]]
        wanted: dict[int, list[float | None]] = {
            LENGTH: [one["length_m"] / metre, one["loop_length_m"] / metre],
            CURRENT: [one["design_current_a"]],
        }
        if one["fuse"] is not None:
            # Two of them side by side are shown as 2 × 25 A.
            several = [one["fuse"]["count"]] if one["fuse"]["count"] > 1 else []
            wanted[FUSE] = [*several, one["fuse"]["rating_a"]]
        if not one["spare"]:
            worst = one["worst"]
            drops = (worst["conductor_drop_to_end_frac"], worst["drop_to_end_frac"])
            wanted[DROP] = [None if value is None else 100 * value for value in drops]
        limits = [one["margin_frac"], one["limit_frac"]]
        wanted[MARGIN] = [100 * value for value in limits if value is not None]
        problems += wrong_cells(one["tag"], cells, wanted)
        if one["wire"]["label"] not in cells[WIRE]:
            problems.append(f"{one['tag']}: {cells[WIRE]!r} for {one['wire']['label']}")
        carries = cells[WIRE].partition("carries")[2]
        if one["wire"]["ampacity_a"] is not None and not is_shown(shown(carries)[0], one["wire"]["ampacity_a"]):
            problems.append(f"{one['tag']} carries {carries!r}")
    assert problems == []


@pytest.mark.parametrize("name", JOBS)
def test_every_short_is_that_of_the_report(job: Open, name: str) -> None:
    page = job(name, "circuits/shorts")
    page.get_by_role("table").wait_for()
    whole = report_of(page)
    rows = page.evaluate(
        "() => [...document.querySelectorAll('table tbody tr')].map(row =>"
        " [row.querySelector('th').textContent, ...[...row.querySelectorAll('td')].map(cell => cell.textContent)])"
    )
    wanted = [(one, fault) for one in whole["report"]["runs"] for fault in one["faults"]]
    assert len(rows) == len(wanted) > 10
    problems = []
    for (head, where, strongest, weakest, *_, heat), (one, fault) in zip(rows, wanted, strict=True):
        tag = f"{one['tag']} {fault['where']}"
        if not head.strip().startswith(one["tag"]) or where != fault["where"]:
            problems.append(f"{tag}: {head} {where}")
        reached = [value for value in (fault["wire_c"], fault["limit_c"]) if value is not None]
        figures = [(strongest, [fault["strongest_a"]]), (weakest, [fault["weakest_a"]]), (heat, reached)]
        for text, amounts in figures:
            there, values = shown(text), [value / 1000 for value in amounts] if "kA" in text else amounts
            if len(there) < len(values) or not all(is_shown(*pair) for pair in zip(there, values, strict=False)):
                problems.append(f"{tag}: {text!r} for {values}")
    assert problems == []
