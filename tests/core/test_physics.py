"""Physics of single stages against independent routes, and laws that whole sheets obey."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp
from scipy.optimize import brentq

from rhombos.core.graph.inputs import Inputs
from rhombos.core.lineups import STAGES, TITLES
from rhombos.core.magnetics.winding import dowell, pulse_factor
from rhombos.core.stages.magnetics.transformer_core import table_flux
from rhombos.core.stages.switches.heat import junction, loss_at, settle, surge_resistance
from rhombos.demo import tern_islet
from rhombos.formats.design import of_sample
from tests.core.trial import strained


def fn(stage: str, figure: str):
    return STAGES[stage].figures[figure].fn


@given(xi=st.floats(0.05, 6), m=st.integers(1, 8))
def test_dowell_is_the_mean_of_the_layer_impedances(xi, m):
    """Real part of Dowell's complex form: M + (m² − 1)·D/3 with M = α·coth α, D = 2·α·tanh(α/2), α = (1 + j)·ξ."""
    alpha = (1 + 1j) * xi
    expected = (alpha / np.tanh(alpha) + (m**2 - 1) / 3 * 2 * alpha * np.tanh(alpha / 2)).real
    assert float(dowell(xi, m)) == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize("alternating", [0.0, 1.0])
def test_pulse_factor_is_one_for_thin_wire_and_a_numeric_sum_for_thick(alternating):
    assert float(pulse_factor(0.01, 1.0, 0.4, 0.001, alternating)) == pytest.approx(1.0, abs=1e-3)
    xi, m, d, e = 0.8, 3.0, 0.35, 0.004
    n = np.arange(1, 33)
    ramp = np.sinc(n * e)
    if alternating:
        amplitude = np.where(n % 2 == 1, 4 / (n * np.pi) * np.sin(n * np.pi * d), 0) * ramp
        mean, rms2 = 0.0, 2 * (d - e / 3)
    else:
        amplitude = 2 / (n * np.pi) * np.sin(n * np.pi * d) * ramp
        mean, rms2 = d, d - e / 3
    power = amplitude**2 / 2
    tail = rms2 - mean**2 - power.sum()
    factors = np.array([float(dowell(xi * np.sqrt(k), m)) for k in n])
    assert float(pulse_factor(xi, m, d, e, alternating)) == pytest.approx((mean**2 + (power * factors).sum() + tail * factors[-1]) / rms2, rel=1e-9)


@given(alpha=st.floats(1.1, 2.0), beta=st.floats(2.0, 3.0))
@settings(max_examples=20)
def test_improved_steinmetz_returns_steinmetz_for_a_sine(alpha, beta):
    """k_i·ΔB^(β−α)·(1/T)·∫|dB/dt|^α dt over a sine must be k·f^α·B^β."""
    k, f, b = 2.0, 40e3, 0.1
    k_i = float(fn("transformer", "improved_coefficient")(k, alpha, beta))
    integral = quad(lambda t: abs(2 * np.pi * f * b * np.cos(2 * np.pi * f * t)) ** alpha, 0, 1 / f, limit=200, points=[0.25 / f, 0.75 / f])[0] * f
    assert k_i * (2 * b) ** (beta - alpha) * integral == pytest.approx(k * f**alpha * b**beta, rel=1e-4)


@given(c=st.floats(1e-4, 2e-2), ind=st.floats(2e-7, 2e-5), r=st.floats(1e-3, 0.5))
@settings(max_examples=30, deadline=None)
def test_closing_current_is_the_peak_of_the_circuit(c, ind, r):
    ours = float(fn("precharge", "closing_current")(0.95, fn("precharge", "whole_inrush")(30.0, c, ind, r)))
    scale = max(np.sqrt(ind * c), ind / r, 1e-9)
    solved = solve_ivp(
        lambda _, y: [(1.5 - r * y[0] - y[1]) / ind, y[0] / c], (0, 12 * scale), [0, 0], method="LSODA", rtol=1e-9, atol=1e-12, max_step=scale / 100
    )
    assert ours == pytest.approx(solved.y[0].max(), rel=2e-3)


@pytest.mark.parametrize(("fraction", "constants"), [(0.80, 1.61), (0.90, 2.30), (0.95, 3.00), (0.97, 3.51), (0.99, 4.61)])
def test_precharge_times_are_those_of_the_table(fraction, constants):
    assert float(fn("precharge", "precharge_time")(1.0, fraction)) == pytest.approx(constants, abs=0.01)


@given(ambient=st.floats(250, 330), r=st.floats(0.1, 5), fixed=st.floats(0, 20), conduction=st.floats(0, 10), a=st.floats(0.001, 0.012))
def test_junction_temperature_is_what_iteration_finds_where_iteration_ends(ambient, r, fixed, conduction, a):
    if r * conduction * a > 0.9:
        return
    t = ambient
    for _ in range(4000):
        t = ambient + r * loss_at(t, fixed, conduction, a)
    assert float(settle(ambient, r, fixed, conduction, a)) == pytest.approx(t, rel=1e-6)


