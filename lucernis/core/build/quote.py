"""What a job is offered for: parts with a margin, hours by task, tax."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal

from lucernis.core.build.buying import WirePurchase
from lucernis.core.build.shopping import GROUPS, ShopLine
from lucernis.core.build.steps import Step
from lucernis.practice.tables import load_table

_CENT = Decimal("0.01")


@dataclass(frozen=True, slots=True)
class Terms:
    """What a workshop reckons by; every field may be changed by it.

    `hour` is its price of an hour, None while it has none; `minutes` its own for a kind of work of labour.csv, the
    usual ones where it says nothing. Fractions of 1.
    """

    hour: float | None = None
    margin_frac: float = 0.25
    tax_frac: float = 0.0
    tax_name: str = "Tax"
    valid_days: int = 30
    minutes: Mapping[str, float] | None = None
    currency: str = ""

    def minutes_of(self, work: str) -> float:
        """Minutes of one of a kind of work. [min]"""
        own = (self.minutes or {}).get(work)
        return own if own is not None else float(load_table("labour").find(work)["minutes"])


@dataclass(frozen=True, slots=True)
class QuoteLine:
    """One line as the customer reads it: `cost` is what it is bought for, told to nobody else."""

    what: str
    quantity: float
    unit: str
    total: float
    cost: float


@dataclass(frozen=True, slots=True)
class WorkLine:
    """So much of one kind of work. [min], [h]"""

    kind: str
    what: str
    quantity: float
    unit: str
    minutes: float
    hours: float
    total: float


@dataclass(frozen=True, slots=True)
class Quote:
    """An offer. Every line is rounded to a hundredth, and the sums are those of the rounded lines."""

    currency: str
    parts: list[QuoteLine]
    work: list[WorkLine]
    parts_total: float
    work_total: float
    hours: float
    net: float
    tax_name: str
    tax_frac: float
    tax: float
    total: float
    bought_for: float
    missing: list[str]
    not_in_it: list[str] = field(default_factory=list)
    """Devices the customer has or buys, which are wired and not offered."""


def _round(value: float) -> Decimal:
    return Decimal(repr(value)).quantize(_CENT, ROUND_HALF_UP)


def _parts(wires: Sequence[WirePurchase], lines: Sequence[ShopLine], margin_frac: float) -> list[QuoteLine]:
    found = []
    for one in wires:
        cost = one.bought.cost
        text = f"Wire {one.wire.size}, {one.wire.colour}"
        total = _round(cost * (1 + margin_frac))
        found.append(QuoteLine(text, round(one.wire.total_m, 1), "m", float(total), cost))
    small: dict[str, float] = {}
    names = dict(GROUPS)
    for line in lines:
        if line.cost is None or line.group == "devices":
            continue
        if line.group in ("parts", "fuses"):
            total = _round(line.cost * (1 + margin_frac))
            found.append(QuoteLine(line.what, line.buy, line.unit, float(total), line.cost))
        else:
            small[names[line.group]] = small.get(names[line.group], 0.0) + line.cost
    return found + [
        QuoteLine(name, 1.0, "lot", float(_round(cost * (1 + margin_frac))), round(cost, 2))
        for name, cost in small.items()
        if cost > 0
    ]


def _work(steps: Iterable[Step], terms: Terms) -> list[WorkLine]:
    amounts: dict[str, float] = {}
    for step in steps:
        if step.work and step.amount:
            amounts[step.work] = amounts.get(step.work, 0.0) + step.amount
    found = []
    for row in load_table("labour").rows:
        amount = amounts.get(row["kind"], 0.0)
        if not amount:
            continue
        minutes = terms.minutes_of(row["kind"])
        hours = round(amount * minutes / 60, 2)
        total = float(_round(hours * terms.hour)) if terms.hour is not None else 0.0
        found.append(WorkLine(row["kind"], row["label"], round(amount, 1), row["unit"], minutes, hours, total))
    return found


def make_quote(wires: Sequence[WirePurchase], lines: Sequence[ShopLine], steps: Iterable[Step], terms: Terms) -> Quote:
    """An offer for a job.

    Parameters
    ----------
    wires : sequence of WirePurchase
        Its wire as it is bought.
    lines : sequence of ShopLine
        All else that is bought.
    steps : iterable of Step
        Its order of work and first power-up.
    terms : Terms
        What the workshop reckons by.

    Returns
    -------
    Quote
        Parts at their purchase price and the margin, hours by task, tax on the sum. `missing` names what has no price,
        and the hour where that has none: an offer without them is too low.
    """
    parts, work = _parts(wires, lines, terms.margin_frac), _work(steps, terms)
    parts_total = sum((_round(one.total) for one in parts), Decimal(0))
    work_total = sum((_round(one.total) for one in work), Decimal(0))
    net = parts_total + work_total
    tax = (net * Decimal(repr(terms.tax_frac))).quantize(_CENT, ROUND_HALF_UP)
    missing = [f"wire {one.wire.size} {one.wire.colour}: {one.bought.problem}" for one in wires if one.bought.problem]
    missing += [line.what for line in lines if line.cost is None and line.group != "devices" and line.buy > 0]
    if terms.hour is None and work:
        missing.append("an hour of work")
    return Quote(
        currency=terms.currency,
        parts=parts,
        work=work,
        parts_total=float(parts_total),
        work_total=float(work_total),
        hours=round(sum(one.hours for one in work), 2),
        net=float(net),
        tax_name=terms.tax_name,
        tax_frac=terms.tax_frac,
        tax=float(tax),
        total=float(net + tax),
        bought_for=round(sum(one.cost for one in parts), 2),
        missing=missing,
        not_in_it=[
            f"{line.what}{f' ({line.needed:g})' if line.needed > 1 else ''}"
            for line in lines
            if line.group == "devices"
        ],
    )
