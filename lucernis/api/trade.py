"""What is bought and what it is offered for, over HTTP: shelf, terms, shopping list, quotes."""

from __future__ import annotations

import csv
import json
import math
from dataclasses import asdict, dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, TypeAdapter, field_validator

from lucernis.api.answers import plan_of, store_of
from lucernis.api.incoming import RawBody, as_text
from lucernis.api.rights import decides
from lucernis.api.workshop import CSV_BODY, prices_of
from lucernis.core.build.buying import WirePurchase, buy_wires, wire_spare_frac
from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.mending import more_lines, more_pieces, more_steps
from lucernis.core.build.order import order_of_work
from lucernis.core.build.quote import Quote, Terms, make_quote
from lucernis.core.build.shelf import OnShelf, after_job, back_to_shelf, remnants, things
from lucernis.core.build.shopping import ShopLine, shopping
from lucernis.core.build.tools import missing_dies
from lucernis.errors import BadDocument, FieldProblem
from lucernis.exports.paper import PaperSize, Stamp
from lucernis.exports.quote_pdf import quote_pdf
from lucernis.exports.shopping_files import shopping_csv, shopping_pdf, shopping_xlsx
from lucernis.exports.tables_csv import written
from lucernis.plan.base import plain
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.practice.tables import load_table
from lucernis.store.trade import StockRow, StoredQuote, TradeStore

router = APIRouter(prefix="/api", tags=["trade"])
MOST_STOCK = 2000
_QUOTE: TypeAdapter[Quote] = TypeAdapter(Quote)
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class StockIn(BaseModel):
    """Something on the shelf."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    key: Annotated[str, Field(min_length=1, max_length=80, description="Of the price list; wire:SIZE:COLOUR for wire")]
    length_m: Annotated[float, Field(ge=0, le=9999, description="Of each remnant of wire; 0 for what is counted")] = 0.0
    count: Annotated[float, Field(gt=0, le=100000)] = 1.0
    note: Annotated[str, Field(max_length=200), AfterValidator(plain)] = ""

    @field_validator("key")
    @classmethod
    def _plain_key(cls, key: str) -> str:
        return plain(key.strip())


class TermsIn(BaseModel):
    """What the workshop reckons by. Fractions of 1."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    hour: Annotated[float, Field(ge=0, le=10000)] | None = None
    margin_frac: Annotated[float, Field(ge=0, le=5)] = 0.25
    tax_frac: Annotated[float, Field(ge=0, le=1)] = 0.0
    tax_name: Annotated[str, Field(min_length=1, max_length=20), AfterValidator(plain)] = "Tax"
    valid_days: Annotated[int, Field(ge=1, le=366)] = 30
    minutes: dict[str, Annotated[float, Field(ge=0, le=6000)]] = {}
    dies: Annotated[
        list[Annotated[str, Field(min_length=1, max_length=20), AfterValidator(plain)]], Field(max_length=60)
    ] = []

    @field_validator("minutes")
    @classmethod
    def _known(cls, minutes: dict[str, float]) -> dict[str, float]:
        known = [row["kind"] for row in load_table("labour").rows]
        for kind in minutes:
            if kind not in known:
                raise ValueError(f"{kind}: must be one of {', '.join(known)}")
        return minutes


@dataclass(slots=True)
class WorkKind:
    """A kind of work with its usual minutes. [min]"""

    kind: str
    label: str
    minutes: float
    unit: str


@dataclass(slots=True)
class TermsAnswer:
    """The workshop's terms, and the usual minutes beside them."""

    terms: TermsIn
    usual: list[WorkKind]


@dataclass(slots=True)
class Shopping:
    """Everything to buy for a plan, and what goes back to the shelf afterwards."""

    wires: list[WirePurchase]
    lines: list[ShopLine]
    cost: float
    currency: str
    missing: list[str]
    no_die: list[str]
    back: list[OnShelf]


def trade_of(request: Request) -> TradeStore:
    """The repository this application was built with."""
    found: TradeStore = request.app.state.trade
    return found


def _shelf(request: Request) -> list[OnShelf]:
    return [OnShelf(one.key, one.length_m, one.count, one.note) for one in trade_of(request).list_stock()]


@router.get("/stock", operation_id="listStock")
def list_stock(request: Request) -> list[OnShelf]:
    """What is on the shelf."""
    return _shelf(request)


def _not_too_many(rows: int) -> None:
    """Counted before they are read: to say of each of a hundred thousand what is wrong with it takes long."""
    if rows > MOST_STOCK:
        raise BadDocument("too much on the shelf", [FieldProblem("#", f"at most {MOST_STOCK} rows")])


def _put_stock(request: Request, rows: list[StockIn]) -> list[OnShelf]:
    _not_too_many(len(rows))
    problems = [
        FieldProblem(f"#/{at}/length_m", "a remnant of wire has a length, as wire:16 mm²:red with 3.5")
        for at, one in enumerate(rows)
        if (one.key.startswith("wire:")) != (one.length_m > 0)
    ]
    if problems:
        raise BadDocument("the shelf has rows that cannot be taken", problems)
    trade_of(request).put_stock([StockRow(one.key, one.length_m, one.count, one.note) for one in rows])
    return _shelf(request)


