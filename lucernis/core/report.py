"""The report: everything any screen, paper or command shows, as plain values. It is only data; `evaluate` fills it.

The classes are not frozen: thousands are made for each report, and a frozen one takes three times as long to make.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from lucernis.plan.edits import Edit
from lucernis.practice.rules import RuleOrigin
from lucernis.practice.tables import TableRow

Severity = Literal["stop", "fix", "look"]
Verdict = Literal["good", "look", "fix", "stop"]
Role = Literal["main", "feeder", "branch", "onward", "return"]
SubjectKind = Literal["plan", "part", "run", "channel"]
SEVERITY_ORDER: dict[str, int] = {"stop": 0, "fix": 1, "look": 2, "good": 3}

CAUTION = (
    "A plan to be checked by a competent person, not an approval. Local code and the maker's sheet win. "
    "AC and gas by licensed people. Disconnect negative first, reconnect it last; fuses out until the end."
)


@dataclass(slots=True)
class Input:
    """One number put into a formula."""

    symbol: str
    name: str
    value: float | str
    unit: str


@dataclass(slots=True)
class Working:
    """How one shown figure came about."""

    subject: str
    figure: str
    title: str
    formula: str
    inputs: list[Input]
    value: float | str | None
    unit: str
    rows: list[TableRow]
    school: str
    note: str


@dataclass(slots=True)
class Fix:
    """A mend that is an edit: what it does in a few words, and the edits that do it."""

    label: str
    edits: list[Edit]


@dataclass(slots=True)
class Finding:
    """One thing the checks caught. `what`, `why` and `mend` are one short line each.

    `asked` names what a person asked for that cannot be met as it stands; empty where nobody asked anything. What
    follows from the same cause is folded under it as `consequences`; the severity is that of the worst of them.
    """

    id: str
    code: str
    severity: Severity
    subject: str
    subject_kind: SubjectKind
    tag: str
    what: str
    why: str
    mend: str
    figures: dict[str, float]
    waived: str | None
    fixes: list[Fix]
    asked: str
    consequences: list[Finding]


def every(findings: Iterable[Finding]) -> list[Finding]:
    """Findings and what is folded under them."""
    return [deep for one in findings for deep in (one, *every(one.consequences))]


@dataclass(slots=True)
class FuseReport:
    """A fuse of a run, at the `end` it stands at; `rating_a` is None where none is made that high.

    `count` of them stand side by side where each of several conductors has its own. `short_a` is the strongest short
    through it where it stands, `breaks_a` what its family breaks; where that is less, `backed_by` is the tag of the run
    whose fuse breaks it.
    """

    end: Literal["start", "finish"]
    family: str | None
    family_label: str
    rating_a: float | None
    count: int
    least_a: float
    breaks_a: float | None
    short_a: float
    backed_by: str | None
    sealed_holder: bool
    distance_m: float
    pinned: bool
    pin_reason: str
    computed_family_label: str
    computed_rating_a: float | None


@dataclass(slots=True)
class WireReport:
    """The wire of a run; the computed size is what it would be without any pins in the plan."""

    system: str
    size: str
    label: str
    area_mm2: float
    diameter_mm: float
    insulation_c: int
    ampacity_a: float | None
    table_ampacity_a: float | None
    pinned: bool
    pin_reason: str
    computed_label: str


Decided = Literal[
    "pin", "load", "warmth", "fuse", "drop", "feeder", "terminal", "maker", "one_size", "taper", "spool", "least",
    "roof", "copper",
]  # fmt: skip


@dataclass(slots=True)
class Why:
    """What decided the size of a run, and what stands against the next thinner and the next thicker one."""

    decided: Decided
    thinner: str
    thicker: str


@dataclass(slots=True)
class Reserve:
    """What a run stands before a limit is exceeded, each by itself: more length one way, more lasting current (and by
    what it ends: ``drop``, ``wire`` or ``fuse``), a warmer place. None where nothing limits it."""

    length_m: float | None
    current_a: float | None
    current_by: str
    ambient_k: float | None


@dataclass(slots=True)
class RunState:
    """A run in one operating state. Drops are of nominal volts; `drop_to_end` counts from the battery. Those of the
    conductors leave joints, fuses and contacts out. A negative alone counts from its far end home.

    `conductor_c` and `surface_c` follow from the heat balance in its zone and bundle at the solved current.
    """

    current_a: float
    drop_v: float
    drop_frac: float
    drop_to_end_v: float
    drop_to_end_frac: float
    conductor_drop_v: float
    conductor_drop_frac: float
    conductor_drop_to_end_v: float
    conductor_drop_to_end_frac: float
    conductor_c: float
    surface_c: float


@dataclass(slots=True)
class FaultReport:
    """A bolted short: how much flows at most and at least, which fuses open in turn, and what the wire reaches.

    Fuses are named by the tag of the run they stand in. `fast_s` is None where the fuse's quick edge is not published
    at that current, `slow_s` where nothing must open; `bounded` tells that the current lies beyond the last published
    point, so that `slow_s` is the time of that point and the fuse is over no later.
    """

    where: Literal["point", "start", "middle", "finish"]
    strongest_a: float
    weakest_a: float
    openers: list[str]
    fast_s: float | None
    slow_s: float | None
    bounded: bool
    heat_a2s: float | None
    wire_c: float | None
    limit_c: float | None
    selective: Literal["yes", "no", "unknown", "alone"]
    also_opens: list[str]


@dataclass(slots=True)
class GuardReport:
    """One end of a run: whether a battery lies beyond it, the tags of the fuses between, the wire without one [m]."""

    fed: bool
    fuses: list[str]
    unprotected_m: float


@dataclass(slots=True)
class WayReport:
    """The way of a run along channels: what makes its length [m, one way], where it may carry least and why, or why
    there is none."""

    channels: list[str]
    through: str
    channels_m: float
    tail_start_m: float
    tail_finish_m: float
    slack_m: float
    along_m: float
    length_pinned: bool
    missing: str
    worst: str
    worst_share: float
    holes: int
    clamp_m: float | None


@dataclass(slots=True)
class HoleReport:
    """A hole of a channel: what the wires in it need, the grommet and drill to buy, None where none is made so large.
    [mm]"""

    id: str
    through: str
    existing: bool
    hole_mm: float | None
    needed_mm: float
    grommet_mm: float | None
    drill_mm: float | None


@dataclass(slots=True)
class ChannelReport:
    """A channel with what lies in it; `conductors` can carry current together, `bundle_mm` is how thick they lie."""

    id: str
    name: str
    start: str
    finish: str
    length_m: float | None
    length_guessed: bool
    ambient_c: float
    runs: list[str]
    conductors: int
    wires: int
    bundle_mm: float
    fill_frac: float | None
    fill_limit_frac: float
    inside_needed_mm: float
    holes: list[HoleReport]
    verdict: Verdict
    finding_ids: list[str]


@dataclass(slots=True)
class RunReport:
    """Figures of one run; `worst` is the worst of all states, inverters at their rating.

    `greatest_a` is the most that lastingly flows. A spare has no fuse yet: `later_fuse_a` is the largest it may get.
    """

    id: str
    tag: str
    name: str
    role: Role
    start_label: str
    finish_label: str
    start_joint: str
    finish_joint: str
    finish_kind: str
    fed: bool
    spare: bool
    later_fuse_a: float | None
    legs: Literal["both", "positive", "negative", "series"]
    parallel: int
    length_m: float
    loop_length_m: float
    length_as_typed: str | None
    length_guessed: bool
    way: WayReport | None
    ambient_c: float
    engine_space: bool
    bundle_count: int
    design_current_a: float
    design_state: str
    greatest_a: float
    wire: WireReport
    fuse: FuseReport | None
    far_fuse: FuseReport | None
    protected_by: str | None
    temp_c: float
    resistance_ohm: float
    worst: RunState
    states: dict[str, RunState]
    limit_frac: float | None
    limit_load: str | None
    margin_frac: float | None
    ampacity_margin_frac: float | None
    connected_a: float
    diversity_frac: float | None
    start_guard: GuardReport
    finish_guard: GuardReport
    faults: list[FaultReport]
    loads: list[str]
    why: Why
    reserve: Reserve
    verdict: Verdict
    finding_ids: list[str]


@dataclass(slots=True)
class LoadState:
    """A load in one operating state; not served means under its lowest voltage, no voltage, or its terminals exchanged.

    The drop from the battery there and back, in all and by its parts.
    """

    on: bool
    served: bool
    current_a: float
    voltage_v: float
    drop_v: float
    drop_frac: float
    conductor_drop_v: float
    conductor_drop_frac: float
    joints_drop_v: float
    fuses_drop_v: float
    contacts_drop_v: float


@dataclass(slots=True)
class LoadReport:
    """Figures of one entry of the load list, all its pieces together."""

    id: str
    tag: str
    name: str
    place: str
    power_w: float | None
    current_a: float | None
    each_power_w: float | None
    each_current_a: float | None
    design_current_a: float
    ah_per_day: float | None
    circuit: str | None
    circuit_tag: str | None
    fed_from: str | None
    length_m: float | None
    loop_length_m: float | None
    limit_frac: float
    worst: LoadState
    states: dict[str, LoadState]
    verdict: Verdict
    finding_ids: list[str]


@dataclass(slots=True)
class BlockReport:
    """Figures of a fuse block."""

    id: str
    tag: str
    name: str
    ways: int
    ways_used: int
    design_current_a: float
    fed_by: str | None


@dataclass(slots=True)
class PartReport:
    """A part of the distribution and what passes it: the most that can be on together, capped by its fuse.

    `positions` says for a switch what each of them makes live; `shunt_mv` is what a shunt shows then.
    """

    id: str
    tag: str
    name: str
    kind: str
    through_a: float
    connected_a: float
    rated_a: float | None
    guarded_by: str | None
    guard_a: float | None
    resistance_ohm: float
    shunt_mv: float | None
    positions: list[str]
    verdict: Verdict
    finding_ids: list[str]


@dataclass(slots=True)
class NodeReport:
    """One point of the circuit: what to expect between it and its negative, state by state in the plan's order.

    None where no battery reaches it in that state. It is dead there only where `live_from`, the names of every source
    that reaches it, is empty too: chargers and panels alone may hold it.
    """

    id: str
    part: str
    label: str
    tag: str
    voltage_v: list[float | None]
    live_from: list[list[str]]
    fault: FaultReport | None


@dataclass(slots=True)
class BondReport:
    """A bond in the short to the body that heats it most: what it reaches and stands [°C], and the run it is of;
    reaches None where nothing opens."""

    run_id: str
    tag: str
    reached_c: float | None
    limit_c: float
    by: str


@dataclass(slots=True)
class ShortsReport:
    """Shorts with the contacts of one state: by run and by point. Those to the body have its bonds, or a reason why
    there are none."""

    state_id: str | None
    runs: dict[str, list[FaultReport]]
    points: dict[str, FaultReport]
    reason: str
    bonds: list[BondReport]


@dataclass(slots=True)
class Extreme:
    """The worst of something, and whose it is; subject None when there is nothing yet."""

    value: float
    subject: str | None
    tag: str


@dataclass(slots=True)
class StateSummary:
    """The meter strip in one state."""

    state_id: str
    name: str
    battery_current_a: float
    worst_drop_frac: Extreme
    converged: bool


@dataclass(slots=True)
class SizeInUse:
    """A wire size on the van: metres of it, every conductor counted, and in how many runs."""

    label: str
    area_mm2: float
    conductor_m: float
    runs: int


@dataclass(slots=True)
class Summary:
    """The meter strip, worst of all states, and the sums under the load list."""

    battery_current_a: float
    battery_state: str
    ah_per_day: float
    load_current_a: float
    worst_drop_frac: Extreme
    hottest_wire_c: Extreme
    copper_kg: float
    sizes: list[SizeInUse]
    open_stop: int
    open_fix: int
    open_look: int
    waived: int
    states: list[StateSummary]


@dataclass(slots=True)
class Report:
    """The whole report."""

    format: str
    version: int
    job: str
    nominal_v: int
    source_v: float
    practice_set: str
    practice_label: str
    rules: list[RuleOrigin]
    summary: Summary
    loads: list[LoadReport]
    runs: list[RunReport]
    blocks: list[BlockReport]
    parts: list[PartReport]
    nodes: list[NodeReport]
    channels: list[ChannelReport]
    findings: list[Finding]
    working: dict[str, Working]
    caution: str
