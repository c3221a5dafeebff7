"""Every file a plan can be taken away as: its name, kind and making. Downloads and the command line share it."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from dataclasses import dataclass

from pydantic import TypeAdapter

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.unjudged import without_judgement
from lucernis.core.layout.laid import laid_out
from lucernis.core.pictures.draw import PictureKind, draw
from lucernis.core.report import Report
from lucernis.core.sizing.choice import state_circuit
from lucernis.core.sizing.sized import sized_plan
from lucernis.errors import UnknownRow
from lucernis.exports.channels_csv import bundles_csv, channels_csv
from lucernis.exports.cut_csv import cut_list_csv, labels_csv
from lucernis.exports.cut_pdf import cut_list_pdf
from lucernis.exports.drawings_pdf import drawings_pdf, wiring_pdf
from lucernis.exports.fuse_map import fuse_map_pdf
from lucernis.exports.labels_pdf import STRIPS, plates_pdf, strip_pdf
from lucernis.exports.netlist import netlist
from lucernis.exports.order_pdf import order_pdf
from lucernis.exports.paper import PaperSize, Stamp
from lucernis.exports.proving_pdf import proving_sheet_pdf
from lucernis.exports.reasons import reasons_pdf
from lucernis.exports.run_sheet import run_sheet_pdf
from lucernis.exports.svg import drawing_svg
from lucernis.exports.tables_csv import faults_csv, loads_csv, runs_csv, states_csv
from lucernis.plan.document import plan_document
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class FileKind:
    """One kind of file."""

    ending: str
    media_type: str
    inline: bool

    def file_name(self, plan: Plan) -> str:
        """A file name out of the job's name."""
        slug = re.sub(r"[^a-z0-9]+", "-", plan.job.name.lower()).strip("-")[:40] or "plan"
        return f"{slug}{self.ending}"


FILES: dict[str, FileKind] = {
    "plan.json": FileKind(".lucernis.json", "application/json", inline=False),
    "runs.csv": FileKind("-runs.csv", "text/csv; charset=utf-8", inline=False),
    "loads.csv": FileKind("-loads.csv", "text/csv; charset=utf-8", inline=False),
    "run-sheet.pdf": FileKind("-run-sheet.pdf", "application/pdf", inline=True),
    "fuse-map.pdf": FileKind("-fuse-map.pdf", "application/pdf", inline=True),
    "reasons.pdf": FileKind("-reasons.pdf", "application/pdf", inline=True),
    "faults.csv": FileKind("-faults.csv", "text/csv; charset=utf-8", inline=False),
    "states.csv": FileKind("-states.csv", "text/csv; charset=utf-8", inline=False),
    "channels.csv": FileKind("-channels.csv", "text/csv; charset=utf-8", inline=False),
    "bundles.csv": FileKind("-bundles.csv", "text/csv; charset=utf-8", inline=False),
    "cut-list.pdf": FileKind("-cut-list.pdf", "application/pdf", inline=True),
    "proving-sheet.pdf": FileKind("-proving-sheet.pdf", "application/pdf", inline=True),
    "order.pdf": FileKind("-order.pdf", "application/pdf", inline=True),
    "wiring.pdf": FileKind("-wiring.pdf", "application/pdf", inline=True),
    "plates.pdf": FileKind("-plates.pdf", "application/pdf", inline=True),
    **{f"labels-{strip}.pdf": FileKind(f"-labels-{strip}.pdf", "application/pdf", inline=True) for strip in STRIPS},
    "cut-list.csv": FileKind("-cut-list.csv", "text/csv; charset=utf-8", inline=False),
    "labels.csv": FileKind("-labels.csv", "text/csv; charset=utf-8", inline=False),
    "report.json": FileKind("-report.json", "application/json", inline=False),
    "map.svg": FileKind("-map.svg", "image/svg+xml", inline=False),
    "board.svg": FileKind("-board.svg", "image/svg+xml", inline=False),
    "layout.svg": FileKind("-layout.svg", "image/svg+xml", inline=False),
    "fuse-window.svg": FileKind("-fuse-window.svg", "image/svg+xml", inline=False),
    "pinch.svg": FileKind("-pinch.svg", "image/svg+xml", inline=False),
    "wiring.svg": FileKind("-wiring.svg", "image/svg+xml", inline=False),
    "connections.svg": FileKind("-connections.svg", "image/svg+xml", inline=False),
    "drawings.pdf": FileKind("-drawings.pdf", "application/pdf", inline=True),
    "circuit.cir": FileKind("-circuit.cir", "text/plain; charset=utf-8", inline=False),
}


