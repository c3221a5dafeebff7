"""Every view: axe-core finds nothing serious, in both themes and three sizes, and the page never scrolls sideways."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page

AXE = (Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text(
    encoding="utf-8"
)
VIEWS = [
    "loads",
    "vehicle",
    "circuits",
    "circuits?run=r5",
    "circuits?working=r5.wire",
    "checks",
    "build",
    "build/cut",
    "build/buy",
    "build/quote",
    "build/wiring",
    "build/wiring?of=connections&at=f2",
    "build/order",
    "build/record",
    "prove",
    "prove/fault",
    "log",
    "log/revisions",
    "circuits/map",
    "circuits/states",
    "circuits/shorts",
    "circuits/parts",
    "circuits/map?run=r6",
    "circuits/parts?part=f1",
    "power",
    "power/fit",
    "power/days",
    "power/propose",
    "power/options",
    "power/prices",
    "layout?way=r5",
    "layout?channel=c1",
    "layout?place=box",
]
# What is looked at in the driveway.
IN_GLARE = [
    "build/order",
    "prove",
    "prove/fault",
    "loads",
    "layout",
    "layout?channel=c1",
    "circuits",
    "circuits?run=r5",
    "checks",
]
# Colours depend on the theme, layout on the size: each is looked at by axe once with either of the other. That nothing
# scrolls sideways is asked everywhere.
BY_AXE = {("light", "desk"), ("dark", "desk"), ("light", "hand"), ("glare", "hand")}
SIZES = {"desk": (1280, 800), "tablet": (768, 1024), "hand": (390, 844)}


def serious(page: Page) -> list[str]:
    page.evaluate(AXE)
    found: dict[str, Any] = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [
        f"{one['id']}: {one['nodes'][0]['html'][:160]}"
        for one in found["violations"]
        if one["impact"] in ("serious", "critical")
    ]


class Quiet:
    """Waits until the page has asked for nothing for a moment."""

    def __init__(self, page: Page) -> None:
        self.page, self.open = page, 0
        page.on("request", lambda _: self._count(1))
        page.on("requestfinished", lambda _: self._count(-1))
        page.on("requestfailed", lambda _: self._count(-1))

    def _count(self, by: int) -> None:
        self.open += by

    def wait(self) -> None:
        """Two looks in a row with nothing asked for."""
        still = 0
        for _ in range(400):
            self.page.wait_for_timeout(40)
            still = still + 1 if self.open <= 0 else 0
            if still >= 2:
                return
        raise AssertionError("the page never comes to rest")


@pytest.mark.parametrize("theme", ["light", "dark", "glare"])
def test_views_are_accessible_and_fit(quiet: Page, base: str, theme: str) -> None:
    """The page is loaded once; views follow one another as they do under a hand, each in every size."""
    quiet.goto(base)
    quiet.evaluate("theme => localStorage.setItem('lucernis-theme', theme)", theme)
    plover = next(card["plan_id"] for card in quiet.request.get(f"{base}/api/plans").json() if card["name"] == "Plover")
    learner = quiet.request.post(f"{base}/api/school/learners", data={"name": "Wren"}, headers={"Origin": base}).json()
    quiet.evaluate("id => localStorage.setItem('lucernis-learner', id)", str(learner["learner_id"]))
    quiet.reload()
    rest = Quiet(quiet)
    problems = []
    views = IN_GLARE if theme == "glare" else VIEWS
    for path in [
        "/",
        "/parts",
        "/keeping",
        "/bench?pair=fuse",
        "/school",
        "/school/drill/pick_wire",
        "/words?term=Bond",
        *(f"/plan/{plover}/{view}" for view in views),
    ]:
        quiet.evaluate(
            "path => { history.pushState({}, '', path); dispatchEvent(new PopStateEvent('popstate')); }", path
        )
        for size, (width, height) in SIZES.items():
            if theme == "glare" and size != "hand":
                # Made for the driveway.
                continue
            quiet.set_viewport_size({"width": width, "height": height})
            rest.wait()
            assert quiet.evaluate("location.pathname + location.search") == path
            assert quiet.evaluate("document.documentElement.dataset.theme") == theme
            if (theme, size) in BY_AXE:
                problems += [f"{size} {path} {one}" for one in serious(quiet)]
            if quiet.evaluate("document.documentElement.scrollWidth > document.documentElement.clientWidth"):
                problems.append(f"{size} {path} scrolls sideways")
    assert problems == []


def test_touch_targets_are_large_enough(quiet: Page, base: str) -> None:
    quiet.set_viewport_size({"width": 390, "height": 844})
    quiet.goto(base)
    quiet.get_by_role("heading", name="Heron").wait_for()
    heights = quiet.evaluate(
        "[...document.querySelectorAll('button, a, select')].map((one) => one.getBoundingClientRect().height)"
    )
    assert min(height for height in heights if height > 0) >= 44
