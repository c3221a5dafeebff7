"""Sizes runs may have because of others: one line, one size; nothing thinner than what it feeds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lucernis.core.circuit.topology import Topology
from lucernis.core.sizing.options import Case, Refusal
from lucernis.practice.rules import RuleValues


def line_heads(topology: Topology, cases: Mapping[str, Case]) -> dict[str, str]:
    """Runs in a row with the same current, each with the first of its row.

    Parameters
    ----------
    topology : Topology
        The feeding tree.
    cases : Mapping
        Sizes each run may have.

    Returns
    -------
    dict
        Run id to the id of the first run of its line, only for those that follow one. A line ends where it branches,
        at batteries, bars and blocks, at what draws, at a pin, and where the number of conductors changes.
    """
    heads: dict[str, str] = {}
    for run_id in topology.order:
        run, onward = topology.runs[run_id], topology.onward(topology.finish_of[run_id])
        if onward is None:
            continue
        other = topology.runs[onward]
        mesh = {run_id, other.id} & topology.both_fed
        free = not (cases[run_id].pinned or cases[other.id].pinned or cases[run_id].forced or cases[other.id].forced)
        if free and not mesh and run.parallel == other.parallel:
            heads[other.id] = heads.get(run_id, run_id)
    return heads


def _in_common(head: Case, others: list[Case]) -> tuple[Case, list[Case]]:
    """The head with the sizes all of its line may have, and those of the line that can be had with it."""
    followers = []
    options = head.options
    for other in others:
        labels = {one.size.label for one in other.options}
        both = tuple(one for one in options if one.size.label in labels)
        if both:
            options = both
            followers.append(other)
    least = options[0].size.area_mm2
    refused = [
        Refusal(one.size.label, "line", "the rest of its line asks for more")
        for one in head.options
        if one.size.area_mm2 < least * 0.999
    ]
    return replace(head, options=options, refusals=(*head.refusals, *refused)), followers


def in_lines(topology: Topology, cases: dict[str, Case]) -> None:
    """Let every line go by its first run: its sizes are those all of it may have, its copper and drop all of it.

    Parameters
    ----------
    topology : Topology
        The feeding tree.
    cases : dict
        Sizes each run may have; changed in place.
    """
    lines: dict[str, list[str]] = {}
    for run_id, first in line_heads(topology, cases).items():
        lines.setdefault(first, []).append(run_id)
    for head_id, members in lines.items():
        head, followers = _in_common(cases[head_id], [cases[one] for one in members])
        for follower in followers:
            labels = {one.size.label for one in head.options}
            own = replace(
                follower,
                options=tuple(one for one in follower.options if one.size.label in labels),
                leader=head_id,
                in_line=True,
            )
            cases[follower.run.id] = own
            head.with_it.extend((own, *follower.with_it))
        cases[head_id] = head


def fed_by_line(topology: Topology, cases: Mapping[str, Case], run_id: str) -> list[str]:
    """Runs that what ends a run's line feeds and that should not be thicker than it; pins ask nothing of others."""
    ends = [run_id, *(one.run.id for one in cases[run_id].with_it if one.in_line)]
    fed = [child for end in ends for child in topology.fed_runs[topology.finish_of[end]]]
    return [one for one in fed if one not in ends and not cases[one].pinned and one not in topology.both_fed]


def tapered(topology: Topology, cases: dict[str, Case], values: RuleValues) -> None:
    """Let nothing nearer the source be thinner than what runs behind it need for their own current, warmth and fuse.

    Parameters
    ----------
    topology : Topology
        The feeding tree.
    cases : dict
        Sizes each run may have; changed in place. A pin asks nothing of others, and what a terminal does not take
        stays as it was.
    values : RuleValues
        Whether the rule holds at all.
    """
    if not values.taper:
        return
    for run_id in reversed(topology.order):
        case = cases[run_id]
        if case.pinned or case.in_line:
            continue
        needs = [
            cases[child].options[0].size.area_mm2 * cases[child].run.parallel
            for child in fed_by_line(topology, cases, run_id)
        ]
        least = max(needs, default=0.0) / case.run.parallel * 0.999
        kept = tuple(one for one in case.options if one.size.area_mm2 >= least) or case.options[-1:]
        if len(kept) < len(case.options):
            refused = [
                Refusal(one.size.label, "taper", "thinner than what it feeds has to be")
                for one in case.options
                if one not in kept
            ]
            cases[run_id] = replace(case, options=kept, refusals=(*case.refusals, *refused))
