"""What people type: lengths, sizes, cells, CSV files."""

from __future__ import annotations

import contextlib
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucernis.errors import NotUnderstood, OutOfRange, TooLarge, UnknownRow
from lucernis.plan.cells import CellContext
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import AddLoads
from lucernis.plan.loads_csv import preview_loads
from lucernis.plan.sizes import parse_size
from lucernis.plan.units import length_text, parse_length_m, parse_number, told_area, told_length
from tests.helpers import small_plan

CONTEXT = CellContext("metric", "awg", {"galley": "p1"}, confirmed=False)


@pytest.mark.parametrize(
    ("text", "preference", "reading", "metres", "kept"),
    [
        ("3", "metric", "one_way", 3.0, "3 m"),
        ("3", "us", "one_way", 0.9144, "3 ft"),
        ("3,5 m", "metric", "one_way", 3.5, "3.5 m"),
        ("14 ft", "metric", "one_way", 4.2672, "14 ft"),
        ("28ft loop", "us", "one_way", 4.2672, "28 ft loop"),
        ("6", "metric", "loop", 3.0, "6 m loop"),
        ("6 m one way", "metric", "loop", 6.0, "6 m"),
        ("12' 6\"", "us", "one_way", 3.81, "12 ft 6 in"),
        ("450 mm", "us", "one_way", 0.45, "450 mm"),
        (".5", "metric", "one_way", 0.5, ".5 m"),
    ],
)
def test_parse_length_m(text: str, preference: str, reading: str, metres: float, kept: str) -> None:
    found = parse_length_m(text, field="length", preference=preference, reading=reading)  # type: ignore[arg-type]
    assert found == (pytest.approx(metres), kept)


def test_parse_length_m_kept_text_reads_back() -> None:
    for text in ("12' 6\"", "28 ft loop", "3,5", "450 mm"):
        metres, kept = parse_length_m(text, field="length", preference="us")
        assert parse_length_m(kept, field="length", preference="metric")[0] == pytest.approx(metres)


@pytest.mark.parametrize("text", ["", "abc", "3 km", "1e999", "nan", "inf", "3 4", "1,234.5", "--3"])
def test_parse_length_m_refuses(text: str) -> None:
    with pytest.raises(NotUnderstood, match=r"^length: "):
        parse_length_m(text, field="length", preference="metric")


@pytest.mark.parametrize("text", ["0", "-3 m", "0 ft"])
def test_parse_length_m_not_above_zero(text: str) -> None:
    with pytest.raises(OutOfRange, match="length must be above 0"):
        parse_length_m(text, field="length", preference="metric")


@given(st.text(max_size=20))
def test_parse_number_never_breaks(text: str) -> None:
    with contextlib.suppress(NotUnderstood):
        assert math.isfinite(parse_number(text, field="x"))


def test_length_text_by_preference() -> None:
    assert (length_text(3.048, "us"), length_text(3.048, "metric")) == ("10.0 ft", "3.05 m")


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("10", ("awg", "10")),
        ("10 AWG", ("awg", "10")),
        ("2.5mm2", ("mm2", "2.5")),
        ("2,5 mm²", ("mm2", "2.5")),
        ("3 B&S", ("bs", "3")),
        ("14 SAE", ("sae", "14")),
        ("4 mm auto", ("auto_mm", "4 mm")),
        ("00", ("awg", "2/0")),
    ],
)
def test_parse_size(text: str, found: tuple[str, str]) -> None:
    assert parse_size(text, default_system="awg") == found


def test_parse_size_bare_mm_is_refused_because_it_may_name_the_outside() -> None:
    with pytest.raises(UnknownRow, match="may mean copper area or outer size"):
        parse_size("4 mm", default_system="awg")
    assert parse_size("4 mm", default_system="auto_mm") == ("auto_mm", "4 mm")
    with pytest.raises(UnknownRow, match="no wire size '11'"):
        parse_size("11", default_system="awg")


