"""What a meter should say, and how far it may be off: first order in everything that is not known exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.answers import Floats, Ints
from lucernis.core.prove.frame import Frame, Reading, Spot, spread
from lucernis.core.prove.living import OPEN_OHM, Living

METER_OHM = 1e7
# Where more than this stands behind a spot, a meter shows what drifts there: ghost volts.
FLOATING_OHM = 1e5
# A reading that drifts may be anywhere up to so much of the system's volts. Common practice, no source.
GHOST_FRAC = 0.15
# 95 of 100.
_SIGMAS = 1.96
_MILLIVOLT_RANGE_V = 0.4
# Last digits of a usual hand meter and clamp, as one standard deviation. Common practice, no source. [A], [Ω], [V]
_LAST_A, _LAST_OHM, _LAST_V, _LAST_MV_V = 0.03, 0.06, 5e-3, 1.5e-4
# What is dead drifts by leaks nobody reckons. Practice.
DRIFT_V = 0.01


@dataclass(frozen=True, slots=True)
class Rows:
    """Readings of one situation as rows: shape (n_readings, n_nodes) weights of the nodes' volts, and
    (n_readings, n_elements) of the volts each piece on the way takes; `amps` is the conductor a clamp is on, -1."""

    node: Floats
    piece: Floats
    amps: Ints


def rows_of(frame: Frame, readings: Sequence[Reading]) -> Rows:
    """Readings as rows over nodes and pieces."""
    nodes = np.zeros((len(readings), frame.sized.wiring.circuit.node_count))
    pieces = np.zeros((len(readings), len(frame.elements)))
    amps = np.array([one.conductor if one.quantity == "amps" else -1 for one in readings], dtype=np.int64)

    def put(row: int, spot: Spot, sign: float) -> None:
        nodes[row, spot.node] += sign
        for piece in spot.passed:
            # Along a leg each piece passed takes its share of the volts from there on.
            pieces[row, piece] -= sign

    for row, one in enumerate(readings):
        if one.red is not None and one.black is not None:
            put(row, one.red, 1.0)
            put(row, one.black, -1.0)
    return Rows(nodes, pieces, amps)


@dataclass(frozen=True, slots=True)
class Foreseen:
    """What readings of one situation should be.

    Shapes: `value`, `sd` (n_readings,) in V, A or Ω, the meter's own share left out; `slope` (n_readings, n_unknowns):
    for one standard deviation of each unknown, in the order of pieces, volts of sources, insides of sources,
    consumers, volts of the bank together;
    `behind_ohm` (n_readings,): what stands behind the probes; `floating`: nothing holds the spot.
    """

    value: Floats
    slope: Floats
    sd: Floats
    behind_ohm: Floats
    floating: NDArray[np.bool_]
    low: Floats
    high: Floats


def meter_sd(quantity: str, value: Floats) -> Floats:
    """What a usual hand meter adds, one standard deviation. [V], [A] or [Ω]"""
    size = np.abs(value)
    if quantity == "amps":
        return np.hypot(spread("meter_amps") * size, _LAST_A)
    if quantity == "ohms":
        # What is left once the leads' own are taken off: a digit of 0.1 Ω.
        return np.hypot(0.01 * size, _LAST_OHM)
    small = size < _MILLIVOLT_RANGE_V
    frac = np.where(small, spread("meter_millivolts"), spread("meter_volts"))
    least = np.where(small, _LAST_MV_V, _LAST_V)
    found: Floats = np.hypot(frac * size, least)
    return found


def noise_sd(readings: Sequence[Reading], value: Floats) -> Floats:
    """What a meter adds to readings, and to volts between terminals what drifts there, one standard deviation."""
    each = np.array([float(meter_sd(one.quantity, np.array(value[k]))) for k, one in enumerate(readings)])
    apart = [one.red is not None and one.quantity == "volts" and not one.red.passed for one in readings]
    between = np.array(apart, dtype=bool) & np.array(
        [one.black is not None and not one.black.passed for one in readings], dtype=bool
    )
    found: Floats = np.where(between, np.hypot(each, DRIFT_V), each)
    return found


def foresee(living: Living, readings: Sequence[Reading]) -> Foreseen:
    """What readings in a situation should be.

    Parameters
    ----------
    living : Living
        The situation, solved.
    readings : sequence of Reading
        What is read.

    Returns
    -------
    Foreseen
        Values with their slopes, and bands that hold 95 of 100.

    Notes
    -----
    First order: ``σ² = Σ (∂x/∂θ · σ_θ)²`` over lengths, joints, fuses, contacts (in their logarithms), volts and
    insides of sources, and what consumers draw; the slopes are exact, from the inverse of the conductances. What is
    lost in a few pieces alone spreads as their logarithms do, so its band is that of a logarithm. A meter has 10 MΩ.
    """
    frame, circuit = living.frame, living.frame.sized.wiring.circuit
    rows = rows_of(frame, readings)
    of, ohm = frame.of, living.element_ohm
    c_from, c_to = np.array(circuit.conductor_from, dtype=np.int64), np.array(circuit.conductor_to, dtype=np.int64)
    g = 1 / living.conductor_ohm
    # Volts a piece takes are its share of its conductor's: a weight on that conductor's volts.
    share = rows.piece * (ohm / living.conductor_ohm[of])
    along = np.zeros((len(readings), frame.conductors))
    np.add.at(along.T, of, share.T)
    clamp = np.flatnonzero(rows.amps >= 0)
    along[clamp, rows.amps[clamp]] = g[rows.amps[clamp]]
    weight = rows.node.copy()
    np.add.at(weight.T, c_from, along.T)
    np.add.at(weight.T, c_to, -along.T)
    value = weight @ living.node_v
    far = living.whole.solve(weight.T).T
    behind = np.einsum("ij,ij->i", far, weight)
    reach = far if living.small is living.whole else living.small.solve(weight.T).T
    ohms = np.array([one.quantity == "ohms" for one in readings], dtype=bool)
    volts = np.array([one.quantity == "volts" for one in readings], dtype=bool)

    across = reach[:, c_from] - reach[:, c_to]
    amps = living.conductor_a
    # A piece with more in it: the current through it is pushed back along its conductor.
    part = ohm / living.conductor_ohm[of]
    pushed = across[:, of] * (amps[of] * part)
    # What is read on the leg itself changes besides.
    own = rows.piece * (amps[of] * ohm) - along[:, of] * (living.conductor_ohm * amps)[of] * part
    closed = living.closed[of] > 0
    slope_piece = np.where(closed, (pushed + own), 0.0) * frame.spread_ln
    s_pos, s_neg = np.array(circuit.source_pos, dtype=np.int64), np.array(circuit.source_neg, dtype=np.int64)
    lift = (reach[:, s_pos] - reach[:, s_neg]) / living.sources.ohm
    slope_v = lift * living.sources.spread_v
    slope_in = -lift * living.sources.ohm * living.source_a * living.sources.spread_ln
    l_pos, l_neg = np.array(circuit.load_pos, dtype=np.int64), np.array(circuit.load_neg, dtype=np.int64)
    pull = reach[:, l_pos] - reach[:, l_neg]
    slope_draw = -pull * living.load_a * frame.draw_spread + pull * living.given_a * frame.give_spread
    slope_bank = (lift[:, frame.bank].sum(axis=1) * frame.bank_spread_v)[:, None]
    slope = np.concatenate([slope_piece, slope_v, slope_in, slope_draw, slope_bank], axis=1)
    if ohms.any():
        value = np.where(ohms, behind, value)
        across = far[:, c_from] - far[:, c_to]
        resist = np.where(closed, across[:, of] ** 2 * (ohm / living.conductor_ohm[of] ** 2), 0.0) * frame.spread_ln
        slope[ohms] = 0.0
        slope[np.flatnonzero(ohms)[:, None], np.arange(len(ohm))] = resist[ohms]
    # A clamp is put on either way round.
    turned = np.where((rows.amps >= 0) & (value < 0), -1.0, 1.0)
    value, slope = value * turned, slope * turned[:, None]
    floating = volts & (behind > FLOATING_OHM)
    value = np.where(volts, value * METER_OHM / (METER_OHM + np.maximum(behind, 0.0)), value)
    sd = np.sqrt((slope**2).sum(axis=1))
    return _banded(living, readings, value, slope, sd, behind, floating, ohms)


def _banded(
    living: Living,
    readings: Sequence[Reading],
    value: Floats,
    slope: Floats,
    sd: Floats,
    behind: Floats,
    floating: NDArray[np.bool_],
    ohms: NDArray[np.bool_],
) -> Foreseen:
    meter = np.zeros(len(value))
    for quantity in ("volts", "amps", "ohms"):
        which = np.array([one.quantity == quantity for one in readings], dtype=bool)
        meter[which] = meter_sd(quantity, value[which])
    half = _SIGMAS * np.hypot(sd, meter)
    low, high = value - half, value + half
    # What a few joints take is never the other way round, however wide its spread.
    pieces = np.array(
        [
            one.quantity == "volts"
            and one.red is not None
            and one.black is not None
            and (bool(one.red.passed) or bool(one.black.passed) or one.part == "")
            for one in readings
        ],
        dtype=bool,
    )
    wide = pieces & ~floating & (np.abs(value) > 1e-9) & (sd > 0.15 * np.abs(value))
    times = np.exp(_SIGMAS * np.minimum(sd[wide] / np.abs(value[wide]), 1.5))
    ends = np.stack([value[wide] / times, value[wide] * times])
    low[wide] = ends.min(axis=0) - _SIGMAS * meter[wide]
    high[wide] = ends.max(axis=0) + _SIGMAS * meter[wide]
    ghost = GHOST_FRAC * living.frame.plan.nominal_v
    low[floating], high[floating] = np.minimum(-0.05, value[floating] - ghost), value[floating] + ghost
    low[ohms] = np.maximum(low[ohms], 0.0)
    open_ohm = OPEN_OHM / 100
    apart = ohms & (behind > open_ohm)
    low[apart], high[apart] = open_ohm, np.inf
    return Foreseen(value, slope, sd, behind, floating, low, high)
