"""A text kept as what changed against another: pieces taken out and put in, found in the text cut at its items."""

from __future__ import annotations

import hashlib
import json
import re
from difflib import SequenceMatcher

# Between the items of a JSON list: most edits touch one or two of them.
_CUT = re.compile(r'(?<=[}\]"0-9el]),(?=[{"\[])')


def checksum(text: str) -> str:
    """SHA-256 of a text in UTF-8, as 64 hexadecimal digits."""
    return hashlib.sha256(text.encode()).hexdigest()


def _pieces(text: str) -> list[str]:
    return _CUT.split(text)


def delta(before: str, after: str) -> str | None:
    """What changed from one text to another, as JSON; None where it is not worth it.

    Parameters
    ----------
    before, after : str
        Compact JSON texts.

    Returns
    -------
    str or None
        `[[at, gone, [put in, ...]], ...]` over the pieces of `before`, last change first. None if it would be more
        than a quarter of the text.
    """
    old, new = _pieces(before), _pieces(after)
    start = 0
    while start < min(len(old), len(new)) and old[start] == new[start]:
        start += 1
    end = 0
    while end < min(len(old), len(new)) - start and old[-1 - end] == new[-1 - end]:
        end += 1
    middle_old, middle_new = old[start : len(old) - end], new[start : len(new) - end]
    matcher = SequenceMatcher(None, middle_old, middle_new, autojunk=False)
    steps = [[start + a, b - a, middle_new[c:d]] for kind, a, b, c, d in matcher.get_opcodes() if kind != "equal"]
    found = json.dumps(steps[::-1], separators=(",", ":"), ensure_ascii=False)
    return found if len(found) * 4 < len(after) and applied([*old], found) == after else None


def _apply(pieces: list[str], change: str) -> None:
    for at, gone, put_in in json.loads(change):
        pieces[at : at + gone] = put_in


def applied(pieces: list[str], change: str) -> str:
    """A text after one change. Raises ValueError, TypeError or IndexError if the change makes no sense."""
    _apply(pieces, change)
    return ",".join(pieces)


def rebuilt(whole: str, changes: list[str]) -> str:
    """A text from a whole one and all changes since, oldest first; raises as `applied` does."""
    pieces = _pieces(whole)
    for one in changes:
        _apply(pieces, one)
    return ",".join(pieces)
