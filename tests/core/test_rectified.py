"""A rectifier's load on the output: against SciPy marching bridge, filter and rectifier together, and what must hold of its meters."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rhombos.core.circuit.output.circuit import CHOKE, DAMPER, LOAD, OUTPUT
from rhombos.core.circuit.output.rectified import BANK, DROP, OWN
from rhombos.core.circuit.output.rectifier_table import factors
from rhombos.core.circuit.output.slots import slots_of
from rhombos.core.circuit.scope import Setting, output_period, picture, setting_from
from rhombos.core.modulation.rectifier_factors import CREST_FACTORS, POWER_FACTORS, REACTANCES, crest_factor, power_factor
from rhombos.core.modulation.sine_pwm import sine_legs
from tests.core.trial import of_sample

SETTING = Setting(
    link=380.0,
    index=0.9,
    frequency=50.0,
    carrier=16000.0,
    inductance=4e-3,
    resistance=0.2,
    capacitance=2e-6,
    damping_capacitance=6e-6,
    damping_resistance=47.0,
    power=150.0,
    reactive_power=60.0,
    voltage=230.0,
    unipolar=True,
    natural=False,
    rectifier_power=250.0,
)

PERIODS = 4


def marched(setting, index, resistance, start):
    """Current of the rectifier and volts of the output over the last of PERIODS: every edge of the bridge, diodes by what stands across them."""
    period = 1 / setting.frequency
    slots = slots_of(sine_legs(index, setting.frequency, setting.carrier, unipolar=True, natural=False), period, 0.0)
    levels = setting.link * (slots.high[0].astype(float) - slots.high[1])
    apparent = setting.power**2 + setting.reactive_power**2
    r = setting.voltage**2 * setting.power / apparent
    l_load = setting.voltage**2 * setting.reactive_power / apparent / (2 * np.pi * setting.frequency)
    stands = setting.voltage**2 / setting.rectifier_power
    way, bank = (OWN + 2e-3) * stands, BANK / setting.voltage**2 * setting.rectifier_power

    def drawn(volts, held):
        return np.sign(volts) * np.maximum(np.abs(volts) - 2 * DROP - held, 0.0) / way

    def rates(_, x, level):
        choke, volts, damper, load, held = x
        into = drawn(volts, held)
        leak = (volts - damper) / setting.damping_resistance
        return [
            (level - setting.resistance * choke - volts) / setting.inductance,
            (choke - leak - load - into) / setting.capacitance,
            leak / setting.damping_capacitance,
            (volts - r * load) / l_load,
            (abs(into) - held / resistance) / bank,
        ]

    x, times, found = start, [], []
    for turn in range(PERIODS):
        for begin, length, level in zip(slots.begins, slots.lengths, levels, strict=True):
            step = solve_ivp(rates, (0, length), x, args=(level,), rtol=1e-7, atol=1e-7, max_step=20e-6, dense_output=turn == PERIODS - 1)
            x = step.y[:, -1]
            if turn == PERIODS - 1:
                at = np.linspace(0, length, 4, endpoint=False)
                times.append(begin + at)
                found.append(step.sol(at))
    seen = np.concatenate(found, axis=1)
    return np.concatenate(times), drawn(seen[1], seen[4]), seen[1]


def test_what_a_rectifier_draws_is_what_scipy_marches():
    period = output_period(SETTING)
    assert period.rectified is not None
    # From where ours begins, so that few periods are enough to come to its own rest.
    held = period.rectified.run.across("bank", np.zeros(1))[0]
    start = np.append(period.seen.solved.states[0, [CHOKE, OUTPUT, DAMPER, LOAD]], held)
    times, current, volts = marched(SETTING, period.index, period.rectified.resistance, start)
    ours, output = period.seen.at("rectifier", times), period.seen.at("output", times)
    rms = np.sqrt(np.mean(ours**2))
    # What the carrier's ripple drives through the rectifier while it conducts is left out: two in a hundred here.
    assert np.sqrt(np.mean((ours - current) ** 2)) < 0.03 * rms
    assert np.abs(ours).max() == pytest.approx(np.abs(current).max(), rel=0.025)
    assert np.sqrt(np.mean((output - volts) ** 2)) < 0.2
    assert np.sqrt(np.mean(volts**2)) == pytest.approx(SETTING.voltage, rel=2e-3)


@pytest.mark.parametrize(
    "surround", [{}, {"dead_time": 0.2e-6, "link_capacitance": 470e-6, "front_resistance": 4.0, "front_inductance": 1e-3, "on_resistance": 0.3, "forward": 1.0}]
)
def test_a_rectifier_draws_its_watts_and_flattens_the_sine(surround):
    setting = replace(SETTING, **surround)
    plain, with_it = picture(replace(setting, power=400.0, rectifier_power=0.0)), picture(setting)
    drawn = with_it.drawn
    assert plain.drawn is None
    assert drawn is not None
    assert drawn.watts == pytest.approx(SETTING.rectifier_power, rel=5e-3)
    assert drawn.crest_factor > 1.8 > np.sqrt(2)
    assert drawn.power_factor < 0.85
    assert with_it.thd > plain.thd
    assert with_it.meters["output"].true_rms == pytest.approx(230.0, rel=2e-3)
    # Behind a softer filter it draws for longer: a lower crest, and less of a sine is left.
    softer = picture(replace(setting, inductance=2 * setting.inductance))
    assert softer.drawn is not None
    assert softer.drawn.crest_factor < drawn.crest_factor
    assert softer.thd > with_it.thd


def test_power_given_is_power_drawn():
    """Over a period the bridge gives what loads, choke and damping take, the rectifier's current among them."""
    period = output_period(SETTING)
    times = (np.arange(60_000) + 0.5) / 60_000 * period.seen.period
    at = {name: period.seen.at(name, times) for name in ("node", "choke", "output", "load", "damping", "rectifier")}
    given = np.mean(at["node"] * at["choke"])
    taken = np.mean(at["output"] * at["load"]) + SETTING.resistance * np.mean(at["choke"] ** 2) + SETTING.damping_resistance * np.mean(at["damping"] ** 2)
    assert given == pytest.approx(taken, rel=2e-3)
    assert np.mean(at["output"] * at["rectifier"]) == pytest.approx(SETTING.rectifier_power, rel=5e-3)


