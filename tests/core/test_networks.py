"""Diode networks, snubbers and the rectifier load: their traces against closed forms and SciPy."""

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rhombos.core.stages.networks.rectifier_load import drawn_by
from rhombos.core.stages.networks.snubbers import runs as snubber_runs
from tests.core.looking import alone, run


def test_networks_do_what_their_closed_forms_say():
    """Each by its trace; what the diodes take is left out of the closed forms or counted as their forward voltage."""
    seen = alone("doubler", load_resistor=20e3)
    traced = run(seen)
    times = traced.times()
    assert traced.voltage("out", "0", times).mean() == pytest.approx(seen.at("doubled_voltage"), rel=0.01)
    assert np.ptp(traced.voltage("out", "0", times)) == pytest.approx(seen.at("doubled_ripple"), rel=0.1)
    seen = alone("peak_detector")
    traced = run(seen)
    assert np.ptp(traced.voltage("out", "0", traced.times())) == pytest.approx(seen.at("droop"), rel=0.05)
    fall = run(seen, 1)
    falls = fall.voltage("out", "0", fall.times(4000))
    first = fall.times(4000)[int(np.argmax(falls <= seen.at("wave_amplitude") - seen.at("diode_drop")))]
    assert first == pytest.approx(
        seen.at("time_constant") * np.log(2 * seen.at("wave_amplitude") / (seen.at("wave_amplitude") - seen.at("diode_drop"))), rel=0.03
    )
    seen = alone("restorer")
    traced = run(seen)
    assert traced.voltage("out", "0", traced.times()).mean() == pytest.approx(seen.at("restored_level"), rel=0.01)
    seen = alone("clipper")
    traced = run(seen)
    assert traced.voltage("out", "0", traced.times()).max() == pytest.approx(seen.at("clip_level"), rel=0.01)
    assert traced.current("diode", traced.times()).max() == pytest.approx(seen.at("diode_peak"), rel=0.01)
    seen = alone("rcd_clamp", diode_drop=0.05)
    traced = run(seen)
    assert traced.voltage("clamp", "0", traced.times()).mean() == pytest.approx(seen.at("settled_clamp"), rel=0.01)
    seen = alone("half_bridge_clamp", diode_drop=0.05)
    traced = run(seen)
    clamp = traced.voltage("clamp", "0", traced.times(8000))
    assert clamp.max() - seen.at("rail_voltage") == pytest.approx(seen.at("overshoot"), rel=0.05)
    seen = alone("turn_off_snubber")
    traced = run(seen)
    off = traced.voltage("drain", "0", np.array([0.5 / seen.at("snubber_frequency") + 10e-9]))[0]
    assert off == pytest.approx(seen.at("switched_current") * 10e-9 / seen.at("snubber_capacitor"), rel=0.05)


def test_the_snubber_choosers_ways_burn_and_peak_as_their_closed_forms_say():
    seen = alone("snubbers")
    ways = {way.title: run_ for way, run_ in snubber_runs(seen)}
    rail = seen.at("rail_voltage")

    def peak(title):
        return rail + ways[title].voltage("drain", "0", ways[title].times(4000)).max()

    assert peak("nothing") == pytest.approx(seen.at("bare_peak"), rel=0.04), "a bare ring has a little resistance"
    level = seen.at("clamp_level")
    for title, parts in (("diode, capacitor, resistor to the rail", ("r", "d")), ("diode and zener", ("d",))):
        watts = ways[title].heat(*parts) / ways[title].seconds
        assert watts == pytest.approx(seen.at("clamp_loss"), rel=0.05), title
        assert peak(title) < rail + level * 1.05
    assert ways["R-C"].heat("r") / ways["R-C"].seconds == pytest.approx(seen.at("leakage_power"), rel=0.05), "the leakage's energy, all of it"


