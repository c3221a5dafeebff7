"""Finding a fault over HTTP: causes ranked by readings and symptoms, the next reading, and meters that are asked."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from lucernis.api.answers import plan_of
from lucernis.api.proofs import finds_of
from lucernis.api.rights import may_reach
from lucernis.core.evaluation.effort import check_effort
from lucernis.core.itself import Itself
from lucernis.core.layout.laid import laid_out
from lucernis.core.prove.cause import kind_label
from lucernis.core.prove.frame import Frame, frame
from lucernis.core.prove.judge import typed_value
from lucernis.core.prove.next_reading import Next, next_readings, offered
from lucernis.core.prove.suspects import Taken, weigh
from lucernis.core.prove.symptoms import Symptom, SymptomKind
from lucernis.core.prove.together import Together, together
from lucernis.core.prove.verdicts import Suspect, Two, explains, suspects, two_at_once
from lucernis.core.prove.words import UNIT_OF
from lucernis.errors import NotFound, NotUnderstood
from lucernis.meters.client import USUAL_PORT, Meter, one_of_few
from lucernis.meters.monitor import USUAL_PORT as MONITOR_PORT
from lucernis.meters.monitor import MonitorLine, read_monitor
from lucernis.plan.model import Plan
from lucernis.practice.tables import load_table

router = APIRouter(prefix="/api", tags=["faults"])
_MOST_READINGS = 60
_MOST_SYMPTOMS = 8


@lru_cache(maxsize=4)
def _frame(this: Itself[Plan]) -> Frame:
    return frame(this.thing)


def frame_of(request: Request, plan_id: str) -> Frame:
    """A plan made ready for the meter, once as long as it is among those asked for last."""
    plan = plan_of(request, plan_id)
    check_effort(plan)
    return _frame(Itself(laid_out(plan)))


class TakenIn(BaseModel):
    """A reading that was taken: where, in which state, and as it was typed; ohms with the leads' own, or without."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    reading: Annotated[str, Field(max_length=160)]
    situation: Annotated[str, Field(max_length=80)]
    typed: Annotated[str, Field(min_length=1, max_length=60)]
    leads_ohm: Annotated[float, Field(ge=0, le=100)] = 0.0


class SymptomIn(BaseModel):
    """What is said of a part or a run."""

    model_config = ConfigDict(extra="forbid")

    kind: SymptomKind
    subject: Annotated[str, Field(max_length=80)]


class FaultIn(BaseModel):
    """Everything that is known of a fault. `now` is the state that is made just now."""

    model_config = ConfigDict(extra="forbid")

    readings: Annotated[list[TakenIn], Field(max_length=_MOST_READINGS)] = []
    symptoms: Annotated[list[SymptomIn], Field(max_length=_MOST_SYMPTOMS)] = []
    now: Annotated[str, Field(max_length=80)] | None = None


@dataclass(slots=True)
class FaultAnswer:
    """Causes, likeliest first; those not told apart yet; whether one explains the readings, and otherwise pairs; what
    to read next."""

    suspects: list[Suspect]
    together: Together | None
    explained: bool
    two: list[Two]
    next: list[Next]
    finds: dict[str, int]


def _taken(one: TakenIn, number: int) -> Taken:
    quantity = one.reading.partition(":")[0]
    unit = UNIT_OF.get(quantity, "V")
    read = typed_value(one.typed, unit)
    field = f"readings/{number}/typed"
    if read is None:
        raise NotUnderstood(
            f"{one.typed!r} is not a number of {unit}", field=field, value=one.typed, allowed=f"a number, in {unit}"
        )
    value, given = read
    if given != unit:
        raise NotUnderstood(f"{one.typed!r} is not in {unit}", field=field, value=one.typed, allowed=f"{unit}")
    if quantity == "ohms":
        value = min(max(value - one.leads_ohm, 0.0), 1e7)
    if abs(value) > 1e7 or value != value:
        raise NotUnderstood(
            f"{one.typed!r}: no hand meter shows that", field=field, value=one.typed, allowed="a reading"
        )
    return Taken(one.reading, one.situation, value)


@router.post("/plans/{plan_id}/faults", operation_id="findFault")
def find_fault(request: Request, plan_id: str, known: FaultIn) -> FaultAnswer:
    """Causes ranked by everything that was read and is said, and the reading that decides most. Nothing is noted."""
    made, finds = frame_of(request, plan_id), finds_of(request)
    taken = [_taken(one, number) for number, one in enumerate(known.readings)]
    symptoms = [Symptom(one.kind, one.subject) for one in known.symptoms]
    case = weigh(made, taken, symptoms, finds=finds)
    explained = explains(case)
    two = [] if explained else two_at_once(case, symptoms)
    group = together(case, now=known.now) if explained else None
    following = next_readings(case, now=known.now)
    return FaultAnswer(suspects(case), group, explained, two, following, finds)


