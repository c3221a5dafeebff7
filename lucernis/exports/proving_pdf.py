"""The proving sheet with boxes to write in, and the certificate of what was read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from reportlab.lib.units import mm
from reportlab.platypus import CondPageBreak, Flowable, Spacer

from lucernis.aftercare.readings import Proved
from lucernis.core.prove.proving import METHOD, proving
from lucernis.core.prove.words import small
from lucernis.core.report import Report
from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled
from lucernis.plan.model import Plan

_VERDICT = {"in": "in band", "out": "OUT OF BAND", "unit": "unit?", "unread": "not read"}


def proving_sheet_pdf(plan: Plan, report: Report, stamp: Stamp, size: PaperSize) -> bytes:
    """The proving list as a sheet to write on.

    Parameters
    ----------
    plan : Plan
        The plan.
    report : Report
        Not needed; papers are all made alike.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        The states in order, each with what to make and mind; a line a reading with its band and an empty box.
    """
    found = proving(plan)
    story: list[Flowable] = [
        para("Instrument ____________________   Leads together ________ Ω   Read by ____________________   "
             "Date ____________   Air ______ °C", "body"),
        Spacer(0, 3 * mm),
    ]  # fmt: skip
    for key, name in found.sections:
        story += [CondPageBreak(40 * mm), para(name, "head")]
        for state in dict.fromkeys(line.situation for line in found.lines if line.section == key):
            made = found.states[state]
            story.append(para(made.to_make + ("." if not made.to_make.endswith(".") else ""), bold=True))
            if made.caution:
                story.append(para(f"Mind: {made.caution}"))
            rows = [
                [
                    line.label,
                    line.red if not line.black else f"{line.red} / {line.black}",
                    line.band,
                    "",
                    line.means.good,
                ]
                for line in found.lines
                if line.section == key and line.situation == state
            ]
            story.append(
                ruled(("Reading", "Red / black", "Expect", "Read", "What it shows"), rows, (62, 62, 34, 26, 64), size,
                      wide=True, boxes=(3,))
            )  # fmt: skip
            story.append(Spacer(0, 2 * mm))
    story.append(para(METHOD, "small"))
    return make_pdf(story, stamp, size, wide=True)


def readings_story(plan: Plan, proved: Mapping[str, Proved], size: PaperSize, *, wide: bool) -> list[Flowable]:
    """The readings that were taken, section by section, with their bands and what they mean.

    Parameters
    ----------
    plan : Plan
        The plan.
    proved : mapping of str to Proved
        By id of the line.
    size : str
        ``a4`` or ``letter``.
    wide : bool
        Landscape.

    Returns
    -------
    list of Flowable
        Empty sections are left out.
    """
    found = proving(plan)
    story: list[Flowable] = []
    for key, name in found.sections:
        lines = [line for line in found.lines if line.section == key and line.id in proved]
        if not lines:
            continue
        story += [CondPageBreak(30 * mm), para(name, "head")]
        rows = []
        for line in lines:
            one = proved[line.id]
            who = ", ".join(word for word in (one.who, one.instrument, one.made_at[:16].replace("T", " ")) if word)
            verdict = "older than the plan" if one.old else _VERDICT[one.judged.verdict]
            typed = one.typed if any(sign.isalpha() for sign in one.typed) else f"{one.typed} {line.unit}"
            leads = f" with leads of {small(one.leads_ohm, 'Ω')}" if line.quantity == "ohms" and one.leads_ohm else ""
            rows.append([line.label, line.band, typed + leads, verdict, who])
        story.append(ruled(("Reading", "Expected", "Read", "", "Who, with what, when"), rows, (66, 34, 24, 28, 52),
                           size, wide=wide))  # fmt: skip
        story.append(Spacer(0, 2 * mm))
    return story


def certificate_pdf(
    plan: Plan, proved: Mapping[str, Proved], stamp: Stamp, size: PaperSize, notes: Sequence[str] = ()
) -> bytes:
    """The certificate of readings.

    Parameters
    ----------
    plan : Plan
        The plan.
    proved : mapping of str to Proved
        What was read, by id of the line.
    stamp : Stamp
        Head and foot, with the revision.
    size : str
        ``a4`` or ``letter``.
    notes : sequence of str
        What the record says besides: open findings.

    Returns
    -------
    bytes
        How many were read and how many are in band, then every reading; a line to sign. It certifies readings, nothing
        else.
    """
    lines = [line for line in proving(plan).lines if not line.id.startswith("panel:")]
    read = [proved[line.id] for line in lines if line.id in proved]
    well = [one for one in read if one.judged.verdict == "in" and not one.old]
    story: list[Flowable] = [
        para("Certificate of readings", "title"),
        Spacer(0, 2 * mm),
        para(f"{len(read)} of {len(lines)} readings of revision {stamp.revision} were taken; {len(well)} are in band.",
             bold=True),
        para("It says what a meter showed on the days named, and nothing about what was not read. It is no approval; "
             "local rules may ask for the test of a licensed person."),
        Spacer(0, 3 * mm),
    ]  # fmt: skip
    story += [para(f"Open: {one}") for one in notes]
    story += readings_story(plan, proved, size, wide=False) or [para("Nothing was read yet.")]
    story += [
        CondPageBreak(25 * mm), Spacer(0, 10 * mm),
        para("Name ______________________   Signature ______________________   Date ____________"),
    ]  # fmt: skip
    return make_pdf(story, stamp, size, wide=False)
