"""Says in words what differs between two plan documents, for the history and for a person whose edit came too late."""

from __future__ import annotations

from typing import Any

_WORDS = {
    "power_w": "watts",
    "current_a": "amps",
    "hours_per_day": "hours a day",
    "length_m": "length, one way m",
    "rated_v": "rated volts",
    "min_v": "lowest volts",
    "drop_limit_frac": "drop limit",
    "fuse_at_start": "fuse",
    "fuse_at_finish": "far fuse",
    "nominal_v": "nominal volts",
    "wire_colours": "wire colours",
    "capacity_ah": "capacity Ah",
    "discharge_a": "max continuous discharge A",
    "discharge_short_a": "discharge for seconds A",
    "charge_a": "max charge A",
    "charge_least_c": "not charged below °C",
    "short_circuit_a": "into a short A",
    "internal_ohm": "resistance Ω",
    "mass_kg": "mass kg",
    "out_a": "output A",
    "in_nominal_v": "input's nominal volts",
    "battery_c": "bank °C",
    "outside_c": "air by day °C",
    "coldest_c": "coldest morning °C",
    "usable_frac": "share of the bank used",
    "fair_frac": "fair week's share",
    "poor_frac": "poor week's share",
    "day": "course of the day",
}
_QUIET = {"length_as_typed", "length_confirmed", "id", "kind"}


def word_of(field: str) -> str:
    """A field in words."""
    return _WORDS.get(field, field.replace("_", " "))


def value_text(value: Any) -> str:
    """A value in words."""
    if value is None or value == "":
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, dict):
        if "size" in value and "system" in value:
            return f"{value['size']} {value['system']}"
        if "part" in value:
            return str(value["part"]) + (f" way {value['way']}" if value.get("way") else "")
        return (
            ", ".join(f"{key} {value_text(item)}" for key, item in value.items() if item is not None and key != "id")
            or "as computed"
        )
    if isinstance(value, list):
        return " ".join(value_text(item) for item in value) or "none"
    return str(value)


def _fields(label: str, before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    lines = []
    for key in {**before, **after}:
        old, new = before.get(key), after.get(key)
        if old != new and key not in _QUIET:
            lines.append(f"{label}{word_of(key)} {value_text(old)} → {value_text(new)}")
    return lines


def _label(one: dict[str, Any]) -> str:
    return str(one.get("name") or one.get("tag") or one.get("id"))


def _listed(what: str, before: list[dict[str, Any]], after: list[dict[str, Any]]) -> list[str]:
    old, new = {one["id"]: one for one in before}, {one["id"]: one for one in after}
    lines = [f"{what} {_label(new[one])} added" for one in new if one not in old]
    lines += [f"{what} {_label(old[one])} removed" for one in old if one not in new]
    for one in new:
        if one in old:
            lines += _fields(f"{_label(new[one])}: ", old[one], new[one])
    if not lines and [one["id"] for one in before] != [one["id"] for one in after]:
        lines.append(f"{what}s put in another order")
    return lines


def describe_changes(before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    """What differs, one line a field.

    Parameters
    ----------
    before : dict
        Full document.
    after : dict
        Full document.

    Returns
    -------
    list of str
        Empty when nothing differs.
    """
    lines: list[str] = []
    for section in ("job", "practice", "wire_colours"):
        lines += _fields("", before[section], after[section])
    lines += _fields("", *({key: one[key] for key in ("nominal_v", "units")} for one in (before, after)))
    lines += _fields("days: ", before.get("energy", {}), after.get("energy", {}))
    for section, word in (
        ("parts", "part"),
        ("runs", "run"),
        ("zones", "zone"),
        ("places", "place"),
        ("states", "state"),
    ):
        lines += _listed(word, before[section], after[section])
    old = {(one["code"], one["subject"]): one["reason"] for one in before["waivers"]}
    new = {(one["code"], one["subject"]): one["reason"] for one in after["waivers"]}
    lines += [
        f"waived {code} on {subject}: {reason}" for (code, subject), reason in new.items() if (code, subject) not in old
    ]
    lines += [f"waiver of {code} on {subject} taken back" for code, subject in old if (code, subject) not in new]
    return lines


def summary_line(before: dict[str, Any], after: dict[str, Any]) -> str:
    """The first changes in one line for the history."""
    lines = describe_changes(before, after)
    if not lines:
        return "No change"
    more = f" (+{len(lines) - 2} more)" if len(lines) > 2 else ""
    return "; ".join(lines[:2])[:200] + more
