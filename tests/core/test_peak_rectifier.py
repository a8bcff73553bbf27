"""A rectifier without a choke: its tables against closed forms, SciPy and the circuit that is drawn."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rhombos.core.circuit.switched.peak_table import factors
from rhombos.core.graph.pictures import Seen
from rhombos.core.modulation.peak_factors import DECAYS, DROPS, DUTIES, EFFECTIVE, PEAKS, RINGS, drop_factor, effective_factor, peak_factor
from rhombos.demo import tern_islet
from rhombos.formats.design import of_sample
from tests.core.looking import alone, run


@pytest.mark.parametrize(("d", "j", "k"), [(0, 2, 2), (3, 2, 4), (3, 3, 2), (1, 0, 4), (2, 4, 0), (0, 7, 1), (1, 5, 3)])
def test_points_of_the_tables_are_what_the_engine_makes(d, j, k):
    """The second and third of them did not come to an end: what was left of a current at its zero stood as volts across the open diode."""
    made = factors(DECAYS[k], RINGS[j], DUTIES[d])
    assert made == pytest.approx([table[d, j, k] for table in (PEAKS, EFFECTIVE, DROPS)], rel=2e-3)


@given(decay=st.sampled_from(DECAYS.tolist()), duty=st.floats(0.5, 0.95))
def test_into_a_great_capacitor_the_current_climbs_as_a_coil_with_resistance(decay, duty):
    u = np.linspace(0, 1, 20001)
    climb = 1 - np.exp(-decay * u)
    mean = np.trapezoid(climb, u)
    assert peak_factor(decay, 0.0, duty) == pytest.approx(climb[-1] / mean, rel=2e-3)
    assert effective_factor(decay, 0.0, duty) == pytest.approx(np.sqrt(np.trapezoid(climb**2, u)) / mean, rel=2e-3)
    # The mean current is (V_s − V)/R times the climb's mean.
    assert drop_factor(decay, 0.0, duty) == pytest.approx(1 / mean / (1 + 2 / decay), rel=2e-3)


def test_where_it_rings_within_the_pulse_it_draws_half_sines():
    """Handbook's factors of a half sine over a part c of the pulse: π/(2c) and π/(2c)·√(c/2)."""
    c = np.pi / RINGS[-1]
    assert peak_factor(DECAYS[0], RINGS[-1], 0.5) == pytest.approx(np.pi / (2 * c), rel=0.07)
    assert effective_factor(DECAYS[0], RINGS[-1], 0.5) == pytest.approx(np.pi / (2 * c) * np.sqrt(c / 2), rel=0.07)


@settings(max_examples=25)
@given(decay=st.floats(0.1, 15), ring=st.floats(0, 3), duty=st.floats(0.5, 0.95))
def test_between_their_points_the_tables_hold_what_they_say(decay, ring, duty):
    peak, rms, drop = factors(decay, ring, duty)
    assert peak_factor(decay, ring, duty) == pytest.approx(peak, rel=0.05)
    assert effective_factor(decay, ring, duty) == pytest.approx(rms, rel=0.02)
    assert drop_factor(decay, ring, duty) == pytest.approx(drop, abs=0.02)


def test_the_factors_against_a_march_by_scipy():
    """One second on and 1/D − 1 off, until it repeats itself; the diode as a floor of the current."""
    decay, ring, duty = 1.2, 3.0, 0.7
    inductance = 1 / decay
    capacitance = 1 / (ring**2 * inductance)

    def slope(_, y):
        current = max(y[0], 0.0)
        climb = (-y[1] - current) / inductance
        return [climb if y[0] > 0 or climb > 0 else 0.0, (current - duty) / capacitance]

    volts = -1.0
    for _ in range(60):
        on = solve_ivp(slope, (0, 1), [0.0, volts], rtol=1e-9, atol=1e-11, max_step=2e-3, dense_output=True)
        volts = on.y[1, -1] - duty * (1 / duty - 1) / capacitance
    current = np.maximum(on.sol(np.linspace(0, 1, 4001))[0], 0)
    peak, rms, _ = factors(decay, ring, duty)
    assert peak == pytest.approx(current.max(), rel=1e-3)
    assert rms == pytest.approx(np.sqrt(np.mean(current**2)), rel=1e-3)
    assert current.mean() == pytest.approx(1.0, rel=1e-3), "it repeats itself: what flows in flows out"


