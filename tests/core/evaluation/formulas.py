"""Evaluates the formula of a working from its own inputs, as a person with a calculator would."""

from __future__ import annotations

import math
import re
from collections.abc import Callable

from lucernis.core.report import Input, Working

# What a shown unit is in the unit the formulas count in.
UNITS = {"mΩ": 1e-3, "mΩ/m": 1e-3, "%/K": 1e-2, "%": 1e-2, "mm": 1e-3}
FUNCTIONS: dict[str, Callable[..., float]] = {"ln": math.log, "exp": math.exp, "min": min, "max": max}
_WORDS = re.compile(r"[^\W\d][\w₀-₉]*")


def _list(text: float | str) -> list[float]:
    return [float(one) for one in str(text).split()]


def evaluate_formula(working: Working) -> float:
    """The right side of a formula, in the unit the working shows."""
    inputs: dict[str, list[Input]] = {}
    for one in working.inputs:
        inputs.setdefault(one.symbol, []).append(one)
    _, _, text = working.formula.partition("=")
    for name, choose in (("next", lambda made, x: min(one for one in made if one >= x * (1 - 1e-9))),
                         ("last", lambda made, x: max(one for one in made if one <= x * (1 + 1e-9)))):  # fmt: skip
        found = re.fullmatch(rf"\s*{name}\((\w+);(.*)\)\s*", text)
        if found:
            return float(choose(_list(inputs[found[1]][0].value), _value(found[2], inputs)))
    return _value(text, inputs) / UNITS.get(working.unit, 1.0)


def _value(text: str, inputs: dict[str, list[Input]]) -> float:
    text = text.replace("·", "*").replace("−", "-").replace("²", "**2").replace("^", "**").replace(";", ",")
    text = re.sub(r"\|([^|]*)\|", r"abs(\1)", text)
    names: dict[str, object] = {"pi": math.pi, "abs": abs, **FUNCTIONS}
    for at, (symbol, some) in enumerate(sorted(inputs.items(), key=lambda one: -len(one[0]))):
        numbers = [one.value * UNITS.get(one.unit, 1.0) for one in some if isinstance(one.value, int | float)]
        names[f"x{at}_"], names[f"s{at}_"] = (numbers[0] if numbers else None), sum(numbers)
        escaped = rf"(?<![\w₀-₉]){re.escape(symbol)}(?![\w₀-₉])"
        text = re.sub(r"Σ\s*" + escaped, f"s{at}_", text)
        text = re.sub(escaped, f"x{at}_", text)
    text = re.sub(r"Σ\s*[\w₀-₉]+", "0", text).replace("π", "pi")
    unknown = [word for word in _WORDS.findall(text) if word not in names]
    assert not unknown, f"{unknown} in {text}"
    return float(eval(text, {"__builtins__": {}}, names))  # noqa: S307 - formulas of this program's own workings
