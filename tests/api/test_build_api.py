"""Cut list and wire to buy over HTTP, and as files."""

from __future__ import annotations

import csv
import io

import pytest
from fastapi.testclient import TestClient

from lucernis.errors import BadDocument
from lucernis.plan.prices import read_prices


def rows(body: bytes) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(body.decode("utf-8-sig"))))


def test_cut_list_and_purchase_of_a_demo_job(client: TestClient, heron: str) -> None:
    found = client.get(f"/api/plans/{heron}/cut-list").json()
    pieces, wires = found["cut"]["pieces"], found["wires"]
    assert len(pieces) > 60
    for one in wires:
        own = [p for p in pieces if (p["size"], p["colour"]) == (one["wire"]["size"], one["wire"]["colour"])]
        assert one["wire"]["pieces"] == len(own)
        cut = [*one["bought"]["by_the_metre"], *(p for spool in one["bought"]["spools"] for p in spool["pieces_m"])]
        assert sorted(cut) == sorted(p["cut_m"] for p in own)
        assert one["gap_frac"] <= 0.01
        if one["on_one_spool"] is not None:
            assert one["bought"]["cost"] <= one["on_one_spool"] + 1e-9
    assert any(one["on_one_spool"] is not None for one in wires)
    assert any(one["bought"]["by_the_metre"] for one in wires)


def test_without_prices_wire_says_that_none_is_sold(client: TestClient, heron: str) -> None:
    assert client.post(
        "/api/prices/import", content="key,price\nswitch,4\n", headers={"content-type": "text/csv"}
    ).is_success
    wires = client.get(f"/api/plans/{heron}/cut-list").json()["wires"]
    assert all(one["bought"]["problem"].endswith("nothing of it is sold") for one in wires)


def test_files_hold_every_piece_and_a_sleeve_for_each_end(client: TestClient, heron: str) -> None:
    pieces = client.get(f"/api/plans/{heron}/cut-list").json()["cut"]["pieces"]
    table = rows(client.get(f"/api/plans/{heron}/files/cut-list.csv").content)
    assert [(one["tag"], float(one["cut_m"])) for one in table] == [(one["tag"], one["cut_m"]) for one in pieces]
    sleeves = rows(client.get(f"/api/plans/{heron}/files/labels.csv").content)
    assert len(sleeves) == 2 * len(pieces)
    first = sleeves[0]
    assert first["text"].startswith("C01 ")
    assert float(first["outside_mm"]) > 8


@pytest.mark.parametrize(("key", "taken"), [
    ("spool:16 mm²:25", True), ("spool:2/0 AWG:30.5", True), ("spool:16 mm²:0", False), ("spool:16 mm²:-5", False),
    ("spool:16 mm²", False), ("spool", False), ("spool:16 mm²:many", False)])  # fmt: skip
def test_a_spool_in_the_price_list_names_its_size_and_metres(key: str, taken: bool) -> None:
    text = f"key,price\n{key},12\n"
    if taken:
        assert read_prices(text)[0].key == key
    else:
        with pytest.raises(BadDocument) as refused:
            read_prices(text)
        assert "spool:SIZE:METRES" in refused.value.problems[0].detail
