"""What the report says of channels."""

from __future__ import annotations

from lucernis.core.evaluation.filling import Filler
from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.fill import bundle_mm, fill_frac, fill_limit, grommet_for, inside_needed_mm
from lucernis.core.report import ChannelReport, HoleReport
from lucernis.core.sizing.lying import wires_mm
from lucernis.plan.layout import Channel
from lucernis.plan.model import Plan


def _ambient_c(plan: Plan, channel: Channel) -> float:
    zones, places = {zone.id: zone for zone in plan.zones}, {place.id: place for place in plan.places}
    names = [channel.zone] if channel.zone else [places[channel.start].zone, places[channel.finish].zone]
    return max(zones[name].ambient_c for name in names)


def channel_reports(filler: Filler) -> list[ChannelReport]:
    """Every channel with what lies in it.

    Parameters
    ----------
    filler : Filler
        What the report is filled from.

    Returns
    -------
    list of ChannelReport
        In the order of the plan.
    """
    plan, layout = filler.plan, filler.layout
    places = {place.id: place.name for place in plan.places}
    wires = wires_mm(layout, filler.sized)
    found = []
    for channel_id, measured in measured_channels(plan).items():
        channel, lying = measured.channel, wires[channel_id]
        needed_mm = inside_needed_mm(lying, "hole")
        made = grommet_for(needed_mm) if lying else None
        findings = filler.of(channel_id)
        found.append(
            ChannelReport(
                id=channel_id,
                name=channel.name,
                start=places[channel.start],
                finish=places[channel.finish],
                length_m=measured.length_m,
                length_guessed=measured.guessed,
                ambient_c=_ambient_c(plan, channel),
                runs=[run.id for run in layout.lying[channel_id]],
                conductors=layout.counts[channel_id],
                wires=len(lying),
                bundle_mm=bundle_mm(lying),
                fill_frac=fill_frac(lying, channel.inside_mm) if channel.inside_mm is not None else None,
                fill_limit_frac=fill_limit(len(lying), "conduit")[0],
                inside_needed_mm=inside_needed_mm(lying, "conduit"),
                holes=[
                    HoleReport(
                        id=hole.id or "",
                        through=hole.through,
                        existing=hole.existing,
                        hole_mm=hole.hole_mm,
                        needed_mm=needed_mm,
                        grommet_mm=made[0] if made else None,
                        drill_mm=made[1] if made else None,
                    )
                    for hole in channel.crossings
                ],
                verdict=filler.verdict(findings),
                finding_ids=filler.ids(findings),
            )
        )
    return found
