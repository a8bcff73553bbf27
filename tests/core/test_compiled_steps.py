"""What is compiled for output periods and traces, against NumPy and SciPy."""

import numpy as np
import pytest
from scipy.linalg import expm

from rhombos.core.circuit.compiled import WIDE, nearest
from rhombos.core.circuit.compiled_trace import reduced, sums
from rhombos.core.circuit.output.circuit import MODES, codes_of, stilled
from rhombos.core.circuit.output.compiled_pattern import passed
from rhombos.core.circuit.output.compiled_reading import slots_at, within
from rhombos.core.circuit.output.compiled_steps import REACHES, ROUGHLY, along, exact_steps, order, through
from rhombos.core.circuit.output.slots import Slots


@pytest.fixture
def random():
    return np.random.default_rng(7)


def _some(random, modes, slots):
    """Matrices, which of them, lengths and rates: short steps beside long ones, every third as long as the one before."""
    matrices = random.normal(size=(modes, WIDE, WIDE)) * 10.0 ** random.uniform(0, 3, size=(modes, 1, 1))
    which = random.integers(0, modes, slots)
    lengths = 10.0 ** random.uniform(-6, -2, slots)
    lengths[2::3] = lengths[1::3][: len(lengths[2::3])]
    rates = np.linalg.norm(matrices, 2, axis=(1, 2))
    return matrices, which, lengths, rates


def test_steps_are_the_matrix_exponential_whatever_their_size(random):
    matrices, which, lengths, rates = _some(random, 4, 90)
    assert (rates[which] * lengths).max() > 2 * ROUGHLY, "some are halved and squared"
    for step, mode, length in zip(exact_steps(matrices, which, lengths, rates), which, lengths, strict=True):
        expected = expm(matrices[mode] * length)
        np.testing.assert_allclose(step, expected, atol=1e-12 * np.abs(expected).max())


def test_what_is_as_long_as_another_of_its_mode_is_the_same_step(random):
    matrices, _, _, rates = _some(random, 2, 3)
    lengths, which = np.array([1e-4, 1e-5, 1e-4, 1e-4, 1e-5]), np.array([0, 0, 0, 1, 0])
    steps = exact_steps(matrices, which, lengths, rates)
    assert (steps[0] == steps[2]).all()
    assert (steps[1] == steps[4]).all()
    assert not np.allclose(steps[0], steps[3]), "another mode's is another"


def test_the_number_of_terms_leaves_out_nothing_that_shows():
    for size in np.linspace(1e-3, ROUGHLY, 40):
        terms = [1.0]
        for n in range(1, order(size) + 1):
            terms.append(terms[-1] * size / n)
        assert sum(terms) == pytest.approx(np.exp(size), rel=4e-15)
    assert order(ROUGHLY) < len(REACHES)


def test_all_steps_are_multiplied_and_the_mean_of_a_state_is_kept(random):
    steps, start = random.normal(size=(40, WIDE, WIDE)) / 3, random.normal(size=WIDE)
    steps[:, 6:], steps[:, 6, 6], steps[:, 7, 7] = 0.0, 1.0, 1.0
    weights = random.uniform(size=40)
    whole, mean = through(steps, weights, 3, 6)
    states = along(steps, start)
    x, behind = start, []
    for step in steps:
        x = step @ x
        behind.append(x)
    np.testing.assert_allclose(states[1:], behind, rtol=1e-9, atol=1e-12)
    np.testing.assert_allclose(whole @ start, x, rtol=1e-9, atol=1e-12)
    assert mean @ start == pytest.approx(weights @ np.array(behind)[:, 3], rel=1e-9)


def test_a_state_goes_on_until_one_of_it_comes_to_nothing():
    """An oscillation of 1 rad/s from its peak: nothing at π/2, and before that the cosine."""
    matrix, x = np.array([[0.0, 1.0], [-1.0, 0.0]]), np.array([1.0, 0.0])
    there, when = passed(matrix, 1.0, x, 1.5, 0)
    assert np.isnan(when)
    np.testing.assert_allclose(there, [np.cos(1.5), -np.sin(1.5)], atol=1e-13)
    there, when = passed(matrix, 1.0, x, 40.0, 0)
    assert when == pytest.approx(np.pi / 2, abs=1e-12)
    np.testing.assert_allclose(there, [0.0, -1.0], atol=1e-12)


