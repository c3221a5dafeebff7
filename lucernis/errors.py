"""Every error the package raises on bad input. No HTTP here: `api/problems.py` maps classes to answers.

    LucernisError
    ├── OutOfRange          a number is outside what is allowed
    ├── UnknownRow          a name is not in its table or list
    ├── NotUnderstood       a text could not be read as a quantity
    ├── BadDocument         a document is not a valid plan (carries one entry a field)
    ├── EditRefused         an edit does not fit the plan as it stands
    ├── NotFound            no such plan or revision
    ├── NothingFits         nothing can be drawn that fits: another seed, other wishes
    ├── MeterGone           an instrument does not answer
    ├── StaleRevision       somebody else edited first
    ├── TooLarge            more bytes than the door takes
    ├── TooMuch             a plan that could not be computed in reasonable time
    ├── Busy                too many wait for long work already
    ├── PlanDamaged         one stored plan or revision reads otherwise than it was stored
    ├── StoreFull           the disk takes nothing more
    ├── StoreReadOnly       the data file may not be written
    └── StoreDamaged        the database failed its integrity check

A limit that is not met, or a circuit without an answer, is a finding in the report and never an error.
"""

from __future__ import annotations

from dataclasses import dataclass


class LucernisError(Exception):
    """Root of the tree. `field` names what was wrong, `allowed` says what would be right."""

    def __init__(self, message: str, *, field: str = "", value: object = None, allowed: str = "") -> None:
        super().__init__(message)
        self.field = field
        self.value = value
        self.allowed = allowed

    def __reduce__(self) -> tuple[object, ...]:
        """As it is, whatever its class asks for when it is made: errors come back from another process too."""
        return _as_it_was, (type(self), self.args, self.__dict__)


def _as_it_was(kind: type[LucernisError], args: tuple[object, ...], state: dict[str, object]) -> LucernisError:
    error = kind.__new__(kind)
    error.args = args
    error.__dict__.update(state)
    return error


class OutOfRange(LucernisError):
    """A number is outside what is allowed, not a number, or infinite."""


class UnknownRow(LucernisError):
    """A name is not in its table; lookups never guess."""


class NothingFits(LucernisError):
    """What is to be drawn from holds nothing that fits: this van has no such part, this seed no case."""


class NotUnderstood(LucernisError):
    """A text could not be read as a quantity with a unit."""


@dataclass(frozen=True, slots=True)
class FieldProblem:
    """One thing wrong in a document: where (JSON pointer) and what is allowed."""

    pointer: str
    detail: str


class BadDocument(LucernisError):
    """A document is not a valid plan. Every bad field is listed, not only the first."""

    def __init__(self, message: str, problems: list[FieldProblem]) -> None:
        first = problems[0] if problems else FieldProblem("#", message)
        super().__init__(message, field=first.pointer, allowed=first.detail)
        self.problems = problems


class EditRefused(LucernisError):
    """An edit names something that is not there, or would leave the plan in a state that cannot be."""


class NotFound(LucernisError):
    """No such plan or revision."""


class MeterGone(LucernisError):
    """An instrument does not answer, or went away in the middle of a reading: nothing was taken."""


class StaleRevision(LucernisError):
    """An edit was made against a revision that is no longer the newest."""

    def __init__(self, message: str, *, current_revision: int) -> None:
        super().__init__(message, field="If-Match", value=current_revision, allowed=f"revision {current_revision}")
        self.current_revision = current_revision
        self.changes: list[str] = []


class TooLarge(LucernisError):
    """More bytes than the door takes."""


class TooMuch(LucernisError):
    """A plan that could not be computed in reasonable time."""


class Busy(LucernisError):
    """Too many wait for long work already; the same again a little later is taken."""


class PlanDamaged(LucernisError):
    """One stored plan or revision reads otherwise than it was stored; the others are not concerned."""


class StoreFull(LucernisError):
    """The disk takes nothing more; nothing was stored."""


class StoreReadOnly(LucernisError):
    """The data file may not be written, or not by this version of the program."""


class StoreDamaged(LucernisError):
    """The database file failed its integrity check at start."""


def require_range(
    field: str, value: float, *, above: float | None = None, least: float | None = None, most: float | None = None
) -> float:
    """Return the value if it is a finite number within the range, else raise `OutOfRange` naming the field.

    Parameters
    ----------
    field : str
        Name of the argument, for the message.
    value : float
        The number to test.
    above : float, optional
        The value must be greater than this.
    least : float, optional
        The value must be at least this.
    most : float, optional
        The value must be at most this.

    Returns
    -------
    float
        The value, unchanged.

    Raises
    ------
    OutOfRange
        If the value is outside the range, NaN or infinite.
    """
    parts = []
    if above is not None:
        parts.append(f"> {above:g}")
    if least is not None:
        parts.append(f">= {least:g}")
    if most is not None:
        parts.append(f"<= {most:g}")
    allowed = "a finite number" + (" " + " and ".join(parts) if parts else "")
    # A NaN fails every comparison, so the test is written as "inside", never as "outside".
    inside = (
        value - value == 0
        and (above is None or value > above)
        and (least is None or value >= least)
        and (most is None or value <= most)
    )
    if not inside:
        raise OutOfRange(f"{field} must be {allowed}", field=field, value=value, allowed=allowed)
    return value
