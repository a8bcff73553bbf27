"""A half-wave rectifier, for the engine and for SciPy: the reference that tests and benchmarks march."""

import numpy as np
from scipy.integrate import solve_ivp

from rhombos.core.circuit.network import Element as E
from rhombos.core.circuit.switched.elements import Diode, Sine, Switched


def half_wave(resistance=100.0, capacitance=100e-6, source=1.0, amplitude=325.0, drop=0.8, on=0.05):
    """A diode, a capacitor and a load behind a source's resistance."""
    return Switched(
        (E("V", "mains", "a", "0"), E("R", "source", "a", "b", source), E("C", "capacitor", "c", "0", capacitance), E("R", "load", "c", "0", resistance)),
        diodes=(Diode("diode", "b", "c", drop, on),),
        sines={"mains": Sine(amplitude, 50.0)},
    )


def by_scipy(circuit, start, seconds):
    """A half-wave rectifier by an adaptive solver, the diode as a condition within each step, its turns as events."""
    e = {x.name: x for x in circuit.elements}
    d, sine = circuit.diodes[0], circuit.sines["mains"]

    def q(t, v):
        return sine.amplitude * np.sin(2 * np.pi * 50 * t) - v[0] - d.forward

    def rate(on):
        resistance = e["source"].value + (d.on if on else d.off)
        return lambda t, v: [((q(t, v) + (0 if on else d.forward)) / resistance - v[0] / e["load"].value) / e["capacitor"].value]

    q.terminal = True
    t, v, on, turns = 0.0, np.array([start]), False, []
    while t < seconds - 1e-15:
        q.direction = -1 if on else 1
        found = solve_ivp(rate(on), (t, seconds), v, events=q, rtol=1e-11, atol=1e-11, method="DOP853", max_step=2e-4)
        t, v = found.t[-1], found.y[:, -1]
        if found.status == 1:
            turns.append(t)
            on = not on
            t += 1e-14
    return float(v[0]), turns


def settled_by_scipy(circuit, tolerance):
    """Period after period until the capacitor's voltage comes back to within a tolerance: the value, and how many it took."""
    value, periods = 0.0, 0
    while True:
        following, _ = by_scipy(circuit, value, 0.02)
        periods += 1
        if abs(following - value) <= tolerance * abs(following):
            return following, periods
        value = following
