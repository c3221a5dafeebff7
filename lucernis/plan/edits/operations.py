"""What each edit by the work is called and what it takes. How it is done stands in the files beside."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from lucernis.plan.base import Id
from lucernis.plan.cells import Column
from lucernis.plan.model import End
from lucernis.plan.terminals import Terminal
from lucernis.plan.units import LengthReading
from lucernis.practice.rules import FuseFamily

CellText = Annotated[str, Field(max_length=400)]


class Operation(BaseModel):
    """Base of every edit."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


FillField = Literal[
    "device", "behaviour", "power_w", "hours_per_day", "sensitive", "keyed", "stays_live", "inrush_factor", "inrush_s",
    "cycle_on_s", "cycle_off_s",
]  # fmt: skip


class SetCell(Operation):
    """Type a text into one cell of the load list."""

    op: Literal["set_cell"]
    part: str
    column: Column
    text: CellText
    confirmed: bool = False


class AddLoads(Operation):
    """Add rows to the load list, each on a way of its own of a block while there is one."""

    op: Literal["add_loads"]
    rows: list[dict[Column, CellText]] = Field(min_length=1, max_length=500)
    after: str | None = None
    block: str | None = None
    confirmed: bool = False


class FillLoad(Operation):
    """Fill a load from a generic consumer; what a person has typed or chosen stays."""

    op: Literal["fill_load"]
    part: str
    values: dict[FillField, str | float | bool] = Field(max_length=20)


class DuplicateLoad(Operation):
    """A copy of a load on a run of its own."""

    op: Literal["duplicate_load"]
    part: str


class DeletePart(Operation):
    """Take a part out with the run that feeds it; what hung behind a load is joined to what fed it."""

    op: Literal["delete_part"]
    part: str


class MoveLoad(Operation):
    """Move a load up or down the list."""

    op: Literal["move_load"]
    part: str
    by: Annotated[int, Field(ge=-5000, le=5000)]


class PutLoad(Operation):
    """Put a load on a block, or after another load in a chain; with the length from there."""

    op: Literal["put_load"]
    part: str
    on: str
    length: Annotated[str, Field(max_length=40)] | None = None
    reading: LengthReading = "one_way"
    confirmed: bool = False


class TakeOff(Operation):
    """Take a load off its circuit."""

    op: Literal["take_off"]
    part: str


class AddBlock(Operation):
    """Feed a new fuse block from here."""

    op: Literal["add_block"]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    fed_from: str
    length: Annotated[str, Field(max_length=40)]
    ways: Annotated[int, Field(ge=1, le=60)] = 12
    place: str | None = None
    confirmed: bool = False


class SetLength(Operation):
    """Type the length of a run."""

    op: Literal["set_length"]
    run: str
    text: Annotated[str, Field(max_length=40)]
    reading: LengthReading = "one_way"
    confirmed: bool = False


class PinWire(Operation):
    """Insist on a wire size; an empty size lets go."""

    op: Literal["pin_wire"]
    run: str
    size: Annotated[str, Field(max_length=20)]
    reason: Annotated[str, Field(max_length=400)] = ""


class PinFuse(Operation):
    """Insist on a fuse rating; no rating lets go."""

    op: Literal["pin_fuse"]
    run: str
    end: Annotated[
        Literal["start", "finish"] | None, Field(description="Where the run has a fuse at one end only: that one.")
    ] = None
    rating_a: Annotated[float, Field(gt=0, le=5000)] | None
    family: FuseFamily | None = None
    reason: Annotated[str, Field(max_length=400)] = ""


class Waive(Operation):
    """Accept a finding, with the reason."""

    op: Literal["waive"]
    code: str
    subject: str
    reason: Annotated[str, Field(max_length=400)]


class Unwaive(Operation):
    """Take a waiver back."""

    op: Literal["unwaive"]
    code: str
    subject: str


LengthText = Annotated[str, Field(max_length=40)]
PartFields = Annotated[dict[str, Any], Field(description="A part without id and tag, as in the library.")]


class FeedPart(Operation):
    """Feed a new part from here: block, busbar, switch, relay, outlet, load, anything."""

    op: Literal["feed_part"]
    part: PartFields
    fed_from: str
    terminal: Terminal | None = None
    length: LengthText
    legs: Literal["both", "positive", "negative"] = "both"
    confirmed: bool = False


class InsertPart(Operation):
    """Put a switch, a relay, a shunt or a joint into a run, so far from one of its ends."""

    op: Literal["insert_part"]
    run: str
    part: PartFields
    near: Literal["start", "finish"] = "start"
    length: LengthText


class PutRelay(Operation):
    """Let a switch tell a relay instead of carrying the load itself."""

    op: Literal["put_relay"]
    switch: str
    contact_a: Annotated[float, Field(gt=0, le=5000)]
    coil_length: LengthText = "1 m"


class ShareFeeder(Operation):
    """Make loads share a feeder: a new block near them takes one way of what fed the first of them."""

    op: Literal["share_feeder"]
    parts: list[str] = Field(min_length=2, max_length=60)
    name: Annotated[str, Field(min_length=1, max_length=80)]
    length: LengthText
    branch_length: LengthText
    place: str | None = None