@pytest.mark.parametrize("bare", [8e6, 3e6, 20e6])
def test_two_frequencies_tell_what_rings(bare):
    """Made with a known inductance and capacitance, the frequencies give both back."""
    inductance, added = 0.7e-6, 1e-9
    capacitance = 1 / ((2 * np.pi * bare) ** 2 * inductance)
    slowed = bare / np.sqrt(1 + added / capacitance)
    seen = alone("snubbers", bare_ringing=bare, slowed_ringing=slowed, added_capacitor=added)
    assert seen.at("parasitic_capacitance") == pytest.approx(capacitance, rel=1e-9)
    assert seen.at("parasitic_inductance") == pytest.approx(inductance, rel=1e-9)


def _bridge_by_scipy(at, periods):
    """The same rectifier as two equations, one set while it conducts and one while it does not; the last period's current and voltage."""
    amplitude, omega, drop = np.sqrt(2) * at("sine_voltage"), 2 * np.pi * at("sine_frequency"), 2 * at("diode_drop")
    r, inductance, c, load = at("source_resistance") + 0.04, at("source_inductance"), at("bank_capacitor"), at("load_resistance")

    def over(t, y):
        return abs(amplitude * np.sin(omega * t)) - drop - y[1]

    def conducts(t, y):
        return [(over(t, y) - r * y[0]) / inductance, (y[0] - y[1] / load) / c]

    def rests(t, y):
        return [0.0, -y[1] / (load * c)]

    over.terminal, over.direction = True, 1

    def stops(t, y):
        return y[0]

    stops.terminal, stops.direction = True, -1
    t, y, on, kept, last = 0.0, np.array([0.0, 300.0]), False, [], periods * 2 * np.pi / omega
    while t < last - 1e-12:
        found = solve_ivp(
            conducts if on else rests, (t, last), y, events=stops if on else over, rtol=1e-9, atol=1e-9, max_step=1e-4, dense_output=True, method="LSODA"
        )
        kept.append((found.t[0], found.t[-1], found.sol))
        t, y = found.t[-1], found.y[:, -1].copy()
        if found.status == 1:
            on = not on
            y[0] = max(y[0], 0.0) if on else 0.0
            if on:
                y[0] = 1e-12
                t += 1e-12
    times = np.linspace(last - np.pi / omega, last - 1e-9, 4000)
    values = np.array([next(s(x) for a, b, s in kept if a <= x <= b + 1e-11) for x in times])
    return values[:, 0], values[:, 1]


def test_a_rectifier_load_draws_what_scipy_says():
    seen = alone("rectifier_load")
    current, voltage = _bridge_by_scipy(seen.at, 30)
    told = drawn_by(run(seen), seen.at("sine_voltage"))
    assert told["peak"] == pytest.approx(current.max(), rel=2e-3)
    assert told["rms"] == pytest.approx(np.sqrt(np.mean(current**2)), rel=2e-3)
    assert told["ripple"] == pytest.approx(np.ptp(voltage), rel=2e-3)
    assert told["watts"] == pytest.approx(np.mean(voltage**2) / seen.at("load_resistance") + 2 * seen.at("diode_drop") * np.mean(current), rel=0.01)


def test_a_softer_source_is_drawn_from_longer_and_distorts_more():
    """Crest factor falls and distortion rises with the source's impedance; behind a stiff source the crest is the closed form's within a third."""
    found = [drawn_by(run(alone("rectifier_load", source_resistance=r, source_inductance=henry)), 230.0) for r, henry in ((0.05, 5e-6), (1, 1e-3), (3, 4e-3))]
    assert [f["crest"] for f in found] == sorted((f["crest"] for f in found), reverse=True)
    assert [f["distortion"] for f in found] == sorted(f["distortion"] for f in found)
    stiff = alone("rectifier_load", source_resistance=0.3, source_inductance=1e-5)
    assert drawn_by(run(stiff), 230.0)["peak"] == pytest.approx(stiff.at("crest_current"), rel=0.35)
