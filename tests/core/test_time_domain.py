"""Figures against what a circuit does in time: waves are stepped, fields integrated, impedances solved; no formula of ours is used."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp
from scipy.linalg import solve_banded
from scipy.optimize import minimize_scalar

from rhombos.core.magnetics.winding import dowell, pulse_factor
from rhombos.demo import tern_islet
from tests.core.edges import sine_pwm
from tests.core.formula import figure

FEW = settings(max_examples=15)


class Buck:
    """The rectified pulses of a transformer into choke and link, stepped in time until the period repeats."""

    def __init__(self, amplitude: float, link: float, choke: float, frequency: float, duty: float) -> None:
        """Two pulses a switching period; `duty` is the share of time in which they last."""
        half = 1 / (2 * frequency)
        steps = 40_000
        time = half / steps
        drive = np.where(np.arange(steps) < duty * steps, amplitude, 0.0)
        current, wave = 0.0, np.zeros(steps)
        for _ in range(2):  # below the boundary the current starts from nothing, so it repeats at once
            for k in range(steps):
                current = max(current + (drive[k] - link) * time / choke, 0.0)
                wave[k] = current
        self.wave, self.drive = wave, drive
        self.mean, self.rms, self.peak = float(wave.mean()), float(np.sqrt((wave**2).mean())), float(wave.max())
        self.pulse = wave[drive > 0]


@pytest.mark.parametrize(("amplitude", "duty"), [(464.0, 0.27), (500.0, 0.2), (470.0, 0.5), (640.0, 0.35)])
def test_the_choke_below_its_boundary_is_what_its_pulses_are(amplitude, duty):
    link, choke, frequency = 370.0, 1.5e-3, 40e3
    wave = Buck(amplitude, link, choke, frequency, duty)
    given_ = {"output_voltage": link, "effective_duty": duty, "switching_frequency": frequency, "choke_inductance": choke, "secondary_amplitude": amplitude}
    ripple = figure("rectifier", "choke_ripple", **given_)
    near = pytest.approx
    assert ripple == near(wave.peak, rel=2e-3)
    assert figure("rectifier", "choke_peak_current", link_current=wave.mean, choke_ripple=ripple, choke_swing=0.0) == near(wave.peak, rel=2e-3)
    assert figure("rectifier", "choke_rms_current", link_current=wave.mean, choke_ripple=ripple, choke_swing=0.0) == near(wave.rms, rel=2e-3)
    assert figure("rectifier", "recovered_charge", diode_recovery_charge=1e-7, diode_rated_current=8.0, link_current=wave.mean, choke_ripple=ripple) == 0
    ours = figure("push_pull", "discontinuous_duty", choke_inductance=choke, switching_frequency=frequency, link_current=wave.mean, link_voltage=link, turns_ratio=amplitude / 24, driven_voltage=24.0)  # fmt: skip
    assert ours == near(duty, rel=2e-3)
    form = np.sqrt((wave.pulse**2).mean()) / wave.pulse.mean()
    assert figure("push_pull", "pulse_form_factor", choke_ripple=ripple, link_current=wave.mean, choke_swing=0.0) == near(form, rel=2e-3)
    capacitor = np.sqrt(((wave.wave - wave.mean) ** 2).mean())
    feed = figure("rectifier", "feed_ripple_current", choke_ripple=ripple, link_current=wave.mean)
    assert figure("dc_link", "switching_ripple_current", bridge_ripple_current=0.0, feed_ripple_current=feed) == near(capacitor, rel=2e-3)


@given(link=st.floats(340, 400), duty=st.floats(0.55, 0.95), mean=st.floats(1.5, 5))
@FEW
def test_the_choke_above_its_boundary_from_a_sampled_triangle(link, duty, mean):
    amplitude, choke, frequency = link / duty, 1.5e-3, 40e3
    swing = (amplitude - link) * duty / (2 * frequency * choke)
    t = (np.arange(20_000) + 0.5) / 20_000
    wave = mean + swing * np.where(t < duty, t / duty - 0.5, 0.5 - (t - duty) / (1 - duty))
    given_ = {"output_voltage": link, "effective_duty": duty, "switching_frequency": frequency, "choke_inductance": choke, "secondary_amplitude": amplitude}
    ripple = figure("rectifier", "choke_ripple", **given_)
    assert ripple == pytest.approx(np.ptp(wave), rel=1e-3)
    assert figure("rectifier", "choke_rms_current", link_current=mean, choke_ripple=ripple, choke_swing=0.0) == pytest.approx(
        np.sqrt((wave**2).mean()), rel=1e-4
    )
    assert figure("rectifier", "choke_peak_current", link_current=mean, choke_ripple=ripple, choke_swing=0.0) == pytest.approx(wave.max(), rel=1e-4)
    capacitor = np.sqrt(((wave - mean) ** 2).mean())
    feed = figure("rectifier", "feed_ripple_current", choke_ripple=ripple, link_current=mean)
    assert figure("dc_link", "switching_ripple_current", bridge_ripple_current=0.0, feed_ripple_current=feed) == pytest.approx(capacitor, rel=1e-3)


def test_both_sides_of_the_boundary_meet_on_the_boundary():
    """Swept over the load, ripple, peak and rms have no step where the current begins to stop."""
    link, amplitude, choke, frequency = 370.0, 464.0, 1.5e-3, 40e3
    edge = figure("rectifier", "boundary_current", output_voltage=link, secondary_amplitude=amplitude, switching_frequency=frequency, choke_inductance=choke)
    rows = []
    for load in (edge * (1 - 1e-4), edge * (1 + 1e-4)):
        light = figure("push_pull", "discontinuous_duty", choke_inductance=choke, switching_frequency=frequency, link_current=load, link_voltage=link, turns_ratio=amplitude / 24, driven_voltage=24.0)  # fmt: skip
        duty = min(light, link / amplitude)
        ripple = figure("rectifier", "choke_ripple", output_voltage=link, effective_duty=duty, switching_frequency=frequency, choke_inductance=choke, secondary_amplitude=amplitude)  # fmt: skip
        rows.append(
            [duty, ripple, *(figure("rectifier", f"choke_{n}_current", link_current=load, choke_ripple=ripple, choke_swing=0.0) for n in ("peak", "rms"))]
        )
    np.testing.assert_allclose(rows[0], rows[1], rtol=1e-3)
    assert rows[0][1] == pytest.approx(2 * edge, rel=1e-3)


@given(r=st.floats(1, 200), c=st.floats(1e-3, 30e-3), fraction=st.floats(0.5, 0.99))
@FEW
def test_precharge_by_the_differential_equation_of_its_capacitor(r, c, fraction):
    source = 29.0
    done = lambda _, y: y[0] - fraction * source  # noqa: E731 - a one-line event reads best in place
    done.terminal = True
    solved = solve_ivp(lambda _, y: [(source - y[0]) / (r * c), (source - y[0]) ** 2 / r], (0, 60 * r * c), [0.0, 0.0], events=done, rtol=1e-9, atol=1e-12)
    assert figure("precharge", "precharge_time", time_constant=r * c, closing_fraction=fraction) == pytest.approx(solved.t_events[0][0], rel=1e-5)
    whole = solve_ivp(lambda _, y: [(source - y[0]) / (r * c), (source - y[0]) ** 2 / r], (0, 40 * r * c), [0.0, 0.0], rtol=1e-9, atol=1e-12)
    assert figure("precharge", "pulse_energy", bank_capacitance=c, highest_source_voltage=source) == pytest.approx(whole.y[1, -1], rel=1e-4)
    half = solve_ivp(lambda _, y: [(source - y[0]) / (r * c)], (0, figure("precharge", "early_test_time", time_constant=r * c)), [0.0], rtol=1e-9)
    assert half.y[0, -1] / source == pytest.approx(0.393, abs=1e-3)


def layers_by_diffusion(xi: float, count: int) -> float:
    """Loss of `count` layers over that at direct current, the field solved in each: H'' = (1 + j)²·ξ²·H, H from k − 1 to k."""
    n = 4000
    h = 1 / n
    total = 0.0
    for k in range(1, count + 1):
        bands = np.zeros((3, n - 1), dtype=complex)
        bands[0, 1:] = bands[2, :-1] = 1 / h**2
        bands[1] = -2 / h**2 - 2j * xi**2
        right = np.zeros(n - 1, dtype=complex)
        right[0], right[-1] = -(k - 1) / h**2, -k / h**2
        field = np.concatenate([[k - 1], solve_banded((1, 1), bands, right), [k]])
        total += float(np.sum(np.abs(np.diff(field) / h) ** 2) * h)
    return total / count


@pytest.mark.parametrize("xi", [0.3, 1.0, 2.2, 4.0])
@pytest.mark.parametrize("count", [1, 2, 5])
def test_layers_of_copper_by_solving_the_field_in_them(xi, count):
    assert float(dowell(xi, float(count))) == pytest.approx(layers_by_diffusion(xi, count), rel=2e-3)


@pytest.mark.parametrize("alternating", [0.0, 1.0])
@pytest.mark.parametrize(("duty", "edge"), [(0.46, 0.004), (0.2, 0.01), (0.35, 0.002)])
def test_the_winding_s_factor_from_the_spectrum_of_a_sampled_pulse(alternating, duty, edge):
    """Fourier coefficients of a drawn trapezoid, each with the resistance of its harmonic."""
    xi, layers, n = 0.7, 2.0, 1 << 15
    t = (np.arange(n) + 0.5) / n

    def pulse(at: float) -> np.ndarray:
        distance = np.abs((t - at + 0.5) % 1 - 0.5)
        return np.clip((duty / 2 + edge / 2 - distance) / edge, 0, 1)

    wave = pulse(0.25) - pulse(0.75) if alternating else pulse(0.25)
    power = np.abs(np.fft.rfft(wave) / n) ** 2 * 2
    power[0] /= 2
    orders = np.arange(len(power))
    factor = np.where(orders == 0, 1.0, dowell(xi * np.sqrt(np.clip(orders, 1, 32)), layers))
    expected = float((power * factor).sum() / power.sum())
    assert float(pulse_factor(xi, layers, duty, edge, alternating)) == pytest.approx(expected, rel=0.01)


def test_leakage_from_the_energy_of_the_field_in_the_window():
    """Half primary, secondary, half primary: ampere turns rise, cross, fall; ½·L·I² is the field's energy."""
    turns, length, breadth, insulation, primary, secondary = 4.0, 0.1, 26e-3, 0.15e-3, 1.8e-3, 2.2e-3
    edges = np.cumsum([0, primary / 2, insulation, secondary, insulation, primary / 2])
    mmf = lambda x: np.interp(x, edges, [0, turns / 2, turns / 2, -turns / 2, -turns / 2, 0])  # noqa: E731 - one ampere
    energy = sum(quad(lambda x: mmf(x) ** 2, a, b)[0] for a, b in itertools.pairwise(edges)) * 4e-7 * np.pi * length / breadth / 2
    ours = figure("transformer", "leakage_inductance", primary_turns=turns, core_mean_turn_length=length, core_winding_breadth=breadth, interfaces=2, winding_height=primary + secondary, insulation_height=insulation, loop_inductance=0.0)  # fmt: skip
    assert ours == pytest.approx(2 * energy, rel=1e-6)


