"""What a person wishes of a system, and the catalogue of usual sizes a proposal picks from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from lucernis.practice.tables import load_table

Leaning = Literal["lean", "middle", "generous"]
WishedChemistry = Literal["lfp", "agm", "flooded"]


class Wishes(BaseModel):
    """What is wished; the loads themselves stand in the plan."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    days: Annotated[float, Field(gt=0, le=30)] = 2.0
    drive_hours: Annotated[float, Field(ge=0, le=24)] = 1.5
    leaning: Leaning = "middle"
    nominal_v: Literal[12, 24] = 12
    chemistry: WishedChemistry = "lfp"
    sun: bool = True
    shore: bool = True
    starter_length_m: Annotated[float, Field(gt=0, le=30)] = 5.0
    roof_m2: Annotated[float, Field(gt=0, le=60)] = 4.0
    roof_length_m: Annotated[float, Field(gt=0, le=30)] = 4.0


@dataclass(frozen=True, slots=True)
class Unit:
    """One usual size."""

    kind: str
    size: float
    fields: dict[str, object]


def units(kind: str) -> list[Unit]:
    """Usual sizes of a kind, smallest first, from usual_units.csv."""
    found = []
    for row in load_table("usual_units").rows:
        if row["kind"] != kind:
            continue
        fields: dict[str, object] = {}
        for pair in row["fields"].split():
            name, _, text = pair.partition("=")
            try:
                fields[name] = float(text)
            except ValueError:
                fields[name] = text
        found.append(Unit(kind, float(row["size"]), fields))
    return sorted(found, key=lambda one: one.size)


def next_unit(kind: str, wanted: float) -> Unit:
    """The smallest usual size at or above what is wanted, else the largest."""
    sizes = units(kind)
    return next((one for one in sizes if one.size >= wanted - 1e-9), sizes[-1])


def last_unit(kind: str, most: float) -> Unit:
    """The largest usual size at or below a limit, else the smallest."""
    fitting = [one for one in units(kind) if one.size <= most + 1e-9]
    return fitting[-1] if fitting else units(kind)[0]
