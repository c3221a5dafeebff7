"""Text on paper: glyph by glyph from the shipped face, else from the one behind it, so that no sign prints as a box."""

from __future__ import annotations

import io
from functools import cache
from importlib.resources import files
from itertools import groupby
from typing import Any

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

_FACES = (
    ("Text", "text-regular"), ("TextBold", "text-bold"), ("Mono", "mono-regular"),
    ("Behind", "fallback-regular"), ("BehindBold", "fallback-bold"),
)  # fmt: skip
_BEHIND = {"Text": "Behind", "TextBold": "BehindBold", "Mono": "Behind"}
# Signs that no shipped face has are written as this.
_UNKNOWN = "?"


@cache
def register_fonts() -> None:
    """Make the shipped fonts known to the PDF library, once."""
    folder = files("lucernis.exports") / "fonts"
    for name, file in _FACES:
        pdfmetrics.registerFont(TTFont(name, io.BytesIO((folder / f"{file}.ttf").read_bytes())))
    pdfmetrics.registerFontFamily("Text", normal="Text", bold="TextBold", italic="Text", boldItalic="TextBold")


@cache
def _has(font: str) -> frozenset[int]:
    register_fonts()
    return frozenset(pdfmetrics.getFont(font).face.charToGlyph)


def face_of(sign: str, font: str) -> str:
    """The face a sign is printed from: the one asked for, the one behind it, or none."""
    if ord(sign) in _has(font) or sign.isspace():
        return font
    behind = _BEHIND.get(font, "Behind")
    return behind if ord(sign) in _has(behind) else ""


def pieces_of(text: str, font: str) -> list[tuple[str, str]]:
    """A text as pieces of one face each.

    Parameters
    ----------
    text : str
        What is printed.
    font : str
        ``Text``, ``TextBold`` or ``Mono``.

    Returns
    -------
    list of (str, str)
        Face and text; a sign that none has is a question mark.
    """
    found = []
    for face, signs in groupby(text, key=lambda one: face_of(one, font)):
        run = "".join(signs)
        found.append((face, run) if face else (font, _UNKNOWN * len(run)))
    return found


def text_width(text: str, font: str, size: float) -> float:
    """How wide a text prints. [pt]"""
    return sum(float(pdfmetrics.stringWidth(run, face, size)) for face, run in pieces_of(text, font))


def draw_text(canvas: Any, x: float, y: float, text: str, font: str, size: float) -> None:
    """A line of text on a canvas from its left. [pt]"""
    for face, run in pieces_of(text, font):
        canvas.setFont(face, size)
        canvas.drawString(x, y, run)
        x += float(pdfmetrics.stringWidth(run, face, size))


def draw_right(canvas: Any, x: float, y: float, text: str, font: str, size: float) -> None:
    """A line of text on a canvas to its right end. [pt]"""
    draw_text(canvas, x - text_width(text, font, size), y, text, font, size)


def markup(text: str, font: str) -> str:
    """A text for the PDF library's paragraphs, what the face lacks in the one behind it.

    Parameters
    ----------
    text : str
        Plain.
    font : str
        Of the paragraph.

    Returns
    -------
    str
        Escaped.
    """
    found = []
    for face, run in pieces_of(text, font):
        safe = run.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        found.append(safe if face == font else f'<font name="{face}">{safe}</font>')
    return "".join(found)
