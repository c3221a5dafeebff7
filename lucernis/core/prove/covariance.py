"""Joint spreads of readings, solved whatever they are: nothing is known better than the meter's own error."""

from __future__ import annotations

import numpy as np

from lucernis.core.circuit.answers import Floats

# A spread beyond this says nothing any more, and beside it a meter's error would be lost to rounding. [V], [A], decades
MOST_SD = 1e4
_MOST = 1e9


def finite(values: Floats, most: float = _MOST) -> Floats:
    """Figures within bounds: what a circuit that was cut apart cannot say is far from everything."""
    found: Floats = np.clip(np.nan_to_num(values, nan=most, posinf=most, neginf=-most), -most, most)
    return found


def _spectrum(covariance: Floats, least_sd: Floats) -> tuple[Floats, Floats]:
    """Eigenvalues and vectors of spreads in units of the meter's own errors, none below what those leave alone."""
    scaled = covariance / (least_sd[:, None] * least_sd[None, :])
    values, vectors = np.linalg.eigh(scaled)
    return np.maximum(values, 1.0), vectors


def log_and_squares(off: Floats, covariance: Floats, least_sd: Floats) -> tuple[Floats, Floats]:
    """Half the logarithm of the determinant of spreads, and the squares of what is off measured by them.

    Parameters
    ----------
    off : ndarray, shape (n, n_readings)
        What is left unexplained.
    covariance : ndarray, shape (n, n_readings, n_readings)
        Joint spreads, the meter's own in them.
    least_sd : ndarray, shape (n_readings,)
        The meter's own error, one standard deviation, > 0.

    Returns
    -------
    tuple of ndarray
        Each of shape (n,). By Cholesky's factors; where rounding leaves a spread without any, by its eigenvalues with
        the meter's error as their floor.
    """
    off, covariance = finite(off), finite(covariance, MOST_SD**2)
    try:
        lower = np.linalg.cholesky(covariance)
        each = np.linalg.solve(lower, off[:, :, None])[:, :, 0]
        half = np.log(np.diagonal(lower, axis1=1, axis2=2)).sum(axis=1)
        squares = (each**2).sum(axis=1)
        if np.isfinite(half).all() and np.isfinite(squares).all():
            return half, squares
    except np.linalg.LinAlgError:
        pass
    values, vectors = _spectrum(covariance, least_sd)
    turned = np.einsum("nji,nj->ni", vectors, off / least_sd)
    half = 0.5 * np.log(values).sum(axis=1) + np.log(least_sd).sum()
    return half, (turned**2 / values).sum(axis=1)


def solved(covariance: Floats, right: Floats, least_sd: Floats) -> Floats:
    """``C⁻¹ b`` for a joint spread, never refused.

    Parameters
    ----------
    covariance : ndarray, shape (n_readings, n_readings)
        The meter's own error in it.
    right : ndarray, shape (n_readings,) or (n_readings, m)
        What is solved for.
    least_sd : ndarray, shape (n_readings,)
        The meter's own error, one standard deviation, > 0.

    Returns
    -------
    ndarray
        As `right`.
    """
    covariance, right = finite(covariance, MOST_SD**2), finite(right)
    values, vectors = _spectrum(covariance, least_sd)
    scale = least_sd if right.ndim == 1 else least_sd[:, None]
    weight = values if right.ndim == 1 else values[:, None]
    found: Floats = (vectors @ ((vectors.T @ (right / scale)) / weight)) / scale
    return found
