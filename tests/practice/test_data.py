"""All data tables and practice sets: heads complete, numbers parse, rows rise where they must."""

from __future__ import annotations

import pytest

from lucernis.errors import OutOfRange, UnknownRow
from lucernis.practice.names import made_ratings_a, size_names
from lucernis.practice.rules import RULE_NAMES, load_sets, resolve_rules
from lucernis.practice.tables import REQUIRED_HEAD, load_table, table_names

WORDS = {"published", "memory", "practice", "typical"}
TEXT_COLUMNS = {
    "name",
    "also",
    "what",
    "explain",
    "mend",
    "needs",
    "do",
    "when",
    "never",
    "symptom",
    "of",
    "behaviour",
    "limiting",
    "stepped",
    "stud",
    "sensitive",
    "keyed",
    "stays_live",
    "device",
    "kind",
    "thin",
    "thick",
    "engine_space",
    "wet",
    "awg",
    "sae",
    "trade_size",
    "table",
    "fields",
    "family",
    "label",
    "ratings_a",
    "fixing",
    "sealed",
    "joint",
    "ignition_protected",
    "certainty",
    "chemistry",
    "vents_gas",
    "school",
    "sheathed",
    "at",
    "property",
    "unit",
    "about",
}


@pytest.mark.parametrize("name", table_names())
def test_table_head_is_complete_and_cells_parse(name: str) -> None:
    table = load_table(name)
    assert all(table.head.get(key) for key in REQUIRED_HEAD)
    assert table.head["certainty"].split()[0].strip(";,") in WORDS
    assert table.rows
    for row in table.rows:
        assert None not in row, "a row has more cells than headings"
        for column, cell in row.items():
            if column not in TEXT_COLUMNS and cell != "":
                float(cell)
        if "certainty" in row:
            assert row["certainty"] in WORDS


@pytest.mark.parametrize("name", ["ampacity_e11", "ampacity_iso_small_craft"])
def test_ampacity_rises_with_size_and_insulation(name: str) -> None:
    table = load_table(name)
    columns = table.columns[1:]
    for row in table.rows:
        cells = [float(row[column]) for column in columns]
        assert cells == sorted(cells)
    for column in columns:
        cells = [float(row[column]) for row in table.rows]
        assert cells == sorted(cells)


@pytest.mark.parametrize("row", load_table("fuse_families").rows, ids=lambda row: row["family"])
def test_fuse_ratings_rise_and_have_a_drop(row: dict[str, str]) -> None:
    ratings = made_ratings_a(row["family"])  # type: ignore[arg-type]
    assert list(ratings) == sorted(set(ratings))
    assert float(load_table("fuse_drop").find(row["family"])["drop_at_rated_mv"]) > 0


def test_table_lookup_is_exact() -> None:
    with pytest.raises(UnknownRow, match="'14 ' is not in table conductor_awg"):
        load_table("conductor_awg").find("14 ")
    with pytest.raises(UnknownRow, match="no data table named 'nothing'"):
        load_table("nothing")


def test_four_sets_ship_with_every_rule_sourced() -> None:
    sets = load_sets()
    assert set(sets) == {"small_craft_us", "metric_caravan", "overland_bs", "vehicle_accessory"}
    for one in sets.values():
        assert set(one.sources) == set(RULE_NAMES)
        assert all(source and certainty in WORDS for source, certainty in one.sources.values())
        assert set(one.values.shelf) <= set(size_names(one.values.size_system))


@pytest.mark.parametrize(
    ("rule", "value"),
    [
        ("drop_other_frac", 0.9),
        ("fuse_over_load", "twice"),
        ("shelf", []),
        ("insulation_c", 20),
        ("fuse_distance_m", float("nan")),
    ],
)
def test_resolve_rules_refuses_what_is_not_allowed(rule: str, value: object) -> None:
    with pytest.raises(OutOfRange, match=rule):
        resolve_rules("small_craft_us", {rule: (value, "test")})


def test_resolve_rules_unknown_names() -> None:
    with pytest.raises(UnknownRow, match="no practice set named 'x'"):
        resolve_rules("x", {})
    with pytest.raises(UnknownRow, match="no rule named 'colour'"):
        resolve_rules("small_craft_us", {"colour": ("red", "")})
