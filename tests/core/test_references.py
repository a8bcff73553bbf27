"""Formulas of the stages against a second route: waveforms sampled finely, phasors, node equations, differential equations."""

import cmath

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp
from scipy.optimize import brentq

from rhombos.core.graph.inputs import Inputs
from rhombos.core.stages.magnetics.transformer_windings import RHO_100
from rhombos.formats.design import model_for
from tests.core.formula import figure

CLOCK = ("timing_resistor", "timing_capacitor", "other_resistor", "oscillator_frequency", "switching_frequency", "ripple_frequency")


class TestLoads:
    """The vector sums of the brief by complex numbers."""

    @given(watts=st.floats(1, 3000), pf=st.floats(0.2, 1.0), count=st.integers(1, 5), rectifier=st.sampled_from([0.0, 1.0]))
    def test_power_triangle(self, watts, pf, count, rectifier):
        s = figure("load", "load_apparent_power", rated_power=watts, count=count, power_factor=pf)
        p = figure("load", "load_active_power", rated_power=watts, count=count)
        q = figure("load", "load_reactive_power", load_active_power=p, load_apparent_power=s, rectifier_input=rectifier)
        d = figure("load", "load_distortion_power", load_active_power=p, load_apparent_power=s, rectifier_input=rectifier)
        assert p**2 + q**2 + d**2 == pytest.approx(s**2, rel=1e-6)
        assert q * d == 0, "displacement or distortion, never both"

    @given(
        rest=st.floats(0, 2000), rest_q=st.floats(0, 1000), watts=st.floats(20, 500), pf=st.floats(0.3, 0.99), k=st.floats(1, 8), start_pf=st.floats(0.1, 1.0)
    )
    def test_one_start_on_top_of_all_the_others_is_a_complex_sum(self, rest, rest_q, watts, pf, k, start_pf):
        s = watts / pf
        q = s * np.sqrt(1 - pf**2)
        start = k * s
        active = figure(
            "load",
            "starting_active_power",
            rated_active_power=rest + watts,
            rated_power=watts,
            count=1.0,
            start_apparent_power=start,
            start_power_factor=start_pf,
        )
        one = {"count": 1.0, "rectifier_input": 0.0, "start_apparent_power": start, "start_power_factor": start_pf}
        reactive = figure("load", "starting_reactive_power", brief_reactive_power=rest_q + q, load_reactive_power=q, **one)
        distortion = figure("load", "starting_distortion_power", brief_distortion_power=0.0, load_distortion_power=0.0, **one)
        total = figure("load", "starting_apparent_power", starting_active_power=active, starting_reactive_power=reactive, starting_distortion_power=distortion)
        expected = complex(rest, rest_q) + cmath.rect(start, np.arccos(start_pf))
        assert total == pytest.approx(abs(expected), rel=1e-6)


