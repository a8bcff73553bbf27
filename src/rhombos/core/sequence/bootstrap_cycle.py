"""The bootstrap capacitor cycle by cycle over an output period, iterated to repetition (3.4)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values

MOST_PERIODS = 200
REPEATS = 1e-9


@dataclass(frozen=True)
class Cell:
    """A high side's supply in SI: full voltage V_cc − V_F, charge taken at every turn-on, lasting current, pull-down, capacitor as it is in effect, resistor."""

    full: float
    edge_charge: float
    current: float
    pull_down: float
    capacitor: float
    resistor: float

    def after_high(self, volts: float, seconds: float) -> float:
        """After one on-time: the gates' charge at once, then the lasting current, the pull-down's with it."""
        return volts - (self.edge_charge + (self.current + volts / self.pull_down) * seconds) / self.capacitor

    def after_low(self, volts: float, seconds: float) -> float:
        """After one refresh through the resistor; a low time shorter than the dead time gives none."""
        return self.full - (self.full - volts) * float(np.exp(-max(seconds, 0.0) / (self.resistor * self.capacitor)))


@dataclass(frozen=True)
class Repeated:
    """One output period that repeats: the end of every on-time and of every low time (s), and the volts there; whether it came to repeat."""

    time: Values
    volts: Values
    repeats: bool

    @property
    def lowest(self) -> float:
        return float(self.volts.min())


def duties(index: float, count: int) -> Values:
    """Share of each carrier period that the leg's high side is on, of a sine with this modulation index."""
    k = (np.arange(count) + 0.5) / count
    duty: NDArray[np.float64] = np.clip((1 + index * np.sin(2 * np.pi * k)) / 2, 0.0, 1.0)
    return duty


def repeated(cell: Cell, index: float, carrier: float, output: float, dead_time: float) -> Repeated:
    """Iterate whole output periods until one ends as it began."""
    count = max(round(carrier / output), 1)
    high = duties(index, count) / carrier
    low = 1 / carrier - high - 2 * dead_time
    volts, trace = cell.full, np.empty(2 * count)
    for _ in range(MOST_PERIODS):
        first = volts
        for k in range(count):
            volts = cell.after_high(volts, float(high[k]))
            trace[2 * k] = volts
            volts = cell.after_low(volts, float(low[k]))
            trace[2 * k + 1] = volts
        if abs(volts - first) <= REPEATS * cell.full:
            break
    else:
        first = np.nan
    start = np.arange(count) / carrier
    time = np.empty(2 * count)
    time[0::2], time[1::2] = start + high, start + 1 / carrier
    return Repeated(time, trace.copy(), bool(np.isfinite(first)))