@pytest.mark.parametrize("given_", [{}, {"loop_inductance": 60e-6}, {"loop_resistance": 0.5, "direct_current": 4.0}, {"pulse_share": 0.7}])
def test_the_sheet_says_what_its_circuit_shows(given_):
    seen = alone("peak_rectifier", **given_)
    traced = run(seen)
    current = traced.current("leakage", traced.times(4000))
    ((mean, _),), ((_, rms),) = traced.told(["plus"], ["leakage"])
    assert np.abs(current).max() == pytest.approx(seen.at("pulse_peak"), rel=0.05)
    assert rms == pytest.approx(seen.at("pulse_rms"), rel=0.03)
    assert mean == pytest.approx(seen.at("loaded_link"), rel=0.004)


def test_the_first_pulses_peak_as_the_sheet_says():
    seen = alone("peak_rectifier")
    traced = run(seen, 1)
    half = 0.5 / seen.at("pulse_frequency")
    first = np.linspace(0, half, 4001)
    assert traced.current("leakage", first).max() * seen.at("winding_ratio") == pytest.approx(seen.at("first_peak"), rel=0.03)


@pytest.mark.parametrize("id", ["ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge"])
def test_a_line_up_without_its_choke_is_what_the_circuit_of_such_a_rectifier_shows(id):
    design = of_sample(id)
    model = design.model()
    sheet = model.solve(design.inputs())
    rectifier = Seen(model, sheet, model.wiring.lineup.place("rectifier"), sheet.corners.ids.index("nominal_full"))
    (drawn,) = [p for p in rectifier.place.stage.pictures if p.title.startswith("With the averaging choke")]
    with_choke, without = (row.cells for row in drawn.fn(rectifier).rows)
    ratio, peak, rms = (float(cell.split()[0]) for cell in without[1:4])
    assert float(with_choke[2].split()[0]) == pytest.approx(
        rectifier.at("flat_top_current") + rectifier.at("choke_ripple") / 2 * rectifier.at("turns_ratio"), rel=0.01
    )
    low = np.nanmin(rectifier.each("driven_voltage"))
    seen = alone(
        "peak_rectifier",
        pulse_height=ratio * low,
        pulse_frequency=rectifier.at("switching_frequency"),
        pulse_share=rectifier.at("duty_limit"),
        loop_resistance=ratio**2 * rectifier.at("drive_resistance") + rectifier.at("secondary_resistance"),
        loop_inductance=ratio**2 * rectifier.at("leakage_inductance"),
        link_capacitor=rectifier.at("link_capacitance"),
        direct_current=rectifier.at("link_current"),
        rectifier_drop=rectifier.at("diode_forward_voltage"),
    )
    traced = run(seen)
    ((mean, _),), ((_, effective),) = traced.told(["plus"], ["leakage"])
    assert mean == pytest.approx(rectifier.at("link_setpoint"), rel=0.01)
    assert ratio * effective == pytest.approx(rms, rel=0.03)
    assert ratio * np.abs(traced.current("leakage", traced.times(4000))).max() == pytest.approx(peak, rel=0.06)


def test_where_the_source_cannot_give_it_the_comparison_says_what_is_not_known():
    design = tern_islet.first()
    model = design.model()
    sheet = model.solve(design.inputs().with_given("load_3.rated_power", 16000.0))
    rectifier = Seen(model, sheet, model.wiring.lineup.place("rectifier"), sheet.corners.ids.index("lowest_surge"))
    (drawn,) = [p for p in rectifier.place.stage.pictures if p.title.startswith("With the averaging choke")]
    assert [row.cells[2:] for row in drawn.fn(rectifier).rows] == [["unknown"] * 3] * 2


@pytest.mark.parametrize(("crest", "told"), [(15.0, ["holds"] * 4), (2.5, ["holds", "tight", "holds", "fails"]), (1.0, ["fails"] * 4)])
def test_each_way_of_the_comparison_is_judged_by_its_own_peak(crest, told):
    """With a choke the pulses peak at 1.67 A, here at 2.2, with half the leakage at 1.92, with twice at 2.56."""
    seen = alone("peak_rectifier", diode_crest=crest)
    (drawn,) = seen.place.stage.pictures
    assert [way.verdict for way in drawn.fn(seen).rows] == told
