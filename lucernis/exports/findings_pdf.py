"""The report on a vehicle as it was found: what is wrong with it, why that matters, what mends it, with photos."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import CondPageBreak, Image, Spacer

from lucernis.aftercare.log import Noted, of_kind
from lucernis.core.report import Report
from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled
from lucernis.plan.model import Plan

_GRADE = {"stop": "STOP", "fix": "FIX", "look": "LOOK"}
_PHOTO_MM = 55.0
_MOST_PHOTOS = 2


def _pictures(photos: Sequence[bytes]) -> list[Any]:
    story: list[Any] = []
    for body in photos[:_MOST_PHOTOS]:
        picture = Image(io.BytesIO(body))
        scale = min(_PHOTO_MM * 1.6 * mm / picture.imageWidth, _PHOTO_MM * mm / picture.imageHeight)
        picture.drawWidth, picture.drawHeight = picture.imageWidth * scale, picture.imageHeight * scale
        picture.hAlign = "LEFT"
        story += [picture, Spacer(0, 2 * mm)]
    return story


def findings_pdf(
    plan: Plan,
    report: Report,
    noted: Sequence[Noted],
    photos: Mapping[str, Sequence[bytes]],
    stamp: Stamp,
    size: PaperSize,
) -> bytes:
    """Findings as a report.

    Parameters
    ----------
    plan : Plan
        The vehicle as it was found.
    report : Report
        Its findings.
    noted : sequence of Noted
        What was noted of it.
    photos : mapping of str to sequence of bytes
        Pictures by the subject they are of.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        Gravest first, each in three lines with its photos; then what was found of the wires, and what others changed.
    """
    findings = report.findings
    open_ones = [one for one in findings if one.waived is None]
    counts = {grade: sum(one.severity == grade for one in open_ones) for grade in _GRADE}
    story: list[Any] = [
        para("The electrics as they were found", "title"),
        Spacer(0, 2 * mm),
        para(f"{counts['stop']} that must not run, {counts['fix']} to mend, {counts['look']} to look at.", bold=True),
        para("By what could be seen and measured on the day. What is behind closed walls was not seen."),
        Spacer(0, 3 * mm),
    ]
    for number, one in enumerate(open_ones, start=1):
        story += [
            CondPageBreak(35 * mm),
            para(f"{number}. {_GRADE[one.severity]}: {one.what}", bold=True),
            para(one.why),
            para(f"Mend: {one.mend}"),
            *_pictures(photos.get(one.subject, ())),
            Spacer(0, 2 * mm),
        ]
    if not open_ones:
        story.append(para("Nothing was found that a check speaks against."))
    found = [
        [run.tag, run.name, f"{run.wire.system} {run.wire.size}", run.wire.reason]
        for run in plan.runs
        if run.wire is not None
    ]
    if found:
        story += [CondPageBreak(30 * mm), para("Wires as they were found", "head"),
                  ruled(("Tag", "Circuit", "Wire", "How it is known"), found, (18, 60, 30, 78), size, wide=False),
                  Spacer(0, 3 * mm)]  # fmt: skip
    others = of_kind(noted, "others")
    if others:
        story += [CondPageBreak(30 * mm), para("Changed by others", "head")]
        story += [para(f"{one.made_at[:10]}: {one.text}") for one in others]
    return make_pdf(story, stamp, size, wide=False)
