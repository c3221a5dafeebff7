"""What a picture is made of: shapes in pixels, grouped by what they stand for, and the same content as a table."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

Tone = Literal[
    "ink", "soft", "line", "zinc", "sheet", "copper", "copper_wash", "stop", "fix", "look", "good", "stop_wash",
    "fix_wash", "none",
    "wire_red", "wire_black", "wire_yellow", "wire_brown", "wire_blue", "wire_green", "wire_white", "wire_orange",
    "wire_grey", "wire_purple", "wire_pink", "wire_tan",
]  # fmt: skip
Anchor = Literal["start", "middle", "end"]
PIXELS_PER_MM = 1.3


@dataclass(slots=True)
class Stroke:
    """A line through points, or a filled outline. `curve` takes the points in fours as cubic curves."""

    points: list[tuple[float, float]]
    tone: Tone = "ink"
    width: float = 1.0
    fill: Tone = "none"
    dashed: bool = False
    curve: bool = False


@dataclass(slots=True)
class Words:
    """A line of text; `y` is its base line."""

    x: float
    y: float
    text: str
    tone: Tone = "ink"
    size: float = 13.0
    anchor: Anchor = "start"
    bold: bool = False
    mono: bool = False


@dataclass(slots=True)
class Piece:
    """Shapes that stand for one thing. With a subject it can be opened; its label is read out."""

    label: str
    subject: str | None = None
    strokes: list[Stroke] = field(default_factory=list)
    words: list[Words] = field(default_factory=list)

    def box(
        self, x: float, y: float, width: float, height: float, *, tone: Tone = "line", fill: Tone = "sheet"
    ) -> None:
        """A rectangle."""
        corners = [(x, y), (x + width, y), (x + width, y + height), (x, y + height), (x, y)]
        self.strokes.append(Stroke(corners, tone=tone, fill=fill))


@dataclass(frozen=True, slots=True)
class Scale:
    """Where the front left corner of the inside lies on a plan of the vehicle [px], and how large a metre is."""

    origin_x: float
    origin_y: float
    per_metre: float


@dataclass(slots=True)
class Drawing:
    """A picture of a given size in pixels, with the same content as a table for those who cannot see it. A plan of the
    vehicle has a scale."""

    kind: str
    title: str
    note: str
    width: float
    height: float
    pieces: list[Piece] = field(default_factory=list)
    columns: list[str] = field(default_factory=list)
    rows: list[list[str]] = field(default_factory=list)
    scale: Scale | None = None


def copper_width(diameter_mm: float) -> float:
    """Stroke of a conductor, true to scale. [px]

    Parameters
    ----------
    diameter_mm : float
        Of the metal. [mm]

    Returns
    -------
    float
        At least one pixel. [px]
    """
    return max(1.0, diameter_mm * PIXELS_PER_MM)
