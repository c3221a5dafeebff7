"""A quote on paper: the customer's copy, and the workshop's own with what it pays."""

from __future__ import annotations

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Spacer

from lucernis.core.build.quote import Quote
from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled


def _money(amount: float) -> str:
    """An amount with its thousands apart."""
    return f"{amount:,.2f}".replace(",", " ")


def quote_pdf(quote: Quote, number: str, valid_until: str, stamp: Stamp, size: PaperSize, *, own: bool) -> bytes:
    """A quote as PDF.

    Parameters
    ----------
    quote : Quote
        As it was kept.
    number : str
        Its number.
    valid_until : str
        Its last day.
    stamp : Stamp
        Head and foot; the date is the quote's.
    size : str
        ``a4`` or ``letter``.
    own : bool
        With purchase prices and minutes, for the workshop alone.

    Returns
    -------
    bytes
        The PDF.
    """
    money = f" {quote.currency}" if quote.currency else ""
    story: list[Flowable] = [
        para(f"Quote {number}, valid until {valid_until}{', own copy: not for the customer' if own else ''}", "head"),
        Spacer(0, 3 * mm),
        para("Parts", "head"),
    ]
    parts = [
        [one.what, f"{one.quantity:g} {one.unit}", *([_money(one.cost)] if own else []), _money(one.total)]
        for one in quote.parts
    ]
    heads = ["What", "Quantity", *(["Bought for"] if own else []), f"Price{money}"]
    widths = (110, 28, 24, 24) if own else (120, 36, 30)
    story.append(ruled(heads, parts, widths, size, wide=False))
    story += [Spacer(0, 3 * mm), para("Work", "head")]
    work = [
        [one.what, f"{one.quantity:g} {one.unit}", *([f"{one.minutes:g} min"] if own else []), f"{one.hours:.2f} h",
         _money(one.total)]
        for one in quote.work
    ]  # fmt: skip
    heads = ["What", "Quantity", *(["Each"] if own else []), "Hours", f"Price{money}"]
    story.append(ruled(heads, work, (90, 28, 20, 24, 24) if own else (100, 32, 27, 27), size, wide=False))
    rows = [
        ["Parts", _money(quote.parts_total)],
        [f"Work, {quote.hours:g} h", _money(quote.work_total)],
        ["Together", _money(quote.net)],
        [f"{quote.tax_name} {100 * quote.tax_frac:g} %", _money(quote.tax)],
        [f"Total{money}", _money(quote.total)],
    ]
    story += [Spacer(0, 4 * mm), ruled(("Sum", ""), rows, (156, 30), size, wide=False), Spacer(0, 3 * mm)]
    if own:
        story.append(para(f"Bought for {_money(quote.bought_for)}{money}."))
        if quote.missing:
            story.append(para(f"Without a price and not in the sum: {', '.join(quote.missing)}."))
    if quote.not_in_it:
        devices = ", ".join(quote.not_in_it)
        story += [para(f"Wired and not in the price, because the customer has them or buys them: {devices}.")]
    story.append(
        para("What is found otherwise in the vehicle is told before it is done. Mains and gas are for licensed people.")
    )
    return make_pdf(story, stamp, size, wide=False)
