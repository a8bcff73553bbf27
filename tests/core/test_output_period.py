"""An output period with dead time on a link that gives way: against a solver that marches with events, closed forms, and the balance of power."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.output.circuit import CHOKE, FRONT, LINK, OUTPUT, Circuit, Drive, Filter
from rhombos.core.circuit.output.period import _solved, solve
from rhombos.core.circuit.output.reading import Reading
from rhombos.core.circuit.output.slots import slots_of
from rhombos.core.circuit.scope import Setting, circuit, output_period, picture
from rhombos.core.modulation.sine_pwm import sine_legs

SETTING = Setting(
    link=370.0,
    index=0.88,
    frequency=50.0,
    carrier=1000.0,
    inductance=8e-3,
    resistance=0.2,
    capacitance=3e-6,
    damping_capacitance=9e-6,
    damping_resistance=47.0,
    power=800.0,
    reactive_power=300.0,
    voltage=230.0,
    unipolar=True,
    natural=False,
    dead_time=4e-6,
    on_resistance=0.5,
    forward=1.0,
    link_capacitance=330e-6,
    link_series_resistance=0.4,
    front_resistance=6.5,
    front_inductance=1.6e-3,
)


class Marched:
    """The same circuit written down anew, marched by SciPy from slot to slot; the choke's current chooses as it goes."""

    def __init__(self, setting: Setting, front: float) -> None:
        self.s, self.front = setting, front
        made = circuit(setting)
        self.load = made.filter
        self.slots = slots_of(
            sine_legs(setting.index, setting.frequency, setting.carrier, unipolar=setting.unipolar, natural=setting.natural),
            1 / setting.frequency,
            setting.dead_time,
        )

    def rates(self, lift: int, drop: float, still: bool):
        s, of = self.s, self.load
        stiff = math.isinf(s.link_capacitance)

        def f(_, x):
            i, v, d, c, front, load = x
            link = c if stiff else c + s.link_series_resistance * (front - lift * i)
            drawn = load if of.load_inductance else v / of.load_resistance
            return [
                0.0 if still else (lift * link + drop * s.forward - (s.on_resistance + s.resistance) * i - v) / s.inductance,
                (i - (v - d) / s.damping_resistance - drawn) / s.capacitance,
                (v - d) / s.damping_resistance / s.damping_capacitance,
                0.0 if stiff else (front - lift * i) / s.link_capacitance,
                0.0 if stiff else (self.front - s.front_resistance * front - link) / s.front_inductance,
                (v - of.load_resistance * load) / of.load_inductance if of.load_inductance else 0.0,
            ]

        return f

    def period(self, x):
        """One period from a state: the states at the slots' begins, and the end."""
        seen = []
        slots = self.slots
        for k, (begin, length) in enumerate(zip(slots.begins, slots.lengths, strict=True)):
            seen.append(x.copy())
            dead = int(slots.dead[0][k]), int(slots.dead[1][k])
            sign = int(np.sign(x[0])) if any(dead) else 0
            high = [int(h[k]) for h in slots.high]
            lift = (int(sign < 0) if dead[0] else high[0]) - (int(sign > 0) if dead[1] else high[1])
            end, now = begin + length, begin
            still = any(dead) and sign == 0
            if any(dead) and not still:

                def ends(_, y):
                    return y[0]

                ends.terminal, ends.direction = True, -sign
                run = solve_ivp(self.rates(lift, -sign * sum(dead), False), (now, end), x, rtol=1e-11, atol=1e-12, method="DOP853", events=ends)
                x, now = run.y[:, -1], float(run.t[-1])
                still = run.status == 1
                x[0] = 0.0 if still else x[0]
            if now < end:
                x = solve_ivp(self.rates(lift, 0.0, still), (now, end), x, rtol=1e-11, atol=1e-12, method="DOP853").y[:, -1]
        return np.array(seen), x