@pytest.mark.parametrize("frequency", [20e3, 40e3, 100e3])
def test_skin_depth_as_the_tables_print_it(frequency):
    """75 to 76 mm over the root of the frequency in hertz, copper at 100 °C (McLyman's table: 0.0236 cm at 100 kHz and 20 °C scaled)."""
    assert figure("transformer", "skin_depth", switching_frequency=frequency) == pytest.approx(75.5e-3 / np.sqrt(frequency), rel=0.01)


@pytest.mark.parametrize("unipolar", [True, False])
@pytest.mark.parametrize("lag", [0.0, 0.4, 1.0])
def test_each_position_of_the_bridge_carries_half_the_crest_as_rms(unipolar, lag):
    edges = sine_pwm(1.0, 0.85, 50.0, 50.0 * 400, unipolar=unipolar, natural=True)
    t = (np.arange(400_000) + 0.5) / 400_000 / 50
    node = np.concatenate([[edges.start], edges.levels])[np.searchsorted(edges.times, t, side="right")]
    current = 5.0 * np.sin(2 * np.pi * 50 * t - lag)
    # One diagonal position conducts while its leg is high: its share of time is half of (1 + node) on average.
    rms = np.sqrt((current**2 * (1 + node) / 2).mean())
    assert figure("h_bridge", "switch_rms_current", sine_crest_current=5.0) == pytest.approx(rms, rel=5e-3)


