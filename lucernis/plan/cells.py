"""The load list as a grid of texts: its columns, and how each text becomes a field. Paste and CSV use it too."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, get_args

from lucernis.errors import EditRefused, NotUnderstood, OutOfRange, UnknownRow
from lucernis.plan.sizes import parse_size
from lucernis.plan.units import Preference, parse_length_m, parse_number
from lucernis.practice.rules import SizeSystem

Column = Literal[
    "name",
    "power_w",
    "current_a",
    "behaviour",
    "count",
    "hours_per_day",
    "place",
    "sensitive",
    "keyed",
    "length",
    "loop_length",
    "maker_least",
    "maker_greatest",
    "maker_fuse_a",
    "rated_v",
    "min_v",
    "drop_limit_pct",
]
COLUMNS: tuple[Column, ...] = get_args(Column)

_BEHAVIOUR = {
    "constant_power": ("constant power", "constant_power", "power", "electronics", "inverter", "compressor"),
    "constant_current": ("constant current", "constant_current", "current", "led"),
    "resistive": ("resistive", "resistance", "heater", "filament"),
}
_YES = ("yes", "y", "true", "1", "x", "on", "sensitive", "keyed")
_NO = ("no", "n", "false", "0", "", "off", "constant")


@dataclass(frozen=True, slots=True)
class CellContext:
    """What the meaning of a typed text depends on."""

    preference: Preference
    size_system: SizeSystem
    places: dict[str, str]
    confirmed: bool


def _flag(text: str, field: str) -> bool:
    word = text.strip().lower()
    if word in _YES:
        return True
    if word in _NO:
        return False
    raise NotUnderstood(
        f"{field}: {text[:20]!r} is neither yes nor no", field=field, value=text[:20], allowed="yes or no"
    )


def _behaviour(text: str) -> str:
    word = text.strip().lower()
    for behaviour, words in _BEHAVIOUR.items():
        if word in words:
            return behaviour
    raise UnknownRow(
        f"behaviour: {text[:30]!r} is not known",
        field="behaviour",
        value=text[:30],
        allowed="constant power, constant current or resistive",
    )


def _number(text: str, field: str, unit: str) -> float:
    clean = text.strip()
    if clean.lower().endswith(unit.lower()):
        clean = clean[: -len(unit)]
    return parse_number(clean, field=field)


def _length(run: dict[str, Any] | None, column: Column, text: str, context: CellContext) -> None:
    if run is None:
        raise EditRefused(
            "length: the load is on no circuit", field=column, value=text[:40], allowed="put it on a circuit first"
        )
    reading: Literal["one_way", "loop"] = "loop" if column == "loop_length" else "one_way"
    length_m, typed = parse_length_m(text, field=column, preference=context.preference, reading=reading)
    run["length_m"], run["length_as_typed"], run["length_confirmed"] = length_m, typed, context.confirmed
    run["length_guessed"] = False
    if run.get("way") is not None:
        # A run that follows channels keeps its way, but no longer takes its length from it.
        run["way"] = run["way"] | {"length_pinned": True}


def set_cell(part: dict[str, Any], run: dict[str, Any] | None, column: Column, text: str, context: CellContext) -> None:
    """Write a typed text into the load, or into the run that feeds it.

    Parameters
    ----------
    part : dict
        The load in the document; changed.
    run : dict or None
        The run that feeds it; changed for lengths.
    column : str
        One of `COLUMNS`.
    text : str
        As typed; empty clears where the field may be empty.
    context : CellContext
        Units, size system, places.

    Raises
    ------
    NotUnderstood
        If the text is no quantity of its kind.
    OutOfRange
        If the quantity is not allowed.
    UnknownRow
        If it names a place, behaviour or size that is not there.
    EditRefused
        If a length is typed for a load on no circuit.
    """
    clean = text.strip()
    maker = part.setdefault("maker", {})
    if column == "name":
        if not clean:
            raise OutOfRange("name must not be empty", field="name", value="", allowed="1 to 80 characters")
        part["name"] = clean
    elif column in ("power_w", "current_a"):
        other, unit = ("current_a", "W") if column == "power_w" else ("power_w", "A")
        if clean:
            part[column], part[other] = _number(clean, column, unit), None
        else:
            part[column] = None
    elif column == "behaviour":
        part["behaviour"] = _behaviour(clean)
    elif column == "count":
        value = _number(clean or "1", "count", "x")
        if value != int(value):
            raise OutOfRange("count must be a whole number", field="count", value=value, allowed="1 to 200")
        part["count"] = int(value)
    elif column == "hours_per_day":
        part["hours_per_day"] = _number(clean, column, "h") if clean else None
    elif column in ("rated_v", "min_v"):
        part[column] = _number(clean, column, "V") if clean else None
    elif column == "drop_limit_pct":
        part["drop_limit_frac"] = _number(clean, column, "%") / 100 if clean else None
    elif column == "place":
        if clean and clean.casefold() not in context.places:
            raise UnknownRow(
                f"place: no place {clean[:40]!r}",
                field="place",
                value=clean[:40],
                allowed=", ".join(sorted(context.places)) or "add places under Vehicle first",
            )
        part["place"] = context.places[clean.casefold()] if clean else None
    elif column in ("sensitive", "keyed"):
        part[column] = _flag(clean, column)
    elif column in ("length", "loop_length"):
        _length(run, column, clean, context)
    elif column == "maker_fuse_a":
        maker["fuse_a"] = _number(clean, column, "A") if clean else None
    else:
        side = "least" if column == "maker_least" else "greatest"
        if not clean:
            maker[side] = None
            return
        system, size = parse_size(clean, default_system=context.size_system, field=column)
        maker[side] = {"system": system, "size": size}
