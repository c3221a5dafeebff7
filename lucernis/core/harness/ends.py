"""What goes on the end of a wire: by what it is joined to, by the lug and its size."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from lucernis.core.layout.fill import outside_mm
from lucernis.core.sizing.ends import Fitting
from lucernis.core.wire.copper import WireSize, wire_size
from lucernis.practice.tables import load_table

# Insulated push-ons are told apart by the colour of their collar, up to these sizes [mm²]; DIN 46245, from memory.
_COLLARS = ((1.65, "red"), (2.7, "blue"), (6.7, "yellow"))
# Large lugs begin where a hand crimper ends. [mm²]
LUG_FROM_MM2 = 9.9
# Ends whose grip can be tried by pulling.
_CRIMPED = ("lug", "ring", "push-on", "butt splice", "pin", "solar connector")
# A tube goes over the barrel, which is thicker than the wire's insulation by about so much. Common practice, no source.
_OVER_BARREL = 1.3
# 6 mm² of a table and 6.0000001 of a formula are one size.
_HAIR = 1.001
_STUDDED = ("lug", "ring")
# Three wires go into a butt splice only where all are thin; it is made for wire up to this [mm²], and its barrel grips
# none so many times thinner than the other. Common practice, no source.
_THIN_MM2, _THIN_MOST = 2.7, 3
_SPLICED_MM2, _SPLICED_TIMES = 17.0, 3.0
# Keys go by figures that anybody may type, so that no cache of them may grow for ever.
_MOST_KNOWN = 4096


@dataclass(frozen=True, slots=True)
class MadeEnd:
    """What is put on an end and how: insulation taken off and tube over it [mm], what the crimp must stand [N].

    `what` is its kind, `fits` that with size and thread; `stud` the thread, empty where there is none. `again_mm` is
    the wire it takes to cut it off and make it once more.
    """

    what: str
    fits: str
    stud: str
    strip_mm: float
    again_mm: float
    shrink_before_mm: float | None
    shrink_after_mm: float | None
    shrink_length_mm: float
    pull_n: float | None


@lru_cache(maxsize=_MOST_KNOWN)
def pull_n(area_mm2: float) -> float:
    """What a crimp on a wire must stand for a minute before it is trusted.

    Parameters
    ----------
    area_mm2 : float
        Copper, > 0. [mm²]

    Returns
    -------
    float
        Of the AWG size nearest to it in copper, crimp_pull.csv; the least size below all of them. [N]
    """
    rows = load_table("crimp_pull").rows
    near = min(rows, key=lambda row: abs(math.log(wire_size("awg", row["awg"]).area_mm2 / area_mm2)))
    return float(near["pull_n"])


@lru_cache(maxsize=_MOST_KNOWN)
def shrink_for(outside: float) -> tuple[float, float] | None:
    """Tube that goes over a crimp and grips its wire.

    Parameters
    ----------
    outside : float
        Outside diameter of the wire. [mm]

    Returns
    -------
    tuple of float or None
        Inside diameter as sold and fully shrunk, of heat_shrink.csv. [mm]
    """
    for row in load_table("heat_shrink").rows:
        before, after = float(row["before_mm"]), float(row["after_mm"])
        if before >= _OVER_BARREL * outside and after <= outside:
            return before, after
    return None


def stud_of(found: Fitting, size: WireSize) -> str:
    """The thread a lug or ring goes on where nobody has said: that of studs.csv, empty where the row has none."""
    row = next((one for one in load_table("studs").rows if one["device"] == found.cell.row), None)
    if row is None:
        return ""
    thick = row["thick"] and size.area_mm2 >= float(row["thick_from_mm2"])
    return row["thick"] if thick else row["label"]


def splice_joins(areas_mm2: Sequence[float]) -> bool:
    """Whether a butt splice joins some wires: two of about one size, up to what it is made for, or three thin ones.

    Parameters
    ----------
    areas_mm2 : sequence of float
        Copper of each. [mm²]

    Returns
    -------
    bool
        Common practice, no source.
    """
    thick, thin = max(areas_mm2, default=0.0), min(areas_mm2, default=0.0)
    most = _THIN_MOST if thick <= _THIN_MM2 * _HAIR else 2
    return len(areas_mm2) <= most and thick <= min(_SPLICED_MM2, _SPLICED_TIMES * thin) * _HAIR


@lru_cache(maxsize=_MOST_KNOWN)
def _how(what: str, area_mm2: float) -> tuple[float, float, float]:
    """Strip, tube and once more of a kind of end on a wire, strip_lengths.csv; the last row for any thicker. [mm]"""
    rows = [row for row in load_table("strip_lengths").rows if row["what"] == what]
    row = next((one for one in rows if area_mm2 <= float(one["to_mm2"]) * _HAIR), rows[-1])
    return float(row["strip_mm"]), float(row["tube_mm"]), float(row["again_mm"])


def end_of(joint: str, size: WireSize, stud: str) -> MadeEnd:
    """What a wire of a size ends in.

    Parameters
    ----------
    joint : str
        Kind of joint, as in joint_resistance.csv.
    size : WireSize
        The wire.
    stud : str
        The thread a lug or ring goes on.

    Returns
    -------
    MadeEnd
        Strip length and tube by what goes on and its size, never by the kind of joint alone.
    """
    what = load_table("wire_ends").find(joint)["fields"]
    if what in _STUDDED:
        what = "lug" if size.area_mm2 >= LUG_FROM_MM2 else "ring"
        fits, thread = f"{what} {size.label} × {stud or 'M8'}", stud or "M8"
    elif joint == "push_on":
        what = "push-on"
        colour = next((name for most, name in _COLLARS if size.area_mm2 <= most), "none made")
        fits, thread = f"push-on 6.3 mm, {colour}", ""
    elif joint in ("lever", "cap"):
        fits, thread = what, ""
    else:
        fits, thread = f"{what} {size.label}", ""
    strip_mm, tube_mm, again_mm = _how(what, size.area_mm2)
    shrink = shrink_for(outside_mm(size.area_mm2)) if tube_mm else None
    return MadeEnd(
        what=what,
        fits=fits,
        stud=thread,
        strip_mm=strip_mm,
        again_mm=again_mm,
        shrink_before_mm=shrink[0] if shrink else None,
        shrink_after_mm=shrink[1] if shrink else None,
        shrink_length_mm=tube_mm if shrink else 0.0,
        pull_n=pull_n(size.area_mm2) if what in _CRIMPED else None,
    )
