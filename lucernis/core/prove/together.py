"""Causes that nothing read so far tells apart, and the reading that would."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from lucernis.core.prove.next_reading import Next, next_readings
from lucernis.core.prove.suspects import Case

# A cause with less of all belief is no rival any more; a group takes up at least so much of it. Practice. [1]
_RIVAL, _GROUP = 0.08, 0.6


@dataclass(frozen=True, slots=True)
class Together:
    """Causes named as one: their ids and words, their share of all belief, and the reading that parts them; None where
    no reading does and one has to look."""

    ids: tuple[str, ...]
    texts: tuple[str, ...]
    share: float
    parted_by: Next | None


def together(case: Case, *, now: str | None = None) -> Together | None:
    """The likely causes as long as there are several.

    Parameters
    ----------
    case : Case
        Weighed.
    now : str, optional
        The situation that is made just now.

    Returns
    -------
    Together or None
        None while belief is spread over everything, or where one cause stands out.
    """
    shares = case.by_cause()
    rivals = [at for at in np.argsort(-shares, kind="stable").tolist() if shares[at] >= _RIVAL]
    rivals = [at for at in rivals if case.causes[at].kind != "sound"]
    whole = float(shares[rivals].sum())
    if len(rivals) < 2 or whole < _GROUP or not case.taken:
        return None
    belief = np.where(np.isin(case.owner, rivals), case.belief, 0.0)
    among = replace(case, belief=belief / belief.sum())
    best = next(iter(next_readings(among, 1, now=now)), None)
    return Together(
        tuple(case.causes[at].id for at in rivals), tuple(case.causes[at].text for at in rivals), whole, best
    )