@given(dead=st.floats(0.2e-6, 2e-6), carrier=st.floats(8e3, 40e3), legs=st.sampled_from([1.0, 2.0]))
@FEW
def test_dead_time_takes_its_share_of_the_fundamental(dead, carrier, legs):
    """Every carrier period loses the dead time against the current: a square wave in phase with it."""
    t = (np.arange(20_000) + 0.5) / 20_000
    lost = 2 * legs * dead * carrier * np.sign(np.sin(2 * np.pi * t)) / 2
    crest = 2 * np.mean(lost * np.sin(2 * np.pi * t))
    assert figure("h_bridge", "dead_time_share", switching_legs=legs, dead_time=dead, carrier_frequency=carrier) == pytest.approx(crest, rel=1e-3)


@given(m=st.floats(0.5, 0.94), carrier=st.floats(10e3, 30e3))
@FEW
def test_the_narrowest_pulse_at_the_highest_index_still_has_its_time(m, carrier):
    """A low-side time that the limit of m just allows is what the sine's crest leaves in a carrier period."""
    crest_low = (1 - m) / 2 / carrier
    limit = figure(
        "h_bridge", "modulation_limit", carrier_frequency=carrier, counted_low_time=crest_low * 0.7, driver_minimum_pulse=1e-9, dead_time=crest_low * 0.3
    )
    assert limit == pytest.approx(m, rel=1e-9)