def test_a_quantity_is_read_by_its_slot_wherever_it_is_asked_for(random):
    matrices, which, lengths, rates = _some(random, 3, 30)
    lengths = np.minimum(lengths, ROUGHLY / rates[which])
    begins, states, row = np.cumsum(lengths) - lengths, random.normal(size=(30, WIDE)), random.normal(size=WIDE)
    columns = np.empty((3, len(REACHES), WIDE))
    for mode in range(3):
        term = row
        for n in range(len(REACHES)):
            columns[mode, n], term = term, term @ matrices[mode] / (n + 1)
    times = random.permutation(np.concatenate([random.uniform(0, lengths.sum(), 200), begins, [-1e-9, lengths.sum()]]))
    slots = slots_at(begins, times)
    assert (slots == np.clip(np.searchsorted(begins, times, side="right") - 1, 0, 29)).all()
    found = within(slots, times - begins[slots], which, rates[which] * lengths, states, columns)
    expected = [row @ expm(matrices[which[k]] * since) @ states[k] for k, since in zip(slots, times - begins[slots], strict=True)]
    np.testing.assert_allclose(found, expected, rtol=1e-10, atol=1e-10)


def test_modes_are_numbered_by_what_legs_are_told_and_the_current_wants():
    """Every way two legs can be told, dead or not, with the current forth, back and none, the front end blocked or not."""
    bits = np.array(np.meshgrid(*[[False, True]] * 5, indexing="ij")).reshape(5, -1)
    for sign in (-1, 0, 1):
        count = bits.shape[1]
        slots = Slots(np.zeros(count), np.ones(count), (bits[0], bits[1]), (bits[2], bits[3]))
        codes = codes_of(slots, np.full(count, sign, dtype=np.int64), bits[4])
        for code, (one, other, first, second, blocked) in zip(codes, bits.T, strict=True):
            mode = MODES[code]
            # A dead leg is where the current pulls it: forth out of the first leg it is low, out of the second high.
            lift = int(sign < 0 if first else one) - int(sign > 0 if second else other)
            assert (mode.lift, mode.drops, mode.blocked) == (lift, -sign * (int(first) + int(second)), blocked)
            assert mode.still == (sign == 0 and (first or second))
        assert all(MODES[c].still for c in stilled(codes))


@pytest.mark.parametrize("rank", [5, 4, 2])
def test_small_systems_are_solved_or_come_nearest_with_the_least(random, rank):
    matrix = random.normal(size=(5, rank)) @ random.normal(size=(rank, 5))
    right = random.normal(size=5)
    np.testing.assert_allclose(nearest(matrix, right), np.linalg.lstsq(matrix, right, rcond=1e-12)[0], rtol=1e-7, atol=1e-9)


def test_a_wave_of_many_samples_keeps_the_extremes_of_every_bucket_in_their_order(random):
    times, wave = np.linspace(0, 1, 4099), random.normal(size=4099)
    at, values = reduced(times, wave, 300)
    assert (np.diff(at) > 0).all()
    assert (np.interp(at, times, wave) == values).all(), "each stands where it was"
    assert reduced(times, np.ones(4099), 300)[0][-1] == 1.0, "what stands still ends where it ends"
    for bucket in range(300):
        some = wave[4099 * bucket // 300 : 4099 * (bucket + 1) // 300]
        low_first = np.argmin(some) < np.argmax(some)
        assert values[2 * bucket : 2 * bucket + 2].tolist() == sorted([some.min(), some.max()], reverse=not low_first)
    square, magnitude, greatest = sums(wave)
    assert (square, magnitude, greatest) == pytest.approx((np.mean(wave**2), np.mean(np.abs(wave)), np.abs(wave).max()), rel=1e-12)
