"""Writes the sample papers in docs/papers from the demo data: `make papers`."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from pathlib import Path

from lucernis.aftercare.due import due_dates
from lucernis.aftercare.log import Noted
from lucernis.aftercare.readings import proved
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.prove.proving import proving
from lucernis.demo import demo_plan, demo_record
from lucernis.exports.files import make_file
from lucernis.exports.handover_pdf import Handed, handover_pdf
from lucernis.exports.paper import Stamp
from lucernis.exports.proving_pdf import certificate_pdf

TARGET = Path(__file__).resolve().parents[1] / "docs" / "papers"
PAPERS = (
    "run-sheet.pdf", "cut-list.pdf", "order.pdf", "wiring.pdf", "labels-12.pdf", "plates.pdf", "fuse-map.pdf",
    "proving-sheet.pdf",
)  # fmt: skip
DAY = date(2026, 11, 27)


def main() -> None:
    """Every paper one builds from, of Heron."""
    TARGET.mkdir(parents=True, exist_ok=True)
    plan = demo_plan("heron")
    for name in PAPERS:
        (TARGET / f"heron-{name}").write_bytes(make_file(name, plan, revision=1, date=DAY.isoformat()))
    # Tern is the vehicle on the road: its pack and its readings.
    tern = demo_plan("tern")
    noted = [Noted(**{name: line[name] for name in Noted.__slots__}) for line in demo_record()]
    report = evaluate(tern, with_working=False)
    read = proved(proving(tern).lines, noted)
    job = tern.job
    stamp = Stamp("handover pack", job.name, job.customer, job.workshop, 1, DAY.isoformat(), report.practice_label)
    handed = Handed(noted, due_dates(tern, noted, DAY), read, (), "")
    (TARGET / "tern-handover.pdf").write_bytes(handover_pdf(tern, report, handed, stamp, "a4"))
    certified = replace(stamp, title="certificate of readings")
    (TARGET / "tern-certificate.pdf").write_bytes(certificate_pdf(tern, read, certified, "a4"))


if __name__ == "__main__":
    main()
