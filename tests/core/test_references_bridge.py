"""DC link, sine bridge, filter, bootstrap and trip against independent routes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rhombos.core.modulation.sine_pwm import sine_pwm
from tests.core.formula import figure


class TestLinkAndBridge:
    @given(s=st.floats(100, 2000), c=st.floats(1e-4, 2e-3), v=st.floats(200, 420))
    def test_link_ripple_by_integrating_the_double_frequency_power(self, s, c, v):
        f = 50.0
        t = np.arange(20000) / 20000 / f
        charge = np.cumsum(-s / v * np.cos(4 * np.pi * f * t)) * (t[1] - t[0])
        assert figure("dc_link", "link_ripple", bridge_apparent_power=s, output_frequency=f, link_capacitance=c, link_voltage=v) == pytest.approx(
            np.ptp(charge) / c, rel=1e-3
        )
        assert figure("dc_link", "low_frequency_current", bridge_apparent_power=s, link_voltage=v) == pytest.approx(s / v / np.sqrt(2))

    @pytest.mark.parametrize(("unipolar", "linear", "constant"), [(True, 4 / (3 * np.pi), 0.0), (False, 0.0, 0.5)])
    @pytest.mark.parametrize("index", [0.5, 0.8, 0.95])
    def test_bridge_ripple_current_from_the_pulses_themselves(self, unipolar, linear, constant, index):
        """The link's current is the choke's times the switching function; what is neither mean nor double frequency is ripple."""
        edges = sine_pwm(1.0, index, 50.0, 50.0 * 600, unipolar=unipolar, natural=True)
        t = (np.arange(2**19) + 0.5) / 2**19 * edges.period
        level = np.concatenate([[edges.start], edges.levels])[np.searchsorted(edges.times, t, side="right")]
        link = level * np.sin(2 * np.pi * 50 * t)
        slow = index / 2 * (1 - np.cos(4 * np.pi * 50 * t))
        ripple = np.sqrt(np.mean((link - slow) ** 2))
        # The formula speaks of all current above the double-frequency one for the unipolar case, of the rest from the mean for bipolar.
        value = figure("h_bridge", "bridge_ripple_current", sine_crest_current=1.0, ripple_constant=constant, ripple_linear=linear, modulation_index=index)
        assert value == pytest.approx(ripple, rel=0.02)

    @given(v=st.floats(250, 420), tau=st.floats(0.1, 3))
    def test_discharge_by_its_differential_equation(self, v, tau):
        c, r = 470e-6, tau / 470e-6
        event = lambda _, y: y[0] - 60  # noqa: E731 - a one-line event reads best in place
        event.terminal = True
        t = solve_ivp(lambda _, y: -y / (r * c * 1.2), (0, 20 * tau), [v], events=event, rtol=1e-8).t_events[0][0]
        assert figure("dc_link", "discharge_time", bleeder=r, link_capacitance=c, capacitance_tolerance=0.2, highest_link=v) == pytest.approx(t, rel=1e-4)

    def test_setpoint_leaves_the_valley_that_the_peak_needs(self):
        demand, ripple, limit, tolerance, share = 329.0, 26.0, 0.95, 0.01, 0.0204
        v = figure(
            "dc_link",
            "link_setpoint",
            setpoint_peak_demand=demand,
            modulation_limit=limit,
            link_ripple=ripple,
            link_tolerance=tolerance,
            dead_time_share=share,
            setpoint_step=0.001,
        )
        valley = figure("dc_link", "link_valley", link_setpoint=v, link_tolerance=tolerance, link_voltage=v, link_ripple=ripple)
        need = figure("h_bridge", "peak_voltage_needed", setpoint_peak_demand=demand, dead_time_share=share, input_voltage=v)
        assert valley == pytest.approx(need / limit, rel=1e-5)

    @given(p=st.floats(0, 2000), q=st.floats(0, 1500))
    def test_peak_asked_of_the_bridge_by_phasors(self, p, q):
        ind, c, cd, r, v, w = 1.8e-3, 1e-6, 3.3e-6, 0.16, 230.0, 2 * np.pi * 50
        current = complex(p, -q) / v
        node = v * (1 - w**2 * ind * (c + cd)) + (r + 1j * w * ind) * current
        value = figure(
            "output_filter",
            "node_peak_voltage",
            wanted_voltage=v,
            filter_inductance=ind,
            filter_capacitance=c,
            damping_capacitance=cd,
            choke_resistance=r,
            output_apparent_power=abs(complex(p, q)),
            output_power=p,
            output_reactive_power=q,
            output_frequency=50.0,
        )
        assert value == pytest.approx(np.sqrt(2) * abs(node), rel=1e-9)

    @pytest.mark.parametrize(("unipolar", "divisor"), [(True, 8.0), (False, 2.0)])
    def test_worst_choke_ripple_from_the_pulses(self, unipolar, divisor):
        """Worst at a duty of a quarter of the swing's half (unipolar) or at the zero crossing (bipolar): V/(n·L·f)."""
        v, ind, f = 370.0, 1.8e-3, 20e3
        worst = 0.0
        for m in np.linspace(0, 1, 201):
            d = (1 + m) / 2
            # One leg's duty d, the other's 1 − d: the node is at V for m of the time and at 0 (unipolar) else, at twice the frequency.
            ripple = v * m * (1 - m) / (2 * f) / ind if unipolar else 2 * v * d * (1 - d) / f / ind
            worst = max(worst, ripple)
        assert figure("output_filter", "filter_ripple", link_voltage=v, ripple_divisor=divisor, filter_inductance=ind, carrier_frequency=f) == pytest.approx(
            worst, rel=1e-3
        )

    def test_bootstrap_bound_is_safe_against_the_cycle_by_cycle_iteration(self):
        """Refresh for the bound's time in every cycle never lets the capacitor fall below the allowed droop."""
        q = {
            "switch_quantity": 1.0,
            "switch_gate_charge": 60e-9,
            "level_shift_charge": 5e-9,
            "high_side_current": 300e-6,
            "full_voltage": 11.0,
            "gate_pull_down": 10e3,
            "longest_on_time": 50e-6,
        }
        cycle = figure("bootstrap", "cycle_charge", **q)
        low = figure("bootstrap", "minimum_low_time", cycle_charge=cycle, bootstrap_resistor=4.7, allowed_droop=1.0)
        c = figure(
            "bootstrap",
            "needed_capacitance",
            on_time_charge=cycle + 10e-9,
            allowed_droop=1.0,
            switch_quantity=1.0,
            switch_gate_charge=60e-9,
            gate_on_voltage=12.0,
        )
        v, least = 11.0, 11.0
        for _ in range(4000):
            v -= (60e-9 + 5e-9 + (300e-6 + v / 10e3) * (50e-6 - low)) / c
            least = min(least, v)
            v = 11.0 - (11.0 - v) * np.exp(-low / (4.7 * c))
        assert least >= 11.0 - 1.0 - cycle / c / 2

    def test_a_short_leaves_the_trip_its_time(self):
        weakest, trip, ind, v = 52.0, 14.0, 1.8e-3, 392.0
        left = figure("output_protection", "time_left", weakest_rating=weakest, output_trip_level=trip, filter_inductance=ind, highest_link=v)
        assert trip + v / ind * left == pytest.approx(weakest)
        least = figure("output_protection", "least_inductance", highest_link=v, time_to_act=2.5e-6, weakest_rating=weakest, output_trip_level=trip)
        assert trip + v / least * 2.5e-6 == pytest.approx(weakest)