@dataclass(slots=True)
class Choice:
    """Something to choose, with a help line."""

    id: str
    label: str
    explain: str


@dataclass(slots=True)
class FaultChoices:
    """What can be said and read: kinds of symptoms, and what each is said of; states; kinds of causes."""

    symptoms: list[Choice]
    situations: list[Choice]
    kinds: list[Choice]


@router.get("/plans/{plan_id}/faults/choices", operation_id="faultChoices")
def fault_choices(request: Request, plan_id: str) -> FaultChoices:
    """What a fault can be described by."""
    made = frame_of(request, plan_id)
    return FaultChoices(
        [Choice(row["symptom"], row["label"], row["of"]) for row in load_table("symptoms").rows],
        [Choice(one.id, one.name, one.to_make) for one in made.situations.values()],
        [Choice(row["kind"], kind_label(row["kind"]), row["mend"]) for row in load_table("fault_priors").rows],
    )


@dataclass(slots=True)
class Offered:
    """A reading that can be taken somewhere."""

    reading: str
    label: str
    quantity: str
    unit: str


@router.get("/plans/{plan_id}/faults/offered/{subject}", operation_id="offeredReadings")
def offered_readings(request: Request, plan_id: str, subject: str) -> list[Offered]:
    """Readings that can be taken at a part or along a run."""
    made = frame_of(request, plan_id)
    topology = made.sized.topology
    if subject not in topology.parts and subject not in topology.runs:
        raise NotFound(f"no part or run {subject!r}", field="subject", value=subject, allowed="the id of a part or run")
    runs, parts = ([subject], []) if subject in topology.runs else ([], [subject])
    fed = topology.feeder_of.get(subject)
    found = offered(made, [*runs, *([fed] if fed else [])], parts)
    return [Offered(one.id, one.label, one.quantity, UNIT_OF[one.quantity]) for one in found]


class MeterAt(BaseModel):
    """Where a meter is: an address of this machine or a private network."""

    model_config = ConfigDict(extra="forbid")

    host: Annotated[str, Field(min_length=1, max_length=60)] = "127.0.0.1"
    port: Annotated[int, Field(ge=1, le=65535)] = USUAL_PORT


class MeterIn(MeterAt):
    """A reading to be taken by a meter; empty for the leads held together."""

    reading: Annotated[str, Field(max_length=160)] = ""
    situation: Annotated[str, Field(max_length=80)] = "rest"


@dataclass(slots=True)
class MeterSaid:
    """What a meter said, in V, A or Ω, and as it would be typed. `instrument` is its own name."""

    value: float
    typed: str
    instrument: str
    simulated: bool


@router.post("/plans/{plan_id}/meter", operation_id="readMeter")
def read_meter(request: Request, plan_id: str, wanted: MeterIn) -> MeterSaid:
    """Ask a meter for one reading. A simulated one is told where its probes are."""
    quantity = wanted.reading.partition(":")[0] if wanted.reading else "ohms"
    made = frame_of(request, plan_id)
    if wanted.reading:
        made.reading(wanted.reading)
    may_reach(request, wanted.host, wanted.port)
    with one_of_few("meter"), Meter(wanted.host, wanted.port) as meter:
        if wanted.reading:
            meter.place(wanted.situation, wanted.reading)
        elif meter.simulated:
            meter.tell('SIM:PROB ""')
        said = meter.read("amps" if quantity == "amps" else "ohms" if quantity == "ohms" else "volts")
        unit = UNIT_OF.get(quantity, "V")
        typed = (
            "OL" if said.open else f"{said.value:.4f} {unit}" if abs(said.value) < 10 else f"{said.value:.3f} {unit}"
        )
        return MeterSaid(1e7 if said.open else said.value, typed, said.instrument, meter.simulated)


class MonitorAt(BaseModel):
    """Where a battery monitor is."""

    model_config = ConfigDict(extra="forbid")

    host: Annotated[str, Field(min_length=1, max_length=60)] = "127.0.0.1"
    port: Annotated[int, Field(ge=1, le=65535)] = MONITOR_PORT


@router.post("/monitor", operation_id="readMonitor")
def read_battery_monitor(request: Request, at: MonitorAt) -> MonitorLine:
    """One line of a battery monitor: volts, amps, state of charge."""
    may_reach(request, at.host, at.port)
    with one_of_few("monitor"):
        return read_monitor(at.host, at.port)
