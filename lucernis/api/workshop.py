"""Prices and weather files over HTTP."""

from __future__ import annotations

from dataclasses import asdict
from functools import lru_cache
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from lucernis.api.heavy import done
from lucernis.api.incoming import RawBody, as_text
from lucernis.api.rights import decides
from lucernis.core.energy.climate import Weather, read_weather
from lucernis.exports.tables_csv import written
from lucernis.plan.prices import Price, price_rows, read_prices
from lucernis.store.workshop import PriceRow, WorkshopStore

router = APIRouter(prefix="/api", tags=["workshop"])
CSV_BODY: dict[str, Any] = {"requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}}
_TEXT_BODY: dict[str, Any] = {
    "requestBody": {"required": True, "content": {"text/plain": {"schema": {"type": "string"}}}}
}


def workshop_of(request: Request) -> WorkshopStore:
    """The repository this application was built with."""
    store: WorkshopStore = request.app.state.workshop
    return store


def prices_of(request: Request) -> dict[str, Price]:
    """The price list by key."""
    return {one.key: one for one in _listed(request)}


def _listed(request: Request) -> list[Price]:
    return [Price(**asdict(one)) for one in workshop_of(request).list_prices()]


def _put(request: Request, prices: list[Price]) -> list[Price]:
    rows = [PriceRow(**asdict(one)) for one in prices]
    workshop_of(request).put_prices(rows)
    return prices


@lru_cache(maxsize=4)
def _read(text: str, name: str) -> Weather:
    # Reading a year takes longer than simulating it; the file is the key, so a new one is read anew.
    return read_weather(text, name)


def weather_named(request: Request, name: str | None) -> Weather | None:
    """A weather file, read; None for no name."""
    return None if name is None else _read(workshop_of(request).get_weather(name), name)


@router.get("/prices", operation_id="listPrices")
def list_prices(request: Request) -> list[Price]:
    """The price list."""
    return _listed(request)


@router.put("/prices", operation_id="putPrices")
def put_prices(request: Request, prices: list[Price]) -> list[Price]:
    """Put a list in the place of the one before; checked like a file."""
    decides(request, "the price list")
    rows = price_rows(prices)
    return _put(request, read_prices(written(rows).decode("utf-8-sig"), field="#"))


@router.post("/prices/import", operation_id="importPrices", openapi_extra=CSV_BODY)
def import_prices(request: Request, body: RawBody) -> list[Price]:
    """Take a price list in from CSV, all or none; it takes the place of the one before."""
    decides(request, "the price list")
    return _put(request, read_prices(as_text(body)))


@router.get("/prices/export", operation_id="exportPrices", response_class=Response)
def export_prices(request: Request) -> Response:
    """The price list as CSV that can be brought in again."""
    body = written(price_rows(_listed(request)))
    headers = {"content-disposition": 'attachment; filename="prices.csv"'}
    return Response(body, media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/weather", operation_id="listWeather")
def list_weather(request: Request) -> list[str]:
    """Names of the weather files."""
    return workshop_of(request).list_weather()


@router.post("/weather", operation_id="importWeather", openapi_extra=_TEXT_BODY)
async def import_weather(
    request: Request,
    body: RawBody,
    name: Annotated[str, Query(pattern=r"^[a-z][a-z0-9_-]{0,39}$", description="Its name from now on")],
) -> list[str]:
    """Keep an hourly weather file in EPW or TMY3 form; it is read first, and refused if it has gaps."""
    text = as_text(body)
    await done(request, read_weather, text, name, by="intake")
    await run_in_threadpool(workshop_of(request).insert_weather, name, text)
    return await run_in_threadpool(workshop_of(request).list_weather)


@router.delete("/weather/{name}", operation_id="deleteWeather", status_code=204)
def delete_weather(request: Request, name: str) -> None:
    """Take a weather file out."""
    workshop_of(request).delete_weather(name)
