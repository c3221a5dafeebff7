"""Shapes of requests and answers that are neither a plan nor a report."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from lucernis.core.report import Report
from lucernis.plan.base import Name, plain
from lucernis.plan.edits import Edit
from lucernis.plan.model import Body, Plan
from lucernis.store.devices import Role


@dataclass(frozen=True, slots=True)
class PlanEnvelope:
    """A plan as it stands with its report: what every edit answers. A van of the school that is looked over for
    mistakes names its case; its report has no findings."""

    plan_id: str
    revision: int
    can_undo: bool
    can_redo: bool
    summary: str
    made_at: str
    plan: Plan
    report: Report
    case_id: str | None = None


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class NewPlan(_In):
    """A plan to begin with."""

    name: Name
    practice_set: Annotated[str, Field(max_length=40)]
    body: Body = "steel"


class Edits(_In):
    """Operations to carry out together: all or none."""

    edits: list[Edit] = Field(min_length=1, max_length=1000)


class PatchOperation(BaseModel):
    """One operation of an RFC 6902 JSON Patch."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True, allow_inf_nan=False)

    op: Annotated[str, Field(pattern="^(add|remove|replace|move|copy|test)$")]
    path: Annotated[str, Field(max_length=1000)]
    from_: Annotated[str, Field(max_length=1000)] | None = Field(default=None, alias="from")
    value: Any = None


class ShelfCard(BaseModel):
    """One plan on the shelf; `behind` while its figures are those of before and are made anew."""

    plan_id: str
    revision: int
    name: str
    vehicle: str
    customer: str
    practice_label: str
    made_at: str
    summary: str
    load_count: int
    run_count: int
    open_stop: int
    open_fix: int
    open_look: int
    ah_per_day: float
    problem: str
    behind: bool = False


class PartCard(BaseModel):
    """A part of the library; without an id it ships with the program."""

    part_id: str | None
    name: str
    note: str
    part: dict[str, Any]


class HistoryLine(BaseModel):
    """One revision in the history; `name` is empty where nobody gave it one."""

    revision: int
    kind: str
    origin: int
    summary: str
    made_at: str
    name: str


class RevisionName(_In):
    """A name for a revision, as "as quoted"; an empty one takes it back."""

    name: Annotated[str, Field(max_length=60), AfterValidator(plain)]


class HistoryDetail(BaseModel):
    """What a revision changed."""

    revision: int
    changes: list[str]


class SetCard(BaseModel):
    """One practice set."""

    name: str
    label: str
    about: str


class Practices(BaseModel):
    """The practice sets, and what single rules may be."""

    sets: list[SetCard]
    schools: dict[str, dict[str, str]]
    sizes: dict[str, list[str]]
    families: dict[str, str]
    ratings_a: dict[str, list[float]]


class Health(BaseModel):
    """That the server is up, and which."""

    name: str
    version: str


class BackupCard(BaseModel):
    """One backup; `problem` says why it cannot be brought back, empty where it can."""

    name: str
    made_at: str
    why: str
    size_bytes: int
    plans: int
    problem: str
    missing_pictures: int


class Keeping(BaseModel):
    """Where plans are kept, and the backups of them. `read_only` says why nothing can be stored, where it can't."""

    path: str
    folder: str
    read_only: str
    notes: list[str]
    backups: list[BackupCard]
    size_bytes: int
    kept_at: str
    problem: str


class DeviceCard(BaseModel):
    """A device that was let in from the network, what it may do, and the one job it sees if it is a reader."""

    device_id: str
    name: str
    made_at: str
    role: Role
    plan_id: str


class WantedRole(BaseModel):
    """What a device is to be."""

    model_config = ConfigDict(extra="forbid")

    role: Literal["owner", "worker"]


class WantedLink(BaseModel):
    """Who a link to one job is for."""

    model_config = ConfigDict(extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=60), AfterValidator(plain)]


class ReaderLink(BaseModel):
    """A link to one job, once for every address the program is reached by."""

    links: list[str]


class Sharing(BaseModel):
    """Whether devices of the network are let in, and what whoever asks may do. Code and devices are told to those
    alone who decide."""

    shared: bool
    at_host: bool
    role: Literal["host"] | Role
    code: str
    addresses: list[str]
    warning: str
    devices: list[DeviceCard]


ENVELOPE_ANSWER: dict[int | str, dict[str, Any]] = {200: {"model": PlanEnvelope}}
