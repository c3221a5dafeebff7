"""Generic consumers: usual figures for a name, and how a typed name finds them. The plate of a device wins."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import cache
from typing import Any

from pydantic import TypeAdapter, ValidationError

from lucernis.errors import BadDocument, FieldProblem
from lucernis.plan.parts import Load
from lucernis.practice.tables import load_table

_MOST_ROWS = 500
# A hit with fewer of its words met is none.
_LEAST_SCORE = 0.5


@dataclass(frozen=True, slots=True)
class Consumer:
    """A generic consumer. Watts at 12 V: the usual ones and their span; empty fields are None."""

    name: str
    also: tuple[str, ...]
    device: str
    behaviour: str
    low_w: float
    usual_w: float
    high_w: float
    hours: float
    inrush_factor: float | None
    inrush_s: float | None
    cycle_on_s: float | None
    cycle_off_s: float | None
    sensitive: bool
    keyed: bool
    stays_live: bool
    fuse_a: float | None
    own: bool = False

    def values(self) -> dict[str, Any]:
        """Fields of a load that it fills. Starting current and cycles come in pairs."""
        found: dict[str, Any] = {
            "device": self.device,
            "behaviour": self.behaviour,
            "power_w": self.usual_w,
            "hours_per_day": self.hours,
            "sensitive": self.sensitive,
            "keyed": self.keyed,
            "stays_live": self.stays_live,
            "inrush_factor": self.inrush_factor,
            "inrush_s": self.inrush_s,
            "cycle_on_s": self.cycle_on_s,
            "cycle_off_s": self.cycle_off_s,
        }
        return {name: value for name, value in found.items() if value not in (None, False, "")}


HEAD: tuple[str, ...] = tuple(one.name for one in fields(Consumer) if one.name != "own")
_ADAPTER: TypeAdapter[Consumer] = TypeAdapter(Consumer)


def _read_row(row: dict[str, str], where: str, *, own: bool) -> Consumer:
    texts: dict[str, Any] = {name: (row.get(name) or "").strip() for name in HEAD}
    texts["also"] = tuple(one.strip() for one in texts["also"].split("|") if one.strip())
    for name in ("inrush_factor", "inrush_s", "cycle_on_s", "cycle_off_s", "fuse_a"):
        texts[name] = texts[name] or None
    for name in ("sensitive", "keyed", "stays_live"):
        texts[name] = texts[name] or "no"
    try:
        made = _ADAPTER.validate_python(texts | {"own": own})
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][0])
        raise BadDocument("a row of consumers", [FieldProblem(f"{where}/{name}", str(first["msg"]))]) from error
    problems = []
    if not made.name:
        problems.append(FieldProblem(f"{where}/name", "must not be empty"))
    if not 0 < made.low_w <= made.usual_w <= made.high_w:
        problems.append(FieldProblem(f"{where}/usual_w", "0 < low_w <= usual_w <= high_w is asked"))
    try:
        Load(id="x", name="x", tag="X", **made.values())
    except ValidationError as error:
        first = error.errors()[0]
        problems.append(FieldProblem(f"{where}/{first['loc'][0] if first['loc'] else 'row'}", str(first["msg"])))
    if problems:
        raise BadDocument("a row of consumers", problems)
    return made


@cache
def shipped() -> tuple[Consumer, ...]:
    """The consumers that ship, from consumers.csv."""
    rows = load_table("consumers").rows
    return tuple(_read_row(row, f"consumers.csv/{k}", own=False) for k, row in enumerate(rows))


def read_consumers(text: str) -> list[Consumer]:
    """Consumers of a workshop from CSV.

    Parameters
    ----------
    text : str
        With a head that names the columns as `consumers_csv` writes them; name and usual_w at least.

    Returns
    -------
    list of Consumer
        All of them, or none.

    Raises
    ------
    BadDocument
        If a column is unknown or a row is not allowed; names row and field.
    """
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), delimiter=";" if ";" in text.split("\n", 1)[0] else ",")
    head = [(one or "").strip() for one in reader.fieldnames or ()]
    unknown = [one for one in head if one not in HEAD]
    if unknown or not {"name", "usual_w"} <= set(head):
        said = f"no column {unknown[0]!r}" if unknown else "name and usual_w are asked"
        raise BadDocument("a list of consumers", [FieldProblem("head", f"{said}; known: {', '.join(HEAD)}")])
    found = []
    for number, row in enumerate(reader, start=2):
        if number > _MOST_ROWS:
            raise BadDocument("a list of consumers", [FieldProblem("rows", f"at most {_MOST_ROWS}")])
        usual = row.get("usual_w") or ""
        filled = {"device": "other", "behaviour": "constant_power", "low_w": usual, "high_w": usual, "hours": "1"}
        found.append(_read_row(filled | {k: v for k, v in row.items() if v}, f"row {number}", own=True))
    return found


def consumers_csv(consumers: Sequence[Consumer]) -> str:
    """Consumers as CSV that can be brought in again."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    for one in consumers:
        cells: list[object] = []
        for name in HEAD:
            value = getattr(one, name)
            if isinstance(value, bool):
                cells.append("yes" if value else "no")
            elif isinstance(value, tuple):
                cells.append("|".join(value))
            else:
                cells.append("" if value is None else f"{value:g}" if isinstance(value, float) else value)
        writer.writerow(cells)
    return out.getvalue()


def _words(text: str) -> list[str]:
    return re.findall(r"[a-z0-9]+", text.lower())


def _score(typed: list[str], name: str) -> float:
    """How well a typed name meets one: words met from their beginning, of all words there are. 1 is the same."""
    words = _words(name)
    if not words or not typed:
        return 0.0
    met = sum(any(word.startswith(one) or one.startswith(word + "s") or one == word for word in words) for one in typed)
    return met / max(len(words), len(typed))


def matches(text: str, consumers: Sequence[Consumer], most: int = 8) -> list[Consumer]:
    """Consumers a typed name may mean, best first.

    Parameters
    ----------
    text : str
        What is typed.
    consumers : sequence of Consumer
        Those of the workshop first: of equal hits the first wins.
    most : int
        So many at most.

    Returns
    -------
    list of Consumer
        Hits with at least half of the words met, by name or by another word for it.
    """
    typed = _words(text)
    scored = [(max(_score(typed, word) for word in (one.name, *one.also)), k) for k, one in enumerate(consumers)]
    good = sorted((one for one in scored if one[0] >= _LEAST_SCORE), key=lambda one: (-one[0], one[1]))
    return [consumers[k] for _, k in good[:most]]


def best_match(text: str, consumers: Sequence[Consumer]) -> Consumer | None:
    """The consumer a name surely means: all its words met, or nothing."""
    found = matches(text, consumers, 1)
    sure = found and max(_score(_words(text), word) for word in (found[0].name, *found[0].also)) > 0.99
    return found[0] if sure else None
