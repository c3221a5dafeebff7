"""A fault in words, as it is put into a simulated vehicle: "C07 joint 40 mohm", "C03 fuse open", "F02 draws 2"."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from lucernis.core.prove.cause import Cause, Change, ohm_text
from lucernis.core.prove.causes import causes_of
from lucernis.core.prove.frame import Frame
from lucernis.errors import NotUnderstood

_WORDS: dict[str, tuple[str, ...]] = {
    "joint": ("joint", "earth"),
    "off": ("joint_off",),
    "fuse": ("fuse_contact",),
    "blown": ("fuse_blown",),
    "wire": ("wire_chafed",),
    "broken": ("wire_open",),
    "thin": ("wire_thin",),
    "short": ("wire_short",),
    "leak": ("wire_leak",),
    "contact": ("contact_bad",),
    "stays-open": ("contact_open",),
    "welded": ("contact_welded",),
    "backfeed": ("backfeed",),
    "weak": ("battery_weak", "charger_weak"),
    "flat": ("battery_flat",),
    "cell": ("battery_cell",),
    "gives-nothing": ("battery_off", "charger_dead"),
    "draws": ("load_heavy",),
    "draws-nothing": ("load_dead",),
    "stuck": ("load_stuck",),
    "crossed": ("crossed",),
    "alternator-dead": ("alternator_dead",),
    "alternator-low": ("alternator_low",),
    "bypassed": ("shunt_bypassed",),
    "parallel-off": ("parallel_off",),
    "fuse-small": ("fuse_small",),
    "fuse-big": ("fuse_big",),
    "both-thin": ("thin_both",),
    "coil": ("coil_open",),
    "exchanged": ("exchanged",),
    "returns-by": ("return_by",),
}
ALLOWED = (
    "a tag, one of "
    + ", ".join(_WORDS)
    + "; then + or -, start or finish, and a size such as 40 mohm, 1.5 ohm, 0.4 A, 2 times"
)
_SIZE = re.compile(r"^(\d+(?:[.,]\d+)?)\s*(mohm|mΩ|ohm|Ω|a|times|x)?$", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Planted:
    """A fault put into a plan: the cause, the change, and both in words."""

    cause: Cause
    change: Change
    text: str


def _refuse(text: str, why: str) -> NotUnderstood:
    return NotUnderstood(f"fault {text[:80]!r}: {why}", field="fault", value=text[:80], allowed=ALLOWED)


def planted(frame: Frame, text: str) -> Planted:
    """Read a fault in words.

    Parameters
    ----------
    frame : Frame
        The plan it is put into.
    text : str
        Tag, kind, and if need be which leg, which end and how much.

    Returns
    -------
    Planted
        Of several pieces that fit the first: the positive, at the start.

    Raises
    ------
    NotUnderstood
        If it is none, or nothing of that kind is there.
    """
    words = text.replace("−", "-").split()
    if len(words) < 2:
        raise _refuse(text, "a tag and what is wrong with it")
    tag, kind, *rest = words
    if kind not in _WORDS:
        raise _refuse(text, f"{kind!r} is no kind of fault")
    leg = "n" if "-" in rest or "negative" in rest else "p" if "+" in rest or "positive" in rest else ""
    end = "finish" if "finish" in rest else "start" if "start" in rest else ""
    left = " ".join(one for one in rest if one not in ("+", "-", "positive", "negative", "start", "finish", "open"))
    ids = {one.id for one in (*frame.plan.parts, *frame.plan.runs) if one.tag.lower() == tag.lower()}
    for cause in causes_of(frame):
        owner = cause.subject.partition(":")[0]
        mine = cause.run in ids or cause.part in ids if not cause.subject else owner in ids
        if not mine or cause.kind not in _WORDS[kind]:
            continue
        pieces = cause.subject.split(":")
        if leg and (len(pieces) < 3 or pieces[1] != leg):
            continue
        if end and not pieces[-1].endswith(end):
            continue
        change = cause.changes[-1] if "open" in rest and cause.changes[-1].open else _sized(text, cause, left)
        return Planted(cause, change, f"{cause.text}, {change.in_words}")
    raise _refuse(text, f"nothing of that kind at {tag!r}")


def _sized(text: str, cause: Cause, left: str) -> Change:
    """The change in the size that was named, or the middle one."""
    usual = cause.changes[len(cause.changes) // 2]
    if not left:
        return usual
    found = _SIZE.match(left)
    if found is None:
        raise _refuse(text, f"{left!r} is no size")
    value, unit = float(found.group(1).replace(",", ".")), (found.group(2) or "").lower()
    if unit in ("mohm", "mω", "ohm", "ω"):
        ohm = value / 1000 if unit.startswith("m") else value
        if not 0 < ohm <= 1e6:
            raise _refuse(text, "0 to 1 Mohm")
        if usual.bridge[0] >= 0:
            return replace(usual, bridge_ohm=ohm, in_words=ohm_text(ohm))
        if usual.element >= 0 or usual.closes >= 0:
            return replace(usual, series_ohm=ohm, in_words=f"{ohm_text(ohm)} too much")
    if unit == "a" and usual.drain_a > 0:
        return replace(usual, drain_a=value, in_words=f"{value:g} A")
    if unit in ("times", "x", "") and 0 < value <= 100:
        if usual.load >= 0 and usual.drain_a == 0:
            return replace(usual, draw=value, in_words=f"{value:g} times its plate")
        if usual.source >= 0:
            return replace(usual, inside=value, in_words=f"{value:g} times its inside")
        if usual.times != 1:
            return replace(usual, times=value, in_words=f"{value:g} times the resistance")
    raise _refuse(text, f"{left!r} is no size of that")