def test_thermal_runaway_has_no_temperature():
    value = junction(np.array([300.0]), 0.0, 1.0, 20.0, 0.5, 1.0, np.array([10.0]), 0.01)
    assert np.isnan(value).all()
    assert np.isfinite(junction(np.array([300.0]), 0.0, 1.0, 2.0, 0.5, 1.0, np.array([2.0]), 0.01)).all()


def test_a_surge_warms_the_junction_by_superposition_on_the_state_before():
    """Step response of a ladder of small thermal masses: an exponential pad and a sink that only fills, solved as they stand."""
    before, added, t, c, r_pad, tau, r_sink, n = 4.0, 6.0, 2.0, 150.0, 0.8, 1.5, 1.5, 2.0
    transient = surge_resistance(t, 0.0, 0.04, r_pad, tau, n / c)
    lasting = r_pad + n * r_sink
    value = float(junction(300.0, 1.0, before, lasting, transient, before + added, 0.0, 0.005))
    solved = solve_ivp(lambda _, s: [n * added / c, (added * r_pad - s[1]) / tau], (0, t), [300 + n * before * r_sink, 0.0], rtol=1e-9)
    assert value == pytest.approx(solved.y[0, -1] + before * r_pad + solved.y[1, -1], rel=1e-6)


@given(
    seconds=st.floats(0, 30),
    before=st.floats(0.1, 30),
    added=st.floats(0, 80),
    r=st.floats(0.2, 2),
    pad=st.floats(0.1, 2),
    sink=st.floats(0.2, 3),
    c=st.floats(40, 400),
)
def test_a_start_never_ends_colder_than_it_began(seconds, before, added, r, pad, sink, c):
    lasting, transient = r + pad + 4 * sink, surge_resistance(seconds, r, 0.04, pad, 1.5, 4 / c)
    start = 300 + lasting * before
    end = float(junction(300.0, 1.0, before, lasting, transient, before + added, 0.0, 0.005))
    assert end >= start - 1e-9
    assert float(junction(300.0, 1.0, before, lasting, surge_resistance(0.0, r, 0.04, pad, 1.5, 4 / c), before + added, 0.0, 0.0)) == pytest.approx(start)


@pytest.mark.parametrize(("seconds", "low", "high"), [(0.005, 0.30, 0.40), (0.1, 0.9, 1.0)])
def test_a_junction_settles_as_data_sheets_draw_it(seconds, low, high):
    """Silicon in these cases: about 0.35 of R_jc after 5 ms, 0.9 after 0.1 s; the law stands on the safe side of the second."""
    assert low <= float(surge_resistance(seconds, 1.0, 0.04, 0.0, 1.0, 0.0)) <= high


@pytest.mark.parametrize(("frequency", "flux"), [(20e3, 0.20), (25e3, 0.20), (50e3, 0.16), (100e3, 0.10), (200e3, 0.0625)])
def test_flux_table(frequency, flux):
    assert float(table_flux(frequency)) == pytest.approx(flux, rel=1e-6)


@given(duty=st.floats(0.05, 0.95))
def test_discontinuous_duty_meets_the_continuous_one_at_the_boundary(duty):
    """At I = ΔI/2 both laws give the same duty: the buck's boundary."""
    link, ratio, ind, f = 380.0, 19.0, 1.5e-3, 40e3
    volts = link / (ratio * duty)
    boundary = link * (1 - duty) / (2 * f * ind) / 2
    assert float(fn("push_pull", "discontinuous_duty")(ind, f, boundary, link, ratio, volts)) == pytest.approx(duty, rel=1e-9)


def test_regulation_floor_is_where_the_ratio_is_just_enough():
    d, f, leak, p, r, need, ratio = 0.95, 40e3, 50e-9, 900.0, 0.01, 380.0, 19.0

    def gap(v: float) -> float:
        return v * float(fn("push_pull", "reachable_duty")(d, f, leak, p, v)) - p * r / v - need / ratio

    assert float(fn("transformer", "regulation_floor")(d, f, leak, p, r, need, ratio)) == pytest.approx(brentq(gap, 10, 60), rel=1e-9)