def output(frequency: float, ind: float, c: float, cd: float, rd: float, load: complex) -> complex:
    """Output over bridge voltage of choke, capacitor, damper and load admittance, by impedances."""
    s = 2j * np.pi * frequency
    admittance = s * c + 1 / (rd + 1 / (s * cd)) + load
    return 1 / (1 + s * ind * admittance)


@given(ind=st.floats(0.5e-3, 4e-3), c=st.floats(0.5e-6, 5e-6), n=st.floats(2, 5))
@FEW
def test_the_damper_flattens_the_filter_as_well_as_any_resistor_can(ind, c, n):
    rd = figure("output_filter", "damping_resistor", filter_inductance=ind, filter_capacitance=c)
    corner = figure("output_filter", "corner_frequency", filter_inductance=ind, filter_capacitance=c)
    grid = corner * np.geomspace(0.2, 3, 400)
    peak = lambda r: float(np.abs(output(grid, ind, c, n * c, r, 0)).max())  # noqa: E731 - a curve to be minimised
    best = minimize_scalar(lambda x: peak(np.exp(x)), bounds=(np.log(rd / 10), np.log(rd * 10)), method="bounded").fun
    assert peak(1e6) > 10 * best, "without a damper it rings"
    assert peak(rd) < 1.6 * best


def test_the_unloaded_rise_is_the_filter_s_own_gain():
    ind, c, cd = 1.8e-3, 1e-6, 3.3e-6
    ours = figure("output_filter", "no_load_rise", output_frequency=50, filter_inductance=ind, filter_capacitance=c, damping_capacitance=cd)
    assert ours == pytest.approx(abs(output(50, ind, c, cd, 1e-6, 0)), rel=1e-9)


