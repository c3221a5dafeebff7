"""What the record lacks or says: findings that a plan by itself cannot have."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from lucernis.aftercare.due import Due
from lucernis.aftercare.log import Noted, handed_over, of_kind
from lucernis.aftercare.readings import Proved
from lucernis.core.prove.proving_line import Line

_FEW = 6


@dataclass(frozen=True, slots=True)
class RecordFinding:
    """What, why, mend, in three lines; `subjects` are ids of lines, runs or entries it speaks of."""

    code: str
    severity: Literal["stop", "fix", "look"]
    what: str
    why: str
    mend: str
    subjects: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Standing:
    """What findings are made from."""

    lines: Sequence[Line]
    proved: Mapping[str, Proved]
    noted: Sequence[Noted]
    due: Sequence[Due]
    steps_left: int
    """Steps of the order of work that are not done."""
    labels_left: int
    """Those of them that put a label on an end."""
    changed_since: Mapping[int, bool]
    """By revision: whether the plan reads otherwise today."""
    fuse_sizes: Sequence[str]
    """What sizes of fuses stand in the vehicle."""


def _named(labels: Sequence[str]) -> str:
    more = f" and {len(labels) - _FEW} more" if len(labels) > _FEW else ""
    return "; ".join(labels[:_FEW]) + more


def _readings(standing: Standing) -> list[RecordFinding]:
    found = []
    built = handed_over(standing.noted) is not None
    must = [line for line in standing.lines if not line.id.startswith("panel:")]
    missing = [line for line in must if line.id not in standing.proved]
    if built and missing:
        found.append(
            RecordFinding(
                "reading-missing", "look", f"{len(missing)} of {len(must)} readings are missing",
                "What was not read at the start can be held against nothing later.",
                f"Read them: {_named([line.label for line in missing])}.", tuple(line.id for line in missing),
            )
        )  # fmt: skip
    by_id = {line.id: line for line in standing.lines}
    out = [one for one in standing.proved.values() if one.judged.verdict != "in" and not one.old]
    for one in out:
        found.append(
            RecordFinding(
                "reading-out", "fix", f"{by_id[one.line].label}: {one.judged.text.rstrip('.')}",
                "The circuit is not as planned, or not as it was.",
                "Find the fault from here; read again once it is mended.", (one.line,),
            )
        )  # fmt: skip
    old = [one for one in standing.proved.values() if one.old]
    if old:
        found.append(
            RecordFinding(
                "reading-old", "look", f"{len(old)} readings are older than a change after them",
                "The plan expects something else there now.",
                f"Read again: {_named([by_id[one.line].label for one in old])}.", tuple(one.line for one in old),
            )
        )  # fmt: skip
    return found


def open_fuses(noted: Sequence[Noted]) -> list[Noted]:
    """Fuses that blew and whose cause nobody has found."""
    causes = [one for one in of_kind(noted, "cause") if one.text.strip()]
    caused = {int(value) for one in causes if (value := one.number_of("blown")) is not None}
    return [one for one in of_kind(noted, "blown") if one.number not in caused]


def _after(standing: Standing, today: date) -> list[RecordFinding]:
    found = []
    for one in open_fuses(standing.noted):
        found.append(
            RecordFinding(
                "fuse-without-cause", "fix", f"{one.text or one.subject}: blew {one.day.isoformat()}, no cause found",
                "A fuse that blew has a reason; the next one only protects the wire once more.",
                "Find the fault; note the cause and what mended it.", (f"entry:{one.number}", one.subject),
            )
        )  # fmt: skip
    for one_due in standing.due:
        if one_due.state == "overdue":
            by_km = f", or at {one_due.at_km:,.0f} km" if one_due.at_km is not None else ""
            found.append(
                RecordFinding(
                    "recheck-overdue", "fix" if one_due.what == "torque" else "look",
                    f"{one_due.label}: was due on {one_due.on.isoformat()}{by_km}",
                    f"{one_due.explain}.", "Do it and note it here.", (one_due.what,),
                )
            )  # fmt: skip
    return found


def _papers(standing: Standing) -> list[RecordFinding]:
    found = []
    frozen = of_kind(standing.noted, "asbuilt")
    if frozen and standing.changed_since.get(frozen[-1].revision):
        found.append(
            RecordFinding(
                "as-built-differs", "look", f"Plan differs from “{frozen[-1].text}”, revision {frozen[-1].revision}",
                "What was built is that revision; what is planned now is not built.",
                "Build the change and freeze as-built anew, or undo it.", (f"entry:{frozen[-1].number}",),
            )
        )  # fmt: skip
    handed = of_kind(standing.noted, "handed")
    if handed and standing.changed_since.get(handed[-1].revision):
        found.append(
            RecordFinding(
                "paper-older", "look",
                f"The customer's pack is of revision {handed[-1].revision}, from {handed[-1].day.isoformat()}",
                "Whoever reads it in the van reads what no longer is.", "Print the pack anew and hand it over.",
                (f"entry:{handed[-1].number}",),
            )
        )  # fmt: skip
    if frozen and standing.steps_left:
        found.append(
            RecordFinding(
                "as-built-unfinished", "look", f"As-built, but {standing.steps_left} steps of the work are not ticked",
                "Nobody can say later whether they were done.", "Tick them, or note what was done instead.", (),
            )
        )  # fmt: skip
    if frozen and standing.labels_left:
        found.append(
            RecordFinding(
                "unlabelled-end", "look", f"{standing.labels_left} pieces of wire are not noted as cut and labelled",
                "An end without a label is a riddle for whoever comes next.", "Label both ends and tick them.", (),
            )
        )  # fmt: skip
    spares = of_kind(standing.noted, "spares")
    if handed_over(standing.noted) is not None and not spares and standing.fuse_sizes:
        found.append(
            RecordFinding(
                "no-spare-fuses", "look", "No spare fuses are noted as left in the vehicle",
                "One of each saves a day in the wilderness, and a wrong one put in for want of it.",
                f"Leave one of each and note it: {', '.join(standing.fuse_sizes)}.", (),
            )
        )  # fmt: skip
    return found


def record_findings(standing: Standing, today: date) -> list[RecordFinding]:
    """What the record lacks or says.

    Parameters
    ----------
    standing : Standing
        Readings, entries and what is due.
    today : date
        The day it is asked.

    Returns
    -------
    list of RecordFinding
        Fixes first.
    """
    found = [*_readings(standing), *_after(standing, today), *_papers(standing)]
    order = {"stop": 0, "fix": 1, "look": 2}
    return sorted(found, key=lambda one: order[one.severity])