def _netlist(plan: Plan, state: str | None) -> bytes:
    wanted = state or plan.states[0].id
    known = [one.id for one in plan.states]
    if wanted not in known:
        raise UnknownRow(f"no state {wanted!r}", field="state", value=wanted, allowed=", ".join(known))
    plan = laid_out(plan)
    sized = sized_plan(plan)
    circuit = state_circuit(plan, sized, next(one for one in plan.states if one.id == wanted))
    return netlist(circuit, f"{plan.job.name}, state {wanted}").encode()


def make_file(
    what: str,
    plan: Plan,
    *,
    revision: int,
    date: str,
    paper: PaperSize = "a4",
    state: str | None = None,
    subject: str | None = None,
    link: str = "",
    judged: bool = True,
) -> bytes:
    """Make one of `FILES`.

    Parameters
    ----------
    what : str
        A key of `FILES`.
    plan : Plan
        The plan.
    revision : int
        For the papers.
    date : str
        For the papers.
    paper : str
        ``a4`` or ``letter``.
    state : str, optional
        For a netlist, the first state otherwise; for a picture, the worst of all otherwise.
    link : str
        For labels: what a run's id is put behind for its QR code; for the fuse map: where the log opens; none where
        empty.
    subject : str, optional
        For a fuse window its run, for a pinch chart its load, for the layout a run whose way is shown.
    judged : bool
        Whether it tells what the checks find.

    Returns
    -------
    bytes
        The file.

    Raises
    ------
    UnknownRow
        If there is no such kind of file or no such state.
    """
    if what not in FILES:
        raise UnknownRow(f"no file {what!r}", field="file", value=what, allowed=", ".join(FILES))
    if what == "plan.json":
        return (json.dumps(plan_document(plan, full=False), indent=2, ensure_ascii=False) + "\n").encode()
    if what == "circuit.cir":
        return _netlist(plan, state)
    if what.endswith(".svg"):
        kinds: dict[str, PictureKind] = {
            "map.svg": "map", "board.svg": "board", "layout.svg": "layout",
            "fuse-window.svg": "fuse-window", "pinch.svg": "pinch",
            "wiring.svg": "wiring", "connections.svg": "connections",
        }  # fmt: skip
        return drawing_svg(draw(plan, kinds[what], subject, state, judged=judged))
    strip = next((one for one in STRIPS if what == f"labels-{one}.pdf"), None)
    if strip is not None:
        return strip_pdf(plan, strip, link)
    report = evaluate(plan) if judged else without_judgement(evaluate(plan))
    if what == "report.json":
        return TypeAdapter(Report).dump_json(report, indent=2) + b"\n"
    if what.endswith(".csv"):
        tables: dict[str, Callable[[], bytes]] = {
            "runs.csv": lambda: runs_csv(report),
            "loads.csv": lambda: loads_csv(plan, report),
            "faults.csv": lambda: faults_csv(report),
            "states.csv": lambda: states_csv(plan, report),
            "channels.csv": lambda: channels_csv(plan, report),
            "bundles.csv": lambda: bundles_csv(plan, report),
            "cut-list.csv": lambda: cut_list_csv(plan),
            "labels.csv": lambda: labels_csv(plan),
        }
        return tables[what]()
    title = what.removesuffix(".pdf").replace("-", " ")
    job = plan.job
    stamp = Stamp(title, job.name, job.customer, job.workshop, revision, date, report.practice_label)
    if what == "fuse-map.pdf":
        return fuse_map_pdf(plan, report, stamp, paper, link)
    papers: dict[str, Callable[[Plan, Report, Stamp, PaperSize], bytes]] = {
        "run-sheet.pdf": run_sheet_pdf,
        "drawings.pdf": drawings_pdf,
        "wiring.pdf": wiring_pdf,
        "reasons.pdf": reasons_pdf,
        "cut-list.pdf": cut_list_pdf,
        "order.pdf": order_pdf,
        "proving-sheet.pdf": proving_sheet_pdf,
        "plates.pdf": plates_pdf,
    }
    return papers[what](plan, report, stamp, paper)
