"""The first power-up: dead first, then fuse by fuse, each read where something is live by then."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from lucernis.core.build.losses import losses
from lucernis.core.build.steps import Phase, Step
from lucernis.core.build.work import Work
from lucernis.core.circuit.switching import Rising, SwitchingPlan
from lucernis.core.circuit.terminals import point, positive_point
from lucernis.core.harness.holders import Holder
from lucernis.plan.model import Battery, Charger, KeyedFeed, Load, Part, Run, Switch

_AT_WORK = {
    "dcdc": ("Engine off, each battery at its own volts; engine on, both rise. If only one does, it does nothing.", ""),
    "sun": ("In the light the battery's volts rise.", ""),
    "shore": ("The battery's volts rise.", "Its mains side is for licensed people."),
}
# So many of the largest losses are told.
_WORST = 5
_WHY = "If it blows, find out why before another goes in."
_DEAD_YET = "Nothing is live behind it yet"


def _step(
    key: str, text: str, place: str, needs: Sequence[str], check: str, reading: str, caution: str = "",
    phase: Phase = "power_up",
) -> Step:  # fmt: skip
    return Step(
        f"power:{key}",
        phase,
        text,
        place,
        caution=caution,
        check=check,
        reading=reading,
        needs=tuple(needs),
        done_as=text,
        work="power_up",
        amount=1,
    )


class _Rising:
    """What is live by now: fuses that are in, contacts that are closed. Batteries alone give; chargers come later."""

    def __init__(self, work: Work) -> None:
        self.work = work
        self.waiting: dict[str, set[str]] = {}
        for one in work.harness.holders.values():
            self.waiting.setdefault(one.run, set()).add(one.key)
        switching = SwitchingPlan(work.plan)
        diodes = (contact for contact in switching.contacts if contact[0] in switching.diodes)
        self._rising = Rising(switching, diodes, self.waiting)

    @property
    def live(self) -> set[str]:
        """Positive points that are live."""
        return self._rising.live

    def put_in(self, holder: Holder) -> None:
        """A fuse goes in."""
        self.waiting[holder.run].discard(holder.key)
        if not self.waiting[holder.run]:
            self._rising.join(holder.run)

    def close(self, part: Part) -> None:
        """A switch or a keyed feed is closed in its usual position."""
        self._rising.close((part.id, "main"))

    def is_live(self, run: Run, *, finish: bool) -> bool:
        """Whether an end of a run is live."""
        end = run.finish if finish else run.start
        return positive_point(self.work.parts[end.part], end, "finish" if finish else "start") in self.live

    def reaches(self, part: Switch) -> bool:
        """Whether something live comes to a switch, by whichever of its terminals it was wired to."""
        return any(name in self.live for name in (part.id, point(part.id, "out")))


def _fuse_step(rising: _Rising, one: Holder, needs: Sequence[str]) -> Step:
    work = rising.work
    run = work.runs[one.run]
    there = work.parts[(run.start if one.finish else run.finish).part]
    near = rising.is_live(run, finish=one.finish)
    rising.put_in(one)
    live = near and rising.is_live(run, finish=not one.finish)
    terminal = (run.start if one.finish else run.finish).terminal
    told = f"{there.name}, {terminal}" if terminal and isinstance(there, Charger) else there.name
    reading = f"volts at {told}" if live else ""
    if not live and rising.waiting[run.id]:
        check = f"{_DEAD_YET}: its fuse at the other end is still out."
    elif not live:
        check = f"{_DEAD_YET}: a switch, a relay or a key before it is open. It is read once that is closed."
    elif isinstance(there, Load):
        check = f"At {there.name}, before it is plugged in: the positive is positive, volts as at {one.part_name}."
    else:
        check = f"Volts before and behind it are the same; right way round at {there.name}."
    name = f"{run.tag} {run.name}".strip()
    text = f"{name}: {one.what} in, {one.where}"
    return _step(f"fuse:{one.key}", text, one.place, needs, check, reading, caution=_WHY)


def _switch_step(rising: _Rising, part: Switch, needs: Sequence[str]) -> Step:
    live = rising.reaches(part)
    rising.close(part)
    text = f"{part.name}: off, nothing behind it; on, the same volts as before it"
    check = "Off, nothing behind it is live yet; once a charger's fuse is in, that charger can keep it live."
    if not live:
        text, check = f"{part.name}: on", f"{_DEAD_YET}."
    reading = f"volts behind {part.name}" if live else ""
    return _step(f"switch:{part.id}", text, rising.work.place(part), needs, check, reading)


def _rising_steps(
    rising: _Rising, fuses: list[Holder], switches: list[Switch], before: Sequence[str]
) -> Iterator[Step]:
    """Fuses and switches from the batteries outwards: next always one whose near side is live, while there is one."""
    work = rising.work

    def rank(one: Holder | Switch) -> tuple[bool, int, int, str]:
        if isinstance(one, Switch):
            return not rising.reaches(one), work.depth[one.id], 1, one.tag
        run = work.runs[one.run]
        near = rising.is_live(run, finish=one.finish)
        return not near, work.depth[one.part], 0, f"{one.tag}{one.finish}"

    left: list[Holder | Switch] = [*fuses, *switches]
    while left:
        one = min(left, key=rank)
        left.remove(one)
        yield _switch_step(rising, one, before) if isinstance(one, Switch) else _fuse_step(rising, one, before)


def _keyed(rising: _Rising, part: KeyedFeed, before: Sequence[str]) -> Step:
    was = frozenset(rising.live)
    rising.close(part)
    names = {one.id: one.name for one in rising.work.plan.parts}
    woken = sorted({names[name.partition(":")[0]] for name in rising.live - was} - {part.name})
    step = _step(
        f"keyed:{part.id}",
        f"{part.name}: off, on, while the engine is cranked",
        rising.work.place(part),
        before,
        "Dead when off, live when on; note whether it falls away while cranking.",
        f"volts at {part.name}" if part.id in was else "",
        phase="at_work",
    )
    return replace(step, lines=tuple(f"live with it: {name}" for name in woken))


def power_up(work: Work, landed: Sequence[str], sun: Sequence[Step]) -> list[Step]:
    """The first power-up as a list.

    Parameters
    ----------
    work : Work
        The plan's.
    landed : sequence of str
        Ids of the steps that land the battery leads; they come before.
    sun : sequence of Step
        Those that land and plug panels: a controller has its battery first.

    Returns
    -------
    list of Step
        Dead; batteries at rest; fuses from the batteries outwards and switches with them, those of loads last and the
        smallest of these first; panels; keyed feeds; chargers; ten minutes at load, and everything tightened once
        more. A reading is asked for only where something is live by then.
    """
    found = [
        _step("still", "Every fuse out, every switch off, everything unplugged", "", landed,
              "Nothing hums, nothing lights.", "")
    ]  # fmt: skip
    before = [found[0].id]
    found += [
        _step(f"rest:{one.id}", f"{one.name} at rest", work.place(one), before,
              "As its chemistry rests; the two leads of the meter the right way round.", f"volts at {one.name}")
        for one in work.plan.parts
        if isinstance(one, Battery)
    ]  # fmt: skip
    before = [step.id for step in found]
    rising = _Rising(work)
    branches: list[Holder] = []
    feeds: list[Holder] = []
    for one in work.harness.holders.values():
        run = work.runs[one.run]
        far = work.parts[(run.start if one.finish else run.finish).part]
        (branches if isinstance(far, Load) else feeds).append(one)
    switches = [part for part in work.plan.parts if isinstance(part, Switch)]
    found += _rising_steps(rising, feeds, switches, before)
    before = [step.id for step in found]
    found += [
        _fuse_step(rising, one, before) for one in sorted(branches, key=lambda one: (one.rating_a, one.tag, one.finish))
    ]
    before = [step.id for step in found]
    found += [replace(step, needs=tuple(dict.fromkeys((*step.needs, *before)))) for step in sun]
    before = [step.id for step in found]
    found += [_keyed(rising, part, before) for part in work.plan.parts if isinstance(part, KeyedFeed)]
    for part in work.plan.parts:
        if isinstance(part, Charger):
            check, caution = _AT_WORK[part.form]
            found.append(
                _step(f"charge:{part.id}", f"{part.name} at work", work.place(part), before, check,
                      "volts at the battery", caution, phase="at_work")
            )  # fmt: skip
    return [*found, *_at_load(work, [step.id for step in found])]


def _at_load(work: Work, before: Sequence[str]) -> list[Step]:
    """Ten minutes at load, and everything tightened once more."""
    lost = losses(work.plan, work.harness.sized)
    reading = f"volts at {lost[0].source} less volts at {lost[0].name}" if lost else ""
    load = _step("load", "Everything on that can be on together, ten minutes", "", before,
                 "A hand near each joint, not on it: none is warm. No breaker opens; cycle it as the vehicle will.",
                 reading, phase="at_work")  # fmt: skip
    told = tuple(f"{one.name}: some {one.volts:.2f} V lost at {one.amps:.1f} A" for one in lost[:_WORST])
    again = _step("again", "Off again; every stud tightened once more, grub screws after a day", "", [load.id],
                  "None gives.", "", caution="Negative off first.", phase="at_work")  # fmt: skip
    return [replace(load, lines=told), again]
