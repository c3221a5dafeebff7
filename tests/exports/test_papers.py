"""Papers of large plans: they run over pages, each with its head and foot, and nothing is cut off."""

from __future__ import annotations

import io
import re

import numpy as np
import pytest
import zxingcpp
from pypdf import PdfReader

from bench.plans import made_plan
from lucernis.core.build.labels import wire_labels
from lucernis.demo import demo_plan
from lucernis.exports.files import make_file
from lucernis.exports.labels_pdf import draw_code
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan
from tests.helpers import part, small_document


def pages(what: str, plan: Plan, paper: str) -> list[str]:
    data = make_file(what, plan, revision=3, date="2026-11-24", paper=paper)  # type: ignore[arg-type]
    return [page.extract_text() for page in PdfReader(io.BytesIO(data)).pages]


@pytest.fixture(scope="module")
def large() -> Plan:
    return made_plan(120)


@pytest.mark.parametrize("paper", ["a4", "letter"])
@pytest.mark.parametrize("what", ["run-sheet.pdf", "fuse-map.pdf", "cut-list.pdf", "order.pdf", "wiring.pdf"])
def test_every_page_says_what_it_belongs_to(large: Plan, what: str, paper: str) -> None:
    found = pages(what, large, paper)
    assert len(found) > 2
    for number, text in enumerate(found, 1):
        assert "120 runs" in text
        assert "revision 3 · 2026-11-24" in text
        assert "practice: Small craft, US" in text
        assert "not an approval" in text
        assert f"page {number}" in text


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_run_sheet_repeats_its_heading_and_holds_every_run(large: Plan, paper: str) -> None:
    found = pages("run-sheet.pdf", large, paper)
    assert all("One way / loop" in text for text in found if "C00" in text)
    together = "\n".join(found)
    assert all(run.tag in together for run in large.runs)


def test_run_sheet_in_feet_and_in_metres() -> None:
    us = pages("run-sheet.pdf", parse_plan(small_document(units="us")), "a4")[0]
    metric = pages("run-sheet.pdf", parse_plan(small_document(units="metric")), "a4")[0]
    assert "9.8 ft / 19.7 ft" in us
    assert "3.00 m / 6.00 m" in metric


def test_long_names_wrap_and_stay_whole() -> None:
    doc = small_document()
    name = "Refrigerated cabinet for specimens and provisions on the left side"
    part(doc, "l1")["name"] = name
    text = " ".join(pages("run-sheet.pdf", parse_plan(doc), "letter")[0].split())
    assert all(word in text for word in name.split())


def test_fuse_map_shows_ways_beyond_the_block_and_missing_fuses() -> None:
    doc = small_document()
    part(doc, "f1")["ways"] = 1
    doc["runs"][2]["fuse_at_start"] = None
    text = "\n".join(pages("fuse-map.pdf", parse_plan(doc), "a4"))
    assert "Pump" in text
    assert "no fuse" in text


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_drawings_hold_the_map_the_board_and_every_circuit(paper: str) -> None:
    plan = demo_plan("tern")
    found = pages("drawings.pdf", plan, paper)
    assert len(found) > 3
    assert "Roof-off plan" in found[0]
    # What lies in each numbered channel stands on a page of its own.
    assert all(channel.name in " ".join(found[1].split()) for channel in plan.channels)
    assert "Step-down map" in found[2]
    boards = [at for at, text in enumerate(found) if "State board" in text]
    maps = [at for at, text in enumerate(found) if "Step-down map" in text]
    assert maps == list(range(2, boards[0]))
    together = "\n".join(found)
    for run in plan.runs:
        if run.legs != "negative":
            assert f"{run.tag}:" in together
    assert "where the volts go" in together
    for text in found:
        assert "Tern" in text
        assert "not an approval" in text


def test_drawings_of_an_empty_plan_are_still_a_paper() -> None:
    assert len(pages("drawings.pdf", parse_plan(small_document(parts=[], runs=[])), "a4")) >= 1


def test_run_sheet_tells_single_legs_parallel_conductors_and_fuses_at_both_ends() -> None:
    heron = " ".join(" ".join(pages("run-sheet.pdf", demo_plan("heron"), "a4")).split())
    tern = " ".join(" ".join(pages("run-sheet.pdf", demo_plan("tern"), "a4")).split())
    assert re.search(r"2 × \d+ B&S", tern)
    assert "C01 +" in heron
    assert "C24 −" in heron
    doc = small_document()
    doc["parts"].append({"kind": "battery", "id": "b2", "name": "Second", "tag": "B02"})
    fuse = {"distance_m": 0.1}
    doc["runs"].append(
        {
            "id": "r9",
            "tag": "C09",
            "start": {"part": "b1"},
            "finish": {"part": "b2"},
            "length_m": 2.0,
            "planned_a": 40.0,
            "fuse_at_start": fuse,
            "fuse_at_finish": fuse,
        }
    )
    link = " ".join(" ".join(pages("run-sheet.pdf", parse_plan(doc), "a4")).split())
    assert "on the post of Battery" in link
    assert "on the post of Second" in link
    lid = " ".join(" ".join(pages("fuse-map.pdf", parse_plan(doc), "a4")).split())
    assert "the same run from its other end" in lid


