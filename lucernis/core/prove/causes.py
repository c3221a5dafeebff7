"""Everything that may be wrong with a built circuit, one thing at a time."""

from __future__ import annotations

from functools import lru_cache

from lucernis.core.itself import Itself
from lucernis.core.prove.cause import Cause
from lucernis.core.prove.cause_devices import loose, neighbours, of_consumer, of_source
from lucernis.core.prove.cause_pieces import exchanged, of_element, of_run
from lucernis.core.prove.frame import Frame


def causes_of(frame: Frame) -> list[Cause]:
    """All single things that may be wrong.

    Parameters
    ----------
    frame : Frame
        The plan.

    Returns
    -------
    list of Cause
        Piece by piece, run by run, source by source, consumer by consumer, with the odds of fault_priors.csv.
    """
    return list(_every(Itself(frame)))


@lru_cache(maxsize=4)
def _every(this: Itself[Frame]) -> tuple[Cause, ...]:
    frame, found = this.thing, list[Cause]()
    for at, element in enumerate(frame.elements):
        found += of_element(frame, at, element)
    for index in range(len(frame.plan.runs)):
        found += of_run(frame, index)
    for at, name in enumerate(frame.sized.wiring.sources):
        found += of_source(frame, at, name)
    for at, name in enumerate(frame.sized.wiring.consumers):
        found += of_consumer(frame, at, name)
    found += [*exchanged(frame), *neighbours(frame), *loose(frame)]
    return tuple(found)