class TestSource:
    @given(voc=st.floats(10, 60), r=st.floats(1e-4, 0.05), share=st.floats(0, 0.95))
    def test_terminal_voltage_is_where_a_constant_power_load_meets_the_source(self, voc, r, share):
        power = share * voc**2 / (4 * r)
        v = figure(
            "battery",
            "terminal_voltage",
            open_circuit_voltage=voc,
            source_resistance=r,
            output_power=power,
            cells=8.0,
            cell_cutoff=0.0,
            line_resistance=r,
            source_level=1.0,
            surge=0.0,
        )
        assert v == pytest.approx(brentq(lambda x: x - voc + r * power / x, voc / 2, voc + 1), rel=1e-9)

    @given(amperes=st.floats(1, 100), hours=st.floats(5, 25), capacity=st.floats(20, 400))
    def test_run_time_without_peukert_is_charge_over_current(self, amperes, hours, capacity):
        t = figure(
            "battery",
            "run_time",
            usable_fraction=0.8,
            rating_time=hours * 3600,
            capacity=capacity * 3600,
            source_current=amperes,
            peukert_exponent=1.0,
            source_level=1.0,
            is_supply=0.0,
        )
        assert t == pytest.approx(0.8 * capacity / amperes * 3600)
        at_rating = figure(
            "battery",
            "run_time",
            usable_fraction=1.0,
            rating_time=hours * 3600,
            capacity=capacity * 3600,
            source_current=capacity / hours,
            peukert_exponent=1.2,
            source_level=1.0,
            is_supply=0.0,
        )
        assert at_rating == pytest.approx(hours * 3600), "at the rated current the rating holds whatever the exponent"

    @given(duty=st.floats(0.3, 0.95), peak=st.floats(5, 120))
    def test_bulk_current_and_capacitance_from_the_waveform(self, duty, peak):
        """Rectangular pulses of height I and duty D: the capacitor carries what is not the mean."""
        n = 20000
        t = (np.arange(n) + 0.5) / n
        current = np.where(t < duty, peak, 0.0) - peak * duty
        drawn = figure("push_pull", "drawn_ripple_current", flat_top_current=peak, flat_top_swing=0.0, effective_duty=duty)
        assert figure("source_input", "bulk_current", surge=0.0, drawn_ripple_current=drawn) == pytest.approx(np.sqrt(np.mean(current**2)), rel=2e-3)
        f, ripple, v = 40e3, 0.02, 25.0
        step = figure("push_pull", "drawn_step", flat_top_current=peak, flat_top_swing=0.0)
        charge = figure("push_pull", "drawn_ripple_charge", drawn_step=step, effective_duty=duty, switching_frequency=f)
        c = figure("source_input", "needed_bulk_capacitance", drawn_ripple_charge=charge, bulk_ripple_share=ripple, input_voltage=v)
        voltage = np.cumsum(current) / n / (2 * f) / c
        assert np.ptp(voltage) == pytest.approx(ripple * v, rel=1e-2)

    @given(ref=st.floats(1, 5), up_=st.floats(1e4, 3e5), low=st.floats(1e3, 5e4), feedback=st.floats(1e5, 2e6), out=st.sampled_from([0.0, 0.1, 5.0]))
    def test_cutoff_thresholds_by_the_node_equation(self, ref, up_, low, feedback, out):
        """At the threshold the divider's node stands at the reference: currents into it sum to zero."""
        pack = brentq(lambda v: (v - ref) / up_ + (out - ref) / feedback - ref / low, -1e4, 1e5)
        assert figure(
            "cutoff", "falling_threshold", reference_voltage=ref, upper_resistor=up_, lower_resistor=low, feedback_resistor=feedback, output_high=out
        ) == pytest.approx(pack, rel=1e-7, abs=1e-6)

    def test_cutoff_designs_what_it_wants(self):
        ratio = figure("cutoff", "feedback_ratio", needed_hysteresis=1.9, output_high=5.0, output_low=0.1)
        upper = figure("cutoff", "upper_resistor", lower_resistor=10e3, wanted_cutoff=22.4, output_high=5.0, feedback_ratio=ratio, reference_voltage=2.5)
        feedback = figure("cutoff", "feedback_resistor", upper_resistor=upper, feedback_ratio=ratio)
        fall = figure(
            "cutoff", "falling_threshold", reference_voltage=2.5, upper_resistor=upper, lower_resistor=10e3, feedback_resistor=feedback, output_high=5.0
        )
        rise = figure(
            "cutoff", "rising_threshold", reference_voltage=2.5, upper_resistor=upper, lower_resistor=10e3, feedback_resistor=feedback, output_low=0.1
        )
        assert 0.95 * 22.4 < fall <= 22.4 * 1.001
        assert rise - fall >= 1.9 * 0.98


