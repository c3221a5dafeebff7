"""Who is who in a plan document: items of lists are known by an id of their own, never by their place."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, Protocol, TypeVar

from lucernis.errors import EditRefused

Document = dict[str, Any]
# What an item without an id of its own is known by: a changed rule, the time a load is on, the position of a switch.
_KEYS = ("id", "rule", "load", "part")


class _Known(Protocol):
    @property
    def id(self) -> str | None:
        """Its own, if it has one."""

    def model_copy(self, *, update: dict[str, Any]) -> Any:
        """A copy with other fields."""


Item = TypeVar("Item", bound=_Known)


def with_ids(items: Sequence[Item], prefix: str) -> tuple[Item, ...]:
    """Items of a list, each with an id: those that have none get the next free one.

    Parameters
    ----------
    items : sequence of models
        Models with an `id` that may be missing.
    prefix : str
        What a new id begins with.

    Returns
    -------
    tuple
        The same items in the same order.

    Raises
    ------
    ValueError
        If two have the same id.
    """
    taken = [one.id for one in items if one.id is not None]
    if len(set(taken)) != len(taken):
        raise ValueError("id: two of the list have the same")
    free = (name for number in range(1, 10_000) if (name := f"{prefix}{number}") not in taken)
    return tuple(one if one.id is not None else one.model_copy(update={"id": next(free)}) for one in items)


def known_by(item: Any) -> str | None:
    """What an item of a list is known by, as ``id:r7``, a word in a list of words as ``is:l3``; None where it has
    nothing of its own."""
    if isinstance(item, str):
        return f"is:{item}"
    if not isinstance(item, dict):
        return None
    if "code" in item and "subject" in item:
        return f"waiver:{item['code']}/{item['subject']}"
    key = next((one for one in _KEYS if item.get(one) is not None), None)
    return None if key is None else f"{key}:{item[key]}"


def _steps(path: str) -> Iterator[str]:
    for step in path.split("/")[1:]:
        yield step.replace("~1", "/").replace("~0", "~")


def place_of(document: Document, path: str) -> str:
    """A JSON pointer with places, from one that names items by what they are known by.

    Parameters
    ----------
    document : dict
        The document it is to be applied to.
    path : str
        As ``/runs/id:r7/length_m``. Steps that are no names stay as they are.

    Returns
    -------
    str
        As ``/runs/4/length_m``.

    Raises
    ------
    EditRefused
        If nothing of that name is in its list.
    """
    found: list[str] = []
    at: Any = document
    for name in _steps(path):
        step = name
        if isinstance(at, list) and ":" in name:
            place = next((k for k, one in enumerate(at) if known_by(one) == name), None)
            if place is None:
                raise EditRefused(f"{name} is gone from this plan", field="path", value=path, allowed="what is there")
            step = str(place)
        found.append(step)
        if isinstance(at, dict):
            at = at.get(step)
        else:
            at = at[int(step)] if isinstance(at, list) and _is_place(step) and int(step) < len(at) else None
    return "".join("/" + one.replace("~", "~0").replace("/", "~1") for one in found)


def _is_place(step: str) -> bool:
    # A superscript is a digit to Python and no number.
    return step.isascii() and step.isdigit()


def names_places(path: str) -> bool:
    """Whether a pointer names an item by its place in a list, which others may have moved."""
    return any(_is_place(step) for step in _steps(path))