@router.put("/stock", operation_id="putStock")
def put_stock(request: Request, rows: list[StockIn]) -> list[OnShelf]:
    """Put a shelf in the place of the one before."""
    return _put_stock(request, rows)


@router.post("/stock/import", operation_id="importStock", openapi_extra=CSV_BODY)
def import_stock(request: Request, body: RawBody) -> list[OnShelf]:
    """Take the shelf in from CSV, all or none: key, length_m, count, note."""
    lines = [line for line in as_text(body).splitlines() if line.strip() and not line.startswith("#")]
    _not_too_many(len(lines) - 1)
    reader = csv.DictReader(lines)
    if not {"key", "count"} <= set(reader.fieldnames or ()):
        raise BadDocument("no heading", [FieldProblem("file", "the first line names key, length_m, count, note")])
    rows, problems = [], []
    for number, row in enumerate(reader, start=2):
        try:
            length_m = float((row.get("length_m") or "0").replace(",", "."))
            count = float((row.get("count") or "").replace(",", "."))
            if not (math.isfinite(length_m) and math.isfinite(count)):
                raise ValueError
            rows.append(
                StockIn(
                    key=(row.get("key") or "").lstrip("'"),
                    length_m=length_m,
                    count=count,
                    note=(row.get("note") or "")[:200],
                )
            )
        except ValueError:
            problems.append(
                FieldProblem(f"line {number}", "a key, a length from 0 to 9999 m, and a count over 0, as numbers")
            )
    if problems:
        raise BadDocument("the file has rows that cannot be taken", problems)
    return _put_stock(request, rows)


