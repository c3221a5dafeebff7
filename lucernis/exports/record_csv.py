"""The record of the work as a table."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from lucernis.exports.tables_csv import written

_COLUMNS = (
    "number", "made_at", "who", "device", "kind", "subject", "was", "text", "detail", "revision", "takes_back",
    "kept_at",
)  # fmt: skip


def record_csv(entries: Iterable[Mapping[str, Any]]) -> bytes:
    """Entries of a record, oldest first.

    Parameters
    ----------
    entries : iterable of mapping
        With the fields of the record.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF; no cell begins a formula.
    """
    rows: list[Iterable[object]] = [_COLUMNS]
    for one in entries:
        detail = "; ".join(f"{name} {value}" for name, value in one["detail"].items() if value is not None)
        rows.append(["" if one[name] is None else detail if name == "detail" else one[name] for name in _COLUMNS])
    return written(rows)
