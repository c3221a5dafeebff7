"""What every piece of the plan document is made of: the strict base class and the kinds of plain fields."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from lucernis.plan.units import LONGEST_M
from lucernis.practice.rules import SizeSystem

# Line breaks and tabs may stand in a text; what else controls a terminal or ends a string early may not.
_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")


def plain(text: str) -> str:
    """A text without control characters.

    Parameters
    ----------
    text : str
        What was typed.

    Returns
    -------
    str
        The same.

    Raises
    ------
    ValueError
        If it has any.
    """
    if _CONTROL.search(text):
        raise ValueError("must not have control characters")
    return text


Id = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_-]{0,39}$", description="Stable, never shown to a person.")]
Tag = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9 ._/-]{0,11}$", description="What the printed sleeve says.")]
Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(plain)]
MaybeName = Annotated[str, Field(max_length=80), AfterValidator(plain)]
Reason = Annotated[str, Field(min_length=1, max_length=400), AfterValidator(plain)]
Text = Annotated[str, Field(max_length=2000), AfterValidator(plain)]
Length = Annotated[float, Field(gt=0, le=LONGEST_M)]
Amps = Annotated[float, Field(gt=0, le=5000)]
Seconds = Annotated[float, Field(gt=0, le=86400)]
SizeName = Annotated[str, Field(pattern=r"^[0-9][0-9./ m]{0,7}$")]

Body = Literal["steel", "aluminium", "fibreglass_or_wood", "boat_hull", "frame"]
Colour = Literal["red", "black", "yellow", "brown", "blue", "green", "white", "orange", "grey", "purple", "pink", "tan"]


class Doc(BaseModel):
    """Base of every piece of the document: unknown fields, NaN and infinity are refused."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class SizeRef(Doc):
    """A wire size by its name."""

    system: SizeSystem
    size: SizeName


class PartBase(Doc):
    """What every part has: an id, a name, a tag for its sleeve, and a place."""

    id: Id
    name: Name
    tag: Tag
    place: Id | None = None
    engine_space: bool | None = Field(
        default=None, description="Made to stand in an engine space; as usual for its kind when absent."
    )
    splash: bool | None = Field(default=None, description="Made to get wet; as usual for its kind when absent.")
