"""The precharge sequence: every way it may go wrong ends in its own fault, and the contactor never closes onto a bus that is not full."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rhombos.core.sequence.bank import Bank, advanced, play
from rhombos.core.sequence.precharge import SENTENCES, Reading, Settings, State, step
from tests.core.formula import figure

PACK, OHMS, FARADS = 350.0, 100.0, 1e-3
TAU = OHMS * FARADS
SETTINGS = Settings(TAU, 0.95, 6 * TAU, fall_time=10 * TAU)
HEALTHY = Bank(PACK, OHMS, FARADS)


def stuck_from(begin: float):
    held: list[float] = []

    def reads(now: float, volts: float) -> float:
        if now < begin:
            return volts
        held[:] = held or [volts]
        return held[0]

    return reads


BROKEN = {
    "no rise": [replace(HEALTHY, resistor=1e12), replace(HEALTHY, load_resistance=0.05)],
    "live before the start": [replace(HEALTHY, welded=True)],
    "rise too fast": [replace(HEALTHY, capacitance=FARADS / 20), replace(HEALTHY, resistor=OHMS / 20)],
    "plateau": [replace(HEALTHY, load_resistance=4 * OHMS), replace(HEALTHY, load_power=0.15 * PACK**2 / OHMS, wakes_at=0.3 * PACK)],
    "time-out": [replace(HEALTHY, capacitance=2.2 * FARADS)],
    "no reading": [replace(HEALTHY, reads=lambda now, v: v if now < 0.7 * TAU else None), replace(HEALTHY, reads=lambda *_: None)],
    "stuck reading": [replace(HEALTHY, reads=stuck_from(0.6 * TAU))],
}


def test_a_healthy_start_closes_when_the_bus_is_full_and_lets_the_relay_go():
    played = play(HEALTHY, SETTINGS, 5 * TAU)
    ((closes, end),) = played.spans(lambda s: s.contactor)
    ((first, opens),) = played.spans(lambda s: s.relay)
    assert closes == pytest.approx(-TAU * np.log(0.05), rel=0.01)
    assert opens == pytest.approx(closes + SETTINGS.overlap, rel=0.02)
    assert first == 0
    assert end == played.time[-1]
    assert played.states[-1].phase == "on"
    assert played.current[0] == pytest.approx(PACK / OHMS)
    # What the resistor takes until then: all but what is left at closing.
    energy = np.trapezoid(played.current**2 * OHMS, played.time)
    assert energy == pytest.approx(0.5 * FARADS * PACK**2 * (1 - 0.05**2), rel=0.01)


@pytest.mark.parametrize(("fault", "bank"), [(fault, bank) for fault, banks in BROKEN.items() for bank in banks])
def test_every_fault_ends_in_its_own_abort_with_all_open(fault, bank):
    played = play(bank, SETTINGS, 8 * TAU)
    end = played.states[-1]
    assert (end.phase, end.fault) == ("fault", fault)
    assert not end.relay
    assert not end.contactor
    assert not played.spans(lambda s: s.contactor)
    assert fault in SENTENCES


def test_a_contactor_that_welds_is_found_when_it_should_open():
    played = play(replace(HEALTHY, welds=True, load_resistance=1e5), SETTINGS, 20 * TAU, stop_at=5 * TAU)
    assert played.states[-1].fault == "live after opening"
    falls = play(replace(HEALTHY, load_resistance=500.0), SETTINGS, 8 * TAU, stop_at=5 * TAU)
    assert falls.states[-1].phase == "off"


def test_all_faults_have_been_seen():
    assert set(SENTENCES) == {*BROKEN, "live after opening"}


@given(
    resistor=st.floats(5, 5e3),
    capacitance=st.floats(5e-5, 5e-3),
    load=st.one_of(st.just(np.inf), st.floats(1, 1e5)),
    power=st.floats(0, 3e3),
    wakes=st.floats(0, 300),
    gap=st.floats(0, 0.2),
)
def test_the_contactor_never_closes_onto_a_bus_that_is_not_full(resistor, capacitance, load, power, wakes, gap):
    reads = lambda now, v: None if gap < now < 1.2 * gap else v  # noqa: E731 - a measurement that fails for a while
    bank = Bank(PACK, resistor, capacitance, load_resistance=load, load_power=power, wakes_at=wakes, reads=reads)
    played = play(bank, SETTINGS, 7 * TAU)
    for k, state in enumerate(played.states):
        if state.contactor:
            assert played.bus[k] >= 0.95 * PACK * (1 - 1e-9)
            break


@given(phase=st.sampled_from(["off", "charging", "overlap", "on", "opening", "fault"]), time=st.floats(0, 10), bus=st.floats(0, 400))
def test_a_missing_reading_never_closes_the_contactor_and_stopping_opens_all(phase, time, bus):
    state = State(phase, time=time)
    blind = step(state, SETTINGS, Reading(PACK, None), 1e-3, True)
    assert not blind.contactor or state.contactor
    stopped = step(state, SETTINGS, Reading(PACK, bus), 1e-3, False)
    assert not stopped.relay
    assert not stopped.contactor


@given(load=st.floats(50, 1e4), power=st.floats(0, 200), start=st.floats(20, 300))
def test_the_bank_follows_its_differential_equation(load, power, start):
    bank = Bank(PACK, OHMS, FARADS, load_resistance=load, load_power=power)
    volts, passed = start, TAU / 400
    for _ in range(200):
        volts = advanced(bank, volts, True, False, passed)
    exact = solve_ivp(lambda _, v: ((PACK - v) / OHMS - v / load - power / np.maximum(v, 1)) / FARADS, (0, 200 * passed), [start], rtol=1e-9, atol=1e-9)
    if exact.y[0].min() > 40:
        assert volts == pytest.approx(exact.y[0, -1], rel=5e-3)


@given(load=st.floats(30, 1e4), power=st.floats(0.1, 12), wakes=st.floats(0.3, 0.9))
def test_the_time_with_loads_on_is_that_of_the_circuit(load, power, wakes):
    """The stage's closed form against the differential equation, in two stretches: before and after the converter wakes."""
    volts, ohms, farads, part = 350.0, 100.0, 1e-3, 0.9
    settled = figure("precharge", "settled_voltage", open_circuit_voltage=volts, precharge_resistor=ohms, bus_load_resistance=load, bus_load_power=power)
    low = figure("precharge", "collapse_voltage", open_circuit_voltage=volts, precharge_resistor=ohms, bus_load_resistance=load, bus_load_power=power)
    wake, target = wakes * part * volts, part * volts
    assume(settled > 1.01 * target and wake > 1.05 * low)
    # At both rests the currents balance.
    for rest in (settled, low):
        assert (volts - rest) / ohms == pytest.approx(rest / load + power / rest, rel=1e-6)

    def until(begin: float, end: float, drawn: float) -> float:
        reached = lambda _, v: v[0] - end  # noqa: E731 - a one-line event reads best in place
        reached.terminal = True
        slope = lambda _, v: ((volts - v) / ohms - v / load - drawn / np.maximum(v, 1e-3)) / farads  # noqa: E731
        return float(solve_ivp(slope, (0, 100), [begin], events=reached, rtol=1e-9, atol=1e-9).t_events[0][0])

    exact = until(0.0, wake, 0.0) + until(wake, target, power)
    told = figure(
        "precharge",
        "loaded_time",
        bank_capacitance=farads,
        precharge_resistor=ohms,
        bus_load_resistance=load,
        settled_voltage=settled,
        collapse_voltage=low,
        open_circuit_voltage=volts,
        closing_fraction=part,
        wake_voltage=wake,
    )
    assert told == pytest.approx(exact, rel=1e-5)
