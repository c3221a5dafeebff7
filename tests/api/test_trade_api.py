"""Shelf, terms, shopping list and quotes over HTTP, and the files made of them."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest
from fastapi.testclient import TestClient
from openpyxl import load_workbook
from pypdf import PdfReader

from lucernis.errors import BadDocument
from lucernis.plan.prices import read_prices

CSV = {"content-type": "text/csv"}


def text_of(body: bytes) -> str:
    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(body)).pages)


def shopping(client: TestClient, plan_id: str) -> Any:
    return client.get(f"/api/plans/{plan_id}/shopping").json()


def test_the_shelf_is_put_counted_first_and_booked(client: TestClient, heron: str) -> None:
    before = shopping(client, heron)
    rows = [{"key": "wire:25 mm²:red", "length_m": 7.0, "count": 1}, {"key": "clamp", "count": 1000}]
    assert client.put("/api/stock", json=rows).is_success
    found = shopping(client, heron)
    assert found["cost"] < before["cost"]
    red = next(one for one in found["wires"] if (one["wire"]["size"], one["wire"]["colour"]) == ("25 mm²", "red"))
    assert [cut["length_m"] for cut in red["bought"]["shelf"]] == [7.0]
    clamp = next(one for one in found["lines"] if one["key"] == "clamp")
    assert (clamp["buy"], clamp["on_shelf"]) == (0, clamp["needed"] + clamp["spare"])
    left = client.post(f"/api/plans/{heron}/shopping/book").json()
    assert {one["key"]: one["count"] for one in left}["clamp"] == 1000 - clamp["needed"]
    assert not [one for one in left if one["key"] == "wire:25 mm²:red" and one["length_m"] == 7.0]
    again = client.get("/api/stock/export").content
    assert client.post("/api/stock/import", content=again, headers=CSV).json() == left


@pytest.mark.parametrize("row", [
    {"key": "clamp", "count": -1}, {"key": "clamp", "count": 0}, {"key": "", "count": 1},
    {"key": "clamp", "length_m": 2},
    {"key": "wire:35 mm²:red"}, {"key": "clamp", "length_m": -1}, {"key": "clamp", "more": 1}])  # fmt: skip
def test_a_shelf_of_nonsense_is_refused_and_the_old_one_stays(client: TestClient, row: dict[str, Any]) -> None:
    good = [{"key": "clamp", "length_m": 0.0, "count": 3.0, "note": ""}]
    assert client.put("/api/stock", json=good).json() == good
    assert client.put("/api/stock", json=[row]).status_code == 422
    text = "key,length_m,count\n" + ",".join(str(row.get(name, "")) for name in ("key", "length_m", "count"))
    assert row.get("more") or client.post("/api/stock/import", content=text, headers=CSV).status_code == 422
    assert client.get("/api/stock").json() == good


def test_files_of_the_shopping_list_open_again_and_no_name_is_a_formula(client: TestClient, heron: str) -> None:
    edit = {"edits": [{"op": "set_field", "kind": "part", "id": "x", "field": "name", "value": "x"}]}
    assert client.post(f"/api/plans/{heron}/edits", json=edit, headers={"If-Match": '"1"'}).status_code == 422
    patch = [{"op": "replace", "path": "/parts/0/name", "value": "=1+1"}]
    assert client.patch(f"/api/plans/{heron}", json=patch, headers={"If-Match": '"1"'}).is_success
    found = shopping(client, heron)
    book = load_workbook(io.BytesIO(client.get(f"/api/plans/{heron}/shopping.xlsx").content))
    assert book.sheetnames == ["To buy", "Orders", "Cut list"]
    rows = list(book["To buy"].iter_rows(min_row=2))
    assert len(rows) == len(found["wires"]) + len(found["lines"])
    costs = sum(row[8].value for row in rows if row[8].value is not None)
    assert costs == pytest.approx(found["cost"], abs=0.05)
    kinds = {cell.data_type for sheet in book for row in sheet.iter_rows() for cell in row}
    assert "f" not in kinds
    named = [row[1].value for row in rows if str(row[1].value).startswith("=1+1")]
    assert named, "a name that looks like a formula is there as text"
    table = list(csv.reader(io.StringIO(client.get(f"/api/plans/{heron}/shopping.csv").content.decode("utf-8-sig"))))
    assert len(table) == len(rows) + 1
    assert any(row[1].startswith("'=1+1") for row in table)
    pieces = client.get(f"/api/plans/{heron}/cut-list").json()["cut"]["pieces"]
    assert book["Cut list"].max_row == len(pieces) + 1
    for paper in ("a4", "letter"):
        told = text_of(client.get(f"/api/plans/{heron}/shopping.pdf?paper={paper}").content)
        assert "Tidewell Cells" in told
        assert "Class T 200 A" in told


def test_a_quote_is_kept_as_it_was_with_its_number_and_revision(client: TestClient, heron: str) -> None:
    assert client.put("/api/terms", json={"hour": 50, "tax_frac": 0.1, "tax_name": "Levy", "valid_days": 10}).is_success
    first = client.post(f"/api/plans/{heron}/quotes").json()
    year = first["made_on"][:4]
    assert (first["number"], first["revision"]) == (f"{year}-0001", 1)
    assert first["valid_until"] > first["made_on"]
    assert first["quote"] == client.get(f"/api/plans/{heron}/quote").json()
    assert client.put("/api/terms", json={"hour": 90}).is_success
    second = client.post(f"/api/plans/{heron}/quotes").json()
    assert (second["number"], second["quote"]["total"] > first["quote"]["total"]) == (f"{year}-0002", True)
    kept = client.get(f"/api/plans/{heron}/quotes").json()
    assert kept == [second, first]
    theirs = text_of(client.get(f"/api/plans/{heron}/quotes/{first['number']}.pdf").content)
    ours = text_of(client.get(f"/api/plans/{heron}/quotes/{first['number']}.pdf?own=true").content)
    assert f"{first['quote']['total']:,.2f}".replace(",", " ") in theirs
    assert "Levy 10 %" in theirs
    assert "Bought for" not in theirs
    bank = next(one for one in first["quote"]["parts"] if one["what"].startswith("House bank"))
    assert f"{bank['cost']:,.2f}".replace(",", " ") in ours
    assert f"{bank['cost']:,.2f}".replace(",", " ") not in theirs
    assert client.get(f"/api/plans/{heron}/quotes/1999-0001.pdf").status_code == 404


@pytest.mark.parametrize(("terms", "field"), [
    ({"hour": -1}, "hour"), ({"margin_frac": -0.1}, "margin_frac"), ({"tax_frac": 1.5}, "tax_frac"),
    ({"tax_name": ""}, "tax_name"),
    ({"valid_days": 0}, "valid_days"), ({"minutes": {"dream": 3}}, "dream"),
    ({"minutes": {"cut": -3}}, "cut")])  # fmt: skip
def test_terms_that_cannot_be_are_refused_by_their_field(client: TestClient, terms: dict[str, Any], field: str) -> None:
    answer = client.put("/api/terms", json=terms)
    assert answer.status_code == 422
    assert field in answer.text


@pytest.mark.parametrize(("line", "told"), [
    ("lug,1,EUR\nring,1,USD", "USD: the lines before are in EUR"),
    ("lug,1,EUR\nring,1,", "none: the lines before are in EUR"),
    ("lug,1,EURO", "three letters"), ("lug,1,EUR\nlug,2,EUR", "stands twice"),
    ("lug,-1,EUR", "number from 0")])  # fmt: skip
def test_a_price_list_in_two_currencies_or_with_doubled_keys_is_refused(line: str, told: str) -> None:
    with pytest.raises(BadDocument) as refused:
        read_prices(f"key,price,currency\n{line}\n")
    assert told in refused.value.problems[0].detail


def test_supplier_and_currency_of_a_price_list_come_out_again(client: TestClient) -> None:
    text = "key,price,supplier,currency\nlug,1.5,Hatch Row Supplies,eur\n"
    assert client.post("/api/prices/import", content=text, headers=CSV).is_success
    (one,) = client.get("/api/prices").json()
    assert (one["supplier"], one["currency"]) == ("Hatch Row Supplies", "EUR")
    again = client.get("/api/prices/export").content
    assert client.post("/api/prices/import", content=again, headers=CSV).json() == [one]


def test_a_size_the_tool_has_no_die_for_is_told(client: TestClient, heron: str) -> None:
    assert shopping(client, heron)["no_die"] == []
    assert client.put("/api/terms", json={"dies": ["10 mm²", "25MM²"]}).is_success
    assert shopping(client, heron)["no_die"] == ["50 mm²"]
    assert client.put("/api/terms", json={"dies": ["10 mm²", "25 mm²", "50 mm²"]}).is_success
    assert shopping(client, heron)["no_die"] == []
    assert client.put("/api/terms", json={"dies": ["x" * 21]}).status_code == 422


def test_what_comes_from_the_shelf_is_charged_at_its_price_and_devices_left_out_are_named(
    client: TestClient, heron: str
) -> None:
    assert client.put("/api/stock", json=[]).is_success
    empty = client.get(f"/api/plans/{heron}/quote").json()
    full = [{"key": line["key"], "count": 500} for line in shopping(client, heron)["lines"] if line["group"] == "ends"]
    full.append({"key": "wire:1.5 mm²:red", "length_m": 60.0, "count": 3})
    assert client.put("/api/stock", json=full).is_success
    assert shopping(client, heron)["cost"] < empty["bought_for"], "it is bought for less"
    stocked = client.get(f"/api/plans/{heron}/quote").json()
    assert (stocked["parts_total"], stocked["total"]) == (empty["parts_total"], empty["total"])
    assert {"Compressor fridge", "Reading lamps (2)"} <= set(empty["not_in_it"])
    assert "Mains inverter" not in empty["not_in_it"]
