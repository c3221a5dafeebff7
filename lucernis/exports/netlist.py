"""A circuit as a SPICE netlist that ngspice runs; the same elements the solver sees."""

from __future__ import annotations

import numpy as np

from lucernis.core.circuit.islands import islands
from lucernis.core.circuit.solver import Circuit, fold_volts


def _floating(circuit: Circuit) -> list[int]:
    """One node of each island that elements touch but that has no way to the reference."""
    # A current or power source fixes no voltage; only a resistance ties its two nodes together.
    tied = [
        (pos, neg)
        for pos, neg, kind in zip(circuit.load_pos, circuit.load_neg, circuit.load_kind, strict=True)
        if kind == "resistive"
    ]
    pairs = [
        *zip(circuit.conductor_from, circuit.conductor_to, strict=True),
        *zip(circuit.source_pos, circuit.source_neg, strict=True),
        *tied,
    ]
    touched = {node for pair in pairs for node in pair} | {*circuit.load_pos, *circuit.load_neg}
    a, b = np.array(pairs, dtype=np.int64).reshape(-1, 2).T
    _, island = islands(circuit.node_count, a, b)
    first: dict[int, int] = {}
    for node in sorted(touched):
        first.setdefault(int(island[node]), node)
    return [node for which, node in first.items() if which != island[0]]


def netlist(circuit: Circuit, title: str) -> str:
    """A circuit in SPICE syntax with an operating-point analysis.

    Parameters
    ----------
    circuit : Circuit
        The circuit; node k becomes `nk`, node 0 the reference.
    title : str
        First line.

    Returns
    -------
    str
        Netlist. Constant power is a behavioural source; below half its no-load voltage it goes on as a resistance,
        as in the solver.
    """

    def node(index: int) -> str:
        return "0" if index == 0 else f"n{index}"

    lines = [title.replace("\n", " ")]
    for k, (a, b, ohm) in enumerate(
        zip(circuit.conductor_from, circuit.conductor_to, circuit.conductor_ohm, strict=True)
    ):
        lines.append(f"R{k} {node(a)} {node(b)} {ohm:.12g}")
    for k, (pos, neg, volts, ohm) in enumerate(
        zip(circuit.source_pos, circuit.source_neg, circuit.source_v, circuit.source_ohm, strict=True)
    ):
        lines += [f"V{k} e{k} {node(neg)} {volts:.12g}", f"RS{k} e{k} {node(pos)} {ohm:.12g}"]
    loads = zip(circuit.load_pos, circuit.load_neg, circuit.load_kind, circuit.load_value, strict=True)
    for k, ((pos, neg, kind, value), fold_v) in enumerate(zip(loads, fold_volts(circuit).tolist(), strict=True)):
        at, of = node(pos), node(neg)
        if kind == "resistive":
            lines.append(f"RL{k} {at} {of} {value:.12g}")
        elif kind == "constant_current" or fold_v <= 0:
            # Constant power on nothing live draws nothing.
            lines.append(f"IL{k} {at} {of} {value if kind == 'constant_current' else 0.0:.12g}")
        else:
            volts_text = f"v({at},{of})" if of != "0" else f"v({at})"
            lines.append(
                f"BL{k} {at} {of} I={volts_text} > {fold_v:.9g} ? {value:.12g}/{volts_text} "
                f": {value / fold_v**2:.12g}*{volts_text}"
            )
    # What hangs on no source has no voltage: a very high resistance keeps its matrix solvable.
    lines += [f"RF{index} {node(index)} 0 1e12" for index in _floating(circuit)]
    # Default tolerances of 1e-3 are wider than what is compared here.
    lines += [".options reltol=1e-9 vntol=1e-9 abstol=1e-9 gmin=1e-15", ".op", ".end"]
    return "\n".join(lines) + "\n"
