"""The Build view over HTTP: what to cut and what to buy for it."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request

from lucernis.api.answers import plan_of
from lucernis.api.workshop import prices_of
from lucernis.core.build.buying import WirePurchase, buy_wires, wire_spare_frac
from lucernis.core.build.cut_list import CutList, cut_list

router = APIRouter(prefix="/api/plans/{plan_id}", tags=["build"])


@dataclass(slots=True)
class Cutting:
    """Every piece, and how its wire is bought."""

    cut: CutList
    wires: list[WirePurchase]


@router.get("/cut-list", operation_id="getCutList")
def get_cut_list(request: Request, plan_id: str) -> Cutting:
    """Every conductor as pieces, what goes on its ends, and the cheapest way to buy the wire."""
    plan = plan_of(request, plan_id)
    found = cut_list(plan)
    return Cutting(found, buy_wires(found, prices_of(request), spare_frac=wire_spare_frac(plan)))
