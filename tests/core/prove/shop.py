"""What the tests of proving share: plans made ready once, and vehicles as they were really built, by a seed."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from lucernis.core.prove.cause import Cause
from lucernis.core.prove.causes import causes_of
from lucernis.core.prove.frame import Frame, frame, spread
from lucernis.core.prove.living import Living, live
from lucernis.demo import demo_plan


@cache
def ready(name: str) -> Frame:
    """A demo plan made ready for the meter."""
    return frame(demo_plan(name))


@cache
def sound(name: str, situation: str) -> Living:
    """A situation of a demo plan with nothing wrong."""
    made = ready(name)
    return live(made, made.situations[situation])


@cache
def every_cause(name: str) -> dict[str, Cause]:
    """All causes of a demo plan by their ids."""
    return {one.id: one for one in causes_of(ready(name))}


@dataclass(frozen=True)
class Built:
    """How one vehicle differs from its plan: everything that spreads, drawn once."""

    ohm: NDArray[np.float64]
    source_v: NDArray[np.float64]
    inside: NDArray[np.float64]
    draw: NDArray[np.float64]


def built(made: Frame, rng: np.random.Generator, living: Living) -> Built:
    """Draw a vehicle. Volts at rest and inside resistances spread as they do in this situation."""
    gives = living.given_a > 0
    return Built(
        made.ohm * np.exp(made.spread_ln * rng.standard_normal(len(made.ohm))),
        living.sources.spread_v * rng.standard_normal(len(made.rest_v))
        + made.bank * made.bank_spread_v * rng.standard_normal(),
        np.exp(living.sources.spread_ln * rng.standard_normal(len(made.rest_v))),
        np.exp(np.where(gives, spread("give"), spread("draw")) * rng.standard_normal(len(gives))),
    )