class Connect(Operation):
    """A run between two parts that are there."""

    op: Literal["connect"]
    start: End
    finish: End
    length: LengthText
    legs: Literal["both", "positive", "negative", "series"] = "both"
    fused: bool = False
    confirmed: bool = False


class AddCharger(Operation):
    """A charger with its output to a battery or bar, its supply from a battery or bar, and panels of its own."""

    op: Literal["add_charger"]
    part: PartFields
    gives_to: str
    give_length: LengthText
    fed_from: str | None = None
    feed_length: LengthText = "1 m"
    panel: PartFields | None = None
    panel_length: LengthText = "3 m"


class MakeBank(Operation):
    """Make a battery into a bank of equal ones: so many in series, so many of these strings side by side."""

    op: Literal["make_bank"]
    battery: str
    series: Annotated[int, Field(ge=1, le=4)] = 1
    parallel: Annotated[int, Field(ge=1, le=8)] = 1
    take_off: Literal["same_end", "diagonal", "busbar"] = "busbar"
    link_length: LengthText = "0.3 m"


class SetSlot(Operation):
    """Change a stretch of the day, add one after it, or take it out; the day stays 24 hours, the next stretch gives or
    takes the difference."""

    op: Literal["set_slot"]
    slot: Id | None = Field(default=None, description="The stretch; none where the day has none yet.")
    state: str | None = None
    hours: Annotated[float, Field(gt=0, lt=24)] | None = None
    action: Literal["change", "split", "remove"] = "change"


class DeleteRun(Operation):
    """Take a run out."""

    op: Literal["delete_run"]
    run: str


class SetFuse(Operation):
    """Put a fuse at one end of a run, change it, or take it out; what is not named stays."""

    op: Literal["set_fuse"]
    run: str
    end: Literal["start", "finish"] = "start"
    present: bool = True
    distance_m: Annotated[float, Field(ge=0, le=1000)] | None = None
    sheathed: bool | None = None
    family: FuseFamily | None = None
    holder: Literal["open", "sealed"] | None = None
    each: bool | None = None
    bracket: bool | None = None
    tied: bool | None = None


class AddPlace(Operation):
    """A new place; in the zone of the last one where none is named."""

    op: Literal["add_place"]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    zone: Id | None = None
    x_m: Annotated[float, Field(ge=-40, le=60)] | None = None
    y_m: Annotated[float, Field(ge=-40, le=60)] | None = None


class PutPlace(Operation):
    """Where a place stands; it snaps to the grid and to walls."""

    op: Literal["put_place"]
    place: str
    x_m: Annotated[float, Field(ge=-40, le=60)]
    y_m: Annotated[float, Field(ge=-40, le=60)]


class DeletePlace(Operation):
    """Take a place out, with its channels; parts that stand there stand nowhere."""

    op: Literal["delete_place"]
    place: str


class AddChannel(Operation):
    """A channel between two places, with the tape's reading if there is one."""

    op: Literal["add_channel"]
    start: str
    finish: str
    name: Annotated[str, Field(max_length=80)] = ""
    length: Annotated[str, Field(max_length=40)] = ""


class MeasureChannel(Operation):
    """Type the tape's reading of a channel; an empty one lets go."""

    op: Literal["measure_channel"]
    channel: str
    text: Annotated[str, Field(max_length=40)]


class DeleteChannel(Operation):
    """Take a channel out."""

    op: Literal["delete_channel"]
    channel: str


class TakeChannels(Operation):
    """Channels from a table of text; places it names and the plan lacks are added, a channel of the same name and
    places is measured anew."""

    op: Literal["take_channels"]
    csv: Annotated[str, Field(min_length=1, max_length=200_000)]


class FollowChannels(Operation):
    """Let runs follow the channels, bent by channels to use and to avoid, or no longer."""

    op: Literal["follow_channels"]
    runs: list[str] = Field(min_length=1, max_length=10000)
    follow: bool = True
    use: list[Id] = Field(default=[], max_length=20)
    avoid: list[Id] = Field(default=[], max_length=50)
    keep_length: bool = False


class SetFields(Operation):
    """Set plain fields of a part, a run, a state or a channel."""

    op: Literal["set_fields"]
    subject: str
    values: Annotated[dict[str, Any], Field(min_length=1, max_length=30)]


Edit = Annotated[
    SetCell
    | AddLoads
    | FillLoad
    | DuplicateLoad
    | DeletePart
    | MoveLoad
    | PutLoad
    | TakeOff
    | AddBlock
    | FeedPart
    | InsertPart
    | PutRelay
    | ShareFeeder
    | Connect
    | AddCharger
    | MakeBank
    | SetSlot
    | DeleteRun
    | SetFuse
    | SetFields
    | AddPlace
    | PutPlace
    | DeletePlace
    | AddChannel
    | MeasureChannel
    | DeleteChannel
    | TakeChannels
    | FollowChannels
    | SetLength
    | PinWire
    | PinFuse
    | Waive
    | Unwaive,
    Field(discriminator="op"),
]