class TestFrontEnd:
    @given(duty=st.floats(0.3, 0.9), mean=st.floats(0.5, 5), share=st.floats(0.0, 1.9))
    def test_pulse_form_factor_from_a_sampled_trapezoid(self, duty, mean, share):
        t = (np.arange(4000) + 0.5) / 4000
        pulse = mean * (1 - share / 2 + share * t)
        assert figure("push_pull", "pulse_form_factor", choke_ripple=share * mean, link_current=mean, choke_swing=0.0) == pytest.approx(
            np.sqrt(np.mean(pulse**2)) / mean, rel=1e-5
        )

    @given(v1=st.floats(380, 700), load=st.floats(0.02, 0.98))
    def test_discontinuous_duty_balances_the_choke_s_charge(self, v1, load):
        """Charge per pulse of a triangle that rises by V_1 − V and falls by V, two pulses a period."""
        v, f, ind = 370.0, 40e3, 1.5e-3
        boundary = v * (1 - v / v1) / (2 * f * ind) / 2
        current = load * boundary
        d = figure(
            "push_pull",
            "discontinuous_duty",
            choke_inductance=ind,
            switching_frequency=f,
            link_current=current,
            link_voltage=v,
            turns_ratio=1.0,
            driven_voltage=v1,
        )
        on = d / (2 * f)
        peak = (v1 - v) / ind * on
        fall = peak * ind / v
        assert peak * (on + fall) / 2 * 2 * f == pytest.approx(current, rel=1e-6)

    @given(p=st.floats(50, 2000), v=st.floats(18, 30), leak=st.floats(5e-9, 150e-9))
    def test_commutation_solves_its_own_definition(self, p, v, leak):
        d = figure("push_pull", "reachable_duty", duty_limit=0.95, switching_frequency=40e3, leakage_inductance=leak, pulse_power=p, driven_voltage=v)
        assume(8 * 40e3 * leak * p / v**2 < 0.95**2)
        current = p / (v * d)
        assert d == pytest.approx(0.95 - 2 * 40e3 * leak * current / v, rel=1e-9)

    @given(p=st.floats(50, 1500), v=st.floats(20, 30), r=st.floats(0.001, 0.03))
    def test_continuous_duty_makes_the_link_through_the_drop(self, p, v, r):
        need, ratio = 375.0, 18.25
        d = figure("push_pull", "continuous_duty", secondary_voltage_needed=need, turns_ratio=ratio, pulse_power=p, drive_resistance=r, driven_voltage=v)
        current = p / (v * d)
        assert ratio * d * (v - current * r) == pytest.approx(need, rel=1e-9)

    @given(leak=st.floats(5e-9, 200e-9), peak=st.floats(5, 80), held=st.floats(20, 30), r=st.floats(100, 3000))
    def test_clamp_settles_where_its_resistor_burns_what_the_reset_brings(self, leak, peak, held, r):
        """The leakage resets against V_c − V_r while the clamp takes V_c times its current: integrated, and set equal to V_c²/R."""
        f = 40e3

        def brought(clamp: float) -> float:
            slope = (clamp - held) / leak
            return quad(lambda t: clamp * (peak - slope * t), 0, peak / slope)[0] * f

        settled = brentq(lambda v: brought(v) - v**2 / r, held * (1 + 1e-9), 1e5)
        energy = figure("clamp", "crest_leakage_power", leakage_inductance=leak, peak_current=peak, switching_frequency=f)
        given_ = {"input_voltage": held, "clamp_resistor": r, "leakage_inductance": leak, "switching_frequency": f, "emptying_rest": 0.0}
        assert figure("clamp", "clamp_voltage", crest_leakage_power=energy, **given_) == pytest.approx(settled, rel=1e-6)
        assert figure("clamp", "clamp_loss", leakage_power=energy, **given_) == pytest.approx(brought(settled), rel=1e-6)
        assert figure("clamp", "clamp_loss", leakage_power=0.0, **given_) == pytest.approx(held**2 / r), "it never stands below the winding"

    @given(r=st.floats(2, 50), ciss=st.floats(1e-9, 10e-9), qgd=st.floats(5e-9, 60e-9), plateau=st.floats(3.2, 6))
    @settings(max_examples=20, deadline=None)
    def test_edge_times_by_charging_the_gate(self, r, ciss, qgd, plateau):
        """From threshold to plateau an RC charge, then the plateau at constant current."""
        on, threshold = 12.0, 3.0
        rise = solve_ivp(
            lambda _, v: (on - v) / (r * ciss), (0, 40 * r * ciss), [threshold], events=lambda _, v: v[0] - plateau, rtol=1e-9, atol=1e-12
        ).t_events[0][0]
        current = (on - plateau) / r
        assert figure(
            "gate_drive",
            "turn_on_time",
            gate_path_on=r,
            switch_input_capacitance=ciss,
            gate_on_voltage=on,
            switch_threshold_voltage=threshold,
            plateau_voltage=plateau,
            switch_gate_drain_charge=qgd,
        ) == pytest.approx(rise + qgd / current, rel=1e-5)
        fall = solve_ivp(lambda _, v: -v / (r * ciss), (0, 40 * r * ciss), [plateau], events=lambda _, v: v[0] - threshold, rtol=1e-9, atol=1e-12).t_events[0][
            0
        ]
        assert figure(
            "gate_drive",
            "turn_off_time",
            gate_path_off=r,
            switch_input_capacitance=ciss,
            switch_threshold_voltage=threshold,
            plateau_voltage=plateau,
            switch_gate_drain_charge=qgd,
        ) == pytest.approx(fall + qgd / (plateau / r), rel=1e-5)

    def test_oscillator_family_and_the_factor_of_two(self):
        for name, law in {
            "pin": lambda r, c, d: 1.1 / (r * c),
            "discharge": lambda r, c, d: 1 / (c * (0.7 * r + 3 * d)),
            "flip_flop": lambda r, c, d: 1.44 / ((d + 2 * r) * c),
        }.items():
            sheet = model_for("oscillator_alone", ()).solve(Inputs(choices={"oscillator.family": name}))
            r, c, d, f_osc, f_sw, ripple = (float(sheet.value(f"oscillator.{n}")[0]) for n in CLOCK)
            assert f_osc == pytest.approx(law(r, c, d), rel=1e-9)
            assert f_sw == pytest.approx(40e3, rel=0.012)
            assert f_osc / f_sw == pytest.approx(2)
            assert ripple == pytest.approx(f_osc)

    @given(wanted=st.floats(200, 60e3), clock=st.floats(4e6, 48e6), both=st.booleans())
    def test_a_timer_counts_what_no_other_top_does_better(self, wanted, clock, both):
        def frequency(top):
            return clock / (2 * top if both else top + 1)

        top = figure("oscillator", "timer_top", timer_clock=clock, prescaler=1.0, wanted_frequency=wanted, both_ways=float(both))
        period = 1 / wanted
        best = min(abs(1 / frequency(t) - period) for t in (top - 1, top + 1) if t >= 1)
        # Half-way between two counts rounding forgives a relative 1e-9 of their number, so either may be taken there.
        assert abs(1 / frequency(top) - period) <= best * (1 + 1e-9) + 2.1e-9 * period


