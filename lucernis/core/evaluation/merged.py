"""One report of several systems that nothing joins."""

from __future__ import annotations

from collections.abc import Sequence

from lucernis.core.evaluation.judged import together
from lucernis.core.report import Extreme, Report, SizeInUse, StateSummary, Summary


def merged(reports: Sequence[Report]) -> Report:
    """The reports of a plan's systems as one.

    Parameters
    ----------
    reports : sequence of Report
        The one with most battery first; they name the same states and channels.

    Returns
    -------
    Report
        The first with what the others say besides. Currents of the meter strip add up.
    """
    whole = reports[0]
    findings = together([one.findings for one in reports])
    for other in reports[1:]:
        for name in ("loads", "runs", "blocks", "parts", "nodes"):
            getattr(whole, name).extend(getattr(other, name))
        whole.working = {**other.working, **whole.working}
        for channel, also in zip(whole.channels, other.channels, strict=True):
            channel.finding_ids = list(dict.fromkeys([*channel.finding_ids, *also.finding_ids]))
    whole.findings = findings
    whole.summary = _summary([one.summary for one in reports])
    open_ones = [one.severity for one in findings if one.waived is None]
    whole.summary.open_stop, whole.summary.open_fix, whole.summary.open_look = (
        open_ones.count(one) for one in ("stop", "fix", "look")
    )
    whole.summary.waived = sum(1 for one in findings if one.waived is not None)
    return whole


def _worst(some: Sequence[Extreme]) -> Extreme:
    known = [one for one in some if one.subject is not None]
    return max(known, key=lambda one: one.value) if known else some[0]


def _summary(some: Sequence[Summary]) -> Summary:
    sizes: dict[str, SizeInUse] = {}
    for one in (size for summary in some for size in summary.sizes):
        size = sizes.setdefault(one.label, SizeInUse(one.label, one.area_mm2, 0.0, 0))
        size.conductor_m, size.runs = size.conductor_m + one.conductor_m, size.runs + one.runs
    return Summary(
        battery_current_a=sum(one.battery_current_a for one in some),
        battery_state=some[0].battery_state,
        ah_per_day=sum(one.ah_per_day for one in some),
        load_current_a=sum(one.load_current_a for one in some),
        worst_drop_frac=_worst([one.worst_drop_frac for one in some]),
        hottest_wire_c=_worst([one.hottest_wire_c for one in some]),
        copper_kg=sum(one.copper_kg for one in some),
        sizes=sorted(sizes.values(), key=lambda one: one.area_mm2),
        open_stop=0,
        open_fix=0,
        open_look=0,
        waived=0,
        states=[
            StateSummary(
                state_id=state.state_id,
                name=state.name,
                battery_current_a=sum(one.states[at].battery_current_a for one in some),
                worst_drop_frac=_worst([one.states[at].worst_drop_frac for one in some]),
                converged=all(one.states[at].converged for one in some),
            )
            for at, state in enumerate(some[0].states)
        ],
    )
