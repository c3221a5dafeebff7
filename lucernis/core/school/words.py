"""Words of the trade and codes of the checks: what each is, why it matters, where it comes from, and a picture."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, Literal

from lucernis.core.checks.codes import CODES
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Tone, Words
from lucernis.errors import UnknownRow
from lucernis.practice.labels import LABELS

_STEP, _MIDDLE, _HIGH = 74.0, 34.0, 68.0
_NAMES = {
    "battery": "battery", "fuse": "fuse", "wire": "", "load": "load", "motor": "motor", "switch": "switch",
    "bar": "bar",
    "block": "block", "bond": "body", "charger": "charger", "panel": "panel", "shunt": "shunt", "short": "short",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Word:
    """A term or a code: what it is, and why it matters."""

    name: str
    kind: Literal["term", "code"]
    what: str
    why: str
    source: str


@cache
def _raw() -> dict[str, dict[str, Any]]:
    return tomllib.loads((files("lucernis.core.school") / "words.toml").read_text(encoding="utf-8"))


@cache
def words() -> tuple[Word, ...]:
    """All terms and codes, terms first, by name."""
    terms = [
        Word(name, "term", what, _raw()[name]["why"], _raw()[name]["source"]) for name, what in LABELS["terms"].items()
    ]
    codes = [Word(one.code, "code", f"{one.title} ({one.severity}).", one.why, one.source) for one in CODES.values()]
    return (*sorted(terms, key=lambda one: one.name.lower()), *sorted(codes, key=lambda one: one.name))


def word(name: str) -> Word:
    """One term or code.

    Raises
    ------
    UnknownRow
        If there is none of that name.
    """
    found = next((one for one in words() if one.name.lower() == name.lower()), None)
    if found is None:
        raise UnknownRow(
            f"no term or code {name!r}", field="name", value=name, allowed="a term of the glossary or a code"
        )
    return found


def word_picture(name: str) -> Drawing | None:
    """A picture of a term, from the shapes all drawings are made of; codes have none."""
    row = _raw().get(name)
    return None if row is None else _in_a_row(name, row["picture"])


def _in_a_row(name: str, pieces: Sequence[str]) -> Drawing:
    width = _STEP * len(pieces) + 8
    drawing = Drawing("word", f"Where {name.lower()} stands", "", width, _HIGH, columns=["From the battery on"])
    drawing.pieces.append(
        Piece("the line", strokes=[Stroke([(8, _MIDDLE), (width - 8, _MIDDLE)], tone="copper", width=3)])
    )
    for at, text in enumerate(pieces):
        meant, kind = text.startswith("["), text.strip("[]")
        x = 8 + at * _STEP
        piece = Piece(f"{_NAMES[kind] or 'wire'}{', this is it' if meant else ''}")
        tone: Tone = "copper" if meant else "ink"
        _shape(piece, kind, x, tone, meant=meant)
        label = _NAMES[kind] or ("wire" if meant else "")
        piece.words.append(Words(x + _STEP / 2, _HIGH - 4, label, tone=tone, size=12, anchor="middle", bold=meant))
        drawing.pieces.append(piece)
        drawing.rows.append([f"{_NAMES[kind] or 'wire'}{' (this)' if meant else ''}"])
    return drawing


def _shape(piece: Piece, kind: str, x: float, tone: Tone, *, meant: bool) -> None:
    left, right, middle = x + 12, x + _STEP - 12, x + _STEP / 2
    line = 3.0 if meant else 1.5
    if kind == "wire":
        if meant:
            piece.strokes.append(Stroke([(x + 4, _MIDDLE), (x + _STEP - 4, _MIDDLE)], tone=tone, width=8))
    elif kind == "fuse":
        piece.box(left + 6, _MIDDLE - 8, right - left - 12, 16, tone=tone, fill="copper_wash" if meant else "sheet")
        piece.strokes.append(Stroke([(left + 6, _MIDDLE), (right - 6, _MIDDLE)], tone=tone, width=line))
    elif kind == "switch":
        piece.strokes.append(Stroke([(left, _MIDDLE), (right, _MIDDLE)], tone="sheet", width=5))
        piece.strokes.append(Stroke([(left, _MIDDLE), (right - 4, _MIDDLE - 14)], tone=tone, width=line + 1))
    elif kind == "bond":
        for at, half in enumerate((14.0, 9.0, 4.0)):
            y = _MIDDLE + 4 + 5 * at
            piece.strokes.append(Stroke([(middle - half, y), (middle + half, y)], tone=tone, width=line))
    elif kind == "short":
        bolt = [(middle + 6, _MIDDLE - 18), (middle - 6, _MIDDLE), (middle + 4, _MIDDLE), (middle - 6, _MIDDLE + 18)]
        piece.strokes.append(Stroke(bolt, tone="stop", width=3))
    else:
        fill: Tone = "copper_wash" if meant else "sheet"
        piece.box(left, _MIDDLE - 14, right - left, 28, tone=tone, fill=fill)
        if kind == "battery":
            piece.strokes += [
                Stroke([(left + 8 + 20 * k, _MIDDLE - 14), (left + 8 + 20 * k, _MIDDLE - 19)], tone=tone, width=5)
                for k in (0, 1)
            ]
