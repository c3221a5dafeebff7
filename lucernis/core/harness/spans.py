"""Where a run lies along its own length: in which channel from which metre to which."""

from __future__ import annotations

from collections.abc import Sequence

from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.laid import Layout
from lucernis.plan.model import Plan, Run


class Spans:
    """Channels along the runs of one plan.

    Parameters
    ----------
    fed : Plan
        Its runs as `as_fed` writes them.
    turned : frozenset of str
        Runs that were turned for it.
    layout : Layout
        Ways of the plan as it was typed.
    slack_frac : float
        What a tape along the wire's own way leaves out. [1]
    """

    def __init__(self, fed: Plan, turned: frozenset[str], layout: Layout, slack_frac: float) -> None:
        self._turned, self._layout, self._slack_frac = turned, layout, slack_frac
        self._measured = measured_channels(fed)
        self._known: dict[str, tuple[tuple[str, float, float], ...]] = {}

    def length_m(self, run: Run) -> float:
        """What of a run is laid: a way along channels has tails and slack already, what a person measured along the
        wire's own way has neither, and a guess is no better for slack. [m]"""
        route = self._layout.routes.get(run.id)
        pinned = run.way is not None and run.way.length_pinned
        followed = route is not None and not route.missing and not pinned
        return run.length_m * (1.0 if followed or run.length_guessed else 1 + self._slack_frac)

    def channels(self, run: Run) -> tuple[str, ...]:
        """Channels of a run from its fed end on, one twice where it comes back through it."""
        return tuple(channel for channel, _, _ in self.of_run(run))

    def of_run(self, run: Run) -> tuple[tuple[str, float, float], ...]:
        """Channels of a run from its fed end on with where each begins and ends. [m]"""
        if run.id not in self._known:
            self._known[run.id] = self._spans(run)
        return self._known[run.id]

    def _spans(self, run: Run) -> tuple[tuple[str, float, float], ...]:
        route = self._layout.routes.get(run.id)
        if route is None or not route.channels:
            return ()
        channels = list(route.channels)
        first_m, last_m = route.tail_start_m, route.tail_finish_m
        if run.id in self._turned:
            channels.reverse()
            first_m, last_m = last_m, first_m
        lengths = [self._measured[one].length_m or 0.0 for one in channels]
        along_m = first_m + sum(lengths) + last_m
        # Slack lies all along.
        scale = self.length_m(run) / along_m if along_m > 0 else 1.0
        found, at_m = [], first_m
        for channel, length_m in zip(channels, lengths, strict=True):
            found.append((channel, at_m * scale, (at_m + length_m) * scale))
            at_m += length_m
        return tuple(found)

    def channels_between(self, row: Sequence[Run], from_m: float, to_m: float) -> tuple[str, ...]:
        """Channels a stretch of runs in a row lies in, in order.

        Parameters
        ----------
        row : sequence of Run
            Runs in a row.
        from_m, to_m : float
            From the fed end of the first. [m]

        Returns
        -------
        tuple of str
            One twice where the wire comes back through it.
        """
        found, before_m = [], 0.0
        for run in row:
            for channel, begin_m, end_m in self.of_run(run):
                # The stretch that holds its middle: of a wire cut within a channel one piece passes a hole in it.
                middle_m = before_m + (begin_m + end_m) / 2
                if from_m <= middle_m < to_m:
                    found.append(channel)
            before_m += self.length_m(run)
        return tuple(found)
