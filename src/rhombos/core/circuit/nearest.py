"""What a small matrix makes a right side from, also where there is no one answer."""

import numpy as np

from rhombos.core.circuit.compiled import Array

WELL = 1e11
"""Condition (by Frobenius' norm) up to which the inverse is used: some five digits are left, and Newton's steps need fewer."""
LEAST = 1e-14
"""Of the greatest stretch of a matrix: what is less counts as none."""


def nearest(matrix: Array, right: Array) -> Array:
    """x of matrix·x = right; where the matrix has no inverse, or hardly, the least x that comes nearest."""
    try:
        inverse = np.linalg.inv(matrix)
        if np.linalg.norm(matrix) * np.linalg.norm(inverse) < WELL:
            found: Array = inverse @ right
            return found
    except np.linalg.LinAlgError:
        pass
    return np.asarray(np.linalg.lstsq(matrix, right, rcond=LEAST)[0], dtype=float)
