"""A drawing as SVG that stands by itself: black on white, fonts by name only."""

from __future__ import annotations

import re
from xml.sax.saxutils import escape, quoteattr

from lucernis.core.pictures.drawing import Drawing, Stroke, Tone, Words

PRINT: dict[Tone, str] = {
    "ink": "#15181b",
    "soft": "#4d555e",
    "line": "#9aa1a8",
    "zinc": "#dfe2e4",
    "sheet": "#ffffff",
    "copper": "#9c4f1e",
    "copper_wash": "#f3e2d5",
    "stop": "#a81f1f",
    "fix": "#815000",
    "look": "#2b5880",
    "good": "#2b6238",
    "stop_wash": "#fae7e5",
    "fix_wash": "#f8edd6",
    "none": "none",
    "wire_red": "#c22f2a",
    "wire_black": "#17191b",
    "wire_yellow": "#e2bd1c",
    "wire_brown": "#6d4424",
    "wire_blue": "#2b62ad",
    "wire_green": "#2f7d43",
    "wire_white": "#f7f7f5",
    "wire_orange": "#dd7420",
    "wire_grey": "#858c92",
    "wire_purple": "#6f4a96",
    "wire_pink": "#d98aa5",
    "wire_tan": "#c7a478",
}


# What XML 1.0 has no way to write; a name may hold it all the same.
_NO_XML = re.compile("[^\\t\\n\\r\\x20-\\ud7ff\\ue000-\\ufffd\\U00010000-\\U0010ffff]")


def _text(text: str) -> str:
    return escape(_NO_XML.sub("\ufffd", text))


def path_data(stroke: Stroke) -> str:
    """The path of a stroke."""
    points = [f"{x:.1f} {y:.1f}" for x, y in stroke.points]
    if not stroke.curve:
        return "M" + "L".join(points)
    return "M" + points[0] + "".join(f"C{','.join(points[k : k + 3])}" for k in range(1, len(points) - 2, 3))


def _stroke(stroke: Stroke) -> str:
    dash = ' stroke-dasharray="5 4"' if stroke.dashed else ""
    return (
        f'<path d="{path_data(stroke)}" fill="{PRINT[stroke.fill]}" stroke="{PRINT[stroke.tone]}" '
        f'stroke-width="{stroke.width:.2f}"{dash}/>'
    )


def _words(words: Words) -> str:
    family = "Atkinson Hyperlegible Mono, monospace" if words.mono else "Atkinson Hyperlegible Next, sans-serif"
    weight = ' font-weight="700"' if words.bold else ""
    return (
        f'<text x="{words.x:.1f}" y="{words.y:.1f}" font-family={quoteattr(family)} font-size="{words.size:g}" '
        f'text-anchor="{words.anchor}" fill="{PRINT[words.tone]}"{weight}>{_text(words.text)}</text>'
    )


def drawing_svg(drawing: Drawing) -> bytes:
    """A drawing as an SVG file.

    Parameters
    ----------
    drawing : Drawing
        The picture.

    Returns
    -------
    bytes
        UTF-8; the same drawing gives the same bytes. The table is in its description, so that it can be read out.
    """
    said = "; ".join(" ".join(row) for row in drawing.rows)
    parts = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{drawing.width:.0f}" height="{drawing.height:.0f}" '
        f'viewBox="0 0 {drawing.width:.0f} {drawing.height:.0f}" role="img">',
        f"<title>{_text(drawing.title)}</title>",
        f"<desc>{_text(drawing.note)} {_text(said)}</desc>",
        f'<rect width="{drawing.width:.0f}" height="{drawing.height:.0f}" fill="#ffffff"/>',
    ]
    for piece in drawing.pieces:
        parts.append(f"<g><title>{_text(piece.label)}</title>")
        parts += [_stroke(one) for one in piece.strokes]
        parts += [_words(one) for one in piece.words]
        parts.append("</g>")
    parts.append("</svg>")
    return ("\n".join(parts) + "\n").encode()