@pytest.mark.parametrize(
    ("data", "separator"),
    [
        (b"name,watts,hours,length\nLamp,10,3,2.5\n", "comma"),
        (b"name;watts;hours;length\r\nLamp;10,5;3;2,5\r\n", "semicolon"),
        (b"\xef\xbb\xbfname\tW\th\tone way\nLamp\t10\t3\t2.5 m\n", "tab"),
        ("name;watts;hours;length\nLämpchen;10;3;2,5".encode("cp1252"), "semicolon"),
        ("name;watts\nLamp;10".encode("utf-16"), "semicolon"),
    ],
)
def test_preview_loads_reads_usual_files(data: bytes, separator: str) -> None:
    found = preview_loads(data, CONTEXT)
    assert (found.separator, found.good, found.bad) == (separator, 1, 0)


@pytest.mark.parametrize(
    ("line", "column", "says"),
    [
        ("Lamp,abc,3,2.5,", "power_w", "is not a number"),
        ("Lamp,-4,3,2.5,", "power_w", "greater than 0"),
        ("Lamp,4,30,2.5,", "hours_per_day", "less than or equal to 24"),
        ("Lamp,4,3,-1,", "length", "must be above 0"),
        ("Lamp,4,3,500,", "length", "over 100 m"),
        ("Lamp,4,3,2.5,Attic", "place", "no place 'Attic'"),
        ("=cmd(),4,3,2.5,", "name", "formula"),
        (",4,3,2.5,", "name", "must not be empty"),
    ],
)
def test_preview_loads_names_the_bad_cell(line: str, column: str, says: str) -> None:
    found = preview_loads(f"name,watts,hours,length,place\n{line}\nGood,5,1,2,\n".encode(), CONTEXT)
    assert (found.good, found.bad) == (1, 1)
    bad = {cell.column: cell.problem for cell in found.rows[0].cells if cell.problem}
    assert list(bad) == [column]
    assert says in (bad[column] or "")


def test_preview_loads_extra_cells_and_unknown_columns() -> None:
    found = preview_loads(b"name,watts,mood\nLamp,4,glad,9\n", CONTEXT)
    assert found.ignored == ["mood"]
    assert "has 4 cells, the heading 3" in (found.rows[0].problem or "")
    both = preview_loads(b"name,watts,amps\nLamp,4,2\n", CONTEXT)
    assert both.rows[0].problem == "give watts or amps, not both"


@pytest.mark.parametrize("data", [b"", b"   \n", b"\x00\x01\x02", b"a,b\n1,2\n", b"\x89PNG\r\n\x1a\n\x00\x00"])
def test_preview_loads_not_a_load_list(data: bytes) -> None:
    with pytest.raises(NotUnderstood, match=r"^file: "):
        preview_loads(data, CONTEXT)


def test_preview_loads_too_large() -> None:
    with pytest.raises(TooLarge, match="too large"):
        preview_loads(b"name\n" + b"x" * 1_000_001, CONTEXT)
    with pytest.raises(TooLarge, match="too many rows"):
        preview_loads(b"name\n" + b"Lamp\n" * 501, CONTEXT)


def test_lengths_and_areas_are_told_in_the_units_of_the_plan() -> None:
    assert [told_length(0.178, one, short=True) for one in ("us", "metric")] == ["7 in", "178 mm"]
    assert [told_length(6.4, one) for one in ("us", "metric_bs")] == ["21 ft", "6.4 m"]
    assert [told_area(4.0, one) for one in ("us", "metric")] == ["43.1 sq ft", "4 m²"]


@pytest.mark.parametrize(("heading", "metres"), [
    ("length", 6.0), ("length_m", 6.0), ("one way", 6.0), ("loop length", 3.0), ("there and back", 3.0)])  # fmt: skip
def test_a_length_is_read_as_its_heading_says(heading: str, metres: float) -> None:
    """6 m there and back are 3 m one way: the commonest mistake of the trade."""
    before = small_plan()
    preview = preview_loads(f"name;watts;{heading}\nLamp;10;6\n".encode(), CONTEXT)
    rows = [{cell.column: cell.text for cell in row.cells} for row in preview.rows if row.good]
    edit = AddLoads.model_validate({"op": "add_loads", "rows": rows})
    after = apply_edits(before, [edit])
    assert [run.length_m for run in after.runs[len(before.runs) :]] == [metres]
