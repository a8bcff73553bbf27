"""A resistive network solved and the modes of a small matrix, compiled by Numba: what a switched circuit asks for at every state.

Compiled once on a machine and kept beside this file, by what stands in `SOURCES`: what one of them calls in another is compiled
into it. `NUMBA_BOUNDSCHECK=1` checks every index.
"""

from hashlib import sha256
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numba import config, njit, types
from numpy.typing import NDArray

Array = NDArray[np.float64]
Complex = NDArray[np.complex128]
Places = NDArray[np.int64]

_HERE = Path(__file__).parent
SOURCES = tuple(
    _HERE / name
    for name in (
        "compiled.py",
        "compiled_trace.py",
        "switched/state_table.py",
        "switched/compiled_march.py",
        "output/compiled_steps.py",
        "output/compiled_pattern.py",
        "output/compiled_reading.py",
    )
)
config.CACHE_DIR = str(_HERE / "__pycache__" / sha256(b"".join(source.read_bytes() for source in SOURCES)).hexdigest()[:16])  # type: ignore[attr-defined]
compiled = njit(cache=True, error_model="numpy", nogil=True)
"""Kept on the disk; and while it runs others may: it touches no object of Python's."""
placed = njit(cache=True, error_model="numpy", nogil=True, inline="always")
"""The same, written out where it is called: handing over a table of many arrays takes longer than what is small."""
summing = njit(cache=True, error_model="numpy", nogil=True, fastmath={"contract"})
"""The same; a product and the sum that it goes into may be one operation, which rounds once."""
WIDE = 8
"""So many sums written beside one another are made at once by a processor."""

_NUMBERS: Any = types.CPointer(types.float64)  # type: ignore[no-untyped-call]
_GEEV: Any = types.ExternalFunction(
    "numba_ez_rgeev",
    types.intc(types.char, types.char, types.char, types.intp, _NUMBERS, types.intp, _NUMBERS, _NUMBERS, _NUMBERS, types.intp, _NUMBERS, types.intp),
)
"""LAPACK's dgeev as Numba links it: for real matrices, so that modes come in exact conjugate pairs."""
_REAL, _NEITHER, _RIGHT = (ord(letter) for letter in "dNV")

WORST = 1e11
"""Condition of the eigenvectors up to which they are used: some five digits are left beyond what is promised."""
WELL = 1e11
"""Condition (by Frobenius' norm) up to which the inverse is used: some five digits are left, and Newton's steps need fewer."""
LEAST = 1e-14
"""Of the greatest stretch of a matrix: what is less counts as none."""
SERIES = 18
"""Terms of the exponential's series for a matrix of norm a half."""


class Net(NamedTuple):
    """A network without its resistances, as `Network` writes it down once."""

    base: Array
    """(equations, equations): what holds volts and joins nodes."""
    right: Array
    """(equations, states + sources + 1): what drives them."""
    joins: Array
    """(elements, nodes): 1 where an element begins, −1 where it ends."""
    ohmic: Places
    """Places of the resistors among the elements; `storing` those of the states, `fixed` those of what holds volts."""
    storing: Places
    fixed: Places
    holding: NDArray[np.bool_]
    """Which states are capacitors."""
    rows: Array
    """(states + nodes + 2·elements, columns): what is known before anything is solved."""


@compiled
def dotted(one: Array, other: Array) -> float:
    """The sum of products."""
    total = 0.0
    for k in range(len(one)):
        total += one[k] * other[k]
    return total


@compiled
def applied(matrix: Array, x: Array) -> Array:
    """Matrix times vector: small ones are not worth a library's call."""
    found = np.zeros(len(matrix))
    for i in range(len(matrix)):
        for k in range(len(x)):
            found[i] += matrix[i, k] * x[k]
    return found


@compiled
def product(one: Array, other: Array) -> Array:
    """Matrix times matrix."""
    found = np.zeros((len(one), other.shape[1]))
    for i in range(len(one)):
        for k in range(len(other)):
            share = one[i, k]
            if share != 0.0:
                for j in range(other.shape[1]):
                    found[i, j] += share * other[k, j]
    return found


@compiled
def solved_rows(net: Net, ohms: Array, drops: Array, storage: Array) -> Array:
    """Derivatives, volts of nodes, amperes and volts of elements from states, sources and one. Raises ArithmeticError where there is no one solution."""
    states, count, elements = len(net.storing), net.joins.shape[1], len(net.joins)
    matrix, right = net.base.copy(), net.right.copy()
    for k in range(len(ohms)):
        row = net.joins[net.ohmic[k]]
        for a in range(count):
            if row[a] != 0.0:
                right[a, -1] += row[a] * drops[k] / ohms[k]
                for b in range(count):
                    matrix[a, b] += row[a] * row[b] / ohms[k]
    solution = eliminated(matrix, right)
    if not np.isfinite(solution[0, 0]):
        raise ArithmeticError("singular")
    rows = net.rows.copy()
    branches, across, columns = states + count, states + count + elements, rows.shape[1]
    for c in range(columns):
        for a in range(count):
            rows[states + a, c] = solution[a, c]
        for e in range(elements):
            for a in range(count):
                rows[across + e, c] += net.joins[e, a] * solution[a, c]
        for k in range(len(ohms)):
            rows[branches + net.ohmic[k], c] = rows[across + net.ohmic[k], c] / ohms[k]
        for k in range(len(net.fixed)):
            rows[branches + net.fixed[k], c] = solution[count + k, c]
    for k in range(len(ohms)):
        rows[branches + net.ohmic[k], columns - 1] -= drops[k] / ohms[k]
    for j in range(states):
        driven = (branches if net.holding[j] else across) + net.storing[j]
        for i in range(states):
            for c in range(columns):
                rows[i, c] += storage[i, j] * rows[driven, c]
    return rows


