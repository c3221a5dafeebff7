"""The first power-up: dead first, then fuse by fuse, with what to read at each."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from lucernis.core.build.losses import losses
from lucernis.core.build.steps import Step
from lucernis.core.build.work import Work, called
from lucernis.core.sizing.fusing import RunFuse, far_key
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.model import Battery, Charger, KeyedFeed, Load, Run, Switch

_AT_WORK = {
    "dcdc": ("Engine off, each battery at its own volts; engine on, both rise. If only one does, it does nothing.", ""),
    "sun": ("Panels plugged last; in the light the battery's volts rise.", ""),
    "shore": ("The battery's volts rise.", "Its mains side is for licensed people."),
}
# So many of the largest losses are told.
_WORST = 5
_WHY = "If it blows, find out why before another goes in."


def _step(key: str, text: str, place: str, needs: Sequence[str], check: str, reading: str, caution: str = "") -> Step:
    return Step(
        f"power:{key}",
        "power_up",
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


def _fuses(work: Work) -> Iterator[tuple[Run, bool, RunFuse]]:
    sized = sized_plan(work.plan)
    for run in work.plan.runs:
        for finish, key in ((False, run.id), (True, far_key(run.id))):
            made = sized.fuses.get(key)
            if made is not None and made.fuse is not None:
                yield run, finish, made


def _fuse_step(work: Work, run: Run, finish: bool, made: RunFuse, needs: Sequence[str]) -> Step:
    near, far = (run.finish, run.start) if finish else (run.start, run.finish)
    here, there = work.parts[near.part], work.parts[far.part]
    count = f"{made.count} × " if made.count > 1 else ""
    what = f"{count}{made.fuse.label} {made.fuse.rating_a:g} A" if made.fuse is not None else "fuse"
    if isinstance(there, Load):
        check = f"At {there.name}, before it is plugged in: the positive is positive, volts as at {here.name}."
        reading = f"volts at {there.name}"
    else:
        check = f"Volts before and behind it are the same; right way round at {there.name}."
        reading = f"volts at {there.name}"
    return _step(
        f"fuse:{far_key(run.id) if finish else run.id}",
        f"{called(run)}: {what} in, at {here.name}",
        work.place(here),
        needs,
        check,
        reading,
        caution=_WHY,
    )


def _at_work(work: Work, before: Sequence[str]) -> Iterator[Step]:
    """Keyed feeds and chargers, once everything behind them is in."""
    for part in work.plan.parts:
        here = work.place(part)
        if isinstance(part, KeyedFeed):
            text = f"{part.name}: off, on, while the engine is cranked"
            check = "Dead when off, live when on; note whether it falls away while cranking."
            yield _step(f"keyed:{part.id}", text, here, before, check, f"volts at {part.name}")
        elif isinstance(part, Charger):
            check, caution = _AT_WORK[part.form]
            yield _step(
                f"charge:{part.id}", f"{part.name} at work", here, before, check, "volts at the battery", caution
            )


def power_up(work: Work, landed: Sequence[str]) -> list[Step]:
    """The first power-up as a list.

    Parameters
    ----------
    work : Work
        The plan's.
    landed : sequence of str
        Ids of the steps that land the battery leads; they come before.

    Returns
    -------
    list of Step
        Dead; batteries at rest; fuses from the batteries outwards and switches with them, those of loads last and the
        smallest of these first; keyed feeds; chargers; ten minutes at load, and everything tightened once more.
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
    feeds: list[tuple[Run, bool, RunFuse]] = []
    branches: list[tuple[Run, bool, RunFuse]] = []
    for run, finish, made in _fuses(work):
        far = work.parts[(run.start if finish else run.finish).part]
        (branches if isinstance(far, Load) else feeds).append((run, finish, made))

    def depth(one: tuple[Run, bool, RunFuse]) -> tuple[int, str]:
        run, finish, _ = one
        return work.depth[(run.finish if finish else run.start).part], run.tag

    ranked: list[tuple[tuple[int, int, str], Step]] = [
        ((depth(one)[0], 0, one[0].tag), _fuse_step(work, *one, before)) for one in feeds
    ]
    for part in work.plan.parts:
        if isinstance(part, Switch):
            text = f"{part.name}: off, nothing behind it; on, the same volts as before it"
            step = _step(f"switch:{part.id}", text, work.place(part), before, "Off it stops everything behind it.",
                         f"volts behind {part.name}")  # fmt: skip
            ranked.append(((work.depth[part.id], 1, part.tag), step))
    found += [step for _, step in sorted(ranked, key=lambda one: one[0])]
    before = [step.id for step in found]

    def rating(one: tuple[Run, bool, RunFuse]) -> tuple[float, str]:
        fuse = one[2].fuse
        return (fuse.rating_a if fuse is not None else 0.0), one[0].tag

    found += [_fuse_step(work, *one, before) for one in sorted(branches, key=rating)]
    before = [step.id for step in found]
    found += _at_work(work, before)
    before = [step.id for step in found]
    lost = losses(work.plan, sized_plan(work.plan))
    reading = f"volts at {lost[0].source} less volts at {lost[0].name}" if lost else ""
    load = _step("load", "Everything on that can be on together, ten minutes", "", before,
                 "A hand near each joint, not on it: none is warm. No breaker opens; cycle it as the vehicle will.",
                 reading)  # fmt: skip
    told = tuple(f"{one.name}: some {one.volts:.2f} V lost at {one.amps:.1f} A" for one in lost[:_WORST])
    load = replace(load, lines=told)
    again = _step("again", "Off again; every stud tightened once more, grub screws after a day", "", [load.id],
                  "None gives.", "", caution="Negative off first.")  # fmt: skip
    return [*found, load, again]
