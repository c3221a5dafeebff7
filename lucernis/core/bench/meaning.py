"""What a course means, in words: the line a person takes home, what happened in turn, and what the bench can't know."""

from __future__ import annotations

from dataclasses import dataclass, field

from lucernis.core.bench.cells import harm_of
from lucernis.core.bench.circuit import BenchCircuit, is_averaged
from lucernis.core.bench.course import Course, Event
from lucernis.core.bench.setup import Setup
from lucernis.core.protection.fuse_curves import band, breaking_capacity
from lucernis.core.protection.fuses import family
from lucernis.core.report import Verdict
from lucernis.core.wire.copper import wire_size
from lucernis.core.wire.heat import short_time_limit

_LOAD = {
    "current": "{:.3g} A",
    "resistive": "{:.4g} W of heater or bulb",
    "electronics": "{:.4g} W of electronics",
    "inverter": "inverter at {:.4g} W",
    "motor": "motor of {:.3g} A",
    "heater": "heater of {:.4g} W that cycles",
}
_SAFE_S = 5.0


def time_text(time_s: float) -> str:
    """A time as it is said: milliseconds, seconds, minutes."""
    if time_s < 1:
        return f"{1000 * time_s:.3g} ms"
    if time_s < 120:
        return f"{time_s:.3g} s"
    return f"{time_s / 60:.3g} min" if time_s < 7200 else f"{time_s / 3600:.3g} h"


def _amps_text(current_a: float) -> str:
    """Amperes to three digits at most."""
    return f"{current_a:.0f} A" if current_a >= 100 else f"{current_a:.3g} A"


def setup_text(setup: Setup) -> str:
    """A set-up in one line: wire, load, fuse."""
    wire = wire_size(setup.wire.system, setup.wire.size).label
    load = "dead short" if setup.load.kind == "short" else _LOAD[setup.load.kind].format(setup.load.amount)
    fuse = "no fuse" if setup.fuse is None else f"{setup.fuse.rating_a:g} A {family(setup.fuse.family).label}"
    bad = f" · joint with {setup.end.too_much_mohm:g} mΩ too much" if setup.end.too_much_mohm > 0 else ""
    bundle = f" · {setup.wire.neighbours + 1} in the bundle" if setup.wire.neighbours else ""
    return f"{wire} · {setup.wire.length_m:.3g} m · {load} · {fuse}{bad}{bundle}"


@dataclass(slots=True)
class Told:
    """A course in words. `lines` are what happened in turn, `unknown` what the bench can't know."""

    setup: str
    verdict: Verdict
    outcome: str
    lines: list[str] = field(default_factory=list)
    unknown: list[str] = field(default_factory=list)


def event_text(course: Course, event: Event) -> str:
    """One thing that happened, in words."""
    setup = course.setup
    harm = harm_of(setup.wire.insulation_c)
    where = {"wire": "the middle of the wire", "joint": "the joint", "fuse": "the fuse", "load": "the load"}[
        event.where
    ]
    says = {
        "rated": f"{where} reaches {setup.wire.insulation_c} °C, what the insulation is rated for",
        "softens": f"insulation softens at {where} ({harm.softens_c:g} °C)",
        "blisters": f"insulation blisters at {where} ({harm.blisters_c:g} °C)",
        "smokes": f"insulation smokes at {where} ({harm.smokes_c:g} °C)",
        "bare": f"{where} is bare copper, what covered it has burnt ({harm.gone_c:g} °C)",
        "melts": f"copper melts at {where} (1085 °C)",
        "parts": f"{where} parts",
        "opens": "the fuse opens" if setup.fuse is None else f"the {setup.fuse.rating_a:g} A fuse opens",
        "neighbours": f"the wires around it reach {setup.wire.insulation_c} °C",
        "lacks": _lacks(setup),
    }
    return f"{time_text(event.time_s)}: {says[event.what]}"


def _lacks(setup: Setup) -> str:
    if setup.load.kind in ("inverter", "electronics"):
        return "the load does not get its volts and switches off"
    return "source and wire cannot pass that many amperes"