class TestTransformer:
    @given(v=st.floats(15, 60), d=st.floats(0.1, 0.95), n=st.integers(1, 12), area=st.floats(5e-5, 6e-4))
    def test_flux_is_half_the_integral_of_one_pulse(self, v, d, n, area):
        f = 38e3
        swing = quad(lambda _: v / (n * area), 0, d / (2 * f))[0]
        assert figure(
            "transformer", "peak_flux", driven_voltage=v, total_duty=d, primary_turns=n, core_effective_area=area, lowest_switching_frequency=f
        ) == pytest.approx(swing / 2, rel=1e-9)

    @given(d=st.floats(0.1, 0.95), b=st.floats(0.02, 0.2))
    @settings(max_examples=25)
    def test_core_loss_by_integrating_a_ramp_that_rests(self, d, b):
        """k_i·ΔB^(β−α)·f·∫|dB/dt|^α over a period with two ramps, rests between."""
        k_i, alpha, beta, f, volume = 0.3, 1.4, 2.5, 40e3, 2e-5
        n = 200_000
        t = (np.arange(n) + 0.5) / n / f
        ramp = d / 2 / f
        slope = np.where(t % (0.5 / f) < ramp, 2 * b / ramp, 0.0)
        expected = volume * k_i * (2 * b) ** (beta - alpha) * np.mean(slope**alpha)
        assert figure(
            "transformer",
            "core_loss",
            core_effective_volume=volume,
            improved_coefficient=k_i,
            core_flux=b,
            material_flux_exponent=beta,
            material_frequency_exponent=alpha,
            total_duty=d,
            switching_frequency=f,
        ) == pytest.approx(expected, rel=1e-3)

    def test_resistance_of_a_known_wire(self):
        """One metre of one square millimetre at 100 °C is 22.7 mΩ."""
        d = np.sqrt(4e-6 / np.pi)
        assert figure(
            "transformer", "primary_dc_resistance", primary_turns=10, core_mean_turn_length=0.1, primary_strands=1, primary_strand_diameter=d
        ) == pytest.approx(RHO_100 / 1e-6)
        assert pytest.approx(2.266e-8, rel=1e-3) == RHO_100
        assert figure("transformer", "skin_depth", switching_frequency=1.0) == pytest.approx(75.8e-3, rel=2e-3)

    def test_volt_seconds_agree_with_the_flux_that_they_size(self):
        lam = figure(
            "transformer",
            "volt_seconds",
            sizing_voltage=375.0,
            needed_ratio=18.0,
            turns_ratio=18.0,
            driven_voltage=25.0,
            total_duty=0.8,
            lowest_switching_frequency=38e3,
        )
        turns = figure("transformer", "primary_turns", volt_seconds=lam, flux_limit=0.17, core_effective_area=2.11e-4)
        flux = figure(
            "transformer",
            "peak_flux",
            driven_voltage=25.0,
            total_duty=375.0 / 18.0 / 25.0,
            primary_turns=turns,
            core_effective_area=2.11e-4,
            lowest_switching_frequency=38e3,
        )
        assert flux <= 0.17
        assert flux * turns / (turns - 1) > 0.17, "one turn less would pass the limit"
        # Where commutation takes the pulse beyond what the link asks for, the pulse decides.
        longer = figure(
            "transformer",
            "volt_seconds",
            sizing_voltage=375.0,
            needed_ratio=18.0,
            turns_ratio=18.0,
            driven_voltage=25.0,
            total_duty=0.92,
            lowest_switching_frequency=38e3,
        )
        assert longer == pytest.approx(25.0 * 0.92 / 2 / 38e3)

    def test_a_turn_more_on_the_secondary_asks_for_no_other_primary(self):
        """With the duty that the link asks for, D·V_p = V_sec/N + drops, the volt-seconds are those of the ratio needed, however many turns are wound."""
        found = []
        for ratio in (18.0, 18.1, 19.0, 24.0):
            duty = (375.0 / ratio + 0.7) / 25.0
            found.append(
                figure(
                    "transformer",
                    "volt_seconds",
                    sizing_voltage=375.0,
                    needed_ratio=18.0,
                    turns_ratio=ratio,
                    driven_voltage=25.0,
                    total_duty=duty,
                    lowest_switching_frequency=38e3,
                )
            )
        np.testing.assert_allclose(found, (375.0 / 18.0 + 0.7) / 2 / 38e3, rtol=1e-12)

    def test_the_ratio_reaches_with_the_copper_asked_for_and_so_with_whole_strands(self):
        """The resistances that the ratio is sized by, whatever was wound: Kirchhoff's loop with the copper asked for closes at the set-point."""
        asked_p = figure("transformer", "primary_resistance_asked", primary_turns=4.0, core_mean_turn_length=0.1, primary_copper_area=7e-6, ac_limit=1.5)
        asked_s = figure(
            "transformer", "secondary_resistance_asked", secondary_turns=77.0, core_mean_turn_length=0.1, secondary_copper_area=0.5e-6, ac_limit=1.5
        )
        ratios = []
        for wound_p, wound_s in ((asked_p * 0.6, asked_s * 0.9), (asked_p * 0.95, asked_s * 0.5)):
            volts = figure(
                "transformer",
                "sizing_voltage",
                secondary_voltage_needed=380 + 2.3 * wound_s,
                link_current=2.3,
                secondary_resistance_asked=asked_s,
                secondary_resistance=wound_s,
            )
            drive = figure("transformer", "sizing_resistance", drive_resistance=0.008 + wound_p, primary_resistance_asked=asked_p, primary_resistance=wound_p)
            ratios.append(
                figure(
                    "transformer", "needed_ratio", sizing_voltage=volts, driven_voltage=22.0, reachable_duty=0.92, pulse_power=900.0, sizing_resistance=drive
                )
            )
        assert ratios[0] == pytest.approx(ratios[1], rel=1e-12), "it knows nothing of the strands"
        flat = 900.0 / 22.0
        assert ratios[0] * (22.0 * 0.92 - flat * (0.008 + asked_p)) - 2.3 * asked_s == pytest.approx(380.0, rel=1e-12)
