"""DC link, sine bridge, filter, bootstrap and trip against independent routes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rhombos.core.formulas.numeric import context
from rhombos.core.lineups import STAGES
from rhombos.core.modulation.hard_share import hard_share, recovered_share
from tests.core.edges import sine_pwm
from tests.core.formula import figure


class TestLinkAndBridge:
    @given(s=st.floats(100, 2000), c=st.floats(1e-4, 2e-3), v=st.floats(200, 420))
    def test_link_ripple_by_integrating_the_double_frequency_power(self, s, c, v):
        f = 50.0
        t = np.arange(20000) / 20000 / f
        charge = np.cumsum(-s / v * np.cos(4 * np.pi * f * t)) * (t[1] - t[0])
        assert figure(
            "dc_link", "link_ripple", bridge_apparent_power=s, double_frequency_share=1.0, output_frequency=f, link_capacitance=c, link_voltage=v
        ) == pytest.approx(np.ptp(charge) / c, rel=1e-3)
        assert figure("dc_link", "low_frequency_current", bridge_apparent_power=s, double_frequency_share=1.0, link_voltage=v) == pytest.approx(
            s / v / np.sqrt(2)
        )

    @pytest.mark.parametrize("unipolar", [True, False])
    @pytest.mark.parametrize("index", [0.5, 0.8, 0.95])
    @pytest.mark.parametrize("lag", [0.0, 0.6, 1.2])
    @pytest.mark.parametrize("swing", [0.0, 0.5])
    def test_bridge_ripple_current_from_the_pulses_themselves(self, unipolar, index, lag, swing):
        """The link's current is the choke's times the switching function; what is neither mean nor double frequency is ripple.

        The choke's current is the sine and what the pulses themselves integrate to, scaled to a ripple of `swing` at the worst duty.
        """
        ratio = 600
        edges = sine_pwm(1.0, index, 50.0, 50.0 * ratio, unipolar=unipolar, natural=True)
        n = 2**20
        t = (np.arange(n) + 0.5) / n * edges.period
        level = np.concatenate([[edges.start], edges.levels])[np.searchsorted(edges.times, t, side="right")]
        angle = 2 * np.pi * 50 * t
        integral = np.cumsum(level - index * np.sin(angle)) / n * ratio
        integral -= integral.mean()
        link = level * (np.sin(angle - lag) + swing * (8 if unipolar else 2) * integral)
        slow = index / 2 * (np.cos(lag) - np.cos(2 * angle - lag))
        ripple = np.sqrt(np.mean((link - slow) ** 2))
        numbers = STAGES["h_bridge"].choices["modulation"].options["unipolar" if unipolar else "bipolar"].numbers
        read = {k: numbers[k] for k in ("ripple_constant", "ripple_linear", "slope_0", "slope_2", "slope_3", "slope_4", "slope_5")}
        value = figure(
            "h_bridge", "bridge_ripple_current", sine_crest_current=1.0, filter_ripple=swing, displacement_factor=np.cos(lag), modulation_index=index, **read
        )
        assert value == pytest.approx(ripple, rel=0.02)

    @pytest.mark.parametrize("unipolar", [True, False])
    @pytest.mark.parametrize(("crest", "lag"), [(0.4, -1.5), (0.8, 0.0), (1.5, 0.6), (6.0, 0.3), (30.0, 0.0)])
    def test_hard_commutations_counted_on_the_waveform(self, unipolar, crest, lag):
        """Every rising edge of leg A with the choke's current out of the node, every falling one with the current into it: hard."""
        index, ratio, swing = 0.9, 400, 1.0
        edges = sine_pwm(1.0, index, 50.0, 50.0 * ratio, unipolar=unipolar, natural=True)
        n = 2**21
        t = (np.arange(n) + 0.5) / n * edges.period
        level = np.concatenate([[edges.start], edges.levels])[np.searchsorted(edges.times, t, side="right")]
        angle = 2 * np.pi * 50 * t
        integral = np.cumsum(level - index * np.sin(angle)) / n * ratio
        current = crest * np.sin(angle - lag) + swing * (8 if unipolar else 2) * (integral - integral.mean())
        # Leg A alone: in the bipolar case it is the node itself, in the unipolar one its reference against the carrier.
        carrier = 2 * np.abs(2 * ((t * 50 * ratio) % 1) - 1) - 1
        high = index * np.sin(angle) > carrier if unipolar else level > 0
        rises, falls = np.flatnonzero(~high[:-1] & high[1:]), np.flatnonzero(high[:-1] & ~high[1:])
        counted = (np.sum(current[rises] > 0) + np.sum(current[falls] < 0)) / ratio
        given = {
            "sine_crest_current": crest,
            "filter_ripple": swing,
            "displacement_factor": np.cos(lag),
            "output_reactive_power": np.sin(lag),
            "modulation_index": index,
            "carrier_multiple": 2.0 if unipolar else 1.0,
        }
        assert figure("h_bridge", "hard_commutations", **given) == pytest.approx(counted, abs=0.03)
        # What the diode carries at a hard edge it recovers: the root of it, over all cycles.
        recovered = np.concatenate([np.maximum(current[rises], 0), np.maximum(-current[falls], 0)])
        unit = {"switch_recovery_charge": 1.0, "switch_quantity": 1.0, "switch_rated_current": crest}
        assert figure("h_bridge", "recovered_charge", **given, **unit) == pytest.approx(np.sum(np.sqrt(recovered / crest)) / ratio, abs=0.02)

    @given(ripple=st.floats(0, 5), lag=st.floats(-1.5, 1.5), index=st.floats(0.3, 1), unipolar=st.sampled_from([0.0, 1.0]))
    def test_the_share_of_recovery_is_the_integral(self, ripple, lag, index, unipolar):
        """Against the mean over a hundred thousand angles; between nothing and the share of hard cycles."""
        angle = (np.arange(100_000) + 0.5) / 100_000 * np.pi
        wave = index * np.sin(angle)
        half = ripple / 2 * (4 * wave * (1 - wave) if unipolar else 1 - wave**2)
        exact = np.mean(np.sqrt(np.maximum(np.abs(np.sin(angle - lag)) - half, 0.0)))
        ours = recovered_share(1.0, ripple, np.cos(lag), np.sin(lag), index, unipolar)
        assert ours == pytest.approx(exact, abs=0.015)
        assert 0 <= ours <= hard_share(1.0, ripple, np.cos(lag), np.sin(lag), index, unipolar) + 1e-12

    @given(r=st.floats(2, 15), ind=st.floats(0.5e-3, 30e-3), c=st.floats(1e-4, 2e-3), s=st.floats(200, 2000))
    def test_the_double_frequency_power_is_found_again_in_link_and_front_end(self, r, ind, c, s):
        """Phasors of a current source on the capacitor beside R and L: both shares, and together the whole."""
        f, v = 50.0, 380.0
        w = 4 * np.pi * f
        front, link = r + 1j * w * ind, 1 / (1j * w * c)
        into_front, into_link = link / (front + link), front / (front + link)
        assert into_front + into_link == pytest.approx(1.0)
        swing = figure(
            "rectifier",
            "unlimited_swing",
            bridge_apparent_power=s,
            link_voltage=v,
            front_resistance=r,
            output_frequency=f,
            choke_inductance=ind,
            link_capacitance=c,
        )
        assert swing == pytest.approx(s / v * abs(into_front), rel=1e-9)
        share = figure(
            "dc_link",
            "double_frequency_share",
            front_resistance=r,
            output_frequency=f,
            front_inductance=ind,
            link_capacitance=c,
            choke_swing=1.0,
            unlimited_swing=1.0,
        )
        assert share == pytest.approx(abs(into_link), rel=1e-9)
        # Energy: what the source gives and takes at this frequency is burnt in R; capacitor and choke only pass it to and fro.
        volts = s / v * front * link / (front + link)
        assert (volts * np.conj(s / v)).real / 2 == pytest.approx(swing**2 / 2 * r, rel=1e-9)

    @given(v=st.floats(250, 420), tau=st.floats(0.1, 3))
    def test_discharge_by_its_differential_equation(self, v, tau):
        c, r = 470e-6, tau / 470e-6
        event = lambda _, y: y[0] - 60  # noqa: E731 - a one-line event reads best in place
        event.terminal = True
        t = solve_ivp(lambda _, y: -y / (r * c * 1.2), (0, 20 * tau), [v], events=event, rtol=1e-8).t_events[0][0]
        assert figure("dc_link", "discharge_time", bleeder=r, link_capacitance=c, capacitance_tolerance=0.2, highest_link=v) == pytest.approx(t, rel=1e-4)

    @given(v=st.floats(100, 900), c=st.floats(50e-6, 5e-3), slow=st.floats(10, 400), quick=st.floats(0.5, 9))
    def test_discharge_with_a_switched_resistor_by_its_differential_equation(self, v, c, slow, quick):
        given = {"link_capacitance": c, "capacitance_tolerance": 0.2, "highest_link": v}
        bleeder, resistor = slow / c, quick / c
        event = lambda _, y: y[0] - 60  # noqa: E731 - a one-line event reads best in place
        event.terminal = True
        whole = solve_ivp(
            lambda _, y: [-(y[0] / bleeder + y[0] / resistor) / (1.2 * c), y[0] ** 2 / resistor + y[0] ** 2 / bleeder],
            (0, 50 * quick),
            [v, 0.0],
            events=event,
            rtol=1e-9,
        )
        assert figure("dc_link", "time_to_60", bleeder=bleeder, discharge_resistor=resistor, **given) == pytest.approx(whole.t_events[0][0], rel=1e-5)
        # What the resistors burn down to 60 V, and what is left there, is what the capacitor held.
        held = whole.y_events[0][0][1] + 0.6 * c * 60**2
        assert figure("dc_link", "discharge_energy", switched_discharge=1.0, **given) == pytest.approx(held, rel=1e-5)

    def test_setpoint_leaves_the_valley_that_the_peak_needs(self):
        demand, ripple, limit, tolerance, share = 329.0, 26.0, 0.95, 0.01, 0.0204
        # Ripple as measured at 395 V: at another set-point it is in inverse proportion.
        v = figure(
            "dc_link",
            "link_setpoint",
            setpoint_peak_demand=demand,
            modulation_limit=limit,
            link_ripple=ripple,
            link_voltage=395.0,
            link_tolerance=tolerance,
            dead_time_share=share,
            setpoint_step=0.001,
        )
        valley = figure("dc_link", "link_valley", link_setpoint=v, link_tolerance=tolerance, link_voltage=v, link_ripple=ripple * 395 / v)
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
            delivered_voltage=v,
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

    @given(charge=st.floats(20e-9, 200e-9), droop=st.floats(0.2, 2.0), times=st.floats(1.05, 5.0))
    def test_bootstrap_refresh_is_where_the_cycle_repeats(self, charge, droop, times):
        """Cycle by cycle: a packet of charge out, an exponential recharge in; after many cycles the droop is the allowed one."""
        c, r = charge / droop * times, 4.7
        low = figure("bootstrap", "minimum_low_time", bootstrap_resistor=r, bootstrap_capacitor=1.6 * c, capacitance_derating=1.6, cycle_charge=charge, allowed_droop=droop)  # fmt: skip
        full, v = 14.0, 14.0
        for _ in range(3000):
            v -= charge / c
            least = v
            v = full - (full - v) * np.exp(-low / (r * c))
        assert full - least == pytest.approx(droop, rel=1e-6)
        assert low > charge * r / droop, "the plain charge over current is too short"

    def test_without_droop_nothing_is_known_of_the_refresh_and_what_is_counted_stays_bounded(self):
        """The pole where the droop vanishes: the time grows until it is held at what is allowed, and is told as unknown beyond."""
        common = {
            "bootstrap_resistor": 3.3,
            "usual_resistor": 4.7,
            "capacitance_derating": 1.6,
            "cycle_charge": 150e-9,
            "full_voltage": 11.0,
            "allowed_refresh": 2.5e-6,
        }
        counted = []
        for droop in (1.0, 0.5, 0.2, 0.05, 1e-6, -0.1, -3.0):
            need = figure("bootstrap", "needed_capacitance", on_time_charge=160e-9, full_voltage=11.0, needed_supply=11.0 - droop, switch_quantity=1.0, gate_charge=60e-9, gate_on_voltage=12.0)  # fmt: skip
            counted.append(figure("bootstrap", "counted_low_time", bootstrap_capacitor=1.6 * need, needed_supply=11.0 - droop, **common))
        assert np.all(np.diff(counted) >= 0)
        assert counted[0] < 2.5e-6 == counted[-1]
        need = {"bootstrap_capacitor": 1.6 * 320e-9, "needed_supply": 10.0}
        lower, wanted, more = (figure("bootstrap", "counted_low_time", **(common | {"bootstrap_resistor": r}), **need) for r in (2.2, 4.7, 6.8))
        assert lower == wanted == more * 4.7 / 6.8, "the preferred value below what is wanted moves nothing; a pinned one above does"
        context.causes.clear()
        droop = STAGES["bootstrap"].figures["allowed_droop"].fn(11.0, 2.5, 8.7)
        assert np.isnan(droop)
        assert "no droop is left" in context.causes[0].sentence
        context.causes.clear()

    def test_a_short_leaves_the_trip_its_time(self):
        weakest, trip, ind, v = 52.0, 14.0, 1.8e-3, 392.0
        left = figure("output_protection", "time_left", weakest_rating=weakest, output_trip_level=trip, lowest_inductance=ind, highest_link=v)
        assert trip + v / ind * left == pytest.approx(weakest)
        least = figure("output_protection", "least_inductance", highest_link=v, time_to_act=2.5e-6, weakest_rating=weakest, output_trip_level=trip)
        assert trip + v / least * 2.5e-6 == pytest.approx(weakest)
        assert figure("output_protection", "time_left", weakest_rating=52.0, output_trip_level=60.0, lowest_inductance=ind, highest_link=v) == 0
        reached = figure("output_protection", "choke_saturation_current", output_trip_level=trip, highest_link=v, time_to_act=2.5e-6, lowest_inductance=ind)
        current = solve_ivp(lambda _, i: [v / ind], (0, 2.5e-6), [trip]).y[0, -1]
        assert reached == pytest.approx(15.0)
        assert 13.0 < current <= reached, "the next E24 value: between 13 A, 15 A and 16 A"
