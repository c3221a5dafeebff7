"""The bench over HTTP: set-ups in, courses with their charts out; pairs to begin with; a run of a plan put on it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, get_args

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, ConfigDict, Field

from lucernis.api.answers import plan_of
from lucernis.core.bench.course import LONGEST_S, SHORTEST_S, Frames, follow, usual_end_s
from lucernis.core.bench.meaning import Told, event_text, tell, time_text
from lucernis.core.bench.opened import Happens, Opened, setup_of_run
from lucernis.core.bench.pairs import pairs
from lucernis.core.bench.setup import BenchEnd, Setup
from lucernis.core.evaluation.effort import check_effort
from lucernis.core.pictures.bench_chart import Axis, Chart, bench_charts, usual_axis
from lucernis.core.pictures.drawing import copper_width
from lucernis.core.protection.fuses import family
from lucernis.core.wire.copper import all_sizes, wire_size
from lucernis.core.wire.joints import joint_kind
from lucernis.practice.rules import FuseFamily, SizeSystem
from lucernis.practice.tables import load_table

router = APIRouter(prefix="/api", tags=["bench"])
# Playing a course whole should take about this long.
_PLAYS_S = 12.0
_SPEEDS = (0.001, 0.01, 0.1, 1.0, 10.0, 100.0, 1000.0)


class BenchIn(BaseModel):
    """One set-up, or two side by side; how long they are watched, and on which axis of time."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    setups: Annotated[list[Setup], Field(min_length=1, max_length=2)]
    end_s: Annotated[float, Field(ge=SHORTEST_S, le=LONGEST_S)] | None = None
    axis: Axis | None = None
    narrow: bool = False


@dataclass(slots=True)
class Happened:
    """Something that happened, in words, and from which frame on."""

    frame: int
    what: str
    where: str
    text: str


@dataclass(slots=True)
class BenchCourse:
    """A set-up followed: its frames, what they are called, what happened, what it means, and its chart."""

    setup: Setup
    told: Told
    frames: Frames
    times: list[str]
    happened: list[Happened]
    chart: Chart
    copper_px: float


@dataclass(slots=True)
class BenchAnswer:
    """Courses in the order asked for, one end and one axis. `speed` plays them in about twelve seconds."""

    courses: list[BenchCourse]
    end_s: float
    axis: Axis
    speed: float
    speeds: list[float]


@router.post("/bench", operation_id="runBench")
def run_bench(wanted: BenchIn) -> BenchAnswer:
    """Follow set-ups through time."""
    end_s = wanted.end_s if wanted.end_s is not None else max(usual_end_s(one) for one in wanted.setups)
    followed = [follow(one, end_s) for one in wanted.setups]
    axis = wanted.axis or usual_axis(followed)
    charts = bench_charts(followed, axis, narrow=wanted.narrow)
    courses = []
    for course, chart in zip(followed, charts, strict=True):
        times = course.frames.time_s
        happened = [
            Happened(
                next((at for at, time_s in enumerate(times) if time_s >= one.time_s - 1e-12), len(times) - 1),
                one.what, one.where, event_text(course, one),
            )
            for one in course.events
        ]  # fmt: skip
        width = copper_width(wire_size(course.setup.wire.system, course.setup.wire.size).diameter_mm)
        courses.append(
            BenchCourse(
                course.setup, tell(course), course.frames, [time_text(one) for one in times], happened, chart, width
            )
        )
    speed = min(_SPEEDS, key=lambda one: abs(end_s / one - _PLAYS_S))
    return BenchAnswer(courses, end_s, axis, speed, list(_SPEEDS))


@dataclass(slots=True)
class PairOut:
    """Two set-ups to begin with."""

    id: str
    title: str
    asks: str
    setups: list[Setup]


@dataclass(slots=True)
class FamilyChoice:
    """A fuse family and the ratings it is made in."""

    id: str
    label: str
    ratings_a: list[float]


@dataclass(slots=True)
class NamedChoice:
    """Something to choose."""

    id: str
    label: str


@dataclass(slots=True)
class BenchChoices:
    """What can be put on the bench."""

    pairs: list[PairOut]
    sizes: dict[str, list[str]]
    families: list[FamilyChoice]
    joints: list[NamedChoice]
    chemistries: list[NamedChoice]


@router.get("/bench", operation_id="benchChoices")
def bench_choices() -> BenchChoices:
    """Pairs to begin with, and what there is to choose from."""
    kinds: tuple[FuseFamily, ...] = get_args(FuseFamily)
    systems: tuple[SizeSystem, ...] = get_args(SizeSystem)
    return BenchChoices(
        [PairOut(one.id, one.title, one.asks, [one.left, one.right]) for one in pairs()],
        {one: list(all_sizes(one)) for one in systems},
        [FamilyChoice(one, family(one).label, list(family(one).ratings_a)) for one in kinds],
        [NamedChoice(one, joint_kind(one).label) for one in get_args(BenchEnd.model_fields["joint"].annotation)],
        [NamedChoice(row["chemistry"], row["chemistry"]) for row in load_table("battery_chemistry").rows],
    )


@router.get("/plans/{plan_id}/bench/{run_id}", operation_id="benchOfRun")
def bench_of_run(
    request: Request,
    plan_id: str,
    run_id: str,
    happens: Annotated[Happens, Query(description="What it carries in service, or a short at its far end")] = "load",
) -> Opened:
    """A run of a plan as a set-up, with its own figures."""
    plan = plan_of(request, plan_id)
    check_effort(plan)
    return setup_of_run(plan, run_id, happens)