@pytest.mark.parametrize("id", list(TITLES))
@given(watts=st.floats(20, 420), cells=st.sampled_from([-1, 0, 1]), length=st.floats(0.2, 2))
@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_power_balances_over_the_whole_line(id, watts, cells, length):
    """What the battery gives is what the loads take and the stages lose, at every corner: no P/η anywhere."""
    design = of_sample(id)
    inputs = design.inputs()
    sheet = design.model().solve(
        Inputs(
            {**inputs.givens, "load_3.rated_power": watts, "battery.cells": design.givens["battery.cells"] + cells, "input.cable_length": length},
            inputs.choices,
            inputs.pins,
        )
    )
    lost, taken, given_ = sheet.value("totals.total_loss"), sheet.value("output.input_power"), sheet.value("input.input_power")
    # The divider of the cut-off hangs on the battery, before the converter's terminals.
    np.testing.assert_allclose(given_, taken + lost - sheet.value("cutoff.loss"), rtol=1e-6)
    assert np.nanmax(sheet.value("totals.efficiency")) < 1
    current = sheet.value("battery.source_current")
    np.testing.assert_allclose(current * sheet.value("battery.terminal_voltage"), given_, rtol=1e-6)
    np.testing.assert_allclose(
        sheet.value("battery.open_circuit_voltage") - current * sheet.value("battery.source_resistance"), sheet.value("battery.terminal_voltage"), rtol=2e-3
    )


@pytest.mark.parametrize("id", list(TITLES))
def test_a_sample_brief_holds_everywhere_and_strained_it_does_not(id):
    first, second = of_sample(id), strained(id)
    assert set(first.model().solve(first.inputs()).judge().code.min(axis=1)) == {3}
    codes = second.model().solve(second.inputs()).judge().code.min(axis=1)
    assert 0 in codes
    assert 2 in codes


def test_a_load_that_the_battery_cannot_start_leaves_the_sheet_solved():
    design = tern_islet.first()
    inputs = design.inputs()
    thin = Inputs({**inputs.givens, "input.cable_length": 4.0}, inputs.choices, inputs.pins).with_pin("input.cable_area", 1.5e-6, "the wrong cable")
    sheet = design.model().solve(thin)
    index = sheet.wiring.index["battery.terminal_voltage"]
    assert (sheet.status(index) == 2)[1], "lowest surge is unknown"
    assert "cannot deliver" in sheet.why_missing(index, 1)
    known = [c.id for c, s in zip(sheet.corners.corners, sheet.status(index), strict=True) if s == 0]
    assert set(known) >= {"nominal_full", "nominal_half", "highest_full", "highest_none"}
    assert all(np.isfinite(sheet.at("battery.terminal_voltage", c)) for c in known)
    row, _ = sheet.check("battery.deliverable")
    assert sheet.judge().code[row].min() in (0, 1)


def test_link_ripple_example_of_the_textbook():
    assert float(fn("dc_link", "link_ripple")(1000.0, 1.0, 50.0, 470e-6, 360.0)) == pytest.approx(18.8, abs=0.02)
    assert float(fn("dc_link", "link_valley")(360.0, 0.0, 360.0, 18.8126)) == pytest.approx(350.6, abs=0.01)
    assert 380 * float(fn("h_bridge", "dead_time_share")(2.0, 1e-6, 20e3)) == pytest.approx(19.4, abs=0.05)
    for row, expected in (("bipolar", 0.443), ("unipolar", 0.280)):
        n = STAGES["h_bridge"].choices["modulation"].options[row].numbers
        slopes = [n[f"slope_{k}"] for k in (0, 2, 3, 4, 5)]
        assert float(fn("h_bridge", "bridge_ripple_current")(1.0, 0.0, n["ripple_constant"], n["ripple_linear"], 1.0, 0.9, *slopes)) == pytest.approx(
            expected, abs=1e-3
        )


def test_share_of_the_double_frequency_in_the_front_end_of_the_textbook_case():
    """24 V, 800 W, 470 µF, 1.5 mH: 0.45 of it."""
    resistance = float(fn("rectifier", "front_resistance")(18.0, 0.85, 0.011, 40e3, 21e-9, 0.5, 0.35, 0.0085))
    share = float(fn("rectifier", "unlimited_swing")(1.0, 1.0, resistance, 50.0, 1.5e-3, 470e-6))
    assert share == pytest.approx(0.45, abs=0.05)


@pytest.mark.parametrize("layers_at_depth", [4.0, 10.0, 30.0, 60.0])
def test_at_the_ac_factor_aimed_at_as_many_strands_lose_as_good_as_least(layers_at_depth):
    """Strands as many, thicker and thicker: (1 + c·d⁶)/d² is least where the factor is 3/2; with few layers a little later, and flat there."""
    limit = float(STAGES["transformer"].figures["ac_limit"].default or 0)
    d = np.geomspace(0.02, 2, 4000)
    factor = pulse_factor((np.pi / 4) ** 0.75 * d * np.sqrt(0.9), np.maximum(layers_at_depth * d, 1), 0.4, 0.004, 1.0)
    loss = factor / d**2
    least = int(np.argmin(loss))
    assert limit <= factor[least] < limit * (1.02 if layers_at_depth > 50 else 1.25)
    taken = int(np.flatnonzero(factor <= limit)[-1])
    assert loss[least] <= loss[taken] < loss[least] * 1.05
    assert loss[taken] < loss[taken - 400], "thinner ones lose more"
