"""Made-up jobs of a made-up workshop, loaded through the same door as any import."""

from __future__ import annotations

import json
from dataclasses import asdict
from importlib.resources import files
from typing import Any

from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan
from lucernis.plan.prices import Price, read_prices
from lucernis.store.plans import PlanStore
from lucernis.store.record import Entry, RecordStore
from lucernis.store.trade import StockRow, TradeStore
from lucernis.store.workshop import PriceRow, WorkshopStore

JOBS = ("heron", "tern", "plover", "plover_mended")


def demo_plan(name: str) -> Plan:
    """One of the demo plans, by name in lower case.

    Raises
    ------
    BadDocument
        If the shipped document is not a valid plan: a mistake of ours, caught by the tests.
    """
    text = (files("lucernis.demo") / "jobs" / f"{name}.json").read_text(encoding="utf-8")
    return parse_plan(json.loads(text))


def demo_prices() -> list[Price]:
    """The made-up price list."""
    return read_prices((files("lucernis.demo") / "prices.csv").read_text(encoding="utf-8"))


def load_demo_prices(workshop: WorkshopStore) -> int:
    """Put the made-up prices into a workshop without any; returns how many."""
    if workshop.list_prices():
        return 0
    prices = demo_prices()
    workshop.put_prices([PriceRow(**asdict(one)) for one in prices])
    return len(prices)


def load_demo(store: PlanStore) -> int:
    """Put the demo jobs on an empty shelf; a shelf with plans is left alone.

    Returns
    -------
    int
        How many were put there.
    """
    if store.list_plans() or store.list_plans(archived=True):
        return 0
    for name in JOBS:
        plan = demo_plan(name)
        store.create(plan_document(plan), f"{plan.job.name} surveyed")
    return len(JOBS)


def demo_record() -> list[dict[str, Any]]:
    """The record of the demo vehicle that is on the road, Tern, oldest entry first."""
    found: list[dict[str, Any]] = json.loads(
        (files("lucernis.demo") / "records" / "tern.json").read_text(encoding="utf-8")
    )
    return found


def load_demo_record(record: RecordStore, store: PlanStore) -> int:
    """Put the record of the demo vehicle that is on the road beside its plan, where there is none; returns how many
    entries."""
    stored = next((one for one in store.list_plans() if one.document["job"]["name"] == "Tern"), None)
    if stored is None or record.list_entries(stored.plan_id):
        return 0
    entries = [Entry.read(line, number) for number, line in enumerate(demo_record(), start=1)]
    record.bring_in(stored.plan_id, entries)
    return len(entries)


def load_demo_trade(trade: TradeStore) -> None:
    """Put the demo workshop's terms and what lies on its shelf, where there is neither."""
    if trade.get_terms() or trade.list_stock():
        return
    trade.put_terms({"hour": 58.0, "margin_frac": 0.2, "tax_frac": 0.2, "tax_name": "Sales tax"})
    trade.put_stock(
        [
            StockRow("wire:25 mm²:red", 2.7, 1, "from a job in spring"),
            StockRow("wire:1.5 mm²:red", 12.0, 1, ""),
            StockRow("lug:16 mm² × M8", 0.0, 6, ""),
            StockRow("tie", 0.0, 100, ""),
        ]
    )
