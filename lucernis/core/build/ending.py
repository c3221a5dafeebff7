"""Steps at the ends of wires, and the walls that are closed over them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lucernis.core.build.steps import Step
from lucernis.core.build.work import RunSide, Work, called, counted
from lucernis.core.layout.fill import bundle_mm, outside_mm

# From this copper on a hand crimper does not do. [mm²]
_LARGE_MM2 = 9.9
SUN = "A panel is live in any light: cover it, plug it last, never part its plugs under load."


def crimps(work: Work) -> Iterator[Step]:
    """What is put on the ends, part by part along the walk."""

    def key(side: RunSide) -> tuple[int, str, str]:
        part = work.parts[side.part_id]
        return work.rank(part), part.id, side.key

    for side in sorted(work.sides, key=key):
        part = work.parts[side.part_id]
        lines: list[str] = []
        have: list[str] = []
        for piece, end in side.ends:
            told = [f"strip {end.strip_mm:g} mm" if end.strip_mm else "not stripped"]
            have.append(end.fits)
            if end.shrink_before_mm is not None:
                told.append(f"tube {end.shrink_before_mm:g} mm × {end.shrink_length_mm:g} mm on first")
                have.append(f"tube {end.shrink_before_mm:g} mm")
            if end.pull_n is not None:
                told.append(f"holds {end.pull_n:g} N")
            where = f" at the {end.at}" if end.holder else "" if end.part_id == part.id else f" at {end.part}"
            lines.append(f"{piece.leg} {end.fits}{where}: {', '.join(told)}")
        large = any(piece.area_mm2 >= _LARGE_MM2 for piece, _ in side.ends)
        yield Step(
            f"crimp:{side.key}",
            "crimp",
            f"Ends of {called(side.run)} at {part.name}",
            work.place(part),
            subject=side.run.id,
            subject_kind="run",
            tag=side.run.tag,
            lines=tuple(lines),
            have=counted(have),
            caution=SUN if part.kind == "panel" else "",
            check="Tugged; no strand outside; tube shrunk until its glue shows.",
            needs=tuple(dict.fromkeys(f"pull:{piece.run}" for piece, _ in side.ends)),
            done_as="; ".join(f"{piece.leg} {end.fits}" for piece, end in side.ends),
            work="crimp_large" if large else "crimp_small",
            amount=len(side.ends),
        )


def closings(work: Work) -> Iterator[Step]:
    """Channels that get closed: over what is pulled, crimped and tried."""
    for channel in work.walked():
        runs = work.lying(channel.id)
        if not channel.closed or not runs:
            continue
        lying = work.harness.in_channel[channel.id]
        pieces = {piece.id: piece for piece in lying}
        thick = bundle_mm([outside_mm(piece.area_mm2) for piece in lying])
        tags = ", ".join(run.tag for run in runs)
        # What lies within: both ends of a wire are made before one can ring it through.
        ends = [f"crimp:{side.key}" for side in work.sides if any(piece.id in pieces for piece, _ in side.ends)]
        yield Step(
            f"close:{channel.id}",
            "close",
            f"Close {channel.name}",
            channel.name,
            subject=channel.id,
            subject_kind="channel",
            lines=(f"{tags}, a bundle of {thick:.0f} mm",),
            have=("meter", "camera"),
            caution="Screws go here: none where a wire lies." if channel.screws else "Look where the screws go.",
            check="Each wire rings through to its other end and to no other, nothing to the body; clamps sit; a photo.",
            needs=tuple(dict.fromkeys((*(f"pull:{piece.run}" for piece in pieces.values()), *ends))),
            done_as=tags,
            work="close",
            amount=1,
        )


def shut(work: Work, landed: Sequence[Step]) -> Iterator[Step]:
    """Walls before places where wires end: closed once what ends there is landed.

    Parameters
    ----------
    work : Work
        The plan's.
    landed : sequence of Step
        Steps that land ends.
    """
    known = {step.id for step in landed if step.phase in ("negatives", "positives")}
    for place in work.plan.places:
        sides = [side for side in work.sides if work.parts[side.part_id].place == place.id]
        if place.reach == "closed" and sides:
            lands = [f"{word}:{side.key}" for side in sides for word in ("negative", "positive")]
            yield Step(
                f"close:place:{place.id}",
                "shut",
                f"Close the wall before {place.name}",
                place.name,
                subject=place.id,
                subject_kind="place",
                have=("meter", "camera"),
                caution="Nothing behind it can be mended later.",
                check="Every joint there tugged and measured; a photo.",
                needs=(*(f"crimp:{side.key}" for side in sides), *(one for one in lands if one in known)),
                done_as=", ".join(sorted({side.run.tag for side in sides})),
                work="close",
                amount=1,
            )