@pytest.mark.parametrize("k", [2, 6, 11])
def test_the_table_is_what_the_solution_gives(k):
    """A part of it made anew; between its rows it is as good as there."""
    assert factors(REACTANCES[k]) == pytest.approx((CREST_FACTORS[k], POWER_FACTORS[k]), rel=2e-3)
    between = (REACTANCES[k] + REACTANCES[k + 1]) / 2
    assert (crest_factor(between), power_factor(between)) == pytest.approx(factors(between), rel=6e-3)


def test_a_stiff_source_gives_the_closed_form_of_a_short_conduction():
    """Without a choke: a resistance that lets a capacitor be filled about the crest, by the conduction angle alone."""
    held = np.linspace(0.7, 0.99, 2001)
    # Of a sine of crest 1 behind OWN, above a level that hardly moves: charge in = charge out.
    half = np.arccos(held)
    charge = 2 * (np.sin(half) - held * half) / OWN
    peak, square = (1 - held) / OWN, ((half + np.sin(2 * half) / 2) - 4 * held * np.sin(half) + 2 * held**2 * half) / OWN**2
    watts = held * charge / np.pi
    # As a share of crest squared: half of it is what the resistance draws that the watts are told by.
    k = int(np.argmin(np.abs(watts - 0.5)))
    assert peak[k] / np.sqrt(square[k] / np.pi) == pytest.approx(CREST_FACTORS[0], rel=0.05)


def test_the_sheet_tells_what_the_scope_draws():
    design = of_sample("ferrite_push_pull_link_bridge")
    inputs = replace(design.inputs(), choices={**design.inputs().choices, "load_3.type": "rectifier"})
    sheet = design.model().solve(inputs)
    drawn = picture(setting_from(sheet, "nominal_full")).drawn
    assert drawn is not None
    for name, there in (("crest_factor", drawn.crest_factor), ("power_factor", drawn.power_factor), ("crest_current", drawn.peak)):
        assert sheet.value(f"filter.rectifier_{name}")[0] == pytest.approx(there, rel=0.02), name
    plain = design.model().solve(design.inputs())
    assert "no load of the list has a rectifier input" in plain.why_missing(plain.node("filter.rectifier_crest_factor").index, 0)
