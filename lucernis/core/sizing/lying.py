"""The wires that lie in each channel, by the sizes chosen."""

from __future__ import annotations

from lucernis.core.layout.bundles import conductors, times
from lucernis.core.layout.fill import outside_mm
from lucernis.core.layout.laid import Layout
from lucernis.core.sizing.choice import Sized


def wires_mm(layout: Layout, sized: Sized) -> dict[str, list[float]]:
    """Outside diameters of every wire in each channel, bonds too.

    Parameters
    ----------
    layout : Layout
        Where the runs lie.
    sized : Sized
        Their sizes.

    Returns
    -------
    dict
        By channel, in the order of the plan. [mm]
    """
    sizes = {**sized.beside, **sized.chosen}
    return {
        channel: [
            outside_mm(sizes[run.id].size.area_mm2)
            for run in runs
            for _ in range(conductors(run) * times(layout.routes, run, channel))
        ]
        for channel, runs in layout.lying.items()
    }