@router.get("/stock/export", operation_id="exportStock", response_class=Response)
def export_stock(request: Request) -> Response:
    """The shelf as CSV that can be brought in again."""
    rows: list[list[object]] = [["key", "length_m", "count", "note"]]
    rows += [[one.key, one.length_m, one.count, one.note] for one in _shelf(request)]
    headers = {"content-disposition": 'attachment; filename="stock.csv"'}
    return Response(written(rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/terms", operation_id="getTerms")
def get_terms(request: Request) -> TermsAnswer:
    """What the workshop reckons by."""
    usual = [
        WorkKind(row["kind"], row["label"], float(row["minutes"]), row["unit"]) for row in load_table("labour").rows
    ]
    return TermsAnswer(_terms(request), usual)


@router.put("/terms", operation_id="putTerms")
def put_terms(request: Request, terms: TermsIn) -> TermsAnswer:
    """Put terms in the place of those before."""
    decides(request, "what the workshop reckons by")
    trade_of(request).put_terms(terms.model_dump())
    return get_terms(request)


def _currency(request: Request) -> str:
    return next((one.currency for one in prices_of(request).values() if one.currency), "")


def _shopping(request: Request, plan: Plan) -> Shopping:
    prices, shelf = prices_of(request), _shelf(request)
    cut = cut_list(plan)
    wires = buy_wires(cut, prices, remnants(shelf), spare_frac=wire_spare_frac(plan))
    lines = shopping(plan, cut, prices, things(shelf))
    cost = sum(one.bought.cost for one in wires) + sum(one.cost or 0.0 for one in lines)
    missing = [f"wire {one.wire.size} {one.wire.colour}" for one in wires if one.bought.problem]
    missing += [one.what for one in lines if one.cost is None and one.group != "devices" and one.buy > 0]
    return Shopping(
        wires,
        lines,
        round(cost, 2),
        _currency(request),
        missing,
        missing_dies(cut, _terms(request).dies),
        back_to_shelf(wires),
    )


@router.get("/plans/{plan_id}/shopping", operation_id="getShopping")
def get_shopping(request: Request, plan_id: str) -> Shopping:
    """Everything to buy, cheapest by the price list, what is on the shelf first."""
    return _shopping(request, plan_of(request, plan_id))


@router.post("/plans/{plan_id}/shopping/book", operation_id="bookShelf")
def book_shelf(request: Request, plan_id: str) -> list[OnShelf]:
    """Take what the job uses from the shelf, and put back remnants worth keeping and spares."""
    found = _shopping(request, plan_of(request, plan_id))
    rows = after_job(_shelf(request), found.wires, found.lines)
    trade_of(request).put_stock([StockRow(one.key, one.length_m, one.count, one.note) for one in rows])
    return _shelf(request)


def _terms(request: Request) -> TermsIn:
    return TermsIn.model_validate(trade_of(request).get_terms())


def _stamp(request: Request, plan_id: str, title: str, date: str = "") -> Stamp:
    stored, plan = store_of(request).get(plan_id), plan_of(request, plan_id)
    job = plan.job
    return Stamp(title, job.name, job.customer, job.workshop, stored.revision, date or stored.made_at[:10], "")


def _file(body: bytes, media: str, name: str, *, inline: bool = False) -> Response:
    shown = "inline" if inline else "attachment"
    return Response(body, media_type=media, headers={"content-disposition": f'{shown}; filename="{name}"'})


@router.get("/plans/{plan_id}/shopping.csv", operation_id="downloadShoppingCsv", response_class=Response)
def download_shopping_csv(request: Request, plan_id: str) -> Response:
    """The shopping list as a table."""
    found = _shopping(request, plan_of(request, plan_id))
    return _file(shopping_csv(found.wires, found.lines), "text/csv; charset=utf-8", f"shopping-{plan_id}.csv")


@router.get("/plans/{plan_id}/shopping.xlsx", operation_id="downloadShoppingXlsx", response_class=Response)
def download_shopping_xlsx(request: Request, plan_id: str) -> Response:
    """Shopping list, order list by supplier and cut list as a workbook."""
    plan = plan_of(request, plan_id)
    found = _shopping(request, plan)
    body = shopping_xlsx(found.wires, found.lines, cut_list(plan).pieces)
    return _file(body, _XLSX, f"shopping-{plan_id}.xlsx")


@router.get("/plans/{plan_id}/shopping.pdf", operation_id="downloadShoppingPdf", response_class=Response)
def download_shopping_pdf(
    request: Request, plan_id: str, paper: Annotated[PaperSize, Query(description="Paper size")] = "a4"
) -> Response:
    """The shopping list on paper, by supplier."""
    found = _shopping(request, plan_of(request, plan_id))
    body = shopping_pdf(found.wires, found.lines, found.currency, _stamp(request, plan_id, "shopping list"), paper)
    return _file(body, "application/pdf", f"shopping-{plan_id}.pdf", inline=True)


def _quote(request: Request, plan_id: str, since: int | None = None) -> tuple[Quote, TermsIn]:
    plan = plan_of(request, plan_id)
    order, prices, cut = order_of_work(plan), prices_of(request), cut_list(plan)
    # What lies on the shelf was bought once, and is bought again: it is charged like the rest.
    wires, lines = buy_wires(cut, prices, spare_frac=wire_spare_frac(plan)), shopping(plan, cut, prices)
    steps = [*order.steps, *order.power_up]
    terms = _terms(request)
    known = Terms(currency=_currency(request), **terms.model_dump(exclude={"dies"}))
    if since is not None:
        then = parse_plan(store_of(request).get_revision(plan_id, since))
        there = cut_list(then)
        wires = buy_wires(more_pieces(there, cut), prices, spare_frac=wire_spare_frac(plan))
        lines = more_lines(shopping(then, there, prices), lines)
        steps = more_steps(order_of_work(then), order)
    return make_quote(wires, lines, steps, known), terms


Since = Annotated[
    int | None, Query(ge=1, le=1_000_000_000, description="A revision that is there already: only what is beyond it")
]


@router.get("/plans/{plan_id}/quote", operation_id="getQuote")
def get_quote(request: Request, plan_id: str, since: Since = None) -> Quote:
    """What the job would be offered for today; to mend what was found, what is beyond the revision it was found as."""
    return _quote(request, plan_id, since)[0]


@dataclass(slots=True)
class KeptQuote:
    """A quote as it was handed out."""

    number: str
    revision: int
    made_on: str
    valid_until: str
    quote: Quote


def _kept(one: StoredQuote) -> KeptQuote:
    return KeptQuote(one.number, one.revision, one.made_on, one.valid_until, _QUOTE.validate_json(one.content))


@router.get("/plans/{plan_id}/quotes", operation_id="listQuotes")
def list_quotes(request: Request, plan_id: str) -> list[KeptQuote]:
    """Quotes that were handed out, newest first."""
    store_of(request).get(plan_id)
    return [_kept(one) for one in trade_of(request).list_quotes(plan_id)]


@router.post("/plans/{plan_id}/quotes", operation_id="keepQuote")
def keep_quote(request: Request, plan_id: str, since: Since = None) -> KeptQuote:
    """Give today's quote a number and keep it with the revision it was made from."""
    stored = store_of(request).get(plan_id)
    quote, terms = _quote(request, plan_id, since)
    content: dict[str, Any] = json.loads(json.dumps(asdict(quote)))
    return _kept(trade_of(request).keep_quote(plan_id, stored.revision, terms.valid_days, content))


@router.get("/plans/{plan_id}/quotes/{number}.pdf", operation_id="downloadQuote", response_class=Response)
def download_quote(
    request: Request,
    plan_id: str,
    number: str,
    paper: Annotated[PaperSize, Query(description="Paper size")] = "a4",
    own: Annotated[bool, Query(description="The workshop's own copy, with purchase prices")] = False,
) -> Response:
    """A kept quote on paper: the customer's copy without purchase prices, or the workshop's own."""
    kept = trade_of(request).get_quote(plan_id, number)
    stamp = _stamp(request, plan_id, f"quote {kept.number}", kept.made_on)
    stamp = Stamp(stamp.title, stamp.job, stamp.customer, stamp.workshop, kept.revision, kept.made_on, "")
    one = _kept(kept)
    body = quote_pdf(one.quote, one.number, one.valid_until, stamp, paper, own=own)
    return _file(body, "application/pdf", f"quote-{kept.number}{'-own' if own else ''}.pdf", inline=True)