@compiled
def eigen(matrix: Array, values: Complex, vectors: Complex, rows: Complex) -> int:
    """How many modes there are, of conjugates one; none where they cannot be told apart well enough.

    Written into what is given: their eigenvalues, eigenvectors (columns) and the rows of the inverse. The inverse is that of the real and imaginary parts side by side: of a pair's two columns the rows are twice the parts of its own.
    """
    n = len(matrix)
    real, imaginary, left, right = np.empty(n), np.empty(n), np.empty(n), np.empty((n, n))
    # LAPACK reads and writes column by column.
    columns, parts, ones = np.empty((n, n)), np.empty((n, n)), np.zeros((n, n))
    for i in range(n):
        ones[i, i] = 1.0
        for j in range(n):
            columns[j, i] = matrix[i, j]
    if _GEEV(_REAL, _NEITHER, _RIGHT, n, columns.ctypes, n, real.ctypes, imaginary.ctypes, left.ctypes, 1, right.ctypes, n) != 0:
        return 0
    for i in range(n):
        for j in range(n):
            parts[i, j] = right[j, i]
            columns[i, j] = right[j, i]
    inverse = eliminated(columns, ones)
    # The condition by Frobenius' norm: never less than that by the greatest and least stretch.
    stretch = back = 0.0
    for i in range(n):
        stretch += dotted(parts[i], parts[i])
        back += dotted(inverse[i], inverse[i])
    if not stretch * back <= WORST**2:
        return 0
    m = 0
    for k in range(n):
        if imaginary[k] < 0:
            continue
        values[m] = complex(real[k], imaginary[k])
        for i in range(n):
            if imaginary[k] > 0:
                vectors[i, m] = 2 * complex(parts[i, k], parts[i, k + 1])
                rows[m, i] = complex(inverse[k, i], -inverse[k + 1, i]) / 2
            else:
                vectors[i, m], rows[m, i] = parts[i, k], inverse[k, i]
        m += 1
    return m


@compiled
def eliminated(left: Array, right: Array) -> Array:
    """What `left` makes `right` from, by elimination with the greatest pivot of each column; infinite where there is none. Both are used up."""
    n, columns = right.shape
    for k in range(n):
        pivot = k
        for i in range(k + 1, n):
            if abs(left[i, k]) > abs(left[pivot, k]):
                pivot = i
        if left[pivot, k] == 0.0:
            right[:] = np.inf
            return right
        for j in range(n):
            left[k, j], left[pivot, j] = left[pivot, j], left[k, j]
        for j in range(columns):
            right[k, j], right[pivot, j] = right[pivot, j], right[k, j]
        scale = 1 / left[k, k]
        for j in range(k, n):
            left[k, j] *= scale
        for j in range(columns):
            right[k, j] *= scale
        for i in range(n):
            share = left[i, k]
            if i != k and share != 0.0:
                for j in range(k, n):
                    left[i, j] -= share * left[k, j]
                for j in range(columns):
                    right[i, j] -= share * right[k, j]
    return right


@compiled
def nearest(matrix: Array, right: Array) -> Array:
    """What the matrix makes `right` from; where it has no inverse, or hardly, the least that comes nearest."""
    n = len(matrix)
    inverse = eliminated(matrix.copy(), np.eye(n))
    one = other = 0.0
    for i in range(n):
        for j in range(n):
            one, other = one + matrix[i, j] ** 2, other + inverse[i, j] ** 2
    if one * other < WELL**2:
        return applied(inverse, right)
    return np.linalg.lstsq(matrix, right, LEAST)[0]  # type: ignore[return-value]


@compiled
def exponential(matrix: Array, seconds: float) -> Array:
    """e^(M·t) by its series, scaled and squared: for the few states whose eigenvectors are no use."""
    n = len(matrix)
    norm = 0.0
    for i in range(n):
        total = 0.0
        for j in range(n):
            total += abs(matrix[i, j] * seconds)
        norm = max(norm, total)
    halvings = 0 if norm <= 0.5 else int(np.ceil(np.log2(norm / 0.5)))
    grown, term, scaled = np.eye(n), np.eye(n), np.empty((n, n))
    for k in range(1, SERIES):
        for i in range(n):
            for j in range(n):
                scaled[i, j] = matrix[i, j] * (seconds / 2.0**halvings / k)
        term = product(term, scaled)
        for i in range(n):
            for j in range(n):
                grown[i, j] += term[i, j]
    for _ in range(halvings):
        grown = product(grown, grown)
    return grown
