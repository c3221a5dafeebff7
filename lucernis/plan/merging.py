"""Two hands on one plan: what each has changed, field by field, and where both changed the same."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from lucernis.plan.changes import value_text, word_of
from lucernis.plan.identity import known_by

Document = dict[str, Any]
Path = tuple[str, ...]
# A field, or a whole item, that is not there.
GONE = object()


@dataclass(frozen=True, slots=True)
class Merge:
    """Fields both changed, a line each, and whether the other side has all of this one's changes already."""

    conflicts: list[str]
    done_already: bool


def _fields(value: Any, at: Path, fields: dict[Path, Any], items: set[Path]) -> None:
    if isinstance(value, dict):
        for key, inner in value.items():
            _fields(inner, (*at, key), fields, items)
        if not value:
            fields[at] = {}
        return
    if isinstance(value, list):
        names = [known_by(one) for one in value]
        if value and all(names) and len(set(names)) == len(names):
            for name, inner in zip(names, value, strict=True):
                items.add((*at, str(name)))
                _fields(inner, (*at, str(name)), fields, items)
            return
    fields[at] = value


def _flat(document: Document) -> tuple[dict[Path, Any], set[Path]]:
    fields: dict[Path, Any] = {}
    items: set[Path] = set()
    _fields(document, (), fields, items)
    return fields, items


def _orders(document: Any, at: Path = ()) -> dict[Path, list[str]]:
    """Names in the order they stand in, per list of named items."""
    found: dict[Path, list[str]] = {}
    if isinstance(document, dict):
        for key, inner in document.items():
            found |= _orders(inner, (*at, key))
    elif isinstance(document, list) and document and all(known_by(one) for one in document):
        names = [str(known_by(one)) for one in document]
        found[at] = names
        for name, inner in zip(names, document, strict=True):
            found |= _orders(inner, (*at, name))
    return found


def _changed(before: Document, after: Document) -> tuple[dict[Path, Any], bool]:
    """Fields of what was there before that are no longer the same; and whether anything is new besides."""
    old, old_items = _flat(before)
    new, new_items = _flat(after)
    fresh = new_items - old_items
    found = {path: new.get(path, GONE) for path, value in old.items() if new.get(path, GONE) != value}
    for path, value in new.items():
        inside_new = any(path[:length] in fresh for length in range(1, len(path) + 1))
        if path not in old and not inside_new:
            found[path] = value
    then, now = _orders(before), _orders(after)
    for path in then.keys() & now.keys():
        both = set(then[path]) & set(now[path])
        order = [one for one in now[path] if one in both]
        if order != [one for one in then[path] if one in both]:
            found[(*path, "order")] = order
    return found, bool(fresh)


def _step(at: Any, step: str) -> Any:
    if isinstance(at, list):
        return next((one for one in at if known_by(one) == step), None)
    return at.get(step) if isinstance(at, dict) else None


def _label(path: Path, *documents: Document) -> str:
    """The item a field belongs to, by name, and the field in words."""
    name = ""
    for document in documents:
        at: Any = document
        for step in path:
            at = _step(at, step)
            if isinstance(at, dict) and (at.get("name") or at.get("tag")):
                name = str(at.get("name") or at.get("tag"))
        if name:
            break
    field = next((step for step in reversed(path) if ":" not in step), "")
    return f"{name}: {word_of(field)}" if name else word_of(field)


def merge(base: Document, mine: Document, theirs: Document) -> Merge:
    """What stands against making a change, composed on `base`, on top of somebody else's.

    Parameters
    ----------
    base : dict
        Full document the change was composed on.
    mine : dict
        What the change makes of it.
    theirs : dict
        The newest revision.

    Returns
    -------
    Merge
        Conflicts where both changed one field of what was there before to different values, or one took away what the
        other changed.
    """
    own, fresh = _changed(base, mine)
    others, _ = _changed(base, theirs)
    met = [path for path in own if path in others and own[path] != others[path]]
    lines = []
    for path in met:
        label = _label(path, theirs, base)
        if own[path] is GONE or others[path] is GONE:
            lines.append(f"{label} is taken away in {'yours' if own[path] is GONE else 'theirs'}")
        else:
            lines.append(f"{label} is {value_text(own[path])} in yours, {value_text(others[path])} in theirs")
    done = not fresh and all(path in others and others[path] == value for path, value in own.items())
    return Merge(list(dict.fromkeys(lines)), done)