@given(p=st.floats(50, 900), q=st.floats(0, 500))
@FEW
def test_what_the_bridge_delivers_beside_the_load_by_phasors(p, q):
    c, cd, v, w = 1e-6, 3.3e-6, 230.0, 2 * np.pi * 50
    current = complex(p, -q) / v + 1j * w * (c + cd) * v
    reactive = figure("output_filter", "input_reactive_power", output_reactive_power=q, output_frequency=50, filter_capacitance=c, damping_capacitance=cd, delivered_voltage=v)  # fmt: skip
    assert reactive == pytest.approx(-(v * current).imag, rel=1e-9, abs=1e-9)
    ours = figure("output_filter", "input_current", output_power=p, input_reactive_power=reactive, output_distortion_power=0, delivered_voltage=v)
    assert ours == pytest.approx(abs(current), rel=1e-9)


def test_damping_loss_by_the_current_through_its_resistor():
    """The resistor's current at the output frequency and its share of a triangular ripple, by impedances, harmonic by harmonic."""
    c, cd, rd, v, ripple, f = 1e-6, 3.3e-6, 47.0, 230.0, 2.0, 40e3
    low = abs(v / (rd + 1 / (2j * np.pi * 50 * cd))) ** 2 * rd
    high = 0.0
    for k in range(1, 40, 2):
        s = 2j * np.pi * k * f
        amperes = ripple / 2 * 8 / (np.pi * k) ** 2 / np.sqrt(2)
        high += abs(amperes * (1 / (rd + 1 / (s * cd))) / (s * c + 1 / (rd + 1 / (s * cd)))) ** 2 * rd
    x = figure("output_filter", "carrier_ratio_damped", carrier_multiple=2, carrier_frequency=20e3, filter_capacitance=c, damping_resistor=rd)
    given_ = {
        "output_frequency": 50,
        "damping_capacitance": cd,
        "delivered_voltage": v,
        "filter_ripple": ripple,
        "filter_capacitance": c,
        "carrier_ratio_damped": x,
    }
    amperes = figure("output_filter", "damping_current", damping_resistor=rd, **given_)
    ours = figure("output_filter", "damping_loss", damping_current=amperes, damping_resistor=rd)
    assert ours == pytest.approx(low + high, rel=0.01)
    film = figure("output_filter", "capacitor_current", surge=0.0, capacitor_quantity=1.0, **given_)
    at_carrier = (1 / (rd + 1 / (2j * np.pi * f * cd))) + 2j * np.pi * f * c
    expected = np.sqrt((2 * np.pi * 50 * c * v) ** 2 + abs(ripple / np.sqrt(12) * 2j * np.pi * f * c / at_carrier) ** 2)
    assert film == pytest.approx(expected, rel=1e-6)


def _lifted(v, held, peak, leak, c, rest):
    """Volts of a clamp's capacitor after a pulse: the leakage rings into it against nothing for the rest, then against what the winding holds, then it is charged to that."""
    omega = 1 / np.sqrt(leak * c)
    swing, angle = np.hypot(v, peak / (c * omega)), np.arctan2(peak / (c * omega), v)
    if angle <= omega * rest:  # the current, a cosine's fall, is nothing before the rest ends
        return max(swing, held)
    v, left = swing * np.cos(angle - omega * rest), c * omega * swing * np.sin(angle - omega * rest)
    return max(held + np.sqrt(max(v - held, 0.0) ** 2 + leak * left**2 / c), v)