def tell(course: Course) -> Told:
    """A course in words.

    Parameters
    ----------
    course : Course
        As `follow` gives it.

    Returns
    -------
    Told
        *Stop* where insulation is harmed for good, copper melts or the fuse may burst; *fix* where the rating is passed
        for longer than a short may last; *look* where the load is not served; *good* otherwise.
    """
    setup = course.setup
    first = {(one.what, one.where): one.time_s for one in course.events}
    harmed = [one for one in course.events if one.what in ("blisters", "smokes", "bare", "melts", "parts")]
    bursts = _bursts(course)
    over = [one for one in course.events if one.what == "rated"]
    opened = first.get(("opens", "fuse"))
    limit_c, _ = short_time_limit(setup.wire.insulation_c)
    brief = opened is not None and bool(over) and opened - over[0].time_s <= _SAFE_S
    brief = brief and max(course.hottest_c, course.hottest_joint_c) <= limit_c
    verdict: Verdict = "good"
    if harmed or bursts:
        verdict = "stop"
    elif over and not brief:
        verdict = "fix"
    elif any(one.what == "lacks" for one in course.events):
        verdict = "look"
    told = Told(setup_text(setup), verdict, _outcome(course, opened, bursts))
    told.lines = [event_text(course, one) for one in course.events]
    if bursts:
        told.lines.append(bursts)
    told.unknown = _unknown(course)
    return told


def _bursts(course: Course) -> str:
    fuse = course.setup.fuse
    if fuse is None or not any(one.what == "opens" for one in course.events):
        return ""
    known = breaking_capacity(fuse.family, BenchCircuit(course.setup).open_v).breaking_a
    if known is None or course.most_a <= known:
        return ""
    most, breaks = _amps_text(course.most_a), _amps_text(known)
    return f"{most} is more than this fuse can break ({breaks}): it may burst or go on burning"


def _outcome(course: Course, opened: float | None, bursts: str) -> str:
    setup, parts = course.setup, []
    hot = max(course.hottest_c, course.hottest_joint_c)
    where = "joint" if course.hottest_joint_c > course.hottest_c + 5 else "wire"
    parts.append(f"{where} to {hot:.0f} °C")
    worst = next(
        (
            one
            for what in ("parts", "melts", "bare", "smokes", "blisters", "softens")
            for one in course.events
            if one.what == what
        ),
        None,
    )
    if worst is not None:
        verb = {
            "parts": "parts", "melts": "melts", "bare": "burns bare", "smokes": "smokes", "blisters": "blisters",
            "softens": "softens",
        }[worst.what]  # fmt: skip
        parts.append(f"{worst.where} {verb} at {time_text(worst.time_s)}")
    if setup.fuse is not None:
        parts.append("the fuse holds" if opened is None else _opens(course))
    if bursts:
        parts.append("beyond what the fuse can break")
    if any(one.what == "lacks" for one in course.events):
        parts.append(_lacks(setup))
    return ", ".join(parts)


def _opens(course: Course) -> str:
    fast, slow = course.fuse_fast_s, course.fuse_slow_s
    if fast is not None and slow is not None and slow > fast:
        return f"the fuse opens between {time_text(fast)} and {time_text(slow)}"
    if fast is not None and slow is None:
        return f"the fuse may open at {time_text(fast)}; a slow one had not by the end"
    return f"the fuse opens at {time_text(slow if slow is not None else fast or 0.0)}"


def _unknown(course: Course) -> list[str]:
    setup = course.setup
    whats = {one.what for one in course.events}
    found = ["How it lies beside that: carpet, foam or a panel over it keeps heat in, moving air takes it away."]
    if setup.fuse is not None:
        found.append("Where in its band a fuse opens: two out of one box differ. Both edges are told.")
        if course.most_a > band(setup.fuse.family).fast.multiple[-1] * setup.fuse.rating_a:
            found.append(
                "How quick the fuse is beyond its last published point: the heat that opens it there is kept, no less."
            )
    if is_averaged(setup, course.end_s):
        cycles = course.end_s / (setup.load.on_s + setup.load.off_s)
        found.append(
            f"Single cycles: {cycles:,.0f} of them are followed as the root mean square of their current, which warms "
            "alike."
        )
    if setup.end.too_much_mohm > 0:
        found.append("What a bad contact does when it is hot: it seldom keeps its ohms, most grow.")
    if setup.wire.neighbours:
        found.append("How a bundle is laid: it is taken as round and even, this wire in its middle.")
    if "bare" in whats:
        found.append("Flame, smoke and soot: past that point bare copper in still air is followed, and nothing lights.")
    if "parts" in whats:
        found.append("The arc that may stand where the wire parts.")
    if setup.load.kind == "short" and setup.source.open_v is None:
        found.append("Whether the battery's own management cuts off first, and how its volts give way.")
    elif course.end_s > 600 and setup.source.open_v is None:
        found.append("The battery runs down meanwhile: its volts are held here.")
    if course.cut_short:
        found.append("What comes later: the course took too many steps and ends early.")
    return found
