"""Sizes one run by itself: a battery, a fuse, a pair of wires, a load. The same computation as for a whole plan."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import CAUTION, Finding, Working
from lucernis.errors import BadDocument, FieldProblem
from lucernis.plan.document import check_plan
from lucernis.plan.model import Battery, End, Fuse, Job, Load, Override, Plan, Practice, Run, SizeRef, WirePin, Zone
from lucernis.plan.units import LONG_M, LengthReading
from lucernis.practice.rules import FuseFamily

OF_THE_SYSTEM = {
    "no-isolator",
    "breaking-low",
    "breaking-backed",
    "breaking-unknown",
    "fault-not-cleared",
    "fault-harms-wire",
    "not-selective",
    "inverter-no-switch",
    "battery-limit-usual",
    "bond-missing",
}


# A short no family of fuse minds.
UNKNOWN_SHORT_A = 500.0


class SizeRequest(BaseModel):
    """What to size. Amps or watts, a length and which way it is read; the rest has defaults."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    amps: Annotated[float, Field(gt=0, le=5000)] | None = None
    watts: Annotated[float, Field(gt=0, le=20000)] | None = None
    behaviour: Literal["constant_power", "constant_current", "resistive"] | None = Field(
        default=None, description="Constant current when amps are given, constant power when watts are."
    )
    rated_v: Annotated[float, Field(gt=0, le=100)] | None = None
    min_v: Annotated[float, Field(gt=0, le=100)] | None = None
    length_m: Annotated[float, Field(gt=0, le=1000)]
    length_reading: LengthReading = "one_way"
    length_confirmed: bool = False
    nominal_v: Literal[6, 12, 24] = 12
    insulation_c: Annotated[int, Field(ge=60, le=200)] | None = None
    ambient_c: Annotated[float, Field(ge=-40, le=120)] = 30.0
    engine_space: bool = False
    bundle_count: Annotated[int, Field(ge=1, le=200)] = 2
    limit_pct: Annotated[float, Field(gt=0, le=50)] | None = None
    sensitive: bool = False
    family: FuseFamily | None = None
    margin_frac: Annotated[float, Field(ge=0, le=1)] | None = None
    practice_set: str = "small_craft_us"
    pinned_size: SizeRef | None = None

    @model_validator(mode="after")
    def _amps_or_watts(self) -> SizeRequest:
        if (self.amps is None) == (self.watts is None):
            raise ValueError("give amps or watts, one of them")
        return self


@dataclass(frozen=True, slots=True)
class SizeAnswer:
    """The answer for one run."""

    practice_set: str
    practice_label: str
    size: str
    system: str
    area_mm2: float
    ampacity_a: float | None
    fuse_label: str
    fuse_a: float | None
    design_current_a: float
    length_m: float
    loop_length_m: float
    conductor_drop_v: float
    conductor_drop_frac: float
    drop_v: float
    drop_frac: float
    limit_frac: float
    conductor_c: float
    pinned: bool
    computed_size: str
    verdict: str
    findings: list[Finding]
    working: dict[str, Working]
    caution: str


def request_plan(request: SizeRequest) -> Plan:
    """The small plan a request stands for.

    Parameters
    ----------
    request : SizeRequest
        What to size.

    Returns
    -------
    Plan
        Battery, fused run, load.

    Raises
    ------
    BadDocument
        If the practice set or the pinned size is not known.
    """
    overrides = []
    if request.family is not None:
        overrides.append(Override(rule="branch_families", value=(request.family,), reason="asked for"))
    if request.margin_frac is not None:
        overrides.append(Override(rule="margin_frac", value=request.margin_frac, reason="asked for"))
    pin = request.pinned_size
    if request.length_m / (2 if request.length_reading == "loop" else 1) > LONG_M and not request.length_confirmed:
        raise BadDocument(
            "a long run",
            [FieldProblem("#/length_m", f"over {LONG_M:g} m one way; set length_confirmed if it is meant")],
        )
    length_m = request.length_m / (2 if request.length_reading == "loop" else 1)
    run = Run(
        id="r1",
        tag="C01",
        start=End(part="b1"),
        finish=End(part="l1"),
        length_m=length_m,
        length_confirmed=request.length_confirmed,
        bundle_count=request.bundle_count,
        insulation_c=request.insulation_c,
        fuse_at_start=Fuse(distance_m=min(0.1, length_m)),
        wire=WirePin(system=pin.system, size=pin.size, reason="asked for") if pin else None,
    )
    load = Load(
        id="l1",
        name="Load",
        tag="L01",
        behaviour=request.behaviour or ("constant_power" if request.watts is not None else "constant_current"),
        power_w=request.watts,
        current_a=request.amps,
        rated_v=request.rated_v,
        min_v=request.min_v,
        hours_per_day=0,
        sensitive=request.sensitive,
        drop_limit_frac=request.limit_pct / 100 if request.limit_pct is not None else None,
    )
    # Nothing is known of the battery: what its short would ask of a fuse is left to the plan that has one.
    battery = Battery(id="b1", name="Battery", tag="B01", short_circuit_a=UNKNOWN_SHORT_A)
    return check_plan(
        Plan(
            job=Job(name="One run"),
            nominal_v=request.nominal_v,
            practice=Practice(set=request.practice_set, overrides=tuple(overrides)),
            zones=(
                Zone(id="z1", name="Where it lies", ambient_c=request.ambient_c, engine_space=request.engine_space),
            ),
            parts=(battery, load),
            runs=(run,),
        )
    )


def size_run(request: SizeRequest) -> SizeAnswer:
    """Wire, fuse and drop of one run.

    Parameters
    ----------
    request : SizeRequest
        What to size.

    Returns
    -------
    SizeAnswer
        Always; what does not fit is in its findings.

    Raises
    ------
    BadDocument
        If the practice set or the pinned size is not known.
    """
    report = evaluate(request_plan(request))
    run, load = report.runs[0], report.loads[0]
    # Of the battery and of what stands around the run nothing is known, so nothing is said of it.
    findings = [one for one in report.findings if one.code not in OF_THE_SYSTEM]
    return SizeAnswer(
        practice_set=report.practice_set,
        practice_label=report.practice_label,
        size=run.wire.label,
        system=run.wire.system,
        area_mm2=run.wire.area_mm2,
        ampacity_a=run.wire.ampacity_a,
        fuse_label=run.fuse.family_label if run.fuse else "",
        fuse_a=run.fuse.rating_a if run.fuse else None,
        design_current_a=run.design_current_a,
        length_m=run.length_m,
        loop_length_m=run.loop_length_m,
        conductor_drop_v=load.worst.conductor_drop_v,
        conductor_drop_frac=load.worst.conductor_drop_frac,
        drop_v=load.worst.drop_v,
        drop_frac=load.worst.drop_frac,
        limit_frac=load.limit_frac,
        conductor_c=run.temp_c,
        pinned=run.wire.pinned,
        computed_size=run.wire.computed_label,
        verdict=findings[0].severity if findings else "good",
        findings=findings,
        working=report.working,
        caution=CAUTION,
    )
