"""Takes the pictures in docs/screenshots from the demo data: `make pictures`. The run sheet needs Debian's pdftoppm."""

from __future__ import annotations

import json
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.screen.conftest import FLAGS

ROOT = Path(__file__).resolve().parents[1]
TARGET = ROOT / "docs" / "screenshots"
PORT = 8799
BASE = f"http://127.0.0.1:{PORT}"
# Name, job, view, theme, width, height.
VIEWS = [
    ("loads", "Heron", "loads", "light", 1280, 800),
    ("vehicle", "Heron", "vehicle", "light", 1280, 800),
    ("circuits", "Heron", "circuits", "light", 1280, 800),
    ("map", "Heron", "circuits/map", "light", 1280, 800),
    ("power", "Heron", "power", "light", 1280, 800),
    ("layout", "Heron", "layout?way=r33", "light", 1280, 800),
    ("checks", "Plover", "checks", "light", 1280, 800),
    ("build", "Heron", "build/cut?order=size", "light", 1280, 800),
    ("wiring", "Heron", "build/wiring", "light", 1280, 800),
    ("order", "Heron", "build/order", "light", 390, 844),
    ("days", "Heron", "power/days", "dark", 1280, 800),
    ("prove", "Tern", "prove?lines=all", "light", 1280, 800),
    ("log", "Tern", "log", "light", 1280, 800),
]


def take(page: Page, name: str) -> None:
    """Save what the page shows."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(400)
    page.screenshot(path=TARGET / f"{name}.png")


def walk(page: Page) -> None:
    """Every picture in turn."""
    page.goto(BASE)
    take(page, "shelf")
    page.goto(f"{BASE}/bench?pair=gauge")
    page.get_by_label("Moment").fill("260")
    take(page, "bench")
    learner = page.request.post(f"{BASE}/api/school/learners", data={"name": "Nell"}, headers={"Origin": BASE}).json()
    page.evaluate("id => localStorage.setItem('lucernis-learner', id)", str(learner["learner_id"]))
    begun = page.request.post(
        f"{BASE}/api/school/learners/{learner['learner_id']}/cases",
        data={"kind": "mistake", "level": 2, "seed": 7},
        headers={"Origin": BASE},
    ).json()
    page.goto(f"{BASE}/plan/{begun['card']['plan_id']}/circuits/map")
    page.get_by_role("button", name="Mark what is wrong").wait_for()
    take(page, "school")
    ids = {card["name"]: card["plan_id"] for card in page.request.get(f"{BASE}/api/plans").json()}
    for name, job, view, theme, width, height in VIEWS:
        page.set_viewport_size({"width": width, "height": height})
        page.evaluate("theme => localStorage.setItem('lucernis-theme', theme)", theme)
        page.goto(f"{BASE}/plan/{ids[job]}/{view}")
        take(page, name)
    page.set_viewport_size({"width": 1280, "height": 800})
    page.evaluate("localStorage.setItem('lucernis-theme', 'light')")
    # A fault that is being looked for: what is known lies in the browser.
    kept = {"symptoms": [{"kind": "weak", "subject": "l7"}], "readings": [
        {"reading": one, "situation": "load:l7", "typed": typed, "leads_ohm": 0}
        for one, typed in (("volts:+b1~-b1", "13.31 V"), ("volts:+l7~-l7", "11.73 V"), ("amps:r11:p", "7.89 A"),
                           ("volts:r11:p:0~r11:p:4", "1.13 V"))
    ]}  # fmt: skip
    page.evaluate(
        "([key, kept]) => localStorage.setItem(key, kept)", [f"lucernis-fault-{ids['Heron']}", json.dumps(kept)]
    )
    page.goto(f"{BASE}/plan/{ids['Heron']}/prove/fault")
    page.get_by_role("region", name="Read next").wait_for()
    take(page, "fault")
    page.goto(f"{BASE}/plan/{ids['Heron']}/circuits?run=r10")
    pinch = page.get_by_role("group", name="Compressor fridge: where the volts go")
    pinch.wait_for()
    pinch.evaluate("one => one.scrollIntoView({block: 'end'})")
    take(page, "pictures")
    if shutil.which("pdftoppm"):
        sheet = page.request.get(f"{BASE}/api/plans/{ids['Plover']}/files/run-sheet.pdf").body()
        command = ["pdftoppm", "-png", "-r", "90", "-f", "1", "-l", "1", "-singlefile", "-", str(TARGET / "run-sheet")]
        subprocess.run(command, input=sheet, check=True)  # noqa: S603 - our own PDF


def main() -> None:
    """Serve the demo, take the pictures, stop."""
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "lucernis.cli", "demo", "--data", f"{folder}/d.sqlite3", "--port", str(PORT)]
        server = subprocess.Popen(command, cwd=ROOT)  # noqa: S603 - our own program
        try:
            for _ in range(100):
                try:
                    socket.create_connection(("127.0.0.1", PORT), timeout=1).close()
                    break
                except OSError:
                    time.sleep(0.1)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
                walk(browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB"))
                browser.close()
        finally:
            server.terminate()
            server.wait(10)


if __name__ == "__main__":
    main()
