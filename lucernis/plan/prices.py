"""The price list a workshop keeps: what a metre, a piece or an ampere costs. CSV in and out; no price is built in."""

from __future__ import annotations

import csv
import math
import re
from dataclasses import dataclass
from typing import Any

from lucernis.errors import BadDocument, FieldProblem

MOST_ROWS = 2000
_SPOOL = re.compile(r"spool:[^:]+:(?!0+(\.0+)?$)\d{1,4}(\.\d{1,2})?")
COLUMNS = ("key", "label", "unit", "price", "note", "supplier", "currency")
_CURRENCY = re.compile(r"[A-Z]{3}|")
# What the costs of a plan ask for; a list may hold finer keys, as `wire:16 mm²`, which then win.
KEYS: dict[str, tuple[str, str]] = {
    "wire": ("Stranded wire", "mm²·m"),
    "spool": ("Spool of wire", "piece"),
    "fuse:branch": ("Branch fuse", "piece"),
    "fuse:main": ("Main fuse with holder", "piece"),
    "battery:lfp": ("Lithium battery", "Wh"),
    "battery:agm": ("AGM battery", "Wh"),
    "battery:gel": ("Gel battery", "Wh"),
    "battery:flooded": ("Flooded battery", "Wh"),
    "charger:dcdc": ("DC-DC charger", "W"),
    "charger:sun": ("Solar controller", "W"),
    "charger:shore": ("Mains charger", "W"),
    "panel": ("Panel", "W"),
    "inverter": ("Inverter", "W"),
    "isolator": ("Voltage-sensing link or diode isolator", "piece"),
    "fuse_block": ("Fuse block", "way"),
    "busbar": ("Busbar", "piece"),
    "switch": ("Switch", "piece"),
    "relay": ("Relay", "piece"),
    "shunt": ("Measuring shunt", "piece"),
    "joint": ("Joint or outlet", "piece"),
    "fuse": ("Fuse", "piece"),
    "holder": ("Fuse holder", "piece"),
    "lug": ("Lug", "piece"),
    "ring": ("Ring terminal", "piece"),
    "push_on": ("Push-on terminal", "piece"),
    "ferrule": ("Ferrule", "piece"),
    "splice": ("Butt splice", "piece"),
    "pin": ("Plug pin", "piece"),
    "solar": ("Solar connector", "piece"),
    "cap": ("End cap", "piece"),
    "stud": ("Insulated stud", "piece"),
    "tab": ("Tab with two blades", "piece"),
    "solar_y": ("Pair of Y-pieces for panels", "piece"),
    "tube": ("Heat-shrink", "m"),
    "grommet": ("Grommet", "piece"),
    "gland": ("Roof entry or gland", "piece"),
    "sealant": ("Sealant for a hole", "piece"),
    "conduit": ("Conduit", "m"),
    "loom": ("Slit loom", "m"),
    "clamp": ("Clamp", "piece"),
    "tie": ("Cable tie", "piece"),
    "strap": ("Strap or bracket of a battery", "piece"),
    "bracket": ("Set of brackets for a panel", "piece"),
    "screw": ("Screw", "piece"),
    "sleeve": ("Sleeve label", "piece"),
    "cover": ("Busbar cover", "piece"),
    "boot": ("Terminal boot", "piece"),
    "device": ("Device", "piece"),
}


@dataclass(frozen=True, slots=True)
class Price:
    """One line of the list."""

    key: str
    label: str
    unit: str
    price: float
    note: str = ""
    supplier: str = ""
    currency: str = ""


def read_prices(text: str, *, field: str = "file") -> list[Price]:
    """Read a price list from CSV.

    Parameters
    ----------
    text : str
        The file: a heading with `key` and `price`; lines that begin with # are passed over.
    field : str
        What a refusal names.

    Returns
    -------
    list of Price
        All rows, in order.

    Raises
    ------
    BadDocument
        Naming every line that cannot be taken; nothing is taken then.
    """
    lines = [line for line in text.lstrip("\ufeff").splitlines() if line.strip() and not line.startswith("#")]
    reader = csv.DictReader(lines)
    if not {"key", "price"} <= set(reader.fieldnames or ()):
        raise BadDocument(
            "no heading", [FieldProblem(field, "the first line names the columns, key and price among them")]
        )
    found: list[Price] = []
    problems: list[FieldProblem] = []
    seen: set[str] = set()
    money: str | None = None
    for number, row in enumerate(reader, start=2):
        if number > MOST_ROWS + 1:
            problems.append(FieldProblem(field, f"at most {MOST_ROWS} prices"))
            break
        key = (row.get("key") or "").strip().lstrip("'")
        usual = KEYS.get(key) or KEYS.get(key.partition(":")[0])
        currency = (row.get("currency") or "").strip().upper()
        money = currency if money is None else money
        try:
            price = float((row.get("price") or "").strip().replace(",", "."))
        except ValueError:
            price = math.nan
        if not usual or len(key) > 60:
            problems.append(FieldProblem(f"line {number}/key", "must be one of " + ", ".join(KEYS) + ", or wire:SIZE"))
        elif key.partition(":")[0] == "spool" and not _SPOOL.fullmatch(key):
            problems.append(
                FieldProblem(f"line {number}/key", "a spool is spool:SIZE:METRES, as spool:16 mm²:25, 0.1 to 9999 m")
            )
        elif key in seen:
            problems.append(FieldProblem(f"line {number}/key", f"{key} stands twice"))
        elif not _CURRENCY.fullmatch(currency):
            problems.append(FieldProblem(f"line {number}/currency", "three letters, as EUR, or left empty"))
        elif currency != money:
            problems.append(
                FieldProblem(
                    f"line {number}/currency", f"{currency or 'none'}: the lines before are in {money or 'none'}"
                )
            )
        elif not 0 <= price <= 1e6:
            problems.append(FieldProblem(f"line {number}/price", "must be a number from 0 to 1000000"))
        else:
            seen.add(key)
            label = (row.get("label") or "").strip()[:80] or usual[0]
            unit = (row.get("unit") or "").strip()[:20] or ("m" if key.startswith("wire:") else usual[1])
            note, supplier = (row.get("note") or "").strip()[:200], (row.get("supplier") or "").strip()[:80]
            found.append(Price(key, label, unit, price, note, supplier, currency))
    if problems:
        raise BadDocument("the file has prices that cannot be taken", problems)
    return found


def price_rows(prices: list[Price]) -> list[list[Any]]:
    """Prices as rows of a CSV that `read_prices` reads back, heading first."""
    return [list(COLUMNS)] + [
        [one.key, one.label, one.unit, one.price, one.note, one.supplier, one.currency] for one in prices
    ]
