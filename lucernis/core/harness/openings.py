"""What a hole gets: a grommet, a gland, a seal, or none of them."""

from __future__ import annotations

from lucernis.plan.layout import Crossing

# Edges that cut: there a grommet goes in whatever is noted.
_SHARP = ("metal", "firewall")


def needs_grommet(hole: Crossing) -> bool:
    """Whether a grommet goes in: always in sheet metal, in wood and plastic unless it is said that none is needed. A
    roof has a gland."""
    return hole.through in _SHARP or (hole.grommet and hole.through != "roof")


def needs_gland(hole: Crossing) -> bool:
    """Whether a gland or a roof entry stands over it."""
    return hole.through == "roof"


def is_sealed(hole: Crossing) -> bool:
    """Whether it is closed once the wires are through: against fumes, fire and water."""
    return hole.through in ("firewall", "roof")
