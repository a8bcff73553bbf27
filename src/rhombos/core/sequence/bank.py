"""A capacitor bank behind a precharge resistor and a contactor, healthy or broken, and the sequence played on it."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.sequence.precharge import Reading, Settings, State, step

STEPS = 400
"""Steps to a time constant: the load's current is held within one, all else is exact."""


@dataclass(frozen=True)
class Bank:
    """Pack (V), precharge resistor (Ω), capacitance (F), resistance of the closed contactor's loop (Ω), what draws from the bus.

    `load_power` (W) draws from the bus above `wakes_at` (V). A `welded` contactor conducts from the start, one that `welds` does not open
    again once it has closed. `reads` is what the measurement makes of the bus at a time: None where nothing comes.
    """

    pack: float
    resistor: float
    capacitance: float
    loop: float = 0.02
    load_resistance: float = np.inf
    load_power: float = 0.0
    wakes_at: float = 0.0
    welded: bool = False
    welds: bool = False
    reads: Callable[[float, float], float | None] = field(default=lambda _, volts: volts)


@dataclass(frozen=True)
class Played:
    """A start as it went: seconds, volts of the bus, amperes through the resistor, what was closed, and the state at every step."""

    time: Values
    bus: Values
    current: Values
    states: list[State]

    def spans(self, closed: Callable[[State], bool]) -> list[tuple[float, float]]:
        """From when to when something was closed."""
        on = np.array([False, *(closed(s) for s in self.states), False])
        turns = np.flatnonzero(on[1:] != on[:-1])
        times = np.append(self.time, self.time[-1])
        return [(float(times[a]), float(times[b])) for a, b in zip(turns[::2], turns[1::2], strict=True)]


def advanced(bank: Bank, volts: float, relay: bool, contactor: bool, passed: float) -> float:
    """Volts of the bus after some seconds: exact for resistances; a constant power draws the current of the step's middle, never below nothing."""
    return _step(bank, volts, _step(bank, volts, volts, relay, contactor, passed / 2), relay, contactor, passed)


def _step(bank: Bank, volts: float, at: float, relay: bool, contactor: bool, passed: float) -> float:
    conductances = [1 / bank.resistor if relay else 0.0, 1 / bank.loop if contactor or bank.welded else 0.0]
    drawn = bank.load_power / at if at > max(bank.wakes_at, 1e-3 * bank.pack) else 0.0
    total = sum(conductances) + 1 / bank.load_resistance
    if total == 0:
        return max(volts - drawn * passed / bank.capacitance, 0.0)
    end = (sum(conductances) * bank.pack - drawn) / total
    return max(end + (volts - end) * float(np.exp(-passed * total / bank.capacitance)), 0.0)


def play(bank: Bank, settings: Settings, until: float, stop_at: float = np.inf, steps: int = STEPS) -> Played:
    """Ask for the bus at once, and for its end at `stop_at`; play to `until` seconds, or some time past a fault."""
    passed = settings.time_constant / steps
    count = int(np.ceil(until / passed)) + 1
    time: Values = np.arange(count, dtype=np.float64) * passed
    volts = bank.pack if bank.welded else 0.0
    state, stuck = State(), False
    states, bus, current = [], np.empty(count), np.empty(count)
    for k, now in enumerate(time):
        state = step(state, settings, Reading(bank.pack, bank.reads(float(now), volts)), passed, bool(now < stop_at))
        stuck = stuck or (bank.welds and state.contactor)
        states.append(state)
        bus[k], current[k] = volts, (bank.pack - volts) / bank.resistor if state.relay else 0.0
        volts = advanced(bank, volts, state.relay, state.contactor or stuck, passed)
    return Played(time, bus, current, states)