@pytest.mark.parametrize(
    "changes",
    [
        {},
        {"unipolar": False},
        {"power": 60.0, "reactive_power": 0.0, "link_capacitance": math.inf},
        {"power": 150.0, "reactive_power": 0.0},
        {"dead_time": 0.0, "reactive_power": 0.0},
    ],
    ids=["demo", "bipolar", "light on a stiff link", "light", "no dead time"],
)
def test_a_period_is_what_a_solver_with_events_marches_through_and_repeats(changes):
    setting = replace(SETTING, **changes)
    made = circuit(setting)
    marched = Marched(setting, 0.0)
    solved = solve(made, marched.slots, np.where(np.sin(2 * np.pi * 50 * marched.slots.begins) >= 0, 1, -1))
    marched.front = solved.states[0, -1]
    start = np.zeros(6)
    start[:] = solved.states[0, :6]
    seen, end = marched.period(start)
    ours = np.array([Reading(made, solved).at(name, marched.slots.begins) for name in ("choke", "output", "damper")]).T
    scale = np.abs(seen).max(axis=0) + 1e-9
    assert np.abs((seen[:, :3] - ours) / scale[:3]).max() < 1e-6
    link = np.interp(marched.slots.begins, solved.begins, solved.states[:, LINK])
    assert np.abs(seen[:, LINK] - link).max() < 1e-6 * setting.link
    assert np.abs((end - start) / scale).max() < 1e-6, "the period repeats"


def test_the_link_has_its_mean_and_ripples_as_its_impedances_share():
    """At twice the output frequency the bridge draws P·(1 − cos 2ωt); capacitor and front end share it by their impedances."""
    setting = replace(SETTING, carrier=20e3, dead_time=0.0, on_resistance=0.0, resistance=0.01, power=1000.0, reactive_power=0.0, capacitance=0.1e-6)
    setting = replace(setting, damping_capacitance=0.1e-6, inductance=1e-3)
    seen = output_period(setting).seen
    solved = seen.solved
    times = np.arange(8192) / 8192 * solved.period
    link, front = seen.at("link", times), seen.at("front", times)
    assert np.mean(link) == pytest.approx(370.0, rel=1e-4)
    omega = 4 * np.pi * 50
    own = setting.front_resistance + 1j * omega * setting.front_inductance
    shunt = setting.link_series_resistance + 1 / (1j * omega * setting.link_capacitance)
    swing = 1000.0 / 370.0
    for wave, expected in ((link, swing * abs(own * shunt / (own + shunt))), (front, swing * abs(shunt / (own + shunt)))):
        assert 2 * abs(np.fft.rfft(wave)[2]) / 8192 == pytest.approx(expected, rel=0.03), "the ripple itself bends the power that is drawn"


def test_power_in_is_power_out_and_what_is_lost():
    seen = output_period(replace(SETTING, forward=0.0)).seen
    made, solved = seen.circuit, seen.solved
    times = (np.arange(400_000) + 0.5) / 400_000 * solved.period
    at = {name: seen.at(name, times) for name in ("choke", "output", "front", "load", "damping", "link")}
    given = np.mean(at["front"]) * solved.states[0, -1]
    of, drive = made.filter, made.drive
    shunt = np.mean((at["front"] - _drawn(seen, times, at["choke"])) ** 2) * drive.link_series_resistance
    heat = np.mean(at["choke"] ** 2) * (of.resistance + drive.on_resistance) + np.mean(at["damping"] ** 2) * of.damping_resistance
    heat += np.mean(at["front"] ** 2) * drive.front_resistance + np.mean(at["load"] ** 2) * of.load_resistance + shunt
    assert heat == pytest.approx(given, rel=1e-4)


def _drawn(seen: Reading, times, choke):
    slot = np.searchsorted(seen.solved.begins, times, side="right") - 1
    return np.array([m.lift for m in seen.solved.modes])[seen.solved.which[slot]] * choke


