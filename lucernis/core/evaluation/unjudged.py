"""A report with its judgement taken out: figures stay, verdicts and findings go. For those who are to find them."""

from __future__ import annotations

import dataclasses

from lucernis.core.report import Report


def without_judgement(report: Report) -> Report:
    """The figures of a report without its findings.

    Parameters
    ----------
    report : Report
        As `evaluate` gives it.

    Returns
    -------
    Report
        A copy: no findings, every verdict *good*, nothing open, and what was computed in place of a pin is the pin.
    """
    runs = [
        dataclasses.replace(
            run,
            verdict="good",
            finding_ids=[],
            wire=dataclasses.replace(run.wire, computed_label=run.wire.label),
        )
        for run in report.runs
    ]
    return dataclasses.replace(
        report,
        findings=[],
        summary=dataclasses.replace(report.summary, open_stop=0, open_fix=0, open_look=0, waived=0),
        runs=runs,
        loads=[dataclasses.replace(one, verdict="good", finding_ids=[]) for one in report.loads],
        parts=[dataclasses.replace(one, verdict="good", finding_ids=[]) for one in report.parts],
        channels=[dataclasses.replace(one, verdict="good", finding_ids=[]) for one in report.channels],
        working={},
    )
