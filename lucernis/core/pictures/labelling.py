"""Where a short text beside a dot finds room."""

from __future__ import annotations

from dataclasses import dataclass, field

from lucernis.core.pictures.drawing import Anchor

_LETTER_W = 0.56

Box = tuple[float, float, float, float]


def _shared(one: Box, other: Box) -> float:
    """What two boxes have in common. [px²]"""
    wide, high = min(one[2], other[2]) - max(one[0], other[0]), min(one[3], other[3]) - max(one[1], other[1])
    return max(0.0, wide) * max(0.0, high)


@dataclass(slots=True)
class Room:
    """What is taken on a sheet, as boxes of left, top, right, bottom. [px]"""

    width: float
    height: float
    taken: list[Box] = field(default_factory=list)

    def take(self, x: float, y: float, half: float) -> None:
        """A dot stands here.

        Parameters
        ----------
        x, y, half : float
            Its middle, and half of its side. [px]
        """
        self.taken.append((x - half, y - half, x + half, y + half))

    def beside(self, x: float, y: float, text: str, size: float) -> tuple[float, float, Anchor]:
        """A place for a text beside a dot: the first of eight that covers least.

        Parameters
        ----------
        x, y : float
            The dot. [px]
        text : str
            The text.
        size : float
            Of its letters. [px]

        Returns
        -------
        tuple of float, float and str
            Where it begins, its base line [px], and how it is anchored.
        """
        wide, gap = _LETTER_W * size * len(text), 9.0
        spots: tuple[tuple[float, float, Anchor], ...] = (
            (x + gap, y + 0.35 * size, "start"), (x - gap, y + 0.35 * size, "end"),
            (x, y - gap, "middle"), (x, y + gap + 0.8 * size, "middle"),
            (x + gap, y - gap, "start"), (x + gap, y + gap + 0.8 * size, "start"),
            (x - gap, y - gap, "end"), (x - gap, y + gap + 0.8 * size, "end"),
        )  # fmt: skip
        return self._choose(spots, wide, size)

    def at_corner(self, area: Box, text: str, size: float) -> tuple[float, float, Anchor]:
        """A place for a text at a corner of an area, over or under it: the first of four that covers least.

        Parameters
        ----------
        area : tuple of float
            Left, top, right, bottom. [px]
        text : str
            The text.
        size : float
            Of its letters. [px]

        Returns
        -------
        tuple of float, float and str
            Where it begins, its base line [px], and how it is anchored.
        """
        left, top, right, bottom = area
        over, under = top - 4, bottom + size
        spots: tuple[tuple[float, float, Anchor], ...] = (
            (left, over, "start"), (right, over, "end"), (left, under, "start"), (right, under, "end"),
        )  # fmt: skip
        return self._choose(spots, _LETTER_W * size * len(text), size)

    def _choose(
        self, spots: tuple[tuple[float, float, Anchor], ...], wide: float, size: float
    ) -> tuple[float, float, Anchor]:
        best: tuple[float, int] | None = None
        boxes = []
        for at, (left, base, anchor) in enumerate(spots):
            begin = left - {"start": 0.0, "middle": wide / 2, "end": wide}[anchor]
            box = (begin, base - 0.8 * size, begin + wide, base + 0.2 * size)
            boxes.append(box)
            out = box[0] < 2 or box[1] < 2 or box[2] > self.width - 2 or box[3] > self.height - 2
            covers = sum(_shared(box, one) for one in self.taken)
            cost = covers + (1e6 if out else 0.0)
            if best is None or cost < best[0] - 1e-9:
                best = (cost, at)
        at = best[1] if best is not None else 0
        self.taken.append(boxes[at])
        return spots[at]