def test_dead_time_alone_takes_a_square_wave_from_a_stiff_link():
    """With a current far above its ripple: volts lost are 2·t_d·f·V by the sign of the current, and their odd harmonics stay."""
    ideal = replace(SETTING, carrier=20e3, link_capacitance=math.inf, on_resistance=0.0, forward=0.0, reactive_power=0.0, power=3000.0, dead_time=0.0)
    ideal = replace(ideal, inductance=20e-3, capacitance=0.05e-6, damping_capacitance=0.05e-6, damping_resistance=600.0, resistance=0.0)
    dead = replace(ideal, dead_time=400e-9)
    square = 4 / np.pi * 2 * 400e-9 * 20e3 * 370.0
    for order in (3, 5, 7):
        lost = picture(dead).node_amplitudes[order - 1] - picture(ideal).node_amplitudes[order - 1]
        assert lost == pytest.approx(square / order, rel=0.06)


@pytest.mark.parametrize("load", [(800.0, 300.0), (0.0, 0.0), (80.0, 0.0), (400.0, 0.0)])
def test_the_output_has_its_volts_whatever_dead_time_takes(load):
    power, reactive = load
    seen = picture(replace(SETTING, carrier=20e3, inductance=1.7e-3, capacitance=1e-6, dead_time=400e-9, power=power, reactive_power=reactive))
    assert seen.meters["output"].true_rms == pytest.approx(230.0, rel=5e-4)
    assert seen.thd < 0.03
    assert np.all(seen.node_times[1:] >= seen.node_times[:-1])


@pytest.mark.parametrize("load", [(800.0, 300.0), (0.0, 0.0), (40.0, 0.0)])
@pytest.mark.parametrize(("unipolar", "multiple"), [(True, 20), (True, 21), (False, 21)])
def test_half_of_a_period_and_its_mirror_image_are_the_whole(load, unipolar, multiple):
    """Solved with all slots, and with the first half alone; odd multiples turn each leg round, even ones exchange the two."""
    setting = replace(SETTING, unipolar=unipolar, carrier=50.0 * multiple, power=load[0], reactive_power=load[1])
    made = circuit(setting)
    slots = slots_of(sine_legs(setting.index, 50.0, setting.carrier, unipolar=unipolar, natural=False), 0.02, setting.dead_time)
    assert slots.half() is not None
    guess = np.where(np.sin(2 * np.pi * 50 * slots.begins) >= 0, 1, -1)
    halved, whole = solve(made, slots, guess), _solved(made, slots, guess, None, np.ones(made.size), roughly=False)
    times = np.linspace(0, 0.02, 2001)[:-1]
    for name in ("choke", "output", "link", "front"):
        one, other = (Reading(made, found).at(name, times) for found in (halved, whole))
        np.testing.assert_allclose(one, other, atol=1e-6 * np.abs(other).max() + 1e-9)


def test_a_carrier_that_is_no_mirror_image_is_solved_whole():
    """Bipolar at an even multiple: half a period later neither leg does what one did before."""
    slots = slots_of(sine_legs(0.8, 50.0, 1000.0, unipolar=False, natural=False), 0.02, 4e-6)
    assert slots.half() is None
    setting = replace(SETTING, unipolar=False)
    made = circuit(setting)
    found = solve(made, slots, np.where(np.sin(2 * np.pi * 50 * slots.begins) >= 0, 1, -1))
    assert found.period == pytest.approx(0.02)
    assert len(found.begins) >= len(slots.begins)


def test_what_no_circuit_has_is_refused_by_name():
    with pytest.raises(CircuitError, match="filter capacitor is 0"):
        Circuit(Drive(370.0), Filter(1e-3, 0.1, 0.0, 1e-6, 40.0))
    with pytest.raises(CircuitError, match="damping resistor is 0"):
        Circuit(Drive(370.0), Filter(1e-3, 0.1, 1e-6, 1e-6, 0.0))


def test_the_front_end_takes_nothing_back():
    """A load that is nearly all reactive returns more than it draws; the rectifier blocks and the link rises instead."""
    solved = output_period(replace(SETTING, carrier=5000.0, power=60.0, reactive_power=900.0, front_resistance=1.0)).seen.solved
    assert solved.states[:, FRONT].min() > -1e-2 * solved.states[:, FRONT].max()
    assert np.mean(solved.states[:, FRONT] <= 0) > 0.1
    assert solved.states[:, OUTPUT].max() > 300
    assert np.abs(solved.states[:, CHOKE]).max() > 3
