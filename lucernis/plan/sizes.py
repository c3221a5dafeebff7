"""Reads wire sizes as people type them. What a size holds and carries is computed in `core`."""

from __future__ import annotations

from lucernis.errors import UnknownRow
from lucernis.practice.names import size_names
from lucernis.practice.rules import SizeSystem


def parse_size(text: str, *, default_system: SizeSystem, field: str = "size") -> tuple[SizeSystem, str]:
    """Read a wire size as typed: ``10 AWG``, ``2.5 mm²``, ``3 B&S``, ``14 SAE``, ``4 mm auto``; bare takes the default.

    Parameters
    ----------
    text : str
        As typed.
    default_system : str
        System of a bare number.
    field : str
        Name for messages.

    Returns
    -------
    tuple of str and str
        System and size name, in the table of that system.

    Raises
    ------
    UnknownRow
        If there is no such size; `mm` alone is refused because it may name copper or the outside.
    """
    clean = text.strip().lower().replace(",", ".").replace("mm^2", "mm²").replace("mm2", "mm²")
    system: SizeSystem = default_system
    for ending, named in (
        ("awg", "awg"),
        ("b&s", "bs"),
        ("bs", "bs"),
        ("sae", "sae"),
        ("mm²", "mm2"),
        ("auto", "auto_mm"),
    ):
        if clean.endswith(ending):
            clean, system = clean[: -len(ending)].strip(), named  # type: ignore[assignment]
            break
    else:
        if clean.endswith("mm") and default_system != "auto_mm":
            raise UnknownRow(
                f"{field}: {text.strip()[:20]!r} may mean copper area or outer size",
                field=field,
                value=text[:20],
                allowed="mm² for copper, 'mm auto' for wire sold by its outside",
            )
    if system == "auto_mm" and not clean.endswith("mm"):
        clean = f"{clean} mm"
    clean = {"0": "1/0", "00": "2/0", "000": "3/0", "0000": "4/0"}.get(clean, clean)
    if clean not in size_names(system):
        raise UnknownRow(
            f"{field}: no wire size {text.strip()[:20]!r}",
            field=field,
            value=text[:20],
            allowed=", ".join(size_names(system)),
        )
    return system, clean
