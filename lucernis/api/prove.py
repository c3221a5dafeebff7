"""What readings mean, over HTTP."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field, model_validator

from lucernis.api.answers import plan_of
from lucernis.core.layout.bundles import is_bond
from lucernis.core.layout.laid import laid_out
from lucernis.core.prove.bond import BondReading, bond_by_millivolts, bond_by_ohms
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.sizing.wiring import leg_ohms
from lucernis.errors import NotFound

router = APIRouter(prefix="/api/plans/{plan_id}", tags=["prove"])


class BondIn(BaseModel):
    """A bond measured: by ohms with the leads' own, or by millivolts at a known current."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    bond_ohm: Annotated[float, Field(ge=0, le=1e6)] | None = None
    leads_ohm: Annotated[float, Field(ge=0, le=1000)] | None = None
    drop_mv: Annotated[float, Field(ge=-1e5, le=1e5)] | None = None
    current_a: Annotated[float, Field(gt=0, le=5000)] | None = None

    @model_validator(mode="after")
    def _one_way(self) -> BondIn:
        ohms = (self.bond_ohm, self.leads_ohm)
        volts = (self.drop_mv, self.current_a)
        if sorted([ohms.count(None), volts.count(None)]) != [0, 2]:
            raise ValueError("bond_ohm with leads_ohm, or drop_mv with current_a")
        return self


@router.post("/bonds/{run_id}", operation_id="judgeBond")
def judge_bond(request: Request, plan_id: str, run_id: str, reading: BondIn) -> BondReading:
    """What a bond has by its readings. Nothing is noted."""
    plan = laid_out(plan_of(request, plan_id))
    parts = {part.id: part for part in plan.parts}
    at = next((at for at, run in enumerate(plan.runs) if run.id == run_id and is_bond(run, parts)), None)
    if at is None:
        raise NotFound(f"no bond {run_id!r}", field="run_id", value=run_id, allowed="the id of a run to the body")
    if reading.bond_ohm is not None and reading.leads_ohm is not None:
        return bond_by_ohms(reading.bond_ohm, reading.leads_ohm)
    expected_ohm = float(leg_ohms(plan, sized_plan(plan).chosen)[2 * at + 1])
    return bond_by_millivolts(reading.drop_mv or 0.0, reading.current_a or 1.0, expected_ohm)
