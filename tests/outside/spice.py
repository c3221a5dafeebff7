"""ngspice asked for many circuits at once: they stand side by side in one netlist, joined in nothing but ground."""

from __future__ import annotations

import re
import subprocess
from collections.abc import Sequence
from pathlib import Path

from lucernis.core.circuit.solver import Circuit
from lucernis.exports.netlist import netlist

_NODES = ("conductor_from", "conductor_to", "source_pos", "source_neg", "load_pos", "load_neg")
_VALUES = ("conductor_ohm", "source_v", "source_ohm", "source_held", "load_kind", "load_value")


def beside(circuits: Sequence[Circuit]) -> tuple[Circuit, list[list[int]]]:
    """All of them as one, and for each what its nodes are called there."""
    whole, numbers = Circuit(node_count=1), []
    for one in circuits:
        number = [0, *range(whole.node_count, whole.node_count + one.node_count - 1)]
        for name in _NODES:
            getattr(whole, name).extend(number[node] for node in getattr(one, name))
        for name in _VALUES:
            getattr(whole, name).extend(getattr(one, name))
        whole.node_count += one.node_count - 1
        numbers.append(number)
    return whole, numbers


def node_volts(circuits: Sequence[Circuit], folder: Path) -> list[dict[int, float]]:
    """Voltages of every node of each circuit as ngspice finds them, node 0 at 0 V."""
    whole, numbers = beside(circuits)
    file = folder / "circuit.cir"
    file.write_text(netlist(whole, "check"), encoding="utf-8")
    done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=60, check=False)
    found = re.findall(r"^\s*n(\d+)\s+(-?[\d.]+(?:e[-+]?\d+)?)\s*$", done.stdout, re.MULTILINE)
    assert found, done.stdout + done.stderr
    volts = {int(node): float(value) for node, value in found} | {0: 0.0}
    # A node nothing is joined to is no node to ngspice.
    return [{node: volts[at] for node, at in enumerate(number) if at in volts} for number in numbers]
