"""Every finding the checks can raise: its stable code, how grave it is, why it matters and where that is said.

`what` and `mend` are written where the finding is raised, with its figures.
"""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.report import Severity


@dataclass(frozen=True, slots=True)
class Code:
    """One code of the checks."""

    code: str
    severity: Severity
    title: str
    why: str
    source: str


_PRACTICE = "common practice, no source"
_LIST = (
    Code(
        "wire-over-ampacity",
        "stop",
        "Wire carries more than it may",
        "It overheats behind a panel.",
        "the ampacity table of the practice set",
    ),
    Code(
        "wire-over-derated",
        "stop",
        "Wire too small where it lies",
        "Heat of the zone or of its neighbours takes part of what it may carry.",
        "the ampacity table of the practice set",
    ),
    Code(
        "wire-no-figure",
        "fix",
        "No ampacity figure for this wire",
        "Nothing is known about what it carries, so nothing is promised.",
        "the ampacity table of the practice set",
    ),
    Code(
        "wire-insulation-cool",
        "stop",
        "Insulation not made for this place",
        "It softens before the copper is loaded.",
        "ABYC E-11 and ISO 10133 engine-space factors (memory)",
    ),
    Code(
        "wire-nothing-fits",
        "stop",
        "No size on the shelf fits",
        "Two demands exclude one another on this run.",
        _PRACTICE,
    ),
    Code(
        "wire-below-least",
        "fix",
        "Thinner than the least size",
        "It breaks from vibration before it overheats.",
        "the least size of the practice set",
    ),
    Code("wire-below-maker", "fix", "Thinner than the maker asks", "The maker's sheet wins.", _PRACTICE),
    Code(
        "wire-above-terminal",
        "fix",
        "Thicker than the terminal takes",
        "Strands left out of a terminal carry nothing and touch what they should not.",
        _PRACTICE,
    ),
    Code(
        "wire-look-alike",
        "look",
        "Sizes that look alike",
        "A name read in the wrong system is a wire a third too thin, or eight sizes off.",
        _PRACTICE,
    ),
    Code(
        "drop-over-limit",
        "fix",
        "Drop above the limit",
        "The device gets too little, runs hot or cuts out early.",
        "the drop limits of the practice set",
    ),
    Code(
        "drop-out-of-reach",
        "fix",
        "No size on the shelf keeps the drop",
        "Even the thickest permitted wires lose too much on this way.",
        "the drop limits of the practice set",
    ),
    Code(
        "load-under-voltage",
        "stop",
        "Below its lowest working voltage",
        "It will not run, or cuts out under load.",
        _PRACTICE,
    ),
    Code(
        "load-collapse",
        "stop",
        "The run cannot deliver this power",
        "As the voltage falls it asks for more current, until nothing is left.",
        "maximum power transfer; circuit theory",
    ),
    Code(
        "load-no-figure", "fix", "No watts and no amps", "Guessed amperes are how fuses blow and wires burn.", _PRACTICE
    ),
    Code("load-no-hours", "look", "No hours a day", "It is missing from the ampere-hours.", _PRACTICE),
    Code("load-unfed", "fix", "On no circuit", "It has no wire and no fuse yet.", _PRACTICE),
    Code("run-unfed", "look", "Fed by nothing", "No battery reaches this run.", _PRACTICE),
    Code(
        "run-nothing-behind",
        "look",
        "Nothing on it",
        "A spare run is fine if it stays unfused and labelled.",
        _PRACTICE,
    ),
    Code(
        "circuit-closes-loop",
        "stop",
        "Fed from both ends",
        "A wire fed from two ends is only protected if both ends are fused.",
        "ABYC E-11 (memory)",
    ),
    Code(
        "fuse-missing",
        "stop",
        "No fuse protects this wire",
        "A short would burn it along its whole length.",
        "ABYC E-11, ISO 10133 (memory)",
    ),
    Code(
        "fuse-too-far",
        "stop",
        "Fuse too far from the source",
        "The wire before the fuse is protected by nothing.",
        "the fuse distance of the practice set",
    ),
    Code(
        "fuse-above-wire",
        "stop",
        "Fuse above what the wire carries",
        "The wire becomes the fuse.",
        "the school of fuse under wire",
    ),
    Code(
        "fuse-below-load",
        "fix",
        "Fuse below the load",
        "It blows in normal use, and somebody fits a larger one.",
        "the school of fuse over load",
    ),
    Code(
        "fuse-above-maker",
        "fix",
        "Fuse above what the maker allows",
        "The fuse no longer protects the device's own leads.",
        _PRACTICE,
    ),
    Code(
        "fuse-none-fits",
        "stop",
        "No fuse is made for this current",
        "The family ends below what this run carries.",
        "fuse_families.csv (memory)",
    ),
    Code("fuse-not-made", "fix", "Rating not made", "It cannot be bought.", "fuse_families.csv (memory)"),
    Code(
        "fuse-low-voltage",
        "stop",
        "Fuse not made for these volts",
        "It may go on arcing after it blows.",
        "fuse_families.csv (memory)",
    ),
    Code("fuse-unsealed-hot", "look", "Open fuse in the engine space", "Water and heat reach its contacts.", _PRACTICE),
    Code("block-over-total", "fix", "Block above its rating", "Its bus overheats.", _PRACTICE),
    Code("block-over-way", "fix", "Fuse above the way's limit", "The contacts of the way overheat.", _PRACTICE),
    Code("block-ways", "fix", "More runs than ways", "There is no place to plug the fuse in.", _PRACTICE),
    Code("battery-missing", "look", "No battery", "Nothing feeds anything yet.", _PRACTICE),
    Code(
        "waiver-idle",
        "look",
        "Waiver without a finding",
        "What was accepted is no longer so; the waiver may hide a later one.",
        _PRACTICE,
    ),
)

CODES: dict[str, Code] = {code.code: code for code in _LIST}


def checks_page() -> str:
    """The page docs/checks.md: every code with its severity, meaning, reason and source."""
    lines = [
        "# Checks",
        "",
        "Every finding has one of these codes. A *stop* must not be built; a *fix* should be mended; a *look* wants",
        "an eye. A finding may be waived with a reason, which is printed. This page is written by `make docs` from",
        "the code.",
        "",
    ]
    for one in CODES.values():
        lines += [
            f"## {one.code}",
            "",
            f"**{one.severity}** · {one.title}. {one.why}",
            "",
            f"Source: {one.source}.",
            "",
        ]
    return "\n".join(lines).rstrip() + "\n"
