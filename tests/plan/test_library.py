"""The library of parts: what ships is sound, CSV in and out, refusals that name line and column."""

from __future__ import annotations

import re

import pytest
from pydantic import TypeAdapter

from lucernis.errors import BadDocument
from lucernis.exports.tables_csv import written
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.library import check_part, read_library, shipped_parts, write_library
from lucernis.plan.parts import PART_CLASSES
from tests.helpers import small_plan

EDIT = TypeAdapter(Edit)


@pytest.mark.parametrize("part", shipped_parts(), ids=lambda part: part.name)
def test_shipped_part_is_generic_and_can_be_fed(part: object) -> None:
    shipped = next(one for one in shipped_parts() if one is part)
    assert not re.search(r"[a-z] [A-Z][a-z]|[A-Z]{2,}\d|\d{4,}", shipped.name)
    legs = "negative" if shipped.part["kind"] in ("shunt", "chassis_point") else "both"
    if shipped.part.get("bars") == "negative":
        legs = "negative"
    edit = {"op": "feed_part", "part": shipped.part, "fed_from": "f1", "length": "1 m", "legs": legs}
    assert apply_edits(small_plan(), [EDIT.validate_python(edit)]).parts[-1].name == shipped.name


def test_every_kind_of_part_ships() -> None:
    assert {one.part["kind"] for one in shipped_parts()} == set(PART_CLASSES)


def test_library_goes_out_and_comes_back_the_same() -> None:
    text = written(write_library(list(shipped_parts()))).decode("utf-8-sig")
    assert [one.part for one in read_library(text)] == [one.part for one in shipped_parts()]


def test_bad_rows_are_all_named_and_nothing_is_taken() -> None:
    text = "kind,name,rated_a,colour\nswitch,Good,10,\nswitch,Bad,-3,\nwidget,Odd,1,\nswitch,Painted,5,red\n"
    with pytest.raises(BadDocument) as caught:
        read_library(text)
    found = {problem.pointer for problem in caught.value.problems}
    assert found == {"line 3/rated_a", "line 4", "line 5/colour"}


@pytest.mark.parametrize("text", ["", "a,b\n1,2\n", "name\nOnly\n"])
def test_file_without_heading_says_what_it_needs(text: str) -> None:
    with pytest.raises(BadDocument, match="no heading"):
        read_library(text)


def test_part_with_an_id_is_refused() -> None:
    with pytest.raises(BadDocument) as caught:
        check_part({"kind": "switch", "name": "S", "id": "s1"}, "#/part")
    assert caught.value.problems[0].pointer == "#/part/id"
