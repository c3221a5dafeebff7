"""The pack the customer keeps in the vehicle: what is where, which fuse is for what, what to do when, whom to ask."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import CondPageBreak, Flowable, Image, PageBreak, Spacer

from lucernis.aftercare.due import Due
from lucernis.aftercare.log import Noted, of_kind
from lucernis.aftercare.readings import Proved
from lucernis.core.layout.laid import layout_of
from lucernis.core.pictures.roof_off import roof_off
from lucernis.core.pictures.step_down import step_down_map
from lucernis.core.report import CAUTION, Report
from lucernis.exports.code_drawing import code_drawing
from lucernis.exports.drawings_pdf import sheet
from lucernis.exports.fuse_map import fuse_map_story
from lucernis.exports.paper import MARGIN_MM, PAGE_MM, PaperSize, Stamp, make_pdf, para
from lucernis.exports.proving_pdf import readings_story
from lucernis.exports.ruled import ruled
from lucernis.plan.model import Battery, Charger, Load, Plan
from lucernis.practice.tables import load_table

_POINTS_PER_MM = 72 / 25.4
_MOST_PHOTOS = 8


@dataclass(frozen=True, slots=True)
class Handed:
    """What the pack tells besides the plan: the record, what is due, what was read, photos, where its log opens."""

    noted: Sequence[Noted]
    due: Sequence[Due]
    proved: Mapping[str, Proved]
    photos: Sequence[tuple[str, bytes]]
    link: str


def _traits(plan: Plan) -> set[str]:
    """What kinds of things are there, as the tables ask for it."""
    found = set()
    for part in plan.parts:
        if isinstance(part, Battery):
            found.add("lfp" if part.chemistry == "lfp" else "lead")
            if part.use == "starter":
                found.add("starter")
        elif isinstance(part, Charger):
            found.add(part.form)
            if part.pv_high_v is not None:
                found.add("sun")
            if part.form == "shore":
                found.add("mains")
        elif isinstance(part, Load) and part.device == "inverter":
            found |= {"inverter", "mains"}
    return found


def _rows(table: str, traits: set[str]) -> list[dict[str, str]]:
    return [row for row in load_table(table).rows if not row["needs"] or row["needs"] in traits]


def _what_is_where(plan: Plan, size: PaperSize) -> list[Flowable]:
    places = {place.id: place.name for place in plan.places}
    rows = []
    for place_id, name in [*places.items(), (None, "Nowhere noted")]:
        some = [part for part in plan.parts if part.place == place_id and part.kind != "joint"]
        if some:
            rows.append([name, "; ".join(f"{part.name} ({part.tag})" for part in some)])
    return [para("What is where", "head"), ruled(("Place", "What is there"), rows, (50, 136), size, wide=False)]


def _electrics(plan: Plan, report: Report) -> list[Flowable]:
    batteries = [part for part in plan.parts if isinstance(part, Battery)]
    story: list[Flowable] = [para("The electrics in short", "head")]
    for part in batteries:
        row = load_table("battery_chemistry").find(part.chemistry)
        blocks = (part.rated_v or plan.nominal_v) / 12
        low, high = float(row["ocv_25"]) * blocks, float(row["ocv_100"]) * blocks
        story.append(
            para(
                f"{part.name}: {part.capacity_ah:g} Ah, {high:.1f} V full at rest, {low:.1f} V when it wants charging."
            )
        )
    chargers = [part.name for part in plan.parts if isinstance(part, Charger)]
    if chargers:
        story.append(para(f"Charged by: {', '.join(chargers)}."))
    alive = [part.name for part in plan.parts if isinstance(part, Load) and part.stays_live]
    switches = [part.name for part in plan.parts if part.kind == "switch" and part.use == "isolator"]
    if switches:
        stays = f" Stays live on purpose: {', '.join(alive)}." if alive else ""
        story.append(para(f"Switched off by: {', '.join(switches)}.{stays}", bold=True))
    story.append(para(f"A usual day takes some {report.summary.ah_per_day:.0f} Ah."))
    return story


def _record(handed: Handed, plan: Plan, size: PaperSize) -> list[Flowable]:
    parts = {part.id: part.name for part in plan.parts}
    story: list[Flowable] = []
    settings = of_kind(handed.noted, "setting")
    if settings:
        latest = {one.subject: one for one in settings}
        rows = [[parts.get(one.subject, one.subject), one.text] for one in latest.values()]
        story += [CondPageBreak(30 * mm), para("As it is set", "head"),
                  ruled(("Part", "Set to"), rows, (50, 136), size, wide=False), Spacer(0, 3 * mm)]  # fmt: skip
    spares = of_kind(handed.noted, "spares")
    if spares:
        story.append(para(f"Spare fuses: {spares[-1].text}."))
    others = of_kind(handed.noted, "others")
    story += [para(f"Changed by others, {one.made_at[:10]}: {one.text}.") for one in others]
    blown = of_kind(handed.noted, "blown")
    causes = {
        int(value): one for one in of_kind(handed.noted, "cause") if (value := one.number_of("blown")) is not None
    }
    if blown:
        rows = [
            [one.made_at[:10], one.text, causes[one.number].text if one.number in causes else "no cause found yet"]
            for one in blown
        ]
        story += [CondPageBreak(30 * mm), para("Fuses that blew", "head"),
                  ruled(("When", "Which", "Why, and the mend"), rows, (24, 70, 92), size, wide=False)]  # fmt: skip
    return story


def _upkeep(handed: Handed, size: PaperSize) -> list[Flowable]:
    rows: list[list[str]] = []
    if handed.due:
        for one in handed.due:
            km = f" or at {one.at_km:,.0f} km" if one.at_km is not None else ""
            rows.append(
                [one.label, f"{one.on.isoformat()}{km}", f"then every {one.every_days} days", one.explain + "."]
            )
    else:
        rows = [
            [row["label"], f"after {row['first_days']} days" + (f" or {row['first_km']} km" if row["first_km"] else ""),
             f"then every {row['every_days']} days", row["explain"] + "."]
            for row in load_table("aftercare").rows
        ]  # fmt: skip
    return [
        CondPageBreak(50 * mm), para("What to look after", "head"),
        ruled(("What", "Due", "", "Why"), rows, (46, 36, 32, 72), size, wide=False),
    ]  # fmt: skip


def handover_pdf(plan: Plan, report: Report, handed: Handed, stamp: Stamp, size: PaperSize) -> bytes:
    """The handover pack.

    Parameters
    ----------
    plan : Plan
        The plan as handed over.
    report : Report
        Its report.
    handed : Handed
        Record, readings, photos.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        In short, what is where, what to do when, what not to do, fuses, upkeep, drawings, readings, photos, cautions.
    """
    job, traits = plan.job, _traits(plan)
    story: list[Flowable] = [
        para(job.vehicle.name or job.name, "title"),
        para(" · ".join(word for word in (job.name, job.customer) if word)),
        Spacer(0, 3 * mm),
        para(f"Whom to ask: {job.workshop}." if job.workshop else "Whom to ask: ______________________________"),
    ]
    if handed.link:
        story += [
            Spacer(0, 2 * mm),
            code_drawing(handed.link),
            para("Opens the log of this vehicle in the workshop's network.", "small"),
        ]
    story += [Spacer(0, 4 * mm), *_electrics(plan, report), Spacer(0, 4 * mm), *_what_is_where(plan, size)]
    story += [
        PageBreak(), para("What to do when", "head"),
        ruled(("When", "Do"), [[row["when"], row["do"]] for row in _rows("handover_when", traits)], (56, 130), size,
              wide=False),
        Spacer(0, 4 * mm), CondPageBreak(40 * mm), para("Never", "head"),
        *(para(f"— {row['never']}.") for row in _rows("handover_never", traits)),
        PageBreak(), para("Which fuse is for what", "title"), Spacer(0, 2 * mm), *fuse_map_story(plan, report),
        *_upkeep(handed, size), Spacer(0, 4 * mm), *_record(handed, plan, size),
    ]  # fmt: skip
    short, long = PAGE_MM[size]
    width, height = (short - 2 * MARGIN_MM) * _POINTS_PER_MM, (long - 37 - 30) * _POINTS_PER_MM
    laid = [roof_off(plan, report, layout_of(plan))] if plan.channels else []
    for drawing in (*laid, step_down_map(plan, report)):
        story += [PageBreak(), para(drawing.title, "head"), para(drawing.note, "small"), Spacer(1, 6),
                  sheet(drawing, width, height)]  # fmt: skip
    read = readings_story(plan, handed.proved, size, wide=False)
    if read:
        story += [PageBreak(), para("What was read when it was handed over", "title"), *read]
    story += _photos(handed, width)
    story += [CondPageBreak(40 * mm), Spacer(0, 4 * mm), para("Cautions", "head"), para(CAUTION)]
    return make_pdf(story, stamp, size, wide=False)


def _photos(handed: Handed, width: float) -> list[Any]:
    story: list[Any] = []
    for name, body in handed.photos[:_MOST_PHOTOS]:
        picture = Image(io.BytesIO(body))
        scale = min(width / 2 / picture.imageWidth, 70 * mm / picture.imageHeight)
        picture.drawWidth, picture.drawHeight = picture.imageWidth * scale, picture.imageHeight * scale
        story += [CondPageBreak(80 * mm), para(name, bold=True), picture, Spacer(0, 3 * mm)]
    return [PageBreak(), para("Photos", "head"), *story] if story else []