@given(
    peak=st.floats(10, 120), held=st.floats(12, 30), leak=st.floats(5e-9, 60e-9), wanted=st.floats(0.02, 0.1), rest=st.sampled_from((0.0, 30e-9, 0.1e-6, 3e-6))
)
@FEW
def test_the_clamp_stands_where_what_comes_in_is_burnt(peak, held, leak, wanted, rest):
    """Pulse by pulse: the leakage empties into the capacitor against V_c or V_c − V_r, the resistor takes out V_c/R, stepped until it repeats."""
    frequency, voltage = 40e3, 2.2 * held
    energy = figure("clamp", "crest_leakage_power", leakage_inductance=leak, peak_current=peak, switching_frequency=frequency)
    pulse = {"leakage_inductance": leak, "switching_frequency": frequency, "emptying_rest": rest}
    r = figure("clamp", "clamp_resistor", wanted_clamp_voltage=voltage, input_voltage=held, crest_leakage_power=energy, peak_current=peak, **pulse)
    c = figure("clamp", "clamp_capacitor", clamp_ripple_fraction=wanted, clamp_resistor=r, switching_frequency=frequency)
    settled = figure("clamp", "clamp_voltage", input_voltage=held, crest_leakage_power=energy, clamp_resistor=r, **pulse)
    v = settled * 1.02
    for _ in range(int(12 * r * c * frequency) + 400):
        top = _lifted(v, held, peak, leak, c, rest)
        v = top * np.exp(-1 / (r * c * frequency))
    ripple = figure("clamp", "clamp_ripple", clamp_voltage=settled, clamp_resistor=r, clamp_capacitor=c, switching_frequency=frequency)
    if settled > held:
        assert (top + v) / 2 == pytest.approx(settled, rel=0.01)
        assert top - v == pytest.approx(ripple, rel=0.05)
    else:
        assert top == held, "the leakage alone does not fill it as far as the winding does"
    assert top <= figure("clamp", "drain_peak_voltage", input_voltage=held, clamp_voltage=settled, clamp_ripple=ripple) - held + 0.002 * settled
    assert settled <= voltage * (1 + 1e-9), "the resistor is the preferred value below, so the clamp does not climb"
    # Energy over a period: what the leakage held, and what the winding adds while it empties, is what the resistor burns.
    burnt = figure("clamp", "clamp_loss", clamp_resistor=r, input_voltage=held, leakage_power=energy, **pulse)
    left = max(peak - settled * rest / leak, 0.0)
    if settled > held:
        assert burnt == pytest.approx(energy + held * leak * left**2 / (2 * (settled - held)) * frequency, rel=1e-6)
    else:
        assert burnt == pytest.approx(held**2 / r)
        assert left == 0.0


@given(voc=st.floats(12, 60), r=st.floats(2e-3, 0.1))
@FEW
def test_no_load_draws_more_than_the_source_can_give(voc, r):
    best = minimize_scalar(lambda i: -i * (voc - i * r), bounds=(0, voc / r), method="bounded", options={"xatol": 1e-9})
    assert figure("battery", "deliverable_power", open_circuit_voltage=voc, source_resistance=r) == pytest.approx(-best.fun, rel=1e-6)


def test_the_bootstrap_s_first_charge_ends_within_a_hundredth():
    t = figure("bootstrap", "first_charge_time", bootstrap_resistor=4.7, bootstrap_capacitor=1e-6)
    solved = solve_ivp(lambda _, y: [(12 - y[0]) / (4.7 * 1e-6)], (0, t), [0.0], rtol=1e-9)
    assert solved.y[0, -1] / 12 == pytest.approx(0.99, abs=2e-3)


def test_magnetising_current_by_integrating_the_volts():
    v, duty, f, ind = 24.0, 0.8, 40e3, 120e-6
    swing = quad(lambda _: v / ind, 0, duty / (2 * f))[0]
    assert figure("transformer", "magnetising_current", driven_voltage=v, total_duty=duty, switching_frequency=f, magnetising_inductance=ind) == pytest.approx(
        swing / 2
    )


def test_the_demo_idles_on_what_its_parts_take():
    """No load: what the battery gives is the parts' own drain, and the choke takes next to nothing of it."""
    design = tern_islet.first()
    sheet = design.model().solve(design.inputs())
    link, amplitude = sheet.at("link.link_voltage", "nominal_none"), sheet.at("transformer.secondary_amplitude", "nominal_none")
    wave = Buck(amplitude, link, sheet.at("rectifier.choke_inductance", "nominal_none"), sheet.at("oscillator.switching_frequency", "nominal_none"), sheet.at("front.effective_duty", "nominal_none"))  # fmt: skip
    assert wave.mean == pytest.approx(sheet.at("rectifier.link_current", "nominal_none"), rel=5e-3)
    assert wave.peak == pytest.approx(sheet.at("rectifier.choke_peak_current", "nominal_none"), rel=5e-3)
    assert sheet.at("rectifier.loss", "nominal_none") < 0.02 * sheet.at("totals.total_loss", "nominal_none")