def test_run_sheet_and_table_tell_the_way_of_a_run_and_its_holes() -> None:
    heron = demo_plan("heron")
    text = " ".join(" ".join(pages("run-sheet.pdf", heron, "letter")).split())
    assert "by Frame rail from the engine bay; 2 holes" in text
    assert "by Galley floor to the tanks; 1 hole" in text
    rows = make_file("runs.csv", heron, revision=1, date="2026-11-26").decode("utf-8-sig").splitlines()
    water = next(row for row in rows if row.startswith("C11,"))
    assert water.endswith("no,Galley floor to the tanks,1,Galley floor to the tanks")


def test_bundles_are_listed_run_by_run_with_their_outside() -> None:
    rows = make_file("bundles.csv", demo_plan("heron"), revision=1, date="2026-11-26").decode("utf-8-sig").splitlines()
    assert rows[0] == "channel,tag,from,to,size,conductors,outside_mm"
    legs = [row.split(",")[1] for row in rows if row.startswith("Desk leg,")]
    assert legs == ["C05", "C06", "C07", "C08"]


@pytest.mark.parametrize("strip", [9, 12, 19, 24])
def test_a_label_a_page_as_wide_as_its_strip(strip: int) -> None:
    plan = demo_plan("heron")
    labels = wire_labels(plan)
    reader = PdfReader(io.BytesIO(make_file(f"labels-{strip}.pdf", plan, revision=1, date="2026-11-27")))
    assert len(reader.pages) == len(labels)
    for label, page in zip(labels, reader.pages, strict=True):
        assert float(page.mediabox.height) == pytest.approx(strip * 72 / 25.4, abs=0.01)
        text = page.extract_text()
        times = 2 if label.kind == "flag" else 1
        assert text.count(label.lines[0].split()[0]) >= times
        assert all(line.replace(" ", "") in text.replace(" ", "").replace("\n", "") for line in label.lines)


def test_a_flag_is_no_longer_than_it_can_be_folded_however_long_a_name() -> None:
    """Twice 60 mm of text and the way round the cable; what is cut off ends in a sign that it is."""
    document = plan_document(demo_plan("heron"))
    for one in document["parts"]:
        if one["kind"] == "switch":
            one["name"] = "Isolating switch of the whole house bank behind the driver's seat"
    plan = parse_plan(document)
    reader = PdfReader(io.BytesIO(make_file("labels-9.pdf", plan, revision=1, date="2026-11-27")))
    around_mm = max(label.wrap_mm for label in wire_labels(plan))
    widest = max(reader.pages, key=lambda page: float(page.mediabox.width))
    assert float(widest.mediabox.width) * 25.4 / 72 < 2 * 60 + around_mm + 15
    assert "…" in widest.extract_text()


def test_the_code_on_a_label_opens_its_run() -> None:
    """Read back by another program (zxing-cpp): what the code says is the address of the run."""
    drawn: list[tuple[float, float, float]] = []

    class Paper:
        def rect(self, x: float, y: float, width: float, height: float, **more: int) -> None:
            drawn.append((x, y, width))

    link = "http://192.168.1.20:8765/plan/abc123def456/circuits?run=r11"
    draw_code(Paper(), link, 0.0, 410.0, 410.0)
    cell = drawn[0][2]
    picture = np.full((490, 490), 255, dtype=np.uint8)
    for x, y, _ in drawn:
        top, left = round(40 + 410 - y - cell), round(40 + x)
        picture[top : top + round(cell) + 1, left : left + round(cell) + 1] = 0
    (found,) = zxingcpp.read_barcodes(picture)
    assert found.text == link


def test_a_code_stands_only_where_there_is_room_and_somebody_asked() -> None:
    plan = demo_plan("plover")

    def wide(strip: int, link: str) -> float:
        body = make_file(f"labels-{strip}.pdf", plan, revision=1, date="2026-11-27", link=link)
        return float(PdfReader(io.BytesIO(body)).pages[0].mediabox.width)

    link = "http://192.168.1.20:8765/plan/x/circuits?run="
    assert wide(19, link) - wide(19, "") == pytest.approx(18 * 72 / 25.4, abs=0.1)
    assert wide(12, link) == wide(12, "")


def test_plates_and_the_order_say_the_cautions_of_the_trade() -> None:
    plan = demo_plan("heron")
    plates = "\n".join(pages("plates.pdf", plan, "a4"))
    assert "Disconnect the negative first, reconnect it last" in re.sub(r"\s+", " ", plates)
    order = re.sub(r"\s+", " ", "\n".join(pages("order.pdf", plan, "letter")))
    for words in (
        "Look at the far side first",
        "The negative goes on last",
        "A panel is live in any light",
        "First power-up",
    ):
        assert words in order
    cut = re.sub(r"\s+", " ", "\n".join(pages("cut-list.pdf", plan, "a4")))
    assert "holds 556 N" in cut
    assert "Not measured" not in cut
